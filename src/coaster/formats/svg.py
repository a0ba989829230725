"""Drawings in SVG: the paths they hold, placed as the drawing places them."""

import math
import re
from dataclasses import dataclass
from pathlib import Path as File
from xml.etree.ElementTree import Element
from xml.sax.saxutils import quoteattr

from coaster.errors import CoreError, FormatError
from coaster.formats import pathdata
from coaster.formats.pathdata import Run
from coaster.formats.safe_svg import DEEPEST, parse, reference, tag_of, walk
from coaster.geometry import affine, arcs
from coaster.geometry.affine import IDENTITY, Matrix
from coaster.geometry.path import Subpath

MOST_SHAPES = 5_000
_TRANSFORM = re.compile(r"\s*,?\s*(matrix|translate|scale|rotate|skewX|skewY)\s*\(([^()]*)\)", re.I)
_VALUE = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
_UNITS: dict[str, float] = {
    "": 1,
    "px": 1,
    "in": 96,
    "cm": 96 / 2.54,
    "mm": 96 / 25.4,
    "q": 96 / 101.6,
    "pt": 96 / 72,
    "pc": 16,
}
_UNITS |= {"em": 16, "rem": 16, "ex": 8, "%": 0}
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
    """The shapes of an SVG in document order (``use`` expanded), its size in px, and all ids."""

    width: float
    height: float
    shapes: tuple[SvgShape, ...]
    named: dict[str, SvgShape]

    def pick(self, wanted: str | None) -> SvgShape:
        """Return the shape with that id, or at that index from 0; the first if None.

        Errors: FormatError: no shapes at all, or no such id or index.
        """
        if not self.shapes and not self.named:
            raise FormatError("The drawing holds no path and no basic shape.")
        if wanted is None:
            return (self.shapes or tuple(self.named.values()))[0]
        if wanted in self.named:
            return self.named[wanted]
        if re.fullmatch(r"\d+", wanted) and int(wanted) < len(self.shapes):
            return self.shapes[int(wanted)]
        # A few are enough to see how the drawing names its parts.
        ids = ", ".join(list(self.named)[:8]) or "none"
        raise FormatError(
            f"The drawing has no path {wanted!r}; it has {len(self.shapes)}, with the ids: {ids}."
        )


def read(source: File | bytes, *, tolerance: float = pathdata.SAMPLING_TOLERANCE) -> Drawing:
    """Read the paths of an SVG file.

    Accuracy: arcs, circles and ellipses within ``tolerance`` px; all else exactly.
    Errors:   FormatError: not SVG, too large, nested too deeply, unsafe (entities, scripts,
              references to other files), or broken path data.
    """
    return _Reader(parse(source), tolerance).drawing()


def length(text: str | None, relative: float, default: float = 0.0) -> float:
    """Return a CSS length in px (96 to the inch); percentages are of ``relative``."""
    if text is None or text.strip() in ("", "auto"):
        return default
    match = re.fullmatch(rf"({_VALUE.pattern})([a-z%]*)", text.strip().lower())
    if not match or match.group(2) not in _UNITS:
        raise FormatError(f"{text!r} is no length.")
    unit = relative / 100 if match.group(2) == "%" else _UNITS[match.group(2)]
    return float(match.group(1)) * unit


def transform(text: str | None) -> Matrix:
    """Read a ``transform`` attribute or property.

    Errors: FormatError: an unknown function or a wrong count of numbers.
    """
    result = affine.chain([])
    rest = (text or "").strip()
    if rest == "none":
        rest = ""
    while rest:
        match = _TRANSFORM.match(rest)
        if not match:
            raise FormatError(f"The transform {text!r} cannot be read.")
        numbers = [float(v) for v in _VALUE.findall(match.group(2))]
        result = affine.compose(result, _function(match.group(1).lower(), numbers, text or ""))
        rest = rest[match.end() :].strip()
    return _matrix(result)


_COUNTS = {
    "matrix": (6,), "translate": (1, 2), "scale": (1, 2), "rotate": (1, 3),
    "skewx": (1,), "skewy": (1,),
}  # fmt: skip
"""How many numbers the functions of a transform take."""


