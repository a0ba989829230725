"""Drawings in SVG: the paths they hold, placed as the drawing places them."""

import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path as File
from xml.etree.ElementTree import Element

from coaster.errors import FormatError, GeometryError
from coaster.formats import pathdata
from coaster.formats.pathdata import Run
from coaster.formats.quoting import quoted
from coaster.formats.safe_svg import DEEPEST, parse, reference, tag_of, walk
from coaster.formats.svg_styles import VALUE, Styles, length, origin, transform
from coaster.geometry import affine, arcs
from coaster.geometry.affine import IDENTITY, Matrix
from coaster.geometry.path import Subpath

MOST_SHAPES = 5_000
_UNSEEN = ("defs", "symbol", "clipPath", "mask", "marker", "pattern")
"""Elements that hold what is drawn elsewhere, if at all."""
_DRAWN = ("path", "rect", "circle", "ellipse", "line", "polyline", "polygon")


@dataclass(frozen=True)
class SvgShape:
    """One shape of a drawing: its id ('' if it has none), its tag, and its course in px."""

    id: str
    tag: str
    runs: tuple[Run, ...]

    def subpaths(self) -> tuple[Subpath, ...]:
        return pathdata.subpaths(self.runs)


@dataclass(frozen=True)
class Drawing:
    """The shapes of an SVG in document order (``use`` expanded), its size in px, and all ids.

    ``left_out`` says, a sentence each, what of it could not be read.
    """

    width: float
    height: float
    shapes: tuple[SvgShape, ...]
    named: dict[str, SvgShape]
    left_out: tuple[str, ...] = ()

    def offered(self) -> tuple[SvgShape, ...]:
        """Return what there is to choose from: what it shows or, if nothing, what it stores."""
        return self.shapes or tuple(self.named.values())

    def pick(self, wanted: str | None) -> SvgShape:
        """Return the shape with that id, or at that index from 0; the first if None.

        Errors: FormatError: no shapes at all, or no such id or index.
        """
        offered = self.offered()
        if not offered:
            words = ["The drawing holds no path and no basic shape.", *self.left_out[:1]]
            raise FormatError(" ".join(words))
        if wanted is None:
            return offered[0]
        if wanted in self.named:
            return self.named[wanted]
        if re.fullmatch(r"\d{1,9}", wanted) and int(wanted) < len(offered):
            return offered[int(wanted)]
        # A few are enough to see how the drawing names its parts.
        ids = ", ".join(list(self.named)[:8]) or "none"
        raise FormatError(
            f"The drawing has no path {wanted!r}; it has {len(offered)}, with the ids: {ids}."
        )


def read(source: File | bytes, *, tolerance: float = pathdata.SAMPLING_TOLERANCE) -> Drawing:
    """Read the paths of an SVG file.

    Accuracy:   arcs, circles and ellipses within ``tolerance`` px; all else exactly.
    Degenerate: what is broken is left out and said, a path up to where it breaks; what is hidden
                is not shown, but found by its id.
    Errors:     FormatError: not SVG, too large, nested too deeply, or unsafe (entities, scripts,
                references to other files).
    """
    return _Reader(parse(source), tolerance).drawing()


def view_map(element: Element, width: float, height: float) -> tuple[Matrix, float, float]:
    """Return the map of a viewBox onto a viewport, and the size percentages refer to.

    Source: SVG 2, section 8.2, the equivalent transform of an SVG viewport.
    """
    box = [float(v) for v in VALUE.findall(element.get("viewBox", ""))]
    if len(box) != 4 or box[2] <= 0 or box[3] <= 0:
        # Of a box without a size nothing is said about how it is seen; browsers leave it out, too.
        return IDENTITY, width, height
    x, y, w, h = box
    align, *words = (element.get("preserveAspectRatio") or "xMidYMid meet").split()
    sx, sy = width / w, height / h
    if align != "none":
        sx = sy = max(sx, sy) if "slice" in words else min(sx, sy)
    share_x, share_y = _shares(align)
    dx = share_x * (width - w * sx) - x * sx
    dy = share_y * (height - h * sy) - y * sy
    return (sx, 0, 0, sy, dx, dy), w, h


