"""Fields of a scene, and what filling them in makes of it."""

import re
from collections.abc import Mapping
from dataclasses import replace
from typing import Literal

from coaster import commands
from coaster.commands.fields import set_layer, set_scene
from coaster.commands.holding import held
from coaster.edits import layers, paths
from coaster.edits.edit import Edit, edit_of
from coaster.edits.keys import Moment, kept_commands, row_of, with_values
from coaster.errors import CoreError, EditRefused
from coaster.formats.pathdata import to_path_data
from coaster.ids import fresh_name
from coaster.scene.contents import Picture, as_kind, as_text
from coaster.scene.document import Layer, Scene
from coaster.scene.fields import MOST_FIELDS, SceneField
from coaster.scene.properties import PROPERTIES

Kind = Literal["text", "picture", "path", "colour", "number"]


def name_field(scene: Scene, name: str, of: str, what: str) -> Edit:
    """Let something of a layer or a path be filled in under a name; one that has the name already
    is replaced.

    Errors: EditRefused: it has none such. UnknownId: there is no such layer or path.
    """
    field = SceneField(name, of, what)
    kind_of(scene, field)
    others = tuple(each for each in scene.fields if each.name != name)
    if len(others) >= MOST_FIELDS:
        raise EditRefused(f"A scene has at most {MOST_FIELDS} fields.")
    return edit_of([set_scene(fields=(*others, field))], f"Field {name}")


def usual_name(scene: Scene, of: str) -> str:
    """Return a name for a field of a layer, or a path: its own, or one like it that is free."""
    owners = {layer.id: layer.name for layer in scene.layers}
    owners |= {path.id: path.name for path in scene.paths}
    return fresh_name(owners.get(of, of), {field.name for field in scene.fields})


def fillable(scene: Scene) -> list[tuple[str, str, str]]:
    """Return what most people would fill in: whose it is, what, and that in words."""
    found = []
    for layer in scene.layers:
        for what, words in (("text", "Words"), ("picture", "Picture"), ("colour", "Colour")):
            if _has(scene, SceneField("x", layer.id, what)):
                found.append((layer.id, what, f"{words} of {layer.name}"))
    return [*found, *((path.id, "shape", f"Course of {path.name}") for path in scene.paths)]


def _has(scene: Scene, field: SceneField) -> bool:
    try:
        kind_of(scene, field)
    except EditRefused:
        return False
    return True


def remove_field(scene: Scene, name: str) -> Edit:
    """Errors: EditRefused: there is no field of that name."""
    field_named(scene, name)
    rest = tuple(each for each in scene.fields if each.name != name)
    return edit_of([set_scene(fields=rest)], f"No field {name}")


def field_named(scene: Scene, name: str) -> SceneField:
    found = next((each for each in scene.fields if each.name == name), None)
    if found is None:
        there = ", ".join(each.name for each in scene.fields) or "none"
        raise EditRefused(f"There is no field {name!r:.80}; the scene has {there}.")
    return found


def kind_of(scene: Scene, field: SceneField) -> Kind:
    """Return what a field is filled with.

    Errors: EditRefused: what it is of has none such. UnknownId: that is not there.
    """
    if field.what == "shape":
        scene.path(field.of)
        return "path"
    layer = scene.layer(field.of)
    if field.what == "text":
        if as_text(layer.content) is None:
            raise EditRefused(f"{layer.name} is no text.")
        return "text"
    if field.what == "picture":
        as_kind(layer.content, Picture, layer.name)
        return "picture"
    if layer.standing(field.what) is None:
        raise EditRefused(f"{layer.name} has no {row_of(field.what).words.lower()}.")
    return "colour" if row_of(field.what).kind == "colour" else "number"


def value_of(scene: Scene, field: SceneField) -> str:
    """Return what a field is filled with now, as a row says it; nothing where what it is of is
    gone, or of a picture, which has no name here.
    """
    try:
        kind = kind_of(scene, field)
    except CoreError:
        return ""
    if kind == "path":
        return to_path_data(scene.path(field.of).subpaths)
    layer = scene.layer(field.of)
    if kind == "text":
        text = as_text(layer.content)
        return "" if text is None else text.text
    if kind == "picture":
        return ""
    found = layer.standing(field.what)
    return found if isinstance(found, str) else f"{found * row_of(field.what).factor:g}"  # type: ignore[operator]  # it has one


def filled(
    scene: Scene, values: Mapping[str, str], pictures: Mapping[str, Picture] | None = None
) -> Scene:
    """Return a scene with its fields filled in: words, numbers as a person reads them, colours,
    path data; of pictures, by what was said, those that are in the folder. What is blank, but for
    words, stays as it is.

    Errors: EditRefused: there is no such field, or it cannot be filled so; FormatError.
    """
    for name, value in values.items():
        edit = _filling(scene, field_named(scene, name), value, pictures or {})
        scene = commands.applied(scene, held(scene, edit.commands)[0])
    return scene


def _filling(scene: Scene, field: SceneField, value: str, pictures: Mapping[str, Picture]) -> Edit:
    kind = kind_of(scene, field)
    if kind != "text" and not value.strip():
        return edit_of([])
    if kind == "path":
        return paths.set_data(scene, field.of, value)
    layer = scene.layer(field.of)
    if kind == "text":
        return layers.text_look(scene, layer.id, {"text": value}, Moment())
    if kind == "picture":
        return _shown(layer, pictures.get(value), field.name)
    wanted = _colour(field, value) if kind == "colour" else _number(field, value)
    _, steps = with_values(scene, layer, {field.what: wanted}, Moment())
    if not steps and row_of(field.what).home == "ride":
        raise EditRefused(f"{field.name} is of a ride, which is not filled in.")
    return edit_of(steps or kept_commands(layer, field.what, wanted))


def _shown(layer: Layer, picture: Picture | None, name: str) -> Edit:
    if picture is None:
        raise EditRefused(f"{name} needs a picture, and none was given.")
    before = as_kind(layer.content, Picture, layer.name)
    # It has as much room as the one that was there.
    fit = min(before.width / picture.width, before.height / picture.height)
    across, down = layer.transform.scale
    pose = replace(layer.transform, scale=(across * fit, down * fit))
    return edit_of([set_layer(layer.id, content=picture, transform=pose)])


def _colour(field: SceneField, value: str) -> str:
    if not re.fullmatch("#[0-9a-fA-F]{6}([0-9a-fA-F]{2})?", value.strip()):
        raise EditRefused(f"{field.name}: {value!r:.40} is no colour; write it like #1f6f8b.")
    return value.strip()


def _number(field: SceneField, value: str) -> float:
    row = PROPERTIES[field.what]
    try:
        number = float(value.strip().replace(",", ".")) / row.factor
    except ValueError as error:
        raise EditRefused(f"{field.name}: {value!r:.40} is not a number.") from error
    if not row.low <= number <= row.high:
        low, high = row.low * row.factor, row.high * row.factor
        raise EditRefused(f"{field.name}: {value.strip()} is outside {low:g} to {high:g}.")
    return number
