"""Several layers at once with the hands: one value for all, lined up, and what stays chosen."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.browser.driver import (
    chord,
    find,
    kept,
    open_editor,
    refused_at,
    said,
    tab,
    typed,
    until_undo,
    wait,
)


@pytest.fixture
def scene(studio, browser) -> int:
    """A copy of the buoy's scene with both waters chosen."""
    copy = studio.copy_of(5)
    open_editor(browser, studio.editor(copy))
    find(browser, "[data-choose='layer:wave']").click()
    more = find(browser, "[data-choose='layer:foam']")
    ActionChains(browser).key_down(Keys.CONTROL).click(more).key_up(Keys.CONTROL).perform()
    find(browser, "#card [data-card=layers]")
    return copy


def field(browser, name: str):
    return find(browser, f"#card [data-form=several][data-target$='property={name}']")


def opacities(studio, scene: int) -> list[float]:
    names = ("wave", "foam")
    return [studio.layer(scene, name)["transform"]["opacity"] for name in names]


def test_all_of_them_take_a_value_and_more_of_it(browser, studio, scene):
    assert field(browser, "y").get_attribute("placeholder") == "mixed"
    typed(field(browser, "opacity"), "80")
    kept(browser)
    assert opacities(studio, scene) == [0.8, 0.8]
    Select(find(browser, "#card [name=how]")).select_by_value("times")
    typed(field(browser, "opacity"), "0.5")
    kept(browser)
    wait(browser, lambda d: opacities(studio, scene) == [0.4, 0.4])
    # What is typed is still a factor, though the card was drawn anew.
    assert Select(find(browser, "#card [name=how]")).first_selected_option.get_attribute("value") == "times"  # fmt: skip
    typed(field(browser, "opacity"), "5")
    place = "#card [data-form=several][data-target$='property=opacity']"
    refused_at(browser, place, "Opacity of Near water would be 200 %")
    assert opacities(studio, scene) == [0.4, 0.4]


def test_they_are_lined_up_by_each_other_and_by_the_frame(browser, studio, scene):
    find(browser, "#card [aria-label='Left edges']").click()
    kept(browser)

    def lefts() -> list[float]:
        layers = [studio.layer(scene, name) for name in ("wave", "foam")]
        return [x["transform"]["position"][0] - x["content"]["width"] / 2 for x in layers]

    wait(browser, lambda d: lefts() == pytest.approx([min(lefts())] * 2), "not lined up")
    Select(find(browser, "#card [name=to]")).select_by_value("frame")
    find(browser, "#card [aria-label='Left edges']").click()
    wait(browser, lambda d: lefts() == pytest.approx([0, 0]), "not at the frame's edge")


def test_layers_are_cut_and_pasted_into_another_scene(browser, studio, scene):
    other = studio.copy_of(3)
    open_editor(browser, studio.editor(scene))
    find(browser, "[data-choose='layer:buoy']").click()
    find(browser, "#card [data-card][data-id=buoy]")
    chord(browser, Keys.CONTROL, "x")
    said(browser, "Buoy is cut")
    wait(browser, lambda d: not any(x["id"] == "buoy" for x in studio.document(scene)["layers"]))
    open_editor(browser, studio.editor(other))
    chord(browser, Keys.CONTROL, "v")
    wait(browser, lambda d: any(x["name"] == "Buoy" for x in studio.document(other)["layers"]), "not pasted")  # fmt: skip
    kept(browser)
    pasted = studio.layer(other, "buoy")
    paths = {path["id"]: path["name"] for path in studio.document(other)["paths"]}
    assert paths[pasted["ride"]["path"]] == "Bob"
    # Once more: beside nothing, as it rides the same path in the same place, which is said.
    find(browser, "[data-choose='layer:buoy']").click()
    chord(browser, Keys.CONTROL, "c")
    said(browser, "Buoy is copied")
    chord(browser, Keys.CONTROL, "v")
    said(browser, "on the same path in the same place")
    until_undo(browser, "Paste Buoy")


def test_a_layer_that_is_not_seen_says_why_and_is_mended(browser, studio, scene):
    find(browser, "[data-choose='layer:name']").click()
    tab(browser, "look")
    typed(find(browser, "#card [name=opacity]:not([type=range])"), "0")
    wait(browser, lambda d: "opacity of 0 %" in find(d, "#why").text, "nothing is said")
    # Of another layer it is not true.
    find(browser, "[data-choose='layer:wave']").click()
    wait(browser, lambda d: not d.find_element(By.ID, "why").is_displayed())
    find(browser, "[data-choose='layer:name']").click()
    find(browser, "#why button").click()
    wait(browser, lambda d: studio.layer(scene, "name")["transform"]["opacity"] == 1)
    wait(browser, lambda d: not d.find_element(By.ID, "why").is_displayed())
