"""The frame round a layer with the hand: corners, sides, the knob, the anchor, and what is in the way."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.driver import Stage, chord, find, kept, open_editor, tab, typed, wait
from tests.browser.pictures import difference, on_stage


@pytest.fixture
def scene(studio, browser) -> int:
    """A copy of the buoy's scene with the near water chosen: 620 x 150 px round 320, 520."""
    copy = studio.copy_of(5)
    open_editor(browser, studio.editor(copy))
    find(browser, "[data-choose='layer:wave']").click()
    find(browser, "#card [data-card][data-id=wave]")
    return copy


@pytest.fixture
def stage(browser) -> Stage:
    return Stage(browser)


def transform(studio, scene: int, layer: str = "wave") -> dict:
    return studio.layer(scene, layer)["transform"]


def until(browser, studio, scene: int, within: float = 0.05, **wanted) -> dict:
    """Wait until a layer stands so; hands come to whole px of the window."""

    def holds(driver) -> bool:
        now = transform(studio, scene)
        return all(now[name] == pytest.approx(value, abs=within) for name, value in wanted.items())

    wait(browser, holds, f"it never came to {wanted}: {transform(studio, scene)}")
    return transform(studio, scene)


def off(stage: Stage) -> float:
    """How far a handle is off the box, px of the scene."""
    return 6 / stage.scale


def test_a_side_scales_one_way_a_corner_both_and_the_other_side_stays(
    browser, studio, scene, stage
):
    by = off(stage)
    stage.drag((630 + by, 520), (475 + by, 520))
    kept(browser)
    now = until(browser, studio, scene, scale=[0.75, 1.0])
    left = now["position"][0] - 620 * now["scale"][0] / 2
    assert left == pytest.approx(10, abs=1.5)
    # Its lower right corner, to the middle of its upper left one and itself.
    right = left + 620 * now["scale"][0]
    stage.drag((right + by, 595 + by), ((left + right) / 2 + by, 520 + by))
    kept(browser)
    after = until(browser, studio, scene, scale=[0.375, 0.5])
    assert after["position"][1] - 75 * after["scale"][1] == pytest.approx(445, abs=1.5)


def test_with_alt_it_is_scaled_about_its_anchor_and_with_shift_a_side_in_proportion(
    browser, studio, scene, stage
):
    stage.drag((630 + off(stage), 520), (475 + off(stage), 520), held=(Keys.ALT, Keys.SHIFT))
    kept(browser)
    until(browser, studio, scene, scale=[0.5, 0.5], position=[320, 520])


def test_the_knob_turns_and_a_drag_is_broken_off_and_undone(browser, studio, scene, stage):
    before = transform(studio, scene)
    top = 520 - 75 - 26 / stage.scale
    stage.drag((320, top), (420, 420), held=(Keys.SHIFT,))
    kept(browser)
    assert until(browser, studio, scene, turn=45)["scale"] == [1.0, 1.0]
    chord(browser, Keys.CONTROL, "z")
    until(browser, studio, scene, turn=0)
    kept(browser)
    seen = on_stage(browser)
    for pressed in ((Keys.CONTROL, "z"), (Keys.DELETE,), (Keys.ESCAPE,)):
        stage.drag((630 + off(stage), 520), (475 + off(stage), 520), drop=False)
        wait(browser, lambda d: difference(on_stage(d), seen) > 0.5, "nothing is looked at")
        chord(browser, *pressed)
        ActionChains(browser).release().perform()
        # The drag alone is taken back: in what is kept, and in the picture.
        wait(browser, lambda d: difference(on_stage(d), seen) < 0.05, "the look ahead stayed")
        assert transform(studio, scene) == before


def test_the_anchor_is_moved_with_alt_and_the_middle_still_drags(browser, studio, scene, stage):
    stage.drag((320, 520), (14, 446), held=(Keys.ALT,))
    kept(browser)
    until(browser, studio, scene, anchor=[0, 0], position=[10, 445])
    # Without Alt the middle of a layer, where its anchor mostly is, moves the layer.
    stage.drag((560, 520), (600, 540), held=(Keys.CONTROL,))
    kept(browser)
    until(browser, studio, scene, 1.5, anchor=[0, 0], position=[50, 465])


def test_a_rider_is_scaled_where_it_rides_and_numbers_do_the_same(browser, studio, scene, stage):
    find(browser, "[data-choose='layer:buoy']").click()
    find(browser, "#card [data-card][data-id=buoy]")
    tab(browser, "look")
    typed(find(browser, "#card [name=scale_y]"), "120/2")
    kept(browser)
    wait(browser, lambda d: transform(studio, scene, "buoy")["scale"] == [1.0, 0.6])
    assert len(browser.find_elements("css selector", ".span-knob")) == 1
    # A locked one has no handles.
    find(browser, "#card [data-commands*='\"locked\": true']").click()
    wait(browser, lambda d: not d.find_elements("css selector", ".span-knob"), "still framed")
