"""The riders that stand for a layer with copies: layers like it, which are in no document."""

from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache

from coaster.geometry.path import Path
from coaster.motion.distance import Way
from coaster.motion.ride import Ride
from coaster.render.later import within_time
from coaster.render.letters import riders_of
from coaster.scene.document import Layer, Scene
from coaster.scene.properties import PROPERTIES, Track


def copies_of(scene: Scene, layer: Layer) -> tuple[Layer, ...]:
    """Return the riders beside a layer, from the one next to it on, each with an id of its own; it
    is none of them. Of a text whose letters ride, these.
    """
    path = scene.path_of(layer)
    if layer.ride is None or path is None:
        return ()
    if layer.rides_in_parts:
        return riders_of(layer, layer.ride, path)
    if layer.ride.copies is None:
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
        later = within_time(layer, ride, copies.later * number)
        # Whole turns and laps more are no other place: so numbers stay within what layers may have.
        changes = _Changes(shift % 100.0, turn % 360.0, size, copies.opacity**number, later)
        made.append(changes.of(layer, ride).beside(number))
    return tuple(made)


class _Changes:
    """What one of the riders does otherwise than the first."""

    def __init__(
        self, shift: float, turn: float, size: float, opacity: float, later: float
    ) -> None:
        self._later = later
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
            scale=(
                PROPERTIES["scale"].within(by["scale"](across)),
                PROPERTIES["scale"].within(by["scale"](down)),
            ),
            turn=PROPERTIES["turn"].within(by["turn"](still.turn)),
            opacity=by["opacity"](still.opacity),
        )
        pegs = tuple(replace(peg, time=peg.time + self._later) for peg in ride.pegs)
        shown = layer.shown and (layer.shown[0] + self._later, layer.shown[1] + self._later)
        offset = PROPERTIES["shift"].within(by["shift"](ride.offset))
        riding = replace(ride, pegs=pegs, offset=offset, copies=None)
        keys = tuple(self._track(track) for track in layer.keys)
        # All of them are masked together.
        timed = replace(layer, transform=transform, ride=riding, keys=keys, shown=shown, mask=None)
        return timed.with_accents_later(self._later)

    def _track(self, track: Track) -> Track:
        """Return the keys of a property, later, and with what is otherwise in their values."""
        by, keys = self._by.get(track.property), []
        for key in track.keys:
            value = key.value
            if by is not None and not isinstance(value, str):
                value = PROPERTIES[track.property].within(by(value))
            keys.append(replace(key, time=key.time + self._later, value=value))
        return replace(track, keys=tuple(keys))
