"""What applies to an element of a drawing: its attributes, its style, and the drawing's style
sheets.
"""

import math
import re
from xml.etree.ElementTree import Element

from coaster.errors import FormatError
from coaster.formats.safe_svg import tag_of, walk
from coaster.geometry import affine
from coaster.geometry.affine import IDENTITY, Matrix

VALUE = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
MOST_QUOTED = 60
_FUNCTION = re.compile(r"\s*,?\s*([a-zA-Z][a-zA-Z0-9]*)\s*\(([^()]*)\)")
_TOLD = re.compile(rf"({VALUE.pattern})([a-z%]*)", re.I)
UNITS: dict[str, float] = {
    "": 1, "px": 1, "in": 96, "cm": 96 / 2.54, "mm": 96 / 25.4, "q": 96 / 101.6, "pt": 96 / 72,
    "pc": 16, "em": 16, "rem": 16, "ex": 8, "%": 0,
}  # fmt: skip
TURNS = {"": 1.0, "deg": 1.0, "grad": 0.9, "rad": 180 / math.pi, "turn": 360.0}
"""Degrees in the units of angles."""
_KEYWORDS = {"left": "0%", "top": "0%", "center": "50%", "right": "100%", "bottom": "100%"}

Size = tuple[float, float]


class Styles:
    """The properties of a drawing's elements, by the cascade: attributes, style sheets, styles.

    Source: CSS Cascading and Inheritance 4, section 6; presentation attributes come before all
            sheets (SVG 2, section 6.6). What is in at-rules is not applied.
    """

    def __init__(self, root: Element) -> None:
        self._told: dict[Element, dict[str, str]] = {}
        sheet = "\n".join(e.text or "" for e, _ in walk(root) if tag_of(e) == "style")
        if sheet.strip():
            # What reads CSS is more than all that reads a drawing that has none.
            from coaster.formats.style_sheets import told_by

            self._told = told_by(sheet, root)

    def of(self, element: Element, name: str) -> str | None:
        """Return a property of an element, what it inherits left out."""
        own = element.get("style")
        told = self._told.get(element, {})
        if own and name in own:
            from coaster.formats.style_sheets import declared

            plain, important = declared(own)
            if name in important:
                return important[name]
            if name in plain and f"!{name}" not in told:
                return plain[name]
        return told.get(f"!{name}") or told.get(name) or element.get(name)


def length(text: str | None, relative: float, default: float = 0.0) -> float:
    """Return a CSS length in px (96 to the inch); percentages are of ``relative``."""
    if text is None or text.strip() in ("", "auto"):
        return default
    match = _TOLD.fullmatch(text.strip())
    if not match or match.group(2).lower() not in UNITS:
        raise FormatError(f"{shortened(text)!r} is no length.")
    unit = match.group(2).lower()
    return float(match.group(1)) * (relative / 100 if unit == "%" else UNITS[unit])


def transform(text: str | None, box: Size = (0.0, 0.0)) -> Matrix:
    """Read a ``transform`` attribute or property; percentages are of ``box``.

    Errors: FormatError: an unknown function, unit, or a wrong count of numbers.
    Source: CSS Transforms 1, sections 7 and 8.
    """
    told, at, maps = (text or "").strip(), 0, []
    if told == "none":
        return IDENTITY
    while at < len(told):
        # Where the one before ended, and not on what is left: that would be copied each time.
        match = _FUNCTION.match(told, at)
        numbers = _TOLD.findall(match.group(2)) if match else []
        if not match or _TOLD.sub("", match.group(2)).strip(" \t\r\n,"):
            raise FormatError(f"The transform {shortened(told)!r} cannot be read.")
        maps.append(_function(match.group(1).lower(), numbers, box, told))
        at = match.end()
    return affine.product(*maps)


_COUNTS = {
    "matrix": (6,), "translate": (1, 2), "translatex": (1,), "translatey": (1,), "scale": (1, 2),
    "scalex": (1,), "scaley": (1,), "rotate": (1, 3), "skew": (1, 2), "skewx": (1,), "skewy": (1,),
}  # fmt: skip
"""How many numbers the functions of a transform take."""


def _function(name: str, told: list[tuple[str, str]], box: Size, text: str) -> Matrix:
    if name not in _COUNTS:
        raise FormatError(
            f"The transform {shortened(text)!r} has {name}(), which is none of a flat drawing."
        )
    if len(told) not in _COUNTS[name]:
        raise FormatError(f"The transform {shortened(text)!r} has {len(told)} numbers in {name}().")
    if name.startswith("translate"):
        return _translate(name, told, box)
    if name.startswith(("rotate", "skew")):
        return _turn(name, told, text)
    n = [float(value) / (100 if unit == "%" else 1) for value, unit in told]
    if name == "matrix":
        return (n[0], n[1], n[2], n[3], n[4], n[5])
    x, y = n[0], n[-1]
    return (1 if name == "scaley" else x, 0, 0, 1 if name == "scalex" else y, 0, 0)


def _translate(name: str, told: list[tuple[str, str]], box: Size) -> Matrix:
    parts = [value + unit for value, unit in told]
    if name == "translatey":
        parts.insert(0, "0")
    x = length(parts[0], box[0])
    return (1, 0, 0, 1, x, length(parts[1], box[1]) if len(parts) > 1 else 0.0)


def _turn(name: str, told: list[tuple[str, str]], text: str) -> Matrix:
    """Return what rotates, about a point if one is told, or leans."""
    angles = told[:1] if name == "rotate" else told
    if any(unit.lower() not in TURNS for _, unit in angles):
        raise FormatError(f"The transform {shortened(text)!r} has an angle in a unit that is none.")
    n = [math.radians(float(value) * TURNS[unit.lower()]) for value, unit in angles]
    if name == "rotate":
        x, y = (length("".join(part), 0.0) for part in told[1:] or (("0", ""), ("0", "")))
        cos, sin = math.cos(n[0]), math.sin(n[0])
        return affine.product(affine.moved(x, y), (cos, sin, -sin, cos, 0, 0), affine.moved(-x, -y))
    across = 0.0 if name == "skewy" else math.tan(n[0])
    down = math.tan(n[-1]) if name == "skewy" or (name == "skew" and len(n) == 2) else 0.0
    return (1, down, across, 1, 0, 0)


def origin(text: str | None, box: Size, usual: Size = (0.0, 0.0)) -> Size:
    """Return a ``transform-origin`` in px, with percentages and words of a ``box`` at 0, 0.

    Errors: FormatError: it cannot be read.
    """
    if text is None:
        return usual
    words = text.lower().split()
    if not 1 <= len(words) <= 3:
        raise FormatError(f"The transform-origin {shortened(text)!r} cannot be read.")
    if len(words) == 1:
        words.append("center")
    # Words may come in any order: "top left" is "left top".
    if words[0] in ("top", "bottom") or words[1] in ("left", "right"):
        words[:2] = words[1], words[0]
    if words[0] in ("top", "bottom"):
        words[:2] = "center", words[0]
    x, y = (_KEYWORDS.get(word, word) for word in words[:2])
    return length(x, box[0]), length(y, box[1])


def shortened(text: str) -> str:
    """Return as much of a text as a sentence can hold."""
    return text if len(text) <= MOST_QUOTED else f"{text[:MOST_QUOTED]}…"
