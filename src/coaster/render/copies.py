"""The riders that stand for a layer with copies: layers like it, which are in no document."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

from coaster.documents import swapped
from coaster.geometry.path import Path
from coaster.motion.colours import turned
from coaster.motion.distance import Way
from coaster.motion.ride import AtPercent, FacingMode, Peg, Ride
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
    spots = way.length, way.node_distances()
    shifts = copies.shifts(*spots).tolist()
    if copies.standing:
        shifts, ride = [0.0, *copies.stands(*spots).tolist()], _standing(way)
        layer = swapped(layer, keys=tuple(x for x in layer.keys if x.property != "shift"))
    turns, sizes = copies.turns(len(shifts)).tolist(), copies.sizes(len(shifts)).tolist()
    made = []
    for number, (shift, turn, size) in enumerate(zip(shifts, turns, sizes, strict=True)):
        if number == 0:
            continue
        later = within_time(layer, ride, copies.later * number)
        # Whole turns and laps more are no other place: so numbers stay within what layers may have.
        changes = _Changes(
            shift if copies.standing else shift % 100.0,
            turn % 360.0,
            size,
            copies.opacity**number,
            later,
            copies.hue * number,
            copies.ahead * number,
        )
        made.append(changes.of(layer, ride).beside(number))
    return tuple(made)


def _standing(way: Way) -> Ride:
    """Return a ride that rests at the start of its path, facing as the one that passes by."""
    ride, facing = way.ride, way.ride.facing
    first, last = (way.distance(ride.pegs[i].place) for i in (0, -1))
    if last < first and facing.mode in BACK:
        facing = replace(facing, mode=BACK[facing.mode])
    peg = Peg(ride.pegs[0].id, ride.start, AtPercent(0.0))
    return replace(ride, pegs=(peg,), facing=facing, offset=0.0, settle_s=0.0)


BACK: dict[FacingMode, FacingMode] = {"along": "reversed", "reversed": "along"}


@dataclass(frozen=True)
class _Changes:
    """What one of the riders does otherwise than the first."""

    shift: float
    turn: float
    size: float
    opacity: float
    later: float
    hue: float = 0.0
    ahead: float = 0.0

    @cached_property
    def by(self) -> dict[str, Callable[[float], float]]:
        return {
            "shift": lambda value: value + self.shift,
            "turn": lambda value: value + self.turn,
            "scale": lambda value: value * self.size,
            "opacity": lambda value: value * self.opacity,
        }

    def of(self, layer: Layer, ride: Ride) -> Layer:
        still, by = layer.transform, self.by
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
        pegs = tuple(replace(peg, time=peg.time + self.later) for peg in ride.pegs)
        shown = layer.shown and (layer.shown[0] + self.later, layer.shown[1] + self.later)
        offset = PROPERTIES["shift"].within(by["shift"](ride.offset))
        riding = replace(ride, pegs=pegs, offset=offset, copies=None)
        keys = tuple(self._track(track) for track in layer.keys)
        content = layer.content
        if self.hue:
            content = content.recoloured(self._turned)
        if self.ahead:
            content = content.later(-self.ahead)
        # All of them are masked together.
        timed = replace(
            layer,
            content=content,
            transform=transform,
            ride=riding,
            keys=keys,
            shown=shown,
            mask=None,
        )
        return timed.with_accents_later(self.later)

    def _turned(self, colour: str) -> str:
        return turned(colour, self.hue)

    def _track(self, track: Track) -> Track:
        """Return the keys of a property, later, and with what is otherwise in their values."""
        by, keys = self.by.get(track.property), []
        for key in track.keys:
            value = key.value
            if isinstance(value, str):
                value = self._turned(value) if self.hue else value
            elif by is not None:
                value = PROPERTIES[track.property].within(by(value))
            keys.append(replace(key, time=key.time + self.later, value=value))
        return replace(track, keys=tuple(keys))
