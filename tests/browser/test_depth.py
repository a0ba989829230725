"""Depth on the stage: seen as the renderer draws it, and shaped by hand."""

import json
from collections.abc import Iterator
from dataclasses import replace

import pytest
from selenium.webdriver.common.by import By

from coaster.formats import pathdata
from coaster.geometry.path import Path
from coaster.motion.copies import Copies
from coaster.motion.keys import Key
from coaster.motion.ride import Facing
from coaster.motion.wakes import READY
from coaster.render import places
from coaster.scene import codec
from coaster.scene.carriers import Carrier
from coaster.scene.contents import Camera, Group, Light, Line, Shape, Text
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.masks import Mask, MaskPart
from coaster.scene.properties import Track
from tests.browser.driver import (
    Stage,
    find,
    keys,
    open_editor,
    refused_at,
    tab,
    typed,
    until_done,
    until_undo,
    wait,
)
from tests.browser.pictures import difference, on_stage, rendered
from tests.browser.test_insets import go_to
from tests.core.test_render import loop

PROCESSOR = """
  const {prototype} = WebGL2RenderingContext, asked = prototype.getParameter, RENDERER = 0x9246
  prototype.getParameter = function(name) { return name === RENDERER ? "a processor" : asked.call(this, name) }"""
RING = "M300 360A340 340 0 0 1 980 360A340 340 0 0 1 300 360Z"


def lagoon() -> Scene:
    """Riders round a tilted ring with copies and a wake, a text, a masked floor, and a camera."""
    ring = Path("ring", "Ring", pathdata.subpaths(pathdata.runs(RING)), parent="pod")
    hole = Path(
        "hole", "Hole", pathdata.subpaths(pathdata.runs("M200 500L1080 500L1080 700L200 700Z"))
    )
    ride = replace(loop("ring", 48), facing=Facing("fixed"))
    lamp = Layer(
        "lamp",
        "Lamp",
        Shape("ellipse", 90, 120, "#f0a030", stroke="#ffffff", stroke_width=6),
        Transform(to_viewer=True),
        ride=replace(ride, copies=Copies(5)),
        parent="pod",
    )
    buoy = Layer(
        "buoy",
        "Buoy",
        Shape("star", 60, 60, "#e03020"),
        Transform((640, 300), z=40.0),
        ride=replace(ride, offset=30.0),
        wake=READY["bubbles"],
        parent="pod",
    )
    pod = Layer("pod", "Pod", Group((640, 360), by_depth=True), Transform((640, 420), tilt=70.0))
    word = Layer(
        "word", "Word", Text("Lagoon", size=90, colour="#ffffff"), Transform((640, 140), swing=35.0)
    )
    floor = Layer(
        "floor",
        "Floor",
        Shape("rectangle", 1400, 900, "#2060a0"),
        Transform((640, 620), tilt=75.0),
        mask=Mask((MaskPart("hole"),)),
    )
    cam = Layer("cam", "Camera", Camera(50.0), Transform((640, 360), tilt=8.0, swing=10.0))
    layers = (floor, buoy, lamp, pod, word, cam)
    return Scene(1280, 720, length=48, background="#183048", layers=layers, paths=(ring, hole))  # fmt: skip


@pytest.fixture(params=["px by px", "by the graphics library"])
def laid(request, browser) -> Iterator[str]:
    """How planes are laid on the stage: by the library as if it had a processor, or without it."""
    if request.param == "px by px":
        yield request.param
        return
    command = "Page.addScriptToEvaluateOnNewDocument", {"source": PROCESSOR}
    script = browser.execute_cdp_cmd(*command)
    yield request.param
    browser.execute_cdp_cmd("Page.removeScriptToEvaluateOnNewDocument", script)


def opened(browser, studio, scene: Scene) -> int:
    number = studio.opened(json.dumps(codec.to_data(scene)))
    open_editor(browser, studio.editor(number))
    return number


def test_on_the_stage_depth_is_as_the_renderer_draws_it(browser, studio, laid):
    number = opened(browser, studio, lagoon())
    for frame in (0, 17):
        go_to(browser, frame)
        shown = on_stage(browser)
        drawn = rendered(studio, number, frame, shown.shape[1])
        assert difference(shown, drawn) < 3.0, frame


def test_more_planes_than_are_laid_px_by_px_are_all_there_and_in_their_order(browser, studio):
    colours = ("#e0302040", "#30c06040", "#3060e040")
    panes = tuple(
        Layer(
            f"p{i}",
            f"P{i}",
            # What has a stroke is laid as px.
            Shape("rectangle", 1500, 1000, colours[i % 3], stroke="#ffffff", stroke_width=4),
            Transform((600 + 8 * i, 360), tilt=10.0 + 2 * i, swing=20.0 - 3 * i),
        )
        for i in range(14)
    )
    number = opened(browser, studio, Scene(1280, 720, background="#183048", layers=panes))
    shown = on_stage(browser)
    assert difference(shown, rendered(studio, number, 0, shown.shape[1])) < 1.5


