"""Groups with the hand: made, dissolved, opened, folded and filled in shelf and stage."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.driver import (
    Stage,
    centre,
    chord,
    double_click,
    drag,
    find,
    kept,
    keys,
    open_editor,
    tab,
    undone,
    until_undo,
    wait,
)


@pytest.fixture
def scene(studio, browser) -> int:
    copy = studio.copy_of(1)
    open_editor(browser, studio.editor(copy))
    return copy


def row(browser, layer: str):
    return find(browser, f"#shelf [data-choose='layer:{layer}']")


def choose(browser, *layers: str) -> None:
    """Choose layers in the shelf, all but the first with Ctrl."""
    row(browser, layers[0]).click()
    for layer in layers[1:]:
        ActionChains(browser).key_down(Keys.CONTROL).click(row(browser, layer)).key_up(
            Keys.CONTROL
        ).perform()


def grouped(browser, *layers: str) -> None:
    choose(browser, *layers)
    chord(browser, Keys.CONTROL, "g")
    find(browser, "#shelf [data-group].chosen")
    kept(browser)


def parents(studio, scene: int) -> dict[str, str | None]:
    return {layer["id"]: layer["parent"] for layer in studio.document(scene)["layers"]}


def pixels(browser) -> str:
    return browser.execute_script("return document.querySelector('#stage canvas').toDataURL()")


def test_chosen_layers_are_duplicated_together(browser, studio, scene):
    choose(browser, "title", "where")
    chord(browser, Keys.CONTROL, "d")
    until_undo(browser, "Duplicate Feeding at two, Where")
    assert {"feeding-at-two-2", "where-2"} <= set(parents(studio, scene))
    assert len(browser.find_elements(By.CSS_SELECTOR, "#shelf .row.chosen")) == 2
    chord(browser, Keys.CONTROL, "z")
    until_undo(browser, "Nothing to undo")
    assert not {"feeding-at-two-2", "where-2"} & set(parents(studio, scene))


def test_chosen_layers_are_grouped_and_the_group_dissolved(browser, studio, scene):
    choose(browser, "title", "where")
    before = pixels(browser)  # ghosts of the rider that was chosen first are gone
    assert "2 layers" in find(browser, "#card [data-card=layers]").text
    grouped(browser, "title", "where")
    until_undo(browser, "Group Feeding at two, Where")
    assert parents(studio, scene) == parents(studio, scene) | {"title": "group", "where": "group"}
    assert "group of 2" in find(browser, "#card").text
    assert pixels(browser) == before
    chord(browser, Keys.CONTROL, Keys.SHIFT, "g")
    until_undo(browser, "Dissolve Group")
    assert set(parents(studio, scene).values()) == {None}
    assert pixels(browser) == before


def test_a_layer_is_dragged_into_a_group_and_out_again(browser, studio, scene):
    grouped(browser, "title", "where")
    drag(browser, centre(row(browser, "manta")), centre(row(browser, "group")))
    until_undo(browser, "Put Manta into Group")
    assert parents(studio, scene)["manta"] == "group"
    x, y = centre(find(browser, "[data-layer='sea-bed']"))
    drag(browser, centre(row(browser, "manta")), (x, y - 8))
    until_undo(browser, "Take Manta out of Group")
    assert parents(studio, scene)["manta"] is None


def test_layers_change_their_order_by_dragging(browser, studio, scene):
    x, y = centre(find(browser, "[data-layer='title']"))
    drag(browser, centre(row(browser, "manta")), (x, y - 12))
    until_undo(browser, "Move Manta in the order")
    order = [layer["id"] for layer in studio.document(scene)["layers"]]
    assert order[-3:] == ["title", "manta", "where"]


def test_a_folded_group_hides_its_rows_only(browser, scene):
    grouped(browser, "title", "where")
    before = pixels(browser)
    fold = find(browser, "[data-fold=group]")
    fold.click()
    wait(browser, lambda d: not d.find_element(By.ID, "layer-title").is_displayed())
    assert fold.get_attribute("aria-expanded") == "false"
    assert pixels(browser) == before
    fold.click()
    wait(browser, lambda d: d.find_element(By.ID, "layer-title").is_displayed())


def test_a_group_rides_as_one_and_says_so(browser, studio, scene):
    grouped(browser, "title", "where")
    assert "The whole group Group rides as one" in find(browser, "#card").text
    find(browser, "#card [data-form=attach]").click()
    until_undo(browser, "Put Group on Reef run")
    assert studio.layer(scene, "group")["ride"]["path"] == "reef-run"
    assert studio.layer(scene, "title")["ride"] is None


def test_a_double_click_goes_into_a_group_and_escape_out(browser, scene):
    grouped(browser, "title", "where")
    box = find(browser, "#stage .frame").rect
    title = (round(box["x"] + 0.2 * box["width"]), round(box["y"] + 0.13 * box["height"]))
    double_click(browser, title)
    find(browser, "#layer-title.chosen")
    keys(browser, Keys.ESCAPE)
    find(browser, "#layer-group.chosen")


def test_several_layers_move_together(browser, studio, scene):
    def at(layer):
        return studio.layer(scene, layer)["transform"]["position"]

    before = [at("title"), at("where")]
    choose(browser, "title", "where")
    chord(browser, Keys.ALT, Keys.SHIFT, Keys.ARROW_RIGHT)
    until_undo(browser, "Move 2 layers")
    moved = [at("title"), at("where")]
    assert [a[0] - b[0] for a, b in zip(moved, before, strict=True)] == [10, 10]
    assert [a[1] - b[1] for a, b in zip(moved, before, strict=True)] == [0, 0]


def test_a_click_on_one_of_several_chooses_it_alone(browser, scene):
    choose(browser, "title", "where")
    find(browser, "#layer-title.chosen")
    box = find(browser, "#stage .frame").rect
    place = (round(box["x"] + 0.2 * box["width"]), round(box["y"] + 0.13 * box["height"]))
    drag(browser, place, place, steps=1)
    wait(browser, lambda d: not d.find_elements(By.CSS_SELECTOR, "#layer-where.chosen"))
    find(browser, "#layer-title.chosen")


def test_what_is_hidden_by_its_group_says_so(browser, scene):
    grouped(browser, "title", "where")
    find(browser, "#shelf [aria-label='Hide Group']").click()
    wait(browser, lambda d: "hidden by Group" in d.find_element(By.ID, "layer-title").text)


def test_a_keyed_layer_is_nudged_from_where_it_is_seen(browser, studio, scene):
    choose(browser, "title")
    tab(browser, "look")
    find(browser, "#card button[data-key-of=x]").click()
    kept(browser)
    keys(browser, Keys.END)
    find(browser, "#card button[data-key-of=x]").click()
    wait(browser, lambda d: len(studio.layer(scene, "title")["keys"][0]["keys"]) == 2)
    x = find(browser, "#card input[name=x]")
    x.send_keys(Keys.CONTROL + "a" + Keys.NULL, "900", Keys.ENTER)
    wait(browser, lambda d: studio.layer(scene, "title")["keys"][0]["keys"][-1]["value"] == 900)
    keys(browser, Keys.ESCAPE, Keys.ESCAPE)
    choose(browser, "title")
    chord(browser, Keys.ALT, Keys.ARROW_RIGHT)
    until_undo(browser, "Keys of Feeding at two")
    assert studio.layer(scene, "title")["keys"][0]["keys"][-1]["value"] == pytest.approx(901)


def test_a_still_picture_is_picked_while_a_path_is_chosen(browser, scene):
    find(browser, "[data-choose='path:reef-run']").click()
    box = find(browser, "#stage .frame").rect
    place = (round(box["x"] + 0.2 * box["width"]), round(box["y"] + 0.13 * box["height"]))
    drag(browser, place, place, steps=1)
    find(browser, "#layer-title.chosen")


def test_shift_chooses_all_layers_up_to_one_and_ctrl_a_all_there_are(browser, studio, scene):
    row(browser, "title").click()
    ActionChains(browser).key_down(Keys.SHIFT).click(row(browser, "pilot")).perform()
    ActionChains(browser).key_up(Keys.SHIFT).perform()
    chosen = lambda: [  # noqa: E731
        each.get_attribute("data-layer")
        for each in browser.find_elements(By.CSS_SELECTOR, "#shelf .row.chosen")
    ]
    assert chosen() == ["title", "sea-bed", "manta", "pilot"]
    keys(browser, Keys.ESCAPE)
    chord(browser, Keys.CONTROL, "a")
    find(browser, "[data-card=layers]")
    assert len(chosen()) == len(studio.document(scene)["layers"])


def test_undo_in_the_middle_of_a_drag_takes_back_the_drag_alone(browser, studio, scene):
    grouped(browser, "title", "where")
    stage = Stage(browser)
    place = studio.layer(scene, "group")["transform"]["position"]
    for pressed in ((Keys.CONTROL, "z"), (Keys.DELETE,), (Keys.ESCAPE,)):
        stage.drag((300, 140), (500, 340), drop=False)
        chord(browser, *pressed)
        ActionChains(browser).release().perform()
        kept(browser)
        assert studio.layer(scene, "group")["transform"]["position"] == place
        assert undone(browser).startswith("Group ")
    stage.drag((300, 140), (500, 340))
    until_undo(browser, "Place Group")