def _shares(align: str) -> tuple[float, float]:
    """Return which share of the room that is left comes before the box, across and down."""
    if align == "none":
        return 0.0, 0.0
    shares = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}
    found = re.fullmatch(r"x(Min|Mid|Max)Y(Min|Mid|Max)", align)
    across, down = found.groups() if found else ("Mid", "Mid")
    return shares[across], shares[down]


def _relative(text: str | None) -> bool:
    return text is None or text.strip() == "auto" or text.strip().endswith("%")


def size_of(root: Element) -> tuple[float, float]:
    """Return the drawing's own size in px; without one, its viewBox's; without that, 300 x 150."""
    box = [float(v) for v in VALUE.findall(root.get("viewBox", ""))]
    own = (box[2], box[3]) if len(box) == 4 and box[2] > 0 and box[3] > 0 else (300.0, 150.0)
    width, height = root.get("width"), root.get("height")
    w = own[0] if _relative(width) else length(width, own[0])
    h = own[1] if _relative(height) else length(height, own[1])
    # One side alone is told: the other follows the box's proportions.
    if _relative(width) and not _relative(height) and len(box) == 4:
        w = h * own[0] / own[1]
    if _relative(height) and not _relative(width) and len(box) == 4:
        h = w * own[1] / own[0]
    if not (0 < w <= 1e6 and 0 < h <= 1e6):
        raise FormatError(f"The drawing's size {width} x {height} is not usable.")
    return w, h


@dataclass(frozen=True)
class _Place:
    """Where an element is drawn: the map to the drawing's px, the size that percentages are of,
    whether nobody sees it, and how deep it is nested.
    """

    map: Matrix
    view: tuple[float, float]
    unseen: bool = False
    invisible: bool = False
    depth: int = 0

    def inner(self, *maps: Matrix, view: tuple[float, float] | None = None) -> "_Place":
        return replace(self, map=affine.product(self.map, *maps), view=view or self.view)


