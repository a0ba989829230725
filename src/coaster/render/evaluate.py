"""A scene over time: where every layer is in every frame, and the display list of one frame."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from coaster.geometry import affine
from coaster.geometry.bezier import Floats
from coaster.geometry.path import Path
from coaster.motion import travel
from coaster.motion.travel import Travel, Way
from coaster.render.outlines import Drawable, drawable
from coaster.render.recent import Recent
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
    rendering it in another process agree: exactly where the same layers are evaluated together,
    else within 1e-9 of a path's length.
    """

    def __init__(self, scene: Scene) -> None:
        self.scene = scene
        self.frames = scene.length

    @cached_property
    def motions(self) -> tuple[LayerMotion, ...]:
        """Every layer, hidden ones included, from the back to the front."""
        return tuple(motions(self.scene.layers, self.scene))

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
    return motions([layer], scene)[0]


def motions(layers: Sequence[Layer], scene: Scene) -> list[LayerMotion]:
    """Evaluate layers of a scene over frames 0..length."""
    return _RECENT.all([_asked(layer, scene) for layer in layers], _motions)


def poses(layers: Sequence[Layer], scene: Scene, frame: int) -> list[LayerMotion]:
    """Evaluate layers as they are at one frame only; each motion has a single matrix."""
    return _motions([_asked(layer, scene) for layer in layers], slice(frame, frame + 1))


def _asked(layer: Layer, scene: Scene) -> "Asked":
    return layer, course(layer, scene), scene.length, scene.fps


Asked = tuple[Layer, Path | None, int, float]
"""A layer, the path it rides or strokes, frames and frames a second: all its motion depends on."""
_RECENT: Recent[Asked, LayerMotion] = Recent(512)


def _motions(asked: list[Asked], at: slice = slice(None)) -> list[LayerMotion]:
    """Evaluate layers, riders of one path together; ``at`` only some of the frames, or all."""
    found: dict[int, LayerMotion] = {}
    together: dict[tuple[Path, str, int, float], list[int]] = {}
    for i, (layer, path, length, fps) in enumerate(asked):
        if layer.ride is not None and path is not None and not isinstance(layer.content, Line):
            together.setdefault((path, layer.ride.gap, length, fps), []).append(i)
            continue
        content = drawable(layer, path)
        still = isinstance(layer.content, Line)
        place = None if still else np.array([layer.transform.position])
        matrices = np.array([affine.IDENTITY]) if place is None else _placed(layer, content, place, None)
        found[i] = LayerMotion(layer, content, matrices)
    for (path, _, length, fps), members in together.items():
        riders = [asked[i][0] for i in members]
        ways = [Way(path, layer.ride) for layer in riders if layer.ride is not None]
        periods = [travel.period_of(way, length) for way in ways]
        ridden = travel.evaluate_all(ways, np.arange(length + 1), fps=fps, periods=periods, at=at)
        for i, layer, way, each in zip(members, riders, ways, ridden, strict=True):
            content = drawable(layer, path)
            found[i] = LayerMotion(layer, content, _placed(layer, content, each.position, each), way, each)
    return [found[i] for i in range(len(asked))]


def _placed(layer: Layer, content: Drawable, positions: Floats, ridden: Travel | None) -> Floats:
    """Return place x facing x keep-upright x turn x scale x anchor, for every frame."""
    t = layer.transform
    count = len(positions)
    facing, upside, turn, flips = np.zeros(count), np.ones(count), t.turn, (1, 1)
    if ridden is not None and layer.ride is not None:
        facing, upside = ridden.facing, ridden.upside
        turn += layer.ride.facing.turn
        flips = (-1 if layer.ride.facing.flip_x else 1, -1 if layer.ride.facing.flip_y else 1)
    scale = (t.scale[0] * flips[0], t.scale[1] * flips[1])
    # translation(position) x rotation(facing) x scaling(1, upside) x inner, written out.
    a, b, c, d, e, f = _inner(turn, scale, (t.anchor[0] * content.width, t.anchor[1] * content.height))
    cos, sin = np.cos(facing), np.sin(facing)
    across, down = -sin * upside, cos * upside
    columns = [cos * a + across * b, sin * a + down * b, cos * c + across * d, sin * c + down * d]
    shifts = [cos * e + across * f + positions[:, 0], sin * e + down * f + positions[:, 1]]
    return np.stack([*columns, *shifts], axis=1)


@lru_cache(maxsize=1024)
def _inner(turn: float, scale: tuple[float, float], anchor: tuple[float, float]) -> tuple[float, ...]:
    """Return turn (degrees) x scale x anchor, which no ride changes."""
    steps = [affine.rotation(np.radians(turn)), affine.scaling(*scale), affine.translation(-anchor[0], -anchor[1])]
    return tuple(float(v) for v in affine.chain(steps))
