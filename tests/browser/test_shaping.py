"""A path from its first node to its file, as a designer goes about it, and the ways that lead
there.
"""

import json
import math

import numpy as np
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from coaster.formats import pathdata, svg
from coaster.geometry.measure import measure_of
from coaster.geometry.nearest import nearest
from tests.browser.driver import (
    Stage,
    chord,
    find,
    frame,
    kept,
    keys,
    open_editor,
    said,
    tab,
    undone,
    until,
    until_undo,
    wait,
)
from tests.browser.test_paths import chosen_nodes, nodes


@pytest.fixture
def scene(studio, browser) -> int:
    """A copy of the map scene, open in the browser, with snapping off."""
    copy = studio.copy_of(4)
    open_editor(browser, studio.editor(copy))
    keys(browser, "s")
    return copy


@pytest.fixture
def stage(browser, scene) -> Stage:
    return Stage(browser)


@pytest.fixture
def path(studio, scene):
    def read(name: str = "path") -> dict:
        return next(p for p in studio.document(scene)["paths"] if p["id"] == name)

    return read


def exported(studio, scene: int, name: str = "path"):
    return svg.read(studio.get(f"/scenes/{scene}/paths/{name}.svg")).shapes[0].subpaths()


def draw(browser, stage: Stage, *places: tuple[float, float]) -> None:
    keys(browser, "2")
    for place in places:
        stage.click(*place)
        kept(browser)
    keys(browser, Keys.ENTER, "1")


def test_a_path_is_drawn_closed_filled_in_parted_smoothed_and_taken_back(
    browser, studio, scene, stage, path
):
    start = studio.document(scene)
    draw(browser, stage, (300, 900), (700, 960), (900, 700), (500, 640))
    tab(browser, "whole")
    find(browser, "[data-fields='to=close']").click()
    until_undo(browser, "Close Path")
    closed = exported(studio, scene)
    assert closed[0].closed
    assert len(closed[0].nodes) == 4
    stage.click(500, 930, Keys.ALT)
    until_undo(browser, "Put a node on Path")
    more = exported(studio, scene)
    assert len(more[0].nodes) == 5
    points = np.concatenate([s.segments()[:, 0] for s in more])
    assert nearest(closed[0].segments(), points).distance.max() < 0.01
    tab(browser, "whole")
    find(browser, "[data-fields='to=smooth']").click()
    until(browser, lambda: {n["kind"] for n in nodes(path())} == {"smooth"}, "not smooth")
    for node in exported(studio, scene)[0].nodes:
        into, out = np.array(node.handle_in), np.array(node.handle_out)
        assert abs(into[0] * out[1] - into[1] * out[0]) < 1e-3 * np.hypot(*into) * np.hypot(*out)
    keys(browser, "]")
    wait(browser, lambda d: chosen_nodes(d) == 1)
    find(browser, "[data-panel=nodes] [data-do=break]").click()
    until(browser, lambda: "corner" in [n["kind"] for n in nodes(path())], "not parted")
    steps = 0
    while undone(browser) != "Nothing to undo":
        chord(browser, Keys.CONTROL, "z")
        kept(browser)
        steps += 1
    assert studio.document(scene) == start
    assert steps == 3 + 4
    for _ in range(steps):
        chord(browser, Keys.CONTROL, Keys.SHIFT, "z")
        kept(browser)
    until(browser, lambda: "corner" in [n["kind"] for n in nodes(path())], "not done again")


