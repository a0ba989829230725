"""Layers with the hands: gradients, corners, slants, carriers, writing, colours, what is shown alone."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.browser.driver import (
    Stage,
    chord,
    double_click,
    find,
    frame,
    kept,
    keys,
    open_editor,
    refused_at,
    said,
    tab,
    typed,
    undone,
    wait,
)

BUOY, PORTHOLE = 5, 7


@pytest.fixture
def stage(browser) -> Stage:
    return Stage(browser)


@pytest.fixture
def scene(studio, browser) -> int:
    """A copy of the buoy's scene."""
    copy = studio.copy_of(BUOY)
    open_editor(browser, studio.editor(copy))
    return copy


def choose(browser, layer: str) -> None:
    find(browser, f"[data-choose='layer:{layer}']").click()
    find(browser, f"#card [data-card][data-id={layer}]")
    tab(browser, "look")


def pick(browser, selector: str, value: str) -> None:
    Select(find(browser, selector)).select_by_value(value)
    kept(browser)


def chosen(browser) -> list[str]:
    rows = browser.find_elements(By.CSS_SELECTOR, "#shelf [data-layer].chosen")
    return [row.get_attribute("data-layer") for row in rows]


def test_a_gradient_is_put_in_turned_by_its_ends_and_its_stops_are_dragged(
    browser, studio, scene, stage
):
    choose(browser, "wave")  # 620 x 150 px round 320, 520
    pick(browser, "#card select[name=filling]", "linear")
    find(browser, "#card [data-fields='add=on']").click()
    kept(browser)

    def gradient() -> dict:
        return studio.layer(scene, "wave")["content"]["gradient"]

    assert gradient()["offsets"] == [0, 0.5, 1]
    stage.drag((630, 520), (320, 590))
    kept(browser)
    assert gradient()["end"] == pytest.approx([0.5, 0.967], abs=0.01)
    assert undone(browser) == "Gradient of Near water"
    # The middle stop, beside the middle of the line, goes along it.
    (ax, ay), (bx, by) = (10, 520), (320, 590)
    length = ((bx - ax) ** 2 + (by - ay) ** 2) ** 0.5
    beside = 14 / stage.scale
    off = (-(by - ay) / length * beside, (bx - ax) / length * beside)
    at = [((ax + (bx - ax) * t) + off[0], (ay + (by - ay) * t) + off[1]) for t in (0.5, 0.8)]
    stage.drag(*at)
    kept(browser)
    assert gradient()["offsets"][1] == pytest.approx(0.8, abs=0.02)
    refused = find(browser, "#card [aria-label='Where it is, in percent']")
    typed(refused, "90")
    refused_at(browser, "#card [name=at]", "between its neighbours")
    chord(browser, Keys.CONTROL, "z")
    wait(browser, lambda d: gradient()["offsets"][1] == 0.5)


def test_a_shape_is_dragged_to_its_size(browser, studio, scene, stage):
    keys(browser, "5")
    assert "Drag out the rectangle" in find(browser, "[data-hint]").text
    stage.drag((200, 300), (360, 400))
    kept(browser)
    made = studio.layer(scene, "rectangle")
    assert made["transform"]["position"] == pytest.approx([280, 350], abs=2)
    size = made["content"]["width"], made["content"]["height"]
    assert size == pytest.approx((160, 100), abs=3)
    # From its middle, and regular; the tool is put down after each.
    keys(browser, "5")
    stage.drag((500, 300), (560, 330), held=(Keys.SHIFT, Keys.ALT))
    kept(browser)
    made = studio.layer(scene, "rectangle-2")
    assert made["transform"]["position"] == pytest.approx([500, 300], abs=2)
    assert made["content"]["width"] == made["content"]["height"] == pytest.approx(120, abs=3)
    assert chosen(browser) == ["rectangle-2"]
    # Given up in the middle, nothing is there.
    before = len(studio.document(scene)["layers"])
    keys(browser, "5")
    stage.drag((200, 600), (300, 700), drop=False)
    keys(browser, Keys.ESCAPE)
    ActionChains(browser).release().perform()
    assert len(studio.document(scene)["layers"]) == before


def test_a_list_of_choices_does_not_keep_shortcuts_to_itself(browser, studio, scene, stage):
    layers = [layer["id"] for layer in studio.document(scene)["layers"]]
    choose(browser, layers[-1])
    tab(browser, "look")
    Select(find(browser, "#card select[name=blend]")).select_by_value("multiply")
    kept(browser)
    chord(browser, Keys.CONTROL, "a")
    wait(browser, lambda d: set(chosen(d)) == set(layers), "not all are chosen")
    choose(browser, layers[-1])
    Select(find(browser, "#card select[name=blend]")).select_by_value("screen")
    keys(browser, Keys.END)
    wait(browser, lambda d: frame(d) > 0, "the playhead does not hear the key")
    kept(browser)
    assert studio.layer(scene, layers[-1])["blend"] == "screen"


