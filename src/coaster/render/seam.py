"""The seam: how far the end of the loop is from its start, layer by layer."""

from dataclasses import dataclass
from itertools import product

import numpy as np

from coaster.geometry import affine
from coaster.geometry.bezier import Floats
from coaster.motion import distance, keys
from coaster.render.evaluate import Evaluation, LayerMotion
from coaster.scene import tree
from coaster.scene.document import Scene
from coaster.scene.properties import PLACES

SEAM_PX, SEAM_DEG, SEAM_SPEED = 0.5, 1.0, 0.05
"""What the eye lets pass: px, degrees, and the share of the larger of the two speeds."""
SEAM_SCALE, SEAM_OPACITY = 0.01, 0.02
"""The same for size, a share of it, and for opacity."""
INSTANT = 1e-6
"""Frames before the seam at which the end is looked at, where the continuation is its limit."""


@dataclass(frozen=True)
class LayerSeam:
    """One layer at frame N, as the continuation, against frame 0.

    Units: px, degrees in -180..180, px/s (``speed_end`` just before the seam, ``speed_start``
           just after it), shares of the size and of full opacity. ``unseen`` says that the layer
           is outside the frame on both sides of the seam, so that whatever it does nobody sees.
           ``footage`` are the frames of its file at N and at 0, where they are not the same.
    """

    layer_id: str
    name: str
    position: float
    angle: float
    speed_end: float
    speed_start: float
    scale: float = 0.0
    opacity: float = 0.0
    unseen: bool = False
    footage: tuple[int, int] | None = None

    @property
    def speed(self) -> float:
        return self.speed_start - self.speed_end

    @property
    def clean(self) -> bool:
        if self.unseen:
            return True
        limit = max(SEAM_SPEED * max(self.speed_end, self.speed_start), 1.0)
        moves = (
            self.position <= SEAM_PX and abs(self.angle) <= SEAM_DEG and abs(self.speed) <= limit
        )
        looks = abs(self.scale) <= SEAM_SCALE and abs(self.opacity) <= SEAM_OPACITY
        return moves and looks and self.footage is None

    def reasons(self) -> list[str]:
        """Say what keeps the seam from being clean, in words."""
        found: list[str] = []
        if self.unseen:
            return found
        if self.position > SEAM_PX:
            found.append(f"jumps {self.position:.1f} px")
        if abs(self.angle) > SEAM_DEG:
            found.append(f"turns {self.angle:+.1f}° at once")
        if abs(self.scale) > SEAM_SCALE:
            found.append(f"changes size by {self.scale:+.0%} at once")
        if abs(self.opacity) > SEAM_OPACITY:
            found.append(f"changes opacity by {self.opacity:+.0%} at once")
        if self.footage is not None:
            before, after = self.footage
            found.append(f"goes on with frame {after} of its footage where {before} would follow")
        if not self.clean and not found:
            found.append(f"goes from {self.speed_end:.0f} to {self.speed_start:.0f} px/s at once")
        return found


def report(evaluation: Evaluation) -> list[LayerSeam]:
    """Return the seam of every visible layer that moves, from the back to the front.

    Layers that stand still have nothing to jump and are left out.
    """
    scene = evaluation.scene
    shown = (m for m in evaluation.motions if tree.is_drawn(scene, m.layer))
    return [layer_seam(motion, evaluation) for motion in shown if not motion.still]


def layer_seam(motion: LayerMotion, evaluation: Evaluation) -> LayerSeam:
    """Return the seam of one layer that moves."""
    scene, last = evaluation.scene, evaluation.scene.length
    angle = np.degrees(_turn(motion, last) - _turn(motion, 0))
    before, after = (_size(motion, frame) for frame in (last, 0))
    larger = max(before, after)
    # The last step's speed is asked just before its end, where the ride is not over yet.
    speed_end, speed_start = _speeds(motion, [last - INSTANT, 0.0], scene)
    return LayerSeam(
        motion.layer.id,
        motion.layer.name,
        position=float(np.hypot(*(_place(motion, last) - _place(motion, 0)))),
        angle=float((angle + 180.0) % 360.0 - 180.0),
        speed_end=speed_end,
        speed_start=speed_start,
        scale=(after - before) / larger if larger else 0.0,
        opacity=motion.opacity(0) - motion.opacity(last),
        unseen=all(_outside(motion, frame, scene) for frame in (0, last)),
        footage=_frames_apart(motion, last),
    )


def _frames_apart(motion: LayerMotion, last: int) -> tuple[int, int] | None:
    """Return the frames of footage at the end and at the start, unless these are one."""
    end, start = motion.face(last), motion.face(0)
    if end.picture is None or start.picture is None:
        return None
    same = (end.picture, end.mix) == (start.picture, start.mix)
    return None if same else (end.picture[1], start.picture[1])


def _size(motion: LayerMotion, frame: int) -> float:
    return float(affine.largest_scale(motion.map(frame))) * float(
        np.hypot(*motion.face(frame).size)
    )


def _place(motion: LayerMotion, frame: int) -> Floats:
    """Return where the layer's anchor is, px of the scene."""
    left, top, width, height = motion.face(frame).box
    across, down = motion.layer.transform.anchor
    return affine.apply(motion.map(frame), [left + across * width, top + down * height])


def _speeds(motion: LayerMotion, times: list[float], scene: Scene) -> list[float]:
    """Return how fast a layer goes along its path, or by its keys of x and y, px/s."""
    if motion.way is not None:
        period = distance.period_of(motion.way, scene.length)
        rates = np.abs(distance.travelled(motion.way, times, period)[1])
    else:
        tracks = [motion.layer.track(name) for name in PLACES]
        rates = np.hypot(*(keys.values(t.keys, times)[1] if t else np.zeros(2) for t in tracks))
    return [float(rate) * scene.fps for rate in rates]


def _outside(motion: LayerMotion, frame: int, scene: Scene) -> bool:
    """Whether the layer's box, strokes included, misses the frame; a group is where its members
    are.
    """
    face = motion.face(frame)
    if motion.layer.content.can.hold:
        return False
    room = max((outline.stroke_width for outline in face.outlines), default=0.0) / 2
    left, top, width, height = face.box
    across, down = (left - room, left + width + room), (top - room, top + height + room)
    x, y = affine.apply(motion.map(frame), list(product(across, down))).T
    return bool(x.max() <= 0 or x.min() >= scene.width or y.max() <= 0 or y.min() >= scene.height)


def _turn(motion: LayerMotion, frame: int) -> float:
    a, b, *_ = motion.map(frame)
    return float(np.arctan2(b, a))
