"""Series: one render for each row of a table, which fills in the fields of a scene."""

import hashlib
import tempfile
from collections.abc import Collection, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path as File

from coaster.edits import series
from coaster.errors import CoreError, FormatError
from coaster.formats import pictures, rows
from coaster.formats.rows import Row
from coaster.scene.contents import Picture
from coaster.scene.document import Scene

MOST_FAULTS = 20


@contextmanager
def room_for(folder: File) -> Iterator[File]:
    """Yield a folder with what a scene's folder holds, in which more may be laid."""
    with tempfile.TemporaryDirectory(prefix="coaster-") as name:
        room = File(name)
        for file in folder.iterdir() if folder.is_dir() else ():
            (room / file.name).symlink_to(file.resolve())
        yield room


@dataclass(frozen=True)
class Filled:
    """A scene as a row fills it in, and the file it goes to."""

    row: Row
    scene: Scene
    out: File


def filled_rows(
    scene: Scene, folder: File, found: Sequence[Row], pattern: File, beside: File
) -> list[Filled]:
    """Return the scene as each row fills it in, after all were looked at; pictures are files beside
    the table, and are laid into the scene's folder.

    A column that is no field serves names of files only. Errors: FormatError: with the faults of
    all rows, a line each; a table that fills in nothing.
    """
    names = {field.name for field in scene.fields}
    if not names & set(found[0].values):
        there = ", ".join(sorted(names)) or "none; name them first (series.name_field)"
        raise FormatError(f"No column of the rows is a field of the scene. Its fields: {there}.")
    made, faults, taken = list[Filled](), list[str](), dict[File, int]()
    for row in found:
        try:
            one = _filled(scene, folder, row, pattern, beside, names)
        except (CoreError, OSError) as error:
            faults.append(f"Row {row.number}: {error}")
            continue
        if one.out in taken:
            faults.append(
                f"Row {row.number}: {one.out.name} is the file of row {taken[one.out]} already."
            )
        taken[one.out] = row.number
        made.append(one)
    if faults:
        more = len(faults) - MOST_FAULTS
        said = [*faults[:MOST_FAULTS], *([f"… and {more} rows more."] if more > 0 else [])]
        raise FormatError("Nothing was rendered.\n" + "\n".join(said))
    return made


def _filled(
    scene: Scene, folder: File, row: Row, pattern: File, beside: File, names: Collection[str]
) -> Filled:
    values = {name: value for name, value in row.values.items() if name in names}
    shown = dict(_pictures(scene, folder, values, beside))
    out = pattern.with_name(rows.file_name(pattern.name, row))
    return Filled(row, series.filled(scene, values, shown), out)


def _pictures(
    scene: Scene, folder: File, values: dict[str, str], beside: File
) -> Iterator[tuple[str, Picture]]:
    for name, value in values.items():
        if series.kind_of(scene, series.field_named(scene, name)) != "picture":
            continue
        file = (beside / value.strip()).resolve()
        if not file.is_file():
            raise FormatError(f"{name}: there is no file {value.strip()!r:.80} beside the rows.")
        read = pictures.import_picture(file.read_bytes(), file.name)
        asset = hashlib.sha256(read.data).hexdigest()[:40] + read.ending
        (folder / asset).write_bytes(read.data)
        yield value, Picture(asset, read.width, read.height)
