"""Colours between colours, as the eye sees them."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike

from coaster.geometry.bezier import Floats

# From linear sRGB to the cone responses, and from their cube roots to lightness and two opponents.
_TO_CONES = np.array([[0.4122214708, 0.5363325363, 0.0514459929],
                      [0.2119034982, 0.6806995451, 0.1073969566],
                      [0.0883024619, 0.2817188376, 0.6299787005]])  # fmt: skip
_TO_LAB = np.array([[0.2104542553, 0.7936177850, -0.0040720468],
                    [1.9779984951, -2.4285922050, 0.4505937099],
                    [0.0259040371, 0.7827717662, -0.8086757660]])  # fmt: skip


def from_hex(text: str) -> tuple[float, float, float, float]:
    """Return red, green, blue and alpha, 0..1, of ``#rrggbb`` or ``#rrggbbaa``."""
    r, g, b, a = (int(text[i : i + 2] or "ff", 16) / 255 for i in (1, 3, 5, 7))
    return r, g, b, a


def to_hex(rgba: ArrayLike) -> str:
    """Return ``#rrggbb`` or, where it is not opaque, ``#rrggbbaa``."""
    levels = [min(max(round(float(v) * 255), 0), 255) for v in np.asarray(rgba, float)]
    return "#" + "".join(f"{v:02x}" for v in (levels if levels[3] < 255 else levels[:3]))


def turned(text: str, degrees: float) -> str:
    """Return a colour of ``#rrggbb`` or ``#rrggbbaa`` with its hue so far further round, as light
    and as strong as sRGB has it there.
    """
    *levels, alpha = from_hex(text)
    lightness, a, b = lab(levels)
    cos, sin = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    return to_hex([*rgb([lightness, cos * a - sin * b, sin * a + cos * b]), alpha])


def lab(rgb: ArrayLike) -> Floats:
    """Return lightness 0..1 and two opponents of sRGB colours (..., 3), 0..1.

    Source: Ottosson, 'A perceptual color space for image processing' (2020).
    """
    s = np.asarray(rgb, float)
    linear = np.where(s <= 0.04045, s / 12.92, ((s + 0.055) / 1.055) ** 2.4)
    return np.asarray(np.cbrt(linear @ _TO_CONES.T) @ _TO_LAB.T)


def rgb(values: ArrayLike) -> Floats:
    """Return the inverse of ``lab``, held within sRGB."""
    cones = (np.asarray(values, float) @ np.linalg.inv(_TO_LAB).T) ** 3
    linear = np.clip(cones @ np.linalg.inv(_TO_CONES).T, 0.0, 1.0)
    return np.asarray(
        np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)
    )


def along(stops: Sequence[str], shares: Floats) -> Floats:
    """Return red, green, blue and alpha (n, 4) at shares 0..1 (n,) of the way through colours that
    lie evenly.
    """
    return between(np.array([from_hex(each) for each in stops])[:, None], shares)


def between(stops: Floats, shares: Floats) -> Floats:
    """Return red, green, blue and alpha (n, 4) at shares 0..1 (n,) of the way through colours that
    lie evenly, (k, n, 4) or (k, 1, 4).
    """
    mixed = np.concatenate([lab(stops[..., :3]), stops[..., 3:]], axis=-1)
    place = np.clip(shares, 0.0, 1.0) * (len(stops) - 1)
    k = np.minimum(place.astype(np.intp), max(len(stops) - 2, 0))
    rows = np.arange(len(shares)) if stops.shape[1] > 1 else np.zeros(len(shares), np.intp)
    before, after = mixed[k, rows], mixed[np.minimum(k + 1, len(stops) - 1), rows]
    found = before + (place - k)[:, None] * (after - before)
    return np.concatenate([rgb(found[:, :3]), found[:, 3:]], axis=1)
