"""The order of actions: what a ride begins with."""

from dataclasses import replace

from coaster.commands.fields import set_ride
from coaster.commands.order import event_time, follows
from coaster.edits.edit import Edit, edit_of
from coaster.errors import EditRefused
from coaster.motion.ride import After, Event
from coaster.scene.document import Scene

WORDS: dict[Event, str] = {
    "starts": "{name} with {other}",
    "ends": "{name} after {other}",
    "passes": "{name} when {other} comes by",
}


def follow(
    scene: Scene,
    layer_id: str,
    other_id: str,
    event: Event,
    frames: float = 0.0,
    node: str | None = None,
) -> Edit:
    """Let a ride begin so many frames after another one starts, ends, or comes to a node.

    Errors: EditRefused: it would follow itself, at once or through others; the other rides nothing,
            or never comes by there.
    """
    layer, other = scene.layer(layer_id), scene.layer(other_id)
    scene.ride_of(layer_id)
    if follows(scene, other_id, layer_id):
        words = "itself" if other_id == layer_id else f"{other.name}, which follows it"
        raise EditRefused(f"{layer.name} cannot begin after {words}.")
    after = After(other_id, event, frames, node if event == "passes" else None)
    if event_time(scene, after) is None:
        what = "never comes by there" if other.ride else "rides no path, and so begins nothing"
        raise EditRefused(f"{other.name} {what}; {layer.name} begins when it did.")
    words = WORDS[event].format(name=layer.name, other=other.name)
    return edit_of([set_ride(layer_id, after=after)], words)


def later(scene: Scene, layer_id: str, frames: float) -> Edit:
    """Let a ride follow the one that it does so many frames later."""
    layer, after = scene.layer(layer_id), scene.ride_of(layer_id).after
    if after is None:
        raise EditRefused(f"{layer.name} follows no other ride.")
    changed = replace(after, frames=frames)
    return edit_of([set_ride(layer_id, after=changed)], f"What {layer.name} follows")


def by_itself(scene: Scene, layer_id: str) -> Edit:
    """Let a ride begin when it does, whatever others do."""
    words = f"{scene.layer(layer_id).name} begins by itself"
    return edit_of([set_ride(layer_id, after=None)], words)
