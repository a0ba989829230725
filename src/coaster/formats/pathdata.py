"""SVG path data: text to subpaths and back."""

import re
from collections.abc import Iterable, Iterator
from functools import lru_cache

import numpy as np

from coaster.errors import FormatError
from coaster.formats.quoting import escape, quoted
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
_TOKEN = re.compile(rf"[MmLlHhVvCcSsQqTtAaZz]|{_NUMBER.pattern}")
_ARCS = re.compile(r"[aA][^MmLlHhVvCcSsQqTtAaZz]*")
_ARC = re.compile(
    _SPACE.pattern.join(
        ["(" + _NUMBER.pattern + ")"] * 3 + ["([01])"] * 2 + ["(" + _NUMBER.pattern + ")"] * 2
    )
)
_EITHER = frozenset(_COUNTS) | {letter.lower() for letter in _COUNTS}
_BLANKS = " \t\n\r\f,"
LARGEST = 1e9
"""Numbers from here on are refused."""

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
        if not all(abs(v) < LARGEST for v in numbers):
            raise FormatError(
                f"The path data is broken at character {start + 1}: a number is too large."
            )
        yield letter, numbers, start


def _skip(text: str, at: int) -> int:
    match = _SPACE.match(text, at)
    return match.end() if match else at


def _quick(text: str) -> Iterator[tuple[str, list[float], int]] | None:
    """Yield what ``_commands`` does of path data without mistakes, and fast; None of others."""
    chunks = _chunks(_ARCS.sub(_parted, text))
    if not chunks or chunks[0][0] not in "mM":
        return None
    if not all(_whole(letter, numbers) for letter, numbers in chunks):
        return None
    return _groups(chunks)


def _whole(letter: str, numbers: list[float]) -> bool:
    """Whether there are as many numbers behind a letter as it needs, and none too large."""
    size, count = _COUNTS[letter.upper()], len(numbers)
    if not size or not count:
        return size == count
    if size == 7 and any(flag not in (0.0, 1.0) for k in (3, 4) for flag in numbers[k::7]):
        return False
    return count % size == 0 and max(numbers) < LARGEST and min(numbers) > -LARGEST


def _groups(chunks: "_Chunks") -> Iterator[tuple[str, list[float], int]]:
    for letter, numbers in chunks:
        size = _COUNTS[letter.upper()]
        yield letter, numbers[:size], 0
        later = {"M": "L", "m": "l"}.get(letter, letter)
        for i in range(size, len(numbers), size or 1):
            yield later, numbers[i : i + size], 0


_Chunks = list[tuple[str, list[float]]]
"""Letters and all the numbers behind each."""


def _chunks(text: str) -> _Chunks | None:
    """Return the chunks of path data, or None where there is anything else in it."""
    tokens = _TOKEN.findall(text)
    if sum(map(len, tokens)) + sum(map(text.count, _BLANKS)) != len(text):
        return None
    starts = [i for i, token in enumerate(tokens) if token in _EITHER]
    if not starts or starts[0] != 0:
        return None
    ends = [*starts[1:], len(tokens)]
    return [
        (tokens[i], list(map(float, tokens[i + 1 : end])))
        for i, end in zip(starts, ends, strict=True)
    ]


def _parted(arc: re.Match[str]) -> str:
    """Return the arcs behind one letter with their flags parted: "a1 1 0 011 1" is good, too."""
    return _ARC.sub(lambda found: f" {' '.join(found.groups())} ", arc.group())


