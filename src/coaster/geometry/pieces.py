"""Pieces of a path between two distances on it, and ribbons: strokes whose width changes."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coaster.geometry import bezier
from coaster.geometry.bezier import Floats
from coaster.geometry.measure import AT_NODE, MeasuredPath

ARC = 4 / 3 * (np.sqrt(2.0) - 1.0)
"""How long handles are, in radii, of a quarter of a circle."""


@dataclass(frozen=True)
class Piece:
    """Joined cubics (n, 4, 2) of a path, which begin at a distance on it, px; ``numbers`` (n,) say
    of which segments they are.
    """

    begin: float
    cubics: Floats
    numbers: NDArray[np.intp]

    def and_then(self, other: "Piece") -> "Piece":
        """Return this piece and one that goes on from it as one."""
        cubics = np.concatenate([self.cubics, other.cubics])
        return Piece(self.begin, cubics, np.concatenate([self.numbers, other.numbers]))


def pieces_between(
    measure: MeasuredPath, owners: NDArray[np.intp], begin: float, end: float, *, loops: bool
) -> list[Piece]:
    """Return what lies between two distances on a path, ascending: one piece for each run of it.

    Shapes:     ``owners`` (m,) says of each segment which run it is of, -1 of a gap.
    Units:      px; on a path that ``loops`` distances count on, and a piece goes on past its end.
    Degenerate: distances beyond an open path are cut; what has no length is no piece.
    """
    length = measure.length
    if not loops:
        begin, end = max(begin, 0.0), min(end, length)
    if end - begin <= AT_NODE * length or not length:
        return []
    if end - begin >= length:
        begin, end = (0.0, length) if not loops else (begin, begin + length)
    lap = np.floor(begin / length) * length if loops else 0.0
    begin, end = begin - lap, end - lap
    spans = [(begin, min(end, length))]
    if end > length:
        spans.append((0.0, end - length))
    found: list[Piece] = []
    for span in spans:
        for piece in _pieces(measure, owners, *span):
            joins = found and owners[found[-1].numbers[-1]] == owners[piece.numbers[0]]
            if joins and np.allclose(found[-1].cubics[-1, 3], piece.cubics[0, 0], atol=1e-9):
                found[-1] = found[-1].and_then(piece)
            else:
                found.append(piece)
    return found


def _pieces(
    measure: MeasuredPath, owners: NDArray[np.intp], begin: float, end: float
) -> Iterator[Piece]:
    """Yield the pieces of one lap."""
    slack = AT_NODE * measure.length
    if end - begin <= slack:
        return
    places = measure.locate([begin, end], [True, False])
    (first, last), (t0, t1) = places.segment.tolist(), places.parameter.tolist()
    cubics = np.array(measure.segments[first : last + 1])
    if t1 < 1.0:
        cubics[-1] = bezier.split(cubics[-1], t1)[0]
    if t0 > 0.0:
        # Of one segment the end was cut first: it is so much shorter.
        share = t0 / t1 if first == last else t0
        cubics[0] = bezier.split(cubics[0], min(share, 1.0))[1]
    numbers = np.arange(first, last + 1)
    edges = np.flatnonzero(np.diff(owners[numbers])) + 1
    for part in np.split(np.arange(len(numbers)), edges):
        if owners[numbers[part[0]]] >= 0:
            start = begin if part[0] == 0 else float(measure.starts[numbers[part[0]]])
            yield Piece(start, cubics[part], numbers[part])


class Ribbon:
    """A stroke whose width changes along it, covered from any of its places to its end.

    Shapes:     ``places`` (k, 2), the unit directions ``ahead`` (k, 2) and the ``widths`` (k,)
                there, px; where a path has a corner, its place is told twice, with both directions.
    Accuracy:   its edges go through the ends of the widths, along the directions.
    Degenerate: where it bends within half of its width, edges cross: what they go round is covered.
    """

    def __init__(self, places: Floats, ahead: Floats, widths: Floats) -> None:
        self._places, self._half = places, widths / 2
        aside = np.stack([-ahead[:, 1], ahead[:, 0]], axis=1) * self._half[:, None]
        self._sides = places + aside, places - aside
        left, right = (_edge(side, ahead) for side in self._sides)
        self._left, self._back = left, right[::-1, ::-1]
        self._corners = np.flatnonzero((np.diff(places, axis=0) == 0).all(axis=1))

    def runs(self, first: int = 0, *, round_start: bool, round_end: bool) -> list[Floats]:
        """Return closed runs of cubics (n, 4, 2), all of one sense, that together cover it from
        the place numbered ``first`` on.
        """
        left, right = self._sides
        back = self._back[: len(self._back) - first]
        across = _line(left[-1], right[-1]), _line(right[first], left[first])
        found = [np.concatenate([self._left[first:], across[0], back, across[1]])]
        ends = [first] * round_start + [len(self._places) - 1] * round_end
        for at in (*self._corners[self._corners >= first].tolist(), *ends):
            if self._half[at] > 0:
                found.append(self._places[at] + self._half[at] * DISC)
        return found


def _edge(points: Floats, ahead: Floats) -> Floats:
    """Return cubics through points (k, 2) along directions there, (k - 1, 4, 2)."""
    start, end = points[:-1], points[1:]
    third = np.hypot(*(end - start).T)[:, None] / 3
    return np.stack([start, start + ahead[:-1] * third, end - ahead[1:] * third, end], axis=1)


def _line(start: Floats, end: Floats) -> Floats:
    third = (end - start) / 3
    return np.stack([start, start + third, end - third, end])[None]


def _disc() -> Floats:
    """Return a circle of radius 1, in the sense of a ribbon that goes from left to right."""
    angles = -np.arange(5) * np.pi / 2
    spots = np.stack([np.cos(angles), np.sin(angles)], axis=1)
    tangents = np.stack([np.sin(angles), -np.cos(angles)], axis=1) * ARC
    start, end = spots[:-1], spots[1:]
    return np.stack([start, start + tangents[:-1], end - tangents[1:], end], axis=1)


DISC = _disc()