def _function(name: str, n: list[float], text: str) -> Matrix:
    if len(n) not in _COUNTS[name]:
        raise FormatError(f"The transform {text!r} has {len(n)} numbers in {name}().")
    if name == "matrix":
        return (n[0], n[1], n[2], n[3], n[4], n[5])
    if name == "translate":
        return (1, 0, 0, 1, n[0], n[1] if len(n) == 2 else 0.0)
    if name == "scale":
        return (n[0], 0, 0, n[1] if len(n) == 2 else n[0], 0, 0)
    if name == "rotate":
        x, y = n[1:] or (0.0, 0.0)
        turn = affine.rotation(math.radians(n[0]))
        return _matrix(affine.chain([affine.translation(x, y), turn, affine.translation(-x, -y)]))
    lean = math.tan(math.radians(n[0]))
    return (1, 0, lean, 1, 0, 0) if name == "skewx" else (1, lean, 0, 1, 0, 0)


def _matrix(values: object) -> Matrix:
    a, b, c, d, e, f = (float(v) for v in values)  # type: ignore[attr-defined]
    return (a, b, c, d, e, f)


def _style(element: Element, name: str) -> str | None:
    """Return a presentation property: from ``style`` before the attribute."""
    for part in element.get("style", "").split(";"):
        key, _, value = part.partition(":")
        if key.strip() == name:
            return value.strip()
    return element.get(name)


def view_map(element: Element, width: float, height: float) -> tuple[Matrix, float, float]:
    """Return the map of a viewBox onto a viewport, and the size percentages refer to.

    Source: SVG 2, section 8.2, the equivalent transform of an SVG viewport.
    """
    box = [float(v) for v in _VALUE.findall(element.get("viewBox", ""))]
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
    box = [float(v) for v in _VALUE.findall(root.get("viewBox", ""))]
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


