"""Footage in the browser: brought in, scrubbed and played, cut in the strip, as the renderer has it."""

import zipfile

import numpy as np
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.driver import (
    chord,
    drag,
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
    until_undo,
    wait,
)
from tests.browser.pictures import on_stage, over_grey, rendered
from tests.core.moving import film, number_on, stills

BUOY, KELP = 5, 8


@pytest.fixture(scope="module")
def films(tmp_path_factory):
    folder = tmp_path_factory.mktemp("films")
    return film(folder / "numbers.mp4", 96, size=(640, 256), options={"g": "96"})


@pytest.fixture
def scene(studio, browser, films) -> int:
    """A copy of the buoy's scene, 640 px square at 24 fps, with footage that carries its numbers."""
    copy = studio.copy_of(BUOY)
    open_editor(browser, studio.editor(copy))
    browser.find_element(By.ID, "upload").send_keys(str(films))
    said(browser, "numbers.mp4 was added")
    kept(browser)
    tab(browser, "look")
    return copy


def number_at(driver) -> int:
    """Return the number on the footage, as the stage shows it: across the middle of the frame."""
    pixels = on_stage(driver)
    size = len(pixels)
    return number_on(pixels[round(size * 0.3) : round(size * 0.7)])


def go_to(driver, at: int) -> None:
    typed(find(driver, "#at"), f"{at} f")
    wait(driver, lambda d: frame(d) == at)


def shows(driver, number: int) -> None:
    wait(driver, lambda d: number_at(d) == number, f"frame {number} of the film is on the stage")


def film_of(studio, number: int) -> dict:
    return studio.document(number)["layers"][-1]["content"]


