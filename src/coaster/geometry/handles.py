"""Handles: what the kinds of nodes ask of them, and handles computed from the neighbours."""

from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from coaster.geometry.bezier import Floats
from coaster.geometry.path import Node, NodeKind, Path, Subpath, Vec2, node_kind

Side = Literal["in", "out"]
NONE = (0.0, 0.0)
WIDEST = np.cos(np.radians(80))
"""Handles stop growing where the chord is further off the tangent than 80 degrees."""


def auto_handles(
    points: ArrayLike,
    *,
    closed: bool,
    strength: float = 1.0,
    weights: ArrayLike = 1.0,
    beside: tuple[Floats | None, Floats | None] = (None, None),
) -> tuple[Floats, Floats]:
    """Return handles that carry a smooth curve through points: in and out, each (n, 2), offsets.

    Shapes:     ``points`` (n, 2); ``weights`` (n,) or one number. ``beside`` are the unit
                directions of travel at the second and the last but one node, where those have
                handles of their own; the ends of an open path bend towards them.
    Units:      px. ``strength`` and a node's weight scale both of its handles; 1 is natural.
    Accuracy:   on points of a circle of one turn the curve is the circle within the error of one
                cubic an arc, and the handles turn and scale with the points.
    Degenerate: coincident neighbours, and a way straight back, give no handles; two points of an
                open path are joined by a straight line.
    Source:     tangents weighted by chords, as in Catmull and Rom's splines (non-uniform form);
                lengths of the arc of a circle that has the chord and the tangent.
    """
    p = np.asarray(points, float).reshape(-1, 2)
    unit, after = _chords(p)
    before = np.roll(after, 1)
    tangent = _tangents(unit, before, after)
    # Between two points there is nothing to bend towards.
    if len(p) < 3:
        tangent[:] = 0.0
    elif not closed:
        _bend_ends(tangent, unit, beside)
    scale = strength * np.broadcast_to(np.asarray(weights, float), (len(p),))
    out = tangent * (_arm(tangent, unit, after) * scale)[:, None]
    into = -tangent * (_arm(tangent, np.roll(unit, 1, axis=0), before) * scale)[:, None]
    if not closed:
        into[0], out[-1] = 0.0, 0.0
    return into, out


def _chords(p: Floats) -> tuple[Floats, Floats]:
    """Return directions and lengths from each point to the next; the last one closes."""
    chord = np.roll(p, -1, axis=0) - p
    length = np.hypot(chord[:, 0], chord[:, 1])
    return chord / np.where(length > 0, length, 1.0)[:, None], length


def _tangents(unit: Floats, before: Floats, after: Floats) -> Floats:
    """Return unit tangents at nodes: the chords on both sides, the shorter one weighing more."""
    tangent = np.roll(unit, 1, axis=0) * after[:, None] + unit * before[:, None]
    size = np.hypot(tangent[:, 0], tangent[:, 1])
    clear = size > 1e-9 * (before + after)
    return np.where(clear[:, None], tangent / np.where(clear, size, 1.0)[:, None], 0.0)


def _bend_ends(tangent: Floats, unit: Floats, beside: tuple[Floats | None, Floats | None]) -> None:
    """Bend the ends of an open path towards the directions next to them."""
    second, last_but_one = (
        given if given is not None else tangent[k] for given, k in zip(beside, (1, -2), strict=True)
    )
    tangent[0], tangent[-1] = _mirrored(second, unit[0]), _mirrored(last_but_one, unit[-2])


def _mirrored(tangent: Floats, chord: Floats) -> Floats:
    """Return a direction mirrored about a chord: the other end of a circle's arc."""
    return 2 * float(tangent @ chord) * chord - tangent


def _arm(tangent: Floats, chord: Floats, length: Floats) -> Floats:
    cosine = np.maximum(np.einsum("ij,ij->i", tangent, chord), WIDEST)
    arm: Floats = length * (2 / 3) / (1 + cosine)
    return arm


def with_auto_handles(subpath: Subpath, strength: float = 1.0) -> Subpath:
    """Return a subpath with the handles of its ``auto`` nodes computed anew."""
    live = subpath.live
    if not any(node.kind == "auto" for node in live):
        return subpath
    natural = natural_handles(subpath, strength)
    fresh = {
        node.id: replace(
            node, handle_in=natural[node.id][0], handle_out=natural[node.id][1], handle_z=None
        )
        for node in live
        if node.kind == "auto"
    }
    return replace(subpath, nodes=tuple(fresh.get(node.id, node) for node in subpath.nodes))


