"""The riders that stand for a layer with copies: layers like it, which are in no document."""

from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache

from coaster.geometry.path import Path
from coaster.motion.distance import Way
from coaster.motion.ride import Ride
from coaster.scene.document import Layer, Scene
from coaster.scene.properties import PROPERTIES, Track


def copies_of(scene: Scene, layer: Layer) -> tuple[Layer, ...]:
    """Return the riders beside a layer, from the one next to it on, each with an id of its own; it
    is none of them.
    """
    path = scene.path_of(layer)
    if layer.ride is None or layer.ride.copies is None or path is None:
        return ()
    return _riders(layer, layer.ride, path)


@lru_cache(maxsize=256)
def _riders(layer: Layer, ride: Ride, path: Path) -> tuple[Layer, ...]:
    copies, way = ride.copies, Way(path, ride)
    assert copies is not None  # noqa: S101 - asked before
    shifts = copies.shifts(way.length, way.node_distances()).tolist()
    turns, sizes = copies.turns(len(shifts)).tolist(), copies.sizes(len(shifts)).tolist()
    made = []
    for number, (shift, turn, size) in enumerate(zip(shifts, turns, sizes, strict=True)):
        if number == 0:
            continue
        changes = _Changes(shift, turn, size, copies.opacity**number, copies.later * number)
        one = changes.of(layer, ride)
        made.append(one.beside(number))
    return tuple(made)


class _Changes:
    """What one of the riders does otherwise than the first."""

    def __init__(
        self, shift: float, turn: float, size: float, opacity: float, later: float
    ) -> None:
        self._shift, self._later = shift, later
        self._by: dict[str, Callable[[float], float]] = {
            "shift": lambda value: value + shift,
            "turn": lambda value: value + turn,
            "scale": lambda value: value * size,
            "opacity": lambda value: value * opacity,
        }

    def of(self, layer: Layer, ride: Ride) -> Layer:
        still, by = layer.transform, self._by
        across, down = still.scale
        transform = replace(
            still,
            scale=(by["scale"](across), by["scale"](down)),
            turn=by["turn"](still.turn),
            opacity=by["opacity"](still.opacity),
        )
        pegs = tuple(replace(peg, time=peg.time + self._later) for peg in ride.pegs)
        shown = layer.shown and (layer.shown[0] + self._later, layer.shown[1] + self._later)
        riding = replace(ride, pegs=pegs, offset=ride.offset + self._shift, copies=None)
        keys = tuple(self._track(track) for track in layer.keys)
        # All of them are masked together.
        return replace(layer, transform=transform, ride=riding, keys=keys, shown=shown, mask=None)

    def _track(self, track: Track) -> Track:
        """Return the keys of a property, later, and with what is otherwise in their values."""
        by, row = self._by.get(track.property), PROPERTIES[track.property]
        keys = []
        for key in track.keys:
            value = key.value
            if by is not None and not isinstance(value, str):
                value = min(max(by(value), row.low), row.high)
            keys.append(replace(key, time=key.time + self._later, value=value))
        return replace(track, keys=tuple(keys))
