"""Riders that come to rest on top of each other."""

import math
from itertools import combinations

import numpy as np

from coaster.geometry.bezier import Floats
from coaster.render.evaluate import Evaluation
from coaster.render.frames import Frames
from coaster.scene import tree
from coaster.scene.document import Layer, Scene

SAME_PLACE = 1.0
"""Riders this close at their ends, px, lie on each other."""


def meetings(scene: Scene) -> list[tuple[str, str]]:
    """Return the ids of visible riders that end in the same place and stay there, by twos.

    A rider that goes on to the scene's end on a closed path does not end.
    """
    ends = _ends(scene, [layer for layer in scene.layers if _rests(scene, layer)])
    twos = combinations(ends, 2)
    return [(a, b) for a, b in twos if math.dist(ends[a], ends[b]) <= SAME_PLACE]


def _ends(scene: Scene, riders: list[Layer]) -> dict[str, Floats]:
    """Return where riders are when their rides are over."""
    stops = [min(max(round(layer.ride.end), 0), scene.length) for layer in riders if layer.ride]
    evaluation, at = Evaluation(scene), Frames(np.unique(np.array(stops, np.intp)))
    motions = evaluation.motions_of(riders, at)
    return {
        motion.layer.id: evaluation.spot(motion, stop)
        for motion, stop in zip(motions, stops, strict=True)
    }


def _rests(scene: Scene, layer: Layer) -> bool:
    """Whether a layer is seen to ride and comes to an end."""
    ride = layer.ride
    if ride is None or not tree.is_drawn(scene, layer):
        return False
    return not (scene.path(ride.path).loops and ride.end >= scene.length)
