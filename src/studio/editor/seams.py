"""The seam as its panel tells it: pictures, who does not meet its start again, what mends it."""

import base64

import numpy as np

from coaster.edits import looping
from coaster.errors import CoreError
from coaster.export.seams import SHOWN_TIMES, seam_pictures
from coaster.media.pictures import Pixels, small_jpeg
from coaster.render import seam
from coaster.render.evaluate import Evaluation
from coaster.scene.document import Scene as Value
from studio.projects.models import Scene

WIDE = 480
"""Px of the pictures."""
MOST_ROWS = 12
"""Layers for which ways are tried at once; those behind them come up when these are mended."""
BARS = 120
"""At most so many bars tell how evenly it moves."""
EVEN_PX = 2.0
"""By so much a step may be longer than the one before it; beyond that the eye sees it."""


def told(scene: Scene) -> dict[str, object]:
    """Return what the panel shows."""
    value = scene.value()
    evaluation = Evaluation(value)
    found = seam.report(evaluation)
    broken = [one for one in found if not one.clean]
    rows = [
        {"seam": one, "ways": [*looping.ways(value, one.layer_id)]} for one in broken[:MOST_ROWS]
    ]
    context = {
        "scene": scene,
        "moves": bool(found),
        "rows": rows,
        "broken": len(broken),
        "more": len(broken) - len(rows),
        "bars": _bars(seam.unevenness(evaluation)),
        "last_frame": value.length - 1,
        "times": SHOWN_TIMES,
        "even": EVEN_PX,
    }
    return context | _pictures(scene, value)


def _pictures(scene: Scene, value: Value) -> dict[str, object]:
    try:
        drawn = seam_pictures(value, scene.project.folder, min(1.0, WIDE / value.width))
    except CoreError as error:
        return {"refused": str(error)}
    shown = {"last": drawn.last, "first": drawn.first, "differs": drawn.differs}
    return {"pictures": drawn, "shown": {name: _address(one) for name, one in shown.items()}}


def _address(pixels: Pixels) -> str:
    return "data:image/jpeg;base64," + base64.b64encode(small_jpeg(pixels, WIDE)).decode()


def _bars(uneven: np.ndarray) -> list[dict[str, object]]:
    """Return how uneven the steps are round the loop, the most uneven of each part of it."""
    parts = np.array_split(uneven, min(BARS, len(uneven)))
    most = max(EVEN_PX, float(uneven.max(initial=0.0)))
    return [
        {"at": index, "high": 24 * float(part.max()) / most, "px": float(part.max())}
        for index, part in enumerate(parts)
    ]
