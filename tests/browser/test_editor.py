"""The editor under the hand: gestures, keys, what happens when the server is slow, gone or
restarted.
"""

import json
import random
import signal

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Studio
from tests.browser.driver import (
    centre,
    chord,
    chromium,
    drag,
    find,
    frame,
    kept,
    keys,
    open_editor,
    press,
    said,
    tab,
    typed,
    wait,
)


@pytest.fixture
def scene(studio, browser) -> int:
    copy = studio.copy_of(1)
    open_editor(browser, studio.editor(copy))
    return copy


def pegs(studio, scene) -> list[float]:
    return [p["time"] for p in studio.layer(scene, "manta")["ride"]["pegs"]]


def test_a_bars_ends_stretch_it_and_its_pegs_go_along(browser, scene, studio):
    box = find(browser, ".bar.chosen").rect
    right = (box["x"] + box["width"] - 3, box["y"] + 12)
    drag(browser, right, (right[0] - box["width"] / 2, right[1]))
    kept(browser)
    wait(
        browser,
        lambda d: pegs(studio, scene)[-1] == pytest.approx(120, abs=2),
        "the end did not move",
    )
    times = pegs(studio, scene)
    assert times[1:4] == pytest.approx([t * times[-1] / 240 for t in (64, 120, 180)])
    box = find(browser, ".bar.chosen").rect
    left = (box["x"] + 3, box["y"] + 12)
    drag(browser, left, (left[0] + 60, left[1]))
    wait(browser, lambda d: pegs(studio, scene)[0] > 10, "the start did not move")
    assert pegs(studio, scene)[-1] == times[-1]


def test_a_label_is_dragged_to_change_its_number_and_escape_puts_it_back(browser, scene, studio):
    label = centre(find(browser, "[data-scrubs=turn]"))
    field = find(browser, "input[name=turn][data-step]")
    press(browser, label, (label[0] + 30, label[1]), (label[0] + 60, label[1]))
    wait(browser, lambda d: field.get_attribute("value") == "30")
    keys(browser, Keys.ESCAPE)
    ActionChains(browser).release().perform()
    assert field.get_attribute("value") == "0"
    assert studio.layer(scene, "manta")["ride"]["facing"]["turn"] == 0
    drag(browser, label, (label[0] + 40, label[1]))
    wait(
        browser, lambda d: studio.layer(scene, "manta")["ride"]["facing"]["turn"] == 20, "not kept"
    )


def test_escape_in_the_middle_of_a_drag_puts_everything_back(browser, scene, studio):
    find(browser, "[data-choose='layer:title']").click()
    find(browser, "#card [data-id=title]")
    stage = find(browser, ".frame").rect
    x, y = stage["x"] + 0.12 * stage["width"], stage["y"] + 0.125 * stage["height"]
    before = browser.execute_script("return document.querySelector('#stage canvas').toDataURL()")
    press(browser, (x, y), (x + 20, y + 20), (x + 90, y + 80))
    wait(
        browser,
        lambda d: (
            d.execute_script("return document.querySelector('#stage canvas').toDataURL()") != before
        ),
    )
    keys(browser, Keys.ESCAPE)
    ActionChains(browser).release().perform()
    wait(
        browser,
        lambda d: (
            d.execute_script("return document.querySelector('#stage canvas').toDataURL()") == before
        ),
    )
    assert studio.layer(scene, "title")["transform"]["position"] == [96, 96]


