"""The evaluated scene for a stage elsewhere: display lists for all frames, as compact binary."""

import json
import struct
from dataclasses import dataclass
from typing import Any

import numpy as np

from coaster.formats.pathdata import quick_path_data
from coaster.geometry import bezier, handles
from coaster.geometry.bezier import Floats
from coaster.geometry.measure import measured
from coaster.geometry.path import Path
from coaster.motion import keys, travel
from coaster.motion.colours import from_hex, lab
from coaster.motion.keys import Track
from coaster.motion.pace import PegPace, pace_at_pegs
from coaster.motion.ride import AtNode, Ride
from coaster.motion.sections import Reach
from coaster.motion.travel import Travel, Way
from coaster.render import seam
from coaster.render.evaluate import Evaluation, LayerMotion, motions, places_of, poses, unturned
from coaster.render.outlines import Drawable
from coaster.scene.document import Layer, Scene

MAGIC = b"CSTR"
FORMAT = 3
COLUMNS = ("x", "y", "heading", "speed", "travelled", "percent")
"""What each frame of a ride tells: px, px, degrees, px/s, px, % of one length."""


@dataclass
class _Numbers:
    """float32 blocks in one buffer, named by their offset and count."""

    blocks: list[bytes]
    count: int = 0

    def add(self, values: Floats) -> list[int]:
        flat = np.ascontiguousarray(values, dtype="<f4").ravel()
        self.blocks.append(flat.tobytes())
        place, self.count = [self.count, flat.size], self.count + flat.size
        return place


@dataclass(frozen=True)
class Glance:
    """A look at one frame: all of the motion of one rider, and of the others only how they are then."""

    frame: int
    rider: str


def pack(
    scene: Scene, before: Scene | None = None, extra: dict[str, Any] | None = None, glance: Glance | None = None
) -> bytes:
    """Return the scene for frames 0..length as header and numbers.

    Layout:   "CSTR", version (u32), header length in bytes (u32), the header as JSON padded with
              spaces to a multiple of 4, then float32 little-endian numbers. A block is named
              [offset, count] in numbers. Matrices are six numbers a frame, in the order of SVG's
              ``matrix()``; a still layer has one. Rides have the ``COLUMNS`` for each frame, and
              their pegs the speeds (px/s) they are come to and left with, and the most those
              may be, null where there is no limit; keyed properties have a value for each frame,
              and layers that keys of x and y move a place for each. Of colours the value is the
              lightness, beside red, green, blue and alpha, 0..1, for each frame.
    ``glance``: riders but the one of the glance have only how they are then, ``pose: true``.
    ``before``: layers and paths that are drawn as they were there are only named, ``same: true``.
              Paths have x, y and both handles (offsets) of each node, a word of ``marks`` for
              each, and for each run its count of nodes and whether it is closed; rides have the
              frame at which each node of their path is passed, nan for never.
    Accuracy: float32: 1e-4 px inside any frame.
    """
    numbers = _Numbers([])
    evaluation = Evaluation(scene)
    known = Evaluation(before) if before is not None and _same_clock(scene, before) else None
    layers = _layers(evaluation, numbers, known, glance)
    old_paths = {p.id: p for p in before.paths} if before is not None else {}
    header = {
        "scene": _settings(scene),
        "columns": COLUMNS,
        "layers": layers,
        "paths": [_path(p, old_paths.get(p.id), numbers) for p in scene.paths],
        **(extra or {}),
    }
    text = json.dumps(header, separators=(",", ":"), ensure_ascii=False).encode()
    text += b" " * (-len(text) % 4)
    return MAGIC + struct.pack("<II", FORMAT, len(text)) + text + b"".join(numbers.blocks)


def _same_clock(a: Scene, b: Scene) -> bool:
    return (a.rate, a.length) == (b.rate, b.length)


def _settings(scene: Scene) -> dict[str, Any]:
    return {
        "width": scene.width,
        "height": scene.height,
        "fps": scene.fps,
        "rate": str(scene.rate),
        "length": scene.length,
        "background": scene.background,
    }


def _layers(
    evaluation: Evaluation, numbers: _Numbers, known: Evaluation | None, glance: Glance | None
) -> list[dict[str, Any]]:
    scene = evaluation.scene
    told: dict[str, dict[str, Any]] = {}
    for layer in scene.layers:
        if known is not None and known.shows_alike(evaluation, layer.id):
            told[layer.id] = {"id": layer.id, "same": True}
    if known is not None and glance is not None and 0 <= glance.frame <= scene.length:
        others = [x for x in scene.layers if x.ride and x.id not in told and x.id != glance.rider]
        for motion in poses(others, scene, glance.frame):
            pose = {"matrices": numbers.add(motion.matrices), "opacities": numbers.add(motion.opacities)}
            told[motion.layer.id] = {"id": motion.layer.id, "pose": True, **pose}
    rest = [layer for layer in scene.layers if layer.id not in told]
    for motion in motions(rest, scene):
        told[motion.layer.id] = _layer(motion, evaluation, numbers)
    return [told[layer.id] for layer in scene.layers]


def _layer(motion: LayerMotion, evaluation: Evaluation, numbers: _Numbers) -> dict[str, Any]:
    layer = motion.layer
    return {
        "id": layer.id,
        "name": layer.name,
        "type": layer.content.type,
        "visible": layer.visible,
        "locked": layer.locked,
        "opacities": numbers.add(motion.opacities),
        "position": layer.transform.position,
        "drawable": _drawable(motion.drawable),
        "matrices": numbers.add(motion.matrices),
        "ride": _ride(motion, evaluation, numbers),
        "seam": _seam(motion, evaluation),
        "shown": layer.shown,
        "figures": _figures(motion, numbers),
        "places": numbers.add(places_of(layer, evaluation.scene)) if _goes_by_keys(layer) else None,
        "keys": [_track(track, evaluation.frames, numbers) for track in layer.keys],
    }


