"""Paths on the stage: drawing them, shaping them while they are ridden, and nothing lost by
accident.
"""

import re

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.actions.wheel_input import ScrollOrigin
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.driver import (
    Stage,
    centre,
    chord,
    find,
    frame,
    kept,
    keys,
    open_editor,
    said,
    tab,
    typed,
    undone,
    until,
    until_undo,
    wait,
)

RUN = "reef-run"


@pytest.fixture
def scene(studio, browser) -> int:
    """A copy of the manta scene, open in the browser, its path chosen."""
    copy = studio.copy_of(1)
    open_editor(browser, studio.editor(copy))
    find(browser, f"[data-choose='path:{RUN}']").click()
    find(browser, f"[data-card=path][data-id={RUN}]")
    return copy


@pytest.fixture
def stage(browser, scene) -> Stage:
    return Stage(browser)


@pytest.fixture
def path(studio, scene):
    def read(name: str = RUN) -> dict:
        return next(p for p in studio.document(scene)["paths"] if p["id"] == name)

    return read


def nodes(path: dict) -> list[dict]:
    return [node for run in path["subpaths"] for node in run["nodes"]]


def place(path: dict, node: str) -> tuple[float, float]:
    return tuple(next(n["position"] for n in nodes(path) if n["id"] == node))


def chosen_nodes(browser) -> int:
    """Return how many nodes the card is about."""
    words = browser.execute_script(
        "return document.querySelector('[data-panel=nodes] h3')?.textContent ?? ''"
    )
    return (
        1
        if words.startswith("Node ")
        else int(re.match(r"(\d+) nodes", words).group(1))
        if words
        else 0
    )


def test_a_path_is_drawn_taken_back_and_closed(browser, studio, scene, stage, path):
    before = studio.document(scene)
    keys(browser, "s", "2")
    assert "Click for a corner" in find(browser, "[data-hint]").text
    stage.click(200, 950)
    stage.drag((500, 900), (600, 850))
    until_undo(browser, "Add Path")
    stage.click(900, 980)
    until_undo(browser, "Draw on Path")
    stage.click(1000, 700)
    until(browser, lambda: len(nodes(path("path"))) == 4)
    keys(browser, Keys.BACKSPACE)
    until(browser, lambda: len(nodes(path("path"))) == 3, "not taken back")
    stage.click(200, 950)
    until_undo(browser, "Close Path")
    drawn = path("path")
    assert drawn["subpaths"][0]["closed"]
    assert [n["kind"] for n in nodes(drawn)] == ["corner", "even", "corner"]
    for node, wanted in zip(nodes(drawn), [(200, 950), (500, 900), (900, 980)], strict=True):
        assert node["position"] == pytest.approx(wanted, abs=1 / stage.scale)
    assert nodes(drawn)[1]["handle_out"] == pytest.approx((100, -50), abs=2 / stage.scale)
    said(browser, "Path is closed")
    svg = studio.get(f"/scenes/{scene}/paths/path.svg").decode()
    assert re.search(r' d="M[\d.]+ [\d.]+C[^CLZ]+C[^CLZ]+L?[^Z]*Z"', svg)
    while undone(browser) != "Nothing to undo":
        chord(browser, Keys.CONTROL, "z")
        kept(browser)
    after = studio.document(scene)
    assert after == before


def test_a_click_makes_a_corner_wherever_it_is_drawn_to(browser, stage, path):
    """Neither snapping nor a stage that moves under the pointer pulls a handle out."""
    keys(browser, "2")
    slack = 4.5 / stage.scale
    stage.click(640 + slack, 360 + slack)
    stage.drag((900, 950), drop=False)
    lower = "document.querySelector('.frame').parentElement.style.marginTop = '40px'"
    browser.execute_script(lower + "; window.dispatchEvent(new Event('resize'))")
    ActionChains(browser).release().perform()
    until_undo(browser, "Add Path")
    drawn = nodes(path("path"))
    assert drawn[0]["position"] == pytest.approx((640, 360))
    assert [n["kind"] for n in drawn] == ["corner", "corner"]


