"""What is looked for is found by typing: commands, layers, paths, scenes, and how things are done."""

import json

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from coaster.scene import codec
from coaster.scene.document import Scene
from tests.browser.driver import chord, find, keys, open_editor, said, until_undo, wait

MANTA = 1


@pytest.fixture
def editor(studio, browser) -> int:
    copy = studio.copy_of(MANTA)
    open_editor(browser, studio.editor(copy))
    return copy


def look_for(driver, text: str) -> list[str]:
    """Open the finder and type; return the words of what is found, the best first."""
    if not driver.find_elements(By.CSS_SELECTOR, "#find[open]"):
        chord(driver, Keys.CONTROL, "k")
    field = find(driver, "#find[open] input")
    field.send_keys(Keys.CONTROL + "a" + Keys.NULL, text)
    return [row.text for row in driver.find_elements(By.CSS_SELECTOR, "#found .found-words")]


def test_layers_paths_and_commands_are_found_and_taken_with_the_keyboard(browser, editor):
    assert look_for(browser, "sea bed")[0] == "Sea bed"
    keys(browser, Keys.ENTER)
    wait(browser, lambda d: find(d, "#shelf .row.chosen").text.startswith("Sea bed"))
    assert look_for(browser, "reef")[0] == "Reef run"
    keys(browser, Keys.ENTER)
    find(browser, "[data-card=path]")
    assert look_for(browser, "onion")[0] == "Ghosts of the rider"
    keys(browser, Keys.ESCAPE)
    wait(browser, lambda d: not d.find_elements(By.CSS_SELECTOR, "#find[open]"))
    # Down and up again, and round at the ends.
    found = look_for(browser, "zoom")
    keys(browser, Keys.ARROW_DOWN, Keys.ARROW_UP, Keys.ARROW_UP)
    lit = find(browser, "#found [aria-selected=true]")
    assert lit.text.startswith(found[-1])
    active = find(browser, "#find input").get_attribute("aria-activedescendant")
    assert active == lit.get_attribute("id")


def test_a_layer_is_put_on_a_path_without_a_pointer(browser, editor):
    look_for(browser, "sea bed")
    keys(browser, Keys.ENTER)
    assert look_for(browser, "ride")[0] == "Ride Reef run"
    keys(browser, Keys.ENTER)
    until_undo(browser, "Put Sea bed on Reef run")
    assert not any(words.startswith("Ride ") for words in look_for(browser, "ride"))
    keys(browser, Keys.ESCAPE)


def test_what_the_card_says_is_found_in_any_tab_and_picked(browser, editor):
    find(browser, "[data-layer='manta'] .row-name").click()
    find(browser, "#card [data-tab][value=look]")
    assert look_for(browser, "settles")[0] == "Settles"
    keys(browser, Keys.ENTER)
    wait(browser, lambda d: d.switch_to.active_element.get_attribute("data-form") == "facing")
    assert look_for(browser, "throb")[0] == "Accent: throb"
    assert find(browser, "#found .found-kind").text == "Card, Look"
    keys(browser, Keys.ENTER)
    until_undo(browser, "Throb of Manta")
    # What has come is in sight, and the page as it was.
    seen = "const box = e => e.getBoundingClientRect(), panel = box(document.querySelector('#card').parentElement);"
    seen += "return [box(arguments[0]).bottom <= panel.bottom, scrollY]"
    fades = find(browser, "#card [data-form=accent][name=accent_fade]")
    wait(browser, lambda d: d.execute_script(seen, fades) == [True, 0], "it is out of sight")


def test_what_has_no_label_is_found_by_what_is_written_on_it_or_above_it(browser, editor):
    find(browser, "[data-layer='manta'] .row-name").click()
    find(browser, "#card [data-tab][value=look]")
    assert "Roll" in look_for(browser, "facing")
    look_for(browser, "roll")
    keys(browser, Keys.ENTER)
    until_undo(browser, "Facing of Manta")
    assert look_for(browser, "ease both")[0] == "Ease both"
    keys(browser, Keys.ENTER)
    until_undo(browser, "Pace of Manta")
    assert find(browser, "#card [data-panel=pace]").is_displayed()


