"""A spot followed with the hand: boxed, followed both ways, set right where it was lost, made use of."""

import numpy as np
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.driver import (
    Stage,
    find,
    frame,
    kept,
    keys,
    open_editor,
    tab,
    typed,
    undone,
    until_done,
    wait,
)
from tests.core.moving import film
from tests.core.test_following import POSES, Made

BUOY = 5
POSE = POSES["slides"]
COUNT, GONE = 60, range(34, 40)


def drifting(number: int, size: tuple[int, int], alpha: int) -> np.ndarray:
    return Made(POSE, gone=0 if number in GONE else 10_000).pixels(number)


@pytest.fixture(scope="module")
def drift(tmp_path_factory):
    file = tmp_path_factory.mktemp("films") / "drift.mp4"
    return film(file, COUNT, size=(640, 360), options={"crf": "14"}, paint=drifting)


@pytest.fixture
def scene(studio, browser, drift) -> int:
    """The buoy's scene, 640 px square at 24 fps, with the film across its middle."""
    copy = studio.copy_of(BUOY)
    open_editor(browser, studio.editor(copy))
    browser.find_element(By.ID, "upload").send_keys(str(drift))
    until_done(browser)
    tab(browser, "look")
    return copy


def go_to(driver, at: int) -> None:
    typed(find(driver, "#at"), f"{at} f")
    wait(driver, lambda d: frame(d) == at)
    driver.execute_script("document.activeElement.blur()")


def words(driver) -> str:
    return driver.find_element(By.CSS_SELECTOR, "[data-follow-words]").text


def boxed(driver, at: int) -> None:
    """Drag a box round the disc where it is when the scene shows a frame of the film."""
    # Frames of the scene, of which there are 24 a second, show those of the film, of which 30.
    x, y, *_ = POSE(at)
    Stage(driver).drag((x - 28, y + 140 - 28), (x + 28, y + 140 + 28))


def test_it_is_lost_set_right_and_becomes_a_helper(browser, studio, scene):
    go_to(browser, 8)  # frame 10 of the film
    find(browser, "#card [data-do='tool-follow']").click()
    boxed(browser, 10)
    wait(browser, lambda d: words(d).startswith("Lost after"))
    assert "34 frames" in words(browser)
    go_to(browser, 36)  # frame 45 of the film
    boxed(browser, 45)
    wait(
        browser,
        lambda d: words(d).startswith("Lost after") is False and "Following" not in words(d),
    )
    assert words(browser).startswith("Followed through")
    find(browser, "[data-follow=helper]").click()
    wait(browser, lambda d: undone(d).startswith("A helper on the spot"))
    kept(browser)
    helper = studio.document(scene)["layers"][-1]
    x, y = ({key["time"]: key["value"] for key in track["keys"]} for track in helper["keys"])
    for at in (0, 8, 20):
        there = POSE(round(at * 30 / 24))
        assert abs(x[at] - there[0]) < 2.5
        assert abs(y[at] - there[1] - 140) < 2.5
    assert find(browser, "#shelf .chosen").text.startswith("Spot on drift")


def test_as_a_path_it_is_a_take_and_escape_leaves_nothing(browser, studio, scene):
    paths = len(studio.document(scene)["paths"])
    find(browser, "#card [data-do='tool-follow']").click()
    boxed(browser, 0)
    wait(browser, lambda d: words(d).startswith(("Lost", "Followed")))
    keys(browser, Keys.ESCAPE)
    wait(browser, lambda d: not d.find_element(By.ID, "follow").is_displayed())
    assert len(studio.document(scene)["paths"]) == paths
    go_to(browser, 0)
    find(browser, "#card [data-do='tool-follow']").click()
    boxed(browser, 0)
    wait(browser, lambda d: words(d).startswith(("Lost", "Followed")))
    find(browser, "[data-follow=take]").click()
    wait(browser, lambda d: "Spot on drift" in undone(d))
    kept(browser)
    made = studio.document(scene)["paths"][-1]
    assert (made["name"], made["drawn"]["start"]) == ("Spot on drift", 0.0)