def with_handle(
    node: Node, side: Side, offset: Vec2, *, deep: float | None = None, free: bool = False
) -> Node:
    """Return a node with one handle set, which ends so ``deep`` behind it; the other follows as
    the node's kind asks.

    ``free`` breaks the two apart: the node becomes a corner. An ``auto`` node that is handled by
    hand becomes smooth; so does an ``even`` one that loses a handle, and keeps the other. Without a
    depth it is as deep as it was: by its own, or as its neighbours ask.
    """
    at = ("in", "out").index(side)
    depths = (0.0, 0.0) if node.handle_z is None else node.handle_z
    own = np.array([*offset, depths[at] if deep is None else deep])
    other = np.array([*(node.handle_out if side == "in" else node.handle_in), depths[1 - at]])
    kind: NodeKind = "corner" if free else "smooth" if node.kind == "auto" else node.kind
    if kind == "even":
        kind, other = ("even", -own) if own.any() else ("smooth", other)
    elif kind == "smooth" and own.any():
        other = _opposite(own, float(np.linalg.norm(other)))
    into, out = (own, other) if side == "in" else (other, own)
    kept = deep is not None or node.handle_z is not None
    bent = (float(into[2]), float(out[2])) if kept else None
    return replace(node, handle_in=_pair(into), handle_out=_pair(out), handle_z=bent, kind=kind)


def _opposite(direction: Floats, length: float) -> Floats:
    size = float(np.linalg.norm(direction))
    return np.asarray(-direction / size * length + 0.0 if size and length else 0.0 * direction)


def with_kind(node: Node, kind: NodeKind, natural: tuple[Vec2, Vec2]) -> Node:
    """Return a node of another kind.

    A corner keeps its handles, free of each other. ``smooth`` and ``even`` bring them in line,
    along their mean direction; a handle that is missing, and both of ``auto``, are the natural
    ones, those the neighbours ask for.
    """
    if kind == "corner":
        return replace(node, kind=kind)
    if kind == "auto":
        return replace(node, kind=kind, handle_in=natural[0], handle_out=natural[1], handle_z=None)
    into = node.handle_in if node.handle_in != NONE else natural[0]
    out = node.handle_out if node.handle_out != NONE else natural[1]
    into, out = _in_line(into, out, even=kind == "even")
    return replace(node, kind=kind, handle_in=into, handle_out=out, handle_z=None)


def _in_line(into: Vec2, out: Vec2, *, even: bool) -> tuple[Vec2, Vec2]:
    """Return two handles turned into their mean direction; ``even`` ones get one length."""
    before, after = float(np.hypot(*into)), float(np.hypot(*out))
    if not before or not after:
        return into, out
    x, y = out[0] / after - into[0] / before, out[1] / after - into[1] / before
    if np.hypot(x, y) < 1e-9:  # folded onto itself: across, as there is no mean
        x, y = -out[1], out[0]
    if even:
        before = after = (before + after) / 2
    across = np.array([x, y])
    return _pair(_opposite(across, before)), _pair(_opposite(-across, after))


def without_handles(node: Node) -> Node:
    return replace(node, handle_in=NONE, handle_out=NONE, handle_z=None, kind="corner")


def with_true_kind(node: Node) -> Node:
    """Return a node whose kind is true of its handles: one that is no longer even is smooth."""
    if node.kind in ("corner", "auto"):
        return node
    found = node_kind(node.handle_in, node.handle_out)
    if NONE in (
        node.handle_in,
        node.handle_out,
    ):  # the end of an open path: nothing to compare with
        return node
    return replace(node, kind=found) if (node.kind, found) != ("smooth", "even") else node


def natural_handles(subpath: Subpath, strength: float = 1.0) -> dict[str, tuple[Vec2, Vec2]]:
    """Return for each live node, by id, the handles its neighbours ask for."""
    live = subpath.live
    weights = [node.weight for node in live]
    into, out = auto_handles(
        [node.position for node in live],
        closed=subpath.closed,
        strength=strength,
        weights=weights,
        beside=_beside(live),
    )
    return {node.id: (_pair(a), _pair(b)) for node, a, b in zip(live, into, out, strict=True)}


def _beside(live: tuple[Node, ...]) -> tuple[Floats | None, Floats | None]:
    """Return the directions of travel at the second and the last but one node, if they are
    fixed.
    """
    if len(live) < 3:
        return None, None
    second, last_but_one = live[1], live[-2]
    arriving, leaving = -np.array(second.handle_in), np.array(last_but_one.handle_out)
    found = []
    for node, handle in ((second, arriving), (last_but_one, leaving)):
        size = float(np.hypot(*handle))
        found.append(handle / size if node.kind != "auto" and size > 0 else None)
    return found[0], found[1]


def marks(path: Path) -> list[str]:
    """Return a letter for what each node is, and more for what it has.

    ``c`` corner, ``b`` a corner with handles, ``s`` smooth, ``e`` even, ``a`` auto; then ``l``
    locked, ``d`` disabled, ``k`` the way has a kink there: it turns by more than a degree, though
    the node has handles.
    """
    found = []
    for node in path.nodes():
        bare = node.handle_in == NONE and node.handle_out == NONE
        letter = "b" if node.kind == "corner" and not bare else node.kind[0]
        found.append(
            letter
            + "l" * node.locked
            + "d" * node.disabled
            + "k" * (letter == "b" and _is_kinked(node))
        )
    return found


def _is_kinked(node: Node) -> bool:
    into, out = np.array(node.handle_in), np.array(node.handle_out)
    sizes = float(np.hypot(*into)), float(np.hypot(*out))
    if not all(sizes):
        return False
    return bool(-(into @ out) / (sizes[0] * sizes[1]) < np.cos(np.radians(1)))


def _pair(v: Floats) -> Vec2:
    return float(v[0]), float(v[1])
