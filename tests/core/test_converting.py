"""What an encoder is given: the same to the bit, whether it is told what changed or not."""

from dataclasses import replace
from pathlib import Path as File
from unittest.mock import patch

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from coaster.export.chunks import Maker, chunks_of
from coaster.export.drawers import planned
from coaster.export.orders import order_for
from coaster.formats import pathdata
from coaster.geometry.path import Path
from coaster.media import converting
from coaster.media.converting import Converter
from coaster.media.pictures import Box, Pixels
from coaster.media.writers import KINDS
from coaster.motion import easing
from coaster.motion.keys import Key
from coaster.motion.ride import Ride
from coaster.motion.sampling import simple_pegs
from coaster.render.raster import Surface
from coaster.scene.contents import Footage, Shape
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.footage import FrameTimes
from coaster.scene.properties import Track
from tests.core.moving import SIZE, film

FORMS = {"yuv420p": False, "yuva420p": True, "yuv444p10le": False, "yuva444p10le": True}
HELD = 3
RING = Path(
    "ring", "Ring", pathdata.subpaths(pathdata.runs("M40 32A40 20 0 0 1 120 32A40 20 0 0 1 40 32Z"))
)


def planes_of(frame) -> list[np.ndarray]:
    return [np.array(plane) for plane in converting._planes(frame)]


def drawn_on(pixels: Pixels, box: Box, rng: np.random.Generator) -> None:
    left, top, right, bottom = box
    alpha = rng.integers(0, 256, (bottom - top, right - left, 1))
    colour = rng.integers(0, 256, (bottom - top, right - left, 3)) * alpha // 255
    pixels[top:bottom, left:right] = np.concatenate([colour, alpha], axis=2)


@pytest.fixture(scope="module")
def even_small():
    """Pictures are so small here that it would never be worth it."""
    with patch.multiple(converting, APIECE=300, WORTH=99.0):
        yield


@pytest.mark.usefixtures("even_small")
@pytest.mark.parametrize("form", FORMS)
@settings(deadline=None, max_examples=20)
@given(data=st.data())
def test_what_changed_is_converted_as_all_of_it_is(form, data):
    width, height = (2 * data.draw(st.integers(8, 50)) for _ in range(2))
    rng = np.random.default_rng(data.draw(st.integers(0, 9)))
    edges = st.tuples(st.integers(0, width), st.integers(0, height))
    told = Converter(form, alpha=FORMS[form], yuv=True, held=HELD)
    given_out: list[tuple[object, list[np.ndarray]]] = []
    pixels = np.zeros((height, width, 4), np.uint8)
    drawn_on(pixels, (0, 0, width, height), rng)
    for frame in range(2 * HELD + 3):
        boxes = []
        for _ in range(data.draw(st.integers(0, 3))):
            (a, b), (c, d) = data.draw(edges), data.draw(edges)
            boxes.append((min(a, c), min(b, d), max(a, c), max(b, d)))
        for box in boxes:
            drawn_on(pixels, box, rng)
        made = told.frame(pixels, boxes if frame else None)
        untold = Converter(form, alpha=FORMS[form], yuv=True, held=HELD).frame(pixels)
        given_out = [*given_out[-HELD:], (made, planes_of(untold))]
        # Those that wait for the encoder stay what they were.
        for kept, planes in given_out:
            assert all(map(np.array_equal, planes_of(kept), planes))


def test_a_few_boxes_are_converted_by_themselves():
    converter = Converter("yuv420p", alpha=False, yuv=True, held=HELD)
    pixels = np.full((720, 1280, 4), 255, np.uint8)
    before = planes_of(converter.frame(pixels))
    pixels[:] = 0
    after = planes_of(converter.frame(pixels, [(100, 100, 140, 120)]))
    # What it was not told of stays: in place of 16 around the box the rest is as it was.
    assert (after[0][96:128, 96:144] == 16).all()
    after[0][96:128, 96:144] = 235
    assert np.array_equal(after[0], before[0])


@pytest.fixture(scope="module")
def folder(tmp_path_factory) -> File:
    found = tmp_path_factory.mktemp("films")
    film(found / "deep.mp4", 4)
    return found


def rider(name: str, opacity: float = 1.0) -> Layer:
    ride = Ride("ring", simple_pegs(0, 16, 1, easing.EVEN))
    return Layer(name, name, Shape("star", 20, 16), Transform(opacity=opacity), ride)


def scene_of(*layers: Layer) -> Scene:
    return Scene(*SIZE, length=16, background="#204060", layers=layers, paths=(RING,))


DEEP = Layer(
    "deep",
    "Deep",
    Footage("deep.mp4", *map(float, SIZE), FrameTimes(30, ((4, 1),)), after="repeat"),
    Transform((SIZE[0] / 2, SIZE[1] / 2)),
    keys=(
        Track("scale", (Key("a", 4, 0.5), Key("b", 5, 1.0), Key("c", 9, 1.0), Key("d", 10, 0.5))),
    ),
)
"""What fills the frame for a while."""


@pytest.mark.parametrize("shutter", [0.0, 180.0])
@pytest.mark.parametrize("layers", [(rider("a"),), (DEEP,), (DEEP, rider("a"), rider("b", 0.5))])
def test_outside_of_what_changed_a_frame_is_the_one_before(folder, layers, shutter):
    scene = scene_of(*layers)
    order = order_for(scene, shutter=shutter)
    painter = planned(scene, folder, 1.0, order.plan(scene))
    surface, before, told = Surface(np.empty((*SIZE[::-1], 4), np.uint8)), None, 0
    for frame in (*range(16), 15, 3, 6, 2, 7, 8, 0):
        pixels = painter.painted(frame, surface).copy()
        if surface.changed is not None:
            told += 1
            for left, top, right, bottom in surface.changed:
                before[top:bottom, left:right] = pixels[top:bottom, left:right]
            assert np.array_equal(pixels, before)
        before = pixels
    assert told >= 10


KEPT = [name for name, kind in KINDS.items() if kind.join is not None]


@pytest.mark.usefixtures("even_small")
@pytest.mark.parametrize("name", KEPT)
def test_files_are_the_same_to_the_byte(folder, tmp_path, monkeypatch, name):
    scene, kind, files = scene_of(rider("a"), rider("b", 0.5)), KINDS[name], []
    shown = replace(scene, background=None) if kind.alpha else scene
    (chunk,) = chunks_of(shown, order_for(shown), kind)
    for worth in (99.0, -1.0):
        monkeypatch.setattr(converting, "WORTH", worth)
        files.append(tmp_path / f"{worth}{kind.ending}")
        Maker().make(chunk, folder, files[-1], lambda done, jpeg: None)
    assert files[0].read_bytes() == files[1].read_bytes()