def test_it_opens_while_something_is_typed_and_keeps_that(browser, editor):
    find(browser, "[data-choose='layer:manta'], [data-layer='manta'] .row-name").click()
    at = find(browser, "#at")
    at.click()
    chord(browser, Keys.CONTROL, "k")
    find(browser, "#find[open]")
    keys(browser, Keys.ESCAPE)
    wait(browser, lambda d: not d.find_elements(By.CSS_SELECTOR, "#find[open]"))


def test_what_was_used_last_comes_first_also_after_a_reload(browser, editor):
    assert look_for(browser, "")[0] == "Play and pause"
    look_for(browser, "snapping")
    keys(browser, Keys.ENTER)
    assert look_for(browser, "")[0] == "Snapping on and off"
    keys(browser, Keys.ESCAPE)
    browser.refresh()
    find(browser, "[data-ready]")
    assert look_for(browser, "")[0] == "Snapping on and off"


def test_what_cannot_be_done_now_says_so_and_what_is_not_there_too(browser, editor):
    keys(browser, Keys.ESCAPE, Keys.ESCAPE)
    assert look_for(browser, "dissolve")[0] == "Dissolve the group, or make a scene one"
    assert find(browser, "#found li").get_attribute("aria-disabled") == "true"
    keys(browser, Keys.ENTER)
    assert "cannot be done now" in find(browser, "#find [role=status]").text
    assert look_for(browser, "xyzzy") == ["Look for “xyzzy”"]
    assert "try another word" in find(browser, "#find [role=status]").text


def test_what_is_not_here_is_looked_for_in_the_manual_from_the_finder_and_the_help(browser, editor):
    own = browser.current_window_handle
    look_for(browser, "quadrature")
    keys(browser, Keys.ENTER)
    assert "The mathematics" in in_manual(browser, own)
    keys(browser, "?")
    find(browser, "#keys[open] [data-search]").send_keys("containers")
    find(browser, "#keys [data-manual]").click()
    assert "A server for several people" in in_manual(browser, own)


def in_manual(browser, own: str) -> str:
    """Return what the manual has found, in the window that was opened, and close that."""
    (other,) = wait(browser, lambda d: [w for w in d.window_handles if w != own])
    browser.switch_to.window(other)
    find(browser, "#search-results li a")
    found = find(browser, "#search-results").text
    browser.close()
    browser.switch_to.window(own)
    return found


def test_help_and_other_scenes_are_gone_to(browser, studio, editor):
    assert "Close the loop" in look_for(browser, "seamless")
    keys(browser, Keys.ENTER)
    wait(browser, lambda d: "Close the loop" in find(d, "#keys[open]").text)
    find(browser, "#keys [data-closes]").click()
    find(browser, ".finding").click()
    find(browser, "#find[open]")
    wait(browser, lambda d: look_for(d, "porthole")[:1] == ["Through the porthole"])
    keys(browser, Keys.ENTER)
    wait(browser, lambda d: d.current_url.endswith("/scenes/7/"))


def test_the_first_steps_are_ticked_go_away_and_are_called_back(browser, studio):
    number = studio.opened(json.dumps(codec.to_data(Scene(length=90))))
    open_editor(browser, studio.editor(number))
    steps = find(browser, "#steps:not([hidden])")
    assert [li.text for li in ticked(browser)] == []
    find(browser, "#shelf [data-do=example]").click()
    wait(browser, lambda d: len(ticked(d)) == 3)
    find(browser, "#play").click()
    wait(browser, lambda d: not steps.is_displayed())
    find(browser, "#play").click()
    assert look_for(browser, "first steps")[0].startswith("First steps")
    keys(browser, Keys.ENTER)
    wait(browser, lambda d: steps.is_displayed())
    find(browser, "[data-no-steps]").click()
    wait(browser, lambda d: not steps.is_displayed())
    browser.refresh()
    find(browser, "[data-ready]")
    assert not find(browser, "[data-ready]").find_element(By.ID, "steps").is_displayed()


def ticked(driver) -> list:
    return driver.find_elements(By.CSS_SELECTOR, "#steps .done")


def test_the_frame_at_the_playhead_is_kept_as_a_picture(browser, editor):
    keys(browser, Keys.ARROW_RIGHT)
    look_for(browser, "snapshot")
    keys(browser, Keys.ENTER)
    said(browser, "-1.png is with the other downloads")
