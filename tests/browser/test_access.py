"""For everybody: nothing that axe finds, whatever is open; all of it reached in small windows, and
without a pointer.
"""

import pytest
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import ROOT
from tests.browser.driver import By, Stage, chord, find, kept, open_editor, wait
from tests.browser.driver import keys as press

AXE = ROOT / "node_modules" / "axe-core" / "axe.min.js"
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]
RUN = """
const done = arguments[1]
axe.run(document, {resultTypes: ['violations'], runOnly: arguments[0]}).then(found => done(found.violations.map(
  each => `${each.id}: ${each.help}: ${each.nodes.slice(0, 7).map(node => node.target.join(' ')).join('; ')}`)))
"""
pytestmark = pytest.mark.browser


def keys(browser, *strokes: str | tuple[str, ...]) -> None:
    """Press keys one after the other, those of a tuple together."""
    for stroke in strokes:
        if isinstance(stroke, tuple):
            chord(browser, *stroke)
        else:
            press(browser, stroke)


@pytest.fixture(autouse=True)
def as_it_comes(browser, studio):
    """How one test has set up the window is nothing to the next."""
    yield
    # An editor that is left keeps where one was: cleared from a page that keeps nothing.
    browser.get(studio.address)
    browser.execute_script("sessionStorage.clear()")


def violations(browser) -> list[str]:
    browser.set_script_timeout(120)
    browser.execute_script(AXE.read_text())
    return browser.execute_async_script(RUN, RULES)


def choose(browser, what: str) -> None:
    browser.execute_script(
        "document.querySelector(arguments[0]).click()", f"[data-choose='{what}']"
    )


def tab(browser, name: str) -> None:
    browser.execute_script(
        "document.querySelector(arguments[0]).click()", f"#card input[value={name}]"
    )


def opened(browser, selector: str, wanted: str) -> None:
    browser.execute_script("document.querySelector(arguments[0]).click()", selector)
    find(browser, wanted)


STATES = {
    "a rider": (1, lambda b: find(b, "#card [data-panel=ride]")),
    "its pace": (1, lambda b: tab(b, "pace")),
    "its look": (1, lambda b: tab(b, "look")),
    "a peg": (1, lambda b: opened(b, ".pill[data-of=manta]:nth-of-type(4)", "[data-peg-card]")),
    "a path": (1, lambda b: choose(b, "path:reef-run")),
    "nodes": (
        1,
        lambda b: (
            choose(b, "path:reef-run"),
            find(b, "[data-card=path]"),
            keys(b, "]"),
            find(b, "#card [aria-label='Next node']"),
        ),
    ),
    "the scene": (1, lambda b: choose(b, "scene:")),
    "a scene in it": (
        9,
        lambda b: (choose(b, "layer:buoy"), find(b, "[data-id=buoy]"), tab(b, "look")),
    ),
    "the other scenes": (
        1,
        lambda b: (
            find(b, "#shelf [aria-label='Add a layer']").click(),
            find(b, "[data-opens='scenes']").click(),
            find(b, "#scenes[open] li"),
        ),
    ),
    "two versions": (
        1,
        lambda b: (
            b.execute_script(
                "document.querySelectorAll('.compared, .wipe, .compared-words, #follow, #asking')"
                ".forEach(each => { each.hidden = false })"
            ),
            find(b, ".wipe"),
        ),
    ),
    "several layers": (1, lambda b: keys(b, Keys.ESCAPE, (Keys.CONTROL, "a"))),
    "a gradient": (
        7,
        lambda b: (choose(b, "layer:water"), find(b, "[data-id=water]"), tab(b, "look")),
    ),
    "what goes with another": (
        7,
        lambda b: (choose(b, "layer:cleaner"), find(b, "[data-id=cleaner]"), tab(b, "look")),
    ),
    "a filled path": (7, lambda b: (choose(b, "layer:sand-bed"), find(b, "[data-id=sand-bed]"))),
    "a text": (
        7,
        lambda b: (choose(b, "layer:greeting"), find(b, "[data-id=greeting]"), tab(b, "look")),
    ),
    "writing": (5, lambda b: (Stage(b).double_click(320, 522), find(b, ".writing"))),
    "colours": (
        5,
        lambda b: (
            choose(b, "layer:wave"),
            find(b, "[data-id=wave]"),
            tab(b, "look"),
            find(b, "#card [name=fill]").click(),
            find(b, "#colours:not([hidden])"),
        ),
    ),
    "in a group, some shown alone": (
        7,
        lambda b: (
            choose(b, "layer:window"),
            find(b, "#card [data-enter=window]"),
            opened(b, "#card [data-enter=window]", "#crumbs:not([hidden])"),
            keys(b, "y"),
        ),
    ),
    "keys of a layer": (2, lambda b: choose(b, "layer:young")),
    "a take": (6, lambda b: opened(b, "[data-choose='path:walk']", "#take-tolerance")),
    "footage": (8, lambda b: (choose(b, "layer:kelp"), find(b, "[data-id=kelp]"), tab(b, "look"))),
    "finding something": (1, lambda b: opened(b, ".finding", "#find[open]")),
    "history": (1, lambda b: opened(b, "[data-do=history]", "#history .past")),
    "help": (1, lambda b: opened(b, "[data-opens=keys]", "#keys[open]")),
    "renders": (1, lambda b: opened(b, "[data-opens=renders]", "#renders[open] form")),
    "the seam": (1, lambda b: opened(b, "#seam", "#seam-menu:not([hidden]) [data-seam-panel]")),
    "what is shown": (1, lambda b: opened(b, "[data-zoom]", "#view-menu:not([hidden])")),
    "only the stage": (1, lambda b: keys(b, "w")),
    "with the pen": (1, lambda b: keys(b, "2")),
    "recording": (1, lambda b: keys(b, "7")),
    "a clear scene": (5, lambda b: None),
}


