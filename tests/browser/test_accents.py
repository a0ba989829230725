"""Accents with the hand: of one layer, changed and taken out; of several, one after the other."""

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.browser.driver import chord, find, kept, open_editor, refused_at, tab, typed, wait

BUOY = 5
CARD = "#card [data-accents]"


def does(browser, what: str) -> None:
    Select(find(browser, "#accent-add")).select_by_value(what)
    kept(browser)


def test_a_layer_does_something_short_and_several_do_it_one_by_one(browser, studio):
    scene = studio.copy_of(BUOY)
    open_editor(browser, studio.editor(scene))
    find(browser, "[data-choose='layer:buoy']").click()
    find(browser, "#card [data-card][data-id=buoy]")
    tab(browser, "look")
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