def test_what_is_held_still_looks_as_it_does_when_it_is_let_go(browser, scene, studio):
    find(browser, "[data-choose='layer:title']").click()
    find(browser, "#card [data-id=title]")
    stage = find(browser, ".frame").rect
    x, y = stage["x"] + 0.12 * stage["width"], stage["y"] + 0.125 * stage["height"]
    way = (x, y), (x + 20, y + 20), (x + 90, y + 80)
    press(browser, *way)
    ActionChains(browser).release().perform()
    wait(browser, lambda d: studio.layer(scene, "title")["transform"]["position"] != [96, 96])
    kept(browser)
    code = "return document.querySelector('#stage canvas').toDataURL()"
    let_go = browser.execute_script(code)
    chord(browser, Keys.CONTROL, "z")
    wait(browser, lambda d: d.execute_script(code) != let_go)
    # Riders are scaled plainly while something is dragged, and well once it rests.
    press(browser, *way)
    wait(browser, lambda d: d.execute_script(code) == let_go, "it is drawn in another way")
    keys(browser, Keys.ESCAPE)
    ActionChains(browser).release().perform()


def test_a_rider_is_not_dragged_off_its_path_and_says_why(browser, scene, studio):
    before = studio.document(scene)
    chord(browser, Keys.SHIFT, Keys.ARROW_RIGHT)
    x, y = centre(find(browser, ".rider-dot"))
    drag(browser, (x, y), (x + 80, y + 40))
    said(browser, "rides Reef run; its place is set by the ride")
    assert studio.document(scene) == before


def test_at_most_one_look_ahead_is_under_way_and_the_newest_wins(browser, scene):
    """With a slow server, forty values of a slider make few requests, and the last value is
    shown.
    """
    browser.execute_script("""
      window.asked = []; window.under = 0; window.most = 0
      const real = window.fetch
      window.fetch = async (address, options) => {
        if (!String(address).endsWith("preview")) return real(address, options)
        window.asked.push(options.body.get("turn")); window.under++
        window.most = Math.max(window.most, window.under)
        await new Promise(r => setTimeout(r, 120))
        try { return await real(address, options) } finally { window.under-- }
      }
      const slider = document.querySelector("input[type=range][name=turn]")
      for (let turn = 1; turn <= 40; turn++) {
        slider.value = String(turn)
        slider.dispatchEvent(new Event("input", {bubbles: true}))
      }""")
    wait(
        browser,
        lambda d: d.execute_script("return window.asked.at(-1) === '40' && window.under === 0"),
    )
    asked, most = browser.execute_script("return [window.asked, window.most]")
    assert most == 1
    assert len(asked) <= 3


def test_what_is_being_typed_is_not_overwritten_by_an_answer(browser, scene):
    name = find(browser, "#card input[name=title]")
    name.send_keys(Keys.CONTROL + "a" + Keys.NULL, "Half a na")
    browser.execute_script("document.querySelector('input[name=flip_y]').click()")
    kept(browser)
    wait(
        browser,
        lambda d: d.find_element(By.ID, "undo").get_attribute("title") == "Undo: Facing of Manta",
    )
    name = find(browser, "#card input[name=title]")
    wait(browser, lambda d: name.get_attribute("value") == "Half a na")
    name.send_keys("me", Keys.ENTER)
    wait(browser, lambda d: "Half a name" in find(d, "[data-layer=manta]").text)


def test_space_plays_even_after_a_button_was_clicked(browser, scene, studio):
    tab(browser, "pace")
    find(browser, "label:has(> input[name=pace][value=ease-out])").click()
    kept(browser)
    keys(browser, Keys.SPACE)
    wait(browser, lambda d: frame(d) > 3, "it does not play")
    keys(browser, Keys.SPACE)
    find(browser, "#loop").click()
    keys(browser, Keys.SPACE)
    assert find(browser, "#loop").get_attribute("aria-pressed") == "false"
    keys(browser, Keys.END)
    wait(browser, lambda d: frame(d) == 239)


def test_without_loop_playing_ends_on_the_last_frame(browser, scene):
    keys(browser, "l", Keys.END)
    for _ in range(2):
        chord(browser, Keys.SHIFT, Keys.ARROW_LEFT)
    keys(browser, Keys.SPACE)
    wait(browser, lambda d: d.find_element(By.ID, "play").get_attribute("aria-label") == "Play")
    assert frame(browser) == 239


