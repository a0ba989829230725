"""Motion blur: a picture is the mean of what is seen while a shutter is open.

Sharp where nothing moves; else as many moments are drawn as the movement needs, and no more.
"""

from dataclasses import dataclass

import numpy as np

from coaster.geometry import maps as mapping
from coaster.geometry.bezier import Floats
from coaster.media.pictures import Pixels
from coaster.motion.sense import Rows
from coaster.render.display import (
    Crowd,
    Item,
    Program,
    Push,
    corners_of,
    crowd_travel,
    travel,
)
from coaster.render.raster import Painter, Surface

STEP_PX = {"small": 6.0, "usual": 5.5, "best": 2.0}
"""Of the output, from one moment to the next, by how much of what is drawn a file is to keep."""
MOST_MOMENTS = 16
"""In one picture; what moves farther than so many steps is a streak in any case."""
FULL_TURN = 360.0


@dataclass(frozen=True, eq=False)
class Plan:
    """When pictures are seen: ``moments`` (m,) of a scene in its frames, ascending; those of
    picture i are ``begins[i]`` up to ``begins[i + 1]``.
    """

    moments: Floats
    begins: Rows

    @property
    def sharp(self) -> bool:
        """Whether each picture is one moment."""
        return len(self.moments) == len(self.begins) - 1

    def rows(self, picture: int) -> range:
        return range(int(self.begins[picture]), int(self.begins[picture + 1]))


def sharp(opens: Floats) -> Plan:
    """Return the plan of pictures that are seen at a moment each."""
    return Plan(opens, np.arange(len(opens) + 1))


def both(opens: Floats, lasts: float) -> Floats:
    """Return when a shutter opens and when it closes, by turns, (2n,)."""
    return np.stack([opens, opens + lasts], axis=1).reshape(-1)


def plan_of(opens: Floats, lasts: float, program: Program, scale: float, step: float) -> Plan:
    """Return the plan of pictures while which a shutter is open.

    Units: ``opens`` (n,) and ``lasts`` frames of the scene; ``scale`` px of the output for one of
           the scene, ``step`` px of the output. ``program`` is the scene's at ``both`` of them.
    """
    moved = _moved(program, len(opens)) * scale
    counts = np.clip(np.ceil(moved / step), 1, MOST_MOMENTS).astype(np.intp)
    # The middle of each part of the time: with one, the picture is as sharp as any.
    parts = [(np.arange(count) + 0.5) / count if count > 1 else np.zeros(1) for count in counts]
    opened = np.repeat(opens, counts)
    begins = np.concatenate([[0], np.cumsum(counts)]).astype(np.intp)
    return Plan(opened + lasts * np.concatenate(parts), begins)


def _moved(program: Program, count: int) -> Floats:
    """Return how far anything goes while the shutter is open, px of the scene, (n,)."""
    opened, closed = np.arange(0, 2 * count, 2), np.arange(1, 2 * count, 2)
    moved = np.zeros(count)
    for step in program.steps:
        if isinstance(step, Item):
            moved = np.maximum(moved, travel(step, corners_of(step), opened, closed))
        elif isinstance(step, Crowd):
            moved = np.maximum(moved, crowd_travel(step, opened, closed))
        elif isinstance(step, Push) and step.cover is not None:
            for cut in step.cover.cuts:
                if len(cut.maps) > 1 and cut.figure.runs:
                    at = mapping.apply_each(cut.maps, _corners(cut.figure.bounds()))
                    gone = np.hypot(*(at[closed] - at[opened]).T).max(axis=0)
                    moved = np.maximum(moved, gone)
    return moved


def _corners(box: tuple[float, float, float, float]) -> Floats:
    left, top, right, bottom = box
    return np.array([[left, top], [right, top], [right, bottom], [left, bottom]])


class BlurredPainter:
    """Draws pictures of a plan, each the mean of its moments; otherwise as its painter.

    Accuracy: the mean of the drawn values, rounded once; where nothing moves, to the byte what is
              drawn of one moment.
    """

    def __init__(self, painter: Painter, plan: Plan) -> None:
        self._painter, self._plan = painter, plan
        self.width, self.height = painter.width, painter.height

    def prepare(self) -> None:
        self._painter.prepare()

    def picture(self, index: int) -> Pixels:
        surface = Surface(np.empty((self.height, self.width, 4), np.uint8))
        return self.painted(index, surface)

    def painted(self, index: int, surface: Surface) -> Pixels:
        """Return one picture, drawn on what the surface holds."""
        self.repaint(index, surface)
        return surface.pixels

    def repaint(self, index: int, surface: Surface) -> None:
        """Draw one picture over the last one drawn there; errors as those of the painter."""
        self._painter.mean(index, self._plan.rows(index), surface)
