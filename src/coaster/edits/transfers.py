"""Rides made, given and turned into something else: pinning, giving, taking off, baking, drawing a
pace.
"""

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from coaster.commands.base import Command
from coaster.commands.fields import set_layer, set_ride
from coaster.commands.layers import SetKeys
from coaster.commands.paths import AddPath, reshaped_commands
from coaster.commands.rides import AttachRide, DetachRide, refuse_follower
from coaster.edits.carriers import riding_commands
from coaster.edits.edit import Edit, called, edit_of
from coaster.edits.keys import value_at
from coaster.edits.layers import standing_still_commands
from coaster.edits.making import like_path, path_names
from coaster.edits.rides import way_of
from coaster.edits.spaces import Side, beside_home, home_of, level_with
from coaster.errors import EditRefused
from coaster.geometry.path import Path, Vec2
from coaster.motion import bake, easing, pins, timing
from coaster.motion.keys import number, with_key
from coaster.motion.pegs import off_nodes
from coaster.motion.ride import Facing, Ride
from coaster.motion.sections import retimed
from coaster.motion.travel import Travel
from coaster.render import places
from coaster.render.evaluate import Evaluation
from coaster.scene.document import Layer, Scene

SAME_DEPTH = 1e-6
"""Px within which a layer stays as deep as it is."""


def detach(scene: Scene, layer_id: str, frame: float) -> Edit:
    """Take a layer off its path; it stays where it is at a frame."""
    steps = standing_still_commands(scene, layer_id, frame)
    return edit_of(steps, notes=_copies_gone(scene.layer(layer_id)))


def _copies_gone(layer: Layer) -> list[str]:
    if layer.ride is None or layer.ride.copies is None:
        return []
    return [
        f"The copies of {layer.name} are gone with its ride; to keep them, undo, and make layers of"
        " them first."
    ]


def pin(scene: Scene, layer_id: str, frame: float, point: Vec2, side: Side | None = None) -> Edit:
    """Place a layer at a frame, on a place of the scene as it is seen, or drawn from a ``side``: a
    node in its path and a peg on it.

    The first two places make the path.
    """
    layer = scene.layer(layer_id)
    if not layer.content.can.stand:
        raise EditRefused(f"{layer.name} is a line and follows its path; it cannot be pinned.")
    words = f"Pin {layer.name} at {frame / scene.fps:.2f} s"
    if layer.ride is None:
        place = _place_of(scene, layer, frame, point, side)
        return _pinned_by_keys(scene, layer, frame, place, words)
    return edit_of(_pinned_to_path(scene, layer, layer.ride, frame, point, side), words)


def _pinned_to_path(
    scene: Scene, layer: Layer, ride: Ride, frame: float, point: Vec2, side: Side | None
) -> list[Command]:
    if ride.relative:
        raise EditRefused(
            f"{layer.name} begins at its own place, away from its path; turn Pin off to drag it, or"
            " let it begin on its path first."
        )
    if layer.track("shift"):
        raise EditRefused(
            f"{layer.name} has keys of its shift along the path; clear them to pin places."
        )
    path = scene.path(ride.path)
    space = level_with(scene, layer, path.parent, frame, side)
    # What it is deeper by itself is added to its path.
    place = (*space.place(point), space.depth(point) - _depth_of(layer, frame))
    after, pegs = pins.pinned(path, ride, frame, place, easing.Bezier(*scene.pace))
    return [*reshaped_commands(scene, after), set_ride(layer.id, pegs=pegs)]


def _depth_of(layer: Layer, frame: float) -> float:
    return float(value_at(layer, "z", frame))


def _place_of(
    scene: Scene, layer: Layer, frame: float, point: Vec2, side: Side | None
) -> pins.Spot:
    """Return x, y and z of a layer that rides nothing, for a place that is pointed at."""
    if side is None:
        return (*home_of(scene, layer, frame).place(point), _depth_of(layer, frame))
    x, y, z = places.point_of(scene, layer.id, frame)
    now, home = (x, -z) if side == "above" else (z, y), beside_home(scene, layer, frame, side)
    by = point[0] - now[0], point[1] - now[1]
    across, down = home.shift(by)
    x, y, z = (float(value_at(layer, name, frame)) for name in "xyz")
    return x + across, y + down, z + home.deeper(by)


