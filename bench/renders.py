"""What renders cost beside H.264: GIF, motion blur, parts that are joined, the first picture."""

import tempfile
from collections.abc import Iterator
from functools import partial
from pathlib import Path as File

import numpy as np
from PIL import Image

from bench.core import keeper
from bench.measure import Report, timed
from coaster.export.chunks import Watch
from coaster.export.drawers import Drawers, painter_of
from coaster.export.orders import Choices, order_for
from coaster.export.render import render
from coaster.media.writers import KINDS
from coaster.scene.document import Scene
from studio.demo import scenes as demo

GIF_FRAMES, EVERY = 60, 6


def renders() -> list[Report]:
    with tempfile.TemporaryDirectory(prefix="coaster-bench-") as name:
        folder = File(name)
        keep = keeper(folder)
        scene = demo.manta_loop(keep)
        return [_gif(scene, folder), _blur(_drawn(keep), folder), _parts(scene, folder)]


def _gif(scene: Scene, folder: File) -> Report:
    """60 frames of the manta scene, 640 x 360."""
    choices, out = Choices("gif", high=360, last=GIF_FRAMES), folder / "out.gif"
    order = choices.order(scene)
    wall = min(timed(lambda: render(scene, folder, out, order))[0] for _ in range(3))
    painter, errors = painter_of(scene, folder, order.scale), []
    with Image.open(out) as image:
        lasts = 0
        for index in range(image.n_frames):
            image.seek(index)
            lasts += image.info["duration"]
            drawn = painter.picture(index)[..., [2, 1, 0]].astype(float)
            errors.append(((np.asarray(image.convert("RGB")) - drawn) ** 2).mean())
    figures = {
        "whole render, wall s": wall,
        "signal to noise, dB": float(10 * np.log10(255**2 / np.mean(errors))),
        "lasts, s, of 2": lasts / 1000,
        "size, MB": out.stat().st_size / 1e6,
    }
    return Report("A GIF, 640 x 360, 60 frames", figures, "2 s; 32 dB; exact in sum")


def _drawn(keep: demo.Keep) -> Iterator[tuple[str, Scene]]:
    for make in (demo.manta_loop, demo.jellies, demo.swell, demo.map_round, demo.buoy):
        yield make.__name__.replace("_", " "), make(keep)
    yield "porthole", demo.porthole()


def _blur(scenes: Iterator[tuple[str, Scene]], folder: File) -> Report:
    """Draw CPU with a shutter open for 180 degrees, against none."""
    figures, sums = {}, np.zeros(2)
    for name, scene in scenes:
        costs = np.array([_draw_cpu(scene, folder, shutter) for shutter in (0.0, 180.0)])
        figures[f"{name}, times"] = float(costs[1] / costs[0])
        sums += costs
    figures["all of them, times"] = float(sums[1] / sums[0])
    return Report("Motion blur of 180°, draw CPU", figures, "4 times none on the demo")


def _draw_cpu(scene: Scene, folder: File, shutter: float) -> float:
    order = order_for(scene, shutter=shutter)
    with Drawers(scene, folder, plan=order.plan(scene), workers=0) as drawers:
        frames = order.frames()[::EVERY]
        list(drawers.frames(frames[:1]))
        return min(timed(lambda: list(drawers.frames(frames)))[1] for _ in range(2))


def _parts(scene: Scene, folder: File) -> Report:
    """The manta scene twice round in parts that are joined, against at once."""
    order, kind = order_for(scene, loops=2), KINDS["mp4"]
    whole, out = folder / "whole.mp4", folder / "joined.mp4"
    at_once, joined, began = [], [], []
    for index in range(3):
        parts = folder / f"parts{index}"
        at_once.append(timed(partial(render, scene, folder, whole, order, kind=kind))[0])
        in_parts = partial(render, scene, folder, out, order, kind=kind, parts=parts)
        joined.append(timed(in_parts)[0])
        began.append(timed(lambda: _first_frame(scene, folder))[0])
    figures = {
        "joined / at once, wall": float(np.median(np.array(joined) / at_once)),
        "joined / at once, size": out.stat().st_size / whole.stat().st_size,
        "the first frame is there after, s": float(np.median(began)),
    }
    return Report("Parts that outlive a kill, joined", figures, "as fast as at once; 1 s")


class _EnoughError(Exception):
    """The first frame was seen."""


def _first_frame(scene: Scene, folder: File) -> None:
    def seen(jpeg: bytes) -> None:
        raise _EnoughError

    try:
        render(scene, folder, folder / "first.mp4", order_for(scene), watch=Watch(seen=seen))
    except _EnoughError:
        return
