"""``edit``: what a person does in the studio, by name, on a scene file."""

import argparse
import inspect
import json
import sys
from pathlib import Path as File
from typing import Any

from coaster import commands
from coaster.cli.options import add_out, give_out
from coaster.commands.holding import held
from coaster.edits.planned import Plan, made, plan_named, plans
from coaster.errors import FormatError
from coaster.scene import codec
from coaster.scene.limits import check_growth


def add(parser: argparse.ArgumentParser) -> None:
    one = parser.add_argument
    one("file", type=File, metavar="SCENE.json")
    one("plan", nargs="?", default="", metavar="PLAN", help="such as groups.group; none lists all")
    one("values", nargs="*", metavar="NAME=VALUE", help="VALUE is JSON, or else text")
    add_out(parser, "OUT.json")


def run(options: argparse.Namespace) -> int:
    scene = codec.from_json(options.file.read_bytes())
    if not options.plan:
        print("\n".join(f"{name} {_asked(plan)}" for name, plan in plans().items()))
        return 0
    plan, given = plan_named(options.plan), dict(_value(text) for text in options.values)
    steps, notes = held(scene, made(options.plan, plan, scene, (), given).commands)
    after = commands.applied(scene, steps)
    for note in notes:
        print(note, file=sys.stderr)
    check_growth(scene, after)
    text = codec.to_json(after)
    give_out(text, options.out)
    return 0


def _asked(plan: Plan) -> str:
    """Say what a plan asks for beside the scene; what may be left out in brackets."""
    asked = list(inspect.signature(plan).parameters.values())[1:]
    words = [one.name if one.default is one.empty else f"[{one.name}]" for one in asked]
    return " ".join(words)


def _value(text: str) -> tuple[str, Any]:
    name, equals, value = text.partition("=")
    if not equals:
        raise FormatError(f"{text!r} does not say NAME=VALUE.")
    try:
        return name, json.loads(value)
    except ValueError:
        return name, value
