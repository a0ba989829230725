"""The second view: the scene from above and from its side, with the tools of the stage; all of it, to move about in."""

import json
import math

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from coaster.formats import pathdata
from coaster.geometry.path import Path
from coaster.scene import codec
from coaster.scene.contents import Group, Shape
from coaster.scene.document import Layer, Scene, Transform
from tests.browser.driver import (
    Stage,
    centre,
    chord,
    drag,
    find,
    kept,
    keys,
    open_editor,
    said,
    typed,
    undone,
    until,
    until_done,
    until_undo,
    wait,
)
from tests.browser.test_takes import draw
from tests.core.test_render import loop

RAIL = "return document.querySelector('#stage [data-rail=run] path').getAttribute('d')"
RUN = "M200 300C280 300 350 300 500 300C700 300 900 500 1100 500"


class Paper(Stage):
    """What the second view draws: gestures by places on it, px of the scene."""

    def at(self, x: float, y: float) -> tuple[int, int]:
        left, top, line = self.driver.execute_script(
            "const root = document.querySelector('#second'), {left, top} = root.getBoundingClientRect();"
            "return [left, top, root.querySelector('.picture-edge').getAttribute('d')]"
        )
        (ax, ay), (bx, by) = ([float(n) for n in p.split()] for p in line[1:].split("L"))
        scale = (bx - ax) / 1280 if ax != bx else (by - ay) / 720
        return round(left + ax + x * scale), round(top + ay + y * scale)


def reef() -> Scene:
    """A rider on a run, a still shape, and one in a tilted group."""
    run = Path("run", "Run", pathdata.subpaths(pathdata.runs(RUN)))
    manta = Layer("manta", "Manta", Shape("rectangle", 90, 60, "#2060a0"), ride=loop("run", 48))
    rock = Layer("rock", "Rock", Shape("rectangle", 200, 120, "#806040"), Transform((900, 200)))
    pod = Layer("pod", "Pod", Group(), Transform((400, 600), tilt=90.0))
    buoy = Layer("buoy", "Buoy", Shape("star", 80, 80, "#e03020"), Transform((0, 100)), parent="pod")  # fmt: skip
    return Scene(1280, 720, length=48, layers=(rock, buoy, pod, manta), paths=(run,))


@pytest.fixture
def scene(browser, studio) -> int:
    number = studio.opened(json.dumps(codec.to_data(reef())))
    open_editor(browser, studio.editor(number))
    return number


def opened(browser, which: str) -> Paper:
    if not browser.find_element(By.ID, "second").is_displayed():
        keys(browser, "d")
    find(browser, f"#second [data-second={which}]").click()
    find(browser, f"#second[data-shows={which}]")
    return Paper(browser)


def nodes(studio, number: int, path: int = 0) -> list[dict]:
    return studio.document(number)["paths"][path]["subpaths"][0]["nodes"]


def held(browser) -> tuple[float, float]:
    """Return where in the window the chosen node is seen on the second view."""
    return centre(browser.find_element(By.CSS_SELECTOR, "#second .node.picked"))


def choose_run(browser) -> None:
    find(browser, "[data-choose='path:run']").click()
    find(browser, "#card [data-card=path]")


def test_a_node_is_dragged_into_depth_from_above_and_back(browser, studio, scene):
    choose_run(browser)
    paper = opened(browser, "above")
    paper.drag((500, 0), (560, -240))
    until_undo(browser, "Move a node of Run")
    moved = nodes(studio, scene)[1]
    assert moved["position"] == pytest.approx([560, 300], abs=4)
    assert moved["z"] == pytest.approx(240, abs=4)
    # It is seen farther off on the stage, where it is taken hold of and stays as deep.
    rail = find(browser, "#stage [data-rail=run] path").get_attribute("d")
    assert "L" in rail
    chord(browser, Keys.CONTROL, "z")
    wait(browser, lambda _: "z" not in nodes(studio, scene)[1])


def test_a_drag_there_is_broken_off_and_quick_ones_are_all_taken_back(browser, studio, scene):
    before = studio.document(scene)
    choose_run(browser)
    paper = opened(browser, "above")
    paper.drag((500, 0), (560, -240), drop=False)
    wait(browser, lambda d: "L" in d.execute_script(RAIL), "the stage does not look ahead")
    keys(browser, Keys.ESCAPE)
    ActionChains(browser).release().perform()
    wait(browser, lambda d: "L" not in d.execute_script(RAIL), "what was broken off is still seen")
    assert undone(browser) == "Nothing to undo"
    for start, end in (
        ((500, 0), (520, -100)),
        ((520, -100), (480, -200)),
        ((480, -200), (500, 90)),
    ):
        paper.drag(start, end)
        # Who takes hold of it anew takes what is seen there, which a slow studio shows late.
        until(
            browser, lambda end=end: math.dist(held(browser), paper.at(*end)) < 4, f"not at {end}"
        )
    until(browser, lambda: nodes(studio, scene)[1].get("z", 0) == pytest.approx(-90, abs=12))
    for _ in range(3):
        chord(browser, Keys.CONTROL, "z")
        kept(browser)
    assert studio.document(scene) == before
    browser.refresh()
    find(browser, "#second[data-shows=above]")
    assert studio.document(scene) == before


