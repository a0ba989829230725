"""Riders that come to rest on top of each other."""

import numpy as np

from coaster.render.evaluate import Evaluation
from coaster.scene import tree

SAME_PLACE = 1.0
"""Riders this close at their ends, px, lie on each other."""


def meetings(evaluation: Evaluation) -> list[tuple[str, str]]:
    """Return the ids of visible riders that end in the same place and stay there, by twos.

    A rider that goes on to the scene's end on a closed path does not end.
    """
    ends = []
    for motion in evaluation.motions:
        ride, travel, way = motion.layer.ride, motion.travel, motion.way
        if (
            ride is None
            or travel is None
            or way is None
            or not tree.is_visible(evaluation.scene, motion.layer)
        ):
            continue
        last = evaluation.frames
        if not (way.loops and ride.end >= last):
            spots = evaluation.spots_of(motion)
            ends.append((motion.layer.id, spots[min(max(round(ride.end), 0), last)]))
    return [
        (a, b)
        for k, (a, here) in enumerate(ends)
        for b, there in ends[k + 1 :]
        if float(np.hypot(*(here - there))) <= SAME_PLACE
    ]
