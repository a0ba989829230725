"""Which way a rider goes where it rests, found for some frames without working out all others."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from coaster.geometry.bezier import Floats

Rows = NDArray[np.intp]
FIRST_LOOK, WIDER = 64, 8
"""How many rows are looked at to begin with, and how many times more each further look takes in."""


def filled(signs: Floats) -> Floats:
    """Replace zeros by the last sign before them, else the first after, else 1."""
    known = np.flatnonzero(signs)
    if not len(known):
        return np.ones_like(signs)
    before = np.searchsorted(known, np.arange(len(signs)), side="right") - 1
    found: Floats = signs[known[np.maximum(before, 0)]]
    return found


def filled_at(
    rows: Rows, signs: Floats, signs_at: Callable[[Rows], Floats], span: tuple[int, int]
) -> Floats:
    """Return ``filled`` at some rows alone, as it would be were all rows given.

    Shapes: ``rows`` (n,) ascending and their ``signs`` (n,); ``signs_at`` tells those of any rows,
            which are 0 before the first and after the last row of ``span``.
    """
    first, last = span
    found = signs.copy()
    for i in np.flatnonzero(signs == 0):
        begin = rows[i - 1] + 1 if i else first
        between = _last_moving(signs_at, max(begin, first), min(int(rows[i]), last + 1))
        found[i] = between or (found[i - 1] if i else 0.0)
    unmoved = int(np.argmax(found != 0)) if np.any(found) else len(found)
    if unmoved:
        after = int(rows[unmoved - 1]) + 1
        row = first_where(lambda r: signs_at(r) != 0, max(after, first), last + 1)
        found[:unmoved] = 1.0 if row is None else signs_at(np.array([row]))[0]
    return found


def _last_moving(signs_at: Callable[[Rows], Floats], begin: int, end: int) -> float:
    """Return the last sign at rows ``begin`` up to ``end`` that is not 0; 0 if there is none."""
    size = FIRST_LOOK
    while end > begin:
        start = max(begin, end - size)
        signs = signs_at(np.arange(start, end))
        moving = signs[signs != 0]
        if len(moving):
            return float(moving[-1])
        end, size = start, size * WIDER
    return 0.0


def first_where(holds: Callable[[Rows], NDArray[np.bool_]], begin: int, end: int) -> int | None:
    """Return the first of the rows ``begin`` up to ``end`` where something holds."""
    size = FIRST_LOOK
    while begin < end:
        stop = min(end, begin + size)
        found = np.flatnonzero(holds(np.arange(begin, stop)))
        if len(found):
            return begin + int(found[0])
        begin, size = stop, size * WIDER
    return None
