"""Arc length of a run of cubics and its inverse, for many distances at once."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from coaster.errors import GeometryError
from coaster.geometry import bezier
from coaster.geometry.bezier import Floats
from coaster.geometry.newton import guarded_step
from coaster.geometry.path import Gap, Subpath, travel_depths, travel_segments
from coaster.geometry.same import Same

NODES, WEIGHTS = np.polynomial.legendre.leggauss(16)
# From -1..1 to 0..1.
NODES, WEIGHTS = (NODES + 1) / 2, WEIGHTS / 2
LENGTH_TOLERANCE = 1e-12
"""A piece is halved until two halves agree with it to this, relative to the whole path."""
INVERSE_TOLERANCE = 1e-12
"""A place is found when the way up to it is right to this, relative to the whole path."""
AT_NODE = 1e-9
"""Distances this close to a node, relative to the length, count as on it."""
STILL = 1e-7
"""A derivative below this share of its segment's size counts as vanishing."""
DEEPEST, NEWTON_STEPS = 40, 60
FLAT = 2
"""Numbers of a point in one plane."""
MOST_PIECES, FEWEST_PIECES, PIECES_IN_ALL = 16, 2, 1024
"""Pieces a segment is cut into to begin with; paths of many segments need fewer for a good first
guess.
"""


_Pieces = tuple[NDArray[np.intp], Floats, Floats, Floats]


@dataclass(frozen=True)
class Places:
    """Where distances lie: the segment and the parameter on it; and the positions (n, 2), which are
    so ``deep`` (n,) behind the plane of the path, or (1,) where all of it lies in that.
    """

    segment: NDArray[np.intp]
    parameter: Floats
    position: Floats
    deep: Floats = field(default_factory=lambda: np.zeros(1))


