"""The editor as a person has it: from a changed control to the new picture, and the first
picture.
"""

import json
import math
import statistics
import tempfile
from pathlib import Path

from selenium.webdriver import Chrome
from selenium.webdriver.common.action_chains import ActionChains
from tests.browser.conftest import Studio
from tests.browser.driver import chromium, find, kept, keys, open_editor, round_node, wait

from bench.measure import Report, p95
from coaster.scene import codec
from coaster.scene.document import Scene

DRAG = """
const [selector, from, to, steps, done] = arguments
const slider = document.querySelector(selector), times = []
const frame = () => new Promise(r => requestAnimationFrame(r))
for (let i = 0; i < steps; i++) {
  const before = performance.getEntriesByName("stage-drawn").length
  slider.value = String(from + (to - from) * i / steps)
  const begun = performance.now()
  slider.dispatchEvent(new Event("input", {bubbles: true}))
  while (performance.getEntriesByName("stage-drawn").length === before) await new Promise(r => setTimeout(r, 1))
  times.push(performance.getEntriesByName("stage-drawn").at(-1).startTime - begun)
  await frame()
}
done(times)
"""
BEATS = """
const done = arguments[0], times = []
let last = 0
const beat = now => {
  if (last) times.push(now - last)
  last = now
  if (times.length < 180) requestAnimationFrame(beat)
  else done(times)
}
requestAnimationFrame(beat)
"""
MEASURE = """
let last = 0, included = 0
const events = [], draws = []
window.benchDrag = {events, draws}
document.querySelector(arguments[0]).addEventListener("pointerrawupdate", event => {
  last = event.timeStamp
  events.push(last)
}, true)
const real = window.fetch
window.fetch = async (address, options) => {
  const mine = last
  const answer = await real(address, options)
  if (String(address).endsWith("preview")) included = mine
  return answer
}
new PerformanceObserver(list => {
  for (const mark of list.getEntriesByName("stage-drawn")) if (included) draws.push([mark.startTime, included])
}).observe({type: "mark"})
"""
"""Notes when each movement of the pointer came in, and when a picture that holds it, or a later
one, was drawn.
"""
EMPTY = """
const done = arguments[0], times = []
for (let i = 0; i < 60; i++) {
  const begun = performance.now()
  await (await fetch(location.pathname + "revision")).text()
  document.querySelector("[data-go=on]").click()
  await new Promise(r => requestAnimationFrame(r))
  times.push(performance.now() - begun)
}
done(times)
"""
"""A round trip that asks for nothing, and a picture of the scene as it is."""
TURNS = 4
FIRST = """const at = name => performance.getEntriesByName(name)[0].startTime
return [at("stage-drawn"), at("editor-ready")]"""


def drag_a_node(driver: Chrome, address: str, node: int = 3) -> tuple[list[float], list[float]]:
    """Drag a node of the reef run in circles with the real pointer, a movement every 16 ms or as
    fast as it goes.

    Return in ms the age of the movement that each new picture shows, when it is drawn; and for
    every movement how long it took until a picture showed it or a later one.
    """
    open_editor(driver, address)
    find(driver, "[data-choose='path:reef-run']").click()
    find(driver, "[data-card=path]")
    keys(driver, "s")
    x, y = round_node(driver, node)
    places = [(x + 40 * math.sin(i / 9), y + 30 - 30 * math.cos(i / 9)) for i in range(180)]
    return watched(driver, "#stage", (x, y), places)


def drag_and_rest(driver: Chrome, address: str) -> tuple[list[float], list[float], list[float]]:
    """Drag a node, and make empty round trips, by turns: a machine that is slow for a while is so
    for both. Return what ``drag_a_node`` does, and how long an empty round trip took.
    """
    ages, waits, empty = [], [], []
    for _ in range(TURNS):
        aged, waited = drag_a_node(driver, address)
        ages += aged
        waits += waited
        empty += driver.execute_async_script(
            f"(async function() {{ {EMPTY} }}).apply(null, arguments)"
        )
    return ages, waits, empty


def drag_a_peg(driver: Chrome, address: str) -> tuple[list[float], list[float]]:
    """Drag the middle peg of the manta up and down in the graph, likewise."""
    open_editor(driver, address)
    pills = (
        "return [...document.querySelectorAll('.graph-pill')].map(e =>"
        " e.getBoundingClientRect().toJSON())"
    )
    wait(driver, lambda d: len(d.execute_script(pills)) == 5)
    box = sorted(driver.execute_script(pills), key=lambda b: b["x"])[2]
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    places = [(x, y - 12 * math.sin(i / 9) - 4) for i in range(180)]
    return watched(driver, "#time .graph", (x, y), places)


def played(driver: Chrome, studio: Studio, scene: Scene) -> list[float]:
    """Open a scene and play it; return the ms from one picture of the window to the next."""
    driver.set_script_timeout(120)
    open_editor(driver, studio.editor(studio.opened(json.dumps(codec.to_data(scene)))))
    keys(driver, " ")
    return driver.execute_async_script(BEATS)


def watched(
    driver: Chrome, root: str, start: tuple[float, float], places: list[tuple[float, float]]
) -> tuple[list[float], list[float]]:
    """Press at a place of the window, move over the others, let go; return the times as
    ``drag_a_node`` does.
    """
    driver.execute_script(MEASURE, root)
    actions = ActionChains(driver, duration=16)
    pointer = actions.w3c_actions.pointer_action
    pointer.move_to_location(*map(round, start))
    pointer.pointer_down()
    for place in places:
        pointer.move_to_location(*map(round, place))
    pointer.pointer_up()
    actions.perform()
    kept(driver)
    events, draws = driver.execute_script("return [benchDrag.events, benchDrag.draws]")
    shown = [[at for at, included in draws if included >= event] for event in events]
    return [at - included for at, included in draws], [
        min(s) - e for s, e in zip(shown, events, strict=True) if s
    ]


