"""All that a studio keeps, in one file: written while it runs, and put back whole or not at all."""

import fcntl
import os
import shutil
import sqlite3
import tempfile
import time
import zipfile
from contextlib import closing, suppress
from pathlib import Path as File
from typing import IO

from coaster.errors import FormatError

DATABASE = "coaster.sqlite3"
FOLDERS = ("projects", "renders")
"""What is kept in files. Thumbnails and small frames are made again."""
ASIDE = (DATABASE, f"{DATABASE}-wal", f"{DATABASE}-shm", *FOLDERS, "thumbnails", "small")


def hold(data: File) -> IO[str] | None:
    """Take a data folder for this process until the file returned is closed; None if another has
    it.
    """
    held = (data / "running").open("w")
    try:
        fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        held.close()
        return None
    return held


def backup(data: File, into: File) -> int:
    """Write all of a studio's data into one zip file; return its bytes.

    It may go on being worked in: the database is copied as it is at one moment, before the files,
    which never change once they are there.
    """
    file = data / DATABASE
    if not file.is_file() or not file.stat().st_size:
        raise FormatError(f"There is no studio in {data}, so there is nothing to back up.")
    part = into.with_name(f".{into.name}.part")
    try:
        with tempfile.TemporaryDirectory() as folder, zipfile.ZipFile(part, "w") as archive:
            archive.write(_copied(data / DATABASE, File(folder)), DATABASE, zipfile.ZIP_DEFLATED)
            for file in sorted(f for of in FOLDERS for f in (data / of).rglob("*")):
                # What is erased meanwhile, or being written, belongs to nothing in the database.
                hidden = any(part.startswith(".") for part in file.relative_to(data).parts)
                if file.is_file() and not hidden:
                    with suppress(FileNotFoundError):
                        archive.write(file, file.relative_to(data))
        os.replace(part, into)
    finally:
        part.unlink(missing_ok=True)
    return into.stat().st_size


def _copied(database: File, folder: File) -> File:
    """Return a copy of a database as it is now, what is only in its log included."""
    copy = folder / DATABASE
    with closing(sqlite3.connect(database)) as source, closing(sqlite3.connect(copy)) as target:
        source.backup(target)
    return copy


def restore(file: File, data: File) -> File | None:
    """Put back what ``backup`` wrote; return where what was there before is now, None for nothing.

    Errors: FormatError: it is no backup, or damaged, or the studio is running. Nothing is changed.
    """
    held = hold(data)
    if held is None:
        raise FormatError(f"A studio is running on {data}; stop it first. Nothing was changed.")
    # Beside it, so that putting it in place is a matter of names.
    with held, tempfile.TemporaryDirectory(dir=data, prefix=".restoring-") as folder:
        fresh = File(folder)
        _unpack(file, fresh)
        _check_unused(data / DATABASE)
        aside = _set_aside(data)
        for name in (DATABASE, *FOLDERS):
            if (fresh / name).exists():
                os.replace(fresh / name, data / name)
    return aside


def _check_unused(database: File) -> None:
    """Errors: FormatError: somebody has the database open, say a server started by hand."""
    if not database.exists():
        return
    with closing(sqlite3.connect(database, timeout=0)) as own:
        try:
            # To end its log, SQLite needs the database for itself.
            own.execute("PRAGMA journal_mode=DELETE")
        except sqlite3.DatabaseError as error:
            # One that is damaged is not in use; it is what a backup is for.
            if error.sqlite_errorname == "SQLITE_BUSY":
                raise FormatError(
                    f"{database} is in use; stop the studio first. Nothing was changed."
                ) from error


def _unpack(file: File, into: File) -> None:
    try:
        with zipfile.ZipFile(file) as archive:
            names = archive.namelist()
            ours = [n for n in names if n == DATABASE or n.split("/")[0] in FOLDERS]
            if DATABASE not in names or ours != names or any(".." in n.split("/") for n in names):
                raise FormatError(f"{file.name} is no backup of a studio. Nothing was changed.")
            archive.extractall(into)
        with closing(sqlite3.connect(into / DATABASE)) as database:
            (state,) = database.execute("PRAGMA integrity_check").fetchone()
    except (zipfile.BadZipFile, sqlite3.DatabaseError, EOFError) as error:
        raise FormatError(f"{file.name} is damaged ({error}). Nothing was changed.") from error
    if state != "ok":
        raise FormatError(f"The database in {file.name} is damaged. Nothing was changed.")


def _set_aside(data: File) -> File | None:
    there = [data / name for name in ASIDE if (data / name).exists()]
    if not there:
        return None
    aside = data / time.strftime("before-restore-%Y%m%d-%H%M%S")
    aside.mkdir()
    for each in there:
        shutil.move(each, aside / each.name)
    return aside
