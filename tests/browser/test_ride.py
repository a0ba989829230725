"""On the demo: seeing a ride, changing it, and having it changed on disk."""

import json

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from coaster.scene import codec
from tests.browser.driver import (
    centre,
    chord,
    drag,
    find,
    frame,
    kept,
    keys,
    open_editor,
    refused_at,
    tab,
    typed,
    until_undo,
    wait,
)
from tests.browser.pictures import difference, on_stage, rendered

DRAWN = "return performance.getEntriesByName('stage-drawn').length"


@pytest.fixture
def scene(studio, browser) -> int:
    """A copy of the manta scene, open in the browser."""
    copy = studio.copy_of(1)
    open_editor(browser, studio.editor(copy))
    return copy


def test_the_manta_glides_with_its_ties_coloured_by_speed(browser, scene):
    ties = browser.find_elements(By.CSS_SELECTOR, ".tie")
    assert len({tie.get_attribute("stroke") for tie in ties}) >= 5
    bars = sum(tie.get_attribute("d").count("M") for tie in ties)
    assert bars == 241  # one a frame, the one on the seam included
    assert find(browser, "#seam").text == "Seam clean"
    assert find(browser, ".chevron").rect["width"] > 5
    before = browser.execute_script("return document.querySelector('#stage canvas').toDataURL()")
    keys(browser, Keys.SPACE)
    wait(browser, lambda d: frame(d) >= 12, "it does not play")
    keys(browser, Keys.SPACE)
    stopped = frame(browser)
    assert (
        browser.execute_script("return document.querySelector('#stage canvas').toDataURL()")
        != before
    )
    keys(browser, Keys.HOME)
    assert frame(browser) == 0
    keys(browser, Keys.ARROW_RIGHT)
    chord(browser, Keys.SHIFT, Keys.ARROW_RIGHT)
    assert frame(browser) == 11
    assert stopped != 11


def test_playing_comes_round_to_the_start(browser, scene):
    keys(browser, Keys.END)
    assert frame(browser) == 239
    keys(browser, Keys.SPACE)
    wait(browser, lambda d: 0 < frame(d) < 60, "it does not loop")
    keys(browser, Keys.SPACE)


def test_the_turn_is_seen_while_it_is_dragged_and_kept_when_let_go(browser, scene, studio):
    slider = find(browser, "input[type=range][name=turn]")
    x, y = centre(slider)
    drawn = browser.execute_script(DRAWN)
    actions = ActionChains(browser, duration=10)
    actions.w3c_actions.pointer_action.move_to_location(round(x), round(y)).pointer_down()
    actions.w3c_actions.pointer_action.move_to_location(round(x + 20), round(y))
    actions.perform()
    wait(browser, lambda d: d.execute_script(DRAWN) > drawn, "no picture while dragging")
    assert studio.layer(scene, "manta")["ride"]["facing"]["turn"] == 0
    ActionChains(browser).release().perform()
    kept(browser)
    turn = studio.layer(scene, "manta")["ride"]["facing"]["turn"]
    assert turn > 20
    assert float(find(browser, "input:not([type=range])[name=turn]").get_attribute("value")) == turn
    chord(browser, Keys.CONTROL, "z")
    wait(
        browser, lambda d: studio.layer(scene, "manta")["ride"]["facing"]["turn"] == 0, "not undone"
    )
    chord(browser, Keys.CONTROL, Keys.SHIFT, "z")
    wait(
        browser,
        lambda d: studio.layer(scene, "manta")["ride"]["facing"]["turn"] == turn,
        "not done again",
    )


@pytest.mark.parametrize(
    ("selector", "where", "value"),
    [
        ("input[name=mode][value=reversed]", ("facing", "mode"), "reversed"),
        ("input[name=flip_y]", ("facing", "flip_y"), True),
        ("input[name=keep_upright]", ("facing", "keep_upright"), True),
    ],
)
def test_facing_is_one_click(browser, scene, studio, selector, where, value):
    find(browser, selector).click()
    kept(browser)
    ride = studio.layer(scene, "manta")["ride"]
    assert ride[where[0]][where[1]] == value


