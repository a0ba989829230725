"""Riding path after path with the hand: going on, shaping what a path is made of, parting it."""

import json

import pytest
from selenium.webdriver.support.ui import Select

from coaster.scene import codec
from tests.browser.driver import Stage, find, kept, open_editor, tab, typed, until_undo
from tests.core.test_chains import riding


@pytest.fixture
def scene(studio, browser) -> int:
    """A fish on a line, a hook beside its end, and a closed path."""
    number = studio.opened(json.dumps(codec.to_data(riding("a", 40))))
    open_editor(browser, studio.editor(number))
    find(browser, "[data-choose='layer:fish']").click()
    return number


def chain_of(studio, scene: int) -> dict:
    return next(path for path in studio.document(scene)["paths"] if path["legs"])


def test_a_layer_goes_on_along_another_path_and_its_parts_are_shaped(browser, studio, scene):
    tab(browser, "pace")
    typed(find(browser, "#card [name=rest_s]"), "0.5")
    Select(find(browser, "#then-path")).select_by_visible_text("B")
    until_undo(browser, "Let Fish ride B then")
    chain = chain_of(studio, scene)
    assert studio.layer(scene, "fish")["ride"]["path"] == chain["id"]
    assert [peg["time"] for peg in studio.layer(scene, "fish")["ride"]["pegs"]] == [0, 40, 55, 155]
    find(browser, f".tile[data-choose='path:{chain['id']}']").click()
    find(browser, "#card [data-leg='g-2']")
    # A node of it is one of the path that it is made of.
    Stage(browser).drag((200, 150), (230, 170))
    kept(browser)
    place = chain_of(studio, scene)["subpaths"][1]["nodes"][2]["position"]
    assert place == pytest.approx([230, 170], abs=2)
    find(browser, "#card [data-card=path][data-id=b]")
    find(browser, f".tile[data-choose='path:{chain['id']}']").click()
    find(browser, "#card label:has(> [name=end_to_end][value=true])").click()
    until_undo(browser, "How A, then B goes on")
    assert len(chain_of(studio, scene)["subpaths"]) == 1
    find(browser, "#card [data-form=path-chain][data-fields='part=on']").click()
    until_undo(browser, "Part A, then B")
    assert not any(path["legs"] for path in studio.document(scene)["paths"])
