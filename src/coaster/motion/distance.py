"""How far a ride has come along its path: in any frame, laps counted on, and from which side."""

from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from typing import Self

import numpy as np
from numpy.typing import ArrayLike, NDArray

from coaster.errors import UnknownId
from coaster.geometry.bezier import Floats
from coaster.geometry.measure import AT_NODE, measure_of
from coaster.geometry.path import Path
from coaster.geometry.same import Same
from coaster.motion import keys, sense
from coaster.motion.keys import Keys
from coaster.motion.letters import Spread
from coaster.motion.ride import AtNode, Peg, Place, Ride
from coaster.motion.sections import section_curves, shares
from coaster.motion.sense import Rows

Pegs = tuple[Peg, ...]


class Way:
    """A path as one ride passes over it: its measure, its nodes' distances, whether it loops.

    ``shift`` are keys in place of the ride's offset; by its ``spread`` a part of a text is farther
    on besides, without being turned round.
    """

    def __init__(
        self, path: Path, ride: Ride, shift: Keys = (), spread: Spread | None = None
    ) -> None:
        self.path, self.ride, self.shift, self.spread = path, ride, shift, spread
        self.measure, self._starts = measure_of(path.subpaths, ride.gap)
        self.loops = path.loops

    def with_pegs(self, pegs: Pegs) -> Self:
        """Return the same way with other pegs."""
        return type(self)(self.path, replace(self.ride, pegs=pegs), self.shift, self.spread)

    @property
    def length(self) -> float:
        return self.measure.length

    def node_distance(self, node_id: str) -> float:
        if node_id not in self._nodes:
            raise UnknownId(f"{self.path.name} has no node {node_id!r} to be pegged to.")
        return self._nodes[node_id]

    @cached_property
    def _nodes(self) -> dict[str, float]:
        starts = self.node_distances().tolist()
        return {node.id: start for node, start in zip(self.path.nodes(), starts, strict=True)}

    def node_distances(self) -> Floats:
        """Return where each node lies, in px from the path's start, in the order of the nodes."""
        return self.measure.starts[list(self._starts)]

    def is_unseen(self, along: Floats, travelled: Floats) -> NDArray[np.bool_]:
        """Tell where a rider is in a gap in which it hides, at distances (n,) on the path, or was
        shifted past the ends of it, having ``travelled`` so far (n,).
        """
        unseen = np.zeros(along.shape, bool)
        if self.ride.beyond == "hide" and not self.loops:
            slack = AT_NODE * self.length
            unseen = (travelled < -slack) | (travelled > self.length + slack)
        if self.ride.gap != "hide":
            return unseen
        for gap in self.gaps.tolist():
            unseen |= (along > self.measure.starts[gap]) & (along < self.measure.starts[gap + 1])
        return unseen

    @cached_property
    def gaps(self) -> NDArray[np.intp]:
        """Which of the segments that are passed over lead across a gap."""
        if self.ride.gap == "jump":
            return np.zeros(0, np.intp)
        pieces = np.cumsum([len(subpath.pairs()) for subpath in self.path.subpaths[:-1]], dtype=int)
        # Each gap before counts as a piece, too.
        return np.asarray(pieces + np.arange(len(pieces)), np.intp)

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
    # One that on the whole runs back meets the nodes in the other order: seen mirrored, it runs on.
    if come[-1] < come[0]:
        come, nodes = -come, -nodes
    slack = 1e-6 * max(way.length, 1.0)
    if way.loops and way.length:
        # On a loop the first time it comes by may be laps after 0: the first at or after where it
        # begins.
        nodes = nodes + np.ceil((come[0] - slack - nodes) / way.length) * way.length
    found = _first_at(np.maximum.accumulate(come), nodes, slack)
    return np.asarray(np.where(nodes < come[0] - slack, np.nan, found))


def passings(way: Way, node_id: str, length: int) -> list[float]:
    """Return all frames of a scene, with parts, at which a rider passes a node, whichever way.

    Accuracy: within a hundredth of a frame where its speed is even within that frame.
    Errors:   UnknownId: there is no such node.
    """
    period = period_of(way, length)
    gone = travelled(way, np.arange(length + 1.0), period)[0] - way.node_distance(node_id)
    lap, slack = way.length if way.loops else 0.0, AT_NODE * max(way.length, 1.0)
    # On which lap it is, counted from the node: where that changes, it passes.
    laps = np.floor((gone + slack) / lap) if lap else np.where(gone >= -slack, 0.0, -1.0)
    before = np.flatnonzero(np.diff(laps))
    meets = np.maximum(laps[before], laps[before + 1]) * lap
    found = [0.0] if abs(gone[0] - laps[0] * lap) <= slack else []
    found += (before + (meets - gone[before]) / (gone[before + 1] - gone[before])).tolist()
    # What comes round is at its end where it was at its start.
    return [each for each in found if period is None or each < length - 1e-6]