@pytest.mark.skipif(not AXE.exists(), reason="axe-core comes with npm ci")
@pytest.mark.parametrize("name", STATES)
def test_axe_finds_nothing_in_the_editor(browser, studio, name):
    number, act = STATES[name]
    open_editor(browser, studio.editor(number))
    act(browser)
    kept(browser)
    assert "\n".join(violations(browser)) == ""


@pytest.mark.skipif(not AXE.exists(), reason="axe-core comes with npm ci")
def test_axe_finds_nothing_on_the_other_pages(browser, studio):
    browser.get(studio.address)
    assert violations(browser) == []
    find(browser, "[hx-get*='new-scene']").click()
    find(browser, "#dialog input[name=name]")
    assert violations(browser) == []
    for page in ("bin", "projects/1/files", "renders", "projects/1/screen"):
        browser.get(f"{studio.address.rstrip('/')}/{page}")
        assert violations(browser) == []


REACHED = """
const [selector] = arguments, control = [...document.querySelectorAll(selector)].find(each => each.getClientRects().length)
if (!control) return `${selector} is not there`
control.scrollIntoView({block: 'center'})
const box = control.getBoundingClientRect(), [x, y] = [box.left + box.width / 2, box.top + box.height / 2]
const hit = document.elementFromPoint(x, y)
if (x < 0 || x > innerWidth) return `${selector} is outside at ${x}`
return hit && (control.contains(hit) || hit.contains(control)) ? '' : `${selector} is under ${hit?.className}`
"""
CONTROLS = [
    "#undo", "[data-opens=renders]", "#seam", "[data-opens=keys]", "#play", "#pin", "[data-tool=record]", "[data-tool=hand]",
    "#shelf [data-menu]", "#shelf .tile", "#card [name=tab][value=look]", "#card [name=lasts_f]", "[data-delete]", "#rate", ".pill", ".graph", "#now dd",
]  # fmt: skip


@pytest.mark.parametrize("size", [(640, 400), (400, 800), (1000, 600), (900, 500)])
def test_small_windows_and_large_zooms_reach_everything(browser, studio, size):
    metrics = {"deviceScaleFactor": 1, "mobile": False}
    browser.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        metrics | dict(zip(("width", "height"), size, strict=True)),
    )
    try:
        open_editor(browser, studio.editor(1))
        assert [
            said for said in (browser.execute_script(REACHED, each) for each in CONTROLS) if said
        ] == []
        assert browser.execute_script("return document.documentElement.scrollWidth") <= size[0]
    finally:
        browser.execute_cdp_cmd(
            "Emulation.setDeviceMetricsOverride", metrics | {"width": 1280, "height": 800}
        )


def paths(browser) -> list[str]:
    return [
        each.get_attribute("data-path")
        for each in browser.find_elements(By.CSS_SELECTOR, "#shelf [data-path]")
    ]


def test_larger_letters_make_larger_words_and_room_for_them(browser, studio):
    open_editor(browser, studio.editor(1))
    sizes = """return [".label", "#card .field", ".heading", ".ruler"].map(each =>
      parseFloat(getComputedStyle(document.querySelector(each)).fontSize))"""
    usual, wide = browser.execute_script(sizes), find(browser, "#details").rect["width"]
    browser.execute_script("document.documentElement.style.fontSize = '24px'")
    assert browser.execute_script(sizes) == pytest.approx([1.5 * size for size in usual], rel=0.01)
    assert find(browser, "#details").rect["width"] > 1.4 * wide
    assert find(browser, "#card input[name=turn][type=range]").is_enabled()


