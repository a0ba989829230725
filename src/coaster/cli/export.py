"""``export``: what a scene's layers do in every frame."""

import argparse
from pathlib import Path as File

from coaster.cli.options import add_out, give_out
from coaster.errors import FormatError
from coaster.export.motion import WRITERS, motions_of
from coaster.formats import bundle


def add(parser: argparse.ArgumentParser) -> None:
    one = parser.add_argument
    one("scene", type=File, metavar="SCENE.json|BUNDLE.zip")
    one("--what", choices=("motion",), default="motion", help="what of it (motion)")
    one("--as", dest="kind", choices=tuple(WRITERS), help="by default what OUT ends in, or csv")
    one("--layer", action="append", default=[], metavar="ID", help="this one; again for more")
    add_out(parser, "OUT.csv|.json|.npz")


def run(options: argparse.Namespace) -> int:
    ending = options.out.suffix[1:].lower() if options.out else ""
    kind = options.kind or (ending if ending in WRITERS else "csv")
    with bundle.open_bundle(options.scene) as (scene, _):
        told = WRITERS[kind](motions_of(scene, options.layer), scene)
    if isinstance(told, str):
        give_out(told, options.out)
    elif options.out is None:
        raise FormatError("numpy arrays go into a file: say -o OUT.npz.")
    else:
        options.out.write_bytes(told)
    return 0
