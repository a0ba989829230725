"""Whether a studio is well: what it needs, what it keeps, and who works."""

import ctypes
import shutil
import sqlite3
import sys
import tempfile
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path as File

import numpy as np
from django.conf import settings
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

import coaster
from coaster.errors import CoreError
from coaster.export.cluster import Cluster
from coaster.media import writers
from coaster.media.writing import Job
from studio.jobs import presence
from studio.jobs.models import State
from studio.projects import space
from studio.projects.models import Asset, RawTake, Scene
from studio.renders.models import Render

LIBRARIES = ("libEGL.so.1", "libGL.so.1")
LEAST_FREE = 1_000_000_000
"""Bytes: a render of a minute may take as much."""


@dataclass(frozen=True)
class Finding:
    """One thing that was looked at: whether it is well, and in words what was seen."""

    well: bool
    what: str
    words: str


def examine() -> Iterator[Finding]:
    """Yield what is found, one thing after the other; nothing is changed."""
    versions = f"Coaster {coaster.__version__}, Python {sys.version.split()[0]}"
    yield Finding(True, "versions", f"{versions}, SQLite {sqlite3.sqlite_version}")
    yield from _libraries()
    yield _encoders()
    yield _disk(settings.DATA)
    sound = _database(settings.DATABASE)
    yield sound
    # Of a damaged database nothing more can be asked.
    if sound.well:
        yield from (_migrations(), _scenes(), _files(), _worker())
    if settings.CLUSTER:
        yield _cluster()


def _libraries() -> Iterator[Finding]:
    for library in LIBRARIES:
        try:
            ctypes.CDLL(library)
        except OSError as error:
            yield Finding(False, library, f"is missing ({error}); nothing can be drawn without it")
        else:
            yield Finding(True, library, "is there")


def _encoders() -> Finding:
    """Write a file of each kind, two frames long or as long as it has to be."""
    failed, frame = [], np.zeros((16, 16, 4), np.uint8)
    with tempfile.TemporaryDirectory() as folder:
        for kind in (kind for kind in writers.KINDS.values() if not kind.vectors):
            file = File(folder) / f"trial{kind.ending}"
            job = Job(file, (16, 16), Fraction(30), samples=[frame])
            try:
                with kind.open(job) as writer:
                    for _ in range(max(2, kind.fewest_frames)):
                        writer.write(frame)
            except CoreError as error:
                failed.append(f"{kind.words} ({error})")
    words = f"cannot be written: {', '.join(failed)}" if failed else "all can be written"
    return Finding(not failed, "formats", words)


def _cluster() -> Finding:
    """Look whether renders could be made where they are to be."""
    try:
        count = Cluster(settings.CLUSTER).workers()
    except CoreError as error:
        return Finding(False, "cluster", str(error))
    return Finding(count > 0, "cluster", f"{settings.CLUSTER} has {count} workers")


def _disk(data: File) -> Finding:
    free = shutil.disk_usage(data).free
    taken = space.size_of([data])
    words = f"{data} takes {taken / 1e6:.0f} MB; {free / 1e9:.1f} GB are free"
    try:
        trial = data / ".doctor"
        trial.write_bytes(b"x")
        trial.unlink()
    except OSError as error:
        return Finding(False, "disk", f"{words}; nothing can be written: {error.strerror}")
    return Finding(free > LEAST_FREE, "disk", words)


def _database(file: File) -> Finding:
    if not file.exists() or not file.stat().st_size:
        return Finding(False, "database", f"{file} is not there yet; ./coaster demo makes it")
    try:
        with closing(sqlite3.connect(f"file:{file}?mode=ro", uri=True)) as database:
            (state,) = database.execute("PRAGMA integrity_check(1)").fetchone()
            loose = database.execute("PRAGMA foreign_key_check").fetchall()
    except sqlite3.DatabaseError as error:
        return Finding(False, "database", f"is damaged ({error}); put back a backup")
    if state != "ok":
        return Finding(False, "database", f"is damaged ({state}); put back a backup")
    if loose:
        return Finding(False, "database", f"{len(loose)} rows refer to rows that are gone")
    return Finding(True, "database", f"is sound, {file.stat().st_size / 1e6:.1f} MB")


def _migrations() -> Finding:
    if used_by_later():
        return Finding(False, "tables", "were used by a later version of Coaster; use that one")
    executor = MigrationExecutor(connection)
    if executor.migration_plan(executor.loader.graph.leaf_nodes()):
        return Finding(False, "tables", "are of an earlier version; ./coaster demo brings them on")
    return Finding(True, "tables", "are of this version")


def used_by_later() -> bool:
    """Whether the database knows changes of tables that this version does not."""
    loader = MigrationExecutor(connection).loader
    return bool(set(loader.applied_migrations) - set(loader.disk_migrations))


def _scenes() -> Finding:
    scenes = Scene.objects.all()
    bad = [f"{scene.name} ({scene.pk})" for scene in scenes if scene.readable() is None]
    words = f"{len(scenes)} can be read"
    if bad:
        words = f"{len(bad)} of {len(scenes)} cannot be read: {', '.join(bad[:5])}"
    return Finding(not bad, "scenes", words)


def _files() -> Finding:
    known = [asset.path for asset in Asset.objects.select_related("project")]
    known += [take.path for take in RawTake.objects.select_related("project")]
    done = Render.objects.filter(state=State.DONE).select_related("scene")
    known += [render.file for render in done]
    gone = [str(file.relative_to(settings.DATA)) for file in known if not file.is_file()]
    words = f"all {len(known)} are there"
    if gone:
        words = f"{len(gone)} of {len(known)} are missing: {', '.join(gone[:5])}"
    return Finding(not gone, "files", words)


def _worker() -> Finding:
    waiting = Render.objects.filter(state=State.WAITING).count()
    if presence.somebody_works():
        return Finding(True, "worker", f"is there; {waiting} renders wait")
    words = "none is running"
    return Finding(not waiting, "worker", words + (f", and {waiting} renders wait" * bool(waiting)))
