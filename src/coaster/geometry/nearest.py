"""The place of a path that lies nearest to a point."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from coaster.errors import GeometryError
from coaster.geometry import bezier
from coaster.geometry.bezier import Floats

SAMPLES = np.linspace(0.0, 1.0, 9)
NEWTON_STEPS = 5
GOLDEN = (5**0.5 - 1) / 2
AT_ONCE = 200_000
"""Pairs of a point and a segment that are looked at in one go, to keep memory small."""


@dataclass(frozen=True)
class Nearest:
    """For each point: the segment (m,), the parameter on it (m,), the place (m, 2), the distance
    (m,).
    """

    segment: NDArray[np.intp]
    parameter: Floats
    position: Floats
    distance: Floats


def nearest(segments: ArrayLike, points: ArrayLike) -> Nearest:
    """Return the place of a run of cubics that lies nearest to each point.

    Shapes:     ``segments`` (n, 4, 2), ``points`` (m, 2).
    Units:      px; hit-testing within a radius is ``distance <= radius``, which is right where an
                offset outline of the curve would cross itself.
    Accuracy:   the distance within 1e-9 x the size of segments and points (estimated).
    Degenerate: of places equally near, the first along the path; segments of one point count.
    Errors:     GeometryError: no segments, or not finite.
    Source:     roots of (B(t) - p) . B'(t), a quintic, by its companion matrix, polished by Newton
                steps; segments whose box is further off than a sample of another are left out.
    """
    s, p = np.asarray(segments, float), np.asarray(points, float).reshape(-1, 2)
    if s.ndim != 3 or s.shape[1:] != (4, 2) or not len(s):
        raise GeometryError("A path needs at least one piece between two points.")
    if not (np.isfinite(s).all() and np.isfinite(p).all()):
        raise GeometryError("A coordinate is not a number.")
    step = max(1, AT_ONCE // len(s))
    parts = [_nearest(s, p[i : i + step]) for i in range(0, len(p), step)] or [_nearest(s, p)]
    segment, t = (np.concatenate(column) for column in zip(*parts, strict=True))
    position = bezier.points_at(s[segment], t)
    return Nearest(segment, t, position, np.hypot(*(position - p).T))


def nearest_as_drawn(
    segments: Floats, drawn: Callable[[Floats], Floats], point: ArrayLike
) -> tuple[int, float]:
    """Return the segment, and the parameter on it, at which a run of cubics comes nearest to a
    point as it is drawn: from a side, in perspective, or in space itself.

    Shapes:     ``segments`` (n, 4, 3); ``drawn`` takes places (..., 3) to (..., d), the point is
                (d,).
    Accuracy:   the parameter within 1e-6, of the stretch round the best of 33 samples a segment.
    Source:     golden-section search.
    """
    shares, wanted = np.linspace(0.0, 1.0, 33), np.asarray(point, float)

    def away(number: int, t: ArrayLike) -> Floats:
        at = np.atleast_1d(np.asarray(t, float))
        there = drawn(bezier.points_at(np.repeat(segments[number : number + 1], len(at), 0), at))
        return np.asarray(np.linalg.norm(there - wanted, axis=-1))

    number = int(np.argmin([away(i, shares).min() for i in range(len(segments))]))
    best = shares[int(np.argmin(away(number, shares)))]
    low, high = max(best - shares[1], 0.0), min(best + shares[1], 1.0)
    for _ in range(30):
        a, b = high - GOLDEN * (high - low), low + GOLDEN * (high - low)
        low, high = (low, b) if away(number, a)[0] <= away(number, b)[0] else (a, high)
    return number, float((low + high) / 2)


def _nearest(s: Floats, p: Floats) -> tuple[NDArray[np.intp], Floats]:
    size = max(float(np.abs(s).max()), float(np.abs(p).max(initial=0.0)))
    slack = 1e-12 * size
    owner, segment = np.nonzero(_may_hold_nearest(s, p, slack))
    t, distance = _on_segments(s[segment], p[owner])
    # The first of the least: sort by owner, then by distance rounded off, then along the path.
    order = np.lexsort((segment, np.round(distance / (slack or 1.0)), owner))
    first = order[np.searchsorted(owner[order], np.arange(len(p)))]
    return segment[first], t[first]


def _may_hold_nearest(s: Floats, p: Floats, slack: float) -> NDArray[np.bool_]:
    """Mark for each point the segments whose box is no farther off than a sample of any, (m, n)."""
    away = bezier.sampled(s, SAMPLES)[None] - p[:, None, None]
    bound = np.hypot(*away.transpose(3, 0, 1, 2)).min(axis=2)
    low, high = s.min(axis=1), s.max(axis=1)
    points = p[:, None]
    outside = np.maximum(np.maximum(low - points, points - high), 0.0)
    least = np.hypot(outside[..., 0], outside[..., 1])
    return np.asarray(least <= bound.min(axis=1, keepdims=True) + slack)


def _on_segments(s: Floats, p: Floats) -> tuple[Floats, Floats]:
    """Return for pairs of a segment (k, 4, 2) and a point (k, 2) the parameter and the distance."""
    c = bezier.power_basis(s)
    c[:, 0] = s[:, 0] - p
    quintic = _feet(c)
    slope = quintic[:, 1:] * np.arange(1, 6)
    ends = np.broadcast_to(SAMPLES, (len(s), len(SAMPLES)))
    candidates = np.concatenate([np.clip(bezier.roots(quintic).real, 0.0, 1.0), ends], axis=1)
    for _ in range(NEWTON_STEPS):
        value, steep = _horner(quintic, candidates), _horner(slope, candidates)
        with np.errstate(divide="ignore", invalid="ignore"):
            moved = np.clip(candidates - np.where(steep > 0, value / steep, 0.0), 0.0, 1.0)
        better = _distance(c, moved) <= _distance(c, candidates)
        candidates = np.where(better, moved, candidates)
    distance = _distance(c, candidates)
    rows, least = np.arange(len(s)), distance.argmin(axis=1)
    return candidates[rows, least], distance[rows, least]


def _feet(c: Floats) -> Floats:
    """Return the coefficients (k, 6) of B . B' for curves c (k, 4, 2) seen from their points; its
    roots are the feet of these.
    """
    c0, c1, c2, c3 = (c[:, k] for k in range(4))
    columns = [
        _dot(c0, c1),
        2 * _dot(c0, c2) + _dot(c1, c1),
        3 * (_dot(c0, c3) + _dot(c1, c2)),
        4 * _dot(c1, c3) + 2 * _dot(c2, c2),
        5 * _dot(c2, c3),
        3 * _dot(c3, c3),
    ]
    return np.stack(columns, axis=1)


def _horner(coefficients: Floats, t: Floats) -> Floats:
    total = np.zeros_like(t)
    for k in reversed(range(coefficients.shape[1])):
        total = total * t + coefficients[:, k : k + 1]
    return total


def _distance(c: Floats, t: Floats) -> Floats:
    """|c0 + c1 t + c2 t^2 + c3 t^3| for c (k, 4, 2) and t (k, r)."""
    x, y = (_horner(c[:, :, axis], t) for axis in (0, 1))
    return np.hypot(x, y)


def _dot(u: Floats, v: Floats) -> Floats:
    product: Floats = np.einsum("ij,ij->i", u, v)
    return product
