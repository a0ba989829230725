"""Nodes put in, taken out, and counted on: where nothing else of the curve is to change."""

from collections.abc import Iterable, Mapping
from dataclasses import replace

import numpy as np

from coaster.errors import EditRefused
from coaster.geometry import bezier, handles, simplify
from coaster.geometry.bezier import Floats
from coaster.geometry.handles import NONE, with_true_kind
from coaster.geometry.path import Node, Path, Subpath, Vec2, handle_depths, node_kind


def fresh_node_ids(path: Path, count: int) -> list[str]:
    """Return ids that no node of the path has: n7, n8, ..."""
    taken = {node.id for node in path.nodes()}
    numbers = [int(i[1:]) for i in taken if i[:1] == "n" and i[1:].isdecimal()]
    start = max(numbers, default=0) + 1
    return [f"n{start + k}" for k in range(count)]


def piece_at(path: Path, segment: int) -> tuple[int, int]:
    """Return the subpath and the piece of it that ``Path.segments`` counts as ``segment``."""
    for number, subpath in enumerate(path.subpaths):
        count = len(subpath.live) - (0 if subpath.closed else 1)
        if segment < count:
            return number, segment
        segment -= count
    raise IndexError(segment)


def with_node_at(path: Path, segment: int, t: float) -> tuple[Path, str]:
    """Put a node on the curve without changing its shape; return the path and the node's id.

    Shapes:     ``segment`` as ``Path.segments`` counts, ``t`` its parameter, 0..1.
    Accuracy:   every point of the curve within 1e-12 x its size (de Casteljau); ``auto`` neighbours
                become smooth, as their handles would not stay, and of a path in depth those of
                both have depths of their own.
    Degenerate: at the very end of a piece there is a node already.
    Errors:     EditRefused: there is a node there.
    """
    number, piece = piece_at(path, segment)
    subpath = path.subpaths[number]
    live = subpath.live
    a, b = live[piece], live[(piece + 1) % len(live)]
    if not 1e-9 < t < 1 - 1e-9:
        raise EditRefused("There is a node at that place already.")
    new_id = fresh_node_ids(path, 1)[0]
    made, changed = _parted(a, b, bezier.split(subpath.segments()[piece], t), new_id)
    if subpath.is_deep:
        made, changed = _parted_in_depth(subpath, piece, t, made, changed)
    nodes = [changed.get(node.id, node) for node in subpath.nodes]
    nodes.insert(1 + [node.id for node in nodes].index(a.id), made)
    return with_subpath(path, number, replace(subpath, nodes=tuple(nodes))), new_id


def _parted(
    a: Node, b: Node, halves: tuple[Floats, Floats], new_id: str
) -> tuple[Node, dict[str, Node]]:
    """Return the node between two halves of a piece, and the nodes at its ends as they are then."""
    left, right = halves
    if a.handle_out == NONE and b.handle_in == NONE:
        return Node(new_id, _pair(left[3])), {node.id: _without_auto(node) for node in (a, b)}
    into, out = _pair(left[2] - left[3]), _pair(right[1] - right[0])
    made = Node(new_id, _pair(left[3]), into, out, node_kind(into, out))
    first = with_true_kind(replace(_without_auto(a), handle_out=_pair(left[1] - left[0])))
    other = _without_auto(b) if b.id != a.id else first  # a closed piece has one node at both ends
    last = with_true_kind(replace(other, handle_in=_pair(right[2] - right[3])))
    return made, {first.id: first} | {last.id: last}


def _parted_in_depth(
    run: Subpath, piece: int, t: float, made: Node, ends: dict[str, Node]
) -> tuple[Node, dict[str, Node]]:
    """Return the node between two halves of a piece, and the nodes at its ends, as deep as leaves
    the curve as it is.
    """
    halves = bezier.split(run.depths()[piece][:, None], t)
    left, right = (half[:, 0].tolist() for half in halves)
    made = replace(made, z=left[3], handle_z=(left[2] - left[3], right[1] - left[3]))
    now, (a, b) = handle_depths(run), run.pairs()[piece]
    into, out = now[a.id]
    ends[a.id] = replace(ends[a.id], handle_z=(into, left[1] - a.z))
    into, out = now[b.id] if b.id != a.id else (into, left[1] - a.z)
    ends[b.id] = replace(ends[b.id], handle_z=(right[2] - b.z, out))
    return made, ends


