"""Gradients: put in place of a plain fill, their stops, and where they lie."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from coaster.commands.fields import set_layer
from coaster.edits.edit import Edit, edit_of
from coaster.edits.extents import local_of
from coaster.edits.keys import Moment, last_keyed, painted, said_of, with_values
from coaster.errors import EditRefused
from coaster.geometry.path import Vec2
from coaster.motion.colours import from_hex, lab, rgb, to_hex
from coaster.render.evaluate import Evaluation
from coaster.scene.contents import INK, LEAF
from coaster.scene.document import Layer, Scene
from coaster.scene.gradients import MOST_STOPS, Gradient, GradientForm

ENDS = ("start", "end")
DIGITS = 4
"""Decimals of a share that a hand gives."""


def set_form(scene: Scene, layer_id: str, form: GradientForm | None) -> Edit:
    """Fill a layer with a gradient of a form, from its colour on, or with its colour again."""
    layer = _fillable(scene, layer_id)
    now = _standing(layer)
    if form is None:
        notes = [f"The keys of {layer.name}'s stops rest until it is a gradient again."]
        return _with(
            layer, None, f"Plain fill of {layer.name}", notes[: last_keyed(layer, "gradient")]
        )
    colour = getattr(layer.content, "colour", None) if layer.content.can.fill else None
    fill = getattr(layer.content, "fill", None) or colour or LEAF
    fresh = Gradient(form, colours=(fill, INK))
    if form == "radial":
        fresh = replace(fresh, start=(0.5, 0.5), end=(1.0, 0.5))
    return _with(layer, replace(now, form=form) if now else fresh, f"Gradient of {layer.name}")


def _fillable(scene: Scene, layer_id: str) -> Layer:
    layer = scene.layer(layer_id)
    if not hasattr(layer.content, "gradient"):
        raise EditRefused(f"{layer.name} has nothing to be filled with a gradient.")
    return layer


def _standing(layer: Layer) -> Gradient | None:
    found: Gradient | None = getattr(layer.content, "gradient", None)
    return found


def gradient_of(scene: Scene, layer_id: str) -> tuple[Layer, Gradient]:
    """Errors: EditRefused: the layer is not filled with a gradient."""
    layer = _fillable(scene, layer_id)
    found = _standing(layer)
    if found is None:
        raise EditRefused(f"{layer.name} is filled with one colour; choose a gradient first.")
    return layer, found


def _with(layer: Layer, gradient: Gradient | None, words: str, notes: Sequence[str] = ()) -> Edit:
    changed: dict[str, Any] = {"gradient": gradient}
    content = replace(layer.content, **changed)
    return edit_of([set_layer(layer.id, content=content)], words, notes)


def set_stop(
    scene: Scene,
    layer_id: str,
    number: int,
    moment: Moment,
    *,
    colour: str | None = None,
    alpha: float | None = None,
    at: float | None = None,
) -> Edit:
    """Set a stop's colour, its alpha, or its offset (0..1), counted from 1; what has keys is kept
    in them.

    Errors: EditRefused: there is no such stop, or it would pass its neighbours.
    """
    layer, gradient = gradient_of(scene, layer_id)
    _check_stop(layer, gradient, number)
    values: dict[str, float | str] = {}
    if (colour, alpha) != (None, None):
        name = f"stop_{number}"
        values[name] = painted(layer, name, colour, alpha, moment.frame)
    if at is not None:
        low, high = _room(gradient, number)
        if not low <= at <= high:
            raise EditRefused(
                f"Stop {number} lies between its neighbours, at {low * 100:g} to {high * 100:g} %;"
                " it was kept where it was."
            )
        values[f"stop_{number}_at"] = at
    after, steps = with_values(scene, layer, values, moment)
    words = f"Stop {number} of {layer.name}"
    stands = set_layer(layer.id, content=after.content)
    return edit_of([stands, *steps], words, said_of(layer, values, steps))


def _check_stop(layer: Layer, gradient: Gradient, number: int) -> None:
    if not 1 <= number <= len(gradient.colours):
        raise EditRefused(f"The gradient of {layer.name} has no stop {number}.")


def _room(gradient: Gradient, number: int) -> tuple[float, float]:
    """Return the offsets between which a stop may lie."""
    beside = (0.0, *gradient.offsets, 1.0)
    return beside[number - 1], beside[number + 1]


def add_stop(scene: Scene, layer_id: str) -> Edit:
    """Put a stop into the widest gap, in the colour that is there."""
    layer, gradient = gradient_of(scene, layer_id)
    if len(gradient.colours) >= MOST_STOPS:
        raise EditRefused(f"A gradient has at most {MOST_STOPS} stops.")
    gaps = np.diff(gradient.offsets)
    # Behind all that have keys, as these are told by their number.
    place = int(gaps.argmax()) + 1
    if last_keyed(layer, "gradient") > place:
        raise EditRefused(
            f"Stops of {layer.name} behind there have keys; take these out first, or put the stops"
            " apart."
        )
    before, after = (np.array(from_hex(gradient.colours[i])) for i in (place - 1, place))
    middle = np.append(rgb((lab(before[:3]) + lab(after[:3])) / 2), (before[3] + after[3]) / 2)
    at = (gradient.offsets[place - 1] + gradient.offsets[place]) / 2
    made = replace(
        gradient,
        colours=(*gradient.colours[:place], to_hex(middle), *gradient.colours[place:]),
        offsets=(*gradient.offsets[:place], at, *gradient.offsets[place:]),
    )
    return _with(layer, made, f"Add a stop to {layer.name}")


def remove_stop(scene: Scene, layer_id: str, number: int) -> Edit:
    layer, gradient = gradient_of(scene, layer_id)
    _check_stop(layer, gradient, number)
    if len(gradient.colours) == 2:
        raise EditRefused("A gradient has at least two stops; choose a plain fill instead.")
    if last_keyed(layer, "gradient") >= number:
        raise EditRefused(
            f"Stop {number} of {layer.name}, or one behind it, has keys; take these out first."
        )
    kept = [i for i in range(len(gradient.colours)) if i != number - 1]
    made = replace(
        gradient,
        colours=tuple(gradient.colours[i] for i in kept),
        offsets=tuple(gradient.offsets[i] for i in kept),
    )
    return _with(layer, made, f"Take a stop out of {layer.name}")


def reverse(scene: Scene, layer_id: str) -> Edit:
    """Let a gradient run the other way; the stops and their keys stay."""
    layer, gradient = gradient_of(scene, layer_id)
    if gradient.form == "radial":
        made = replace(
            gradient,
            colours=gradient.colours[::-1],
            offsets=tuple(1 - at for at in gradient.offsets[::-1]),
        )
        return _with(layer, made, f"Turn the gradient of {layer.name} inside out")
    made = replace(gradient, start=gradient.end, end=gradient.start)
    return _with(layer, made, f"Turn the gradient of {layer.name} round")


def move_end(scene: Scene, layer_id: str, end: str, point: Vec2, moment: Moment) -> Edit:
    """Put the ``start`` or the ``end`` of a gradient on a place of the scene; the centre of rings
    takes their edge along.
    """
    layer, gradient = gradient_of(scene, layer_id)
    spot = _share(scene, layer, point, moment.frame)
    changed: dict[str, Vec2] = {end: spot}
    if gradient.form == "radial" and end == "start":
        by = np.array(spot) - np.array(gradient.start)
        x, y = (np.array(gradient.end) + by).round(DIGITS).tolist()
        changed["end"] = x, y
    return _with(layer, replace(gradient, **changed), f"Gradient of {layer.name}")  # type: ignore[arg-type]  # only spots


def set_ends(scene: Scene, layer_id: str, values: Mapping[tuple[str, int], float]) -> Edit:
    """Set the ends of a gradient: the ``start`` or ``end``, across (0) or down (1), as shares."""
    layer, gradient = gradient_of(scene, layer_id)
    spots = {end: list(getattr(gradient, end)) for end in ENDS}
    for (end, axis), value in values.items():
        spots[end][axis] = value
    made = replace(gradient, start=tuple(spots["start"]), end=tuple(spots["end"]))
    return _with(layer, made, f"Gradient of {layer.name}")


def _box(scene: Scene, layer: Layer, frame: float) -> np.ndarray[Any, np.dtype[np.float64]]:
    at = min(max(round(frame), 0), scene.length)
    return np.array(Evaluation(scene).motion(layer.id).face(at).box)


def _share(scene: Scene, layer: Layer, point: Vec2, frame: float) -> Vec2:
    """Return a place of the scene as shares of a layer's box at a frame."""
    box = _box(scene, layer, frame)
    x, y = ((local_of(scene, layer.id, point, frame) - box[:2]) / box[2:]).round(DIGITS).tolist()
    return x, y


def move_stop(scene: Scene, layer_id: str, number: int, point: Vec2, moment: Moment) -> Edit:
    """Put a stop where it is nearest to a place of the scene, between its neighbours."""
    layer, gradient = gradient_of(scene, layer_id)
    _check_stop(layer, gradient, number)
    box = _box(scene, layer, moment.frame)
    start, end = (box[:2] + np.array(spot) * box[2:] for spot in (gradient.start, gradient.end))
    hand, way = local_of(scene, layer.id, point, moment.frame) - start, end - start
    length = float(np.hypot(*way)) or 1.0
    along = float(np.hypot(*hand)) if gradient.form == "radial" else float(hand @ way) / length
    low, high = _room(gradient, number)
    at = round(min(max(along / length, low), high), DIGITS)
    return set_stop(scene, layer_id, number, moment, at=at)
