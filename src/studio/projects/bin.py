"""The bin: what was deleted and how much room it takes; erased from there, it is gone for good."""

import shutil
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from functools import partial
from pathlib import Path as File
from typing import Any

from django.db import transaction
from django.db.models import Count, QuerySet, Sum
from django.db.models.functions import Length

from studio.projects import services
from studio.projects.models import Project, Revision, Scene
from studio.projects.querysets import Person
from studio.projects.space import size_of


@dataclass(frozen=True)
class Binned:
    """A thing in the bin; ``inside`` says what it holds or where it was, ``size`` is in bytes."""

    kind: str
    icon: str
    pk: int
    name: str
    inside: str
    deleted_at: datetime
    size: int


@dataclass(frozen=True)
class Sort:
    """One sort of things that can be deleted: a person's own that are in the bin, how one is told
    of, put back, and erased with its files.
    """

    rows: Callable[[Person], QuerySet]
    told: Callable[[Any], Binned]
    restore: Callable[[Person, int], object]
    erase: Callable[[Any], None]


SORTS: dict[str, Sort] = {}
"""By name, in the order in which they are erased; other apps add theirs."""


def contents(user: Person) -> list[Binned]:
    """Return what of a person's own is in the bin, the newest first."""
    found = [sort.told(row) for sort in SORTS.values() for row in sort.rows(user)]
    return sorted(found, key=lambda each: each.deleted_at, reverse=True)


@transaction.atomic
def erase(user: Person, kind: str, pk: int) -> str:
    """Remove what is in the bin for good; return its name.

    Errors: ObjectDoesNotExist.
    """
    row = SORTS[kind].rows(user).get(pk=pk)
    SORTS[kind].erase(row)
    return str(row)


def restore(user: Person, kind: str, pk: int) -> str:
    """Put back what is in the bin; return its name.

    Errors: ObjectDoesNotExist.
    """
    row = SORTS[kind].rows(user).get(pk=pk)
    SORTS[kind].restore(user, pk)
    return str(row)


@transaction.atomic
def empty(user: Person) -> int:
    """Remove for good all that is in a person's bin; return how many things that was."""
    count = 0
    for sort in SORTS.values():
        for row in sort.rows(user):
            sort.erase(row)
            count += 1
    return count


def _projects(user: Person) -> QuerySet[Project]:
    return Project.objects.filter(owner_id=user.pk).exclude(deleted_at=None)


def _scenes(user: Person) -> QuerySet[Scene]:
    """Those that were deleted by themselves: the scenes of a project go and come with it."""
    mine = Scene.objects.filter(project__owner_id=user.pk, project__deleted_at=None)
    return mine.exclude(deleted_at=None)


def _project(project: Any) -> Binned:
    scenes = project.scene_count
    assert project.deleted_at is not None  # noqa: S101 - by the query
    inside = f"{scenes} scene{'' if scenes == 1 else 's'}"
    size = _size(Scene.objects.filter(project=project), [project.folder])
    return Binned("project", "books", project.pk, project.name, inside, project.deleted_at, size)


def _scene(scene: Scene) -> Binned:
    assert scene.deleted_at is not None  # noqa: S101 - by the query
    size = _size(Scene.objects.filter(pk=scene.pk), [])
    where = f"of {scene.project.name}"
    return Binned("scene", "film-strip", scene.pk, scene.name, where, scene.deleted_at, size)


def _size(scenes: QuerySet[Scene], folders: list[File]) -> int:
    """Return the bytes that scenes take with all their revisions and files, and those of folders
    beside them.
    """
    texts = [
        scenes.aggregate(sum=Sum(Length("document")))["sum"],
        *(
            Revision.objects.filter(scene__in=scenes).aggregate(sum=Sum(Length(name)))["sum"]
            for name in ("commands", "inverses", "snapshot")
        ),
    ]
    folders = folders + [folder for scene in scenes for folder in scene.folders]
    return sum(size or 0 for size in texts) + size_of(folders)


def _erase_scene(scene: Scene) -> None:
    folders = scene.folders
    scene.delete()
    remove_later(*folders)


def _erase_project(project: Project) -> None:
    folders = [folder for scene in project.scenes.all() for folder in scene.folders]
    folders.append(project.folder.parent)
    project.delete()
    remove_later(*folders)


def remove_later(*folders: File) -> None:
    """Remove folders once the rows are gone: should these stay after all, nothing is missing."""
    for folder in folders:
        transaction.on_commit(partial(shutil.rmtree, folder, ignore_errors=True))


SORTS["scene"] = Sort(
    lambda user: _scenes(user).select_related("project"),
    _scene,
    services.restore_scene,
    _erase_scene,
)
SORTS["project"] = Sort(
    lambda user: _projects(user).annotate(scene_count=Count("scenes")),
    _project,
    services.restore_project,
    _erase_project,
)
