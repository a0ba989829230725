"""Depth: how layers lie in it, what groups keep of it, in which order they are drawn; what cameras
see, and how lights shine.
"""

from collections.abc import Mapping
from dataclasses import replace

from coaster.commands.fields import set_layer, set_scene
from coaster.edits.edit import Edit, called, edit_of
from coaster.edits.keys import Moment, said_of, with_values
from coaster.errors import EditRefused
from coaster.render.crossing import crossing
from coaster.scene.contents import Camera, Group, Light, as_kind
from coaster.scene.document import Layer, Scene


def lie(
    scene: Scene,
    layer_id: str,
    *,
    anchor_z: float | None = None,
    to_viewer: bool | None = None,
    short_way: bool | None = None,
) -> Edit:
    """Set how far behind a layer its anchor is, px, whether its face is always turned to the
    viewer, and whether it turns the short way from key to key; None is as it was.

    Errors: EditRefused: it is a camera, or a line.
    """
    layer = scene.layer(layer_id)
    if not layer.content.can.stand:
        raise EditRefused(f"{layer.name} follows its path; give depth to the group it is in.")
    if to_viewer and not layer.content.can.seen:
        raise EditRefused(f"{layer.name} is not seen, so it has no face to turn to the viewer.")
    now = layer.transform
    behind = now.anchor_z if anchor_z is None else anchor_z
    faces = now.to_viewer if to_viewer is None else to_viewer
    short = now.short_way if short_way is None else short_way
    lies = replace(now, anchor_z=behind, to_viewer=faces, short_way=short)
    return edit_of([set_layer(layer_id, transform=lies)], f"Depth of {layer.name}")


def see(scene: Scene, layer_id: str, values: Mapping[str, float], moment: Moment) -> Edit:
    """Set the angle that a camera sees across, in degrees; one with keys is kept in them."""
    layer = scene.layer(layer_id)
    as_kind(layer.content, Camera, layer.name)
    return _changed(scene, layer, values, moment, f"What {layer.name} sees")


def shine(
    scene: Scene,
    layer_id: str,
    values: Mapping[str, float | str],
    moment: Moment,
    soft: float | None = None,
) -> Edit:
    """Set how a light shines, in the document's units; what has keys is kept in them."""
    layer = scene.layer(layer_id)
    light = as_kind(layer.content, Light, layer.name)
    softer = light if soft is None else replace(light, soft=soft)
    changed = replace(layer, content=softer)
    return _changed(scene, changed, values, moment, f"How {layer.name} shines")


def _changed(
    scene: Scene, layer: Layer, values: Mapping[str, float | str], moment: Moment, words: str
) -> Edit:
    after, steps = with_values(scene, layer, values, moment)
    said = said_of(layer, values, steps)
    return edit_of([set_layer(layer.id, content=after.content), *steps], words, said)


def be_lit(
    scene: Scene, layer_id: str, *, lit: bool | None = None, shine: float | None = None
) -> Edit:
    """Set whether lights shine on a layer, and how much of it it throws back, 0..1; None is as it
    was.
    """
    layer = scene.layer(layer_id)
    now, thrown = layer.lit if lit is None else lit, layer.shine if shine is None else shine
    return edit_of([set_layer(layer_id, lit=now, shine=thrown)], f"Light on {layer.name}")


def keep(
    scene: Scene, layer_id: str, *, flat: bool | None = None, by_depth: bool | None = None
) -> Edit:
    """Set whether all in a group lies in its plane, and whether the farthest is drawn first; None
    is as it was. Without a group, in which order the scene's own layers are drawn.
    """
    if not layer_id:
        farthest = scene.by_depth if by_depth is None else by_depth
        notes = _crossing(scene, None) if by_depth else []
        return edit_of([set_scene(by_depth=farthest)], "Order of layers", notes)
    layer = scene.layer(layer_id)
    group = as_kind(layer.content, Group, layer.name)
    kept = replace(
        group,
        flat=group.flat if flat is None else flat,
        by_depth=group.by_depth if by_depth is None else by_depth,
    )
    notes = _crossing(scene, layer_id) if by_depth else []
    return edit_of([set_layer(layer_id, content=kept)], f"Depth in {layer.name}", notes)


def _crossing(scene: Scene, group_id: str | None) -> list[str]:
    """Say which layers go through each other, where they are to be sorted by depth."""
    found = crossing(scene, group_id)
    if not found:
        return []
    first, second = found[0]
    more = f" and {called(len(found) - 1, 'other pair')}" if len(found) > 1 else ""
    return [
        f"{first} and {second}{more} go through each other; none is cut, the one whose anchor is"
        " nearer is in front."
    ]
