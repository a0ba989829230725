"""Series: one render for each row of a table, which fills in the fields of a scene."""

import hashlib
import tempfile
from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
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
    scene: Scene, found: Sequence[Row], pattern: File, picture: Callable[[str], Picture]
) -> list[Filled]:
    """Return the scene as each row fills it in, after all were looked at; ``picture`` finds what is
    in the scene's folder by what a row says.

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
            one = _filled(scene, row, pattern, picture, names)
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
    scene: Scene,
    row: Row,
    pattern: File,
    picture: Callable[[str], Picture],
    names: Collection[str],
) -> Filled:
    values = {name: value for name, value in row.values.items() if name in names}
    out = pattern.with_name(rows.file_name(pattern.name, row))
    return Filled(row, filled_with(scene, values, picture), out)


def filled_with(
    scene: Scene, values: Mapping[str, str], picture: Callable[[str], Picture]
) -> Scene:
    """Return a scene as values by the names of its fields fill it in; ``picture`` is as in
    ``filled_rows``.

    Errors: EditRefused, FormatError: it cannot be filled so.
    """
    shown = {
        value: picture(value.strip())
        for name, value in values.items()
        if value.strip() and series.kind_of(scene, series.field_named(scene, name)) == "picture"
    }
    return series.filled(scene, values, shown)


def beside(table: File, folder: File) -> Callable[[str], Picture]:
    """Return what finds pictures as files beside a table, and lays them into a scene's folder."""

    def found(name: str) -> Picture:
        file = (table.resolve().parent / name).resolve()
        if not file.is_file():
            raise FormatError(f"There is no picture {name!r:.80} beside the rows.")
        return imported(file, folder)

    return found


def imported(file: File, folder: File) -> Picture:
    """Return a picture that is laid into a folder under the name that its content gives it.

    Errors: MediaError: it cannot be used. OSError: it cannot be read.
    """
    read = pictures.import_picture(file.read_bytes(), file.name)
    asset = hashlib.sha256(read.data).hexdigest()[:40] + read.ending
    (folder / asset).write_bytes(read.data)
    return Picture(asset, read.width, read.height)
