"""Layers that are driven by tables of frames."""

from collections.abc import Mapping, Sequence

import numpy as np

from coaster.commands.base import Command
from coaster.commands.layers import SetKeys
from coaster.commands.rides import DetachRide
from coaster.edits.edit import Edit, called, edit_of
from coaster.edits.keys import row_of
from coaster.errors import EditRefused
from coaster.geometry.bezier import Floats
from coaster.motion.keys import MOST_KEYS, Key
from coaster.motion.thinning import bends
from coaster.scene.document import Scene
from coaster.scene.properties import PLACES, PROPERTIES

TOLERANCES = {"x": 0.02, "y": 0.02, "turn": 0.02, "scale": 1e-4, "opacity": 1e-3}
"""How far a value may be from the table's in any frame, in the document's units."""


def drive(
    scene: Scene,
    layer_id: str,
    columns: Mapping[str, Sequence[float]],
    tolerance: float | None = None,
) -> Edit:
    """Give a layer keys that make its properties what a table says in each of its frames, as few as
    keep within a ``tolerance`` of it.

    ``columns`` has ``frame``, or ``time`` in s, and properties by their names, in the document's
    units: x, y, turn, scale, opacity, z, .... Other columns are left alone. A table with a place
    takes the layer off its path.
    Errors: EditRefused: there is neither frame nor time, or no property of this layer, or more than
            ``MOST_KEYS`` keys would be needed.
    """
    layer = scene.layer(layer_id)
    times = _times(scene, columns)
    if any(len(column) != len(times) for column in columns.values()):
        raise EditRefused("The columns of the table are not equally long.")
    named = [name for name in columns if name in PROPERTIES and row_of(name).kind == "number"]
    wanted = [name for name in named if layer.standing(name) is not None]
    if not wanted:
        raise EditRefused(
            f"The table has no column that {layer.name} has: x, y, turn, scale, opacity, ….",
        )
    rides = layer.ride is not None and any(name in PLACES for name in wanted)
    steps: list[Command] = [DetachRide(layer_id)] if rides else []
    for name in wanted:
        near = TOLERANCES.get(name, 0.01) if tolerance is None else tolerance
        steps.append(SetKeys(layer_id, name, _keys(layer.name, name, times, columns[name], near)))
    notes = [f"{layer.name} rides no path any more: the table says where it is."] if rides else []
    count = sum(len(step.keys) for step in steps if isinstance(step, SetKeys))
    notes.append(f"{layer.name} has {called(count, 'key')} of {', '.join(wanted)} now.")
    return edit_of(steps, f"Motion of {layer.name}", notes, layer=layer_id)


def _times(scene: Scene, columns: Mapping[str, Sequence[float]]) -> Floats:
    """Return the frames of a table, ascending."""
    if "frame" in columns:
        times = np.asarray(columns["frame"], float)
    elif "time" in columns:
        times = np.asarray(columns["time"], float) * scene.fps
    else:
        raise EditRefused("The table has neither a column frame nor a column time.")
    if not len(times) or not np.isfinite(times).all():
        raise EditRefused("The table holds no frame, or one that is no number.")
    if (np.diff(times) <= 0).any():
        raise EditRefused("The frames of the table are not in order, each once.")
    return times


def _keys(
    layer: str, name: str, times: Floats, column: Sequence[float], near: float
) -> tuple[Key, ...]:
    row, values = row_of(name), np.asarray(column, float)
    if not (np.isfinite(values) & (values >= row.low) & (values <= row.high)).all():
        raise EditRefused(
            f"{row.words} of {layer}: the table has values that are not {row.low:g} to"
            f" {row.high:g}. Nothing was changed."
        )
    kept = bends(times, values[:, None], near)
    if len(kept) > MOST_KEYS:
        raise EditRefused(
            f"{row.words} of {layer} would need {len(kept):,} keys, and may have {MOST_KEYS:,};"
            " allow a larger tolerance."
        )
    return tuple(Key(f"k{i}", float(times[i]), round(float(values[i]), 6)) for i in kept)
