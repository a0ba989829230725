"""The editor as a person has it: from a changed control to the new picture, and the first picture."""

import tempfile
from pathlib import Path

from tests.browser.conftest import Studio
from tests.browser.driver import chromium, find, open_editor, wait

from bench.measure import Report, p95

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
FIRST = """const at = name => performance.getEntriesByName(name)[0].startTime
return [at("stage-drawn"), at("editor-ready")]"""


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
                times = driver.execute_async_script(code, "input[type=range][name=turn]", -170, 170, 120)
                wait(driver, lambda d: d.find_elements("id", "kept"))
        finally:
            studio.stop()
    return Report(
        "The editor on the demo's manta scene",
        {"changed control to new picture, median ms": sorted(times)[len(times) // 2], "p95 ms": p95(times),
         "largest ms": max(times), "first picture in a new browser, ms after the page was asked for": cold[0],
         "all of its pictures, ms": cold[1],
         "first picture when opened again, median ms": sorted(f[0] for f in firsts[1:])[len(warm) // 2],
         "all of its pictures, median ms": sorted(warm)[len(warm) // 2]},
        "p95 under 100 ms; first picture within 1 s",
    )  # fmt: skip
