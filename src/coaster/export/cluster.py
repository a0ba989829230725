"""Chunks made by the workers of a Dask scheduler, which may be on other machines.

``distributed`` comes with the extra ``coaster[cluster]``; it is imported where it is used.
"""

import hashlib
import os
import queue
import threading
import time
import uuid
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path as File
from typing import TYPE_CHECKING, Any

import av
import skia

from coaster import __version__
from coaster.errors import CoreError, MediaError, RenderCancelled, RenderError
from coaster.export.chunks import Chunk, Crew, Maker, Tally, Watch
from coaster.export.crew import Here
from coaster.files import part_of

if TYPE_CHECKING:
    from distributed import Client, Future

CONNECT_S = 10.0
"""A scheduler that has not answered by then is not there."""
GONE_S = 30.0
"""How long a cluster may be without a worker."""
LOOK_S = 0.1
"""How often one looks whether to stop."""
BLOCK = 16_000_000
"""Bytes of a file that are sent at once."""


def version() -> str:
    """Return what has to be the same wherever parts of one film are drawn and encoded."""
    return f"Coaster {__version__}, skia {skia.__version__}, PyAV {av.__version__}"


@dataclass(frozen=True)
class Cluster:
    """Makes chunks on the workers of the scheduler at an address such as ``tcp://host:8786``. What
    a worker that is lost had in hand others do; pictures, footage and fonts are sent to each once.

    Errors: RenderError: it cannot be reached or is gone, a worker has another version, or as for a
            render made here; RenderCancelled.
    """

    address: str

    def workers(self) -> int:
        """Return how many workers it has that would draw and encode as this machine does.

        Errors: RenderError: it cannot be reached, or one would not.
        """
        with self._client() as client:
            return len(_refuse_others(client))

    def make(self, chunks: Sequence[Chunk], folder: File, into: File, watch: Watch) -> None:
        with self._client() as client:
            shift = _Shift(client, self.address, folder, into, watch, list(chunks))
            try:
                shift.run()
            finally:
                shift.close()

    def _client(self) -> "Client":
        try:
            from distributed import Client
        except ImportError as error:
            raise RenderError(
                "To render on a cluster Coaster needs its extra: pip install coaster[cluster]."
            ) from error
        try:
            return Client(self.address, timeout=CONNECT_S, set_as_default=False)
        except (OSError, ValueError, TypeError) as error:
            raise RenderError(
                f"The cluster at {self.address} cannot be reached: is `dask scheduler` running"
                " there? COASTER_CLUSTER names it; without that, renders are made here."
            ) from error


def crew_at(address: str, workers: int | None) -> Crew:
    """Return whoever makes chunks: a cluster, or without its address this machine."""
    return Cluster(address) if address else Here(workers)


@dataclass
class _Shift:
    """The chunks of a film, or of several, on a cluster."""

    client: "Client"
    address: str
    folder: File
    into: File
    watch: Watch
    chunks: list[Chunk]
    name: str = field(default_factory=lambda: f"coaster-{uuid.uuid4().hex}")
    heard: queue.SimpleQueue[tuple[str, int, bytes | None]] = field(
        default_factory=queue.SimpleQueue
    )
    files: dict[str, str] = field(default_factory=dict)
    """The hash of each file's content by its name."""
    tally: Tally = field(default_factory=Tally)
    makers: "dict[Future[Any], Chunk]" = field(default_factory=dict)
    lonely: float | None = None
    """Since when there has been no worker."""

    def run(self) -> None:
        # Chunks of one film share their scene.
        scenes = {id(chunk.scene): chunk.scene for chunk in self.chunks}.values()
        names = {name for scene in scenes for name in scene.assets()}
        self.files = {name: _digest(self.folder / name) for name in sorted(names)}
        self.client.subscribe_topic(self.name, lambda event: self.heard.put(event[1]))
        for worker in _refuse_others(self.client):
            self._send(worker)
        for chunk in self.chunks:
            self._submit(chunk)
        while self.makers:
            self._listen()
            for future in [future for future in self.makers if future.done()]:
                self._take(future)
            if self.watch.cancelled():
                raise RenderCancelled("The render was cancelled.")
            self._see_that_it_lives()

    def _workers(self) -> list[str]:
        return list(self.client.scheduler_info(n_workers=-1)["workers"])

    def _send(self, worker: str) -> None:
        """Give a worker the files that it does not have yet."""
        at = partial(self.client.run, workers=[worker])
        # What a worker that is lost meanwhile was to make others do.
        with suppress(OSError, KeyError):
            for name, digest in at(_missing, self.files)[worker].items():
                with (self.folder / name).open("rb") as file:
                    at(_append, self.name, digest, file.read(BLOCK))
                    while block := file.read(BLOCK):
                        at(_append, self.name, digest, block)
                at(_keep, self.name, digest)

    def _submit(self, chunk: Chunk) -> None:
        future = self.client.submit(
            _make, chunk, self.files, self.name, version(), pure=False, priority=-chunk.first
        )
        self.makers[future] = chunk

    def _listen(self) -> None:
        """Hear how far the workers are, for as long as nothing else is to be looked after."""
        end = time.monotonic() + LOOK_S
        while (left := end - time.monotonic()) > 0:
            try:
                name, done, jpeg = self.heard.get(timeout=left)
            except queue.Empty:
                return
            # What is said late is of a chunk that is here; one that a lost worker had begins again.
            chunk = next((chunk for chunk in self.makers.values() if chunk.name == name), None)
            if chunk is not None:
                self._progress(chunk, done)
            if jpeg is not None:
                self.watch.seen(jpeg)

    def _progress(self, chunk: Chunk, done: int) -> None:
        self.tally.set(chunk, done)
        self.watch.progress(self.tally.total)

    def _take(self, future: "Future[Any]") -> None:
        """Keep what a worker has made."""
        chunk = self.makers.pop(future)
        if future.status == "cancelled":
            raise self._gone()
        error = future.exception()
        if isinstance(error, CoreError):
            raise error
        if error is not None:
            raise RenderError(
                f"The cluster gave up frames {chunk.first} to {chunk.last}: {error}", chunk.first
            )
        made = future.result()
        if isinstance(made, str):
            # A worker that has joined since.
            self._send(made)
            self._submit(chunk)
            return
        file = self.into / chunk.name
        try:
            part_of(file).write_bytes(made)
            os.replace(part_of(file), file)
        except OSError as refused:
            part_of(file).unlink(missing_ok=True)
            raise MediaError(f"{file.name} could not be kept: {refused.strerror}.") from refused
        self.watch.made(chunk)
        self._progress(chunk, chunk.last - chunk.first)

    def _see_that_it_lives(self) -> None:
        """Errors: RenderError: there is no scheduler, or for a while no worker."""
        if self.client.status != "running":
            raise self._gone()
        if self._workers():
            self.lonely = None
            return
        self.lonely = self.lonely or time.monotonic()
        if time.monotonic() - self.lonely > GONE_S:
            raise RenderError(
                f"The cluster at {self.address} has no workers: start some with `dask worker"
                f" {self.address}`."
            )

    def _gone(self) -> RenderError:
        return RenderError(
            f"The cluster at {self.address} does not answer any more. What was made is kept where"
            " the render can go on from it."
        )

    def close(self) -> None:
        """Let the workers drop what they have in hand."""
        if self.makers and self.client.status == "running":
            self.client.cancel(list(self.makers))
            self.client.run(_drop, self.name, on_error="ignore")


