"""Nodes and handles of a path: putting in, moving, shaping, taking out."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from coaster.commands.base import Command
from coaster.commands.fields import SetField
from coaster.commands.paths import reshaped_commands, turned_round_commands
from coaster.edits.edit import Edit, called, edit_of
from coaster.edits.spaces import AS_IT_IS, Beside, Space
from coaster.errors import EditRefused
from coaster.geometry import arrange, handles, nodes
from coaster.geometry import path as paths
from coaster.geometry.bezier import Floats
from coaster.geometry.measure import measure_of
from coaster.geometry.nearest import nearest, nearest_as_drawn
from coaster.geometry.path import Node, Path, Vec2
from coaster.render import places
from coaster.scene.document import Scene

SEEN_PX = 0.05
"""A curve that moves by less than this is not worth a word."""


def shapeable(scene: Scene, path_id: str) -> Path:
    """Return a path that may be shaped. Errors: EditRefused: it is held. UnknownId."""
    path = scene.path(path_id)
    if held := path.held("shape it"):
        raise EditRefused(held)
    return path


def off_nodes_notes(scene: Scene, steps: Iterable[Command]) -> list[str]:
    """Say whose pegs had to leave their nodes."""
    names = [
        scene.layer(step.id).name
        for step in steps
        if isinstance(step, SetField) and step.owner == "ride" and "pegs" in step.values
    ]
    if not names:
        return []
    return [f"Pegs of {', '.join(names)} stood on nodes; they stand at a share of the length now."]


def shape_edit(
    scene: Scene, after: Path, words: str = "", notes: Iterable[str] = (), nodes: Iterable[str] = ()
) -> Edit:
    """Return the edit that gives a path its new shape; ``nodes`` are to be selected."""
    steps = reshaped_commands(scene, after)
    said = [*notes, *off_nodes_notes(scene, steps)]
    chosen = tuple(nodes)
    return edit_of(steps, words, said, path=after.id if chosen else "", nodes=chosen)


@dataclass(frozen=True)
class Chosen:
    """Nodes of a path that may be changed, and what there is to say of those that may not."""

    path: Path
    free: list[Node]
    notes: list[str]

    def changed(self, scene: Scene, fresh: Iterable[Node], words: str = "") -> Edit:
        after = nodes.with_nodes(self.path, {node.id: node for node in fresh})
        return shape_edit(scene, after, words, self.notes)

    def only(self, words: str) -> Node:
        """Return the one node. Errors: EditRefused: there are several."""
        if len(self.free) > 1:
            raise EditRefused(words)
        return self.free[0]


def named_nodes(path: Path, ids: Sequence[str]) -> list[Node]:
    """Errors: EditRefused: none is named, or one is not there any more."""
    wanted = set(ids)
    found = [node for node in path.nodes() if node.id in wanted]
    if not wanted or len(found) < len(wanted):
        raise EditRefused("A node that was to be changed is not there any more.")
    return found


def chosen_nodes(scene: Scene, path_id: str, ids: Sequence[str]) -> Chosen:
    """Return the named nodes of a path that are not locked.

    Errors: EditRefused: the path or all of them are locked, or one is gone.
    """
    path = shapeable(scene, path_id)
    named = named_nodes(path, ids)
    free = [node for node in named if not node.locked]
    if not free:
        raise EditRefused("The node is locked; unlock it to change it.")
    kept = len(named) - len(free)
    notes = [f"{called(kept, 'locked node')} stayed as they were."] if kept else []
    return Chosen(path, free, notes)


def move(scene: Scene, path_id: str, ids: Sequence[str], by: Vec2, space: Space = AS_IT_IS) -> Edit:
    """Move nodes by px."""
    found = chosen_nodes(scene, path_id, ids)
    shift = space.shift(by, space.seen(found.free[0].position))
    deeper = space.deeper(by) or 0.0
    return found.changed(scene, [nodes.moved(node, shift, deeper) for node in found.free])


def line_up(
    scene: Scene,
    path_id: str,
    ids: Sequence[str],
    x: float | None,
    y: float | None,
    z: float | None = None,
) -> Edit:
    """Put nodes at an x, a y, a depth, or all of them; several are lined up, at a depth with their
    handles.
    """
    found = chosen_nodes(scene, path_id, ids)
    several = len(found.free) > 1

    def put(node: Node) -> Node:
        now = node.position
        place = now[0] if x is None else x, now[1] if y is None else y
        if z is None:
            return replace(node, position=place)
        return replace(node, position=place, z=z, handle_z=None if several else node.handle_z)

    return found.changed(scene, [put(node) for node in found.free])


@dataclass(frozen=True)
class HandleChange:
    """What is set of one handle: its offset, its length and angle (degrees), or how far behind its
    node it ends; None stays.
    """

    side: handles.Side
    x: float | None = None
    y: float | None = None
    length: float | None = None
    angle: float | None = None
    z: float | None = None

    def offset(self, now: Vec2, space: Space, node: Vec2) -> Vec2:
        """Return what is set in place of an offset as it is ``now``, of a node there."""
        if self.length is not None or self.angle is not None:
            length = float(np.hypot(*now)) if self.length is None else self.length
            angle = np.arctan2(now[1], now[0]) if self.angle is None else np.radians(self.angle)
            return float(length * np.cos(angle)), float(length * np.sin(angle))
        if self.x is None and self.y is None:
            return now
        wanted = now[0] if self.x is None else self.x, now[1] if self.y is None else self.y
        return space.shift(wanted, space.seen(node))

    def depth(self, space: Space) -> float | None:
        """Return how far behind its node it is set to end; None where nothing is said of that."""
        return self.z if self.z is not None else space.deeper((self.x or 0.0, self.y or 0.0))


def set_handle(
    scene: Scene,
    path_id: str,
    ids: Sequence[str],
    change: HandleChange,
    *,
    parted: bool = False,
    both: bool = False,
    space: Space = AS_IT_IS,
) -> Edit:
    """Set one handle of a node; ``parted`` from the other, or ``both`` mirror images of
    each other.
    """
    found = chosen_nodes(scene, path_id, ids)
    node = found.only("A handle belongs to one node; choose one.")
    now = node.handle_in if change.side == "in" else node.handle_out
    offset, deep = change.offset(now, space, node.position), change.depth(space)
    if deep is not None and node.handle_z is None:
        node = replace(node, handle_z=_handle_depths(found.path)[node.id])
    # An even node's other handle follows by itself: no second one is set here.
    node = replace(node, kind="even") if both else node
    changed = handles.with_handle(node, change.side, offset, deep=deep, free=parted)
    return found.changed(scene, [changed])


def _handle_depths(path: Path) -> dict[str, tuple[float, float]]:
    """Return of each node how far behind it its handles end, as the curve goes."""
    return {name: z for run in path.subpaths for name, z in paths.handle_depths(run).items()}


Natural = dict[str, tuple[Vec2, Vec2]]


def _natural(node: Node, natural: Natural) -> tuple[Vec2, Vec2]:
    return natural.get(node.id, (node.handle_in, node.handle_out))


def _rounded(node: Node, natural: Natural) -> Node:
    if node.id not in natural:
        return node
    into, out = natural[node.id]
    return replace(node, kind="smooth", handle_in=into, handle_out=out)


CHANGES: dict[str, Callable[[Node, Natural], Node]] = {
    "corner": lambda node, natural: handles.without_handles(node),
    "smooth": lambda node, natural: handles.with_kind(node, "smooth", _natural(node, natural)),
    "even": lambda node, natural: handles.with_kind(node, "even", _natural(node, natural)),
    "auto": lambda node, natural: handles.with_kind(node, "auto", _natural(node, natural)),
    # As a corner keeps what handles it has: they only part company.
    "break": lambda node, natural: handles.with_kind(
        node, "corner", (node.handle_in, node.handle_out)
    ),
    "round": _rounded,
    "lock": lambda node, natural: replace(node, locked=True),
    "unlock": lambda node, natural: replace(node, locked=False),
    "disable": lambda node, natural: replace(node, disabled=True),
    "enable": lambda node, natural: replace(node, disabled=False),
}
"""What one word does to a node; ``natural`` are the handles its neighbours ask for."""
WORDS = {
    "lock": "Lock",
    "unlock": "Unlock",
    "disable": "Disable",
    "enable": "Enable",
    "break": "Part handles of",
}


def change(scene: Scene, path_id: str, ids: Sequence[str], to: str) -> Edit:
    """Do to nodes what one of the ``CHANGES`` says."""
    path = shapeable(scene, path_id)
    # To be locked or unlocked is the one thing that can be done to a locked node.
    of_locked = to in ("lock", "unlock")
    found = (
        Chosen(path, named_nodes(path, ids), []) if of_locked else chosen_nodes(scene, path_id, ids)
    )
    verb = WORDS.get(to, "Shape")
    words = f"{verb} {called(len(found.free), 'node')} of {path.name}"
    return found.changed(scene, changed_nodes(path, found.free, to), words)


def changed_nodes(path: Path, chosen: Iterable[Node], to: str) -> list[Node]:
    """Return nodes of a path with one of the ``CHANGES`` made to each."""
    natural: Natural = {}
    for run in path.subpaths:
        natural |= handles.natural_handles(run, path.strength)
    return [CHANGES[to](node, natural) for node in chosen]


def weigh(scene: Scene, path_id: str, ids: Sequence[str], weight: float) -> Edit:
    """Weigh the handles of nodes, which are ``auto`` then."""
    found = chosen_nodes(scene, path_id, ids)
    return found.changed(scene, [replace(node, weight=weight, kind="auto") for node in found.free])


def delete(scene: Scene, path_id: str, ids: Sequence[str]) -> Edit:
    """Delete nodes and heal the curve; all of them delete nothing."""
    found = chosen_nodes(scene, path_id, ids)
    healed, deviation = nodes.without(found.path, [node.id for node in found.free])
    what = f"{called(len(found.free), 'node')} of {found.path.name}"
    notes = list(found.notes)
    if deviation >= SEEN_PX:
        notes.append(f"Deleted {what}; the curve moved by {deviation:.1f} px at most.")
    return shape_edit(scene, healed, f"Delete {what}", notes)


def insert_near(scene: Scene, path_id: str, point: Vec2, space: Space = AS_IT_IS) -> Edit:
    """Put a node on the curve where it is nearest to a point: of the path's px, or where a space
    draws it.
    """
    path = shapeable(scene, path_id)
    if path.is_deep or isinstance(space, Beside):
        return _inserted(scene, path, *nearest_as_drawn(_curves(path), space.drawn, point))
    found = nearest(measure_of(path.subpaths, "jump")[0].segments, [space.place(point)])
    return _inserted(scene, path, int(found.segment[0]), float(found.parameter[0]))


def _curves(path: Path) -> Floats:
    """Return the cubics of a path with their depth, (n, 4, 3)."""
    segments, depths = path.segments(), np.concatenate([run.depths() for run in path.subpaths])
    return np.concatenate([segments, depths[..., None]], axis=2)


def insert_at_share(scene: Scene, path_id: str, share: float) -> Edit:
    """Put a node on the curve at a share of its length."""
    path = shapeable(scene, path_id)
    measure, _ = measure_of(path.subpaths, "jump")
    found = measure.locate([share * measure.length])
    return _inserted(scene, path, int(found.segment[0]), float(found.parameter[0]))


def insert_under(scene: Scene, path_id: str, layer_id: str, frame: float) -> Edit:
    """Put a node where a layer is at a frame."""
    path = shapeable(scene, path_id)
    if not path.is_deep:
        return insert_near(scene, path_id, _spot_on(scene, path, layer_id, frame))
    back = np.linalg.pinv(places.space_map(scene, path.parent, frame))
    there = (back @ [*places.point_of(scene, layer_id, frame), 1.0])[:3]
    return _inserted(scene, path, *nearest_as_drawn(_curves(path), lambda at: at, there))


def _spot_on(scene: Scene, path: Path, layer_id: str, frame: float) -> Vec2:
    """Return where a layer's anchor is seen at a frame, in the px of a path."""
    return places.into_group(scene, path.parent, places.spot_of(scene, layer_id, frame), frame)


