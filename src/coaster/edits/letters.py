"""Letters of a text that ride by themselves."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from coaster.commands.base import Command
from coaster.commands.fields import set_ride
from coaster.edits.edit import Edit, edit_of
from coaster.edits.wakes import without_wake
from coaster.errors import EditRefused
from coaster.motion.distance import Way
from coaster.motion.letters import MOST_LATER, Letters
from coaster.motion.ride import AtPercent, Peg
from coaster.render import texts
from coaster.scene.contents import as_text
from coaster.scene.document import Layer, Scene

MIDDLE = 50.0
"""Percent of a path on which a text rests."""


def set_letters(scene: Scene, layer_id: str, values: Mapping[str, Any]) -> Edit:
    """Let the parts of a text ride by themselves, or change how they do. A note says if its path is
    too short for it.

    Errors: EditRefused: it is no text, or rides none.
    """
    layer, ride = scene.layer(layer_id), scene.ride_of(layer_id)
    text = as_text(layer.content)
    if text is None:
        raise EditRefused(f"{layer.name} has no letters to ride by themselves.")
    if ride.copies is not None:
        raise EditRefused(f"{layer.name} has copies; take these away first.")
    letters = replace(ride.letters or Letters(), **values)
    last = len(texts.parts_of(text, letters.by)) - 1
    if abs(letters.later) * last > MOST_LATER:
        raise EditRefused(
            f"The last part of {layer.name} would come {abs(letters.later) * last:,.0f} frames"
            f" later, and may {MOST_LATER:,}; it was kept as it was."
        )
    changed: dict[str, Any] = {"letters": letters}
    if ride.letters is None:
        # What runs off the end of an open path is seldom meant to begin again at the other.
        changed["beyond"] = "hide"
    steps: list[Command] = [set_ride(layer_id, **changed)]
    if layer.wake is not None:
        steps += without_wake(scene, layer_id).commands
    notes = [] if letters.squeeze else _too_long(scene, layer)
    return edit_of(steps, f"Letters of {layer.name}", notes)


def _too_long(scene: Scene, layer: Layer) -> list[str]:
    text, ride = as_text(layer.content), layer.ride
    if text is None or ride is None:
        return []
    path = scene.path(ride.path)
    room = Way(path, ride).length
    long = texts.set_text(text).width * abs(layer.transform.scale[0])
    if long <= room:
        return []
    words = f"{layer.name} is {long:.0f} px long, and {path.name} {room:.0f}: "
    if path.loops:
        return [words + "it overlaps itself. Squeeze it, or make it smaller."]
    return [words + "what does not fit is not seen. Squeeze it, or let it come round."]


def as_one(scene: Scene, layer_id: str) -> Edit:
    """Let a text ride in one piece."""
    return edit_of([set_ride(layer_id, letters=None)], f"{scene.layer(layer_id).name} in one piece")


def at_rest(scene: Scene, layer_id: str) -> Edit:
    """Set a text on the middle of its path for good."""
    ride = scene.ride_of(layer_id)
    peg = Peg(ride.pegs[0].id, ride.start, AtPercent(MIDDLE - ride.offset))
    words = f"{scene.layer(layer_id).name} at rest on its path"
    return edit_of([set_ride(layer_id, pegs=(peg,))], words)
