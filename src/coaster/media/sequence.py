"""A picture for each frame: PNG files, numbered from 1, in a zip."""

import os
import zipfile
from collections.abc import Sequence
from contextlib import suppress

from coaster.errors import MediaError
from coaster.files import part_of
from coaster.media.pictures import Box, Pixels, encoded_png
from coaster.media.writing import Ending, Job, Kind

DIGITS = 5


class SequenceWriter(Ending):
    """Writes frames as ``name-00001.png`` and so on; opaque ones without an alpha channel.

    Errors: MediaError: the disk refused.
    """

    idle = False
    """It encodes in the caller's thread, so nothing of it waits."""

    def __init__(self, job: Job) -> None:
        self.file, self._part = job.file, part_of(job.file)
        self._alpha, self._count = job.alpha, 0
        try:
            self._zip = zipfile.ZipFile(
                self._part, "w", zipfile.ZIP_STORED
            )  # PNGs are compressed already
        except OSError as error:
            raise MediaError(
                f"{self.file.name} could not be begun: {error.strerror or error}."
            ) from error

    def write(self, pixels: Pixels, changed: Sequence[Box] | None = None) -> None:
        self._count += 1
        # The same time for all, so that the same frames make the same file.
        entry = zipfile.ZipInfo(f"{self.file.stem}-{self._count:0{DIGITS}}.png")
        try:
            self._zip.writestr(entry, encoded_png(pixels, alpha=self._alpha))
        except OSError as error:
            raise MediaError(
                f"{self.file.name} could not be written near frame {self._count - 1}: {error}."
            ) from error

    def close(self) -> None:
        try:
            self._zip.close()
            os.replace(self._part, self.file)
        except OSError as error:
            self.abandon()
            raise MediaError(f"{self.file.name} could not be finished: {error}.") from error

    def abandon(self) -> None:
        with suppress(OSError, ValueError):  # thrown away in any case
            self._zip.close()
        self._part.unlink(missing_ok=True)


SEQUENCE = Kind(
    "png",
    ".zip",
    "PNG pictures, zipped",
    "application/zip",
    True,
    "none",
    SequenceWriter,
    lossless=True,
)
