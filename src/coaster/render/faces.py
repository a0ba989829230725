"""What a layer looks like in its own px: pictures by name and index, outlines as numbers, and which
of them when.
"""

import math
from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import lru_cache, singledispatch
from typing import Any, TypeVar

import numpy as np

from coaster.errors import UnknownId
from coaster.geometry import affine, arcs
from coaster.geometry import path as paths
from coaster.geometry.bezier import Floats
from coaster.geometry.path import Path, Subpath
from coaster.motion import keys, playing
from coaster.motion.letters import By
from coaster.motion.tracing import Lead
from coaster.render import texts
from coaster.render.figures import Figure, Run
from coaster.render.outlines import ALWAYS_FIRST, Face, Faces, Outline, Pen, ramp_of
from coaster.render.traces import line_faces
from coaster.scene.contents import (
    DRAWN,
    Camera,
    Footage,
    Group,
    Inset,
    Light,
    Line,
    Picture,
    Shape,
    Text,
    TextPart,
)
from coaster.scene.document import Layer

Box = tuple[float, float, float, float]


def faces_of(
    layer: Layer, path: Path | None, times: Floats, fps: float, lead: Lead | None = None
) -> Faces:
    """Return the looks of a layer at ``times``, frames of which there are ``fps`` a second; a line
    strokes ``path``, in its px, in step with its ``lead``, all others their box.
    """
    if isinstance(layer.content, Line):
        if path is None:
            raise UnknownId(f"{layer.name} strokes a path that is not there.")
        return line_faces(layer.content, layer, path, times, lead)
    return _faces(layer.content, layer, times, fps)


def standing_face(layer: Layer, path: Path | None) -> Face:
    """Return what a layer looks like while no keys change it, and nobody leads it."""
    # Without keys its looks have one row, whatever the frame.
    return faces_of(replace(layer, keys=(), carrier=None), path, np.zeros(1), 1.0).first


@singledispatch
def _faces(content: Any, layer: Layer, times: Floats, fps: float) -> Faces:
    raise NotImplementedError(f"nobody says what a {content.type} looks like")


@_faces.register
def _picture(content: Picture, layer: Layer, times: Floats, fps: float) -> Faces:
    return Faces((Face((0.0, 0.0, content.width, content.height), (content.asset, 0)),))


@_faces.register
def _footage(content: Footage, layer: Layer, times: Floats, fps: float) -> Faces:
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
def _inset(content: Inset, layer: Layer, times: Floats, fps: float) -> Faces:
    """Its frame; what is in that is another scene's (see ``display``)."""
    box = (0.0, 0.0, content.width, content.height)
    frame = Outline(Figure((_rectangle_run(content.width, content.height),)))
    return Faces((Face(box, None, (frame,)),))


@_faces.register
def _group(content: Group, layer: Layer, times: Floats, fps: float) -> Faces:
    """A group has no look of its own; its box is its pivot, so that its anchor lies there."""
    return Faces((Face((*content.pivot, 0.0, 0.0)),))


@_faces.register
def _unseen(content: Camera | Light, layer: Layer, times: Floats, fps: float) -> Faces:
    """What others are seen by is not seen itself."""
    return Faces((Face((0.0, 0.0, 0.0, 0.0)),))


@_faces.register
def _text(content: Text, layer: Layer, times: Floats, fps: float) -> Faces:
    return _set_faces(content, layer, times, _text_face)


T = TypeVar("T", bound=Text)


def _set_faces(content: T, layer: Layer, times: Floats, face: Callable[[T], Face]) -> Faces:
    """Return the looks of a text, or a part of one, whose size and tracking may have keys."""
    size, spaced = layer.track("size"), layer.track("tracking")
    # A text of another size is the same outlines, larger.
    grown = None if size is None else keys.values(size.keys, times)[0] / content.size
    if spaced is None:
        return Faces((face(content),), grown=grown)
    values = np.clip(np.round(keys.values(spaced.keys, times)[0], 4), -0.5, 5.0)
    known, which = np.unique(values, return_inverse=True)
    faces = tuple(face(replace(content, tracking=float(value))) for value in known)
    return Faces(faces, which.reshape(-1).astype(np.intp), grown)


@lru_cache(maxsize=1024)
def _text_face(text: Text) -> Face:
    figure, width, height = texts.outline(text)
    box = (0.0, 0.0, width, height)
    return _of_text(text, box, figure, box)


def _of_text(text: Text, whole: Box, figure: Figure, box: Box) -> Face:
    """Return a text, or a part in its box, painted as all that is in the ``whole`` box."""
    paint = ramp_of(text.gradient, whole) or text.colour, text.stroke, text.stroke_width
    outlines = (Outline(figure, *paint, under=True),) if figure.runs else ()
    return Face(box, None, outlines)


@lru_cache(maxsize=16)
def faces_of_parts(text: Text, by: By, count: int) -> Faces:
    """Return what the first ``count`` parts of a text look like, one after the other."""
    every = (_part_face(TextPart.of(text, by, number, None)) for number in range(count))
    return Faces(tuple(every), np.arange(count))


@_faces.register
def _text_part(content: TextPart, layer: Layer, times: Floats, fps: float) -> Faces:
    return _set_faces(content, layer, times, _part_face)


@lru_cache(maxsize=8192)
def _part_face(content: TextPart) -> Face:
    whole = content.whole
    found = texts.set_text(whole)
    part = texts.parts_of(whole, content.by)[content.number]
    box = (0.0, 0.0, found.width, found.height)
    return _of_text(content, box, Figure(part.runs), (part.left, 0.0, part.width, found.height))


@_faces.register
def _shape(content: Shape, layer: Layer, times: Floats, fps: float) -> Faces:
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
