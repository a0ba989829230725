"""What every writer of frames is, and what there is to know of a kind of file."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path as File
from types import TracebackType
from typing import Literal, Protocol, Self

from coaster.errors import MediaError
from coaster.media.pictures import Box, Pixels

Quality = Literal["small", "usual", "best"]
QUALITIES: dict[Quality, str] = {
    "small": "Smaller, a little softer",
    "usual": "Looks as drawn",
    "best": "For working on it further",
}
"""How much of what was drawn a file keeps, where that can be chosen."""


class FrameWriter(Protocol):
    """Takes frames one by one, premultiplied BGRA (height, width, 4); the file appears when the
    last is in.

    A with-statement closes the file, or abandons it after an error.
    Errors: MediaError: the encoder or the disk refused.
    """

    @property
    def idle(self) -> bool:
        """Whether it waits for the next frame."""

    def write(self, pixels: Pixels, changed: Sequence[Box] | None = None) -> None:
        """Take the next frame; ``pixels`` may be reused afterwards. Outside of the boxes
        ``changed``, where these are told, they are those of the last frame.
        """

    def close(self) -> None:
        """Put the finished file in its place."""

    def abandon(self) -> None:
        """Drop what was written; no file appears."""

    def __enter__(self) -> Self: ...
    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None: ...


@dataclass(frozen=True)
class Job:
    """What is to be written: where, frames of which size in px (even), how many a second, whether
    transparent, how well. ``samples`` are some of the frames, for a kind that looks ahead.
    """

    file: File
    size: tuple[int, int]
    rate: Fraction
    alpha: bool = False
    quality: Quality = "usual"
    samples: Sequence[Pixels] = ()


class Ending:
    """A writer whose with-statement closes its file, or abandons it after an error."""

    def close(self) -> None:
        raise NotImplementedError

    def abandon(self) -> None:
        raise NotImplementedError

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        if kind is None:
            self.close()
        else:
            self.abandon()


class Splice(Ending):
    """One file of several, put behind each other as they come, without encoding anything again. It
    is in a folder of its own until it is whole.

    Errors: MediaError: one is broken, or the disk refused.
    """

    def add(self, piece: File, count: int) -> None:
        """Put a file of so many frames behind what is there."""
        raise NotImplementedError


def unopened(job: Job) -> FrameWriter:
    """Errors: MediaError: nothing takes frames for this kind of file."""
    raise MediaError(f"{job.file.name} is not made of frames.")


@dataclass(frozen=True)
class Kind:
    """One kind of file: its ``ending``, how it is called, how a browser shows it, and who writes
    it.

    ``qualities`` say in the format's own numbers what a quality is, where there are several; what
    is ``lossless`` keeps every pixel. ``looks_ahead`` at so many frames before it begins.
    ``join`` begins one of several, in a folder beside it, where that can be. ``most_fps`` is the
    fastest that it can tell, ``fewest_frames`` and ``most_frames`` how short and how long it can
    be. What is of ``vectors`` is made of the scene itself: nobody opens a writer of frames.
    """

    name: str
    ending: str
    words: str
    mime: str
    alpha: bool
    shown_as: Literal["video", "image", "none"]
    open: Callable[[Job], FrameWriter] = unopened
    qualities: Mapping[Quality, str] = field(default_factory=dict)
    lossless: bool = False
    join: Callable[[Job, File], Splice] | None = None
    looks_ahead: int = 0
    most_fps: float = float("inf")
    fewest_frames: int = 1
    most_frames: int | None = None
    vectors: bool = False
