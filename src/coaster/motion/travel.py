"""A ride over time: how far, where, how fast and which way, for every frame at once."""

from collections.abc import Sequence
from dataclasses import dataclass, field, fields, replace

import numpy as np
from numpy.typing import ArrayLike, NDArray

from coaster.errors import UnknownId
from coaster.geometry import affine
from coaster.geometry.bezier import Floats
from coaster.geometry.measure import AT_NODE, measured
from coaster.geometry.path import Path
from coaster.motion import keys, sense
from coaster.motion.keys import Keys
from coaster.motion.ride import AtNode, Peg, Place, Ride
from coaster.motion.sections import section_curves, shares
from coaster.motion.sense import Rows
from coaster.motion.settle import settled


@dataclass(frozen=True)
class Travel:
    """What a ride does at each of n times.

    Units: px, px per frame, radians. ``travelled`` counts on over laps; ``heading`` is the
           direction of travel and ``facing`` where the rider's front points before its turn,
           both unwrapped over time; ``upside`` is -1 where keep-upright mirrors the rider.
           ``rail`` and ``rail_heading`` are place and direction on the path in the path's own px,
           ``position`` and ``heading`` the same in the rider's group, where that is another one.
    """

    travelled: Floats
    rate: Floats
    along: Floats
    rail: Floats
    rail_heading: Floats
    position: Floats
    heading: Floats
    facing: Floats
    upside: Floats = field(default_factory=lambda: np.ones(1))

    def at(self, rows: Rows) -> "Travel":
        """Return some of the times."""
        return Travel(**{each.name: getattr(self, each.name)[rows] for each in fields(self)})

    def angle(self, turn_deg: float) -> Floats:
        """Return the angle of the rider's front in degrees, turn included, unwrapped."""
        return np.degrees(self.facing) + turn_deg


class Way:
    """A path as one ride passes over it: its measure, its nodes' distances, whether it loops.

    ``shift`` are keys in place of the ride's offset.
    """

    def __init__(self, path: Path, ride: Ride, shift: Keys = ()) -> None:
        self.path, self.ride, self.shift = path, ride, shift
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
    t = np.asarray(times, float)
    total, rate = _unshifted(way, t, period)
    shift, gain = _shift(way, t)
    return total + shift, rate + gain


def _shift(way: Way, times: Floats) -> tuple[Floats | float, Floats | float]:
    """Return by how much a rider is shifted along its path, px, and the change of that a frame."""
    if not way.shift:
        return way.ride.offset / 100 * way.length, 0.0
    percent, rate = keys.values(way.shift, times)
    return percent / 100 * way.length, rate / 100 * way.length


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
    k, value, rate = shares(pegs, forward_only, t.tobytes())
    gain = np.diff(stops)[k]
    total = np.where(value == 1.0, stops[k + 1], stops[k] + value * gain)
    return np.where(t < marks[0], stops[0], total), rate * gain


def is_limited(ride: Ride) -> bool:
    """Whether ``never backwards`` holds back a pace that would overshoot."""
    if not ride.never_backwards or len(ride.pegs) < 2:
        return False
    return not np.array_equal(section_curves(ride.pegs, True), section_curves(ride.pegs, False))


def evaluate(
    way: Way,
    times: ArrayLike,
    *,
    fps: float,
    period: float | None = None,
    through: Floats | None = None,
) -> Travel:
    """Evaluate a ride at ascending ``times`` (n,) in frames, seen ``through`` maps (n, 6) of its
    path's px.

    Accuracy:   positions within 1e-9 x length of the true place; headings are the tangent's.
    Degenerate: while the rider rests, its heading is that of the side it came from, or before
                it ever moved of the side it leaves to.
    """
    return evaluate_all([way], times, fps=fps, periods=[period], through=[through])[0]


def evaluate_all(
    ways: Sequence[Way],
    times: ArrayLike,
    *,
    fps: float,
    periods: Sequence[float | None],
    rows: Rows | None = None,
    through: Sequence[Floats | None] | None = None,
) -> list[Travel]:
    """Evaluate several rides on one path with one rule for gaps, as ``evaluate``, in one go.

    With ``rows`` (n,), ascending, only those of the times are told about; what they are depends
    on all of them, but angles may differ by whole turns.
    """
    times = np.asarray(times, float)
    through = through or [None] * len(ways)
    if rows is not None and any(way.ride.settle_s or way.ride.facing.settle_s for way in ways):
        whole = evaluate_all(ways, times, fps=fps, periods=periods, through=through)
        return [each.at(rows) for each in whole]
    measure = ways[0].measure
    known: _Known = {}
    begun = [
        _distances(way, times, period, known, rows)
        for way, period in zip(ways, periods, strict=True)
    ]
    times = times if rows is None else times[rows]
    along, after = (
        np.concatenate([getattr(each, name) for each in begun]) for name in ("along", "after")
    )
    places = measure.locate(along, after)
    directions = measure.directions(places, after)
    found = []
    for number, (way, each, period) in enumerate(zip(ways, begun, periods, strict=True)):
        own = slice(number * len(times), (number + 1) * len(times))
        direction = directions[own] + np.where(each.forward, 0.0, np.pi)
        rail = settled(places.position[own], way.ride.settle_s * fps, loop=period is not None)
        seen = _Seen.through(through[number], rows)
        gone = _travelled(each, rail, direction, seen)
        gone = replace(gone, facing=_facing(way, times, gone, fps, period, seen))
        found.append(_turned(gone, way, fps, period))
    return found