def test_every_frame_that_is_gone_to_is_the_one_on_the_stage(browser, scene):
    for at in (0, 1, 40, 7, 76, 16):
        go_to(browser, at)
        shows(browser, at * 30 // 24)
    # Held at its end, and the same after a reload.
    go_to(browser, 90)
    shows(browser, 95)
    browser.refresh()
    find(browser, ".film")
    shows(browser, 95)


def test_it_plays_and_the_picture_goes_on(browser, scene):
    shows(browser, 0)
    keys(browser, " ")
    seen = set[int]()

    def has_gone_on(driver) -> bool:
        seen.add(number_at(driver))
        return len(seen) > 4 and max(seen) > 30

    wait(browser, has_gone_on, "frames go by")
    keys(browser, " ")
    assert seen <= set(range(96))


def test_it_is_cut_slid_and_let_come_round_in_the_strip_and_the_card(browser, studio, scene):
    box = find(browser, ".film").rect
    fps = box["width"] / 76.8
    middle, edge = box["y"] + 12, box["x"] + box["width"]
    drag(browser, (box["x"] + 60, middle), (box["x"] + 60 + 12 * fps, middle))
    wait(browser, lambda d: film_of(studio, scene)["starts"] == 12)
    chord(browser, Keys.CONTROL, "z")
    wait(browser, lambda d: film_of(studio, scene)["starts"] == 0)
    drag(browser, (box["x"] + 3, middle), (box["x"] + 3 + 24 * fps, middle))
    wait(browser, lambda d: film_of(studio, scene)["begin"] == 1.0)
    assert film_of(studio, scene)["starts"] == 24
    go_to(browser, 32)
    shows(browser, 40)
    drag(browser, (edge - 3, middle), (edge - 3 - 28.8 * fps, middle))
    wait(browser, lambda d: film_of(studio, scene)["end"] == pytest.approx(2.0))
    find(
        browser, "input[name=after][value=repeat] + *, label:has(> input[name=after][value=repeat])"
    ).click()
    wait(browser, lambda d: film_of(studio, scene)["after"] == "repeat")
    go_to(browser, 56)
    shows(browser, 40)
    typed(find(browser, "[data-form=footage][name=lasts]"), "2")
    wait(browser, lambda d: film_of(studio, scene)["speed"] == pytest.approx(0.5))
    assert undone(browser) == "How numbers is played"


def test_bad_numbers_stay_in_their_fields_with_words(browser, scene):
    field = "[data-form=footage][name=begin]"
    typed(find(browser, field), "9")
    refused_at(browser, field, "lies within its 3.2 s")
    assert find(browser, field).get_attribute("value") == "9"


def off(seen, drawn) -> float:
    high = min(len(seen), len(drawn))  # half a px of height is one or none
    return float(np.abs(over_grey(seen[:high]) - over_grey(drawn[:high])).mean())


def test_the_stage_has_the_footage_as_the_renderer_has_it(browser, studio):
    number = studio.copy_of(KELP)
    open_editor(browser, studio.editor(number))
    for at in (0, 31, 130):
        go_to(browser, at)
        wide = on_stage(browser).shape[1]
        drawn, other = (rendered(studio, number, frame, wide) for frame in (at, at + 9))

        def alike(driver, drawn=drawn, other=other) -> bool:
            # At a third of its size, edges are softer on the stage; another frame is far off.
            return off(on_stage(driver), drawn) < min(2.5, off(on_stage(driver), other) / 2)

        wait(browser, alike, f"frame {at} is as the renderer has it")


def test_numbered_pictures_are_asked_about_and_become_a_film_or_layers(browser, studio, tmp_path):
    copy = studio.copy_of(BUOY)
    with zipfile.ZipFile(stills(tmp_path / "s.zip", list(range(8, 13)))) as archive:
        archive.extractall(tmp_path)
    files = "\n".join(str(file) for file in sorted(tmp_path.glob("*.png")))
    open_editor(browser, studio.editor(copy))
    before = len(studio.document(copy)["layers"])
    for use, more in (("footage", 1), ("layers", 6)):
        browser.find_element(By.ID, "upload").send_keys(files)
        wait(
            browser,
            lambda d: (
                "5 numbered pictures, tank_0008.png to tank_0012.png"
                in find(d, "#drawing[open]").text
            ),
        )
        find(browser, f"#drawing label:has(> [value={use}])").click()
        find(browser, "#drawing .strong").click()
        wait(browser, lambda d, more=more: len(studio.document(copy)["layers"]) == before + more)
        kept(browser)
    assert film_of(studio, copy)["type"] == "picture"


def test_it_is_deleted_and_brought_back(browser, studio, scene):
    find(browser, ".film").click()
    keys(browser, Keys.DELETE)
    until_undo(browser, "Delete numbers")
    wait(browser, lambda d: not d.find_elements(By.CSS_SELECTOR, ".film"))
    chord(browser, Keys.CONTROL, "z")
    find(browser, ".film")
    shows(browser, 0)


def test_how_much_of_a_file_is_sent_is_said_and_a_refusal_as_ever(studio, browser, tmp_path):
    large, not_one = tmp_path / "slow.mp4", tmp_path / "no-film.mp4"
    film(large, 40, size=(640, 256))
    # A box of free space at its end, as the format has it.
    large.write_bytes(large.read_bytes() + (400_000).to_bytes(4) + b"free" + bytes(399_992))
    not_one.write_bytes(bytes(range(256)) * 20)
    open_editor(browser, studio.editor(studio.copy_of(BUOY)))
    browser.execute_script("""
      const kept = document.getElementById("kept")
      window.heard = []
      new MutationObserver(() => window.heard.push(kept.textContent)).observe(kept, {childList: true})
    """)
    slow = {"offline": False, "latency": 5, "downloadThroughput": -1, "uploadThroughput": 2e5}
    browser.execute_cdp_cmd("Network.enable", {})
    browser.execute_cdp_cmd("Network.emulateNetworkConditions", slow)
    browser.find_element(By.ID, "upload").send_keys(str(large))
    said(browser, "slow.mp4 was added")
    kept(browser)
    heard = browser.execute_script("return window.heard")
    shares = [int(words.split()[1]) for words in heard if words.startswith("Sending")]
    assert shares == sorted(shares)
    assert len(set(shares)) > 2
    browser.find_element(By.ID, "upload").send_keys(str(not_one))
    said(browser, "no-film.mp4")
    kept(browser)