def _without_auto(node: Node) -> Node:
    """Return an ``auto`` node as it stands, with the handles it has: smooth, or a corner."""
    if node.kind != "auto":
        return node
    return replace(node, kind="corner" if node.handle_in == node.handle_out == NONE else "smooth")


def with_subpath(path: Path, number: int, subpath: Subpath | None) -> Path:
    """Return the path with one subpath changed, or gone where it is None."""
    middle = () if subpath is None else (subpath,)
    return replace(path, subpaths=(*path.subpaths[:number], *middle, *path.subpaths[number + 1 :]))


def without(path: Path, gone: Iterable[str]) -> tuple[Path, float]:
    """Take nodes out of a path, healing the curve; return the path and the deviation in px.

    Errors: EditRefused: one is locked, or fewer than two nodes of a run would be left while
            others stay. UnknownId: one is not there.
    """
    names = set(gone)
    for name in names:
        if path.node(name).locked:
            raise EditRefused(
                f"The node is locked; unlock it to delete it. {path.name} was kept as it was."
            )
    runs: list[Subpath] = []
    worst = 0.0
    for subpath in path.subpaths:
        inside = names & {node.id for node in subpath.nodes}
        if inside == {node.id for node in subpath.nodes} and len(path.subpaths) > 1:
            continue
        if not inside & {node.id for node in subpath.live}:
            runs.append(
                replace(subpath, nodes=tuple(n for n in subpath.nodes if n.id not in inside))
            )
            continue
        try:
            healed, deviation = simplify.without_nodes(subpath, inside)
        except ValueError as error:
            raise EditRefused(
                f"{path.name} keeps at least two nodes; delete the whole path instead."
            ) from error
        runs.append(_auto_depths_kept(healed) if subpath.is_deep else healed)
        worst = max(worst, deviation)
    if not runs:
        raise EditRefused(f"{path.name} keeps at least two nodes; delete the whole path instead.")
    return with_auto_handles(replace(path, subpaths=tuple(runs))), worst


def _auto_depths_kept(run: Subpath) -> Subpath:
    """Return a run whose ``auto`` nodes go into depth as their neighbours ask, as they did."""
    nodes = (replace(x, handle_z=None) if x.kind == "auto" else x for x in run.nodes)
    return replace(run, nodes=tuple(nodes))


def lighter(path: Path, tolerance: float, keep: set[str]) -> tuple[Path, float]:
    """Take out what adds nothing within a tolerance (px); return the path and the deviation."""
    found = [
        simplify.simplified(s, tolerance, keep) if len(s.live) > 2 else (s, 0.0)
        for s in path.subpaths
    ]
    tamed = tuple(
        replace(s, nodes=tuple(_without_auto(n) for n in s.nodes)) if d > 0 else s for s, d in found
    )
    return replace(path, subpaths=tamed), max(d for _, d in found)


def with_auto_handles(path: Path) -> Path:
    """Return a path with its ``auto`` handles computed anew."""
    return replace(
        path, subpaths=tuple(handles.with_auto_handles(s, path.strength) for s in path.subpaths)
    )


def with_nodes(path: Path, changed: Mapping[str, Node]) -> Path:
    """Return a path with some nodes changed, and its ``auto`` handles computed anew.

    Errors: EditRefused: not a single node of a run would stay enabled.
    """
    runs = []
    for subpath in path.subpaths:
        nodes = tuple(changed.get(node.id, node) for node in subpath.nodes)
        if sum(not node.disabled for node in nodes) < min(2, len(nodes)):
            raise EditRefused(f"{path.name} keeps at least two nodes that are not disabled.")
        runs.append(replace(subpath, nodes=nodes))
    return with_auto_handles(replace(path, subpaths=tuple(runs)))


def moved(node: Node, by: Vec2, deeper: float = 0.0) -> Node:
    x, y = node.position
    return replace(node, position=(x + by[0], y + by[1]), z=node.z + deeper)


def _pair(v: Floats) -> Vec2:
    return float(np.float64(v[0])), float(np.float64(v[1]))
