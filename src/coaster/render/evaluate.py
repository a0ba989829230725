"""A scene over time: where every layer is in every frame, and the display list of one frame."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np

from coaster.geometry import affine
from coaster.geometry.bezier import Floats
from coaster.geometry.path import Path
from coaster.motion import keys, travel
from coaster.motion.colours import to_hex
from coaster.motion.keys import Property
from coaster.motion.travel import Travel, Way
from coaster.render.outlines import Drawable, Outline, drawable
from coaster.render.recent import Recent
from coaster.scene.document import Layer, Line, Scene, Shape, Text


@dataclass(frozen=True)
class DrawItem:
    """Draw this, with this map from its own px to the scene's, this strongly."""

    drawable: Drawable
    matrix: Floats
    opacity: float


@dataclass(frozen=True)
class LayerMotion:
    """One layer over n frames: ``matrices`` (n, 6) and ``opacities`` (n,) or, where they stand still, one."""

    layer: Layer
    drawable: Drawable
    matrices: Floats
    opacities: Floats
    way: Way | None = None
    travel: Travel | None = None
    tints: "Tints | None" = None

    @property
    def still(self) -> bool:
        return len(self.matrices) == 1 and len(self.opacities) == 1 and self.tints is None

    def painted(self, outline: Outline, frame: int) -> Outline:
        """Return an outline as it is filled and stroked in a frame."""
        return outline if self.tints is None else self.tints.on(outline, frame)

    def matrix(self, frame: int) -> Floats:
        row: Floats = self.matrices[frame if len(self.matrices) > 1 else 0]
        return row

    def opacity(self, frame: int) -> float:
        return float(self.opacities[frame if len(self.opacities) > 1 else 0])


@dataclass(frozen=True)
class Tints:
    """Keyed colours, red, green, blue and alpha (n, 4), 0..1, and widths (n,), px; None where there are no keys."""

    fill: Floats | None
    stroke: Floats | None
    width: Floats | None
    shapes: tuple[Drawable, ...] = ()
    """Where its size has keys, the figure in each frame."""

    def shape(self, frame: int) -> Drawable | None:
        return self.shapes[frame if len(self.shapes) > 1 else 0] if self.shapes else None

    def on(self, outline: Outline, frame: int) -> Outline:
        changed: dict[str, Any] = {}
        for name, colours in (("fill", self.fill), ("stroke", self.stroke)):
            if colours is not None:
                changed[name] = to_hex(colours[frame if len(colours) > 1 else 0])
        if self.width is not None:
            changed["stroke_width"] = float(self.width[frame if len(self.width) > 1 else 0])
        if (figure := self.shape(frame)) is not None:
            changed["data"] = figure.outlines[0].data
        return replace(outline, **changed)

    @property
    def widest(self) -> float | None:
        return None if self.width is None else float(self.width.max())


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
        return a is not None and b is not None and _asked(a, self.scene) == _asked(b, other.scene)

    def display_list(self, frame: int) -> list[DrawItem]:
        """Return what to draw at a frame, 0..length, from the back to the front."""
        shown = (m for m in self.motions if m.layer.visible)
        return [DrawItem(_as_at(m, frame), m.matrix(frame), m.opacity(frame)) for m in shown]


def _as_at(motion: LayerMotion, frame: int) -> Drawable:
    """Return what a layer shows, painted as it is in a frame."""
    if motion.tints is None:
        return motion.drawable
    painted = tuple(motion.painted(outline, frame) for outline in motion.drawable.outlines)
    return replace(motion.drawable, outlines=painted)


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


@dataclass(frozen=True)
class Asked:
    """All that a layer's motion depends on: itself, the path it rides or strokes, the clock, what it looks at."""

    layer: Layer
    path: Path | None
    length: int
    fps: float
    target: "Asked | None" = None


_RECENT: Recent[Asked, LayerMotion] = Recent(512)


def _asked(layer: Layer, scene: Scene) -> Asked:
    facing = layer.ride.facing if layer.ride else None
    target = None
    if facing is not None and facing.mode == "target" and facing.target is not None:
        seen = scene.layer(facing.target)
        # Where a layer is has nothing to do with where it looks, so two may look at each other.
        target = Asked(seen, course(seen, scene), scene.length, scene.fps)
    return Asked(layer, course(layer, scene), scene.length, scene.fps, target)


