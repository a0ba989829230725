"""Lines that stroke a path in depth: the path as it is seen, in px of the picture."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from coaster.geometry import bezier, maps
from coaster.geometry.bezier import Floats
from coaster.geometry.measure import MeasuredPath
from coaster.geometry.path import Path
from coaster.motion.tracing import Lead
from coaster.render.figures import Figure, Run
from coaster.render.outlines import Face, Faces, Outline, Pen, ramp_of
from coaster.render.paints import Paints, paints_of
from coaster.render.traces import Trace, is_traced
from coaster.scene.contents import Line
from coaster.scene.document import Layer

FINE, FINER = 8, 8
"""Pieces of each cubic that are seen as cubics again, and places on each by which lengths in space
are told as lengths in the picture.
"""
Marks = NDArray[np.intp]


@dataclass(frozen=True)
class _Seen(Trace):
    """A trace of a path as it is seen: how long that is in the picture, and of which run each of
    its pieces is.
    """

    seen: MeasuredPath
    pieces: tuple[Marks, NDArray[np.bool_]]

    @property
    def measure(self) -> MeasuredPath:
        return self.seen

    @cached_property
    def segments(self) -> tuple[Marks, NDArray[np.bool_]]:
        return self.pieces


class _Course:
    """A trace's path in space, in pieces short enough to be seen as cubics."""

    def __init__(self, trace: Trace) -> None:
        self.trace, measure = trace, trace.measure
        flat = measure.segments
        depths = np.zeros(flat.shape[:2]) if measure.depths is None else measure.depths
        self.whole = np.concatenate([flat, depths[..., None]], axis=2)
        owners, straight = trace.segments
        self.pieces = np.repeat(owners, FINE), np.repeat(straight, FINE)
        self.ends = self._at(np.linspace(0.0, 1.0, FINE + 1))
        basis = bezier.velocity_basis(self.whole)
        t = np.linspace(0.0, 1.0, FINE + 1)
        power = np.stack([np.ones_like(t), t, t * t], axis=1)
        self.ways = np.einsum("kp,npc->nkc", power, basis) / FINE
        self._dense = self._at(np.linspace(0.0, 1.0, FINE * FINER + 1))
        self._gone = _along(self._dense, measure.starts)

    def _at(self, t: Floats) -> Floats:
        """Return the places at parameters t (k,) of each cubic, (n, k, 3)."""
        power = np.stack(bezier.bernstein(t), axis=-1)
        return np.asarray(np.einsum("kp,npc->nkc", power, self.whole))

    def seen(self, lift: Floats) -> tuple[Floats, float]:
        """Return its pieces as one who looks sees them (n, 4, 2), and how large a px of it is."""
        points, away, slopes = _looked_at(lift, self.ends, self.ways)
        start, end = points[:, :-1], points[:, 1:]
        out, into = slopes[:, :-1] / 3, slopes[:, 1:] / 3
        cubics = np.stack([start, start + out, end - into, end], axis=2).reshape(-1, 4, 2)
        return cubics, float(np.mean(1.0 / away))

    def told(self, window: Floats, lift: Floats, measure: MeasuredPath) -> Floats:
        """Return distances along it in space as those along what is seen of it."""
        dense, _, _ = _looked_at(lift, self._dense, np.zeros_like(self._dense))
        along = _along(dense, measure.starts[::FINE])
        length, whole = self.trace.measure.length, measure.length
        laps = np.floor(window / length) if self.trace.path.loops and length else np.zeros(2)
        return np.asarray(np.interp(window - laps * length, self._gone, along) + laps * whole)


def _along(places: Floats, starts: Floats) -> Floats:
    """Return how far along places (n, k, c) on segments are that begin at ``starts`` (n + 1,): by
    their chords, so that each segment is as long as it is.
    """
    chords = np.linalg.norm(np.diff(places, axis=1), axis=2)
    gone = np.concatenate([np.zeros((len(chords), 1)), np.cumsum(chords, axis=1)], axis=1)
    total, long = gone[:, -1:], np.diff(starts)[:, None]
    shares = np.divide(gone, total, out=np.zeros_like(gone), where=total > 0)
    return np.asarray((starts[:-1, None] + shares * long).ravel())


def _looked_at(lift: Floats, places: Floats, ways: Floats) -> tuple[Floats, Floats, Floats]:
    """Return where places (..., 3) are seen, how far away they are, 1 in the picture, and how ways
    from there are seen; what is behind the viewer is right before him.
    """
    p = places @ lift[:, :3].T + lift[:, 3]
    way = ways @ lift[:, :3].T
    away = np.maximum(p[..., 2], maps.NEAR)
    turned = np.where(p[..., 2] > maps.NEAR, way[..., 2], 0.0)
    points = p[..., :2] / away[..., None]
    slopes = (way[..., :2] - points * turned[..., None]) / away[..., None]
    return points, away, slopes


def lifted_faces(
    line: Line, layer: Layer, path: Path, times: Floats, lead: Lead | None, lifts: Floats
) -> Faces:
    """Return the looks of a line at ``times`` (n,) whose path is seen by ``lifts`` (n, 3, 4) or
    (1, 3, 4), in px of the picture.

    Accuracy: within 0.05 px of where each place of the path is seen; a line is as wide all along as
              it is where it is on the average.
    """
    trace, paints = Trace(line, path, lead), paints_of(layer, times)
    course = _Course(trace)
    windows = trace.windows(layer, times) if is_traced(layer, line) else np.zeros((1, 2))
    rows = max(len(lifts), len(windows), 1 if paints is None else len(times))
    parts = [
        np.broadcast_to(lifts.reshape(len(lifts), 12), (rows, 12)),
        np.broadcast_to(windows, (rows, 2)),
    ]
    if paints is not None:
        parts.append(np.arange(float(rows))[:, None])
    told = np.asarray(np.hstack(parts).round(9), float)
    _, first, which = np.unique(told, axis=0, return_index=True, return_inverse=True)
    made = tuple(
        _face(course, layer, told[row, :12].reshape(3, 4), told[row, 12:14], paints, int(row))
        for row in first
    )
    return Faces(made, which.reshape(-1).astype(np.intp))


def _face(
    course: _Course, layer: Layer, lift: Floats, window: Floats, paints: Paints | None, row: int
) -> Face:
    trace = course.trace
    line = trace.line
    cubics, size = course.seen(lift)
    left, top, right, bottom = bezier.bounds(cubics)
    box = (left, top, max(right - left, 1.0), max(bottom - top, 1.0))
    pen = Pen(line.cap, line.join, line.dash, line.dash_offset)
    fill = ramp_of(line.gradient, box) or line.fill
    whole = Outline(Figure(tuple(_runs(course, cubics))), fill, line.colour, line.width, pen)
    whole = whole if paints is None else paints.on(whole, row)
    pen = whole.pen
    if pen.dash is not None:
        on, off = pen.dash
        pen = replace(pen, dash=(on * size, off * size), offset=pen.offset * size)
    whole = replace(whole, stroke_width=whole.stroke_width * size, pen=pen)
    if not is_traced(layer, line):
        return Face(box, None, (whole,))
    measure = MeasuredPath(cubics)
    seen = _Seen(line, trace.path, trace.lead, measure, course.pieces)
    return Face(box, None, next(seen.outlines([whole], course.told(window, lift, measure)[None])))


def _runs(course: _Course, cubics: Floats) -> Iterator[Run]:
    owners, straight = course.pieces
    for number, subpath in enumerate(course.trace.path.subpaths):
        own = owners == number
        if own.any():
            yield Run.of(cubics[own], straight[own], closed=subpath.closed)
