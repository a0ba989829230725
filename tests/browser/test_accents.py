"""Accents with the hand: of one layer, changed and taken out; of several, one after the other."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.browser.driver import (
    chord,
    drag,
    find,
    kept,
    keys,
    open_editor,
    refused_at,
    tab,
    typed,
    wait,
)

BUOY = 5
CARD = "#card [data-accents]"


def opened(browser, studio) -> int:
    """Open the buoy's scene, with the look of the buoy in the card."""
    scene = studio.copy_of(BUOY)
    open_editor(browser, studio.editor(scene))
    find(browser, "[data-choose='layer:buoy']").click()
    find(browser, "#card [data-card][data-id=buoy]")
    tab(browser, "look")
    return scene


def does(browser, what: str) -> None:
    Select(find(browser, "#accent-add")).select_by_value(what)
    kept(browser)


def test_a_layer_does_something_short_and_several_do_it_one_by_one(browser, studio):
    scene = opened(browser, studio)
    does(browser, "sway")

    def accents(layer: str = "buoy") -> list[dict]:
        return studio.layer(scene, layer)["accents"]

    assert [each["kind"] for each in accents()] == ["sway"]
    Select(find(browser, f"{CARD} [name=when]")).select_by_value("during")
    kept(browser)
    assert accents()[0]["when"] == "during"
    wait(browser, lambda d: not d.find_elements(By.CSS_SELECTOR, f"{CARD} [name=accent_start_s]"))
    count = f"{CARD} [name=accent_count]"
    typed(find(browser, count), "0")
    refused_at(browser, count, "outside 0.01 to 1000")
    typed(find(browser, count), "6")
    kept(browser)
    assert accents()[0]["count"] == 6
    find(browser, f"{CARD} button[data-fields='none=on']").click()
    kept(browser)
    assert accents() == []
    find(browser, "[data-choose='scene:']").click()
    chord(browser, Keys.CONTROL, "a")
    find(browser, "#card [data-card=layers]")
    find(browser, f"{CARD} [name=stagger_s]").send_keys(Keys.CONTROL + "a" + Keys.NULL, "0.5")
    does(browser, "hop")
    starts = [accents(each)[0]["start"] for each in ("foam", "buoy", "wave", "name")]
    assert starts == [36, 24, 12, 0]


def test_its_bar_slides_and_stretches_in_the_strip(browser, studio):
    scene = opened(browser, studio)
    does(browser, "hop")
    (before,) = studio.layer(scene, "buoy")["accents"]
    bar = "[data-accent=hop]"

    def pulled(share: float, by: float) -> dict:
        rect = find(browser, bar).rect
        x, y = rect["x"] + rect["width"] * share, rect["y"] + rect["height"] / 2
        drag(browser, (x, y), (x + by, y))
        kept(browser)
        return studio.layer(scene, "buoy")["accents"][0]

    rect = find(browser, bar).rect
    held = ActionChains(browser).move_to_element(find(browser, bar)).click_and_hold()
    held.move_by_offset(int(rect["width"]), 0).perform()
    keys(browser, Keys.ESCAPE)
    ActionChains(browser).release().perform()
    assert find(browser, bar).rect["x"] == pytest.approx(rect["x"], abs=1)
    assert studio.layer(scene, "buoy")["accents"] == [before]
    slid = pulled(0.5, 90)
    assert slid["start"] > before["start"] + 3
    assert slid["lasts"] == before["lasts"]
    longer = pulled(0.995, 60)
    assert longer["start"] == slid["start"]
    assert longer["lasts"] > before["lasts"] + 2
    cut = pulled(0.005, 50)
    assert cut["start"] > longer["start"] + 2
    assert cut["start"] + cut["lasts"] == pytest.approx(longer["start"] + longer["lasts"], abs=0.01)
