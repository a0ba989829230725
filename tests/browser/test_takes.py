"""Recording a movement with the pointer, and smoothing it with sight."""

import math

import numpy as np
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from coaster.formats import takes as files
from coaster.geometry.nearest import nearest
from coaster.scene import codec
from tests.browser.driver import (
    Stage,
    centre,
    find,
    kept,
    keys,
    open_editor,
    refused_at,
    said,
    tab,
    typed,
    until_undo,
    wait,
)

SENT = """
window.sent = []
const stage = document.querySelector("#stage")
for (const kind of ["pointerdown", "pointerrawupdate", "pointermove", "pointerup"])
  stage.addEventListener(kind, e => window.sent.push([kind, e.timeStamp, e.clientX, e.clientY]), true)
"""


@pytest.fixture
def scene(studio, browser) -> int:
    copy = studio.copy_of(1)
    open_editor(browser, studio.editor(copy))
    return copy


def draw(browser, stage, places, *, drop=True) -> None:
    """Press at the first place, move over the others, one every 8 ms or as fast as it goes."""
    actions = ActionChains(browser, duration=8)
    pointer = actions.w3c_actions.pointer_action
    pointer.move_to_location(*stage.at(*places[0])).pointer_down()
    for place in places[1:]:
        pointer.move_to_location(*stage.at(*place))
    if drop:
        pointer.pointer_up()
    actions.perform()


WAVE = [(300 + 10 * i, 500 + 200 * math.sin(i / 20)) for i in range(120)]


def raw_of(studio, scene, path="take"):
    return files.read(studio.get(f"/scenes/{scene}/takes/{path}.csv").decode()).take()


def test_what_is_drawn_is_kept_as_it_was_sent_and_becomes_a_ride(browser, scene, studio):
    stage = Stage(browser)
    find(browser, "[data-choose='layer:title']").click()
    find(browser, "[data-card=layer][data-id=title]")
    keys(browser, "7")
    assert "Waits for you" in find(browser, "[data-hint-words]").text
    browser.execute_script(SENT)
    draw(browser, stage, WAVE)
    until_undo(browser, "Record a take")
    find(browser, "[data-card=path][data-id=take]")
    events = browser.execute_script("return window.sent")
    press = next(e for e in events if e[0] == "pointerdown")
    moves = {round(e[1] - press[1], 3): e[2:] for e in events}
    take = raw_of(studio, scene)
    value = codec.from_data(studio.document(scene))
    # Each stored sample is an event: its time, and its place through the stage's scale.
    stage_of = {t: (x, y) for t, (x, y) in moves.items()}
    x0, y0 = stage.at(0, 0)
    scale = value.width / find(browser, ".frame").rect["width"]
    told = 0
    for time, (x, y) in zip(take.times, take.places, strict=True):
        near = min(stage_of, key=lambda t: abs(t - time * 1000))
        assert abs(near - time * 1000) < 0.6
        cx, cy = stage_of[near]
        told += abs((cx - x0) * scale - x) < 3.5 and abs((cy - y0) * scale - y) < 3.5
    assert told >= 0.9 * len(take.times)
    # All that the window was sent until the hand let go, or the scene was over.
    assert len(take.times) >= 0.9 * len({t for t in moves if 0 <= t <= take.times[-1] * 1000})
    assert value.ride_of("title").path == "take"
    assert (
        nearest(value.path("take").segments(), take.places).distance.max()
        <= value.path("take").drawn.tolerance
    )
    assert value.ride_of("title").end == pytest.approx(take.duration * 30, abs=0.1)


def test_the_dial_is_seen_before_it_is_kept_and_the_raw_line_stays(browser, scene, studio):
    stage = Stage(browser)
    keys(browser, "7")
    draw(browser, stage, WAVE)
    until_undo(browser, "Record a take")
    find(browser, ".raw-line")
    find(browser, ".raw-words")
    before = wait(browser, lambda d: find(d, ".node").get_attribute("d").count("Z"))
    slider = find(browser, "input[type=range][name=tolerance]")
    x, y = centre(slider)
    fine = (x - 0.45 * slider.rect["width"], y)
    hand = ActionChains(browser, duration=10)
    pointer = hand.w3c_actions.pointer_action
    pointer.move_to_location(*map(round, (x, y))).pointer_down()
    pointer.move_to_location(*map(round, fine))
    hand.perform()
    wait(
        browser,
        lambda d: find(d, ".node").get_attribute("d").count("Z") > before,
        "the dial is not seen",
    )
    wait(browser, lambda d: "px off" in find(d, "[data-said=take]").text)
    nodes = len(codec.from_data(studio.document(scene)).path("take").nodes())
    ActionChains(browser).release().perform()
    until_undo(browser, "Smooth Take")
    assert len(codec.from_data(studio.document(scene)).path("take").nodes()) > nodes
    typed(find(browser, "#take-tolerance"), "0")
    refused_at(browser, "#take-tolerance", "outside 0.05")
    keys(browser, Keys.ESCAPE)
    ActionChains(browser).key_down("b").perform()
    assert "raw-alone" in find(browser, ".overlay").get_attribute("class")
    assert not find(browser, ".overlay .rails").is_displayed()
    ActionChains(browser).key_up("b").perform()
    assert "raw-alone" not in find(browser, ".overlay").get_attribute("class")


def test_escape_gives_up_the_take_under_way_and_nothing_that_was_finished(browser, scene, studio):
    stage = Stage(browser)
    find(browser, "[data-choose='layer:title']").click()
    find(browser, "[data-card=layer][data-id=title]")
    keys(browser, "7")
    draw(browser, stage, WAVE[:40])
    until_undo(browser, "Record a take")
    keys(browser, "7")
    draw(browser, stage, WAVE[30:70])
    until_undo(browser, "Record a take")
    find(browser, "[data-card=path][data-id=take-2]")
    keys(browser, "7")
    # So few that the scene is not over before, however slow the machine.
    draw(browser, stage, WAVE[40:44], drop=False)
    keys(browser, Keys.ESCAPE)
    ActionChains(browser).release().perform()
    said(browser, "given up")
    kept(browser)
    names = [p["name"] for p in studio.document(scene)["paths"]]
    assert names == ["Reef run", "Take", "Take 2"]
    # Recorded again it is for the same layer, and the first take is still there.
    assert studio.layer(scene, "title")["ride"]["path"] == "take-2"


def test_a_slow_recording_is_kept_at_its_true_speed_and_made_a_loop(browser, scene, studio):
    stage = Stage(browser)
    find(browser, "#rate [value='0.5']").click()
    keys(browser, "7")
    draw(browser, stage, WAVE)
    until_undo(browser, "Record a take")
    take = raw_of(studio, scene)
    wall = take.duration * 2
    assert wall > 0.8
    value = codec.from_data(studio.document(scene))
    assert value.path("take").drawn.close is False
    tab(browser, "take")
    find(browser, "label:has(> [name=close][data-form=take])").click()
    until_undo(browser, "Smooth Take")
    assert codec.from_data(studio.document(scene)).path("take").loops
    assert np.isfinite(take.places).all()
