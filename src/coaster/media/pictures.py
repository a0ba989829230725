"""Pictures as pixels: decoded from files, premultiplied for drawing, and written as PNG."""

import io
from pathlib import Path as File

import cv2
import numpy as np
import skia
from numpy.typing import NDArray
from PIL import Image

from coaster.errors import MediaError

Pixels = NDArray[np.uint8]
"""Rows of blue, green, red, alpha; premultiplied unless said otherwise: (height, width, 4)."""
Box = tuple[int, int, int, int]
"""Left, top, right, bottom in whole px; right and bottom are one past the last."""
PNG, EIGHT_BITS_RGBA = b"\x89PNG\r\n\x1a\n", b"\x08\x06"
"""How a PNG begins, and what its 25th and 26th bytes are. Source: PNG, 5.2 and 11.2.2."""


def load(file: File) -> Pixels:
    """Decode a picture that ``import_picture`` made or kept.

    Errors: MediaError: missing or broken.
    """
    try:
        quick = _decoded(file)
        if quick is not None:
            return quick
        with Image.open(file) as image:
            rgba = np.asarray(image if image.mode == "RGBA" else image.convert("RGBA"))
    except FileNotFoundError as error:
        raise MediaError(f"The picture {file.name} is not there.") from error
    except (OSError, ValueError, SyntaxError) as error:
        raise MediaError(f"The picture {file.name} is broken.") from error
    return premultiplied(rgba)


def _decoded(file: File) -> Pixels | None:
    """Return a PNG of straight RGBA of 8 bits as it is decoded in half the time; None where it is
    another picture, or broken, which the other way has the words for.
    """
    with file.open("rb") as opened:
        head = opened.read(26)
    if (head[:8], head[24:]) != (PNG, EIGHT_BITS_RGBA):
        return None
    found = cv2.imread(str(file), cv2.IMREAD_UNCHANGED)
    if found is None:
        return None
    bgra = np.asarray(found, np.uint8)
    premultiply(bgra)
    return bgra


def premultiplied(rgba: NDArray[np.uint8]) -> Pixels:
    bgra = np.asarray(cv2.cvtColor(rgba, cv2.COLOR_RGBA2BGRA), np.uint8)
    premultiply(bgra)
    return bgra


def premultiply(bgra: Pixels) -> None:
    """Multiply colours by their alpha, in place, rounded to the nearest level."""
    alpha = cv2.extractChannel(bgra, 3)
    if alpha.min(initial=255) < 255:
        # As blue, green and red the alpha, and as alpha 1.
        cv2.multiply(bgra, cv2.cvtColor(alpha, cv2.COLOR_GRAY2BGRA), dst=bgra, scale=1 / 255)


def straight_rgba(pixels: Pixels) -> NDArray[np.uint8]:
    """Return premultiplied BGRA as straight RGBA."""
    image = skia.Image.fromarray(
        pixels, skia.kBGRA_8888_ColorType, skia.kPremul_AlphaType, copy=True
    )
    out = image.toarray(colorType=skia.kRGBA_8888_ColorType)  # unpremultiplied
    return np.asarray(out, np.uint8)


def encoded_png(pixels: Pixels, *, alpha: bool = True) -> bytes:
    out = io.BytesIO()
    straight = straight_rgba(pixels)
    Image.fromarray(straight if alpha else np.ascontiguousarray(straight[..., :3])).save(out, "PNG")
    return out.getvalue()


def small_jpeg(pixels: Pixels, wide: int, *, rough: bool = False) -> bytes:
    """Return a frame up to so many px wide, what is see-through on black; a ``rough`` one takes a
    quarter of the time, and sees four px of the many for each that it has.
    """
    height, width = pixels.shape[:2]
    factor = min(1.0, wide / width)
    size = max(1, round(width * factor)), max(1, round(height * factor))
    way = cv2.INTER_LINEAR if rough else cv2.INTER_AREA
    # Without the alpha, which JPEG does not have.
    _, found = cv2.imencode(".jpg", cv2.resize(pixels, size, interpolation=way))
    return found.tobytes()
