"""How large a render will be, by a few frames of it."""

import tempfile
import time
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path as File

import numpy as np

from coaster.export import vector
from coaster.export.chunks import CHUNK, job_of
from coaster.export.drawers import Drawers
from coaster.export.orders import Order
from coaster.media.pictures import Pixels
from coaster.media.writing import Job, Kind
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
    sizes, scene, counts = [], order.of(scene), (kind.fewest_frames, few)
    with (
        tempfile.TemporaryDirectory(prefix="coaster-") as place,
        Drawers(scene, folder, scale=order.scale, workers=0) as drawers,
    ):
        file = File(place) / f"some{kind.ending}"
        for share in SHARES:
            at = order.first + round((order.last - order.first - few) * share)
            begun, frames = time.monotonic(), []
            for pixels in drawers.frames(range(at, at + few)):
                frames.append(pixels.copy())
                if time.monotonic() - begun > PATIENCE_S * len(frames):
                    return None
            job = job_of(scene, order, file, frames if kind.looks_ahead else ())
            sizes.append([_encoded(frames[:count], job, kind) for count in counts])
    first, several = np.mean(sizes, axis=0).tolist()
    return first, several


def _encoded(frames: Sequence[Pixels], job: Job, kind: Kind) -> int:
    with kind.open(job) as writer:
        for pixels in frames:
            writer.write(pixels)
    return job.file.stat().st_size


def _of_vectors(scene: Scene, folder: File, order: Order, kind: Kind) -> int | None:
    """Return how large such a file is, which does not take long unless there is much of it."""
    if order.count * len(scene.layers) > MOST_LOOKS:
        return None
    with tempfile.TemporaryDirectory(prefix="coaster-") as place:
        out = File(place) / f"all{kind.ending}"
        vector.write(order.of(scene), folder, out, order, kind)
        return out.stat().st_size
