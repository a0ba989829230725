"""How long a process keeps memory that its libraries have given back."""

import ctypes
from collections.abc import Iterator
from contextlib import contextmanager

TRIM_THRESHOLD, MMAP_THRESHOLD = -1, -3
USUAL, LARGEST, MUCH = 128 << 10, 32 << 20, 1 << 30
"""Bytes: what glibc keeps of its own accord, the largest piece that it may be told to keep, and
more than a maker uses. Source: mallopt(3)."""


@contextmanager
def kept_memory() -> Iterator[None]:
    """Keep what is given back until the end, where the system's library can be told so.

    Each frame, and each encoder, asks for as much as the last one gave back: to have it from the
    system anew, page by page, is a tenth of the time of short films.
    """
    library = ctypes.CDLL(None)
    if not hasattr(library, "mallopt"):
        yield
        return
    library.mallopt(MMAP_THRESHOLD, LARGEST)
    library.mallopt(TRIM_THRESHOLD, MUCH)
    try:
        yield
    finally:
        library.mallopt(TRIM_THRESHOLD, USUAL)
        library.malloc_trim(0)
