"""Cubic Bezier segments as arrays of control points, shape (n, 4, 2)."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def power_basis(segments: Floats) -> Floats:
    """Return coefficients (n, 4, 2) so that B(t) = c0 + c1 t + c2 t^2 + c3 t^3."""
    p0, p1, p2, p3 = (segments[:, k] for k in range(4))
    return np.stack([p0, 3 * (p1 - p0), 3 * (p0 - 2 * p1 + p2), p3 - p0 + 3 * (p1 - p2)], axis=1)


def velocity_basis(segments: Floats) -> Floats:
    """Return coefficients (n, 3, 2) of B'(t), computed from differences of control points.

    Accuracy: exact to rounding relative to the segment's own size, wherever it lies.
    """
    d = np.diff(segments, axis=1)
    return np.stack(
        [3 * d[:, 0], 6 * (d[:, 1] - d[:, 0]), 3 * (d[:, 2] - 2 * d[:, 1] + d[:, 0])], axis=1
    )


def velocity(basis: Floats, t: Floats) -> Floats:
    """Return B'(t); ``basis`` (..., 3, 2) of ``velocity_basis``, ``t`` (...), out (..., 2)."""
    t = t[..., None]
    return basis[..., 0, :] + t * (basis[..., 1, :] + t * basis[..., 2, :])


def points_at(segments: Floats, t: Floats) -> Floats:
    """Return B(t) for one ``t`` a segment: (n, 4, 2) and (n,) give (n, 2).

    Accuracy: Bernstein form; exact at t = 0 and t = 1.
    """
    t = t[:, None]
    s = 1 - t
    p0, p1, p2, p3 = (segments[:, k] for k in range(4))
    return s * s * s * p0 + 3 * s * s * t * p1 + 3 * s * t * t * p2 + t * t * t * p3


def sampled(segments: Floats, parameters: Floats) -> Floats:
    """Return B(t) of each segment at the same parameters: (n, 4, 2) and (k,) give (n, k, 2)."""
    every = (points_at(segments, np.full(len(segments), t)) for t in parameters)
    return np.stack(list(every), axis=1)


def bernstein(t: Floats) -> tuple[Floats, Floats, Floats, Floats]:
    """Return the shares that the four control points have in B(t), each of the shape of ``t``."""
    s = 1 - t
    return s**3, 3 * s * s * t, 3 * s * t * t, t**3


def derivatives(basis: Floats, t: Floats) -> tuple[Floats, Floats, Floats]:
    """Return B, B' and B'' at ``t`` (...), each (..., 2); ``basis`` (..., 4, 2) of
    ``power_basis``.
    """
    c0, c1, c2, c3 = (basis[..., k, :] for k in range(4))
    u = t[..., None]
    value = c0 + u * (c1 + u * (c2 + u * c3))
    return value, c1 + u * (2 * c2 + 3 * u * c3), 2 * c2 + 6 * u * c3


def split(segment: Floats, t: float) -> tuple[Floats, Floats]:
    """Cut one segment (4, 2) at ``t`` into two (de Casteljau)."""
    a = segment[:-1] + t * (segment[1:] - segment[:-1])
    b = a[:-1] + t * (a[1:] - a[:-1])
    c = b[0] + t * (b[1] - b[0])
    return np.stack([segment[0], a[0], b[0], c]), np.stack([c, b[1], a[2], segment[3]])


def slowest_parameters(segments: Floats) -> Floats:
    """Return the places where |B'|^2 has a stationary point inside 0..1.

    Shapes:     (n, 4, 2) in, (n, 3) out; unused entries are 1.0.
    Accuracy:   near cusps and turns these are where quadrature converges worst, so they only
                need to be close: they are cut points, not results.
    Degenerate: a segment of one point gives no entries.
    """
    a, b, c = (velocity_basis(segments)[:, k] for k in range(3))
    # d/dt |a + b t + c t^2|^2 / 2 = a.b + (b.b + 2 a.c) t + 3 b.c t^2 + 2 c.c t^3
    cubic = np.stack(
        [_dot(a, b), _dot(b, b) + 2 * _dot(a, c), 3 * _dot(b, c), 2 * _dot(c, c)], axis=1
    )
    moving = np.abs(cubic).max(axis=1, initial=0.0) > 0
    out = np.ones((len(segments), 3))
    if moving.any():
        out[moving] = _real_inside(roots(cubic[moving]))
    return out


def _real_inside(found: NDArray[np.complexfloating[Any, Any]]) -> Floats:
    """Return roots, ascending; those that are not real or not within 0..1 are 1.0."""
    inside = (np.abs(found.imag) < 1e-6) & (found.real > 1e-9) & (found.real < 1 - 1e-9)
    return np.sort(np.where(inside, found.real, 1.0), axis=1)


def roots(coefficients: Floats) -> NDArray[np.complexfloating]:
    """Return the roots of polynomials, constants first (k, m + 1): (k, m).

    Degenerate: a vanishing leading coefficient becomes a tiny one; its root lies far outside 0..1.
    """
    degree = coefficients.shape[1] - 1
    size = np.abs(coefficients).max(axis=1, keepdims=True)
    scaled = coefficients / np.where(size > 0, size, 1.0)
    lead = np.where(np.abs(scaled[:, degree:]) < 1e-12, 1e-12, scaled[:, degree:])
    companion = np.zeros((len(scaled), degree, degree))
    companion[:, range(1, degree), range(degree - 1)] = 1.0
    companion[:, :, -1] = -scaled[:, :degree] / lead
    return np.asarray(np.linalg.eigvals(companion))


def _dot(u: Floats, v: Floats) -> Floats:
    product: Floats = np.einsum("ij,ij->i", u, v)
    return product


def bounds(segments: Floats) -> tuple[float, float, float, float]:
    """Return (left, top, right, bottom) of the curves themselves, not of their handles.

    Errors: ValueError for no segments.
    """
    candidates = [segments[:, 0], segments[:, 3]]
    basis = velocity_basis(segments)
    for axis in (0, 1):
        c, b, a = (basis[:, k, axis] for k in range(3))
        with np.errstate(divide="ignore", invalid="ignore"):
            root = np.sqrt(b * b - 4 * a * c)
            q = -(b + np.copysign(root, b)) / 2
            for t in (q / a, c / q):
                t = np.clip(np.nan_to_num(t, nan=0.0, posinf=0.0, neginf=0.0), 0.0, 1.0)
                candidates.append(points_at(segments, t))
    points = np.concatenate(candidates)
    (left, top), (right, bottom) = points.min(axis=0), points.max(axis=0)
    return float(left), float(top), float(right), float(bottom)