def _travelled(begun: "_Distances", rail: Floats, direction: Floats, seen: "_Seen") -> Travel:
    """Return a travel that faces along: places (n, 2) and directions (n,) on the rail, and as they
    are seen.
    """
    rail_heading = _unwrapped(direction)
    heading = rail_heading if seen.maps is None else _unwrapped(seen.direction(direction))
    way = begun.total, begun.rate, begun.along
    return Travel(*way, rail, rail_heading, seen.place(rail), heading, heading)


def _unwrapped(angles: Floats) -> Floats:
    return np.unwrap((angles + np.pi) % (2 * np.pi) - np.pi)


@dataclass(frozen=True)
class _Seen:
    """The px of the path as the rider's own group sees them: through maps (n, 6) or (1, 6), or as
    they are.
    """

    maps: Floats | None

    @staticmethod
    def through(maps: Floats | None, rows: Rows | None) -> "_Seen":
        return _Seen(maps if maps is None or rows is None or len(maps) == 1 else maps[rows])

    def place(self, points: Floats) -> Floats:
        return points if self.maps is None else affine.apply_rows(self.maps, points)

    def direction(self, angles: Floats) -> Floats:
        if self.maps is None:
            return angles
        linear = np.concatenate([self.maps[:, :4], np.zeros((len(self.maps), 2))], axis=1)
        x, y = affine.apply_rows(linear, np.stack([np.cos(angles), np.sin(angles)], axis=1)).T
        return np.asarray(np.arctan2(y, x))


def looking_at(
    travel: Travel, way: Way, target: Floats, *, fps: float, period: float | None = None
) -> Travel:
    """Return a travel whose rider faces ``target`` (n, 2) or (2,), px, settled as its facing says.

    Degenerate: on the target itself the rider faces along its path.
    """
    dx, dy = (target - travel.position).T
    near = np.hypot(dx, dy) < 1e-6
    facing = np.unwrap(np.where(near, travel.heading, np.arctan2(dy, dx)))
    return _turned(replace(travel, facing=facing), way, fps, period)


def _turned(travel: Travel, way: Way, fps: float, period: float | None) -> Travel:
    """Settle the facing, and say where it is to be kept upright."""
    facing, settle = travel.facing, way.ride.facing.settle_s * fps
    if settle and period is not None:
        # Round the loop a corner at its start is one like any other: whole turns from lap to lap.
        turns = np.round((facing[-1] - facing[0]) / (2 * np.pi))
        facing = np.append(facing[:-1], facing[0] + turns * 2 * np.pi)
    facing = settled(facing, settle, loop=period is not None)
    upright = way.ride.facing.keep_upright and way.ride.facing.mode not in ("fixed", "roll")
    upside = np.where(np.cos(facing) < -1e-9, -1.0, 1.0) if upright else np.ones_like(facing)
    return replace(travel, facing=facing, upside=upside)


@dataclass(frozen=True)
class _Distances:
    """How far a rider has come, laps counted on and within one lap; which way, and from
    which side.
    """

    total: Floats
    rate: Floats
    along: Floats
    forward: NDArray[np.bool_]
    after: NDArray[np.bool_]


_Known = dict[tuple[tuple[Peg, ...], Keys, bool, float | None], _Distances]


def _distances(
    way: Way, times: Floats, period: float | None, known: _Known, rows: Rows | None
) -> _Distances:
    """Return how far a rider has come; riders with the same pegs share most of it."""
    key = way.ride.pegs, way.shift, way.ride.never_backwards, period
    if key not in known:
        known[key] = _Course(way, times, period).at(rows)
    found = known[key]
    total = found.total if way.shift else found.total + way.ride.offset / 100 * way.length
    return replace(found, total=total, along=within(total, way, found.after))


