"""Figures as paths: ellipse, rectangle, polygon, star, spiral and wave, each in a box."""

import math
from dataclasses import replace
from itertools import chain, repeat
from typing import Literal, get_args

from coaster.errors import GeometryError
from coaster.geometry.path import FURTHEST, Node, Subpath, Vec2, node_kind

Figure = Literal["ellipse", "rectangle", "polygon", "star", "spiral", "wave"]
FIGURES: tuple[Figure, ...] = get_args(Figure)
QUARTER = 0.551915
"""Handle of a quarter of the unit circle; the radius is right within 2e-4."""
CREST = 0.364212
"""Handle from crest to trough of a sine, as a share of the way between; within 1 % of its height.
"""
RISE = (0.512287, 0.568483)
"""Handles of a sine from 0 to its crest, in radians."""


def figure(
    kind: Figure,
    left: float,
    top: float,
    width: float,
    height: float,
    *,
    radius: float = 0.0,
    points: int = 5,
    inner: float = 0.5,
    turns: float = 3.0,
) -> Subpath:
    """Return a figure that fills a box, its first node at the top or the left, clockwise.

    Units:  px. ``radius`` rounds a rectangle; ``points`` are a polygon's or star's corners and a
            wave's crests; ``inner`` is a star's or spiral's inner radius as a share; ``turns``
            are a spiral's.
    Errors: GeometryError: the box has no size, or lies further out than paths may.
    """
    _check_box(left, top, width, height, may_be_flat=kind == "wave")
    cx, cy, rx, ry = left + width / 2, top + height / 2, width / 2, height / 2
    if kind == "rectangle":
        return _rectangle(left, top, width, height, min(max(radius, 0.0), rx, ry))
    if kind == "wave":
        return _wave(left, cy, width, ry, points)
    if kind == "spiral":
        return _spiral(cx, cy, rx, ry, turns, inner)
    if kind == "ellipse":
        return _ellipse(cx, cy, rx, ry)
    if kind == "star":
        return _corners(cx, cy, rx, ry, [1.0, inner] * points)
    return _corners(cx, cy, rx, ry, [1.0] * points)


def _check_box(left: float, top: float, width: float, height: float, *, may_be_flat: bool) -> None:
    known = all(map(math.isfinite, (left, top, width, height)))
    if not known or width <= 0 or (height <= 0 and not may_be_flat):
        raise GeometryError("A figure needs a width and a height; drag it larger.")
    if max(abs(left), abs(top), abs(left + width), abs(top + height)) > FURTHEST:
        raise GeometryError(f"The figure lies further out than {FURTHEST:,.0f} px.")


def _ellipse(cx: float, cy: float, rx: float, ry: float) -> Subpath:
    made = []
    for x, y, dx, dy in ((0, -1, 1, 0), (1, 0, 0, 1), (0, 1, -1, 0), (-1, 0, 0, -1)):
        made.append(((cx + x * rx, cy + y * ry), (dx * rx * QUARTER, dy * ry * QUARTER)))
    return _nodes(made, True)


def _corners(cx: float, cy: float, rx: float, ry: float, shares: list[float]) -> Subpath:
    """Return corners at equal angles from the top on, each so far out as a share of the radius."""
    made = []
    for i, share in enumerate(shares):
        angle = 2 * math.pi * i / len(shares) - math.pi / 2
        place = cx + share * rx * math.cos(angle), cy + share * ry * math.sin(angle)
        made.append((place, (0.0, 0.0)))
    return _nodes(made, True)


def _nodes(made: list[tuple[Vec2, Vec2]], closed: bool) -> Subpath:
    """Make nodes from positions and out-handles, the in-handle being its mirror image."""
    nodes = []
    for i, (position, (dx, dy)) in enumerate(made):
        into = (-dx if dx else 0.0, -dy if dy else 0.0)
        nodes.append(Node(f"n{i + 1}", position, into, (dx, dy), "even" if dx or dy else "corner"))
    if not closed:
        nodes[0] = Node("n1", nodes[0].position, (0.0, 0.0), nodes[0].handle_out)
        nodes[-1] = Node(nodes[-1].id, nodes[-1].position, nodes[-1].handle_in)
    return Subpath(tuple(nodes), closed)


def _rectangle(left: float, top: float, width: float, height: float, r: float) -> Subpath:
    right, bottom = left + width, top + height
    corners = [(left, top), (right, top), (right, bottom), (left, bottom)]
    if r <= 0:
        return _nodes([(corner, (0.0, 0.0)) for corner in corners], True)
    ways = [(1, 0), (0, 1), (-1, 0), (0, -1)]
    ends = chain.from_iterable(map(_rounded, corners, ways, repeat(r)))
    made = (Node(f"n{i}", *end, node_kind(*end[1:])) for i, end in enumerate(ends, 1))
    return Subpath(tuple(made), True)


def _rounded(corner: Vec2, way: Vec2, r: float) -> tuple[tuple[Vec2, Vec2, Vec2], ...]:
    """Return position, in- and out-handle of both ends of a rounded corner of a rectangle that
    is left along ``way``, and so was come to along that turned back by a quarter.
    """
    (x, y), (dx, dy), k = corner, way, r * QUARTER
    came_x, came_y = dy, -dx
    return (
        ((x - came_x * r, y - came_y * r), (0.0, 0.0), (came_x * k, came_y * k)),
        ((x + dx * r, y + dy * r), (-dx * k, -dy * k), (0.0, 0.0)),
    )


def _wave(left: float, middle: float, width: float, height: float, crests: int) -> Subpath:
    step = width / (2 * crests)  # from crest to trough
    quarter = step / 2
    rise = 2 * quarter / math.pi
    climbing = (RISE[0] * rise, -RISE[0] * height)
    nodes: list[tuple[Vec2, Vec2]] = [((left, middle), climbing)]
    for i in range(2 * crests):
        y = middle - height if i % 2 == 0 else middle + height
        nodes.append(((left + quarter + i * step, y), (CREST * step, 0.0)))
    nodes.append(((left + width, middle), climbing))
    first, crest, *between, trough, last = _nodes(nodes, False).nodes
    # Towards the ends, which are only a quarter of a wave away, handles are longer.
    crest = replace(crest, handle_in=(-RISE[1] * rise, 0.0), kind="smooth")
    trough = replace(trough, handle_out=(RISE[1] * rise, 0.0), kind="smooth")
    return Subpath((first, crest, *between, trough, last))


def _spiral(cx: float, cy: float, rx: float, ry: float, turns: float, inner: float) -> Subpath:
    """Archimedes' spiral, from the inside out, a node every eighth of a turn."""
    count = max(2, math.ceil(turns * 8))
    step = 2 * math.pi * turns / count
    growth = (1 - inner) / (2 * math.pi * turns)
    nodes: list[tuple[Vec2, Vec2]] = []
    for i in range(count + 1):
        (x, y), (dx, dy) = _on_spiral(i * step, inner, growth)
        nodes.append(((cx + rx * x, cy + ry * y), (dx * rx * step / 3, dy * ry * step / 3)))
    return _nodes(nodes, False)


def _on_spiral(turned: float, inner: float, growth: float) -> tuple[Vec2, Vec2]:
    """Return the place on a spiral of radius 1 after so many radians, and its derivative there."""
    angle, r = turned - math.pi / 2, inner + growth * turned
    cos, sin = math.cos(angle), math.sin(angle)
    return (r * cos, r * sin), (growth * cos - r * sin, growth * sin + r * cos)
