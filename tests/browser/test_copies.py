"""Copies with the hand: made, spread, picked on the stage, made layers."""

import json
from dataclasses import replace

import pytest
from selenium.webdriver.common.by import By

from coaster.motion.copies import Copies
from coaster.scene import codec
from tests.browser.driver import (
    Stage,
    find,
    kept,
    open_editor,
    refused_at,
    typed,
    undone,
    until_undo,
    wait,
)
from tests.core.test_copies import pod_of, scene_of

COUNT = "#card [data-form=copies][name=count]"


@pytest.fixture
def scene(studio, browser) -> int:
    """A box that goes round a ring, 60 px about (100, 90), from its left end."""
    number = studio.opened(json.dumps(codec.to_data(replace(scene_of(None), background="#ffffff"))))
    open_editor(browser, studio.editor(number))
    find(browser, "[data-choose='layer:buoy']").click()
    return number


def copies(studio, scene: int) -> dict | None:
    return studio.layer(scene, "buoy")["ride"]["copies"]


def test_they_are_made_spread_picked_and_made_layers(browser, studio, scene):
    find(browser, "#card [data-form=copies][data-fields='count=6']").click()
    until_undo(browser, "Copies of Buoy")
    typed(find(browser, COUNT), "100000")
    refused_at(browser, COUNT, "outside 1 to 1000")
    typed(find(browser, COUNT), "2")
    kept(browser)
    assert (copies(studio, scene)["count"], copies(studio, scene)["spread"]) == (2, "even")
    # The other one is at the right end of the ring, on whose rail one would choose that.
    find(browser, "[data-choose='scene:']").click()
    Stage(browser).click(164, 92)
    find(browser, "#card [data-card][data-id=buoy]")
    find(browser, "#card label:has(> [name=spread][value=nodes])").click()
    kept(browser)
    nodes = len(studio.document(scene)["paths"][0]["subpaths"][0]["nodes"])
    assert copies(studio, scene)["count"] == nodes
    find(browser, "#card [data-form=copies][data-fields='layers=on']").click()
    until_undo(browser, "The copies of Buoy as layers")
    assert len(studio.document(scene)["layers"]) == nodes
    assert not browser.find_elements(By.CSS_SELECTOR, COUNT)
    find(browser, "#undo").click()
    wait(browser, lambda d: undone(d) != "The copies of Buoy as layers")
    kept(browser)
    find(browser, "#card [data-form=copies][data-fields='none=on']").click()
    until_undo(browser, "No copies of Buoy")
    assert copies(studio, scene) is None


def test_a_group_is_picked_by_any_of_its_copies(browser, studio):
    number = studio.opened(json.dumps(codec.to_data(pod_of(Copies(2)))))
    open_editor(browser, studio.editor(number))
    stage = Stage(browser)
    # It begins at the left end of the ring, the other one at the right; on the rail one would choose that.
    for x in (164, 36):
        find(browser, "[data-choose='scene:']").click()
        wait(browser, lambda d: not d.find_elements(By.CSS_SELECTOR, "#card [data-id=pod]"))
        stage.click(x, 92)
        find(browser, "#card [data-card][data-id=pod]")
