"""Files on their way into a scene: pictures as layers, drawings as pictures or as paths."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path as File
from typing import get_args

import numpy as np

from coaster.commands import Command
from coaster.commands.layers import AddLayer
from coaster.commands.paths import AddPath
from coaster.errors import FormatError
from coaster.formats import pathdata, pictures, svg
from coaster.formats import takes as files
from coaster.geometry import affine
from coaster.geometry import path as paths
from coaster.geometry.path import Path, Subpath
from coaster.ids import fresh_id, fresh_name
from coaster.scene.document import Picture, Transform
from coaster.scene.document import Scene as Document
from studio.editor import services, takes
from studio.editor.forms.layers import new_layer
from studio.editor.services import Edited
from studio.projects.models import Scene
from studio.projects.services import Person, import_picture, keep_take

MOST_SHOWN = 200


@dataclass(frozen=True)
class Choice:
    """One shape of a drawing, as the person is asked about it."""

    index: int
    name: str
    data: str
    view: str
    nodes: int
    closed: bool


@dataclass(frozen=True)
class Question:
    """A drawing that could become paths or a picture."""

    name: str
    width: float
    height: float
    choices: list[Choice]
    left_out: int
    larger: bool


@dataclass(frozen=True)
class Taken:
    """What an import did: the edit, what there is to say, and the id of what to select."""

    edited: Edited
    notes: list[str]
    select: dict[str, str]


def base_of(posted: Mapping[str, str]) -> int:
    base = posted.get("base", "")
    return int(base) if base.isdecimal() else -1


def is_drawing(data: bytes) -> bool:
    return pictures.kind_of(data) == "SVG"


def _read(data: bytes) -> svg.Drawing:
    return svg.read(data, tolerance=pathdata.EDITING_TOLERANCE)


def inspect(data: bytes, name: str, scene: Document) -> Question:
    """Return what to ask about a drawing.

    Errors: FormatError: it cannot be read.
    """
    drawing = _read(data)
    found = [_choice(i, shape) for i, shape in enumerate(drawing.shapes[:MOST_SHOWN])]
    larger = drawing.width > scene.width or drawing.height > scene.height
    left_out = max(len(drawing.shapes) - MOST_SHOWN, 0)
    return Question(name, drawing.width, drawing.height, found, left_out, larger)


def _choice(index: int, shape: svg.Drawn) -> Choice:
    subpaths = shape.subpaths()
    closed = len(subpaths) == 1 and subpaths[0].closed
    nodes = sum(len(s.nodes) for s in subpaths)
    return Choice(
        index,
        shape.id or f"{shape.tag} {index + 1}",
        pathdata.to_path_data(subpaths),
        view_box(subpaths),
        nodes,
        closed,
    )


def view_box(subpaths: Sequence[Subpath]) -> str:
    """Return a view box round a path, with room for its stroke."""
    left, top, right, bottom = paths.bounds(subpaths)
    room = max(right - left, bottom - top, 1e-6) * 0.05
    return f"{left - room:g} {top - room:g} {right - left + 2 * room:g} {bottom - top + 2 * room:g}"


def is_table(data: bytes, name: str) -> bool:
    """Whether a file is a take as text: told by its name, as it has no other mark."""
    return File(name).suffix.lower() in (".csv", ".tsv", ".txt") and not pictures.kind_of(data)


@dataclass(frozen=True)
class TakeQuestion:
    """A file of samples, as the person is asked about its units: its figures as they stand, and a drawing of it."""

    name: str
    samples: int
    duration: float
    left: float
    top: float
    width: float
    height: float
    data: str
    view: str
    unit: files.Unit


def inspect_table(data: bytes, name: str) -> TakeQuestion:
    """Return what to ask about a file of samples.

    Errors: FormatError with the row; EditRefused: too few, or no movement.
    """
    table = files.read(data.decode("utf-8-sig", errors="replace"))
    take = table.take(files.Units(1.0))
    (left, top), (right, bottom) = take.places.min(axis=0), take.places.max(axis=0)
    few = take.places[:: max(1, len(take.places) // 400)]
    run = paths.subpath_from_segments(
        np.stack([few[:-1], few[:-1], few[1:], few[1:]], axis=1) if len(few) > 1 else take.places[[[0, 0, -1, -1]]],
        closed=False,
    )
    return TakeQuestion(
        name, len(take.times), take.duration, left, top, right - left, bottom - top,
        pathdata.to_path_data((run,)), view_box((run,)), table.unit,
    )  # fmt: skip


def _take_table(user: Person, scene: Scene, data: bytes, name: str, posted: Mapping[str, str]) -> Taken:
    table = files.read(data.decode("utf-8-sig", errors="replace"))
    value = scene.value()
    unit = next((u for u in get_args(files.Unit) if u == posted.get("unit")), table.unit)
    second = files.seconds_of(unit, value.fps)
    flip = posted.get("flip") == "on"
    units = files.Units(
        second, _number(posted, "scale", 1.0), (_number(posted, "x", 0.0), _number(posted, "y", 0.0)), flip
    )
    if posted.get("size") == "fit":
        units = _fitting(table, second, flip, value)
    take = table.take(units)
    text = files.to_csv(take)
    said: list[str] = []
    select: dict[str, str] = {}
    kept = keep_take(user, scene.project, text, name, len(take.times))
    frame = _number(posted, "frame", 0.0)
    begun = takes.Begun(kept.file_name, frame, posted.get("layer", ""), File(name).stem or "Take")

    def plan(now: Document) -> list[Command]:
        return takes.plan(now, text, begun, said, select)

    return Taken(services.edit(user, scene.pk, plan, base=base_of(posted)), said, select)


def _number(posted: Mapping[str, str], name: str, usual: float) -> float:
    text = posted.get(name, "").replace(",", ".").strip()
    try:
        found = float(text) if text else usual
    except ValueError as error:
        raise FormatError(f"“{text}” is no number for {name}; nothing was added.") from error
    if not abs(found) <= 1e6:
        raise FormatError(f"{text} is too large a number for {name}; nothing was added.")
    return found


def _fitting(table: files.Table, second: float, flip: bool, value: Document) -> files.Units:
    """Return the units that put a table's places into the middle of the frame, four fifths of it wide or high."""
    places = table.places * (1.0, -1.0 if flip else 1.0)
    low, high = places.min(axis=0), places.max(axis=0)
    size = np.maximum(high - low, 1e-9)
    scale = float(min(0.8 * value.width / size[0], 0.8 * value.height / size[1]))
    middle = (low + high) / 2 * scale
    return files.Units(second, scale, (value.width / 2 - float(middle[0]), value.height / 2 - float(middle[1])), flip)