def _figures(motion: LayerMotion, numbers: _Numbers) -> dict[str, Any] | None:
    """The figures of a shape whose size has keys, each once, and which of them it is in each frame."""
    shapes = motion.tints.shapes if motion.tints else ()
    if not shapes:
        return None
    known: dict[str, int] = {}
    which = [known.setdefault(s.outlines[0].data, len(known)) for s in shapes]
    sizes = np.array([[s.width, s.height] for s in shapes])
    return {"d": list(known), "which": numbers.add(np.array(which, float)), "sizes": numbers.add(sizes)}


def _goes_by_keys(layer: Layer) -> bool:
    return layer.ride is None and bool(layer.track("x") or layer.track("y"))


def _track(track: Track, frames: int, numbers: _Numbers) -> dict[str, Any]:
    times = np.arange(frames + 1.0)
    told: dict[str, Any] = {}
    if track.property in keys.COLOURS:
        painted = keys.colours(track.keys, times)
        found = lab(painted[:, :3])[:, 0]
        told["colours"] = numbers.add(painted)
        told["hex"] = [key.value for key in track.keys]
        known = [float(lab(from_hex(str(key.value))[:3])[0]) for key in track.keys]
    else:
        found, _ = keys.values(track.keys, times)
        known = [keys.number(key) for key in track.keys]
    return told | {
        "property": track.property,
        "values": numbers.add(found),
        "keys": [[key.id, key.time, value] for key, value in zip(track.keys, known, strict=True)],
        "steps": [key.step for key in track.keys],
        "reaches": numbers.add(np.array([[*_pair(key.arrive), *_pair(key.leave)] for key in track.keys])),
    }


def _pair(reach: Reach) -> tuple[float, float]:
    return reach.time, reach.distance


def _drawable(drawn: Drawable) -> dict[str, Any]:
    return {
        "box": [*drawn.origin, drawn.width, drawn.height],
        "asset": drawn.asset,
        "outlines": [
            {"d": o.data, "fill": o.fill, "stroke": o.stroke, "width": o.stroke_width, "dash": o.dash}
            for o in drawn.outlines
        ],
    }


def _ride(motion: LayerMotion, evaluation: Evaluation, numbers: _Numbers) -> dict[str, Any] | None:
    ride, ridden, way = motion.layer.ride, motion.travel, motion.way
    if ride is None or ridden is None or way is None:
        return None
    fps = evaluation.scene.fps
    speed = np.abs(ridden.rate) * fps
    peak = int(np.argmax(speed))
    columns = [*ridden.position.T, np.degrees(ridden.heading), speed, ridden.travelled, _percent(ridden, way)]
    rows = np.stack(columns, axis=1)
    return {
        "path": ride.path,
        "start": ride.start,
        "end": ride.end,
        "length": way.length,
        "limited": travel.is_limited(ride),
        "average": average_speed(ridden, ride, fps),
        "peak": {"speed": float(speed[peak]), "frame": peak},
        "rows": numbers.add(rows),
        "pegs": _pegs(ride, way, fps),
        "unturned": [float(v) for v in unturned(motion.layer, motion.drawable)],
        "spot": ride.facing.spot if ride.facing.mode == "target" and ride.facing.target is None else None,
        "passes": numbers.add(travel.passing(way, ridden.travelled)),
    }


def _seam(motion: LayerMotion, evaluation: Evaluation) -> dict[str, Any] | None:
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

    def speeds(pace: PegPace) -> list[float | None]:
        return [
            v * fps if np.isfinite(v) else None for v in (pace.arrive, pace.leave, pace.arrive_most, pace.leave_most)
        ]

    return [
        {
            "id": peg.id,
            "time": peg.time,
            "distance": float(stop),
            "at": [float(spot[0]), float(spot[1])],
            "node": peg.place.node if isinstance(peg.place, AtNode) else None,
            "speeds": speeds(pace),
            "reaches": [peg.arrive.time, peg.leave.time],
        }
        for peg, stop, spot, pace in zip(ride.pegs, stops, spots, pace_at_pegs(way), strict=True)
    ]


def _path(path: Path, before: Path | None, numbers: _Numbers) -> dict[str, Any]:
    if path == before:
        return {"id": path.id, "same": True}
    measure, _ = measured(path.subpaths, "glide")
    start = measure.locate([0.0])
    x, y = path.subpaths[0].live[0].position
    left, top, right, bottom = bezier.bounds(measure.segments)
    nodes = path.nodes()
    marks = handles.marks(path)
    return {
        "id": path.id,
        "name": path.name,
        "visible": path.visible,
        "colour": path.colour,
        "locked": path.locked,
        "loops": path.loops,
        "drawn": path.drawn is not None,
        "d": quick_path_data(path.subpaths),
        "ids": [node.id for node in nodes],
        "nodes": numbers.add(np.array([[*n.position, *n.handle_in, *n.handle_out] for n in nodes])),
        "marks": marks,
        "runs": [[len(s.nodes), s.closed] for s in path.subpaths],
        "start": [x, y, float(np.degrees(measure.directions(start, after=True)[0]))],
        "box": [left, top, right - left, bottom - top],
        "length": measure.length,
    }
