"""What a layer looks like in its own px: pictures by name and index, outlines as numbers, and which
of them when.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from functools import lru_cache, singledispatch
from typing import Any

import numpy as np
from numpy.typing import NDArray

from coaster.errors import UnknownId
from coaster.geometry import affine, arcs
from coaster.geometry import path as paths
from coaster.geometry.bezier import Floats
from coaster.geometry.path import Path, Subpath
from coaster.motion import keys, playing
from coaster.motion.sense import Rows
from coaster.render import texts
from coaster.render.figures import Figure, Run
from coaster.scene.contents import (
    DRAWN,
    Cap,
    Footage,
    Group,
    Inset,
    Join,
    Line,
    Picture,
    Shape,
    Side,
    Text,
)
from coaster.scene.document import Layer
from coaster.scene.gradients import Gradient, GradientForm

MITER = 4.0
"""As SVG has it where nothing is said."""
HALF_DIAGONAL = 2**-0.5
SHORTEST_RAMP = 1e-3
"""Px; a gradient that is shorter is its last colour, as SVG has it."""
ALWAYS_FIRST = np.zeros(1, np.intp)


@dataclass(frozen=True)
class Pen:
    """How a stroke goes: its ends and corners, by their SVG names, and dashes, px on and off from
    ``offset`` px along it on. A corner that would stand out by more than ``MITER`` widths is cut.
    """

    cap: Cap = "round"
    join: Join = "round"
    dash: tuple[float, float] | None = None
    offset: float = 0.0


ROUND = Pen()


@dataclass(frozen=True)
class Ramp:
    """A gradient in the content's own px: stops from ``start`` to ``end``, or in rings round
    ``start``, the last of which goes through ``end``.
    """

    form: GradientForm
    start: tuple[float, float]
    end: tuple[float, float]
    colours: tuple[str, ...]
    offsets: tuple[float, ...]

    @property
    def radius(self) -> float:
        return math.dist(self.start, self.end)

    @property
    def shown(self) -> "str | Ramp":
        """What there is to fill with: where it has no length, its last colour."""
        return self if self.radius > SHORTEST_RAMP else self.colours[-1]


def ramp_of(gradient: Gradient | None, box: tuple[float, float, float, float]) -> Ramp | None:
    """Return a gradient over a box (left, top, width, height)."""
    if gradient is None:
        return None
    start, end = (
        (box[0] + spot[0] * box[2], box[1] + spot[1] * box[3])
        for spot in (gradient.start, gradient.end)
    )
    return Ramp(gradient.form, start, end, gradient.colours, gradient.offsets)


@dataclass(frozen=True, eq=False)
class Outline:
    """A figure in the content's own px, with how it is filled and stroked; the stroke ``under`` the
    fill if it is to leave its shape alone, or on one ``side`` of the edge.
    """

    figure: Figure
    fill: str | Ramp | None = None
    stroke: str | None = None
    stroke_width: float = 0.0
    pen: Pen = ROUND
    under: bool = False
    side: Side = "middle"

    @property
    def reach(self) -> float:
        """How far the stroke reaches beyond the figure, in widths."""
        corner = 0.5 * MITER if self.pen.join == "miter" else 0.5
        middle = max(corner, HALF_DIAGONAL if self.pen.cap == "square" else 0.0)
        return middle * 2 * self.beyond

    @property
    def beyond(self) -> float:
        """How much of the stroke's width lies beyond the edge."""
        return {"inside": 0.0, "middle": 0.5, "outside": 1.0}[self.side]

    @property
    def drawn_width(self) -> float:
        """How wide it is stroked: of what lies on one side, half is cut away."""
        return self.stroke_width * (1 if self.side == "middle" else 2)


@dataclass(frozen=True, eq=False)
class Face:
    """One look: ``picture`` (file and index of the frame in it) or outlines, in a box (left, top,
    width, height). ``mix`` is a frame that the picture fades into, and how far it has.
    """

    box: tuple[float, float, float, float]
    picture: tuple[str, int] | None = None
    outlines: tuple[Outline, ...] = ()
    mix: tuple[int, float] | None = None

    @property
    def size(self) -> tuple[float, float]:
        return self.box[2], self.box[3]