class _Reader:
    """Walks a drawing once, carrying along where it is."""

    def __init__(self, root: Element, tolerance: float) -> None:
        self.root, self.tolerance, self.styles = root, tolerance, Styles(root)
        self.ids = {e.get("id", ""): e for e, _ in walk(root) if e.get("id")}
        self.shapes: list[SvgShape] = []
        self.hidden: list[SvgShape] = []
        self.named: dict[str, SvgShape] = {}
        self.left_out: dict[str, int] = {}

    def drawing(self) -> Drawing:
        width, height = size_of(self.root)
        place, w, h = view_map(self.root, width, height)
        # Alone in its file the outermost element is a box: it turns about its middle.
        outer = _Place(IDENTITY, (width, height))
        outer = self._transformed(self.root, outer, usual=(width / 2, height / 2))
        place_of_all = outer.inner(place, view=(w, h))
        for child in self.root:
            self._element(child, place_of_all)
        words = tuple(f"{each}{_times(count)}" for each, count in self.left_out.items())
        return Drawing(width, height, tuple(self.shapes), self.named, words)

    def _leave_out(self, words: str) -> None:
        self.left_out[words] = self.left_out.get(words, 0) + 1

    def _element(self, e: Element, outer: _Place) -> None:
        if self._too_much(outer):
            raise FormatError(
                f"The drawing refers to itself or holds more than {MOST_SHAPES} shapes."
            )
        tag, before, hidden_before = tag_of(e), len(self.shapes), len(self.hidden)
        try:
            place = self._seen(e, self._transformed(e, outer), tag)
            if tag in _DRAWN:
                hidden = place.unseen or place.invisible
                self._shape(e, tag, place, self.hidden if hidden else self.shapes)
            elif tag in _HOLDERS:
                _HOLDERS[tag](self, e, place)
        except FormatError as error:
            if self._too_much(outer):
                raise
            self._leave_out(f"{_called(e, tag)} was left out: {error}")
            return
        self._name(e, tag, self.shapes[before:] or self.hidden[hidden_before:])

    def _too_much(self, place: _Place) -> bool:
        return place.depth > DEEPEST or len(self.shapes) + len(self.hidden) > MOST_SHAPES

    def _transformed(
        self, e: Element, outer: _Place, usual: tuple[float, float] = (0.0, 0.0)
    ) -> _Place:
        told = self.styles.of(e, "transform")
        if not told:
            return outer
        own = transform(told, outer.view)
        about = origin(self.styles.of(e, "transform-origin"), outer.view, usual)
        if self.styles.of(e, "transform-box") in ("fill-box", "content-box", "stroke-box"):
            self._leave_out("A transform-box was left out: transforms are about the view box.")
        if any(about):
            return outer.inner(affine.moved(*about), own, affine.moved(-about[0], -about[1]))
        return outer.inner(own)

    def _seen(self, e: Element, place: _Place, tag: str) -> _Place:
        """Return a place with what the element says about being seen."""
        # What stands in defs or a clip path is seen by nobody, but may be asked for by its id.
        gone = tag in _UNSEEN or self.styles.of(e, "display") == "none"
        shown = self.styles.of(e, "visibility")
        invisible = (
            shown in ("hidden", "collapse") if shown and shown != "inherit" else place.invisible
        )
        depth = place.depth + 1
        return replace(place, unseen=place.unseen or gone, invisible=invisible, depth=depth)

    def _name(self, e: Element, tag: str, drawn: list[SvgShape]) -> None:
        """Keep what an element drew under its name, the first of that name."""
        name = e.get("id")
        # An id that is there twice is broken; browsers take the first.
        if name and drawn and name not in self.named:
            runs = tuple(run for shape in drawn for run in shape.runs)
            self.named[name] = SvgShape(name, tag, runs)

    def _children(self, e: Element, place: _Place) -> None:
        for child in e:
            self._element(child, place)

    def _switch(self, e: Element, place: _Place) -> None:
        """The first child whose conditions hold is drawn, and no other."""
        for child in e:
            if isinstance(child.tag, str) and _conditions_hold(child):
                self._element(child, place)
                return

    def _nested(self, e: Element, place: _Place) -> None:
        self._children(e, self._viewport(e, place))

    def _viewport(
        self, e: Element, place: _Place, size: tuple[str | None, str | None] = (None, None)
    ) -> _Place:
        across, down = place.view
        x, y = length(e.get("x"), across), length(e.get("y"), down)
        width = length(size[0] or self.styles.of(e, "width"), across, across)
        height = length(size[1] or self.styles.of(e, "height"), down, down)
        inner, w, h = view_map(e, width, height)
        return place.inner(affine.moved(x, y), inner, view=(w, h))

    def _use(self, e: Element, place: _Place) -> None:
        target = self.ids.get(reference(e))
        if target is None:
            raise FormatError(f"it refers to {reference(e)!r}, which is not there.")
        across, down = place.view
        place = place.inner(affine.moved(length(e.get("x"), across), length(e.get("y"), down)))
        if tag_of(target) in ("symbol", "svg"):
            # A symbol's own transform lies inside that of its use.
            place = self._transformed(target, place)
            size = (self.styles.of(e, "width"), self.styles.of(e, "height"))
            self._children(target, self._viewport(target, place, size))
        else:
            self._element(target, place)

    def _shape(self, e: Element, tag: str, place: _Place, into: list[SvgShape]) -> None:
        try:
            runs = self._runs(e, tag, place.map, place.view)
        except GeometryError as error:
            raise FormatError(str(error)) from error
        if runs:
            into.append(SvgShape(e.get("id", ""), tag, tuple(runs)))

    def _runs(self, e: Element, tag: str, place: Matrix, view: tuple[float, float]) -> list[Run]:
        if tag == "path":
            data = self.styles.of(e, "d") or ""
            told = re.fullmatch(r"path\(\s*(['\"])(.*)\1\s*\)", data, re.S)
            runs, broken = pathdata.runs_so_far(
                told.group(2) if told else data, matrix=place, tolerance=self.tolerance
            )
            if broken is not None:
                self._leave_out(f"{_called(e, tag)} was read up to its mistake: {broken}")
            return runs
        if tag in ("circle", "ellipse"):
            return self._round(e, tag, place, view)
        if tag == "line":
            # By way of path data, for which maps and rounding are said already.
            x1, x2 = (length(e.get(name), view[0]) for name in ("x1", "x2"))
            y1, y2 = (length(e.get(name), view[1]) for name in ("y1", "y2"))
            return pathdata.runs(f"M{x1!r} {y1!r}L{x2!r} {y2!r}", matrix=place)
        if tag == "rect":
            return self._rect(e, place, view)
        numbers = VALUE.findall(e.get("points", ""))
        if len(numbers) % 2:
            self._leave_out(f"{_called(e, tag)} has one number too many, which was left out.")
            numbers.pop()
        if len(numbers) < 4:
            return []
        closing = "Z" if tag == "polygon" else ""
        return pathdata.runs("M" + " ".join(numbers) + closing, matrix=place)

    def _round(self, e: Element, tag: str, place: Matrix, view: tuple[float, float]) -> list[Run]:
        wide, high = view
        centre = length(self.styles.of(e, "cx"), wide), length(self.styles.of(e, "cy"), high)
        if tag == "circle":
            # A share of neither side is one of the diagonal, as the standard has it.
            r = length(self.styles.of(e, "r"), ((wide**2 + high**2) / 2) ** 0.5)
            return self._ellipse(centre, (r, r), place)
        # One radius that is not given is the other.
        rx, ry = self.styles.of(e, "rx"), self.styles.of(e, "ry")
        radii = length(rx, wide, length(ry, high)), length(ry, high, length(rx, wide))
        return self._ellipse(centre, radii, place)

    def _ellipse(
        self, centre: tuple[float, float], radii: tuple[float, float], place: Matrix
    ) -> list[Run]:
        if radii[0] <= 0 or radii[1] <= 0:
            return []
        tolerance = self.tolerance / max(float(affine.largest_scale(place)), 1e-12)
        curves = arcs.arc(centre, radii, 0.0, 6.283185307179586, tolerance=tolerance)
        curves[-1, 3] = curves[0, 0]
        return [(affine.apply(place, curves), True)]

    def _rect(self, e: Element, place: Matrix, view: tuple[float, float]) -> list[Run]:
        told = {name: self.styles.of(e, name) for name in ("x", "y", "width", "height", "rx", "ry")}
        x, y = length(told["x"], view[0]), length(told["y"], view[1])
        w, h = length(told["width"], view[0]), length(told["height"], view[1])
        if w <= 0 or h <= 0:
            return []
        rx, ry = length(told["rx"], view[0], -1.0), length(told["ry"], view[1], -1.0)
        rx, ry = (ry if rx < 0 else rx), (rx if ry < 0 else ry)
        rx, ry = min(max(rx, 0.0), w / 2), min(max(ry, 0.0), h / 2)
        if rx == 0 or ry == 0:
            d = f"M{x!r} {y!r}h{w!r}v{h!r}h{-w!r}Z"
        else:
            corner = f"A{rx!r} {ry!r} 0 0 1 "
            d = (
                f"M{x + rx!r} {y!r}H{x + w - rx!r}{corner}{x + w!r} {y + ry!r}V{y + h - ry!r}"
                f"{corner}{x + w - rx!r} {y + h!r}H{x + rx!r}{corner}{x!r} {y + h - ry!r}"
                f"V{y + ry!r}{corner}{x + rx!r} {y!r}Z"
            )
        return pathdata.runs(d, matrix=place, tolerance=self.tolerance)