def test_an_open_drawing_ends_on_purpose_and_is_gone_on_with(browser, stage, path):
    keys(browser, "s", "2")
    stage.click(200, 950)
    keys(browser, Keys.ENTER)
    said(browser, "A path needs two nodes")
    keys(browser, "2")
    stage.click(300, 950)
    stage.click(500, 950, Keys.SHIFT)
    until_undo(browser, "Add Path")
    keys(browser, Keys.ESCAPE)
    stage.click(300, 950)
    stage.click(150, 800)
    until_undo(browser, "Draw on Path")
    find(browser, "[data-done]").click()
    drawn = path("path")
    assert not drawn["subpaths"][0]["closed"]
    assert [round(n["position"][0], -1) for n in nodes(drawn)] == [150, 300, 500]
    assert nodes(drawn)[1]["position"][1] == nodes(drawn)[2]["position"][1]
    assert find(browser, "[data-tool=pick]").get_attribute("aria-pressed") == "true"


def ties_of(browser) -> str:
    return browser.execute_script("return document.querySelector('.ties').innerHTML")


def test_riders_follow_a_node_that_is_dragged_and_escape_puts_it_back(
    browser, studio, scene, stage, path
):
    before = studio.document(scene)
    x, y = place(path(), "n3")
    ties = ties_of(browser)
    keys(browser, Keys.SPACE)
    keys(browser, "s")
    stage.drag((x, y), (x + 60, y + 90), drop=False)
    wait(
        browser,
        lambda d: ties_of(d) != ties,
    )
    at = frame(browser)
    wait(browser, lambda d: frame(d) != at, "it does not play on")
    keys(browser, Keys.ESCAPE)
    ActionChains(browser).release().perform()
    wait(
        browser,
        lambda d: ties_of(d) == ties,
    )
    assert studio.document(scene) == before
    keys(browser, Keys.SPACE)
    stage.drag((x, y), (x + 60, y + 90))
    until_undo(browser, "Move a node of Reef run")
    assert place(path(), "n3") == pytest.approx((x + 60, y + 90), abs=1.5 / stage.scale)
    assert chosen_nodes(browser) == 1
    shown = [
        float(find(browser, f"[name={axis}][data-form=node-move]").get_attribute("value"))
        for axis in "xy"
    ]
    assert shown == pytest.approx(place(path(), "n3"), abs=0.01)
    chord(browser, Keys.CONTROL, "z")
    until(browser, lambda: studio.document(scene) == before)


def test_nodes_by_keyboard_alone(browser, scene, path):
    before = path()
    keys(browser, "]")
    wait(browser, lambda d: chosen_nodes(d) == 1)
    keys(browser, Keys.ARROW_RIGHT)
    chord(browser, Keys.SHIFT, Keys.ARROW_DOWN)
    chord(browser, Keys.ALT, Keys.ARROW_RIGHT)
    kept(browser)
    x, y = place(before, "n1")
    until(browser, lambda: place(path(), "n1") == pytest.approx((x + 1.1, y + 10)))
    keys(browser, "]", "]")
    wait(browser, lambda d: find(d, "[data-panel=nodes] h3").text == "Node 3 of 9")
    keys(browser, "j")
    wait(browser, lambda d: frame(d) > 20, "the playhead does not jump")
    keys(browser, Keys.DELETE)
    until_undo(browser, "Delete 1 node of Reef run")
    assert len(nodes(path())) == 8
    chord(browser, Keys.CONTROL, "a")
    wait(browser, lambda d: chosen_nodes(d) == 8)
    keys(browser, Keys.DELETE)
    assert "delete the whole path instead" in find(browser, ".toast.bad span").text
    assert len(nodes(path())) == 8
    find(browser, ".toast.bad button").click()
    keys(browser, Keys.ESCAPE)
    wait(browser, lambda d: chosen_nodes(d) == 0)


def test_the_curve_takes_nodes_and_nodes_change_their_kind(browser, stage, path):
    x, y = place(path(), "n3")
    stage.double_click(x, y)
    until(browser, lambda: nodes(path())[2]["kind"] == "corner")
    assert nodes(path())[2]["handle_in"] == [0, 0]
    stage.double_click(x, y)
    until(browser, lambda: nodes(path())[2]["kind"] == "smooth")
    stage.click(x, y, button=2)
    find(browser, "#stage-menu [data-do=even]").click()
    until(browser, lambda: nodes(path())[2]["kind"] == "even")
    kept(browser)
    find(browser, "input[name=percent][data-form=node-insert]").send_keys("12.5", Keys.ENTER)
    until(browser, lambda: len(nodes(path())) == 10)
    ride = find(browser, "[data-tab][value=nodes]")
    assert ride.is_selected()
    handle = find(browser, "[name=angle][data-fields='side=out']")
    typed(handle, "90")
    until_undo(browser, "Shape Reef run")
    made = next(n for n in nodes(path()) if n["id"] == "n10")
    assert made["handle_out"][0] == pytest.approx(0, abs=1e-6)
    assert made["handle_in"][1] < 0


