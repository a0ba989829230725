"""The language of drawing: blends, masks, perspective, bounds, and the sinks that run it."""

from dataclasses import replace
from functools import partial
from types import SimpleNamespace

import cv2
import numpy as np
import pytest
import skia
from hypothesis import given
from hypothesis import strategies as st

from coaster.errors import EditRefused
from coaster.formats import pathdata
from coaster.geometry import maps
from coaster.media.pictures import straight_rgba
from coaster.motion.keys import Key
from coaster.render import svg
from coaster.render.covers import Cover, Cut
from coaster.render.display import Item, Pop, Program, Push, bounds, program_of
from coaster.render.evaluate import Evaluation
from coaster.render.figures import Figure, Run
from coaster.render.outlines import Face, Faces, Outline
from coaster.render.raster import Painter, Surface
from coaster.scene.contents import Line, Shape, Text
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.properties import Track
from tests.core.test_render import RING, loop

SIZE = (120, 90)
STILL = np.ones(1)


def at(x: float, y: float) -> np.ndarray:
    return np.array([[1.0, 0, 0, 1, x, y]])


def box(colour: str, place: np.ndarray, opacity: np.ndarray = STILL, side: float = 40) -> Item:
    run = Run.straight_through([(0, 0), (side, 0), (side, side), (0, side)], closed=True)
    face = Face((0, 0, side, side), None, (Outline(Figure((run,)), colour),))
    return Item(colour, Faces((face,)), place, opacity)


def program(*steps, background: str | None = "#406080", length: int = 3) -> Program:
    return Program(*SIZE, length, background, steps)


def pixel(shown: Program, x: int, y: int, frame: int = 0) -> np.ndarray:
    return straight_rgba(Painter(shown, source=None).picture(frame))[y, x] / 255


COLOURS = {"ground": (0x40, 0x60, 0x80), "red": (0xE0, 0x30, 0x20), "green": (0x20, 0xC0, 0x50)}
RED, GREEN = "#e03020", "#20c050"
BLENDS = {
    "normal": lambda b, s: s,
    "multiply": lambda b, s: b * s,
    "screen": lambda b, s: b + s - b * s,
    "darken": np.minimum,
    "lighten": np.maximum,
    "difference": lambda b, s: abs(b - s),
    "exclusion": lambda b, s: b + s - 2 * b * s,
    "overlay": lambda b, s: np.where(b <= 0.5, 2 * b * s, 1 - 2 * (1 - b) * (1 - s)),
    "hard-light": lambda b, s: np.where(s <= 0.5, 2 * b * s, 1 - 2 * (1 - b) * (1 - s)),
}
"""CSS Compositing and Blending Level 1, section 10: backdrop and source, 0..1."""


@pytest.mark.parametrize("blend", BLENDS)
@pytest.mark.parametrize("strength", [1.0, 0.4])
def test_what_is_drawn_apart_is_blended_as_css_says(blend, strength):
    shown = program(Push("g", np.array([strength]), blend), box(RED, at(10, 10)), Pop())
    ground, red = (np.array(COLOURS[name]) / 255 for name in ("ground", "red"))
    wanted = ground + strength * (BLENDS[blend](ground, red) - ground)
    assert pixel(shown, 30, 30)[:3] == pytest.approx(wanted, abs=2 / 255)
    assert pixel(shown, 90, 30)[:3] == pytest.approx(ground, abs=1e-6)


def test_members_do_not_show_through_each_other():
    two = (box(RED, at(10, 10)), box(GREEN, at(30, 20)))
    shown = program(Push("g", np.array([0.5])), *two, Pop())
    ground, green = (np.array(COLOURS[name]) / 255 for name in ("ground", "green"))
    assert pixel(shown, 40, 40)[:3] == pytest.approx((ground + green) / 2, abs=2 / 255)


def cover(place: np.ndarray, side: float = 40, **numbers: float) -> Cover:
    """A square that shows what is in it."""
    rows = (np.array([numbers.get(name, usual)]) for name, usual in COVERS.items())
    return Cover((Cut(box(RED, place, side=side).faces.first.outlines[0].figure, "add", place),), False, *rows)  # fmt: skip


