"""Accents of layers: put in, changed, taken out."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from pydantic import ValidationError

from coaster.commands.fields import set_layer
from coaster.edits.edit import Edit, edit_of
from coaster.errors import EditRefused
from coaster.ids import fresh_id
from coaster.motion.accents import MARKED, MOST_ACCENTS, Accent, Kind, When
from coaster.scene.codec import words_of
from coaster.scene.document import Layer, Scene

USUAL: dict[Kind, tuple[float, float, float]] = {
    "shiver": (0.8, 14, 0.5),
    "throb": (1.5, 3, 0.2),
    "flicker": (0.8, 8, 0.3),
    "hop": (1.5, 3, 0.6),
    "twirl": (1.0, 1, 0.0),
    "sway": (2.0, 4, 0.6),
    "pop": (0.7, 2, 0.0),
}
"""Of each kind: seconds that it lasts, how often, and the share of it in which it fades."""


def add_accent(
    scene: Scene, layer_ids: Sequence[str], kind: Kind, frame: float, *, stagger: float = 0.0
) -> Edit:
    """Let layers do something short from a frame on, each so many frames later than the one before.

    Errors: EditRefused: a line, or too many of one layer.
    """
    steps = []
    for number, layer_id in enumerate(layer_ids):
        layer = scene.layer(layer_id)
        _check(layer)
        seconds, count, fade = USUAL[kind]
        own = fresh_id(kind, {accent.id for accent in layer.accents}, "accent")
        start = frame + number * stagger
        accent = Accent(own, kind, "at", start, round(seconds * scene.fps, 9), count, fade=fade)
        steps.append(set_layer(layer_id, accents=(*layer.accents, accent)))
    names = ", ".join(scene.layer(each).name for each in layer_ids)
    return edit_of(steps, f"{kind.capitalize()} of {names}"[:180])


def _check(layer: Layer) -> None:
    if not layer.content.can.stand:
        raise EditRefused(f"{layer.name} is a line and follows its path; it has no accents.")
    if len(layer.accents) >= MOST_ACCENTS:
        raise EditRefused(f"{layer.name} has {MOST_ACCENTS} accents, and no layer has more.")


def set_accent(scene: Scene, layer_id: str, accent_id: str, values: Mapping[str, Any]) -> Edit:
    """Change one accent of a layer; on another side of its ride, at a peg or a node it begins right
    there.

    Errors: EditRefused: it has none such, or the numbers make none.
    """
    layer = scene.layer(layer_id)
    before = next((each for each in layer.accents if each.id == accent_id), None)
    if before is None:
        raise EditRefused(f"{layer.name} has no such accent any more.")
    wanted = dict(values)
    if wanted.get("when", before.when) != before.when:
        wanted.setdefault("start", 0.0)
        wanted.setdefault("mark", _mark(scene, layer, wanted["when"]))
    try:
        after = replace(before, **wanted)
    except ValidationError as error:
        raise EditRefused(f"Accent of {layer.name}: {words_of(error)}") from error
    accents = tuple(after if each is before else each for each in layer.accents)
    words = f"{before.kind.capitalize()} of {layer.name}"
    return edit_of([set_layer(layer_id, accents=accents)], words)


def _mark(scene: Scene, layer: Layer, when: When) -> str | None:
    """Return the peg or the node that comes first to mind: one in the middle.

    Errors: EditRefused: it rides nothing, and has none.
    """
    if when not in MARKED:
        return None
    if layer.ride is None:
        raise EditRefused(f"{layer.name} rides no path, so it has no pegs and passes no nodes.")
    marks = layer.ride.pegs if when == "peg" else scene.path(layer.ride.path).nodes()
    return marks[len(marks) // 2].id


def without_accent(scene: Scene, layer_id: str, accent_id: str) -> Edit:
    layer = scene.layer(layer_id)
    accents = tuple(each for each in layer.accents if each.id != accent_id)
    return edit_of([set_layer(layer_id, accents=accents)], f"No accent of {layer.name}")
