"""Memory that several processes see, and that is gone when the last of them is."""

import mmap
import os
import tempfile
from multiprocessing import reduction
from typing import Any

import numpy as np

from coaster.media.pictures import Pixels

FAST = "/dev/shm"  # noqa: S108 - Linux's memory file system; the file in it never has a name
"""Where a nameless file costs no disk."""


class SharedFrames:
    """``count`` frames of width x height px, handed to a process by pickling while it is spawned.

    They lie in a file without a name, so that nothing is left behind however the processes end.
    """

    def __init__(self, count: int, size: tuple[int, int]) -> None:
        self.size = size
        self._bytes = max(count * size[0] * size[1] * 4, 1)
        folder = FAST if os.access(FAST, os.W_OK) else None
        with tempfile.TemporaryFile(dir=folder) as file:
            file.truncate(self._bytes)
            self._file = os.dup(file.fileno())
        self._map = mmap.mmap(self._file, self._bytes)

    def __getstate__(self) -> dict[str, Any]:
        return {"size": self.size, "bytes": self._bytes, "file": reduction.DupFd(self._file)}

    def __setstate__(self, state: dict[str, Any]) -> None:
        self.size, self._bytes = state["size"], state["bytes"]
        self._file = state["file"].detach()
        self._map = mmap.mmap(self._file, self._bytes)

    def frame(self, index: int) -> Pixels:
        """Return the pixels of one frame; what is written there all processes see."""
        width, height = self.size
        return np.ndarray(
            (height, width, 4), np.uint8, self._map, offset=index * width * height * 4
        )

    def close(self) -> None:
        """Let go of the file; the memory goes with the last array on it."""
        if self._file >= 0:
            os.close(self._file)
            self._file = -1