def heavy(studio: Studio) -> str:
    """Make a scene of 20 riders on the reef run and 600 frames; return its address."""
    scene = studio.copy_of(1)

    def edit(**fields: str) -> None:
        revision = json.loads(studio.get(f"/scenes/{scene}/revision"))["revision"]
        studio.post(f"/scenes/{scene}/edit", base=str(revision), **fields)

    edit(form="scene", frames="600")
    while sum(1 for x in studio.document(scene)["layers"] if x["ride"]) < 20:
        edit(form="copy", layer="manta")
    return studio.editor(scene)


STRIP = """
const done = arguments[0], time = document.querySelector("#time"), lanes = document.querySelector(".lanes")
const frame = () => new Promise(r => requestAnimationFrame(r))
const box = time.getBoundingClientRect(), kinds = {zoom: [], pan: [], scroll: []}
for (let i = 0; i < 150; i++) {
  const kind = ["zoom", "pan", "scroll"][Math.floor(i / 50)]
  const begun = performance.now()
  if (kind === "scroll") lanes.scrollTop = (i % 50) * 40
  else time.dispatchEvent(new WheelEvent("wheel", {bubbles: true, cancelable: true, clientX: box.x + box.width / 3,
    deltaY: kind === "zoom" ? -40 : 60, ctrlKey: kind === "zoom", shiftKey: kind === "pan"}))
  await frame()
  await new Promise(r => setTimeout(r))
  kinds[kind].push(performance.now() - begun)
}
done(kinds)
"""
LANES, KEYS = 100, 50


def many_lanes(studio: Studio) -> str:
    """Make a scene of 100 layers with 50 keys each; return its address."""
    scene = studio.copy_of(5)
    found = [{"id": f"k{i}", "time": i * 2.0, "value": (i % 9) / 9} for i in range(KEYS)]
    for first in range(0, LANES, 50):
        commands = []
        for i in range(first, first + 50):
            layer = {
                "id": f"dot-{i}",
                "name": f"Dot {i}",
                "content": {"type": "shape", "width": 8, "height": 8},
            }
            commands += [
                {"kind": "layer.add", "layer": layer},
                {
                    "kind": "layer.keys",
                    "layer_id": f"dot-{i}",
                    "property": "opacity",
                    "keys": found,
                },
            ]
        revision = json.loads(studio.get(f"/scenes/{scene}/revision"))["revision"]
        studio.post(f"/scenes/{scene}/edit", base=str(revision), commands=json.dumps(commands))
    return studio.editor(scene)


def editor() -> Report:
    """Drag the turn of the manta through 120 values; open the editor ten times."""
    with tempfile.TemporaryDirectory(prefix="coaster-bench-") as folder:
        studio = Studio(Path(folder))
        try:
            with chromium() as driver:
                firsts = []
                for _ in range(10):
                    driver.get("about:blank")
                    open_editor(driver, studio.editor(1))
                    firsts.append(driver.execute_script(FIRST))
                cold, warm = firsts[0], [f[1] for f in firsts[1:]]
                driver.set_script_timeout(120)
                code = f"(async function() {{ {DRAG} }}).apply(null, arguments)"
                find(driver, "input[type=range][name=turn]")
                times = driver.execute_async_script(
                    code, "input[type=range][name=turn]", -170, 170, 120
                )
                wait(driver, lambda d: d.find_elements("id", "kept"))
                pegs = drag_a_peg(driver, studio.editor(studio.copy_of(1)))
                open_editor(driver, many_lanes(studio))
                strip = driver.execute_async_script(
                    f"(async function() {{ {STRIP} }}).apply(null, arguments)"
                )
                drags = [
                    drag_and_rest(driver, address)
                    for address in (studio.editor(studio.copy_of(1)), heavy(studio))
                ]
        finally:
            studio.stop()
    figures = {
        "changed control to new picture, median ms": statistics.median(times),
        "changed control to new picture, p95 ms": p95(times),
    }
    names = ("demo", "20 riders x 600 frames")
    for name, (ages, waits, empty) in zip(names, drags, strict=True):
        figures |= {
            f"{name}: dragged node to new rail, ties and rider, median ms": statistics.median(ages),
            f"{name}: the same, p95 ms": p95(ages),
            f"{name}: an empty round trip and a picture, median ms": statistics.median(empty),
            f"{name}: dragged node / empty, medians": statistics.median(ages)
            / statistics.median(empty),
            f"{name}: dragged node / empty, p95s": p95(ages) / p95(empty),
            f"{name}: any movement until it or a later one shows, median ms": statistics.median(
                waits
            ),
        }
    figures |= {
        "dragged peg to new graph, ties and rider, median ms": statistics.median(pegs[0]),
        "the same, p95 ms": p95(pegs[0]),
    }
    figures |= {
        f"{LANES} lanes, {LANES * KEYS} keys: a {kind} to its picture, p95 ms": p95(v)
        for kind, v in strip.items()
    }
    figures |= {
        "first picture in a new browser, ms after the page was asked for": cold[0],
        "all of its pictures, ms": cold[1],
        "first picture when opened again, median ms": statistics.median(f[0] for f in firsts[1:]),
        "all of its pictures, median ms": statistics.median(warm),
    }
    reach = (
        "control p95 100 ms; dragged node p95 33 ms on the demo, 60 ms on the large scene, and at most"
        " 1.6 (medians) and 2 (p95s) of an empty round trip; first picture 1 s"
    )
    return Report("The editor", figures, reach)
