"""Files of vectors that move by themselves: each frame as the browser plays it, against the renderer."""

import io
from pathlib import Path as File

import numpy as np
import pytest
from PIL import Image
from selenium.webdriver.support.ui import Select

from coaster.export import vector
from coaster.export.drawers import painter_of
from coaster.export.orders import Choices
from coaster.export.render import render
from coaster.media.pictures import straight_rgba
from coaster.media.writers import KINDS
from coaster.scene import codec
from tests.browser.driver import find, keys, open_editor, wait
from tests.browser.pictures import difference, over_grey
from tests.browser.test_looks import resize

SHOWN_AT = """
  const drawing = document.querySelector("svg")
  drawing.style.background = "#808080"
  drawing.pauseAnimations()
  drawing.setCurrentTime(arguments[0])"""


def played(browser, seconds: float, size: tuple[int, int]) -> np.ndarray:
    """Return what the window shows of a file that moves, so many seconds from its start."""
    browser.execute_script(SHOWN_AT, seconds)
    with Image.open(io.BytesIO(browser.get_screenshot_as_png())) as image:
        return np.asarray(image.convert("RGBA"))[: size[1], : size[0]]


@pytest.fixture
def window(browser):
    yield lambda size: resize(browser, *size)
    resize(browser, 1280, 800)


@pytest.mark.parametrize("number", range(1, 10))
def test_each_frame_of_a_scene_that_moves_by_itself_is_the_renderers(
    browser, studio, window, tmp_path, number
):
    scene = codec.from_data(studio.document(number))
    folder = studio.folder / "projects" / "1" / "assets"
    out, size = tmp_path / "scene.svg", (scene.width, scene.height)
    render(scene, folder, out, Choices("svg").order(scene), kind=KINDS["svg"])
    window(size)
    browser.get(out.as_uri())
    painter = painter_of(scene, folder)
    # Footage stands still there, which is said.
    frames = [0] if vector.left_out(scene) else [0, scene.length // 3, scene.length - 1]
    for frame in frames:
        # In the middle of a frame it is on its way to the next one, at its start it is there.
        shown = played(browser, frame / scene.fps + 1e-6, size)
        drawn = straight_rgba(painter.picture(frame))
        assert difference(shown, drawn) < 0.5
        off = np.abs(over_grey(shown) - over_grey(drawn)).max(axis=2)
        assert np.mean(off > 40) < 0.001


def test_a_scene_is_rendered_to_svg_and_to_a_page(browser, studio, tmp_path):
    copy = studio.copy_of(1)
    open_editor(browser, studio.editor(copy))
    keys(browser, "r")
    Select(find(browser, "#renders select[name=format]")).select_by_value("svg")
    wait(browser, lambda d: "sharp at any size" in find(d, "#renders").text, "nothing is foreseen")
    find(browser, "#renders[open] form .button.strong").click()
    seen = find(browser, "#renders [data-state=done] img")
    wait(browser, lambda d: seen.get_property("naturalWidth") == 1920, "the picture is not shown")
    made = next((studio.folder / "renders" / str(copy)).glob("*.svg"))
    page = tmp_path / "page.html"
    scene = codec.from_data(studio.document(copy))
    folder = studio.folder / "projects" / "1" / "assets"
    render(scene, folder, page, Choices("html").order(scene), kind=KINDS["html"])
    assert made.read_text().strip() in page.read_text()
    browser.get(File(page).as_uri())
    box = find(browser, "svg").rect
    assert (box["x"], box["y"], box["width"]) == (0, 0, 1280)
