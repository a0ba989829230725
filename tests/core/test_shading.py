"""Light on layers, against Lambert and Blinn worked out by ourselves."""

from dataclasses import replace
from pathlib import Path as File

import numpy as np
import pytest

from coaster.edits import depth as edits
from coaster.edits import layers
from coaster.edits.keys import Moment
from coaster.errors import EditRefused
from coaster.export.drawers import painter_of
from coaster.render import svg
from coaster.render.display import program_of
from coaster.render.evaluate import Evaluation
from coaster.scene.contents import Group, Light, Shape
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.shades import Tint
from tests.core.test_depth import keyed, moved

WHITE = Shape("rectangle", 60, 40, "#ffffff")
MOMENT = Moment(0.0, False)


def scene(*layers):
    return Scene(320, 200, length=24, background="#000000", layers=layers)


def sheet(**pose):
    return Layer("sheet", "Sheet", WHITE, Transform((160, 100), **pose))


PLAIN = Light(ambient=0.0)


def light(content=PLAIN, **pose):
    return Layer("sun", "Sun", content, Transform(**({"position": (160, 100), "z": -100.0} | pose)))


def seen(value, frame=0):
    """Return red, green and blue in the middle of the picture, 0..255."""
    drawn = painter_of(value, File("/nowhere")).picture(frame)
    return drawn[100, 160, 2::-1].astype(int)


@pytest.mark.parametrize("degrees", [0.0, 30.0, 60.0, -60.0, 85.0])
def test_a_plane_is_as_bright_as_it_is_turned_to_the_light(degrees):
    bright = seen(scene(sheet(tilt=degrees), light()))
    assert bright == pytest.approx([255 * np.cos(np.radians(degrees))] * 3, abs=2)
    # The other side is the same: what is turned away by more is seen from behind.
    behind = seen(scene(sheet(tilt=degrees + 180), light()))
    assert behind == pytest.approx(bright, abs=1)


def test_what_the_light_does_not_reach_is_as_bright_as_it_says():
    dim = Light(ambient=0.4)
    assert seen(scene(sheet(), light(dim, z=100.0))) == pytest.approx([102] * 3, abs=1)
    assert seen(scene(sheet(), light(replace(dim, brightness=0.0)))) == pytest.approx(
        [102] * 3, abs=1
    )
    half = Light(ambient=0.0, reach=200.0)
    assert seen(scene(sheet(), light(half))) == pytest.approx([255 * 0.75**2] * 3, abs=1)
    assert (seen(scene(sheet(), light(replace(half, reach=90.0)))) == 0).all()


@pytest.mark.parametrize("fill", ["#ffffff", "#000000", "#408020", "#ff804080"])
def test_a_light_of_a_colour_multiplies_each_by_its_own(fill):
    orange, plain = Light("#ff8040", ambient=0.0), Light(ambient=0.0)
    thing = replace(sheet(tilt=40.0), content=replace(WHITE, fill=fill))
    white = seen(scene(thing, light(plain)))
    assert seen(scene(thing, light(orange))) == pytest.approx(white * [1, 128 / 255, 64 / 255], abs=1)  # fmt: skip
    # What it throws back has its colour as well.
    shiny = replace(thing, shine=0.5, transform=Transform((160, 100)))
    glossy = seen(scene(shiny, light(orange))) - seen(scene(replace(shiny, shine=0.0), light(orange)))  # fmt: skip
    alpha = int(fill[7:9] or "ff", 16) / 255
    least = np.minimum(255 * alpha - seen(scene(replace(shiny, shine=0.0), light(orange))), 127.5 * np.array([1, 0.5, 0.25]) * alpha)  # fmt: skip
    assert glossy == pytest.approx(least, abs=2)


def test_a_tint_and_a_light_of_a_colour_lie_one_over_the_other():
    thing = replace(sheet(), tint=Tint(("#0000ff",), 0.5))
    found = seen(scene(thing, light(Light("#ff8040", ambient=0.0))))
    assert found == pytest.approx([127.5, 127.5 * 128 / 255, 64], abs=1)


def test_files_of_vectors_have_light_of_a_colour():
    value = scene(sheet(), light(Light("#ff8040", ambient=0.0)))
    text = svg.file(program_of(Evaluation(value)), 0, lambda *_: "")
    assert '<feFuncG type="linear" slope="0.50196' in text


def test_a_cone_shines_where_it_points():
    cone = Light(ambient=0.0, spread=40.0, soft=0.0)
    assert seen(scene(sheet(), light(cone)))[0] == 255
    aside = (160 + 100 * np.tan(np.radians(30)), 100)
    assert seen(scene(sheet(), light(cone, position=aside)))[0] == 0
    # Swung to the left by as much it points there again.
    turned = seen(scene(sheet(), light(cone, position=aside, swing=30.0)))[0]
    assert turned == pytest.approx(255 * np.cos(np.radians(30)), abs=2)


def test_what_shines_throws_the_light_back_to_the_viewer():
    grey = replace(sheet(), content=replace(WHITE, fill="#000000"), shine=0.8)
    sun = light()
    assert seen(scene(grey, sun)) == pytest.approx([204] * 3, abs=1)
    far = 160 / np.tan(np.radians(20))
    tilted = replace(grey, transform=replace(grey.transform, tilt=10.0))
    half = np.cos(np.radians(10.0)) ** 24
    assert far > 100
    assert seen(scene(tilted, sun)) == pytest.approx([204 * half] * 3, abs=2)


def test_what_is_not_lit_is_as_bright_as_by_itself_and_a_scene_without_light_pays_nothing():
    glowing = replace(sheet(tilt=60.0), lit=False)
    assert (seen(scene(glowing, light())) == 255).all()
    assert Evaluation(scene(sheet(tilt=60.0))).motion("sheet").tint is None
    assert (seen(scene(sheet(), replace(light(), visible=False))) == 255).all()


def test_of_several_lights_the_one_in_front_shines_in_its_time():
    first = light(Light("#ff0000", ambient=0.0))
    second = replace(light(Light("#0000ff", ambient=0.0)), id="moon", shown=(12.0, 24.0))
    value = scene(sheet(), first, second)
    assert [seen(value, frame).argmax() for frame in (0, 12)] == [0, 2]


def test_a_light_goes_out_by_its_keys_and_is_carried_by_its_group():
    dying = replace(light(), keys=(keyed("brightness", 1, 0),), parent="pod")
    pod = Layer("pod", "Pod", Group(), Transform())
    value = scene(sheet(), dying, pod)
    assert [seen(value, frame)[0] for frame in (0, 6, 12)] == pytest.approx([255, 128, 0], abs=1)
    up = value.with_layers([replace(pod, transform=Transform((0, -100)))])
    assert seen(up, 0)[0] == pytest.approx(255 * np.cos(np.radians(45)), abs=2)


def test_a_light_is_added_before_the_picture_and_set():
    value = moved(scene(sheet()), layers.add(scene(sheet()), "light"))
    sun = next(each for each in value.layers if each.content.can.light)
    assert sun.transform.z == -160.0
    after = moved(
        value, edits.shine(value, sun.id, {"brightness": 2.0, "colour": "#ffcc88"}, MOMENT, 0.1)
    )
    assert after.layer(sun.id).content == Light("#ffcc88", 2.0, soft=0.1)
    lit = moved(after, edits.be_lit(after, "sheet", lit=False, shine=0.5)).layer("sheet")
    assert (lit.lit, lit.shine) == (False, 0.5)
    with pytest.raises(EditRefused, match="Sheet is not a light"):
        edits.shine(value, "sheet", {}, MOMENT)
