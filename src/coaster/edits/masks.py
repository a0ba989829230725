"""How layers meet what lies beneath them: blends, and masks by paths."""

from collections.abc import Mapping
from dataclasses import replace

from coaster.commands.base import Command
from coaster.commands.fields import set_layer
from coaster.commands.paths import AddPath
from coaster.edits.edit import Edit, edit_of
from coaster.edits.extents import box_of
from coaster.edits.keys import Moment, said_of, with_values
from coaster.edits.making import new_path
from coaster.edits.spaces import space_of
from coaster.errors import EditRefused
from coaster.geometry import figures
from coaster.geometry.path import Path
from coaster.scene import tree
from coaster.scene.document import Layer, Scene
from coaster.scene.masks import MOST_PARTS, Blend, Mask, MaskPart, Meeting, Stencil


def blend(scene: Scene, layer_id: str, how: Blend) -> Edit:
    return edit_of([set_layer(layer_id, blend=how)])


def isolate(scene: Scene, layer_id: str, isolated: bool) -> Edit:
    return edit_of([set_layer(layer_id, isolated=isolated)])


def stencil(
    scene: Scene, layer_id: str, by: Stencil | None, *, inverted: bool | None = None
) -> Edit:
    """Let a layer mask the one right below it in its group, or not any more."""
    layer = scene.layer(layer_id)
    turned = layer.stencil_inverted if inverted is None else inverted
    notes = []
    siblings = tree.members(scene.layers, layer.parent)
    if by is not None and siblings[0].id == layer.id:
        notes.append(f"Nothing lies below {layer.name} in its group, so it masks nothing yet.")
    return edit_of([set_layer(layer_id, stencil=by, stencil_inverted=turned)], notes=notes)


def mask_of(layer: Layer) -> Mask:
    """Errors: EditRefused: the layer has no mask."""
    if layer.mask is None:
        raise EditRefused(f"{layer.name} has no mask; choose a path to mask it with first.")
    return layer.mask


def mask_with(scene: Scene, layer_id: str, path_id: str) -> Edit:
    """Show of a layer only what is inside a path, or one path more."""
    layer, path = scene.layer(layer_id), scene.path(path_id)
    words = f"Mask {layer.name} with {path.name}"
    return edit_of([_with_part(layer, path)], words, _open_words(path), layer=layer.id)


def _with_part(layer: Layer, path: Path) -> Command:
    part = MaskPart(path.id)
    if layer.mask is None:
        return set_layer(layer.id, mask=Mask((part,)))
    if layer.is_masked_by(path.id):
        raise EditRefused(f"{path.name} masks {layer.name} already.")
    if len(layer.mask.parts) >= MOST_PARTS:
        raise EditRefused(f"A mask has at most {MOST_PARTS} paths.")
    return set_layer(layer.id, mask=replace(layer.mask, parts=(*layer.mask.parts, part)))


def _open_words(path: Path) -> list[str]:
    if all(run.closed for run in path.subpaths):
        return []
    return [f"{path.name} is open; as a mask it is closed by a straight line."]


def mask_round(scene: Scene, layer_id: str, figure: figures.Figure, frame: float) -> Edit:
    """Mask a layer with a new path round what is seen of it at a frame; a group's goes with it."""
    layer = scene.layer(layer_id)
    box = box_of(scene, [layer_id], frame)
    if box is None:
        raise EditRefused(f"{layer.name} shows nothing here that a mask could be put round.")
    parent = layer.id if layer.content.can.hold else layer.parent
    into = space_of(scene, parent, frame)
    corners = (into.place((float(x), float(y))) for x in box[::2] for y in box[1::2])
    xs, ys = zip(*corners, strict=True)
    run = figures.figure(figure, min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys))
    path = replace(new_path(scene, f"Mask of {layer.name}", (run,)), parent=parent)
    steps = [AddPath(path), _with_part(layer, path)]
    return edit_of(steps, f"Mask {layer.name} with a new {figure}", layer=layer.id)


def without_part(scene: Scene, layer_id: str, path_id: str) -> Edit:
    """Take a path out of a mask; without its last one the layer is seen whole."""
    layer, path = scene.layer(layer_id), scene.path(path_id)
    rest = mask_of(layer).without(path.id)
    notes = [] if rest else [f"{layer.name} is seen whole again."]
    words = f"Take {path.name} out of the mask of {layer.name}"
    return edit_of([set_layer(layer.id, mask=rest)], words, notes)


def meet(scene: Scene, layer_id: str, path_id: str, how: Meeting) -> Edit:
    """Set how a path of a mask meets those before it."""
    layer = scene.layer(layer_id)
    mask = mask_of(layer)
    if not layer.is_masked_by(path_id):
        raise EditRefused(f"{scene.path(path_id).name} does not mask {layer.name}.")
    parts = (replace(part, how=how) if part.path == path_id else part for part in mask.parts)
    return edit_of([set_layer(layer.id, mask=replace(mask, parts=tuple(parts)))])


def mask_look(
    scene: Scene,
    layer_id: str,
    values: Mapping[str, float],
    moment: Moment,
    *,
    inverted: bool | None = None,
) -> Edit:
    """Set properties of a mask, in the document's units; what has keys is kept in them."""
    layer = scene.layer(layer_id)
    mask_of(layer)
    after, steps = with_values(scene, layer, values, moment)
    mask = mask_of(after)
    if inverted is not None:
        mask = replace(mask, inverted=inverted)
    words = f"Keys of {layer.name}" if steps else ""
    return edit_of([set_layer(layer.id, mask=mask), *steps], words, said_of(layer, values, steps))


def uncovering_commands(scene: Scene, path_id: str) -> list[Command]:
    """Return the commands that take a path out of every mask it is in."""
    return [
        set_layer(layer.id, mask=mask_of(layer).without(path_id))
        for layer in scene.layers
        if layer.is_masked_by(path_id)
    ]
