"""Places in depth: maps of space, and how a viewer sees them.

x goes to the right, y down, z away from the viewer; the picture lies at z = 0. Maps of space are
matrices (n, 4, 4), a *view* is (n, 3, 4): it takes x, y, z, 1 to (p, q, w), which is seen at p / w,
q / w, with w = 1 in the plane of the picture. So what lies there and is not turned is seen as it
is, to the last bit.
"""

import numpy as np
from numpy.typing import ArrayLike

from coaster.geometry import maps
from coaster.geometry.bezier import Floats
from coaster.geometry.maps import Maps

ANGLE = 40.0
"""Degrees from the left edge of the picture to the right, as a viewer sees it who is told no other
angle: about that of a screen across a room.
"""
PLANE = [0, 1, 3]
"""The columns of a map of space that say where its plane z = 0 comes to lie."""
FLATTENED = np.diag([1.0, 1.0, 0.0, 1.0])
"""Brings all into the plane z = 0."""


def distance_of(width: float, angle: ArrayLike) -> Floats:
    """Return how far the viewer is from a picture so wide that it fills an angle, degrees; px."""
    return np.asarray(width / 2 / np.tan(np.radians(angle) / 2))


def view_of(width: float, height: float, angle: ArrayLike = ANGLE) -> Floats:
    """Return the view (n, 3, 4) of one who looks straight at the middle of a picture."""
    away = np.atleast_1d(1 / distance_of(width, angle))
    view = np.zeros((len(away), 3, 4))
    view[:, 0, 0] = view[:, 1, 1] = view[:, 2, 3] = 1.0
    view[:, 0, 2], view[:, 1, 2], view[:, 2, 2] = width / 2 * away, height / 2 * away, away
    return view


def raised(flat: Maps) -> Floats:
    """Return flat maps (n, 6) as maps of space: what is behind the plane is as much larger as what
    is in it.
    """
    a, b, c, d, e, f = np.moveaxis(flat, -1, 0)
    space = np.zeros((*flat.shape[:-1], 4, 4))
    space[..., 0, 0], space[..., 1, 0], space[..., 0, 1], space[..., 1, 1] = a, b, c, d
    space[..., 2, 2] = np.sqrt(np.abs(a * d - b * c))
    space[..., 0, 3], space[..., 1, 3], space[..., 3, 3] = e, f, 1.0
    return space


def moved(x: ArrayLike, y: ArrayLike, z: ArrayLike) -> Floats:
    """Return the maps (n, 4, 4) that move everything."""
    columns = np.broadcast_arrays(*(np.atleast_1d(np.asarray(each, float)) for each in (x, y, z)))
    space = np.tile(np.eye(4), (len(columns[0]), 1, 1))
    space[:, :3, 3] = np.stack(columns, axis=1)
    return space


def leaning(tilt: ArrayLike, swing: ArrayLike) -> Floats:
    """Return the rotations (n, 3, 3) that first swing everything about what is upright, its right
    edge away, and then tilt it about what is level, its top away; radians.
    """
    tilt, swing = np.broadcast_arrays(*(np.atleast_1d(np.asarray(x, float)) for x in (tilt, swing)))
    (tc, ts), (sc, ss) = ((np.cos(each), np.sin(each)) for each in (tilt, swing))
    zero = np.zeros_like(tc)
    return np.stack([sc, zero, -ss, ts * ss, tc, ts * sc, tc * ss, -ts, tc * sc], 1).reshape(
        -1, 3, 3
    )


def looking(ways: Floats) -> Floats:
    """Return the rotations (n, 3, 3) that turn what looks away from the viewer to look along ways
    (n, 3), with what is level as it was.

    Degenerate: what has no length, or goes straight up or down, turns nothing but its head.
    """
    length = np.linalg.norm(ways, axis=1)
    x, y, z = np.where(length > 1e-9, ways.T / np.where(length > 1e-9, length, 1.0), _STRAIGHT)
    level = np.hypot(x, z)
    # What is to the right of it: upright times on.
    right, back = np.where(level > 1e-9, (z, -x) / np.where(level > 1e-9, level, 1.0), _RIGHT)
    rows = [right, y * back, x, np.zeros_like(x), z * right - x * back, y, back, -y * right, z]
    return np.stack(rows, axis=1).reshape(-1, 3, 3)


