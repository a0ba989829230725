"""The strip: lanes, the graph, Pin, keys, and getting about in time."""

import numpy as np
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from coaster.motion.distance import Way, travelled
from coaster.render.evaluate import Evaluation
from coaster.scene import codec
from tests.browser.driver import (
    Stage,
    chord,
    drag,
    find,
    frame,
    kept,
    keys,
    open_editor,
    said,
    tab,
    typed,
    until_undo,
    wait,
)


@pytest.fixture
def scene(studio, browser) -> int:
    """A copy of the manta scene, open in the browser."""
    copy = studio.copy_of(1)
    open_editor(browser, studio.editor(copy))
    return copy


def title(browser) -> str:
    return find(browser, "#undo").get_attribute("title")


def pegs(studio, scene, layer="manta") -> list[dict]:
    return studio.layer(scene, layer)["ride"]["pegs"]


def marks(browser, selector: str) -> list[tuple[float, float]]:
    """The centres of marks in the graph, in px of the window, from left to right."""
    wait(browser, lambda d: d.find_elements(By.CSS_SELECTOR, selector), f"no {selector}")
    boxes = browser.execute_script(
        "return [...document.querySelectorAll(arguments[0])].map(e =>"
        " e.getBoundingClientRect().toJSON())",
        selector,
    )
    return sorted((b["x"] + b["width"] / 2, b["y"] + b["height"] / 2) for b in boxes)


def value_of(studio, scene):
    return codec.from_data(studio.document(scene))


def test_a_peg_is_lifted_in_the_graph_and_arrival_times_hold(browser, scene, studio):
    before = value_of(studio, scene)
    x, y = marks(browser, ".graph-pill")[2]
    drag(browser, (x, y), (x, y - 18))
    until_undo(browser, "Pace of Manta")
    kept(browser)
    after = value_of(studio, scene)
    old, new = (Way(v.path("reef-run"), v.ride_of("manta")) for v in (before, after))
    marked = [peg.time for peg in old.ride.pegs]
    np.testing.assert_allclose(travelled(new, marked)[0], travelled(old, marked)[0], atol=1e-6)
    assert travelled(new, [120.0])[1][0] > travelled(old, [120.0])[1][0] * 1.1
    # Both sides go along: no jump in speed there.
    low, high = travelled(new, [120 - 1e-6, 120 + 1e-6])[1]
    assert low == pytest.approx(high, rel=1e-3)
    assert find(browser, "[data-peg-card]")
    # With Alt, one side alone.
    x, y = marks(browser, ".graph-pill.picked")[0]
    ActionChains(browser).key_down(Keys.ALT).perform()
    drag(browser, (x + 2, y), (x + 2, y + 14))
    ActionChains(browser).key_up(Keys.ALT).perform()
    wait(browser, lambda d: len(marks(d, ".graph-pill.picked")) == 2, "the sides were not parted")


def test_the_words_of_a_limit_stay_in_the_graph(browser, scene, studio):
    for x, y in (marks(browser, ".graph-pill")[i] for i in (0, -1)):
        drag(browser, (x, y), (x, y - 3))
        find(browser, ".graph-limit-words")
        words, graph = (
            browser.execute_script(
                "return document.querySelector(arguments[0]).getBoundingClientRect().toJSON()", each
            )
            for each in (".graph-limit-words", "#time .graph")
        )
        assert graph["left"] <= words["left"]
        assert words["right"] <= graph["right"]


def test_the_limit_stops_the_hand(browser, scene, studio):
    x, y = marks(browser, ".graph-pill")[2]
    drag(browser, (x, y), (x, y - 3))
    find(browser, ".graph-limit-words")
    x, y = marks(browser, ".graph-pill.picked")[0]
    drag(browser, (x, y), (x, y - 300))
    kept(browser)
    way = Way(value_of(studio, scene).path("reef-run"), value_of(studio, scene).ride_of("manta"))
    assert np.all(travelled(way, np.linspace(0, 240, 500))[1] >= -1e-6)
    assert not browser.find_elements(By.CSS_SELECTOR, ".toast.bad")


