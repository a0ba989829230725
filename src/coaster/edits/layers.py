"""Layers: where they stand, what they show, adding, naming, copying and deleting them."""

import re
from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from typing import Any

from coaster.commands import applied
from coaster.commands.base import Command
from coaster.commands.fields import set_layer, set_path, set_ride
from coaster.commands.layers import AddLayer, MoveLayer, RemoveLayer, SetKeys, place_of
from coaster.commands.paths import AddPath, RemovePath
from coaster.commands.rides import AttachRide, DetachRide
from coaster.edits import masks
from coaster.edits.carriers import carried_by, let_go_commands
from coaster.edits.edit import Edit, Selection, called, edit_of
from coaster.edits.follows import letting_go_commands, said_of_followers
from coaster.edits.groups import outermost, path_out_commands
from coaster.edits.keys import Moment, keys_after, painted, said_of, value_at, with_values
from coaster.edits.making import behind_riders, like_path, new_layer
from coaster.edits.shades import untinted_commands
from coaster.edits.spaces import AS_IT_IS, Side, Space, beside_home, home_of
from coaster.edits.wakes import unlike_commands
from coaster.errors import EditRefused
from coaster.geometry.path import Path, Vec2
from coaster.ids import fresh_id, fresh_name
from coaster.render import fonts, places, texts
from coaster.scene import tree
from coaster.scene.contents import (
    FIGURES,
    INK,
    LEAF,
    Camera,
    Dash,
    Light,
    Line,
    Shape,
    Text,
    as_kind,
)
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.properties import PLACES, PROPERTIES

Dashes = tuple[float | None, float | None]
"""Lengths on and off, px; None is as it was."""
Shares = tuple[float | None, float | None]
"""Of a line's width at its tail and its tip; None is as it was."""
Size = tuple[float | None, float | None]
"""Px across and down; None for as large as usual."""
NEW_TEXT = "New text"
NAMED_BY_NOBODY, LONGEST_TITLE = re.compile(rf"{NEW_TEXT}( \d+)?"), 40
"""A text that is still called so is called by its first line, up to so many letters."""
HELPER = "helper"
"""A small guide, to be carried, looked at, or held by."""
ON_PATHS = ("line", "filling")
"""What is added along a path: its stroke, or what it encloses."""
CAMERA, LIGHT = "camera", "light"
NEW_THINGS = ("text", *FIGURES, HELPER, CAMERA, LIGHT, *ON_PATHS)
"""What ``add`` adds."""


def _filled(given: tuple[float | None, float | None], usual: Vec2) -> Vec2:
    """Return two numbers, the usual ones where they are not given."""
    x, y = (old if new is None else new for new, old in zip(given, usual, strict=True))
    return x, y


def place(
    scene: Scene,
    layer_id: str,
    values: Mapping[str, float],
    moment: Moment,
    *,
    anchor: tuple[float | None, float | None] = (None, None),
    scale: tuple[float | None, float | None] = (None, None),
) -> Edit:
    """Set properties of where a layer stands, in the document's units; what has keys is kept in
    them. ``scale`` is across and down, each by itself.
    """
    layer = scene.layer(layer_id)
    # A ride's own place is one for all times.
    own = layer.ride is not None and layer.ride.relative
    fixed = {name: value for name, value in values.items() if own and name in PLACES}
    rest = {name: value for name, value in values.items() if name not in fixed}
    after, steps = with_values(scene, layer, rest, moment)
    for name, value in fixed.items():
        after = after.with_standing(name, value)
    transform = replace(
        after.transform,
        anchor=_filled(anchor, layer.transform.anchor),
        scale=_filled(scale, after.transform.scale),
    )
    stands = set_layer(layer.id, transform=transform)
    words = f"Keys of {layer.name}" if steps else ""
    return edit_of([stands, *steps], words, said_of(layer, values, steps))


def move_to(scene: Scene, layer_id: str, point: Vec2, moment: Moment, *, only: str = "") -> Edit:
    """Put a layer's anchor on a place of the scene, as it is seen at the moment's frame; of its
    place ``only`` x or y is set, or both.
    """
    layer = scene.layer(layer_id)
    _check_free(scene, layer)
    home = home_of(scene, layer, moment.frame)
    x, y = home.place(point)
    if layer.ride is not None:
        # Its own place goes along: the path leads on from there.
        now = home.place(places.spot_of(scene, layer_id, moment.frame))
        return _from_elsewhere(layer, (x - now[0], y - now[1]), only)
    values = {"x": x, "y": y}
    return place(scene, layer_id, {only: values[only]} if only else values, moment)


