"""What the panels round the stage are told of a layer: its ride, pegs, keys and seam, as
numbers.
"""

from collections.abc import Callable
from typing import Any

import numpy as np

from coaster.geometry.bezier import Floats
from coaster.motion import keys, travel
from coaster.motion.colours import from_hex, lab
from coaster.motion.pace import PegPace, pace_at_pegs
from coaster.motion.ride import AtNode, Ride
from coaster.motion.sections import Reach
from coaster.motion.travel import Travel, Way
from coaster.render import places, seam
from coaster.render.evaluate import Evaluation, LayerMotion
from coaster.scene.properties import PROPERTIES, Track

Add = Callable[[Floats], list[int]]
"""Takes numbers in, and says where they are."""
COLUMNS = ("x", "y", "heading", "speed", "travelled", "percent")
"""What each frame of a ride tells, in the px of its path: px, px, degrees, px/s, px, % of one
length.
"""


def ride(motion: LayerMotion, evaluation: Evaluation, add: Add) -> dict[str, Any] | None:
    rides, ridden, way = motion.layer.ride, motion.travel, motion.way
    if rides is None or ridden is None or way is None:
        return None
    fps = evaluation.scene.fps
    speed = np.abs(ridden.rate) * fps
    peak = int(np.argmax(speed))
    columns = [
        *ridden.rail.T,
        np.degrees(ridden.rail_heading),
        speed,
        ridden.travelled,
        _percent(ridden, way),
    ]
    facing = rides.facing
    return {
        "path": rides.path,
        "start": rides.start,
        "end": rides.end,
        "length": way.length,
        "limited": travel.is_limited(rides),
        "average": average_speed(ridden, rides, fps),
        "peak": {"speed": float(speed[peak]), "frame": peak},
        "rows": add(np.stack(columns, axis=1)),
        "pegs": _pegs(rides, way, fps),
        "unturned": [float(v) for v in places.unturned(motion.layer, motion.faces)],
        "spot": facing.spot if facing.mode == "target" and facing.target is None else None,
        "passes": add(travel.passing(way, ridden.travelled)),
    }


def _percent(ridden: Travel, way: Way) -> Floats:
    return ridden.travelled / way.length * 100 if way.length else np.zeros_like(ridden.travelled)


def average_speed(ridden: Travel, ride: Ride, fps: float) -> float:
    """Return px/s over the frames of the ride that lie in the scene, rests left out."""
    first, last = max(round(ride.start), 0), min(round(ride.end), len(ridden.travelled) - 1)
    if last <= first:
        return 0.0
    return abs(float(ridden.travelled[last] - ridden.travelled[first])) / (last - first) * fps


def _pegs(ride: Ride, way: Way, fps: float) -> list[dict[str, Any]]:
    shift = ride.offset / 100 * way.length
    stops = np.array([way.distance(peg.place) for peg in ride.pegs]) + shift
    spots = way.measure.locate(travel.within(stops, way)).position
    return [
        {
            "id": peg.id,
            "time": peg.time,
            "distance": float(stop),
            "at": [float(spot[0]), float(spot[1])],
            "node": peg.place.node if isinstance(peg.place, AtNode) else None,
            "speeds": _speeds(pace, fps),
            "reaches": [peg.arrive.time, peg.leave.time],
        }
        for peg, stop, spot, pace in zip(ride.pegs, stops, spots, pace_at_pegs(way), strict=True)
    ]


def _speeds(pace: PegPace, fps: float) -> list[float | None]:
    """Return px/s come to and left with, and the most those may be; None where there is no
    limit.
    """
    found = (pace.arrive, pace.leave, pace.arrive_most, pace.leave_most)
    return [speed * fps if np.isfinite(speed) else None for speed in found]


def track(track: Track, frames: int, add: Add) -> dict[str, Any]:
    """Tell a property over time: a value a frame, its keys, and how each is come to and left."""
    times = np.arange(frames + 1.0)
    told: dict[str, Any] = {}
    if PROPERTIES[track.property].kind == "colour":
        painted = keys.colours(track.keys, times)
        values = lab(painted[:, :3])[:, 0]
        told["colours"] = add(painted)
        told["hex"] = [key.value for key in track.keys]
        known = [float(lab(from_hex(str(key.value))[:3])[0]) for key in track.keys]
    else:
        values, _ = keys.values(track.keys, times)
        known = [keys.number(key) for key in track.keys]
    return told | {
        "property": track.property,
        "values": add(values),
        "keys": [[key.id, key.time, value] for key, value in zip(track.keys, known, strict=True)],
        "steps": [key.step for key in track.keys],
        "reaches": add(np.array([[*_pair(key.arrive), *_pair(key.leave)] for key in track.keys])),
    }


def _pair(reach: Reach) -> tuple[float, float]:
    return reach.time, reach.distance


def seam_of(motion: LayerMotion, evaluation: Evaluation) -> dict[str, Any] | None:
    if motion.still:
        return None
    found = seam.layer_seam(motion, evaluation)
    return {
        "position": found.position,
        "angle": found.angle,
        "speed": found.speed,
        "clean": found.clean,
        "unseen": found.unseen,
        "reasons": found.reasons(),
    }
