"""Wakes: left by a layer, or of a layer that is left; changed, taken away."""

from collections.abc import Collection, Mapping
from dataclasses import replace
from typing import Any

from pydantic import ValidationError

from coaster.commands.base import Command
from coaster.commands.fields import set_layer
from coaster.commands.layers import AddLayer, place_of
from coaster.edits.edit import Edit, edit_of
from coaster.edits.making import behind_riders, new_layer
from coaster.edits.shades import with_colour
from coaster.errors import EditRefused
from coaster.motion.colours import from_hex, lab
from coaster.motion.wakes import MOST_POINTS, NAMES, READY, Wake
from coaster.render.places import may_be_left
from coaster.scene.carriers import Carrier
from coaster.scene.codec import words_of
from coaster.scene.contents import INK, Line, Shape, has_colours
from coaster.scene.document import Layer, Scene, Transform

LOOKS = {
    "bubbles": Shape("ellipse", 30, 30, "#ffffff24", "#eafcffc0", 2.5),
    "dust": Shape("ellipse", 26, 26, "#c9b58a66"),
    "sparks": Shape("ellipse", 12, 5, "#ffd27a"),
    "snow": Shape("ellipse", 12, 12, "#fffffff0"),
    "sparkle": Shape("star", 30, 30, "#fff4c2", points=4, inner=0.3),
}
"""What ready wakes are of."""


STROKES = ("line", "tail")
"""What riders leave of their path: all that they came by, or the last of it."""
TAIL_S = 1.2


def leave_wake(scene: Scene, layer_id: str, kind: str) -> Edit:
    """Add a layer behind one that leaves it behind: particles, or a stroke of its path. Echoes are
    of the layer itself.

    Errors: EditRefused: a line, which has no place of its own; a stroke of what rides no path.
    """
    layer = scene.layer(layer_id)
    if kind in STROKES:
        return _leave_stroke(scene, layer, kind)
    if kind not in LOOKS:
        return set_kind(scene, layer_id, kind)
    if not layer.content.can.stand:
        raise EditRefused(f"{layer.name} is a line, which has no place to leave a wake from.")
    left = new_layer(scene, kind.capitalize(), LOOKS[kind], Transform())
    carrier = Carrier(layer.id, turn=True)
    left = replace(left, parent=layer.parent, carrier=carrier, wake=READY[kind])
    words = f"{layer.name} leaves {kind}"
    return edit_of([AddLayer(left, place_of(scene, layer_id))], words, layer=left.id)


def _leave_stroke(scene: Scene, layer: Layer, kind: str) -> Edit:
    if layer.ride is None:
        raise EditRefused(f"{layer.name} rides no path that it could leave drawn behind it.")
    path = scene.path(layer.ride.path)
    line = Line(path.id, path.colour or _seen_on(scene.background), width=8.0)
    if kind == "tail":
        frames = round(TAIL_S * scene.fps, 9)
        line = replace(line, width=16.0, trail=frames, trail_in="frames", thin=(0.0, 1.0), fade=0.0)
    left = new_layer(scene, f"{kind.capitalize()} of {layer.name}", line, Transform())
    left = replace(left, carrier=Carrier(layer.id))
    words = f"{layer.name} leaves a {kind}"
    return edit_of([AddLayer(left, behind_riders(scene, path))], words, layer=left.id)


def _seen_on(background: str | None) -> str:
    """Return ink that is seen on a background."""
    lightness = lab(from_hex(background or "#ffffff")[:3])[0]
    return INK if lightness > 0.6 else "#ffffff"


def set_wake(scene: Scene, layer_id: str, values: Mapping[str, Any]) -> Edit:
    """Let a layer leave its like behind, or change how it does.

    Errors: EditRefused: too many at once, or it is a line.
    """
    layer = scene.layer(layer_id)
    _check(layer)
    # What rides by itself is there to be seen; what is carried is there to be left.
    usual = replace(READY["bubbles"], itself=layer.ride is not None)
    try:
        wake = replace(layer.wake or usual, **values)
    except ValidationError as error:
        raise EditRefused(f"Wake of {layer.name}: {words_of(error)}") from error
    return edit_of([set_layer(layer_id, wake=wake)], f"Wake of {layer.name}")


def set_kind(scene: Scene, layer_id: str, kind: str) -> Edit:
    """Let a layer leave its like as one of the ready wakes does."""
    layer = scene.layer(layer_id)
    now = layer.wake or Wake(itself=layer.ride is not None)
    itself = now.itself or kind not in LOOKS
    ready = READY[kind]
    values = {name: getattr(ready, name) for name in NAMES if name not in OWN}
    values |= {"colours": ready.colours or now.colours, "itself": itself}
    return set_wake(scene, layer_id, values)


OWN = ("seed", "looks")
"""What no ready wake changes."""


def set_look(scene: Scene, layer_id: str, other_id: str, *, on: bool) -> Edit:
    """Let what a layer leaves look like another one, too, or no more.

    Errors: EditRefused: that one is a line, a group or shows a scene, or there are too many.
    """
    layer, other = scene.layer(layer_id), scene.layer(other_id)
    if on and not may_be_left(layer):
        raise EditRefused(f"What {layer.name} leaves looks like it alone: it holds others.")
    if on and (other.id == layer.id or not may_be_left(other)):
        raise EditRefused(
            f"Particles do not look like {other.name}: pictures, shapes, texts and footage are what"
            " they may look like."
        )
    now = layer.wake.looks if layer.wake else ()
    looks = [each for each in now if each != other.id]
    edit = set_wake(scene, layer_id, {"looks": (*looks, other.id) if on else tuple(looks)})
    return replace(edit, words=f"What {layer.name} leaves")


def recoloured(scene: Scene, layer_id: str, index: int, colour: str | None) -> Edit:
    """Set one of the colours that particles go through; one past the last is added, None takes one
    out.

    Errors: EditRefused: there is no such colour; pictures alone, which keep theirs.
    """
    layer = scene.layer(layer_id)
    there = [layer, *(x for x in scene.layers if layer.wake and x.id in layer.wake.looks)]
    if not any(has_colours(each.content) for each in there):
        raise EditRefused(f"{layer.name} is a picture, and keeps its colours; tint it instead.")
    now = layer.wake.colours if layer.wake else ()
    return set_wake(scene, layer_id, {"colours": with_colour(now, index, colour, MOST_POINTS)})


def unlike_commands(scene: Scene, gone: Collection[str]) -> tuple[list[Command], list[str]]:
    """Return the commands by which particles look no more like layers that go, and what there is to
    say of it.
    """
    steps, notes = list[Command](), list[str]()
    for layer in scene.layers:
        if layer.wake is None or layer.id in gone or not set(layer.wake.looks) & set(gone):
            continue
        rest = tuple(each for each in layer.wake.looks if each not in gone)
        steps.append(set_layer(layer.id, wake=replace(layer.wake, looks=rest)))
        lost = ", ".join(scene.layer(each).name for each in layer.wake.looks if each in gone)
        notes.append(f"What {layer.name} leaves looks like {lost} no more.")
    return steps, notes


def without_wake(scene: Scene, layer_id: str) -> Edit:
    """Let a layer be what it is, in one place."""
    words = f"No wake of {scene.layer(layer_id).name}"
    return edit_of([set_layer(layer_id, wake=None)], words)


def _check(layer: Layer) -> None:
    if not layer.content.can.stand:
        raise EditRefused(f"{layer.name} is a line and follows its path; it leaves no wake.")
    if layer.ride is not None and layer.ride.copies is not None:
        raise EditRefused(
            f"{layer.name} has copies; take these away first, or make layers of them."
        )