def test_corners_are_rounded_a_side_is_slanted_and_a_label_puts_it_back(
    browser, studio, scene, stage
):
    keys(browser, "5")
    stage.click(200, 300)
    find(browser, "#card [data-card][data-id=rectangle]")
    kept(browser)
    at = studio.layer(scene, "rectangle")
    (x, y), side = at["transform"]["position"], at["content"]["width"]
    left, top, near = x - side / 2, y - side / 2, 14 / stage.scale
    stage.drag((left + near, top + near), (left + 30, top + 30))
    kept(browser)
    assert studio.layer(scene, "rectangle")["content"]["radius"] == pytest.approx(30, abs=2)
    edge = top - 6 / stage.scale
    stage.drag((x, edge), (x + side / 2, edge), held=(Keys.CONTROL,))
    kept(browser)
    assert studio.layer(scene, "rectangle")["transform"]["skew"] == pytest.approx(26, abs=2)
    tab(browser, "look")
    label = find(browser, "#card .label[title^='By how much it leans']")
    ActionChains(browser).double_click(label).perform()
    wait(browser, lambda d: studio.layer(scene, "rectangle")["transform"]["skew"] == 0)


def test_a_shape_becomes_a_path_that_is_shaped_and_a_shape_again(browser, studio, scene):
    before = len(studio.document(scene)["paths"])
    choose(browser, "wave")
    find(browser, "#card [data-fields='to=path']").click()
    kept(browser)
    made = studio.layer(scene, "wave")["content"]
    assert (made["type"], made["fill"]) == ("line", "#2f7d8a")
    find(browser, "[data-choose='layer:wave']").click()
    find(browser, "#card [data-fields='to=shape']").click()
    kept(browser)
    back = studio.layer(scene, "wave")
    assert (back["content"]["figure"], len(studio.document(scene)["paths"])) == ("drawn", before)
    assert back["transform"]["position"] == pytest.approx([320, 520], abs=0.1)


def test_a_layer_goes_with_another_and_is_let_go(browser, studio, scene, stage):
    choose(browser, "name")
    pick(browser, "#carrier", "buoy")
    assert studio.layer(scene, "name")["carrier"] == {"layer": "buoy", "turn": False, "scale": False}  # fmt: skip
    find(browser, "#card [name=turns]").find_element(By.XPATH, "..").click()
    kept(browser)
    assert studio.layer(scene, "name")["carrier"]["turn"]
    assert "with Buoy" in find(browser, "#shelf [data-layer=name]").text
    find(browser, "#card [data-fields='sits=on']").click()
    kept(browser)
    assert studio.layer(scene, "name")["transform"]["position"] == [0, 0]
    choose(browser, "wave")
    pick(browser, "#carrier", "name")
    # The other way round it would be a circle.
    choose(browser, "name")
    Select(find(browser, "#carrier")).select_by_value("wave")
    said(browser, "depends on it")
    find(browser, "[data-choose='layer:buoy']").click()
    find(browser, "#card [data-card][data-id=buoy]")
    keys(browser, Keys.DELETE)
    wait(browser, lambda d: studio.layer(scene, "name")["carrier"] is None)


def test_words_are_written_on_the_stage_where_they_stand(browser, studio, scene, stage):
    stage.double_click(320, 522)
    area = find(browser, ".writing")
    kept(browser)
    ActionChains(browser).send_keys(
        "Tide \u05e9\u05dc\u05d5\u05dd", Keys.ENTER, "at four"
    ).perform()
    words = "Tide \u05e9\u05dc\u05d5\u05dd\nat four"
    # What is drawn under it is what is typed, and what lies there is as wide.
    widths = "return [document.querySelector('.writing').clientWidth, document.querySelector('.writing').scrollWidth]"
    wait(browser, lambda d: d.execute_script(widths)[0] >= d.execute_script(widths)[1])
    assert studio.layer(scene, "name")["content"]["text"] == "Tidepool Hall"
    area.send_keys(Keys.ESCAPE)
    kept(browser)
    assert studio.layer(scene, "name")["content"]["text"] == words
    assert not browser.find_elements(By.CSS_SELECTOR, ".writing")
    # What no font has is named, and stays to be mended.
    stage.double_click(320, 522)
    find(browser, ".writing")
    ActionChains(browser).send_keys("\u6f6e").perform()
    ActionChains(browser).send_keys(Keys.ESCAPE).perform()
    said(browser, "No font here has \u201c\u6f6e\u201d")
    left = find(browser, ".writing")
    assert left.get_attribute("value") == "\u6f6e"
    ActionChains(browser).send_keys(Keys.BACKSPACE, "Ebb", Keys.ESCAPE).perform()
    wait(browser, lambda d: studio.layer(scene, "name")["content"]["text"] == "Ebb")
    # Left as it is a second time, it is given up: nobody is held there.
    stage.double_click(320, 522)
    find(browser, ".writing")
    ActionChains(browser).send_keys("\u6f6e", Keys.ESCAPE).perform()
    said(browser, "No font here has")
    ActionChains(browser).send_keys(Keys.ESCAPE).perform()
    wait(browser, lambda d: not d.find_elements(By.CSS_SELECTOR, ".writing"))
    assert studio.layer(scene, "name")["content"]["text"] == "Ebb"


