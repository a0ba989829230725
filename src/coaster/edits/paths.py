"""Paths as wholes: drawing them, figures, turning, joining, making lighter, and their look."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from coaster.commands.fields import set_path
from coaster.commands.layers import AddLayer
from coaster.commands.paths import AddPath, RemovePath, reshaped_commands, turned_round_commands
from coaster.commands.rides import AttachRide
from coaster.edits.carriers import riding_commands
from coaster.edits.edit import Edit, called, edit_of
from coaster.edits.making import new_layer, new_path
from coaster.edits.nodes import changed_nodes, off_nodes_notes, shape_edit, shapeable
from coaster.edits.spaces import AS_IT_IS, Beside, Space
from coaster.errors import EditRefused
from coaster.formats import pathdata
from coaster.geometry import affine, arrange, figures, handles, maps, nodes
from coaster.geometry import path as paths
from coaster.geometry.bezier import Floats
from coaster.geometry.maps import Maps
from coaster.geometry.path import Node, NodeKind, Path, Subpath, Vec2, node_kind
from coaster.motion.easing import Bezier
from coaster.motion.first import first_ride
from coaster.motion.ride import AtNode, Facing, Ride
from coaster.render import places
from coaster.render.evaluate import Evaluation, LayerMotion
from coaster.scene.contents import Shape
from coaster.scene.document import Layer, Scene, Transform

ROUND_TRIP = ((0.15, 0.55), (0.32, 0.25), (0.5, 0.5), (0.72, 0.28), (0.85, 0.55), (0.5, 0.78))
"""Nodes of the example's path, as shares of the frame."""
EXAMPLE = (
    "A shape rides a path. Play it, move a node of the path or a peg in time, and see what it does;"
    " undo takes it all back."
)
RAIL = "#e4572e"
"""The colour a rail has first when it gets one of its own."""


@dataclass(frozen=True)
class PenNode:
    """A node that is drawn: its place, the handle on to what is drawn next, and the one back.

    Without ``back`` that is the mirror image of ``ahead``.
    """

    place: Vec2
    ahead: Vec2 = (0.0, 0.0)
    back: Vec2 | None = None

    def handles(self, space: Space) -> tuple[Vec2, Vec2]:
        """Return the handle ahead, and the one back, in the path's px."""
        back = (-self.ahead[0], -self.ahead[1]) if self.back is None else self.back
        return space.shift(self.ahead, self.place), space.shift(back, self.place)

    def node(self, node_id: str, space: Space = AS_IT_IS, *, forward: bool = True) -> Node:
        ahead, back = self.handles(space)
        # A run drawn on at its beginning grows backwards: ahead of the hand is before the node.
        into, out = (back, ahead) if forward else (ahead, back)
        kind, place, z = node_kind(into, out), space.place(self.place), space.depth(self.place)
        return Node(node_id, place, into, out, kind, z=z, handle_z=self._depths(space, forward))

    def _depths(self, space: Space, forward: bool) -> Vec2 | None:
        """Return how far behind the node its handles in and out end, where the hand says so."""
        back = (-self.ahead[0], -self.ahead[1]) if self.back is None else self.back
        ahead, behind = space.deeper(self.ahead), space.deeper(back)
        if ahead is None or behind is None or not (ahead or behind):
            return None
        return (behind, ahead) if forward else (ahead, behind)


def begin(scene: Scene, first: PenNode, second: PenNode, space: Space = AS_IT_IS) -> Edit:
    """Begin a path with its first piece."""
    run = Subpath((first.node("n1", space), second.node("n2", space)))
    if _same_place(*run.nodes):
        raise EditRefused("The second node lies on the first; a path needs two places.")
    path = new_path(scene, "Path", (run,))
    return edit_of([AddPath(path)], path=path.id)


def _same_place(a: Node, b: Node) -> bool:
    return a.position == b.position and a.z == b.z


def draw_on(
    scene: Scene, path_id: str, run: int, drawn: PenNode, space: Space, *, at_end: bool = True
) -> Edit:
    """Go on drawing at an end of an open run."""
    path, subpath = _open_run(scene, path_id, run)
    made = drawn.node(nodes.fresh_node_ids(path, 1)[0], space, forward=at_end)
    if _same_place(made, subpath.live[-1 if at_end else 0]):
        raise EditRefused("The new node lies on the last one; a path goes on to another place.")
    longer = (*subpath.nodes, made) if at_end else (made, *subpath.nodes)
    after = nodes.with_auto_handles(nodes.with_subpath(path, run, replace(subpath, nodes=longer)))
    return edit_of(reshaped_commands(scene, after), f"Draw on {path.name}", path=path.id)


