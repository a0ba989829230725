"""``edit``: what a person does in the studio, by name, on a scene file."""

import argparse
import importlib
import inspect
import json
import pkgutil
import sys
from collections.abc import Callable
from pathlib import Path as File
from typing import Any

from pydantic import ValidationError, validate_call

from coaster import commands, edits
from coaster.cli.options import add_out, give_out
from coaster.commands.holding import held
from coaster.edits.edit import Edit
from coaster.errors import CoreError, FormatError
from coaster.scene import codec
from coaster.scene.document import Scene
from coaster.scene.limits import check_growth

WORDS = "change a scene file the way the studio does"

Plan = Callable[..., Edit]


def add(parser: argparse.ArgumentParser) -> None:
    one = parser.add_argument
    one("file", type=File, metavar="SCENE.json")
    one("plan", nargs="?", default="", metavar="PLAN", help="such as groups.group; none lists all")
    one("values", nargs="*", metavar="NAME=VALUE", help="VALUE is JSON, or else text")
    add_out(parser, "OUT.json")


def _made(known: dict[str, Plan], name: str, scene: Scene, given: dict[str, Any]) -> Edit:
    """Call a plan with what was given; what does not fit it is said in words."""
    call = validate_call(config={"arbitrary_types_allowed": True})(known[name])
    try:
        edit: Edit = call(scene, **given)
    except ValidationError as error:
        raise FormatError(f"{name}: {codec.words_of(error)}") from error
    except CoreError:
        raise
    except LookupError as error:
        raise FormatError(f"{name}: {error.args[0]!r} is not known to it.") from error
    return edit


def run(options: argparse.Namespace) -> int:
    scene = codec.from_json(options.file.read_bytes())
    known = plans()
    if not options.plan:
        print("\n".join(f"{name} {_asked(plan)}" for name, plan in known.items()))
        return 0
    if options.plan not in known:
        raise FormatError(f"{options.plan!r} is not a plan; without one, all of them are listed.")
    given = dict(_value(text) for text in options.values)
    steps, notes = held(scene, _made(known, options.plan, scene, given).commands)
    after = commands.applied(scene, steps)
    for note in notes:
        print(note, file=sys.stderr)
    check_growth(scene, after)
    text = codec.to_json(after)
    give_out(text, options.out)
    return 0


def plans() -> dict[str, Plan]:
    """Return every plan by its module and name: ``groups.group``."""
    found: dict[str, Plan] = {}
    for module in pkgutil.iter_modules(edits.__path__):
        room = importlib.import_module(f"{edits.__name__}.{module.name}")
        for name, plan in inspect.getmembers(room, inspect.isfunction):
            own = plan.__module__ == room.__name__ and not name.startswith("_")
            if own and _is_plan(inspect.signature(plan)):
                found[f"{module.name}.{name}"] = plan
    return found


def _is_plan(signature: inspect.Signature) -> bool:
    first = next(iter(signature.parameters), "")
    return first == "scene" and signature.return_annotation is Edit


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
