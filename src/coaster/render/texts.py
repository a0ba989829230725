"""Text as outlines: shaped with kerning in either direction, each letter from the first font that
has it.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache, reduce
from itertools import groupby
from unicodedata import bidirectional, category, east_asian_width

import uharfbuzz as harfbuzz
from bidi import algorithm  # type: ignore[import-untyped]  # it says nothing of its types

from coaster.motion.letters import By
from coaster.render import fonts
from coaster.render.figures import Figure, FigurePen, Run
from coaster.scene.contents import Text

SHARES = {"left": 0.0, "centre": 0.5, "right": 1.0}
"""How much of the room beside a line lies to its left."""
RIGHT_TO_LEFT = {"R", "AL", "AN", "RLE", "RLO", "RLI"}
EMBEDDED = str.maketrans("\u2066\u2067\u2069", "\u202a\u202b\u202c", "\u2068")
"""Isolates as embeddings, which the package knows."""


def _fonts(text: Text) -> list[harfbuzz.Font]:
    return fonts.chain(text.font, text.weight, italic=text.italic)


def missing_letters(text: Text) -> str:
    """Return the characters that no font here has, each once."""
    chain = _fonts(text)
    letters = dict.fromkeys(c for c in text.text if not (c.isspace() or _is_joined(c)))
    return "".join(c for c in letters if not any(f.get_nominal_glyph(ord(c)) for f in chain))


def _is_joined(letter: str) -> bool:
    """Whether a character only changes those beside it: marks, joiners, signs of direction."""
    return category(letter)[0] == "M" or category(letter) == "Cf"


@dataclass(frozen=True)
class _Glyphs:
    """Glyphs of one font from left to right: number, x, y and advance in the text's px, and which
    of the ``letters`` each is of.
    """

    font: harfbuzz.Font
    scale: float
    letters: str
    glyphs: list[tuple[int, float, float, float, int]]


Letters = Sequence[tuple[str, int]]
"""Characters with their embedding levels, in the order of reading."""


def _levelled(paragraph: str) -> tuple[Letters, int]:
    """Return the characters with their levels, and the paragraph's own.

    Source: Unicode Standard Annex 9, P2 to I2.
    """
    if not any(bidirectional(letter) in RIGHT_TO_LEFT for letter in paragraph):
        return [(letter, 0) for letter in paragraph], 0
    known = paragraph.translate(EMBEDDED)
    base = algorithm.get_base_level(known)
    storage = algorithm.get_empty_storage()
    storage["base_level"], storage["base_dir"] = base, "LR"[base]
    algorithm.get_embedding_levels(known, storage)
    algorithm.explicit_embed_and_overrides(storage)
    algorithm.resolve_weak_types(storage)
    algorithm.resolve_neutral_types(storage, debug=False)
    algorithm.resolve_implicit_levels(storage, debug=False)
    return [(each["ch"], each["level"]) for each in storage["chars"]], base


def _by_font(letters: Letters, chain: Sequence[harfbuzz.Font]) -> Iterator[harfbuzz.Font]:
    """Yield for each letter the first font that has it; what joins its neighbours, and blanks, stay
    with the letter before.
    """
    last = chain[0]
    for letter, _ in letters:
        stays = letter.isspace() or _is_joined(letter)
        if not (stays and last.get_nominal_glyph(ord(letter))):
            last = next((f for f in chain if f.get_nominal_glyph(ord(letter))), last)
        yield last


def _seen_order(levels: Sequence[int]) -> list[int]:
    """Return the numbers of runs from left to right, by their levels.

    Source: Unicode Standard Annex 9, L2.
    """
    order = list(range(len(levels)))
    for level in range(max(levels, default=0), 0, -1):
        start = 0
        while start < len(order):
            end = start
            while end < len(order) and levels[order[end]] >= level:
                end += 1
            order[start:end] = order[start:end][::-1]
            start = end + 1
    return order


def _line_levels(letters: Letters, base: int) -> Letters:
    """Return a line whose blanks at the end have the paragraph's level, as L1 says."""
    words = len("".join(letter for letter, _ in letters).rstrip())
    return [*letters[:words], *((letter, base) for letter, _ in letters[words:])]


