"""Copies of a rider: set, taken away, made layers."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from pydantic import ValidationError

from coaster.commands.base import Command
from coaster.commands.fields import set_ride
from coaster.commands.layers import AddLayer, place_of
from coaster.edits.edit import Edit, edit_of
from coaster.edits.making import LONGEST_NAME
from coaster.errors import EditRefused
from coaster.ids import fresh_id, fresh_name
from coaster.motion.copies import MOST_COPIES, Copies, Spread
from coaster.motion.distance import Way
from coaster.motion.ride import Ride
from coaster.render.copies import copies_of
from coaster.scene.codec import words_of
from coaster.scene.document import Scene


def set_copies(scene: Scene, layer_id: str, values: Mapping[str, Any]) -> Edit:
    """Let more riders like one ride its path, or change how they do; put on nodes, as many as there
    are.

    Errors: EditRefused: it rides none, or there is nothing to spread them over.
    """
    layer, ride = scene.layer(layer_id), scene.ride_of(layer_id)
    if values.get("count") == 1:
        return without_copies(scene, layer_id)
    if layer.rides_in_parts:
        raise EditRefused(
            f"The letters of {layer.name} ride by themselves; let it ride in one first."
        )
    if layer.wake is not None:
        raise EditRefused(f"{layer.name} leaves a wake, and has no copies beside that.")
    before = ride.copies or Copies()
    wanted = dict(values)
    standing = wanted.get("standing", before.standing)
    spread = wanted.get("spread", before.spread)
    if "places" in wanted:
        wanted["count"] = len(wanted["places"]) + 1
    elif "spread" in wanted or "standing" in wanted:
        wanted |= _spread_anew(scene, ride, replace(before, standing=standing), spread)
    elif "count" in wanted and spread == "places":
        raise EditRefused("There is one at each place; write the places, and there are as many.")
    try:
        copies = replace(before, **wanted)
    except ValidationError as error:
        raise EditRefused(f"Copies of {layer.name}: {words_of(error)}") from error
    return edit_of([set_ride(layer_id, copies=copies)], f"Copies of {layer.name}")


def _spread_anew(scene: Scene, ride: Ride, before: Copies, spread: Spread) -> dict[str, Any]:
    """Return how many copies there are by another way to spread them, and at which places.

    Errors: EditRefused: there are no two nodes to be put on.
    """
    path = scene.path(ride.path)
    way = Way(path, ride)
    if spread == "nodes":
        if len(path.nodes()) < 2:
            raise EditRefused(f"{path.name} has one node, and copies on nodes need two.")
        return {"count": min(len(path.nodes()) + before.standing, MOST_COPIES)}
    if spread == "places" and before.spread != "places":
        # Where they are now.
        spots = way.length, way.node_distances()
        found = before.stands(*spots) if before.standing else before.shifts(*spots)[1:]
        places = tuple(round(float(each), 2) for each in found)
        return {"places": places, "count": len(places) + 1}
    return {}


def without_copies(scene: Scene, layer_id: str) -> Edit:
    """Leave one rider of those that there are."""
    words = f"No copies of {scene.layer(layer_id).name}"
    return edit_of([set_ride(layer_id, copies=None)], words)


def copies_as_layers(scene: Scene, layer_id: str) -> Edit:
    """Put layers in place of the copies of a rider, behind it, each with a ride of its own.

    Errors: EditRefused: it has none.
    """
    layer, place = scene.layer(layer_id), place_of(scene, layer_id)
    if layer.content.can.hold:
        raise EditRefused(f"{layer.name} is a group: duplicate it, and shift the other one along.")
    found = () if layer.rides_in_parts else copies_of(scene, layer)
    if not found:
        raise EditRefused(f"{layer.name} has no copies to make layers of.")
    ids, names = ({getattr(x, key) for x in scene.layers} for key in ("id", "name"))
    steps: list[Command] = [set_ride(layer_id, copies=None)]
    for copy in found:
        name = fresh_name(layer.name[:LONGEST_NAME], names)
        own = fresh_id(name, ids, "layer")
        names.add(name)
        ids.add(own)
        # Each behind the one before, as they are drawn.
        steps.append(AddLayer(replace(copy, id=own, name=name, mask=layer.mask), place))
    return edit_of(steps, f"The copies of {layer.name} as layers")
