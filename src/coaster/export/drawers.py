"""Frames drawn ahead of their use, by processes of their own, into shared memory."""

import contextlib
import multiprocessing
import os
import signal
import statistics
import time
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from multiprocessing import connection
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from pathlib import Path as File
from types import TracebackType
from typing import Self

from coaster.errors import RenderError
from coaster.export.shared import SharedFrames
from coaster.media import found, pictures
from coaster.media.moving import is_moving
from coaster.media.pictures import Pixels
from coaster.media.readers import open_footage
from coaster.media.reading import Footage
from coaster.render.blur import BlurredPainter, Plan
from coaster.render.display import program_of
from coaster.render.evaluate import Evaluation
from coaster.render.frames import Frames
from coaster.render.raster import Painter, Surface
from coaster.scene.document import Scene

AHEAD = 2
"""Frames a drawer may have waiting, so that it never waits for the encoder's next word."""
SLOTS = AHEAD + 1
"""Frames of memory a drawer has: those it has waiting, and one that is being used."""
PATIENCE_S = 120.0
"""A frame that takes longer than this has hung."""
IDLE_REPORTS = 48
"""Frames waited for after which one more drawer is worth its start; encoders take the first few
dozen in without doing anything, and waiting for those is nobody's loss."""
TRIED, QUICK_S = 4, 0.012
"""Frames drawn here before the first process is started, and how quickly if it never is to be."""


def cores() -> int:
    """Return how many processors this process may use."""
    return len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1


class FolderSource:
    """Pictures and footage that are files of a folder."""

    def __init__(self, folder: File) -> None:
        self.folder = folder
        self._open: dict[str, Footage] = {}

    def pixels(self, asset: str, index: int) -> Pixels:
        if not is_moving(asset):
            return pictures.load(self.folder / asset)
        return self._footage(asset).pixels(index)

    def is_opaque(self, asset: str) -> bool:
        return is_moving(asset) and not self._footage(asset).facts.alpha

    def _footage(self, asset: str) -> Footage:
        if asset not in self._open:
            self._open[asset] = open_footage(self.folder / asset)
        return self._open[asset]


def painter_of(scene: Scene, folder: File, scale: float = 1.0) -> Painter:
    """Return a painter of a scene whose pictures and fonts are files of a folder."""
    found.look_in(folder)
    return Painter(program_of(Evaluation(scene)), FolderSource(folder), scale)


def planned(
    scene: Scene, folder: File, scale: float, plan: Plan | None
) -> Painter | BlurredPainter:
    """Return a painter of a plan's pictures; without one, of the scene's frames. Pictures and fonts
    are files of the folder.
    """
    if plan is None:
        return painter_of(scene, folder, scale)
    found.look_in(folder)
    program = program_of(Evaluation(scene), at=Frames(plan.moments))
    painter = Painter(program, FolderSource(folder), scale)
    return painter if plan.sharp else BlurredPainter(painter, plan)


@dataclass
class _Drawer:
    """A process, the slots of the shared memory that it alone draws into, and what it has to do."""

    process: BaseProcess
    pipe: Connection
    free: list[int]
    ready: bool = False
    waiting: int = 0


