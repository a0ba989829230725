"""The frame round a layer, by its handles: stretched, turned, and its anchor moved."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray

from coaster.commands.base import Command
from coaster.commands.fields import set_layer
from coaster.edits.edit import Edit, edit_of
from coaster.edits.extents import local_of, own_box
from coaster.edits.kept import parts_at, parts_near
from coaster.edits.keys import Moment, value_at
from coaster.edits.layers import place
from coaster.errors import EditRefused
from coaster.geometry import affine, maps
from coaster.geometry.bezier import Floats
from coaster.geometry.maps import Maps
from coaster.geometry.path import Vec2
from coaster.render import places
from coaster.render.evaluate import Evaluation
from coaster.render.faces import standing_face
from coaster.scene.contents import Shape, as_kind
from coaster.scene.document import Layer, Scene
from coaster.scene.properties import PROPERTIES

Handle = tuple[int, int]
"""Which handle: -1, 0 or 1 across and down, from the middle of the box."""
DIGITS = 3
"""Decimals of px and degrees that a hand gives."""
SHORTEST = 0.01
"""A handle that is nearer to what stays, px or share of the other axis, scales nothing that way."""
LEAST = 1e-3
"""A factor nearer to 0 than this would leave nothing to take hold of."""
MARKS = np.array([0.0, 0.5, 1.0])
"""Shares of a box that an anchor is drawn to."""


@dataclass(frozen=True)
class _Framed:
    """A layer as it is at a frame: its box (left, top, width, height) and anchor in its own px, and
    the map of these to the px in which its place is told.
    """

    scene: Scene
    frame: float
    layer: Layer
    box: Floats
    anchor: Floats
    own: Floats
    into: Maps
    """From the scene's px to those."""

    def local(self, point: Vec2) -> Floats:
        """Return a place of the scene in the layer's own px."""
        return local_of(self.scene, self.layer.id, point, self.frame)

    def at(self, across: float, down: float) -> Floats:
        """Return a place of the box by shares of it."""
        return self.box[:2] + np.array([across, down]) * self.box[2:]

    def held(self, handle: Handle, *, about_anchor: bool) -> tuple[Floats, Floats]:
        """Return what stays where it is while a handle is dragged, its opposite or the anchor, and
        the arm from there to the handle.

        What rides is changed about its anchor: its path says where that is.
        """
        ends = np.array(handle)
        at_anchor = about_anchor or self.layer.ride is not None
        fixed = self.anchor if at_anchor else self.at(*((1 - ends) / 2))
        return fixed, self.at(*((1 + ends) / 2)) - fixed

    def moved(self, fixed: Floats, change: Floats) -> Floats:
        """Return by what the anchor moves when a change (2, 2) leaves a place where it is."""
        away = fixed - self.anchor
        found: Floats = np.reshape(self.own[:4], (2, 2)).T @ (away - change @ away)
        return found


def _framed(scene: Scene, layer_id: str, frame: float) -> _Framed:
    layer = scene.layer(layer_id)
    if not layer.content.can.stand:
        raise EditRefused(f"{layer.name} is a line and follows its path; shape that instead.")
    box = own_box(scene, layer_id, frame) if layer.content.can.seen else None
    if box is None:
        raise EditRefused(f"{layer.name} shows nothing here that could be framed.")
    at = min(max(round(frame), 0), scene.length)
    motion = Evaluation(scene).motion(layer_id)
    face = np.array(motion.face(at).box)
    into, row = maps.inverse(places.home_map(scene, layer, frame)), motion.map(at)
    if maps.is_flat(into) and maps.is_flat(row):
        own = affine.compose(into, row)
    else:
        # What a hand points at lies in the layer's plane, which leans out of that of its place.
        back = affine.inverse(places.flat_home_map(scene, layer, frame))
        own = affine.compose(back, motion.stand.flat[at if len(motion.stand.flat) > 1 else 0])
        into = maps.compose(own, maps.inverse(row))
    # That of a group is in its look, which is its pivot alone, not in all that it holds.
    anchor = face[:2] + np.array(layer.transform.anchor) * face[2:]
    return _Framed(scene, frame, layer, box, anchor, own, into)


def stretch(
    scene: Scene,
    layer_id: str,
    handle: Handle,
    start: Vec2,
    end: Vec2,
    moment: Moment,
    *,
    even: bool,
    about_anchor: bool,
) -> Edit:
    """Scale a layer so that a handle of its frame goes as a hand does, from one place of the scene
    to another; past the other side it is mirrored. Its opposite side stays where it is, or its
    anchor. ``even`` keeps its proportions.
    """
    framed = _framed(scene, layer_id, moment.frame)
    fixed, arm = framed.held(handle, about_anchor=about_anchor)
    wanted = arm + framed.local(end) - framed.local(start)
    factors = _factors(arm, wanted, np.array(handle) != 0, even=even)
    moved = framed.moved(fixed, np.diag(factors))
    return _scaled(scene, framed.layer, factors, moved, moment)


