"""What of layers follows what of others: linked, changed, let go."""

from collections.abc import Collection, Mapping
from dataclasses import replace
from typing import Any

import numpy as np
from pydantic import ValidationError

from coaster.commands.base import Command
from coaster.commands.fields import set_layer
from coaster.edits.edit import Edit, edit_of
from coaster.errors import EditRefused
from coaster.geometry.bezier import Floats
from coaster.render.places import Known, source_of
from coaster.scene.codec import words_of
from coaster.scene.contents import properties_of
from coaster.scene.document import Layer, Scene
from coaster.scene.follows import MEASURES, MOST_FOLLOWS, Follow, is_number
from coaster.scene.properties import PROPERTIES, Property

RANGES = {
    "x": (-100.0, 100.0),
    "y": (-100.0, 100.0),
    "turn": (-30.0, 30.0),
    "skew": (-20.0, 20.0),
    "shift": (0.0, 100.0),
    "opacity": (0.3, 1.0),
    "masking": (0.0, 1.0),
    "tinting": (0.0, 1.0),
    "begin": (0.0, 1.0),
    "end": (0.0, 1.0),
}
"""What some properties begin to go from and to: the first four beside what they are now."""
BESIDE = ("x", "y", "turn", "skew")
TURN = 0.0, 360.0
GROWS = 1.5
"""Other numbers go from what they are to so many times that."""


def values_of(layer: Layer) -> list[str]:
    """Return all of a layer that may be followed."""
    measured = [name for name in MEASURES if name != "travelled" or layer.ride is not None]
    own = [row.name for row in properties_of(layer.content) if is_number(row.name)]
    return [*measured, *(name for name in own if name not in MEASURES)]


USUAL = {True: ("speed", "travelled"), False: ("x", "y", "scale", "turn", "opacity")}
"""What is followed first of what rides, and of what does not: the first of these that changes."""
STEADY = 0.01
"""A speed that changes by a smaller share of itself would lead nobody."""
CLOSE = 1e-6
"""Of all else: as good as the same."""


def usual_of(scene: Scene, layer_id: str) -> str:
    """Return which value of a layer one begins to follow."""
    source = scene.layer(layer_id)
    wanted = [each for each in USUAL[source.ride is not None] if each in values_of(source)]
    return next((each for each in wanted if _changes(scene, layer_id, each)), wanted[0])


def _changes(scene: Scene, layer_id: str, value: str) -> bool:
    seen = seen_in(scene, layer_id, value)
    least = STEADY * np.abs(seen).max() if value == "speed" else CLOSE
    return bool(np.ptp(seen) > least)


def seen_in(scene: Scene, layer_id: str, value: str) -> Floats:
    """Return a value of a layer in frames 0..length, as ``Follow`` counts it."""
    return source_of(Known(scene).placed(scene.layer(layer_id))).measured(value)


def _span_of(scene: Scene, layer_id: str, value: str) -> tuple[float, float]:
    """Return from where to where a value goes, of a heading one turn; of one that never changes a
    little more.
    """
    if value == "heading":
        return TURN
    seen = seen_in(scene, layer_id, value)
    low, high = (round(float(each), 4) for each in (seen.min(), seen.max()))
    return low, (high if high > low else low + 1.0)


def follow(scene: Scene, layer_id: str, name: str, source_id: str, value: str) -> Edit:
    """Let a property of a layer follow a value of another, over all that it goes through.

    Errors: EditRefused: it has no such property, follows too much, or would follow itself.
    """
    layer, source = scene.layer(layer_id), scene.layer(source_id)
    row = _property_of(layer, name)
    if layer.id == source.id:
        raise EditRefused(f"{layer.name} cannot follow itself: choose another layer.")
    if value not in values_of(source):
        raise EditRefused(f"{source.name} has no {value!r:.40} to follow.")
    low, high = _span_of(scene, source_id, value)
    turns = name == "turn" and value == "heading"
    gives = TURN if turns else _range_of(layer, row)
    made = Follow(name, source_id, value, low, high, *gives, beyond=turns)
    rest = tuple(each for each in layer.follows if each.property != name)
    if len(rest) >= MOST_FOLLOWS:
        raise EditRefused(f"{layer.name} follows {MOST_FOLLOWS} values, and no layer follows more.")
    return _edit(scene, layer, (*rest, made), f"{row.words} of {layer.name} follows {source.name}")


