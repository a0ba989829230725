"""Fonts: those that ship, those that were brought in, and which of them has a letter."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path as File

import uharfbuzz as harfbuzz

from coaster.media.found import file_of
from coaster.scene.contents import FONTS

FOLDER = File(__file__).parent / "fonts"


@dataclass(frozen=True)
class Family:
    """The files of a family that ships, by the letters that are in them."""

    upright: tuple[str, ...]
    italic: tuple[str, ...] = ()


def _shipped(font: str) -> Family:
    stem = font.lower().replace(" ", "-")
    styles = (
        tuple(f"{stem}-{part}{style}.ttf" for part in ("latin", "latin-ext"))
        for style in ("", "-italic")
    )
    upright, italic = styles
    return Family(upright, italic if (FOLDER / italic[0]).exists() else ())


SHIPPED = {font: _shipped(font) for font in FONTS}
FALLBACKS = tuple(
    f"noto-sans-{script}.ttf"
    for script in (
        "latin-ext", "vietnamese", "greek", "cyrillic", "cyrillic-ext", "arabic", "hebrew",
        "devanagari", "thai", "georgian", "armenian", "math", "symbols",
    )
)  # fmt: skip
"""What letters are taken from that a family does not have."""
PLAIN = FONTS[-1]
"""What stands in for a font whose file is gone."""


def is_there(font: str) -> bool:
    """Whether a text's font ships, or was brought in and is still there."""
    return font in SHIPPED or file_of(font) is not None


@lru_cache(maxsize=64)
def _face(file: File) -> harfbuzz.Face:
    return harfbuzz.Face(harfbuzz.Blob.from_file_path(str(file)))


@lru_cache(maxsize=256)
def _sized(file: File, weight: int, italic: bool) -> harfbuzz.Font:
    face = _face(file)
    font = harfbuzz.Font(face)
    axes = axes_of(file)
    wanted: dict[str, float] = {"wght": weight}
    if italic and "ital" in axes:
        wanted["ital"] = 1.0
    elif italic and "slnt" in axes:
        wanted["slnt"] = axes["slnt"][0]
    font.set_variations({tag: value for tag, value in wanted.items() if tag in axes})
    return font


@lru_cache(maxsize=256)
def axes_of(file: File) -> Mapping[str, tuple[float, float, float]]:
    """Return a font's axes: the least, the usual and the largest value of each."""
    return {a.tag: (a.min_value, a.default_value, a.max_value) for a in _face(file).axis_infos}


def _files(font: str, italic: bool) -> tuple[File, ...]:
    family = SHIPPED.get(font)
    if family is None:
        there = file_of(font)
        return (there,) if there else _files(PLAIN, italic)
    return tuple(FOLDER / name for name in (italic and family.italic) or family.upright)


def _families(font: str, italic: bool) -> tuple[File, ...]:
    """Return the files of a font, and of the families that ship behind it."""
    names = dict.fromkeys((font, PLAIN, *SHIPPED))
    return tuple(dict.fromkeys(file for name in names for file in _files(name, italic)))


def names_of(font: str, *, italic: bool = False) -> list[str]:
    """Return the names of the files that letters are looked for in before the fallbacks."""
    return [file.name for file in _families(font, italic)]


def chain(font: str, weight: int, *, italic: bool = False) -> list[harfbuzz.Font]:
    """Return the fonts that letters are looked for in, the chosen one first."""
    files = (*_families(font, italic), *(FOLDER / name for name in FALLBACKS))
    return [_sized(file, weight, italic) for file in files]


def weights_of(font: str) -> tuple[int, int] | None:
    """Return the least and the largest weight a font has; None if it has but one."""
    axis = axes_of(_files(font, False)[0]).get("wght")
    return None if axis is None else (round(axis[0]), round(axis[2]))


def has_italic(font: str) -> bool:
    """Whether a font has italics: a style of its own, or an axis for it."""
    if font in SHIPPED:
        return bool(SHIPPED[font].italic)
    return bool({"ital", "slnt"} & axes_of(_files(font, False)[0]).keys())