def nudged(scene: Scene, layer_id: str, by: Vec2, moment: Moment, side: Side | None = None) -> Edit:
    """Move a layer by px of the scene from where it is at the moment's frame, or as it is drawn
    from a ``side``.
    """
    layer = scene.layer(layer_id)
    _check_free(scene, layer)
    if side is not None:
        return _nudged_beside(scene, layer, by, moment, side)
    seen = places.spot_of(scene, layer_id, moment.frame)
    across, down = home_of(scene, layer, moment.frame).shift(by, seen)
    if layer.ride is not None:
        return _from_elsewhere(layer, (across, down))
    led = any(follow.property in PLACES for follow in layer.follows)
    if not (moment.pin or led or any(map(layer.track, PLACES))):
        # Of a hundred that are dragged together most only stand there.
        x, y = layer.transform.position
        stands = replace(layer.transform, position=(x + across, y + down))
        return edit_of([set_layer(layer.id, transform=stands)])
    x, y = (float(value_at(layer, name, moment.frame)) for name in PLACES)
    return place(scene, layer_id, {"x": x + across, "y": y + down}, moment)


def _nudged_beside(scene: Scene, layer: Layer, by: Vec2, moment: Moment, side: Side) -> Edit:
    home = beside_home(scene, layer, moment.frame, side)
    (across, down), deeper = home.shift(by), home.deeper(by) or 0.0
    # What rides from where it stands begins there, at all times.
    began = None if layer.ride is None else layer.transform.position
    x, y = began or (float(value_at(layer, name, moment.frame)) for name in PLACES)
    values = {"x": x + across, "y": y + down} if across or down else {}
    if deeper:
        values["z"] = float(value_at(layer, "z", moment.frame)) + deeper
    return place(scene, layer.id, values, moment)


def move_beside(scene: Scene, layer_id: str, to: Vec2, moment: Moment, side: Side) -> Edit:
    """Put a layer's anchor on a place of the scene as it is drawn from above, or from its side."""
    x, y, z = places.point_of(scene, layer_id, moment.frame)
    now = (x, -z) if side == "above" else (z, y)
    return nudged(scene, layer_id, (to[0] - now[0], to[1] - now[1]), moment, side)


def _from_elsewhere(layer: Layer, by: Vec2, only: str = "") -> Edit:
    """Move the place that a relative ride begins at."""
    x, y = layer.transform.position
    moved = x + by[0] * (only != "y"), y + by[1] * (only != "x")
    return edit_of([set_layer(layer.id, transform=replace(layer.transform, position=moved))])


def _check_free(scene: Scene, layer: Layer) -> None:
    if layer.ride is not None and not layer.ride.relative:
        path = scene.path(layer.ride.path)
        raise EditRefused(f"{layer.name} rides {path.name}; its place is set by the ride.")


def nudge(
    scene: Scene,
    layer_ids: Sequence[str],
    by: Vec2,
    moment: Moment,
    side: Side | None = None,
) -> Edit:
    """Move layers by px of the scene from where they are at the moment's frame, or as it is drawn
    from a ``side``.

    What is inside a group that moves goes with it. Of several, those that ride stay where they are,
    and a note says so.
    """
    chosen = outermost(scene, layer_ids)
    movable = [each for each in chosen if each.content.can.stand]
    # Riders alone are told why they cannot be moved, by the edit that refuses it.
    moved = [x for x in movable if x.ride is None or x.ride.relative] or movable
    edits = [nudged(scene, layer.id, by, moment, side) for layer in moved]
    if len(edits) == 1:
        return edits[0]
    going = {layer.id for layer in moved}
    riding = ", ".join(layer.name for layer in chosen if layer.id not in going)
    notes = [f"{riding} stayed: a path sets the place."] if riding else []
    steps = [step for edit in edits for step in edit.commands]
    return edit_of(steps, f"Move {called(len(edits), 'layer')}", notes)


