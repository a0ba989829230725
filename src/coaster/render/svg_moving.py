"""The program as one SVG that moves by itself, by the animation elements of SVG (SMIL).

Each frame is written with the same elements as every other one. What differs between them are
attributes, and each that does becomes an animation: of numbers with as few keys as keep it within a
tolerance at every frame, of anything else in steps.
"""

import itertools
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Protocol
from xml.etree.ElementTree import Element

import numpy as np
from defusedxml import ElementTree

from coaster.errors import EditRefused
from coaster.formats.pathdata import number
from coaster.formats.quoting import quoted
from coaster.geometry import affine
from coaster.geometry.bezier import Floats
from coaster.motion.thinning import bends
from coaster.render import svg
from coaster.render.display import Program
from coaster.render.svg import SHOWN, Href
from coaster.render.svg_masks import DIGITS

PLACE_PX, TURN_DEG, SIZE, OTHER = 0.02, 0.01, 1e-4, 0.005
"""How far a value may be from what it is in a frame: of a translation, of a rotation or a shear, of
a scale, of any other number.
"""
LEVEL = 0.5
"""The same of a colour, in levels of 255."""
JUMP = 8.0
"""A step so many times as large as those before and after it is a jump: nothing lies between."""
UNSAID = {"opacity": "1", "fill-opacity": "1", "stroke-opacity": "1", "stop-opacity": "1",
          "stroke-width": "0", "stroke-dashoffset": "0"}  # fmt: skip
"""What an attribute is where it is not written; others are what they are elsewhere: a stroke of no
width may have its colour, and a colour that is none cannot be told by steps.
"""
WORDS = {"href", "id", "display"}
"""Attributes that are words, whatever numbers are in them."""
NUMBER = re.compile(r"-?(?:\d+\.?\d*|\.\d+)")
COLOUR = re.compile(r"#[0-9a-f]{6}", re.IGNORECASE)
REFERENCE = re.compile(r"url\(#([^)]*)\)")
SVG = "{http://www.w3.org/2000/svg}"
Values = list[str]


class Pictures(Protocol):
    """Where pictures are in the file."""

    def href(self, name: str, index: int) -> str:
        """Return what refers to one, 1 px wide and high."""

    def defined(self) -> str:
        """Return the elements that define all that were asked for."""


class _OtherPartsError(Exception):
    """A frame is made of other elements than those before."""


@dataclass
class _Element:
    """An element, its id, what is in it, and its attributes: from which frames on they are what; of
    several looks also which is seen.
    """

    tag: str
    name: str
    inside: list["_Element"]
    attributes: dict[str, list[tuple[int, str]]] = field(default_factory=dict)
    seen: int = 0

    def fold(self, row: int, node: Element, known: dict[str, str]) -> None:
        """Take in what it and all in it are in a frame; ``known`` are the ids of what is before.

        Errors: _OtherPartsError.
        """
        said = dict(node.attrib)
        if "id" in said:
            # Whatever refers to something stands behind it: of two of one name the last is meant.
            known[said["id"]] = said["id"] = self.name
        inside = self._looks(row, int(said.pop(SHOWN))) if SHOWN in said else self.inside
        refers = {name: value for name, value in said.items() if "url(#" in value}
        for name, value in refers.items():
            said[name] = REFERENCE.sub(lambda found: f"url(#{known[found[1]]})", value)
        self._say(row, said)
        if [each.tag for each in inside] != [child.tag.removeprefix(SVG) for child in node]:
            raise _OtherPartsError
        for each, child in zip(inside, node, strict=True):
            each.fold(row, child, known)

    def _looks(self, row: int, seen: int) -> list["_Element"]:
        """Return what is written of the looks in it: all in the first frame, then the one seen."""
        before, self.seen = self.seen, seen
        if row == 0:
            return self.inside
        if before != seen:
            self.inside[before]._say(row, {"display": "none"})
        return [self.inside[seen]]

    def _say(self, row: int, said: Mapping[str, str]) -> None:
        for name in (*said, *(name for name in self.attributes if name not in said)):
            runs = self.attributes.setdefault(name, [])
            value = said.get(name, UNSAID.get(name, runs[-1][1] if runs else said.get(name, "")))
            if not runs and row > 0:
                # It was not written before.
                runs.append((0, UNSAID.get(name, value)))
            if not runs or runs[-1][1] != value:
                runs.append((row, value))

    def values(self, name: str, count: int) -> Values:
        """Return an attribute in each of so many frames."""
        runs = self.attributes[name]
        ends = [*(begin for begin, _ in runs[1:]), count]
        return [value for (begin, value), end in zip(runs, ends, strict=True)
                for _ in range(begin, end)]  # fmt: skip


