"""What can be measured of the looks: nothing cut off, everything named, and words a screen reader
has.
"""

import pytest
from selenium.webdriver.common.by import By

from tests.browser.driver import find, open_editor, wait

UNNAMED = """return [...document.querySelectorAll("button, a, input, select, textarea, [role=slider]")]
  .filter(e => e.offsetParent && e.type !== "hidden")
  .filter(e => !(e.getAttribute("aria-label") || e.textContent.trim() || e.labels?.[0]?.textContent.trim() || e.title))
  .map(e => e.outerHTML.slice(0, 120))"""
CUT_OFF = """const inside = (a, b) =>
  a.left >= b.left - 1 && a.top >= b.top - 1 && a.right <= b.right + 1 && a.bottom <= b.bottom + 1
return [...document.querySelectorAll(arguments[0])].filter(e => e.offsetParent).filter(e => {
  const box = e.getBoundingClientRect(), holder = e.closest("aside, section > div, header, dialog") ?? document.body
  return !inside(box, holder.getBoundingClientRect()) || box.right > innerWidth || box.bottom > innerHeight
}).map(e => e.outerHTML.slice(0, 120))"""
FIELDS = "#card input:not([type=radio], [type=checkbox]), #card button, #card .label"
OVERLAPPING = """const seen = [...document.querySelectorAll(arguments[0])]
  .filter(e => e.offsetParent).map(e => [e, e.getBoundingClientRect()])
return seen.flatMap(([a, p], i) => seen.slice(i + 1).filter(([b, q]) => !a.contains(b) && !b.contains(a) &&
  p.left < q.right - 1 && q.left < p.right - 1 && p.top < q.bottom - 1 && q.top < p.bottom - 1)
  .map(([b]) => a.outerHTML.slice(0, 80) + " / " + b.outerHTML.slice(0, 80)))"""


def resize(driver, width: int, height: int) -> None:
    metrics = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)


@pytest.fixture
def sized(browser):
    yield lambda width, height: resize(browser, width, height)
    resize(browser, 1280, 800)


@pytest.mark.parametrize(
    ("width", "height"), [(1100, 700), (1280, 800), (1920, 1080), (3840, 2160)]
)
def test_the_editor_holds_from_small_to_very_large(browser, studio, sized, width, height):
    sized(width, height)
    open_editor(browser, studio.editor(1))
    header_and_transport = (
        "header button, header .seam, #play, [data-go], #loop, .toolbox button, #now dd"
    )
    assert browser.execute_script(CUT_OFF, header_and_transport) == []
    assert browser.execute_script(CUT_OFF, FIELDS) == []
    assert browser.execute_script(OVERLAPPING, FIELDS) == []
    canvas, bench = find(browser, ".frame").rect, find(browser, "#stage").rect
    assert canvas["width"] > 0.6 * bench["width"] or canvas["height"] > 0.6 * bench["height"]
    assert canvas["x"] >= bench["x"]
    assert canvas["y"] + canvas["height"] <= bench["y"] + bench["height"]


@pytest.mark.parametrize(
    "chosen", ["layer:manta", "layer:title", "layer:sea", "path:reef-run", "scene:"]
)
def test_everything_that_can_be_used_has_a_name(browser, studio, chosen):
    open_editor(browser, studio.editor(1))
    browser.execute_script(f"document.querySelector(\"[data-choose='{chosen}']\").click()")
    kind, _, name = chosen.partition(":")
    find(browser, f"#card [data-card={kind}]" + (f"[data-id='{name}']" if name else ""))
    assert browser.execute_script(UNNAMED) == []
    if kind == "layer":
        browser.execute_script("document.querySelector('#card input[value=look]').click()")
        assert browser.execute_script(UNNAMED) == []
        assert browser.execute_script(OVERLAPPING, FIELDS) == []


def test_pages_and_dialogs_have_names_for_everything(browser, studio):
    browser.get(studio.address)
    assert browser.execute_script(UNNAMED) == []
    find(browser, "[hx-get*='new-scene']").click()
    find(browser, "#dialog input[name=name]")
    assert browser.execute_script(UNNAMED) == []
    assert browser.execute_script(CUT_OFF, "#dialog input, #dialog button") == []


def test_nothing_is_fetched_from_anywhere_else(browser, studio):
    open_editor(browser, studio.editor(2))
    names = browser.execute_script(
        "return performance.getEntriesByType('resource').map(e => e.name)"
    )
    assert len(names) > 20
    assert [n for n in names if not n.startswith((studio.address, "blob:", "data:"))] == []


def test_a_window_with_an_older_program_says_so(browser, studio):
    open_editor(browser, studio.editor(5))
    words = browser.execute_async_script("""
      const done = arguments[0]
      import(document.querySelector("link[rel=modulepreload][href*='/protocol']").href).then(({unpack}) => {
        const buffer = new TextEncoder().encode("CSTR....").buffer
        try { unpack(buffer, null); done("taken") } catch (error) { done(error.message) }
      })""")
    assert words == "The server speaks another version; reload the page."


def test_the_stage_is_right_on_a_fine_screen(browser, studio):
    browser.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": 1280, "height": 800, "deviceScaleFactor": 2, "mobile": False},
    )
    try:
        open_editor(browser, studio.editor(1))
        box = browser.find_element(By.CSS_SELECTOR, "#stage").rect
        width = browser.execute_script("return document.querySelector('#stage canvas').width")
        assert width == pytest.approx(2 * box["width"], abs=2)
    finally:
        resize(browser, 1280, 800)
    wait(browser, lambda d: d.execute_script("return devicePixelRatio") == 1)
