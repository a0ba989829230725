"""Maps of the plane, flat ones as rows of six numbers (see ``affine``), perspective ones as rows of
nine.

Nine are a 3 x 3 matrix row by row; x, y is mapped to (p, q, w) and seen at p / w, q / w. What is
flat stays six numbers, so that a scene without depth pays nothing.
"""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from coaster.geometry import affine

Maps = NDArray[np.float64]
NEAR = 0.02
"""The least w at which anything is seen, a fiftieth of the viewer's distance from the picture: what
lies nearer, or behind, is cut off.
"""


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
    return np.asarray(p[..., :2] / np.maximum(p[..., 2:], NEAR))


def outline_of(maps: Maps, corners: ArrayLike) -> Maps:
    """Return where the corners (k, 2) of a convex shape are seen: (n, k, 2), or (n, 2k, 2) in
    perspective, where a corner that is too near stands for what is cut off there. Where nothing is
    seen, all is NaN.
    """
    if is_flat(maps):
        return affine.apply_each(maps, corners)
    whole = np.concatenate([np.asarray(corners, float), np.ones((len(np.asarray(corners)), 1))], 1)
    p = np.einsum("nij,kj->nki", full(maps), whole)
    if (p[..., 2] >= NEAR).all():
        return np.asarray(p[..., :2] / p[..., 2:])
    # Each corner as come to from the one before, and as left to the one behind.
    ends = [_cut_off(p, np.roll(p, shift, axis=1)) for shift in (1, -1)]
    return np.stack(ends, axis=2).reshape(len(p), -1, 2)


def _cut_off(p: Maps, towards: Maps) -> Maps:
    """Return where points (n, k, 3) are seen: one that is too near, where the way from it to
    another becomes far enough; NaN where none of that is.
    """
    w, other = p[..., 2], towards[..., 2]
    near = w < NEAR
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.where(near, (NEAR - w) / (other - w), 0.0)[..., None]
        point = p + share * (towards - p)
        seen = point[..., :2] / point[..., 2:]
    return np.where((near & (other < NEAR))[..., None], np.nan, seen)


def origins(maps: Maps) -> Maps:
    """Return where maps (..., 6) or (..., 9) bring the origin, (..., 2)."""
    if is_flat(maps):
        return np.asarray(maps[..., 4:6])
    return np.asarray(maps[..., [2, 5]] / np.maximum(maps[..., 8:], NEAR))


def extremes(points: Maps) -> tuple[Maps, Maps]:
    """Return the least and the greatest (n, 2) of points (n, k, 2) that are seen; where none is,
    the greatest is less.
    """
    if not np.isnan(points).any():
        return points.min(axis=1), points.max(axis=1)
    unseen = np.isnan(points)
    least = np.where(unseen, np.inf, points).min(axis=1)
    most = np.where(unseen, -np.inf, points).max(axis=1)
    nothing = ~np.isfinite(least)
    return np.where(nothing, 0.0, least), np.where(nothing, -1.0, most)


def inverse(maps: Maps) -> Maps:
    """Return the maps that take back maps (..., 6) or (..., 9); see ``affine.inverse``."""
    if is_flat(maps):
        return affine.inverse(maps)
    matrices = full(maps)
    flat = np.abs(np.linalg.det(matrices)) < 1e-12
    matrices = np.where(flat[..., None, None], np.eye(3), matrices)
    return np.asarray(np.linalg.inv(matrices).reshape(maps.shape))


def apply(row: Maps, points: ArrayLike) -> Maps:
    """Map points (..., 2) by one map (6,) or (9,)."""
    if is_flat(row):
        return affine.apply(row, points)
    p = np.asarray(points, float)
    return np.asarray(apply_each(row[None], p.reshape(-1, 2))[0].reshape(p.shape))


def is_before(back: Maps, point: ArrayLike) -> bool:
    """Whether anything of a plane is seen at a point (2,) of the picture: ``back`` is what takes
    its map back. Beyond its horizon there is nothing.
    """
    if is_flat(back):
        return True
    nearness = float(full(back)[2] @ np.append(np.asarray(point, float), 1.0))
    return 0.0 < nearness <= 1 / NEAR


def apply_rows(maps: Maps, points: Maps) -> Maps:
    """Map each of the points (n, 2) by the map of its row, (n, 6), (n, 9), or one for all."""
    if is_flat(maps):
        return affine.apply_rows(maps, points)
    whole = np.concatenate([points, np.ones((len(points), 1))], axis=1)
    p = np.einsum("nij,nj->ni", np.broadcast_to(full(maps), (len(points), 3, 3)), whole)
    return np.asarray(p[:, :2] / np.maximum(p[:, 2:], NEAR))


def around(maps: Maps, point: Maps) -> Maps:
    """Return the flat map (6,) that is nearest to one in perspective (9,) about a point (2,) of the
    px that it maps.
    """
    if is_flat(maps):
        return maps
    step = 1e-3
    here, across, down = apply(maps, point + step * np.array([[0, 0], [1, 0], [0, 1]]))
    (a, b), (c, d) = (across - here) / step, (down - here) / step
    e, f = here - np.array([a * point[0] + c * point[1], b * point[0] + d * point[1]])
    return np.array([a, b, c, d, e, f])


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
