"""A scene as a file of frames: written at once, or in parts that outlive an interruption."""

from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import ExitStack
from dataclasses import dataclass, replace
from pathlib import Path as File

from coaster.errors import RenderCancelled
from coaster.export.drawers import Drawers
from coaster.export.orders import Order, check
from coaster.media.pictures import Pixels
from coaster.media.writers import kind_for
from coaster.media.writing import FrameWriter, Job, Kind
from coaster.scene.document import Scene

SAMPLE_PX = 480
"""About how wide and high the samples are by which a kind looks ahead."""
CHUNK = 120
"""Frames of a part: half as many as encoders put between frames that stand by themselves."""


@dataclass
class Watch:
    """Whoever looks on: hears how many frames are in, sees the last one, and is asked before each
    whether to stop.
    """

    progress: Callable[[int], None] = lambda done: None
    seen: Callable[[Pixels], None] = lambda pixels: None
    cancelled: Callable[[], bool] = lambda: False


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
) -> None:
    """Render to ``out``, which appears only when it is whole; without a kind the one that its
    ending asks for.

    With a folder for ``parts``, what is there of the same render is not made again, where the kind
    can be joined; whoever gave it empties it.

    Errors: RenderError with the frame; MediaError: the encoder or the disk refused; FormatError:
            its ending is of no kind that is known, or the kind cannot hold what is asked for;
            RenderCancelled: it was asked to stop.
    """
    kind = kind or kind_for(out.name)
    check(scene, order, kind)
    scene = order.of(scene)
    with ExitStack() as stack:
        drawers = stack.enter_context(
            Drawers(scene, folder, scale=order.scale, plan=order.plan(scene), workers=workers)
        )
        alpha, rate = scene.background is None, order.rate.fraction
        samples = _samples(drawers, order, kind.looks_ahead)
        job = Job(out, drawers.size, rate, alpha, order.quality, samples)
        work = _Work(drawers, kind, job, order.frames(), watch or Watch())
        if parts is None or kind.join is None or order.count <= CHUNK:
            work.whole()
        else:
            kind.join(work.chunks(parts), job, CHUNK)


@dataclass
class _Work:
    """Draws frames and writes them, all into one file or so many into each."""

    drawers: Drawers
    kind: Kind
    job: Job
    frames: list[int]
    watch: Watch

    def whole(self) -> None:
        with self.kind.open(self.job) as writer:
            self._write(writer, self.drawers.frames(self.frames), len(self.frames), 0)

    def chunks(self, folder: File) -> list[File]:
        """Return the files of all chunks, those made that were not there."""
        folder.mkdir(parents=True, exist_ok=True)
        starts = range(0, len(self.frames), CHUNK)
        files = [folder / f"{start:06}{self.kind.ending}" for start in starts]
        first = next((i for i, file in enumerate(files) if not file.exists()), len(files))
        drawn = self.drawers.frames(self.frames[first * CHUNK :])
        # One is finished while the next is begun: else the encoder would run dry between them.
        with ThreadPoolExecutor(1) as finisher:
            finishing: Future[None] | None = None
            for start, file in list(zip(starts, files, strict=True))[first:]:
                writer = self.kind.open(replace(self.job, file=file))
                try:
                    self._write(writer, drawn, min(CHUNK, len(self.frames) - start), start)
                    if finishing is not None:
                        finishing.result()
                except BaseException:
                    writer.abandon()
                    raise
                finishing = finisher.submit(writer.close)
            if finishing is not None:
                finishing.result()
        return files

    def _write(self, writer: FrameWriter, drawn: Iterator[Pixels], count: int, done: int) -> None:
        for index in range(count):
            # Before it is drawn: a frame may take a while.
            if self.watch.cancelled():
                raise RenderCancelled("The render was cancelled.")
            pixels = next(drawn)
            if writer.idle:
                self.drawers.report_idle()
            writer.write(pixels)
            self.watch.seen(pixels)
            self.watch.progress(done + index + 1)


def _samples(drawers: Drawers, order: Order, count: int) -> list[Pixels]:
    """Return some of the frames, evenly chosen, of which every so many px is kept."""
    frames = order.frames()[: order.once]
    count = min(count, len(frames))
    chosen = [frames[len(frames) * i // count] for i in range(count)]
    step = max(1, max(drawers.size) // SAMPLE_PX)
    return [pixels[::step, ::step].copy() for pixels in drawers.frames(chosen)]
