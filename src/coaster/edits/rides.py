"""Rides: attaching, facing, time, pace and pegs."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from coaster.commands.base import Command
from coaster.commands.fields import set_layer, set_ride
from coaster.commands.layers import SetKeys
from coaster.commands.paths import reshaped_commands
from coaster.edits.carriers import riding_commands
from coaster.edits.edit import Edit, edit_of
from coaster.edits.keys import Moment, keys_after
from coaster.edits.spaces import AS_IT_IS, Space
from coaster.errors import EditRefused
from coaster.motion import pace, pins
from coaster.motion.distance import Way, period_of
from coaster.motion.easing import Bezier, Pace, Steps
from coaster.motion.first import first_ride
from coaster.motion.pegs import off_nodes, peg_at, trimmed_pegs, with_peg, without_peg
from coaster.motion.ride import AtPercent, Facing, NodeAngle, Peg, with_laps
from coaster.motion.sections import paced, retimed
from coaster.render.faces import standing_face
from coaster.render.frames import Frames
from coaster.render.places import Known, stands
from coaster.scene import tree
from coaster.scene.document import Layer, Scene
from coaster.scene.properties import PLACES

Pegs = tuple[Peg, ...]


def way_of(scene: Scene, layer_id: str) -> Way:
    """Return a layer's path as it rides it, its shift by keys left out."""
    ride = scene.ride_of(layer_id)
    return Way(scene.path(ride.path), ride)


def _pegs(layer_id: str, pegs: Pegs, words: str = "") -> Edit:
    return edit_of([set_ride(layer_id, pegs=pegs)], words)


def attach(scene: Scene, layer_id: str, path_id: str) -> Edit:
    """Put a layer on a path; one that rides already keeps its facing, its copies, its letters."""
    layer, path = scene.layer(layer_id), scene.path(path_id)
    if layer.rides(path.id):
        raise EditRefused(f"{layer.name} rides {path.name} already.")
    # What a camera sees is not to turn with its path, unless that is asked for.
    usual = Facing("fixed") if layer.content.can.view else None
    facing = layer.ride.facing if layer.ride else usual
    ride = first_ride(
        path, width=scene.width, rate=scene.rate, scene_length=scene.length, facing=facing,
        pace=Bezier(*scene.pace),
    )  # fmt: skip
    if (now := layer.ride) is not None:
        ride = replace(ride, copies=now.copies, letters=now.letters, beyond=now.beyond)
    steps = riding_commands(scene, layer, ride)
    words = f"Put {layer.name} on {path.name}"
    return edit_of(steps, words, [*_let_go(scene, layer), *_what_rides(scene, layer)])


def _let_go(scene: Scene, layer: Layer) -> list[str]:
    if layer.carrier is None:
        return []
    return [f"{scene.layer(layer.carrier.layer).name} carries {layer.name} no more."]


def _what_rides(scene: Scene, layer: Layer) -> list[str]:
    """Say whether the layer or its group rides, where that could be mistaken."""
    groups = tree.ancestors(scene, layer.parent)
    if not groups:
        return []
    return [
        f"{layer.name} rides by itself, inside {groups[0].name}; put {groups[0].name} on the path"
        " to move all of it."
    ]


def set_facing(scene: Scene, layer_id: str, values: Mapping[str, Any]) -> Edit:
    """Set fields of a facing; a mode that is new begins with something to see."""
    layer, facing = scene.layer(layer_id), scene.ride_of(layer_id).facing
    fields = dict(values)
    mode = fields.get("mode")
    if mode == "target" and facing.target is None and facing.spot == (0.0, 0.0):
        # A new target in the corner of the frame would look like a fault.
        fields.setdefault("spot", (scene.width / 2, scene.height / 2))
    if mode == "roll" and facing.mode != "roll":
        fields.setdefault("per_px", _rolling(layer, facing))
    return edit_of([set_ride(layer.id, facing=replace(facing, **fields))])


