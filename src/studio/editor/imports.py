"""Files on their way into a scene: pictures as layers, drawings as pictures or as paths."""

import re
import tempfile
import zipfile
from collections.abc import Mapping, Sequence
from pathlib import Path as File
from typing import get_args

import numpy as np
from django.conf import settings
from django.core.files.uploadedfile import UploadedFile

from coaster.edits import imports as edits
from coaster.edits.edit import Edit
from coaster.edits.footage import add_footage
from coaster.edits.takes import NewTake, add_take
from coaster.errors import FormatError
from coaster.formats import fontfiles, pathdata, pictures, svg
from coaster.formats import takes as files
from coaster.geometry.path import Vec2
from coaster.media.moving import STILLS
from coaster.media.readers import HEAD, ending_of
from coaster.scene.contents import Footage, Picture
from coaster.scene.document import Scene as Document
from coaster.scene.footage import FrameTimes
from studio.editor import questions, services, takes
from studio.editor.questions import Question, TakeQuestion
from studio.editor.requests import base_of, key_of
from studio.editor.services import Edited
from studio.footage import services as small
from studio.projects.models import Scene
from studio.projects.querysets import Person
from studio.projects.services import import_font, import_footage, import_picture
from studio.reading import apart

NUMBER = re.compile(r"\d+\D*$")


def is_drawing(data: bytes) -> bool:
    return pictures.kind_of(data) == "SVG"


def _read(data: bytes) -> svg.Drawing:
    return apart(svg.read, data, tolerance=pathdata.EDITING_TOLERANCE)


def question(data: bytes, name: str, scene: Document) -> Question:
    """Return what to ask about a drawing.

    Errors: FormatError: it cannot be read.
    """
    return apart(questions.of_drawing, data, name, scene.width, scene.height)


def is_table(data: bytes, name: str) -> bool:
    """Whether a file is a take as text: told by its name, as it has no other mark."""
    return File(name).suffix.lower() in (".csv", ".tsv", ".txt") and not pictures.kind_of(data)


def table_question(data: bytes, name: str) -> TakeQuestion:
    """Return what to ask about a file of samples.

    Errors: FormatError with the row; EditRefused: too few, or no movement.
    """
    return apart(questions.of_table, data, name)


def _table(data: bytes) -> files.Table:
    return apart(files.read, questions.text_of(data))


def _accept_table(
    user: Person, scene: Scene, data: bytes, name: str, posted: Mapping[str, str]
) -> Edited:
    table = _table(data)
    # Kept in seconds and px, whatever it came in: it can be smoothed again at any time.
    text = files.to_csv(table.take(_units(table, scene.value(), posted)))
    start = _number(posted, "frame", 0.0)
    begun = NewTake("asked.csv", start, posted.get("layer", ""), File(name).stem or "Samples")
    # Asked before it is kept: what is refused leaves nothing behind, and the person has the file.
    add_take(scene.value(), text, begun)
    return takes.keep(user, scene, text, name, begun, base=base_of(posted), key=key_of(posted))


def _units(table: files.Table, value: Document, posted: Mapping[str, str]) -> files.Units:
    """Return how a table's numbers become seconds and px, as was answered."""
    # What is answered before what the header says.
    unit = next((u for u in get_args(files.Unit) if u == posted.get("unit")), table.unit)
    second, flip = files.seconds_of(unit, value.fps), posted.get("flip") == "on"
    if posted.get("size") == "fit":
        return _fitting(table, second, flip, value)
    offset = _number(posted, "x", 0.0), _number(posted, "y", 0.0)
    return files.Units(second, _number(posted, "scale", 1.0), offset, flip)


def _number(posted: Mapping[str, str], name: str, usual: float) -> float:
    text = posted.get(name, "").replace(",", ".").strip()
    try:
        found = float(text) if text else usual
    except ValueError as error:
        raise FormatError(f"“{text}” is not a number for {name}; nothing was added.") from error
    # Asked this way round so that nan, too, is refused.
    if not abs(found) <= 1e6:
        raise FormatError(f"{text} is too large a number for {name}; nothing was added.")
    return found


def _fitting(table: files.Table, second: float, flip: bool, value: Document) -> files.Units:
    """Return the units that put a table's places into the middle of the frame, four fifths of it
    wide or high.
    """
    places = table.places * (1.0, -1.0 if flip else 1.0)
    low, high = places.min(axis=0), places.max(axis=0)
    size = np.maximum(high - low, 1e-9)
    # By one factor both ways: a movement must not be squeezed.
    scale = float(min(0.8 * value.width / size[0], 0.8 * value.height / size[1]))
    middle = (low + high) / 2 * scale
    return files.Units(
        second,
        scale,
        (value.width / 2 - float(middle[0]), value.height / 2 - float(middle[1])),
        flip,
    )


def accept(user: Person, scene: Scene, data: bytes, name: str, posted: Mapping[str, str]) -> Edited:
    """Add a picture as a layer, a font and a text in it, or shapes of a drawing as paths, in one
    edit.

    Errors: CoreError in one sentence; nothing is kept.
    """
    if is_table(data, name):
        return _accept_table(user, scene, data, name, posted)
    if fontfiles.is_font(data):
        return _accept_font(user, scene, data, name, posted)
    if posted.get("use") == "path":
        return _accept_shapes(user, scene, data, name, posted)
    return _accept_picture(user, scene, data, name, posted)


