"""How much later a rider may be that stands for another: times stay within what scenes may have."""

from coaster.motion.ride import Ride
from coaster.scene.document import Layer

FARTHEST = 1_000_000.0
"""Frames from the start that anything can be at."""


def within_time(layer: Layer, ride: Ride, later: float) -> float:
    """Return by how many frames all that a rider does can be later, as near to ``later`` as it
    goes.
    """
    times = [ride.start, ride.end, *(layer.shown or ())]
    times += [key.time for track in layer.keys for key in (track.keys[0], track.keys[-1])]
    times += [accent.start for accent in layer.accents]
    return float(min(max(later, -FARTHEST - min(times)), FARTHEST - max(times)))
