"""What layers cover of the scene."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from coaster.errors import EditRefused
from coaster.geometry import bezier, maps
from coaster.geometry.bezier import Floats
from coaster.geometry.path import Vec2
from coaster.render.display import Item, program_of
from coaster.render.evaluate import Evaluation
from coaster.render.outlines import Outline
from coaster.scene import tree
from coaster.scene.document import Scene


def box_of(scene: Scene, layer_ids: Sequence[str], frame: float) -> Floats | None:
    """Return left, top, right and bottom of all that layers, with what is inside them, cover at a
    frame, px of the scene; None if nothing of them is shown.

    Accuracy: as ``boxes_of``.
    """
    boxes = list(boxes_of(scene, layer_ids, frame).values())
    return _around(boxes) if boxes else None


def boxes_of(scene: Scene, layer_ids: Sequence[str], frame: float) -> dict[str, Floats]:
    """Return the box of each layer, of a group with what is inside it; those of which nothing is
    shown are left out.

    Accuracy: exact for fills and pictures; strokes are taken as wide as at their widest scale.
    """
    at = min(max(round(frame), 0), scene.length)
    tops: dict[str, str] = {}
    for top in layer_ids:
        tops |= {each.id: top for each in scene.layers[tree.span_of(scene.layers, top)]}
    found: dict[str, list[Floats]] = {}
    for step in program_of(Evaluation(scene), guides=True).one_by_one(at):
        if isinstance(step, Item) and step.name in tops:
            found.setdefault(tops[step.name], []).extend(_boxes(step, at))
    return {top: _around(boxes) for top, boxes in found.items() if boxes}


def _around(boxes: Sequence[Floats]) -> Floats:
    return np.concatenate([np.min(boxes, axis=0)[:2], np.max(boxes, axis=0)[2:]])


def _boxes(item: Item, frame: int) -> list[Floats]:
    face, row = item.faces.at(frame), item.map(frame)
    found = [_outlined(one, row) for one in item.outlines(frame) if one.figure.runs]
    if face.picture:
        left, top, width, height = face.box
        corners = np.array([[0, 0], [width, 0], [width, height], [0, height]], float)
        corners += np.array([left, top])
        found.append(np.concatenate(maps.extremes(maps.outline_of(row[None], corners)), axis=1)[0])
    return found


def _outlined(outline: Outline, row: Floats) -> Floats:
    """Return the box of a figure as it is seen, with its stroke."""
    curves = np.concatenate([run.cubics for run in outline.figure.runs])
    seen = maps.apply_each(row[None], curves.reshape(-1, 2)).reshape(-1, 4, 2)
    width = outline.stroke_width if outline.stroke else 0.0
    out = width * outline.beyond * float(maps.largest_scale(row[None], curves[0])[0])
    return np.array(bezier.bounds(seen)) + out * np.array([-1, -1, 1, 1])


def local_of(scene: Scene, layer_id: str, point: Vec2, frame: float) -> Floats:
    """Return a place of the scene in a layer's own px, as it is seen at a frame.

    Errors: EditRefused: it has no size, so that no place of it can be told from another.
    """
    at = min(max(round(frame), 0), scene.length)
    row = Evaluation(scene).motion(layer_id).map(at)
    if abs(maps.area_factor(row)) < 1e-12:
        name = scene.layer(layer_id).name
        raise EditRefused(f"{name} has no size here; type its scale first.")
    return maps.apply(maps.inverse(row), point)


def own_box(scene: Scene, layer_id: str, frame: float) -> Floats | None:
    """Return left, top, width and height of a layer in its own px at a frame: of what it shows, or
    of all that is shown in a group; None if that is nothing.
    """
    at = min(max(round(frame), 0), scene.length)
    layer = scene.layer(layer_id)
    motion = Evaluation(scene).motion(layer_id)
    if not layer.content.can.hold:
        return np.array(motion.face(at).box)
    inside = {each.id for each in scene.layers[tree.span_of(scene.layers, layer_id)]}
    back = maps.inverse(motion.map(at))
    boxes = [
        box
        for step in program_of(Evaluation(scene), guides=True).one_by_one(at)
        if isinstance(step, Item) and step.name in inside
        for box in _boxes(replace(step, maps=maps.compose(back, step.maps)), at)
    ]
    if not boxes:
        return None
    low, high = np.min(boxes, axis=0)[:2], np.max(boxes, axis=0)[2:]
    return np.concatenate([low, high - low])
