"""The one loop over px that is compiled: turned pictures, laid one on the other.

A px is blue, green, red and alpha, premultiplied, as the bytes of one number of 32 bits. In here
its four bytes lie in a number of 64 bits, 16 apart, so that all of them are multiplied at once.
"""

import math
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

Words = NDArray[np.uint32]
"""Px of a picture."""
Parted = NDArray[np.uint64]
"""Px whose bytes lie apart."""
BYTES = np.uint64(0x00FF00FF00FF00FF)
HALVES = np.uint64(0x0080008000800080)
LOW, HIGH = np.uint64(0x00FF00FF), np.uint64(0xFF00FF00)
FULL, LAST = np.uint64(256), np.uint64(255)
BYTE, SPREAD, TOP = np.uint64(8), np.uint64(24), np.uint64(48)
SHIFT, SHARE, ONCE = np.uint64(24), np.uint64(16), np.uint64(1)
PARTS = 1 << 24
"""Places in a picture are counted in so many parts of a px."""
EDGE = 1e-3
"""Px at the edge of a picture, where it is clear, that are left out: rounding leads no farther."""
NO_AREA, NO_STEP = 1e-12, 1e-9


def parted(words: Words) -> Parted:
    px = words.astype(np.uint64)
    return (px & LOW) | ((px & HIGH) << SPREAD)


def _compiled(function: Any) -> Any:
    """Compile at the first call, and keep that for other processes where there is room for it."""
    try:
        return njit(cache=True, nogil=True, error_model="numpy")(function)
    except RuntimeError:
        return njit(nogil=True, error_model="numpy")(function)


@_compiled
def _sampled(sheet, stride, x, y):  # type: ignore[no-untyped-def]
    """Return a px of a picture at a place between px, mixed of the four round it."""
    # Without a sign: else each number is asked whether it counts from the end.
    at = (y >> SHIFT) * stride + (x >> SHIFT)
    across, down = (x >> SHARE) & LAST, (y >> SHARE) & LAST
    both = (across * down) >> BYTE
    above = sheet[at] * (FULL - across - down + both) + sheet[at + ONCE] * (across - both)
    at += stride
    below = sheet[at] * (down - both) + sheet[at + ONCE] * both
    return ((above + below + HALVES) >> BYTE) & BYTES


@_compiled
def _fainter(px, strength):  # type: ignore[no-untyped-def]
    """Return a px ``strength`` of 256 times as strong."""
    return ((px * strength + HALVES) >> BYTE) & BYTES


@_compiled
def _laid(word, px):  # type: ignore[no-untyped-def]
    """Return a word with a px over it."""
    alpha, seen = px >> TOP, px
    # Most px of most pictures hide what is under them.
    if alpha != LAST:
        under = np.uint64(word)
        under = (under & LOW) | ((under & HIGH) << SPREAD)
        seen = px + _fainter(under, FULL - alpha - (alpha >> np.uint64(7)))
    return np.uint32((seen & LOW) | ((seen >> SPREAD) & HIGH))


@_compiled
def _within(first, back, size, low, high):  # type: ignore[no-untyped-def]
    """Return from where to where ``first + x / back`` lies in 0..size; it is never 0 / 0."""
    a, b = -first * back, (size - first) * back
    return max(low, math.ceil(min(a, b))), min(high, math.ceil(max(a, b)))


@_compiled
def _row(into, sheet, stride, start, step, back, corner, size, strength):  # type: ignore[no-untyped-def]
    """Draw one picture on one row of px; ``start`` is what lies at its first px, ``step`` how far
    the next one is, both in px of the picture, and ``back`` one by that.
    """
    low, high = _within(start[0] - EDGE, back[0], size[0], 0.0, float(len(into)))
    low, high = _within(start[1] - EDGE, back[1], size[1], low, high)
    left, right = int(low), int(high)
    across, down = int(step[0] * PARTS), int(step[1] * PARTS)
    x = int((start[0] + step[0] * left + corner[0]) * PARTS)
    y = int((start[1] + step[1] * left + corner[1]) * PARTS)
    for at in range(left, right):
        px = _sampled(sheet, stride, np.uint64(x), np.uint64(y))
        if px != 0:
            if strength < FULL:
                px = _fainter(px, strength)
            into[at] = _laid(into[at], px)
        x += across
        y += down


@_compiled
def _turned(step):  # type: ignore[no-untyped-def]
    """Return a step that is not quite none: so that there is one by it."""
    return step if abs(step) > NO_STEP else NO_STEP


@_compiled
def lay(into, sheet, cells, maps, strengths):  # type: ignore[no-untyped-def]
    """Lay pictures on ``into``, the first one in front, each under its map and so strongly.

    Shapes: ``into`` (h, w) words and ``sheet`` px that are parted; ``cells`` (k, 4) left, top,
            width and height in the sheet, their outermost px clear; ``maps`` (k, 6) from the px of
            a cell to those of ``into``; ``strengths`` (k,), 0..1.
    Accuracy: bilinear; within 2 of 255 of a picture, by the bytes that are rounded on the way.
    """
    stride, flat = np.uint64(sheet.shape[1]), sheet.reshape(-1)
    for k in range(len(maps) - 1, -1, -1):
        a, b, c, d, e, f = maps[k]
        area, strength = a * d - b * c, np.uint64(strengths[k] * 256.0 + 0.5)
        if abs(area) < NO_AREA or strength == 0:
            continue
        left, top, width, height = cells[k]
        high = abs(b * width) + abs(d * height)
        first = f + min(0.0, b * width) + min(0.0, d * height)
        step = _turned(d / area), _turned(-b / area)
        back = 1.0 / step[0], 1.0 / step[1]
        size = width - 1.0 - 2.0 * EDGE, height - 1.0 - 2.0 * EDGE
        for row in range(max(0, int(first)), min(len(into), int(first + high) + 2)):
            x, y = 0.5 - e, row + 0.5 - f
            # Px of pictures are told by their middles.
            start = (d * x - c * y) / area - 0.5, (a * y - b * x) / area - 0.5
            _row(into[row], flat, stride, start, step, back, (left, top), size, strength)
