"""For everybody: nothing that axe finds, whatever is open; all of it reached in small windows, and
without a pointer.
"""

import pytest
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import ROOT
from tests.browser.driver import find, kept, keys, open_editor

AXE = ROOT / "node_modules" / "axe-core" / "axe.min.js"
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]
RUN = """
const done = arguments[1]
axe.run(document, {resultTypes: ['violations'], runOnly: arguments[0]}).then(found => done(found.violations.map(
  each => `${each.id}: ${each.help}: ${each.nodes.slice(0, 7).map(node => node.target.join(' ')).join('; ')}`)))
"""
pytestmark = pytest.mark.browser


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
    "several layers": (1, lambda b: keys(b, Keys.ESCAPE, (Keys.CONTROL, "a"))),
    "keys of a layer": (2, lambda b: choose(b, "layer:young")),
    "a take": (6, lambda b: opened(b, "[data-choose='path:walk']", "#take-tolerance")),
    "help": (1, lambda b: opened(b, "[data-opens=keys]", "#keys[open]")),
    "renders": (1, lambda b: opened(b, "[data-opens=renders]", "#renders[open] form")),
    "the seam": (1, lambda b: opened(b, "#seam", "#seam-menu:not([hidden])")),
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
    browser.execute_script("localStorage.clear()")
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
    browser.get(f"{studio.address.rstrip('/')}/bin")
    assert violations(browser) == []