def test_colours_are_taken_from_the_scene_typed_and_read_off_the_stage(
    browser, studio, scene, stage
):
    choose(browser, "wave")

    def fill() -> str:
        return studio.layer(scene, "wave")["content"]["fill"]

    def opened() -> None:
        field = find(browser, "#card input[type=color][name=fill]")
        browser.execute_script("arguments[0].scrollIntoView({block: 'center'})", field)
        field.click()
        find(browser, "#colours:not([hidden])")

    opened()
    find(browser, "#colours [data-colour='#5fb0b3']").click()
    wait(browser, lambda d: fill() == "#5fb0b3")
    kept(browser)
    opened()
    ActionChains(browser).send_keys("#abc", Keys.ENTER).perform()
    wait(browser, lambda d: fill() == "#aabbcc")
    kept(browser)
    opened()
    ActionChains(browser).send_keys("blue", Keys.ENTER).perform()
    said(browser, "is no colour like")
    ActionChains(browser).send_keys(Keys.ESCAPE).perform()
    opened()
    find(browser, "#colours [data-read]").click()
    stage.click(320, 100)
    wait(browser, lambda d: fill() not in ("#aabbcc", "#5fb0b3"))
    kept(browser)
    assert chosen(browser) == ["wave"]


def test_layers_are_chosen_by_a_band_shown_alone_ordered_and_tagged(browser, studio, scene, stage):
    # Of a chosen rider the nodes of its path would be meant.
    keys(browser, Keys.ESCAPE)
    stage.drag((4, 4), (636, 436))
    wait(browser, lambda d: chosen(browser) == ["buoy", "foam"])
    keys(browser, "y")
    assert "Only 2 layers are shown" in find(browser, "#crumbs").text
    find(browser, "#crumbs [data-all]").click()
    wait(browser, lambda d: not find_hidden(d, "#crumbs"))
    choose(browser, "name")
    chord(browser, Keys.CONTROL, Keys.ARROW_DOWN)
    kept(browser)
    assert [x["id"] for x in studio.document(scene)["layers"]] == ["foam", "buoy", "name", "wave"]
    tab(browser, "look")
    find(browser, "#card [aria-label='Tag it kelp']").click()
    kept(browser)
    assert studio.layer(scene, "name")["tag"] == "#3cb38b"
    find(browser, "#shelf [data-layer=name] .row-tag")


def find_hidden(driver, selector: str) -> bool:
    return driver.find_element(By.CSS_SELECTOR, selector).is_displayed()


def test_crumbs_say_where_one_is_and_keys_lead_out_of_a_group(browser, studio, stage):
    scene = studio.copy_of(PORTHOLE)
    open_editor(browser, studio.editor(scene))
    double_click(browser, stage.at(540, 400))
    wait(browser, lambda d: "Window" in find(d, "#crumbs").text)
    inside = chosen(browser)
    assert inside != ["window"]
    chord(browser, Keys.CONTROL, Keys.ARROW_LEFT)
    wait(browser, lambda d: studio.layer(scene, inside[0])["parent"] is None)
    find(browser, "#crumbs [data-into='']").click()
    wait(browser, lambda d: not find_hidden(d, "#crumbs"))
    assert chosen(browser) == ["window"]


def test_a_rider_is_dragged_off_its_path_and_back_by_its_numbers(browser, studio, scene, stage):
    choose(browser, "buoy")
    before = studio.layer(scene, "buoy")
    stage.drag((300, 200), (340, 200))
    said(browser, "off Bob")
    kept(browser)
    after = studio.layer(scene, "buoy")
    assert after["transform"]["anchor"] != before["transform"]["anchor"]
    assert after["ride"] == before["ride"]
    assert float(find(browser, "#card [name=off_x]").get_attribute("value")) > 20
    typed(find(browser, "#card [name=off_x]"), "0")
    kept(browser)
    assert studio.layer(scene, "buoy")["transform"]["anchor"][0] == pytest.approx(0.5)