@dataclass(frozen=True)
class _Setting:
    """How a text is set: its fonts, size and what is put between letters, px."""

    chain: Sequence[harfbuzz.Font]
    size: float
    tracking: float

    @staticmethod
    def of(text: Text) -> "_Setting":
        return _Setting(_fonts(text), text.size, text.tracking * text.size)

    def shaped(self, letters: Letters, base: int) -> tuple[list[_Glyphs], float]:
        """Shape a line; return it from left to right, and its width in px. Tracking is put between
        letters, not behind the last.
        """
        line = _line_levels(letters, base)
        marked = zip(line, _by_font(line, self.chain), strict=True)
        groups = [
            (font, level, "".join(letter for (letter, _), _ in group))
            for (font, level), group in groupby(marked, lambda each: (each[1], each[0][1]))
        ]
        runs, x = list[_Glyphs](), 0.0
        for number in _seen_order([level for _, level, _ in groups]):
            run, x = self._run(*groups[number], x)
            runs.append(run)
        return runs, x - self.tracking if any(run.glyphs for run in runs) else x

    def _run(self, font: harfbuzz.Font, level: int, words: str, x: float) -> tuple[_Glyphs, float]:
        buffer = harfbuzz.Buffer()
        buffer.add_str(words.replace("\t", " "))
        buffer.guess_segment_properties()
        buffer.direction = "rtl" if level % 2 else "ltr"
        # Letters that are set apart are not tied together, as CSS has it.
        harfbuzz.shape(font, buffer, {"liga": False, "clig": False} if self.tracking else None)
        scale, glyphs = self.size / font.face.upem, []
        clusters = [info.cluster for info in buffer.glyph_infos]
        for i, (info, place) in enumerate(
            zip(buffer.glyph_infos, buffer.glyph_positions, strict=True)
        ):
            left, drop, advance = (
                v * scale for v in (place.x_offset, place.y_offset, place.x_advance)
            )
            glyphs.append((info.codepoint, x + left, drop, advance, info.cluster))
            # A mark belongs to its letter: nothing is put between the two.
            ends = i + 1 == len(clusters) or clusters[i + 1] != clusters[i]
            x += advance + (self.tracking if ends else 0.0)
        return _Glyphs(font, scale, words, glyphs), x

    def wrapped(self, letters: Letters, base: int, most: float) -> Iterator[Letters]:
        """Yield the lines of a paragraph, none wider than ``most`` px unless by one word."""
        line: tuple[int, int] | None = None
        for begin, end in _words(letters):
            if line is None or self.shaped(letters[line[0] : end], base)[1] <= most:
                line = (begin if line is None else line[0], end)
                continue
            yield letters[line[0] : line[1]]
            line = begin, end
        if line is not None:
            yield letters[line[0] : line[1]]


def _words(letters: Letters) -> Iterator[tuple[int, int]]:
    """Yield where words begin and end: between blanks, behind hyphens, and at each sign of scripts
    that are written without blanks.
    """
    begin = 0
    for i, (letter, _) in enumerate(letters):
        if letter == " ":
            yield begin, i
            begin = i + 1
        elif letter in "-\u2010\u2013" or (_is_wide(letter) and i + 1 < len(letters)):
            following = letters[i + 1][0] if i + 1 < len(letters) else " "
            # Signs that close what was said stay with it.
            kind = category(following)
            if following != " " and (kind[0] not in "PM" or kind == "Ps"):
                yield begin, i + 1
                begin = i + 1
    yield begin, len(letters)


def _is_wide(letter: str) -> bool:
    return east_asian_width(letter) == "W"


