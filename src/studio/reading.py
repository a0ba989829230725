"""Heavy reading, in processes of its own: what a stranger's file costs, nobody else waits for.

A file may be small and yet take hours or all memory to read: drawings in drawings, numbers by the
million. So whatever comes from outside is read beside the server, within limits on time, memory and
on what comes back; a reader that goes over them is ended, and the next one starts afresh.
"""

import os
import pickle
import resource
from collections.abc import Callable
from concurrent.futures import Future, TimeoutError
from functools import lru_cache
from multiprocessing import get_context
from typing import Any, ParamSpec, TypeVar

from pebble import ProcessExpired, ProcessPool

from coaster.errors import FormatError

LONGEST_S = 20.0
MOST_MEMORY, MOST_RESULT = 2_000_000_000, 200_000_000
READERS, MOST_TASKS = 2, 100
"""Two, so that one bad file does not hold up everybody else's; ended after so many files, so that
nothing of a file stays for long.
"""
NICE = 5
Asked = ParamSpec("Asked")
Found = TypeVar("Found")


@lru_cache(maxsize=1)
def _readers() -> ProcessPool:
    # Not a fork of a server with threads: what they hold would be held for ever.
    context = get_context("forkserver")
    context.set_forkserver_preload(
        ["coaster.formats.bundle", "coaster.formats.pictures", "coaster.media.readers"]
    )
    return ProcessPool(READERS, max_tasks=MOST_TASKS, initializer=_limit, context=context)


def _limit() -> None:
    # What can be written to, not all addresses: threads that decode set aside many more of those.
    resource.setrlimit(resource.RLIMIT_DATA, (MOST_MEMORY, MOST_MEMORY))
    # The server stays quick while something large is read.
    os.nice(NICE)


class TooMuchError(FormatError):
    """What was to be read takes longer, or more memory, than anything may."""


def apart(read: Callable[Asked, Found], *args: Asked.args, **named: Asked.kwargs) -> Found:
    """Return what ``read``, a function of a module of the core, makes of its arguments.

    Errors: its own; TooMuchError: it took too long, or too much memory.
    """
    under_way: Future[bytes] = _readers().schedule(_packed, [read, args, named], timeout=LONGEST_S)
    try:
        found: Found = pickle.loads(under_way.result(2 * LONGEST_S))  # noqa: S301 - from our own process
    except TimeoutError as error:
        under_way.cancel()
        raise TooMuchError(
            f"It takes more than {LONGEST_S:.0f} s to read, so it was left. Nothing was kept; make"
            " it simpler, or bring it in by parts."
        ) from error
    except (MemoryError, ProcessExpired) as error:
        raise TooMuchError(
            f"It takes more than {MOST_MEMORY / 1e9:.0f} GB of memory to read, so it was left."
            " Nothing was kept; make it simpler, or bring it in by parts."
        ) from error
    return found


def _packed(read: Callable[..., Any], args: tuple[Any, ...], named: dict[str, Any]) -> bytes:
    data = pickle.dumps(read(*args, **named), pickle.HIGHEST_PROTOCOL)
    if len(data) > MOST_RESULT:
        raise FormatError(
            f"There is more than {MOST_RESULT / 1e6:.0f} MB in it. Nothing was kept; bring it in by"
            " parts."
        )
    return data
