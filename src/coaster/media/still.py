"""One frame as a PNG."""

import os
from collections.abc import Sequence
from pathlib import Path as File

from coaster.errors import MediaError
from coaster.files import part_of
from coaster.media.pictures import Box, Pixels, encoded_png
from coaster.media.writing import Ending, Job, Kind


class StillWriter(Ending):
    """Writes the last frame that it is given.

    Errors: MediaError: the disk refused.
    """

    idle = False

    def __init__(self, job: Job) -> None:
        self.file: File = job.file
        self._part = part_of(job.file)
        self._alpha, self._data = job.alpha, b""

    def close(self) -> None:
        try:
            self._part.write_bytes(self._data)
            os.replace(self._part, self.file)
        except OSError as refusal:
            self._part.unlink(missing_ok=True)
            raise MediaError(
                f"{self.file.name} could not be written: {refusal.strerror or refusal}."
            ) from refusal

    def abandon(self) -> None:
        """Nothing is written before the end."""

    def write(self, pixels: Pixels, changed: Sequence[Box] | None = None) -> None:
        self._data = encoded_png(pixels, alpha=self._alpha)


STILL = Kind(
    "still",
    ".png",
    "PNG, one frame",
    "image/png",
    True,
    "image",
    StillWriter,
    lossless=True,
    most_frames=1,
)
