"""Paths as wholes: turned round, opened and closed, cut and joined."""

import math
from dataclasses import replace

import numpy as np
from numpy.typing import ArrayLike

from coaster.errors import EditRefused
from coaster.geometry import affine
from coaster.geometry.nodes import fresh_node_ids, with_auto_handles, with_subpath
from coaster.geometry.path import (
    Node,
    NodeKind,
    Path,
    Subpath,
    Vec2,
    bounds,
    node_kind,
    transformed,
)

TOUCHING = 0.5
"""Ends closer than this, px, become one node when they are joined."""


def reversed_path(path: Path) -> Path:
    """Turn the direction of travel round; done twice it is as it was.

    A closed subpath keeps its start node, an open one swaps its ends.
    """
    return replace(path, subpaths=tuple(_reversed(s) for s in reversed(path.subpaths)))


def _reversed(subpath: Subpath) -> Subpath:
    turned = [_turned_round(node) for node in reversed(subpath.nodes)]
    # The start node came last by turning round; on a loop it begins again.
    nodes = (turned[-1], *turned[:-1]) if subpath.closed else tuple(turned)
    return replace(subpath, nodes=nodes)


def _turned_round(node: Node) -> Node:
    deep = None if node.handle_z is None else (node.handle_z[1], node.handle_z[0])
    return replace(node, handle_in=node.handle_out, handle_out=node.handle_in, handle_z=deep)


def closed(path: Path, number: int) -> Path:
    """Close a subpath: ends that touch become one node, others are joined by the piece between.

    Errors: EditRefused: it is closed, or has a single node.
    """
    subpath = path.subpaths[number]
    first, last = subpath.live[0], subpath.live[-1]
    if subpath.closed or len(subpath.live) < 2:
        raise EditRefused(
            f"{path.name} cannot be closed: it is closed already, or has a single node."
        )
    if _apart(first, last) <= TOUCHING and len(subpath.live) > 2:
        one = replace(first, handle_in=last.handle_in, kind=_joint(last, first))
        kept = tuple(one if n.id == first.id else n for n in subpath.nodes if n.id != last.id)
        return with_auto_handles(with_subpath(path, number, Subpath(kept, True)))
    return with_auto_handles(with_subpath(path, number, replace(subpath, closed=True)))


def closed_round(path: Path, number: int) -> Path:
    """Close a subpath with a curve that goes on as it ends and comes in as it begins; what there is
    of it stays.

    Errors: as ``closed``.
    """
    live = path.subpaths[number].live
    first, last = live[0], live[-1]
    shut = closed(path, number)
    reach = _apart(first, last) / 3
    kept = {node.id: node for node in shut.subpaths[number].nodes}
    if last.id not in kept:
        return shut
    out = _leaving(live[-2].position, live[-2].handle_out, last.position, last.handle_in, reach)
    into = _leaving(live[1].position, live[1].handle_in, first.position, first.handle_out, reach)
    kept[last.id] = replace(last, handle_out=out, kind="smooth")
    kept[first.id] = replace(first, handle_in=into, kind="smooth")
    nodes = tuple(kept[node.id] for node in shut.subpaths[number].nodes)
    return with_subpath(shut, number, Subpath(nodes, True))


def _leaving(before: Vec2, held: Vec2, at: Vec2, handle: Vec2, reach: float) -> Vec2:
    """Return a handle of a length that goes on in the direction in which a piece comes to a node:
    by its handle there, else by the piece itself.
    """
    x, y = (-handle[0], -handle[1])
    if math.hypot(x, y) < TOUCHING:
        x, y = at[0] - before[0] - held[0], at[1] - before[1] - held[1]
    length = math.hypot(x, y)
    return (reach * x / length, reach * y / length) if length else (0.0, 0.0)


def opened(path: Path, number: int) -> Path:
    """Open a closed subpath: the piece from its last node to its first goes; handles stay.

    Errors: EditRefused: it is open.
    """
    subpath = path.subpaths[number]
    if not subpath.closed:
        raise EditRefused(f"{path.name} is open already.")
    if len(subpath.live) < 2:
        raise EditRefused(f"{path.name} has a single node; it cannot be opened.")
    return with_auto_handles(with_subpath(path, number, replace(subpath, closed=False)))


def started_at(path: Path, node_id: str) -> Path:
    """Let a closed subpath start at another node.

    Errors: EditRefused: the subpath is open. UnknownId.
    """
    number, at = find(path, node_id)
    subpath = path.subpaths[number]
    if not subpath.closed:
        raise EditRefused("Only a closed path can start at any node; reverse an open one instead.")
    if subpath.nodes[at].disabled:
        raise EditRefused("A disabled node cannot be the start; enable it first.")
    return with_subpath(
        path, number, replace(subpath, nodes=subpath.nodes[at:] + subpath.nodes[:at])
    )


