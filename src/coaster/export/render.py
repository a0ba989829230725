"""A scene as a file of frames: written at once, or as chunks that outlive an interruption."""

import os
import tempfile
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from contextlib import ExitStack, contextmanager, suppress
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path as File

from coaster.errors import MediaError, RenderCancelled, RenderError
from coaster.export import vector
from coaster.export.chunks import GLIMPSE_PX, Chunk, Crew, Glimpses, Watch, chunks_of, job_of
from coaster.export.crew import Here
from coaster.export.drawers import Drawers, painter_of
from coaster.export.orders import Order, check
from coaster.media.pictures import Pixels
from coaster.media.writers import kind_for
from coaster.media.writing import Job, Kind, Splice
from coaster.scene.document import Scene

SAMPLE_PX = 480
"""About how wide and high the samples are by which a kind looks ahead."""


def render(
    scene: Scene,
    folder: File,
    out: File,
    order: Order,
    *,
    kind: Kind | None = None,
    workers: int | None = None,
    watch: Watch | None = None,
    parts: File | None = None,
    crew: Crew | None = None,
) -> None:
    """Render to ``out``, which appears only when it is whole; without a kind the one that its
    ending asks for.

    With a folder for ``parts``, what is there of the same render is not made again, where the kind
    can be joined; whoever gave it empties it. A ``crew`` makes the chunks of such kinds; without
    one, up to ``workers`` processes beside this one do.

    Errors: RenderError with the frame; MediaError: the encoder or the disk refused; FormatError:
            its ending is of no kind that is known, or the kind cannot hold what is asked for;
            RenderCancelled: it was asked to stop.
    """
    kind = kind or kind_for(out.name)
    check(scene, order, kind)
    watch = watch or Watch()
    if kind.vectors:
        _of_vectors(order.of(scene), folder, out, order, kind, watch)
        return
    chunks = chunks_of(scene, order, kind)
    if len(chunks) == 1 or kind.join is None:
        _whole(scene, folder, out, order, kind, workers, watch)
        return
    with _room_for(parts, out) as into, kind.join(_job_of(chunks[0], out), into) as film:
        strip = _Strip(film, into, deque(chunks))
        heard = replace(watch, made=strip.grow)
        _made(chunks, folder, into, crew or Here(workers), heard)
        strip.finish()


def _of_vectors(
    scene: Scene, folder: File, out: File, order: Order, kind: Kind, watch: Watch
) -> None:
    """Write a file that has no frames, and let its first one be seen all the same."""
    vector.write(scene, folder, out, order, kind)
    with suppress(RenderError):  # the file is there
        small = painter_of(scene, folder, min(order.scale, GLIMPSE_PX / scene.width))
        if (jpeg := Glimpses().of(small.picture(order.first))) is not None:
            watch.seen(jpeg)
    watch.progress(order.count)


@dataclass(frozen=True)
class Film:
    """A scene as it is ordered, and the file that it goes to."""

    scene: Scene
    order: Order
    out: File


def render_several(
    films: Sequence[Film], folder: File, kind: Kind, *, watch: Watch, crew: Crew | None = None
) -> None:
    """Render several films of one kind, which appear one by one as they are whole; those whose kind
    can be joined are made side by side.

    Errors: as ``render``; what was whole stays.
    """
    if kind.join is None:
        done = 0
        for film in films:
            onward = replace(watch, progress=partial(_go_on, watch.progress, done))
            render(film.scene, folder, film.out, film.order, kind=kind, watch=onward, crew=crew)
            done += film.order.count
        return
    named = {f"{i}-": film for i, film in enumerate(films)}
    chunks = {
        name: [replace(chunk, film=name) for chunk in chunks_of(film.scene, film.order, kind)]
        for name, film in named.items()
    }
    missing = {name: len(those) for name, those in chunks.items()}
    with _room_for(None, films[0].out) as into:

        def made(chunk: Chunk) -> None:
            missing[chunk.film] -= 1
            if not missing[chunk.film]:
                _put_together(chunks.pop(chunk.film), into, kind, named[chunk.film].out)

        every = [chunk for those in chunks.values() for chunk in those]
        (crew or Here()).make(every, folder, into, replace(watch, made=made))


