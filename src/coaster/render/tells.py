"""What the panels round the stage are told of a layer: its ride, pegs, keys and seam, as
numbers.
"""

from collections.abc import Callable
from typing import Any

import numpy as np

from coaster.geometry.bezier import Floats
from coaster.motion import distance, keys
from coaster.motion.colours import from_hex, lab
from coaster.motion.distance import Way
from coaster.motion.keys import Key
from coaster.motion.pace import PegPace, pace_at_pegs
from coaster.motion.ride import AtNode, Peg, Ride
from coaster.motion.sections import Reach
from coaster.motion.travel import Travel
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
    fps, facing = evaluation.scene.fps, rides.facing
    return {
        "path": rides.path,
        "start": rides.start,
        "end": rides.end,
        "length": way.length,
        "limited": distance.is_limited(rides),
        "average": average_speed(way, evaluation.frames, fps),
        "rows": add(_rows(ridden, way, fps)),
        "pegs": _pegs(rides, way, fps),
        "relative": rides.relative,
        "after": [rides.after.layer, rides.after.event] if rides.after else None,
        "unturned": [float(v) for v in places.unturned(motion.layer, motion.faces)],
        "spot": facing.own_spot(),
    }


def ride_rows(motion: LayerMotion, fps: float, add: Add) -> dict[str, Any] | None:
    """Tell the ``COLUMNS`` of a ride in its frames, and nothing else of it."""
    ridden, way = motion.travel, motion.way
    return None if ridden is None or way is None else {"rows": add(_rows(ridden, way, fps))}


def _rows(ridden: Travel, way: Way, fps: float) -> Floats:
    columns = [
        *ridden.rail.T,
        np.degrees(ridden.rail_heading),
        np.abs(ridden.rate) * fps,
        ridden.travelled,
        _percent(ridden, way),
    ]
    return np.stack(columns, axis=1)


def _percent(ridden: Travel, way: Way) -> Floats:
    return ridden.travelled / way.length * 100 if way.length else np.zeros_like(ridden.travelled)


def average_speed(way: Way, frames: int, fps: float) -> float:
    """Return px/s over the frames of the ride that lie in the scene, rests left out."""
    first, last = max(round(way.ride.start), 0), min(round(way.ride.end), frames)
    if last <= first:
        return 0.0
    begun, ended = distance.travelled(way, [first, last], distance.period_of(way, frames))[0]
    return abs(float(ended - begun)) / (last - first) * fps


def _pegs(ride: Ride, way: Way, fps: float) -> list[dict[str, Any]]:
    shift = ride.offset / 100 * way.length
    stops = np.array([way.distance(peg.place) for peg in ride.pegs]) + shift
    found = way.measure.locate(distance.within(stops, way))
    spots = found.position
    if way.measure.depths is not None:
        spots = np.column_stack([spots, found.deep])
    told = zip(ride.pegs, stops.tolist(), spots.tolist(), pace_at_pegs(way), strict=True)
    return [
        _peg(peg) | {"distance": stop, "at": spot, "speeds": _speeds(pace, fps)}
        for peg, stop, spot, pace in told
    ]


def _peg(peg: Peg) -> dict[str, Any]:
    node = peg.place.node if isinstance(peg.place, AtNode) else None
    reaches = [peg.arrive.time, peg.leave.time]
    return {"id": peg.id, "time": peg.time, "node": node, "reaches": reaches}


def _speeds(pace: PegPace, fps: float) -> list[float | None]:
    """Return px/s come to and left with, and the most those may be; None where there is no
    limit.
    """
    found = (pace.arrive, pace.leave, pace.arrive_most, pace.leave_most)
    return [speed * fps if np.isfinite(speed) else None for speed in found]


def values(track: Track, times: Floats, add: Add) -> dict[str, Any]:
    """Tell a property over time: a value for each of the ``times``."""
    if PROPERTIES[track.property].kind != "colour":
        return {"values": add(keys.values(track.keys, times)[0])}
    painted = keys.colours(track.keys, times)
    return {"values": add(lab(painted[:, :3])[:, 0]), "colours": add(painted)}


def track(track: Track, times: Floats, add: Add) -> dict[str, Any]:
    """Tell a property: its values, its keys, and how each is come to and left."""
    told = values(track, times, add)
    if "colours" in told:
        told["hex"] = [key.value for key in track.keys]
    height = _lightness if "colours" in told else keys.number
    return told | {
        "property": track.property,
        "keys": [[key.id, key.time, height(key)] for key in track.keys],
        "steps": [key.step for key in track.keys],
        "reaches": add(np.array([[*_pair(key.arrive), *_pair(key.leave)] for key in track.keys])),
    }


def _lightness(key: Key) -> float:
    """How high in the graph a colour stands."""
    return float(lab(from_hex(str(key.value))[:3])[0])


def _pair(reach: Reach) -> tuple[float, float]:
    return reach.time, reach.distance


def seam_of(motion: LayerMotion, evaluation: Evaluation) -> dict[str, Any] | None:
    if evaluation.is_still(motion):
        return None
    found = seam.seam_with_copies(motion, evaluation)
    return {
        "position": found.position,
        "angle": found.angle,
        "speed": found.speed,
        "clean": found.clean,
        "unseen": found.unseen,
        "reasons": found.reasons(),
    }