def _refuse_others(client: "Client") -> list[str]:
    """Return all workers.

    Errors: RenderError: one would draw or encode otherwise, or has no Coaster.
    """
    found: dict[str, Any] = client.run(version, on_error="return")
    for worker, theirs in found.items():
        if theirs != version():
            told = "no Coaster" if isinstance(theirs, Exception) else theirs
            raise RenderError(
                f"The worker at {worker} has {told}, and this is {version()}: parts of one film"
                " would differ. Give all the same version."
            )
    return list(found)


def _digest(file: File) -> str:
    """Errors: RenderError: it cannot be read."""
    try:
        with file.open("rb") as opened:
            return hashlib.file_digest(opened, "sha256").hexdigest()
    except OSError as error:
        raise RenderError(f"{file.name} could not be read: {error.strerror}.") from error


# What follows is run by workers.

_dropped: set[str] = set()
"""Films that nobody waits for any more."""
_own = threading.local()
"""A worker's threads may make chunks side by side."""


def _store(worker: Any) -> File:
    """Return where a worker keeps files, each under the hash of its content."""
    store = File(worker.local_directory) / "coaster"
    store.mkdir(exist_ok=True)
    return store


def _missing(files: dict[str, str], dask_worker: Any) -> dict[str, str]:
    """Return which files, each with the hash of its content, are not here; a worker that is told to
    run this gives itself.
    """
    store = _store(dask_worker)
    return {name: digest for name, digest in files.items() if not (store / digest).exists()}


def _append(film: str, digest: str, block: bytes, dask_worker: Any) -> None:
    with (_store(dask_worker) / f"{digest}.{film}").open("ab") as file:
        file.write(block)


def _keep(film: str, digest: str, dask_worker: Any) -> None:
    os.replace(_store(dask_worker) / f"{digest}.{film}", _store(dask_worker) / digest)


def _drop(film: str) -> None:
    _dropped.add(film)


def _make(chunk: Chunk, files: dict[str, str], film: str, wanted: str) -> bytes | str:
    """Return the file of a chunk; where pictures are missing, the worker's own address."""
    from distributed import get_worker

    worker: Any = get_worker()
    if wanted != version():
        raise RenderError(f"The worker at {worker.address} has {version()}, and {wanted} is asked.")
    if _missing(files, worker):
        return str(worker.address)
    folder = _store(worker) / film
    folder.mkdir(exist_ok=True)
    for name, digest in files.items():
        if not (folder / name).exists():
            (folder / name).symlink_to(_store(worker) / digest)

    def hear(done: int, jpeg: bytes | None) -> None:
        if film in _dropped:
            raise RenderCancelled("The render was cancelled.")
        worker.log_event(film, (chunk.name, done, jpeg))

    # Of its own name: the same chunk may be begun twice, where a worker was thought lost.
    file = folder / f"{uuid.uuid4().hex}-{chunk.name}"
    try:
        _own.__dict__.setdefault("maker", Maker()).make(chunk, folder, file, hear)
        return file.read_bytes()
    finally:
        file.unlink(missing_ok=True)
