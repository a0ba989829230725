"""Carriers: a layer travels with another one, and lets go of it."""

from collections.abc import Collection, Sequence
from dataclasses import replace

from coaster.commands.base import Command
from coaster.commands.fields import set_layer
from coaster.commands.layers import SetKeys
from coaster.commands.rides import AttachRide
from coaster.edits.edit import Edit, edit_of
from coaster.edits.kept import with_kept
from coaster.errors import EditRefused
from coaster.motion.ride import Ride
from coaster.scene.carriers import Carrier
from coaster.scene.document import Layer, Scene
from coaster.scene.properties import PLACES


def carry(
    scene: Scene, layer_ids: Sequence[str], carrier_id: str, frame: float, *, distance: bool = True
) -> Edit:
    """Let layers travel with another one, from where they are seen at a frame; without
    ``distance`` they sit on its anchor. Lines are drawn in step with it.

    Errors: EditRefused: they ride, move in a way that cannot be kept, or are lines of a path that
            the other one does not ride.
    """
    carrier = scene.layer(carrier_id)
    layers = [scene.layer(each) for each in layer_ids]
    if any(layer.id == carrier.id for layer in layers):
        raise EditRefused(f"{carrier.name} cannot carry itself.")
    for layer in layers:
        _check_free(scene, layer, carrier)
    steps = [set_layer(layer.id, carrier=Carrier(carrier.id)) for layer in layers]
    names = ", ".join(layer.name for layer in layers)
    leads = any(layer.content.can.trail for layer in layers)
    words = f"{carrier.name} leads {names}" if leads else f"{carrier.name} carries {names}"
    if not distance:
        placed = [step for layer in layers for step in _sitting_commands(layer)]
        return edit_of([*steps, *placed], words)
    return edit_of(with_kept(scene, list(steps), [x.id for x in layers], frame), words)


def _check_free(scene: Scene, layer: Layer, carrier: Layer) -> None:
    if layer.ride is not None:
        path = scene.path(layer.ride.path).name
        raise EditRefused(
            f"{layer.name} rides {path}, which sets its place; take it off its path first."
        )
    path_id = layer.content.path_id()
    if path_id is not None and not carrier.rides(path_id):
        raise EditRefused(
            f"{layer.name} is a line of {scene.path(path_id).name}, which {carrier.name} does not"
            " ride; it is drawn in step with a rider of its own path."
        )


def _sitting_commands(layer: Layer) -> list[Command]:
    seated = set_layer(layer.id, transform=replace(layer.transform, position=(0.0, 0.0)))
    return [seated, *(SetKeys(layer.id, name, ()) for name in PLACES if layer.track(name))]


def take_along(
    scene: Scene,
    layer_id: str,
    frame: float,
    *,
    turn: bool | None = None,
    scale: bool | None = None,
) -> Edit:
    """Set whether a layer turns and scales with its carrier; it stays where a frame shows it."""
    layer = scene.layer(layer_id)
    carrier = _carrier_of(layer)
    changed = replace(
        carrier,
        turn=carrier.turn if turn is None else turn,
        scale=carrier.scale if scale is None else scale,
    )
    steps: list[Command] = [set_layer(layer.id, carrier=changed)]
    return edit_of(with_kept(scene, steps, [layer.id], frame), f"Carrier of {layer.name}")


def sit_on(scene: Scene, layer_id: str) -> Edit:
    """Put a layer's anchor on that of its carrier."""
    layer = scene.layer(layer_id)
    carrier = scene.layer(_carrier_of(layer).layer)
    return edit_of(_sitting_commands(layer), f"Put {layer.name} on {carrier.name}")


def let_go(scene: Scene, layer_ids: Sequence[str], frame: float) -> Edit:
    """Let layers stand by themselves, where a frame shows them."""
    names = ", ".join(scene.layer(each).name for each in layer_ids)
    return edit_of(let_go_commands(scene, layer_ids, frame), f"Let go of {names}"[:180])


def let_go_commands(scene: Scene, layer_ids: Sequence[str], frame: float) -> list[Command]:
    """Return the commands that take the carriers of layers away and leave these in place."""
    carried = [each for each in layer_ids if scene.layer(each).carrier is not None]
    return with_kept(scene, [set_layer(each, carrier=None) for each in carried], carried, frame)


def riding_commands(scene: Scene, layer: Layer, ride: Ride) -> list[Command]:
    """Return the commands that put a layer on a ride, which then sets its place alone."""
    return [*let_go_commands(scene, [layer.id], 0), AttachRide(layer.id, ride)]


def carried_by(scene: Scene, carrier_ids: Collection[str]) -> list[str]:
    """Return the layers, others than those, that some layers carry."""
    return [
        layer.id
        for layer in scene.layers
        if layer.carrier and layer.carrier.layer in carrier_ids and layer.id not in carrier_ids
    ]


def _carrier_of(layer: Layer) -> Carrier:
    if layer.carrier is None:
        raise EditRefused(f"No layer carries {layer.name}.")
    return layer.carrier
