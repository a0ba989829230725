"""The manual's ten minutes, followed to the letter with the real pointer: what they promise holds,
and the pictures in docs/tutorial are of just that (``python -m tests.browser.screenshots``).
"""

import re
from collections.abc import Callable

from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import ROOT, Studio
from tests.browser.driver import (
    Stage,
    centre,
    drag,
    find,
    frame,
    kept,
    keys,
    tab,
    typed,
    until_done,
    until_undo,
    wait,
)
from tests.browser.test_tour import make_scene

PAGE = ROOT / "docs" / "tutorial.md"


PALE = """
arguments[0].value = "#d6ecef"
arguments[0].dispatchEvent(new Event("input", {bubbles: true}))"""
"""The window of colours is the browser's own, which no test can reach."""


def follow(browser, studio: Studio, shot: Callable[[str], None]) -> int:
    """Do what the page says, step by step; return the scene that was made."""
    scene = _new_scene(browser, studio)
    stage = Stage(browser)
    _a_course(browser, stage)
    shot("course")
    _a_fish(browser, stage)
    shot("fish")
    _it_rides(browser)
    shot("rides")
    _slow_here(browser)
    shot("pace")
    _a_shoal(browser)
    shot("shoal")
    _words(browser, stage)
    shot("words")
    _a_film(browser)
    shot("film")
    return scene


def _new_scene(browser, studio: Studio) -> int:
    browser.get(studio.address)
    find(browser, "[hx-get*='new-scene']").click()
    find(browser, "#dialog input[name=name]").send_keys("A shoal")
    length = find(browser, "#dialog input[name=length]")
    length.clear()
    length.send_keys("6")
    browser.execute_script(PALE, find(browser, "#dialog input[name=background]"))
    return make_scene(browser)


def _a_course(browser, stage: Stage) -> None:
    keys(browser, "3")
    stage.drag((360, 300), (1560, 820))
    until_done(browser)
    find(browser, "#card [data-card=path]")


def _a_fish(browser, stage: Stage) -> None:
    find(browser, ".toolbox [aria-label='Which shape']").click()
    find(browser, ".toolbox [data-shape=polygon]").click()
    stage.drag((900, 480), (980, 620))
    find(browser, "#shelf [data-layer].chosen")
    kept(browser)
    tab(browser, "look")
    typed(find(browser, "#card input[name=points]"), "3")
    kept(browser)


def _it_rides(browser) -> None:
    drag(
        browser,
        centre(find(browser, "#shelf [data-layer]")),
        centre(find(browser, "#shelf [data-path]")),
    )
    wait(browser, lambda d: "rides Ellipse" in find(d, "#shelf [data-layer]").text)
    kept(browser)
    tab(browser, "ride")
    find(browser, "#card label:has(> input[name=mode][value=along])").click()
    kept(browser)
    typed(find(browser, "#card input.field[name=turn]"), "90")
    kept(browser)
    keys(browser, Keys.SPACE)
    wait(browser, lambda d: frame(d) > 20)
    keys(browser, Keys.SPACE)


def _slow_here(browser) -> None:
    typed(find(browser, "#at"), "1.5")
    wait(browser, lambda d: frame(d) == 45)
    tab(browser, "pace")
    find(browser, "#card [title*='less than half the speed']").click()
    kept(browser)


def _a_shoal(browser) -> None:
    tab(browser, "ride")
    find(browser, "#card [data-form=copies][data-fields='count=6']").click()
    until_undo(browser, "Copies of Polygon")


def _words(browser, stage: Stage) -> None:
    keys(browser, "4")
    stage.click(960, 560)
    find(browser, "textarea.writing")
    keys(browser, "High water at four")
    keys(browser, Keys.ESCAPE)
    wait(browser, lambda d: len(d.find_elements("css selector", "#shelf [data-layer]")) == 2)
    kept(browser)


def _a_film(browser) -> None:
    keys(browser, "r")
    find(browser, "#renders[open] form .button.strong").click()
    find(browser, "#renders [data-state=done]")


def test_what_the_ten_minutes_promise_holds(browser, studio):
    shown = []
    scene = follow(browser, studio, shown.append)
    assert shown == re.findall(r"tutorial/(\w+)\.png", PAGE.read_text())
    fish, words = studio.document(scene)["layers"]
    assert fish["content"]["points"] == 3
    assert fish["ride"]["facing"]["turn"] == 90
    assert fish["ride"]["copies"]["count"] == 6
    assert len(fish["ride"]["pegs"]) == 3
    assert words["content"]["text"] == "High water at four"
    assert find(browser, "#seam").text == "Seam clean"