def look(scene: Scene, layer_id: str, values: Mapping[str, Any], moment: Moment) -> Edit:
    """Set fields of what a layer shows; those that are properties with keys are kept in
    their keys. A colour's alpha, 0..1, is ``fill_alpha`` for the colour ``fill``, and so on; what
    is said of one leaves the other.
    """
    layer = scene.layer(layer_id)
    fields, steps = dict(values), list[Command]()
    for name, field in layer.content.keyed.items():
        alpha, said = fields.pop(f"{field}_alpha", None), fields.get(field)
        if PROPERTIES[name].kind == "colour" and (said, alpha) != (None, None):
            fields[field] = painted(layer, name, said, alpha, moment.frame)
        if fields.get(field) is None:
            continue
        made = keys_after(scene, layer, name, fields[field], moment)
        if made is not None:
            steps.append(SetKeys(layer.id, name, made))
            del fields[field]
    content = replace(layer.content, **fields)
    named = [name for name, field in layer.content.keyed.items() if field in values]
    notes = said_of(layer, named, steps)
    return edit_of([set_layer(layer.id, content=content), *steps], notes=notes)


def text_look(
    scene: Scene,
    layer_id: str,
    values: Mapping[str, Any],
    moment: Moment,
    *,
    stroked: bool | None = None,
    wrapped: bool | None = None,
) -> Edit:
    """Set fields of a text; letters that the font lacks are refused. ``stroked`` and ``wrapped``
    turn its outline and its width on and off.
    """
    layer = scene.layer(layer_id)
    text = as_kind(layer.content, Text, layer.name)
    values = dict(values)
    if stroked is not None:
        edge = {"stroke": INK, "stroke_width": max(round(text.size / 24), 1)}
        values |= edge if stroked else {"stroke": None}
    if wrapped is not None:
        # As wide as it is: nothing is seen to change until it is made narrower.
        values["wrap"] = round(texts.outline(text)[1] + 0.5, 1) if wrapped else None
    if not str(values.get("text", "x")).strip():
        raise EditRefused("A text needs at least one letter; it was kept as it was.")
    fields = {name: value for name, value in values.items() if hasattr(text, name)}
    _check_font(text, replace(text, **fields))
    edit = look(scene, layer_id, values, moment)
    title = str(values.get("text", "")).strip().partition("\n")[0][:LONGEST_TITLE]
    if not title or not NAMED_BY_NOBODY.fullmatch(layer.name):
        return edit
    name = fresh_name(title, {other.name for other in scene.layers})
    return replace(edit, commands=(*edit.commands, set_layer(layer_id, name=name)))


def _check_font(before: Text, after: Text) -> None:
    """Errors: EditRefused: letters that no font has, italics or a weight that this font lacks."""
    missing = texts.missing_letters(after)
    # What could not be shown before may be taken out bit by bit.
    if len(missing) > len(texts.missing_letters(before)) or (missing and after.font != before.font):
        named = " ".join(f"“{letter}”" for letter in missing[:8])
        raise EditRefused(
            f"No font here has {named}; the text was kept as it was. Bring in a font that has it,"
            " and choose it."
        )
    if after.italic and not before.italic and not fonts.has_italic(after.font):
        raise EditRefused("This font has no italics; it was kept upright.")
    weights = fonts.weights_of(after.font)
    if weights and after.weight != before.weight and not weights[0] <= after.weight <= weights[1]:
        raise EditRefused(
            f"This font’s weight is {weights[0]} to {weights[1]}; it was kept as it was."
        )


def shape_look(
    scene: Scene,
    layer_id: str,
    values: Mapping[str, Any],
    moment: Moment,
    *,
    filled: bool | None = None,
    stroked: bool | None = None,
    dashed: bool | None = None,
    dash: Dashes = (None, None),
) -> Edit:
    """Set fields of a shape; ``filled``, ``stroked`` and ``dashed`` turn its paints and dashes on
    and off.
    """
    layer = scene.layer(layer_id)
    shape = as_kind(layer.content, Shape, layer.name)
    fields = dict(values) | _dashes(shape.dash, shape.stroke_width, dashed, dash)
    if filled is not None:
        fields["fill"] = (shape.fill or LEAF) if filled else None
    if stroked is not None:
        fields |= {"stroke": INK, "stroke_width": 6.0} if stroked else {"stroke": None}
    return look(scene, layer_id, fields, moment)


