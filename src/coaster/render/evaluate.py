"""A scene over time: every layer's place, look, paint and opacity in every frame."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from coaster.geometry.bezier import Floats
from coaster.geometry.maps import Maps
from coaster.motion.distance import Way
from coaster.motion.travel import Travel
from coaster.render import places
from coaster.render.covers import Cover, cover_of
from coaster.render.faces import Face, Faces
from coaster.render.frames import Frames
from coaster.render.paints import Paints, paints_of
from coaster.render.places import Known, Placed, Stand
from coaster.render.recent import Recent
from coaster.scene.document import Layer, Scene


@dataclass(frozen=True, eq=False)
class LayerMotion:
    """One layer over n frames; what does not change has one row in place of n.

    ``maps`` (n, 6) lead from its px to the scene's; ``opacities`` (n,) are its own, without its
    groups'. The rows are frames 0..length, or those that are ``told``.
    """

    layer: Layer
    stand: Stand
    opacities: Floats
    paints: Paints | None = None
    told: Frames | None = None
    cover: Cover | None = None

    @property
    def maps(self) -> Maps:
        return self.stand.maps

    @property
    def faces(self) -> Faces:
        return self.stand.faces

    @property
    def way(self) -> Way | None:
        return self.stand.way

    @property
    def travel(self) -> Travel | None:
        return self.stand.travel

    @property
    def still(self) -> bool:
        """Whether it looks the same in every frame: the one definition, which the stage is told."""
        rests = len(self.maps) == 1 and len(self.opacities) == 1
        seen_alike = self.cover is None or self.cover.still
        return rests and seen_alike and self.faces.still and self.paints is None

    def map(self, frame: int) -> Floats:
        row: Floats = self.maps[self.row(frame) if len(self.maps) > 1 else 0]
        return row

    def opacity(self, frame: int) -> float:
        return float(self.opacities[self.row(frame) if len(self.opacities) > 1 else 0])

    def face(self, frame: int) -> Face:
        return self.faces.at(self.row(frame))

    def row(self, frame: int) -> int:
        return frame if self.told is None else self.told.row(frame)


class Evaluation:
    """A scene evaluated for all its frames, and frame ``length`` as the continuation.

    Every number is a pure function of the scene, so that jumping to a frame, playing to it and
    rendering it in another process agree: exactly where the same layers are evaluated together,
    else within 1e-9 of a path's length.
    """

    def __init__(self, scene: Scene) -> None:
        self.scene, self.frames = scene, scene.length
        self._known = Known(scene)

    @property
    def motions(self) -> tuple[LayerMotion, ...]:
        """Every layer, hidden ones included, from the back to the front."""
        return tuple(self.motions_of(self.scene.layers))

    def motion(self, layer_id: str) -> LayerMotion:
        return self.motions_of([self.scene.layer(layer_id)])[0]

    def motions_of(self, layers: Sequence[Layer], at: Frames | None = None) -> list[LayerMotion]:
        """Return the motion of some layers in all frames, or ``at`` some.

        What was worked out a moment ago for all frames is not worked out again.
        """
        placed = self.placed(layers)
        # Some frames are asked for once, by a look ahead that is gone a moment later: not worth
        # keeping.
        return _MOTIONS.all(placed, _motions) if at is None else _motions(placed, at)

    def placed(self, layers: Sequence[Layer]) -> list[Placed]:
        return [self._known.placed(layer) for layer in layers]

    def spots_of(self, motion: LayerMotion) -> Floats:
        """Return where a layer's anchor is in the scene's px, (n, 2) or (1, 2)."""
        return places.spots_in_scene(self._known.placed(motion.layer), motion.stand, motion.told)

    def spot(self, motion: LayerMotion, frame: int) -> Floats:
        """Return where a layer's anchor is in the scene's px in one of the frames told, (2,)."""
        spots = self.spots_of(motion)
        found: Floats = spots[motion.row(frame) if len(spots) > 1 else 0]
        return found

    def is_as_in(self, other: "Evaluation", layer: Layer) -> bool:
        """Whether a layer looks and moves here as it does in another evaluation."""
        there = other._known.layer(layer.id)
        return there is not None and other._known.placed(there) == self._known.placed(layer)


_MOTIONS: Recent[Placed, LayerMotion] = Recent(1024)


def forget() -> None:
    """Forget what was worked out, as if nothing had been asked yet."""
    _MOTIONS.clear()
    places.forget()


def _motions(placed: Sequence[Placed], at: Frames | None = None) -> list[LayerMotion]:
    made = []
    for one, stand in zip(placed, places.stands(placed, at), strict=True):
        times = one.times(at)
        opacities, paints = opacities_of(one.layer, times), paints_of(one.layer, times)
        if stand.way and stand.travel and stand.way.ride.gap == "hide":
            opacities = np.where(stand.way.is_unseen(stand.travel.along), 0.0, opacities)
        cover = cover_of(one, at)
        made.append(LayerMotion(one.layer, stand, opacities, paints, at, cover))
    return made


def opacities_of(layer: Layer, times: Floats) -> Floats:
    """Return how strongly a layer is drawn at ``times``, (n,); (1,) where that never changes."""
    found: Floats = np.clip(places.keyed(layer, "opacity", times), 0.0, 1.0)
    if layer.shown is not None:
        begin, end = layer.shown
        found = np.where((times >= begin) & (times < end), found, 0.0)
    return found