def _pinned_by_keys(scene: Scene, layer: Layer, frame: float, place: pins.Spot, words: str) -> Edit:
    """Pin a layer that rides nothing: by keys of its place first, from the second place on by
    a path.
    """
    x, y, z = (layer.track(name) for name in "xyz")
    first = _only_place(layer)
    # What is carried goes on by keys: a path would take it off its carrier.
    if first is not None and layer.carrier is None and abs(first[0] - frame) > 1e-6:
        return _begun_path(scene, layer, first, (frame, place), words)
    hint = f"{layer.name} is pinned here. Go to another time and drag it on."
    curve = easing.Bezier(*scene.pace)
    steps = [
        SetKeys(layer.id, name, with_key(layer.keys_of(name), frame, value, curve))
        for name, value in zip("xyz", place, strict=True)
        if name != "z" or z or abs(value - layer.transform.z) > SAME_DEPTH
    ]
    return edit_of(steps, words, [] if x and y else [hint])


def _only_place(layer: Layer) -> tuple[float, pins.Spot] | None:
    """Return the time and place of the one key that x and y have, if it is one of each, and z has
    no more.
    """
    x, y, z = (layer.keys_of(name) for name in "xyz")
    if len(x) != 1 or len(y) != 1 or len(z) > 1:
        return None
    deep = number(z[0]) if z else layer.transform.z
    return x[0].time, (number(x[0]), number(y[0]), deep)


def _begun_path(
    scene: Scene,
    layer: Layer,
    first: tuple[float, pins.Spot],
    second: tuple[float, pins.Spot],
    words: str,
) -> Edit:
    named, own = path_names(scene.paths, f"Way of {layer.name}"), layer.transform.z
    # What it is deeper by itself is added to its path.
    one, two = ((time, (x, y, z - own)) for time, (x, y, z) in (first, second))
    path, ride = pins.begun(*named, one, two, easing.Bezier(*scene.pace))
    note = (
        f"{layer.name} now rides a path of its own, {path.name}. Each further pin makes a node"
        " in it."
    )
    steps = [
        AddPath(replace(path, parent=layer.parent)),
        *(SetKeys(layer.id, name, ()) for name in "xyz" if layer.track(name)),
        AttachRide(layer.id, replace(ride, facing=Facing("fixed"))),
    ]
    return edit_of(steps, words, [note])


def give(scene: Scene, layer_id: str, to: str, only: str = "ride") -> Edit:
    """Give a rider's ``ride``, with path, pace and facing, to another layer, or its ``pace`` or
    ``facing`` alone.
    """
    giver, taker, ride = scene.layer(layer_id), scene.layer(to), scene.ride_of(layer_id)
    words = f"Give the {only} of {giver.name} to {taker.name}"
    # Nobody looks at itself: it looks at where it was, from now on.
    if ride.facing.target == taker.id:
        spot = places.into_group(scene, taker.parent, places.spot_of(scene, taker.id, 0), 0)
        ride = replace(ride, facing=replace(ride.facing, target=None, spot=spot))
    if only == "ride":
        return edit_of(riding_commands(scene, taker, ride), words)
    theirs = scene.ride_of(taker.id)
    if only == "facing":
        # Angles stand at nodes, and another path has others.
        angles = ride.facing.angles if theirs.path == ride.path else ()
        return edit_of([set_ride(taker.id, facing=replace(ride.facing, angles=angles))], words)
    return edit_of([set_ride(taker.id, pegs=off_nodes(way_of(scene, layer_id)))], words)


def bake_ride(scene: Scene, layer_id: str, first: int, last: int | None) -> Edit:
    """Turn a ride into keys of x, y and turn, one a frame, from a first frame to a last."""
    layer, ride = scene.layer(layer_id), scene.ride_of(layer_id)
    end = scene.length if last is None else last
    if not first < end <= scene.length:
        raise EditRefused(f"The frames run from a first to a later one, up to {scene.length}.")
    gone = Evaluation(scene).motion(layer.id).travel
    assert gone is not None  # noqa: S101 - it rides
    frames = slice(first, end + 1)
    x, y = gone.position[frames].T
    steps: list[Command] = [
        DetachRide(layer.id),
        SetKeys(layer.id, "x", bake.a_key_a_frame(x, first)),
        SetKeys(layer.id, "y", bake.a_key_a_frame(y, first)),
        # They shift along a path, and there is none any more.
        SetKeys(layer.id, "shift", ()),
        *_baked_facing(scene, layer, ride.facing, gone, frames),
    ]
    notes = _copies_gone(layer)
    if ride.facing.keep_upright and np.any(gone.upside < 0):
        notes.append("Keeping upright has no keys: where it was mirrored, it is not any more.")
    return edit_of(steps, f"Turn the ride of {layer.name} into keys of x and y", notes)


def _baked_facing(
    scene: Scene, layer: Layer, facing: Facing, gone: Travel, frames: slice
) -> list[Command]:
    """Return the commands that keep a rider's turn and flips without its ride."""
    steps: list[Command] = []
    if facing.mode != "fixed" or facing.turn:
        angles = np.degrees(gone.facing) + facing.turn
        turn = angles + places.keyed(layer, "turn", np.arange(scene.length + 1.0))
        made = bake.a_key_a_frame(turn[frames], frames.start)
        steps.append(SetKeys(layer.id, "turn", made))
    return steps + _flip_commands(layer, facing)


