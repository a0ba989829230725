"""A shape becomes a path that is filled and stroked as it was, and back."""

from dataclasses import replace
from typing import Any

import numpy as np

from coaster.commands.base import Command
from coaster.commands.fields import set_layer
from coaster.commands.paths import AddPath, RemovePath
from coaster.edits.carriers import carried_by
from coaster.edits.edit import Edit, edit_of
from coaster.edits.follows import check_leaves
from coaster.edits.layers import looking_elsewhere_commands
from coaster.edits.making import new_path
from coaster.edits.paths import outlined
from coaster.errors import EditRefused
from coaster.geometry import affine
from coaster.geometry import path as paths
from coaster.geometry.bezier import Floats
from coaster.geometry.path import Subpath, Vec2
from coaster.render import places
from coaster.render.evaluate import Evaluation
from coaster.scene.contents import DRAWN, Line, Shape, as_kind
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.gradients import Gradient
from coaster.scene.properties import PROPERTIES, TABLE

STROKES = ("width", "dashes")
KEPT = (
    "opacity",
    *STROKES,
    *(row.name for row in TABLE if row.home in ("mask", "tint", "gradient")),
)
"""What a path with keys of its own goes on with."""
ALIKE = 1e-6
THINNEST = 0.01
"""Px, of a stroke that is not drawn."""
FLATTEST = 1.0
"""Px: what is drawn level or upright has a box that is so wide."""
Runs = tuple[Subpath, ...]


def to_path(scene: Scene, layer_id: str, frame: float) -> Edit:
    """Let a shape follow a new path, which is its outline as a frame shows it.

    Errors: EditRefused: it moves by itself, which a path could not keep.
    """
    layer = scene.layer(layer_id)
    shape = as_kind(layer.content, Shape, layer.name)
    at = min(max(round(frame), 0), scene.length)
    motion = Evaluation(scene).motion(layer.id)
    own = motion.stand.own[at if len(motion.stand.own) > 1 else 0]
    _check_at_rest(scene, layer, _grown(own))
    runs = outlined(motion, at, own)
    path = replace(new_path(scene, layer.name, runs), parent=layer.parent)
    box = (0.0, 0.0, shape.width, shape.height)
    line = Line(
        path.id,
        colour=shape.stroke if shape.stroke_width else None,
        width=max(shape.stroke_width * _grown(own), THINNEST),
        **_pen(shape, _grown(own)),
        fill=shape.fill,
        gradient=_over(shape.gradient, box, own, runs),
    )
    steps = [AddPath(path), set_layer(layer.id, content=line)]
    notes = [f"{layer.name} follows {path.name} now: shape that, and it goes along."]
    steps += looking_elsewhere_commands(scene, layer.id)
    notes += _what_differs(shape, own)
    return edit_of(steps, f"Make {layer.name} a path", notes, path=path.id)


def _check_at_rest(scene: Scene, layer: Layer, grown: float) -> None:
    if layer.is_deep:
        raise EditRefused(
            f"{layer.name} has depth, and a path lies in the plane of its group; set its depth,"
            " tilt and swing to 0, and To viewer off, first."
        )
    names = [track.property for track in layer.keys]
    check_leaves(layer)
    moving = [name for name in names if PROPERTIES[name].home == "transform" and name != "opacity"]
    if layer.ride is not None or layer.carrier is not None or moving:
        raise EditRefused(
            f"{layer.name} moves by itself, which a path cannot; take its ride, keys of place or"
            " carrier off first, or make a path of its outline beside it."
        )
    # Keys of a stroke are in px of the shape, which would not be those of the path.
    kept = KEPT if abs(grown - 1) < ALIKE else [name for name in KEPT if name not in STROKES]
    if any(name not in kept for name in names):
        raise EditRefused(
            f"{layer.name} has keys of its colours, stroke or size, which a path would lose; clear"
            " them first."
        )
    led = carried_by(scene, [layer.id])
    if led:
        names = [scene.layer(each).name for each in led]
        raise EditRefused(f"{layer.name} carries {', '.join(names)}, which a path cannot.")