COVERS = {"grow": 0.0, "blur": 0.0, "strength": 1.0}


def test_a_mask_shows_only_where_it_is_and_may_move():
    places = np.concatenate([at(10, 10), at(60, 30), at(200, 200)])
    shown = program(Push("g", STILL, "normal", cover(places)), box(RED, at(0, 0), side=100), Pop())
    red, ground = (np.array(COLOURS[name]) / 255 for name in ("red", "ground"))
    for frame, seen in ((0, (30, 30)), (1, (80, 50))):
        assert pixel(shown, *seen, frame)[:3] == pytest.approx(red, abs=1e-6)
    assert pixel(shown, 80, 50, 0)[:3] == pytest.approx(ground, abs=1e-6)
    assert pixel(shown, 30, 30, 2)[:3] == pytest.approx(ground, abs=1e-6)


def test_only_what_moved_is_drawn_anew_with_groups_blends_and_masks():
    moving = np.stack([at(5 + 8 * i, 5 + 6 * i)[0] for i in range(9)])
    mask = cover(at(20, 10), side=60, blur=2.5)
    shown = program(
        box(GREEN, at(50, 5)),
        Push("outer", np.array([0.7]), "multiply"),
        box(RED, moving), box("#ffffff80", at(30, 30)),
        Push("inner", np.linspace(0.2, 1, 9), "screen", mask), box(GREEN, moving[::-1].copy()), Pop(),
        Pop(),
        box("#ffff00", at(80, 60), side=20),
        length=8,
    )  # fmt: skip
    painter = Painter(shown, source=None)
    surface = Surface(np.empty((90, 120, 4), np.uint8))
    for frame in (3, 8, 0, 8, 5):
        painter.repaint(frame, surface)
        fresh = Painter(shown, source=None).picture(frame)
        assert np.array_equal(surface.pixels, fresh)


@given(st.floats(-0.004, 0.004), st.floats(-0.004, 0.004), st.floats(0.5, 2), st.floats(-40, 40))
def test_perspective_is_only_another_map(p, q, scale, shift):
    """A picture and an outline under the same nine numbers, against a warp of the whole frame."""
    row = np.array([scale, 0.1, 30 + shift, -0.2, scale, 25, p, q, 1.0])
    pixels = np.full((40, 60, 4), (32, 48, 224, 255), np.uint8)
    picture = Item("p", Faces((Face((0, 0, 60, 40), ("p.png", 0)),)), row[None], STILL)
    run = Run.straight_through([(0, 0), (60, 0), (60, 40), (0, 40)], closed=True)
    outline = replace(
        picture, faces=Faces((Face((0, 0, 60, 40), None, (Outline(Figure((run,)), "#e03020"),)),))
    )
    source = SimpleNamespace(pixels=lambda asset, index: pixels)
    wanted = cv2.warpPerspective(pixels, row.reshape(3, 3), SIZE)
    for item in (picture, outline):
        shot = Painter(program(item, background=None), source).picture(0)
        assert np.abs(shot[..., 2].astype(int) - wanted[..., 2]).mean() < 4
    left, top, right, bottom = bounds(picture)[0]
    ys, xs = np.nonzero(wanted[..., 3])
    # A warp spreads the last pixel over as many as it is large.
    slack = 1 + scale
    if len(xs):
        assert left - slack <= xs.min() <= xs.max() <= right + slack
        assert top - slack <= ys.min() <= ys.max() <= bottom + slack


def test_flat_maps_stay_six_numbers_and_agree_with_nine():
    flat, points = np.array([[1.2, 0.3, -0.4, 0.9, 5, 7]]), np.array([[0.0, 0], [10, 4]])
    nine = maps.full(flat).reshape(-1, 9)
    assert maps.is_flat(maps.compose(flat, flat))
    np.testing.assert_allclose(maps.apply_each(nine, points), maps.apply_each(flat, points))
    np.testing.assert_allclose(
        maps.full(maps.compose(nine, flat)), maps.full(maps.compose(flat, flat))
    )
    np.testing.assert_allclose(
        maps.largest_scale(nine, points), maps.largest_scale(flat, points), rtol=1e-6
    )
    np.testing.assert_allclose(maps.area_factor(nine), maps.area_factor(flat))


