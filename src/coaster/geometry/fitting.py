"""Cubics fitted to samples between given tangents, and paths made lighter with them."""

from collections.abc import Collection
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from coaster.geometry import bezier
from coaster.geometry.bezier import Floats
from coaster.geometry.handles import NONE, with_true_kind
from coaster.geometry.path import Node, Subpath, Vec2

Ints = NDArray[np.intp]
ROUNDS, GUESSES = 8, 2
"""Improvements of the parameters: of a result, and of what is only compared."""
PER_PIECE = 24
"""Samples taken of each piece of a curve that is to be fitted anew."""
A_SPAN = 32
"""Samples looked at for a span while candidates are compared."""


@dataclass(frozen=True)
class Fitted:
    """Cubics (n, 4, 2), and how far the samples lie off them at most, px (n,)."""

    cubics: Floats
    deviation: Floats


def fit_cubics(samples: Floats, start: Floats, end: Floats, rounds: int = ROUNDS) -> Fitted:
    """Fit one cubic to each row of samples, with its ends and the directions there given.

    Shapes:     ``samples`` (n, k, 2), in order, the first and last being the ends; ``start`` and
                ``end`` (n, 2) unit directions of travel at the ends.
    Units:      px.
    Accuracy:   least squares; ``deviation`` is the largest distance of a sample from the curve,
                at the parameter found for it: never less than the true one.
    Degenerate: samples that settle no length for a handle get a third of the chord.
    Source:     Schneider, 'An algorithm for automatically fitting digitized curves' (1990), for
                many spans at once; then Gauss and Newton's steps on the distances across the curve.
    """
    first, last = samples[:, 0], samples[:, -1]
    chord = np.hypot(*(last - first).T)
    t = _by_chords(samples)
    cubics = _solve(samples, t, start, end, chord)
    best = Fitted(cubics, _errors(samples, t, cubics))
    for _ in range(rounds):
        t = _improved(samples, t, cubics)
        cubics = _stepped(samples, t, start, end, chord, cubics)
        t = _improved(samples, t, cubics)
        # A step can make it worse; what was best of each span is kept.
        best = _better(best, Fitted(cubics, _errors(samples, t, cubics)))
    return best


def _better(one: Fitted, other: Fitted) -> Fitted:
    better = other.deviation < one.deviation
    return Fitted(
        np.where(better[:, None, None], other.cubics, one.cubics),
        np.where(better, other.deviation, one.deviation),
    )


def _by_chords(samples: Floats) -> Floats:
    steps = np.hypot(*np.diff(samples, axis=1).transpose(2, 0, 1))
    along = np.concatenate([np.zeros((len(samples), 1)), np.cumsum(steps, axis=1)], axis=1)
    total = along[:, -1:]
    even = np.linspace(0, 1, samples.shape[1])
    return np.where(total > 0, along / np.where(total > 0, total, 1.0), even)


def _solve(samples: Floats, t: Floats, start: Floats, end: Floats, chord: Floats) -> Floats:
    """Return the cubics whose handle lengths give the least sum of squares."""
    first, last = samples[:, :1], samples[:, -1:]
    b0, b1, b2, b3 = (share[..., None] for share in bezier.bernstein(t))
    rest = samples - first * (b0 + b1) - last * (b2 + b3)
    sound, a, b = _two_unknowns(b1 * start[:, None], -b2 * end[:, None], rest, "nkd,nkd->n")
    usable = sound & (np.minimum(a, b) > 1e-3 * chord)
    a, b = (np.where(usable, arm, chord / 3) for arm in (a, b))
    return _cubics(samples, start, end, a, b)


def _two_unknowns(
    one: Floats, two: Floats, rest: Floats, product: str
) -> tuple[NDArray[np.bool_], Floats, Floats]:
    """Return the a and b with which a x one + b x two come nearest to ``rest``, row by row, and
    where that can be told; ``product`` is how rows are multiplied, for einsum.
    """
    c11, c12, c22 = (np.einsum(product, u, v) for u, v in ((one, one), (one, two), (two, two)))
    x1, x2 = np.einsum(product, one, rest), np.einsum(product, two, rest)
    det, size = c11 * c22 - c12 * c12, c11 * c22
    sound = det > 1e-12 * np.maximum(size, np.finfo(float).tiny)
    safe = np.where(sound, det, 1.0)
    return sound, (x1 * c22 - x2 * c12) / safe, (c11 * x2 - c12 * x1) / safe


