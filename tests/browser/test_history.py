"""The history in the browser: pointed at it shows what was, and any of it is gone back to and named."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.driver import (
    chord,
    find,
    kept,
    keys,
    open_editor,
    said,
    tab,
    typed,
    undone,
    wait,
)

BUOY = 5


@pytest.fixture
def scene(studio, browser) -> int:
    """A copy of the buoy's scene after two edits that change its background."""
    copy = studio.copy_of(BUOY)
    open_editor(browser, studio.editor(copy))
    find(browser, "[data-choose='layer:wave']").click()
    tab(browser, "look")
    for percent in ("50", "20"):
        typed(
            find(
                browser,
                "#card .unit input[name=opacity], #card label > input[name=opacity]:not([type=range])",
            ),
            percent,
        )
        kept(browser)
    wait(browser, lambda d: strength(studio, copy) == 0.2)
    return copy


def strength(studio, number: int) -> float:
    return next(x for x in studio.document(number)["layers"] if x["id"] == "wave")["transform"][
        "opacity"
    ]


def rows(driver) -> list:
    return driver.find_elements(By.CSS_SELECTOR, "#history .past")


def stage_of(driver) -> str:
    return driver.execute_script("return document.querySelector('#stage canvas').toDataURL()")


def test_what_is_pointed_at_is_on_the_stage_until_one_looks_away(browser, scene):
    now = stage_of(browser)
    keys(browser, "v")
    wait(browser, lambda d: len(rows(d)) == 3)
    ActionChains(browser).move_to_element(rows(browser)[2]).perform()
    wait(browser, lambda d: stage_of(d) != now, "the scene as it was is on the stage")
    ActionChains(browser).move_to_element(find(browser, "#play")).perform()
    wait(browser, lambda d: stage_of(d) == now, "the scene as it is is back")
    keys(browser, Keys.ESCAPE)
    wait(
        browser,
        lambda d: (
            not find(d, "[data-do=history][aria-expanded=false]") or not rows(d)[0].is_displayed()
        ),
    )


def test_an_edit_is_gone_back_to_undone_and_named(browser, studio, scene):
    keys(browser, "v")
    wait(browser, lambda d: len(rows(d)) == 3)
    rows(browser)[1].find_element(By.CSS_SELECTOR, ".past-look").click()
    find(browser, "[data-back='1']").click()
    said(browser, "as it was then")
    wait(browser, lambda d: strength(studio, scene) == 0.5)
    assert undone(browser).startswith("Back to: Place ")
    wait(browser, lambda d: len(rows(d)) == 4)
    chord(browser, Keys.CONTROL, "z")
    wait(browser, lambda d: strength(studio, scene) == 0.2)
    wait(browser, lambda d: len(rows(d)) == 5)
    find(browser, "[data-number='2'] .past-look").click()
    find(browser, "[data-name-version='2']").click()
    typed(find(browser, "#version[open] [name=title]"), "Faint wave")
    wait(browser, lambda d: "Faint wave" in find(d, "[data-number='2']").text)
    find(browser, "#history label:has([data-named])").click()
    wait(browser, lambda d: len(rows(d)) == 1)
    # It is there after a reload, as the history is.
    browser.refresh()
    find(browser, "[data-ready]")
    keys(browser, "v")
    wait(browser, lambda d: any("Faint wave" in row.text for row in rows(d)))


def test_two_versions_are_compared_with_a_line_between_them(browser, studio, scene):
    keys(browser, "v")
    wait(browser, lambda d: len(rows(d)) == 3)
    rows(browser)[2].find_element(By.CSS_SELECTOR, "[data-look]").click()
    find(browser, "#history .open [data-compare]").click()
    line = find(browser, "#stage [data-wipe]")
    wait(browser, lambda d: d.switch_to.active_element == line)
    other = "return document.querySelector('#stage canvas.compared').toDataURL()"
    now = stage_of(browser)
    wait(browser, lambda d: d.execute_script(other) not in ("data:,", now))
    before = browser.execute_script(other)
    middle = int(line.get_attribute("aria-valuenow"))
    line.send_keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
    assert int(line.get_attribute("aria-valuenow")) == middle + 2
    ActionChains(browser).drag_and_drop_by_offset(line, -120, 0).perform()
    assert int(line.get_attribute("aria-valuenow")) < middle
    assert before != now
    # In another frame both are another picture.
    typed(find(browser, "#at"), "12 f")
    wait(browser, lambda d: d.execute_script(other) != before and stage_of(d) != now)
    line.send_keys(Keys.ESCAPE)
    wait(browser, lambda d: not line.is_displayed())
