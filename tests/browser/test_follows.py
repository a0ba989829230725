"""A value that follows another layer's, linked in the card."""

import json
from dataclasses import replace

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from coaster.scene import codec
from tests.browser.driver import find, kept, keys, open_editor, refused_at, said, tab, typed, until
from tests.core.test_follows import scene_of


@pytest.fixture
def scene(studio, browser) -> int:
    """A lamp, and a box that goes round a ring."""
    number = studio.opened(json.dumps(codec.to_data(replace(scene_of(), background="#ffffff"))))
    open_editor(browser, studio.editor(number))
    choose(browser, "lamp")
    return number


def choose(browser, layer: str) -> None:
    find(browser, f"[data-choose='layer:{layer}']").click()
    find(browser, f"#card [data-card][data-id={layer}]")
    tab(browser, "look")


def test_a_value_is_linked_changed_followed_and_let_go(browser, studio, scene):
    Select(find(browser, "#follow-new")).select_by_value("opacity")
    kept(browser)
    (link,) = studio.layer(scene, "lamp")["follows"]
    # Its speed never changes.
    assert (link["layer"], link["value"], link["at_low"], link["at_high"]) == (
        "lead", "travelled", 0.3, 1.0,
    )  # fmt: skip
    Select(find(browser, "[data-follows] [name=value]")).select_by_value("x")
    kept(browser)
    typed(find(browser, "[data-follows] [name=follow_at_low]"), "5")
    kept(browser)
    high = "[data-follows] [name=follow_at_high]"
    typed(find(browser, high), "300")
    refused_at(browser, high, "0 to 100 %")
    beyond = "[data-follow] ~ button[data-fields^=beyond]"
    find(browser, beyond).click()
    kept(browser)
    assert studio.layer(scene, "lamp")["follows"][0]["beyond"] is True
    find(browser, beyond).click()
    kept(browser)
    assert studio.layer(scene, "lamp")["follows"][0]["beyond"] is False
    typed(find(browser, "[data-follows] [name=follow_damping_s]"), "0.4")
    kept(browser)
    (link,) = studio.layer(scene, "lamp")["follows"]
    assert (link["value"], link["at_low"], link["damping"]) == ("x", 0.05, 0.4)
    assert link["high"] - link["low"] == pytest.approx(120, abs=2)
    # The other one says who follows it, and cannot follow that in turn.
    choose(browser, "lead")
    find(browser, "[data-follows] [data-choose='layer:lamp']")
    Select(find(browser, "#follow-new")).select_by_value("turn")
    said(browser, "look at, follow or be carried by what depends on it")
    find(browser, "[data-follows] [data-choose='layer:lamp']").click()
    find(browser, "#card [data-card][data-id=lamp]")
    tab(browser, "look")
    find(browser, "[data-follow=opacity] button[data-fields='none=on']").click()
    kept(browser)
    assert studio.layer(scene, "lamp")["follows"] == []
    find(browser, "#undo").click()
    kept(browser)
    assert studio.layer(scene, "lamp")["follows"][0]["damping"] == 0.4


def test_what_is_followed_is_picked_by_clicking_a_value(browser, studio, scene):
    Select(find(browser, "#follow-new")).select_by_value("opacity")
    kept(browser)
    pick = "[data-follows] [data-picks=opacity]"

    def followed() -> tuple[str, str]:
        (link,) = studio.layer(scene, "lamp")["follows"]
        return link["layer"], link["value"]

    for value in ("turn", "heading"):
        find(browser, pick).click()
        find(browser, "body[data-picking]")
        choose(browser, "lead")
        field = (
            "#now dd[data-value=heading]"
            if value == "heading"
            else f"#card .keyed:has([data-key-of={value}]) .unit"
        )
        find(browser, field).click()
        kept(browser)
        assert followed() == ("lead", value)
        find(browser, "#card [data-card][data-id=lamp]")
    # On the stage a line leads from the one to the other; Esc leaves the picking.
    find(browser, "#stage .linked")
    tab(browser, "look")
    find(browser, pick).click()
    keys(browser, Keys.ESCAPE)
    until(browser, lambda: not browser.find_elements(By.CSS_SELECTOR, "body[data-picking]"))