def _rolling(layer: Layer, facing: Facing) -> float:
    """Return the degrees a px of a wheel that does not slip: once round for the way of its rim."""
    height = standing_face(layer, None).size[1] * abs(layer.transform.scale[1])
    return round(360 / (np.pi * height), 4) if height else facing.per_px


def look_at_point(
    scene: Scene, layer_id: str, x: float | None, y: float | None, space: Space = AS_IT_IS
) -> Edit:
    """Let a rider look at a point; a coordinate that is None stays."""
    now = scene.ride_of(layer_id).facing.spot
    spot = space.place((now[0] if x is None else x, now[1] if y is None else y))
    return set_facing(scene, layer_id, {"target": None, "spot": spot})


def set_angle(scene: Scene, layer_id: str, node_id: str, angle: float) -> Edit:
    """Set the angle at a node of the path."""
    ride = scene.ride_of(layer_id)
    path = scene.path(ride.path)
    # Refuses a node that is not there.
    path.node(node_id)
    kept = {each.node: each for each in ride.facing.angles} | {node_id: NodeAngle(node_id, angle)}
    return set_facing(
        scene, layer_id, {"angles": tuple(kept[n.id] for n in path.nodes() if n.id in kept)}
    )


def remove_angle(scene: Scene, layer_id: str, node_id: str) -> Edit:
    angles = scene.ride_of(layer_id).facing.angles
    return set_facing(
        scene, layer_id, {"angles": tuple(each for each in angles if each.node != node_id)}
    )


def _check_moves(scene: Scene, layer_id: str) -> None:
    """Errors: EditRefused: with one peg there is no time between two to be shaped."""
    if len(scene.ride_of(layer_id).pegs) < 2:
        raise EditRefused(
            f"{scene.layer(layer_id).name} rests at its one peg; put a second one in, and there is"
            " a time to shape."
        )


def retime(
    scene: Scene, layer_id: str, start: float | None, lasts: float | None, laps: float | None
) -> Edit:
    """Set start and duration in frames, and laps; None stays as it is."""
    ride, name = scene.ride_of(layer_id), scene.layer(layer_id).name
    begin = ride.start if start is None else start
    if lasts is not None or laps is not None:
        _check_moves(scene, layer_id)
    duration = ride.end - ride.start if lasts is None else lasts
    if duration <= 0 and len(ride.pegs) > 1:
        raise EditRefused("A ride lasts more than 0 frames.")
    if laps == 0:
        raise EditRefused("A ride of 0 laps goes nowhere; write 1 for once along the path.")
    pegs = retimed(ride.pegs, begin, begin + duration)
    return _pegs(layer_id, pegs if laps is None else with_laps(pegs, laps), f"Time of {name}")


def trim(scene: Scene, layer_id: str, start: float | None, end: float | None) -> Edit:
    """Cut a ride's time without moving what is left of it."""
    pegs = trimmed_pegs(way_of(scene, layer_id), start, end)
    return _pegs(layer_id, pegs, f"Trim the ride of {scene.layer(layer_id).name}")


def set_pace(scene: Scene, layer_id: str, wanted: Pace | Steps) -> Edit:
    """Give every section of a ride a pace; steps put pegs in where it jumps."""
    _check_moves(scene, layer_id)
    way = way_of(scene, layer_id)
    words = f"Pace of {scene.layer(layer_id).name}"
    if isinstance(wanted, Steps):
        return _pegs(layer_id, pace.in_steps(way, wanted), words)
    # A curve of its own in each section parts the sides of the pegs between.
    parted = tuple(replace(peg, joined=False) for peg in way.ride.pegs)
    return _pegs(layer_id, paced(parted, wanted), words)


def set_course(scene: Scene, layer_id: str, values: Mapping[str, Any], moment: Moment) -> Edit:
    """Shift a rider along its path, or set what gaps do, how softly it follows, whether it may run
    back.

    A shift with keys is kept in them.
    """
    layer = scene.layer(layer_id)
    scene.ride_of(layer_id)
    if layer.track("shift") is not None and "offset" in values:
        made = keys_after(scene, layer, "shift", values["offset"], moment)
        return edit_of([SetKeys(layer_id, "shift", made or ())])
    return edit_of(
        [set_ride(layer_id, **values)] if values else [], f"Way of {layer.name} along its path"
    )


