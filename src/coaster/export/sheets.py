"""A program in sheets, one upon the other, for pages: what is flat together, and each thing in
perspective by itself, drawn flat, with how it is seen.

A page lays these by CSS's three-dimensional transforms, which SVG has none of.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from coaster.formats.pathdata import number
from coaster.geometry import affine, maps
from coaster.geometry.bezier import Floats
from coaster.geometry.maps import Maps
from coaster.render.display import (
    Drawn,
    Item,
    Part,
    Pop,
    Program,
    Push,
    Sort,
    Sorted,
    corners_of,
    one_by_one,
)

Ints = NDArray[np.intp]
DIGITS = 9
"""Significant ones of a number that places are divided by."""


@dataclass(frozen=True)
class Sheet:
    """A program in px of its own, which lies under ``seen`` (n, 9) or (1, 9); None as it is. What
    has a higher ``order`` (n,) or (1,) lies upon the others.
    """

    program: Program
    seen: Maps | None = None
    order: Ints = field(default_factory=lambda: np.zeros(1, np.intp))

    def transforms(self, rows: Sequence[int]) -> list[str]:
        """Return how it is seen in these frames, in the words of CSS."""
        if self.seen is None:
            return []
        seen = self.seen[list(rows)] if len(self.seen) > 1 else self.seen
        return [_matrix3d(row) for row in seen]

    def orders(self, rows: Sequence[int]) -> list[tuple[int, int]]:
        """Return its order: from which of these frames on, and what."""
        order = self.order[list(rows)] if len(self.order) > 1 else self.order
        changes = [0, *(np.flatnonzero(np.diff(order)) + 1).tolist()]
        return [(at, int(order[at])) for at in changes]


def sheets_of(program: Program) -> list[Sheet]:
    """Return a program in sheets; sets that are sorted within others are so as in the first frame.

    What is drawn apart with others, blended or masked, stays in its sheet: nothing of it can be
    laid in perspective.
    """
    found: list[Sheet] = []
    base = 0
    for sets in _sets(one_by_one(program.steps)):
        laid = [_cut(program, steps) for steps, _ in sets]
        ranks = _ranks([far for _, far in sets])
        most = max(map(len, laid), default=0)
        for rank, each in zip(ranks, laid, strict=True):
            found += [replace(one, order=base + rank * most + i) for i, one in enumerate(each)]
        base += most * len(sets)
    if found and found[0].seen is None and len(found[0].order) == 1:
        first = found.pop(0)
        ground = replace(first, program=replace(first.program, background=program.background))
    else:
        ground = Sheet(replace(program, steps=()))
    return [ground, *found]


def _ranks(away: Sequence[Floats]) -> list[Ints]:
    """Return at which place from the back on each of some sets lies that are so far away: (n,) or
    (1,).
    """
    if len(away) < 2:
        return [np.zeros(1, np.intp) for _ in away]
    count = max(map(len, away))
    far = np.stack([np.broadcast_to(each, count) for each in away])
    order = np.argsort(-far, axis=0, kind="stable")
    return list(np.argsort(order, axis=0, kind="stable"))


def _cut(program: Program, steps: Sequence[Drawn]) -> list[Sheet]:
    found: list[Sheet] = []
    flat: list[Drawn] = []

    def close() -> None:
        if flat:
            found.append(Sheet(replace(program, background=None, steps=tuple(flat))))
            flat.clear()

    for whole in _wholes(iter(steps)):
        item = _alone(whole)
        if item is None:
            flat.extend(whole)
        else:
            close()
            found.append(_sheet(program, whole, item))
    close()
    return found


def held(program: Program) -> set[str]:
    """Return the names of what such sheets hold in perspective."""
    return {
        step.name
        for sheet in sheets_of(program)
        if sheet.seen is not None
        for step in sheet.program.steps
        if isinstance(step, Item)
    }


def _alone(steps: Sequence[Drawn]) -> Item | None:
    """Return the one thing in perspective that steps draw, plainly but for a tint."""
    first, *rest = steps
    if isinstance(first, Item) and not maps.is_flat(first.maps):
        return first
    if not isinstance(first, Push) or first.cover is not None or first.blend != "normal":
        return None
    item = rest[0]
    alone = len(rest) == 2 and isinstance(item, Item)
    return item if alone and isinstance(item, Item) and not maps.is_flat(item.maps) else None


def _sheet(program: Program, steps: Sequence[Drawn], item: Item) -> Sheet:
    corners = corners_of(item)
    (left, top), (right, bottom) = np.floor(corners.min(axis=0)), np.ceil(corners.max(axis=0))
    flat = replace(item, maps=affine.translation(-left, -top)[None])
    own = Program(
        max(int(right - left), 1),
        max(int(bottom - top), 1),
        program.length,
        None,
        tuple(flat if step is item else step for step in steps),
    )
    return Sheet(own, maps.compose(item.maps, affine.translation(left, top)[None]))


def _wholes(steps: Iterator[Drawn]) -> Iterator[list[Drawn]]:
    """Yield what is drawn by itself, and what is drawn apart from its push to its pop."""
    for step in steps:
        whole, depth = [step], int(isinstance(step, Push))
        while depth:
            whole.append(next(steps))
            depth += isinstance(whole[-1], Push) - isinstance(whole[-1], Pop)
        yield from _parted(whole)


def _parted(whole: list[Drawn]) -> Iterator[list[Drawn]]:
    """Yield what is drawn apart thing by thing, where nothing but a tint is laid over all."""
    opened, *inside = whole
    strong = isinstance(opened, Push) and (opened.opacity == 1).all() and not opened.soft
    plain = isinstance(opened, Push) and opened.cover is None and opened.blend == "normal"
    if not (strong and plain and all(isinstance(step, Item) for step in inside[:-1])):
        yield whole
        return
    for step in inside[:-1]:
        yield [opened, step, inside[-1]]


_Sets = list[tuple[list[Drawn], Floats]]


def _sets(steps: Iterator[Drawn]) -> Iterator[_Sets]:
    """Yield what follows each other, in one set, and what is sorted, in several that are so far
    away.
    """
    plain: list[Drawn] = []
    depth = 0
    for step in steps:
        if not isinstance(step, Sort) or depth:
            depth += isinstance(step, Push) - isinstance(step, Pop)
            plain.append(step)
            continue
        before, sets = _sorted(steps)
        plain += before
        yield [(plain, np.zeros(1))]
        plain = []
        yield sets
    yield [(plain, np.zeros(1))]


def _sorted(steps: Iterator[Drawn]) -> tuple[list[Drawn], _Sets]:
    """Return what is drawn before what is sorted, and that, up to its end."""
    before, ended = _until_end(steps)
    sets: _Sets = []
    while isinstance(ended, Part):
        far = ended.away
        inside, ended = _until_end(steps)
        sets.append((inside, far))
    return before, sets


def _until_end(steps: Iterator[Drawn]) -> tuple[list[Drawn], Drawn | None]:
    """Return steps up to the end of a set, in which what is sorted is so as in the first frame."""
    found: list[Drawn] = []
    for step in steps:
        if isinstance(step, Part | Sorted):
            return found, step
        if not isinstance(step, Sort):
            found.append(step)
            continue
        before, sets = _sorted(steps)
        sets.sort(key=lambda each: -float(each[1][0]))
        found += [*before, *(step for inside, _ in sets for step in inside)]
    return found, None


def _matrix3d(row: Floats) -> str:
    a, c, e, b, d, f, g, h, w = maps.full(row[None])[0].ravel()
    numbers = (a, b, 0, g, c, d, 0, h, 0, 0, 1, 0, e, f, 0, w)
    return f"matrix3d({','.join(number(float(each), DIGITS) for each in numbers)})"