def test_pace_duration_and_start_are_direct(browser, scene, studio):
    tab(browser, "pace")
    find(browser, "label:has(> input[name=pace][value=ease-in])").click()
    wait(
        browser,
        lambda d: d.find_element(By.ID, "undo").get_attribute("title") == "Undo: Pace of Manta",
    )
    leave = studio.layer(scene, "manta")["ride"]["pegs"][0]["leave"]
    assert (leave["time"], leave["distance"]) == (0.42, 0.0)
    tab(browser, "ride")
    lasts = find(browser, "input[name=lasts_s]")
    typed(lasts, "4")
    wait(browser, lambda d: find(d, "input[name=lasts_f]").get_attribute("value") == "120")
    assert [p["time"] for p in studio.layer(scene, "manta")["ride"]["pegs"]] == [0, 32, 60, 90, 120]
    bar = find(browser, ".bar.chosen")
    x, y = centre(bar)
    drag(browser, (x + 25, y), (x + 85, y))  # between two pegs
    wait(browser, lambda d: "Time of Manta" in find(d, "#undo").get_attribute("title"))
    kept(browser)
    start = studio.layer(scene, "manta")["ride"]["pegs"][0]["time"]
    assert start > 5
    assert find(browser, "input[name=start_f]").get_attribute("value") == f"{start:g}"


def test_a_number_that_is_none_gets_one_sentence_and_changes_nothing(browser, scene, studio):
    before = studio.document(scene)
    field = find(browser, "input[name=start_s]")
    typed(field, "soon")
    start = "input[name=start_s]"
    refused_at(browser, start, "Starts: “soon” is not a number.")
    assert studio.document(scene) == before
    assert find(browser, "#kept").text == "All kept"
    # What was typed is there to be mended, also after something else was done.
    find(browser, "input[name=keep_upright]").click()
    until_undo(browser, "Facing of Manta")
    kept(browser)
    assert find(browser, start).get_attribute("value") == "soon"
    find(browser, start).click()
    keys(browser, Keys.ESCAPE)
    wait(browser, lambda d: find(d, start).get_attribute("value") == "0")
    assert find(browser, start).get_attribute("aria-invalid") is None
    assert not find(browser, "#refusal").is_displayed()


def test_after_enter_the_keys_are_for_the_stage_and_a_slider_keeps_its_arrows(
    browser, scene, studio
):
    typed(find(browser, "input[name=turn][type=text], input[name=turn]:not([type=range])"), "15")
    until_undo(browser, "Facing of Manta")
    ActionChains(browser).send_keys(" ").perform()
    wait(browser, lambda d: find(d, "#play").get_attribute("aria-label") == "Pause")
    ActionChains(browser).send_keys(" ").perform()
    slider = find(browser, "input[type=range][name=turn]")
    slider.click()
    kept(browser)
    at = float(find(browser, "input[type=range][name=turn]").get_attribute("value"))
    ActionChains(browser).send_keys(Keys.ARROW_RIGHT).perform()
    kept(browser)
    wait(browser, lambda d: studio.layer(scene, "manta")["ride"]["facing"]["turn"] == at + 1)


def test_a_peg_is_put_in_only_when_asked_and_then_moved(browser, scene, studio):
    keys(browser, Keys.HOME)
    for _ in range(3):
        chord(browser, Keys.SHIFT, Keys.ARROW_RIGHT)
    assert frame(browser) == 30
    assert not find(browser, "[data-peg-number]").is_enabled()
    ties = [t.get_attribute("d") for t in browser.find_elements(By.CSS_SELECTOR, ".tie-under")]
    find(browser, "[data-peg-add]").click()
    wait(browser, lambda d: find(d, "[data-peg-number]").is_enabled(), "no peg")
    kept(browser)
    assert [p["time"] for p in studio.layer(scene, "manta")["ride"]["pegs"]] == [
        0,
        30,
        64,
        120,
        180,
        240,
    ]
    assert [
        t.get_attribute("d") for t in browser.find_elements(By.CSS_SELECTOR, ".tie-under")
    ] == ties
    typed(find(browser, "[data-peg-number]"), "20")
    kept(browser)
    wait(
        browser,
        lambda d: (
            studio.layer(scene, "manta")["ride"]["pegs"][1]["place"]
            == {
                "percent": 20,
                "on": "length",
            }
        ),
    )