class _Reader:
    """Walks a drawing once, carrying the map from the element's space to the drawing's px."""

    def __init__(self, root: Element, tolerance: float) -> None:
        self.root, self.tolerance = root, tolerance
        self.ids = {e.get("id", ""): e for e, _ in walk(root) if e.get("id")}
        self.shapes: list[SvgShape] = []
        self.named: dict[str, SvgShape] = {}

    def drawing(self) -> Drawing:
        width, height = size_of(self.root)
        place, w, h = view_map(self.root, width, height)
        for child in self.root:
            self._element(child, place, (w, h), hidden=False, depth=0)
        return Drawing(width, height, tuple(self.shapes), self.named)

    def _element(
        self, e: Element, outer: Matrix, view: tuple[float, float], hidden: bool, depth: int
    ) -> None:
        if depth > DEEPEST or len(self.shapes) > MOST_SHAPES:
            raise FormatError(
                f"The drawing refers to itself or holds more than {MOST_SHAPES} shapes."
            )
        tag, before = tag_of(e), len(self.shapes)
        place = _matrix(affine.compose(outer, transform(_style(e, "transform"))))
        # What stands in defs or a clip path is seen by nobody, but may be asked for by its id.
        hidden = hidden or tag in _UNSEEN
        unseen: list[SvgShape] = []
        if tag in _DRAWN:
            self._shape(e, tag, place, view, unseen if hidden else self.shapes)
        elif tag == "use":
            self._use(e, place, view, hidden, depth)
        elif tag == "svg":
            inner, w, h = self._viewport(e, place, view)
            self._children(e, inner, (w, h), hidden, depth)
        elif tag in ("g", "a", "switch", *_UNSEEN):
            self._children(e, place, view, hidden, depth)
        self._name(e, tag, unseen or self.shapes[before:])

    def _name(self, e: Element, tag: str, drawn: list[SvgShape]) -> None:
        """Keep what an element drew under its name, the first of that name."""
        name = e.get("id")
        # An id that is there twice is broken; browsers take the first.
        if name and drawn and name not in self.named:
            runs = tuple(run for shape in drawn for run in shape.runs)
            self.named[name] = SvgShape(name, tag, runs)

    def _children(
        self, e: Element, place: Matrix, view: tuple[float, float], hidden: bool, depth: int
    ) -> None:
        for child in e:
            self._element(child, place, view, hidden, depth + 1)

    def _viewport(
        self,
        e: Element,
        place: Matrix,
        view: tuple[float, float],
        size: tuple[str | None, str | None] = (None, None),
    ) -> tuple[Matrix, float, float]:
        x, y = length(e.get("x"), view[0]), length(e.get("y"), view[1])
        width = length(size[0] or e.get("width"), view[0], view[0])
        height = length(size[1] or e.get("height"), view[1], view[1])
        inner, w, h = view_map(e, width, height)
        return _matrix(affine.chain([place, affine.translation(x, y), inner])), w, h

    def _use(
        self, e: Element, place: Matrix, view: tuple[float, float], hidden: bool, depth: int
    ) -> None:
        target = self.ids.get(reference(e))
        if target is None:
            raise FormatError(f"The drawing uses {reference(e)!r}, which it does not hold.")
        shift = affine.translation(length(e.get("x"), view[0]), length(e.get("y"), view[1]))
        place = _matrix(affine.compose(place, shift))
        if tag_of(target) in ("symbol", "svg"):
            # A symbol's own transform lies inside that of its use.
            place = _matrix(affine.compose(place, transform(_style(target, "transform"))))
            inner, w, h = self._viewport(target, place, view, (e.get("width"), e.get("height")))
            self._children(target, inner, (w, h), hidden, depth + 1)
        else:
            self._element(target, place, view, hidden, depth + 1)

    def _shape(
        self, e: Element, tag: str, place: Matrix, view: tuple[float, float], into: list[SvgShape]
    ) -> None:
        name = e.get("id", "")
        try:
            runs = self._runs(e, tag, place, view)
        except CoreError as error:
            raise FormatError(f"<{tag}{f' id={name!r}' if name else ''}>: {error}") from error
        if runs:
            into.append(SvgShape(name, tag, tuple(runs)))

    def _runs(self, e: Element, tag: str, place: Matrix, view: tuple[float, float]) -> list[Run]:
        if tag == "path":
            return pathdata.runs(e.get("d", ""), matrix=place, tolerance=self.tolerance)
        if tag in ("circle", "ellipse"):
            return self._round(e, tag, place, view)
        if tag == "line":
            # By way of path data, for which maps and rounding are said already.
            x1, x2 = (length(_style(e, name), view[0]) for name in ("x1", "x2"))
            y1, y2 = (length(_style(e, name), view[1]) for name in ("y1", "y2"))
            return pathdata.runs(f"M{x1!r} {y1!r}L{x2!r} {y2!r}", matrix=place)
        if tag == "rect":
            return self._rect(e, place, view)
        numbers = _VALUE.findall(e.get("points", ""))
        if len(numbers) % 2:
            raise FormatError("points holds an odd count of numbers.")
        if len(numbers) < 4:
            return []
        closing = "Z" if tag == "polygon" else ""
        return pathdata.runs("M" + " ".join(numbers) + closing, matrix=place)

    def _round(self, e: Element, tag: str, place: Matrix, view: tuple[float, float]) -> list[Run]:
        wide, high = view
        centre = length(_style(e, "cx"), wide), length(_style(e, "cy"), high)
        if tag == "circle":
            # A share of neither side is one of the diagonal, as the standard has it.
            r = length(_style(e, "r"), ((wide**2 + high**2) / 2) ** 0.5)
            return self._ellipse(centre, (r, r), place)
        # One radius that is not given is the other.
        rx, ry = _style(e, "rx"), _style(e, "ry")
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
        x, y = length(_style(e, "x"), view[0]), length(_style(e, "y"), view[1])
        w, h = length(_style(e, "width"), view[0]), length(_style(e, "height"), view[1])
        if w <= 0 or h <= 0:
            return []
        rx, ry = length(_style(e, "rx"), view[0], -1.0), length(_style(e, "ry"), view[1], -1.0)
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


def write(subpaths: tuple[Subpath, ...], width: float, height: float, name: str) -> str:
    """Write one path as a clean SVG document of the scene's size."""
    data = pathdata.to_path_data(subpaths)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}" height="{height:g}" viewBox="0'
        f' 0 {width:g} {height:g}">\n  <path id={quoteattr(name)} fill="none" stroke="#000"'
        f' stroke-width="2" d="{data}"/>\n</svg>\n'
    )