def test_a_reach_is_pulled_and_a_speed_is_drawn(browser, scene, studio):
    x, y = marks(browser, ".graph-pill")[2]
    drag(browser, (x, y), (x, y), steps=1)
    knob = marks(browser, ".graph-knob")[1]
    before = pegs(studio, scene)[2]["leave"]["time"]
    drag(browser, knob, (knob[0] + 25, knob[1]))
    until_undo(browser, "Pace of Manta")
    kept(browser)
    assert pegs(studio, scene)[2]["leave"]["time"] > before + 0.1
    count = len(pegs(studio, scene))
    find(browser, "#draws").click()
    box = find(browser, "#time .graph").rect
    points = [
        (box["x"] + box["width"] * t, box["y"] + 50 - 30 * np.sin(t * 9))
        for t in np.linspace(0.05, 0.95, 24)
    ]
    actions = ActionChains(browser, duration=10)
    pointer = actions.w3c_actions.pointer_action
    pointer.move_to_location(*map(round, points[0])).pointer_down()
    for point in points[1:]:
        pointer.move_to_location(*map(round, point))
    pointer.pointer_up()
    actions.perform()
    until_undo(browser, "Draw the pace of Manta")
    kept(browser)
    drawn = pegs(studio, scene)
    assert len(drawn) > count
    assert {0, 64, 120, 180, 240} <= {peg["time"] for peg in drawn}
    said(browser, "arrival times held")


def test_pinned_here_and_then_there_a_layer_gets_a_path(browser, scene, studio):
    stage = Stage(browser)
    find(browser, "[data-choose='layer:title']").click()
    find(browser, "[data-card=layer][data-id=title]")
    keys(browser, "n")
    assert find(browser, "#pin").get_attribute("aria-pressed") == "true"
    assert "drag Feeding at two" in find(browser, "[data-pinned-words]").text
    x, y = studio.layer(scene, "title")["transform"]["position"]
    # By its very middle: there the last place it had lies, too, and it is not what is meant.
    stage.drag((x, y), (x + 100, y + 100))
    until_undo(browser, "Pin Feeding at two at 0.00 s")
    typed(find(browser, "#at"), "2")
    assert frame(browser) == 60
    stage.drag((x + 100, y + 100), (x + 380, y + 300))
    until_undo(browser, "Pin Feeding at two at 2.00 s")
    typed(find(browser, "#at"), "30f")
    wait(browser, lambda d: frame(d) == 30)
    find(browser, ".pill[data-of=title]")
    keys(browser, "n")
    kept(browser)
    value = value_of(studio, scene)
    ride = value.ride_of("title")
    assert [peg.time for peg in ride.pegs] == [0, 60]
    path = value.path(ride.path)
    np.testing.assert_allclose(
        [n.position for n in path.nodes()], [(x + 100, y + 100), (x + 380, y + 300)], atol=10
    )
    # Where it goes wrong it is dragged, at that time, and the path takes a node.
    keys(browser, "n")
    where = (
        Evaluation(value).motions[[m.id for m in value.layers].index("title")].travel.position[30]
    )
    stage.drag((where[0], where[1]), (where[0], where[1] - 150))
    until_undo(browser, "Pin Feeding at two at 1.00 s")
    kept(browser)
    value = value_of(studio, scene)
    assert len(value.path(ride.path).nodes()) == 3
    assert [peg.time for peg in value.ride_of("title").pegs] == [0, 30, 60]
    keys(browser, "n")
    # Outside that state nothing is recorded: it is shifted off its path, which says so.
    stage.drag((where[0] + 60, where[1] - 130), (where[0] + 200, where[1]))
    said(browser, "off Way of Feeding at two")
    kept(browser)
    after = value_of(studio, scene)
    assert (after.ride_of("title"), after.paths) == (value.ride_of("title"), value.paths)


