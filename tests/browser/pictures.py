"""Pictures compared: what the stage shows, what the renderer draws, and SVG as the browser draws it."""

import io
from base64 import b64decode, b64encode

import numpy as np
from PIL import Image
from selenium.webdriver import Chrome

from coaster.export.drawers import painter_of
from coaster.media.pictures import straight_rgba
from coaster.scene import codec
from tests.browser.conftest import Studio

CANVAS = "return document.querySelector('#stage canvas').toDataURL('image/png').split(',')[1]"
PLACE = """
  const [frame, bench] = [".frame", "#stage"].map(s => document.querySelector(s).getBoundingClientRect())
  return [frame.x - bench.x, frame.y - bench.y, frame.width, frame.height].map(v => v * devicePixelRatio)"""
DRAW_SVG = """
  const [text, width, height, done] = arguments, image = new Image(), sheet = document.createElement("canvas")
  image.onload = () => {
    Object.assign(sheet, {width, height})
    sheet.getContext("2d").drawImage(image, 0, 0, width, height)
    done(sheet.toDataURL().split(",")[1])
  }
  image.onerror = () => done("")
  image.src = "data:image/svg+xml;base64," + text"""


def _pixels(png: str) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(b64decode(png))).convert("RGBA"))


def on_stage(browser: Chrome) -> np.ndarray:
    """Return what the stage shows of the frame."""
    left, top, width, height = browser.execute_script(PLACE)
    assert [left, top, width] == [round(left), round(top), round(width)]
    drawn = _pixels(browser.execute_script(CANVAS))
    return drawn[int(top) : int(top) + int(height), int(left) : int(left) + int(width)]


def rendered(studio: Studio, number: int, frame: int, width: int) -> np.ndarray:
    """Return what the renderer draws of a scene's frame, so wide."""
    document = codec.from_data(studio.document(number))
    pictures = studio.folder / "projects" / "1" / "assets"
    return straight_rgba(painter_of(document, pictures, width / document.width).picture(frame))


def as_svg(browser: Chrome, text: str, size: tuple[int, int]) -> np.ndarray:
    """Return an SVG file as the browser draws it."""
    found = browser.execute_async_script(DRAW_SVG, b64encode(text.encode()).decode(), *size)
    assert found, "the browser cannot read it"
    return _pixels(found)


def over_grey(rgba: np.ndarray) -> np.ndarray:
    alpha = rgba[..., 3:] / 255
    return rgba[..., :3] * alpha + 128 * (1 - alpha)


def difference(a: np.ndarray, b: np.ndarray) -> float:
    """Return the mean difference of two pictures, 0..255; the rows that only one has left out, as a
    renderer's height is even.
    """
    rows = min(len(a), len(b))
    assert abs(len(a) - len(b)) <= 1
    return float(np.abs(over_grey(a[:rows]) - over_grey(b[:rows])).mean())