def test_a_figure_of_eight_is_ridden_from_its_first_moment(browser, studio, scene, stage, path):
    keys(browser, "2")
    places = [(1200, 700), (1440, 540), (1200, 380), (720, 700), (480, 540), (720, 380)]
    for (x, y), degrees in zip(places, [0, -90, 180, 180, -90, 0], strict=True):
        turn = math.radians(degrees)
        stage.drag((x, y), (x + 110 * math.cos(turn), y + 110 * math.sin(turn)))
        kept(browser)
    stage.click(*places[0])
    until_undo(browser, "Close Path")
    assert len(nodes(path())) == 6
    keys(browser, "1")
    tab(browser, "riders")
    find(browser, "[aria-label='Put Title on Path']").click()
    until_undo(browser, "Put Title on Path")
    before = exported(studio, scene)
    keys(browser, Keys.HOME, Keys.SPACE)
    wait(browser, lambda d: frame(d) > 5, "it does not play")
    x, y = nodes(path())[1]["position"]
    stage.drag((x, y), (x + 120, y))
    until(browser, lambda: nodes(path())[1]["position"][0] > x + 100)
    at = frame(browser)
    wait(browser, lambda d: frame(d) != at, "it does not play on")
    keys(browser, Keys.SPACE)
    lengths = [measure_of(drawn, "jump")[0].length for drawn in (before, exported(studio, scene))]
    assert lengths[1] > lengths[0] + 100
    turns = [
        len(t.get_attribute("d").split("M")) - 1
        for t in browser.find_elements(By.CSS_SELECTOR, ".tie")
    ]
    assert sum(turns) >= studio.document(scene)["length"] - 1


def test_a_still_layer_gets_a_first_path_and_a_shape_becomes_one(browser, studio, scene, stage):
    find(browser, "[data-choose='layer:title']").click()
    find(browser, "[data-card=layer][data-id=title]")
    assert find(browser, "#card textarea[name=text]").is_displayed()
    find(browser, "#card label:has(> [name=tab][value=ride])").click()
    find(browser, "#card [data-form=starter]").click()
    until_undo(browser, "Add Title's way")
    document = studio.document(scene)
    title = studio.layer(scene, "title")
    assert title["ride"]["path"] == "title-s-way"
    made = next(p for p in document["paths"] if p["id"] == "title-s-way")
    assert nodes(made)[0]["position"] == title["transform"]["position"]
    keys(browser, "5")
    stage.click(200, 1000)
    wait(
        browser, lambda d: d.find_elements(By.CSS_SELECTOR, "[data-card=layer][data-id=rectangle]")
    )
    stage.click(200, 1000, button=2)
    find(browser, "#stage-menu [data-do=outline]").click()
    until_undo(browser, "Make a path of Rectangle")
    assert find(browser, "[data-card=path]").get_attribute("data-id") == "rectangle"


def test_paths_are_copied_and_pasted_as_text(browser, studio, scene, stage, path):
    find(browser, "[data-choose='path:route']").click()
    find(browser, "[data-card=path][data-id=route]")
    text = browser.execute_script("""
      const data = new DataTransfer()
      document.dispatchEvent(new ClipboardEvent("copy", {clipboardData: data, bubbles: true, cancelable: true}))
      return data.getData("text/plain")""")
    assert len(pathdata.subpaths(pathdata.runs(text))[0].nodes) == len(nodes(path("route")))
    paste = """
      const data = new DataTransfer()
      data.setData("text/plain", arguments[0])
      document.dispatchEvent(new ClipboardEvent("paste", {clipboardData: data, bubbles: true, cancelable: true}))"""
    browser.execute_script(paste, "M10 10L20 20 x")
    assert "character 14" in find(browser, ".toast.bad span").text
    browser.execute_script(paste, text)
    until_undo(browser, "Add Pasted path")
    assert len(nodes(path("pasted-path"))) == len(nodes(path("route")))
    chord(browser, Keys.CONTROL, "d")
    until_undo(browser, "Duplicate Pasted path")
    browser.execute_script(paste, "hello world")
    said(browser, "this text is none of them")
    browser.execute_script(
        paste, '<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0L9 9"/></svg>'
    )
    assert "Pasted.svg" in find(browser, "#drawing h2").text
    keys(browser, Keys.ESCAPE)
    wait(browser, lambda d: not d.find_elements(By.CSS_SELECTOR, "dialog[open]"))
    # What the desktop pastes when the middle button has moved the view is not meant.
    before = studio.document(scene)
    at_once = f"const all = arguments; addEventListener('pointerup', () => (function() {{ {paste} }}).apply(null, all), {{once: true}})"
    browser.execute_script(at_once, text)
    stage.drag((900, 500), (950, 520), button=1)
    assert studio.document(scene) == before