def _factors(arm: Floats, wanted: Floats, pulls: NDArray[np.bool_], *, even: bool) -> Floats:
    """Return by what a box is to be scaled across and down."""
    usable = pulls & (np.abs(arm) > SHORTEST * max(float(np.abs(arm).max()), 1.0))
    if even:
        used = np.where(usable, arm, 0.0)
        length = float(used @ used)
        factors = np.full(2, (used @ wanted) / length if length else 1.0)
    else:
        factors = np.where(usable, wanted / np.where(usable, arm, 1.0), 1.0)
    small = np.abs(factors) < LEAST
    return np.where(small, np.copysign(LEAST, factors), factors)


def slant(
    scene: Scene,
    layer_id: str,
    handle: Handle,
    start: Vec2,
    end: Vec2,
    moment: Moment,
    *,
    about_anchor: bool,
) -> Edit:
    """Slant a layer so that a side of its frame goes along itself as a hand does. Its opposite side
    stays where it is, or its anchor.

    Errors: EditRefused: it is a corner that is pulled, or the layer would lean too far.
    """
    framed = _framed(scene, layer_id, moment.frame)
    layer, pulls = framed.layer, np.flatnonzero(handle)
    if len(pulls) != 1:
        raise EditRefused("A frame is slanted by the middle of one of its sides.")
    fixed, arm = framed.held(handle, about_anchor=about_anchor)
    by, along = framed.local(end) - framed.local(start), int(pulls[0])
    sheared = np.eye(2)
    if abs(arm[along]) > SHORTEST:
        sheared[1 - along, along] = by[1 - along] / arm[along]
    turn, skew, across, down = parts_at(layer, moment.frame)
    linear = affine.from_parts(turn, skew, across, down) @ sheared
    made = parts_near(layer, linear, turn, across)
    values = dict(zip(("turn", "skew"), (round(part, DIGITS) for part in made[:2]), strict=True))
    moved = framed.moved(fixed, sheared)
    factors = np.array([made[2] / across, made[3] / down]) if across and down else np.ones(2)
    edit = _scaled(scene, layer, factors, moved, moment, values)
    return edit_of(edit.commands, f"Slant {layer.name}", edit.notes)


def _scaled(
    scene: Scene,
    layer: Layer,
    factors: Floats,
    moved: Floats,
    moment: Moment,
    besides: Mapping[str, float] = MappingProxyType({}),
) -> Edit:
    """Scale a layer by factors across and down and move it; ``besides`` are properties that are set
    with it.
    """
    across, down = layer.transform.scale
    values = dict(besides)
    if layer.track("scale"):
        # Keys tell the width, and the height follows in the proportion that the transform has.
        values["scale"] = float(value_at(layer, "scale", moment.frame)) * float(factors[0])
        scale = (across, down * float(factors[1] / factors[0]))
    else:
        scale = (round(across * float(factors[0]), 6), round(down * float(factors[1]), 6))
    if np.any(moved) and layer.ride is None:
        for name, by in zip("xy", moved.tolist(), strict=True):
            values[name] = round(float(value_at(layer, name, moment.frame)) + by, DIGITS)
    row = PROPERTIES["scale"]
    if max(map(abs, scale)) > row.high:
        most = row.shown(row.high)
        raise EditRefused(f"{layer.name} would be larger than {most}; it was kept as it was.")
    changed = scene.with_layer(replace(layer, transform=replace(layer.transform, scale=scale)))
    edit = place(changed, layer.id, values, moment)
    return edit_of(edit.commands, f"Scale {layer.name}", edit.notes)


def turn(
    scene: Scene, layer_id: str, start: Vec2, end: Vec2, moment: Moment, *, steps: float = 0.0
) -> Edit:
    """Turn a layer about its anchor, as far as a hand went round it; to whole ``steps`` of degrees
    if they are given.
    """
    layer = scene.layer(layer_id)
    spot = np.array(places.spot_of(scene, layer_id, moment.frame))
    (ax, ay), (bx, by) = np.array(start) - spot, np.array(end) - spot
    angle = float(np.degrees(np.arctan2(ax * by - ay * bx, ax * bx + ay * by)))
    way = -1.0 if _is_mirrored(scene, layer, moment.frame) else 1.0
    wanted = float(value_at(layer, "turn", moment.frame)) + way * angle
    if steps:
        wanted = round(wanted / steps) * steps
    edit = place(scene, layer_id, {"turn": round(wanted, DIGITS)}, moment)
    return edit_of(edit.commands, f"Turn {layer.name}", edit.notes)


def _is_mirrored(scene: Scene, layer: Layer, frame: float) -> bool:
    """Whether a layer's own turn is seen the other way round: in a mirrored group or
    carrier, or on a ride that keeps it upright.
    """
    at = min(max(round(frame), 0), scene.length)
    travel = Evaluation(scene).motion(layer.id).travel
    home = places.home_map(scene, layer, frame)
    mirrored = bool(maps.area_factor(home) < 0)
    if travel is not None:
        upside = np.atleast_1d(travel.upside)
        mirrored ^= bool(upside[at if len(upside) > 1 else 0] < 0)
    return mirrored


