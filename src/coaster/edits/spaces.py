"""The px in which a thing lives, and how places get there that are pointed at: on the stage, or
where the scene is drawn from above or from its side.
"""

from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np

from coaster.errors import EditRefused
from coaster.geometry import affine, depth, maps
from coaster.geometry.bezier import Floats
from coaster.geometry.maps import Maps
from coaster.geometry.path import Node, Subpath, Vec2
from coaster.render import places
from coaster.scene.document import Layer, Scene

Side = Literal["above", "side"]


@dataclass(frozen=True)
class Space:
    """Takes places of the scene, as they are seen at a frame, into the px of a group's plane, or of
    one ``z`` px behind it; ``lift`` (3, 4) is how what is in the group is seen with its depth.
    """

    into: Maps | None
    z: float = 0.0
    lift: Floats | None = None

    def drawn(self, points: Floats) -> Floats:
        """Return where places of the group (..., 3) are seen, (..., 2)."""
        if self.lift is None:
            return points[..., :2]
        x, y, w = np.moveaxis(points @ self.lift[:, :3].T + self.lift[:, 3], -1, 0)
        return np.asarray(np.stack([x, y], axis=-1) / np.maximum(w, maps.NEAR)[..., None])

    def depth(self, point: Vec2) -> float:
        """Return how far behind the group's plane a place is that is pointed at."""
        return self.z

    def deeper(self, by: Vec2) -> float | None:
        """Return how much farther back a way leads; None where it stays in its plane."""
        return None

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


@dataclass(frozen=True)
class Beside(Space):
    """Takes places of a scene as it is drawn from above (x to the right, what is near below) or
    from its left side (what is far to the right, y down), in the scene's px, into those of a group,
    which ``back`` (4, 4) brings there. What is made lies ``level`` px down, or to the right.
    """

    side: Side = "above"
    level: float = 0.0
    back: Floats = field(default_factory=lambda: np.eye(4))

    def _within(self, way: tuple[float, float, float, float]) -> list[float]:
        # What is left of rounding would be a depth where there is none.
        return [round(float(each), 9) for each in (self.back @ way)[:3]]

    def _raised(self, point: Vec2) -> list[float]:
        across, up = point
        above = self.side == "above"
        return self._within((across, self.level, -up, 1) if above else (self.level, up, across, 1))

    def _way(self, by: Vec2) -> list[float]:
        across, up = by
        return self._within((across, 0, -up, 0) if self.side == "above" else (0, up, across, 0))

    def place(self, point: Vec2) -> Vec2:
        x, y, _ = self._raised(point)
        return x, y

    def depth(self, point: Vec2) -> float:
        return self._raised(point)[2]

    def seen(self, place: Vec2) -> Vec2:
        return place

    def shift(self, by: Vec2, seen: Vec2 = (0.0, 0.0)) -> Vec2:
        x, y, _ = self._way(by)
        return x, y

    def deeper(self, by: Vec2) -> float:
        return self._way(by)[2]

    def transformed(self, points: Floats, change: Floats) -> Floats:
        """Return where places of the group (n, 3) come to by a change (6,) of their drawing."""
        before = self.drawn(points)
        ways = affine.apply(change, before) - before
        return np.array([p + self._way((x, y)) for p, (x, y) in zip(points, ways, strict=True)])

    def drawn(self, points: Floats) -> Floats:
        """Return where places of the group (..., 3) are drawn, (..., 2)."""
        space = np.linalg.pinv(self.back)
        x, y, z = np.moveaxis(points @ space[:3, :3].T + space[:3, 3], -1, 0)
        return np.stack([x, -z] if self.side == "above" else [z, y], axis=-1)


def beside(
    scene: Scene, parent: str | None, frame: float, side: Side, level: float = 0.0
) -> Beside:
    """Return the space of a group as the scene is drawn from above, or from its side."""
    return Beside(None, 0.0, None, side, level, _back(places.space_map(scene, parent, frame)))


def beside_home(scene: Scene, layer: Layer, frame: float, side: Side) -> Beside:
    """Return the space in which a layer's place is told, as the scene is drawn from that side."""
    space = places.space_map(scene, layer.parent, frame)
    carried = places.carried_map(scene, layer, frame)
    if carried is not None:
        space = space @ depth.raised(carried)
    return Beside(None, 0.0, None, side, 0.0, _back(space))


def in_space(run: Subpath, side: Side, level: float) -> Subpath:
    """Return a run that was drawn from above, or from the side, where it lies in the scene."""
    on = Beside(None, 0.0, None, side, level)
    handles = {node.id: (_NONE, _NONE) for node in run.nodes}
    # What has no handle is straight on paper; in space it needs them to be as even in depth.
    for (a, b), (begin, out, into, end) in zip(run.pairs(), run.segments(), strict=True):
        handles[a.id] = handles[a.id][0], out - begin
        handles[b.id] = into - end, handles[b.id][1]
    return replace(run, nodes=tuple(_raised(node, on, *handles[node.id]) for node in run.nodes))


_NONE = np.zeros(2)


def _raised(node: Node, on: Beside, into: Floats, out: Floats) -> Node:
    ends = [(float(x), float(y)) for x, y in (into, out)]
    return replace(
        node,
        position=on.place(node.position),
        z=on.depth(node.position),
        handle_in=on.shift(ends[0]),
        handle_out=on.shift(ends[1]),
        handle_z=(on.deeper(ends[0]), on.deeper(ends[1])),
    )


def _back(space: Floats) -> Floats:
    # What lies flat in a group has no depth that it could be given.
    return np.asarray(np.linalg.pinv(space, rcond=1e-9))


def space_of(scene: Scene, parent: str | None, frame: float | None, z: float = 0.0) -> Space:
    """Return the space of a group, or of a plane ``z`` px behind its own; without a frame, what is
    said is in its px already.
    """
    deep = z or any(path.is_deep for path in scene.paths)
    if frame is None or (parent is None and not deep and not places.has_cameras(scene)):
        return AS_IT_IS
    into = maps.inverse(places.plane_map(scene, parent, frame, z))
    lift = places.lift_map(scene, parent, frame) if places.has_depth(scene) else None
    return Space(into, z, lift)


def level_with(
    scene: Scene, layer: Layer, parent: str | None, frame: float, side: Side | None
) -> Space:
    """Return the space of a group, in the plane in which a layer is at a frame: facing the viewer
    or, as the scene is drawn from a ``side``, whoever looks from there.
    """
    if side is None and not places.has_depth(scene):
        return space_of(scene, parent, frame)
    x, y, z = places.point_of(scene, layer.id, frame)
    if side is not None:
        return beside(scene, parent, frame, side, y if side == "above" else x)
    within = _back(places.space_map(scene, parent, frame)) @ (x, y, z, 1)
    return space_of(scene, parent, frame, round(float(within[2]), 9))


def home_of(scene: Scene, layer: Layer, frame: float) -> Space:
    """Return the space in which a layer's place is told: about its carrier, or of its group."""
    if layer.parent is None and layer.carrier is None and not places.has_depth(scene):
        return AS_IT_IS
    return Space(maps.inverse(places.home_map(scene, layer, frame)))
