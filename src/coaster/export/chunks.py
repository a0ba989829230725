"""A render as chunks: frames in a row that are encoded by themselves, the same wherever that is."""

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path as File
from typing import Protocol

import numpy as np

from coaster.errors import RenderError
from coaster.export.drawers import planned
from coaster.export.orders import Order
from coaster.media.pictures import Pixels, small_jpeg
from coaster.media.writers import KINDS
from coaster.media.writing import Job, Kind
from coaster.render.blur import BlurredPainter
from coaster.render.raster import Painter, Surface, output_size
from coaster.scene.document import Scene

CHUNK, LEADS = 60, 15
"""Most frames of a chunk: so few that a short film has some for each processor. Files are up to a
tenth larger than with twice as many, where next to nothing moves. The first has a fifteenth
more."""
GLIMPSE_S, GLIMPSE_PX = 1.0, 480
"""How often, and how wide, what is drawn is shown to whoever looks on."""
TELL_S = 0.2
"""How often it is told how far a chunk is: to hear of each frame is a hundredth of the time."""
Hear = Callable[[int, bytes | None], None]
"""Hears now and then how many frames of a chunk are in, and may see the last one, as JPEG; what it
raises ends the work."""


@dataclass(frozen=True)
class Chunk:
    """Pictures ``first`` up to but not ``last`` of a film that is ordered of a scene; of several
    films each has a ``film`` of its own.
    """

    scene: Scene
    order: Order
    kind: str
    first: int
    last: int
    film: str = ""

    @property
    def name(self) -> str:
        """How its file is called."""
        return f"{self.film}{self.first:06}-{self.last:06}{KINDS[self.kind].ending}"


@dataclass
class Watch:
    """Whoever looks on: hears how many frames are in, and of each chunk whose file is there, sees
    the last frame now and then as a small JPEG, and is asked before each whether to stop.
    """

    progress: Callable[[int], None] = lambda done: None
    seen: Callable[[bytes], None] = lambda jpeg: None
    cancelled: Callable[[], bool] = lambda: False
    made: Callable[[Chunk], None] = lambda chunk: None


class Tally:
    """How many frames of some chunks are in."""

    def __init__(self) -> None:
        self._each: dict[str, int] = {}
        self.total = 0

    def set(self, chunk: Chunk, done: int) -> None:
        self.total += done - self.of(chunk)
        self._each[chunk.name] = done

    def of(self, chunk: Chunk) -> int:
        return self._each.get(chunk.name, 0)


class Crew(Protocol):
    """Whoever makes chunks, several at a time."""

    def make(self, chunks: Sequence[Chunk], folder: File, into: File, watch: Watch) -> None:
        """Make the files of all chunks in ``into``, of pictures and fonts that are in ``folder``.

        ``watch`` hears how many frames of them are in, and which are made.

        Errors: those of a render.
        """


class _Every:
    """Says when so many seconds have gone by since it last said so; at first they have."""

    def __init__(self, seconds: float) -> None:
        self._seconds, self._next = seconds, 0.0

    def due(self) -> bool:
        now = time.monotonic()
        if now < self._next:
            return False
        self._next = now + self._seconds
        return True


class Glimpses:
    """Small pictures of what is drawn, so many a second at most."""

    def __init__(self) -> None:
        self._often = _Every(GLIMPSE_S)

    def of(self, pixels: Pixels) -> bytes | None:
        return small_jpeg(pixels, GLIMPSE_PX, rough=True) if self._often.due() else None


def chunks_of(scene: Scene, order: Order, kind: Kind) -> list[Chunk]:
    """Return the chunks of a film, but for the first one about equally long; one where it is short
    or its kind cannot be joined.

    By the frames alone, so that they are the same on every machine; and of even number, so that two
    processors have the same to do. The first is longer by what its maker is ahead of the others,
    which begin later.
    """
    count = order.count
    many = 2 * -(-count // (2 * CHUNK)) if kind.join and count > CHUNK else 1
    lead = CHUNK // LEADS if many > 1 else 0
    ends = [lead + (count - lead) * i // many for i in range(1, many + 1)]
    return [Chunk(scene, order, kind.name, first, last) for first, last in pairwise([0, *ends])]


def job_of(scene: Scene, order: Order, file: File, samples: Sequence[Pixels] = ()) -> Job:
    """Return what is to be written for an order of a scene that has what is to be behind it."""
    size = output_size(scene.width, scene.height, order.scale)
    return Job(file, size, order.rate.fraction, scene.background is None, order.quality, samples)


class Maker:
    """Draws and encodes chunks, one after the other; what is the same in all of a film is drawn
    once.
    """

    def __init__(self) -> None:
        self._film: object = None
        self._painter: Painter | BlurredPainter | None = None
        self._glimpses = Glimpses()

    def make(self, chunk: Chunk, folder: File, file: File, hear: Hear) -> None:
        """Make the file of a chunk, which appears when it is whole.

        Errors: RenderError with the frame; MediaError: the encoder or the disk refused; what
                ``hear`` raises.
        """
        painter, frames = self._drawing(chunk, folder)
        job = job_of(chunk.order.of(chunk.scene), chunk.order, file)
        width, height = job.size
        surface, often = Surface(np.empty((height, width, 4), np.uint8)), _Every(TELL_S)
        with KINDS[chunk.kind].open(job) as writer:
            for index, frame in enumerate(frames):
                try:
                    pixels = painter.painted(frame, surface)
                except RenderError as error:
                    at = chunk.first + index
                    words = f"Picture {at} of the film could not be drawn: {error.__cause__}"
                    raise RenderError(words, at) from error
                writer.write(pixels, surface.changed)
                if often.due():
                    hear(index + 1, self._glimpses.of(pixels))

    def _drawing(self, chunk: Chunk, folder: File) -> tuple[Painter | BlurredPainter, list[int]]:
        """Return who draws the pictures of a chunk, and what these are called there."""
        scene, order = chunk.order.of(chunk.scene), chunk.order
        frames = order.frames()[chunk.first : chunk.last]
        if order.is_planned:
            # Only what is seen here is evaluated: so the memory does not grow with the film.
            seen = sorted(set(frames))
            painter = planned(scene, folder, order.scale, order.plan(scene, seen))
            return painter, [seen.index(frame) for frame in frames]
        if self._painter is None or self._film != (scene, order, folder):
            self._film = scene, order, folder
            self._painter = planned(scene, folder, order.scale, None)
        return self._painter, frames