def move_anchor(
    scene: Scene, layer_id: str, point: Vec2, moment: Moment, *, near: float = 0.0
) -> Edit:
    """Move a layer's anchor to a place of the scene without moving its picture, or to a corner, the
    middle of an edge or of the box that is as ``near``, px of the scene.

    Errors: EditRefused: it rides, and its anchor is where its path is.
    """
    framed = _framed(scene, layer_id, moment.frame)
    layer = framed.layer
    if layer.ride is not None:
        raise EditRefused(
            f"{layer.name} rides by its anchor: another one would move the picture. Type it, or"
            " take the layer off its path first."
        )
    shares = _drawn(framed, (framed.local(point) - framed.box[:2]) / _sizes(framed.box), near)
    local = framed.at(*shares)
    x, y = (round(value, DIGITS) for value in affine.apply(framed.own, local).tolist())
    steps: list[Command] = []
    anchor: tuple[float | None, float | None] = (float(shares[0]), float(shares[1]))
    if layer.content.can.hold:
        at = float(local[0]), float(local[1])
        pivot = replace(layer.content, pivot=at)  # type: ignore[arg-type]  # what holds has one
        steps, anchor = [set_layer(layer.id, content=pivot)], (None, None)
    edit = place(scene, layer_id, {"x": x, "y": y}, moment, anchor=anchor)
    return edit_of([*steps, *edit.commands], f"Anchor of {layer.name}", edit.notes)


def round_corners(scene: Scene, layer_id: str, point: Vec2, moment: Moment) -> Edit:
    """Round the corners of a rectangle so that the middle of their arcs' circle comes as near as it
    can to a place of the scene.
    """
    layer = scene.layer(layer_id)
    shape = as_kind(layer.content, Shape, layer.name)
    if shape.figure != "rectangle":
        raise EditRefused(f"{layer.name} is a {shape.figure}; only a rectangle has such corners.")
    local = local_of(scene, layer_id, point, moment.frame)
    most = min(shape.width, shape.height) / 2
    radius = round(min(max(float(local.sum()) / 2, 0.0), most), 1)
    content = replace(shape, radius=radius)
    return edit_of([set_layer(layer.id, content=content)], f"Corners of {layer.name}")


def _sizes(box: Floats) -> Floats:
    return np.maximum(box[2:], 1e-9)


def shift(scene: Scene, layer_id: str, start: Vec2, end: Vec2, moment: Moment) -> Edit:
    """Shift a rider off its path as a hand goes, in its own axes: another spot of it is on the path
    from now on.
    """
    framed = _framed(scene, layer_id, moment.frame)
    layer = framed.layer
    ride = scene.ride_of(layer_id)
    spot = framed.anchor - (framed.local(end) - framed.local(start))
    across, down = (framed.at(0.5, 0.5) - spot).round(1).tolist()
    off = f"{across:g} px across and {down:g} px down off {scene.path(ride.path).name}"
    words = f"The middle of {layer.name} is {off}."
    if layer.content.can.hold:
        pivot = replace(layer.content, pivot=tuple(spot.round(DIGITS).tolist()))  # type: ignore[arg-type]  # what holds has one
        return edit_of([set_layer(layer.id, content=pivot)], f"Shift {layer.name}", [words])
    x, y = ((spot - framed.box[:2]) / _sizes(framed.box)).round(6).tolist()
    moved = set_layer(layer.id, transform=replace(layer.transform, anchor=(x, y)))
    return edit_of([moved], f"Shift {layer.name} off its path", [words])


def off_path(scene: Scene, layer_id: str) -> Vec2:
    """Return how far a layer's middle is off its anchor, px of its own across and down."""
    layer = scene.layer(layer_id)
    _, _, width, height = standing_face(layer, scene.path_of(layer)).box
    across, down = layer.transform.anchor
    return (0.5 - across) * width, (0.5 - down) * height


def put_off_path(scene: Scene, layer_id: str, off: tuple[float | None, float | None]) -> Edit:
    """Shift a rider off its path by px of its own; None is as it was."""
    layer = scene.layer(layer_id)
    scene.ride_of(layer_id)
    if layer.content.can.hold:
        raise EditRefused(f"{layer.name} is a group; drag it on the stage to shift it.")
    now, face = off_path(scene, layer_id), standing_face(layer, scene.path_of(layer))
    wanted = np.array([old if new is None else new for new, old in zip(off, now, strict=True)])
    x, y = (0.5 - wanted / _sizes(np.array(face.box))).round(6).tolist()
    moved = set_layer(layer.id, transform=replace(layer.transform, anchor=(x, y)))
    return edit_of([moved], f"Shift {layer.name} off its path")


def _drawn(framed: _Framed, shares: Floats, near: float) -> Floats:
    """Return shares of a box, each drawn to a mark that is near."""
    whole = maps.compose(maps.inverse(framed.into), framed.own)
    whole = maps.around(whole, framed.anchor)
    lengths = _sizes(framed.box) * np.hypot(whole[[0, 2]], whole[[1, 3]])
    nearest = MARKS[np.abs(shares[:, None] - MARKS).argmin(axis=1)]
    return np.where(np.abs(shares - nearest) * lengths <= near, nearest, shares)
