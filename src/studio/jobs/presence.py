"""Whether a worker is there, told by a lock: it goes with its process, however that ends."""

import fcntl
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path as File

from django.conf import settings


def _file() -> File:
    return settings.DATA / "working"


@contextmanager
def working() -> Iterator[None]:
    """Be one of the workers meanwhile."""
    with _file().open("w") as held:
        fcntl.flock(held, fcntl.LOCK_SH)
        yield


def somebody_works() -> bool:
    """Whether any worker lives on this data folder."""
    with _file().open("a") as trial:
        try:
            fcntl.flock(trial, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            return True
        return False