def frame_at_node(way: Way, node_id: str, length: int) -> int | None:
    """Return the frame of a scene at which a rider first comes to a node; None if it never does, or
    there is no such node.
    """
    ids = [node.id for node in way.path.nodes()]
    if node_id not in ids:
        return None
    total, _ = travelled(way, np.arange(length + 1.0), period_of(way, length))
    frame = passing(way, total)[ids.index(node_id)]
    return None if np.isnan(frame) else int(frame)


def _first_at(furthest: Floats, wanted: Floats, slack: float) -> Floats:
    """Return the frame nearest to where distances that only grow first reach each wanted one;
    nan where they never do.
    """
    frame = np.searchsorted(furthest, wanted - slack)
    here = np.clip(frame, 0, len(furthest) - 1)
    before = (here > 0) & (wanted - furthest[here - 1] < furthest[here] - wanted)
    return np.asarray(np.where(frame < len(furthest), here - before, np.nan))


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
    total, rate = _shifted(way, t, period)
    aside, gain = _aside(way, t)
    return total + aside, rate + gain


def _shifted(way: Way, times: Floats, period: float | None) -> tuple[Floats, Floats]:
    """Return how far its pegs and keys of its shift bring a rider, px, and px a frame."""
    total, rate = _unshifted(way, times, period)
    if not way.shift:
        return total, rate
    shift, gain = keys.values(way.shift, times)
    percent = way.length / 100
    return total + shift * percent, rate + gain * percent


def _aside(way: Way, times: Floats) -> tuple[Floats | float, Floats | float]:
    """Return how much farther on a rider is than that, px, and the change of it a frame."""
    offset = 0.0 if way.shift else way.ride.offset / 100 * way.length
    if way.spread is None:
        return offset, 0.0
    beyond, gain = way.spread.beyond(times)
    percent = way.length / 100
    return offset + beyond * percent, gain * percent


def _unshifted(way: Way, t: Floats, period: float | None) -> tuple[Floats, Floats]:
    """Return ``travelled`` by pegs alone."""
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
            # On an open path there is nothing beyond its ends that a pace could overshoot to.
            first, last = stops.min(), stops.max()
            kept = np.clip(total, first, last)
            outwards = ((kept == last) & (rate > 0)) | ((kept == first) & (rate < 0))
            # A ride that ends there comes to it at its speed.
            rests = (kept != total) | (outwards & (t < marks[-1]))
            total, rate = kept, np.where(rests, 0.0, rate)
    return total + rounds * (stops[-1] - stops[0]), rate


def _between(
    pegs: Pegs, marks: Floats, stops: Floats, t: Floats, forward_only: bool
) -> tuple[Floats, Floats]:
    k, value, rate = shares(pegs, forward_only, t.tobytes())
    gain = np.diff(stops)[k]
    # At its end a section is at the next peg to the last bit, so that no rider stops short of it.
    total = np.where(value == 1.0, stops[k + 1], stops[k] + value * gain)
    return np.where(t < marks[0], stops[0], total), rate * gain


def is_limited(ride: Ride) -> bool:
    """Whether ``never backwards`` holds back a pace that would overshoot."""
    if not ride.never_backwards or len(ride.pegs) < 2:
        return False
    return not np.array_equal(section_curves(ride.pegs, True), section_curves(ride.pegs, False))


@dataclass(frozen=True)
class Distances:
    """How far riders of one path have come in n frames, laps counted on and within one lap; which
    way, and from which side.

    Shapes: (k, n) each, for k riders.
    """

    total: Floats
    rate: Floats
    along: Floats
    forward: NDArray[np.bool_]
    after: NDArray[np.bool_]


