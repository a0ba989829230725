"""Work put in line, carried out with signs of life, stopped, and taken up again after a kill."""

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from django.conf import settings
from django.db import connection, models, transaction
from django.utils import timezone

from coaster.errors import CoreError, EditRefused, RenderCancelled
from studio.jobs.models import MOST_TRIES, Job, State
from studio.projects import troubles

Kind = type[Job]


class Desk:
    """Writes down progress and reads whether to stop, a few times a second, not each step."""

    EVERY_S = 0.25

    def __init__(self, job: Job) -> None:
        self._row = type(job).objects.filter(pk=job.pk)
        self._next = 0.0
        self._first = True
        self._stop = False
        self.pauses = False

    def progress(self, done: int) -> None:
        if time.monotonic() < self._next:
            return
        self._next = time.monotonic() + self.EVERY_S
        told = {"done": done} | ({"found": max(done - 1, 0)} if self._first else {})
        self._row.update(**told)
        self._first = False
        # Asked as seldom as it is told: a frame takes less time than a query.
        asked = self._row.values_list("cancel_asked", "pause_asked").first()
        # What its scene was erased with is wanted no more than what was cancelled.
        cancelled, paused = asked or (True, False)
        self._stop, self.pauses = cancelled or paused, paused and not cancelled

    def cancelled(self) -> bool:
        """Whether to stop, for good or, if it ``pauses``, for a while."""
        return self._stop


Work = Callable[[Any, Desk], dict[str, object]]
"""Does a job of its own kind; gives back the fields that are set when it is done."""
WORKS: dict[str, tuple[Kind, Work]] = {}
"""Every kind of work by its name."""


def register(name: str, kind: Kind, work: Work) -> None:
    WORKS[name] = kind, work


def enqueue(name: str, job: Job) -> None:
    from studio.jobs.tasks import run  # tasks import this module

    # Not before: a worker is quick enough to look for a row that is not there yet.
    transaction.on_commit(lambda: run.enqueue(name, job.pk))


def cancel(job: Job) -> None:
    """Stop a job; one that waits or was broken off is cancelled at once, one that runs soon."""
    _stop(job, State.CANCELLED, cancel_asked=True)


def pause(job: Job) -> None:
    """Stop a job until it is told to go on; it keeps what it has done, where it can."""
    _stop(job, State.PAUSED, pause_asked=True)


def _stop(job: Job, becomes: State, **asked: bool) -> None:
    rows, running = type(job).objects.filter(pk=job.pk), State.RUNNING
    # By its state in the query: between the look and the write it may have begun.
    here = [running] if job.interrupted else [State.WAITING, State.PAUSED]
    # Nobody hears a job that has not begun or is gone; one that runs reads the wish by itself.
    if not rows.filter(state__in=here).update(state=becomes, ended_at=timezone.now()):
        rows.filter(state=running).update(**asked)


def hurry(job: Job) -> None:
    """Let a job that waits be the next one."""
    waiting = type(job).objects.filter(state=State.WAITING)
    first = waiting.aggregate(first=models.Min("place"))["first"] or 0.0
    waiting.filter(pk=job.pk).update(place=first - 1.0)


def next_in_line(name: str) -> int | None:
    """Return which job of a kind is to be done next, if any waits."""
    waiting = WORKS[name][0].objects.filter(state=State.WAITING)
    return waiting.order_by("place", "asked_at").values_list("pk", flat=True).first()


def again(name: str, job: Job) -> Job:
    """Do a job once more: from the start, or from what it has kept.

    Errors: EditRefused: it is still under way.
    """
    refuse_active(job, "This is still under way.")
    _wait_again(job, tries=0)
    enqueue(name, job)
    return type(job).objects.get(pk=job.pk)


def _wait_again(job: Job, tries: int) -> None:
    fresh = {"started_at": None, "alive_at": None, "ended_at": None, "found": 0}
    rows = type(job).objects.filter(pk=job.pk)
    unasked = {"cancel_asked": False, "pause_asked": False}
    rows.update(state=State.WAITING, done=0, words="", tries=tries, **fresh, **unasked)


def refuse_active(job: Job, words: str) -> None:
    """Errors: EditRefused with these words: the job is under way."""
    if job.active:
        raise EditRefused(words)


def revive() -> int:
    """Put work in line again whose process was killed, a few times at most; return how much."""
    found = [(name, job) for name, (kind, _) in WORKS.items() for job in kind.silent()]
    # What has killed its process time and again would take down the next worker as well.
    able = [(name, job) for name, job in found if job.tries < MOST_TRIES]
    for name, job in able:
        _wait_again(job, job.tries)
        enqueue(name, job)
    return len(able)


def carry_out(name: str, pk: int) -> None:
    """Do what is in line under ``pk``, unless it was cancelled or is being done already."""
    kind, work = WORKS[name]
    waiting, now = kind.objects.filter(pk=pk, state=State.WAITING), timezone.now()
    # Of two workers that take it up, one has changed the row; the other finds nothing to do.
    if not waiting.update(state=State.RUNNING, started_at=now, alive_at=now):
        return
    job = kind.objects.get(pk=pk)
    # Counted before the work: a job that kills its process must not do so for ever.
    kind.objects.filter(pk=pk).update(tries=job.tries + 1)
    desk = Desk(job)
    try:
        with _signs_of_life(job):
            came_of_it = work(job, desk)
        _end(job, State.DONE, done=job.total, **came_of_it)
    except RenderCancelled:
        _end(job, State.PAUSED if desk.pauses else State.CANCELLED)
    except (CoreError, OSError, MemoryError) as error:
        words = troubles.words_of(error) or f"{error} The scene is as it was."
        _end(job, State.FAILED, words=words[:300])
    # The worker is being stopped: nobody would ever say so otherwise.
    except BaseException:
        words = "It was stopped. The scene is as it was; start it again."
        _end(job, State.FAILED, words=words)
        raise


def _end(job: Job, state: str, **fields: object) -> None:
    type(job).objects.filter(pk=job.pk).update(state=state, ended_at=timezone.now(), **fields)


@contextmanager
def _signs_of_life(job: Job) -> Iterator[None]:
    """Say every second that the job's process is there, whatever it is doing."""
    over, row = threading.Event(), type(job).objects.filter(pk=job.pk)

    def beat() -> None:
        while not over.wait(settings.HEARTBEAT_S):
            row.update(alive_at=timezone.now())
        # A thread has a database connection of its own, which nobody else would close.
        connection.close()

    thread = threading.Thread(target=beat, name="signs of life", daemon=True)
    thread.start()
    try:
        yield
    finally:
        over.set()
        thread.join()
