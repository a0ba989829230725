"""SVG path data: text to subpaths and back."""

import re
from collections.abc import Iterable, Iterator
from xml.sax.saxutils import escape  # writes only; nothing is parsed

import numpy as np

from coaster.errors import FormatError
from coaster.geometry import affine, arcs
from coaster.geometry.affine import IDENTITY, Matrix
from coaster.geometry.bezier import Floats
from coaster.geometry.path import Node, Path, Subpath, subpath_from_segments

SAMPLING_TOLERANCE = 2e-5
"""Arcs as cubics for measuring, px."""
EDITING_TOLERANCE = 0.05
"""Arcs as cubics for editing, px: a circle of up to 180 px radius keeps its four nodes."""

_COUNTS = {"M": 2, "L": 2, "H": 1, "V": 1, "C": 6, "S": 4, "Q": 4, "T": 2, "A": 7, "Z": 0}
_SPACE = re.compile(r"[\s,]*")
_NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
_FLAG = re.compile(r"[01]")

Run = tuple[Floats, bool]
"""Joined cubics (n, 4, 2) and whether they close."""


def _numbers(text: str, at: int, letter: str) -> tuple[list[float], int]:
    """Read the numbers of a command from a place on; return them, and the place after them."""
    numbers = []
    for index in range(_COUNTS[letter.upper()]):
        # The flags of an arc may stand without anything between: "a1 1 0 011 1".
        pattern = _FLAG if letter in "aA" and index in (3, 4) else _NUMBER
        match = pattern.match(text, at)
        if not match:
            found = repr(text[at : at + 12]) if at < len(text) else "its end"
            raise FormatError(
                f"The path data is broken at character {at + 1}: {letter} needs a number, and"
                f" there is {found}."
            )
        numbers.append(float(match.group()))
        at = _skip(text, match.end())
    return numbers, at


def _commands(text: str) -> Iterator[tuple[str, list[float], int]]:
    """Yield (letter, numbers, character position); repeated groups repeat their letter."""
    at, letter = _skip(text, 0), ""
    while at < len(text):
        if text[at].upper() in _COUNTS and text[at].isalpha():
            letter, at = text[at], _skip(text, at + 1)
        elif not letter or letter in "zZ":
            raise FormatError(
                f"The path data is broken at character {at + 1}: {text[at : at + 12]!r} is not a"
                " command."
            )
        else:
            # After the first pair of a move further pairs are lines, as the standard says.
            letter = {"M": "L", "m": "l"}.get(letter, letter)
        start = at
        numbers, at = _numbers(text, at, letter)
        if not all(abs(v) < 1e9 for v in numbers):
            raise FormatError(
                f"The path data is broken at character {start + 1}: a number is too large."
            )
        yield letter, numbers, start


def _skip(text: str, at: int) -> int:
    match = _SPACE.match(text, at)
    return match.end() if match else at


class _Pen:
    """Collects cubics command by command; one method a kind of command."""

    def __init__(self, scale: float, tolerance: float) -> None:
        self.runs: list[Run] = []
        self.pieces: list[Floats] = []
        self.start = self.at = np.zeros(2)
        self.reflected: tuple[str, Floats] = ("", np.zeros(2))
        self.tolerance = tolerance / max(scale, 1e-12)

    def finish(self, closed: bool = False) -> None:
        if closed and (self.at != self.start).any():
            self.line(self.start)
        if self.pieces:
            self.runs.append((np.concatenate(self.pieces), closed))
        self.pieces, self.at = [], self.start if closed else self.at

    def move(self, to: Floats) -> None:
        self.finish()
        self.start = self.at = to

    def line(self, to: Floats) -> None:
        third = (to - self.at) / 3
        self.cubic(self.at + third, to - third, to)

    def cubic(self, out: Floats, into: Floats, to: Floats) -> None:
        self.pieces.append(np.stack([self.at, out, into, to])[None])
        self.at = to

    def quadratic(self, control: Floats, to: Floats) -> None:
        self.cubic(self.at + (control - self.at) * (2 / 3), to + (control - to) * (2 / 3), to)

    def arc(self, n: list[float], to: Floats) -> None:
        start, end = (float(self.at[0]), float(self.at[1])), (float(to[0]), float(to[1]))
        radii, large, clockwise = (n[0], n[1]), n[3] == 1, n[4] == 1
        curves = arcs.arc_between(
            start, radii, n[2], large, clockwise, end, tolerance=self.tolerance
        )
        if len(curves):
            self.pieces.append(curves)
        self.at = to

    def take(self, letter: str, n: list[float]) -> None:
        base = self.at if letter.islower() else np.zeros(2)
        kind = letter.upper()
        pairs = [base + n[i : i + 2] for i in range(0, len(n) - 1, 2)]
        control: tuple[str, Floats] = ("", self.at)
        if kind == "M":
            self.move(pairs[0])
        elif kind == "Z":
            self.finish(closed=True)
        elif kind in "LHV":
            x = base[0] + n[0] if kind != "V" else self.at[0]
            y = base[1] + n[-1] if kind != "H" else self.at[1]
            self.line(np.array([x, y]))
        elif kind in "CS":
            out, into, to = pairs if kind == "C" else (self._mirrored("C"), *pairs)
            control = ("C", into)
            self.cubic(out, into, to)
        elif kind in "QT":
            bend, to = pairs if kind == "Q" else (self._mirrored("Q"), pairs[0])
            control = ("Q", bend)
            self.quadratic(bend, to)
        else:
            self.arc(n, base + n[5:7])
        self.reflected = control

    def _mirrored(self, kind: str) -> Floats:
        """Return the control that goes straight on from the one before, if that was of a kind."""
        before, control = self.reflected
        return 2 * self.at - control if before == kind else self.at


