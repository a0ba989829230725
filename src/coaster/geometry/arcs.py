"""Elliptical arcs as cubic Beziers, to a stated accuracy."""

import math

import numpy as np

from coaster.geometry import affine
from coaster.geometry.bezier import Floats


def _pieces(radius: float, sweep: float, tolerance: float) -> int:
    """Return how many equal cubics keep an arc within ``tolerance`` of its circle.

    Source: the radial error of the usual cubic over an angle h is 2/27 sin^6(h/4) / cos^2(h/4).
    """
    count = max(1, math.ceil(abs(sweep) / (math.pi / 2) - 1e-9))
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
    full = abs(abs(sweep) - 2 * math.pi) < 1e-9
    count = _pieces(max(radii), sweep, tolerance)
    if full:
        count = 4 * math.ceil(count / 4)
    angles = start + sweep * np.arange(count + 1) / count
    k = 4 / 3 * math.tan(sweep / count / 4)
    on = np.stack([np.cos(angles), np.sin(angles)], axis=1)
    tangent = np.stack([-on[:, 1], on[:, 0]], axis=1)
    unit = np.stack([on[:-1], on[:-1] + k * tangent[:-1], on[1:] - k * tangent[1:], on[1:]], axis=1)
    place = affine.chain(
        [affine.translation(*centre), affine.rotation(tilt), affine.scaling(*radii)]
    )
    return affine.apply(place, unit)


def arc_between(
    start: tuple[float, float],
    radii: tuple[float, float],
    tilt_deg: float,
    large: bool,
    clockwise: bool,
    end: tuple[float, float],
    *,
    tolerance: float = 1e-4,
) -> Floats:
    """Return cubics for SVG's ``A`` command, from ``start`` to ``end`` exactly.

    Degenerate: equal ends give no cubics; a zero radius gives a straight line; radii that are
                too small are scaled up, as the standard says.
    Source:     SVG 2, appendix B.2, conversion from endpoint to centre parameterisation.
    """
    if start == end:
        return np.empty((0, 4, 2))
    rx, ry = abs(radii[0]), abs(radii[1])
    if rx == 0 or ry == 0:
        p, q = np.asarray(start, float), np.asarray(end, float)
        return np.stack([p, p + (q - p) / 3, q - (q - p) / 3, q])[None]
    tilt = math.radians(tilt_deg % 360)
    cos, sin = math.cos(tilt), math.sin(tilt)
    hx, hy = (start[0] - end[0]) / 2, (start[1] - end[1]) / 2
    x, y = cos * hx + sin * hy, -sin * hx + cos * hy
    excess = (x / rx) ** 2 + (y / ry) ** 2
    if excess > 1:
        rx, ry = rx * math.sqrt(excess), ry * math.sqrt(excess)
    below = (x / rx) ** 2 + (y / ry) ** 2
    factor = math.sqrt(max(1 / below - 1, 0.0)) * (-1 if large == clockwise else 1)
    cx, cy = factor * rx * y / ry, -factor * ry * x / rx
    centre = (
        cos * cx - sin * cy + (start[0] + end[0]) / 2,
        sin * cx + cos * cy + (start[1] + end[1]) / 2,
    )
    first = math.atan2((y - cy) / ry, (x - cx) / rx)
    last = math.atan2((-y - cy) / ry, (-x - cx) / rx)
    sweep = (last - first) % (2 * math.pi)
    if not clockwise:
        sweep -= 2 * math.pi
    curves = arc(centre, (rx, ry), first, sweep, tilt=tilt, tolerance=tolerance)
    curves[0, 0], curves[-1, 3] = start, end
    return curves
