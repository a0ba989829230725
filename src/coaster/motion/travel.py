"""A ride over time: how far, where, how fast and which way, for every frame at once."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import ArrayLike, NDArray

from coaster.errors import UnknownId
from coaster.geometry.bezier import Floats
from coaster.geometry.measure import AT_NODE, measured
from coaster.geometry.path import Path
from coaster.motion import easing
from coaster.motion.ride import AtNode, Peg, Place, Ride


@dataclass(frozen=True)
class Travel:
    """What a ride does at each of n times.

    Units: px, px per frame, radians. ``travelled`` counts on over laps; ``heading`` is the
           direction of travel and ``facing`` where the rider's front points before its turn,
           both unwrapped over time; ``upside`` is -1 where keep-upright mirrors the rider.
    """

    travelled: Floats
    rate: Floats
    along: Floats
    position: Floats
    heading: Floats
    facing: Floats
    upside: Floats

    def angle(self, turn_deg: float) -> Floats:
        """Return the angle of the rider's front in degrees, turn included, unwrapped."""
        return np.degrees(self.facing) + turn_deg


class Way:
    """A path as one ride passes over it: its measure, its nodes' distances, whether it loops."""

    def __init__(self, path: Path, ride: Ride) -> None:
        self.path, self.ride = path, ride
        self.measure, self._starts = measured(path.subpaths, ride.gap)
        self.loops = path.loops

    @property
    def length(self) -> float:
        return self.measure.length

    def node_distance(self, node_id: str) -> float:
        for node, start in zip(self.path.nodes(), self._starts, strict=True):
            if node.id == node_id:
                return float(self.measure.starts[start])
        raise UnknownId(f"{self.path.name} has no node {node_id!r} to be pegged to.")

    def node_distances(self) -> Floats:
        """Return where each node lies, in px from the path's start, in the order of the nodes."""
        return self.measure.starts[list(self._starts)]

    def distance(self, place: Place) -> float:
        """Return where a peg stands, in px from the path's start; laps count on."""
        if isinstance(place, AtNode):
            return self.node_distance(place.node) + place.lap * self.length
        return place.percent / 100 * self.length


def passing(way: Way, distances: ArrayLike) -> Floats:
    """Return the frame at which a rider first comes to each node; nan if it never does.

    Shapes: ``distances`` (n,), how far it has come at the frames 0..n - 1 (``travelled``); one
            number for each node of the path, whole frames.
    """
    come = np.asarray(distances, float)
    nodes = way.node_distances()
    if come[-1] < come[0]:
        come, nodes = -come, -nodes
    slack = 1e-6 * max(way.length, 1.0)
    if way.loops and way.length:
        nodes = nodes + np.ceil((come[0] - slack - nodes) / way.length) * way.length
    furthest = np.maximum.accumulate(come)
    frame = np.searchsorted(furthest, nodes - slack)
    last = len(come) - 1
    here = np.clip(frame, 0, last)
    nearer = (here > 0) & (nodes - furthest[here - 1] < furthest[here] - nodes)
    found: Floats = np.where((frame > last) | (nodes < come[0] - slack), np.nan, here - nearer)
    return found


def laps_of(way: Way) -> float:
    """Return how many lengths of its path a ride covers from its first peg to its last."""
    first, last = (way.distance(peg.place) for peg in (way.ride.pegs[0], way.ride.pegs[-1]))
    return (last - first) / way.length if way.length else 0.0


def period_of(way: Way, scene_length: int) -> float | None:
    """Return the frames after which a ride repeats: the scene's, if it fills it on a loop."""
    span = way.ride.end - way.ride.start
    return float(scene_length) if way.loops and abs(span - scene_length) < 1e-9 else None


def travelled(way: Way, times: ArrayLike, period: float | None = None) -> tuple[Floats, Floats]:
    """Return D(t) in px, laps counted on and offset included, and dD/dt in px per frame.

    Shapes:     ``times`` (n,) in frames, any order; two arrays (n,) out.
    Accuracy:   D meets every peg's distance within 1e-12 x length; it is monotone between pegs
                if the ride is never to go backwards.
    Degenerate: before the first and after the last peg the rider rests there, unless the ride
                repeats after ``period``.
    """
    total, rate = _unshifted(way, np.asarray(times, float), period)
    return total + way.ride.offset / 100 * way.length, rate


