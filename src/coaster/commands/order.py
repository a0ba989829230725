"""What holds of rides that begin when another one does something, after whatever was done."""

from collections.abc import Iterator, Sequence
from dataclasses import replace

from coaster.commands import applied
from coaster.commands.base import Command
from coaster.commands.fields import SetField, set_ride
from coaster.commands.layers import AddLayer
from coaster.motion.distance import Way, frame_at_node
from coaster.motion.ride import After, Ride
from coaster.scene.document import Layer, Scene

CLOSE = 1e-6
"""Frames within which a ride begins when it is to."""


def with_order(
    scene: Scene, steps: Sequence[Command]
) -> tuple[tuple[Command, ...], tuple[str, ...]]:
    """Return commands, and after them those by which rides begin when the ones that they follow
    say; and what there is to say of it.

    A ride that was itself moved in time keeps its place: it now follows so much later. One whose
    leader is gone begins by itself.
    """
    if not any(map(_follows, scene.layers)) and not any(map(_may_follow, steps)):
        return tuple(steps), ()
    made, notes = list(steps), list[str]()
    before, after = scene, applied(scene, steps)
    for layer in _in_order(after):
        ride = layer.ride
        if ride is None or ride.after is None:
            continue
        time = event_time(after, ride.after)
        if time is None:
            notes.append(f"{layer.name} begins by itself now: what it followed is gone.")
            step = set_ride(layer.id, after=None)
        elif abs(time + ride.after.frames - ride.start) <= CLOSE:
            continue
        elif _was_moved(before, layer):
            step = set_ride(layer.id, after=replace(ride.after, frames=ride.start - time))
        else:
            shift = time + ride.after.frames - ride.start
            pegs = tuple(replace(peg, time=peg.time + shift) for peg in ride.pegs)
            step = set_ride(layer.id, pegs=pegs)
        made.append(step)
        after = applied(after, [step])
    return tuple(made), tuple(notes)


def _follows(layer: Layer) -> bool:
    return layer.ride is not None and layer.ride.after is not None


def _may_follow(step: Command) -> bool:
    """Whether a command may bring the first ride that follows another."""
    if isinstance(step, SetField):
        return "after" in step.values
    added: Layer | None = getattr(step, "layer", None) if isinstance(step, AddLayer) else None
    ride: Ride | None = added.ride if added else getattr(step, "ride", None)
    return ride is not None and ride.after is not None


def _was_moved(before: Scene, layer: Layer) -> bool:
    """Whether an edit set when a ride begins that followed another one as it does now."""
    was = next((x.ride for x in before.layers if x.id == layer.id), None)
    ride = layer.ride
    assert ride is not None  # noqa: S101 - asked before
    return was is not None and was.after == ride.after and abs(was.start - ride.start) > CLOSE


def _in_order(scene: Scene) -> Iterator[Layer]:
    """Yield the layers, each after the one that it follows."""
    there = {layer.id: layer for layer in scene.layers}
    done = set[str]()
    for layer in scene.layers:
        chain = list(_chain(there, layer))
        for each in reversed(chain):
            if each.id not in done:
                done.add(each.id)
                yield each


def _chain(there: dict[str, Layer], layer: Layer) -> Iterator[Layer]:
    """Yield a layer, the one that it follows, and so on; in a ring each once."""
    seen = set[str]()
    now: Layer | None = layer
    while now is not None and now.id not in seen:
        seen.add(now.id)
        yield now
        followed = now.ride.after.layer if now.ride and now.ride.after else ""
        now = there.get(followed)


def follows(scene: Scene, layer_id: str, other_id: str) -> bool:
    """Whether a layer begins when another one does, at once or through others in a row."""
    there = {layer.id: layer for layer in scene.layers}
    return any(each.id == other_id for each in _chain(there, scene.layer(layer_id)))


def event_time(scene: Scene, after: After) -> float | None:
    """Return the frame at which it happens; None where the one who does it is gone, rides nothing,
    or never comes by there.
    """
    leader = next((layer for layer in scene.layers if layer.id == after.layer), None)
    ride: Ride | None = leader.ride if leader else None
    if ride is None or leader is None:
        return None
    if after.event != "passes":
        return ride.end if after.event == "ends" else ride.start
    way = Way(scene.path(ride.path), ride, leader.keys_of("shift"))
    return frame_at_node(way, after.node or "", scene.length)
