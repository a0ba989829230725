"""What files bring: a picture as a layer, shapes of a drawing as paths."""

from collections.abc import Sequence

import numpy as np

from coaster.commands.layers import AddLayer
from coaster.commands.paths import AddPath
from coaster.edits.edit import Edit, edit_of
from coaster.edits.keys import Moment
from coaster.edits.layers import text_layer, text_look
from coaster.edits.making import new_layer, new_path
from coaster.formats import svg
from coaster.geometry import affine
from coaster.geometry import path as paths
from coaster.geometry.bezier import Floats
from coaster.geometry.path import Path, Vec2
from coaster.scene.contents import Footage, Inset, Picture, as_text
from coaster.scene.document import Scene, Transform
from coaster.scene.limits import check_nodes


def add_picture(
    scene: Scene,
    picture: Picture | Footage | Inset,
    title: str,
    file: str,
    notes: Sequence[str],
    at: Vec2 | None = None,
) -> Edit:
    """Add a picture, still or moving, at a place, or in the middle; one that is larger than the
    frame is fitted to it, and that is said.
    """
    fit = min(1.0, scene.width / picture.width, scene.height / picture.height)
    said = list(notes)
    if fit < 1:
        size = f"{picture.width:g} × {picture.height:g} px"
        said.append(
            f"{file} is {size}, larger than the frame; it was fitted to it at {fit * 100:.0f} %."
        )
    place = Transform(at or (scene.width / 2, scene.height / 2), scale=(fit, fit))
    layer = new_layer(scene, title or "Picture", picture, place)
    return edit_of([AddLayer(layer)], notes=said, layer=layer.id)


def add_font(scene: Scene, font: str, title: str, layer_id: str, notes: Sequence[str]) -> Edit:
    """Set a text in a font that was brought in; without one, add a text that names it."""
    chosen = next((layer for layer in scene.layers if layer.id == layer_id), None)
    if chosen is not None and as_text(chosen.content) is not None:
        edit = text_look(scene, chosen.id, {"font": font}, Moment())
        return edit_of(edit.commands, f"Set {chosen.name} in {title}", [*edit.notes, *notes])
    said = f"{title} is among the fonts of this project now."
    layer = text_layer(scene, title, font)
    return edit_of([AddLayer(layer)], f"Add a text in {title}", [said, *notes], layer=layer.id)


def add_shapes(
    scene: Scene,
    drawing: svg.Drawing,
    shapes: Sequence[svg.SvgShape],
    file: str,
    title: str,
    *,
    fit: bool,
) -> Edit:
    """Add shapes of a drawing as paths, px for px, or fitted into the frame."""
    check_nodes(scene, sum(len(cubics) for shape in shapes for cubics, _ in shape.runs))
    place = _placing(drawing, scene, fit)
    made: list[Path] = []
    for shape in shapes:
        runs = paths.transformed(shape.subpaths(), place)
        made.append(new_path(scene, shape.id or title or "Path", runs, besides=made))
    notes = list(drawing.left_out[:1])
    if fit:
        scale = affine.largest_scale(place)
        notes.append(f"{file} was fitted to the frame at {scale * 100:.0f} %.")
    return edit_of([AddPath(path) for path in made], notes=notes, path=made[-1].id)


def _placing(drawing: svg.Drawing, scene: Scene, fit: bool) -> Floats:
    """Return the map of a drawing's px to the scene's: as drawn, or fitted into the frame."""
    if not fit:
        return np.array(affine.IDENTITY)
    factor = min(scene.width / drawing.width, scene.height / drawing.height)
    free = (scene.width - factor * drawing.width) / 2, (scene.height - factor * drawing.height) / 2
    return affine.compose(affine.translation(*free), affine.scaling(factor, factor))