class _Pen:
    """Collects cubics command by command: points are complex numbers, four to a cubic."""

    def __init__(self, scale: float, tolerance: float) -> None:
        self.runs: list[Run] = []
        self.pieces: list[complex] = []
        self.start = self.at = 0j
        self.reflected: tuple[str, complex] = ("", 0j)
        self.tolerance = tolerance / max(scale, 1e-12)

    def finish(self, closed: bool = False) -> None:
        if closed and self.at != self.start:
            self.line(self.start)
        if self.pieces:
            cubics = np.array(self.pieces).view(float).reshape(-1, 4, 2)
            self.runs.append((cubics, closed))
        self.pieces, self.at = [], self.start if closed else self.at

    def line(self, to: complex) -> None:
        third = (to - self.at) / 3
        self.cubic(self.at + third, to - third, to)

    def cubic(self, out: complex, into: complex, to: complex) -> None:
        self.pieces += (self.at, out, into, to)
        self.at = to

    def quadratic(self, control: complex, to: complex) -> None:
        self.cubic(self.at + (control - self.at) * (2 / 3), to + (control - to) * (2 / 3), to)

    def arc(self, n: list[float], to: complex) -> None:
        radii, large, clockwise = (n[0], n[1]), n[3] == 1, n[4] == 1
        self.pieces += arcs.arc_between(
            self.at, radii, n[2], large, clockwise, to, tolerance=self.tolerance
        )
        self.at = to

    def take(self, letter: str, n: list[float]) -> None:
        base = self.at if letter.islower() else 0j
        kind = letter.upper()
        control: tuple[str, complex] = ("", self.at)
        if kind == "L":
            self.line(base + complex(*n))
        elif kind in "CSQT":
            control = self._curve(kind, base, n)
        elif kind in "HV":
            x = base.real + n[0] if kind == "H" else self.at.real
            self.line(complex(x, base.imag + n[0] if kind == "V" else self.at.imag))
        elif kind == "A":
            self.arc(n, base + complex(n[5], n[6]))
        else:
            self.finish(closed=kind == "Z")
            if kind == "M":
                self.start = self.at = base + complex(*n)
        self.reflected = control

    def _curve(self, kind: str, base: complex, n: list[float]) -> tuple[str, complex]:
        """Add a cubic or quadratic; return which, and the control that a next one goes on from."""
        to = base + complex(n[-2], n[-1])
        if kind in "CS":
            out = base + complex(n[0], n[1]) if kind == "C" else self._mirrored("C")
            into = base + complex(n[-4], n[-3])
            self.cubic(out, into, to)
            return "C", into
        bend = base + complex(n[0], n[1]) if kind == "Q" else self._mirrored("Q")
        self.quadratic(bend, to)
        return "Q", bend

    def _mirrored(self, kind: str) -> complex:
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
    found, error = runs_so_far(text, matrix=matrix, tolerance=tolerance)
    if error is not None:
        raise error
    return found


def runs_so_far(
    text: str, *, matrix: Matrix = IDENTITY, tolerance: float = SAMPLING_TOLERANCE
) -> tuple[list[Run], FormatError | None]:
    """Return what ``runs`` does, of broken path data up to the first error, and that error.

    Source: SVG 2, section 9.5.4: a path is drawn up to, and without, the command that is broken.
    """
    pen, broken = _Pen(_scale(matrix), tolerance), None
    try:
        for number, (letter, numbers, position) in enumerate(_quick(text) or _commands(text)):
            if number == 0 and letter not in "mM":
                raise FormatError(
                    f"The path data is broken at character {position}: it must start with M or m."
                )
            pen.take(letter, numbers)
    except FormatError as error:
        broken = error
    pen.finish()
    return [(affine.apply(matrix, pieces), closed) for pieces, closed in pen.runs], broken


@lru_cache(maxsize=1024)
def _scale(matrix: Matrix) -> float:
    """Return the largest scale of a map: the paths of a group have one in common."""
    return float(affine.largest_scale(matrix))


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


def to_path_data(drawn: Iterable[Subpath], digits: int = 3, *, joined: bool = False) -> str:
    """Write subpaths as path data: M, L, C and Z, absolute, rounded to ``digits``; ``joined`` by
    straight lines, if wanted.
    """
    parts: list[str] = []
    for subpath in drawn:
        parts.append("L" if joined and parts else "M")
        parts.append(_pair(subpath.live[0].position, digits))
        pairs = subpath.pairs()
        # Joined, all are one run to SVG, and Z would lead to where the first one starts.
        closes = subpath.closed and not joined
        if closes and _is_line(*pairs[-1]):
            pairs.pop()
        parts += [_piece(a, b, digits) for a, b in pairs]
        parts += ["Z"] * closes
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
    stroke = quoted(path.colour or "#16222e")
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}" viewBox="0 0'
        f' {width} {height}">\n  <title>{escape(path.name)}</title>\n  <path id="{path.id}"'
        f' fill="none" stroke={stroke} stroke-width="2"'
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
