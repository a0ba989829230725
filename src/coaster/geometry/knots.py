"""Which pieces a curve through samples has: the fewest over a set of places where nodes may lie."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coaster.geometry.bezier import Floats
from coaster.geometry.fitting import fit_cubics
from coaster.geometry.samples import Ints, SampledLine, lengths, way_along

PER_TRIAL, TRIAL_ROUNDS = 40, 3
"""Samples of a span that a trial fit looks at, and its improvements."""
LOOKS = (2, 4)
"""Candidates past the first that is not reached at which a search looks, too."""
EACH = 8
"""Of so many knots in a row, one is looked at without knowing anything of others."""
FARTHEST = 1000
"""Candidates that one span may pass over."""
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
    reach = max(4.0, ease * np.sqrt(max(tolerance, 0.05) * 8.0))
    line = SampledLine(p, sharp, reach, closed=closed)
    knots = _steady(p, line, _spread(p, sharp, reach / (ease / 2.5)), sharp, tolerance)
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
    step = max(step, along[-1] / 1200, 1e-6)
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


def _reaches(p: Floats, knots: Knots, stops: Ints, tolerance: float) -> Ints:
    """Return for each knot the last one that a single piece reaches; a corner ends every piece."""

    def good(rows: Ints, far: Ints) -> NDArray[np.bool_]:
        samples = spans(p, knots, rows, far, PER_TRIAL)
        fitted = fit_cubics(samples, knots.out[rows], knots.into[far], TRIAL_ROUNDS, tolerance)
        return np.asarray(fitted.deviation <= tolerance)

    every = np.arange(len(knots.sample))
    wall = stops[np.minimum(np.searchsorted(stops, every, side="right"), len(stops) - 1)]
    low = _searched(np.minimum(wall, every + FARTHEST), good)
    _beyond(low, wall, good)
    return low


def _searched(limit: Ints, good: Good) -> Ints:
    """Return how far each knot reaches, at most to its limit: of some without knowing anything, of
    those between by what was found before and after them.
    """
    every = np.arange(len(limit))
    some = every[::EACH]
    low = np.minimum(every + 1, len(every) - 1)
    high = low.copy()
    high[some] = limit[some]
    _galloped(low, high, good)
    _bisected(low, high, good)
    after = np.append(low[some[1:]], limit[-1])
    low = np.clip(low[some].repeat(EACH)[: len(every)], low, limit)
    high = np.clip(after.repeat(EACH)[: len(every)], low, limit)
    high[some] = low[some]
    _bisected(low, high, good)
    return low


def _beyond(low: Ints, wall: Ints, good: Good) -> None:
    """Look a little past the first end that is not reached: a later one may lie better."""
    rows = np.flatnonzero(low < wall)
    first = low[rows]
    for ahead in LOOKS:
        far = np.minimum(first + ahead, wall[rows])
        reached = good(rows, far)
        low[rows[reached]] = far[reached]


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


class Ways:
    """The fewest pieces from the first knot to the last, of those that may do.

    A piece may do if a quick trial of it, or of a longer one from the same knot, did. What turns
    out not to do is ruled out, and the next best way is asked for.
    """

    def __init__(self, p: Floats, knots: Knots, sharp: Ints, tolerance: float) -> None:
        last = len(knots.sample) - 1
        corners = np.flatnonzero(np.isin(knots.sample, sharp))
        stops = np.unique(np.concatenate([corners, [last]]))
        self.reach = _reaches(p, knots, stops, tolerance)
        self.ruled_out: dict[int, list[int]] = {}
        self.before, self.strain = np.full(last + 1, -1), np.zeros(last + 1)
        self.before[0] = 0
        self.fronts = [np.zeros(1, np.intp)]
        """The knots that 0, 1, 2 ... pieces come to, and no fewer."""

    def rule_out(self, begin: Ints, end: Ints) -> None:
        for a, b in zip(begin.tolist(), end.tolist(), strict=True):
            self.ruled_out.setdefault(a, []).append(b)
        # What fewer pieces come to than the first of these stays as it is.
        while begin.min() not in self.fronts[-1]:
            self.before[self.fronts.pop()] = -1

    def fewest(self) -> Ints:
        """Return the knots of a way of the fewest pieces; of several, one whose pieces stay well
        within what they reach.
        """
        last = len(self.reach) - 1
        while self.before[last] < 0:
            self._go_on(self.fronts[-1])
        chosen = [last]
        while chosen[-1] > 0:
            chosen.append(int(self.before[chosen[-1]]))
        return np.array(chosen[::-1])

    def _go_on(self, front: Ints) -> None:
        """Find what one piece more comes to."""
        ends = np.arange(front[0] + 1, self.reach[front].max() + 1)
        cost = self.strain[front][:, None] + self._strains(front, ends)
        best = cost.argmin(axis=0)
        least = cost[best, ends - ends[0]]
        there = np.isfinite(least) & (self.before[ends] < 0)
        found = ends[there]
        self.before[found], self.strain[found] = front[best[there]], least[there]
        self.fronts.append(found)

    def _strains(self, begin: Ints, ends: Ints) -> Floats:
        """Return the squared share of its reach that each piece takes; infinite for none."""
        over = (ends - begin[:, None]) / (self.reach[begin] - begin)[:, None]
        strain = np.where((over > 0) & (over <= 1), over * over, np.inf)
        for row, knot in enumerate(begin.tolist()):
            out = [end - ends[0] for end in self.ruled_out.get(knot, ())]
            strain[row, out] = np.inf
        return np.asarray(strain)


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
