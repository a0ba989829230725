"""What layers cover of the scene."""

from collections.abc import Sequence

import numpy as np

from coaster.geometry.bezier import Floats
from coaster.render.display import Item, bounds, program_of
from coaster.render.evaluate import Evaluation
from coaster.scene import tree
from coaster.scene.document import Scene


def box_of(scene: Scene, layer_ids: Sequence[str], frame: float) -> Floats | None:
    """Return left, top, right and bottom of all that layers, with what is inside them, may cover at
    a frame, px of the scene; None if nothing of them is shown.
    """
    at = min(max(round(frame), 0), scene.length)
    spans = [scene.layers[tree.span_of(scene.layers, one)] for one in layer_ids]
    inside = {each.id for span in spans for each in span}
    boxes = []
    for step in program_of(Evaluation(scene)).steps:
        if isinstance(step, Item) and step.name in inside:
            rows = bounds(step)
            boxes.append(rows[at if len(rows) > 1 else 0])
    if not boxes:
        return None
    return np.concatenate([np.min(boxes, axis=0)[:2], np.max(boxes, axis=0)[2:]])