def test_keys_are_put_in_moved_repeated_and_cleared(browser, scene, studio):
    find(browser, "[data-choose='layer:title']").click()
    find(browser, "[data-card=layer][data-id=title]")
    tab(browser, "look")

    def tracks() -> dict:
        return {t["property"]: t["keys"] for t in studio.layer(scene, "title")["keys"]}

    find(browser, ".keyed [data-key-of=y]").click()
    until_undo(browser, "Key of Y of Feeding at two")
    chord(browser, Keys.SHIFT, Keys.ARROW_RIGHT)
    find(browser, "[data-key-of=y].has:not(.here)")
    find(browser, "#pin").click()
    typed(find(browser, "[name=y][data-form=place]"), "300")
    until_undo(browser, "Keys of Feeding at two")
    typed(find(browser, "#at"), "20f")
    find(browser, "[data-key-of=y].has:not(.here)")
    typed(find(browser, "[name=y][data-form=place]"), "200")
    wait(browser, lambda d: len(tracks()["y"]) == 3)
    find(browser, "#pin").click()
    row = find(browser, ".lane.sub[data-property=y]")
    assert "3 keys" in row.text
    # A band over the lane takes all of them; they repeat, shorter and lower each time.
    box = row.rect
    drag(browser, (box["x"] + 160, box["y"] + 15), (box["x"] - 3, box["y"] + 2))
    wait(browser, lambda d: "3 keys picked" in find(d, "[data-picked-card]").text)
    for name, text in (("times", "4"), ("stretch", "80"), ("fade", "50")):
        field = find(browser, f"[data-picked-card] [name={name}]")
        field.clear()
        field.send_keys(text)
    find(browser, "[data-form=keys-repeat]").click()
    until_undo(browser, "Repeat 3 keys of Feeding at two")
    kept(browser)
    made = tracks()["y"]
    assert [round(k["value"]) for k in made[2::2]] == [200, 200, 200, 200]
    assert [round(k["value"]) for k in made[1::2]] == [300, 250, 225, 212]
    np.testing.assert_allclose([k["time"] for k in made[::2]], [0, 20, 36, 48.8, 59.04], atol=0.01)
    # The graph shows the curve; a key is dragged in it.
    dots = marks(browser, ".graph-key")
    assert len(dots) == 9
    drag(browser, dots[1], dots[1], steps=1)
    drag(browser, dots[1], (dots[1][0], dots[1][1] - 12))
    until_undo(browser, "Value of 1 key of Feeding at two")
    kept(browser)
    assert round(tracks()["y"][1]["value"]) != 300
    keys(browser, Keys.DELETE)
    until_undo(browser, "Delete 1 key of Feeding at two")
    hover = ActionChains(browser).move_to_element(find(browser, ".lane.sub[data-property=y]"))
    hover.perform()
    find(browser, ".track-clear[data-clear=y]").click()
    until_undo(browser, "Clear 8 keys of Y of Feeding at two")
    kept(browser)
    assert tracks() == {}


def test_the_playhead_goes_to_pegs_and_typed_times_and_a_range_plays(browser, scene):
    keys(browser, ".")
    assert frame(browser) == 64
    keys(browser, ".", ".", ",")
    assert frame(browser) == 120
    typed(find(browser, "#at"), "nonsense")
    assert "is no time" in find(browser, ".toast.bad span").text
    assert frame(browser) == 120
    typed(find(browser, "#at"), "1,5 s")
    assert frame(browser) == 45
    keys(browser, "<")
    typed(find(browser, "#at"), "52 f")
    keys(browser, ">")
    assert "1.50 to 1.77 s" in find(browser, "[data-range]").text
    keys(browser, Keys.SPACE)
    seen = {frame(browser) for _ in range(40)}
    keys(browser, Keys.SPACE)
    assert seen <= set(range(45, 53))
    assert len(seen) > 3


def test_time_is_zoomed_and_moved_along_and_fits_again(browser, scene):
    marks_before = len(browser.find_elements(By.CSS_SELECTOR, ".pill"))
    box = find(browser, "#time .graph").rect
    browser.execute_script(
        "document.querySelector('#time').dispatchEvent(new WheelEvent('wheel', {deltaY: -600,"
        " ctrlKey: true, clientX: arguments[0], bubbles: true, cancelable: true}))",
        box["x"] + box["width"] / 2,
    )
    wait(browser, lambda d: len(d.find_elements(By.CSS_SELECTOR, ".pill")) < marks_before)
    first = find(browser, ".ruler span").text
    browser.execute_script(
        "document.querySelector('#time').dispatchEvent(new WheelEvent('wheel', {deltaY: 300,"
        " shiftKey: true, bubbles: true, cancelable: true}))"
    )
    wait(browser, lambda d: find(d, ".ruler span").text != first)
    find(browser, "[data-do=fit-time]").click()
    wait(browser, lambda d: len(d.find_elements(By.CSS_SELECTOR, ".pill")) == marks_before)


