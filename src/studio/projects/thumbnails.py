"""Small pictures of scenes, still and moving; made once for each revision and kept."""

import io
from pathlib import Path as File

import numpy as np
from PIL import Image

from coaster.export.drawers import painter_of
from coaster.media.pictures import straight_rgba
from coaster.render.raster import Painter
from studio.projects.models import Scene, scene_folder
from studio.projects.services import write_whole

WIDTH, MOST_FRAMES = 384, 36
STILL_AT = 0.4
"""The share of the scene that its still shows: things have usually come into view by then."""


def scene_file(scene: Scene, kind: str) -> File:
    """Return the file of a scene's ``still`` or ``moving`` picture as it is now.

    Errors: RenderError, MediaError: it cannot be drawn.
    """
    folder = scene_folder("thumbnails", scene.pk)
    file = folder / f"{scene.revision}-{kind}.webp"
    if not file.exists():
        write_whole(file, _still(scene) if kind == "still" else _moving(scene))
        for old in folder.glob(f"*-{kind}.webp"):
            if old != file:
                old.unlink(missing_ok=True)
    return file


def _painter(scene: Scene) -> Painter:
    value = scene.value()
    scale = min(WIDTH / value.width, WIDTH / value.height)
    return painter_of(value, scene.project.folder, scale)


def _still(scene: Scene) -> bytes:
    painter = _painter(scene)
    return _webp([straight_rgba(painter.picture(int(painter.program.length * STILL_AT)))], 0)


def _moving(scene: Scene) -> bytes:
    painter, value = _painter(scene), scene.value()
    count = min(MOST_FRAMES, value.length)
    frames = np.arange(count) * value.length // count
    pictures = [straight_rgba(painter.picture(int(frame))) for frame in frames]
    return _webp(pictures, round(1000 * value.seconds / count))


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