def draw_closed(
    scene: Scene, path_id: str, run: int, drawn: PenNode, space: Space, *, at_end: bool = True
) -> Edit:
    """End a drawing on its other end; a handle that is pulled out there bends the last piece."""
    path, subpath = _open_run(scene, path_id, run)
    if len(subpath.live) < 2:
        raise EditRefused("A closed path needs two nodes.")
    _, back = drawn.handles(space)
    if back != (0.0, 0.0):
        path = path.with_node(_bent(subpath, back, at_end=at_end))
    after = arrange.closed(path, run)
    return edit_of(reshaped_commands(scene, after), f"Close {path.name}", path=path.id)


def _bent(subpath: Subpath, back: Vec2, *, at_end: bool) -> Node:
    """Return the node on which a drawing closes, its other handle in line with the one
    pulled out.
    """
    end = subpath.live[0 if at_end else -1]
    first = end is subpath.live[0]
    other = end.handle_out if first else end.handle_in
    length, size = float(np.hypot(*other)), float(np.hypot(*back))
    # Its length is kept, only its direction follows: the curve beyond it changes as little as can
    # be.
    inline = (-back[0] / size * length, -back[1] / size * length) if length else (0.0, 0.0)
    into, out = (back, inline) if first else (inline, back)
    return replace(end, handle_in=into, handle_out=out, kind=node_kind(into, out))


def _open_run(scene: Scene, path_id: str, run: int) -> tuple[Path, Subpath]:
    path = scene.path(path_id)
    if held := path.held("draw on"):
        raise EditRefused(held)
    if run >= len(path.subpaths) or path.subpaths[run].closed:
        raise EditRefused(f"{path.name} is closed; there is no end to draw on from.")
    return path, path.subpaths[run]


Box = tuple[float, float, float, float]


@dataclass(frozen=True)
class FigureLook:
    """What a figure is like, where it has such: rounding as a share, points, inner radius as a
    share, turns.
    """

    rounding: float = 0.0
    points: int | None = None
    inner: float | None = None
    turns: float = 3.0


def add_figure(
    scene: Scene, kind: figures.Figure, box: Box, look: FigureLook, space: Space = AS_IT_IS
) -> Edit:
    """Draw a figure as a path, into a box (left, top, width, height)."""
    # Of a wave points are crests, and one is a wave; of the others corners.
    fewest = 1 if kind == "wave" else 3
    usual_points = {"wave": 3, "polygon": 6}.get(kind, 5)
    usual_inner = {"spiral": 0.1}.get(kind, 0.5)
    run = figures.figure(
        kind,
        *box,
        radius=look.rounding / 2 * min(box[2:]),
        points=max(look.points, fewest) if look.points else usual_points,
        inner=look.inner or usual_inner,
        turns=look.turns,
    )
    drawn = (
        PenNode(node.position, node.handle_out, node.handle_in).node(node.id, space)
        for node in run.nodes
    )
    # Its handles are those of the figure, in line or not: what they make of a node is known there.
    kinds = zip(drawn, run.nodes, strict=True)
    laid = tuple(replace(made, kind=node.kind, weight=node.weight) for made, node in kinds)
    path = new_path(scene, kind.capitalize(), (replace(run, nodes=laid),))
    return edit_of([AddPath(path)], path=path.id)


def starter_way(start: Vec2, width: float, height: float) -> Subpath:
    """Return a bow over a third of the frame, towards its farther side."""
    x, y = start
    reach = width / 3 * (1 if x <= width / 2 else -1)
    bend = height / 6
    first = Node("n1", (x, y), (0.0, 0.0), (reach / 3, -bend))
    last = Node("n2", (x + reach, y), (-reach / 3, -bend))
    return Subpath((first, last))


