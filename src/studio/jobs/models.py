"""Work that a worker does beside the server: how it stands, whether it lives, how far it is."""

from datetime import timedelta
from typing import Any

from django.conf import settings
from django.db import models
from django.utils import timezone

MOST_TRIES = 3
"""How often work is taken up again by itself after its process was killed."""


class State(models.TextChoices):
    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"
    PAUSED = "paused"


class Job(models.Model):
    """One piece of work of ``total`` steps; each kind is a model of its own with what it needs."""

    state = models.CharField(max_length=9, choices=State.choices, default=State.WAITING)
    cancel_asked = models.BooleanField(default=False)
    pause_asked = models.BooleanField(default=False)
    place = models.FloatField(default=0.0)
    """In line: the least is done first, of the same the one asked for first."""
    tries = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField()
    done = models.PositiveIntegerField(default=0)
    found = models.PositiveIntegerField(default=0)
    """Steps that an earlier try had done already."""
    words = models.CharField(max_length=300, blank=True)
    asked_at = models.DateTimeField(auto_now_add=True)
    started_at = models.DateTimeField(null=True)
    alive_at = models.DateTimeField(null=True)
    ended_at = models.DateTimeField(null=True)

    objects: models.Manager[Any]

    class Meta:
        abstract = True
        ordering = ["-asked_at"]

    @classmethod
    def silent(cls) -> models.QuerySet:
        """Return what runs but has not been heard of for too long: its process is gone."""
        silence, now = timedelta(seconds=settings.SILENCE_S), timezone.now()
        # A sign of life from hence is one from before the clock was set back.
        heard = models.Q(alive_at__gte=now - silence, alive_at__lte=now + silence)
        return cls.objects.filter(state=State.RUNNING).exclude(heard)

    @property
    def interrupted(self) -> bool:
        """Whether its process has gone without a word."""
        if self.state != State.RUNNING or self.alive_at is None:
            return False
        return abs(timezone.now() - self.alive_at) > timedelta(seconds=settings.SILENCE_S)

    @property
    def active(self) -> bool:
        running = self.state == State.RUNNING and not self.interrupted
        return self.state == State.WAITING or running

    @property
    def seconds_left(self) -> float | None:
        """Return an estimate from the pace so far, or None while there is none."""
        # The first steps take in what is prepared once; an estimate by them would frighten.
        steps = self.done - self.found
        if not self.active or self.started_at is None or steps < 2:
            return None
        spent = (timezone.now() - self.started_at).total_seconds()
        return spent / steps * (self.total - self.done)

    @property
    def seconds_taken(self) -> float | None:
        if self.started_at is None or self.ended_at is None:
            return None
        return (self.ended_at - self.started_at).total_seconds()