def _go_on(progress: Callable[[int], None], before: int, done: int) -> None:
    progress(before + done)


def _job_of(chunk: Chunk, out: File) -> Job:
    """Return what is to be written of all chunks of a film."""
    return job_of(chunk.order.of(chunk.scene), chunk.order, out)


@dataclass
class _Strip:
    """A film to which chunks are put as they come, in their order, so that little is left to do
    when the last one is there.
    """

    film: Splice
    into: File
    left: deque[Chunk]

    def grow(self, _: Chunk) -> None:
        """Put those that are there to it, up to the first that is not."""
        while self.left and (self.into / self.left[0].name).exists():
            self._add(self.left.popleft())

    def finish(self) -> None:
        """Put all that are left to it: whichever is missing now is an error."""
        while self.left:
            self._add(self.left.popleft())

    def _add(self, chunk: Chunk) -> None:
        self.film.add(self.into / chunk.name, chunk.last - chunk.first)


def _put_together(chunks: Sequence[Chunk], into: File, kind: Kind, out: File) -> None:
    """Make a film of its chunks, whose files are in ``into`` and are not needed any more.

    Errors: MediaError: the disk refused.
    """
    if kind.join is not None and len(chunks) > 1:
        with kind.join(_job_of(chunks[0], out), into) as film:
            _Strip(film, into, deque(chunks)).finish()
        for chunk in chunks:
            (into / chunk.name).unlink()
        return
    try:
        os.replace(into / chunks[0].name, out)
    except OSError as error:
        words = f"{out.name} could not be put in its place: {error.strerror}."
        raise MediaError(words) from error


@contextmanager
def _room_for(parts: File | None, out: File) -> Iterator[File]:
    """Yield a folder for chunks; one that nobody gave is gone afterwards."""
    if parts is not None:
        parts.mkdir(parents=True, exist_ok=True)
        yield parts
        return
    try:
        # Beside the file: where there is room for that there is room for these.
        room = tempfile.TemporaryDirectory(prefix=f".{out.name}.", dir=out.parent)
    except OSError as error:
        raise MediaError(f"{out.name} could not be begun: {error.strerror}.") from error
    with room as name:
        yield File(name)


def _made(chunks: list[Chunk], folder: File, into: File, crew: Crew, watch: Watch) -> None:
    """Make those chunks that are not there yet."""
    for left in into.glob(".*.part"):
        # A process that was killed wrote it.
        left.unlink(missing_ok=True)
    missing = [chunk for chunk in chunks if not (into / chunk.name).exists()]
    there = chunks[-1].last - sum(chunk.last - chunk.first for chunk in missing)
    if missing:
        onward = replace(watch, progress=lambda done: watch.progress(there + done))
        crew.make(missing, folder, into, onward)


def _whole(
    scene: Scene,
    folder: File,
    out: File,
    order: Order,
    kind: Kind,
    workers: int | None,
    watch: Watch,
) -> None:
    """Write all frames into one file, drawn ahead by processes, while it is encoded here."""
    scene, glimpses = order.of(scene), Glimpses()
    with ExitStack() as stack:
        drawers = stack.enter_context(
            Drawers(scene, folder, scale=order.scale, plan=order.plan(scene), workers=workers)
        )
        samples = _samples(drawers, order, kind.looks_ahead)
        writer = stack.enter_context(kind.open(job_of(scene, order, out, samples)))
        drawn = drawers.frames(order.frames())
        for index in range(order.count):
            # Before it is drawn: a frame may take a while.
            if watch.cancelled():
                raise RenderCancelled("The render was cancelled.")
            pixels = next(drawn)
            if writer.idle:
                drawers.report_idle()
            writer.write(pixels)
            if (jpeg := glimpses.of(pixels)) is not None:
                watch.seen(jpeg)
            watch.progress(index + 1)


def _samples(drawers: Drawers, order: Order, count: int) -> list[Pixels]:
    """Return some of the frames, evenly chosen, of which every so many px is kept."""
    frames = order.frames()[: order.once]
    count = min(count, len(frames))
    chosen = [frames[len(frames) * i // count] for i in range(count)]
    step = max(1, max(drawers.size) // SAMPLE_PX)
    return [pixels[::step, ::step].copy() for pixels in drawers.frames(chosen)]
