"""Projects, their scenes with all revisions, and the pictures they use."""

import zlib
from collections.abc import Iterable
from contextlib import suppress
from functools import lru_cache, reduce
from operator import or_
from pathlib import Path as File

from django.conf import settings
from django.contrib.auth.models import User
from django.db import models

from coaster.commands.history import Heads
from coaster.errors import CoreError
from coaster.formats.bundle import FONT_ENDINGS
from coaster.scene import codec, insets
from coaster.scene import document as core
from coaster.scene.limits import MOST_LAYERS, drawn_layers
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
        """Return the document as the core's immutable value, with the scenes that it shows."""
        # Kept by its text: a revision is parsed once, however many ask for it.
        return self.completed(_parsed(self.document))

    def completed(self, value: core.Scene) -> core.Scene:
        """Return a state of this scene with those of its project that it shows, as they are now.

        One that is in the bin or cannot be read is not there; where scenes show each other in a
        circle, none is.
        """
        rows = shown_rows(self.project_id, value.shown_ids())
        if not rows:
            return value.alone()
        if str(self.pk) in {pk for pk, _, _ in rows}:
            return value.alone()
        found = value.with_scenes(_beside(rows))
        # Small scenes that show each other often enough would take all there is.
        return found if drawn_layers(found)[0] <= MOST_DRAWN else value.alone()

    @property
    def look(self) -> int:
        """A number that is another one once the scene looks otherwise, those that it shows
        included.
        """
        mark = self.shown_mark
        # The revision first, so that the newest is the largest.
        return self.revision << 32 | mark if mark else self.revision

    @property
    def shown_mark(self) -> int:
        """A number for the scenes that it shows, as they are now; 0 where it shows none."""
        if SHOWS not in self.document:
            return 0
        rows = shown_rows(self.project_id, shown_by(self.document))
        return zlib.crc32(repr(rows).encode())

    def readable(self) -> core.Scene | None:
        """Return the document, or None where this version cannot read it: others still show."""
        try:
            return self.value()
        except CoreError:
            return None


@lru_cache(maxsize=128)
def _parsed(document: str) -> core.Scene:
    return codec.from_json(document)


SHOWS = '"type": "scene"'
"""What is in the document of a scene that shows others."""
MOST_DIGITS = 12
MOST_DRAWN = 4 * MOST_LAYERS
"""Layers of a scene with all those of the scenes it shows."""
Row = tuple[str, str, str]
"""A scene by its id, its name and its document."""


def shown_rows(project_pk: int, ids: Iterable[str]) -> tuple[Row, ...]:
    """Return the scenes of a project that these ids reach, one shown by another."""
    found: dict[str, Row] = {}
    wanted = _keys(ids)
    while wanted:
        there = Scene.objects.filter(project_id=project_pk, deleted_at=None, pk__in=wanted)
        rows = there.values_list("pk", "name", "document")
        new = {str(pk): (str(pk), name, document) for pk, name, document in rows}
        found |= new
        shown = _keys(x for row in new.values() for x in shown_by(row[2]))
        wanted = {each for each in shown if str(each) not in found}
    return tuple(found.values())


def _keys(ids: Iterable[str]) -> set[int]:
    """Return ids as keys of rows; what a file calls scenes may be no key of any."""
    return {int(each) for each in ids if each.isdecimal() and len(each) <= MOST_DIGITS}


def assets_of(document: str) -> set[str]:
    """Return the file names that a document names itself; none of one that cannot be read."""
    try:
        value = _parsed(document)
    except CoreError:
        return set()
    return {*value.assets(), *value.takes()}


def shown_by(document: str) -> list[str]:
    """Return the ids of the scenes that a document shows itself."""
    if SHOWS not in document:
        return []
    try:
        return _parsed(document).shown_ids()
    except CoreError:
        return []  # it says itself what is wrong, where it is opened


@lru_cache(maxsize=64)
def _beside(rows: tuple[Row, ...]) -> tuple[core.Beside, ...]:
    found = []
    for pk, name, document in rows:
        with suppress(CoreError):  # it says so where it is opened
            found.append(core.Beside(pk, name, _parsed(document)))
    try:
        insets.check({each.id: (each.name, each.scene.shown_ids()) for each in found})
    except ValueError:
        return ()
    return core.Scene().with_scenes(tuple(found)).scenes


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
    deleted_at = models.DateTimeField(null=True, blank=True)
    """In the bin; its file is there until it is erased, as an undo may bring back what shows it."""

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
        rows = cls.objects.filter(project=project, deleted_at=None).order_by("original_name")
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
