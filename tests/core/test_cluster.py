"""Chunks made by the workers of a Dask scheduler: as here, to the byte, and whoever is lost."""

import contextlib
import os
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path as File

import numpy as np
import pytest
from PIL import Image

from coaster.errors import RenderCancelled, RenderError
from coaster.export import chunks, cluster
from coaster.export.chunks import Watch
from coaster.export.cluster import Cluster
from coaster.export.orders import order_for
from coaster.export.render import Film, render, render_several
from coaster.media.writers import KINDS
from coaster.motion.keys import Key
from coaster.motion.rate import Rate
from coaster.scene.contents import Picture
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.properties import Track

KIND = KINDS["mov-png"]
PATIENCE_S = 120
QUIET = os.environ | {"DASK_LOGGING__DISTRIBUTED": "error"}


def until(holds) -> None:
    end = time.monotonic() + PATIENCE_S
    while not holds():
        assert time.monotonic() < end
        time.sleep(0.02)


class Machines:
    """A scheduler and its workers, each a process of its own."""

    def __init__(self, folder: File) -> None:
        self.folder, self.workers = folder, []
        file = folder / "scheduler.json"
        self.scheduler = self._run("scheduler", "--port", "0", "--scheduler-file", str(file))
        until(lambda: file.exists() and file.read_text())
        from distributed import Client

        self.client = Client(scheduler_file=str(file), set_as_default=False)
        self.address = self.client.scheduler.address

    def _run(self, *words: str, **environment: str) -> subprocess.Popen:
        dask = File(sys.executable).with_name("dask")
        usual = ("--host", "127.0.0.1", "--no-dashboard")
        log = (self.folder / "log").open("a")
        return subprocess.Popen(
            [str(dask), *words, *usual], env=QUIET | environment, stdout=log, stderr=log
        )

    def join(self, **environment: str) -> subprocess.Popen:
        """Let one more worker join."""
        room = self.folder / f"w{len(self.workers)}"
        words = ("--nthreads", "1", "--no-nanny", "--local-directory", str(room))
        worker = self._run("worker", self.address, *words, **environment)
        self.workers.append(worker)
        self.client.wait_for_workers(len(self.alive()), timeout=PATIENCE_S)
        return worker

    def alive(self) -> list[subprocess.Popen]:
        return [worker for worker in self.workers if worker.poll() is None]

    def leave(self) -> None:
        """Send all workers away."""
        for worker in self.alive():
            worker.kill()
            worker.wait()
        until(lambda: not self.client.scheduler_info()["workers"])

    def close(self) -> None:
        self.client.close()
        for process in (*self.alive(), self.scheduler):
            process.kill()
            process.wait()


@pytest.fixture(scope="module")
def machines(tmp_path_factory) -> Iterator[Machines]:
    there = Machines(tmp_path_factory.mktemp("cluster"))
    with contextlib.closing(there):
        yield there


@pytest.fixture
def scene(tmp_path, monkeypatch) -> Scene:
    """192 frames in 32 chunks of 6, with a picture."""
    monkeypatch.setattr(chunks, "CHUNK", 6)
    noise = np.random.default_rng(1).integers(0, 255, (40, 60, 4), np.uint8)
    Image.fromarray(noise, "RGBA").save(tmp_path / "fish.png")
    keys = (Track("x", (Key("a", 0, 0.0), Key("b", 96, 160.0), Key("c", 192, 0.0))),)
    fish = Layer("f", "Fish", Picture("fish.png", 60, 40), Transform((0, 48)), keys=keys)
    return Scene(160, 96, Rate(24), 192, "#204060", layers=(fish,))


def rendered(scene: Scene, folder: File, name: str, crew=None, watch=None, parts=None) -> bytes:
    out = folder / name
    render(scene, folder, out, order_for(scene), kind=KIND, workers=0, crew=crew, watch=watch,
           parts=parts)  # fmt: skip
    return out.read_bytes()


