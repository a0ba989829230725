"""The bin: what was deleted and how much room it takes; erased from there, it is gone for good."""

import shutil
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from functools import partial
from pathlib import Path as File
from typing import Literal

from django.db import transaction
from django.db.models import Count, QuerySet, Sum
from django.db.models.functions import Length

from studio.projects.models import Project, Revision, Scene
from studio.projects.services import Person


@dataclass(frozen=True)
class Binned:
    """A project or a scene in the bin; ``inside`` says what it holds or where it was, ``size`` is
    in bytes.
    """

    kind: Literal["project", "scene"]
    pk: int
    name: str
    inside: str
    deleted_at: datetime
    size: int


def contents(user: Person) -> list[Binned]:
    """Return what of a person's own is in the bin, the newest first."""
    projects = _projects(user).annotate(scene_count=Count("scenes"))
    found = [_project(project, project.scene_count) for project in projects]
    found += [_scene(scene) for scene in _scenes(user).select_related("project")]
    return sorted(found, key=lambda each: each.deleted_at, reverse=True)


def _projects(user: Person) -> QuerySet[Project]:
    return Project.objects.filter(owner_id=user.pk).exclude(deleted_at=None)


def _scenes(user: Person) -> QuerySet[Scene]:
    """Those that were deleted by themselves: the scenes of a project go and come with it."""
    mine = Scene.objects.filter(project__owner_id=user.pk, project__deleted_at=None)
    return mine.exclude(deleted_at=None)


def _project(project: Project, scenes: int) -> Binned:
    assert project.deleted_at is not None  # noqa: S101 - by the query
    inside = f"{scenes} scene{'' if scenes == 1 else 's'}"
    size = _size(Scene.objects.filter(project=project), [project.folder])
    return Binned("project", project.pk, project.name, inside, project.deleted_at, size)


def _scene(scene: Scene) -> Binned:
    assert scene.deleted_at is not None  # noqa: S101 - by the query
    size = _size(Scene.objects.filter(pk=scene.pk), [])
    where = f"of {scene.project.name}"
    return Binned("scene", scene.pk, scene.name, where, scene.deleted_at, size)


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
    files = (file for folder in folders for file in folder.rglob("*") if file.is_file())
    return sum(size or 0 for size in texts) + sum(file.stat().st_size for file in files)


def erase_project(user: Person, pk: int) -> str:
    """Remove a project that is in the bin for good, with all of its scenes; return its name.

    Errors: Project.DoesNotExist.
    """
    project = _projects(user).get(pk=pk)
    _erase([project])
    return project.name


def erase_scene(user: Person, pk: int) -> str:
    """Remove a scene that is in the bin for good; return its name.

    Errors: Scene.DoesNotExist.
    """
    scene = _scenes(user).get(pk=pk)
    _erase([scene])
    return scene.name


def empty(user: Person) -> int:
    """Remove for good all that is in a person's bin; return how many things that was."""
    things: list[Project | Scene] = [*_projects(user), *_scenes(user)]
    _erase(things)
    return len(things)


@transaction.atomic
def _erase(things: Iterable[Project | Scene]) -> None:
    for thing in things:
        scenes = list(thing.scenes.all()) if isinstance(thing, Project) else [thing]
        folders = [folder for scene in scenes for folder in scene.folders]
        if isinstance(thing, Project):
            folders.append(thing.folder.parent)
        thing.delete()
        # Files last: should the rows stay after all, nothing of theirs is missing.
        for folder in folders:
            transaction.on_commit(partial(shutil.rmtree, folder, ignore_errors=True))