@dataclass(frozen=True, eq=False)
class Faces:
    """The looks of a layer, ``which`` (n,) of them in each frame, or (1,) where it is always the
    same.

    ``grown`` (n,) or (1,) is by how much a face is larger than it is here.
    """

    faces: tuple[Face, ...]
    which: NDArray[np.intp] = field(default_factory=lambda: ALWAYS_FIRST)
    grown: Floats | None = None

    @property
    def first(self) -> Face:
        return self.faces[int(self.which[0])]

    @property
    def still(self) -> bool:
        return len(self.which) == 1

    def at(self, frame: int) -> Face:
        return self.faces[int(self.which[frame if len(self.which) > 1 else 0])]

    def at_rows(self, rows: Rows) -> "Faces":
        """Return the looks in some frames; how much they are grown is in their maps already."""
        return self if self.still else Faces(self.faces, self.which[rows])

    def boxes(self) -> Floats:
        """Return the box in each frame, (n, 4) or (1, 4)."""
        if self.still:
            return np.array([self.first.box])
        return np.array([face.box for face in self.faces])[self.which]


def faces_of(layer: Layer, path: Path | None, times: Floats, fps: float) -> Faces:
    """Return the looks of a layer at ``times``, frames of which there are ``fps`` a second; a line
    strokes ``path``, in its px, all others their box.
    """
    return _faces(layer.content, layer, path, times, fps)


def standing_face(layer: Layer, path: Path | None) -> Face:
    """Return what a layer looks like while no keys change it."""
    # Without keys its looks have one row, whatever the frame.
    return _faces(layer.content, replace(layer, keys=()), path, np.zeros(1), 1.0).first


@singledispatch
def _faces(content: Any, layer: Layer, path: Path | None, times: Floats, fps: float) -> Faces:
    raise NotImplementedError(f"nobody says what a {content.type} looks like")


@_faces.register
def _picture(content: Picture, layer: Layer, path: Path | None, times: Floats, fps: float) -> Faces:
    return Faces((Face((0.0, 0.0, content.width, content.height), (content.asset, 0)),))


@_faces.register
def _footage(content: Footage, layer: Layer, path: Path | None, times: Floats, fps: float) -> Faces:
    """Each frame of the file that is seen, or each two of which one fades into the other, is a
    face.
    """
    speed = layer.keys_of("speed") or content.speed
    gone = playing.elapsed(times, content.starts, fps, speed)
    backwards = playing.is_backwards(content.starts, speed)
    seen = playing.played(gone, content.cut, content.times.begins(), backwards=backwards)
    rows = np.stack([seen.index, seen.over, np.round(seen.share * 255)], axis=1)
    known, which = np.unique(rows, axis=0, return_inverse=True)
    faces = tuple(_footage_face(content, *(int(each) for each in row)) for row in known)
    return Faces(faces, which.reshape(-1).astype(np.intp) if len(faces) > 1 else ALWAYS_FIRST)


def _footage_face(content: Footage, index: int, over: int, share: int) -> Face:
    box = (0.0, 0.0, content.width, content.height)
    if index == playing.NOTHING:
        return Face(box)
    return Face(box, (content.asset, index), mix=(over, share / 255) if share else None)


@_faces.register
def _inset(content: Inset, layer: Layer, path: Path | None, times: Floats, fps: float) -> Faces:
    """Its frame; what is in that is another scene's (see ``display``)."""
    box = (0.0, 0.0, content.width, content.height)
    frame = Outline(Figure((_rectangle_run(content.width, content.height),)))
    return Faces((Face(box, None, (frame,)),))


@_faces.register
def _group(content: Group, layer: Layer, path: Path | None, times: Floats, fps: float) -> Faces:
    """A group has no look of its own; its box is its pivot, so that its anchor lies there."""
    return Faces((Face((*content.pivot, 0.0, 0.0)),))


@_faces.register
def _text(content: Text, layer: Layer, path: Path | None, times: Floats, fps: float) -> Faces:
    size, spaced = layer.track("size"), layer.track("tracking")
    # A text of another size is the same outlines, larger.
    grown = None if size is None else keys.values(size.keys, times)[0] / content.size
    if spaced is None:
        return Faces((_text_face(content),), grown=grown)
    values = np.clip(np.round(keys.values(spaced.keys, times)[0], 4), -0.5, 5.0)
    known, which = np.unique(values, return_inverse=True)
    faces = tuple(_text_face(replace(content, tracking=float(value))) for value in known)
    return Faces(faces, which.reshape(-1).astype(np.intp), grown)


@lru_cache(maxsize=1024)
def _text_face(text: Text) -> Face:
    figure, width, height = texts.outline(text)
    box = (0.0, 0.0, width, height)
    paint = ramp_of(text.gradient, box) or text.colour, text.stroke, text.stroke_width
    outlines = (Outline(figure, *paint, under=True),) if figure.runs else ()
    return Face(box, None, outlines)


