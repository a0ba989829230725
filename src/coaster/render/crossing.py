"""Which layers of what is sorted by depth go through each other: each is drawn whole, so neither
order is right there.
"""

from itertools import combinations

import numpy as np

from coaster.geometry import depth
from coaster.geometry.bezier import Floats
from coaster.render import places
from coaster.render.frames import Frames
from coaster.scene import tree
from coaster.scene.document import Layer, Scene

MOST_LAYERS, MOMENTS = 60, 48
"""Layers that are looked at, each against all others, and frames in which."""
LEAST = 0.01
"""Shares of a box by which it is gone through at least: what touches at edges does not cross."""


def crossing(scene: Scene, group_id: str | None) -> list[tuple[str, str]]:
    """Return the names of parts of a group (None: the scene) that go through each other in any of
    some frames, spread over all; none where they are too many to be looked at.

    Accuracy: boxes go through each other, whatever is seen in them.
    """
    parts = {x.id: x.name for x in scene.layers if x.parent == group_id}
    inside = [(own, layer) for own in parts for layer in _seen(scene, own)]
    if not 2 <= len(inside) <= MOST_LAYERS:
        return []
    at = Frames(np.unique(np.linspace(0, scene.length - 1, MOMENTS).astype(int)))
    known = places.Known(scene)
    quads = [_corners(known, layer, at) for _, layer in inside]
    found: dict[tuple[str, str], None] = {}
    for (a, first), (b, second) in combinations(zip(inside, quads, strict=True), 2):
        pair = parts[a[0]], parts[b[0]]
        if a[0] != b[0] and pair not in found and _cross(first, second):
            found[pair] = None
    return list(found)


def _seen(scene: Scene, own: str) -> list[Layer]:
    """Return the layers of a part that have a face: itself, or all that it holds."""
    of = scene.layers[tree.span_of(scene.layers, own)]
    return [x for x in of if x.content.can.stand and x.content.can.seen and not x.content.can.hold
            and tree.is_drawn(scene, x)]  # fmt: skip


def _corners(known: places.Known, layer: Layer, at: Frames) -> Floats:
    """Return the corners of a layer's box in space, in order round it, (n, 4, 3)."""
    placed = known.placed(layer, masked=False)
    (stand,) = places.stands([placed], at)
    left, top, width, height = (each[:, None] for each in stand.faces.boxes().T)
    x = left + width * np.array([0.0, 1.0, 1.0, 0.0])
    y = top + height * np.array([0.0, 0.0, 1.0, 1.0])
    space = stand.in_space
    n = max(len(space), len(x))
    box = np.broadcast_to(np.stack([x, y], axis=2), (n, 4, 2))
    columns = np.broadcast_to(space[:, :3][:, :, depth.PLANE], (n, 3, 3))
    return np.asarray(box @ columns[:, :, :2].swapaxes(1, 2) + columns[:, None, :, 2])


def _cross(a: Floats, b: Floats) -> bool:
    """Whether boxes (n, 4, 3) go through each other in any frame: whether the pieces of the line of
    both planes that lie in each have some of it in common.
    """
    normals = [np.cross(q[:, 1] - q[:, 0], q[:, 3] - q[:, 0]) for q in (a, b)]
    line = np.cross(normals[0], normals[1])
    # A plane's own scale has no say in how far its corners are from the other one.
    units = [
        each / np.maximum(np.linalg.norm(each, axis=1, keepdims=True), 1e-300) for each in normals
    ]
    pieces = [_piece(a, b, units[1], line), _piece(b, a, units[0], line)]
    (low, high, wide), (others_low, others_high, others_wide) = pieces
    common = np.minimum(high, others_high) - np.maximum(low, others_low)
    return bool((common > LEAST * np.maximum(np.minimum(wide, others_wide), 1e-300)).any())


def _piece(
    box: Floats, other: Floats, normal: Floats, line: Floats
) -> tuple[Floats, Floats, Floats]:
    """Return where a box begins and ends along the line in which the other's plane cuts it, (n,)
    each, and how long that is; nowhere in frames in which that does not go through it.
    """
    off = np.einsum("nki,ni->nk", box - other[:, :1], normal)
    least = LEAST * (off.max(1) - off.min(1))
    through = (off.min(1) < -least) & (off.max(1) > least)
    ends, next_off = np.roll(box, -1, axis=1), np.roll(off, -1, axis=1)
    passes = (off > 0) != (next_off > 0)
    gap = np.where(passes, off - next_off, 1.0)
    spots = box + (off / gap)[..., None] * (ends - box)
    along = np.einsum("nki,ni->nk", spots, line)
    low = np.where(passes, along, np.inf).min(1)
    high = np.where(passes, along, -np.inf).max(1)
    return np.where(through, low, np.inf), np.where(through, high, -np.inf), high - low