def test_the_scenes_size_length_and_name_are_changed_in_its_card(browser, scene, studio):
    find(browser, "#scene-name").click()
    typed(find(browser, "#card input[name=seconds]"), "4")
    wait(browser, lambda d: find(d, "[data-length]").text == "120")
    assert studio.document(scene)["length"] == 120
    assert pegs(studio, scene)[-1] == 120  # what filled the scene fills it still
    typed(find(browser, "[data-rename-scene]"), "Reef, shorter")
    wait(browser, lambda d: find(d, "#scene-name").text == "Reef, shorter")
    assert "Reef, shorter" in browser.title


def test_deleting_a_path_keeps_its_riders_where_they_are(browser, scene, studio):
    find(browser, "[data-choose='path:reef-run']").click()
    find(browser, "#card [data-card=path]")
    keys(browser, Keys.DELETE)
    wait(
        browser,
        lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-path]"),
        "the path is still there",
    )
    manta = studio.layer(scene, "manta")
    assert manta["ride"] is None
    assert manta["transform"]["position"] == pytest.approx([250, 640], abs=0.01)
    find(browser, "#undo").click()
    wait(browser, lambda d: studio.layer(scene, "manta")["ride"])


def test_scenes_are_renamed_copied_deleted_and_brought_back_on_the_page(browser, studio):
    copy = studio.copy_of(5)
    browser.get(studio.address)
    card = f"//a[@href='/scenes/{copy}/']/.."
    menu = lambda: browser.find_element(By.XPATH, f"{card}//button[@data-menu]").click()  # noqa: E731

    def deleted() -> None:
        menu()
        browser.find_element(By.XPATH, f"{card}//form[contains(@action, 'delete')]/button").click()
        # The next address would cut off what is still being asked of the studio.
        wait(browser, lambda d: "Small buoy was deleted." in find(d, ".toast").text)

    menu()
    browser.find_element(By.XPATH, f"{card}//button[@data-ask='rename']").click()
    typed(find(browser, "#rename input[name=name]"), "Small buoy")
    wait(browser, lambda d: "Small buoy" in d.find_element(By.XPATH, card).text)
    picture = browser.find_element(By.XPATH, f"{card}//img")
    ActionChains(browser).move_to_element(picture).perform()
    wait(
        browser,
        lambda d: "/moving/" in picture.get_attribute("src"),
        "it does not move under the pointer",
    )
    deleted()
    assert copy not in studio.scene_ids()
    find(browser, ".toast button").click()
    wait(browser, lambda d: d.find_elements(By.XPATH, card), "it is not back")
    # The words are gone after a reload; the bin is not.
    deleted()
    browser.get(studio.address)
    browser.find_element(By.LINK_TEXT, "Bin").click()
    find(browser, "[aria-label='Put back Small buoy']").click()
    wait(browser, lambda d: d.find_elements(By.XPATH, card), "it is not put back")
    deleted()
    browser.get(f"{studio.address}/bin")
    find(browser, "[aria-label='Erase Small buoy']").click()
    assert "gone for good" in find(browser, "#erase p").text
    find(browser, "#erase .strong").click()
    assert "Small buoy is gone for good." in find(browser, ".toast").text
    assert copy not in studio.scene_ids()


def test_a_server_that_is_gone_loses_no_kept_edit_and_undo_outlives_a_restart(tmp_path):
    """The server is killed under an open editor; started again it has all edits, and undoes
    them.
    """
    first = Studio(tmp_path)
    with chromium() as browser:
        open_editor(browser, first.editor(1))
        find(browser, "input[name=flip_x]").click()
        kept(browser)
        wait(browser, lambda d: d.find_element(By.ID, "undo").is_enabled())
        first.process.send_signal(signal.SIGKILL)
        first.process.wait(10)
        wait(
            browser,
            lambda d: refused(d, first.address),
            "the server outlives the program that started it",
        )
        # What is done meanwhile waits in the window, and is sent in order once the server is there.
        find(browser, "input[name=flip_y]").click()
        wait(browser, lambda d: find(d, "#kept").text == "Waiting for the studio…")
        browser.execute_script("document.querySelector('input[name=keep_upright]').click()")
        second = Studio(tmp_path, int(first.address.rpartition(":")[2]))
        try:
            assert second.address == first.address
            kept(browser)
            facing = second.layer(1, "manta")["ride"]["facing"]
            assert [facing[name] for name in ("flip_x", "flip_y", "keep_upright")] == [True] * 3
            revision = json.loads(second.get("/scenes/1/revision"))["revision"]
            assert revision == 3
            for _ in range(3):
                second.post("/scenes/1/undo", base=str(revision))
            assert second.layer(1, "manta")["ride"]["facing"]["flip_x"] is False
        finally:
            second.stop()