def _motions(asked: list[Asked], at: slice = slice(None)) -> list[LayerMotion]:
    """Evaluate layers, riders of one path together; ``at`` only some of the frames, or all."""
    found: dict[int, LayerMotion] = {}
    together: dict[tuple[Path, str, int, float], list[int]] = {}
    for i, one in enumerate(asked):
        if one.layer.ride is not None and one.path is not None:
            together.setdefault((one.path, one.layer.ride.gap, one.length, one.fps), []).append(i)
        else:
            found[i] = _unridden(one, at)
    for (path, _, length, fps), members in together.items():
        ways = [_way(path, asked[i].layer) for i in members]
        periods = [travel.period_of(way, length) for way in ways]
        times = np.arange(length + 1)
        ridden = travel.evaluate_all(ways, times, fps=fps, periods=periods, at=at)
        for i, way, period, each in zip(members, ways, periods, ridden, strict=True):
            found[i] = _ridden(asked[i], way, _looking(asked[i], way, period, each, at), at)
    return [found[i] for i in range(len(asked))]


def _way(path: Path, layer: Layer) -> Way:
    assert layer.ride is not None  # noqa: S101 - those without are sorted out before
    shift = layer.track("shift")
    return Way(path, layer.ride, shift.keys if shift else ())


def _looking(asked: Asked, way: Way, period: float | None, ridden: Travel, at: slice) -> Travel:
    """Return the travel of a rider that looks at something, facing it; any other as it is."""
    facing = way.ride.facing
    if facing.mode != "target":
        return ridden
    if facing.settle_s and at != slice(None):
        times = np.arange(asked.length + 1)
        whole = travel.evaluate(way, times, fps=asked.fps, period=period)
        return _looking(asked, way, period, whole, slice(None)).at(at)
    target = np.array(facing.spot) if asked.target is None else _places(asked.target, at)
    return travel.looking_at(ridden, way, target, fps=asked.fps, period=period)


def places_of(layer: Layer, scene: Scene) -> Floats:
    """Return where a layer's anchor is in frames 0..length, px, (n, 2); a line is where its path starts."""
    return np.asarray(np.broadcast_to(_places(_asked(layer, scene)), (scene.length + 1, 2)))


def _places(asked: Asked, at: slice = slice(None)) -> Floats:
    """Return where a layer's anchor is, (n, 2) or (1, 2), px; a line is where its path starts."""
    if asked.layer.ride is None or asked.path is None:
        if asked.path is not None:
            return np.array([asked.path.subpaths[0].live[0].position])
        return _stands(asked, np.arange(asked.length + 1.0)[at])
    way = _way(asked.path, asked.layer)
    period = travel.period_of(way, asked.length)
    times = np.arange(asked.length + 1)
    return travel.evaluate_all([way], times, fps=asked.fps, periods=[period], at=at)[0].position


def _stands(asked: Asked, times: Floats) -> Floats:
    """Return the places of a layer that rides nothing, (1, 2) where no keys move it."""
    here = asked.layer.transform.position
    x, y = _keyed(asked.layer, "x", here[0], times), _keyed(asked.layer, "y", here[1], times)
    return np.stack(np.broadcast_arrays(x, y), axis=1)


def _keyed(layer: Layer, name: Property, still: float, times: Floats) -> Floats:
    """Return a property at ``times`` or, without keys, the one value it has."""
    track = layer.track(name)
    return np.array([still]) if track is None else keys.values(track.keys, times)[0]


def _unridden(asked: Asked, at: slice) -> LayerMotion:
    layer, content = asked.layer, drawable(asked.layer, asked.path)
    times = np.arange(asked.length + 1.0)[at]
    if isinstance(layer.content, Line):
        still = np.array([affine.IDENTITY])
        return LayerMotion(layer, content, still, _opacities(layer, times), tints=_tints(layer, times))
    matrices = _placed(layer, content, _stands(asked, times), None, times)
    return LayerMotion(layer, content, matrices, _opacities(layer, times), tints=_tints(layer, times))


def _ridden(asked: Asked, way: Way, ridden: Travel, at: slice) -> LayerMotion:
    layer, content = asked.layer, drawable(asked.layer, asked.path)
    times = np.arange(asked.length + 1.0)[at]
    matrices = _placed(layer, content, ridden.position, ridden, times)
    return LayerMotion(layer, content, matrices, _opacities(layer, times), way, ridden, _tints(layer, times))


