"""Footage: small frames beside real time, a render beside its floor, jumps and playing on the stage."""

import statistics
import tempfile
from pathlib import Path as File

import numpy as np
from tests.browser.conftest import Studio
from tests.browser.driver import chromium, find, kept, open_editor, wait

from bench.core import floor_of
from bench.measure import Report, p95, timed
from coaster.export import render as rendering
from coaster.export.drawers import painter_of
from coaster.export.orders import order_for
from coaster.media import small
from coaster.media.readers import look_into, open_footage
from coaster.media.writers import kind_for
from coaster.media.writing import Job
from coaster.motion.rate import Rate
from coaster.scene.contents import Footage, Text
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.footage import FrameTimes
from studio.demo.scenes import kelp_film

JUMPS, ROUNDS = 60, 3
WATCH = """
const real = CanvasRenderingContext2D.prototype.drawImage
window.benchFilm = {last: null, at: [], wanted: 0}
CanvasRenderingContext2D.prototype.drawImage = function (image, ...rest) {
  if (image instanceof ImageBitmap && image !== benchFilm.last) {
    benchFilm.last = image
    benchFilm.at.push(performance.now())
  }
  return real.call(this, image, ...rest)
}
"""
JUMP = """
const done = arguments[1], times = [], field = document.getElementById("at")
for (const frame of arguments[0]) {
  const before = benchFilm.at.length, begun = performance.now()
  field.value = `${frame} f`
  field.dispatchEvent(new Event("change", {bubbles: true}))
  while (benchFilm.at.length === before) await new Promise(r => setTimeout(r, 1))
  times.push(benchFilm.at.at(-1) - begun)
  await new Promise(r => setTimeout(r, 60))
}
done(times)
"""
PLAY = """
const done = arguments[0]
document.getElementById("play").click()
await new Promise(r => setTimeout(r, 1000))
const before = benchFilm.at.length, begun = performance.now()
await new Promise(r => setTimeout(r, 3000))
const rate = (benchFilm.at.length - before) / (performance.now() - begun) * 1000
document.getElementById("play").click()
done(rate)
"""


def _made(folder: File) -> Scene:
    """Film the demo's kelp at 1080p, 9 s of it, and return a scene that shows it."""
    file = folder / "kelp.mp4"
    rendering.render(kelp_film(), folder, file, order_for(kelp_film(), loops=3, scale=2))
    facts = look_into(file, file.name)
    film = Footage(file.name, facts.width, facts.height, FrameTimes(facts.ticks, facts.steps))
    title = Layer("t", "Title", Text("Kelp", size=90, colour="#ffffff"), Transform((960, 900)))
    layers = (Layer("f", "Film", film, Transform((960, 540))), title)
    return Scene(1920, 1080, rate=Rate(30), length=facts.count, layers=layers)


def _small(file: File, seconds: float) -> float:
    """Return how many times faster than it is seen its small frames are made."""

    def make() -> None:
        footage = open_footage(file)
        for _ in small.blocks(footage):
            pass
        footage.close()

    return seconds / statistics.median(timed(make)[0] for _ in range(ROUNDS))


def _rendered(scene: Scene, folder: File) -> dict[str, float]:
    out, size = folder / "out.mp4", (scene.width, scene.height)
    painter, buffer = painter_of(scene, folder), np.empty((1080, 1920, 4), np.uint8)
    frames = [painter.picture(i) for i in range(scene.length)]

    def encode() -> None:
        with kind_for(out.name).open(Job(out, size, scene.rate.fraction, alpha=False)) as writer:
            for pixels in frames:
                writer.write(pixels)

    def draw() -> None:
        fresh = painter_of(scene, folder)
        for i in range(scene.length):
            fresh.paint(i, buffer)

    def whole() -> None:
        rendering.render(scene, folder, out, order_for(scene))

    runs = {work: [timed(work) for _ in range(ROUNDS)] for work in (encode, draw, whole)}
    wall = {work: statistics.median(r[0] for r in results) for work, results in runs.items()}
    cpu = {work: statistics.median(r[1] for r in results) for work, results in runs.items()}
    floor = floor_of((wall[encode], cpu[encode]), (wall[draw], cpu[draw])) / wall[encode]
    ratio = wall[whole] / wall[encode]
    return {
        "decode and draw, CPU a frame, ms": 1e3 * cpu[draw] / scene.length,
        "render / encode": ratio,
        "floor": floor,
        "over the floor": ratio / floor,
    }


def _on_stage(file: File) -> tuple[list[float], float]:
    with tempfile.TemporaryDirectory(prefix="coaster-bench-") as name:
        studio = Studio(File(name))
        try:
            with chromium() as driver:
                driver.set_script_timeout(120)
                open_editor(driver, studio.editor(studio.copy_of(1)))
                find(driver, "#upload")
                driver.find_element("id", "upload").send_keys(str(file))
                find(driver, ".film")
                kept(driver)
                find(driver, "label:has(> [data-tab][value=look])").click()
                wait(driver, lambda d: "small frames are ready" in find(d, "#card").text)
                driver.execute_script(WATCH)
                places = np.random.default_rng(5).permutation(240)[:JUMPS].tolist()
                jump = f"(async function() {{ {JUMP} }}).apply(null, arguments)"
                play = f"(async function() {{ {PLAY} }}).apply(null, arguments)"
                return driver.execute_async_script(jump, places), driver.execute_async_script(play)
        finally:
            studio.stop()


def footage() -> Report:
    """Make small frames of 1080p footage, render a scene with it, jump about in it and play it."""
    with tempfile.TemporaryDirectory(prefix="coaster-bench-") as name:
        folder = File(name)
        scene = _made(folder)
        faster = _small(folder / "kelp.mp4", scene.seconds)
        rendered = _rendered(scene, folder)
        jumps, rate = _on_stage(folder / "kelp.mp4")
    figures = {
        "small frames of 1080p at 30 fps, times faster than real time": faster,
        **rendered,
        "a jump to any frame until it is drawn, median ms": statistics.median(jumps),
        "a jump to any frame until it is drawn, p95 ms": p95(jumps),
        "played: frames drawn a second, of 30": rate,
    }
    reach = "small frames 5 times; over the floor by at most 10 %; a jump 60 ms; 30 a second"
    return Report("Footage, 1920 x 1080, H.264", figures, reach)
