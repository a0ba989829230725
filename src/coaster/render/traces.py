"""Lines: how much of their path they stroke in each frame, and how wide and strong along it."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import repeat

import numpy as np
from numpy.typing import NDArray

from coaster.geometry import path as paths
from coaster.geometry.bezier import Floats
from coaster.geometry.measure import MeasuredPath, measure_of
from coaster.geometry.path import Path
from coaster.geometry.pieces import Piece, Ribbon, pieces_between
from coaster.motion import keys
from coaster.motion.colours import from_hex, to_hex
from coaster.motion.tracing import Lead, Windows
from coaster.render.figures import DIGITS, Figure, Run, is_line
from coaster.render.outlines import Face, Faces, Outline, Pen, ramp_of
from coaster.render.paints import Paints, paints_of
from coaster.scene.contents import Line
from coaster.scene.document import Layer

FADES = 16
"""Steps in which a line grows stronger from its tail to its tip."""
WIDEST_STEP, FEWEST_STEPS, MOST_STEPS = 12.0, 8, 400
"""Px from one width of a ribbon to the next, and how many there are."""
CORNER = 1e-3
"""Radians; runs that meet at less are one."""
FULL = (1.0, 1.0)
TOGETHER = 64
"""Frames whose places are found in one go: a call for each takes far longer, one for all of a long
scene a lot of memory."""
SHORTEST = 1e-3
"""Px; what is shorter is not drawn."""


def is_traced(layer: Layer, line: Line) -> bool:
    """Whether a line strokes its path otherwise than whole, evenly and for good."""
    keyed = layer.track("begin") or layer.track("end")
    cut = (line.begin, line.end) != (0.0, 1.0)
    return bool(keyed or cut or layer.carrier) or line.thin != FULL or line.fade < 1


def line_faces(line: Line, layer: Layer, path: Path, times: Floats, lead: Lead | None) -> Faces:
    """Return the looks of a line at ``times``, in step with its ``lead`` if there is one."""
    left, top, right, bottom = paths.bounds(path.subpaths)
    # A level line has no height of its own; anchors and hands need one.
    box = (left, top, max(right - left, 1.0), max(bottom - top, 1.0))
    pen = Pen(line.cap, line.join, line.dash, line.dash_offset)
    fill = ramp_of(line.gradient, box) or line.fill
    whole = Outline(Figure.of(path.subpaths), fill, line.colour, line.width, pen)
    if not is_traced(layer, line):
        return Faces((Face(box, None, (whole,)),))
    trace = Trace(line, path, lead)
    windows = trace.windows(layer, times)
    paints = paints_of(layer, times)
    rows = windows if paints is None else np.column_stack([windows, np.arange(float(len(times)))])
    _, first, which = np.unique(np.round(rows, 3), axis=0, return_index=True, return_inverse=True)
    wholes = [_painted(whole, paints, row) for row in first.tolist()]
    faces = tuple(Face(box, None, look) for look in trace.outlines(wholes, windows[first]))
    return Faces(faces, which.reshape(-1).astype(np.intp))


def _painted(outline: Outline, paints: Paints | None, row: int) -> Outline:
    return outline if paints is None else paints.on(outline, row)


@dataclass(frozen=True)
class Trace:
    """How a line goes along its path, in step with a ``lead`` if there is one."""

    line: Line
    path: Path
    lead: Lead | None

    @property
    def measure(self) -> MeasuredPath:
        """The way as its rider goes it; of what nobody rides, gaps have no length."""
        if self.lead is not None:
            return self.lead.way.measure
        return measure_of(self.path.subpaths, "jump")[0]

    @cached_property
    def segments(self) -> tuple[NDArray[np.intp], NDArray[np.bool_]]:
        """Of each segment of the measure, which run it is of, -1 of a gap, and whether it is
        straight.
        """
        pairs = [subpath.pairs() for subpath in self.path.subpaths]
        gaps = len(self.measure.segments) > sum(map(len, pairs))
        owners, straight = list[int](), list[bool]()
        for number, run in enumerate(pairs):
            owners += [number] * len(run) + [-1] * gaps
            straight += [is_line(a, b) for a, b in run] + [True] * gaps
        count = len(self.measure.segments)
        return np.array(owners[:count], np.intp), np.array(straight[:count], bool)

    @property
    def owners(self) -> NDArray[np.intp]:
        return self.segments[0]

    @cached_property
    def joints(self) -> Floats:
        """The distances at which runs meet, or a run has a corner."""
        measure, loops = self.measure, self.path.loops
        starts = measure.starts[1:] if loops else measure.starts[1:-1]
        if not len(starts):
            return starts
        begins = starts % measure.length if loops else starts
        come, left = (
            measure.directions(measure.locate(at, after), after)
            for at, after in ((starts, False), (begins, True))
        )
        turned = np.abs((left - come + np.pi) % (2 * np.pi) - np.pi) > CORNER
        others = self.owners != np.roll(self.owners, -1)
        found: Floats = starts[turned | others[: len(starts)]]
        return found

    def joints_between(self, begin: float, end: float) -> Floats:
        """Return the joints between two distances, those of other laps too."""
        length, laps = self.measure.length, np.zeros(1)
        if self.path.loops:
            laps = np.arange(np.floor(begin / length), np.ceil(end / length), dtype=float)
        every: Floats = (self.joints[None] + laps[:, None] * length).ravel()
        return every[(every > begin + SHORTEST) & (every < end - SHORTEST)]

    def windows(self, layer: Layer, times: Floats) -> Windows:
        line, lead = self.line, self.lead
        if lead is not None and line.ahead:
            return lead.ahead(times)
        if lead is not None:
            return lead.behind(times, line.trail, in_frames=line.trail_in == "frames")
        begin, end = (_keyed(layer, name, times) for name in ("begin", "end"))
        if self.path.loops:
            # From behind the start to before it: through the start.
            end = np.where(end < begin, end + 1.0, end)
        found: Windows = np.stack([begin, end], axis=1) * self.measure.length
        return found

    def outlines(self, wholes: Sequence[Outline], windows: Floats) -> Iterator[tuple[Outline, ...]]:
        """Yield what is drawn of a line in each of some frames, as it is painted there and within
        windows (n, 2): what it encloses is filled in any case.
        """
        even = self.line.thin == FULL and self.line.fade == 1
        spines = repeat(None) if even else _Spine.along(self, windows)
        for whole, window, spine in zip(wholes, windows, spines, strict=False):
            drawn = [] if whole.fill is None else [replace(whole, stroke=None)]
            if whole.stroke is not None and even:
                drawn += self._strokes(whole, window)
            elif whole.stroke is not None and spine is not None:
                drawn += self._ribbons(whole.stroke, whole.stroke_width, spine)
            yield tuple(drawn)

    def _strokes(self, whole: Outline, window: Floats) -> Iterator[Outline]:
        begin, end = (float(each) for each in window)
        found = pieces_between(self.measure, self.owners, begin, end, loops=self.path.loops)
        for piece in found:
            # Dashes stay where they are on the path.
            pen = replace(whole.pen, offset=whole.pen.offset + self._gone(piece))
            yield replace(whole, fill=None, figure=Figure((self._run(piece),)), pen=pen)

    def _gone(self, piece: Piece) -> float:
        """Return how far along its run a piece begins, px."""
        run = np.flatnonzero(self.owners == self.owners[piece.numbers[0]])
        return piece.begin - float(self.measure.starts[run[0]])

    def _run(self, piece: Piece) -> Run:
        run = self.path.subpaths[int(self.owners[piece.numbers[0]])]
        comes_round = bool(np.allclose(piece.cubics[0, 0], piece.cubics[-1, 3], atol=1e-6))
        closed = run.closed and comes_round and len(piece.cubics) >= len(run.pairs())
        return Run.of(piece.cubics, self.segments[1][piece.numbers], closed=closed)

    def _ribbons(self, colour: str, width: float, spine: "_Spine") -> Iterator[Outline]:
        r, g, b, alpha = from_hex(colour)
        ribbons, rounds = spine.ribbons(width, self.line), self.line.cap == "round"
        strengths = alpha * self._strengths(spine.steps)
        before = 0.0
        for number, strength in enumerate(strengths.tolist()):
            # Laid on each other, so that no edges meet: each adds what the ones below leave open.
            added = round(255 * (strength - before) / max(1.0 - before, 1e-9)) / 255
            if added <= 0:
                continue
            before += added * (1.0 - before)
            runs = tuple(_covered(ribbons, number / len(strengths), rounded=rounds))
            if runs:
                yield Outline(Figure(runs), to_hex((r, g, b, added)))

    def _strengths(self, steps: int) -> Floats:
        """Return how strong a line is from each of some shares of it on, growing."""
        if self.line.fade == 1:
            return np.ones(1)
        count = min(FADES, steps)
        shares = (np.arange(count) + 0.5) / count
        found: Floats = self.line.fade + (1.0 - self.line.fade) * shares
        return found


def _keyed(layer: Layer, name: str, times: Floats) -> Floats:
    track = layer.track(name)
    if track is None:
        standing = layer.standing(name)
        return np.full(len(times), 0.0 if standing is None else float(standing))
    return np.clip(keys.values(track.keys, times)[0], 0.0, 1.0)


@dataclass(frozen=True)
class _Spine:
    """Places (k, 2) along what is drawn, from its tail to its tip, the directions (k, 2) and the
    shares (k,) of it there, and of which run they are (k,).
    """

    places: Floats
    ahead: Floats
    shares: Floats
    owners: NDArray[np.intp]
    steps: int

    @staticmethod
    def along(trace: Trace, windows: Floats) -> Iterator["_Spine | None"]:
        """Yield the spine of what is drawn in each of some windows (n, 2); None where that is
        nothing.
        """
        for first in range(0, len(windows), TOGETHER):
            some = windows[first : first + TOGETHER].tolist()
            yield from _Spine._together(trace, [_Stations.of(trace, *one) for one in some])

    @staticmethod
    def _together(trace: Trace, stations: list["_Stations"]) -> Iterator["_Spine | None"]:
        measure = trace.measure
        at = np.concatenate([each.at for each in stations])
        after = np.concatenate([each.after for each in stations])
        laps = at / (measure.length or 1.0)
        lap = np.where(after, np.floor(laps), np.ceil(laps) - 1) if trace.path.loops else 0.0
        found = measure.locate(at - lap * measure.length, after)
        angles = measure.directions(found, after)
        ahead = np.stack([np.cos(angles), np.sin(angles)], axis=1)
        back = trace.lead is not None and trace.lead.runs_back
        upto = 0
        for each in stations:
            part = slice(upto, upto := upto + len(each.at))
            owners = trace.owners[found.segment[part]]
            spine = _Spine(found.position[part], ahead[part], each.shares, owners, each.steps)
            yield None if not each.steps else spine.turned() if back else spine

    def turned(self) -> "_Spine":
        """Return it from the other end."""
        places, ahead, shares = self.places[::-1], -self.ahead[::-1], 1.0 - self.shares[::-1]
        return _Spine(places, ahead, shares, self.owners[::-1], self.steps)

    def ribbons(self, width: float, line: Line) -> list[tuple[Floats, Ribbon]]:
        """Return a ribbon for each run, with the shares of the spine at its places."""
        found = []
        pieces = np.split(np.arange(len(self.shares)), np.flatnonzero(np.diff(self.owners)) + 1)
        for part in pieces:
            if len(part) > 1 and self.owners[part[0]] >= 0:
                widths = width * _profile(self.shares[part], line.thin)
                ribbon = Ribbon(self.places[part], self.ahead[part], widths)
                found.append((self.shares[part], ribbon))
        return found


@dataclass(frozen=True)
class _Stations:
    """Distances (k,) from the tail of what is drawn to its tip, px, on which side of them the path
    is looked at, and the shares (k,) of it there; without steps nothing is drawn.
    """

    at: Floats
    after: NDArray[np.bool_]
    shares: Floats
    steps: int

    @staticmethod
    def of(trace: Trace, begin: float, end: float) -> "_Stations":
        measure = trace.measure
        if not trace.path.loops:
            begin, end = max(begin, 0.0), min(end, measure.length)
        end = min(end, begin + measure.length)
        if end - begin <= SHORTEST or not measure.length:
            return _Stations(np.empty(0), np.empty(0, bool), np.empty(0), 0)
        steps = int(np.clip(np.ceil((end - begin) / WIDEST_STEP), FEWEST_STEPS, MOST_STEPS))
        steps = int(np.ceil(steps / FADES)) * FADES if trace.line.fade < 1 else steps
        at, after = _told(np.linspace(begin, end, steps + 1), trace.joints_between(begin, end))
        return _Stations(at, after, (at - begin) / (end - begin), steps)


def _covered(ribbons: list[tuple[Floats, Ribbon]], share: float, *, rounded: bool) -> Iterator[Run]:
    """Yield what covers ribbons from a share of their spine on."""
    for shares, ribbon in ribbons:
        first = int(np.searchsorted(shares, share - 1e-9))
        if first > len(shares) - 2:
            continue
        # Where a step of a fade begins nothing ends.
        at_start = rounded and (share == 0 or first == 0)
        for each in ribbon.runs(first, round_start=at_start, round_end=rounded):
            yield Run(np.round(each, DIGITS), np.zeros(len(each), bool), closed=True)


def _told(even: Floats, joints: Floats) -> tuple[Floats, NDArray[np.bool_]]:
    """Return distances in order, and on which side of them it is looked: at a corner it is told
    twice, how it is come to and how it is left.
    """
    at = np.concatenate([even, joints, joints])
    sides = even < even[-1], np.zeros(len(joints), bool), np.ones(len(joints), bool)
    after = np.concatenate(sides)
    order = np.lexsort([after, at])
    return at[order], after[order]


def _profile(shares: Floats, thin: tuple[float, float]) -> Floats:
    """Return how wide a line is at shares of it: full at the end that is not thin, and straight to
    the other; where both are, full in the middle, like a leaf.
    """
    tail, tip = thin
    if max(thin) == 1:
        even: Floats = tail + (tip - tail) * shares
        return even
    ends = np.where(shares < 0.5, tail, tip)
    leaf: Floats = ends + (1 - ends) * np.sin(np.pi * shares)
    return leaf
