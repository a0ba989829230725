"""A shape becomes a path that is filled and stroked as it was, and back."""

from dataclasses import replace
from typing import Any

import numpy as np

from coaster.commands.base import Command
from coaster.commands.fields import set_layer
from coaster.commands.paths import AddPath, RemovePath
from coaster.edits.edit import Edit, edit_of
from coaster.edits.making import new_path
from coaster.edits.paths import outline_of
from coaster.errors import EditRefused
from coaster.geometry import affine
from coaster.geometry import path as paths
from coaster.geometry.bezier import Floats
from coaster.geometry.path import Path, Subpath
from coaster.render import places
from coaster.render.evaluate import Evaluation
from coaster.scene.contents import DRAWN, Line, Shape, as_kind
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.gradients import Gradient
from coaster.scene.properties import TABLE

KEPT = (
    "opacity",
    "width",
    "dashes",
    *(row.name for row in TABLE if row.home in ("mask", "gradient")),
)
"""What a path with keys of its own goes on with."""
FLATTEST = 1.0
"""Px: what is drawn level or upright has a box that is so wide."""


def to_path(scene: Scene, layer_id: str, frame: float) -> Edit:
    """Let a shape follow a new path, which is its outline as a frame shows it.

    Errors: EditRefused: it moves by itself, which a path could not keep.
    """
    layer = scene.layer(layer_id)
    shape = as_kind(layer.content, Shape, layer.name)
    _check_at_rest(scene, layer)
    into = affine.inverse(places.group_map(scene, layer.parent, frame))
    runs = paths.transformed(outline_of(scene, layer, frame), into)
    path = replace(new_path(scene, layer.name, runs), parent=layer.parent)
    at = min(max(round(frame), 0), scene.length)
    own = affine.compose(into, Evaluation(scene).motion(layer.id).map(at))
    line = Line(
        path.id,
        colour=shape.stroke,
        width=max(shape.stroke_width * _grown(own), 0.01),
        **_pen(shape, _grown(own)),
        fill=shape.fill,
        gradient=_carried_over(shape, own, path),
    )
    if any(track.property not in KEPT for track in layer.keys):
        raise EditRefused(
            f"{layer.name} has keys of its colours or its size, which a path would lose; clear"
            " them first."
        )
    made = set_layer(layer.id, content=line)
    note = f"{layer.name} follows {path.name} now: shape that, and it goes along."
    return edit_of([AddPath(path), made], f"Make {layer.name} a path", [note], path=path.id)


def _check_at_rest(scene: Scene, layer: Layer) -> None:
    moving = [t.property for t in layer.keys if t.property in ("x", "y", "scale", "turn", "skew")]
    if layer.ride is not None or layer.carrier is not None or moving:
        raise EditRefused(
            f"{layer.name} moves by itself, which a path cannot; take its ride, keys of place or"
            " carrier off first, or make a path of its outline beside it."
        )
    led = [x.name for x in scene.layers if x.carrier and x.carrier.layer == layer.id]
    if led:
        raise EditRefused(f"{layer.name} carries {', '.join(led)}, which a path cannot.")


def _grown(own: Floats) -> float:
    a, b, c, d = own[:4]
    return float(np.sqrt(abs(a * d - b * c)))


def _pen(content: Shape | Line, factor: float) -> dict[str, Any]:
    """Return how a stroke goes, its dashes so many times as long."""
    dash = content.dash and tuple(length * factor for length in content.dash)
    offset = content.dash_offset * factor
    return {"cap": content.cap, "join": content.join, "dash": dash, "dash_offset": offset}


def _carried_over(shape: Shape, own: Floats, path: Path) -> Gradient | None:
    """Return a shape's gradient over the box of its outline."""
    if shape.gradient is None:
        return None
    left, top, right, bottom = paths.bounds(path.subpaths)
    corner, size = np.array([left, top]), np.maximum([right - left, bottom - top], FLATTEST)
    spots = [
        ((affine.apply(own, np.array(spot) * [shape.width, shape.height]) - corner) / size)
        for spot in (shape.gradient.start, shape.gradient.end)
    ]
    start, end = ((round(float(x), 6), round(float(y), 6)) for x, y in spots)
    return replace(shape.gradient, start=start, end=end)


def _check_colours(layer: Layer) -> None:
    if any(layer.track(name) for name in ("colour", "fill")):
        raise EditRefused(
            f"{layer.name} has keys of its colours, which mean another part of a shape; clear them"
            " first."
        )


def _drawn(line: Line, runs: tuple[Subpath, ...], factor: float) -> Shape:
    """Return a shape that is painted as a line was, its stroke so many times as wide."""
    return Shape(
        DRAWN,
        fill=line.fill,
        stroke=line.colour,
        stroke_width=line.width * factor,
        **_pen(line, factor),
        gradient=line.gradient,
        runs=runs,
    )


def to_shape(scene: Scene, layer_id: str, frame: float) -> Edit:
    """Let a line along a path stand by itself, as a shape that has the path's nodes; a path that
    nobody else uses goes.
    """
    layer = scene.layer(layer_id)
    line = as_kind(layer.content, Line, layer.name)
    path = scene.path(line.path)
    around = places.group_map(scene, layer.parent, frame)
    seen = affine.compose(affine.inverse(around), places.group_map(scene, path.parent, frame))
    runs = paths.transformed(path.subpaths, seen)
    left, top, right, bottom = paths.bounds(runs)
    width, height = (max(size, FLATTEST) for size in (right - left, bottom - top))
    shape = _drawn(line, paths.transformed(runs, affine.translation(-left, -top)), _grown(seen))
    _check_colours(layer)
    shape = replace(shape, width=width, height=height)
    stood = Transform((left + width / 2, top + height / 2), opacity=layer.transform.opacity)
    steps: list[Command] = [set_layer(layer.id, content=shape, transform=stood)]
    others = [user.id for user in scene.users_of(path.id) if user.id != layer.id]
    notes = [f"{path.name} stays, as others use it."] if others else []
    if not others:
        steps.append(RemovePath(path.id))
    return edit_of(steps, f"Make {layer.name} a shape", notes, layer=layer.id)
