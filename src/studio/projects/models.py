"""Projects, their scenes with all revisions, and the pictures they use."""

from functools import lru_cache, reduce
from operator import or_
from pathlib import Path as File

from django.conf import settings
from django.contrib.auth.models import User
from django.db import models

from coaster.commands.history import Heads
from coaster.errors import CoreError
from coaster.formats.bundle import FONT_ENDINGS
from coaster.scene import codec
from coaster.scene import document as core
from studio.projects.querysets import Owned, Projects, Scenes


def scene_folder(of: str, scene_pk: int) -> File:
    """Return the folder of a scene's files of one sort: its ``renders`` or ``thumbnails``."""
    return settings.DATA / of / str(scene_pk)


class Project(models.Model):
    """A folder of scenes and the pictures they share; it belongs to one person."""

    owner = models.ForeignKey(User, on_delete=models.CASCADE)
    name = models.CharField(max_length=80)
    created_at = models.DateTimeField(auto_now_add=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    objects = Projects.as_manager()

    class Meta:
        ordering = ["created_at"]

    def __str__(self) -> str:
        return self.name

    @property
    def folder(self) -> File:
        """Where its pictures are."""
        return settings.DATA / "projects" / str(self.pk) / "assets"


class Scene(models.Model):
    """A scene's current document and how often it was edited."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="scenes")
    name = models.CharField(max_length=80)
    document = models.TextField()
    revision = models.PositiveIntegerField(default=0)
    created_at = models.DateTimeField(auto_now_add=True)
    edited_at = models.DateTimeField(auto_now_add=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    objects = Scenes.as_manager()

    class Meta:
        ordering = ["created_at"]

    def __str__(self) -> str:
        return self.name

    @property
    def folders(self) -> list[File]:
        """Where its files are, beside the pictures that it shares."""
        return [scene_folder(of, self.pk) for of in ("renders", "thumbnails")]

    def value(self) -> core.Scene:
        """Return the document as the core's immutable value."""
        # Kept by its text: a revision is parsed once, however many ask for it.
        return _parsed(self.document)

    def readable(self) -> core.Scene | None:
        """Return the document, or None where this version cannot read it: others still show."""
        try:
            return self.value()
        except CoreError:
            return None


@lru_cache(maxsize=128)
def _parsed(document: str) -> core.Scene:
    return codec.from_json(document)


class Revision(models.Model):
    """One edit, never changed afterwards; number 0 is the scene as it was made.

    ``undo`` and ``redo`` are the heads after it (see ``coaster.commands.history``); ``joins``
    says that it is undone together with the one before. ``key`` is what the window that made it
    called it: a request that is sent again is one edit. ``name`` is what a person calls the
    version that the scene is after it.
    """

    scene = models.ForeignKey(Scene, on_delete=models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    author = models.ForeignKey(User, on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now_add=True)
    words = models.CharField(max_length=200)
    commands = models.JSONField(default=list)
    inverses = models.JSONField(default=list)
    undo = models.PositiveIntegerField(default=0)
    redo = models.PositiveIntegerField(default=0)
    joins = models.BooleanField(default=False)
    snapshot = models.TextField(blank=True)
    key = models.CharField(max_length=60, blank=True)
    name = models.CharField(max_length=80, blank=True)

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["scene", "number"], name="one_revision_a_number")
        ]

    def __str__(self) -> str:
        return f"{self.scene_id}/{self.number} {self.words}"

    @property
    def heads(self) -> Heads:
        return Heads(self.undo, self.redo)


class Asset(models.Model):
    """A picture or a font of a project; its file is named by its content, so the same is kept once.
    A font has no size, and its name is what it calls itself.
    """

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="assets")
    file_name = models.CharField(max_length=80)
    original_name = models.CharField(max_length=200)
    width = models.FloatField()
    height = models.FloatField()
    created_at = models.DateTimeField(auto_now_add=True)

    objects = Owned.as_manager()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["project", "file_name"], name="one_asset_a_content")
        ]

    def __str__(self) -> str:
        return self.original_name

    @classmethod
    def fonts_of(cls, project: Project) -> "models.QuerySet[Asset]":
        """Return the fonts of a project by their names."""
        rows = cls.objects.filter(project=project).order_by("original_name")
        named = (models.Q(file_name__endswith=ending) for ending in FONT_ENDINGS)
        return rows.filter(reduce(or_, named))

    @property
    def path(self) -> File:
        return self.project.folder / self.file_name


class SavedRide(models.Model):
    """A ride with its path, kept to be used again in any scene of the project.

    ``document`` is a scene that holds one layer, its ride and the path, so that old ones are read
    as old scenes are.
    """

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="rides")
    name = models.CharField(max_length=80)
    document = models.TextField()
    created_at = models.DateTimeField(auto_now_add=True)

    objects = Owned.as_manager()

    class Meta:
        ordering = ["name", "pk"]

    def __str__(self) -> str:
        return self.name

    def value(self) -> core.Scene:
        return _parsed(self.document)


class RawTake(models.Model):
    """A movement as it was recorded or brought in; its file is named by its content and never
    changes.
    """

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="takes")
    file_name = models.CharField(max_length=90)
    name = models.CharField(max_length=200)
    samples = models.PositiveIntegerField()
    created_at = models.DateTimeField(auto_now_add=True)

    objects = Owned.as_manager()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["project", "file_name"], name="one_take_a_content")
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def path(self) -> File:
        return self.project.folder / self.file_name