_STRAIGHT, _RIGHT = np.array([[0.0], [0.0], [1.0]]), np.array([[1.0], [0.0]])


def diving(headings: Floats, dives: Floats) -> Floats:
    """Return the rotations (n, 3, 3) after which what points along headings (n,) in the plane goes
    away from the viewer by ``dives`` (n,), both in radians, and is level across (Rodrigues).
    """
    x, y, c, s = np.cos(headings), np.sin(headings), np.cos(dives), np.sin(dives)
    rest = 1.0 - c
    rows = [
        c + rest * y * y,
        -rest * x * y,
        -s * x,
        -rest * x * y,
        c + rest * x * x,
        -s * y,
        s * x,
        s * y,
        c,
    ]
    return np.stack(rows, axis=1).reshape(-1, 3, 3)


def banking(headings: Floats, banks: Floats) -> Floats:
    """Return the rotations (n, 3, 3) that roll what lies in the plane about headings (n,), what is
    to the right of them away from the viewer, by ``banks`` (n,), both in radians (Rodrigues).
    """
    x, y, c, s = np.cos(headings), np.sin(headings), np.cos(banks), np.sin(banks)
    rest = 1.0 - c
    rows = [c + rest * x * x, rest * x * y, s * y, rest * x * y, c + rest * y * y, -s * x]
    return np.stack([*rows, -s * y, s * x, c], axis=1).reshape(-1, 3, 3)


def lying(flat: Maps, spots: Floats, zs: Floats, turned: Floats | None, behind: float) -> Floats:
    """Return the maps of space (n, 4, 4) of planes under flat maps (n, 6) that are ``turned``
    (n, 3, 3) about places so far ``behind`` their ``spots`` (n, 2), and lie ``zs`` (n,) farther
    back.
    """
    n = max(len(flat), len(zs), 1 if turned is None else len(turned))
    space = raised(np.broadcast_to(flat, (n, 6)))
    if turned is not None:
        about = np.zeros((len(spots), 3))
        about[:, :2] = spots
        columns = space[:, :3].copy()
        columns[:, :, 3] -= about + np.array([0.0, 0.0, behind])
        columns = _each_by(turned[0], columns) if len(turned) == 1 else turned @ columns
        space[:, :3] = columns
        space[:, :3, 3] += about
    space[:, 2, 3] += zs
    return space


def _each_by(one: Floats, matrices: Floats) -> Floats:
    """Return one matrix (i, j) times each of many (n, j, k), in one product: many small ones take
    three times as long.
    """
    return np.asarray(np.tensordot(matrices, one, (1, 1)).swapaxes(1, 2))


def places(space: Floats, points: Floats) -> Floats:
    """Return where points (n, 3) come to lie, each by the map of its row; one row stands for
    all.
    """
    linear = space[:, :3, :3]
    if len(space) == 1:
        return np.asarray(points @ linear[0].T + space[:, :3, 3])
    found = np.einsum("nij,nj->ni", linear, np.broadcast_to(points, (len(space), 3)))
    return np.asarray(found + space[:, :3, 3])


def unscaled(space: Floats) -> Floats:
    """Return maps of space (n, 4, 4) that turn and move as these do, and make nothing larger."""
    found = space.copy()
    sizes = np.linalg.norm(space[:, :3, :3], axis=1, keepdims=True)
    found[:, :3, :3] /= np.where(sizes > 0, sizes, 1.0)
    found[np.abs(np.linalg.det(found)) < 1e-9, :3, :3] = np.eye(3)
    return found


def seen(view: Floats, space: Floats, *, leaning: bool) -> Maps:
    """Return how planes are seen, (n, 9), or flat (n, 6) where none of them is ever ``leaning``.

    What is parallel to the picture is only larger or smaller, and nothing where it is too near.
    """
    planes = space[..., PLANE]
    # One view of all is one product.
    found = _each_by(view[0], planes) if len(view) == 1 else view @ planes
    if leaning:
        return np.asarray(found.reshape(-1, 9))
    size = found[:, 2, 2]
    there = size >= maps.NEAR
    even = found[:, :2] / np.where(there, size, 1.0)[:, None, None]
    even[~there, :, :2] = 0.0
    return np.asarray(np.moveaxis(even, 1, 2).reshape(-1, 6))
