"""Edits of paths: as wholes, their shape, and single nodes of it."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Annotated, Any, ClassVar

from coaster.commands.base import Command, Key, Setting, register
from coaster.commands.fields import set_path, set_ride
from coaster.documents import Rule, document
from coaster.errors import EditRefused
from coaster.geometry.path import Id, Node, Path, Subpath
from coaster.motion.distance import Way
from coaster.motion.pegs import kept_on, off_nodes
from coaster.motion.ride import Ride
from coaster.scene.document import Scene


@register
@document
class AddPath(Command):
    """Put a new path at ``index`` of the list; past its end it goes to the end."""

    kind: ClassVar[str] = "path.add"
    path: Path
    index: Annotated[int, Rule(ge=0, le=100_000)] = 100_000

    def apply(self, scene: Scene) -> Scene:
        return replace(
            scene, paths=(*scene.paths[: self.index], self.path, *scene.paths[self.index :])
        )

    def inverse(self, before: Scene) -> Command:
        return RemovePath(self.path.id)

    def touches(self) -> tuple[Key, ...]:
        return (("path", self.path.id),)

    def describe(self, scene: Scene) -> str:
        return f"Add {self.path.name}"


@register
@document
class RemovePath(Command):
    """Take out a path that no layer rides or strokes."""

    kind: ClassVar[str] = "path.remove"
    path_id: Id

    def apply(self, scene: Scene) -> Scene:
        gone, users = scene.path(self.path_id), scene.users_of(self.path_id)
        if users:
            raise EditRefused(f"{gone.name} is in use by {', '.join(u.name for u in users)}.")
        return replace(scene, paths=tuple(p for p in scene.paths if p is not gone))

    def inverse(self, before: Scene) -> Command:
        path = before.path(self.path_id)
        return AddPath(path, before.paths.index(path))

    def touches(self) -> tuple[Key, ...]:
        return (("path", self.path_id),)

    def describe(self, scene: Scene) -> str:
        return f"Delete {scene.path(self.path_id).name}"


@register
@document
class SetNodes(Setting):
    """Set some nodes of a path; the others, and their order, stay."""

    kind: ClassVar[str] = "path.nodes"
    path_id: Id
    nodes: Annotated[tuple[Node, ...], Rule(min_length=1)]

    def apply(self, scene: Scene) -> Scene:
        path, fresh = scene.path(self.path_id), {node.id: node for node in self.nodes}
        for name in fresh:
            path.node(name)
        runs = tuple(
            replace(s, nodes=tuple(fresh.get(n.id, n) for n in s.nodes)) for s in path.subpaths
        )
        return scene.with_path(replace(path, subpaths=runs))

    def inverse(self, before: Scene) -> Command:
        old = {node.id: node for node in before.path(self.path_id).nodes()}
        return SetNodes(self.path_id, tuple(old[node.id] for node in self.nodes))

    def touches(self) -> tuple[Key, ...]:
        return tuple(("path", self.path_id, "subpaths", node.id) for node in self.nodes)

    def describe(self, scene: Scene) -> str:
        path = scene.path(self.path_id)
        old = {node.id: node for node in path.nodes()}
        pairs = [(old[node.id], node) for node in self.nodes if node.id in old]
        verb = next((words for told, words in _CHANGES if told(pairs)), "")
        if not verb:
            return f"Shape {path.name}"
        count = "a node" if len(self.nodes) == 1 else f"{len(self.nodes)} nodes"
        return f"{verb} {count} of {path.name}"


_Pairs = Sequence[tuple[Node, Node]]
"""Nodes as they were and as they will be."""


def _only(**changed: Any) -> Callable[[_Pairs], bool]:
    """Return what tells whether fields come to values, and others stay as they are."""

    def told(pairs: _Pairs) -> bool:
        return any(a != b for a, b in pairs) and all(replace(a, **changed) == b for a, b in pairs)

    return told


def _moves(pairs: _Pairs) -> bool:
    return all(replace(a, position=b.position, z=b.z) == b for a, b in pairs)


_CHANGES: tuple[tuple[Callable[[_Pairs], bool], str], ...] = (
    (_only(locked=True), "Lock"),
    (_only(locked=False), "Unlock"),
    (_only(disabled=True), "Disable"),
    (_only(disabled=False), "Enable"),
    (_only(kind="corner"), "Part the handles of"),
    (_only(kind="corner", handle_in=(0.0, 0.0), handle_out=(0.0, 0.0)), "Make a corner of"),
    (_moves, "Move"),
)
"""What is done to nodes, in words for the history; the first that fits."""


def reshaped_commands(scene: Scene, after: Path) -> list[Command]:
    """Return the commands that give a path its new shape, with the least that says so.

    Pegs that stand on nodes which are gone or disabled then are put at the place nearest to it;
    angles at nodes that are gone go with them.
    """
    before = scene.path(after.id)
    if before.subpaths == after.subpaths:
        return []
    # Riders first: no ride may name a node that is gone, not even between two commands.
    steps = [
        step
        for rider in scene.riders_of(after.id)
        for step in _kept_ride(rider.id, scene.ride_of(rider.id), before, after)
    ]
    return [*steps, _shape(before, after)]


def _kept_ride(layer_id: str, ride: Ride, before: Path, after: Path) -> list[Command]:
    """Return what a ride has to change when its path takes another shape."""
    steps: list[Command] = []
    pegs = kept_on(ride, before, after)
    if pegs != ride.pegs:
        steps.append(set_ride(layer_id, pegs=pegs))
    there = {node.id for node in after.nodes()}
    angles = tuple(angle for angle in ride.facing.angles if angle.node in there)
    if angles != ride.facing.angles:
        steps.append(set_ride(layer_id, facing=replace(ride.facing, angles=angles)))
    return steps


def turned_round_commands(scene: Scene, after: Path) -> list[Command]:
    """Return the commands for a path that starts elsewhere or runs the other way.

    Pegs on nodes would keep their riders where they were; they are put at the shares of the
    length they had, so that the riders take the new way.
    """
    before = scene.path(after.id)
    steps: list[Command] = []
    for layer in scene.riders_of(after.id):
        assert layer.ride is not None  # noqa: S101 - it is a rider
        pegs = off_nodes(Way(before, layer.ride))
        if pegs != layer.ride.pegs:
            steps.append(set_ride(layer.id, pegs=pegs))
    return [*steps, _shape(before, after)]


def _shape(before: Path, after: Path) -> Command:
    if [_frame(s) for s in before.subpaths] != [_frame(s) for s in after.subpaths]:
        return set_path(after.id, subpaths=after.subpaths)
    old = {node.id: node for node in before.nodes()}
    return SetNodes(after.id, tuple(node for node in after.nodes() if node != old[node.id]))


def _frame(subpath: Subpath) -> tuple[bool, list[str]]:
    return subpath.closed, [node.id for node in subpath.nodes]
