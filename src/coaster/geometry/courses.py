"""Smooth curves through hand-drawn samples: few nodes, none farther off than allowed,
corners kept.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coaster.geometry import bezier
from coaster.geometry.bezier import Floats
from coaster.geometry.fitting import fit_cubics
from coaster.geometry.path import Node, Subpath, node_kind

PER_SPAN, PER_FINAL = 12, 40
"""Samples of a span that a trial fit looks at, and the last one."""
ROUNDS = 3
MARGIN = 1.0
"""Share of the tolerance that a trial, which sees a part of the samples, may use up."""
FARTHEST = 1000
"""Candidates that one span may pass over."""
Ints = NDArray[np.intp]


@dataclass(frozen=True)
class Course:
    """A fitted curve: its run, and for each sample its distance from the curve and its place on it.

    Units: px. ``deviation`` is the largest distance of a sample; ``segment`` and ``parameter`` say
           where on the curve each sample is nearest; ``corners`` are the samples kept as corners.
    """

    run: Subpath
    off: Floats
    segment: Ints
    parameter: Floats
    corners: Ints

    @property
    def deviation(self) -> float:
        return float(self.off.max(initial=0.0))

    def away(self, points: Floats) -> Floats:
        """Return how far other points (n, 2) are, each from the piece its sample is on: at least
        the distance.
        """
        found: Floats = _nearest(points, self.run.segments(), self.segment)[1]
        return found

    @property
    def rms(self) -> float:
        return float(np.sqrt(np.mean(self.off**2))) if len(self.off) else 0.0


def tremor(points: Floats, times: Floats | None = None) -> float:
    """Return the size of the tremor in samples (n, 2): its standard deviation, px an axis.

    Accuracy: within a third for tremor of 8 Hz or faster of 0.3 px or more, in takes of a second or
    longer.
              What is left when local cubics over 0.2 s are taken off, of the calmer half of the
              take.
    Source:   Savitzky and Golay, 'Smoothing and differentiation of data' (1964).
    """
    n = len(points)
    rate = (
        120.0
        if times is None or len(times) < 2
        else (n - 1) / max(float(times[-1] - times[0]), 1e-9)
    )
    half = int(np.clip(round(0.1 * rate), 3, 40))
    if n < 2 * half + 3:
        return 0.0
    u = np.arange(-half, half + 1) / half
    basis = np.stack([u**k for k in range(4)], axis=1)
    weights = basis @ np.linalg.solve(basis.T @ basis, basis[half])
    left = np.stack(
        [points[half:-half, k] - np.convolve(points[:, k], weights[::-1], "valid") for k in (0, 1)],
        axis=1,
    )
    size = np.hypot(left[:, 0], left[:, 1])
    # Half of a two-dimensional normal lies within 1.1774 standard deviations; the fit has taken
    # some of it.
    return float(np.median(size) / 1.1774 / np.sqrt(1 - weights[half]))


def steadied(points: Floats, reach: float, corners: Ints, *, closed: bool = False) -> Floats:
    """Return samples (n, 2) moved to the local quadratics of those within ``reach`` px along the
    way.

    Corners and ends stay.
    """
    if reach <= 0 or len(points) < 4:
        return points
    line = _Line(points, corners, reach, closed=closed)
    out = line.at(np.arange(len(points)))[0]
    out[corners] = points[corners]
    if not closed:
        out[[0, -1]] = points[[0, -1]]
    return out


def corners_of(points: Floats, angle_deg: float, shake: float) -> Ints:
    """Return the samples at which the way turns sharply, by more than an angle (degrees), in order.

    The directions before and after are taken over a stretch of way and over half of it: a corner
    turns as much over both, a curve by half.
    """
    if len(points) < 7:
        return np.zeros(0, np.intp)
    along = _way(points)
    steps = np.diff(along)
    stretch = max(
        20.0, 16.0 * shake, 4.0 * float(np.median(steps[steps > 0])) if np.any(steps > 0) else 0.0
    )
    sums = np.concatenate([np.zeros((1, 2)), np.cumsum(points, axis=0)])
    wide, near = (_turn(along, sums, points, stretch * k) for k in (1.0, 0.5))
    # Strong tremor turns the way by itself: a corner has to turn by so much more.
    own = 8.0 * shake / max(stretch, 1e-9)
    limit = np.radians(angle_deg) + (0.3 * np.arctan(own) if own > 0.25 else 0.0)
    sharp = (wide >= limit) & (near >= 0.72 * wide) & (near >= limit * 0.8)
    sharp &= (along > stretch / 2) & (along < along[-1] - stretch / 2)
    score = np.where(sharp, wide + near, 0.0)
    found: list[int] = []
    for i in np.argsort(-score, kind="stable"):
        if score[i] <= 0 or len(found) > len(points):
            break
        if all(abs(along[i] - along[j]) > stretch for j in found):
            found.append(int(i))
    return np.array(sorted(found), np.intp)


def _turn(along: Floats, sums: Floats, points: Floats, stretch: float) -> Floats:
    """Return by how much the way turns at each sample, radians, between the stretches before and
    after it.
    """
    n = len(along)

    def mean(low: Floats, high: Floats) -> Floats:
        a = np.searchsorted(along, low, side="left")
        b = np.maximum(np.searchsorted(along, high, side="right"), a + 1)
        a, b = np.minimum(a, n - 1), np.minimum(b, n)
        return np.asarray((sums[b] - sums[a]) / (b - a)[:, None])

    half = stretch / 2
    before = points - mean(along - stretch, along - half)
    after = mean(along + half, along + stretch) - points
    cross = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    return np.asarray(np.abs(np.arctan2(cross, np.einsum("ij,ij->i", before, after))))


def _way(points: Floats) -> Floats:
    """Return how far along the way each sample lies; tremor counts little, as every third sample is
    measured.
    """
    steps = np.hypot(*np.diff(points, axis=0).T)
    if len(points) > 12:
        three = points[3:] - points[:-3]
        smooth = np.hypot(three[:, 0], three[:, 1]) / 3
        padded = np.concatenate([smooth[:1], smooth, smooth[-1:]])
        steps = np.minimum(steps, np.maximum(padded[: len(steps)], 0.2 * steps))
    return np.concatenate([[0.0], np.cumsum(np.maximum(steps, 1e-9))])


class _Line:
    """Samples with local quadratics over the way, between corners; asked for places and
    directions.
    """

    def __init__(self, points: Floats, corners: Ints, reach: float, *, closed: bool) -> None:
        self.closed = closed and not len(corners)
        self.count = len(points)
        if self.closed:
            # Round the loop what comes before the start is what is before the end.
            points = np.concatenate([points[:-1], points, points[1:]])
            self.shift = self.count - 1
        else:
            self.shift = 0
        self.points, self.reach = points, reach
        self.along = _way(points)
        marks = np.array(
            [0, *(c + self.shift for c in corners if 0 < c < self.count - 1), len(points) - 1]
        )
        self.marks = np.unique(marks)
        # Sums of powers about a place in the middle of each window would cancel less; about the
        # piece's start is enough with the way measured from the window's own middle, so sums are
        # taken of the way in units of the reach.
        self.unit = self.along / max(reach, 1e-9)

    def at(self, index: Ints, side: int = 0) -> tuple[Floats, Floats]:
        """Return places (m, 2) and unit directions (m, 2) at samples; ``side`` -1 looks back only,
        1 ahead only.
        """
        i = np.asarray(index) + self.shift
        piece = np.clip(np.searchsorted(self.marks, i, side="right") - 1, 0, len(self.marks) - 2)
        if side < 0:
            piece = np.clip(np.searchsorted(self.marks, i, side="left") - 1, 0, len(self.marks) - 2)
        low, high = self.marks[piece], self.marks[piece + 1]
        here = self.along[i]
        a = np.maximum(np.searchsorted(self.along, here - self.reach, side="left"), low)
        b = np.minimum(np.searchsorted(self.along, here + self.reach, side="right") - 1, high)
        # At least five samples, as far as the piece has them.
        a, b = np.maximum(np.minimum(a, i - 2), low), np.minimum(np.maximum(b, i + 2), high)
        return self._quadratic(i, a, b)

    def _quadratic(self, i: Ints, a: Ints, b: Ints) -> tuple[Floats, Floats]:
        width = int((b - a).max()) + 1
        stride = max(1, width // 40)  # some forty samples tell as much as hundreds
        offsets = np.arange(0, width, stride)
        rows = a[:, None] + offsets
        valid = rows <= b[:, None]
        rows = np.minimum(rows, b[:, None])
        u = (self.along[rows] - self.along[i][:, None]) / self.reach
        weight = np.where(valid, np.maximum(1 - (u / 1.2) ** 2, 0.05), 0.0)
        p = self.points[rows] - self.points[i][:, None]
        powers = [np.einsum("mk,mk->m", weight, u**k) for k in range(5)]
        s0, s1, s2, s3, s4 = powers
        t0, t1, t2 = (np.einsum("mk,mkd->md", weight * u**k, p) for k in range(3))
        ridge = 1e-9 * np.maximum(s0, 1.0)
        m = np.stack(
            [
                np.stack([s0 + ridge, s1, s2], 1),
                np.stack([s1, s2 + ridge, s3], 1),
                np.stack([s2, s3, s4 + ridge], 1),
            ],
            1,
        )
        few = valid.sum(axis=1) < 4
        m[few, 2, 2] += 1e6
        c = np.linalg.solve(m, np.stack([t0, t1, t2], 1))
        size = np.hypot(c[:, 1, 0], c[:, 1, 1])
        chord = self.points[b] - self.points[a]
        length = np.hypot(chord[:, 0], chord[:, 1])
        flat = size < 1e-9
        way = np.where(
            flat[:, None],
            chord / np.where(length > 0, length, 1.0)[:, None],
            c[:, 1] / np.where(flat, 1.0, size)[:, None],
        )
        way[np.hypot(way[:, 0], way[:, 1]) < 0.5] = (1.0, 0.0)
        return self.points[i] + c[:, 0], way


@dataclass
class _Knots:
    """Places where nodes may be: at which sample, where, and which way the curve goes before and
    after.
    """

    sample: Ints
    place: Floats
    into: Floats
    out: Floats

    def with_more(self, sample: Ints, place: Floats, way: Floats) -> "_Knots":
        order = np.argsort(np.concatenate([self.sample, sample]), kind="stable")
        joined = [np.concatenate([old, new])[order] for old, new in (
            (self.sample, sample), (self.place, place), (self.into, way), (self.out, way),
        )]  # fmt: skip
        return _Knots(*joined)


def fit(
    points: Floats,
    tolerance: float,
    *,
    corners: Ints | None = None,
    shake: float | None = None,
    closed: bool = False,
) -> Course:
    """Fit a smooth curve to samples in their order.

    Shapes:     ``points`` (n, 2), n >= 2; with ``closed`` the last is the first again.
    Units:      px.
    Accuracy:   no sample lies farther from the curve than ``tolerance``: measured on all of them,
                at the nearest place of their own piece. The ends are exact; pieces meet in one
                direction, but at corners. Degenerate: samples that all lie in one place give a run
                of two nodes there.
    Source:     the fewest pieces over a set of candidate nodes, by the farthest that a piece
                reaches from each (after Imai and Iri, 'Computational-geometric methods for
                polygonal approximations', 1986); each piece by least squares with its end
                directions given (see ``fitting.fit_cubics``).
    """
    points = np.asarray(points, float)
    moved = np.concatenate([[True], np.any(np.diff(points, axis=0) != 0, axis=1)])
    if closed:
        moved[-1] = True
    kept = np.flatnonzero(moved)
    if len(kept) < 2:
        return _standing(points)
    own = np.cumsum(moved) - 1
    p = points[kept]
    shake = tremor(p) if shake is None else shake
    sharp = np.zeros(0, np.intp) if corners is None else np.unique(own[corners])
    sharp = sharp[(sharp > 0) & (sharp < len(p) - 1)]
    knots, line = _candidates(p, sharp, tolerance, shake, closed=closed)
    chosen = _fewest(p, knots, sharp, tolerance)
    course = _settled(p, knots, chosen, line, tolerance, sharp, closed=closed)
    off = course.off[own]
    # Samples that were left out lie where the one before lies.
    return Course(course.run, off, course.segment[own], course.parameter[own], kept[sharp])


def _standing(points: Floats) -> Course:
    at = (float(points[0, 0]), float(points[0, 1]))
    n = len(points)
    zeros = np.zeros(n)
    return Course(
        Subpath((Node("n1", at), Node("n2", at))),
        zeros,
        np.zeros(n, np.intp),
        zeros,
        np.zeros(0, np.intp),
    )


def _candidates(
    p: Floats, sharp: Ints, tolerance: float, shake: float, *, closed: bool
) -> tuple[_Knots, _Line]:
    # A wide window steadies directions; where the tolerance asks to follow the tremor itself, a
    # narrow one does.
    ease = float(np.interp(tolerance / max(shake, 1e-6), [1.0, 4.0], [3.0, 8.0]))
    reach = max(4.0, ease * np.sqrt(max(tolerance, 0.05) * 8.0), 9.0 * shake)
    line = _Line(p, sharp, reach, closed=closed)
    along = _way(p)
    step = max(reach / (ease / 2), along[-1] / 1600, 1e-6)
    wanted = np.arange(step, along[-1] - step / 2, step)
    index = np.unique(
        np.concatenate([[0, len(p) - 1], sharp, np.searchsorted(along, wanted)])
    ).astype(np.intp)
    place, way = line.at(index)
    into, out = way.copy(), way.copy()
    fixed = np.isin(index, sharp)
    if fixed.any():
        before, into[fixed] = line.at(index[fixed], -1)
        after, out[fixed] = line.at(index[fixed], 1)
        middle = (before + after) / 2
        near = np.hypot(*(middle - p[index[fixed]]).T) <= 0.5 * tolerance
        place[fixed] = np.where(near[:, None], middle, p[index[fixed]])
    # What the local curve leaves by too much stays on its sample.
    far = np.hypot(*(place - p[index]).T) > 0.7 * tolerance
    place[far] = p[index[far]]
    if line.closed:
        place[-1], into[-1], out[0] = place[0], into[0], out[0]
    else:
        place[0], place[-1] = p[0], p[-1]
    return _Knots(index, place, into, out), line


def _spans(p: Floats, knots: _Knots, a: Ints, b: Ints, count: int) -> Floats:
    """Return ``count`` samples of each span between two knots, their ends being the knots'
    places.
    """
    first, last = knots.sample[a], knots.sample[b]
    share = np.linspace(0.0, 1.0, count)
    rows = np.rint(first[:, None] + share * (last - first)[:, None]).astype(np.intp)
    found = p[rows]
    found[:, 0], found[:, -1] = knots.place[a], knots.place[b]
    return found


def _trial(p: Floats, knots: _Knots, a: Ints, b: Ints) -> Floats:
    """Return how far a piece between two knots is off, as far as some of its samples tell: quickly,
    not exactly.

    One least-squares fit with the samples' places by their chords, and then their distances across
    the curve.
    """
    z = _complex(_spans(p, knots, a, b, PER_SPAN))
    first, last = z[:, :1], z[:, -1:]
    start, end = _complex(knots.out[a])[:, None], _complex(knots.into[b])[:, None]
    along = np.cumsum(np.abs(np.diff(z, axis=1)), axis=1)
    total = along[:, -1:]
    t = np.concatenate([np.zeros((len(a), 1)), along / np.where(total > 0, total, 1.0)], axis=1)
    s = 1 - t
    b1, b2 = 3 * s * s * t, 3 * s * t * t
    rest = z - first - (last - first) * (b2 + t * t * t)
    c11, c22 = (b1 * b1).sum(axis=1), (b2 * b2).sum(axis=1)
    c12 = -(b1 * b2).sum(axis=1) * (start * end.conj()).real[:, 0]
    x1 = (b1 * (rest * start.conj()).real).sum(axis=1)
    x2 = -(b2 * (rest * end.conj()).real).sum(axis=1)
    det = c11 * c22 - c12 * c12
    sound = det > 1e-9 * c11 * c22
    safe = np.where(sound, det, 1.0)
    third = total[:, 0] / 3
    one, two = (x1 * c22 - x2 * c12) / safe, (c11 * x2 - c12 * x1) / safe
    usable = (
        sound & (one > 0.02 * third) & (two > 0.02 * third) & (one < 6 * third) & (two < 6 * third)
    )
    one, two = np.where(usable, one, third)[:, None], np.where(usable, two, third)[:, None]
    off = b1 * (one * start) - b2 * (two * end) - rest
    p1, p2 = one * start, (last - first) - two * end
    way = s * s * p1 + 2 * s * t * (p2 - p1) + t * t * ((last - first) - p2)
    size = np.abs(way)
    across = np.abs((off * way.conj()).imag)
    away = np.where(size > 1e-9, across / np.where(size > 1e-9, size, 1.0), np.abs(off))
    worst: Floats = away.max(axis=1)
    return worst


def _complex(points: Floats) -> NDArray[np.complex128]:
    """Return points (..., 2) as complex numbers: half the work, and products say both turns and
    lengths.
    """
    found: NDArray[np.complex128] = np.ascontiguousarray(points, float).view(np.complex128)[..., 0]
    return found


def _reaches(p: Floats, knots: _Knots, stops: Ints, tolerance: float) -> Ints:
    """Return for each knot the last one that a single piece reaches; a corner ends every piece."""
    m = len(knots.sample)
    every = np.arange(m)
    wall = stops[np.minimum(np.searchsorted(stops, every, side="right"), len(stops) - 1)]
    low = np.minimum(every + 1, m - 1)
    # Galloping: twice as far as long as it goes, then halving.
    ahead = np.full(m, 4)
    high = np.minimum(wall, every + FARTHEST)
    going = (low < high).copy()
    while going.any():
        rows = np.flatnonzero(going)
        far = np.minimum(every[rows] + ahead[rows], high[rows])
        good = _trial(p, knots, rows, far) <= MARGIN * tolerance
        low[rows[good]] = far[good]
        high[rows[~good]] = np.maximum(far[~good] - 1, low[rows[~good]])
        ahead[rows] *= 2
        going[rows[~good]] = False
        going &= low < high
    left = low < high
    while left.any():
        rows = np.flatnonzero(left)
        middle = (low[rows] + high[rows] + 1) // 2
        good = _trial(p, knots, rows, middle) <= MARGIN * tolerance
        low[rows[good]] = middle[good]
        high[rows[~good]] = middle[~good] - 1
        left = low < high
    return low


def _fewest(p: Floats, knots: _Knots, sharp: Ints, tolerance: float) -> Ints:
    """Return the knots of the fewest pieces, each about the middle of where it may be."""
    m = len(knots.sample)
    stops = np.unique(np.concatenate([np.flatnonzero(np.isin(knots.sample, sharp)), [m - 1]]))
    reach = _reaches(p, knots, stops, tolerance)
    farthest = [0]
    best = np.maximum.accumulate(reach)
    while farthest[-1] < m - 1:
        farthest.append(int(max(best[farthest[-1]], farthest[-1] + 1)))
    # Backwards, the earliest knot from which the rest is still reached in as few pieces.
    chosen = [m - 1]
    wall = np.zeros(m, bool)
    wall[stops] = True
    for k in range(len(farthest) - 2, 0, -1):
        able = np.flatnonzero(
            reach[farthest[k - 1] + 1 if k > 1 else 1 : farthest[k] + 1] >= chosen[-1]
        )
        begin = farthest[k - 1] + 1 if k > 1 else 1
        options = able + begin
        options = options[options < chosen[-1]]
        walls = options[wall[options]]
        pick = int(options[len(options) // 2]) if len(options) else farthest[k]
        chosen.append(int(walls[-1]) if len(walls) else pick)
    found = np.unique(np.array([0, *chosen, *stops]))
    return _balanced(p, knots, found, stops)


def _balanced(p: Floats, knots: _Knots, chosen: Ints, stops: Ints) -> Ints:
    """Move nodes between their neighbours to where the pieces beside them are off the least."""
    chosen = chosen.copy()
    movable = np.array(
        [i for i in range(1, len(chosen) - 1) if chosen[i] not in set(stops.tolist())], np.intp
    )
    for sweep in range(4):
        rows = movable[movable % 2 == sweep % 2]
        if not len(rows):
            continue
        left, here, right = chosen[rows - 1], chosen[rows], chosen[rows + 1]
        step = np.maximum((right - left) // 10, 1)
        options = [np.clip(here + step * d, left + 1, right - 1) for d in (-2, -1, 0, 1, 2)]
        worse = np.stack(
            [np.maximum(_trial(p, knots, left, o), _trial(p, knots, o, right)) for o in options]
        )
        chosen[rows] = np.stack(options)[worse.argmin(axis=0), np.arange(len(rows))]
    return chosen


def _settled(
    p: Floats,
    knots: _Knots,
    chosen: Ints,
    line: _Line,
    tolerance: float,
    sharp: Ints,
    *,
    closed: bool,
) -> Course:
    """Fit the chosen pieces to all samples; part those that are off by too much until none is."""
    off, parameter = np.zeros(len(p)), np.zeros(len(p))
    known: dict[tuple[int, int], Floats] = {}
    for _ in range(60):
        names = knots.sample[chosen]
        pairs = list(zip(names[:-1].tolist(), names[1:].tolist(), strict=True))
        fresh = np.array([k for k, pair in enumerate(pairs) if pair not in known], np.intp)
        if not len(fresh):
            break
        a, b = chosen[fresh], chosen[fresh + 1]
        samples = _spans(p, knots, a, b, PER_FINAL)
        fitted = _tame(fit_cubics(samples, knots.out[a], knots.into[b], ROUNDS).cubics, samples)
        counts = names[fresh + 1] - names[fresh] + (names[fresh + 1] == len(p) - 1)
        rows = np.concatenate(
            [np.arange(f, f + c) for f, c in zip(names[fresh], counts, strict=True)]
        )
        own = np.repeat(np.arange(len(fresh)), counts)
        parameter[rows], off[rows] = _nearest(p[rows], fitted, own)
        worst = np.zeros(len(fresh))
        np.maximum.at(worst, own, off[rows])
        good = worst <= tolerance
        known |= {
            pairs[k]: cubic for k, cubic, right in zip(fresh, fitted, good, strict=True) if right
        }
        if good.all():
            break
        knots, chosen = _parted(p, knots, chosen, line, off, fresh[~good])
    cubics = np.array([known[pair] for pair in pairs])
    segment = np.clip(
        np.searchsorted(names, np.arange(len(p)), side="right") - 1, 0, len(pairs) - 1
    )
    return Course(_run(knots, chosen, cubics, sharp, closed=closed), off, segment, parameter, sharp)


def _tame(cubics: Floats, samples: Floats) -> Floats:
    """Return cubics with no handle longer than the way of their samples: a fit to next to nothing
    may run away.
    """
    way = np.hypot(*np.diff(samples, axis=1).transpose(2, 0, 1)).sum(axis=1)
    out = cubics.copy()
    for end, handle in ((0, 1), (3, 2)):
        arm = out[:, handle] - out[:, end]
        size = np.hypot(arm[:, 0], arm[:, 1])
        scale = np.where(size > way, way / np.where(size > 0, size, 1.0), 1.0)
        out[:, handle] = out[:, end] + arm * scale[:, None]
    return np.asarray(out)


def _parted(
    p: Floats, knots: _Knots, chosen: Ints, line: _Line, off: Floats, bad: Ints
) -> tuple[_Knots, Ints]:
    """Put a node into each bad piece: at its middle candidate or, where it has none, on its worst
    sample.
    """
    names = list(knots.sample[chosen])
    extra: list[int] = []
    for piece in bad:
        a, b = int(chosen[piece]), int(chosen[piece + 1])
        low, high = int(knots.sample[a]), int(knots.sample[b])
        if b - a > 1:
            names.append(knots.sample[(a + b) // 2])
        elif high - low > 1:
            extra.append(low + 1 + int(np.argmax(off[low + 1 : high])))
    if extra:
        index = np.array(sorted(set(extra)), np.intp)
        way = p[np.minimum(index + 1, len(p) - 1)] - p[np.maximum(index - 1, 0)]
        size = np.hypot(way[:, 0], way[:, 1])
        unit = np.where(
            size[:, None] > 0, way / np.where(size > 0, size, 1.0)[:, None], line.at(index)[1]
        )
        knots = knots.with_more(index, p[index], unit)
        names += extra
    return knots, np.flatnonzero(np.isin(knots.sample, np.unique(np.array(names))))


def _nearest(p: Floats, cubics: Floats, segment: Ints) -> tuple[Floats, Floats]:
    """Return for each sample the parameter of the nearest place on its own piece, and how far that
    is.
    """
    c = bezier.power_basis(cubics)[segment]
    grid = np.linspace(0.0, 1.0, 9)
    coarse = c[:, None, 0] + grid[:, None] * (
        c[:, None, 1] + grid[:, None] * (c[:, None, 2] + grid[:, None] * c[:, None, 3])
    )
    t = grid[np.argmin(((coarse - p[:, None]) ** 2).sum(axis=2), axis=1)]
    best, least = t, np.full(len(p), np.inf)
    for _ in range(7):
        u = t[:, None]
        value = c[:, 0] + u * (c[:, 1] + u * (c[:, 2] + u * c[:, 3]))
        off = value - p
        away = (off * off).sum(axis=1)
        better = away < least
        best, least = np.where(better, t, best), np.where(better, away, least)
        first = c[:, 1] + u * (2 * c[:, 2] + 3 * u * c[:, 3])
        second = 2 * c[:, 2] + 6 * u * c[:, 3]
        slope = (off * first).sum(axis=1)
        curve = (first * first).sum(axis=1)
        steep = np.maximum(curve + (off * second).sum(axis=1), 0.25 * curve)
        t = np.clip(t - np.where(steep > 0, slope / np.where(steep > 0, steep, 1.0), 0.0), 0.0, 1.0)
    return best, np.sqrt(least)


def _run(knots: _Knots, chosen: Ints, cubics: Floats, sharp: Ints, *, closed: bool) -> Subpath:
    out = np.concatenate([cubics[:, 1] - cubics[:, 0], np.zeros((1, 2))])
    into = np.concatenate([np.zeros((1, 2)), cubics[:, 2] - cubics[:, 3]])
    last = len(chosen)
    if closed and last > 2:
        into[0], last = into[-1], last - 1
    corner = np.isin(knots.sample[chosen], sharp)
    made = []
    for i in range(last):
        (x, y), (ix, iy), (ox, oy) = (
            knots.place[chosen[i]].tolist(),
            into[i].tolist(),
            out[i].tolist(),
        )
        kind = "corner" if corner[i] else node_kind((ix, iy), (ox, oy))
        made.append(Node(f"n{i + 1}", (x, y), (ix, iy), (ox, oy), kind))
    return Subpath(tuple(made), closed)
