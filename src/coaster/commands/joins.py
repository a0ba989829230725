"""What holds of pegs that are joined, after whatever was done to their ride or its path."""

from collections.abc import Iterator, Sequence

from coaster.commands import applied
from coaster.commands.base import Command
from coaster.commands.fields import set_ride
from coaster.motion import pace
from coaster.motion.distance import Way
from coaster.scene.document import Scene


def with_joins(scene: Scene, steps: Sequence[Command]) -> tuple[Command, ...]:
    """Return commands, and after them those that bring joined pegs to one speed again, where these
    would part their sides.
    """
    if not any(peg.joined for each in scene.layers if each.ride for peg in each.ride.pegs):
        return tuple(steps)
    return (*steps, *_rejoining(scene, applied(scene, steps)))


def _rejoining(before: Scene, after: Scene) -> Iterator[Command]:
    ways = {
        layer.id: (layer.ride, before.path(layer.ride.path))
        for layer in before.layers
        if layer.ride
    }
    for layer in after.layers:
        if layer.ride is None or not any(peg.joined for peg in layer.ride.pegs):
            continue
        path = after.path(layer.ride.path)
        ride, old = ways.get(layer.id, (None, None))
        # By identity: what was not touched is the same value.
        if ride is layer.ride and old is path:
            continue
        was = Way(old, ride) if ride is not None and old is not None else None
        pegs = pace.rejoined(was, Way(path, layer.ride))
        if pegs != layer.ride.pegs:
            yield set_ride(layer.id, pegs=pegs)
