"""What hands are used to: going on after a reload, moving about with Space, dropping on a rail, an
example to begin with.
"""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.driver import (
    Stage,
    find,
    frame,
    kept,
    keys,
    open_editor,
    said,
    tab,
    until_undo,
    wait,
)
from tests.browser.test_tour import new_scene

LEFT = "return document.querySelector('.frame').getBoundingClientRect().left"
ZOOM = "return document.querySelector('[data-zoom]').textContent"


@pytest.fixture
def stage(studio, browser) -> Stage:
    """A copy of the manta scene, open in the browser."""
    open_editor(browser, studio.editor(studio.copy_of(1)))
    return Stage(browser)


def test_after_a_reload_one_goes_on_where_one_was(browser, stage):
    find(browser, "[data-choose='layer:manta']").click()
    tab(browser, "look")
    keys(browser, Keys.END, "+", "+")
    zoom, left = browser.execute_script(ZOOM), browser.execute_script(LEFT)
    browser.refresh()
    find(browser, "#editor[data-ready]")
    find(browser, "#card [data-card][data-id=manta]")
    assert find(browser, "[data-tab][value=look]").is_selected()
    assert frame(browser) == 239
    assert browser.execute_script(ZOOM) == zoom
    assert browser.execute_script(LEFT) == pytest.approx(left, abs=1)


def test_space_held_moves_about_and_does_not_play(browser, stage):
    left = browser.execute_script(LEFT)
    before = frame(browser)
    stage.drag((960, 900), (1100, 900), held=(Keys.SPACE,))
    moved = browser.execute_script(LEFT) - left
    assert moved == pytest.approx(140 * stage.scale, abs=2)
    assert (frame(browser), find(browser, "#play").get_attribute("aria-label")) == (before, "Play")
    # Tapped, it plays, and a key that repeats itself does not stop it again.
    keys(browser, Keys.SPACE)
    wait(browser, lambda d: frame(d) > before, "it does not play")
    keys(browser, Keys.SPACE)


def test_a_layer_held_still_over_a_rail_rides_it(browser, stage, studio):
    scene = new_scene(browser, studio)
    stage = Stage(browser)
    keys(browser, "3")
    stage.drag((60, 60), (300, 300))
    kept(browser)
    keys(browser, "5")
    stage.click(500, 300)
    kept(browser)
    # Over it and on is only moved; over it and held there for a moment is to ride.
    stage.drag((500, 300), (300, 180), (400, 180))
    kept(browser)
    layer = studio.document(scene)["layers"][0]
    assert layer["ride"] is None
    stage.drag((400, 180), (300, 180), drop=False)
    find(browser, ".carried")
    assert "will ride Ellipse" in find(browser, ".carried").text
    find(browser, "#stage .target")
    ActionChains(browser).release().perform()
    kept(browser)
    assert studio.document(scene)["layers"][0]["ride"]["path"] == "ellipse"
    assert not browser.find_elements(By.CSS_SELECTOR, ".carried, .target")


def test_enter_ends_a_drawing_and_puts_the_pen_down_escape_begins_another(browser, stage):
    for key, tool, y in ((Keys.ESCAPE, "pen", 900), (Keys.ENTER, "pick", 1000)):
        keys(browser, "2")
        stage.click(300, y)
        stage.click(600, y + 40)
        kept(browser)
        keys(browser, key)
        said(browser, "is drawn")
        assert (
            find(browser, f".toolbox > [data-tool={tool}]").get_attribute("aria-pressed") == "true"
        )
        keys(browser, Keys.ESCAPE)


def test_an_empty_scene_shows_how_it_is_done(browser, studio):
    scene = new_scene(browser, studio)
    find(browser, "[data-do=example]").click()
    until_undo(browser, "An example")
    find(browser, "#card [data-card][data-id=rider]")
    assert find(browser, "#seam").text == "Seam clean"
    assert studio.layer(scene, "rider")["ride"]["path"] == "round-trip"
    assert not browser.find_elements(By.CSS_SELECTOR, "[data-do=example]")
