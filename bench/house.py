"""Scenes in scenes, spots that are followed, and the lists of a studio that holds much."""

import sqlite3
import statistics
import tempfile
import time
from collections.abc import Callable
from contextlib import closing
from dataclasses import replace
from pathlib import Path as File

import numpy as np
from tests.browser.conftest import Studio
from tests.core.moving import film
from tests.core.test_following import POSES, Made

from bench.measure import Report, cpu_s, p95
from coaster.edits.insets import inset_of
from coaster.media.following import Marked, follow
from coaster.media.readers import open_footage
from coaster.render.display import program_of
from coaster.render.evaluate import Evaluation, forget
from coaster.render.raster import Painter, Surface
from coaster.render.stage import pack
from coaster.scene.document import Beside, Layer, Scene, Transform
from studio.demo.scenes import porthole

EDITS, FILES, ASKED, FRAMES = 5000, 200, 15, 60


class NoPictures:
    def pixels(self, asset: str, index: int) -> np.ndarray:
        raise OSError(asset)

    def is_opaque(self, asset: str) -> bool:
        return False


def _shown(inner: Scene, **played: float) -> Scene:
    content = replace(inset_of("in", inner), **played)
    middle = Transform((inner.width / 2, inner.height / 2))
    outer = replace(inner, layers=(Layer("in", "In", content, middle),), paths=())
    return outer.with_scenes((Beside("in", "In", inner),))


def _drawn(scene: Scene) -> float:
    """Return CPU milliseconds a frame."""
    painter = Painter(program_of(Evaluation(scene)), NoPictures())
    surface = Surface(np.empty((painter.height, painter.width, 4), np.uint8))
    painter.repaint(0, surface)
    begun = cpu_s()
    for frame in range(1, FRAMES + 1):
        painter.repaint(frame, surface)
    return 1e3 * (cpu_s() - begun) / FRAMES


def _packed(scene: Scene) -> float:
    """Return milliseconds until all of it is told to a stage, nothing being known before."""
    times = []
    for _ in range(5):
        forget()
        begun = time.perf_counter()
        pack(scene)
        times.append(time.perf_counter() - begun)
    return 1e3 * statistics.median(times)


def insets() -> Report:
    """Draw and tell a scene by itself, and as all that another one shows."""
    inner = porthole()
    scenes = {"by itself": inner, "shown": _shown(inner), "slowed down": _shown(inner, speed=0.37)}
    drawn, told = ({name: of(each) for name, each in scenes.items()} for of in (_drawn, _packed))
    figures = {f"drawn {name}, CPU a frame, ms": value for name, value in drawn.items()}
    figures["drawn shown / by itself"] = drawn["shown"] / drawn["by itself"]
    figures |= {f"told to the stage, {name}, ms": value for name, value in told.items()}
    reach = "shown it costs what it costs by itself"
    return Report("A scene in a scene, 1080 x 1080", figures, reach)


def followed() -> Report:
    """Follow a spot whose movement is known through H.264 with noise, forwards."""
    pose = POSES["turns"]
    noisy = Made(pose, noise=4, light=0.1)
    with tempfile.TemporaryDirectory() as folder:
        made = film(
            File(folder) / "a.mp4",
            FRAMES,
            size=(640, 360),
            options={"crf": "20"},
            paint=lambda number, size, alpha: noisy.pixels(number),
        )
        footage = open_footage(made)
        begun = time.perf_counter()
        for index in range(FRAMES):
            footage.pixels(index)
        decoding = time.perf_counter() - begun
        x, y, *_ = pose(0)
        begun = time.perf_counter()
        found = follow(footage, Marked(0, x, y, 60, 60), None, range(1, FRAMES))
        whole = time.perf_counter() - begun
        footage.close()
    off = [float(np.hypot(s.x - pose(s.index)[0], s.y - pose(s.index)[1])) for s in found.spots]
    figures = {
        "frames it is found in, of 59": float(len(off)),
        "off, median px": statistics.median(off),
        "off, most px": max(off),
        "a frame, decoded and found, ms": 1e3 * whole / FRAMES,
        "found / decoded": whole / decoding,
    }
    return Report("A spot followed, 640 x 360, 60 px", figures, "0.2 px typically, 1 px at most")


def _asked(studio: Studio, address: str) -> list[float]:
    times = []
    for _ in range(ASKED):
        begun = time.perf_counter()
        studio.get(address)
        times.append(1e3 * (time.perf_counter() - begun))
    return times


def _filled(studio: Studio, fill: Callable[[sqlite3.Connection], None]) -> None:
    with closing(sqlite3.connect(studio.folder / "coaster.sqlite3", timeout=30)) as database:
        fill(database)
        database.commit()


def _edits(database: sqlite3.Connection) -> None:
    columns = (
        "author_id, made_at, words, commands, inverses, undo, redo, joins, snapshot, key, name"
    )
    told = '[{"kind": "field", "of": "layer", "which": "wave", "values": {"visible": true}}]'
    same = f"1, '2026-01-01 10:00:00', 'Show Near water', '{told}', '{told}', 0, 0, 0, '', '', ''"
    for number in range(1, EDITS + 1):
        database.execute(
            f"INSERT INTO projects_revision (scene_id, number, {columns})"  # noqa: S608 - our own
            f" VALUES (5, {number}, {same})"
        )
    database.execute(f"UPDATE projects_scene SET revision = {EDITS} WHERE id = 5")  # noqa: S608 - our own


def _files(database: sqlite3.Connection) -> None:
    for number in range(FILES):
        database.execute(
            "INSERT INTO projects_asset (project_id, file_name, original_name, width, height,"
            " created_at) VALUES (1, ?, ?, 8, 8, '2026-01-01 10:00:00')",
            (f"{number:040}.png", f"{number}.png"),
        )


def lists() -> Report:
    """Ask a running studio for its history and files, where there are many."""
    with tempfile.TemporaryDirectory(prefix="coaster-bench-") as name:
        studio = Studio(File(name))
        try:
            _filled(studio, _edits)
            _filled(studio, _files)
            past = _asked(studio, "/scenes/5/history")
            earlier = _asked(studio, "/scenes/5/history?before=2500")
            files = _asked(studio, "/projects/1/files")
            home = _asked(studio, "/")
        finally:
            studio.stop()
    figures = {
        "history of 5,000 edits, p95 ms": p95(past),
        "its middle, p95 ms": p95(earlier),
        "files of a project with 216, and 5,000 edits that may name them, p95 ms": p95(files),
        "the page of projects, p95 ms": p95(home),
    }
    return Report("Much in a studio", figures, "5,000 edits 200 ms; 200 files 1,000 ms")