@_faces.register
def _line(content: Line, layer: Layer, path: Path | None, times: Floats, fps: float) -> Faces:
    if path is None:
        raise UnknownId(f"{layer.name} strokes a path {content.path!r} that is not there.")
    left, top, right, bottom = paths.bounds(path.subpaths)
    pen = Pen(content.cap, content.join, content.dash, content.dash_offset)
    # A level line has no height of its own; anchors and hands need one.
    box = (left, top, max(right - left, 1.0), max(bottom - top, 1.0))
    fill = ramp_of(content.gradient, box) or content.fill
    outline = Outline(Figure.of(path.subpaths), fill, content.colour, content.width, pen)
    return Faces((Face(box, None, (outline,)),))


@_faces.register
def _shape(content: Shape, layer: Layer, path: Path | None, times: Floats, fps: float) -> Faces:
    wide, high = layer.track("size_x"), layer.track("size_y")
    if wide is None and high is None:
        return Faces((_shape_face(content),))
    width = keys.values(wide.keys, times)[0] if wide else np.full(len(times), content.width)
    height = keys.values(high.keys, times)[0] if high else np.full(len(times), content.height)
    # Keys of size may pass through nothing, and below; what has no size has no outline.
    sizes = np.maximum(np.stack([width, height], axis=1), 0.01)
    # Each size is outlined once, in how many frames it may be seen.
    known, which = np.unique(sizes, axis=0, return_inverse=True)
    faces = tuple(_shape_face(replace(content, width=float(w), height=float(h))) for w, h in known)
    return Faces(faces, which.reshape(-1).astype(np.intp))


@lru_cache(maxsize=4096)
def _shape_face(shape: Shape) -> Face:
    box = (0.0, 0.0, shape.width, shape.height)
    pen = Pen(shape.cap, shape.join, shape.dash, shape.dash_offset)
    fill = ramp_of(shape.gradient, box) or shape.fill
    stroke = shape.stroke, shape.stroke_width, pen
    return Face(box, None, (Outline(_figure_of(shape), fill, *stroke, side=shape.side),))


def _figure_of(shape: Shape) -> Figure:
    w, h = shape.width, shape.height
    if shape.figure == "rectangle":
        return _rectangle(w, h, min(shape.radius, w / 2, h / 2))
    if shape.figure == "ellipse":
        # A hundredth of a px: that is not seen at any zoom the stage has.
        curves = arcs.arc((w / 2, h / 2), (w / 2, h / 2), 0.0, 2 * math.pi, tolerance=0.01)
        return Figure.of((paths.subpath_from_segments(curves, closed=True),))
    return Figure.of(_drawn(shape)) if shape.figure == DRAWN else _spokes(shape)


def _drawn(shape: Shape) -> tuple[Subpath, ...]:
    """Return the runs of a drawn shape, stretched to its box."""
    left, top, right, bottom = paths.bounds(shape.runs)
    across, down = (
        new / old if old > 0 else 1.0
        for new, old in ((shape.width, right - left), (shape.height, bottom - top))
    )
    to_box = affine.compose(affine.scaling(across, down), affine.translation(-left, -top))
    return paths.transformed(shape.runs, to_box)


def _rectangle(w: float, h: float, r: float) -> Figure:
    if r <= 0:
        return Figure((_rectangle_run(w, h),))
    return Figure.of((_rounded(w, h, r),))


def _rectangle_run(w: float, h: float) -> Run:
    return Run.straight_through([(0, 0), (w, 0), (w, h), (0, h)], closed=True)


def _rounded(w: float, h: float, r: float) -> Subpath:
    pieces = []
    centres = [(w - r, r), (w - r, h - r), (r, h - r), (r, r)]
    for quarter, centre in enumerate(centres):
        curve = arcs.arc(centre, (r, r), (quarter - 1) * math.pi / 2, math.pi / 2, tolerance=0.01)
        pieces.append(curve)
        end, after = curve[-1, 3], centres[(quarter + 1) % 4]
        turn = quarter * math.pi / 2
        start = np.array([after[0] + r * math.cos(turn), after[1] + r * math.sin(turn)])
        pieces.append(
            np.stack([end, end + (start - end) / 3, start - (start - end) / 3, start])[None]
        )
    return paths.subpath_from_segments(np.concatenate(pieces), closed=True)


def _spokes(shape: Shape) -> Figure:
    star = shape.figure == "star"
    count = shape.points * (2 if star else 1)
    radius = np.where(np.arange(count) % 2, shape.inner, 1.0) if star else np.ones(count)
    angle = 2 * np.pi * np.arange(count) / count - np.pi / 2
    x = shape.width / 2 * (1 + radius * np.cos(angle))
    y = shape.height / 2 * (1 + radius * np.sin(angle))
    return Figure(
        (Run.straight_through(list(zip(x.tolist(), y.tolist(), strict=True)), closed=True),)
    )


def outlines_of(faces: Faces) -> Iterator[Outline]:
    for face in faces.faces:
        yield from face.outlines
