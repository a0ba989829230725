"""Edits of rides: attaching, time, pace, place and facing."""

from dataclasses import replace
from typing import Annotated, ClassVar

from pydantic import Field
from pydantic.dataclasses import dataclass

from coaster.commands.base import Command, Key, Setting, register
from coaster.errors import EditRefused
from coaster.geometry.path import STRICT, Gap, Id
from coaster.motion.ride import Facing, Peg, Percent, Ride, Seconds
from coaster.scene.document import Line, Scene

Pegs = Annotated[tuple[Peg, ...], Field(min_length=1, max_length=10_000)]


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class AttachRide(Setting):
    """Let a layer ride a path; a ride it had before is replaced."""

    kind: ClassVar[str] = "ride.attach"
    layer_id: Id
    ride: Ride

    def apply(self, scene: Scene) -> Scene:
        layer = scene.layer(self.layer_id)
        scene.path(self.ride.path)
        if isinstance(layer.content, Line):
            raise EditRefused(f"{layer.name} is a line and follows its own path; it cannot ride one.")
        return scene.with_layer(replace(layer, ride=self.ride))

    def inverse(self, before: Scene) -> Command:
        ride = before.layer(self.layer_id).ride
        return AttachRide(self.layer_id, ride) if ride else DetachRide(self.layer_id)

    def touches(self) -> tuple[Key, ...]:
        return (("layer", self.layer_id, "ride"),)

    def describe(self, scene: Scene) -> str:
        return f"Put {scene.layer(self.layer_id).name} on {scene.path(self.ride.path).name}"


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class DetachRide(Command):
    """Take a layer off its path."""

    kind: ClassVar[str] = "ride.detach"
    layer_id: Id

    def apply(self, scene: Scene) -> Scene:
        scene.ride_of(self.layer_id)
        return scene.with_layer(replace(scene.layer(self.layer_id), ride=None))

    def inverse(self, before: Scene) -> Command:
        return AttachRide(self.layer_id, before.ride_of(self.layer_id))

    def touches(self) -> tuple[Key, ...]:
        return (("layer", self.layer_id, "ride"),)

    def describe(self, scene: Scene) -> str:
        path = scene.path(scene.ride_of(self.layer_id).path)
        return f"Take {scene.layer(self.layer_id).name} off {path.name}"


class RidePart(Setting):
    """Sets fields of a layer's ride, from the command's own fields of those names."""

    parts: ClassVar[tuple[str, ...]]
    words: ClassVar[str]
    layer_id: Id

    def apply(self, scene: Scene) -> Scene:
        ride = replace(scene.ride_of(self.layer_id), **{part: getattr(self, part) for part in self.parts})
        return scene.with_layer(replace(scene.layer(self.layer_id), ride=ride))

    def inverse(self, before: Scene) -> Command:
        ride = before.ride_of(self.layer_id)
        return self._with(**{part: getattr(ride, part) for part in self.parts})

    def touches(self) -> tuple[Key, ...]:
        return (("layer", self.layer_id, "ride", self.parts[0]),)

    def describe(self, scene: Scene) -> str:
        return self.words.format(name=scene.layer(self.layer_id).name)


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class SetFacing(RidePart):
    kind: ClassVar[str] = "ride.facing"
    parts: ClassVar[tuple[str, ...]] = ("facing",)
    words: ClassVar[str] = "Facing of {name}"
    layer_id: Id
    facing: Facing


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class SetCourse(RidePart):
    """Shift a rider along its path by ``offset`` (%); what gaps do, how softly it follows, whether it may run back."""

    kind: ClassVar[str] = "ride.course"
    parts: ClassVar[tuple[str, ...]] = ("offset", "gap", "settle_s", "never_backwards")
    words: ClassVar[str] = "Way of {name} along its path"
    layer_id: Id
    offset: Percent
    gap: Gap
    settle_s: Seconds = 0.0
    never_backwards: bool = True


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class SetPegs(RidePart):
    """Set all pegs of a ride: when it is where, and how it gets from one to the next."""

    kind: ClassVar[str] = "ride.pegs"
    parts: ClassVar[tuple[str, ...]] = ("pegs",)
    words: ClassVar[str] = "Pegs of {name}"
    layer_id: Id
    pegs: Pegs


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class SetPace(SetPegs):
    """Set the pegs for the sake of their pace."""

    kind: ClassVar[str] = "ride.pace"
    words: ClassVar[str] = "Pace of {name}"


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class SetTime(SetPegs):
    """Set the pegs for the sake of the ride's start and duration."""

    kind: ClassVar[str] = "ride.time"
    words: ClassVar[str] = "Time of {name}"
