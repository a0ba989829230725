"""Scenes in scenes with the hand: shown, as the renderer has them, opened and come back from, and
groups made scenes.
"""

import json

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.driver import (
    Stage,
    chord,
    find,
    frame,
    kept,
    open_editor,
    said,
    tab,
    typed,
    undone,
    until_done,
    until_undo,
    wait,
)
from tests.browser.pictures import difference, on_stage, rendered

SWELL, BUOY, PORTHOLE, WINDOW = 3, 5, 7, 9


@pytest.fixture
def scene(studio, browser) -> int:
    copy = studio.copy_of(SWELL)
    open_editor(browser, studio.editor(copy))
    return copy


def go_to(driver, at: int) -> None:
    typed(find(driver, "#at"), f"{at} f")
    wait(driver, lambda d: frame(d) == at)


def show(driver, number: int) -> str:
    """Show another scene by the list in the shelf; return its name."""
    find(driver, "#shelf [aria-label='Add a layer']").click()
    find(driver, "[data-opens='scenes']").click()
    row = find(driver, f"#scenes [data-fields='shown={number}']")
    name = row.text.split("\n")[0]
    row.click()
    find(driver, "#shelf .chosen [data-choose]")
    wait(driver, lambda d: undone(d) == f"Show {name}")
    kept(driver)
    return name


@pytest.fixture
def inner(studio) -> int:
    """A scene of its own: other tests change those of the demo."""
    return studio.copy_of(BUOY)


def shown(studio, scene: int) -> dict:
    return next(x for x in studio.document(scene)["layers"] if x["content"]["type"] == "scene")


def test_one_is_shown_moved_slowed_and_undone(browser, studio, inner, scene):
    name = show(browser, inner)
    layer = shown(studio, scene)
    assert layer["content"]["scene"] == str(inner)
    stage, size = Stage(browser), studio.document(scene)
    middle = size["width"] / 2, size["height"] / 2
    stage.drag(middle, (middle[0] + 200, middle[1] - 60))
    wait(browser, lambda d: undone(d) != f"Show {name}")
    kept(browser)
    moved = undone(browser)
    tab(browser, "look")
    typed(find(browser, "#card [name=lasts][data-form=footage]"), "8")
    until_undo(browser, f"How {name} is played")
    layer = shown(studio, scene)
    x, y = layer["transform"]["position"]
    assert abs(x - middle[0] - 200) < 4
    assert abs(y - middle[1] + 60) < 4
    assert layer["content"]["speed"] == pytest.approx(0.5)
    find(browser, "#undo").click()
    until_undo(browser, moved)
    assert shown(studio, scene)["content"]["speed"] == 1.0


@pytest.mark.parametrize("at", [0, 37])
def test_the_stage_shows_what_is_rendered(browser, studio, scene, at):
    """A porthole with masks, blends, gradients and letters in it, turned, faint and slowed down."""
    show(browser, PORTHOLE)
    layer = shown(studio, scene)["id"]
    for fields in (
        {"form": "place", "opacity": "70", "turn": "-9", "scale": "60"},
        {"form": "footage", "speed": "62.5"},
    ):
        revision = json.loads(studio.get(f"/scenes/{scene}/revision"))["revision"]
        more = {"layer": layer, "frame": "0", "base": str(revision)}
        studio.post(f"/scenes/{scene}/edit", **fields, **more)
    open_editor(browser, studio.editor(scene))
    browser.execute_script("document.activeElement.blur()")
    go_to(browser, at)
    wait(browser, lambda d: not d.find_elements(By.CSS_SELECTOR, "#editor[data-coming]"))
    picture = on_stage(browser)
    assert difference(picture, rendered(studio, scene, at, picture.shape[1])) < 2.0


def test_a_double_click_goes_into_it_what_is_changed_shows_and_one_comes_back(
    browser, studio, inner, scene
):
    name = show(browser, inner)
    before = on_stage(browser).copy()
    stage, size = Stage(browser), studio.document(scene)
    stage.double_click(size["width"] / 2, size["height"] / 2)
    wait(browser, lambda d: d.title.startswith(name))
    find(browser, f"#stage a[href='/scenes/{scene}/']")
    find(browser, "#layer-buoy [title=Hide]").click()
    until_done(browser)
    find(browser, f"#stage a[href='/scenes/{scene}/']").click()
    wait(browser, lambda d: not d.title.startswith(name))
    wait(
        browser,
        lambda d: d.execute_script("return performance.getEntriesByName('stage-drawn').length"),
    )
    wait(browser, lambda d: difference(on_stage(d), before) > 0.5)


def test_a_group_is_made_a_scene_and_a_group_again_and_looks_the_same(browser, studio, scene):
    ids = [layer["id"] for layer in studio.document(scene)["layers"]][-2:]
    find(browser, f"#shelf [data-choose='layer:{ids[0]}']").click()
    other = find(browser, f"#shelf [data-choose='layer:{ids[1]}']")
    ActionChains(browser).key_down(Keys.CONTROL).click(other).key_up(Keys.CONTROL).perform()
    chord(browser, Keys.CONTROL, "g")
    until_done(browser)
    before = on_stage(browser).copy()
    find(browser, "#card [data-do='group-scene']").click()
    said(browser, "is a scene of this project now")
    kept(browser)
    assert difference(on_stage(browser), before) < 0.5
    chord(browser, Keys.CONTROL, Keys.SHIFT, "g")
    wait(browser, lambda d: undone(d).endswith("as a group"))
    kept(browser)
    assert difference(on_stage(browser), before) < 0.5
    assert {layer["id"] for layer in studio.document(scene)["layers"]} >= set(ids)


def test_the_demo_has_one_over_footage(browser, studio):
    open_editor(browser, studio.editor(WINDOW))
    assert shown(studio, WINDOW)["content"]["speed"] == pytest.approx(4 / 3)
    assert find(browser, "#seam").text == "Seam clean"