def starter(scene: Scene, layer_id: str) -> Edit:
    """Give a layer a first path of two nodes, from where it stands, and let it ride it."""
    layer = scene.layer(layer_id)
    if layer.ride:
        path = scene.path(layer.ride.path)
        raise EditRefused(f"{layer.name} rides {path.name} already.")
    here = places.into_group(scene, layer.parent, places.spot_of(scene, layer.id, 0), 0)
    way = starter_way(here, scene.width, scene.height)
    path = replace(new_path(scene, f"{layer.name}'s way", (way,)), parent=layer.parent)
    ride = _first_ride(scene, path, Facing())
    steps = [AddPath(path), *riding_commands(scene, layer, ride)]
    return edit_of(steps, path=path.id, nodes=["n2"])


def _first_ride(scene: Scene, path: Path, facing: Facing) -> Ride:
    return first_ride(
        path,
        width=scene.width,
        rate=scene.rate,
        scene_length=scene.length,
        facing=facing,
        pace=Bezier(*scene.pace),
    )


def example(scene: Scene) -> Edit:
    """Make something to be taken apart: a shape that rides round a loop, its tip ahead."""
    wide, high = scene.width, scene.height
    spots = [
        Node(f"n{i + 1}", (x * wide, y * high), kind="auto") for i, (x, y) in enumerate(ROUND_TRIP)
    ]
    run = handles.with_auto_handles(Subpath(tuple(spots), closed=True))
    path = new_path(scene, "Round trip", (run,))
    side = float(max(round(min(wide, high) / 8), 8))
    shape = Shape("polygon", side, side * 1.4, points=3)
    layer = new_layer(scene, "Rider", shape, Transform(spots[0].position))
    # A triangle's tip is up; what rides looks to the right.
    ride = _first_ride(scene, path, Facing(turn=90.0))
    made = [AddPath(path), AddLayer(layer), AttachRide(layer.id, ride)]
    return edit_of(made, "An example", [EXAMPLE], layer=layer.id)


@dataclass(frozen=True)
class Change:
    """A transform about a point, or about the middle: px, factors across and down, degrees."""

    by: Vec2 = (0.0, 0.0)
    scale: Vec2 = (1.0, 1.0)
    turn: float = 0.0
    pivot: Vec2 | None = None
    only: Sequence[str] = field(default=())
    """The nodes that change; none are all."""


def _map_of(change: Change, space: Space) -> Floats:
    return affine.chain(
        [
            affine.translation(*space.shift(change.by)),
            affine.rotation(np.radians(change.turn)),
            affine.scaling(*change.scale),
        ]
    )


def transform(scene: Scene, path_id: str, change: Change, space: Space = AS_IT_IS) -> Edit:
    """Move, scale, turn and flip a path, or some of its nodes."""
    path = shapeable(scene, path_id)
    if 0 in change.scale:
        raise EditRefused("A path scaled to nothing could not come back; it was kept as it was.")
    if isinstance(space, Beside):
        after = _changed_beside(path, change, space)
    else:
        pivot = None if change.pivot is None else space.place(change.pivot)
        after = arrange.about(path, _map_of(change, space), pivot)
    if change.only:
        # All of it is transformed, for the pivot is the middle of all; then only those named are
        # taken.
        moved = {n.id: n for n in after.nodes() if n.id in set(change.only) and not n.locked}
        after = nodes.with_nodes(path, moved)
    made = shape_edit(scene, after, f"Transform {path.name}")
    held = 0 if change.only else sum(node.locked for node in path.nodes())
    if not held:
        return made
    said = f"{called(held, 'locked node')} went along, as the whole path was changed."
    return replace(made, notes=(*made.notes, said))


def _changed_beside(path: Path, change: Change, space: Beside) -> Path:
    """Return a path changed as it is drawn from above or from its side."""
    depths = {name: z for run in path.subpaths for name, z in paths.handle_depths(run).items()}
    drawn = _about(change)
    moved = (_put(n, depths.get(n.id, (0.0, 0.0)), space, drawn) for n in path.nodes())
    return nodes.with_nodes(path, {node.id: node for node in moved})


def _about(change: Change) -> Floats:
    """Return a change about its pivot as one map (6,)."""
    x, y = change.pivot or (0.0, 0.0)
    return affine.chain(
        [
            affine.translation(change.by[0] + x, change.by[1] + y),
            affine.rotation(np.radians(change.turn)),
            affine.scaling(*change.scale),
            affine.translation(-x, -y),
        ]
    )


