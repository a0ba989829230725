"""Layers under a person's hands: a mask deep in groups, a hundred at once, a long shelf, words."""

import json
import tempfile
from pathlib import Path

from selenium.webdriver import Chrome
from selenium.webdriver.common.keys import Keys
from tests.browser.conftest import Studio
from tests.browser.driver import Stage, chord, chromium, find, open_editor, round_node, wait

from bench.editor import watched
from bench.measure import Report, p95
from coaster.geometry.path import Node, Subpath
from coaster.geometry.path import Path as Course
from coaster.scene import codec
from coaster.scene.contents import Group, Shape, Text
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.masks import Mask, MaskPart

DEEP, MANY, LONG = 3, 100, 300
CLICKS = """
const done = arguments[0], frame = () => new Promise(r => requestAnimationFrame(r)), times = []
const rows = [...document.querySelectorAll("#shelf [data-layer] .row-name")]
for (let i = 0; i < 60; i++) {
  const row = rows[(i * 37) % rows.length]
  const begun = performance.now()
  row.click()
  while (!row.parentElement.classList.contains("chosen")) await new Promise(r => setTimeout(r))
  await frame()
  await new Promise(r => setTimeout(r))
  times.push(performance.now() - begun)
  // Nobody clicks on before the card is there.
  await new Promise(r => setTimeout(r, 150))
}
done(times)
"""
SCROLL = """
const done = arguments[0], frame = () => new Promise(r => requestAnimationFrame(r)), times = []
const row = document.querySelector("#shelf [data-layer]")
let list = row
while (list && getComputedStyle(list).overflowY !== "auto" && getComputedStyle(list).overflowY !== "scroll") list = list.parentElement
let last = await frame()
for (let i = 0; i < 180; i++) {
  list.scrollTop = (i % 90) * 60
  const now = await frame()
  times.push(now - last)
  last = now
}
done(times)
"""
TYPE = """
const done = arguments[0], area = document.querySelector(".writing"), times = []
const drawn = () => performance.getEntriesByName("stage-drawn")
for (let i = 0; i < 80; i++) {
  const before = drawn().length
  area.value += "Tide at four "[i % 13]
  const begun = performance.now()
  area.dispatchEvent(new Event("input", {bubbles: true}))
  while (drawn().length === before) await new Promise(r => setTimeout(r, 1))
  times.push(drawn().at(-1).startTime - begun)
  await new Promise(r => requestAnimationFrame(r))
}
done(times)
"""


def _said(scene: Scene) -> str:
    return json.dumps(codec.to_data(scene))


def masked_deep() -> Scene:
    """A group masked by a soft path, in two more groups, with a few layers in it."""
    inside = [
        Layer(f"b{i}", f"B{i}", Shape("ellipse", 300, 200, "#3cb38b"), Transform((400 + 90.0 * i, 400)), parent="g2")
        for i in range(6)
    ]  # fmt: skip
    ring = Course("reef-run", "Reef run", (Subpath(
        tuple(Node(f"n{i}", at, (-60.0, 0.0), (60.0, 0.0), kind="smooth") for i, at in enumerate(((300, 300), (900, 260), (1000, 600), (500, 700)))),
        closed=True),), parent="g2")  # fmt: skip
    groups = [
        Layer(
            f"g{i}",
            f"G{i}",
            Group((600, 500)),
            Transform((600, 500), turn=3),
            parent=f"g{i - 1}" if i else None,
            mask=Mask((MaskPart("reef-run"),), feather=30) if i == DEEP - 1 else None,
        )
        for i in range(DEEP)
    ]
    return Scene(1920, 1080, length=90, layers=(*inside, *reversed(groups)), paths=(ring,))


def many(count: int) -> Scene:
    """So many shapes side by side."""
    dots = (
        Layer(f"d{i}", f"Dot {i}", Shape("ellipse", 60, 60), Transform((80 + 90.0 * (i % 20), 80 + 60.0 * (i // 20))))
        for i in range(count)
    )  # fmt: skip
    return Scene(1920, 1080, length=90, layers=tuple(dots))


def _loop(driver: Chrome, script: str) -> list[float]:
    wrapped = f"(async function() {{ {script} }}).apply(null, arguments)"
    found: list[float] = driver.execute_async_script(wrapped)
    return found


def _circle(x: float, y: float) -> list[tuple[float, float]]:
    return [(x + 3 * (i % 20), y + 2 * (i % 15)) for i in range(180)]


def _mask_node(driver: Chrome, studio: Studio) -> list[float]:
    open_editor(driver, studio.editor(studio.opened(_said(masked_deep()))))
    find(driver, "[data-choose='path:reef-run']").click()
    find(driver, "[data-card=path]")
    x, y = round_node(driver, 0)
    return watched(driver, "#stage", (x, y), _circle(x, y))[0]


def _hundred(driver: Chrome, studio: Studio) -> list[float]:
    open_editor(driver, studio.editor(studio.opened(_said(many(MANY)))))
    chord(driver, Keys.CONTROL, "a")
    wait(driver, lambda d: f"{MANY} layers" in find(d, "#card").text)
    x, y = Stage(driver).at(80, 80)
    return watched(driver, "#stage", (x, y), _circle(x, y))[0]


def _typing(driver: Chrome, studio: Studio) -> list[float]:
    words = Layer("words", "Words", Text("Tide", size=90), Transform((960, 540)))
    open_editor(driver, studio.editor(studio.opened(_said(Scene(length=90, layers=(words,))))))
    Stage(driver).double_click(960, 540)
    find(driver, ".writing")
    return _loop(driver, TYPE)


def layers() -> Report:
    """Drag a node of a mask in three groups, a hundred layers, click and scroll 300, type 80
    letters.
    """
    with tempfile.TemporaryDirectory(prefix="coaster-bench-") as folder:
        studio = Studio(Path(folder))
        try:
            with chromium() as driver:
                driver.set_script_timeout(120)
                deep, hundred = _mask_node(driver, studio), _hundred(driver, studio)
                typed = _typing(driver, studio)
                open_editor(driver, studio.editor(studio.opened(_said(many(LONG)))))
                clicks, scroll = _loop(driver, CLICKS), _loop(driver, SCROLL)
        finally:
            studio.stop()
    figures = {
        "node of a mask in three groups to its picture, p95 ms": p95(deep),
        f"{MANY} layers dragged to their picture, p95 ms": p95(hundred),
        "letter typed on the stage to its picture, p95 ms": p95(typed),
        f"shelf of {LONG}: a click until it is chosen and drawn, p95 ms": p95(clicks),
        f"shelf of {LONG}: scrolled, pictures apart by, p95 ms": p95(scroll),
    }
    reach = (
        "mask 50 ms; 100 layers 60 ms; typing 50 ms; click 50 ms; scrolling 60 pictures a second"
    )
    return Report("Layers by hand", figures, reach)
