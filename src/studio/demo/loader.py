"""Puts the demo into the database: once, and over again only when asked to."""

import tempfile
from dataclasses import replace
from functools import partial
from pathlib import Path as File

from django.contrib.auth.models import User
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction

from coaster.export.orders import order_for
from coaster.export.render import render
from coaster.scene.contents import Footage, Picture
from coaster.scene.document import Scene
from coaster.scene.footage import FrameTimes
from studio.demo import scenes
from studio.footage import services as small
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

    known: dict[str, str] = {}
    for made in scenes.all_scenes(keep, partial(_film, user, project)):
        scene = _with_takes(user, project, made).with_shown(known)
        kept_scene = services.create_scene(user, project, made.name, scene)
        known[scenes.named(made.name)] = str(kept_scene.pk)


def _film(user: User, project: Project, name: str, scene: Scene) -> Footage:
    """Render a scene and keep the file as footage; its small frames are made meanwhile."""
    with tempfile.TemporaryDirectory() as folder:
        file = File(folder) / f"{name}.mp4"
        render(scene, project.folder, file, order_for(scene), workers=0)
        with file.open("rb") as stream:
            uploaded = UploadedFile(stream, file.name, size=file.stat().st_size)
            asset, facts = services.import_footage(user, project, uploaded, file.suffix)
    small.start(user, asset, facts.count)
    times = FrameTimes(facts.ticks, facts.steps)
    return Footage(asset.file_name, asset.width, asset.height, times)


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