def split(path: Path, node_id: str) -> Path:
    """Cut a path at a node: a closed run opens there, an open one falls into two.

    The shape stays; there are two nodes at the place, the old one where the way goes on.
    Errors: EditRefused: it is an end of an open run. UnknownId.
    """
    number, at = find(path, node_id)
    subpath = path.subpaths[number]
    node = subpath.nodes[at]
    if node.disabled:
        raise EditRefused("A disabled node is not on the curve; enable it to cut there.")
    # The end that is left behind is the new one: pegs on the old id go on with the way.
    twin = _tidy(replace(node, id=fresh_node_ids(path, 1)[0], handle_out=(0.0, 0.0)))
    own = _tidy(replace(node, handle_in=(0.0, 0.0)))
    if subpath.closed:
        rest = subpath.nodes[at + 1 :] + subpath.nodes[:at]
        return with_subpath(path, number, Subpath((own, *rest, twin)))
    if node.id in (subpath.live[0].id, subpath.live[-1].id):
        raise EditRefused("That node is an end already; cut at a node between the ends.")
    before, after = Subpath((*subpath.nodes[:at], twin)), Subpath((own, *subpath.nodes[at + 1 :]))
    return replace(
        path, subpaths=(*path.subpaths[:number], before, after, *path.subpaths[number + 1 :])
    )


def _is_end(run: Subpath, node: str) -> bool:
    return not run.closed and node in (run.live[0].id, run.live[-1].id)


def joined(path: Path, one: str, other: str) -> Path:
    """Join two ends of open runs; the two ends of one run close it.

    Ends within ``TOUCHING`` px become one node, others are joined by the piece between them.
    Errors: EditRefused: one of them is no end. UnknownId.
    """
    (a, _), (b, _) = find(path, one), find(path, other)
    if not (_is_end(path.subpaths[a], one) and _is_end(path.subpaths[b], other)):
        raise EditRefused(
            "Two ends are joined; choose the first or last node of an open run, twice."
        )
    if a == b:
        if one == other:
            raise EditRefused("Choose two ends to join.")
        return closed(path, a)
    first, second = path.subpaths[a], path.subpaths[b]
    first = first if first.live[-1].id == one else _reversed(first)
    second = second if second.live[0].id == other else _reversed(second)
    run = Subpath(_welded(first.nodes, second.nodes))
    # The joined run stands where the first of the two stood.
    rest = [run if i == min(a, b) else s for i, s in enumerate(path.subpaths) if i != max(a, b)]
    return with_auto_handles(replace(path, subpaths=tuple(rest)))


def _welded(first: tuple[Node, ...], second: tuple[Node, ...]) -> tuple[Node, ...]:
    last, head = first[-1], second[0]
    # A disabled node is not on the curve, so there is nothing to weld.
    if _apart(last, head) > TOUCHING or last.disabled or head.disabled:
        return first + second
    return (
        *first[:-1],
        replace(last, handle_out=head.handle_out, kind=_joint(last, head)),
        *second[1:],
    )


def united(path: Path, other: Path) -> Path:
    """Join another open path to this one, at the ends that lie nearest to each other.

    Errors: EditRefused: one of them is not a single open run.
    """
    for each in (path, other):
        if len(each.subpaths) != 1 or each.subpaths[0].closed:
            raise EditRefused(f"{each.name} is not a single open path; only such can be joined.")
    # Nodes of two paths may bear the same ids; those of the guest give way.
    ids = dict(
        zip([n.id for n in other.nodes()], fresh_node_ids(path, len(other.nodes())), strict=True)
    )
    guest = Subpath(tuple(replace(n, id=ids[n.id]) for n in other.subpaths[0].nodes))
    own = path.subpaths[0]
    # Where several are as near, on from the end to the start comes first.
    ends = [(a, b) for a in (own.live[-1], own.live[0]) for b in (guest.live[0], guest.live[-1])]
    one, two = min(ends, key=lambda pair: _apart(*pair))
    return joined(replace(path, subpaths=(own, guest)), one.id, two.id)


def find(path: Path, node_id: str) -> tuple[int, int]:
    """Return the subpath and the place in it of a node. Errors: UnknownId."""
    path.node(node_id)
    return next(
        (s, i)
        for s, run in enumerate(path.subpaths)
        for i, n in enumerate(run.nodes)
        if n.id == node_id
    )


def about(path: Path, matrix: ArrayLike, pivot: tuple[float, float] | None = None) -> Path:
    """Map a path by a matrix about a point (px), or about the middle of its box."""
    if pivot is None:
        left, top, right, bottom = bounds(path.subpaths)
        pivot = ((left + right) / 2, (top + bottom) / 2)
    there, back = affine.translation(*pivot), affine.translation(-pivot[0], -pivot[1])
    return replace(path, subpaths=transformed(path.subpaths, affine.chain([there, matrix, back])))


def _apart(a: Node, b: Node) -> float:
    return float(np.hypot(a.position[0] - b.position[0], a.position[1] - b.position[1]))


def _joint(before: Node, after: Node) -> NodeKind:
    return node_kind(before.handle_in, after.handle_out)


def _tidy(node: Node) -> Node:
    return replace(node, kind="corner" if node.kind != "auto" else "auto")