def refused(driver, address: str) -> bool:
    """Whether nobody answers there any more."""
    code = (
        "fetch(arguments[0], {mode: 'no-cors'}).then(() => arguments[1](false), () =>"
        " arguments[1](true))"
    )
    return driver.execute_async_script(code, address + "/static/none")


@pytest.mark.parametrize("seed", [1, 2])
def test_whatever_is_done_can_be_undone_all_the_way(browser, studio, seed):
    """A run of clicks, drags and keys by chance; then undo, until there is nothing left to undo."""
    copy = studio.copy_of(4)
    before = studio.document(copy)
    open_editor(browser, studio.editor(copy))
    chance = random.Random(seed)
    for _ in range(25):
        act(browser, chance)
        kept(browser)
    assert not browser.find_elements(By.CSS_SELECTOR, "dialog[open]")
    changed = studio.document(copy) != before
    while browser.find_element(By.ID, "undo").is_enabled():
        title = browser.find_element(By.ID, "undo").get_attribute("title")
        number = revision(studio, copy)
        browser.find_element(By.ID, "undo").click()
        wait(browser, lambda d, n=number: revision(studio, copy) > n, f"{title} was not undone")
        kept(browser)
    assert changed
    assert studio.document(copy) == before


def revision(studio, scene) -> int:
    return json.loads(studio.get(f"/scenes/{scene}/revision"))["revision"]


def box_of(driver, selector: str) -> dict:
    """Where an element is, asked in one go."""
    return driver.execute_script(
        "return document.querySelector(arguments[0]).getBoundingClientRect().toJSON()", selector
    )


def act(driver, chance: random.Random) -> None:
    """Do one thing that a person might do without looking."""
    gestures = ["choose", "control", "drag", "stage", "key", "hide"]
    gesture = chance.choice(gestures)
    if gesture == "key":
        keys(driver, chance.choice([Keys.ARROW_RIGHT, Keys.HOME, Keys.END, "l", "3", Keys.ESCAPE]))
        return
    if gesture == "stage":
        box = box_of(driver, ".frame")
        start = (
            box["x"] + chance.uniform(0.1, 0.9) * box["width"],
            box["y"] + chance.uniform(0.1, 0.8) * box["height"],
        )
        drag(
            driver,
            start,
            (start[0] + chance.uniform(-60, 60), start[1] + chance.uniform(-40, 40)),
            steps=3,
        )
        return
    if gesture == "drag" and driver.find_elements(By.CSS_SELECTOR, ".bar"):
        box = box_of(driver, ".bar")
        start = (box["x"] + chance.choice([3, box["width"] / 2, box["width"] - 3]), box["y"] + 12)
        drag(driver, start, (start[0] + chance.uniform(-90, 90), start[1]), steps=3)
        return
    selector = {"choose": "#shelf [data-choose]", "hide": "#shelf [data-commands]"}.get(
        gesture, "#card label:has([type=radio][data-form], [type=checkbox][data-form])"
    )
    # In one go, as what is found may be put in afresh a moment later.
    driver.execute_script(
        "const found = [...document.querySelectorAll(arguments[0])].filter(e => e.offsetParent);"
        "found[Math.floor(arguments[1] * found.length)]?.click()",
        selector, chance.random(),
    )  # fmt: skip