_HOLDERS: dict[str, Callable[[_Reader, Element, _Place], None]] = {
    "use": _Reader._use,
    "svg": _Reader._nested,
    "switch": _Reader._switch,
    **dict.fromkeys(("g", "a", *_UNSEEN), _Reader._children),
}
"""Elements that draw what is in them, or elsewhere."""


def _called(e: Element, tag: str) -> str:
    name = e.get("id")
    return f"<{tag} id={name!r}>" if name else f"<{tag}>"


def _times(count: int) -> str:
    return f" ({count} times)" if count > 1 else ""


def _conditions_hold(e: Element) -> bool:
    """Whether a child of a ``switch`` may be drawn: for readers of English, without extensions.

    Source: SVG 2, section 5.7.
    """
    extensions, language = e.get("requiredExtensions"), e.get("systemLanguage")
    if extensions is not None:
        return False
    tags = [tag.strip().lower() for tag in (language or "").split(",")]
    return language is None or any(tag.split("-")[0] == "en" for tag in tags)


def write(subpaths: tuple[Subpath, ...], width: float, height: float, name: str) -> str:
    """Write one path as a clean SVG document of the scene's size."""
    data = pathdata.to_path_data(subpaths)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}" height="{height:g}" viewBox="0'
        f' 0 {width:g} {height:g}">\n  <path id={quoted(name)} fill="none" stroke="#000"'
        f' stroke-width="2" d="{data}"/>\n</svg>\n'
    )
