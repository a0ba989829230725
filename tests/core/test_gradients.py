"""Gradients, strokes on one side and filled paths: the px by their definitions, and the edits."""

from dataclasses import replace

import numpy as np
import pytest

from coaster.commands import applied
from coaster.edits import becoming, frames, gradients, layers
from coaster.edits.keys import Moment
from coaster.errors import EditRefused
from coaster.geometry import affine
from coaster.motion import easing
from coaster.motion.colours import from_hex
from coaster.motion.keys import Key
from coaster.motion.ride import Facing, Ride
from coaster.motion.sampling import simple_pegs
from coaster.render import svg
from coaster.render.display import program_of
from coaster.render.evaluate import Evaluation
from coaster.scene.contents import Group, Line, Picture, Shape, Text
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.gradients import Gradient
from coaster.scene.properties import Track
from tests.core.test_masks import H, W, pixels, square

NOW = Moment(0.0)
RED, BLUE = "#d02010", "#1030e0"


def block(content, x: float = 20, y: float = 10, **more) -> Layer:
    return Layer("one", "One", content, Transform((x, y), anchor=(0.0, 0.0)), **more)


def scene_of(*layers: Layer, paths=(), **more) -> Scene:
    return Scene(W, H, length=10, background="#ffffff", layers=layers, paths=paths, **more)


def filled(gradient: Gradient, **more) -> Scene:
    return scene_of(block(Shape("rectangle", 100, 80, RED, gradient=gradient), **more))


def mixed(along: np.ndarray, colours, offsets) -> np.ndarray:
    """Colours of a gradient by SVG's rules: between stops in sRGB, beyond them as the last."""
    table = np.array([from_hex(each) for each in colours])
    return np.stack([np.interp(along, offsets, table[:, i]) for i in range(4)], axis=-1)


def on_white(rgba: np.ndarray) -> np.ndarray:
    return rgba[..., :3] * rgba[..., 3:] + 1 - rgba[..., 3:]


@pytest.mark.parametrize("form", ["linear", "radial"])
@pytest.mark.parametrize(
    ("start", "end"), [((0.0, 0.5), (1.0, 0.5)), ((0.2, 0.1), (0.7, 0.9)), ((0.5, 0.5), (0.5, 1.2))]
)
def test_each_px_has_the_colour_of_its_place_between_the_stops(form, start, end):
    colours, offsets = (RED, "#ffee8880", BLUE), (0.1, 0.4, 0.9)
    seen = pixels(filled(Gradient(form, start, end, colours, offsets)))
    ys, xs = np.mgrid[0:H, 0:W] + 0.5
    a, b = ((20 + 100 * x, 10 + 80 * y) for x, y in (start, end))
    way = np.subtract(b, a)
    from_a = np.stack([xs - a[0], ys - a[1]], axis=-1)
    along = from_a @ way / (way @ way)
    if form == "radial":
        along = np.hypot(*np.moveaxis(from_a, -1, 0)) / np.hypot(*way)
    wanted = on_white(mixed(along, colours, offsets))
    inside = (slice(12, 88), slice(22, 118))
    assert np.abs(seen[..., :3] - wanted)[inside].max() * 255 <= 2


def test_a_turned_layer_takes_its_gradient_along_and_keys_move_its_stops():
    still = Gradient("linear", (0, 0), (1, 0), ("#000000", "#ffffff"), (0.0, 1.0))
    keys = (
        Track("stop_1", (Key("a", 0, "#000000"), Key("b", 9, "#ff0000"))),
        Track("stop_2_at", (Key("a", 0, 1.0), Key("b", 9, 0.5))),
    )
    scene = filled(still, keys=keys)
    first, last = pixels(scene, 0), pixels(scene, 9)
    assert first[40, 21, :3] * 255 == pytest.approx([3.8] * 3, abs=3)
    assert last[40, 21, :3] * 255 == pytest.approx([255, 7, 7], abs=3)
    assert last[40, 75, :3] * 255 == pytest.approx([255] * 3, abs=2)
    turned = replace(scene.layers[0], keys=(), transform=Transform((70, 50), turn=90))
    down = pixels(scene.with_layer(turned))
    assert down[5, 70, 0] < 0.06 < 0.9 < down[97, 70, 0]


@pytest.mark.parametrize(("side", "reaches"), [("inside", 0), ("middle", 5), ("outside", 10)])
def test_a_stroke_lies_on_its_side_of_the_edge(side, reaches):
    shape = Shape("rectangle", 60, 40, None, "#000000", 10, join="miter", side=side)
    dark = pixels(scene_of(block(shape, 40, 30)))[..., 0] < 0.5
    rows, columns = np.flatnonzero(dark.any(axis=1)), np.flatnonzero(dark.any(axis=0))
    assert (columns[0], columns[-1] + 1) == (40 - reaches, 100 + reaches)
    assert (rows[0], rows[-1] + 1) == (30 - reaches, 70 + reaches)
    assert dark[50, 40 - reaches : 100 + reaches].sum() == 20


