"""Small pictures of scenes, still and moving."""

import io
from collections.abc import Sequence
from pathlib import Path as File

import numpy as np
from PIL import Image

from coaster.export.drawers import painter_of
from coaster.media.pictures import encoded_png, straight_rgba
from coaster.render.raster import Painter
from coaster.scene.document import Scene

WIDTH, MOST_FRAMES = 384, 36
STILL_AT = 0.4
"""The share of the scene that its still shows: things have usually come into view by then."""


def still(scene: Scene, folder: File) -> bytes:
    """Return a scene whose files are in a folder as a small picture, WebP.

    Errors: RenderError, MediaError: it cannot be drawn.
    """
    painter = _painter(scene, folder)
    return _webp([straight_rgba(painter.picture(int(scene.length * STILL_AT)))], 0)


def stills(scenes: Sequence[Scene], folder: File) -> list[bytes]:
    """Return the stills of several scenes; errors as ``still``."""
    return [still(scene, folder) for scene in scenes]


def moving(scene: Scene, folder: File) -> bytes:
    """Return it as a small moving picture; errors as ``still``."""
    painter, count = _painter(scene, folder), min(MOST_FRAMES, scene.length)
    frames = np.arange(count) * scene.length // count
    pictures = [straight_rgba(painter.picture(int(frame))) for frame in frames]
    return _webp(pictures, round(1000 * scene.seconds / count))


def frame(scene: Scene, folder: File, number: int) -> bytes:
    """Return one frame in its own size, PNG; errors as ``still``."""
    picture = painter_of(scene, folder).picture(number)
    return encoded_png(picture, alpha=scene.background is None)


def _painter(scene: Scene, folder: File) -> Painter:
    return painter_of(scene, folder, min(WIDTH / scene.width, WIDTH / scene.height))


def _webp(pictures: list[np.ndarray], milliseconds: int) -> bytes:
    first, *rest = [Image.fromarray(p) for p in pictures]
    out = io.BytesIO()
    if rest:
        first.save(
            out,
            "WEBP",
            save_all=True,
            append_images=rest,
            duration=milliseconds,
            loop=0,
            quality=70,
            method=2,
        )
    else:
        first.save(out, "WEBP", quality=80)
    return out.getvalue()
