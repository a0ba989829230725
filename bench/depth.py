"""Depth: riders in it beside flat ones, and a picture in perspective beside a turned one."""

import statistics
import tempfile
from collections.abc import Callable
from dataclasses import replace
from itertools import product
from pathlib import Path as File

import numpy as np
from tests.browser.conftest import Studio
from tests.browser.driver import chromium

from bench.editor import played
from bench.measure import Report, timed
from coaster.formats import pathdata
from coaster.geometry import maps
from coaster.geometry.path import Path
from coaster.motion import easing
from coaster.motion.keys import Key
from coaster.motion.rate import Rate
from coaster.motion.ride import Facing, Ride
from coaster.motion.sampling import simple_pegs
from coaster.render import evaluate
from coaster.render.display import program_of
from coaster.render.evaluate import Evaluation
from coaster.render.raster import Painter
from coaster.scene.contents import Content, Picture, Shape
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.properties import Track
from studio.demo import scenes as demo

DEFAULT = Shape()
WIDE, HIGH, FRAMES, ROUNDS = 800, 600, 40, 7
CORNERS = np.array([[0, 0], [WIDE, 0], [WIDE, HIGH], [0, HIGH]], float)


class OnePicture:
    def __init__(self) -> None:
        noise = np.random.default_rng(1).integers(0, 255, (HIGH, WIDE, 4))
        self._pixels = noise.astype(np.uint8) | np.array([0, 0, 0, 255], np.uint8)

    def pixels(self, asset: str, index: int) -> np.ndarray:
        return self._pixels

    def is_opaque(self, asset: str) -> bool:
        return True


def riders(pose: Transform, count: int = 20, content: Content = DEFAULT) -> Scene:
    course = Path("p", "P", pathdata.subpaths(pathdata.runs(demo.REEF_RUN)))
    ride = Ride("p", simple_pegs(0, 600, 1, easing.PRESETS["ease-both"]), Facing())
    layers = (
        Layer(f"r{i}", f"R{i}", content, pose, ride=replace(ride, offset=i * 100 / count))
        for i in range(count)
    )
    return Scene(length=600, rate=Rate(60), layers=tuple(layers), paths=(course,))


def moving(pose: Transform) -> Scene:
    across = Track("x", (Key("a", 0, 900.0), Key("b", FRAMES, 1000.0)))
    picture = Layer("a", "A", Picture("a.png", WIDE, HIGH), pose, keys=(across,))
    return Scene(1920, 1080, length=FRAMES + 1, background="#000000", layers=(picture,))


def covered_px(scene: Scene) -> float:
    """Return how much of the picture is covered, px, in the first frame."""
    x, y = maps.apply_each(Evaluation(scene).motion("a").maps[:1], CORNERS)[0].T
    return float(abs(np.dot(x, np.roll(y, 1)) - np.dot(y, np.roll(x, 1))) / 2)


def evaluated(scene: Scene) -> Callable[[], object]:
    def work() -> object:
        evaluate.forget()
        return Evaluation(scene).motions

    return work


def drawn(scene: Scene) -> Callable[[], object]:
    painter = Painter(program_of(Evaluation(scene)), OnePicture())
    pixels = np.empty((1080, 1920, 4), np.uint8)
    return lambda: [painter.paint(frame, pixels) for frame in range(FRAMES)]


def in_turn(works: dict[str, Callable[[], object]]) -> dict[str, float]:
    """Return the median CPU seconds of several things, done one after the other."""
    for work in works.values():
        work()
    rounds = [{name: timed(work)[1] for name, work in works.items()} for _ in range(ROUNDS)]
    return {name: statistics.median(each[name] for each in rounds) for name in works}


def depth() -> list[Report]:
    return [_evaluated(), _on_stage()]


def _evaluated() -> Report:
    poses = {
        "flat": Transform(),
        "in depth": Transform(z=50.0, tilt=30.0, swing=10.0),
        "faces to the viewer": Transform(to_viewer=True),
    }
    ridden = in_turn({name: evaluated(riders(pose)) for name, pose in poses.items()})
    turned = moving(Transform((960, 540), turn=20.0))
    leaning = moving(Transform((960, 540), tilt=25.0, swing=20.0))
    cost = in_turn({"turned": drawn(turned), "in perspective": drawn(leaning)})
    per_px = {
        name: cost[name] / FRAMES / covered_px(scene) * 1e9
        for name, scene in (("turned", turned), ("in perspective", leaning))
    }
    figures = {f"20 riders x 600 frames, {name}, ms": s * 1e3 for name, s in ridden.items()}
    figures |= {f"{name}, times flat": ridden[name] / ridden["flat"] for name in list(poses)[1:]}
    figures |= {f"a picture {name}, ns CPU a px": value for name, value in per_px.items()}
    figures["in perspective, times turned"] = per_px["in perspective"] / per_px["turned"]
    return Report("Depth", figures, "1.5 times flat, 1.1 times a turned picture")


def _on_stage() -> Report:
    poses = {
        "flat": Transform(),
        "in perspective": Transform(tilt=30.0, swing=20.0),
        "that face the viewer": Transform(to_viewer=True),
    }
    figures = {}
    with tempfile.TemporaryDirectory(prefix="coaster-bench-") as name:
        studio = Studio(File(name))
        picture = studio.layer(1, "manta")["content"]
        contents = {
            "shapes": Shape(),
            "pictures": Picture(picture["asset"], picture["width"] / 2, picture["height"] / 2),
        }
        try:
            with chromium() as driver:
                for (kind, content), (said, pose) in product(contents.items(), poses.items()):
                    beats = played(driver, studio, riders(pose, 40, content))
                    figures[f"40 {kind} {said}, frames a second"] = 1e3 / statistics.mean(beats)
        finally:
            studio.stop()
    return Report("40 riders on the stage", figures, "60 frames a second")
