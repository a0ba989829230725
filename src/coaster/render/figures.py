"""Figures: outlines as numbers, which every sink draws by its own means."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from fontTools.pens.basePen import BasePen
from numpy.typing import NDArray

from coaster.formats.pathdata import number
from coaster.geometry import bezier
from coaster.geometry.bezier import Floats
from coaster.geometry.path import Node, Subpath

DIGITS = 3
"""Decimals of a px that are kept: finer than any sink draws, and the same in all of them."""


def rounded(points: Any) -> Floats:
    """Return points to ``DIGITS`` decimals, each rounded as it would be written."""
    exact = np.asarray(points, float)
    return np.array([round(value, DIGITS) for value in exact.ravel().tolist()]).reshape(exact.shape)


@dataclass(frozen=True, eq=False)
class Run:
    """Joined cubics (n, 4, 2), which of them are straight (n,), and whether they close."""

    cubics: Floats
    straight: NDArray[np.bool_]
    closed: bool

    @staticmethod
    def of(cubics: Floats, straight: NDArray[np.bool_], *, closed: bool) -> "Run":
        """Return a run as it is drawn, of cubics as they are worked out."""
        drawn = rounded(cubics)
        drawn[straight] = _lines(drawn[straight, 0], drawn[straight, 3])
        return Run(drawn, straight, closed)

    @staticmethod
    def straight_through(points: Sequence[tuple[float, float]], *, closed: bool) -> "Run":
        p = rounded([*points, points[0]] if closed else points)
        return Run(_lines(p[:-1], p[1:]), np.ones(len(p) - 1, bool), closed)


def _lines(start: Floats, end: Floats) -> Floats:
    third = (end - start) / 3
    return np.stack([start, start + third, end - third, end], axis=1)


@dataclass(frozen=True, eq=False)
class Figure:
    """Runs of cubics in px; a figure is known by itself, so that what a sink made of it can be
    kept.
    """

    runs: tuple[Run, ...]

    @staticmethod
    def of(subpaths: Iterable[Subpath]) -> "Figure":
        """Return the figure of a path's subpaths; those of a lone point draw nothing."""
        return Figure(tuple(run for subpath in subpaths if (run := _run(subpath)) is not None))

    def placed(self, factors: tuple[float, float], at: tuple[float, float]) -> tuple[Run, ...]:
        """Return the runs scaled across and down and moved, rounded as they are drawn."""
        return tuple(_placed(run, np.array(factors), np.array(at)) for run in self.runs)

    def bounds(self) -> tuple[float, float, float, float]:
        """Return (left, top, right, bottom) of the control points, which hold the curves."""
        points = np.concatenate([run.cubics.reshape(-1, 2) for run in self.runs])
        (left, top), (right, bottom) = points.min(axis=0), points.max(axis=0)
        return float(left), float(top), float(right), float(bottom)

    def tight_bounds(self) -> tuple[float, float, float, float]:
        """Return (left, top, right, bottom) of the curves themselves."""
        return bezier.bounds(np.concatenate([run.cubics for run in self.runs]))

    @property
    def is_box(self) -> bool:
        """Whether it is an upright rectangle."""
        if len(self.runs) != 1 or len(self.runs[0].cubics) != 4 or not self.runs[0].closed:
            return False
        (run,) = self.runs
        left, top, right, bottom = self.bounds()
        corners = {(left, top), (right, top), (right, bottom), (left, bottom)}
        return bool(run.straight.all()) and set(map(tuple, run.cubics[:, 0].tolist())) == corners

    def path_data(self) -> str:
        """Write the figure as SVG path data."""
        return _path_data(self)


@lru_cache(maxsize=1024)
def _path_data(figure: Figure) -> str:
    """Glyphs and drawings stay the same from one look at the shelf to the next."""
    parts: list[str] = []
    for run in figure.runs:
        parts.append(f"M{_points(run.cubics[0, :1])}")
        for cubic, straight in zip(run.cubics, run.straight, strict=True):
            parts.append(f"L{_points(cubic[3:])}" if straight else f"C{_points(cubic[1:])}")
        parts.append("Z" if run.closed else "")
    return "".join(parts)


def _placed(run: Run, factors: Floats, at: Floats) -> Run:
    cubics = np.round(run.cubics * factors + at, DIGITS)
    lines = run.straight
    cubics[lines] = _lines(cubics[lines, 0], cubics[lines, 3])
    return Run(cubics, lines, run.closed)


def _points(points: Floats) -> str:
    return " ".join(number(float(v), DIGITS) for v in points.ravel())


def _run(subpath: Subpath) -> Run | None:
    pairs = subpath.pairs()
    if not pairs:
        return None
    straight = np.array([is_line(a, b) for a, b in pairs])
    return Run.of(subpath.segments(), straight, closed=subpath.closed)


def is_line(a: Node, b: Node) -> bool:
    """Whether the way from one node to the next has no handles."""
    return a.handle_out == (0.0, 0.0) and b.handle_in == (0.0, 0.0)


_Point = tuple[float, float]


def _kept(point: _Point) -> _Point:
    x, y = point
    return round(float(x), DIGITS), round(float(y), DIGITS)


def _towards(start: _Point, bend: _Point) -> _Point:
    """Return the handle of a cubic that is the same curve as a quadratic with that bend."""
    (x, y), (u, v) = start, bend
    return x + (u - x) * (2 / 3), y + (v - y) * (2 / 3)


class FigurePen(BasePen):  # type: ignore[misc]  # fontTools says nothing of its types
    """Draws glyphs into a figure. Points are plain numbers until a run is whole: arrays of two are
    ten times as slow.
    """

    def __init__(self) -> None:
        super().__init__(None)
        self._runs: list[Run] = []
        self._cubics: list[tuple[_Point, _Point, _Point, _Point]] = []
        self._straight: list[bool] = []
        self._start = self._at = (0.0, 0.0)

    def figure(self) -> Figure:
        self._finish(closed=False)
        return Figure(tuple(self._runs))

    def _finish(self, *, closed: bool) -> None:
        if closed and self._at != self._start:
            self._draw(self._at, self._start, self._start, straight=True)
        if self._cubics:
            cubics, lines = np.array(self._cubics), np.array(self._straight)
            cubics[lines] = _lines(cubics[lines, 0], cubics[lines, 3])
            self._runs.append(Run(cubics, lines, closed))
        self._cubics, self._straight = [], []

    def _draw(self, out: _Point, into: _Point, to: _Point, *, straight: bool = False) -> None:
        self._cubics.append((self._at, out, into, to))
        self._straight.append(straight)
        self._at = to

    def _moveTo(self, point: Any) -> None:  # noqa: N802 - fontTools' name
        self._finish(closed=False)
        self._start = self._at = _kept(point)

    def _lineTo(self, point: Any) -> None:  # noqa: N802
        to = _kept(point)
        if to != self._at:
            self._draw(self._at, to, to, straight=True)

    def _curveToOne(self, out: Any, into: Any, point: Any) -> None:  # noqa: N802
        self._draw(_kept(out), _kept(into), _kept(point))

    def _qCurveToOne(self, control: Any, point: Any) -> None:  # noqa: N802
        bend, to = _kept(control), _kept(point)
        self._draw(_towards(self._at, bend), _towards(to, bend), to)

    def _closePath(self) -> None:  # noqa: N802
        self._finish(closed=True)
        self._at = self._start

    def _endPath(self) -> None:  # noqa: N802
        self._finish(closed=False)