def take(user: Person, scene: Scene, data: bytes, name: str, posted: Mapping[str, str]) -> Taken:
    """Add a picture as a layer, or shapes of a drawing as paths, in one edit.

    Errors: CoreError in one sentence; nothing is kept.
    """
    if is_table(data, name):
        return _take_table(user, scene, data, name, posted)
    if posted.get("use") == "path":
        return _take_paths(user, scene, data, name, posted)
    return _take_picture(user, scene, data, name, base_of(posted))


def _take_picture(user: Person, scene: Scene, data: bytes, name: str, base: int) -> Taken:
    asset, notes = import_picture(user, scene.project, data, name)
    content = Picture(asset.file_name, asset.width, asset.height)
    said, select = [f"{name}: {note}" for note in notes], {}

    def plan(value: Document) -> list[Command]:
        fit = min(1.0, value.width / asset.width, value.height / asset.height)
        if fit < 1:
            size = f"{asset.width:g} × {asset.height:g} px"
            said.append(f"{name} is {size}, larger than the frame; it was fitted to it at {fit * 100:.0f} %.")
        place = Transform((value.width / 2, value.height / 2), scale=(fit, fit))
        layer = new_layer(value, File(name).stem[:72] or "Picture", content, place)
        select["layer"] = layer.id
        return [AddLayer(layer)]

    return Taken(services.edit(user, scene.pk, plan, base=base), said, select)


def _take_paths(user: Person, scene: Scene, data: bytes, name: str, posted: Mapping[str, str]) -> Taken:
    drawing = _read(data)
    picks = posted.getlist("pick") if hasattr(posted, "getlist") else [posted["pick"]]
    shapes = [drawing.pick(pick) for pick in picks]
    if not shapes:
        raise FormatError(f"No path of {name} was chosen; nothing was added.")
    fit, select, said = posted.get("size") == "fit", {}, []

    def plan(value: Document) -> list[Command]:
        place = _placing(drawing, value, fit)
        if fit:
            said.append(f"{name} was fitted to the frame at {affine.largest_scale(place) * 100:.0f} %.")
        commands: list[Command] = []
        names, ids = {p.name for p in value.paths}, {p.id for p in value.paths}
        for pick, shape in zip(picks, shapes, strict=True):
            title = fresh_name((shape.id or File(name).stem or f"Path {pick}")[:72], names)
            path = Path(fresh_id(title, ids, "path"), title, paths.transformed(shape.subpaths(), place))
            names.add(path.name)
            ids.add(path.id)
            commands.append(AddPath(path))
            select["path"] = path.id
        return commands

    return Taken(services.edit(user, scene.pk, plan, base=base_of(posted)), said, select)


def _placing(drawing: svg.Drawing, scene: Document, fit: bool) -> np.ndarray:
    """Return the map of a drawing's px to the scene's: as drawn, or fitted into the frame."""
    if not fit:
        return np.array(affine.IDENTITY)
    factor = min(scene.width / drawing.width, scene.height / drawing.height)
    free = (scene.width - factor * drawing.width) / 2, (scene.height - factor * drawing.height) / 2
    return affine.compose(affine.translation(*free), affine.scaling(factor, factor))