def test_lines_on_paths_in_depth_are_on_the_stage_as_they_are_rendered(browser, studio):
    run = pathdata.subpaths(pathdata.runs("M200 500C400 100 800 100 1080 500"))[0]
    deep = replace(run, nodes=(run.nodes[0], replace(run.nodes[1], z=900.0)))
    path = Path("run", "Run", (deep,))
    lead = Layer("fish", "Fish", Shape("star", 60, 60, "#e03020"), ride=loop("run", 48))
    layers = (
        Layer("rail", "Rail", Line("run", "#ffffff", 10, dash=(40, 20))),
        Layer("trace", "Trace", Line("run", "#f0d030", 16, thin=(0.2, 1)), carrier=Carrier("fish")),
        lead,
    )
    value = Scene(1280, 720, length=48, background="#183048", layers=layers, paths=(path,))
    number = opened(browser, studio, value)
    for frame in (12, 30):
        go_to(browser, frame)
        shown = on_stage(browser)
        drawn = rendered(studio, number, frame, shown.shape[1])
        assert difference(shown, drawn) < 1.0, frame
        high = min(len(shown), len(drawn))
        yellow = [(each[:high, :, 0] > 200) & (each[:high, :, 2] < 120) for each in (shown, drawn)]
        assert yellow[1].sum() > 300
        assert (yellow[0] ^ yellow[1]).sum() < 0.2 * yellow[1].sum()


def test_light_of_a_colour_is_on_the_stage_as_it_is_rendered(browser, studio, laid):
    lamp = Layer("lamp", "Lamp", Light("#ff8040", ambient=0.2), Transform((640, 300), z=-500.0))
    white = Shape("rectangle", 260, 220, "#ffffff", stroke="#4080c0", stroke_width=20)
    pane = Shape("ellipse", 240, 240, "#80c0ff90")
    layers = (
        Layer("flat", "Flat", white, Transform((230, 200))),
        Layer("leaning", "Leaning", white, Transform((640, 200), swing=40.0, tilt=20.0)),
        Layer("glass", "Glass", pane, Transform((1040, 200))),
        Layer("faint", "Faint", white, Transform((230, 540), opacity=0.5)),
        Layer("shiny", "Shiny", pane, Transform((640, 540), tilt=10.0), shine=0.8),
        # Drawn apart: masked, blended, half seen through.
        Layer("cut", "Cut", pane, Transform((1040, 540)), mask=Mask((MaskPart("hole"),))),
        Layer("screen", "Screen", pane, Transform((640, 380)), blend="screen"),
        Layer("word", "Word", Text("Tide", size=90, colour="#ffffff"), Transform((640, 640))),
        lamp,
    )
    hole = pathdata.subpaths(pathdata.runs("M960 460L1240 460L1240 600L960 600Z"))
    paths = (Path("hole", "Hole", hole),)
    value = Scene(1280, 720, length=48, background="#183048", layers=layers, paths=paths)
    number = opened(browser, studio, value)
    shown = on_stage(browser)
    drawn = rendered(studio, number, 0, shown.shape[1])
    assert difference(shown, drawn) < 1.5
    scale = shown.shape[1] / 1280
    for layer in layers[:7]:
        x, y = (round(scale * each) for each in layer.transform.position)
        assert shown[y, x, :3].astype(int) == pytest.approx(drawn[y, x, :3].astype(int), abs=3)


def test_a_plane_that_is_seen_straight_for_a_moment_has_its_light(browser, studio, laid):
    lamp = Layer("lamp", "Lamp", Light(ambient=0.1), Transform((300, 360), z=-300.0))
    pane = Shape("rectangle", 260, 220, "#ffffff", stroke="#ffffff", stroke_width=2)
    leans = (Track("tilt", (Key("a", 0, 0.0), Key("b", 20, 40.0))),)
    layers = (Layer("far", "Far", pane, Transform((1000, 360), z=300.0), keys=leans), lamp)
    number = opened(browser, studio, Scene(1280, 720, background="#183048", layers=layers))
    shown = on_stage(browser)
    drawn = rendered(studio, number, 0, shown.shape[1])
    # White in itself: by the light that falls on it aslant it is grey.
    x, y = (round(each * shown.shape[1] / 1280) for each in (900, 360))
    assert 150 < drawn[y, x, 0] < 210
    assert int(shown[y, x, 0]) == pytest.approx(int(drawn[y, x, 0]), abs=3)
    assert difference(shown, drawn) < 1.0


