"""A ride over time: where, how fast and which way, for every frame at once."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, fields, replace

import numpy as np
from numpy.typing import ArrayLike

from coaster.geometry import affine, depth
from coaster.geometry.bezier import Floats
from coaster.geometry.measure import AT_NODE
from coaster.motion.distance import (
    Distances,
    Way,
    distances_abreast,
    distances_of,
    period_of,
    travelled,
    within,
)
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
           ``deep`` is how far behind the plane of its path it is, ``dive`` by how much it goes
           farther back, ``bank`` by how much it leans into a curve, radians; each (1,) where it
           never does.
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
    deep: Floats = field(default_factory=lambda: np.zeros(1))
    dive: Floats = field(default_factory=lambda: np.zeros(1))
    bank: Floats = field(default_factory=lambda: np.zeros(1))

    def at(self, rows: Rows) -> "Travel":
        """Return some of the times."""
        found = {each.name: getattr(self, each.name) for each in fields(self)}
        return Travel(
            **{n: v if n in IN_DEPTH and len(v) == 1 else v[rows] for n, v in found.items()}
        )

    def between(self, before: Rows, share: Floats) -> "Travel":
        """Return moments that lie a ``share`` (n,) of the way from one time to the next; what is
        mirrored is so up to the next time.
        """
        found = {}
        for each in fields(self):
            values = getattr(self, each.name)
            if each.name in IN_DEPTH and len(values) == 1:
                found[each.name] = values
                continue
            if each.name == "upside":
                found[each.name] = values[before if len(values) > 1 else np.zeros_like(before)]
                continue
            part = share[:, None] if values.ndim > 1 else share
            # In this form it is exactly the one or the other where it is there.
            found[each.name] = (1.0 - part) * values[before] + part * values[before + 1]
        return Travel(**found)

    def angle(self, turn_deg: float) -> Floats:
        """Return the angle of the rider's front in degrees, turn included, unwrapped."""
        return np.degrees(self.facing) + turn_deg


IN_DEPTH = ("deep", "dive", "bank")
"""Of these one row stands for all where a path is flat."""
BANKS_OVER = 30.0
"""Px of the path on both sides over which it is told how tight a curve is."""
PUSH = 1000.0
"""Px/s² outwards at which what banks once leans by 45 degrees."""


def settles(way: Way) -> bool:
    """Whether a ride's place or facing follows late, so that each frame depends on those before."""
    return bool(way.ride.settle_s or way.ride.facing.settle_s)


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


def start_of(way: Way, length: int) -> Floats:
    """Return where a ride of a scene of this length begins on its path, (2,), in px of that."""
    period = period_of(way, length)
    (begun,) = evaluate_all([way], np.array([way.ride.start]), fps=1.0, periods=[period])
    return np.asarray(begun.rail[0])


