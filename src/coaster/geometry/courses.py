"""Smooth curves through hand-drawn samples: few nodes, none farther off than allowed,
corners kept.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coaster.geometry import bezier
from coaster.geometry.bezier import Floats
from coaster.geometry.fitting import Fitted, dot, fit_cubics
from coaster.geometry.knots import Knots, Ways, candidates, spans, split_bad
from coaster.geometry.path import Node, Subpath, node_kinds
from coaster.geometry.samples import Ints, SampledLine, lengths, tremor

PER_FINAL = 40
"""Samples of a span that the last fit looks at."""
ROUNDS, GUESSES = 5, 3
"""Improvements of a piece, and of what is only compared."""
SWEEPS, ROOM, MOVES = 2, 6, (-2, -1, 0, 1, 2)
"""Nodes are moved so often, where their neighbours are so many candidates apart, by so many tenths
of that way."""
MOST_WAYS, MOST_PARTINGS, MOST_MERGES = 40, 60, 4
NEAREST_STEPS = 6
UNSURE = 1.2
"""So many times the tolerance off on some samples, a piece is too far off on all."""
IN_TURN = 0.1
"""So much of a piece's length counts as a distance for what lies all of it out of turn."""


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
        found: Floats = _nearest(points, self.run.segments(), self.segment, self.parameter)[1]
        return found

    @property
    def rms(self) -> float:
        return float(np.sqrt(np.mean(self.off**2))) if len(self.off) else 0.0


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
                direction, but at corners; a loop has one where it closes if 0 is among them.
    Degenerate: samples that all lie in one place give a run of two nodes there.
    Source:     the fewest pieces over a set of candidate nodes, by the farthest that a piece
                reaches from each (after Imai and Iri, 'Computational-geometric methods for
                polygonal approximations', 1986); each piece by least squares with its end
                directions given (see ``fitting.fit_cubics``).
    """
    points = np.asarray(points, float)
    moved = np.concatenate([[True], np.any(np.diff(points, axis=0) != 0, axis=1)])
    # Of a loop the last sample is the first again, and yet an end.
    moved[-1] |= closed
    kept = np.flatnonzero(moved)
    if len(kept) < 2:
        return _standing(points)
    own, p = np.cumsum(moved) - 1, points[kept]
    shake = tremor(p) if shake is None else shake
    sharp = np.zeros(0, np.intp) if corners is None else np.unique(own[corners])
    # A loop with a corner where it closes is one piece from there to there.
    smooth = closed and 0 not in sharp
    sharp = sharp[(sharp > 0) & (sharp < len(p) - 1)]
    knots, line = candidates(p, sharp, tolerance, shake, closed=smooth)
    settling = _Settling(p, line, tolerance, shake)
    run = settling.run(knots, Ways(p, knots, sharp, tolerance), sharp, closed=closed)
    # Samples that were left out lie where the one before lies.
    return Course(
        run, settling.off[own], settling.segment[own], settling.parameter[own], kept[sharp]
    )


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


class _Settling:
    """Pieces fitted to all samples, and parted where they are off by too much, until none is.

    ``off``, ``parameter`` and ``segment`` (n,) tell of each sample how far it is, and where.
    """

    def __init__(self, p: Floats, line: SampledLine, tolerance: float, shake: float) -> None:
        self.p, self.line, self.tolerance, self.shake = p, line, tolerance, shake
        self.off, self.parameter = np.zeros(len(p)), np.zeros(len(p))
        self.segment = np.zeros(len(p), np.intp)
        self.known: dict[tuple[int, int], Floats] = {}
        """The cubics that are good, by the samples at their ends."""

    def run(self, knots: Knots, ways: Ways, sharp: Ints, *, closed: bool) -> Subpath:
        fewest = self._fewest(knots, ways)
        knots, chosen = self._parted(knots, fewest)
        # Of the fewest none can go; of those that were put in by halves some can.
        if len(chosen) > len(fewest):
            chosen = self._fewer(knots, chosen, sharp)
        # Where the tremor itself is followed there is no movement to come nearer to.
        if self.tolerance > self.shake:
            chosen = self._balanced(knots, chosen, sharp)
        names = knots.sample[chosen]
        cubics = np.array([self.known[pair] for pair in _pairs(names)])
        self._measured(names[:-1], names[1:], cubics)
        piece = np.searchsorted(names, np.arange(len(self.p)), side="right") - 1
        self.segment = np.clip(piece, 0, len(cubics) - 1)
        return _run(knots, chosen, cubics, sharp, closed=closed)

    def _fewest(self, knots: Knots, ways: Ways) -> Ints:
        """Return the fewest knots between which every piece is good, or goes to the next knot."""
        for _ in range(MOST_WAYS):
            chosen = ways.fewest()
            # Trials see few samples: only this fit, measured on all of them, is believed.
            bad = self._fitted(knots, chosen)
            bad = bad[chosen[bad + 1] - chosen[bad] > 1]
            if not len(bad):
                break
            ways.rule_out(chosen[bad], chosen[bad + 1])
        return chosen

    def _parted(self, knots: Knots, chosen: Ints) -> tuple[Knots, Ints]:
        """Part pieces until every one is good."""
        for _ in range(MOST_PARTINGS):
            bad = self._fitted(knots, chosen)
            if not len(bad):
                break
            begin, end = chosen[bad], chosen[bad + 1]
            cubics = self._pieces(knots, begin, end).cubics
            self._measured(knots.sample[begin], knots.sample[end], cubics)
            knots, chosen = split_bad(self.p, knots, chosen, self.line, self.off, bad)
        return knots, chosen

    def _fewer(self, knots: Knots, chosen: Ints, sharp: Ints) -> Ints:
        """Take out the nodes that one piece does without, every other at a time."""
        failed: set[tuple[int, int]] = set()
        for turn in range(MOST_MERGES):
            inner = np.arange(1 + turn % 2, len(chosen) - 1, 2)
            free = inner[~np.isin(knots.sample[chosen[inner]], sharp)]
            ends = np.stack([chosen[free - 1], chosen[free + 1]])
            pairs = list(zip(*knots.sample[ends].tolist(), strict=True))
            fresh = np.array([pair not in failed for pair in pairs], bool)
            if not fresh.any():
                continue
            good = self._tried(knots, *ends[:, fresh])
            tried = [pair for pair, new in zip(pairs, fresh, strict=True) if new]
            failed |= {pair for pair, well in zip(tried, good, strict=True) if not well}
            chosen = np.delete(chosen, free[fresh][good])
        return chosen

    def _balanced(self, knots: Knots, chosen: Ints, sharp: Ints) -> Ints:
        """Move nodes between their neighbours to where the pieces beside them are off the least:
        of several ways of as many pieces this one is nearer to the movement.
        """
        chosen = chosen.copy()
        for sweep in range(SWEEPS):  # every other node at a time, so that neighbours stand still
            inner = np.arange(1 + sweep % 2, len(chosen) - 1, 2)
            roomy = chosen[inner + 1] - chosen[inner - 1] >= ROOM
            rows = inner[roomy & ~np.isin(knots.sample[chosen[inner]], sharp)]
            if not len(rows):
                continue
            left, right = chosen[rows - 1], chosen[rows + 1]
            better = self._least_off(knots, left, chosen[rows], right)
            good = self._tried(
                knots, np.concatenate([left, better]), np.concatenate([better, right])
            )
            both = good.reshape(2, -1).all(axis=0)
            chosen[rows[both]] = better[both]
        return chosen

    def _least_off(self, knots: Knots, left: Ints, here: Ints, right: Ints) -> Ints:
        """Return knots near ``here`` from which the farther off of both pieces is off least."""
        step = np.maximum((right - left) // 10, 1)
        options = np.stack([np.clip(here + step * d, left + 1, right - 1) for d in MOVES])
        begin = np.concatenate([np.broadcast_to(left, options.shape), options]).ravel()
        end = np.concatenate([options, np.broadcast_to(right, options.shape)]).ravel()
        samples = spans(self.p, knots, begin, end, PER_FINAL)
        off = fit_cubics(samples, knots.out[begin], knots.into[end], GUESSES).deviation
        worse = off.reshape(2, *options.shape).max(axis=0)
        return np.asarray(options[worse.argmin(axis=0), np.arange(len(here))])

    def _tried(self, knots: Knots, begin: Ints, end: Ints) -> NDArray[np.bool_]:
        """Fit pieces, and keep those that are good; return which are."""
        found = self._pieces(knots, begin, end)
        # What is far off on the samples that the fit has seen needs not be measured on all.
        good = found.deviation <= UNSURE * self.tolerance
        some, cubics = np.flatnonzero(good), found.cubics
        first, last = knots.sample[begin], knots.sample[end]
        if len(some):
            off = self._measured(first[some], last[some], cubics[some])
            good[some] = off <= self.tolerance
        for k in np.flatnonzero(good):
            self.known[int(first[k]), int(last[k])] = cubics[k]
        return np.asarray(good)

    def _pieces(self, knots: Knots, begin: Ints, end: Ints) -> Fitted:
        """Return a cubic from each knot to another, as near as it gets to what lies between."""
        samples = spans(self.p, knots, begin, end, PER_FINAL)
        found = fit_cubics(samples, knots.out[begin], knots.into[end], ROUNDS)
        return Fitted(_tame(found.cubics, samples), found.deviation)

    def _fitted(self, knots: Knots, chosen: Ints) -> Ints:
        """Fit the pieces that are not known yet; return those that are off by too much."""
        names = knots.sample[chosen]
        pairs = _pairs(names)
        fresh = np.array([k for k, pair in enumerate(pairs) if pair not in self.known], np.intp)
        if not len(fresh):
            return fresh
        return np.asarray(fresh[~self._tried(knots, chosen[fresh], chosen[fresh + 1])])

    def _measured(self, first: Ints, last: Ints, cubics: Floats) -> Floats:
        """Measure the samples from ``first`` to ``last`` of each cubic; return the farthest of
        each.
        """
        # A sample at a node belongs to the piece after it; the last one has none after.
        counts = last - first + (last == len(self.p) - 1)
        starts = np.cumsum(counts) - counts
        own = np.repeat(np.arange(len(cubics)), counts)
        turn = np.arange(len(own)) - starts[own]
        rows = turn + first[own]
        parameter, off = _nearest(self.p[rows], cubics, own, turn / (last - first)[own])
        self.parameter[rows], self.off[rows] = parameter, off
        off = np.where(self._strays(self.p[rows], cubics, own, parameter), np.inf, off)
        return np.maximum.reduceat(off, starts)

    def _strays(self, p: Floats, cubics: Floats, own: Ints, t: Floats) -> NDArray[np.bool_]:
        """Tell at which samples their piece has gone somewhere since the one before where no hand
        has been: halfway between both, far from the middle of both.
        """
        first = np.diff(own, prepend=-1) > 0
        before, begun = np.roll(p, 1, axis=0), np.roll(t, 1)
        before[first], begun[first] = p[first], 0.0
        c0, c1, c2, c3 = _rows(cubics, own)
        t = (t + begun) / 2
        between = c0 + t * (c1 + t * (c2 + t * c3))
        far, step = between - (p + before).T / 2, (p - before).T
        room = self.tolerance + 0.5 * np.sqrt(dot(step, step))
        return np.asarray(dot(far, far) > room * room)


def _pairs(names: Ints) -> list[tuple[int, int]]:
    return list(zip(names[:-1].tolist(), names[1:].tolist(), strict=True))


def _tame(cubics: Floats, samples: Floats) -> Floats:
    """Return cubics with no handle longer than the way of their samples: a fit to next to nothing
    may run away.
    """
    way = np.hypot(*np.diff(samples, axis=1).transpose(2, 0, 1)).sum(axis=1)
    out = cubics.copy()
    for end, handle in ((0, 1), (3, 2)):
        arm = out[:, handle] - out[:, end]
        size = lengths(arm)
        scale = np.where(size > way, way / np.where(size > 0, size, 1.0), 1.0)
        out[:, handle] = out[:, end] + arm * scale[:, None]
    return np.asarray(out)


def _rows(cubics: Floats, segment: Ints) -> Floats:
    """Return the power basis of each sample's cubic, (4, 2, m): x and y on long rows."""
    return np.take(bezier.power_basis(cubics).transpose(1, 2, 0), segment, axis=2)


def _nearest(p: Floats, cubics: Floats, segment: Ints, share: Floats) -> tuple[Floats, Floats]:
    """Return for each sample the parameter of the nearest place on its own piece, and how far that
    is; ``share`` is how much of the piece's samples come before it.
    """
    places = np.ascontiguousarray(p.T)
    c0, c1, c2, c3 = _rows(cubics, segment)
    c0, double, triple = c0 - places, 2 * c2, 3 * c3
    t = _nearest_of_nine(places, cubics, segment, share)
    best, least = t, np.full(len(p), np.inf)
    for _ in range(NEAREST_STEPS):
        off = c0 + t * (c1 + t * (c2 + t * c3))
        away = dot(off, off)
        better = away < least
        best, least = np.where(better, t, best), np.minimum(away, least)
        first, second = c1 + t * (double + t * triple), double + t * (2 * triple)
        # A step that led away is taken back by half.
        stepped = np.where(better, t - _newton_step(off, first, second), (best + t) / 2)
        t = np.clip(stepped, 0.0, 1.0)
    return best, np.sqrt(least)


def _nearest_of_nine(places: Floats, cubics: Floats, segment: Ints, share: Floats) -> Floats:
    """Return which of nine parameters of its cubic is nearest to each of some places (2, m).

    Of two that are about as near, that in whose turn it is: where a hand rests, a piece may end
    where it began.
    """
    grid = np.linspace(0.0, 1.0, 9)
    stops = cubics.transpose(2, 0, 1) @ np.array(bezier.bernstein(grid))
    steps = np.diff(stops, axis=2)
    turn = IN_TURN * np.sqrt(dot(steps, steps)).sum(axis=1)
    off = np.take(stops.transpose(0, 2, 1), segment, axis=2) - places[:, None]
    early = turn[segment] * (grid[:, None] - share)
    return np.asarray(grid[(dot(off, off) + early * early).argmin(axis=0)])


def _newton_step(off: Floats, first: Floats, second: Floats) -> Floats:
    """Return the step towards the foot of a point ``off`` (2, m) the curve; Gauss and Newton's
    where the curve bends away from it.
    """
    curve = dot(first, first)
    steep = np.maximum(curve + dot(off, second), 0.25 * curve)
    return np.asarray(dot(off, first) / np.where(steep > 0, steep, np.inf))


def _run(knots: Knots, chosen: Ints, cubics: Floats, sharp: Ints, *, closed: bool) -> Subpath:
    out = np.concatenate([cubics[:, 1] - cubics[:, 0], np.zeros((1, 2))])
    into = np.concatenate([np.zeros((1, 2)), cubics[:, 2] - cubics[:, 3]])
    last = len(chosen)
    # The last node is the first again: it gives its handle, and goes.
    if closed and last > 2:
        into[0], last = into[-1], last - 1
    corner = np.isin(knots.sample[chosen], sharp)
    kinds = node_kinds(into, out)
    rows = zip(knots.place[chosen].tolist(), into.tolist(), out.tolist(), strict=True)
    made = [
        Node(f"n{i + 1}", (x, y), (ax, ay), (bx, by), "corner" if corner[i] else kinds[i])
        for i, ((x, y), (ax, ay), (bx, by)) in enumerate(rows)
    ]
    return Subpath(tuple(made[:last]), closed)
