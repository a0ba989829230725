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


def load(file: File) -> Pixels:
    """Decode a picture that ``import_picture`` made or kept.

    Errors: MediaError: missing or broken.
    """
    try:
        with Image.open(file) as image:
            rgba = np.asarray(image if image.mode == "RGBA" else image.convert("RGBA"))
    except FileNotFoundError as error:
        raise MediaError(f"The picture {file.name} is not there.") from error
    except (OSError, ValueError, SyntaxError) as error:
        raise MediaError(f"The picture {file.name} is broken.") from error
    return premultiplied(rgba)


def premultiplied(rgba: NDArray[np.uint8]) -> Pixels:
    bgra = np.asarray(cv2.cvtColor(rgba, cv2.COLOR_RGBA2BGRA), np.uint8)
    premultiply(bgra)
    return bgra


def premultiply(bgra: Pixels) -> None:
    """Multiply colours by their alpha, in place, rounded to the nearest level."""
    alpha = bgra[..., 3]
    if alpha.min(initial=255) < 255:
        factors = cv2.merge([alpha, alpha, alpha, np.full_like(alpha, 255)])
        cv2.multiply(bgra, factors, dst=bgra, scale=1 / 255)


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


def small_jpeg(pixels: Pixels, wide: int) -> bytes:
    """Return a frame up to so many px wide, what is see-through on black."""
    height, width = pixels.shape[:2]
    factor = min(1.0, wide / width)
    size = max(1, round(width * factor)), max(1, round(height * factor))
    fitting = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
    _, found = cv2.imencode(".jpg", fitting[..., :3])
    return found.tobytes()
