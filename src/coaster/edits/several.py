"""Several layers at once: one value for all of them, lined up, spread evenly."""

from collections.abc import Callable, Sequence
from typing import Literal, get_args

import numpy as np

from coaster.commands import applied
from coaster.commands.base import Command
from coaster.edits.edit import Edit, called, edit_of
from coaster.edits.extents import boxes_of
from coaster.edits.gradients import set_stop
from coaster.edits.groups import outermost
from coaster.edits.keys import Moment, value_at
from coaster.edits.layers import look, nudged, place
from coaster.edits.masks import mask_look
from coaster.edits.shades import recoloured, tint_amount
from coaster.errors import EditRefused
from coaster.geometry.bezier import Floats
from coaster.scene.contents import has_property
from coaster.scene.document import Layer, Scene
from coaster.scene.properties import PLACES, PROPERTIES, Property

How = Literal["set", "add", "times"]
Side = Literal["left", "centre", "right", "top", "middle", "bottom"]
Way = Literal["across", "down"]
HOWS, SIDES, WAYS = get_args(How), get_args(Side), get_args(Way)
SHARES: dict[Side, tuple[int, float]] = {
    "left": (0, 0.0), "centre": (0, 0.5), "right": (0, 1.0),
    "top": (1, 0.0), "middle": (1, 0.5), "bottom": (1, 1.0),
}  # fmt: skip
"""The axis of a side, and how much of a box lies before it."""
BY_HOME = {"mask": mask_look, "tint": tint_amount}
"""What sets numbers of parts of a layer that it may not have."""


def has_value(layer: Layer, row: Property) -> bool:
    """Whether a layer has a property that can be set for several at once."""
    if row.home == "ride" or (row.name in PLACES and layer.ride is not None):
        return False
    return has_property(layer.content, row) and layer.standing(row.name) is not None


def set_all(
    scene: Scene,
    layer_ids: Sequence[str],
    name: str,
    value: float | str,
    how: How,
    moment: Moment,
) -> Edit:
    """Set a property of all layers that have it, in the document's units, add to it, or multiply it
    by a plain factor.

    Errors: EditRefused: none has it, or it would leave its limits; then nothing is changed.
    """
    row, layers = PROPERTIES[name], [scene.layer(layer_id) for layer_id in layer_ids]
    having = [layer for layer in layers if has_value(layer, row)]
    if not having:
        raise EditRefused(f"{row.words}: none of them has it to be set.")
    now, steps, notes = scene, list[Command](), list[str]()
    for layer in having:
        wanted = _wanted(layer, row, value, how, moment.frame)
        edit = _set(now, layer, row, wanted, moment)
        now = applied(now, edit.commands)
        steps += edit.commands
        notes += edit.notes
    left = len(layers) - len(having)
    if left:
        notes.append(f"{row.words}: {called(left, 'layer')} without it stayed.")
    return edit_of(steps, f"{row.words} of {called(len(having), 'layer')}", notes)


def _wanted(layer: Layer, row: Property, value: float | str, how: How, frame: float) -> float | str:
    if isinstance(value, str) or how == "set":
        return value
    now = float(value_at(layer, row.name, frame))
    wanted = now + value if how == "add" else now * value
    if not row.low <= wanted <= row.high:
        raise EditRefused(
            f"{row.words} of {layer.name} would be {row.shown(wanted)}; it is"
            f" {row.low * row.factor:g} to {row.shown(row.high)}. Nothing was changed."
        )
    return wanted


def _set(scene: Scene, layer: Layer, row: Property, value: float | str, moment: Moment) -> Edit:
    if row.home == "gradient":
        number = (row.index or 0) + 1
        if row.kind == "colour":
            return set_stop(scene, layer.id, number, moment, colour=str(value))
        return set_stop(scene, layer.id, number, moment, at=float(value))
    if row.home == "tint" and row.index is not None:
        return recoloured(scene, layer.id, row.index, str(value), moment)
    if row.home == "content":
        return look(scene, layer.id, {layer.content.keyed[row.name]: value}, moment)
    change = BY_HOME.get(row.home, place)
    return change(scene, layer.id, {row.name: float(value)}, moment)


