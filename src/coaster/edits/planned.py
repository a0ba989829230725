"""Plans by their names, for those who do what the studio does without one: scripts and the command
line.
"""

import importlib
import inspect
import pkgutil
from collections.abc import Callable
from typing import Any

from pydantic import ValidationError, validate_call

from coaster import edits
from coaster.edits.edit import Edit
from coaster.errors import CoreError, FormatError
from coaster.scene import codec
from coaster.scene.document import Scene

Plan = Callable[..., Edit]


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


def plan_named(name: str) -> Plan:
    """Errors: FormatError: there is none of this name."""
    module, _, plan = name.partition(".")
    known = {each.name for each in pkgutil.iter_modules(edits.__path__)}
    room = importlib.import_module(f"{edits.__name__}.{module}") if module in known else None
    found = getattr(room, plan, None)
    if not inspect.isfunction(found) or not _is_plan(inspect.signature(found)):
        raise FormatError(f"{name!r} is not a plan; without one, all of them are listed.")
    return found


def made(
    name: str, plan: Plan, scene: Scene, values: tuple[Any, ...], named: dict[str, Any]
) -> Edit:
    """Call a plan, which people call ``name``, with what was given; what does not fit it is said in
    words.

    Errors: FormatError; EditRefused, as the plan refuses.
    """
    call = validate_call(config={"arbitrary_types_allowed": True})(plan)
    try:
        edit: Edit = call(scene, *values, **named)
    except ValidationError as error:
        raise FormatError(f"{name}: {codec.words_of(error)}") from error
    except CoreError:
        raise
    except LookupError as error:
        raise FormatError(f"{name}: {error.args[0]!r} is not known to it.") from error
    return edit