def _unshifted(way: Way, t: Floats, period: float | None) -> tuple[Floats, Floats]:
    """Return ``travelled`` with the offset left out."""
    pegs = way.ride.pegs
    marks = np.array([p.time for p in pegs])
    stops = np.array([way.distance(p.place) for p in pegs])
    rounds = np.zeros_like(t)
    if period is not None:
        rounds = np.floor((t - marks[0]) / period)
        t = t - rounds * period
    total, rate = np.full(t.shape, stops[0]), np.zeros(t.shape)
    if len(pegs) > 1:
        total, rate = _between(pegs, marks, stops, t, way.ride.never_backwards)
        if not way.loops:
            kept = np.clip(total, stops.min(), stops.max())
            total, rate = kept, np.where(kept == total, rate, 0.0)
    return total + rounds * (stops[-1] - stops[0]), rate


def _between(
    pegs: tuple[Peg, ...], marks: Floats, stops: Floats, t: Floats, forward_only: bool
) -> tuple[Floats, Floats]:
    k, value, rate = _shares(pegs, forward_only, t.tobytes())
    gain = np.diff(stops)[k]
    total = np.where(value == 1.0, stops[k + 1], stops[k] + value * gain)
    return np.where(t < marks[0], stops[0], total), rate * gain


@lru_cache(maxsize=1024)
def _shares(pegs: tuple[Peg, ...], forward_only: bool, times: bytes) -> tuple[NDArray[np.intp], Floats, Floats]:
    """Return for each time the section it lies in, the share of it that is covered, and the share a frame.

    The path has no say in this: while it is being shaped, all of it is known.
    """
    t = np.frombuffer(times)
    marks = np.array([p.time for p in pegs])
    k = np.clip(np.searchsorted(marks, t, side="right") - 1, 0, len(pegs) - 2)
    k = np.where((t == marks[k]) & (t == marks[-1]), len(pegs) - 2, k)
    x1, y1, x2, y2 = section_curves(pegs, forward_only)[k].T
    span = np.diff(marks)[k]
    u = np.clip((t - marks[k]) / span, 0.0, 1.0)
    value, slope = easing.ease(u, x1, y1, x2, y2)
    steps = np.array([{"none": 0, "start": 1, "end": 2}[p.step] for p in pegs[:-1]])[k]
    value = np.choose(steps, [value, np.ones_like(u), np.floor(u)])
    resting = (t < marks[0]) | (t > marks[-1]) | (steps > 0)
    found = k, value, np.where(resting, 0.0, slope / span)
    for array in found:
        array.setflags(write=False)
    return found


def section_curves(pegs: tuple[Peg, ...], forward_only: bool) -> Floats:
    """Return x1, y1, x2, y2 of each section (n - 1, 4).

    With ``forward_only`` a curve that would run back is flattened until it just does not: its
    handles' distances p = y1 and q = 1 - y2 shrink together. A monotone curve stays as it is.

    Source: the derivative, in Bernstein form p, 1 - p - q, q, has no negative value if p and q
            have none and p + q - sqrt(p q) <= 1.
    """
    rows = [(a.leave.time, a.leave.distance, 1 - b.arrive.time, 1 - b.arrive.distance) for a, b in pairwise(pegs)]
    curves = np.array(rows, float)
    if forward_only:
        p, q = np.maximum(curves[:, 1], 0.0), np.maximum(1 - curves[:, 3], 0.0)
        excess = np.maximum(p + q - np.sqrt(p * q), 1.0)
        held = (excess > 1) | (curves[:, 1] < 0) | (curves[:, 3] > 1)
        curves[held, 1], curves[held, 3] = (p / excess)[held], (1 - q / excess)[held]
    return curves


def is_limited(ride: Ride) -> bool:
    """Whether ``never backwards`` holds back a pace that would overshoot."""
    if not ride.never_backwards or len(ride.pegs) < 2:
        return False
    return not np.array_equal(section_curves(ride.pegs, True), section_curves(ride.pegs, False))


def evaluate(way: Way, times: ArrayLike, *, fps: float, period: float | None = None) -> Travel:
    """Evaluate a ride at ascending ``times`` (n,) in frames.

    Accuracy:   positions within 1e-9 x length of the true place; headings are the tangent's.
    Degenerate: while the rider rests, its heading is that of the side it came from, or before
                it ever moved of the side it leaves to.
    """
    return evaluate_all([way], times, fps=fps, periods=[period])[0]


