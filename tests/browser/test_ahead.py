"""Playing a scene that is too slow to be drawn in time: frames are kept as they were drawn."""

import io
from base64 import b64decode
from collections.abc import Iterator

import numpy as np
import pytest
from PIL import Image
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.driver import chord, find, frame, kept, keys, open_editor, tab, typed, wait

PORTHOLE = 7
PLAYED = 8
"""So many frames are in the range that plays."""
THERE = "return Number(document.querySelector('.ahead').dataset.kept ?? 0)"
PICTURE = """
  const canvas = document.querySelector("#stage canvas"), number = document.querySelector(".ruler").ariaValueNow
  return [Number(number), canvas.toDataURL("image/png").split(",")[1]]"""


@pytest.fixture
def slow_scene(browser, studio) -> Iterator[int]:
    """A copy of a scene in a browser that is slowed down so far that it is drawn late, with a range
    that plays.
    """
    copy = studio.copy_of(PORTHOLE)
    open_editor(browser, studio.editor(copy))
    for place, key in (("0 f", "<"), (f"{PLAYED - 1} f", ">")):
        typed(find(browser, "#at"), place)
        keys(browser, key)
    slowed(browser, 12)
    yield copy
    slowed(browser, 1)


def slowed(browser, times: int) -> None:
    browser.execute_cdp_cmd("Emulation.setCPUThrottlingRate", {"rate": times})


def picture(browser) -> tuple[int, np.ndarray]:
    """Return which frame the stage shows, and what it shows of it."""
    number, png = browser.execute_script(PICTURE)
    with Image.open(io.BytesIO(b64decode(png))) as image:
        return number, np.asarray(image.convert("RGBA")).astype(int)


def test_a_slow_scene_is_kept_as_it_was_drawn_and_made_anew_where_it_changed(browser, slow_scene):
    keys(browser, Keys.SPACE)
    wait(browser, lambda d: d.execute_script(THERE) > 0, "nothing is kept of what is slow")
    keys(browser, Keys.SPACE)
    # What was not drawn in time is drawn while nothing is done.
    wait(browser, lambda d: d.execute_script(THERE) == PLAYED, "not all of the range is drawn")
    marks = browser.execute_script(
        "return [...document.querySelectorAll('.ahead i')].map(mark => mark.style.left)"
    )
    assert marks == ["0%"]
    # It plays from there, and what is seen is what is drawn of it when it stands.
    keys(browser, Keys.SPACE)
    wait(browser, lambda d: frame(d) > 3)
    number, seen = picture(browser)
    keys(browser, Keys.SPACE)
    typed(find(browser, "#at"), f"{number} f")
    wait(browser, lambda d: frame(d) == number)
    drawn = picture(browser)[1]
    inside = drawn[..., 3] == 255
    assert np.abs(seen - drawn)[inside].mean() < 4
    # All of it is there: the rest need not be waited for so long.
    slowed(browser, 1)
    # What changes nothing that is seen leaves all of it; a layer that is hidden does not.
    find(browser, "#shelf [data-choose^='layer:']").click()
    tab(browser, "look")
    wait(browser, lambda d: d.find_element(By.XPATH, "//button[normalize-space()='Lock']")).click()
    wait(browser, lambda d: d.find_elements(By.CSS_SELECTOR, "#shelf [title^='Locked']"))
    assert browser.execute_script(THERE) == PLAYED
    find(browser, "#shelf [title=Hide]").click()
    kept(browser)
    wait(browser, lambda d: d.execute_script(THERE) < PLAYED, "what changed is still there")
    chord(browser, Keys.CONTROL, "z")
    wait(browser, lambda d: d.execute_script(THERE) == PLAYED, "it is not drawn anew")