def test_two_riders_share_a_path_until_one_gets_its_own(browser, studio, scene):
    find(browser, "[data-choose='layer:torch']").click()
    find(browser, "[data-card=layer][data-id=torch]")
    chord(browser, Keys.CONTROL, "d")
    until_undo(browser, "Duplicate Torch")
    find(browser, "[data-choose='path:route']").click()
    find(browser, "[data-card=path][data-id=route]")
    tab(browser, "riders")
    riders = find(browser, "[data-panel=riders] ul[aria-label=Riders]")
    assert "Torch 2" in riders.text
    find(browser, "[aria-label='Give Torch 2 a copy of its own']").click()
    until_undo(browser, "Unlink Torch 2 from Route")
    assert studio.layer(scene, "torch")["ride"]["path"] == "route"
    own = studio.layer(scene, "torch-2")["ride"]["path"]
    assert own != "route"
    paths = {p["id"]: p for p in studio.document(scene)["paths"]}
    assert json.dumps(paths[own]["subpaths"]) == json.dumps(paths["route"]["subpaths"])


def test_what_making_a_path_lighter_costs_is_seen_before_it_is_done(
    browser, studio, scene, stage, path
):
    draw(browser, stage, *[(300 + 60 * i, 900 + 20 * math.sin(i)) for i in range(8)])
    tab(browser, "whole")
    field = find(browser, "#lighter")
    field.send_keys(Keys.CONTROL + "a" + Keys.NULL, "60")
    wait(browser, lambda d: "8 nodes become 2" in find(d, "[data-said=path-lighter]").text)
    rail = "return document.querySelector('[data-rail=path] .rail').getAttribute('d')"
    assert browser.execute_script(rail).count("L") == 1
    field.send_keys(Keys.TAB, Keys.TAB)
    wait(browser, lambda d: d.execute_script(rail).count("L") == 7, "the look ahead is still there")
    assert len(nodes(path())) == 8
    find(browser, "[data-from=lighter]").click()
    until_undo(browser, "Make Path lighter")
    assert len(nodes(path())) == 2


def test_how_one_likes_to_work_is_kept(browser, studio, scene, stage):
    find(browser, "[data-choose='path:route']").click()
    find(browser, "[data-card=path][data-id=route]")
    find(browser, "[data-zoom]").click()
    find(browser, "label:has(> input[name=handles][value=all])").click()
    wait(browser, lambda d: find(d, ".knob").get_attribute("d").count("Z") >= 10)
    size = find(browser, "input[name=nodeSize]")
    small = find(browser, ".node").get_attribute("d")
    thin = find(browser, ".rail").value_of_css_property("stroke-width")
    for field, wanted in ((size, 9), (find(browser, "input[name=railWidth]"), 3)):
        browser.execute_script(
            "arguments[0].value = arguments[1]; arguments[0].dispatchEvent(new Event('input', {bubbles: true}))",
            field, wanted,
        )  # fmt: skip
    wait(browser, lambda d: find(d, ".node").get_attribute("d") != small)
    wait(browser, lambda d: find(d, ".rail").value_of_css_property("stroke-width") != thin)
    open_editor(browser, studio.editor(scene))
    find(browser, "[data-choose='path:route']").click()
    wait(browser, lambda d: find(d, ".knob").get_attribute("d").count("Z") >= 10)
    assert browser.execute_script("return JSON.parse(localStorage['coaster-prefs'])") == {
        "nodeSize": 9, "railWidth": 3, "handles": "all", "snap": False, "rails": True,
        "ghosts": True, "compare": False, "unturned": False, "along": "none"}  # fmt: skip