def line_look(
    scene: Scene,
    layer_id: str,
    values: Mapping[str, Any],
    moment: Moment,
    *,
    filled: bool | None = None,
    stroked: bool | None = None,
    dashed: bool | None = None,
    dash: Dashes = (None, None),
    thin: Shares = (None, None),
) -> Edit:
    """Set fields of a line; ``filled``, ``stroked`` and ``dashed`` turn its paints and dashes on
    and off, ``thin`` are the shares of its width at its ends.
    """
    layer = scene.layer(layer_id)
    line = as_kind(layer.content, Line, layer.name)
    fields = dict(values) | _dashes(line.dash, line.width, dashed, dash)
    if thin != (None, None):
        fields["thin"] = _filled(thin, line.thin)
    if filled is not None:
        fields["fill"] = (line.fill or LEAF) if filled else None
    if stroked is not None:
        fields["colour"] = (line.colour or INK) if stroked else None
    return look(scene, layer_id, fields, moment)


def _dashes(
    now: Dash | None, width: float, dashed: bool | None, dash: Dashes
) -> dict[str, Dash | None]:
    """Return the dashes that are asked for; those that are turned on are three widths on and three
    off.
    """
    usual = max(width, 1.0) * 3, max(width, 1.0) * 3
    if any(dash):
        on, off = now or usual
        return {"dash": (dash[0] or on, dash[1] or off)}
    return {} if dashed is None else {"dash": usual if dashed else None}


def show_in_time(scene: Scene, layer_id: str, begin: float | None, end: float | None) -> Edit:
    """Set from which frame up to which a layer is shown; None stays as it is."""
    layer = scene.layer(layer_id)
    first, last = layer.shown or (0.0, float(scene.length))
    first, last = (now if new is None else float(new) for now, new in ((first, begin), (last, end)))
    if last <= first:
        raise EditRefused(f"{layer.name} would end before it begins; its time was kept as it was.")
    whole = first <= 0 and last >= scene.length
    return edit_of([set_layer(layer.id, shown=None if whole else (first, last))])


def show_always(scene: Scene, layer_id: str) -> Edit:
    return edit_of([set_layer(layer_id, shown=None)])


def rename(scene: Scene, name: str, *, layer_id: str = "", path_id: str = "") -> Edit:
    command = set_path(path_id, name=name) if path_id else set_layer(layer_id, name=name)
    return edit_of([command])


def add(
    scene: Scene,
    what: str,
    *,
    path_id: str = "",
    at: tuple[float | None, float | None] = (None, None),
    size: Size = (None, None),
    space: Space = AS_IT_IS,
) -> Edit:
    """Add a text, a figure, or a line along a path; at a place, as it is pointed at in a space, or
    in the middle of the frame; a figure of a size.
    """
    if what in ON_PATHS:
        return _add_along(scene, scene.path(path_id), what)
    if None in at:
        space = AS_IT_IS
    middle = _filled(at, (scene.width / 2, scene.height / 2))
    layer = new_thing(scene, what, space.place(middle), size=size)
    if z := space.depth(middle):
        layer = replace(layer, transform=replace(layer.transform, z=z))
    return edit_of([AddLayer(layer)], layer=layer.id)


def new_thing(
    scene: Scene, what: str, place: Vec2, title: str = "", *, size: Size = (None, None)
) -> Layer:
    """Return a text, a figure, of a size, or a helper that is not there yet."""
    content, usual = _new_content(scene, what, size)
    # Light comes from before what it shines on: half as far as the picture is wide.
    z = -scene.width / 2 if what == LIGHT else 0.0
    pose = Transform(place, z=z)
    return replace(new_layer(scene, title or usual, content, pose), guide=what == HELPER)


def text_layer(scene: Scene, title: str, font: str) -> Layer:
    """Return a new text that says what its font is called, in the middle of the frame."""
    text = Text(title, font, size=_text_size(scene))
    if texts.missing_letters(text):
        text = replace(text, text="1234")
    return new_layer(scene, title, text, Transform((scene.width / 2, scene.height / 2)))


def _text_size(scene: Scene) -> float:
    return float(max(round(scene.height / 11), 8))


def _add_along(scene: Scene, path: Path, what: str) -> Edit:
    if what == "line":
        title, content = f"Line on {path.name}", Line(path.id)
    else:
        title, content = f"Filling of {path.name}", Line(path.id, colour=None, fill=LEAF)
    layer = new_layer(scene, title, content, Transform())
    return edit_of([AddLayer(layer, behind_riders(scene, path))], layer=layer.id)


def _new_content(scene: Scene, what: str, size: Size) -> tuple[Text | Shape | Camera | Light, str]:
    if what == CAMERA:
        return Camera(), "Camera"
    if what == LIGHT:
        return Light(), "Light"
    if what == "text":
        return Text(NEW_TEXT, size=_text_size(scene)), NEW_TEXT
    if what == HELPER:
        across = float(max(round(scene.height / 24), 8))
        return Shape("ellipse", across, across, None, "#e4572e", across / 8), "Helper"
    side = float(max(round(scene.height / 6), 8))
    figure = next(each for each in FIGURES if each == what)
    return Shape(figure, *_filled(size, (side, side))), what.capitalize()


