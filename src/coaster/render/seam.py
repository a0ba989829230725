"""The seam: how far the end of the loop is from its start, layer by layer."""

from dataclasses import dataclass

import numpy as np

from coaster.geometry import affine
from coaster.motion import travel
from coaster.render.evaluate import Evaluation, LayerMotion
from coaster.scene.document import Scene

SEAM_PX, SEAM_DEG, SEAM_SPEED = 0.5, 1.0, 0.05
"""What the eye lets pass: px, degrees, and the share of the larger of the two speeds."""
INSTANT = 1e-6
"""Frames before the seam at which the end is looked at, where the continuation is its limit."""


@dataclass(frozen=True)
class LayerSeam:
    """One layer at frame N, as the continuation, against frame 0.

    Units: px, degrees in -180..180, px/s (``speed_end`` just before the seam, ``speed_start``
           just after it). ``unseen`` says that the layer is outside the frame on both sides of
           the seam, so that whatever it does there nobody sees.
    """

    layer_id: str
    name: str
    position: float
    angle: float
    speed_end: float
    speed_start: float
    unseen: bool = False

    @property
    def speed(self) -> float:
        return self.speed_start - self.speed_end

    @property
    def clean(self) -> bool:
        if self.unseen:
            return True
        limit = max(SEAM_SPEED * max(self.speed_end, self.speed_start), 1.0)
        return self.position <= SEAM_PX and abs(self.angle) <= SEAM_DEG and abs(self.speed) <= limit

    def reasons(self) -> list[str]:
        """Say what keeps the seam from being clean, in words."""
        found: list[str] = []
        if self.unseen:
            return found
        if self.position > SEAM_PX:
            found.append(f"jumps {self.position:.1f} px")
        if abs(self.angle) > SEAM_DEG:
            found.append(f"turns {self.angle:+.1f}° at once")
        if not self.clean and not found:
            found.append(f"goes from {self.speed_end:.0f} to {self.speed_start:.0f} px/s at once")
        return found


def report(evaluation: Evaluation) -> list[LayerSeam]:
    """Return the seam of every visible layer that moves, from the back to the front.

    Layers that stand still have nothing to jump and are left out.
    """
    return [layer_seam(m, evaluation) for m in evaluation.motions if m.layer.visible and m.travel is not None]


def layer_seam(motion: LayerMotion, evaluation: Evaluation) -> LayerSeam:
    """Return one rider's seam."""
    scene, ridden, way = evaluation.scene, motion.travel, motion.way
    if ridden is None or way is None:
        raise ValueError(f"{motion.layer.name} rides no path")
    period = travel.period_of(way, scene.length)
    end = np.array([scene.length - INSTANT])
    _, rate_end = travel.travelled(way, end, period)
    angle = np.degrees(_turn(motion, scene.length) - _turn(motion, 0))
    return LayerSeam(
        motion.layer.id,
        motion.layer.name,
        float(np.hypot(*(ridden.position[scene.length] - ridden.position[0]))),
        float((angle + 180.0) % 360.0 - 180.0),
        abs(float(rate_end[0])) * scene.fps,
        abs(float(ridden.rate[0])) * scene.fps,
        all(_outside(motion, frame, scene) for frame in (0, scene.length)),
    )


def _outside(motion: LayerMotion, frame: int, scene: Scene) -> bool:
    """Whether the layer's box, strokes included, misses the frame."""
    drawn = motion.drawable
    room = max((o.stroke_width for o in drawn.outlines), default=0.0) / 2
    left, top = drawn.origin[0] - room, drawn.origin[1] - room
    right, bottom = drawn.origin[0] + drawn.width + room, drawn.origin[1] + drawn.height + room
    corners = [[left, top], [right, top], [right, bottom], [left, bottom]]
    x, y = affine.apply(motion.matrix(frame), corners).T
    return bool(x.max() <= 0 or x.min() >= scene.width or y.max() <= 0 or y.min() >= scene.height)


def _turn(motion: LayerMotion, frame: int) -> float:
    a, b, *_ = motion.matrix(frame)
    return float(np.arctan2(b, a))