def file(
    program: Program,
    rows: Sequence[int],
    fps: float,
    pictures: Pictures,
    scale: float = 1.0,
    name: str = "part",
) -> str:
    """Return an SVG file that shows these frames one after the other for ever, ``fps`` a second;
    the last one is where the first follows. Its parts have ids that begin with a ``name``.

    Accuracy: at every frame places within 0.02 px, turns 0.01°, sizes 1e-4, colours one level.
    Errors: EditRefused: something changes in a way that cannot be told.
    """
    root = _folded(program, rows, pictures.href, name)
    for side, length in (("width", program.width), ("height", program.height)):
        root.attributes[side] = [(0, number(length * scale, DIGITS))]
    root.attributes = {"xmlns": [(0, SVG.strip("{}"))]} | root.attributes
    clock = f'dur="{number(lasts(rows, fps), DIGITS)}s" repeatCount="indefinite"'
    opened, _, rest = "".join(_written(root, len(rows), clock)).partition(">")
    return f"{opened}><defs>{pictures.defined()}</defs>{rest}\n"


def lasts(rows: Sequence[int], fps: float) -> float:
    """Return how many seconds such a file goes on before it begins again."""
    return (len(rows) - 1) / fps


def _folded(program: Program, rows: Sequence[int], href: Href, name: str) -> _Element:
    """Return the elements that all frames have, with their attributes over time."""
    first = ElementTree.fromstring(svg.file(program, rows[0], href, alike=True))
    root = _begun(first, map(f"{name}-{{}}".format, itertools.count()))
    root.fold(0, first, {})
    for row, frame in enumerate(rows[1:], 1):
        text = svg.file(program, frame, href, alike=True, again=True)
        try:
            root.fold(row, ElementTree.fromstring(text), {})
        except _OtherPartsError:
            raise EditRefused(
                f"Frame {frame} is made of other parts than those before, as where a mask is grown"
                " and shrunk by turns; a file that moves by itself cannot hold that."
            ) from None
    return root


def _begun(node: Element, names: Iterator[str]) -> _Element:
    """Return an element of which nothing is said yet; ids are told by where they are."""
    name = next(names) if "id" in node.attrib else ""
    return _Element(node.tag.removeprefix(SVG), name, [_begun(child, names) for child in node])


def _written(element: _Element, count: int, clock: str) -> Iterator[str]:
    still, moving = [], []
    tag, attributes = element.tag, element.attributes
    if tag == "image":
        # It is in the file once, however many show it.
        tag = "use"
        left, top, width, height = (attributes[n][0][1] for n in ("x", "y", "width", "height"))
        where = f"translate({left} {top}) scale({width} {height})"
        attributes = {"href": attributes["href"][:1], "transform": [(0, where)]}
    for name, runs in attributes.items():
        if len(runs) > 1:
            moving += _animated(name, element.values(name, count), clock)
        if name != "transform" or len(runs) == 1:
            still.append(f" {name}={quoted(runs[0][1])}")
    yield f"<{tag}{''.join(still)}>{''.join(moving)}"
    for each in element.inside:
        yield from _written(each, count, clock)
    yield f"</{tag}>"


def _animated(name: str, values: Values, clock: str) -> list[str]:
    if name == "transform":
        return list(_transforms(values, clock))
    numbers = None if name in WORDS else _numbers(values)
    if numbers is None:
        return [_stepped(name, values, clock)]
    skeleton, column = numbers
    is_colour = skeleton is None
    keys = kept(column, LEVEL if is_colour else PLACE_PX if name == "d" else OTHER)
    told = [_hex(value) if is_colour else _filled(skeleton or [], value) for _, value in keys]
    return [_animation("animate", f'attributeName="{name}"', keys, told, len(column), clock)]


