"""Tints of layers, and their images on the ground."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from typing import Any

from pydantic import ValidationError

from coaster.commands.base import Command
from coaster.commands.fields import set_layer
from coaster.edits.edit import Edit, edit_of
from coaster.edits.extents import box_of
from coaster.edits.keys import Moment, last_keyed, painted, said_of, with_values
from coaster.errors import EditRefused
from coaster.scene.codec import words_of
from coaster.scene.contents import Picture, as_kind
from coaster.scene.document import Layer, Scene
from coaster.scene.properties import PROPERTIES
from coaster.scene.shades import MOST_COLOURS, Mirror, Tint

SUNLIT, SHADED = "#ffd27a", "#2a6f97"
"""What a tint along a path begins with."""
SHADOW = Mirror("shadow", height=0.25, lean=0.4, strength=0.4)
"""What a shadow begins as, and a reflection: its floor is where the layer ends below."""


def tint_amount(scene: Scene, layer_id: str, values: Mapping[str, float], moment: Moment) -> Edit:
    """Set properties of a tint, in the document's units; what has keys is kept in them."""
    layer = scene.layer(layer_id)
    begun = replace(layer, tint=tint_of(layer))
    after, steps = with_values(scene, begun, values, moment)
    words = f"Keys of {layer.name}" if steps else f"Tint of {layer.name}"
    tint = set_layer(layer_id, tint=after.tint)
    return edit_of([tint, *steps], words, said_of(layer, values, steps))


def tint_of(layer: Layer) -> Tint:
    """Return a layer's tint or, without one, what a tint begins as."""
    colours = (SUNLIT, SHADED) if layer.ride is not None else (SHADED,)
    return layer.tint or Tint(colours, 0.6)


def set_tint(scene: Scene, layer_id: str, values: Mapping[str, Any]) -> Edit:
    """Lay a colour over a layer, colours along the path it rides, or those of a picture that it
    passes over; or change how they lie.

    Errors: EditRefused: they are none, or too many; what is under it is no picture.
    """
    layer = scene.layer(layer_id)
    if (under := values.get("under")) is not None:
        as_kind(scene.layer(under).content, Picture, scene.layer(under).name)
    try:
        tint = replace(tint_of(layer), **values)
    except ValidationError as error:
        raise EditRefused(f"Tint of {layer.name}: {words_of(error)}") from error
    return edit_of([set_layer(layer_id, tint=tint)], f"Tint of {layer.name}")


def untinted_commands(scene: Scene, gone: Collection[str]) -> tuple[list[Command], list[str]]:
    """Return the commands by which layers take no colours of pictures that go, and what there is to
    say of it.
    """
    steps, notes = list[Command](), list[str]()
    for layer in scene.layers:
        if layer.tint is None or layer.id in gone or layer.tint.under not in gone:
            continue
        steps.append(set_layer(layer.id, tint=replace(layer.tint, under=None)))
        notes.append(f"{layer.name} takes its tint from no picture any more.")
    return steps, notes


def recoloured(scene: Scene, layer_id: str, index: int, colour: str | None, moment: Moment) -> Edit:
    """Set one of a tint's colours, whose keys are kept; one past the last is added, and None takes
    one out.

    Errors: EditRefused: there is no such colour, no other one is left, or what is behind it has
            keys, which go by their number.
    """
    layer = scene.layer(layer_id)
    if layer.tint is None:
        raise EditRefused(f"{layer.name} has no tint any more.")
    if colour is None and len(layer.tint.colours) == 1:
        raise EditRefused(f"One colour of {layer.name}'s tint is left: take the tint away instead.")
    if colour is None and last_keyed(layer, "tint") > index:
        raise EditRefused(
            f"Colour {index + 1} of {layer.name}'s tint, or one behind it, has keys; take these out"
            " first."
        )
    if colour is not None and 0 <= index < len(layer.tint.colours):
        name = f"tint_{index + 1}"
        values = {name: painted(layer, name, colour, None, moment.frame)}
        after, steps = with_values(scene, layer, values, moment)
        words = f"Keys of {layer.name}" if steps else f"Tint of {layer.name}"
        tint = set_layer(layer_id, tint=after.tint)
        return edit_of([tint, *steps], words, said_of(layer, values, steps))
    colours = with_colour(layer.tint.colours, index, colour, MOST_COLOURS)
    return set_tint(scene, layer_id, {"colours": colours})


def with_colour(
    colours: Sequence[str], index: int, colour: str | None, most: int
) -> tuple[str, ...]:
    """Return colours with one set, as opaque as it was unless that is said; with one past the last
    added; or, with None, one taken out.

    Errors: EditRefused: there is no such one, or there would be more than ``most``.
    """
    if not 0 <= index <= len(colours) - (colour is None) or index >= most:
        raise EditRefused(f"There are 1 to {most} colours, one after another.")
    changed = list(colours)
    opaque = "".join(colours[index : index + 1])[7:] if len(colour or "") == 7 else ""
    changed[index : index + 1] = [] if colour is None else [colour + opaque]
    return tuple(changed)


def without_tint(scene: Scene, layer_id: str) -> Edit:
    layer = scene.layer(layer_id)
    keyed = any(PROPERTIES[track.property].home == "tint" for track in layer.keys)
    notes = [f"The keys of {layer.name}'s tint rest until it is tinted again."] if keyed else []
    return edit_of([set_layer(layer_id, tint=None)], f"No tint of {layer.name}", notes)


def set_mirror(scene: Scene, layer_id: str, values: Mapping[str, Any], frame: float = 0) -> Edit:
    """Give a layer an image on the ground, which begins right below it as a frame shows it, or
    change that.

    Errors: EditRefused: the numbers make none.
    """
    layer = scene.layer(layer_id)
    try:
        mirror = replace(layer.mirror or _usual(scene, layer, values, frame), **values)
    except ValidationError as error:
        raise EditRefused(f"{layer.name} on the ground: {words_of(error)}") from error
    return edit_of([set_layer(layer_id, mirror=mirror)], f"Image of {layer.name} on the ground")


def _usual(scene: Scene, layer: Layer, values: Mapping[str, Any], frame: float) -> Mirror:
    box = box_of(scene, [layer.id], frame)
    floor = scene.height * 0.75 if box is None else float(box[3])
    usual = SHADOW if values.get("kind") == "shadow" else Mirror()
    return replace(usual, floor=round(floor, 1))


def without_mirror(scene: Scene, layer_id: str) -> Edit:
    name = scene.layer(layer_id).name
    return edit_of([set_layer(layer_id, mirror=None)], f"No image of {name} on the ground")
