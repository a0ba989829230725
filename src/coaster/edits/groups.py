"""Groups: made of what is chosen, dissolved, and things put into them and taken out."""

from collections.abc import Iterable, Sequence
from dataclasses import replace

import numpy as np

from coaster.commands.base import Command
from coaster.commands.fields import set_path
from coaster.commands.layers import AddLayer, MoveLayer, RemoveLayer, place_of
from coaster.edits.carriers import carried_by, let_go_commands
from coaster.edits.edit import Edit, Selection, edit_of
from coaster.edits.extents import box_of
from coaster.edits.follows import letting_go_commands, said_of_followers
from coaster.edits.kept import with_kept
from coaster.edits.making import new_layer
from coaster.errors import EditRefused
from coaster.geometry import affine
from coaster.geometry import path as paths
from coaster.geometry.bezier import Floats
from coaster.geometry.path import Path
from coaster.render import places
from coaster.scene import tree
from coaster.scene.contents import Group, as_kind
from coaster.scene.document import Layer, Scene, Transform


def group(scene: Scene, layer_ids: Sequence[str], frame: float) -> Edit:
    """Make a group of layers, where the frontmost of them is; paths that only they use come
    along.
    """
    chosen = outermost(scene, layer_ids)
    parent = _common_parent(chosen)
    middle = _middle(scene, [layer.id for layer in chosen], parent, frame)
    made = new_layer(scene, "Group", Group(middle), Transform(middle))
    made = replace(made, parent=parent)
    # The group is put in front of its members, and they move into it from the back on.
    place = place_of(scene, chosen[-1].id) + 1
    steps: list[Command] = [AddLayer(made, place)]
    steps += [MoveLayer(layer.id, made.id, number) for number, layer in enumerate(chosen)]
    steps += [set_path(path.id, parent=made.id) for path in _own_paths(scene, chosen, parent)]
    names = ", ".join(layer.name for layer in chosen)
    return edit_of(steps, f"Group {names}"[:180], layer=made.id)


def outermost(scene: Scene, layer_ids: Iterable[str]) -> list[Layer]:
    """Return the named layers from the back to the front; those inside another of them go
    with it.
    """
    named = set(layer_ids)
    for layer_id in named:
        scene.layer(layer_id)
    inside = {
        layer.id
        for layer in scene.layers
        if any(g.id in named for g in tree.ancestors(scene, layer.parent))
    }
    return [layer for layer in scene.layers if layer.id in named - inside]


def _own_paths(scene: Scene, chosen: Sequence[Layer], parent: str | None) -> list[Path]:
    """Return the paths beside some layers that nobody but them uses."""
    inside = {
        each.id for layer in chosen for each in scene.layers[tree.span_of(scene.layers, layer.id)]
    }
    found, parts = [], {leg.path for path in scene.paths for leg in path.legs}
    for path in scene.paths:
        users = {user.id for user in scene.users_of(path.id)}
        if path.legs or path.id in parts:
            # Those that make one path stay together.
            continue
        if path.parent == parent and users and users <= inside:
            found.append(path)
    return found


def _common_parent(chosen: Sequence[Layer]) -> str | None:
    parents = {layer.parent for layer in chosen}
    if not parents:
        raise EditRefused("Choose the layers to be grouped first.")
    if len(parents) > 1:
        raise EditRefused(
            "Layers of different groups are grouped after they are put into one of them."
        )
    return parents.pop()


def _middle(
    scene: Scene, layer_ids: Sequence[str], parent: str | None, frame: float
) -> tuple[float, float]:
    """Return the middle of what layers cover at a frame, in the px of their group."""
    box = box_of(scene, layer_ids, frame)
    if box is None:
        return scene.width / 2, scene.height / 2
    middle_x, middle_y = ((box[:2] + box[2:]) / 2).tolist()
    x, y = places.into_group(scene, parent, (middle_x, middle_y), frame)
    return round(x, 2), round(y, 2)