class Drawers:
    """Draws a scene's frames in any order, with up to ``workers`` processes beside the caller's.

    The caller's process draws the first frames. If that is quick it goes on so, since a process
    takes more time to start than it would save; else one is started, and another each time the
    caller had to wait long enough, or says that its own work waits (``report_idle``). Nobody waits
    for a start. ``workers=0`` draws everything here. With a ``plan`` frames are its pictures.

    Errors: RenderError with the frame: it could not be drawn, or its process ended or hung.
    """

    def __init__(
        self,
        scene: Scene,
        folder: File,
        *,
        scale: float = 1.0,
        plan: Plan | None = None,
        workers: int | None = None,
    ) -> None:
        self._most = cores() if workers is None else workers
        if any(map(is_moving, scene.assets())):
            # Each drawer would decode all of it, to draw every other frame.
            self._most = min(self._most, 1)
        self._job = scene, folder, scale, plan
        self._painter = planned(*self._job)
        self.size = self._painter.width, self._painter.height
        self._memory = SharedFrames(1 + SLOTS * self._most, self.size)
        self._own = Surface(self._memory.frame(0))
        self._drawers: list[_Drawer] = []
        self._given: dict[int, tuple[_Drawer, int]] = {}
        self._drawn: set[int] = set()
        self._begun = 0
        self._idle_reports = 0
        self._spent: list[float] = []

    def report_idle(self) -> None:
        """Hear that whoever takes the frames had nothing to do; said often enough, one more
        draws.
        """
        self._idle_reports += all(d.ready for d in self._drawers)
        self._grow()

    def _grow(self) -> None:
        """Start one more drawer, if the caller has waited often enough and there may be one."""
        if self._idle_reports < IDLE_REPORTS or len(self._drawers) >= self._most:
            return
        self._idle_reports = 0
        # A fork would copy the locks of threads that are not there in the child.
        context = multiprocessing.get_context("spawn")
        here, there = context.Pipe()
        job = (there, *self._job, self._memory)
        process = context.Process(target=_work, args=job, daemon=True, name="coaster drawer")
        process.start()
        # The child has its own end: with this one open, its death would never be noticed.
        there.close()
        first = 1 + SLOTS * len(self._drawers)
        self._drawers.append(_Drawer(process, here, list(range(first, first + SLOTS))))

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self.close()

    def frames(self, order: Sequence[int]) -> Iterator[Pixels]:
        """Yield the frames of ``order``; each one's pixels are valid until the next is
        asked for.
        """
        self._begun = 0
        for index, frame in enumerate(order):
            self._listen(0.0, frame)
            self._assign(order)
            # No drawer has begun it, so it is drawn here and now: nobody waits for a start.
            if index >= self._begun:
                self._begun = index + 1
                yield self._drawn_here(frame)
            else:
                self._await(index, order)
                drawer, slot = self._given.pop(index)
                yield self._memory.frame(slot)
                # Only now: until the next frame is asked for, the caller may still read these
                # pixels.
                drawer.free.append(slot)

    def _drawn_here(self, frame: int) -> Pixels:
        begun = time.perf_counter()
        pixels = self._painter.painted(frame, self._own)
        self._spent.append(time.perf_counter() - begun)
        # The first frame of all draws what is still, too.
        if len(self._spent) == TRIED and statistics.median(self._spent[1:]) > QUICK_S:
            self._idle_reports = IDLE_REPORTS
            self._grow()
        return pixels

    def _await(self, index: int, order: Sequence[int]) -> None:
        if index not in self._drawn:
            self.report_idle()
        while index not in self._drawn:
            self._listen(PATIENCE_S, order[index])
            self._assign(order)
        self._drawn.discard(index)

    def _assign(self, order: Sequence[int]) -> None:
        """Hand the next frames to whoever has the least to do, as far as there are free slots."""
        while self._begun < len(order):
            able = [d for d in self._drawers if d.ready and d.free and d.waiting < AHEAD]
            if not able:
                return
            drawer = min(able, key=lambda d: d.waiting)
            slot = drawer.free.pop(0)
            with self._watching(drawer, order[self._begun]):
                drawer.pipe.send((self._begun, order[self._begun], slot))
            self._given[self._begun] = drawer, slot
            drawer.waiting += 1
            self._begun += 1

    def _listen(self, patience: float, frame: int) -> None:
        pipes = {d.pipe: d for d in self._drawers}
        heard = connection.wait(list(pipes), timeout=patience) if pipes else []
        if not heard and patience:
            raise RenderError(f"Frame {frame} was not drawn within {patience:.0f} s.", frame)
        for pipe in heard:
            drawer = pipes[pipe]  # type: ignore[index]
            with self._watching(drawer, frame):
                index, at, words = drawer.pipe.recv()
            if words:
                raise RenderError(words, at)
            drawer.ready = True
            if index >= 0:
                drawer.waiting -= 1
                self._drawn.add(index)

    @contextlib.contextmanager
    def _watching(self, drawer: _Drawer, frame: int) -> Iterator[None]:
        try:
            yield
        except (EOFError, OSError) as error:
            raise RenderError(
                f"A drawing process ended near frame {frame}, perhaps for lack of memory.", frame
            ) from error

    def close(self) -> None:
        """Stop the processes and give the memory back; safe to call twice."""
        for drawer in self._drawers:
            drawer.pipe.close()
        for drawer in self._drawers:
            drawer.process.join(timeout=2.0)
            if drawer.process.is_alive():
                drawer.process.kill()
                drawer.process.join()
        self._drawers = []
        self._memory.close()


def _work(
    pipe: Connection,
    scene: Scene,
    folder: File,
    scale: float,
    plan: Plan | None,
    memory: SharedFrames,
) -> None:
    """Draw what is asked for until the pipe closes, which it also does when the caller dies."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the caller decides what an interrupt means
    painter = planned(scene, folder, scale, plan)
    surfaces: dict[int, Surface] = {}
    try:
        painter.prepare()
        pipe.send((-1, 0, ""))
        while True:
            index, frame, slot = pipe.recv()
            painter.repaint(frame, surfaces.setdefault(slot, Surface(memory.frame(slot))))
            pipe.send((index, frame, ""))
    except RenderError as error:
        with contextlib.suppress(OSError):
            pipe.send((-1, error.frame, str(error)))
    except (EOFError, OSError):
        return  # nobody is listening any more