def test_a_handle_has_a_depth_of_its_own(browser, studio, scene):
    choose_run(browser)
    paper = opened(browser, "above")
    paper.click(500, 0)
    until(browser, lambda: "Node 2" in browser.find_element(By.ID, "card").text)
    paper.drag((700, 0), (680, -150))
    until_done(browser)
    node = nodes(studio, scene)[1]
    assert node["handle_out"] == pytest.approx([180, 0], abs=4)
    assert node["handle_z"][1] == pytest.approx(150, abs=4)
    # In line with the other one: no kink in depth.
    assert node["handle_z"][0] == pytest.approx(-150 * 150 / 234, abs=8)


def test_layers_are_dragged_from_the_side_but_not_riders(browser, studio, scene):
    paper = opened(browser, "side")
    paper.drag((0, 200), (300, 260))
    until_undo(browser, "Place Rock")
    pose = studio.layer(scene, "rock")["transform"]
    assert pose["z"] == pytest.approx(300, abs=4)
    assert pose["position"] == pytest.approx([900, 260], abs=4)
    paper.drag((0, 300), (200, 380))
    said(browser, "its place is set by the ride")
    assert undone_is(browser, "Place Rock")


def undone_is(browser, words: str) -> bool:
    kept(browser)
    return browser.find_element(By.ID, "undo").get_attribute("title") == f"Undo: {words}"


def test_a_movement_is_recorded_from_above_and_lies_there(browser, studio, scene):
    paper = opened(browser, "above")
    find(browser, "[data-layer=rock] [data-choose]").click()
    find(browser, "#card [data-id=rock]")
    keys(browser, "7")
    draw(browser, paper, [(300 + 6 * i, -200 + 150 * math.sin(i / 15)) for i in range(60)])
    until_undo(browser, "Record a take")
    take = codec.from_data(studio.document(scene)).path("take")
    assert {node.position[1] for node in take.nodes()} == {360.0}
    assert take.nodes()[0].z == pytest.approx(200, abs=8)
    assert studio.layer(scene, "rock")["ride"]["path"] == "take"
    # Its raw line and its ties are where it was drawn; what is drawn anew goes to where it lies.
    find(browser, "#second .raw .raw-line")
    assert not browser.find_elements(By.CSS_SELECTOR, "#stage .raw .raw-line")
    find(browser, "#second .ties .tie")
    find(browser, "#second [data-second=side]").click()
    wait(browser, lambda d: not d.find_elements(By.CSS_SELECTOR, "#second .raw .raw-line"))
    find(browser, "#second .ties .tie")


def test_a_layer_is_pinned_in_both_views(browser, studio, scene):
    paper = opened(browser, "above")
    find(browser, "[data-layer=rock] [data-choose]").click()
    find(browser, "#card [data-id=rock]")
    keys(browser, "n")
    paper.drag((900, 0), (900, -150))
    until_undo(browser, "Pin Rock at 0.00 s")
    keys(browser, Keys.END)
    paper.drag((900, -150), (500, -40))
    until_undo(browser, "Pin Rock at 1.57 s")
    first, last = nodes(studio, scene, 1)
    assert (first["z"], last["z"]) == pytest.approx((150, 40), abs=5)
    assert last["position"] == pytest.approx([500, 200], abs=5)
    wait(browser, lambda d: d.find_elements(By.CSS_SELECTOR, "#second .ties .tie"))


def test_a_member_of_a_tilted_group_goes_along_its_floor(browser, studio, scene):
    paper = opened(browser, "above")
    find(browser, "[data-layer=buoy] [data-choose]").click()
    find(browser, "#card [data-id=buoy]")
    paper.double_click(400, 100)
    paper.drag((400, 100), (500, 160))
    until_undo(browser, "Place Buoy")
    # On a floor what comes nearer goes down in it.
    pose = studio.layer(scene, "buoy")["transform"]
    assert pose["position"] == pytest.approx([100, 160], abs=4)
    assert abs(pose.get("z", 0)) < 1


def test_a_drawing_goes_on_from_one_view_to_the_other(browser, studio, scene):
    paper = opened(browser, "above")
    typed(find(browser, "#second [name=plane-own]"), "600")
    keys(browser, Keys.ESCAPE, "2")
    paper.click(300, 100)
    paper.click(700, -150)
    until_done(browser)
    drawn = nodes(studio, scene, 1)
    assert [node["position"] for node in drawn] == [pytest.approx([300, 600], abs=4), pytest.approx([700, 600], abs=4)]  # fmt: skip
    assert [node["z"] for node in drawn] == [pytest.approx(-100, abs=4), pytest.approx(150, abs=4)]
    Stage(browser).click(1000, 400)
    wait(browser, lambda _: len(nodes(studio, scene, 1)) == 3)
    assert nodes(studio, scene, 1)[2]["position"] == pytest.approx([1000, 400], abs=4)
    keys(browser, Keys.ENTER)


