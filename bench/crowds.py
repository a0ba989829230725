"""Many that look the same: turned copies, particles of a wake, letters, in renders and on the stage."""

import json
import statistics
import tempfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path as File

import numpy as np
from selenium.webdriver import Chrome
from tests.browser.conftest import Studio
from tests.browser.driver import chromium, find, open_editor, round_node

from bench.core import of_length, plain_painter
from bench.editor import played, watched
from bench.measure import Report, p95, timed
from coaster.media.pictures import encoded_png
from coaster.motion.copies import Copies
from coaster.motion.letters import Letters
from coaster.motion.wakes import Wake
from coaster.render import display, raster
from coaster.render.display import Crowd, program_of
from coaster.render.evaluate import Evaluation
from coaster.render.raster import Painter, Surface
from coaster.scene import codec
from coaster.scene.carriers import Carrier
from coaster.scene.contents import Picture, Shape, Text
from coaster.scene.document import Layer, Scene

LENGTH, FRAMES = 240, 12
COPIES, WIDE, HIGH = 1000, 40, 45
"""1,000 pictures that cover 1.8 megapixels."""
PARTICLE = 12


class Plain:
    """A picture of one colour with a clear corner."""

    def __init__(self) -> None:
        self._px = np.full((2 * HIGH, 2 * WIDE, 4), (160, 90, 40, 255), np.uint8)
        self._px[: HIGH // 2, : WIDE // 2] = 0

    def pixels(self, asset: str, index: int) -> np.ndarray:
        return self._px

    def is_opaque(self, asset: str) -> bool:
        return False


def copied() -> Scene:
    base = of_length(LENGTH)
    ride = replace(base.layers[0].ride, copies=Copies(COPIES, stray=0.8))
    one = Layer("one", "One", Picture("a.png", WIDE, HIGH), ride=ride)
    return replace(base, layers=(one,), background="#204060")


def sprayed(alive: int, length: int = LENGTH, px: float = PARTICLE) -> Scene:
    """Return a scene in which so many particles are alive at once."""
    base = of_length(length)
    wake = Wake(alive / 4.0, 4.0, 220, 0, 360, drag=0.4, differ_size=0, differ_life=0, vanish=0.2)
    left = Layer("left", "Left", Shape("ellipse", px, px, "#f0a24a"), wake=wake)
    left = replace(left, carrier=Carrier(base.layers[0].id))
    return replace(base, layers=(left, base.layers[0]), background="#204060")


def crowds() -> list[Report]:
    return [_drawn(), _far_on(), _on_stage()]


def _drawn() -> Report:
    figures = {}
    for name, scene, covered in (
        ("1,000 copies", copied(), COPIES * WIDE * HIGH),
        ("10,000 particles", sprayed(9_990), 9_990 * PARTICLE**2),
    ):
        together, alone = _frame_cpu(scene), _frame_cpu(scene, one_by_one=True)
        plainly = _plain_cpu(scene)
        figures |= {
            f"{name}: CPU a frame, ms": together * 1e3,
            f"{name}: ns a covered px": together / covered * 1e9,
            f"{name}: by the drawing library, ns a covered px": plainly / covered * 1e9,
            f"{name}: share of that": together / plainly,
            f"{name}: one by one, ns a covered px": alone / covered * 1e9,
            f"{name}: share of one by one": together / alone,
        }
    note = (
        "One by one is how a few are drawn: what moves evenly is warped faster than by the library."
    )
    return Report("Many at once in a 1080p frame", figures, "40 ms; a quarter", [note])


def _plain_cpu(scene: Scene) -> float:
    """Return CPU seconds of a frame as one would first write it, each by the drawing library."""
    with tempfile.TemporaryDirectory(prefix="coaster-bench-") as name:
        (File(name) / "a.png").write_bytes(encoded_png(Plain().pixels("a.png", 0)))
        paint, into = plain_painter(scene, File(name)), np.empty((1080, 1920, 4), np.uint8)
        paint(0, into)
        return _cpu_of(lambda: [paint(frame, into) for frame in range(100, 104)]) / 4


def _frame_cpu(scene: Scene, *, one_by_one: bool = False) -> float:
    """Return CPU seconds of a frame, without what is worked out for all of them beforehand."""
    before = display.MANY, raster.FEW, raster.FEW_ROWS
    if one_by_one:
        display.MANY = raster.FEW = raster.FEW_ROWS = 10**9
    try:
        painter = Painter(program_of(Evaluation(scene)), Plain())
        surface = Surface(np.empty((1080, 1920, 4), np.uint8))
        painter.repaint(0, surface)
        frames = range(100, 100 + (4 if one_by_one else FRAMES))
        return _cpu_of(lambda: [painter.repaint(frame, surface) for frame in frames]) / len(frames)
    finally:
        display.MANY, raster.FEW, raster.FEW_ROWS = before


def _cpu_of(work: Callable[[], object]) -> float:
    return min(timed(work)[1] for _ in range(3))


def _far_on() -> Report:
    """Where 10,000 particles are, early and late in a long scene."""
    scene = sprayed(9_990, length=36_000)
    (crowd,) = (s for s in program_of(Evaluation(scene)).steps if isinstance(s, Crowd))
    costs: dict[int, list[float]] = {1: [], 35_000: []}
    for _ in range(15):
        for frame, found in costs.items():
            rows = [np.array([frame + i]) for i in range(4)]
            found.append(timed(lambda rows=rows: [crowd.at(row) for row in rows])[1] / 4)
    early, late = (statistics.median(found) for found in costs.values())
    figures = {
        "frame 1, ms": early * 1e3,
        "frame 35,000, ms": late * 1e3,
        "frame 35,000 / frame 1": late / early,
    }
    return Report("Where 10,000 particles are", figures, "5 ms; 1.05")


def _on_stage() -> Report:
    figures = {}
    with tempfile.TemporaryDirectory(prefix="coaster-bench-") as name:
        studio = Studio(File(name))
        try:
            with chromium() as driver:
                scene = sprayed(2_000, px=2 * PARTICLE)
                beats = played(driver, studio, scene)
                figures["frames a second"] = 1e3 / statistics.mean(beats)
                figures["longest of 180, ms"] = max(beats)
                figures |= _drags(driver, studio, scene)
        finally:
            studio.stop()
    return Report(
        "2,000 particles and 200 letters on the stage", figures, "60 frames a second; 60 ms"
    )


def _drags(driver: Chrome, studio: Studio, particles: Scene) -> dict[str, float]:
    """Drag a node of a path that few and many ride by turns: what is slow for a while is so for all
    of them.
    """
    scenes = {
        "2,000 particles": particles,
        "200 letters": lettered(200),
        "one letter": lettered(1),
    }
    rounds = [[_dragged(driver, studio, each) for each in scenes.values()] for _ in range(3)]
    found = dict(zip(scenes, np.median(rounds, axis=0).tolist(), strict=True))
    told = {f"a node of the path with {name}, p95 ms": value for name, value in found.items()}
    return told | {"200 letters / one letter": found["200 letters"] / found["one letter"]}


def lettered(count: int) -> Scene:
    """Return a scene with so many letters that ride a path by themselves."""
    base = of_length(LENGTH)
    words = Text(("Tide and swell " * count)[:count], size=22)
    ride = replace(base.layers[0].ride, letters=Letters(squeeze=True))
    return replace(base, layers=(Layer("words", "Words", words, ride=ride),))


def _dragged(driver: Chrome, studio: Studio, scene: Scene) -> float:
    open_editor(driver, studio.editor(studio.opened(json.dumps(codec.to_data(scene)))))
    find(driver, f"[data-choose='path:{scene.paths[0].id}']").click()
    find(driver, "[data-card=path]")
    x, y = round_node(driver, 0)
    around = [(x + 3 * (i % 20), y + 2 * (i % 15)) for i in range(120)]
    return p95(watched(driver, "#stage", (x, y), around)[0])
