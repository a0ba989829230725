"""Chunks of a render that was ended stay beside its file, and the same render goes on from them."""

import fcntl
import glob
import hashlib
import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path as File

from coaster import __version__
from coaster.export.chunks import chunks_of
from coaster.export.orders import Order
from coaster.media.writing import Kind
from coaster.scene import codec
from coaster.scene.document import Scene

LOCK = "lock"


@contextmanager
def kept_beside(
    out: File, scene: Scene, folder: File, order: Order, kind: Kind
) -> Iterator[File | None]:
    """Yield a folder for the chunks of a render, which stays if that is ended, and is gone once it
    is whole. What is left there of other renders to the same file goes.

    None for a render of one piece, and while another process makes the same one.
    """
    if len(chunks_of(scene, order, kind)) == 1 or not out.parent.is_dir():
        yield None
        return
    room = out.with_name(f".{out.name}.{_mark(scene, folder, order, kind)}.parts")
    for other in out.parent.glob(f".{glob.escape(out.name)}.*.parts"):
        if other != room:
            _forget(other)
    with suppress(OSError):  # a disk that is full says so where the file is begun
        room.mkdir(exist_ok=True)
    with _held(room) as mine:
        yield room if mine else None
        if mine:
            shutil.rmtree(room, ignore_errors=True)


def parts_in(room: File | None) -> int:
    """Return how many chunks are there."""
    return sum(file.name != LOCK for file in room.glob("[!.]*")) if room else 0


def _forget(room: File) -> None:
    with _held(room) as mine:
        if mine:
            shutil.rmtree(room, ignore_errors=True)


@contextmanager
def _held(room: File) -> Iterator[bool]:
    """Hold a folder for this process while it lives; yields whether no other has it."""
    try:
        lock = os.open(room / LOCK, os.O_RDWR | os.O_CREAT, 0o600)
    except OSError:
        yield False
        return
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        mine = True
    except OSError:
        mine = False
    try:
        yield mine
    finally:
        os.close(lock)


def _mark(scene: Scene, folder: File, order: Order, kind: Kind) -> str:
    """Return what tells a render from all others to the same file: the version that makes it, what
    is ordered, the scene, and what is in its pictures, fonts and footage.
    """
    mark = hashlib.blake2b(digest_size=8)
    told = codec.to_json(scene, indent=None)
    mark.update(f"{__version__} {kind.name} {order!r} {told}".encode())
    for name in scene.assets():
        with suppress(FileNotFoundError), (folder / name).open("rb") as file:
            mark.update(hashlib.file_digest(file, "blake2b").digest())
    return mark.hexdigest()
