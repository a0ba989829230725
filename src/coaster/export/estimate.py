"""How large a render will be, by a few frames of it."""

import tempfile
import time
from dataclasses import replace
from pathlib import Path as File

import numpy as np

from coaster.export.chunks import CHUNK
from coaster.export.orders import Order
from coaster.export.render import render
from coaster.media.writing import Kind
from coaster.scene.document import Scene

FEW, SHARES = 24, (0.2, 0.7)
"""So many frames that follow one another are drawn and encoded, so far into all of them,"""
HIGH = 360
"""so many px high: what a larger picture has more of is mostly smooth."""
GROWS = 0.6
"""A picture of twice the px takes about 2 to the power of this of the bytes."""
EVERY = 250
"""Frames from one that is whole to the next, in what is made in one go."""
PATIENCE_S = 1.0
MOST_LOOKS = 5000
"""Frames times layers of a file of vectors that is written to see how large it is."""


def estimated_size(scene: Scene, folder: File, order: Order, kind: Kind) -> int | None:
    """Return about how many bytes a render will have; within a half to twice as a rule. None where
    a frame takes too long to draw, or the scene is shorter than any file of the kind.

    Errors: as those of a render.
    """
    if kind.vectors:
        return _of_vectors(scene, folder, order, kind)
    fewest, span = kind.fewest_frames, order.last - order.first
    if span < fewest:
        return None
    few = fewest if kind.most_frames == 1 else min(FEW, span)
    scale = min(order.scale, HIGH / scene.height)
    small = replace(order, scale=scale, loops=1, returns=False, retimed=False, shutter=0.0)
    looked = _looked_at(scene, folder, small, kind, few)
    if looked is None:
        return None
    first, several = looked
    per_frame = (several - first) / max(few - fewest, 1)
    wholes = -(-order.count // (CHUNK if kind.join else EVERY))
    small_size = wholes * first + (order.count - wholes * fewest) * per_frame
    grown: float = small_size * (order.scale / scale) ** (2 * GROWS)
    return round(grown)


def _looked_at(
    scene: Scene, folder: File, order: Order, kind: Kind, few: int
) -> tuple[float, float] | None:
    """Return how large files are of as few frames as there can be, and of a ``few``; None where
    that takes too long.
    """
    sizes = []
    with tempfile.TemporaryDirectory(prefix="coaster-") as place:
        file = File(place) / f"some{kind.ending}"
        for share in SHARES:
            at = order.first + round((order.last - order.first - few) * share)
            for count in (kind.fewest_frames, few):
                begun = time.monotonic()
                some = replace(order, first=at, last=at + count, pictures=count)
                sizes.append(_written(scene, folder, file, some, kind))
                if time.monotonic() - begun > PATIENCE_S * count:
                    return None
    first, several = np.reshape(sizes, (-1, 2)).mean(0).tolist()
    return first, several


def _of_vectors(scene: Scene, folder: File, order: Order, kind: Kind) -> int | None:
    """Return how large such a file is, which does not take long unless there is much of it."""
    if order.count * len(scene.layers) > MOST_LOOKS:
        return None
    with tempfile.TemporaryDirectory(prefix="coaster-") as place:
        return _written(scene, folder, File(place) / f"all{kind.ending}", order, kind)


def _written(scene: Scene, folder: File, out: File, order: Order, kind: Kind) -> int:
    render(scene, folder, out, order, kind=kind, workers=0)
    return out.stat().st_size