def copy_layers(scene: Scene, layer_ids: Sequence[str]) -> Edit:
    """Add a second one of each of the layers; those inside another of them come with it.

    Errors: UnknownId: there is no such layer.
    """
    chosen, now, copies = outermost(scene, layer_ids), scene, list[Edit]()
    for layer in chosen:
        copies.append(copy_layer(now, layer.id))
        now = applied(now, copies[-1].commands)
    return Edit(
        tuple(command for copy in copies for command in copy.commands),
        f"Duplicate {', '.join(layer.name for layer in chosen)}",
        tuple(note for copy in copies for note in copy.notes),
        Selection(tuple(layer for copy in copies for layer in copy.select.layers)),
    )


def copy_layer(scene: Scene, layer_id: str) -> Edit:
    """Add a second one of a layer right before it, with all that is inside it; rides stay on their
    paths.
    """
    layer = scene.layer(layer_id)
    first, *inside = _copies(scene, scene.layers[tree.span_of(scene.layers, layer_id)])
    place = place_of(scene, layer_id) + 1
    steps: list[Command] = [
        AddLayer(replace(set_off(scene, first), carrier=None, follows=()), place)
    ]
    # Members are copied from the front on: each goes behind all that are there already.
    steps += [AddLayer(replace(copied, carrier=None, follows=()), 0) for copied in inside]
    # Only now are all there that may carry one another.
    steps += [set_layer(x.id, carrier=x.carrier) for x in (first, *inside) if x.carrier]
    steps += [set_layer(x.id, follows=x.follows) for x in (first, *inside) if x.follows]
    notes = []
    if layer.ride:
        path = scene.path(layer.ride.path).name
        notes.append(f"{first.name} rides {path} in the same place; shift it along.")
    return edit_of(steps, f"Duplicate {layer.name}", notes, layer=first.id)


def _copies(scene: Scene, span: Sequence[Layer]) -> list[Layer]:
    """Return a span's layers under new ids and names, the group before its members."""
    copied: dict[str | None, str] = {}
    known, made = list(scene.layers), list[Layer]()
    for each in reversed(span):
        name = fresh_name(each.name[:72], {other.name for other in known})
        fresh = fresh_id(name, {other.id for other in known}, "layer")
        parent = copied.get(each.parent, each.parent)
        made.append(replace(each, id=fresh, name=name, parent=parent))
        copied[each.id] = fresh
        known.append(made[-1])
    return [_carried_alike(each, copied) for each in made]


def _carried_alike(layer: Layer, copied: Mapping[str | None, str]) -> Layer:
    """Return a copy carried by the copy of its carrier, and following that of what it follows, if
    there are such.
    """
    carrier = layer.carrier
    if carrier is not None:
        carrier = replace(carrier, layer=copied.get(carrier.layer, carrier.layer))
    follows = tuple(replace(x, layer=copied.get(x.layer, x.layer)) for x in layer.follows)
    return replace(layer, carrier=carrier, follows=follows)


def set_off(scene: Scene, layer: Layer) -> Layer:
    """Return a layer that rides nothing a little aside, so that it is seen beside its original."""
    if layer.ride is not None:
        return layer
    step = scene.width / 60
    x, y = layer.transform.position
    return replace(layer, transform=replace(layer.transform, position=(x + step, y + step)))


def own_path(scene: Scene, layer_id: str) -> Edit:
    """Let a layer ride a copy of its path that is its own."""
    layer, ride = scene.layer(layer_id), scene.ride_of(layer_id)
    path = scene.path(ride.path)
    made = like_path(scene, f"{path.name}, {layer.name}'s own", replace(path, legs=()))
    steps = [
        AddPath(made, scene.paths.index(path) + 1),
        AttachRide(layer.id, replace(ride, path=made.id)),
    ]
    note = f"{layer.name} rides a copy of its own now: {made.name}."
    return edit_of(steps, f"Unlink {layer.name} from {path.name}", [note], layer=layer.id)