def test_a_line_fills_what_its_path_encloses_live():
    path = square("p", 30, 20, 40, 30)
    line = Layer("fill", "Fill", Line("p", colour=None, fill=BLUE))
    seen = pixels(scene_of(line, paths=(path,)))
    assert seen[35, 50, :3] == pytest.approx(from_hex(BLUE)[:3], abs=0.01)
    assert seen[15, 50, 0] == 1
    wider = square("p", 30, 10, 40, 30)
    assert pixels(scene_of(line, paths=(wider,)))[15, 50, 2] > 0.8


def seen_alike(a: Scene, b: Scene) -> bool:
    # The same outline under another map is smoothed a little otherwise at its edge, and there alone.
    off = np.abs(pixels(a) - pixels(b)) * 255
    return bool(off.max() < 48 and off.mean() < 0.1)


RAMP = Gradient("linear", (0.1, 0.2), (0.9, 0.7), (RED, BLUE), (0.2, 0.8))


@pytest.mark.parametrize(
    "shape",
    [
        Shape("star", 80, 60, RED, "#000000", 4, points=6),
        Shape("rectangle", 80, 50, None, "#000000", 6, radius=12, dash=(9.0, 5.0)),
        Shape("ellipse", 70, 70, RED, gradient=RAMP),
    ],
)
def test_a_shape_becomes_a_path_and_back_and_nothing_is_seen_to_change(shape):
    turned = Transform((80, 55), scale=(0.9, 0.9), turn=25)
    scene = scene_of(Layer("one", "One", shape, turned))
    path = applied(scene, becoming.to_path(scene, "one", 0).commands)
    assert isinstance(path.layer("one").content, Line)
    assert seen_alike(scene, path)
    back = applied(path, becoming.to_shape(path, "one", 0).commands)
    assert back.layer("one").content.figure == "drawn"
    assert back.paths == ()
    assert seen_alike(scene, back)
    # It stands by itself now: moved, made wider, put on a path.
    wide = layers.shape_look(back, "one", {"width": 120.0}, NOW)
    assert Evaluation(applied(back, wide.commands)).motion("one").face(0).size[0] == 120


def test_what_moves_by_itself_is_no_path_and_that_is_said():
    path = square("p", 30, 20, 40, 30)
    ride = Ride("p", simple_pegs(0, 9, 1, easing.PRESETS["even"]), Facing("along"))
    scene = scene_of(block(Shape(), ride=ride), paths=(path,))
    with pytest.raises(EditRefused, match="moves by itself, which a path cannot"):
        becoming.to_path(scene, "one", 0)
    coloured = scene_of(block(Shape(), keys=(Track("colour", (Key("a", 0, RED),)),)))
    with pytest.raises(EditRefused, match="keys of its colours"):
        becoming.to_path(coloured, "one", 0)


def test_what_a_path_cannot_show_as_the_shape_did_is_said_or_refused():
    stretched = Transform((80, 55), scale=(1.5, 0.6))
    look = Shape("ellipse", 70, 70, RED, "#000000", 6, gradient=RAMP, side="outside")
    edit = becoming.to_path(scene_of(Layer("one", "One", look, stretched)), "one", 0)
    said = " ".join(edit.notes)
    assert "lay outside of the edge" in said
    assert "gradient was stretched" in said
    bare = Shape("ellipse", 70, 70, RED, "#000000", 0.0)
    scene = scene_of(Layer("one", "One", bare))
    assert (
        applied(scene, becoming.to_path(scene, "one", 0).commands).layer("one").content.colour
        is None
    )
    dashes = (Track("width", (Key("a", 0, 4.0),)),)
    keyed = scene_of(Layer("one", "One", look, stretched, keys=dashes))
    with pytest.raises(EditRefused, match="stroke or size"):
        becoming.to_path(keyed, "one", 0)
    kept = scene_of(Layer("one", "One", look, Transform((80, 55)), keys=dashes))
    assert applied(kept, becoming.to_path(kept, "one", 0).commands).layer("one").keys == dashes


def test_a_line_on_a_path_of_a_turned_group_becomes_a_shape_where_it_is():
    pod = Layer("pod", "Pod", Group((50.0, 40.0)), Transform((60, 45), scale=(1.2, 1.2), turn=30))
    line = Layer("one", "One", Line("p", "#101010", 4, fill=RED, gradient=RAMP, dash=(9.0, 4.0)))
    scene = scene_of(line, pod, paths=(replace(square("p", 30, 20, 60, 40), parent="pod"),))
    back = applied(scene, becoming.to_shape(scene, "one", 0).commands)
    assert back.paths == ()
    assert seen_alike(scene, back)


def test_who_looked_at_it_goes_on_looking_where_it_was():
    ring = square("ring", 20, 20, 100, 80)
    ride = Ride("ring", simple_pegs(0, 9, 1, easing.EVEN), Facing("target", target="one"))
    looking = Layer("eye", "Eye", Shape(width=10, height=6), ride=ride)
    scene = scene_of(
        Layer("one", "One", Shape(width=30, height=30), Transform((80, 60))), looking, paths=(ring,)
    )
    after = applied(scene, becoming.to_path(scene, "one", 0).commands)
    for frame in (0, 4, 9):
        seen = [Evaluation(each).motion("eye").map(frame) for each in (scene, after)]
        assert seen[0] == pytest.approx(seen[1], abs=1e-6)


