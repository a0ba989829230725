"""Tints and mirrors over time: which colour lies over a layer, and where what stands for it is."""

import numpy as np

from coaster.geometry.bezier import Floats
from coaster.motion import colours as palette
from coaster.motion import keys
from coaster.motion.distance import Way
from coaster.motion.travel import Travel
from coaster.scene.document import Layer
from coaster.scene.properties import TABLE
from coaster.scene.shades import Mirror, Tint

LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
TINTS = tuple(row.name for row in TABLE if row.home == "tint" and row.kind == "colour")
"""Properties that the colours of a tint are, in their order."""
BLACK = np.array([[0.0, 0.0, 0.0, 1.0]])


def colours_of(layer: Layer, tint: Tint, times: Floats) -> Floats:
    """Return the colours of a layer's tint, (k, n, 4) at ``times`` where any of them has keys, else
    (k, 1, 4).
    """
    known = [
        keys.colours(made, times) if made else np.array([palette.from_hex(standing)])
        for standing, made in zip(tint.colours, map(layer.keys_of, TINTS), strict=False)
    ]
    return np.stack(np.broadcast_arrays(*known))


def tint_rows(
    tint: Tint,
    colours: Floats,
    amounts: Floats,
    way: Way | None,
    travel: Travel | None,
    under: Floats | None = None,
) -> Floats:
    """Return red, green, blue and alpha of what lies over a layer, 0..1, (n, 4) or (1, 4), by
    ``amounts`` (n,) or (1,) of its ``colours``; with ``under`` these of what is passed over.
    """
    if under is not None:
        seen = under
    elif way is None or travel is None or not way.length or len(colours) == 1:
        seen = palette.between(colours[:1], np.zeros(colours.shape[1]))
    else:
        closed = way.path.loops
        stops = np.concatenate([colours, colours[:1]]) if closed else colours
        share = travel.travelled / way.length
        seen = palette.between(stops, share % 1.0 if closed else share)
    alpha = np.clip(amounts, 0.0, 1.0)[:, None] * seen[:, 3:]
    seen = np.broadcast_to(seen[:, :3], (len(alpha), 3))
    if tint.by == "brightness":
        # Black over it by as much as it is to be darker.
        alpha = alpha * (1.0 - seen @ LUMINANCE)[:, None]
        seen = np.zeros_like(seen)
    return np.concatenate([seen, alpha], axis=1)


WASH = 6
"""Columns of what is laid over colours by factors of red, green and blue and by what is added."""


def washed(tint: Floats) -> Floats:
    """Return a tint (n, 4) as factors and what is added, (n, 6); one that is such as it is."""
    if tint.shape[1] == WASH:
        return tint
    alpha = tint[:, 3:]
    return np.concatenate([np.repeat(1.0 - alpha, 3, axis=1), tint[:, :3] * alpha], axis=1)


def over(above: Floats, below: Floats) -> Floats:
    """Return what lies over colours where one tint (n, 4) or (1, 4) lies over another; or, of a
    light of a colour, (n, 6).
    """
    if WASH in (above.shape[1], below.shape[1]):
        first, then = washed(below), washed(above)
        factors, added = first[:, :3] * then[:, :3], first[:, 3:] * then[:, :3] + then[:, 3:]
        return np.concatenate([factors, added], axis=1)
    a, b = above[:, 3:], below[:, 3:]
    alpha = a + b * (1.0 - a)
    colour = above[:, :3] * a + below[:, :3] * b * (1.0 - a)
    clear = alpha <= 0
    return np.concatenate([colour / np.where(clear, 1.0, alpha), alpha], axis=1)


def mirror_map(mirror: Mirror) -> Floats:
    """Return the map (1, 6) from a layer, in px of the scene, to what stands for it."""
    down, across = -mirror.height, mirror.lean
    # At the floor nothing moves; a px higher up it is `height` px below, `lean` px to the side.
    return np.array([[1.0, 0.0, -across, down, across * mirror.floor, mirror.floor * (1.0 - down)]])


def mirror_strengths(mirror: Mirror, spots: Floats) -> Floats:
    """Return how strong it is where a layer's anchor is at ``spots`` (n, 2) in px of the scene."""
    if not mirror.fade:
        return np.array([mirror.strength])
    above = np.abs(mirror.floor - spots[:, 1])
    return np.asarray(mirror.strength * np.clip(1.0 - above / mirror.fade, 0.0, 1.0))