def test_hiding_a_path_does_not_stop_its_riders(browser, scene, studio):
    find(browser, "[data-choose='path:reef-run']").click()
    tab(browser, "rail")
    find(browser, "#card [data-commands*='\"visible\"']").click()
    wait(browser, lambda d: "Show the rail" in find(d, "#card").text)
    keys(browser, Keys.ESCAPE)
    wait(
        browser,
        lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-rail]"),
        "the rail is still there",
    )
    assert studio.document(scene)["paths"][0]["visible"] is False
    before = browser.execute_script("return document.querySelector('#stage canvas').toDataURL()")
    keys(browser, Keys.HOME, Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
    assert (
        browser.execute_script("return document.querySelector('#stage canvas').toDataURL()")
        != before
    )


@pytest.mark.parametrize("number", [1, 2, 3, 4, 5])
def test_the_stage_shows_what_the_renderer_draws(browser, studio, number):
    open_editor(browser, studio.editor(number))
    document = codec.from_data(studio.document(number))
    at = document.length // 3
    browser.execute_script("document.querySelector('[data-go=start]').click()")
    browser.execute_script(
        "for (let i = 0; i < arguments[0]; i++) document.querySelector('[data-go=on]').click()", at
    )
    assert frame(browser) == at
    seen = on_stage(browser)
    assert difference(seen, rendered(studio, number, at, seen.shape[1])) < 3


def test_two_windows_never_lose_an_edit_silently(browser, scene, studio):
    """Another window edits meanwhile: other parts are rebased, the same part is refused
    with words.
    """

    def elsewhere(form: str, **fields: str) -> None:
        revision = json.loads(studio.get(f"/scenes/{scene}/revision"))["revision"]
        studio.post(f"/scenes/{scene}/edit", form=form, base=str(revision), layer="manta", **fields)

    elsewhere("pace", pace="ease-out")
    find(browser, "input[name=flip_x]").click()
    wait(browser, lambda d: studio.layer(scene, "manta")["ride"]["facing"]["flip_x"])
    assert studio.layer(scene, "manta")["ride"]["pegs"][0]["leave"]["time"] == 0
    kept(browser)
    wait(
        browser,
        lambda d: find(d, "input[name=pace][value=ease-out]").is_selected(),
        "the other edit is not shown",
    )
    elsewhere("facing", turn="33")
    find(browser, "input[name=keep_upright]").click()
    words = find(browser, ".toast.bad span").text
    assert "changed in another window" in words
    facing = studio.layer(scene, "manta")["ride"]["facing"]
    assert (facing["turn"], facing["keep_upright"]) == (33, False)
    wait(
        browser,
        lambda d: find(d, "input:not([type=range])[name=turn]").get_attribute("value") == "33",
    )


def test_a_peg_is_moved_in_time_and_told_how_fast_it_is_passed(browser, scene, studio):
    def pegs() -> list[dict]:
        return studio.layer(scene, "manta")["ride"]["pegs"]

    middle = pegs()[2]
    pill = find(browser, f".pill[data-of=manta][data-peg='{middle['id']}']")
    pill.click()
    find(browser, f"[data-peg-card='{middle['id']}']")
    x, y = centre(find(browser, ".pill.picked"))
    drag(browser, (x, y), (x + 30, y))
    wait(browser, lambda d: find(d, "#undo").get_attribute("title") == "Undo: Move 1 peg of Manta")
    kept(browser)
    moved = pegs()
    assert moved[2]["time"] > middle["time"]
    assert [p["time"] for i, p in enumerate(moved) if i != 2] == [0, 64, 180, 240]
    wait(
        browser,
        lambda d: find(d, "[name=time_f]").get_attribute("value") == f"{moved[2]['time']:g}",
    )
    typed(find(browser, "[name=leave]"), "320")
    wait(browser, lambda d: find(d, "#undo").get_attribute("title") == "Undo: Pace of Manta")
    kept(browser)
    wait(browser, lambda d: float(find(d, "[name=leave]").get_attribute("value")) == 320)
    typed(find(browser, "[name=leave]"), "99999")
    refused_at(browser, "[name=leave]", "run backwards")
    assert [p["time"] for p in pegs()] == [p["time"] for p in moved]
