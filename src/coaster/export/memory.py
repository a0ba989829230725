"""How long a process keeps memory that its libraries have given back."""

import ctypes
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Lock

TRIM_THRESHOLD, MMAP_THRESHOLD = -1, -3
LARGEST, USUAL, MUCH = 32 << 20, 64 << 20, 1 << 30
"""Bytes: the largest piece that glibc may be told to keep, what it keeps by itself once such pieces
came back, and more than a maker uses. Source: mallopt(3)."""
_counting, _keepers = Lock(), list[ctypes.CDLL]()
"""Who has asked for it: the next film may begin while the last one's thread still ends."""


@contextmanager
def kept_memory() -> Iterator[None]:
    """Keep what is given back until the end, where the system's library can be told so.

    Each frame, and each encoder, asks for as much as the last one gave back: to have it from the
    system anew, page by page, is a twelfth of the time of short films.
    """
    library = ctypes.CDLL(None)
    if not hasattr(library, "mallopt"):
        yield
        return
    with _counting:
        _keepers.append(library)
        library.mallopt(MMAP_THRESHOLD, LARGEST)
        library.mallopt(TRIM_THRESHOLD, MUCH)
    try:
        yield
    finally:
        with _counting:
            _keepers.pop()
            if not _keepers:
                library.mallopt(TRIM_THRESHOLD, USUAL)
                library.malloc_trim(0)
