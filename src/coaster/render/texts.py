"""Text as outlines: shaped with kerning, each letter from the first font that has it."""

from dataclasses import dataclass
from functools import lru_cache
from itertools import groupby
from pathlib import Path as File

import uharfbuzz as harfbuzz
from fontTools.pens.transformPen import TransformPen

from coaster.render.figures import Figure, FigurePen
from coaster.scene.contents import Text

FONT_FILES = {"Bricolage Grotesque": "bricolage-grotesque", "Figtree": "figtree"}
FONT_FOLDER = File(__file__).parent / "fonts"
SHARES = {"left": 0.0, "centre": 0.5, "right": 1.0}
"""How much of the room beside a line lies to its left."""


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


def _by_font(line: str, fonts: list[harfbuzz.Font]) -> list[tuple[harfbuzz.Font, str]]:
    """Cut a line where the first font that has its letters changes."""

    def first_with(letter: str) -> harfbuzz.Font:
        return next((font for font in fonts if font.get_nominal_glyph(ord(letter))), fonts[0])

    return [(font, "".join(letters)) for font, letters in groupby(line, first_with)]


def _shaped(line: str, fonts: list[harfbuzz.Font], tracking: float) -> tuple[list[_Run], float]:
    """Shape a line with kerning, each letter from the first font that has it; return it and its
    width, in font units. What is put between letters, ``tracking``, is not put behind the last.
    """
    runs, x = [], 0.0
    for font, words in _by_font(line, fonts):
        buffer = harfbuzz.Buffer()
        buffer.add_str(words)
        buffer.guess_segment_properties()
        # Letters that are set apart are not tied together, as CSS has it.
        harfbuzz.shape(font, buffer, {"liga": False, "clig": False} if tracking else None)
        glyphs = []
        for info, place in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
            glyphs.append(
                (info.codepoint, x + place.x_offset, float(place.y_offset), float(place.x_advance))
            )
            x += place.x_advance + tracking
        runs.append(_Run(font, glyphs))
    return runs, x - tracking if any(run.glyphs for run in runs) else x


def _wrapped(text: Text, fonts: list[harfbuzz.Font], tracking: float, most: float) -> list[str]:
    """Return the lines of a text, none wider than ``most`` font units unless by one word."""
    lines = []
    for paragraph in text.text.split("\n"):
        first, *words = paragraph.split(" ")
        lines.append(first)
        for word in words:
            longer = f"{lines[-1]} {word}"
            fits = _shaped(longer, fonts, tracking)[1] <= most
            lines[-1:] = [longer] if fits else [lines[-1], word]
    return lines


def outline(text: Text) -> tuple[Figure, float, float]:
    """Outline a text; the box is as wide as the longest line, or as it is wrapped, and as high as
    all leadings, px.
    """
    fonts = _fonts(text)
    scale = text.size / fonts[0].face.upem
    tracking = text.tracking * fonts[0].face.upem
    words = text.text.split("\n")
    if text.wrap is not None:
        words = _wrapped(text, fonts, tracking, text.wrap / scale)
    lines = [_shaped(line, fonts, tracking) for line in words]
    width = text.wrap or max(max(advance for _, advance in lines) * scale, 1.0)
    extents = fonts[0].get_font_extents("ltr")
    leading = text.size * text.leading
    # The line's height is shared out above and below the letters, as CSS does.
    drop = (leading + (extents.ascender + extents.descender) * scale) / 2
    pen = FigurePen()
    for row, (runs, advance) in enumerate(lines):
        left = (width - advance * scale) * SHARES[text.align]
        for run in runs:
            for glyph, x, y, _ in run.glyphs:
                place = (scale, 0, 0, -scale, left + x * scale, row * leading + drop - y * scale)
                run.font.draw_glyph_with_pen(glyph, TransformPen(pen, place))
    return pen.figure(), width, leading * len(lines)