def runs(
    text: str, *, matrix: Matrix = IDENTITY, tolerance: float = SAMPLING_TOLERANCE
) -> list[Run]:
    """Read path data into joined cubics, mapped by ``matrix``.

    Accuracy:   lines, quadratics and cubics exactly; arcs within ``tolerance`` (px, after mapping).
    Degenerate: a subpath of a lone point is left out; one closed by ``Z`` away from its start
                gets the straight line home.
    Errors:     FormatError with the character position of the first error.
    Source:     SVG 2, section 9.3.
    """
    pen = _Pen(float(affine.largest_scale(matrix)), tolerance)
    for number, (letter, numbers, position) in enumerate(_commands(text)):
        if number == 0 and letter not in "mM":
            raise FormatError(
                f"The path data is broken at character {position}: it must start with M or m."
            )
        pen.take(letter, numbers)
    pen.finish()
    return [(affine.apply(matrix, pieces), closed) for pieces, closed in pen.runs]


def subpaths(drawn: Iterable[Run]) -> tuple[Subpath, ...]:
    """Turn runs into subpaths with nodes numbered n1, n2, ... over all of them.

    Errors: GeometryError: coordinates out of range.
    """
    found: list[Subpath] = []
    count = 1
    for pieces, closed in drawn:
        found.append(subpath_from_segments(pieces, closed=closed, first=count))
        count += len(found[-1].nodes)
    return tuple(found)


def to_path_data(drawn: Iterable[Subpath], digits: int = 3) -> str:
    """Write subpaths as path data: M, L, C and Z, absolute, rounded to ``digits``."""
    parts: list[str] = []
    for subpath in drawn:
        parts.append("M" + _pair(subpath.live[0].position, digits))
        pairs = subpath.pairs()
        if subpath.closed and _is_line(*pairs[-1]):
            pairs.pop()
        parts += [_piece(a, b, digits) for a, b in pairs]
        if subpath.closed:
            parts.append("Z")
    return "".join(parts)


def quick_path_data(drawn: Iterable[Subpath]) -> str:
    """Write what ``to_path_data`` writes, to thousandths of a px with all their zeros, and fast."""
    shape, numbers = list[str](), list[float]()
    for subpath in drawn:
        shape.append("M%.3f %.3f")
        numbers += subpath.live[0].position
        for a, b in subpath.pairs():
            if _is_line(a, b):
                shape.append("L%.3f %.3f")
            else:
                shape.append("C%.3f %.3f %.3f %.3f %.3f %.3f")
                (ax, ay), (bx, by) = a.position, b.position
                (ox, oy), (ix, iy) = a.handle_out, b.handle_in
                numbers += (ax + ox, ay + oy, bx + ix, by + iy)
            numbers += b.position
        shape.append("Z" * subpath.closed)
    return "".join(shape) % tuple(numbers)


def to_svg(path: Path, width: int, height: int) -> str:
    """Write a path as an SVG file of the frame's size, so that its px are the scene's."""
    stroke = escape(path.colour or "#16222e", {'"': "&quot;"})
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}" viewBox="0 0'
        f' {width} {height}">\n  <title>{escape(path.name)}</title>\n  <path id="{path.id}"'
        f' fill="none" stroke="{stroke}" stroke-width="2"'
        f' d="{to_path_data(path.subpaths)}"/>\n</svg>\n'
    )


def _is_line(a: Node, b: Node) -> bool:
    return a.handle_out == (0.0, 0.0) and b.handle_in == (0.0, 0.0)


def _piece(a: Node, b: Node, digits: int) -> str:
    if _is_line(a, b):
        return "L" + _pair(b.position, digits)
    out = (a.position[0] + a.handle_out[0], a.position[1] + a.handle_out[1])
    into = (b.position[0] + b.handle_in[0], b.position[1] + b.handle_in[1])
    return "C" + " ".join(_pair(p, digits) for p in (out, into, b.position))


def _pair(point: tuple[float, float], digits: int) -> str:
    return " ".join(number(v, digits) for v in point)


def number(value: float, digits: int = 3) -> str:
    """Write a number as short as ``digits`` decimals allow, without exponent or minus zero."""
    text = f"{value:.{digits}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text
