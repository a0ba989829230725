"""What every writer of frames is, and what there is to know of a kind of file."""

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path as File
from types import TracebackType
from typing import Literal, Protocol, Self

from coaster.media.pictures import Pixels


class FrameWriter(Protocol):
    """Takes frames one by one, premultiplied BGRA (height, width, 4); the file appears when the
    last is in.

    A with-statement finishes the file, or drops it after an error.
    Errors: MediaError: the encoder or the disk refused.
    """

    @property
    def idle(self) -> bool:
        """Whether it waits for the next frame."""

    def write(self, pixels: Pixels) -> None:
        """Take the next frame; ``pixels`` may be reused afterwards."""

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
    transparent.
    """

    file: File
    size: tuple[int, int]
    rate: Fraction
    alpha: bool = False


@dataclass(frozen=True)
class Kind:
    """One kind of file: its ``ending``, how it is called, how a browser shows it, and who writes
    it.
    """

    name: str
    ending: str
    words: str
    mime: str
    alpha: bool
    shown_as: Literal["video", "image", "none"]
    open: Callable[[Job], FrameWriter]
