"""The px in which a thing lives, and how places that are pointed at on the stage get there."""

from dataclasses import dataclass

import numpy as np

from coaster.errors import EditRefused
from coaster.geometry import affine, maps
from coaster.geometry.maps import Maps
from coaster.geometry.path import Vec2
from coaster.render import places
from coaster.scene.document import Layer, Scene


@dataclass(frozen=True)
class Space:
    """Takes places of the scene, as they are seen at a frame, into the px of a group's plane."""

    into: Maps | None

    def place(self, point: Vec2) -> Vec2:
        if self.into is None:
            return point
        if not maps.is_before(self.into, point):
            raise EditRefused(
                "There is no such place in the plane that it lies in: that is beyond its horizon."
                " Nothing was changed; point nearer."
            )
        x, y = maps.apply(self.into, point)
        return float(x), float(y)

    def seen(self, place: Vec2) -> Vec2:
        """Return where a place of the group is seen."""
        if self.into is None:
            return place
        x, y = maps.apply(maps.inverse(self.into), place)
        return float(x), float(y)

    def shift(self, by: Vec2, seen: Vec2 = (0.0, 0.0)) -> Vec2:
        """Return a way or a handle there: it is turned and scaled, in perspective as it is from
        where it is ``seen`` to begin.
        """
        if self.into is None:
            return by
        if not maps.is_flat(self.into):
            (x, y), (to_x, to_y) = self.place(seen), self.place((seen[0] + by[0], seen[1] + by[1]))
            return to_x - x, to_y - y
        linear = np.concatenate([self.into[:4], [0.0, 0.0]])
        x, y = affine.apply(linear, by)
        return float(x), float(y)


AS_IT_IS = Space(None)


def space_of(scene: Scene, parent: str | None, frame: float | None, z: float = 0.0) -> Space:
    """Return the space of a group, or of a plane ``z`` px behind its own; without a frame, what is
    said is in its px already.
    """
    if frame is None or (parent is None and not z and not places.has_cameras(scene)):
        return AS_IT_IS
    return Space(maps.inverse(places.plane_map(scene, parent, frame, z)))


def home_of(scene: Scene, layer: Layer, frame: float) -> Space:
    """Return the space in which a layer's place is told: about its carrier, or of its group."""
    if layer.parent is None and layer.carrier is None and not places.has_depth(scene):
        return AS_IT_IS
    return Space(maps.inverse(places.home_map(scene, layer, frame)))