class MeasuredPath:
    """A run of cubics measured once, asked often.

    Shapes:     ``segments`` (n, 4, 2), in order of travel; they need not be joined. ``depths``
                (n, 4) of their control points, where they are not all in one plane.
    Units:      scene px.
    Accuracy:   length and inverse within 1e-11 x length (estimated; 1e-9 is promised), cusps,
                loops and backtracking lines included.
    Degenerate: segments without length take no distance; a path without length has every
                distance at its start.
    Errors:     GeometryError: no segments, wrong shape, or not finite.
    Source:     Gauss-Legendre quadrature of |B'|, cut where |B'| is stationary and then halved
                until it agrees; inverse by table and guarded Newton steps.
    """

    def __init__(self, segments: ArrayLike, depths: Floats | None = None) -> None:
        self.segments: Floats = _checked(np.asarray(segments, float))
        self.depths = depths
        self._whole = self.segments
        if depths is not None:
            self._whole = np.concatenate([self.segments, depths[..., None]], axis=2)
        self._basis = bezier.velocity_basis(self._whole)
        # One row a coefficient: a query gathers whole columns of neighbouring numbers.
        self._columns = np.ascontiguousarray(self._basis.reshape(len(self._basis), -1).T)
        self._owner, self._begin, self._end, size = self._table()
        self._upto = np.concatenate([[0.0], np.cumsum(size)])
        self._leaving, self._arriving = self._paces(size)
        first_of = np.searchsorted(self._owner, np.arange(len(self.segments) + 1))
        self.starts: Floats = self._upto[first_of]
        """Distance at which each segment starts, and the whole length last: (n + 1,)."""
        self.length = float(self._upto[-1])

    def _speed(self, owner: NDArray[np.intp], t: Floats) -> Floats:
        return _sizes(bezier.velocity(self._basis[owner], t))

    def _integral(self, owner: NDArray[np.intp], begin: Floats, end: Floats) -> Floats:
        """Integrate |B'| from ``begin`` to ``end`` by one 16-point rule a query."""
        width = end - begin
        t = (
            begin + width * NODES[:, None]
        )  # (16, n): the long axis last keeps the arithmetic in step
        b = self._columns[:, owner]
        k = len(b) // 3  # two numbers a coefficient, or three
        x, y = b[0] + t * (b[k] + t * b[2 * k]), b[1] + t * (b[k + 1] + t * b[2 * k + 1])
        squares = x * x + y * y
        if k > FLAT:
            z = b[2] + t * (b[5] + t * b[8])
            squares += z * z
        size: Floats = width * (WEIGHTS @ np.sqrt(squares))
        return size

    def _table(self) -> "_Pieces":
        """Return pieces of the segments, in order, short enough for one rule each to be exact:
        which segment's, from and to which parameter, and how long, px.
        """
        owner, begin, end = self._pieces()
        rough = owner, begin, end, self._integral(owner, begin, end)
        limit = LENGTH_TOLERANCE * max(float(rough[3].sum()), np.finfo(float).tiny)
        exact = []
        for _ in range(DEEPEST):
            agreed, rough = self._halved(rough, limit)
            exact.append(agreed)
            if not len(rough[0]):
                break
        # What no halving brings into agreement is a cusp's last, tiny piece.
        owner, begin, end, size = _joined([*exact, rough])
        order = np.lexsort((begin, owner))
        return owner[order], begin[order], end[order], size[order]

    def _halved(self, pieces: "_Pieces", limit: float) -> tuple["_Pieces", "_Pieces"]:
        """Return the pieces whose halves agree with them, and the halves of the others."""
        owner, begin, end, size = pieces
        middle = (begin + end) / 2
        left = owner, begin, middle, self._integral(owner, begin, middle)
        right = owner, middle, end, self._integral(owner, middle, end)
        both = left[3] + right[3]
        agreed = np.abs(both - size) <= limit
        owner_left, *rest = _joined([[c[~agreed] for c in half] for half in (left, right)])
        return (owner[agreed], begin[agreed], end[agreed], both[agreed]), (owner_left, *rest)

    def _pieces(self) -> tuple[NDArray[np.intp], Floats, Floats]:
        """Return even pieces of the segments, cut also where the speed is least: there quadrature
        converges worst.
        """
        count = len(self.segments)
        pieces = min(max(PIECES_IN_ALL // count, FEWEST_PIECES), MOST_PIECES)
        even = np.tile(np.arange(pieces + 1) / pieces, (count, 1))
        slow = bezier.slowest_parameters(self._whole)
        cuts = np.sort(np.hstack([even, slow]), axis=1)
        owner = np.repeat(np.arange(count), cuts.shape[1] - 1)
        begin, end = cuts[:, :-1].ravel(), cuts[:, 1:].ravel()
        keep = end > begin
        return owner[keep], begin[keep], end[keep]

    def _paces(self, size: Floats) -> tuple[Floats, Floats]:
        """Return dt/ds at both ends of each piece, as multiples of its mean; 1 where that is no
        use.

        Between 0 and 3 they give a cubic through the ends that is monotone, a close first guess.
        """
        mean = (self._end - self._begin) * np.array(
            [self._speed(self._owner, t) for t in (self._begin, self._end)]
        )
        with np.errstate(divide="ignore", invalid="ignore"):
            paces = np.where(mean > 0, size / mean, np.inf)
        # Up to 3 the cubic through the ends is monotone (Fritsch and Carlson, 1980).
        usable = (paces < 3).all(axis=0)
        first, last = np.where(usable, paces, 1.0)
        return first, last

    def locate(self, distances: ArrayLike, after: ArrayLike = False) -> Places:
        """Return where each distance (px along the path, 0..length) lies.

        A distance on a node belongs to the segment that ends there or, where ``after``, to the
        one that starts there; the ends of the path to the only one they have. Distances outside
        0..length count as the nearest end.
        """
        s = self._snapped(np.clip(np.asarray(distances, float).ravel(), 0.0, self.length))
        piece = self._piece_at(s, np.asarray(after, bool))
        begin, end = self._upto[piece], self._upto[piece + 1]
        part = np.clip(_share(s - begin, end - begin), 0.0, 1.0)
        guess = _between_paces(part, self._leaving[piece], self._arriving[piece])
        t = self._newton(piece, s - begin, guess, (part > 0) & (part < 1))
        owner = self._owner[piece]
        return self._places(owner, t)

    def _places(self, owner: NDArray[np.intp], t: Floats) -> Places:
        found = bezier.points_at(self._whole[owner], t)
        if self.depths is None:
            return Places(owner, t, found)
        return Places(owner, t, np.ascontiguousarray(found[:, :2]), found[:, 2])

    def _piece_at(self, s: Floats, after: NDArray[np.bool_]) -> NDArray[np.intp]:
        """Return the piece of the table that each distance belongs to."""
        # At the very ends there is one segment only, whatever is asked for.
        late = np.broadcast_to(after, s.shape) | (s <= 0.0)
        late &= s < self.length
        right, left = (np.searchsorted(self._upto, s, side=side) for side in ("right", "left"))
        return np.asarray(np.clip(np.where(late, right, left) - 1, 0, len(self._owner) - 1))

    def at_start(self) -> Places:
        """Return the place that ``locate`` finds at 0, with far less ado."""
        after = int(np.searchsorted(self._upto, 0.0, side="right")) - 1
        piece = after if self.length else 0
        owner, t = self._owner[piece : piece + 1], self._begin[piece : piece + 1]
        return self._places(owner, t)

    def distance_at(self, segment: int, parameter: float) -> float:
        """Return the distance along the path (px) of one place on it."""
        first, _ = bezier.split(self._whole[segment], parameter)
        deep = None if self.depths is None else first[None, :, 2]
        return float(self.starts[segment]) + MeasuredPath(first[None, :, :2], deep).length

    def _snapped(self, s: Floats) -> Floats:
        near = np.clip(np.searchsorted(self.starts, s), 1, len(self.starts) - 1)
        for index in (near - 1, near):
            node = self.starts[index]
            s = np.where(np.abs(s - node) <= AT_NODE * self.length, node, s)
        return s

    def _newton(
        self, piece: NDArray[np.intp], wanted: Floats, guess: Floats, inside: NDArray[np.bool_]
    ) -> Floats:
        """Return the parameters at which ``wanted`` px of each piece are behind, where these lie
        ``inside`` it; every step stays bracketed. ``guess`` are shares of the pieces.
        """
        owner, begin, end = self._owner[piece], self._begin[piece], self._end[piece]
        low, high, t = begin.copy(), end.copy(), begin + guess * (end - begin)
        limit = INVERSE_TOLERANCE * max(self.length, np.finfo(float).tiny)
        active = np.flatnonzero(inside)
        for _ in range(NEWTON_STEPS):
            if not len(active):
                break
            now = t[active]
            error = self._integral(owner[active], begin[active], now) - wanted[active]
            high[active] = np.where(error > 0, now, high[active])
            low[active] = np.where(error > 0, low[active], now)
            slope = self._speed(owner[active], now)
            following = guarded_step(now, error, slope, low[active], high[active])
            open_still = (np.abs(error) > limit) & (following != now)
            t[active] = np.where(open_still, following, now)
            active = active[open_still]
        return t

    def directions(self, places: Places, after: ArrayLike = False) -> Floats:
        """Return the angle of the path at each place, radians clockwise from +x, in -pi..pi.

        Where the derivative vanishes it is the limit from before or, where ``after``, from after.
        """
        v = self._tangents(places, after)
        return np.asarray(np.arctan2(v[:, 1], v[:, 0]))

    def slopes(self, places: Places, after: ArrayLike = False) -> Floats:
        """Return by how much the path goes into depth at each place, radians, -pi/2..pi/2; limits
        as of ``directions``.
        """
        if self.depths is None:
            return np.zeros(len(places.parameter))
        v = self._tangents(places, after)
        return np.asarray(np.arctan2(v[:, 2], np.hypot(v[:, 0], v[:, 1])))

    def _tangents(self, places: Places, after: ArrayLike) -> Floats:
        after = np.broadcast_to(np.asarray(after, bool), places.parameter.shape)
        v = bezier.velocity(self._basis[places.segment], places.parameter)
        for row in np.flatnonzero(self._vanishes(v, places.segment)):
            segment, t = int(places.segment[row]), float(places.parameter[row])
            v[row] = self._limit(segment, t, 1 if after[row] else -1)
        return v

    def _vanishes(self, v: Floats, segment: NDArray[np.intp] | int) -> NDArray[np.bool_]:
        """Tell where B' on some segments is nothing beside the size of these."""
        size = np.abs(self._basis[segment]).max(axis=(-2, -1))
        return np.asarray(_sizes(v) <= STILL * size)

    def _limit(self, segment: int, t: float, side: int) -> Floats:
        """Return the tangent's limit at ``t`` from before (-1) or after (1), where B' vanishes."""
        if (t <= 0 and side < 0) or (t >= 1 and side > 0):
            beyond = segment + side
            if 0 <= beyond < len(self.segments):
                return self._end_tangent(beyond, 1.0 if side < 0 else 0.0)
            side = -side
        # Where B' vanishes, the second derivative tells the way, backwards before; else the third.
        basis = self._basis[segment]
        second: Floats = basis[1] + 2 * basis[2] * t
        if _sizes(second) > 1e-6 * np.abs(basis).max():
            return np.asarray(side * second)
        if _sizes(basis[2]) > 0:
            return np.asarray(basis[2])
        return self._tangent_beside(segment)

    def _tangent_beside(self, segment: int) -> Floats:
        """Return the tangent of the nearest segment that has a length, where it is nearest."""
        long = np.flatnonzero(np.diff(self.starts) > 0)
        if not len(long):
            return np.asarray(np.eye(self._whole.shape[2])[0])
        nearest = int(long[np.argmin(np.abs(long - segment))])
        return self._end_tangent(nearest, 0.0 if nearest > segment else 1.0)

    def _end_tangent(self, segment: int, t: float) -> Floats:
        v = bezier.velocity(self._basis[segment], np.array(t))
        return self._limit(segment, t, -1 if t >= 1 else 1) if self._vanishes(v, segment) else v


def _sizes(v: Floats) -> Floats:
    """Return how long vectors (..., 2) or (..., 3) are."""
    if v.shape[-1] == FLAT:
        return np.asarray(np.hypot(v[..., 0], v[..., 1]))
    return np.asarray(np.sqrt((v * v).sum(axis=-1)))


def _checked(segments: Floats) -> Floats:
    if segments.ndim != 3 or segments.shape[1:] != (4, 2) or not len(segments):
        raise GeometryError("A path needs at least one piece between two points.")
    if not np.isfinite(segments).all():
        raise GeometryError("A coordinate of the path is not a number.")
    return segments


def _joined(parts: Sequence[Sequence[Any]]) -> list[Any]:
    """Return columns put together from rows of their parts."""
    return [np.concatenate(column) for column in zip(*parts, strict=True)]


def _share(part: Floats, whole: Floats) -> Floats:
    """Return part / whole; 0 where there is nothing to have a part of."""
    return np.divide(part, whole, out=np.zeros_like(part), where=whole > 0)


def _between_paces(part: Floats, first: Floats, last: Floats) -> Floats:
    """Return the cubic from 0 to 1 with slopes ``first`` and ``last`` at ``part``
    (Hermite's form).
    """
    rest = 1 - part
    cubic: Floats = part * (rest * rest * first + part * (3 - 2 * part - rest * last))
    return cubic


def measure_of(subpaths: tuple[Subpath, ...], gap: Gap) -> tuple[MeasuredPath, tuple[int, ...]]:
    """Return the measured way along a path, and the segment that starts at each of its nodes.

    Degenerate: a path of one point is a single segment without length.
    """
    return _measured_same(Same(subpaths), gap)


@lru_cache(maxsize=256)
def _measured_same(
    same: Same[tuple[Subpath, ...]], gap: Gap
) -> tuple[MeasuredPath, tuple[int, ...]]:
    return _measured(same.value, gap)


@lru_cache(maxsize=256)
def _measured(subpaths: tuple[Subpath, ...], gap: Gap) -> tuple[MeasuredPath, tuple[int, ...]]:
    segments, starts = travel_segments(subpaths, gap)
    if not len(segments):
        point = np.array(subpaths[0].live[0].position, float)
        segments = np.tile(point, (1, 4, 1))
        deep = subpaths[0].live[0].z
        return MeasuredPath(segments, np.full((1, 4), deep) if deep else None), starts
    return MeasuredPath(segments, travel_depths(subpaths, gap)), starts