def _cubics(samples: Floats, start: Floats, end: Floats, a: Floats, b: Floats) -> Floats:
    p0, p3 = samples[:, 0], samples[:, -1]
    return np.stack([p0, p0 + a[:, None] * start, p3 - b[:, None] * end, p3], axis=1)


def _stepped(
    samples: Floats, t: Floats, start: Floats, end: Floats, chord: Floats, cubics: Floats
) -> Floats:
    """Return the cubics with handle lengths one step nearer to the least distances across."""
    value, velocity, _ = _at(cubics, t)
    across = _across(velocity)
    s = 1 - t
    one = 3 * s * s * t * np.einsum("nkd,nd->nk", across, start)
    two = -3 * s * t * t * np.einsum("nkd,nd->nk", across, end)
    rest = np.einsum("nkd,nkd->nk", across, samples - value)
    sound, da, db = _two_unknowns(one, two, rest, "nk,nk->n")
    a, b = np.hypot(*(cubics[:, 1] - cubics[:, 0]).T), np.hypot(*(cubics[:, 3] - cubics[:, 2]).T)
    # One step that is too bold must not turn a handle round, nor send it off.
    least, most = 1e-3 * chord, 3 * chord + np.maximum(a, b)
    a = np.where(sound, np.clip(a + da, least, most), a)
    b = np.where(sound, np.clip(b + db, least, most), b)
    return _cubics(samples, start, end, a, b)


def _across(velocity: Floats) -> Floats:
    """Return unit vectors across some velocities, (..., 2); none where there is no velocity."""
    across = np.stack([-velocity[..., 1], velocity[..., 0]], axis=2)
    size = np.hypot(across[..., 0], across[..., 1])[..., None]
    return np.asarray(across / np.where(size > 0, size, 1.0))


def _at(cubics: Floats, t: Floats) -> tuple[Floats, Floats, Floats]:
    """Return B, B' and B'' for cubics (n, 4, 2) at t (n, k)."""
    return bezier.derivatives(bezier.power_basis(cubics)[:, None], t)


def _improved(samples: Floats, t: Floats, cubics: Floats) -> Floats:
    value, first, second = _at(cubics, t)
    off = value - samples
    slope = (off * first).sum(axis=2)
    steep = (first * first).sum(axis=2) + (off * second).sum(axis=2)
    moved = t - np.where(steep > 0, slope / np.where(steep > 0, steep, 1.0), 0.0)
    moved[:, 0], moved[:, -1] = 0.0, 1.0
    return np.maximum.accumulate(np.clip(moved, 0.0, 1.0), axis=1)


def _errors(samples: Floats, t: Floats, cubics: Floats) -> Floats:
    off = _at(cubics, t)[0] - samples
    worst: Floats = np.hypot(off[..., 0], off[..., 1]).max(axis=1)
    return worst