def _tints(layer: Layer, times: Floats) -> Tints | None:
    colour, stroke, width = (layer.track(name) for name in ("colour", "stroke", "width"))
    shapes = _shapes(layer, times)
    if colour is None and stroke is None and width is None and not shapes:
        return None
    main, edge = (keys.colours(t.keys, times) if t else None for t in (colour, stroke))
    if isinstance(layer.content, Line):  # all there is of a line is its stroke
        main, edge = None, main
    return Tints(main, edge, keys.values(width.keys, times)[0] if width else None, shapes)


def _shapes(layer: Layer, times: Floats) -> tuple[Drawable, ...]:
    """Return a shape as it is in each frame, where its width or its height has keys; none where they have not."""
    content = layer.content
    if not isinstance(content, Shape) or not (layer.track("size_x") or layer.track("size_y")):
        return ()
    wide, high = _keyed(layer, "size_x", content.width, times), _keyed(layer, "size_y", content.height, times)
    made: dict[tuple[float, float], Drawable] = {}
    found = []
    for w, h in zip(*np.broadcast_arrays(wide, high), strict=True):
        size = max(float(w), 0.01), max(float(h), 0.01)
        if size not in made:
            sized = replace(content, width=size[0], height=size[1])
            made[size] = drawable(replace(layer, content=sized, keys=()), None)
        found.append(made[size])
    return tuple(found)


def _opacities(layer: Layer, times: Floats) -> Floats:
    found: Floats = np.clip(_keyed(layer, "opacity", layer.transform.opacity, times), 0.0, 1.0)
    if layer.shown is not None:
        begin, end = layer.shown
        found = np.where((times >= begin) & (times < end), found, 0.0)
    return found


def unturned(layer: Layer, content: Drawable) -> Floats:
    """Return the matrix (6,) of a rider with its anchor at the origin, as if it had no facing at all."""
    row: Floats = _placed(replace(layer, keys=()), content, np.zeros((1, 2)), None, np.zeros(1))[0]
    return row


def _placed(layer: Layer, content: Drawable, positions: Floats, ridden: Travel | None, times: Floats) -> Floats:
    """Return place x facing x keep-upright x turn x scale x anchor, for every frame or, if it stands still, once."""
    t = layer.transform
    turn = np.radians(_keyed(layer, "turn", t.turn, times))
    scale = _keyed(layer, "scale", 1.0, times)
    ratio = t.scale[1] / t.scale[0] if t.scale[0] else 1.0
    across, down = (t.scale[0], t.scale[1]) if layer.track("scale") is None else (1.0, ratio)
    facing, upside = np.zeros(1), np.ones(1)
    if ridden is not None and layer.ride is not None:
        facing, upside = ridden.facing, ridden.upside
        turn = turn + np.radians(layer.ride.facing.turn)
        across *= -1 if layer.ride.facing.flip_x else 1
        down *= -1 if layer.ride.facing.flip_y else 1
    # rotation(turn) x scaling x translation(-anchor), then rotation(facing) x scaling(1, upside), then the place.
    cos, sin = np.cos(turn), np.sin(turn)
    if isinstance(layer.content, Text):
        # A text of another size is the same outlines, larger.
        scale = scale * _keyed(layer, "size", layer.content.size, times) / layer.content.size
    a, b, c, d = cos * across * scale, sin * across * scale, -sin * down * scale, cos * down * scale
    shapes = _shapes(layer, times)
    width = np.array([s.width for s in shapes]) if shapes else content.width
    height = np.array([s.height for s in shapes]) if shapes else content.height
    left, top = t.anchor[0] * width, t.anchor[1] * height
    e, f = -(a * left + c * top), -(b * left + d * top)
    cos, sin = np.cos(facing), np.sin(facing)
    over, under = -sin * upside, cos * upside
    columns = [cos * a + over * b, sin * a + under * b, cos * c + over * d, sin * c + under * d]
    shifts = [cos * e + over * f + positions[:, 0], sin * e + under * f + positions[:, 1]]
    return np.stack(np.broadcast_arrays(*columns, *shifts), axis=1)
