"""How large a render will be, by a few frames of it."""

import tempfile
import time
from dataclasses import replace
from pathlib import Path as File

from coaster.export.orders import Order
from coaster.export.render import render
from coaster.media.writing import Kind
from coaster.scene.document import Scene

FEW = 24
"""Frames that follow one another are drawn and encoded,"""
HIGH = 360
"""so many px high: what a larger picture has more of is mostly smooth."""
GROWS = 0.7
"""A picture of twice the px takes about 2 to the power of this of the bytes."""
EVERY = 250
"""Frames from one that is whole to the next."""
PATIENCE_S = 1.0
MOST_LOOKS = 5000
"""Frames times layers of a file of vectors that is written to see how large it is."""


def estimated_size(scene: Scene, folder: File, order: Order, kind: Kind) -> int | None:
    """Return about how many bytes a render will have; within a half to twice as a rule. None where
    a frame takes too long to draw.

    Errors: as those of a render.
    """
    if kind.vectors:
        return _of_vectors(scene, folder, order, kind)
    small = min(order.scale, HIGH / scene.height)
    few = min(FEW, order.pictures)
    begin = order.first if not order.is_planned else 0
    one = replace(order, scale=small, loops=1, returns=False, first=begin, last=begin + 1,
                  pictures=1, retimed=False, shutter=0.0)  # fmt: skip
    some = replace(one, last=one.first + few, pictures=few)
    with tempfile.TemporaryDirectory(prefix="coaster-") as place:
        begun = time.monotonic()
        first = _written(scene, folder, File(place) / f"one{kind.ending}", one, kind)
        if few == 1 or kind.most_frames == 1:
            per_frame = 0.0
        elif time.monotonic() - begun > PATIENCE_S:
            return None
        else:
            several = _written(scene, folder, File(place) / f"some{kind.ending}", some, kind)
            per_frame = (several - first) / (few - 1)
    wholes = -(-order.count // EVERY)
    small_size = wholes * first + (order.count - wholes) * per_frame
    grown: float = small_size * (order.scale / small) ** (2 * GROWS)
    return round(grown)


def _of_vectors(scene: Scene, folder: File, order: Order, kind: Kind) -> int | None:
    """Return how large such a file is, which does not take long unless there is much of it."""
    if order.count * len(scene.layers) > MOST_LOOKS:
        return None
    with tempfile.TemporaryDirectory(prefix="coaster-") as place:
        return _written(scene, folder, File(place) / f"all{kind.ending}", order, kind)


def _written(scene: Scene, folder: File, out: File, order: Order, kind: Kind) -> int:
    render(scene, folder, out, order, kind=kind, workers=0)
    return out.stat().st_size