def standing_still_commands(scene: Scene, layer_id: str, frame: float) -> list[Command]:
    """Return the commands that take a rider off its path and leave it where a frame shows it."""
    scene.ride_of(layer_id)
    layer = scene.layer(layer_id)
    spot = places.into_group(scene, layer.parent, places.spot_of(scene, layer_id, frame), frame)
    position = (round(spot[0], 3), round(spot[1], 3))
    steps: list[Command] = [
        DetachRide(layer_id),
        set_layer(layer_id, transform=replace(layer.transform, position=position)),
    ]
    # Keys of x and y rested while it rode; they would take it elsewhere now.
    resting = [track.property for track in layer.keys if track.property in (*PLACES, "shift")]
    return [*steps, *(SetKeys(layer_id, name, ()) for name in resting)]


def looking_elsewhere_commands(
    scene: Scene, layer_id: str, but: Collection[str] = ()
) -> list[Command]:
    """Return the commands that let those who look at a layer, ``but`` some, look at where it is
    when the scene starts.
    """
    steps: list[Command] = []
    for layer in scene.layers:
        looks = layer.ride is not None and layer.ride.facing.target == layer_id
        if layer.ride is not None and looks and layer.id not in but:
            x, y = places.into_group(scene, layer.parent, places.spot_of(scene, layer_id, 0), 0)
            facing = replace(layer.ride.facing, target=None, spot=(round(x, 3), round(y, 3)))
            steps.append(set_ride(layer.id, facing=facing))
    return steps


def delete_layers(scene: Scene, layer_ids: Sequence[str], frame: float = 0) -> Edit:
    """Delete layers, with all that is inside them; paths in them come out where they are, and what
    they carry stays where a frame shows it.
    """
    wanted = outermost(scene, layer_ids)
    gone = [layer for one in wanted for layer in scene.layers[tree.span_of(scene.layers, one.id)]]
    inside = {layer.id for layer in gone}
    steps = [
        step for layer in gone for step in looking_elsewhere_commands(scene, layer.id, but=inside)
    ]
    for path in scene.paths:
        if path.parent in inside:
            steps += path_out_commands(path, None, places.group_map(scene, path.parent, 0))
    steps += let_go_commands(scene, carried_by(scene, inside), frame)
    unlike, notes = unlike_commands(scene, inside)
    untinted, of_tints = untinted_commands(scene, inside)
    freed = [*letting_go_commands(scene, inside), *unlike, *untinted]
    steps += [*freed, *(RemoveLayer(layer.id) for layer in gone)]
    names = ", ".join(layer.name for layer in wanted)
    return edit_of(steps, f"Delete {names}", [*said_of_followers(scene, inside), *notes, *of_tints])


def delete_path(scene: Scene, path_id: str, frame: float) -> Edit:
    """Delete a path: its riders stay where they are at a frame, its lines go with it, and what it
    masks is seen there.
    """
    path = scene.path(path_id)
    steps, notes = list[Command](), list[str]()
    riders = [layer.name for layer in scene.riders_of(path.id)]
    if riders:
        stay = "stays where it was" if len(riders) == 1 else "stay where they were"
        notes.append(
            f"{path.name} is deleted; {', '.join(riders)} {stay}. Undo brings the ride back."
        )
    masked = [layer.name for layer in scene.layers if layer.is_masked_by(path.id)]
    if masked:
        notes.append(f"It masks {', '.join(masked)} no more: what it hid is seen. Undo hides it.")
    steps += masks.uncovering_commands(scene, path.id)
    lines = [user.id for user in scene.users_of(path.id) if user.strokes(path.id)]
    notes += said_of_followers(scene, lines)
    for user in scene.users_of(path.id):
        if user.rides(path.id):
            steps += standing_still_commands(scene, user.id, frame)
        elif user.strokes(path.id):
            steps += looking_elsewhere_commands(scene, user.id)
            steps += [*letting_go_commands(scene, [user.id]), RemoveLayer(user.id)]
    return edit_of([*steps, RemovePath(path.id)], f"Delete {path.name}", notes)


def order(scene: Scene, layer_id: str, to: str) -> Edit:
    """Move a layer among those of its group: to the ``front`` or ``back``, or one ``up`` or
    ``down``.
    """
    layer = scene.layer(layer_id)
    now, last = place_of(scene, layer_id), len(tree.members(scene.layers, layer.parent)) - 1
    wanted = {"front": last, "back": 0, "up": min(now + 1, last), "down": max(now - 1, 0)}[to]
    if wanted == now:
        return edit_of([])
    return edit_of([MoveLayer(layer_id, layer.parent, wanted)])
