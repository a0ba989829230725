"""Work put in line, carried out with signs of life, stopped, and taken up again after a kill."""

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from django.conf import settings
from django.db import connection, transaction
from django.utils import timezone

from coaster.errors import CoreError, EditRefused, RenderCancelled
from studio.jobs.models import MOST_TRIES, Job, State

Kind = type[Job]


class Desk:
    """Writes down progress and reads whether to stop, a few times a second, not each step."""

    EVERY_S = 0.25

    def __init__(self, job: Job) -> None:
        self._row = type(job).objects.filter(pk=job.pk)
        self._next = 0.0
        self._stop = False

    def progress(self, done: int) -> None:
        if time.monotonic() < self._next:
            return
        self._next = time.monotonic() + self.EVERY_S
        self._row.update(done=done)
        # Asked as seldom as it is told: a frame takes less time than a query.
        asked = self._row.values_list("cancel_asked", flat=True).first()
        # What its scene was erased with is wanted no more than what was cancelled.
        self._stop = asked is None or asked

    def cancelled(self) -> bool:
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
    rows, running = type(job).objects.filter(pk=job.pk), State.RUNNING
    # By its state in the query: between the look and the write it may have begun.
    at_once = rows.filter(state=running if job.interrupted else State.WAITING)
    # Nobody hears a job that has not begun or is gone; one that runs reads the wish by itself.
    if not at_once.update(state=State.CANCELLED, ended_at=timezone.now()):
        rows.filter(state=running).update(cancel_asked=True)


def again(name: str, job: Job) -> Job:
    """Do a job once more, from the start.

    Errors: EditRefused: it is still under way.
    """
    refuse_active(job, "This is still under way.")
    _wait_again(job, tries=0)
    enqueue(name, job)
    return type(job).objects.get(pk=job.pk)


def _wait_again(job: Job, tries: int) -> None:
    fresh = {"started_at": None, "alive_at": None, "ended_at": None, "cancel_asked": False}
    rows = type(job).objects.filter(pk=job.pk)
    rows.update(state=State.WAITING, done=0, words="", tries=tries, **fresh)


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
    try:
        with _signs_of_life(job):
            came_of_it = work(job, Desk(job))
        _end(job, State.DONE, done=job.total, **came_of_it)
    except RenderCancelled:
        _end(job, State.CANCELLED)
    except (CoreError, OSError, MemoryError) as error:
        _end(job, State.FAILED, words=f"{error} The scene is as it was."[:300])
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
