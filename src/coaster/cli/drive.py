"""``drive``: a layer does what a table of frames says."""

import argparse
import sys
from pathlib import Path as File

from coaster import commands
from coaster.cli.options import add_out, checked, give_out, number
from coaster.commands.holding import held
from coaster.edits import driven
from coaster.formats import frames
from coaster.scene import codec


def add(parser: argparse.ArgumentParser) -> None:
    one = parser.add_argument
    one("scene", type=File, metavar="SCENE.json")
    one("layer", metavar="LAYER", help="its id")
    one("table", type=File, metavar="FRAMES.csv|.json", help="frame or time, and x, y, turn, ...")
    one("--of", default="", metavar="ID", help="whose rows, where the table has several layers")
    one("--tolerance", type=checked(number), metavar="PX", help="how near the keys keep to it")
    add_out(parser, "OUT.json")


def run(options: argparse.Namespace) -> int:
    scene = codec.from_json(options.scene.read_bytes())
    text = options.table.read_text(encoding="utf-8-sig", errors="replace")
    columns = {name: list(column) for name, column in frames.read(text, options.of).items()}
    edit = driven.drive(scene, options.layer, columns, options.tolerance)
    steps, notes = held(scene, edit.commands)
    for note in (*edit.notes, *notes):
        print(note, file=sys.stderr)
    give_out(codec.to_json(commands.applied(scene, steps)), options.out)
    return 0
