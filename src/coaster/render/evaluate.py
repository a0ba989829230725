"""A scene over time: where every layer is in every frame, and the display list of one frame."""

from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from coaster.geometry import affine
from coaster.geometry.bezier import Floats
from coaster.geometry.path import Path
from coaster.motion import travel
from coaster.motion.travel import Travel, Way
from coaster.render.outlines import Drawable, drawable
from coaster.scene.document import Layer, Line, Scene


@dataclass(frozen=True)
class DrawItem:
    """Draw this, with this map from its own px to the scene's, this strongly."""

    drawable: Drawable
    matrix: Floats
    opacity: float


@dataclass(frozen=True)
class LayerMotion:
    """One layer over n frames: ``matrices`` (n, 6) or, if it stands still, (1, 6)."""

    layer: Layer
    drawable: Drawable
    matrices: Floats
    way: Way | None = None
    travel: Travel | None = None

    @property
    def still(self) -> bool:
        return len(self.matrices) == 1

    def matrix(self, frame: int) -> Floats:
        row: Floats = self.matrices[0 if self.still else frame]
        return row


class Evaluation:
    """A scene evaluated for all its frames, and frame ``length`` as the continuation.

    Every number is a pure function of the scene, so that jumping to a frame, playing to it and
    rendering it in another process agree exactly.
    """

    def __init__(self, scene: Scene) -> None:
        self.scene = scene
        self.frames = scene.length

    @cached_property
    def motions(self) -> tuple[LayerMotion, ...]:
        """Every layer, hidden ones included, from the back to the front."""
        return tuple(motion(layer, self.scene) for layer in self.scene.layers)

    def shows_alike(self, other: "Evaluation", layer_id: str) -> bool:
        """Whether a layer of both looks and moves the same, given that their clocks agree."""
        a, b = (next((x for x in e.scene.layers if x.id == layer_id), None) for e in (self, other))
        return a is not None and a == b and course(a, self.scene) == course(a, other.scene)

    def display_list(self, frame: int) -> list[DrawItem]:
        """Return what to draw at a frame, 0..length, from the back to the front."""
        shown = (m for m in self.motions if m.layer.visible)
        return [DrawItem(m.drawable, m.matrix(frame), m.layer.transform.opacity) for m in shown]


def course(layer: Layer, scene: Scene) -> Path | None:
    """Return the path a layer rides or strokes."""
    if isinstance(layer.content, Line):
        return scene.path(layer.content.path)
    return scene.path(layer.ride.path) if layer.ride else None


def motion(layer: Layer, scene: Scene) -> LayerMotion:
    """Evaluate one layer over frames 0..length (the last being the continuation)."""
    return _motion(layer, course(layer, scene), scene.length, scene.fps)


@lru_cache(maxsize=512)
def _motion(layer: Layer, path: Path | None, length: int, fps: float) -> LayerMotion:
    content = drawable(layer, path)
    if isinstance(layer.content, Line):
        return LayerMotion(layer, content, np.array([affine.IDENTITY]))
    if layer.ride is None or path is None:
        return LayerMotion(layer, content, _placed(layer, content, np.array([layer.transform.position]), None))
    way = Way(path, layer.ride)
    times = np.arange(length + 1)
    ridden = travel.evaluate(way, times, fps=fps, period=travel.period_of(way, length))
    return LayerMotion(layer, content, _placed(layer, content, ridden.position, ridden), way, ridden)


def _placed(layer: Layer, content: Drawable, positions: Floats, ridden: Travel | None) -> Floats:
    """Return place x facing x keep-upright x turn x scale x anchor, for every frame."""
    t = layer.transform
    count = len(positions)
    facing, upside, turn, flips = np.zeros(count), np.ones(count), t.turn, (1, 1)
    if ridden is not None and layer.ride is not None:
        facing, upside = ridden.facing, ridden.upside
        turn += layer.ride.facing.turn
        flips = (-1 if layer.ride.facing.flip_x else 1, -1 if layer.ride.facing.flip_y else 1)
    inner = affine.chain(
        [
            affine.rotation(np.radians(turn)),
            affine.scaling(t.scale[0] * flips[0], t.scale[1] * flips[1]),
            affine.translation(-t.anchor[0] * content.width, -t.anchor[1] * content.height),
        ]
    )
    # translation(position) x rotation(facing) x scaling(1, upside) x inner, written out.
    a, b, c, d, e, f = inner
    cos, sin = np.cos(facing), np.sin(facing)
    across, down = -sin * upside, cos * upside
    columns = [cos * a + across * b, sin * a + down * b, cos * c + across * d, sin * c + down * d]
    shifts = [cos * e + across * f + positions[:, 0], sin * e + down * f + positions[:, 1]]
    return np.stack([*columns, *shifts], axis=1)