def test_a_handle_keeps_to_its_fellow_until_it_is_parted(browser, stage, path):
    x, y = place(path(), "n3")
    stage.click(x, y)
    wait(browser, lambda d: chosen_nodes(d) == 1)
    node = nodes(path())[2]
    hx, hy = x + node["handle_out"][0], y + node["handle_out"][1]
    stage.drag((hx, hy), (hx + 80, hy + 30))
    until_undo(browser, "Shape Reef run")
    moved = nodes(path())[2]
    assert moved["handle_in"] == pytest.approx([-v for v in moved["handle_out"]])
    hx, hy = x + moved["handle_out"][0], y + moved["handle_out"][1]
    stage.drag((hx, hy), (hx - 90, hy + 60), held=(Keys.ALT,))
    until(browser, lambda: nodes(path())[2]["kind"] == "corner")
    assert nodes(path())[2]["handle_in"] == pytest.approx(moved["handle_in"])


def test_a_band_takes_nodes_and_the_frame_scales_them(browser, stage, path):
    find(browser, "[data-do=fit]")
    keys(browser, "-", "-")
    stage.drag((1300, -60), (1900, 900))
    wait(browser, lambda d: chosen_nodes(d) >= 2)
    count = chosen_nodes(browser)
    assert count < 9
    keys(browser, Keys.ESCAPE)
    wait(browser, lambda d: chosen_nodes(d) == 0)
    xs, ys = zip(*[n["position"] for n in nodes(path())], strict=True)
    knobs = browser.execute_script(
        "return document.querySelector('.span.under').getBoundingClientRect().toJSON()"
    )
    corner = (knobs["right"], knobs["bottom"])
    actions = ActionChains(browser, duration=10)
    actions.w3c_actions.pointer_action.move_to_location(*map(round, corner)).pointer_down()
    for i in range(1, 6):
        actions.w3c_actions.pointer_action.move_to_location(
            round(corner[0] - 12 * i), round(corner[1] - 8 * i)
        )
    actions.w3c_actions.pointer_action.pointer_up()
    actions.perform()
    until_undo(browser, "Transform Reef run")
    now_x, now_y = zip(*[n["position"] for n in nodes(path())], strict=True)
    assert max(now_x) - min(now_x) < max(xs) - min(xs) - 50
    assert max(now_y) - min(now_y) < max(ys) - min(ys) - 30
    chord(browser, Keys.CONTROL, "z")
    kept(browser)


def test_figures_are_dragged_out(browser, stage, path):
    find(browser, "[aria-label='Which figure']").click()
    find(browser, "[data-figure=star]").click()
    stage.drag((200, 700), (500, 850), held=(Keys.SHIFT,))
    until_undo(browser, "Add Star")
    kept(browser)
    made = path("star")
    xs, ys = zip(*[n["position"] for n in nodes(made)], strict=True)
    assert len(xs) == 10
    assert max(ys) - min(ys) == pytest.approx(300 * (1 + 0.809) / 2, abs=4 / stage.scale)
    assert find(browser, "[data-card=path]").get_attribute("data-id") == "star"


def test_what_happens_by_accident_changes_nothing(browser, studio, scene, stage, path):
    before = studio.document(scene)
    x, y = place(path(), "n3")
    stage.click(300, 1000)
    stage.double_click(250, 1020)
    stage.drag((x, y), (x + 200, y + 40), button=2)
    keys(browser, Keys.ESCAPE)
    stage.drag((x, y), (x + 300, y + 40), drop=False)
    browser.execute_script("window.dispatchEvent(new Event('blur'))")
    ActionChains(browser).release().perform()
    assert studio.document(scene) == before
    assert find(browser, "[data-card]").get_attribute("data-id") == RUN


