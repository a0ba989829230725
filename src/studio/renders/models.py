"""Renders: what was asked for, how far it is, and what came of it."""

import secrets
from pathlib import Path as File
from typing import Self

from django.contrib.auth.models import User
from django.db import models

from coaster import __version__
from coaster.export.chunks import CHUNK
from coaster.export.orders import Choices, choices_of, words_of
from coaster.media.writers import KINDS
from coaster.media.writing import Kind
from studio.jobs.models import Job
from studio.projects.models import Project, Scene, scene_folder
from studio.projects.querysets import Owned, Person

LONGEST_NAME = 60


def new_key() -> str:
    """Return what nobody guesses, fit for an address."""
    return secrets.token_urlsafe(32)


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
    title = models.CharField(max_length=200, default="", blank=True)
    """What it is called in a series; else it is called as its scene is."""
    format = models.CharField(max_length=20)
    choices = models.JSONField(default=dict)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    size = models.PositiveBigIntegerField(default=0)
    deleted_at = models.DateTimeField(null=True, blank=True)

    objects = Renders.as_manager()

    def __str__(self) -> str:
        return f"{self.kind.words} of {self.scene.name}"

    @property
    def name(self) -> str:
        """What its file is called, without its ending."""
        return self.title or self.scene.name

    @property
    def kind(self) -> Kind:
        """The kind of its file."""
        return KINDS[self.format]

    @property
    def told(self) -> str:
        """What was chosen beside the format and the size, where it is not as usual."""
        return ", ".join(words_of(choices_of(self.choices)))

    @property
    def stays(self) -> bool:
        """Whether it goes on from what it has done, after a pause or a kill."""
        return self.kind.join is not None and self.total > CHUNK

    @property
    def parts(self) -> File:
        """The folder of what is done of it, by a version that would draw the same."""
        return self.file.with_name(f".{self.pk}.parts") / __version__

    @property
    def picture(self) -> File:
        """What was seen of it last while it was made."""
        return self.file.with_name(f".{self.pk}.jpg")

    @property
    def is_seen(self) -> bool:
        """Whether there is such a picture."""
        return self.picture.is_file()

    @property
    def file(self) -> File:
        return scene_folder("renders", self.scene_id) / f"{self.pk}{self.kind.ending}"


class ScreenLink(models.Model):
    """A link by which anybody sees what is rendered of a project, until it is withdrawn."""

    project = models.OneToOneField(Project, on_delete=models.CASCADE, related_name="screen_link")
    key = models.CharField(max_length=43, unique=True, default=new_key)
    made_at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return f"A screen of {self.project}"


class Preset(models.Model):
    """Choices of renders that a person has kept under a name."""

    owner = models.ForeignKey(User, on_delete=models.CASCADE, related_name="render_presets")
    name = models.CharField(max_length=LONGEST_NAME)
    choices = models.JSONField()

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["owner", "name"], name="a_preset_once")]

    def __str__(self) -> str:
        return self.name

    @property
    def value(self) -> Choices:
        return choices_of(self.choices)
