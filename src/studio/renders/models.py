"""Renders: what was asked for, how far it is, and what came of it."""

from pathlib import Path as File
from typing import Self

from django.contrib.auth.models import User
from django.db import models

from coaster.media.writers import KINDS
from coaster.media.writing import Kind
from studio.jobs.models import Job
from studio.projects.models import Scene, scene_folder
from studio.projects.querysets import Owned, Person


class Renders(Owned):
    owner, project = "scene__project__owner", "scene__project__"

    def visible_to(self, user: Person) -> Self:
        return super().visible_to(user).filter(deleted_at=None)


class Render(Job):
    """One render of one revision. It carries the document, so that edits do not touch it."""

    scene = models.ForeignKey(Scene, on_delete=models.CASCADE, related_name="renders")
    author = models.ForeignKey(User, on_delete=models.SET_NULL, null=True)
    revision = models.PositiveIntegerField()
    document = models.TextField()
    format = models.CharField(max_length=20)
    scale = models.FloatField(default=1.0)
    loops = models.PositiveIntegerField(default=1)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    size = models.PositiveBigIntegerField(default=0)
    deleted_at = models.DateTimeField(null=True, blank=True)

    objects = Renders.as_manager()

    def __str__(self) -> str:
        return f"{self.kind.words} of {self.scene.name}"

    @property
    def kind(self) -> Kind:
        """The kind of its file."""
        return KINDS[self.format]

    @property
    def file(self) -> File:
        return scene_folder("renders", self.scene_id) / f"{self.pk}{self.kind.ending}"