def _inserted(scene: Scene, path: Path, segment: int, parameter: float) -> Edit:
    after, made = nodes.with_node_at(path, segment, parameter)
    return shape_edit(scene, after, f"Put a node on {path.name}", nodes=[made])


def land(scene: Scene, path_id: str, ids: Sequence[str], layer_id: str, frame: float) -> Edit:
    """Put one node exactly on a layer's anchor, as it is at a frame."""
    found = chosen_nodes(scene, path_id, ids)
    node, layer = found.only("One node lands on a layer; choose one."), scene.layer(layer_id)
    if layer.rides(path_id):
        raise EditRefused(f"{layer.name} rides this path itself, so it cannot be landed on.")
    place = _spot_on(scene, found.path, layer_id, frame)
    words = f"Land {found.path.name} on {layer.name}"
    return found.changed(scene, [replace(node, position=place)], words)


def start_at(scene: Scene, path_id: str, ids: Sequence[str]) -> Edit:
    """Let a closed path start at a node."""
    path, (node,) = _with_count(scene, path_id, ids, 1)
    steps = turned_round_commands(scene, arrange.started_at(path, node.id))
    return edit_of(steps, f"Start {path.name} at a node", off_nodes_notes(scene, steps))


def split_at(scene: Scene, path_id: str, ids: Sequence[str]) -> Edit:
    path, (node,) = _with_count(scene, path_id, ids, 1)
    return shape_edit(scene, arrange.split(path, node.id), f"Cut {path.name}")


def join_ends(scene: Scene, path_id: str, ids: Sequence[str]) -> Edit:
    path, (first, last) = _with_count(scene, path_id, ids, 2)
    return shape_edit(scene, arrange.joined(path, first.id, last.id), f"Join ends of {path.name}")


def _with_count(
    scene: Scene, path_id: str, ids: Sequence[str], count: int
) -> tuple[Path, list[Node]]:
    path = shapeable(scene, path_id)
    found = named_nodes(path, ids)
    if len(found) != count:
        raise EditRefused(
            "Choose the two ends to join." if count == 2 else "Choose one node for that."
        )
    return path, found
