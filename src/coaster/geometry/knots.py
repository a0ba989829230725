"""Which pieces a curve through samples has: the fewest over a set of places where nodes may lie."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coaster.geometry.bezier import Floats
from coaster.geometry.samples import Ints, SampledLine, lengths, way_along

Complex = NDArray[np.complex128]
PER_SPAN = 12
"""Samples of a span that a trial fit looks at."""
MARGIN = 1.0
"""Share of the tolerance that a trial, which sees a part of the samples, may use up."""
FARTHEST = 1000
"""Candidates that one span may pass over."""
SWEEPS = 4
Good = Callable[[Ints, Ints], NDArray[np.bool_]]
"""Tells whether one piece will do from some knots to others."""


@dataclass
class Knots:
    """Places where nodes may be: at which sample, where, and which way the curve goes before and
    after.
    """

    sample: Ints
    place: Floats
    into: Floats
    out: Floats

    def with_more(self, sample: Ints, place: Floats, way: Floats) -> "Knots":
        order = np.argsort(np.concatenate([self.sample, sample]), kind="stable")
        joined = [np.concatenate([old, new])[order] for old, new in (
            (self.sample, sample), (self.place, place), (self.into, way), (self.out, way),
        )]  # fmt: skip
        return Knots(*joined)


def candidates(
    p: Floats, sharp: Ints, tolerance: float, shake: float, *, closed: bool
) -> tuple[Knots, SampledLine]:
    """Return where nodes may lie, and the steady line that they lie on."""
    # A wide window steadies directions; where the tolerance asks to follow the tremor itself, a
    # narrow one does.
    ease = float(np.interp(tolerance / max(shake, 1e-6), [1.0, 4.0], [3.0, 8.0]))
    reach = max(4.0, ease * np.sqrt(max(tolerance, 0.05) * 8.0), 9.0 * shake)
    line = SampledLine(p, sharp, reach, closed=closed)
    knots = _steady(p, line, _spread(p, sharp, reach / (ease / 2)), sharp, tolerance)
    # What the local curve leaves by too much stays on its sample.
    samples = p[knots.sample]
    far = np.hypot(*(knots.place - samples).T) > 0.7 * tolerance
    knots.place[far] = samples[far]
    if line.closed:
        knots.place[-1], knots.into[-1], knots.out[0] = knots.place[0], knots.into[0], knots.out[0]
    else:
        knots.place[0], knots.place[-1] = p[0], p[-1]
    return knots, line


def _spread(p: Floats, sharp: Ints, step: float) -> Ints:
    """Return samples about ``step`` px apart along the way, ends and corners among them."""
    along = way_along(p)
    # However long a take, the search is over a table of some size at most.
    step = max(step, along[-1] / 1600, 1e-6)
    wanted = np.arange(step, along[-1] - step / 2, step)
    ends = np.array([0, len(p) - 1])
    every = np.concatenate([ends, sharp, np.searchsorted(along, wanted)])
    return np.unique(every).astype(np.intp)


def _steady(p: Floats, line: SampledLine, index: Ints, sharp: Ints, tolerance: float) -> Knots:
    """Return knots at samples by the steady line; at corners by both of its sides, where these
    meet.
    """
    place, way = line.at(index)
    into, out = way.copy(), way.copy()
    fixed = np.isin(index, sharp)
    if fixed.any():
        corners = index[fixed]
        before, into[fixed] = line.at(corners, -1)
        after, out[fixed] = line.at(corners, 1)
        middle, samples = (before + after) / 2, p[corners]
        # Two sides that meet well away from the sample have been led astray by the tremor.
        near = lengths(middle - samples) <= 0.5 * tolerance
        place[fixed] = np.where(near[:, None], middle, samples)
    return Knots(index, place, into, out)


def spans(p: Floats, knots: Knots, a: Ints, b: Ints, count: int) -> Floats:
    """Return ``count`` samples of each span between two knots, their ends being the knots'
    places.
    """
    first, last = knots.sample[a], knots.sample[b]
    share = np.linspace(0.0, 1.0, count)
    rows = np.rint(first[:, None] + share * (last - first)[:, None]).astype(np.intp)
    found = p[rows]
    # Pieces meet at the knots, which need not lie on samples.
    found[:, 0], found[:, -1] = knots.place[a], knots.place[b]
    return found


def _trial(p: Floats, knots: Knots, a: Ints, b: Ints) -> Floats:
    """Return how far a piece between two knots is off, as far as some of its samples tell: quickly,
    not exactly.

    One least-squares fit with the samples' places by their chords, and then their distances across
    the curve.
    """
    # Points are complex numbers: half the work, and products say both turns and lengths.
    z = _complex(spans(p, knots, a, b, PER_SPAN))
    first, last = z[:, :1], z[:, -1:]
    start, end = _complex(knots.out[a])[:, None], _complex(knots.into[b])[:, None]
    t, total = _by_chords(z)
    s = 1 - t
    b1, b2 = 3 * s * s * t, 3 * s * t * t
    # What the two handles are left to explain once the ends are taken off.
    rest = z - first - (last - first) * (b2 + t * t * t)
    one, two = _arms(b1, b2, start, end, rest, total[:, 0] / 3)
    off = b1 * (one * start) - b2 * (two * end) - rest
    p1, p2 = one * start, (last - first) - two * end
    way = s * s * p1 + 2 * s * t * (p2 - p1) + t * t * ((last - first) - p2)
    return _across(off, way)


def _by_chords(z: Complex) -> tuple[Floats, Floats]:
    """Return where samples (m, k) lie by the chords between them, 0..1, and the chords' sum
    (m, 1).
    """
    along = np.cumsum(np.abs(np.diff(z, axis=1)), axis=1)
    total = along[:, -1:]
    share = along / np.where(total > 0, total, 1.0)
    return np.concatenate([np.zeros((len(z), 1)), share], axis=1), total


def _arms(
    b1: Floats, b2: Floats, start: Complex, end: Complex, rest: Complex, third: Floats
) -> tuple[Floats, Floats]:
    """Return how long both handles are, (m, 1), by least squares; a third of the way where that
    makes no sense.
    """
    c11, c22 = (b1 * b1).sum(axis=1), (b2 * b2).sum(axis=1)
    c12 = -(b1 * b2).sum(axis=1) * (start * end.conj()).real[:, 0]
    x1 = (b1 * (rest * start.conj()).real).sum(axis=1)
    x2 = -(b2 * (rest * end.conj()).real).sum(axis=1)
    det = c11 * c22 - c12 * c12
    usable = det > 1e-9 * c11 * c22
    safe = np.where(usable, det, 1.0)
    arms = (x1 * c22 - x2 * c12) / safe, (c11 * x2 - c12 * x1) / safe
    for arm in arms:
        # A handle of nothing, or one of a multiple of the way, fits samples and no eye.
        usable = usable & (arm > 0.02 * third) & (arm < 6 * third)
    one, two = (np.where(usable, arm, third)[:, None] for arm in arms)
    return one, two


def _across(off: Complex, way: Complex) -> Floats:
    """Return the most that samples (m, k) are off, measured across the way they lie on."""
    size = np.abs(way)
    moving = size > 1e-9
    across = np.abs((off * way.conj()).imag) / np.where(moving, size, 1.0)
    worst: Floats = np.where(moving, across, np.abs(off)).max(axis=1)
    return worst


def _complex(points: Floats) -> Complex:
    """Return points (..., 2) as complex numbers."""
    found: Complex = np.ascontiguousarray(points, float).view(np.complex128)[..., 0]
    return found


def _reaches(p: Floats, knots: Knots, stops: Ints, tolerance: float) -> Ints:
    """Return for each knot the last one that a single piece reaches; a corner ends every piece."""
    every = np.arange(len(knots.sample))
    wall = stops[np.minimum(np.searchsorted(stops, every, side="right"), len(stops) - 1)]
    low = np.minimum(every + 1, len(every) - 1)
    high = np.minimum(wall, every + FARTHEST)

    def good(rows: Ints, far: Ints) -> NDArray[np.bool_]:
        return np.asarray(_trial(p, knots, rows, far) <= MARGIN * tolerance)

    _galloped(low, high, good)
    _bisected(low, high, good)
    return low


def _bisected(low: Ints, high: Ints, good: Good) -> None:
    """Bring ``low`` and ``high`` together in place, at the last that is good for each row."""
    while len(rows := np.flatnonzero(low < high)):
        middle = (low[rows] + high[rows] + 1) // 2
        reached = good(rows, middle)
        low[rows[reached]] = middle[reached]
        high[rows[~reached]] = middle[~reached] - 1


def _galloped(low: Ints, high: Ints, good: Good) -> None:
    """Close in on how far each reaches: twice as far as long as it goes."""
    ahead = np.full(len(low), 4)
    going = low < high
    while going.any():
        rows = np.flatnonzero(going)
        far = np.minimum(rows + ahead[rows], high[rows])
        reached = good(rows, far)
        low[rows[reached]] = far[reached]
        high[rows[~reached]] = np.maximum(far[~reached] - 1, low[rows[~reached]])
        # Most spans are short: doubling finds their order in a few trials, halving the place in it.
        ahead[rows] *= 2
        going[rows[~reached]] = False
        going &= low < high


def fewest(p: Floats, knots: Knots, sharp: Ints, tolerance: float) -> Ints:
    """Return the knots of the fewest pieces, each about the middle of where it may be."""
    last = len(knots.sample) - 1
    corners = np.flatnonzero(np.isin(knots.sample, sharp))
    stops = np.unique(np.concatenate([corners, [last]]))
    reach = _reaches(p, knots, stops, tolerance)
    found = np.unique(np.array([0, *_back(reach, _farthest(reach), stops), *stops]))
    return _balanced(p, knots, found, stops)


def _farthest(reach: Ints) -> list[int]:
    """Return the farthest knot that 0, 1, 2 ... pieces come to, up to the last."""
    # From an earlier knot one piece may reach farther than from a later one.
    best, found = np.maximum.accumulate(reach), [0]
    while found[-1] < len(reach) - 1:
        found.append(int(max(best[found[-1]], found[-1] + 1)))
    return found


def _back(reach: Ints, farthest: list[int], stops: Ints) -> list[int]:
    """Return knots from the last one backwards, each about the middle of those from which the rest
    is still reached in as few pieces; corners before all others.
    """
    chosen, wall = [len(reach) - 1], np.zeros(len(reach), bool)
    wall[stops] = True
    for k in range(len(farthest) - 2, 0, -1):
        begin = farthest[k - 1] + 1 if k > 1 else 1
        options = np.flatnonzero(reach[begin : farthest[k] + 1] >= chosen[-1]) + begin
        options = options[options < chosen[-1]]
        # A corner that is passed over would be rounded off.
        walls = options[wall[options]]
        pick = int(options[len(options) // 2]) if len(options) else farthest[k]
        chosen.append(int(walls[-1]) if len(walls) else pick)
    return chosen


def _balanced(p: Floats, knots: Knots, chosen: Ints, stops: Ints) -> Ints:
    """Move nodes between their neighbours to where the pieces beside them are off the least."""
    chosen = chosen.copy()
    inner = np.arange(1, len(chosen) - 1)
    movable = inner[~np.isin(chosen[inner], stops)]
    for sweep in range(SWEEPS):  # every other node at a time, so that neighbours stand still
        rows = movable[movable % 2 == sweep % 2]
        if not len(rows):
            continue
        left, here, right = chosen[rows - 1], chosen[rows], chosen[rows + 1]
        step = np.maximum((right - left) // 10, 1)
        options = [np.clip(here + step * d, left + 1, right - 1) for d in (-2, -1, 0, 1, 2)]
        sides = [(_trial(p, knots, left, o), _trial(p, knots, o, right)) for o in options]
        worse = np.stack([np.maximum(*both) for both in sides])
        chosen[rows] = np.stack(options)[worse.argmin(axis=0), np.arange(len(rows))]
    return chosen


def split_bad(
    p: Floats, knots: Knots, chosen: Ints, line: SampledLine, off: Floats, bad: Ints
) -> tuple[Knots, Ints]:
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
        # Candidates are used up here: a sample itself is made one.
        elif high - low > 1:
            extra.append(low + 1 + int(np.argmax(off[low + 1 : high])))
    if extra:
        knots = _with_samples(p, knots, line, np.array(sorted(set(extra)), np.intp))
        names += extra
    return knots, np.flatnonzero(np.isin(knots.sample, np.unique(np.array(names))))


def _with_samples(p: Floats, knots: Knots, line: SampledLine, index: Ints) -> Knots:
    """Return knots and some more right on samples, in the direction of their neighbours."""
    way = p[np.minimum(index + 1, len(p) - 1)] - p[np.maximum(index - 1, 0)]
    size = lengths(way)[:, None]
    unit = np.where(size > 0, way / np.where(size > 0, size, 1.0), line.at(index)[1])
    return knots.with_more(index, p[index], unit)