def _flip_commands(layer: Layer, facing: Facing) -> list[Command]:
    """Return the commands that mirror a layer as its facing does."""
    across, down = (-1.0 if flip else 1.0 for flip in (facing.flip_x, facing.flip_y))
    if across == down == 1.0:
        return []
    x, y = layer.transform.scale
    flipped = replace(layer.transform, scale=(x * across, y * down))
    steps: list[Command] = [set_layer(layer.id, transform=flipped)]
    scale = layer.keys_of("scale")
    if scale and across < 0:
        # Keys of scale tell the width, and take the transform's place.
        made = tuple(replace(key, value=-float(key.value)) for key in scale)
        steps.append(SetKeys(layer.id, "scale", made))
    return steps


def _keyed_span(scene: Scene, layer: Layer) -> tuple[int, int]:
    """Return the first and the last frame in which keys of x and y move a layer."""
    x, y = layer.keys_of("x"), layer.keys_of("y")
    if layer.ride is not None or not x or not y:
        raise EditRefused(
            f"{layer.name} has no keys of x and y that place it; there is nothing to fit a path to."
        )
    # Before its first key and after its last one a property stands still: nothing there is to be
    # fitted.
    first, last = min(x[0].time, y[0].time), max(x[-1].time, y[-1].time)
    return max(0, math.ceil(first)), min(scene.length, math.floor(last))


def fit_path(scene: Scene, layer_id: str, tolerance: float) -> Edit:
    """Turn keys of x and y back into a path with a ride, within a tolerance in px."""
    layer = scene.layer(layer_id)
    begin, end = _keyed_span(scene, layer)
    spots = places.spots_in_group(scene, layer_id)[begin : end + 1]
    named = path_names(scene.paths, f"Way of {layer.name}")
    found = bake.fit_back(*named, np.arange(begin, end + 1.0), spots, tolerance)
    ride = replace(found.ride, facing=Facing("fixed"))
    # Fitted to places in the px of the layer's group, so there it belongs.
    path = replace(found.path, parent=layer.parent)
    cleared = (SetKeys(layer.id, name, ()) for name in "xy")
    steps = [AddPath(path), *cleared, *riding_commands(scene, layer, ride)]
    notes = [_fit_words(found, ride, tolerance)]
    return edit_of(steps, f"Fit a path to the keys of {layer.name}", notes)


def _fit_words(found: bake.FittedBack, ride: Ride, tolerance: float) -> str:
    counts = f"{called(len(found.path.nodes()), 'node')} and {called(len(ride.pegs), 'peg')}"
    said = f"{found.path.name}: {counts}, at most {found.deviation:.2f} px from where it was."
    if found.deviation <= tolerance:
        return said
    return f"{said} That is more than {tolerance:g} px: it moves too roughly for that."


def draw_pace(scene: Scene, layer_id: str, stroke: Sequence[tuple[float, float]]) -> Edit:
    """Give a ride the speed that was drawn over time: pairs of frame and px/s."""
    way = way_of(scene, layer_id)
    times, speeds = zip(*stroke, strict=True)
    tolerance = max(way.length / 1000, 0.5)
    pegs, miss = timing.fit_speeds(way, times, np.array(speeds) / scene.fps, tolerance=tolerance)
    fresh = len(pegs) - len(way.ride.pegs)
    note = (
        f"{called(fresh, 'peg')} more; within {miss:.1f} px of what was drawn, arrival times held."
    )
    words = f"Draw the pace of {scene.layer(layer_id).name}"
    return edit_of([set_ride(layer_id, pegs=pegs)], words, [note])


def take_ride(scene: Scene, layer_id: str, kept: Scene, words: str) -> Edit:
    """Put a layer on a ride that was kept as a scene of its own, by its layer ``rider``.

    A path of the scene that is the kept one is used as it is; else it is added. Seconds stay at
    another frame rate.
    """
    layer = scene.layer(layer_id)
    refuse_follower(layer)
    ride, path = kept.ride_of("rider"), kept.paths[0]
    factor = scene.fps / kept.fps
    if factor != 1:
        ride = replace(ride, pegs=retimed(ride.pegs, ride.start * factor, ride.end * factor))
    same = next((mine for mine in scene.paths if mine.subpaths == path.subpaths), None)
    if same is not None:
        return edit_of(riding_commands(scene, layer, replace(ride, path=same.id)), words)
    fresh: Path = replace(like_path(scene, path.name, path), locked=False, parent=None)
    attached = riding_commands(scene, layer, replace(ride, path=fresh.id))
    return edit_of([AddPath(fresh), *attached], words)