def evaluate_all(
    ways: Sequence[Way],
    times: ArrayLike,
    *,
    fps: float,
    periods: Sequence[float | None],
    at: slice = slice(None),
) -> list[Travel]:
    """Evaluate several rides on one path with one rule for gaps, as ``evaluate``, in one go.

    With ``at`` only those of the times are told about; what they are depends on all of them.
    """
    times = np.asarray(times, float)
    measure = ways[0].measure
    known: dict[tuple[tuple[Peg, ...], bool, float | None], _Distances] = {}
    begun = [_distances(way, times, period, known).at(at, way) for way, period in zip(ways, periods, strict=True)]
    times = times[at]
    along, after = (np.concatenate([getattr(each, name) for each in begun]) for name in ("along", "after"))
    places = measure.locate(along, after)
    directions = measure.directions(places, after)
    found = []
    for row, (way, each, period) in enumerate(zip(ways, begun, periods, strict=True)):
        own = slice(row * len(times), (row + 1) * len(times))
        position, direction = places.position[own], directions[own] + np.where(each.forward, 0.0, np.pi)
        heading = np.unwrap((direction + np.pi) % (2 * np.pi) - np.pi)
        facing = _facing(way, times, position, heading, fps, period)
        upright = way.ride.facing.keep_upright and way.ride.facing.mode != "fixed"
        upside = np.where(np.cos(facing) < -1e-9, -1.0, 1.0) if upright else np.ones_like(facing)
        found.append(Travel(each.total, each.rate, each.along, position, heading, facing, upside))
    return found


@dataclass(frozen=True)
class _Distances:
    """How far a rider has come, laps counted on and within one lap; which way, and from which side."""

    total: Floats
    rate: Floats
    along: Floats
    forward: NDArray[np.bool_]
    after: NDArray[np.bool_]

    def at(self, rows: slice, way: Way) -> "_Distances":
        """Return some of them, the rider shifted along its path by its own offset."""
        total = self.total[rows] + way.ride.offset / 100 * way.length
        after = self.after[rows]
        return _Distances(total, self.rate[rows], _wrapped(total, way, after), self.forward[rows], after)


def _distances(
    way: Way,
    times: Floats,
    period: float | None,
    known: dict[tuple[tuple[Peg, ...], bool, float | None], _Distances],
) -> _Distances:
    """Return how far a rider has come, its offset left out, so that riders with the same pegs share it."""
    key = way.ride.pegs, way.ride.never_backwards, period
    if key not in known:
        total, rate = _unshifted(way, times, period)
        forward = _filled_forward(np.sign(rate)) > 0
        origin = way.distance(way.ride.pegs[0].place)
        moved = np.maximum.accumulate(np.abs(total - origin) > AT_NODE * way.length)
        leaving = ~moved & bool(np.any(rate != 0))
        known[key] = _Distances(total, rate, total, forward, forward == leaving)
    return known[key]


def _filled_forward(signs: Floats) -> Floats:
    """Replace zeros by the last sign before them, else the first after, else 1."""
    known = np.flatnonzero(signs)
    if not len(known):
        return np.ones_like(signs)
    before = np.searchsorted(known, np.arange(len(signs)), side="right") - 1
    filled: Floats = signs[known[np.maximum(before, 0)]]
    return filled


def _wrapped(total: Floats, way: Way, after: ArrayLike = False) -> Floats:
    """Return the distance along one lap; a whole lap is the path's end or, ``after``, its start."""
    if way.length == 0:
        return np.zeros_like(total)
    laps = np.floor(total / way.length)
    along = total - laps * way.length
    slack = AT_NODE * way.length
    up = along > way.length - slack
    laps, along = np.where(up, laps + 1, laps), np.where(up | (along < slack), 0.0, along)
    at_end = (along == 0.0) & ~np.asarray(after, bool) & ((laps >= 1) | way.loops)
    return np.where(at_end, way.length, along)


def _facing(way: Way, times: Floats, position: Floats, heading: Floats, fps: float, period: float | None) -> Floats:
    mode = way.ride.facing.mode
    if mode == "fixed":
        return np.zeros_like(heading)
    if mode == "reversed":
        return heading + np.pi
    if mode == "ahead":
        later, _ = travelled(way, times + way.ride.facing.ahead_s * fps, period)
        target = way.measure.locate(_wrapped(later, way)).position
        dx, dy = (target - position).T
        near = np.hypot(dx, dy) <= AT_NODE * max(way.length, 1.0)
        return np.unwrap(np.where(near, heading, np.arctan2(dy, dx)))
    return heading
