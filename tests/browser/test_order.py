"""What a ride begins with, with the hand."""

import pytest
from selenium.webdriver.support.ui import Select

from tests.browser.driver import find, kept, open_editor, said, tab, typed, until_undo

MANTA = 1


def ride(studio, scene: int, layer: str) -> dict:
    return studio.layer(scene, layer)["ride"]


def begins(browser, how: str) -> None:
    Select(find(browser, "#order-event")).select_by_value(how)
    kept(browser)


def test_a_ride_follows_another_one_later_and_stays_when_that_goes(browser, studio):
    scene = studio.copy_of(MANTA)
    open_editor(browser, studio.editor(scene))
    find(browser, "[data-choose='layer:pilot']").click()
    find(browser, "#card [data-card][data-id=pilot]")
    tab(browser, "pace")
    begins(browser, "ends")
    assert ride(studio, scene, "pilot")["after"]["layer"] == "manta"
    assert ride(studio, scene, "pilot")["pegs"][0]["time"] == 240
    begins(browser, "starts")
    typed(find(browser, "#card [name=follows_s]"), "0.5")
    kept(browser)
    assert ride(studio, scene, "pilot")["pegs"][0]["time"] == pytest.approx(15)
    find(browser, "[data-choose='layer:manta']").click()
    find(browser, "#card [data-card][data-id=manta]")
    tab(browser, "ride")
    typed(find(browser, "#card [name=start_f]"), "20")
    kept(browser)
    assert ride(studio, scene, "pilot")["pegs"][0]["time"] == pytest.approx(35)
    # The one that follows cannot be followed in turn.
    tab(browser, "pace")
    Select(find(browser, "#order-event")).select_by_value("ends")
    said(browser, "cannot begin after Pilot fish, which follows it")
    find(browser, "#card [data-delete]").click()
    until_undo(browser, "Delete Manta")
    assert ride(studio, scene, "pilot")["after"] is None
    assert ride(studio, scene, "pilot")["pegs"][0]["time"] == pytest.approx(35)
