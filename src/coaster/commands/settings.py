"""Edits of the scene itself: its size, background, rate and length."""

from dataclasses import replace
from typing import Annotated, ClassVar

from pydantic import Field
from pydantic.dataclasses import dataclass

from coaster.commands.base import Command, Key, Setting, register
from coaster.geometry.path import STRICT, Colour, Id
from coaster.motion.rate import Rate
from coaster.motion.ride import Peg, retimed
from coaster.scene.document import Scene, Size


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class SetFrame(Setting):
    """Set the size in px and the background; None is transparent. Nothing in it moves."""

    kind: ClassVar[str] = "scene.frame"
    width: Size
    height: Size
    background: Colour | None

    def apply(self, scene: Scene) -> Scene:
        return replace(scene, width=self.width, height=self.height, background=self.background)

    def inverse(self, before: Scene) -> Command:
        return SetFrame(before.width, before.height, before.background)

    def touches(self) -> tuple[Key, ...]:
        return (("scene", "frame"),)

    def describe(self, scene: Scene) -> str:
        return "Size and background"


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class SetClock(Setting):
    """Set the rate and the length in frames, and the pegs of the rides that keep their seconds."""

    kind: ClassVar[str] = "scene.clock"
    rate: Rate
    length: Annotated[int, Field(ge=1, le=36_000)]
    pegs: tuple[tuple[Id, tuple[Peg, ...]], ...] = ()

    def apply(self, scene: Scene) -> Scene:
        for layer_id, pegs in self.pegs:
            ride = replace(scene.ride_of(layer_id), pegs=pegs)
            scene = scene.with_layer(replace(scene.layer(layer_id), ride=ride))
        return replace(scene, rate=self.rate, length=self.length)

    def inverse(self, before: Scene) -> Command:
        pegs = tuple((layer_id, before.ride_of(layer_id).pegs) for layer_id, _ in self.pegs)
        return SetClock(before.rate, before.length, pegs)

    def merge(self, later: Command) -> Command | None:
        if not isinstance(later, SetClock):
            return None
        return SetClock(later.rate, later.length, tuple((dict(self.pegs) | dict(later.pegs)).items()))

    def touches(self) -> tuple[Key, ...]:
        return (("scene", "clock"), *(("layer", layer_id, "ride", "pegs") for layer_id, _ in self.pegs))

    def describe(self, scene: Scene) -> str:
        return "Rate and length"


def clock_for(scene: Scene, rate: Rate, length: int) -> SetClock:
    """Return the command for a new rate and length.

    Rides keep their seconds; those that fill the scene on a closed path go on filling it, so
    that a loop stays one.
    """
    factor = rate.fps / scene.rate.fps
    changed = []
    for layer in scene.layers:
        if layer.ride is None:
            continue
        start, end = layer.ride.start * factor, layer.ride.end * factor
        if scene.path(layer.ride.path).loops and (layer.ride.start, layer.ride.end) == (0.0, float(scene.length)):
            end = float(length)
        pegs = retimed(layer.ride.pegs, start, end)
        if pegs != layer.ride.pegs:
            changed.append((layer.id, pegs))
    return SetClock(rate, length, tuple(changed))
