"""Chunks made side by side on this machine: by a thread here, and by processes beside it."""

import multiprocessing
import signal
from collections import deque
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from multiprocessing import connection, resource_tracker
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from pathlib import Path as File
from threading import Thread

from coaster.errors import CoreError, RenderCancelled, RenderError
from coaster.export.chunks import Chunk, Maker, Tally, Watch
from coaster.export.drawers import cores
from coaster.export.memory import kept_memory

GIVEN_UP = 2
"""Processes that a chunk may lose before it is to blame."""
HUNG_S = 600.0
"""Silence of everybody after which something has hung: a slow encoder says nothing at the end."""
LOOK_S = 0.1
"""How often somebody who only waits is asked whether to stop."""


@dataclass(frozen=True)
class Here:
    """Makes chunks in the caller's process and in up to ``workers`` beside it; without a number, in
    as many as there are processors. What a process that ended had in hand is done again, once.

    Errors: RenderError with the frame: it could not be drawn, or what draws it ended twice or hung;
            MediaError: the encoder or the disk refused; RenderCancelled.
    """

    workers: int | None = None

    def make(self, chunks: Sequence[Chunk], folder: File, into: File, watch: Watch) -> None:
        others = cores() - 1 if self.workers is None else self.workers
        shift = _Shift(folder, into, watch, deque(chunks))
        silent = 0.0
        try:
            shift.begin(_thread)
            for _ in range(min(others, len(chunks) - 1)):
                shift.begin(_process)
            while shift.left or any(hand.chunk for hand in shift.hands):
                silent = 0.0 if shift.listen(LOOK_S) else silent + LOOK_S
                if silent > HUNG_S:
                    raise RenderError(f"Nothing was drawn within {HUNG_S:.0f} s.")
        finally:
            shift.close()


Body = BaseProcess | Thread


@dataclass
class _Hand:
    """A thread or a process that makes chunks, and the one that it has in hand."""

    body: Body
    pipe: Connection
    ready: bool = False
    chunk: Chunk | None = None

    def end(self) -> None:
        """Let it drop what it has in hand, and wait for that; one with nothing in hand ends by
        itself, now or when it has begun.
        """
        self.pipe.close()
        if self.chunk is None:
            return
        if isinstance(self.body, Thread):
            return self.body.join()
        self.body.join(timeout=2.0)
        if self.body.is_alive():
            self.body.kill()
            self.body.join()


@dataclass
class _Shift:
    """What is left to be done, who does it, and how far all of it is."""

    folder: File
    into: File
    watch: Watch
    left: deque[Chunk]
    hands: list[_Hand] = field(default_factory=list)
    tally: Tally = field(default_factory=Tally)
    lost: dict[str, int] = field(default_factory=dict)

    def begin(self, body_of: Callable[[Connection], Body]) -> None:
        here, there = multiprocessing.Pipe()
        body = body_of(there)
        self.hands.append(_Hand(body, here))
        if isinstance(body, Thread):
            body.start()
        else:
            # The first process takes a second: what others do is heard, and may be done, meanwhile.
            Thread(target=_start, args=(body, there), daemon=True).start()

    def listen(self, patience: float) -> bool:
        """Take in what is said within so many s, and give out what there is to do; return whether
        anything was said.

        Errors: as those of ``Here``.
        """
        pipes = {hand.pipe: hand for hand in self.hands}
        heard = connection.wait(list(pipes), timeout=patience)
        for pipe in heard:
            hand = pipes[pipe]  # type: ignore[index]
            try:
                said = hand.pipe.recv()
            except (EOFError, ConnectionError):
                self._bury(hand)
                continue
            self._take(hand, *said)
            self._give(hand)
        if self.watch.cancelled():
            raise RenderCancelled("The render was cancelled.")
        return bool(heard)

    def _take(self, hand: _Hand, done: int | None, jpeg: bytes | None, error: Exception) -> None:
        """Hear how far a hand is; without a number, that it has nothing in hand."""
        if error is not None:
            raise error
        chunk, hand.ready = hand.chunk, done is None
        if chunk is None:
            return
        self.tally.set(chunk, chunk.last - chunk.first if done is None else done)
        if done is None:
            hand.chunk = None
            self.watch.made(chunk)
        if jpeg is not None:
            self.watch.seen(jpeg)
        self.watch.progress(self.tally.total)

    def _give(self, hand: _Hand) -> None:
        if hand.ready and hand.chunk is None and self.left:
            hand.chunk = self.left.popleft()
            # One that is gone by now is heard of next time.
            with suppress(ConnectionError):
                hand.pipe.send((hand.chunk, self.folder, self.into / hand.chunk.name))

    def _bury(self, hand: _Hand) -> None:
        """Let others do what a process that is gone had in hand, unless that was what ended it.

        Errors: RenderError with the frame.
        """
        self.hands.remove(hand)
        hand.end()
        chunk = hand.chunk
        if chunk is None:
            return
        self.lost[chunk.name] = self.lost.get(chunk.name, 0) + 1
        near = chunk.first + self.tally.of(chunk)
        self.tally.set(chunk, 0)
        if self.lost[chunk.name] >= GIVEN_UP:
            raise RenderError(
                f"A drawing process ended near frame {near}, and so did the next one, perhaps for"
                " lack of memory.",
                near,
            )
        self.left.appendleft(chunk)
        self.begin(_process)

    def close(self) -> None:
        for hand in self.hands:
            hand.pipe.close()
        for hand in self.hands:
            hand.end()


def _start(process: BaseProcess, pipe: Connection) -> None:
    """Start a process; one that the system refuses is as one that ended at once.

    In a thread of its own, whose signals are blocked for what it starts: an interrupt is the
    caller's, and whoever reads modules would say where it struck.
    """
    with suppress(OSError, EOFError):
        if hasattr(signal, "pthread_sigmask"):
            # First: it comes along, and lets signals through again.
            resource_tracker.ensure_running()
            signal.pthread_sigmask(signal.SIG_BLOCK, {signal.SIGINT})
        process.start()
    # The process has its own end: with this one open, its death would never be noticed.
    pipe.close()


def _thread(pipe: Connection) -> Thread:
    return Thread(target=_work, args=(pipe,), daemon=True, name="coaster maker")


def _process(pipe: Connection) -> BaseProcess:
    """Return a process that is started by one that has all modules, where there may be such.

    A fork of this one would copy the locks of threads that are not there in the child.
    """
    if "forkserver" not in multiprocessing.get_all_start_methods():
        return multiprocessing.get_context("spawn").Process(target=_in_process, args=(pipe,))
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload([__name__])
    return context.Process(target=_in_process, args=(pipe,), daemon=True, name="coaster maker")


def _in_process(pipe: Connection) -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the caller decides what an interrupt means
    _work(pipe)


def _work(pipe: Connection) -> None:
    """Make what is asked for until the pipe closes, which it also does when the caller dies."""
    try:
        with kept_memory():
            _make_all(pipe, Maker())
    except (EOFError, ConnectionError):
        return  # nobody is listening any more
    finally:
        pipe.close()


def _make_all(pipe: Connection, maker: Maker) -> None:
    pipe.send((None, None, None))
    while True:
        chunk, folder, file = pipe.recv()
        error: Exception | None = None
        try:
            maker.make(chunk, folder, file, lambda done, jpeg: pipe.send((done, jpeg, None)))
        except (CoreError, MemoryError) as refused:
            error = refused
        pipe.send((None, None, error))