class _Course:
    """How far a rider has come in each of the frames 0..n - 1, but for an offset without keys."""

    def __init__(self, way: Way, times: Floats, period: float | None) -> None:
        self.way, self.times, self.period = way, times, period
        self.origin = way.distance(way.ride.pegs[0].place)
        self.span = 0, len(times) - 1
        if period is None and not way.shift:  # it rests before its first peg and after its last
            begin, end = np.searchsorted(times, [way.ride.start, way.ride.end])
            self.span = int(begin), min(int(end), len(times) - 1)

    def at(self, rows: Rows | None) -> _Distances:
        """Return all of it at some rows, as it is where all of them are worked out."""
        total, rate = self.moved(rows)
        signs = np.sign(rate)
        if rows is None:
            forward = sense.filled(signs) > 0
            left = np.maximum.accumulate(self._away(total))
            moves = bool(np.any(signs))
        else:
            forward = sense.filled_at(rows, signs, self._signs, self.span) > 0
            left = self._left(rows, total)
            moves = bool(np.any(signs)) or self._moves()
        return _Distances(total, rate, total, forward, forward == (~left & moves))

    def moved(self, rows: Rows | None) -> tuple[Floats, Floats]:
        """Return how far it has come at some rows, px, and how fast, px a frame."""
        times = self.times if rows is None else self.times[rows]
        total, rate = _unshifted(self.way, times, self.period)
        if not self.way.shift:
            return total, rate
        shift, gain = _shift(self.way, times)
        return total + shift, rate + gain

    def _signs(self, rows: Rows) -> Floats:
        return np.asarray(np.sign(self.moved(rows)[1]))

    def _moves(self) -> bool:
        found = sense.first_where(
            lambda rows: self._signs(rows) != 0, self.span[0], self.span[1] + 1
        )
        return found is not None

    def _away(self, total: Floats) -> NDArray[np.bool_]:
        return np.abs(total - self.origin) > AT_NODE * self.way.length

    def _left(self, rows: Rows, total: Floats) -> NDArray[np.bool_]:
        """Whether a rider has been away from where it began, at each of the rows."""
        away = self._away(total)
        if np.all(away):
            return away
        first = sense.first_where(
            lambda some: self._away(self.moved(some)[0]), self.span[0], self.span[1] + 1
        )
        return rows >= (len(self.times) if first is None else first)


def within(total: Floats, way: Way, after: ArrayLike = False) -> Floats:
    """Return distances (n,), laps counted on, along one lap; a whole lap is the path's end or,
    ``after``, its start.
    """
    if way.length == 0:
        return np.zeros_like(total)
    laps = np.floor(total / way.length)
    along = total - laps * way.length
    slack = AT_NODE * way.length
    up = along > way.length - slack
    laps, along = np.where(up, laps + 1, laps), np.where(up | (along < slack), 0.0, along)
    at_end = (along == 0.0) & ~np.asarray(after, bool) & ((laps >= 1) | way.loops)
    return np.where(at_end, way.length, along)


def _facing(
    way: Way, times: Floats, gone: Travel, fps: float, period: float | None, seen: _Seen
) -> Floats:
    """Return where the front points, radians, unwrapped; ``target`` is told later (see
    ``looking_at``).
    """
    facing, heading = way.ride.facing, gone.heading
    if facing.mode == "fixed":
        return np.zeros_like(heading)
    if facing.mode == "reversed":
        return heading + np.pi
    if facing.mode == "ahead":
        later, _ = travelled(way, times + facing.ahead_s * fps, period)
        target = seen.place(way.measure.locate(within(later, way)).position)
        dx, dy = (target - gone.position).T
        near = np.hypot(dx, dy) <= AT_NODE * max(way.length, 1.0)
        return np.unwrap(np.where(near, heading, np.arctan2(dy, dx)))
    if facing.mode == "nodes":
        return _by_node(way, gone.travelled)
    if facing.mode == "roll":
        start, _ = travelled(way, [0.0], period)
        origin = way.measure.locate(within(start, way)).position[0]
        axis = 0 if facing.axis == "x" else 1
        return np.asarray(np.radians((gone.rail[:, axis] - origin[axis]) * facing.per_px))
    return heading


def _by_node(way: Way, total: Floats) -> Floats:
    """Return the angle blended between those at nodes, in proportion to the distance between them.

    The shorter way round unless they are counted; on a loop, the last goes on to the first.
    """
    stands = {
        node.id: float(d) for node, d in zip(way.path.nodes(), way.node_distances(), strict=True)
    }
    told = sorted(
        (stands[a.node], float(np.radians(a.angle)))
        for a in way.ride.facing.angles
        if a.node in stands
    )
    if not told:
        return np.zeros_like(total)
    at, angles = np.array(told).T
    if way.loops:
        at, angles = np.append(at, at[0] + way.length), np.append(angles, angles[0])
    if not way.ride.facing.counted:
        angles = np.unwrap(angles)
    if not way.loops or not way.length:
        return np.asarray(np.interp(total, at, angles))
    laps = np.floor((total - at[0]) / way.length)
    return np.asarray(
        np.interp(total - laps * way.length, at, angles) + laps * (angles[-1] - angles[0])
    )