def _numbers(values: Values) -> tuple[list[str] | None, Floats] | None:
    """Return what stands between the numbers of values, and these, (n, k); of colours no text, and
    red, green and blue. None where not all are alike.
    """
    if all(COLOUR.fullmatch(value) for value in values):
        return None, np.array([[int(v[i : i + 2], 16) for i in (1, 3, 5)] for v in values], float)
    skeleton = NUMBER.split(values[0])
    if any(NUMBER.split(value) != skeleton for value in values) or len(skeleton) == 1:
        return None
    return skeleton, np.array([NUMBER.findall(value) for value in values], dtype=float)


def _hex(colour: Floats) -> str:
    return "#" + "".join(f"{round(level):02x}" for level in colour.clip(0, 255))


def _filled(skeleton: list[str], values: Floats) -> str:
    between = [part + number(value, DIGITS) for part, value in zip(skeleton, values, strict=False)]
    return "".join(between) + skeleton[-1]


def _transforms(values: Values, clock: str) -> Iterator[str]:
    """Yield a translation, a turn, a shear and a scale, which together are a matrix."""
    rows = np.array([NUMBER.findall(value) for value in values], dtype=float)
    told = affine.to_parts_each(rows)
    turn = np.unwrap(told[:, :1], axis=0, period=360.0)
    parts = (
        ("translate", rows[:, 4:6], PLACE_PX, (0.0, 0.0)),
        ("rotate", turn, TURN_DEG, (0.0,)),
        ("skewX", -told[:, 1:2], TURN_DEG, (0.0,)),
        ("scale", told[:, 2:], SIZE, (1.0, 1.0)),
    )
    first = True
    for kind, column, tolerance, neutral in parts:
        if np.allclose(column, neutral, atol=1e-6) and not (first and kind == "translate"):
            continue
        keys = kept(column, tolerance)
        said = [" ".join(number(float(v), DIGITS) for v in value) for _, value in keys]
        how = f'attributeName="transform" type="{kind}"'
        if not first:
            how += ' additive="sum"'
        yield _animation("animateTransform", how, keys, said, len(column), clock)
        first = False


def kept(column: Floats, tolerance: float) -> list[tuple[int, Floats]]:
    """Return the rows of a column (n, k) that are kept, so that all others lie within ``tolerance``
    of the line between those; a jump is kept as two values of one row.
    """
    steps = np.abs(np.diff(column, axis=0)).max(axis=1)
    padded = np.concatenate([[0.0], steps, [0.0]])
    beside = np.maximum(padded[:-2], padded[2:])
    jumps = np.flatnonzero((steps > JUMP * beside) & (steps > 10 * tolerance))
    keys: list[tuple[int, Floats]] = []
    begin = 0
    for at in (*jumps.tolist(), len(column) - 1):
        piece = slice(begin, at + 1)
        rows = bends(np.arange(begin, at + 1.0), column[piece], tolerance)
        keys += [(begin + row, column[begin + row]) for row in rows]
        if at < len(column) - 1:
            # What was there stays until the next frame begins.
            keys.append((at + 1, column[at]))
        begin = at + 1
    return keys


def _animation(
    tag: str, how: str, keys: list[tuple[int, Floats]], told: Values, count: int, clock: str
) -> str:
    times = ";".join(number(row / (count - 1), DIGITS) for row, _ in keys)
    return f'<{tag} {how} values="{";".join(told)}" keyTimes="{times}" {clock}/>'


def _stepped(name: str, values: Values, clock: str) -> str:
    """Return an animation of something between which there is nothing."""
    begins = [0, *(i for i in range(1, len(values) - 1) if values[i] != values[i - 1])]
    told = ";".join(values[begin] for begin in begins)
    times = ";".join(number(begin / (len(values) - 1), DIGITS) for begin in begins)
    return (
        f'<animate attributeName="{name}" calcMode="discrete" values={quoted(told)}'
        f' keyTimes="{times}" {clock}/>'
    )