def test_figures_texts_and_shapes_are_put_where_they_are_pointed_at_from_a_side(
    browser, studio, scene
):
    above = opened(browser, "above")
    keys(browser, "3")
    above.drag((500, -100), (700, -300))
    until_undo(browser, "Add Ellipse")
    run = studio.document(scene)["paths"][-1]["subpaths"][0]["nodes"]
    assert {round(node["position"][1]) for node in run} == {360}  # in the plane at half the height
    assert sorted(round(node["z"]) for node in run) == pytest.approx([100, 200, 200, 300], abs=4)
    assert sorted(round(node["position"][0]) for node in run) == pytest.approx([500, 600, 600, 700], abs=4)  # fmt: skip
    side = opened(browser, "side")
    keys(browser, "5")
    side.click(150, 240)
    wait(browser, lambda d: len(studio.document(scene)["layers"]) == 5)
    keys(browser, "4")
    side.click(-80, 500)
    find(browser, "textarea.writing")
    keys(browser, Keys.ESCAPE)
    wait(browser, lambda d: len(studio.document(scene)["layers"]) == 6)
    shape, text = studio.document(scene)["layers"][-2:]
    for layer, spot in ((shape, (640, 240, 150)), (text, (640, 500, -80))):
        pose = layer["transform"]
        assert (*pose["position"], pose["z"]) == pytest.approx(spot, abs=4)


def test_the_plane_that_the_stage_draws_in_is_dragged_and_typed(browser, studio, scene):
    paper = opened(browser, "above")
    edge = find(browser, ".plane-tab").rect
    down = paper.at(0, 0)[1] - paper.at(0, -200)[1]
    place = edge["x"] + 4, edge["y"] + edge["height"] / 2
    drag(browser, place, (place[0], place[1] - down))
    wait(
        browser,
        lambda d: abs(float(find(d, "[name=plane-front]").get_attribute("value")) - 200) < 8,
    )
    typed(find(browser, "[name=plane-front]"), "150")
    keys(browser, Keys.ESCAPE, "2")
    stage = Stage(browser)
    stage.click(640, 360)
    stage.click(900, 500)
    until_done(browser)
    first, second = nodes(studio, scene, 1)
    assert first["z"] == second["z"] == 150
    # Where it was pointed at: in the middle it is the same place, away from it farther out.
    assert first["position"] == pytest.approx([640, 360], abs=3)
    assert second["position"][0] > 915
    keys(browser, Keys.ENTER)


def test_nodes_are_banded_scaled_and_turned_from_the_side(browser, studio, scene):
    choose_run(browser)
    paper = opened(browser, "above")
    paper.drag((100, -250), (600, 250))
    until(browser, lambda: "2 nodes" in browser.find_element(By.ID, "card").text)
    find(browser, "#second .marks .span-knob")
    knob = browser.execute_script(
        "const b = document.querySelector('#second .marks .span').getBoundingClientRect();"
        "return [b.left + b.width / 2, b.top - 18]"
    )
    middle = paper.at(350, 0)
    drag(browser, knob, (middle[0] + (middle[1] - knob[1]), middle[1]))
    until_undo(browser, "Transform Run")
    first, second = nodes(studio, scene)[:2]
    assert first["position"][0] == pytest.approx(350, abs=12)
    assert second["position"][0] == pytest.approx(350, abs=12)
    assert abs(first["z"]) == pytest.approx(150, abs=12)
    assert first["z"] == pytest.approx(-second["z"], abs=12)


def test_all_of_it_moves_what_the_stage_shows_and_d_closes(browser, studio, scene):
    opened(browser, "all")
    keys(browser, "0")
    before = find(browser, "#stage .frame").rect
    box = find(browser, "#second .frame-edge").rect
    drag(browser, (box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.5), (box["x"] + box["width"] * 0.9, box["y"] + box["height"] * 0.9))  # fmt: skip
    wait(browser, lambda d: find(d, "#stage .frame").rect["x"] < before["x"] - 100)
    keys(browser, "d")
    wait(browser, lambda d: not d.find_element(By.ID, "second").is_displayed())


def test_arrows_move_in_the_view_that_the_pointer_is_over_and_a_reload_keeps_it(
    browser, studio, scene
):
    choose_run(browser)
    paper = opened(browser, "above")
    paper.click(500, 0)
    until(browser, lambda: "Node 2" in browser.find_element(By.ID, "card").text)
    paper.hover(600, -200)
    chord(browser, Keys.SHIFT, Keys.ARROW_UP)
    wait(browser, lambda _: nodes(studio, scene)[1].get("z") == 10)
    Stage(browser).hover(640, 650)
    chord(browser, Keys.SHIFT, Keys.ARROW_UP)
    # So many px of the picture, in which it is a little farther away.
    wait(browser, lambda _: nodes(studio, scene)[1]["position"] == pytest.approx([500, 290], abs=0.2))  # fmt: skip
    assert nodes(studio, scene)[1]["z"] == 10
    kept(browser)
    browser.refresh()
    find(browser, "#editor[data-ready]")
    find(browser, "#second[data-shows=above]")
