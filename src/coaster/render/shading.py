"""Light on layers: what it lays over their colours, by the way that they face.

Of each layer one number a frame, at its anchor: it is as bright as its plane is turned to the light
(Lambert), and throws some of it back to the viewer (Blinn). White light lies over it as a tint
does; that of a colour multiplies red, green and blue each by its own.
"""

import numpy as np

from coaster.geometry import depth
from coaster.geometry.bezier import Floats
from coaster.motion import colours as palette
from coaster.motion import keys
from coaster.render import places
from coaster.render.frames import Frames
from coaster.render.places import Placed, Stand
from coaster.render.shades import washed
from coaster.scene.contents import as_light
from coaster.scene.document import Layer

GLOSS = 24.0
"""How narrow what is thrown back is: the exponent of Blinn's cosine."""
LEAST_PX = 1e-6


def is_lit(layer: Layer) -> bool:
    """Whether lights shine on a layer: on what it shows itself, not on all that it holds."""
    return layer.lit and layer.content.can.seen and not layer.content.can.hold


def light_on(one: Placed, stand: Stand, at: Frames | None) -> Floats | None:
    """Return red, green, blue and alpha, 0..1, (n, 4) or (1, 4), of what light lays over a layer;
    where any light has a colour factors of red, green and blue, and what is added to them, (n, 6)
    or (1, 6); None where there is none, or it is not lit.
    """
    viewer = one.viewer
    if viewer is None or not viewer.lights or not is_lit(one.layer):
        return None
    found = _Surface(one, stand, at)
    # For good, whichever frames are asked for: so all of them have as many numbers.
    coloured = any(_has_colour(light.layer) for light in viewer.lights)
    clear = washed(CLEAR) if coloured else CLEAR
    shaded: Floats | None = None
    for light in reversed(viewer.lights):
        rows = _tint_of(*found.under(light, at), coloured=coloured)
        if light.layer.shown is None or shaded is None:
            shaded = rows if light.layer.shown is None else _in_its_time(light, rows, clear, at)
        else:
            shaded = _in_its_time(light, rows, shaded, at)
    return shaded


CLEAR = np.zeros((1, 4))


def _in_its_time(light: Placed, rows: Floats, else_: Floats, at: Frames | None) -> Floats:
    assert light.layer.shown is not None  # noqa: S101 - asked only of such
    begin, end = light.layer.shown
    times = light.times(at)
    return np.where(((times >= begin) & (times < end))[:, None], rows, else_)


class _Surface:
    """A layer where its anchor is, as it faces the viewer."""

    def __init__(self, one: Placed, stand: Stand, at: Frames | None) -> None:
        viewer = one.viewer
        assert viewer is not None  # noqa: S101 - what has no depth has no lights
        space = stand.in_space
        self.shine = one.layer.shine
        self.point = places.points_of(one, stand, at)
        self.eye = _unit(places.eyes_of(viewer, one, at) - self.point)
        normal = _unit(np.cross(space[:, :3, 0], space[:, :3, 1]))
        # Both sides are the same: the one that is seen is lit.
        away = (normal * self.eye).sum(axis=1, keepdims=True)
        self.normal = np.where(away < 0, -normal, normal)

    def under(self, light: Placed, at: Frames | None) -> tuple[Floats, Floats]:
        """Return how bright white is in a light, and how much of that is thrown back: red, green
        and blue, (n, 3) or (1, 3).
        """
        content, layer, times = as_light(light.layer.content), light.layer, light.times(at)
        assert content is not None  # noqa: S101 - only such are lights
        (stand,) = places.stands([light], at)
        way = places.points_of(light, stand, at) - self.point
        far = np.linalg.norm(way, axis=1)
        towards = way / np.maximum(far, LEAST_PX)[:, None]
        strength = places.keyed(layer, "brightness", times) * _reached(layer, far, times)
        strength = strength * _within_cone(layer, stand, towards, times, content.soft)
        colour = _colours(layer, content.colour, times)
        lambert = np.clip((self.normal * towards).sum(axis=1), 0.0, 1.0)
        ambient = np.clip(places.keyed(layer, "ambient", times), 0.0, 1.0)
        lit = ambient[:, None] + (strength * lambert)[:, None] * colour
        half = _unit(towards + self.eye)
        back = np.clip((self.normal * half).sum(axis=1), 0.0, 1.0) ** GLOSS * (lambert > 0)
        thrown = self.shine * (strength * back)[:, None] * colour
        return np.clip(lit, 0.0, 1.0), thrown


def _has_colour(layer: Layer) -> bool:
    content = as_light(layer.content)
    assert content is not None  # noqa: S101 - only such are lights
    red, green, blue = palette.from_hex(content.colour)[:3]
    return layer.track("colour") is not None or not red == green == blue


def _tint_of(lit: Floats, thrown: Floats, *, coloured: bool) -> Floats:
    """Return what makes white as bright as ``lit`` (n, 3), and adds what is ``thrown`` back."""
    if coloured:
        n = max(len(lit), len(thrown))
        parts = (np.broadcast_to(each, (n, 3)) for each in (lit, np.clip(thrown, 0.0, 1.0)))
        return np.concatenate([*parts], axis=1)
    kept = lit.mean(axis=1, keepdims=True)
    added = np.clip(lit - kept + thrown, 0.0, 1.0)
    alpha = np.maximum(1.0 - kept, added.max(axis=1, keepdims=True))
    colour = np.divide(added, alpha, out=np.zeros_like(added), where=alpha > 0)
    return np.concatenate([colour, alpha], axis=1)


def _reached(layer: Layer, far: Floats, times: Floats) -> Floats:
    """Return how much of a light is left so ``far`` away, (n,)."""
    reach = places.keyed(layer, "reach", times)
    share = np.divide(far, reach, out=np.zeros(np.broadcast(far, reach).shape), where=reach > 0)
    return np.asarray(np.clip(1.0 - share * share, 0.0, 1.0) ** 2)


def _within_cone(layer: Layer, stand: Stand, towards: Floats, times: Floats, soft: float) -> Floats:
    """Return how much of a light goes the way that it has to, (n,): all within its cone."""
    spread = places.keyed(layer, "spread", times)
    if (spread >= 360).all():
        return np.ones(1)
    space = stand.in_space
    axis = _unit(depth.unscaled(space)[:, :3, 2])
    off = np.degrees(np.arccos(np.clip(-(axis * towards).sum(axis=1), -1.0, 1.0)))
    half = spread / 2
    share = np.clip((half - off) / np.maximum(soft * half, 1e-3), 0.0, 1.0)
    return np.asarray(np.where(spread >= 360, 1.0, share * share * (3 - 2 * share)))


def _colours(layer: Layer, standing: str, times: Floats) -> Floats:
    """Return red, green and blue of a light, 0..1, (n, 3) or (1, 3)."""
    track = layer.track("colour")
    rows = (
        np.array([palette.from_hex(standing)]) if track is None else keys.colours(track.keys, times)
    )
    return np.asarray(rows[:, :3])


def _unit(ways: Floats) -> Floats:
    return np.asarray(ways / np.maximum(np.linalg.norm(ways, axis=1, keepdims=True), LEAST_PX))