class _SampledRun:
    """A subpath as samples and directions, so that spans of it can be asked for by their nodes."""

    def __init__(self, subpath: Subpath) -> None:
        self.nodes = subpath.live
        self.closed = subpath.closed
        pieces = subpath.segments()
        self.count = len(pieces)
        fine = bezier.sampled(pieces, np.arange(PER_PIECE) / PER_PIECE)
        self.points = np.concatenate([fine.reshape(-1, 2), pieces[-1:, 3]])
        self.leaving, self.arriving = _directions(pieces), -_directions(pieces[:, ::-1])
        straight = [a.handle_out == NONE and b.handle_in == NONE for a, b in subpath.pairs()]
        self.bent = np.concatenate([[0], np.cumsum(~np.array(straight, bool))])

    def spans(
        self, begin: NDArray[np.intp], pieces: NDArray[np.intp], most: int
    ) -> tuple[Floats, Floats, Floats]:
        """Return samples and end directions of spans of so many pieces, from a node on."""
        share = np.linspace(0, 1, most)
        index = np.rint(begin[:, None] * PER_PIECE + share * (pieces * PER_PIECE)[:, None]).astype(
            int
        )
        total = self.count * PER_PIECE
        samples = self.points[index % total if self.closed else index]
        return (
            samples,
            self.leaving[begin % self.count],
            self.arriving[(begin + pieces - 1) % self.count],
        )

    def is_straight(self, begin: NDArray[np.intp], pieces: NDArray[np.intp]) -> NDArray[np.bool_]:
        end = begin + pieces
        over = np.where(end > self.count, self.bent[np.minimum(end - self.count, self.count)], 0)
        found: NDArray[np.bool_] = (
            self.bent[np.minimum(end, self.count)] - self.bent[begin] + over == 0
        )
        return found

    def fit(
        self, begin: NDArray[np.intp], pieces: NDArray[np.intp], most: int, rounds: int = ROUNDS
    ) -> Fitted:
        """Fit each span with one cubic; a run of straight pieces with a straight line."""
        samples, start, end = self.spans(begin, pieces, most)
        cubics, deviation = _lines(samples)
        bent = ~self.is_straight(begin, pieces)
        if bent.any():
            fitted = fit_cubics(samples[bent], start[bent], end[bent], rounds)
            cubics[bent], deviation[bent] = fitted.cubics, fitted.deviation
        return Fitted(cubics, deviation)


def _lines(samples: Floats) -> tuple[Floats, Floats]:
    """Return the straight cubics between the ends, and how far the samples lie off them."""
    first, last = samples[:, 0], samples[:, -1]
    way = last - first
    step = way / 3
    chord = np.hypot(*way.T)[:, None]
    unit = way / np.where(chord > 0, chord, 1.0)
    off = samples - first[:, None]
    along = np.clip(np.einsum("nkd,nd->nk", off, unit), 0.0, chord)
    away = off - along[..., None] * unit[:, None]
    cubics = np.stack([first, first + step, last - step, last], axis=1)
    return cubics, np.hypot(away[..., 0], away[..., 1]).max(axis=1)


def _directions(pieces: Floats) -> Floats:
    """Return the unit direction in which each piece starts; (1, 0) for a piece of one point."""
    out = np.tile([1.0, 0.0], (len(pieces), 1))
    size = np.abs(pieces - pieces[:, :1]).max(axis=(1, 2))
    for k in (3, 2, 1):
        d = pieces[:, k] - pieces[:, 0]
        length = np.hypot(d[:, 0], d[:, 1])
        use = length > 1e-9 * size
        out[use] = d[use] / length[use, None]
    return out


def without_nodes(subpath: Subpath, gone: set[str]) -> tuple[Subpath, float]:
    """Take nodes out and heal the curve with the best fit; return it and the deviation in px.

    Accuracy:   the new pieces start and end in the directions the old ones had; the deviation is
                that of 24 places of each old piece from the new one. A run of straight pieces
                is healed with a straight one.
    Degenerate: nodes at the end of an open subpath take their pieces with them. Disabled nodes
                between healed ones stay where they are.
    Errors:     ValueError: fewer than two live nodes would be left.
    """
    course = _SampledRun(subpath)
    live = course.nodes
    kept = [i for i, node in enumerate(live) if node.id not in gone]
    if len(kept) < 2:
        raise ValueError("A path keeps at least two nodes.")
    return _rebuilt(subpath, course, np.array(kept), gone)


def _rebuilt(
    subpath: Subpath, course: _SampledRun, kept: NDArray[np.intp], gone: set[str]
) -> tuple[Subpath, float]:
    """Make the subpath of the kept live nodes; spans of one piece stay as they are."""
    following = np.append(kept[1:], kept[0] + course.count) if subpath.closed else kept[1:]
    begin = kept[: len(following)]
    long = following - begin > 1
    fresh, worst = {node.id: node for node in subpath.nodes}, 0.0
    if long.any():
        worst = _heal(course, begin[long], following[long], fresh)
    nodes = tuple(with_true_kind(fresh[node.id]) for node in subpath.nodes if node.id not in gone)
    return replace(subpath, nodes=nodes), worst


