"""Elliptical arcs as cubic Beziers, to a stated accuracy."""

import cmath
import math

import numpy as np

from coaster.geometry.bezier import Floats

Point = tuple[float, float]

FLATTEST = 1e-9
"""An ellipse whose one radius is this share of the other is a line."""


def _pieces(radius: float, sweep: float, tolerance: float) -> int:
    """Return how many equal cubics keep an arc within ``tolerance`` of its circle.

    Source: the radial error of the usual cubic over an angle h is 2/27 sin^6(h/4) / cos^2(h/4).
    """
    count = max(1, math.ceil(abs(sweep) / (math.pi / 2) - 1e-9))
    if radius * 2 / 27 > tolerance:
        # Without the cosine the error is less, so there are no fewer than this.
        widest = 4 * math.asin((tolerance * 27 / 2 / radius) ** (1 / 6))
        count = min(max(count, math.floor(abs(sweep) / widest)), 64 * count)
    for n in range(count, 64 * count):
        quarter = abs(sweep) / n / 4
        if radius * 2 / 27 * math.sin(quarter) ** 6 / math.cos(quarter) ** 2 <= tolerance:
            return n
    return 64 * count


def arc(
    centre: tuple[float, float],
    radii: tuple[float, float],
    start: float,
    sweep: float,
    *,
    tilt: float = 0.0,
    tolerance: float = 1e-4,
) -> Floats:
    """Return cubics (n, 4, 2) along an arc of an ellipse.

    Units:      angles in radians, clockwise from the ellipse's own +x axis; ``tolerance`` in px.
    Accuracy:   the distance to the true arc is at most ``tolerance``.
    Degenerate: a full turn keeps nodes at the quarter points.
    """
    points = _along(complex(*centre), radii, start, sweep, tilt, tolerance)
    return np.array(points).view(float).reshape(-1, 4, 2)


def _along(
    centre: complex, radii: Point, start: float, sweep: float, tilt: float, tolerance: float
) -> list[complex]:
    """Return the points of cubics along an arc, four to a cubic."""
    count = _pieces(max(radii), sweep, tolerance)
    if abs(abs(sweep) - 2 * math.pi) < 1e-9:
        count = 4 * math.ceil(count / 4)
    each = sweep / count
    reach, turn = 4 / 3 * math.tan(each / 4), cmath.rect(1.0, tilt)
    wide, high = turn * radii[0], turn * complex(0.0, radii[1])
    found: list[complex] = []
    # Few numbers each: a loop over them is quicker than arrays.
    for i in range(count + 1):
        cos, sin = math.cos(start + i * each), math.sin(start + i * each)
        on = centre + wide * cos + high * sin
        handle = reach * (high * cos - wide * sin)
        found += (on - handle, on, on, on + handle)
    return found[2:-2]


def arc_between(
    start: complex,
    radii: Point,
    tilt_deg: float,
    large: bool,
    clockwise: bool,
    end: complex,
    *,
    tolerance: float = 1e-4,
) -> list[complex]:
    """Return the points of cubics, four to a cubic, for SVG's ``A`` command, from ``start`` to
    ``end`` exactly.

    Units:      px, points being x + iy.
    Degenerate: equal ends give no cubics; a zero radius, and one that is as good as zero
                beside the other, gives a straight line; radii that are too small are
                scaled up, as the standard says.
    Source:     SVG 2, appendix B.2, conversion from endpoint to centre parameterisation.
    """
    if start == end:
        return []
    if _flat(radii):
        third = (end - start) / 3
        return [start, start + third, end - third, end]
    tilt = math.radians(tilt_deg % 360)
    turn = cmath.rect(1.0, tilt)
    half = (start - end) / 2 * turn.conjugate()
    x, y = half.real, half.imag
    rx, ry = _large_enough(radii, x, y)
    own = _own_centre(x, y, rx, ry, opposite=large == clockwise)
    first, sweep = _sweep(x, y, *own, (rx, ry), clockwise=clockwise)
    centre = complex(*own) * turn + (start + end) / 2
    points = _along(centre, (rx, ry), first, sweep, tilt, tolerance)
    points[0], points[-1] = start, end
    return points


def _flat(radii: Point) -> bool:
    wide, narrow = max(map(abs, radii)), min(map(abs, radii))
    return narrow <= FLATTEST * wide


def _large_enough(radii: Point, x: float, y: float) -> Point:
    """Return radii scaled up, where an ellipse of these would not reach from x, y to -x, -y."""
    # Of radii that are far too small only the proportion counts; their squares would be none.
    wide = max(map(abs, radii))
    size = max(math.hypot(x, y), wide)
    rx, ry = (abs(radius) / wide * size for radius in radii)
    excess = math.sqrt(max((x / rx) ** 2 + (y / ry) ** 2, 1.0))
    return rx * excess, ry * excess


def _own_centre(x: float, y: float, rx: float, ry: float, *, opposite: bool) -> Point:
    """Return the centre of an untilted ellipse through x, y and -x, -y: one of the two."""
    below = (x / rx) ** 2 + (y / ry) ** 2
    factor = math.sqrt(max(1 / below - 1, 0.0)) * (-1 if opposite else 1)
    return factor * rx * y / ry, -factor * ry * x / rx


def _sweep(
    x: float, y: float, cx: float, cy: float, radii: Point, *, clockwise: bool
) -> tuple[float, float]:
    """Return the angle at which an arc from x, y to -x, -y begins, and how far it goes, radians."""
    rx, ry = radii
    first = math.atan2((y - cy) / ry, (x - cx) / rx)
    last = math.atan2((-y - cy) / ry, (-x - cx) / rx)
    sweep = (last - first) % (2 * math.pi)
    return first, sweep if clockwise else sweep - 2 * math.pi