def distances_of(
    ways: list[Way], times: Floats, periods: list[float | None], rows: Rows | None
) -> Distances:
    """Return how far riders of one path have come at ``times``, or at those of ``rows`` alone.

    Riders with the same pegs share most of it.
    """
    known: dict[tuple[Same[Pegs], Keys, bool, float | None], int] = {}
    gone, which = list[_Gone](), list[int]()
    for way, period in zip(ways, periods, strict=True):
        key = _alike(Same(way.ride.pegs)), way.shift, way.ride.never_backwards, period
        if key not in known:
            known[key] = len(gone)
            gone.append(_Progress(way, times, period).at(rows))
        which.append(known[key])
    total, rate, forward, after = (
        np.stack(parts)[which]
        for parts in zip(
            *((each.total, each.rate, each.forward, each.after) for each in gone), strict=True
        )
    )
    at = times if rows is None else times[rows]
    for i, way in enumerate(ways):
        aside, gain = _aside(way, at)
        total[i] += aside
        rate[i] += gain
    return Distances(total, rate, within(total, ways[0], after), forward, after)


def distances_abreast(
    way: Way, times: Floats, period: float | None, row: Rows, ahead: Floats
) -> Distances:
    """Return how far riders have come in one of the ``times``, the only one of ``row`` (1,), of
    which each does as one does, so many px ``ahead`` (k,) of it; (k, 1) each.
    """
    one = _Progress(way, times, period).at(row)
    aside, gain = _aside(way, times[row])
    total = one.total + aside + ahead[:, None]
    rate = np.broadcast_to(one.rate + gain, total.shape)
    forward, after = (np.broadcast_to(each, total.shape) for each in (one.forward, one.after))
    return Distances(total, rate, within(total, way, after), forward, after)


@lru_cache(maxsize=1024)
def _alike(pegs: Same[Pegs]) -> Same[Pegs]:
    """Return the same object for all pegs that are equal."""
    return _first_alike(pegs.value)


@lru_cache(maxsize=1024)
def _first_alike(pegs: Pegs) -> Same[Pegs]:
    return Same(pegs)


@dataclass(frozen=True)
class _Gone:
    """How far one rider has come in n frames, px and px a frame; whether forward, and whether the
    side after a place counts.
    """

    total: Floats
    rate: Floats
    forward: NDArray[np.bool_]
    after: NDArray[np.bool_]


class _Progress:
    """How far a rider has come in each of the frames 0..n - 1, but for an offset without keys."""

    def __init__(self, way: Way, times: Floats, period: float | None) -> None:
        self.way, self.times, self.period = way, times, period
        self.origin = way.distance(way.ride.pegs[0].place)
        self.span = 0, len(times) - 1
        if period is None and not way.shift:  # it rests before its first peg and after its last
            begin, end = np.searchsorted(times, [way.ride.start, way.ride.end])
            self.span = int(begin), min(int(end), len(times) - 1)

    def at(self, rows: Rows | None) -> _Gone:
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
        # Where it is, it came from one side; before it ever moved it is on the side it leaves to.
        return _Gone(
            total, rate, forward, np.where(left, self._came_back(rows, forward), forward & moves)
        )

    def _came_back(self, rows: Rows | None, forward: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """Whether it came to each of the rows running back, whichever way it goes on from there."""
        if not self._may_turn:
            return ~forward
        signs = self._signs_before(rows)
        came = (
            sense.filled(signs)
            if rows is None
            else sense.filled_at(rows, signs, self._signs_before, self.span)
        )
        return came < 0

    @cached_property
    def _may_turn(self) -> bool:
        stops = np.array([self.way.distance(peg.place) for peg in self.way.ride.pegs])
        gains = np.diff(stops)
        one_way = bool(np.all(gains >= 0) or np.all(gains <= 0))
        return not (one_way and self.way.ride.never_backwards and not self.way.shift)

    def moved(self, rows: Rows | None) -> tuple[Floats, Floats]:
        """Return how far it has come at some rows, px, and how fast, px a frame."""
        return self._moved_at(self.times if rows is None else self.times[rows])

    def _moved_at(self, times: Floats) -> tuple[Floats, Floats]:
        return _shifted(self.way, times, self.period)

    def _signs(self, rows: Rows) -> Floats:
        return np.asarray(np.sign(self.moved(rows)[1]))

    def _signs_before(self, rows: Rows | None) -> Floats:
        """Return which way it has gone in the frame before each of some rows."""
        # Not by the rate just before: a pace that overshoots the end of its path has none there.
        times = self.times if rows is None else self.times[rows]
        return np.asarray(np.sign(self._moved_at(times)[0] - self._moved_at(times - 1.0)[0]))

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
    # 0 and the whole length are one number of laps: which of the two is meant, the side and the lap
    # say.
    at_end = (along == 0.0) & ~np.asarray(after, bool) & ((laps >= 1) | way.loops)
    return np.where(at_end, way.length, along)
