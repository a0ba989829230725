"""Small frames of footage, for the stage: how far they are made."""

from pathlib import Path as File

from django.conf import settings
from django.db import models

from coaster.media.small import blocks_in
from studio.jobs.models import Job
from studio.projects.models import Asset
from studio.projects.querysets import Owned


class OfAssets(Owned):
    owner, project = "asset__project__owner", "asset__project__"


class SmallFrames(Job):
    """Making the small frames of one file; ``total`` and ``done`` are frames.

    What it makes are blocks of frames, each a file of its own. One that is missing, because it is
    not made yet or was lost, is made when the stage asks for it.
    """

    asset = models.OneToOneField(Asset, on_delete=models.CASCADE, related_name="small")

    objects = OfAssets.as_manager()

    def __str__(self) -> str:
        return f"Small frames of {self.asset}"

    @property
    def folder(self) -> File:
        return settings.DATA / "small" / str(self.asset_id)

    def block(self, number: int) -> File:
        return self.folder / f"{number}.frames"

    @property
    def blocks(self) -> int:
        return blocks_in(self.total)
