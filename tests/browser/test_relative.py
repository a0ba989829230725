"""A ride that begins at the layer's own place, turned on and dragged there."""

import json
from dataclasses import replace

import numpy as np
import pytest
from selenium.webdriver.common.keys import Keys

from coaster.scene import codec
from coaster.scene.contents import Shape
from tests.browser.driver import Stage, chord, find, kept, open_editor, tab, typed
from tests.browser.pictures import on_stage
from tests.core.test_ride_relative import scene_of


def test_it_stays_is_dragged_as_a_whole_and_goes_back(browser, studio):
    scene = scene_of(relative=False)
    box = replace(scene.layers[0], content=Shape(width=70, height=60))
    wanted = replace(scene, layers=(box,), background="#ffffff")
    number = studio.opened(json.dumps(codec.to_data(wanted)))
    open_editor(browser, studio.editor(number))
    find(browser, "[data-choose='layer:box']").click()
    find(browser, "#card [data-card][data-id=box]")
    tab(browser, "look")
    find(browser, "#card button[data-fields='own_place=true']").click()
    kept(browser)
    own = studio.layer(number, "box")["transform"]["position"]
    # Off its node and its anchor, which are to be taken hold of as well.
    Stage(browser).drag((own[0] + 18, own[1] + 18), (own[0] + 78, own[1] - 22))
    kept(browser)
    moved = studio.layer(number, "box")
    assert moved["ride"]["relative"] is True
    assert moved["transform"]["position"] == pytest.approx([own[0] + 60, own[1] - 40], abs=4)
    assert studio.document(number)["paths"][0]["subpaths"] == codec.to_data(wanted)["paths"][0]["subpaths"]  # fmt: skip
    # By the keyboard alone, and typed.
    chord(browser, Keys.ALT, Keys.ARROW_DOWN)
    kept(browser)
    nudged = studio.layer(number, "box")["transform"]["position"]
    assert nudged[1] == pytest.approx(moved["transform"]["position"][1] + 1, abs=0.01)
    typed(find(browser, "#card [name=x]"), "123")
    kept(browser)
    assert studio.layer(number, "box")["transform"]["position"][0] == 123
    # Where it is seen, and not only what is kept.
    seen = on_stage(browser)[..., :3].astype(int)
    height, width = seen.shape[:2]
    at = (int(nudged[1] / 200 * height), int(123 / 240 * width))
    assert np.abs(seen[at] - 255).max() > 40
    find(browser, "#card button[data-fields='own_place=false']").click()
    kept(browser)
    assert studio.layer(number, "box")["ride"]["relative"] is False