def _dropped_at(posted: Mapping[str, str]) -> Vec2 | None:
    """Return where it was dropped, if it was."""
    dropped = bool(posted.get("x") and posted.get("y"))
    return (_number(posted, "x", 0.0), _number(posted, "y", 0.0)) if dropped else None


def _accept_picture(
    user: Person, scene: Scene, data: bytes, name: str, posted: Mapping[str, str]
) -> Edited:
    asset, notes = import_picture(user, scene.project, data, name)
    picture = Picture(asset.file_name, asset.width, asset.height)
    said = [f"{name}: {note}" for note in notes]

    def plan(value: Document) -> Edit:
        return edits.add_picture(value, picture, File(name).stem, name, said, _dropped_at(posted))

    return services.edit(user, scene.pk, plan, base=base_of(posted), key=key_of(posted))


def accept_moving(
    user: Person, scene: Scene, uploads: Sequence[UploadedFile], posted: Mapping[str, str]
) -> Edited | None:
    """Add what was sent if it is footage, or pictures that are to be one; None if it is neither.

    Errors: CoreError in one sentence; nothing is kept.
    """
    if len(uploads) > 1:
        return _accept_stills(user, scene, uploads, posted)
    ending = ending_of(uploads[0].read(HEAD))
    uploads[0].seek(0)
    return None if ending is None else _accept_footage(user, scene, uploads[0], ending, posted)


def read_whole(upload: UploadedFile) -> bytes:
    """Errors: FormatError: it is larger than anything may be that is no footage."""
    size, most = upload.size or 0, settings.LARGEST_UPLOAD
    if size > most:
        raise FormatError(
            f"{upload.name} is {size / 1e6:.0f} MB; what is no footage may have"
            f" {most // 1_000_000} MB. Nothing was kept."
        )
    return upload.read()


def _accept_footage(
    user: Person, scene: Scene, upload: UploadedFile, ending: str, posted: Mapping[str, str]
) -> Edited:
    """Add moving pictures as a layer; their small frames are made meanwhile.

    Errors: CoreError in one sentence; nothing is kept.
    """
    asset, facts = import_footage(user, scene.project, upload, ending)
    small.start(user, asset, facts.count)
    times, name = FrameTimes(facts.ticks, facts.steps), upload.name or ""
    said = [f"{name}: {note}." for note in facts.notes]
    if ending == STILLS:
        # They say nothing of time: one for each frame of the scene, as it is now.
        rate = scene.value().rate
        steps = tuple((count, each * rate.denominator) for count, each in facts.steps)
        times = FrameTimes(rate.numerator, steps)
        said.append(f"{name}: {facts.count} pictures, one for each frame of the scene.")
    footage = Footage(asset.file_name, asset.width, asset.height, times)

    def plan(value: Document) -> Edit:
        return add_footage(value, footage, File(name).stem, name, said, _dropped_at(posted))

    return services.edit(user, scene.pk, plan, base=base_of(posted), key=key_of(posted))


def _accept_stills(
    user: Person, scene: Scene, uploads: Sequence[UploadedFile], posted: Mapping[str, str]
) -> Edited:
    """Add numbered pictures that were sent together as one layer of footage.

    Errors: CoreError in one sentence; nothing is kept.
    """
    names = [upload.name or "" for upload in uploads]
    title = NUMBER.sub("", File(names[0]).stem).strip(" ._-") or "Pictures"
    with tempfile.TemporaryFile() as packed:
        with zipfile.ZipFile(packed, "w", zipfile.ZIP_STORED) as archive:
            for upload, name in zip(uploads, names, strict=True):
                # Without their dates: the same pictures make the same file.
                with archive.open(zipfile.ZipInfo(File(name).name), "w") as entry:
                    for chunk in upload.chunks():
                        entry.write(chunk)
        size = packed.tell()
        packed.seek(0)
        file = UploadedFile(packed, f"{title}{STILLS}", size=size)
        return _accept_footage(user, scene, file, STILLS, posted)


def _accept_font(
    user: Person, scene: Scene, data: bytes, name: str, posted: Mapping[str, str]
) -> Edited:
    asset, notes = import_font(user, scene.project, data, name)
    layer = posted.get("layer", "")

    def plan(value: Document) -> Edit:
        return edits.add_font(value, asset.file_name, asset.original_name, layer, notes)

    return services.edit(user, scene.pk, plan, base=base_of(posted), key=key_of(posted))


def _accept_shapes(
    user: Person, scene: Scene, data: bytes, name: str, posted: Mapping[str, str]
) -> Edited:
    drawing = _read(data)
    picks = posted.getlist("pick")  # type: ignore[attr-defined]  # what is posted is Django's
    shapes = [drawing.pick(pick) for pick in picks]
    if not shapes:
        raise FormatError(f"No path of {name} was chosen; nothing was added.")
    fit = posted.get("size") == "fit"

    def plan(value: Document) -> Edit:
        return edits.add_shapes(value, drawing, shapes, name, File(name).stem, fit=fit)

    return services.edit(user, scene.pk, plan, base=base_of(posted), key=key_of(posted))
