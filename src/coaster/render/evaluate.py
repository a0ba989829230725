"""A scene over time: every layer's place, look, paint and opacity in every frame."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from coaster.geometry.bezier import Floats
from coaster.geometry.maps import Maps
from coaster.motion.travel import Travel, Way
from coaster.render import places
from coaster.render.faces import Faces
from coaster.render.paints import Paints, paints_of
from coaster.render.places import ALL, Known, Placed, Stand
from coaster.render.recent import Recent
from coaster.scene.document import Layer, Scene


@dataclass(frozen=True, eq=False)
class LayerMotion:
    """One layer over n frames; what does not change has one row in place of n.

    ``maps`` (n, 6) lead from its px to the scene's; ``opacities`` (n,) are its own, without its
    groups'.
    """

    layer: Layer
    stand: Stand
    opacities: Floats
    paints: Paints | None = None

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
        return rests and self.faces.still and self.paints is None

    def map(self, frame: int) -> Floats:
        row: Floats = self.maps[frame if len(self.maps) > 1 else 0]
        return row

    def opacity(self, frame: int) -> float:
        return float(self.opacities[frame if len(self.opacities) > 1 else 0])


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

    def motions_of(self, layers: Sequence[Layer]) -> list[LayerMotion]:
        """Return the motion of some layers; what was worked out a moment ago is not worked out
        again.
        """
        return _MOTIONS.all(self.placed(layers), _motions)

    def poses_of(self, layers: Sequence[Layer], frame: int) -> list[LayerMotion]:
        """Return layers as they are at one frame only, each with a single row."""
        return _motions(self.placed(layers), slice(frame, frame + 1))

    def placed(self, layers: Sequence[Layer]) -> list[Placed]:
        return [self._known.placed(layer) for layer in layers]

    def spots_of(self, motion: LayerMotion) -> Floats:
        """Return where a layer's anchor is in the scene's px, (n, 2) or (1, 2)."""
        return places.spots_in_scene(self._known.placed(motion.layer), motion.stand)

    def is_as_in(self, other: "Evaluation", layer: Layer) -> bool:
        """Whether a layer looks and moves here as it does in another evaluation."""
        there = other._known.layer(layer.id)
        return there is not None and other._known.placed(there) == self._known.placed(layer)


_MOTIONS: Recent[Placed, LayerMotion] = Recent(1024)


def forget() -> None:
    """Forget what was worked out, as if nothing had been asked yet."""
    _MOTIONS.clear()
    places.forget()


def _motions(placed: Sequence[Placed], at: slice = ALL) -> list[LayerMotion]:
    made = []
    for one, stand in zip(placed, places.stands(placed, at), strict=True):
        times = one.times(at)
        made.append(
            LayerMotion(one.layer, stand, _opacities(one.layer, times), paints_of(one.layer, times))
        )
    return made


def _opacities(layer: Layer, times: Floats) -> Floats:
    found: Floats = np.clip(places.keyed(layer, "opacity", times), 0.0, 1.0)
    if layer.shown is not None:
        begin, end = layer.shown
        found = np.where((times >= begin) & (times < end), found, 0.0)
    return found
