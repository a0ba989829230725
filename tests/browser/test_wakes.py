"""What a rider leaves behind, with the hand: bubbles, a tail, a line that it draws."""

import json
from dataclasses import replace

import pytest
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from coaster.motion.wakes import READY
from coaster.scene import codec
from tests.browser.driver import (
    Stage,
    find,
    kept,
    keys,
    open_editor,
    refused_at,
    tab,
    typed,
    until_undo,
    wait,
)
from tests.browser.test_following import go_to
from tests.core.test_copies import scene_of


@pytest.fixture
def scene(studio, browser) -> int:
    """A box that goes round a ring, 60 px about (100, 90), from its left end."""
    number = studio.opened(json.dumps(codec.to_data(replace(scene_of(None), background="#ffffff"))))
    open_editor(browser, studio.editor(number))
    find(browser, "[data-choose='layer:buoy']").click()
    find(browser, "#card [data-card][data-id=buoy]")
    tab(browser, "look")
    return number


def leave(browser, what: str) -> None:
    Select(find(browser, "#leaves-new")).select_by_value(what)
    kept(browser)


def test_bubbles_are_left_and_changed_from_another_spot(browser, studio, scene):
    leave(browser, "bubbles")
    find(browser, "#card [data-card][data-id=bubbles]")
    assert studio.layer(scene, "bubbles")["carrier"]["layer"] == "buoy"
    tab(browser, "look")
    rate = "#card [data-wake] [name=rate]"
    typed(find(browser, rate), "9000")
    refused_at(browser, rate, "at most 10,000 particles")
    typed(find(browser, rate), "30")
    kept(browser)
    typed(find(browser, "#card [data-wake] [name=grow_to]"), "250")
    kept(browser)
    wake = studio.layer(scene, "bubbles")["wake"]
    assert (wake["rate"], wake["grow"]) == (30, [READY["bubbles"].grow[0], 2.5])
    Select(find(browser, "#wake-kind")).select_by_value("sparkle")
    kept(browser)
    assert studio.layer(scene, "bubbles")["wake"]["life"] == READY["sparkle"].life
    # The cross is where they leave from: it is dragged off.
    Stage(browser).drag((40, 90), (60, 110))
    kept(browser)
    assert studio.layer(scene, "bubbles")["transform"]["position"] != [0, 0]
    find(browser, "#card label:has(> [name=leaves])").click()
    until_undo(browser, "No wake of Bubbles")
    assert studio.layer(scene, "bubbles")["wake"] is None


def test_a_tail_is_left_and_told_how_long_and_a_line_is_drawn_by_a_rider(browser, studio, scene):
    leave(browser, "tail")
    find(browser, "#card [data-card][data-id^=tail]")
    tab(browser, "ride")
    trail = "#card [data-trace] [name=trail]"
    typed(find(browser, trail), "80")
    kept(browser)
    line = studio.layer(scene, "tail-of-buoy")["content"]
    assert (line["trail"], line["trail_in"], line["thin"]) == (80, "px", [0, 1])
    find(browser, "#card label:has(> [name=side][value=ahead])").click()
    kept(browser)
    assert studio.layer(scene, "tail-of-buoy")["content"]["ahead"]
    Select(find(browser, "#lead")).select_by_value("none")
    kept(browser)
    typed(find(browser, "#card [data-trace] [name=end]"), "40")
    kept(browser)
    layer = studio.layer(scene, "tail-of-buoy")
    assert (layer["carrier"], layer["content"]["end"]) == (None, 0.4)


def colour(browser, selector: str, text: str) -> None:
    """Choose a colour by typing it in the window of colours."""
    field = find(browser, selector)
    browser.execute_script("arguments[0].scrollIntoView({block: 'center'})", field)
    field.click()
    find(browser, "#colours:not([hidden])")
    keys(browser, text, Keys.ENTER)
    kept(browser)


def test_colours_of_what_is_left_and_of_a_tint_are_chosen_and_keyed(browser, studio, scene):
    leave(browser, "sparks")
    find(browser, "#card [data-card][data-id=sparks]")
    tab(browser, "look")
    first = "#card [name=wake_colour]"
    colour(browser, first, "#20c0ff")
    colours = studio.layer(scene, "sparks")["wake"]["colours"]
    assert colours[0] == "#20c0ff"
    find(browser, "#card [aria-label^='Without colour 1 of a life']").click()
    wait(browser, lambda _: studio.layer(scene, "sparks")["wake"]["colours"] == colours[1:])
    find(browser, "[data-choose='layer:buoy']").click()
    find(browser, "#card [data-card][data-id=buoy]")
    tab(browser, "look")
    Select(find(browser, "#tint-by")).select_by_value("colour")
    kept(browser)
    second = "#card [data-property=tint_2]"
    colour(browser, second, "#20c0ff")
    wait(browser, lambda _: studio.layer(scene, "buoy")["tint"]["colours"][1] == "#20c0ff")
    find(browser, "#card [data-key-of=tint_2]").click()
    until_undo(browser, "Key of Tint colour 2 of Buoy")
    # At its key it is set there; the field says what the colour is at the playhead.
    colour(browser, second, "#ff0000")
    until_undo(browser, "Keys of Buoy")
    (track,) = studio.layer(scene, "buoy")["keys"]
    assert (track["property"], track["keys"][0]["value"]) == ("tint_2", "#ff0000")
    go_to(browser, 12)
    wait(browser, lambda d: find(d, second).get_attribute("value") == "#ff0000")