def ride_from(scene: Scene, layer_id: str, *, own: bool) -> Edit:
    """Let a ride begin at the layer's own place, which is where it begins now; or on its path."""
    layer, ride = scene.layer(layer_id), scene.ride_of(layer_id)
    words = f"Where {layer.name} rides from"
    steps: list[Command] = [set_ride(layer_id, relative=own)]
    if not own or ride.relative:
        return edit_of(steps, words)
    one = Known(scene).placed(layer)
    (stand,) = stands([one], Frames(np.array([ride.start])))
    x, y = (round(float(each), 3) for each in stand.spots[0])
    steps.append(set_layer(layer_id, transform=replace(layer.transform, position=(x, y))))
    # Keys of its place rest while it rides: they would only tell another one.
    steps += [SetKeys(layer_id, name, ()) for name in PLACES if layer.track(name)]
    return edit_of(steps, words)


def add_peg(scene: Scene, layer_id: str, frame: float) -> Edit:
    """Put a peg in where the rider is at a frame."""
    return _pegs(layer_id, with_peg(way_of(scene, layer_id), frame))


def remove_peg(scene: Scene, layer_id: str, peg_id: str) -> Edit:
    layer, pegs = scene.layer(layer_id), without_peg(scene.ride_of(layer_id).pegs, peg_id)
    alone = [each.kind for each in layer.accents if each.when == "peg" and each.mark == peg_id]
    note = f"{layer.name} does its {', '.join(alone)} no more: that was at this peg."
    return edit_of([set_ride(layer_id, pegs=pegs)], notes=[note] if alone else [])


def move_peg(scene: Scene, layer_id: str, peg_id: str, percent: float) -> Edit:
    """Put a peg at a share of the length, the ride's shift included."""
    ride = scene.ride_of(layer_id)
    # What a person reads counts the shift in; what is kept does not.
    place = AtPercent(percent - ride.offset)
    return _pegs(
        layer_id, tuple(replace(p, place=place) if p.id == peg_id else p for p in ride.pegs)
    )


def peg_on_node(scene: Scene, layer_id: str, peg_id: str) -> Edit:
    """Let a peg stand on a node, which is put in where it is."""
    ride = scene.ride_of(layer_id)
    before = scene.path(ride.path)
    path, pegs = pins.on_nodes(before, ride, peg_id, pins.NEAR_PX)
    if path.subpaths != before.subpaths and (held := before.held("put a node in")):
        raise EditRefused(held)
    words = f"Put a peg of {scene.layer(layer_id).name} on a node"
    return edit_of([*reshaped_commands(scene, path), set_ride(layer_id, pegs=pegs)], words)


def peg_off_node(scene: Scene, layer_id: str, peg_id: str) -> Edit:
    """Let a peg stand at a share of the length."""
    way = way_of(scene, layer_id)
    pairs = zip(way.ride.pegs, off_nodes(way), strict=True)
    return _pegs(layer_id, tuple(off if off.id == peg_id else peg for peg, off in pairs))


def time_peg(scene: Scene, layer_id: str, peg_id: str, frame: float) -> Edit:
    return _pegs(layer_id, pace.moved_in_time(way_of(scene, layer_id), peg_id, frame))


@dataclass(frozen=True)
class PegSpeed:
    """A speed in px/s at a peg, on one side or both."""

    speed: float
    sides: tuple[pace.Side, ...] = ("in", "out")


def speed_peg(scene: Scene, layer_id: str, peg_id: str, wanted: PegSpeed) -> Edit:
    way = way_of(scene, layer_id)
    # A person says px a second, pegs say px a frame.
    pegs = pace.with_speed(way, peg_id, wanted.speed / scene.fps, wanted.sides)
    return _pegs(layer_id, pegs, f"Pace of {scene.layer(layer_id).name}")