def test_what_is_chosen_over_several_lanes_moves_and_is_staggered(browser, scene, studio):
    first, second = (
        find(browser, f".pill[data-of={name}][data-peg]") for name in ("manta", "pilot")
    )
    first.click()
    ActionChains(browser).key_down(Keys.SHIFT).click(second).key_up(Keys.SHIFT).perform()
    wait(browser, lambda d: len(d.find_elements(By.CSS_SELECTOR, ".pill.picked")) == 2)
    step = find(browser, "[data-picked-card] [name=step]")
    typed(step, "12")
    until_undo(browser, "Stagger 2 pegs")
    kept(browser)
    assert (pegs(studio, scene)[0]["time"], pegs(studio, scene, "pilot")[0]["time"]) == (0, 12)


def test_the_manta_looks_at_a_point_that_is_dragged(browser, scene, studio):
    stage = Stage(browser)
    find(browser, "label:has(> [name=mode][value=target])").click()
    until_undo(browser, "Facing of Manta")
    find(browser, ".spot")
    stage.drag((960, 540), (1500, 900))
    wait(
        browser,
        lambda d: np.allclose(
            studio.layer(scene, "manta")["ride"]["facing"]["spot"], (1500, 900), atol=15
        ),
    )
    value = value_of(studio, scene)
    rides = Evaluation(value).motions[[x.id for x in value.layers].index("manta")].travel
    spot = np.array(value.ride_of("manta").facing.spot)
    want = np.arctan2(*(spot - rides.position[30])[::-1])
    assert np.cos(rides.facing[30] - want) == pytest.approx(1, abs=1e-6)


def test_a_ride_is_kept_and_another_layer_takes_it(browser, scene, studio):
    tab(browser, "pace")
    find(browser, "[data-opens=library]").click()
    field = find(browser, "#library [name=title]")
    field.send_keys("Reef glide")
    find(browser, "#library form button").click()
    wait(browser, lambda d: "Reef glide" in find(d, "#library").text)
    find(browser, "#library [data-closes]:not(.tile)").click()
    find(browser, "[data-choose='layer:title']").click()
    find(browser, "[data-card=layer][data-id=title]")
    find(browser, "#card label:has(> [name=tab][value=ride])").click()
    wait(browser, lambda d: find(d, "[data-panel=ride] [data-opens=library]").is_displayed())
    find(browser, "[data-panel=ride] [data-opens=library]").click()
    wait(browser, lambda d: find(d, "#library .tile").is_displayed())
    find(browser, "#library .tile").click()
    until_undo(browser, "Put Feeding at two on Reef glide")
    kept(browser)
    assert studio.layer(scene, "title")["ride"] == studio.layer(scene, "manta")["ride"]


def test_a_pace_alone_is_given_to_another_rider(browser, scene, studio):
    before = studio.layer(scene, "pilot")["ride"]
    tab(browser, "pace")
    find(browser, "#card label:has(> [value=ease-in])").click()
    kept(browser)
    Select(find(browser, "#card select[name=only]")).select_by_visible_text("its pace")
    Select(find(browser, "#card select[data-form=ride-give]")).select_by_value("pilot")
    until_undo(browser, "Give the pace of Manta to Pilot fish")
    after = studio.layer(scene, "pilot")["ride"]
    changed = {field for field in after if after[field] != before.get(field)}
    assert changed == {"pegs"}


def test_a_ride_becomes_keys_of_x_and_y_and_a_path_again(browser, scene, studio):
    before = value_of(studio, scene)
    places = (
        Evaluation(before).motions[[x.id for x in before.layers].index("manta")].travel.position
    )
    tab(browser, "pace")
    find(browser, "[data-panel=pace] [data-form=bake]").click()
    until_undo(browser, "Turn the ride of Manta into keys of x and y")
    kept(browser)
    manta = studio.layer(scene, "manta")
    assert manta["ride"] is None
    assert {t["property"]: len(t["keys"]) for t in manta["keys"]} == {
        "x": 241,
        "y": 241,
        "turn": 241,
    }
    tab(browser, "look")
    find(browser, "[data-form=bake][data-fields='back=on']").click()
    until_undo(browser, "Fit a path to the keys of Manta")
    kept(browser)
    said(browser, "px from where it was")
    after = value_of(studio, scene)
    found = Evaluation(after).motions[[x.id for x in after.layers].index("manta")].travel.position
    assert np.hypot(*(found - places).T).max() <= 1.0