def test_stops_are_set_put_in_and_taken_out():
    scene = applied(filled(RAMP), gradients.add_stop(filled(RAMP), "one").commands)
    three = scene.layer("one").content.gradient
    assert three.offsets == pytest.approx((0.2, 0.5, 0.8))
    assert three.colours[0], three.colours[2] == (RED, BLUE)
    moved = applied(scene, gradients.set_stop(scene, "one", 2, NOW, at=0.7, alpha=0.5).commands)
    assert moved.layer("one").content.gradient.offsets[1] == 0.7
    assert moved.layer("one").content.gradient.colours[1].endswith("80")
    with pytest.raises(EditRefused, match="between its neighbours, at 20 to 80 %"):
        gradients.set_stop(scene, "one", 2, NOW, at=0.9)
    two = applied(scene, gradients.remove_stop(scene, "one", 2).commands)
    assert two.layer("one").content.gradient == RAMP
    with pytest.raises(EditRefused, match="at least two stops"):
        gradients.remove_stop(two, "one", 1)
    with pytest.raises(EditRefused, match="no stop 4"):
        gradients.set_stop(scene, "one", 4, NOW, at=0.5)
    pinned = gradients.set_stop(scene, "one", 3, Moment(5.0, pin=True), colour="#00ff00")
    keyed = applied(scene, pinned.commands)
    assert keyed.layer("one").keys_of("stop_3")[0].value == "#00ff00"
    with pytest.raises(EditRefused, match="has keys"):
        gradients.remove_stop(keyed, "one", 2)
    plain = applied(keyed, gradients.set_form(keyed, "one", None).commands)
    assert plain.layer("one").content.gradient is None
    assert pixels(plain, 5)[40, 60, :3] == pytest.approx(from_hex(RED)[:3], abs=0.01)


@pytest.mark.parametrize(
    "content", [Text("Bay", size=40), Line("p", fill=RED), Shape(width=40, height=40)]
)
def test_a_gradient_begins_with_the_colour_that_was_there(content):
    scene = scene_of(block(content), paths=(square("p", 30, 20, 40, 30),))
    for form in ("linear", "radial"):
        after = applied(scene, gradients.set_form(scene, "one", form).commands)
        colours = after.layer("one").content.gradient.colours
        assert colours[0] == getattr(content, "fill", None) or content.colour
    with pytest.raises(EditRefused, match="nothing to be filled"):
        gradients.set_form(scene_of(block(Picture("a.png", 9, 9))), "one", "linear")


def test_ends_and_stops_go_where_the_hand_is():
    turned = Transform((80, 60), scale=(1.5, 0.8), turn=40)
    scene = scene_of(Layer("one", "One", Shape("rectangle", 60, 40, gradient=RAMP), turned))

    def seen(of: Scene, share) -> np.ndarray:
        row = Evaluation(of).motion("one").map(0)
        return affine.apply(row, np.array(share) * [60, 40])

    for end in ("start", "end"):
        edit = gradients.move_end(scene, "one", end, (90.0, 30.0), NOW)
        after = applied(scene, edit.commands)
        spot = getattr(after.layer("one").content.gradient, end)
        assert seen(after, spot) == pytest.approx((90, 30), abs=0.05)
    hand = seen(scene, np.array(RAMP.start) * 0.5 + np.array(RAMP.end) * 0.5)
    edit = gradients.move_stop(scene, "one", 1, tuple(hand), NOW)
    assert applied(scene, edit.commands).layer("one").content.gradient.offsets[0] == 0.5
    # Past its neighbour it stays at it.
    far = gradients.move_stop(scene, "one", 1, tuple(seen(scene, RAMP.end)), NOW)
    assert applied(scene, far.commands).layer("one").content.gradient.offsets[0] == 0.8


def test_corners_are_rounded_by_the_hand_up_to_a_half_circle():
    scene = scene_of(block(Shape("rectangle", 60, 40), 20, 10))
    for point, radius in (((32.0, 22.0), 12.0), ((90.0, 90.0), 20.0), ((0.0, 0.0), 0.0)):
        after = applied(scene, frames.round_corners(scene, "one", point, NOW).commands)
        assert after.layer("one").content.radius == radius
    with pytest.raises(EditRefused, match="only a rectangle"):
        frames.round_corners(scene_of(block(Shape("star"))), "one", (0.0, 0.0), NOW)


def test_svg_says_gradients_and_sides():
    shape = Shape(
        "ellipse", 60, 40, RED, BLUE, 8, gradient=replace(RAMP, form="radial"), side="outside"
    )
    text = svg.file(program_of(Evaluation(scene_of(block(shape)))), 0, lambda *_: "")
    assert 'gradientUnits="userSpaceOnUse"' in text
    assert "<radialGradient" in text
    assert 'maskUnits="userSpaceOnUse"' in text
    assert 'stroke-width="16"' in text