def _what_differs(shape: Shape, own: Floats) -> list[str]:
    """Say what a path cannot show as the shape did."""
    a, b, c, d = own[:4]
    stretched = max(abs(a - d), abs(b + c)) > ALIKE * _grown(own)
    said = []
    if shape.stroke and shape.side != "middle":
        said.append(f"Its stroke lay {shape.side} of the edge, and lies on it now.")
    if shape.gradient is not None and stretched:
        said.append("Its gradient was stretched with it, and is not now.")
    return said


def _grown(own: Floats) -> float:
    a, b, c, d = own[:4]
    return float(np.sqrt(abs(a * d - b * c)))


def _pen(content: Shape | Line, factor: float) -> dict[str, Any]:
    """Return how a stroke goes, its dashes so many times as long."""
    dash = content.dash and tuple(length * factor for length in content.dash)
    offset = content.dash_offset * factor
    return {"cap": content.cap, "join": content.join, "dash": dash, "dash_offset": offset}


def _sized(runs: Runs) -> tuple[float, float, float, float]:
    """Return the box of runs: left, top, width and height."""
    left, top, right, bottom = paths.bounds(runs)
    return left, top, max(right - left, FLATTEST), max(bottom - top, FLATTEST)


def _over(
    gradient: Gradient | None, box: tuple[float, float, float, float], own: Floats, runs: Runs
) -> Gradient | None:
    """Return the gradient of a box (left, top, width, height) over that of runs, which lie where a
    map takes the box.
    """
    if gradient is None:
        return None
    there = np.array(_sized(runs))
    places_of = [
        (affine.apply(own, np.array(box[:2]) + np.array(spot) * box[2:]) - there[:2]) / there[2:]
        for spot in (gradient.start, gradient.end)
    ]
    start, end = ((round(float(x), 6), round(float(y), 6)) for x, y in places_of)
    return replace(gradient, start=start, end=end)


def to_shape(scene: Scene, layer_id: str, frame: float) -> Edit:
    """Let a line along a path stand by itself, as a shape that has the path's nodes; a path that
    nobody else uses goes.

    Errors: EditRefused: it has keys that mean another part of a shape.
    """
    layer = scene.layer(layer_id)
    line = as_kind(layer.content, Line, layer.name)
    path = scene.path(line.path)
    around = places.group_map(scene, layer.parent, frame)
    seen = affine.compose(affine.inverse(around), places.group_map(scene, path.parent, frame))
    _check_colours(layer, _grown(seen))
    check_leaves(layer)
    shape, middle = _drawn(line, path.subpaths, seen)
    stood = Transform(middle, opacity=layer.transform.opacity)
    steps: list[Command] = [set_layer(layer.id, content=shape, transform=stood)]
    steps += looking_elsewhere_commands(scene, layer.id)
    others = [user.id for user in scene.users_of(path.id) if user.id != layer.id]
    notes = [f"{path.name} stays, as others use it."] if others else []
    if not others:
        steps.append(RemovePath(path.id))
    return edit_of(steps, f"Make {layer.name} a shape", notes, layer=layer.id)


def _drawn(line: Line, subpaths: Runs, seen: Floats) -> tuple[Shape, Vec2]:
    """Return a shape that is painted as a line along some runs was, under a map, and its middle."""
    runs = paths.transformed(subpaths, seen)
    left, top, width, height = _sized(runs)
    shape = Shape(
        DRAWN, width, height, fill=line.fill, stroke=line.colour,
        stroke_width=line.width * _grown(seen), **_pen(line, _grown(seen)),
        gradient=_over(line.gradient, _sized(subpaths), seen, runs),
        runs=paths.transformed(runs, affine.translation(-left, -top)),
    )  # fmt: skip
    return shape, (left + width / 2, top + height / 2)


def _check_colours(layer: Layer, grown: float) -> None:
    lost = ["colour", "fill"] if abs(grown - 1) < ALIKE else ["colour", "fill", *STROKES]
    if any(layer.track(name) for name in lost):
        raise EditRefused(
            f"{layer.name} has keys of its colours or stroke, which mean something else of a shape;"
            " clear them first."
        )