def _heal(course: _SampledRun, begin: Ints, end: Ints, fresh: dict[str, Node]) -> float:
    """Give the nodes at both ends of spans handles that carry one piece over each; return how far
    that is off.
    """
    fit = course.fit(begin, end - begin, most=_most(end - begin))
    straight = course.is_straight(begin, end - begin)
    ids = [node.id for node in course.nodes]
    spans = zip(begin, end % len(ids), strict=True)
    for (a, b), cubic, line in zip(spans, fit.cubics, straight, strict=True):
        out, into = (_pair(cubic[1] - cubic[0]), _pair(cubic[2] - cubic[3]))
        fresh[ids[a]] = replace(fresh[ids[a]], handle_out=NONE if line else out)
        fresh[ids[b]] = replace(fresh[ids[b]], handle_in=NONE if line else into)
    return float(fit.deviation.max())


def _most(pieces: Ints) -> int:
    """Return how many samples the longest of some spans has."""
    return int(pieces.max()) * PER_PIECE + 1


def simplified(
    subpath: Subpath, tolerance: float, keep: Collection[str] = ()
) -> tuple[Subpath, float]:
    """Take out the nodes that add nothing: return a lighter subpath and how far it is off, px.

    Accuracy: every removal is compared with the curve as it was at first, not with the last step;
              the deviation returned is measured on 24 places of each old piece.
    Degenerate: ends, locked nodes and ``keep`` stay; a closed subpath keeps three nodes.
    Source:   the cheapest removal first, many at once where they do not touch each other.
    """
    course = _SampledRun(subpath)
    live = course.nodes
    fixed = _fixed(course, keep)
    fewest = 3 if subpath.closed else 2
    kept = np.arange(len(live))
    cost = np.full(len(live), np.nan)  # nan: not known, or not any more
    while len(kept) > fewest:
        _price(course, kept, cost, fixed)
        out = _cheapest(cost[kept], tolerance, len(kept) - fewest)
        if not out.any():
            break
        cost[kept[np.roll(out, 1) | np.roll(out, -1)]] = np.nan
        kept = kept[~out]
    gone = {live[i].id for i in np.setdiff1d(np.arange(len(live)), kept)}
    return _rebuilt(subpath, course, kept, gone) if gone else (subpath, 0.0)


def _fixed(course: _SampledRun, keep: Collection[str]) -> NDArray[np.bool_]:
    """Tell which nodes may not be taken out."""
    fixed = np.array([node.id in keep or node.locked for node in course.nodes])
    if not course.closed:
        fixed[[0, -1]] = True
    return fixed


def _price(
    course: _SampledRun, kept: NDArray[np.intp], cost: Floats, fixed: NDArray[np.bool_]
) -> None:
    """Fill in what it costs to take out each kept node of which that is not known."""
    # Only neighbours of what was taken out have another price now.
    unknown = np.isnan(cost[kept])
    cost[kept[unknown & fixed[kept]]] = np.inf
    asked = np.flatnonzero(unknown & ~fixed[kept])
    if len(asked):
        before, after = kept[asked - 1], kept[(asked + 1) % len(kept)]
        count = len(course.nodes)
        pieces = (after - before) % count if course.closed else after - before
        whole = np.where(pieces == 0, count, pieces)  # from a node round to itself
        cost[kept[asked]] = course.fit(before, whole, A_SPAN, GUESSES).deviation


def _cheapest(cost: Floats, tolerance: float, most: int) -> NDArray[np.bool_]:
    """Mark which can go together: none next to another, the cheapest first."""
    out = np.zeros(len(cost), bool)
    for at in np.argsort(cost, kind="stable"):
        if cost[at] > tolerance or most == 0:
            break
        if not (out[at - 1] or out[(at + 1) % len(cost)]):
            out[at] = True
            most -= 1
    return out


def _pair(v: Floats) -> Vec2:
    return float(v[0]), float(v[1])