def everything() -> Scene:
    layers = (
        Layer(
            "sky", "Sky", Shape("rectangle", 200, 40, "#ff8000", radius=12), Transform((100, 20))
        ),
        Layer("line", "Line", Line("ring", "#ffffff", 3, (8, 5))),
        Layer("star", "Star", Shape("star", 30, 30, "#e0e040", "#000000", 2), ride=loop()),
        Layer(
            "text",
            "Text",
            Text("Ebb\nflow", size=30, colour="#80ff80"),
            Transform((100, 90), turn=20),
        ),
        Layer(
            "veil",
            "Veil",
            Shape("ellipse", 60, 60, "#ffffff80"),
            Transform((150, 140), opacity=0.5),
        ),
    )
    return Scene(200, 180, length=12, background="#204060", layers=layers, paths=(RING,))


@pytest.mark.parametrize("frame", [0, 5])
def test_the_svg_of_a_frame_shows_what_the_raster_shows(frame):
    shown = program_of(Evaluation(everything()))
    text = svg.file(shown, frame, lambda asset, index: asset)
    data = text.encode()  # which the stream reads where it is, without a copy
    drawing = skia.SVGDOM.MakeFromStream(skia.MemoryStream(data))
    surface = skia.Surface(200, 180)
    drawing.setContainerSize(skia.Size(200, 180))
    drawing.render(surface.getCanvas())
    theirs = surface.makeImageSnapshot().toarray(colorType=skia.kRGBA_8888_ColorType)
    ours = straight_rgba(Painter(shown, source=None).picture(frame))
    assert np.abs(theirs.astype(int) - ours).mean() < 1.0


def test_svg_says_what_it_cannot_hold():
    map_ = np.array([[1.0, 0, 0, 0, 1, 0, 0.001, 0, 1]])
    tilted = replace(box(RED, at(0, 0)), maps=map_)
    masked = Push("g", STILL, "normal", cover(map_))
    for steps, words in (((tilted,), "perspective"), ((masked, Pop()), "mask in perspective")):
        with pytest.raises(EditRefused, match=words):
            svg.file(program(*steps), 0, partial(str))


def test_figures_are_the_paths_they_are_made_of():
    for data in ("M0 0L9 0L9 7Z", "M0 0C1 2 3 4 5 6L9 9", "M10 20A5 9 30 1 0 40 50Z M1 1L2 2"):
        subpaths = pathdata.subpaths(pathdata.runs(data))
        figure = Figure.of(subpaths)
        again = pathdata.subpaths(pathdata.runs(figure.path_data()))
        for ours, theirs in zip(figure.runs, again, strict=True):
            np.testing.assert_allclose(ours.cubics, theirs.segments(), atol=1e-3)
            assert ours.closed == theirs.closed


def test_dashes_run_along_by_keys_and_corners_that_stand_out_are_in_their_box():
    keys = (Track("dashes", (Key("a", 0, 0.0), Key("b", 4, 40.0))),)
    shape = Shape(
        "polygon", 60, 60, None, "#e03020", 8.0, points=3, dash=(10.0, 10.0), join="miter"
    )
    scene = Scene(
        120, 120, length=4, layers=(Layer("t", "T", shape, Transform((60, 60)), keys=keys),)
    )
    painter = Painter(program_of(Evaluation(scene)), source=None)
    first, other, again = (painter.picture(frame) for frame in (0, 1, 2))
    # Two periods on it looks as it did; half a period on it does not.
    assert np.array_equal(first, again)
    assert not np.array_equal(first, other)
    plain = Layer("t", "T", replace(shape, dash=None), Transform((60, 60)))
    program_ = program_of(Evaluation(replace(scene, background=None, layers=(plain,))))
    rows, columns = np.nonzero(Painter(program_, source=None).picture(0)[..., 3])
    box_ = bounds(program_.steps[0])[0]
    assert np.all(box_[:2] <= (columns.min(), rows.min()))
    assert np.all(box_[2:] >= (columns.max(), rows.max()))
    # A corner of 60 degrees stands out by two half widths.
    assert rows.min() < 30 - 4
