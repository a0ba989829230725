"""Paths made lighter: nodes taken out, and the curve healed with one cubic over each gap."""

from collections.abc import Collection
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from coaster.geometry import bezier
from coaster.geometry.bezier import Floats
from coaster.geometry.fitting import ROUNDS, Fitted, fit_cubics
from coaster.geometry.handles import NONE, with_true_kind
from coaster.geometry.path import Node, Subpath, Vec2, are_thirds, handle_depths

Ints = NDArray[np.intp]
GUESSES = 2
"""Improvements of what is only compared."""
PER_PIECE = 24
"""Samples taken of each piece of a curve that is to be fitted anew."""
A_SPAN = 32
"""Samples looked at for a span while candidates are compared."""


class _SampledRun:
    """A subpath as samples and directions, so that spans of it can be asked for by their nodes."""

    def __init__(self, subpath: Subpath) -> None:
        self.nodes = subpath.live
        self.closed = subpath.closed
        self.is_deep = subpath.is_deep
        self.handle_depths = handle_depths(subpath) if self.is_deep else {}
        pieces = subpath.segments()
        if self.is_deep:
            pieces = np.concatenate([pieces, subpath.depths()[..., None]], axis=2)
        self.count = len(pieces)
        fine = bezier.sampled(pieces, np.arange(PER_PIECE) / PER_PIECE)
        self.points = np.concatenate([fine.reshape(-1, pieces.shape[2]), pieces[-1:, 3]])
        self.leaving, self.arriving = _directions(pieces), -_directions(pieces[:, ::-1])
        straight = [a.handle_out == NONE and b.handle_in == NONE for a, b in subpath.pairs()]
        if self.is_deep:
            straight = np.logical_and(straight, are_thirds(pieces)).tolist()
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
    chord = _sizes(way)[:, None]
    unit = way / np.where(chord > 0, chord, 1.0)
    off = samples - first[:, None]
    along = np.clip(np.einsum("nkd,nd->nk", off, unit), 0.0, chord)
    away = off - along[..., None] * unit[:, None]
    cubics = np.stack([first, first + step, last - step, last], axis=1)
    return cubics, _sizes(away).max(axis=1)


def _sizes(ways: Floats) -> Floats:
    """Return the lengths of ways (..., 2), or in space (..., 3)."""
    if ways.shape[-1] == 2:
        return np.asarray(np.hypot(ways[..., 0], ways[..., 1]))
    return np.asarray(np.linalg.norm(ways, axis=-1))


def _directions(pieces: Floats) -> Floats:
    """Return the unit direction in which each piece starts; that of x for a piece of one point."""
    out = np.zeros((len(pieces), pieces.shape[2]))
    out[:, 0] = 1.0
    size = np.abs(pieces - pieces[:, :1]).max(axis=(1, 2))
    for k in (3, 2, 1):
        d = pieces[:, k] - pieces[:, 0]
        length = _sizes(d)
        use = length > 1e-9 * size
        out[use] = d[use] / length[use, None]
    return out


def without_nodes(subpath: Subpath, gone: set[str]) -> tuple[Subpath, float]:
    """Take nodes out and heal the curve with the best fit; return it and the deviation in px.

    In depth it is healed in space.

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
    depths = course.handle_depths
    spans = zip(begin, end % len(ids), strict=True)
    for (a, b), cubic, line in zip(spans, fit.cubics, straight, strict=True):
        out, into = (_pair(cubic[1] - cubic[0]), _pair(cubic[2] - cubic[3]))
        fresh[ids[a]] = replace(fresh[ids[a]], handle_out=NONE if line else out)
        fresh[ids[b]] = replace(fresh[ids[b]], handle_in=NONE if line else into)
        if course.is_deep:
            out_z, into_z = float(cubic[1, 2] - cubic[0, 2]), float(cubic[2, 2] - cubic[3, 2])
            # The other handle of each, over which nothing was healed, stays as deep as it was.
            for name, side, z in ((ids[a], 1, out_z), (ids[b], 0, into_z)):
                fresh[name] = _with_depth(fresh[name], side, z, depths[name])
    return float(fit.deviation.max())


def _with_depth(node: Node, side: int, z: float, before: tuple[float, float]) -> Node:
    """Return a node with the depth of its handle in (0) or out (1) set; what they were ``before``
    counts where it has none of its own yet.
    """
    into, out = node.handle_z or before
    return replace(node, handle_z=(into, z) if side else (z, out))


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
