"""A long scene: the frames round the playhead are there at once, the others come behind."""

import pytest
from selenium.webdriver.common.by import By

from coaster.render.places import spot_of
from coaster.scene import codec
from tests.browser.driver import (
    Stage,
    find,
    frame,
    kept,
    open_editor,
    typed,
    until,
    wait,
)

LENGTH = 3_000


@pytest.fixture
def scene(studio, browser) -> int:
    copy = studio.copy_of(1)
    studio.post(f"/scenes/{copy}/edit", base="0", form="scene", frames=str(LENGTH))
    studio.post(f"/scenes/{copy}/edit", base="1", form="time", layer="manta", lasts_f=str(LENGTH))
    open_editor(browser, studio.editor(copy))
    return copy


def all_here(browser) -> None:
    wait(
        browser,
        lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-coming]"),
        "frames are missing",
    )


def go(browser, to: int) -> None:
    typed(find(browser, "#at"), f"{to} f")
    wait(browser, lambda d: frame(d) == to)


def dot(browser) -> tuple[float, float]:
    box = find(browser, ".rider-dot").rect
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def is_where_it_is(browser, studio, scene: int, at: int) -> None:
    value = codec.from_data(studio.document(scene))
    wanted = Stage(browser).at(*spot_of(value, "manta", at))
    wait(browser, lambda d: dot(d) == pytest.approx(wanted, abs=1.5), "the rider is elsewhere")


def test_every_frame_comes_and_says_where_the_rider_is(browser, studio, scene):
    is_where_it_is(browser, studio, scene, 0)
    all_here(browser)
    for at in (2_001, 777, LENGTH - 1):
        go(browser, at)
        is_where_it_is(browser, studio, scene, at)
    ties = find(browser, "#stage .ties").get_attribute("innerHTML")
    assert 200 < ties.count("M") / 2 < LENGTH / 2  # so many that they can be told apart


def test_an_edit_far_from_the_start_shows_there_at_once_and_then_everywhere(browser, studio, scene):
    all_here(browser)
    go(browser, 1_500)
    typed(find(browser, "#card [name=offset]"), "10")
    until(browser, lambda: studio.layer(scene, "manta")["ride"]["offset"] == 10)
    kept(browser)
    is_where_it_is(browser, studio, scene, 1_500)
    all_here(browser)
    go(browser, 300)
    is_where_it_is(browser, studio, scene, 300)