def test_what_is_dragged_snaps_unless_ctrl_is_held(browser, stage, path):
    x, y = place(path(), "n3")
    near = (960 + 4 / stage.scale, 700.0)
    stage.drag((x, y), near, drop=False)
    wait(browser, lambda d: d.find_elements(By.CSS_SELECTOR, ".guide"), "no guide is shown")
    ActionChains(browser).release().perform()
    until_undo(browser, "Move a node of Reef run")
    assert place(path(), "n3")[0] == 960
    assert not browser.find_elements(By.CSS_SELECTOR, ".guide")
    stage.drag((960, place(path(), "n3")[1]), (near[0] + 100, 690))
    kept(browser)
    now = place(path(), "n3")
    stage.drag(now, (960 + 3 / stage.scale, now[1] + 10), held=(Keys.CONTROL,))
    until(browser, lambda: place(path(), "n3") != now)
    assert place(path(), "n3")[0] != 960


def test_zoom_keeps_what_is_under_the_pointer(browser, stage, path):
    x, y = place(path(), "n3")
    was, scale = stage.at(x, y), stage.scale
    ActionChains(browser).scroll_from_origin(ScrollOrigin.from_viewport(*was), 0, -400).perform()
    wait(browser, lambda _: stage.scale > scale * 1.5)
    assert stage.at(x, y) == pytest.approx(was, abs=2)
    stage.drag((x, y), (x + 100, y + 50), button=1)
    assert stage.at(x, y) != pytest.approx(was, abs=5)
    keys(browser, "0")
    wait(browser, lambda _: stage.scale == pytest.approx(1, abs=0.01))
    keys(browser, "g")
    wait(browser, lambda _: stage.scale < 0.8)
    keys(browser, "f")
    wait(browser, lambda _: stage.scale == pytest.approx(scale, abs=0.01))
    keys(browser, "q")
    wait(browser, lambda d: not d.find_elements(By.CSS_SELECTOR, ".rail, .node"))
    keys(browser, "q")
    wait(browser, lambda d: d.find_elements(By.CSS_SELECTOR, ".rail"))


def test_a_locked_path_says_why_it_does_not_move(browser, studio, scene, stage, path):
    find(browser, "[aria-label='Lock Reef run']").click()
    until_undo(browser, "Lock or unlock Reef run")
    before = studio.document(scene)
    x, y = place(path(), "n3")
    stage.drag((x, y), (x + 50, y + 50))
    said(browser, "is locked")
    assert studio.document(scene) == before


def test_path_data_goes_out_and_in_as_text(browser, scene, path):
    tab(browser, "rail")
    find(browser, "[data-opens=data][hx-get*=reef-run]").click()
    field = find(browser, "#data textarea")
    wait(browser, lambda _: field.get_attribute("value").startswith("M"))
    field.clear()
    field.send_keys("M100 100L300 x")
    find(browser, "#data button.strong").click()
    wait(browser, lambda d: "character 14" in find(d, "#data .words").text)
    field.clear()
    field.send_keys("M100 100L300 100L300 300")
    find(browser, "#data button.strong").click()
    until_undo(browser, "Path data of Reef run")
    assert [n["position"] for n in nodes(path())] == [[100, 100], [300, 100], [300, 300]]


def test_a_finger_moves_a_node_and_two_move_the_view(browser, stage, path):
    x, y = place(path(), "n3")

    def touch(kind: str, *points: tuple[float, float]) -> None:
        places = [{"x": px, "y": py, "id": i} for i, (px, py) in enumerate(points)]
        browser.execute_cdp_cmd("Input.dispatchTouchEvent", {"type": kind, "touchPoints": places})

    sx, sy = stage.at(x, y)
    touch("touchStart", (sx, sy))
    for i in range(1, 6):
        touch("touchMove", (sx + 8 * i, sy + 9 * i))
    touch("touchEnd")
    until_undo(browser, "Move a node of Reef run")
    assert place(path(), "n3") == pytest.approx(
        (x + 40 / stage.scale, y + 45 / stage.scale), abs=8 / stage.scale
    )
    scale = stage.scale
    cx, cy = centre(find(browser, "#stage"))
    touch("touchStart", (cx - 50, cy), (cx + 50, cy))
    for i in range(1, 6):
        touch("touchMove", (cx - 50 - 10 * i, cy), (cx + 50 + 10 * i, cy))
    touch("touchEnd")
    wait(browser, lambda _: stage.scale > scale * 1.5)
    assert undone(browser) == "Move a node of Reef run"