def align(
    scene: Scene, layer_ids: Sequence[str], side: Side, moment: Moment, *, to_frame: bool
) -> Edit:
    """Bring a side of layers, as they are seen at a frame, to that of the frame, or of all of
    them.
    """
    axis, share = SHARES[side]
    frame = np.array([0.0, 0.0, scene.width, scene.height])

    def ways(boxes: Floats) -> Floats:
        around = np.concatenate([boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)])
        whole = frame if to_frame else around
        line = whole[axis] + share * (whole[axis + 2] - whole[axis])
        now: Floats = line - (boxes[:, axis] + share * (boxes[:, axis + 2] - boxes[:, axis]))
        return now

    return _moved(scene, layer_ids, axis, ways, f"Align {{counted}} {side}", moment, fewest=1)


def distribute(scene: Scene, layer_ids: Sequence[str], way: Way, moment: Moment) -> Edit:
    """Leave the same room between layers, the outermost two staying where they are."""
    axis = WAYS.index(way)

    def ways(boxes: Floats) -> Floats:
        low, high = boxes[:, axis], boxes[:, axis + 2]
        order = np.argsort((low + high) / 2, kind="stable")
        sizes = (high - low)[order]
        room = (high[order[-1]] - low[order[0]] - sizes.sum()) / (len(boxes) - 1)
        begins = low[order[0]] + np.concatenate([[0.0], np.cumsum(sizes[:-1] + room)])
        by = np.empty(len(boxes))
        by[order] = begins - low[order]
        return by

    return _moved(scene, layer_ids, axis, ways, f"Spread {{counted}} {way}", moment, fewest=3)


def along_line(scene: Scene, layer_ids: Sequence[str], moment: Moment) -> Edit:
    """Put the middles of layers evenly on the straight line between the outermost two, which stay;
    in the order in which they lie along it.
    """
    chosen, seen, boxes = _seen(scene, layer_ids, moment, fewest=3)
    middles = (boxes[:, :2] + boxes[:, 2:]) / 2
    away = np.linalg.norm(middles[:, None] - middles[None], axis=2)
    first, last = np.unravel_index(int(away.argmax()), away.shape)
    way = middles[last] - middles[first]
    order = np.argsort(middles @ way, kind="stable")
    wanted = np.empty_like(middles)
    wanted[order] = middles[first] + np.linspace(0, 1, len(seen))[:, None] * way
    return _shifted(scene, chosen, seen, wanted - middles, "Spread {counted} along a line", moment)


def _moved(
    scene: Scene,
    layer_ids: Sequence[str],
    axis: int,
    ways: Callable[[Floats], Floats],
    words: str,
    moment: Moment,
    *,
    fewest: int,
) -> Edit:
    """Move layers along an axis, each by what its box and those of the others ask for."""
    chosen, seen, boxes = _seen(scene, layer_ids, moment, fewest=fewest)
    shifts = np.zeros((len(seen), 2))
    shifts[:, axis] = ways(boxes)
    return _shifted(scene, chosen, seen, shifts, words, moment)


def _seen(
    scene: Scene, layer_ids: Sequence[str], moment: Moment, *, fewest: int
) -> tuple[list[Layer], list[Layer], Floats]:
    """Return layers, those of them that can be moved, and the boxes of these as they are seen.

    Errors: EditRefused: they are too few.
    """
    chosen = outermost(scene, layer_ids)
    boxes = boxes_of(scene, [layer.id for layer in chosen], moment.frame)
    free = [layer for layer in chosen if layer.content.can.stand and layer.ride is None]
    seen = [layer for layer in free if layer.id in boxes]
    if len(seen) < fewest:
        raise EditRefused(_too_few(chosen, seen, fewest))
    return chosen, seen, np.array([boxes[layer.id] for layer in seen])


def _shifted(
    scene: Scene,
    chosen: Sequence[Layer],
    seen: Sequence[Layer],
    shifts: Floats,
    words: str,
    moment: Moment,
) -> Edit:
    steps = list[Command]()
    for layer, (x, y) in zip(seen, shifts.tolist(), strict=True):
        if max(abs(x), abs(y)) > 1e-9:
            steps += nudged(scene, layer.id, (x, y), moment).commands
    stayed = ", ".join(layer.name for layer in chosen if layer not in seen)
    notes = [f"{stayed} stayed: a path sets the place, or nothing of it is seen."] if stayed else []
    return edit_of(steps, words.format(counted=called(len(seen), "layer")), notes)


def _too_few(chosen: Sequence[Layer], seen: Sequence[Layer], fewest: int) -> str:
    riding = ", ".join(layer.name for layer in chosen if layer.ride is not None)
    if riding:
        return f"{riding} rides a path, which sets the place; take it off to line it up."
    if fewest > 1:
        return f"Rooms between layers need {fewest} of them; {len(seen)} can be moved here."
    return "Nothing of what is chosen is seen here, so there is nothing to line up."