def _lines(text: Text, setting: _Setting) -> Iterator[tuple[Letters, int]]:
    """Yield the lines of a text as they are broken, each with its paragraph's level."""
    for letters, base in map(_levelled, text.text.split("\n")):
        broken = [letters] if text.wrap is None else setting.wrapped(letters, base, text.wrap)
        yield from ((line, base) for line in broken)


def lines_of(text: Text) -> list[str]:
    """Return the lines of a text as they are broken, in the order of reading."""
    broken = _lines(text, _Setting.of(text))
    return ["".join(letter for letter, _ in line) for line, _ in broken]


@lru_cache(maxsize=8192)
def _glyph(font: harfbuzz.Font, number: int) -> Figure:
    """Return a glyph's outline in font units, y upwards: drawn once, in however many words."""
    pen = FigurePen()
    font.draw_glyph_with_pen(number, pen)
    return pen.figure()


@dataclass(frozen=True)
class Part:
    """A part of a text where it is set: outlines, from ``left`` px on, ``width`` px wide."""

    runs: tuple[Run, ...]
    left: float
    width: float

    def and_then(self, other: "Part") -> "Part":
        """Return this part and another one of the same line as one."""
        left = min(self.left, other.left)
        right = max(self.left + self.width, other.left + other.width)
        return Part(self.runs + other.runs, left, right - left)


@dataclass(frozen=True)
class Set:
    """A text as it is set: the lines of its letters, a blank as None, and its box, px."""

    lines: tuple[tuple[Part | None, ...], ...]
    width: float
    height: float


@lru_cache(maxsize=256)
def set_text(text: Text) -> Set:
    """Set a text; the box is as wide as the longest line, or as it is wrapped, and as high as all
    leadings, px.
    """
    chain = _fonts(text)
    setting = _Setting(chain, text.size, text.tracking * text.size)
    lines = [setting.shaped(line, base) for line, base in _lines(text, setting)]
    width = text.wrap or max(max(advance for _, advance in lines), 1.0)
    extents, scale = chain[0].get_font_extents("ltr"), text.size / chain[0].face.upem
    leading = text.size * text.leading
    # The line's height is shared out above and below the letters, as CSS does.
    drop = (leading + (extents.ascender + extents.descender) * scale) / 2
    drawn = []
    for row, (runs, advance) in enumerate(lines):
        at = (width - advance) * SHARES[text.align], row * leading + drop
        drawn.append(tuple(part for run in runs for part in _parts(run, at)))
    return Set(tuple(drawn), width, leading * len(lines))


def _parts(run: _Glyphs, at: tuple[float, float]) -> Iterator[Part | None]:
    """Yield the letters of a run from left to right, with the marks on them; None for a blank."""
    left, base_line = at
    for cluster, glyphs in groupby(run.glyphs, lambda glyph: glyph[4]):
        drawn, begins, ends = list[Run](), float("inf"), float("-inf")
        for glyph, x, y, advance, _ in glyphs:
            place = (left + x, base_line - y)
            drawn += _glyph(run.font, glyph).placed((run.scale, -run.scale), place)
            begins, ends = min(begins, left + x), max(ends, left + x + advance)
        blank = run.letters[cluster].isspace() and not drawn
        yield None if blank else Part(tuple(drawn), begins, ends - begins)


def outline(text: Text) -> tuple[Figure, float, float]:
    """Return the outlines of a text, and the width and height of its box, px (see ``set_text``)."""
    found = set_text(text)
    runs = (run for line in found.lines for part in line if part for run in part.runs)
    return Figure(tuple(runs)), found.width, found.height


def parts_of(text: Text, by: By) -> tuple[Part, ...]:
    """Return the letters, words or lines of a text, line by line from left to right."""
    found = list[Part]()
    for line in set_text(text).lines:
        words = [[*group] for blank, group in groupby(line, lambda part: part is None) if not blank]
        wanted = [[part] for word in words for part in word]
        if by != "letter":
            wanted = words if by == "word" else [[part for word in words for part in word]]
        found += [reduce(Part.and_then, (p for p in each if p)) for each in wanted if each]
    return tuple(found)