def change_speed_here(scene: Scene, layer_id: str, frame: float, factor: float) -> Edit:
    """Let a rider be so many times as fast at a frame, by a peg there; when it comes and goes
    elsewhere stays.

    Errors: EditRefused: it rests there, or so fast a rider would have to run back.
    """
    way = way_of(scene, layer_id)
    name = scene.layer(layer_id).name
    pegs = way.ride.pegs if peg_at(way.ride.pegs, frame) else with_peg(way, frame)
    way = way.with_pegs(pegs)
    here = peg_at(pegs, frame)
    assert here is not None  # noqa: S101 - it was just put in
    told = pace.pace_at_pegs(way)[pegs.index(here)]
    now = max(told.arrive, told.leave)
    if not now:
        raise EditRefused(f"{name} rests at this frame; go to where it moves.")
    words = f"{'Slow' if factor < 1 else 'Fast'} here: {name}"
    most = min((most for most in (told.arrive_most, told.leave_most) if most), default=now)
    pegs = pace.with_speed(way, here.id, min(now * factor, most))
    return _pegs(layer_id, pegs, words)


def join_peg(scene: Scene, layer_id: str, peg_id: str, on: bool) -> Edit:
    """Let a peg be left as fast as it is come to, from now on, or part its sides."""
    words = f"{'Join' if on else 'Part'} a peg of {scene.layer(layer_id).name}"
    return _pegs(layer_id, pace.joined(way_of(scene, layer_id), peg_id, on=on), words)


def reach_peg(scene: Scene, layer_id: str, peg_id: str, reach: float, side: pace.Side) -> Edit:
    """Set how long the speed on one side of a peg holds on, a share of the section."""
    pegs = pace.with_reach(way_of(scene, layer_id), peg_id, reach, side)
    return _pegs(layer_id, pegs, f"Pace of {scene.layer(layer_id).name}")


def rest_at(scene: Scene, layer_id: str, peg_id: str, frames: float) -> Edit:
    """Let a rider rest at a peg for so many frames."""
    pegs = pace.pegs_with_rest(way_of(scene, layer_id), peg_id, frames)
    return _pegs(layer_id, pegs, f"Let {scene.layer(layer_id).name} rest")


def even(scene: Scene, layer_id: str) -> Edit:
    return _pegs(
        layer_id,
        pace.even_pegs(way_of(scene, layer_id)),
        f"Even speed of {scene.layer(layer_id).name}",
    )


def smooth(scene: Scene, layer_id: str) -> Edit:
    way = way_of(scene, layer_id)
    pegs = pace.smooth(way, round_the_seam=period_of(way, scene.length) is not None)
    return _pegs(layer_id, pegs, f"Smooth speed of {scene.layer(layer_id).name}")


def backwards(scene: Scene, layer_id: str) -> Edit:
    """Send a rider the other way; one that starts at its end runs back along the path on
    purpose.
    """
    pegs = pace.backwards(way_of(scene, layer_id))
    return _pegs(layer_id, pegs, f"Send {scene.layer(layer_id).name} backwards")


def to_and_fro(scene: Scene, layer_id: str) -> Edit:
    pegs = pace.to_and_fro(way_of(scene, layer_id))
    return _pegs(layer_id, pegs, f"Send {scene.layer(layer_id).name} to and fro")


def step(scene: Scene, layer_id: str) -> Edit:
    """Let a rider jump from peg to peg, or glide again."""
    pegs = scene.ride_of(layer_id).pegs
    verb = "Glide" if pace.is_stepping(pegs) else "Step"
    return _pegs(layer_id, pace.stepping(pegs), f"{verb} of {scene.layer(layer_id).name}")


WHOLE_RIDE = {
    "even": even,
    "smooth": smooth,
    "backwards": backwards,
    "return": to_and_fro,
    "step": step,
}
"""What one word does to a whole ride."""
