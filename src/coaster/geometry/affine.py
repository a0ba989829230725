"""Affine maps as rows of six numbers ``a b c d e f``, in the order of SVG's ``matrix()``."""

from collections.abc import Iterable

import numpy as np
from numpy.typing import ArrayLike, NDArray

Matrix = tuple[float, float, float, float, float, float]
IDENTITY: Matrix = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)


def compose(outer: ArrayLike, inner: ArrayLike) -> NDArray[np.float64]:
    """Return the map that applies ``inner`` first and ``outer`` after it.

    Shapes:     (..., 6) each, broadcast against each other.
    """
    o, i = np.asarray(outer, float), np.asarray(inner, float)
    a, b, c, d, e, f = (o[..., k] for k in range(6))
    p, q, r, s, t, u = (i[..., k] for k in range(6))
    columns = (a * p + c * q, b * p + d * q, a * r + c * s, b * r + d * s)
    return np.stack([*columns, a * t + c * u + e, b * t + d * u + f], axis=-1)


def chain(matrices: Iterable[ArrayLike]) -> NDArray[np.float64]:
    """Return the product of the maps, the first one being the outermost."""
    result = np.asarray(IDENTITY, float)
    for matrix in matrices:
        result = compose(result, matrix)
    return result


def product(*maps: Matrix) -> Matrix:
    """Return what ``chain`` gives of single maps, as plain numbers: of few they are much quicker
    than arrays.
    """
    a, b, c, d, e, f = IDENTITY
    for p, q, r, s, t, u in maps:
        a, b, c, d, e, f = (
            a * p + c * q, b * p + d * q, a * r + c * s, b * r + d * s,
            a * t + c * u + e, b * t + d * u + f,
        )  # fmt: skip
    return (a, b, c, d, e, f)


def moved(x: float, y: float) -> Matrix:
    """Return what ``translation`` gives of two numbers, as plain numbers."""
    return (1.0, 0.0, 0.0, 1.0, x, y)


def apply(matrix: ArrayLike, points: ArrayLike) -> NDArray[np.float64]:
    """Map points of shape (..., 2) by one matrix."""
    a, b, c, d, e, f = np.asarray(matrix, float)
    p = np.asarray(points, float)
    x, y = p[..., 0], p[..., 1]
    return np.stack([a * x + c * y + e, b * x + d * y + f], axis=-1)


def translation(x: ArrayLike, y: ArrayLike) -> NDArray[np.float64]:
    x, y = np.broadcast_arrays(np.asarray(x, float), np.asarray(y, float))
    one, zero = np.ones_like(x), np.zeros_like(x)
    return np.stack([one, zero, zero, one, x, y], axis=-1)


def scaling(x: ArrayLike, y: ArrayLike) -> NDArray[np.float64]:
    x, y = np.broadcast_arrays(np.asarray(x, float), np.asarray(y, float))
    zero = np.zeros_like(x)
    return np.stack([x, zero, zero, y, zero, zero], axis=-1)


def rotation(angle: ArrayLike) -> NDArray[np.float64]:
    """Clockwise on the screen (y points down) for positive ``angle``, in radians."""
    angle = np.asarray(angle, float)
    cos, sin, zero = np.cos(angle), np.sin(angle), np.zeros_like(angle)
    return np.stack([cos, sin, -sin, cos, zero, zero], axis=-1)


def apply_each(matrices: ArrayLike, points: ArrayLike) -> NDArray[np.float64]:
    """Map the same points (k, 2) by each of the matrices (n, 6): (n, k, 2)."""
    m, p = np.asarray(matrices, float), np.asarray(points, float)
    x, y = p[:, 0], p[:, 1]
    across = np.outer(m[:, 0], x) + np.outer(m[:, 2], y) + m[:, 4, None]
    down = np.outer(m[:, 1], x) + np.outer(m[:, 3], y) + m[:, 5, None]
    return np.stack([across, down], axis=-1)


def largest_scale(matrix: ArrayLike) -> NDArray[np.float64]:
    """Return the largest factors by which maps (..., 6) stretch any direction (their spectral
    norms).
    """
    a, b, c, d, _, _ = np.moveaxis(np.asarray(matrix, float), -1, 0)
    half = (a * a + b * b + c * c + d * d) / 2
    norm: NDArray[np.float64] = np.sqrt(
        half + np.sqrt(np.maximum(half * half - (a * d - b * c) ** 2, 0.0))
    )
    return norm


def inverse(matrix: ArrayLike) -> NDArray[np.float64]:
    """Return the maps that take back maps (..., 6).

    Degenerate: where a map flattens everything there is no way back; the identity stands in.
    """
    a, b, c, d, e, f = np.moveaxis(np.asarray(matrix, float), -1, 0)
    size = a * d - b * c
    flat = np.abs(size) < 1e-12
    area = np.where(flat, 1.0, size)
    columns = [
        d / area,
        -b / area,
        -c / area,
        a / area,
        (c * f - d * e) / area,
        (b * e - a * f) / area,
    ]
    found = np.stack(columns, axis=-1)
    return np.where(flat[..., None], np.asarray(IDENTITY), found)


def apply_rows(matrices: ArrayLike, points: ArrayLike) -> NDArray[np.float64]:
    """Map each of the points (n, 2) by the map of its row, (n, 6) or (1, 6)."""
    a, b, c, d, e, f = np.moveaxis(np.asarray(matrices, float), -1, 0)
    x, y = np.asarray(points, float).T
    return np.stack([a * x + c * y + e, b * x + d * y + f], axis=-1)


def from_parts(turn: float, skew: float, across: float, down: float) -> NDArray[np.float64]:
    """Return scale, then skew, then turn (degrees) as one matrix (2, 2)."""
    angle, lean = np.radians(turn), -np.tan(np.radians(skew))
    cos, sin = np.cos(angle), np.sin(angle)
    slanted = np.array([[across, lean * down], [0.0, down]])
    made: NDArray[np.float64] = np.array([[cos, -sin], [sin, cos]]) @ slanted
    return made


def to_parts(linear: ArrayLike) -> tuple[float, float, float, float]:
    """Return the turn, skew (degrees) and scale across and down that a matrix (2, 2) is made of.

    Degenerate: what is flat down has no skew.
    """
    (a, c), (b, d) = np.asarray(linear, float)
    turn, skew, across, down = to_parts_each(np.array([[a, b, c, d, 0, 0]])).tolist()[0]
    return turn, skew, across, down


def to_parts_each(matrices: ArrayLike) -> NDArray[np.float64]:
    """Return the same of the maps (n, 6), (n, 4)."""
    a, b, c, d = np.asarray(matrices, float)[:, :4].T
    turn = np.arctan2(b, a)
    lean, down = np.cos(turn) * c + np.sin(turn) * d, np.cos(turn) * d - np.sin(turn) * c
    skew = -np.degrees(np.arctan(np.divide(lean, down, out=np.zeros_like(down), where=down != 0)))
    return np.stack([np.degrees(turn), skew, np.hypot(a, b), down], axis=1)
