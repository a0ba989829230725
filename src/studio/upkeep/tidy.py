"""What nobody needs any more: found, told, and removed."""

import re
import shutil
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from datetime import timedelta
from functools import partial
from pathlib import Path as File

from django.conf import settings
from django.contrib.sessions.models import Session
from django.db import connection
from django.db.models import QuerySet
from django.utils import timezone
from django_tasks.base import TaskResultStatus
from django_tasks_db.models import DBTaskResult

from studio.jobs.models import State
from studio.projects.models import Asset, Project, RawTake, Revision, Scene
from studio.projects.space import size_of
from studio.renders.models import Render

WRITTEN = ("projects", "renders", "small")
"""Folders that files are written into."""
RESULTS_KEPT = timedelta(days=7)
PARTS_KEPT_S = 3600
"""What is still being written is younger than this."""


@dataclass
class Found:
    """Things of one sort that may go: in words, how many, their bytes, and how to remove them."""

    words: str
    count: int
    size: int = 0
    remove: Callable[[], object] = field(default=lambda: None, repr=False)


def find() -> list[Found]:
    """Return everything that may go, sort by sort; nothing is changed yet."""
    old = timezone.now() - RESULTS_KEPT
    ended = [TaskResultStatus.SUCCESSFUL, TaskResultStatus.FAILED]
    results = DBTaskResult.objects.filter(status__in=ended, finished_at__lt=old)
    sessions = Session.objects.filter(expire_date__lt=timezone.now())
    return [
        _rows("results of tasks that ended more than a week ago", results),
        _rows("sessions that have run out", sessions),
        _rows("revisions beyond those that are wanted", _old_revisions()),
        _files("files that were never finished", _parts()),
        _files("files of scenes, projects and pictures that are gone", _orphans()),
    ]


def remove(found: Iterable[Found]) -> None:
    """Remove what ``find`` told, and give the room back to the disk."""
    for each in found:
        each.remove()
    with connection.cursor() as cursor:
        cursor.execute("VACUUM")


def _rows(words: str, rows: QuerySet) -> Found:
    return Found(words, rows.count(), remove=rows.delete)


def _files(words: str, files: list[File]) -> Found:
    size = sum(f.stat().st_size if f.is_file() else size_of([f]) for f in files)
    return Found(words, len(files), size, partial(_unlink, files))


def _unlink(files: list[File]) -> None:
    for file in files:
        if file.is_dir():
            shutil.rmtree(file, ignore_errors=True)
        else:
            file.unlink(missing_ok=True)


def _old_revisions() -> QuerySet[Revision]:
    """Return revisions older than the newest so many of their scene, up to a whole document.

    What is left begins with a revision that holds the scene whole, so that each can still be shown;
    undo ends where the history does.
    """
    if settings.HISTORY is None:
        return Revision.objects.none()
    scenes = Scene.objects.filter(revision__gt=settings.HISTORY)
    old = Revision.objects.none()
    for scene in scenes:
        wanted = scene.revisions.filter(number__lte=scene.revision - settings.HISTORY)
        first = wanted.exclude(snapshot="").order_by("-number").first()
        if first is not None and first.number > 0:
            old |= scene.revisions.filter(number__lt=first.number)
    return old


def _kept_for_renders() -> list[File]:
    """Return what is hidden, for a render until it is whole or gone, and its render is no more."""
    renders = set(Render.objects.values_list("pk", flat=True))
    kept = {
        file: int(found[1])
        for file in (settings.DATA / "renders").glob("*/.*")
        if (found := re.fullmatch(r"\.(\d+)\.(parts|jpg)", file.name))
    }
    return [file for file, pk in kept.items() if pk not in renders]


def sweep_at_start() -> None:
    """Remove what processes left half written that were killed: nothing runs yet on the folder."""
    _unlink(_half_written())


def _half_written() -> list[File]:
    return [p for of in WRITTEN for p in (settings.DATA / of).rglob(".*.part")]


def _parts() -> list[File]:
    """Return what is half written, and by nobody any more."""
    before = time.time() - PARTS_KEPT_S
    running = Render.objects.filter(state=State.RUNNING)
    busy = {render.file.name for render in running}
    return [
        part
        for part in _half_written()
        if part.stat().st_mtime < before and not any(name in part.name for name in busy)
    ]


def _orphans() -> list[File]:
    """Return folders and files that no row of the database knows."""
    scenes = {str(pk) for pk in Scene.objects.values_list("pk", flat=True)}
    projects = {str(pk) for pk in Project.objects.values_list("pk", flat=True)}
    found = [f for of in ("renders", "thumbnails") for f in _besides(settings.DATA / of, scenes)]
    found += _besides(settings.DATA / "projects", projects)
    known = {asset.path for asset in Asset.objects.select_related("project")}
    known |= {take.path for take in RawTake.objects.select_related("project")}
    known |= {render.file for render in Render.objects.select_related("scene")}
    found += _kept_for_renders()
    assets = {str(pk) for pk in Asset.objects.values_list("pk", flat=True)}
    found += _besides(settings.DATA / "small", assets)
    kept = (settings.DATA / of for of in ("projects", "renders"))
    return found + [
        file
        for folder in kept
        for file in folder.rglob("*")
        if file.is_file()
        and file not in known
        # What is being written, alone or in a folder, is hidden until it is whole.
        and not any(part.startswith(".") for part in file.relative_to(folder).parts)
        and not any(parent in found for parent in file.parents)
    ]


def _besides(folder: File, names: set[str]) -> list[File]:
    return [f for f in folder.glob("*") if f.is_dir() and f.name not in names]
