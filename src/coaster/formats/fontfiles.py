"""Fonts from files: checked, unpacked, and what they and their licence say of themselves."""

import io
import zlib
from dataclasses import dataclass
from typing import Any

import brotli  # type: ignore[import-untyped]  # it says nothing of its types
import uharfbuzz as harfbuzz
from fontTools.ttLib import TTFont, TTLibError

from coaster.errors import FormatError

LARGEST = 30_000_000
"""Bytes of a font, as it comes and unpacked."""
KINDS = {b"\x00\x01\x00\x00": ".ttf", b"true": ".ttf", b"OTTO": ".otf"}
PACKED = (b"wOF2", b"wOFF")
COLLECTION = b"ttcf"
NEEDED = ("cmap", "head", "hhea", "hmtx", "maxp")
OUTLINES = ("glyf", "CFF ", "CFF2")
MAY_NOT, BITMAPS_ONLY, VIEWED_ONLY, EDITED = 0x0002, 0x0200, 0x0004, 0x0008
"""Bits of a font's licence (``fsType`` of its OS/2 table)."""


_FAILS = (
    TTLibError, ArithmeticError, AssertionError, AttributeError, LookupError, OSError, TypeError,
    ValueError, brotli.error, zlib.error, harfbuzz.HarfBuzzError,
)  # fmt: skip
"""What readers of tables raise over what is none."""


@dataclass(frozen=True)
class ImportedFont:
    """A checked font as an unpacked file, what it calls itself, and what is to be said of it."""

    data: bytes
    ending: str
    title: str
    notes: tuple[str, ...] = ()


def is_font(data: bytes) -> bool:
    return data[:4] in (*KINDS, *PACKED, COLLECTION)


def import_font(data: bytes, name: str) -> ImportedFont:
    """Read a TTF, OTF, WOFF or WOFF2 file.

    Errors: FormatError: it is broken, too large, a collection, has no outlines, or its licence
            forbids taking it along.
    """
    if data[:4] == COLLECTION:
        raise FormatError(f"{name} is a collection of fonts; bring in one font as a file.")
    if len(data) > LARGEST:
        raise FormatError(f"{name} is larger than {LARGEST // 1_000_000} MB; it was not kept.")
    try:
        with TTFont(io.BytesIO(data), lazy=False, recalcTimestamp=False) as font:
            return _checked(font, name)
    # A table that is not what it should be fails in whatever way its reader does.
    except _FAILS as error:
        if isinstance(error, FormatError):
            raise
        raise FormatError(f"{name} is broken or no font; it was not kept.") from error


def _checked(font: TTFont, name: str) -> ImportedFont:
    missing = [tag for tag in NEEDED if tag not in font]
    if missing or not any(tag in font for tag in OUTLINES):
        raise FormatError(f"{name} has no outlines of letters; it was not kept.")
    notes = _licence(font, name)
    # Written anew: what is drawn from is what was read here, table by table.
    font.flavor = None
    out = io.BytesIO()
    font.save(out)
    data = out.getvalue()
    if len(data) > LARGEST:
        raise FormatError(f"{name} unpacks to more than {LARGEST // 1_000_000} MB.")
    _draw(data, name)
    return ImportedFont(data, KINDS[data[:4]], _title(font, name), notes)


def _licence(font: TTFont, name: str) -> tuple[str, ...]:
    """Return what a font's licence allows, in words.

    Source: OpenType 1.9, OS/2, fsType.
    """
    allowed = int(getattr(font["OS/2"], "fsType", 0)) if "OS/2" in font else 0
    least = allowed & (VIEWED_ONLY | EDITED)
    if allowed & BITMAPS_ONLY or (allowed & MAY_NOT and not least):
        raise FormatError(
            f"{name} forbids being taken along in other files, as its licence bits say; it was not"
            " kept. Its maker may have one that allows it."
        )
    if least & VIEWED_ONLY and not least & EDITED:
        return ("Its licence bits allow showing and printing only; ask its maker before you pass"
                " the scene on.",)  # fmt: skip
    return ()


def _draw(data: bytes, name: str) -> None:
    """Draw all that a font can show once, so that no picture fails by it later."""
    face = harfbuzz.Face(harfbuzz.Blob(data))
    font = harfbuzz.Font(face)
    letters = sorted(face.unicodes)
    if not letters:
        raise FormatError(f"{name} has no letters; it was not kept.")
    pen = _Nowhere()
    for letter in letters:
        font.draw_glyph_with_pen(font.get_nominal_glyph(letter), pen)


class _Nowhere:
    """A pen that draws nothing."""

    def __getattr__(self, _: str) -> Any:
        return lambda *_: None


def _title(font: TTFont, name: str) -> str:
    """Return what a font calls itself."""
    table = font.get("name")
    said = [table.getDebugName(number) for number in (16, 1, 17, 2)] if table else [None] * 4
    family, style = said[0] or said[1] or name.rsplit(".", 1)[0], said[2] or said[3] or ""
    words = f"{family} {style}".strip() if style not in ("", "Regular") else family
    return "".join(letter for letter in words if letter.isprintable())[:80].strip() or "Font"
