"""Edits of rides: attaching and taking off; what a ride is like are fields of it (see
``fields``).
"""

from dataclasses import replace
from typing import ClassVar

from coaster.commands.base import Command, Key, Setting, register
from coaster.documents import document
from coaster.errors import EditRefused
from coaster.geometry.path import Id
from coaster.motion.ride import Ride
from coaster.scene.document import Layer, Scene


def refuse_follower(layer: Layer) -> None:
    """Errors: EditRefused: the layer follows the path it strokes, and cannot ride one."""
    if not layer.content.can.stand:
        raise EditRefused(f"{layer.name} is a line and follows its own path; it cannot ride one.")


@register
@document
class AttachRide(Setting):
    """Let a layer ride a path; a ride it had before is replaced."""

    kind: ClassVar[str] = "ride.attach"
    layer_id: Id
    ride: Ride

    def apply(self, scene: Scene) -> Scene:
        layer = scene.layer(self.layer_id)
        scene.path(self.ride.path)
        refuse_follower(layer)
        return scene.with_layer(replace(layer, ride=self.ride))

    def inverse(self, before: Scene) -> Command:
        ride = before.layer(self.layer_id).ride
        return AttachRide(self.layer_id, ride) if ride else DetachRide(self.layer_id)

    def touches(self) -> tuple[Key, ...]:
        return (("layer", self.layer_id, "ride"),)

    def describe(self, scene: Scene) -> str:
        return f"Put {scene.layer(self.layer_id).name} on {scene.path(self.ride.path).name}"


@register
@document
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
