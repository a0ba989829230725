"""What every reader of moving pictures is, and what there is to know of a file."""

import zipfile
from collections import OrderedDict
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import groupby
from typing import Any, Protocol

import av.error
import cv2
from PIL import Image

from coaster.errors import MediaError
from coaster.media.pictures import Pixels

Steps = tuple[tuple[int, int], ...]
"""Runs of frames in order: how many, and how many ticks each of them is seen."""
FEW_KEPT, MOST_KEPT = 32_000_000, 128_000_000
"""Bytes of decoded frames that one reader keeps: while it goes on, and once it has gone back."""
READING = (
    av.error.FFmpegError,
    OSError,
    ValueError,
    SyntaxError,
    EOFError,
    KeyError,
    zipfile.BadZipFile,
    Image.DecompressionBombError,
    cv2.error,
)
"""What the libraries raise over files that are damaged."""


@dataclass(frozen=True)
class Facts:
    """What there is to know of a file: its size as it is shown (px; turned as it says, and its px
    made square), its frames in time, whether it has transparency, and what is to be said of it.
    """

    width: float
    height: float
    ticks: int
    steps: Steps
    alpha: bool
    notes: tuple[str, ...] = ()

    @property
    def count(self) -> int:
        return sum(count for count, _ in self.steps)


class Footage(Protocol):
    """An open file, of which one thread at a time asks.

    Shapes: ``pixels`` are premultiplied BGRA (height, width, 4), turned as the file says; they
            need not be square.
    Errors: MediaError: it cannot be read.
    """

    @property
    def facts(self) -> Facts: ...
    def pixels(self, index: int) -> Pixels: ...
    def small(self, index: int) -> Callable[[], bytes]:
        """Decode a frame; return what makes a small one of it, in any thread."""
        ...

    def close(self) -> None: ...


def in_runs(lengths: Sequence[int]) -> Steps:
    """Return how long frames are seen as runs of equal ones."""
    return tuple((len(list(run)), length) for length, run in groupby(lengths))


def unreadable(name: str, index: int) -> MediaError:
    return MediaError(f"Frame {index} of the footage {name} cannot be read.")


class Kept:
    """Frames decoded last, up to so many bytes."""

    def __init__(self) -> None:
        self._frames: OrderedDict[int, tuple[Any, int]] = OrderedDict()
        self._bytes = 0
        self.most = FEW_KEPT

    def get(self, index: int) -> Any:
        """Return a frame, or None where it is not kept."""
        if index not in self._frames:
            return None
        self._frames.move_to_end(index)
        return self._frames[index][0]

    def put(self, index: int, frame: Any, size: int) -> None:
        if index in self._frames:
            return
        self._frames[index] = frame, size
        self._bytes += size
        while self._bytes > self.most and len(self._frames) > 1:
            _, (_, gone) = self._frames.popitem(last=False)
            self._bytes -= gone
