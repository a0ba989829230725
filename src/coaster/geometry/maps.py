"""Maps of the plane, flat ones as rows of six numbers (see ``affine``), perspective ones as rows of
nine.

Nine are a 3 x 3 matrix row by row; x, y is mapped to (p, q, w) and seen at p / w, q / w. What is
flat stays six numbers, so that a scene without depth pays nothing.
"""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from coaster.geometry import affine

Maps = NDArray[np.float64]
NEAREST = 1e-6
"""The least w in front of the viewer; what lies nearer or behind is put there."""


def is_flat(maps: Maps) -> bool:
    return bool(maps.shape[-1] == 6)


def full(maps: Maps) -> Maps:
    """Return maps (..., 6) or (..., 9) as (..., 3, 3)."""
    if not is_flat(maps):
        return maps.reshape(*maps.shape[:-1], 3, 3)
    a, b, c, d, e, f = np.moveaxis(maps, -1, 0)
    zero, one = np.zeros_like(a), np.ones_like(a)
    return np.stack([a, c, e, b, d, f, zero, zero, one], axis=-1).reshape(*maps.shape[:-1], 3, 3)


def compose(outer: ArrayLike, inner: ArrayLike) -> Maps:
    """Return the maps that apply ``inner`` first; flat if both are. Shapes broadcast."""
    o, i = np.asarray(outer, float), np.asarray(inner, float)
    if is_flat(o) and is_flat(i):
        return affine.compose(o, i)
    both: Maps = full(o) @ full(i)
    return both.reshape(*both.shape[:-2], 9)


def apply_each(maps: Maps, points: ArrayLike) -> Maps:
    """Map the same points (k, 2) by each of the maps (n, 6) or (n, 9): (n, k, 2)."""
    if is_flat(maps):
        return affine.apply_each(maps, points)
    flat = np.asarray(points, float)
    seen = np.concatenate([flat, np.ones((len(flat), 1))], axis=1)
    p = np.einsum("nij,kj->nki", full(maps), seen)
    return np.asarray(p[..., :2] / np.maximum(p[..., 2:], NEAREST))


def largest_scale(maps: Maps, corners: Maps) -> Maps:
    """Return the largest factors by which maps stretch any direction at any of the ``corners`` (k,
    2), (n,).
    """
    if is_flat(maps):
        return affine.largest_scale(maps)
    step = 1e-3
    here = apply_each(maps, corners)
    across = (apply_each(maps, corners + np.array([step, 0.0])) - here) / step
    down = (apply_each(maps, corners + np.array([0.0, step])) - here) / step
    zero = np.zeros_like(across[..., 0])
    local = np.stack(
        [across[..., 0], across[..., 1], down[..., 0], down[..., 1], zero, zero], axis=-1
    )
    return np.asarray(affine.largest_scale(local).max(axis=1))


def area_factor(maps: Maps) -> Maps:
    """Return by how much areas grow, with the sign of a mirror; of perspective at its origin."""
    if not is_flat(maps):
        return np.asarray(np.linalg.det(full(maps)))
    a, b, c, d, _, _ = np.moveaxis(maps, -1, 0)
    return np.asarray(a * d - b * c)
