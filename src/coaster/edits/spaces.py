"""The px in which a thing lives, and how places that are pointed at on the stage get there."""

from dataclasses import dataclass

import numpy as np

from coaster.geometry import affine
from coaster.geometry.bezier import Floats
from coaster.geometry.path import Vec2
from coaster.render import places
from coaster.scene.document import Layer, Scene


@dataclass(frozen=True)
class Space:
    """Takes places of the scene, as they are seen at a frame, into the px of a group."""

    into: Floats | None

    def place(self, point: Vec2) -> Vec2:
        if self.into is None:
            return point
        x, y = affine.apply(self.into, point)
        return float(x), float(y)

    def shift(self, by: Vec2) -> Vec2:
        """Return a way or a handle there: it is turned and scaled, but has no place."""
        if self.into is None:
            return by
        linear = np.concatenate([self.into[:4], [0.0, 0.0]])
        x, y = affine.apply(linear, by)
        return float(x), float(y)


AS_IT_IS = Space(None)


def space_of(scene: Scene, parent: str | None, frame: float | None) -> Space:
    """Return the space of a group; without a frame, what is said is in its px already."""
    if parent is None or frame is None:
        return AS_IT_IS
    return Space(affine.inverse(places.group_map(scene, parent, frame)))


def home_of(scene: Scene, layer: Layer, frame: float) -> Space:
    """Return the space in which a layer's place is told: about its carrier, or of its group."""
    if layer.parent is None and layer.carrier is None:
        return AS_IT_IS
    return Space(affine.inverse(places.home_map(scene, layer, frame)))