def test_a_film_of_two_workers_one_of_them_killed_is_the_one_made_here(scene, tmp_path, machines):
    first, _ = machines.join(), machines.join()
    assert Cluster(machines.address).workers() == 2
    heard, seen = [], []

    def hear(done: int) -> None:
        heard.append(done)
        if done > 30:
            first.kill()

    crew = Cluster(machines.address)
    made = rendered(scene, tmp_path, "there.mov", crew, Watch(hear, seen.append))
    first.wait()
    assert made == rendered(scene, tmp_path, "here.mov")
    assert heard[-1] == 192
    assert seen[0].startswith(b"\xff\xd8")
    # The picture went to each once; another film with it sends nothing.
    stored = list(machines.folder.glob("w*/**/coaster/" + "?" * 64))
    assert 1 <= len(stored) <= 2
    times = [file.stat().st_mtime_ns for file in stored]
    rendered(scene, tmp_path, "again.mov", crew)
    assert [file.stat().st_mtime_ns for file in stored] == times
    # One that has joined since gets it, too.
    late = machines.join()
    rendered(scene, tmp_path, "later.mov", crew)
    assert late.poll() is None
    machines.leave()


def test_films_of_several_pictures_are_made_there(scene, tmp_path, machines):
    machines.join()
    Image.new("RGBA", (60, 40), "#e4572e").save(tmp_path / "crab.png")
    (fish,) = scene.layers
    crab = replace(scene, layers=(replace(fish, content=Picture("crab.png", 60, 40)),))
    films = [
        Film(one, order_for(one), tmp_path / f"{i}.mov") for i, one in enumerate((scene, crab))
    ]
    crew = Cluster(machines.address)
    render_several(films, tmp_path, KIND, watch=Watch(), crew=crew)
    for film in films:
        assert film.out.read_bytes() == rendered(film.scene, tmp_path, "here.mov")
    machines.leave()


def test_a_film_can_be_cancelled_and_goes_on_from_what_was_kept(scene, tmp_path, machines):
    machines.join()
    crew, parts, heard = Cluster(machines.address), tmp_path / "parts", []
    watch = Watch(heard.append, cancelled=lambda: bool(heard) and heard[-1] > 60)
    with pytest.raises(RenderCancelled):
        rendered(scene, tmp_path, "x.mov", crew, watch, parts)
    kept = sorted(parts.iterdir())
    assert 6 <= len(kept) < 32
    assert not (tmp_path / "x.mov").exists()
    until(lambda: not any(machines.client.processing().values()))
    again = []
    made = rendered(scene, tmp_path, "x.mov", crew, Watch(again.append), parts)
    assert again[0] > 6 * (len(kept) - 1)
    assert made == rendered(scene, tmp_path, "here.mov")
    machines.leave()


def test_workers_of_another_version_or_without_coaster_are_refused(scene, tmp_path, machines):
    other = tmp_path / "other"
    shutil.copytree(File(chunks.__file__).parents[1], other / "coaster")
    inside = other / "coaster" / "__init__.py"
    inside.write_text(inside.read_text().replace("__version__ = ", '__version__ = "9.9" or '))
    machines.join(PYTHONPATH=str(other))
    with pytest.raises(RenderError, match=r"has Coaster 9\.9, skia .* and this is Coaster 0"):
        rendered(scene, tmp_path, "x.mov", Cluster(machines.address))
    machines.leave()
    inside.write_text("raise ImportError('nothing of the kind is here')")
    machines.join(PYTHONPATH=str(other))
    with pytest.raises(RenderError, match="has no Coaster, and this is Coaster 0"):
        rendered(scene, tmp_path, "x.mov", Cluster(machines.address))
    machines.leave()
    assert not (tmp_path / "x.mov").exists()


def test_a_cluster_that_is_not_there_has_nobody_or_vanishes_is_said(
    scene, tmp_path, machines, monkeypatch
):
    monkeypatch.setattr(cluster, "CONNECT_S", 0.5)
    with pytest.raises(RenderError, match=r"tcp://127.0.0.1:9 cannot be reached"):
        rendered(scene, tmp_path, "x.mov", Cluster("tcp://127.0.0.1:9"))
    monkeypatch.setattr(cluster, "CONNECT_S", 30)
    monkeypatch.setattr(cluster, "GONE_S", 0.5)
    with pytest.raises(RenderError, match="has no workers: start some with `dask worker"):
        rendered(scene, tmp_path, "x.mov", Cluster(machines.address))
    machines.join()

    def vanish(done: int) -> None:
        if machines.scheduler.poll() is None:
            os.kill(machines.scheduler.pid, signal.SIGKILL)

    parts = tmp_path / "parts"
    with pytest.raises(RenderError, match="does not answer any more"):
        rendered(scene, tmp_path, "x.mov", Cluster(machines.address), Watch(vanish), parts)
    # What was made before is not made again.
    assert rendered(scene, tmp_path, "x.mov", parts=parts) == rendered(scene, tmp_path, "here.mov")
