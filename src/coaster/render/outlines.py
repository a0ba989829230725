"""What a layer's content looks like at scale 1: its box and the filled or stroked outlines in it."""

import math
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path as File

import numpy as np
import uharfbuzz as harfbuzz
from fontTools.pens.svgPathPen import SVGPathPen
from fontTools.pens.transformPen import TransformPen

from coaster.errors import UnknownId
from coaster.formats.pathdata import number, to_path_data
from coaster.geometry import arcs
from coaster.geometry import path as paths
from coaster.geometry.path import Path
from coaster.scene.document import Layer, Line, Picture, Shape, Text

FONT_FILES = {"Bricolage Grotesque": "bricolage-grotesque", "Figtree": "figtree"}
FONT_FOLDER = File(__file__).parent / "fonts"


@dataclass(frozen=True)
class Outline:
    """One SVG path in the content's own px, with how it is filled and stroked."""

    data: str
    fill: str | None = None
    stroke: str | None = None
    stroke_width: float = 0.0
    dash: tuple[float, float] | None = None


@dataclass(frozen=True)
class Drawable:
    """A layer's content: a picture's file, or outlines; its box starts at ``origin``."""

    width: float
    height: float
    asset: str | None = None
    outlines: tuple[Outline, ...] = ()
    origin: tuple[float, float] = (0.0, 0.0)


def drawable(layer: Layer, path: Path | None) -> Drawable:
    """Return what the layer draws; a line strokes ``path``, in scene px, all others their box."""
    content = layer.content
    if isinstance(content, Picture):
        return Drawable(content.width, content.height, asset=content.asset)
    if isinstance(content, Text):
        return _text(content)
    if isinstance(content, Shape):
        return _shape(content)
    if path is None:
        raise UnknownId(f"{layer.name} strokes a path {content.path!r} that is not there.")
    return _line(content, path)


def _line(line: Line, path: Path) -> Drawable:
    left, top, right, bottom = paths.bounds(path.subpaths)
    drawn = Outline(to_path_data(path.subpaths), None, line.colour, line.width, line.dash)
    return Drawable(max(right - left, 1.0), max(bottom - top, 1.0), None, (drawn,), (left, top))


@lru_cache(maxsize=256)
def _shape(shape: Shape) -> Drawable:
    w, h = shape.width, shape.height
    if shape.figure == "rectangle":
        data = _rounded(w, h, min(shape.radius, w / 2, h / 2))
    elif shape.figure == "ellipse":
        data = _ellipse(w, h)
    else:
        data = _spokes(shape)
    outline = Outline(data, shape.fill, shape.stroke, shape.stroke_width)
    return Drawable(w, h, None, (outline,))


def _ellipse(w: float, h: float) -> str:
    curves = arcs.arc((w / 2, h / 2), (w / 2, h / 2), 0.0, 2 * math.pi, tolerance=0.01)
    return to_path_data((paths.subpath_from_segments(curves, closed=True),))


def _rounded(w: float, h: float, r: float) -> str:
    if r <= 0:
        return f"M0 0H{number(w)}V{number(h)}H0Z"
    pieces = []
    centres = [(w - r, r), (w - r, h - r), (r, h - r), (r, r)]
    for quarter, centre in enumerate(centres):
        curve = arcs.arc(centre, (r, r), (quarter - 1) * math.pi / 2, math.pi / 2, tolerance=0.01)
        pieces.append(curve)
        end, after = curve[-1, 3], centres[(quarter + 1) % 4]
        turn = quarter * math.pi / 2
        start = np.array([after[0] + r * math.cos(turn), after[1] + r * math.sin(turn)])
        pieces.append(np.stack([end, end + (start - end) / 3, start - (start - end) / 3, start])[None])
    return to_path_data((paths.subpath_from_segments(np.concatenate(pieces), closed=True),))


def _spokes(shape: Shape) -> str:
    star = shape.figure == "star"
    count = shape.points * (2 if star else 1)
    radius = np.where(np.arange(count) % 2, shape.inner, 1.0) if star else np.ones(count)
    angle = 2 * np.pi * np.arange(count) / count - np.pi / 2
    x = shape.width / 2 * (1 + radius * np.cos(angle))
    y = shape.height / 2 * (1 + radius * np.sin(angle))
    return "M" + "L".join(f"{number(a)} {number(b)}" for a, b in zip(x, y, strict=True)) + "Z"


@lru_cache(maxsize=32)
def _font(file: str, weight: int) -> harfbuzz.Font:
    font = harfbuzz.Font(harfbuzz.Face(harfbuzz.Blob.from_file_path(str(FONT_FOLDER / file))))
    font.set_variations({"wght": weight})
    return font


def _fonts(text: Text) -> list[harfbuzz.Font]:
    stem = FONT_FILES[text.font]
    return [_font(f"{stem}-{part}.ttf", text.weight) for part in ("latin", "latin-ext")]


def missing_letters(text: Text) -> str:
    """Return the characters that the chosen font does not have, each once."""
    fonts = _fonts(text)
    letters = dict.fromkeys(c for c in text.text if not c.isspace())
    return "".join(c for c in letters if not any(f.get_nominal_glyph(ord(c)) for f in fonts))


@dataclass(frozen=True)
class _Run:
    font: harfbuzz.Font
    glyphs: list[tuple[int, float, float, float]]
    """Glyph, x, y and advance in font units."""


def _shaped(line: str, fonts: list[harfbuzz.Font]) -> tuple[list[_Run], float]:
    """Shape a line with kerning, each letter from the first font that has it."""
    parts: list[tuple[harfbuzz.Font, str]] = []
    for letter in line:
        font = next((f for f in fonts if f.get_nominal_glyph(ord(letter))), fonts[0])
        if parts and parts[-1][0] is font:
            parts[-1] = (font, parts[-1][1] + letter)
        else:
            parts.append((font, letter))
    runs, x = [], 0.0
    for font, words in parts:
        buffer = harfbuzz.Buffer()
        buffer.add_str(words)
        buffer.guess_segment_properties()
        harfbuzz.shape(font, buffer)
        glyphs = []
        for info, place in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
            glyphs.append((info.codepoint, x + place.x_offset, float(place.y_offset), float(place.x_advance)))
            x += place.x_advance
        runs.append(_Run(font, glyphs))
    return runs, x


@lru_cache(maxsize=256)
def _text(text: Text) -> Drawable:
    """Outline the text; the box is as wide as the longest line and as high as all leadings."""
    fonts = _fonts(text)
    lines = [_shaped(line, fonts) for line in text.text.split("\n")]
    scale = text.size / fonts[0].face.upem
    width = max(max(advance for _, advance in lines) * scale, 1.0)
    extents = fonts[0].get_font_extents("ltr")
    leading = text.size * text.leading
    drop = (leading + (extents.ascender + extents.descender) * scale) / 2
    share = {"left": 0.0, "centre": 0.5, "right": 1.0}[text.align]
    pen = SVGPathPen(None, ntos=number)
    for row, (runs, advance) in enumerate(lines):
        left = (width - advance * scale) * share
        for run in runs:
            for glyph, x, y, _ in run.glyphs:
                place = (scale, 0, 0, -scale, left + x * scale, row * leading + drop - y * scale)
                run.font.draw_glyph_with_pen(glyph, TransformPen(pen, place))
    data = pen.getCommands()
    outlines = (Outline(data, text.colour),) if data else ()
    return Drawable(width, leading * len(lines), None, outlines)