def _put(node: Node, depths: Vec2, space: Beside, drawn: Floats) -> Node:
    """Return a node, whose handles are so deep, where a change of its drawing takes it."""
    ends = np.array([(0.0, 0.0, 0.0), (*node.handle_in, depths[0]), (*node.handle_out, depths[1])])
    here = np.array([*node.position, node.z])
    place, *handles = space.transformed(ends + here, drawn)
    if np.allclose(drawn[:4], affine.IDENTITY[:4]):
        return replace(node, position=(float(place[0]), float(place[1])), z=float(place[2]))
    (ix, iy, iz), (ox, oy, oz) = ((way - place).tolist() for way in handles)
    x, y, z = place.tolist()
    kind: NodeKind = "smooth" if node.kind == "auto" else node.kind
    return replace(
        node,
        position=(x, y),
        z=z,
        handle_in=(ix, iy),
        handle_out=(ox, oy),
        handle_z=(iz, oz),
        kind=kind,
    )


def reverse(scene: Scene, path_id: str) -> Edit:
    path = shapeable(scene, path_id)
    steps = turned_round_commands(scene, arrange.reversed_path(path))
    return edit_of(steps, f"Reverse {path.name}", off_nodes_notes(scene, steps))


def set_closed(scene: Scene, path_id: str, *, closed: bool) -> Edit:
    """Close all open runs of a path, or open all closed ones."""
    path = shapeable(scene, path_id)
    words = f"Close {path.name}" if closed else f"Open {path.name}"
    wanted = [number for number, run in enumerate(path.subpaths) if run.closed != closed]
    # With nothing to do the first run is asked all the same: it says why not.
    for number in wanted or [0]:
        path = arrange.closed(path, number) if closed else arrange.opened(path, number)
    return shape_edit(scene, path, words)


def round_off(scene: Scene, path_id: str, to: str) -> Edit:
    """Make all nodes of a path ``smooth``, ``auto`` or a ``corner``."""
    path = shapeable(scene, path_id)
    free = [node for node in path.nodes() if not node.locked]
    fresh = changed_nodes(path, free, "round" if to == "smooth" else to)
    return shape_edit(
        scene, nodes.with_nodes(path, {n.id: n for n in fresh}), f"{to.capitalize()} {path.name}"
    )


ARRANGEMENTS = {
    "reverse": reverse,
    "open": lambda scene, path_id: set_closed(scene, path_id, closed=False),
    "close": lambda scene, path_id: set_closed(scene, path_id, closed=True),
    "smooth": lambda scene, path_id: round_off(scene, path_id, "smooth"),
    "auto": lambda scene, path_id: round_off(scene, path_id, "auto"),
    "corner": lambda scene, path_id: round_off(scene, path_id, "corner"),
}
"""What one word does to a whole path."""


def lighter(scene: Scene, path_id: str, tolerance: float) -> Edit:
    """Take out the nodes that add nothing, within a tolerance in px, and say what it costs."""
    path = shapeable(scene, path_id)
    # A peg on a node says where the rider is: taking that node out would change its timing.
    pegged = {
        peg.place.node
        for layer in scene.riders_of(path.id)
        if layer.ride
        for peg in layer.ride.pegs
        if isinstance(peg.place, AtNode)
    }
    after, deviation = nodes.lighter(path, tolerance, pegged)
    before, now = len(path.nodes()), len(after.nodes())
    if now == before:
        return edit_of([], "", [f"All {before} nodes are needed within {tolerance or 1:g} px."])
    note = f"{before} nodes become {now}; the curve moves by {deviation:.2f} px at most."
    return shape_edit(scene, after, f"Make {path.name} lighter", [note])


def lock(scene: Scene, path_id: str, locked: bool) -> Edit:
    return edit_of([set_path(path_id, locked=locked)])


def colour(scene: Scene, path_id: str, wanted: str | None) -> Edit:
    """Give a rail a colour of its own, or let it find one."""
    return edit_of([set_path(path_id, colour=wanted)])


def strengthen(scene: Scene, path_id: str, strength: float) -> Edit:
    """Scale the handles of a path's ``auto`` nodes."""
    stronger = replace(shapeable(scene, path_id), strength=strength)
    reshaped = reshaped_commands(scene, nodes.with_auto_handles(stronger))
    return edit_of([set_path(path_id, strength=strength), *reshaped])


