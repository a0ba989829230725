"""The scene as JSON, and back; older shapes are brought up to date on the way in."""

import json
from collections.abc import Callable, Mapping
from typing import Any

from pydantic import TypeAdapter, ValidationError
from pydantic_core import ErrorDetails

from coaster import __version__
from coaster.errors import SceneError
from coaster.scene.contents import KINDS
from coaster.scene.document import SCHEMA, Scene

_ADAPTER = TypeAdapter(Scene)

ABOUT = ("schema", "made_by", "project")
"""What a file says of itself, beside the scene: its shape, the version that wrote it and, where its
scenes are those of a whole project, what that is called.
"""
UPGRADES: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {
    # 2 adds a node's weight, lock and rest, a path's lock and strength, all with defaults.
    1: lambda data: data,
    # 3 adds keys, ways of facing, settling, a pace for new ones, raw takes, all with defaults.
    2: lambda data: data,
    # 4 adds groups, and the group that a layer or a path is in, none by default.
    3: lambda data: data,
    # 5 adds pegs that are joined, none by default.
    4: lambda data: data,
    # 6 adds gaps that are passed unseen.
    5: lambda data: data,
    # 7 adds blends, masks, isolated groups and guides, none by default.
    6: lambda data: data,
}
"""From schema n to n + 1: pure functions of the decoded JSON, one golden file each."""


def to_data(scene: Scene) -> dict[str, Any]:
    """Return the scene as plain JSON values, ``schema`` and who made them first."""
    told = _ADAPTER.dump_python(scene, mode="json")
    _leave_out_depth(told)
    return {"schema": SCHEMA, "made_by": __version__, **told}


def _leave_out_depth(told: dict[str, Any]) -> None:
    """Take the depth out of nodes that have none: what is flat stays so in a file."""
    runs = [run for path in told["paths"] for run in path["subpaths"]]
    runs += [run for layer in told["layers"] for run in layer["content"].get("runs", ())]
    for node in (node for run in runs for node in run["nodes"]):
        for name in ("z", "handle_z"):
            if not node[name]:
                del node[name]
    for beside in told["scenes"]:
        _leave_out_depth(beside["scene"])


def to_json(scene: Scene, *, indent: int | None = 2) -> str:
    return json.dumps(to_data(scene), indent=indent, ensure_ascii=False) + "\n"


def from_data(data: Any) -> Scene:
    """Read plain JSON values.

    Errors: SceneError: not a scene, from a later version, or against the rules; the words name
            the first place that is wrong.
    """
    if not isinstance(data, Mapping) or "schema" not in data:
        raise SceneError("This is not a Coaster scene: it has no schema number.")
    schema, made_by = data["schema"], data.get("made_by", "a later version")
    rest = {name: value for name, value in data.items() if name not in ABOUT}
    if not isinstance(schema, int) or isinstance(schema, bool) or schema < 1:
        raise SceneError(f"The schema {schema!r} is not a whole number from 1.")
    if schema > SCHEMA:
        raise SceneError(
            f"This scene was made by Coaster {made_by!s:.20} and has schema {schema}; this is"
            f" {__version__}, which reads up to schema {SCHEMA}. Nothing was changed."
        )
    for step in range(schema, SCHEMA):
        rest = UPGRADES[step](rest)
    try:
        read = _ADAPTER.validate_python(rest)
        return read.with_scenes(read.scenes) if read.scenes else read
    except ValidationError as error:
        raise SceneError(words_of(error)) from error


def from_json(text: str | bytes) -> Scene:
    return read(text)[0]


def read(text: str | bytes) -> tuple[Scene, str]:
    """Return a scene, and of what project its scenes are all; "" of one scene alone.

    Errors: as ``from_data``.
    """
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:  # also numbers of thousands of digits
        where = f" at line {error.lineno}" if isinstance(error, json.JSONDecodeError) else ""
        raise SceneError(f"This is not JSON{where}.") from error
    scene, project = from_data(data), data.get("project", "")
    if not isinstance(project, str):
        raise SceneError("The name of the project has to be text.")
    return scene, project


def words_of(error: ValidationError) -> str:
    """Say the first thing that is wrong in one sentence, with its place and the value."""
    return words_of_one(error.errors(include_url=False)[0])


def words_of_one(first: ErrorDetails) -> str:
    """Say what a validator found in one sentence, with its place and the value."""
    place = " > ".join(str(part) for part in first["loc"] if part not in KINDS)
    reason = _reason(first)
    value = first.get("input")
    shown = (
        f" (it is {value!r})"
        if isinstance(value, str | int | float | bool) and len(repr(value)) < 60
        else ""
    )
    if not place:
        return f"{reason[:1].upper()}{reason[1:]}{shown}."
    # Our own sentences stand by themselves; a reason goes on from the place it is about.
    colon = " " if first["type"] in _REASONS or "pattern" in first["type"] else ": "
    return f"{place}{colon}{reason[:1].lower()}{reason[1:]}{shown}."


_REASONS = {
    "missing": "is not there, and has to be",
    "extra_forbidden": "is nothing that belongs there",
    "unexpected_keyword_argument": "is nothing that belongs there",
    "missing_argument": "is not there, and has to be",
    "union_tag_not_found": "does not say its type",
    "union_tag_invalid": "is of a type that there is not: {tag}",
    "literal_error": "may be {expected}",
    "less_than_equal": "may be at most {le}",
    "less_than": "has to be less than {lt}",
    "greater_than_equal": "has to be at least {ge}",
    "greater_than": "has to be more than {gt}",
    "multiple_of": "has to be a multiple of {multiple_of}",
    "too_long": "may hold at most {max_length}, and holds {actual_length}",
    "too_short": "has to hold at least {min_length}",
    "string_too_long": "may have at most {max_length} letters",
    "string_too_short": "has to have at least {min_length} letters",
    "finite_number": "has to be a number that is not infinite",
    "float_type": "has to be a number",
    "float_parsing": "has to be a number",
    "int_type": "has to be a whole number",
    "int_parsing": "has to be a whole number",
    "int_from_float": "has to be a whole number",
    "bool_type": "has to be true or false",
    "string_type": "has to be text",
    "tuple_type": "has to be a list",
}
"""What a validator says of its kinds of errors, in plain words."""
_PATTERNS = {
    "#[0-9a-fA-F]": "has to be a colour like #1f6f8b",
    "[A-Za-z0-9_-]{1,40}": "has to be an id of up to 40 letters, digits, _ and -",
}
"""What texts of a pattern are, by a part of it."""


def _reason(error: ErrorDetails) -> str:
    kind, told = error["type"], error.get("ctx", {})
    if kind == "string_pattern_mismatch":
        found = (words for part, words in _PATTERNS.items() if part in str(told.get("pattern")))
        return next(found, "is not written as it has to be")
    if kind in _REASONS:
        plain = {k: f"{v:,.10g}" if isinstance(v, float) else v for k, v in told.items()}
        return _REASONS[kind].format(**plain)
    said = error["msg"].removeprefix("Value error, ").removeprefix("Assertion failed, ")
    return " ".join(said.split())


def json_schema() -> dict[str, Any]:
    """Return the JSON Schema of the document."""
    parts = _ADAPTER.json_schema()["$defs"]
    schema = dict(parts["Scene"]) | {"$defs": parts}
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["title"] = "Coaster scene"
    about = {
        "schema": {"const": SCHEMA},
        "made_by": {"type": "string"},
        "project": {"type": "string"},
    }
    schema["properties"] = about | schema["properties"]
    schema["required"] = ["schema"]
    return schema