def test_a_path_and_a_figure_are_drawn_with_the_keyboard_alone(browser, studio):
    open_editor(browser, studio.editor(5))
    before = paths(browser)
    keys(
        browser,
        "2",
        Keys.ARROW_RIGHT,
        Keys.ENTER,
        *[(Keys.SHIFT, Keys.ARROW_RIGHT)] * 4,
        Keys.ENTER,
    )
    wait(browser, lambda d: len(paths(d)) == len(before) + 1)
    keys(browser, *[(Keys.SHIFT, Keys.ARROW_DOWN)] * 3, Keys.ENTER)
    kept(browser)
    keys(browser, Keys.ENTER)
    wait(browser, lambda d: "Nodes\n3" in find(d, "#card").text)
    keys(
        browser,
        "3",
        Keys.ARROW_UP,
        Keys.ENTER,
        *[(Keys.SHIFT, Keys.ARROW_RIGHT), (Keys.SHIFT, Keys.ARROW_DOWN)] * 4,
        Keys.ENTER,
    )
    wait(browser, lambda d: len(paths(d)) == len(before) + 2)
    kept(browser)
    keys(browser, (Keys.CONTROL, "z"))
    wait(browser, lambda d: len(paths(d)) == len(before) + 1)


def peg(browser) -> tuple[str, float]:
    pill = find(browser, ".pill[data-of=manta]:nth-of-type(3)")
    return pill.get_attribute("title"), pill.location["x"]


def test_a_peg_is_moved_in_time_with_the_keyboard(browser, studio):
    open_editor(browser, studio.editor(1))
    title, x = peg(browser)
    browser.execute_script(
        "arguments[0].focus()", find(browser, ".pill[data-of=manta]:nth-of-type(3)")
    )
    keys(browser, (Keys.SHIFT, Keys.ARROW_RIGHT))
    wait(browser, lambda d: peg(d)[1] > x)
    kept(browser)
    keys(browser, (Keys.CONTROL, "z"))
    wait(browser, lambda d: peg(d)[0] == title)


def test_parts_are_sized_folded_and_remembered(browser, studio):
    open_editor(browser, studio.editor(1))
    graph = find(browser, ".graph").size["height"]
    line = find(browser, "[data-line=strip]")
    browser.execute_script("arguments[0].focus()", line)
    keys(browser, *[Keys.ARROW_UP] * 8)
    wait(browser, lambda d: find(d, ".graph").size["height"] > graph + 60)
    wide = find(browser, "#stage").size["width"]
    browser.execute_script("document.activeElement.blur()")
    keys(browser, "w")
    wait(browser, lambda d: find(d, "#stage").size["width"] > wide + 400)
    assert not find(browser, ".strip").is_displayed()
    open_editor(browser, studio.editor(1))
    assert not find(browser, ".strip").is_displayed()
    keys(browser, "w")
    wait(browser, lambda d: find(d, ".graph").size["height"] > graph + 60)


def test_the_pill_of_the_seam_says_where_and_mends_it(browser, studio):
    open_editor(browser, studio.editor(1))
    field = find(browser, "#card input[name=lasts_f]")
    browser.execute_script("arguments[0].select()", field)
    field.send_keys("200", Keys.ENTER)
    wait(browser, lambda d: "Seam shows" in find(d, "#seam").text)
    find(browser, "#seam").click()
    assert "Manta" in find(browser, "#seam-menu [data-seam-panel]").text
    browser.find_element(
        By.XPATH, "//*[@id='seam-menu']//button[contains(., 'through the whole scene')]"
    ).click()
    wait(browser, lambda d: "Seam clean" in find(d, "#seam").text)
    keys(browser, (Keys.CONTROL, "z"), (Keys.CONTROL, "z"))
    kept(browser)


def test_help_is_searched_by_plain_words(browser, studio):
    open_editor(browser, studio.editor(1))
    keys(browser, "?")
    field = find(browser, "#keys [data-search]")
    field.send_keys("transparent")
    wait(browser, lambda d: "1 found" in find(d, "[data-search-found]").text)
    assert "Make the video" in find(browser, "#keys details[open]").text
    assert "press 2" in browser.execute_script(
        "return document.querySelector('#keys .topic').textContent"
    )
    field.send_keys("x")
    wait(browser, lambda d: "another word" in find(d, "[data-search-found]").text)
    keys(browser, Keys.ESCAPE, Keys.ESCAPE)


def test_a_menu_closes_when_one_tabs_out_of_it(browser, studio):
    open_editor(browser, studio.editor(1))
    find(browser, "#shelf [data-menu]").click()
    menu = find(browser, "#shelf .menu:not([hidden])")
    keys(browser, *[Keys.TAB] * (len(menu.find_elements(By.TAG_NAME, "button")) + 1))
    wait(browser, lambda d: not d.find_elements(By.CSS_SELECTOR, ".menu:not([hidden])"))
