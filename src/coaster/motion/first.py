"""The first ride: what attaching a layer to a path gives before anything is set."""

from coaster.geometry.path import Path
from coaster.motion import easing
from coaster.motion.distance import Way
from coaster.motion.easing import Pace
from coaster.motion.rate import Rate
from coaster.motion.ride import Facing, Ride
from coaster.motion.sampling import simple_pegs

CROSSING_S, SHORTEST_S, LONGEST_S = 4.0, 3.0, 8.0
"""Seconds to travel the width of the frame at a speed that is easily watched, and the bounds."""


def first_ride(
    path: Path,
    *,
    width: float,
    rate: Rate,
    scene_length: int,
    facing: Facing | None = None,
    pace: Pace = easing.EVEN,
) -> Ride:
    """Return a ride that can be watched at once, from the scene's start, along the path.

    A closed path takes the whole scene, so that it loops; an open one 3 to 8 s by its length,
    or the scene if that is shorter, and ends on the scene's last frame at the latest.
    """
    ride = Ride(path.id, simple_pegs(0.0, 1.0, 1.0, easing.EVEN), facing or Facing())
    if path.loops:
        frames = float(scene_length)
    else:
        seconds = min(max(Way(path, ride).length / width * CROSSING_S, SHORTEST_S), LONGEST_S)
        frames = float(min(rate.frames(seconds), scene_length - 1))
    return Ride(path.id, simple_pegs(0.0, frames, 1.0, pace), ride.facing)