def ungroup(scene: Scene, layer_id: str, frame: float) -> Edit:
    """Dissolve a group; what was in it stays as it is seen at a frame.

    Errors: EditRefused: it is not a group, or members move in a way that cannot be kept.
    """
    layer = scene.layer(layer_id)
    as_kind(layer.content, Group, layer.name)
    own = _own_map(scene, layer, frame)
    place = place_of(scene, layer_id)
    members = tree.members(scene.layers, layer_id)
    ids = [member.id for member in members]
    steps: list[Command] = [
        MoveLayer(each, layer.parent, place + number) for number, each in enumerate(ids)
    ]
    for path in scene.paths:
        if path.parent == layer_id:
            steps += path_out_commands(path, layer.parent, own)
    steps = with_kept(scene, steps, ids, frame)
    steps += let_go_commands(scene, carried_by(scene, [layer_id]), frame)
    steps += [*letting_go_commands(scene, [layer_id]), RemoveLayer(layer_id)]
    moved = layer.ride or layer.carrier or layer.keys or layer.transform.opacity < 1 or layer.shown
    lost = moved or layer.mask or layer.blend != "normal"
    note = f"What {layer.name} did over time, and its look, went with it. Undo brings it back."
    select = Selection(tuple(ids))
    notes = [*([note] if lost else []), *said_of_followers(scene, [layer_id])]
    return Edit(tuple(steps), f"Dissolve {layer.name}", tuple(notes), select)


def _own_map(scene: Scene, layer: Layer, frame: float) -> Floats:
    """Return the map (6,) of a group's px to those around it, at a frame."""
    around = places.group_map(scene, layer.parent, frame)
    return affine.compose(affine.inverse(around), places.group_map(scene, layer.id, frame))


def path_out_commands(path: Path, parent: str | None, own: Floats) -> list[Command]:
    """Return the commands that take a path out of a group whose px lie under ``own``, to where it
    is seen.
    """
    if np.allclose(own, affine.IDENTITY, rtol=0, atol=1e-9):
        return [set_path(path.id, parent=parent)]
    return [set_path(path.id, parent=parent, subpaths=paths.transformed(path.subpaths, own))]


def _numbers(
    scene: Scene, chosen: Sequence[Layer], parent: str | None, place: int | None
) -> list[int]:
    """Return the places that layers are moved to, one after the other, to end up together at a
    place among a group's members.
    """
    named = {layer.id for layer in chosen}
    order = [each.id for each in tree.members(scene.layers, parent)]
    staying = [each for each in order if each not in named]
    # Those that stay and lie behind the place say where the first goes; the others follow it.
    before = staying[:place][-1:] if place is not None else staying[-1:]
    numbers = []
    for layer in chosen:
        order = [each for each in order if each != layer.id]
        numbers.append(order.index(before[0]) + 1 if before else 0)
        order.insert(numbers[-1], layer.id)
        before = [layer.id]
    return numbers


def put_into(
    scene: Scene, layer_ids: Sequence[str], parent: str | None, place: int | None, frame: float
) -> Edit:
    """Move layers into a group, or out of all of them, to a place among its members, where they are
    seen.

    Errors: EditRefused: into itself, or members move in a way that cannot be kept.
    """
    chosen = outermost(scene, layer_ids)
    for layer in chosen:
        if parent is not None and tree.is_inside(scene, parent, layer.id):
            raise EditRefused(f"{layer.name} cannot be put into itself.")
    steps: list[Command] = []
    for layer, number in zip(chosen, _numbers(scene, chosen, parent, place), strict=True):
        steps.append(MoveLayer(layer.id, parent, number))
    # What stays in its group, and what rides what lies elsewhere, is not seen to move.
    ids = tuple(layer.id for layer in chosen)
    return Edit(tuple(with_kept(scene, steps, ids, frame)), "", (), Selection(ids))
