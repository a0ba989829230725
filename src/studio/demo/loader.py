"""Puts the demo into the database: once, and over again only when asked to."""

from dataclasses import replace

from django.contrib.auth.models import User
from django.db import transaction

from coaster.scene.contents import Picture
from coaster.scene.document import Scene
from studio.demo import scenes
from studio.projects import services
from studio.projects.models import Project

PROJECT = "Tidepool Hall lobby"


def load(user: User, *, fresh: bool = False) -> bool:
    """Make the demo's project unless there is one; with ``fresh`` put the old one in the bin first.

    Returns whether it was made. What a person changed in it is kept either way: the bin keeps all.
    """
    there = Project.objects.filter(owner=user, name=PROJECT, deleted_at=None)
    if there.exists() and not fresh:
        return False
    for project in there:
        services.bin_project(user, project)
    # All of it or nothing: half a demo would never be made whole, as it is there.
    with transaction.atomic():
        _make(user)
    return True


def _make(user: User) -> None:
    project = services.create_project(user, PROJECT)
    kept: dict[str, Picture] = {}

    def keep(name: str, drawing: bytes, px_for_px: bool) -> Picture:
        # A picture of several scenes is kept once, under one name.
        if name not in kept:
            kept[name] = _keep(project, name, drawing, px_for_px)
        return kept[name]

    for made in scenes.all_scenes(keep):
        services.create_scene(user, project, made.name, _with_takes(user, project, made))


def _with_takes(user: User, project: Project, made: scenes.DemoScene) -> Scene:
    """Keep the raw takes of a scene's paths, and return the scene with their files named."""
    scene = made.scene
    for path_id, text in made.takes.items():
        path = scene.path(path_id)
        kept = services.keep_take(user, project, text, path.name, text.count("\n") - 1)
        assert path.drawn is not None  # noqa: S101 - it has a take
        scene = scene.with_path(replace(path, drawn=replace(path.drawn, file=kept.file_name)))
    return scene


def _keep(project: Project, name: str, drawing: bytes, px_for_px: bool) -> Picture:
    found = scenes.imported(name, drawing, px_for_px)
    asset = services.keep_asset(
        project, found.data, found.ending, f"{name}.svg", (found.width, found.height)
    )
    return Picture(asset.file_name, found.width, found.height)