def copy(scene: Scene, path_id: str) -> Edit:
    """Add a second one of a path, a little aside."""
    path, step = scene.path(path_id), scene.width / 60
    shifted = paths.transformed(path.subpaths, affine.translation(step, step))
    fresh = new_path(scene, path.name, shifted)
    made = replace(fresh, colour=path.colour, strength=path.strength, parent=path.parent)
    return edit_of(
        [AddPath(made, scene.paths.index(path) + 1)], f"Duplicate {path.name}", path=made.id
    )


def unused(scene: Scene) -> list[Path]:
    """Return the paths that nothing rides, strokes or is masked by."""
    return [path for path in scene.paths if not scene.users_of(path.id)]


def remove_unused(scene: Scene) -> Edit:
    """Remove the paths that nothing uses.

    Errors: EditRefused: all are in use.
    """
    gone = unused(scene)
    if not gone:
        raise EditRefused("Every path here is in use; nothing was removed.")
    names = ", ".join(path.name for path in gone)
    counted = called(len(gone), "path")
    words = f"Remove {names}, unused" if len(names) < 60 else f"Remove {counted}, unused"
    return edit_of([RemovePath(path.id) for path in gone], words)


def join(scene: Scene, path_id: str, other_id: str) -> Edit:
    """Join another open path to this one, at the ends that are nearest to each other."""
    path, other = shapeable(scene, path_id), scene.path(other_id)
    # The other path goes: who rides or strokes it would be left with nothing.
    users = scene.users_of(other.id)
    if path.id == other.id:
        raise EditRefused("A path is not joined to itself; close it instead.")
    if users:
        names = ", ".join(user.name for user in users)
        raise EditRefused(f"{other.name} is in use by {names}; take them off it first.")
    if held := other.held("join it"):
        raise EditRefused(held)
    if other.parent != path.parent:
        raise EditRefused(f"{other.name} is in another group; take it out of there first.")
    steps = [*reshaped_commands(scene, arrange.united(path, other)), RemovePath(other.id)]
    return edit_of(steps, f"Join {other.name} to {path.name}")


def _runs_of(data: str) -> tuple[Subpath, ...]:
    runs = pathdata.subpaths(pathdata.runs(data, tolerance=pathdata.EDITING_TOLERANCE))
    if not runs:
        raise EditRefused("The path data draws nothing: it needs at least one line or curve.")
    return runs


def add_data(scene: Scene, data: str, title: str) -> Edit:
    """Add a path that is typed or pasted as SVG path data."""
    path = new_path(scene, title or "Pasted path", _runs_of(data))
    return edit_of([AddPath(path)], path=path.id)


def set_data(scene: Scene, path_id: str, data: str) -> Edit:
    """Give a path the shape of typed SVG path data."""
    path = replace(shapeable(scene, path_id), subpaths=_runs_of(data))
    return edit_of(reshaped_commands(scene, path), f"Path data of {path.name}")


def outline(scene: Scene, layer_id: str, frame: float) -> Edit:
    """Make a path of a layer's outline, where it stands at a frame."""
    layer = scene.layer(layer_id)
    if not layer.content.can.trace:
        raise EditRefused(f"{layer.name} is not a shape; only a shape has an outline to ride.")
    path = new_path(scene, layer.name, outline_of(scene, layer, frame))
    return edit_of([AddPath(path)], f"Make a path of {layer.name}", path=path.id)


def outline_of(scene: Scene, layer: Layer, frame: float) -> tuple[Subpath, ...]:
    """Return a layer's outlines in the scene's px, as it is seen at a frame."""
    motion = Evaluation(scene).motion(layer.id)
    at = min(max(round(frame), 0), scene.length)
    back = maps.inverse(places.plane_map(scene, None, frame))
    return outlined(motion, at, maps.compose(back, motion.map(at)))


def outlined(motion: LayerMotion, at: int, row: Maps) -> tuple[Subpath, ...]:
    """Return what a layer shows in a frame, its outlines mapped by one map (6,) or (9,)."""
    runs = [
        (maps.apply(row, run.cubics), run.closed)
        for each in motion.faces.at(at).outlines
        for run in each.figure.runs
    ]
    return pathdata.subpaths(runs)
