"""What renders cost beside H.264: GIF, motion blur, chunks side by side, SVG, the first picture."""

import os
import re
import tempfile
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path as File

import numpy as np
from PIL import Image

from bench.core import demo_scenes, draw_those, keeper, side_by_side
from bench.measure import Report, timed, undisturbed
from coaster.edits import series
from coaster.export.chunks import Watch
from coaster.export.drawers import Drawers, painter_of, planned
from coaster.export.orders import Choices, order_for
from coaster.export.render import Film, render, render_several
from coaster.formats import pathdata
from coaster.geometry.path import Path
from coaster.media.writers import KINDS
from coaster.motion import easing
from coaster.motion.ride import Ride
from coaster.motion.sampling import simple_pegs
from coaster.scene.contents import Shape, Text
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.fields import SceneField
from studio.demo import scenes as demo

GIF_FRAMES, EVERY, ROUNDS, COUNT = 60, 6, 4, 50_000_000
FILMS, SHORT = 60, 36
ROUND = "M60 180C60 60 580 60 580 180S60 300 60 180Z"


def renders() -> list[Report]:
    with tempfile.TemporaryDirectory(prefix="coaster-bench-") as name:
        folder = File(name)
        keep = keeper(folder)
        scene = demo.manta_loop(keep)
        return [
            _gif(scene, folder),
            _blur(demo_scenes(keep), folder),
            _side_by_side(scene, folder),
            _moving(demo_scenes(keep), folder),
            _series(folder),
        ]


def _series(folder: File) -> Report:
    """60 films of 36 frames against one of the same frames, 640 x 360: frames a second."""
    kind, walls = KINDS["mp4"], np.zeros(2)
    short, long = _board(), _board(FILMS)
    films = [
        Film(value, Choices().order(value), folder / f"{i}.mp4")
        for i, value in enumerate(series.filled(short, {"Title": f"Day {i}"}) for i in range(FILMS))
    ]
    order = Choices().order(long)
    works = (
        partial(render, long, folder, folder / "long.mp4", order, kind=kind),
        partial(render_several, films, folder, kind, watch=Watch()),
    )
    for _ in range(2 * ROUNDS):
        walls += [undisturbed(work)[0] for work in works]
    figures = {"throughput, of one film's": float(walls[0] / walls[1])}
    notes = ["By sums, without what others took of the processors meanwhile."]
    return Report("A series of 60 short films", figures, "0.95", notes)


def _board(laps: int = 1) -> Scene:
    """A star that rides round under a title, which is a field, as many frames for each lap."""
    path, frames = Path("run", "Run", pathdata.subpaths(pathdata.runs(ROUND))), laps * SHORT
    ride = Ride("run", simple_pegs(0, frames, laps, easing.EVEN))
    star = Layer("star", "Star", Shape("star", 60, 60), ride=ride)
    title = Layer("title", "Title", Text("Day", size=40), Transform((320, 60)))
    fields = (SceneField("Title", "title", "text"),)
    return Scene(640, 360, length=frames, layers=(star, title), paths=(path,), fields=fields)


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


def _side_by_side(scene: Scene, folder: File) -> Report:
    """Twice 120 frames of the porthole, blurred finely, by two makers against one: four chunks, two
    of which are slower to draw.
    """
    slow, out = demo.porthole(), folder / "slow.mp4"
    order = order_for(slow, last=120, loops=2, shutter=360.0)
    painter = planned(slow, folder, 1.0, order.plan(slow))
    painter.prepare()
    halves = [range(order.once // 2), range(order.once // 2, order.once)]
    works = {
        "makers": partial(render, slow, folder, out, order),
        "drawers": partial(side_by_side, partial(draw_those, painter, halves)),
        "counters": partial(side_by_side, _count),
    }
    walls = {name: np.zeros(2) for name in works}
    began = []
    for _ in range(ROUNDS):
        for name, work in works.items():
            walls[name] += _by_one_and_two(work)
        began.append(timed(lambda: _first_frame(scene, folder))[0])
    times = {name: float(one / two) for name, (one, two) in walls.items()}
    figures = {
        "one maker on one core, wall s": float(walls["makers"][0]) / ROUNDS,
        "two makers on two cores, times as fast": times["makers"],
        "two processes that only draw, times one": times["drawers"],
        "two processes that only count, times one": times["counters"],
        "two makers, of what two that only draw come to": times["makers"] / times["drawers"],
        "the first frame is there after, s": float(np.median(began)),
    }
    notes = [
        "Processes that only draw, or count, tell what a second core of this machine is worth.",
        "By sums, without what others took of the processors meanwhile.",
    ]
    reach = "1.9 times; 0.95 of what two that only draw come to; 1 s"
    return Report("Chunks side by side, slow to draw", figures, reach, notes)


def _by_one_and_two(work: Callable[[], object]) -> np.ndarray:
    """Return how long some work lasts on one core, and on all that there are, s."""
    all_of_them, walls = os.sched_getaffinity(0), []
    for on in ({min(all_of_them)}, all_of_them):
        os.sched_setaffinity(0, on)
        walls.append(undisturbed(work)[0])
    return np.array(walls)


def _count(part: slice) -> None:
    """Count some of twice."""
    for upto in [COUNT, COUNT][part]:
        for _ in range(upto):
            pass


def _moving(scenes: Iterator[tuple[str, Scene]], folder: File) -> Report:
    """Each scene of the demo as one SVG that moves by itself."""
    figures, out = {}, folder / "out.svg"
    for name, scene in scenes:
        order = Choices("svg").order(scene)
        write = partial(render, scene, folder, out, order, kind=KINDS["svg"])
        figures[f"{name}, s"] = timed(write)[0]
        bare = re.sub(r'data:[^"]*', "", out.read_text())
        figures[f"{name}, KB without pictures"] = len(bare) / 1e3
    return Report("SVG that moves by itself", figures, "as little as it goes")


class _EnoughError(Exception):
    """The first frame was seen."""


def _first_frame(scene: Scene, folder: File) -> None:
    def seen(jpeg: bytes) -> None:
        raise _EnoughError

    try:
        render(scene, folder, folder / "first.mp4", order_for(scene), watch=Watch(seen=seen))
    except _EnoughError:
        return
