"""Renders: what was asked for, how far it is, and what came of it."""

from datetime import timedelta
from pathlib import Path as File

from django.conf import settings
from django.contrib.auth.models import User
from django.db import models
from django.utils import timezone

from studio.projects.models import Scene
from studio.projects.querysets import Owned


class Renders(Owned):
    owner, project = "scene__project__owner", "scene__project__"


class Render(models.Model):
    """One render of one revision. It carries the document, so that edits do not touch it."""

    class State(models.TextChoices):
        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    scene = models.ForeignKey(Scene, on_delete=models.CASCADE, related_name="renders")
    author = models.ForeignKey(User, on_delete=models.SET_NULL, null=True)
    revision = models.PositiveIntegerField()
    document = models.TextField()
    format = models.CharField(max_length=4, choices=[("mp4", "MP4"), ("webm", "WebM")])
    scale = models.FloatField(default=1.0)
    loops = models.PositiveIntegerField(default=1)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    state = models.CharField(max_length=9, choices=State.choices, default=State.WAITING)
    cancel_asked = models.BooleanField(default=False)
    frames = models.PositiveIntegerField()
    done = models.PositiveIntegerField(default=0)
    words = models.CharField(max_length=300, blank=True)
    size = models.PositiveBigIntegerField(default=0)
    asked_at = models.DateTimeField(auto_now_add=True)
    started_at = models.DateTimeField(null=True)
    alive_at = models.DateTimeField(null=True)
    ended_at = models.DateTimeField(null=True)

    objects = Renders.as_manager()

    class Meta:
        ordering = ["-asked_at"]

    def __str__(self) -> str:
        return f"{self.scene.name}.{self.format}"

    @property
    def file(self) -> File:
        return settings.DATA / "renders" / str(self.scene_id) / f"{self.pk}.{self.format}"

    @property
    def interrupted(self) -> bool:
        """Whether its process has gone without a word."""
        if self.state != self.State.RUNNING or self.alive_at is None:
            return False
        return timezone.now() - self.alive_at > timedelta(seconds=settings.SILENCE_S)

    @property
    def active(self) -> bool:
        return self.state == self.State.WAITING or (self.state == self.State.RUNNING and not self.interrupted)

    @property
    def percent(self) -> float:
        return 100 * self.done / self.frames

    @property
    def seconds_left(self) -> float | None:
        """Return an estimate from the pace so far, or None while there is none."""
        if not self.active or self.started_at is None or self.done < 2:
            return None
        spent = (timezone.now() - self.started_at).total_seconds()
        return spent / self.done * (self.frames - self.done)

    @property
    def seconds_taken(self) -> float | None:
        if self.started_at is None or self.ended_at is None:
            return None
        return (self.ended_at - self.started_at).total_seconds()