def depth_at_start(way: Way, length: int) -> float:
    """Return how far behind the plane of its path a ride of a scene of this length begins, px."""
    period = period_of(way, length)
    (begun,) = evaluate_all([way], np.array([way.ride.start]), fps=1.0, periods=[period])
    return float(begun.deep[0])


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

    With ``rows`` (n,), ascending, only those of the times are told about, seen ``through`` maps of
    those alone; what they are depends on all of them, but angles may differ by whole turns. Rides
    that settle need all rows.
    """
    times = np.asarray(times, float)
    through = through or [None] * len(ways)
    gone = distances_of([*ways], times, [*periods], rows)
    times = times if rows is None else times[rows]
    spots, headings, (deep, dives) = _on_rail(ways[0], gone)
    rails = zip(spots, headings, deep, dives, strict=True)
    fars = zip(gone.total, gone.rate, gone.along, strict=True)
    each = zip(ways, periods, rails, fars, through, strict=True)
    return [
        _ridden(way, period, rail, far, _Seen(maps), times, fps)
        for way, period, rail, far, maps in each
    ]


def evaluate_abreast(
    way: Way,
    times: Floats,
    row: Rows,
    ahead: Floats,
    *,
    fps: float,
    period: float | None,
    through: Floats | None = None,
) -> Travel:
    """Evaluate riders in one of the times, the only one of ``row`` (1,), as ``evaluate_all`` does
    of which each is so many px ``ahead`` (k,) of a ride that ``goes_alike``; rows are theirs.
    """
    gone = distances_abreast(way, times, period, row, ahead)
    spots, headings, (deep, dives) = _on_rail(way, gone)
    rail, ways, sunk, down = spots[:, 0], headings[:, 0], deep[:, 0], dives[:, 0]
    far = gone.total[:, 0], gone.rate[:, 0], gone.along[:, 0]
    return _ridden(way, period, (rail, ways, sunk, down), far, _Seen(through), times[row], fps)


def goes_alike(way: Way) -> bool:
    """Whether a ride that is ahead of another one is told by that alone: where it stands and faces
    does not depend on where it was, will be or began.
    """
    ride = way.ride
    return not settles(way) and not ride.relative and ride.facing.mode not in ("ahead", "roll")


def _ridden(
    way: Way,
    period: float | None,
    on_rail: tuple[Floats, Floats, Floats, Floats],
    far: tuple[Floats, Floats, Floats],
    seen: "_Seen",
    times: Floats,
    fps: float,
) -> Travel:
    """Return the travel of a ride whose places, headings, depths and dives on its path are known,
    and how ``far`` it is (see ``_Stands``).
    """
    spots, ahead, deep, dives = on_rail
    late, loop = way.ride.settle_s * fps, period is not None
    # Softened where the rail is seen from its own group; what carries it must not soften along.
    rail, sunk = (settled(each, late, loop=loop) for each in (spots, deep))
    spot, sinks = seen.place(rail, sunk)
    heading, dive = seen.heading(ahead, dives)
    stands = _Stands(far, rail, ahead, spot, heading, seen)
    facing, upside = _turned(way, _facing(way, times, stands, fps, period), fps, period)
    travel = Travel(*far, rail, ahead, spot, heading, facing, upside, sinks, dive)
    return _leaning(travel, way, fps, loop=loop)


def _leaning(travel: Travel, way: Way, fps: float, *, loop: bool) -> Travel:
    """Return a travel with the lean into its curves, where it has any, as late as its facing."""
    facing = way.ride.facing
    if not facing.banks:
        return travel
    lean = _banked(way, travel.along, travel.rate * fps)
    return replace(travel, bank=settled(lean, facing.settle_s * fps, loop=loop))


def _banked(way: Way, along: Floats, speeds: Floats) -> Floats:
    """Return by how much a rider leans into the curve, radians (n,), where it is ``along`` its path
    at ``speeds`` in px/s. A curve is as tight as the path turns from ``BANKS_OVER`` before to as
    much after.
    """
    measure, period = way.measure, way.measure.length if way.path.loops else None
    ends = along[None, :] + np.array([[-BANKS_OVER], [BANKS_OVER]])
    # At the ends of an open path there is less of it.
    ends = np.clip(ends, 0.0, measure.length) if period is None else ends % max(period, 1e-9)
    before, after = (measure.directions(measure.locate(each)) for each in ends)
    turned = (after - before + np.pi) % (2 * np.pi) - np.pi
    over = np.abs(ends[1] - ends[0]) if period is None else np.full(len(along), 2 * BANKS_OVER)
    tight = np.divide(turned, over, out=np.zeros_like(turned), where=over > 0)
    # Whoever goes the other way turns the other way.
    push = tight * speeds * np.abs(speeds)
    return np.asarray(np.arctan(way.ride.facing.banks * push / PUSH))


def _on_rail(way: Way, gone: Distances) -> tuple[Floats, Floats, tuple[Floats, Floats]]:
    """Return places (k, n, 2) on a path, the directions of travel there (k, n), unwrapped; how deep
    these places are (k, n), and by how much it goes deeper there, radians, or (k, 1) where it never
    does.
    """
    after = gone.after.ravel()
    places = way.measure.locate(gone.along.ravel(), after)
    ahead = way.measure.directions(places, after).reshape(gone.along.shape)
    headings = _unwrapped(ahead + np.where(gone.forward, 0.0, np.pi))
    spots = places.position.reshape(*gone.along.shape, 2)
    if way.measure.depths is None:
        flat = np.zeros((len(spots), 1))
        return spots, headings, (flat, flat)
    dives = way.measure.slopes(places, after).reshape(gone.along.shape)
    deep = places.deep.reshape(gone.along.shape)
    return spots, headings, (deep, np.where(gone.forward, dives, -dives))


def _unwrapped(angles: Floats) -> Floats:
    """Return angles (..., n) that go on from one to the next without whole turns."""
    plain: Floats = (angles + np.pi) % (2 * np.pi) - np.pi
    return np.unwrap(plain) if plain.shape[-1] > 1 else plain


@dataclass(frozen=True)
class _Seen:
    """The px of the path as the rider's own group sees them: through maps (n, 6) or (1, 6), or
    where either has depth maps of space (n, 4, 4) or (1, 4, 4); or as they are.
    """

    maps: Floats | None

    def place(self, points: Floats, deep: Floats) -> tuple[Floats, Floats]:
        """Return places (n, 2) that are so ``deep``, (n,) or (1,), as they are seen."""
        if self.maps is None:
            return points, deep
        if self.maps.ndim == 2:
            return affine.apply_rows(self.maps, points), deep
        found = depth.places(self.maps, _with(points, deep))
        return found[:, :2], found[:, 2]

    def heading(self, angles: Floats, dives: Floats) -> tuple[Floats, Floats]:
        """Return unwrapped directions (n,) and by how much they go deeper, (n,) or (1,), as they
        are seen, unwrapped.
        """
        if self.maps is None:
            return angles, dives
        along = np.stack([np.cos(angles), np.sin(angles)], axis=1)
        if self.maps.ndim == 2:
            # Directions are turned and sheared with a group, but not moved.
            linear = np.concatenate([self.maps[:, :4], np.zeros((len(self.maps), 2))], axis=1)
            x, y = affine.apply_rows(linear, along).T
            return _unwrapped(np.arctan2(y, x)), dives
        turned = self.maps.copy()
        turned[:, :3, 3] = 0.0
        x, y, z = depth.places(turned, _with(along, np.tan(dives))).T
        return _unwrapped(np.arctan2(y, x)), np.arctan2(z, np.hypot(x, y))


def _with(points: Floats, deep: Floats) -> Floats:
    """Return places (n, 3) of points (n, 2) that are so deep, (n,) or (1,)."""
    return np.column_stack([points, np.broadcast_to(deep, len(points))])


@dataclass(frozen=True)
class _Stands:
    """Where a rider is, before it is known which way it faces; ``far`` how far it is, px, by how
    much it gets on in a frame, and where within one lap.
    """

    far: tuple[Floats, Floats, Floats]
    rail: Floats
    rail_heading: Floats
    position: Floats
    heading: Floats
    seen: _Seen

    @property
    def travelled(self) -> Floats:
        return self.far[0]


def looking_at(
    travel: Travel, way: Way, target: Floats, *, fps: float, period: float | None = None
) -> Travel:
    """Return a travel whose rider faces ``target`` (n, 2) or (2,), px, settled as its facing says.

    Degenerate: on the target itself the rider faces along its path.
    """
    dx, dy = (target - travel.position).T
    # There is no direction to where one is already.
    near = np.hypot(dx, dy) < 1e-6
    facing = np.unwrap(np.where(near, travel.heading, np.arctan2(dy, dx)))
    facing, upside = _turned(way, facing, fps, period)
    return replace(travel, facing=facing, upside=upside)


def _turned(way: Way, facing: Floats, fps: float, period: float | None) -> tuple[Floats, Floats]:
    """Return a facing settled, and -1 where the rider is to be mirrored to stay upright."""
    settle = way.ride.facing.settle_s * fps
    if settle and period is not None:
        # Round the loop a corner at its start is one like any other: whole turns from lap to lap.
        turns = np.round((facing[-1] - facing[0]) / math.tau)
        facing = np.append(facing[:-1], facing[0] + turns * math.tau)
    facing = settled(facing, settle, loop=period is not None)
    if not way.ride.facing.keep_upright or way.ride.facing.mode in ("fixed", "roll"):
        return facing, np.ones_like(facing)
    return facing, np.where(np.cos(facing) < -1e-9, -1.0, 1.0)


def _facing(way: Way, times: Floats, gone: _Stands, fps: float, period: float | None) -> Floats:
    """Return where the front points, radians, unwrapped; ``target`` is told later (see
    ``looking_at``).
    """
    facing, heading = way.ride.facing, gone.heading
    if facing.mode == "fixed":
        return np.zeros_like(heading)
    if facing.mode == "reversed":
        return heading + np.pi
    if facing.mode == "ahead":
        # Ahead in time, not along the path: a slow rider looks less far.
        later, _ = travelled(way, times + facing.ahead_s * fps, period)
        there = way.measure.locate(within(later, way))
        target, _ = gone.seen.place(there.position, there.deep)
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
        # From 350 to 10 degrees by 20, not by 340 the other way.
        angles = np.unwrap(angles)
    if not way.loops or not way.length:
        return np.asarray(np.interp(total, at, angles))
    # Whole turns between the last angle and the first go on from lap to lap.
    laps = np.floor((total - at[0]) / way.length)
    return np.asarray(
        np.interp(total - laps * way.length, at, angles) + laps * (angles[-1] - angles[0])
    )