def test_what_lies_in_depth_is_taken_hold_of_where_it_is_seen(browser, studio):
    pod = Layer("pod", "Pod", Group(), Transform((640, 420), tilt=50.0, swing=20.0))
    buoy = Layer(
        "buoy", "Buoy", Shape("rectangle", 120, 90, "#e03020"), Transform((-120, 90)), parent="pod"
    )
    number = opened(browser, studio, Scene(1280, 720, length=48, layers=(buoy, pod)))
    stage = Stage(browser)

    def seen(layer: str) -> tuple[float, float]:
        return places.spot_of(codec.from_data(studio.document(number)), layer, 0)

    start = seen("buoy")
    stage.drag(start, (start[0] + 160, start[1] - 90))
    until_done(browser)
    # The whole group goes along, as it is chosen first: by its anchor, in perspective.
    assert seen("buoy") == pytest.approx((start[0] + 160, start[1] - 90), abs=12)
    now = seen("buoy")
    stage.double_click(*now)
    wait(browser, lambda d: find(d, "#card [data-card]").get_attribute("data-id") == "buoy")
    stage.drag(now, (now[0] - 100, now[1] + 60))
    until_undo(browser, "Place Buoy")
    assert seen("buoy") == pytest.approx((now[0] - 100, now[1] + 60), abs=3)


def test_a_camera_is_added_tilted_and_keyed_in_the_card(browser, studio):
    number = opened(browser, studio, replace(lagoon(), layers=lagoon().layers[:-1]))
    before = on_stage(browser)
    find(browser, "#shelf [aria-label='Add a layer']").click()
    find(browser, "[data-add=camera]").click()
    until_done(browser)
    assert difference(before, on_stage(browser)) < 1.0
    tab(browser, "look")
    typed(find(browser, "#card [name=tilt]"), "25")
    until_undo(browser, "Place Camera")
    typed(find(browser, "#card [name=angle]"), "75")
    wait(browser, lambda _: studio.document(number)["layers"][-1]["content"]["angle"] == 75)
    assert difference(before, on_stage(browser)) > 3
    typed(find(browser, "#card [name=angle]"), "180")
    refused_at(browser, "#card [name=angle]", "is outside 1 to 170 °")
    assert studio.document(number)["layers"][-1]["content"]["angle"] == 75


def test_a_node_goes_into_depth_and_its_rider_goes_with_it(browser, studio):
    ring = Path("ring", "Ring", pathdata.subpaths(pathdata.runs(RING)))
    lamp = Layer(
        "lamp", "Lamp", Shape("ellipse", 90, 120, "#f0a030"), Transform(), loop("ring", 48)
    )
    number = opened(browser, studio, Scene(1280, 720, length=48, layers=(lamp,), paths=(ring,)))
    find(browser, "[data-choose='path:ring']").click()
    find(browser, "#card [data-card=path]")
    flat = find(browser, "[data-rail=ring] path").get_attribute("d")
    keys(browser, "]", "]")
    wait(browser, lambda d: "Node 2" in d.find_element(By.ID, "card").text)
    typed(find(browser, "#card [name=deep]"), "600")
    until_done(browser)
    wait(browser, lambda d: find(d, "[data-rail=ring] path").get_attribute("d") != flat)
    go_to(browser, 9)
    shown = on_stage(browser)
    assert difference(shown, rendered(studio, number, 9, shown.shape[1])) < 1.5
    find(browser, "#card [data-fields='deep=0']").click()
    wait(browser, lambda d: find(d, "[data-rail=ring] path").get_attribute("d") == flat)


def test_a_light_is_dragged_by_its_mark_and_a_layer_gets_brighter(browser, studio):
    sheet = Layer("sheet", "Sheet", Shape("rectangle", 300, 200, "#ffffff"), Transform((900, 360)))
    sun = Layer("sun", "Sun", Light(ambient=0.0, reach=900.0), Transform((300, 360), z=-200.0))
    number = opened(
        browser, studio, Scene(1280, 720, length=24, background="#102030", layers=(sheet, sun))
    )
    find(browser, "[data-layer=sun] [data-choose]").click()
    find(browser, "#card [data-id=sun]")
    before = on_stage(browser).mean()
    start = places.spot_of(codec.from_data(studio.document(number)), "sun", 0)
    Stage(browser).drag(start, (start[0] + 200, start[1]))
    until_undo(browser, "Place Sun")
    after = places.spot_of(codec.from_data(studio.document(number)), "sun", 0)
    assert after == pytest.approx((start[0] + 200, start[1]), abs=3)
    assert on_stage(browser).mean() > before + 1