def _property_of(layer: Layer, name: str) -> Property:
    rows = {row.name: row for row in properties_of(layer.content) if is_number(row.name)}
    if name not in rows or layer.standing(name) is None:
        raise EditRefused(f"{layer.name} has no {name!r:.40} that could follow anything.")
    return rows[name]


def _range_of(layer: Layer, row: Property) -> tuple[float, float]:
    now = float(layer.standing(row.name) or 0.0)
    begins, ends = RANGES.get(row.name, (now, now * GROWS or 1.0))
    if row.name in BESIDE:
        begins, ends = now + begins, now + ends
    return row.within(begins), row.within(ends)


def set_follow(scene: Scene, layer_id: str, name: str, values: Mapping[str, Any]) -> Edit:
    """Change how a property follows; another layer or value is followed over all of its range.

    Errors: EditRefused: it follows nothing, the numbers are none that may be, or it would follow
            itself.
    """
    layer = scene.layer(layer_id)
    before = next((each for each in layer.follows if each.property == name), None)
    if before is None:
        raise EditRefused(f"That of {layer.name} follows nothing any more.")
    words = f"{PROPERTIES[name].words} of {layer.name}"
    wanted = dict(values)
    led = wanted.get("layer", before.layer), wanted.get("value", before.value)
    if led != (before.layer, before.value):
        source = scene.layer(led[0])
        value = led[1] if led[1] in values_of(source) else "x"
        low, high = _span_of(scene, source.id, value)
        wanted |= {"value": value, "low": low, "high": high}
    try:
        after = replace(before, **wanted)
    except ValidationError as error:
        raise EditRefused(f"{words}: {words_of(error)}") from error
    follows = tuple(after if each is before else each for each in layer.follows)
    return _edit(scene, layer, follows, words)


def let_go(scene: Scene, layer_id: str, name: str) -> Edit:
    """Let a property be what it is by itself."""
    layer = scene.layer(layer_id)
    rest = tuple(each for each in layer.follows if each.property != name)
    words = f"{PROPERTIES[name].words} of {layer.name} follows nothing"
    return edit_of([set_layer(layer_id, follows=rest)], words)


def _edit(scene: Scene, layer: Layer, follows: tuple[Follow, ...], words: str) -> Edit:
    try:
        scene.with_layer(replace(layer, follows=follows))
    except ValidationError as error:
        raise EditRefused(f"{layer.name}: {words_of(error)}") from error
    return edit_of([set_layer(layer.id, follows=follows)], words[:180])


def check_leaves(layer: Layer) -> None:
    """Errors: EditRefused: it follows what it could not as what it is about to become."""
    if layer.follows:
        names = ", ".join(PROPERTIES[each.property].words.lower() for each in layer.follows)
        raise EditRefused(
            f"{layer.name} follows others: its {names}. Let that go first, under Link in its card."
        )


def followers_of(scene: Scene, layer_id: str) -> list[tuple[Layer, Follow]]:
    """Return what follows a layer, with the layers whose it is."""
    return [(x, each) for x in scene.layers for each in x.follows if each.layer == layer_id]


def said_of_followers(scene: Scene, gone: Collection[str]) -> list[str]:
    """Say who followed layers that go."""
    names = [
        layer.name
        for layer in scene.layers
        if layer.id not in gone and any(each.layer in gone for each in layer.follows)
    ]
    return [f"What followed it has its own values again: {', '.join(names)}."] if names else []


def letting_go_commands(scene: Scene, gone: Collection[str]) -> list[Command]:
    """Return the commands by which what stays follows none of those layers any more."""
    steps: list[Command] = []
    for layer in scene.layers:
        rest = tuple(each for each in layer.follows if each.layer not in gone)
        if layer.id not in gone and rest != layer.follows:
            steps.append(set_layer(layer.id, follows=rest))
    return steps
