"""Scenes in scenes: when which frame is seen, what is drawn, circles, and groups made scenes."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from coaster.commands import applied
from coaster.edits import insets
from coaster.edits.footage import play, trim
from coaster.edits.keys import Moment
from coaster.edits.unseen import reasons
from coaster.errors import EditRefused
from coaster.formats import pathdata
from coaster.geometry.path import Path
from coaster.motion import easing, playing
from coaster.motion.keys import Key
from coaster.motion.playing import Cut
from coaster.motion.rate import Rate
from coaster.motion.ride import Facing, Ride
from coaster.motion.sampling import simple_pegs
from coaster.render import seam, stage
from coaster.render.display import Item, program_of
from coaster.render.evaluate import Evaluation
from coaster.render.raster import Painter
from coaster.scene import codec
from coaster.scene.contents import Footage, Group, Inset, Line, Shape
from coaster.scene.document import Beside, Layer, Scene, Transform
from coaster.scene.footage import FrameTimes
from coaster.scene.limits import MOST_LAYERS, check_growth, drawn_layers
from coaster.scene.masks import Mask, MaskPart
from coaster.scene.properties import Track
from tests.core.test_groups import RING


def loop(name: str) -> Path:
    return replace(RING, id=name)


def ride_round(name: str, length: int) -> Ride:
    return Ride(name, simple_pegs(0, length, 1, easing.EVEN), Facing("along"))


def drawn(name: str, data: str) -> Path:
    return Path(name, name, pathdata.subpaths(pathdata.runs(data)))


class NoPictures:
    def pixels(self, asset, index):
        raise OSError(asset)

    def is_opaque(self, asset):
        return False


def painted(scene: Scene, frame: int) -> np.ndarray:
    return Painter(program_of(Evaluation(scene)), NoPictures()).picture(frame).astype(int)


def sliding(*values: tuple[float, float]) -> tuple[Track, ...]:
    return (Track("x", tuple(Key(f"k{i}", t, x) for i, (t, x) in enumerate(values))),)


INNER = Scene(
    200,
    100,
    Rate(30),
    60,
    "#ffe0b0",
    (
        Layer("box", "Box", Shape("rectangle", 30, 30, "#2266ff"), Transform((20, 50)), keys=sliding((0, 20.0), (60, 140.0))),
        Layer("out", "Out", Shape("ellipse", 60, 60, "#cc2244"), Transform((200, 100))),
    ),
)  # fmt: skip
BLUE_FIRST = np.array([[0x44, 0x22, 0xCC], [0xFF, 0x66, 0x22]])
"""The circle and the box, as pixels are kept."""
MIDDLE = Transform((200, 150))
BESIDE = Beside("in", "Inner", INNER)


def outer(inner: Scene = INNER, transform: Transform = MIDDLE, **played) -> Scene:
    content = replace(insets.inset_of("in", inner), **played)
    layer = Layer("shown", "Shown", content, transform)
    whole = Scene(400, 300, Rate(30), 60, "#dddddd", (layer,))
    return whole.with_scenes((Beside("in", "Inner", inner),))


def moments(scene: Scene) -> np.ndarray:
    inside = Evaluation(scene).within(scene.layers[0])
    assert inside is not None
    return inside.times()


def test_at_its_own_speed_each_frame_is_the_frame_of_the_scene_by_itself():
    scene = outer()
    assert np.array_equal(moments(scene)[:60], np.arange(60))
    for frame in (0, 17, 59):
        # At rest in the middle: px for px what the scene is by itself, but for a few at the edge
        # of a circle that is cut.
        apart = np.abs(painted(scene, frame)[100:200, 100:300] - painted(INNER, frame))
        assert (apart.max() <= 20, np.count_nonzero(apart.max(axis=2)) <= 20) == (True, True)


@pytest.mark.parametrize(
    ("played", "expected"),
    [
        ({"speed": 0.5}, [0, 0.5, 1, 1.5]),
        ({"speed": 2.0}, [0, 2, 4, 6]),
        ({"starts": 10.0, "after": "hold"}, [0, 0, 0, 0]),
        ({"starts": -58.0, "after": "hold"}, [58, 59, 59, 59]),
        ({"starts": -58.0}, [58, 59, 0, 1]),
        ({"starts": -58.0, "after": "return"}, [58, 59, 58, 57]),
        ({"speed": -1.0}, [59, 58, 57, 56]),
        ({"begin": 1.0}, [30, 31, 32, 33]),
        ({"begin": 1.0, "end": 1.1, "after": "repeat"}, [30, 31, 32, 30]),
        ({"begin": 5.0}, [59, 59, 59, 59]),
    ],
)
def test_which_moment_is_seen_when(played, expected):
    assert moments(outer(**played))[:4] == pytest.approx(expected, abs=1e-6)


@given(
    speed=st.floats(-4, 4).filter(lambda x: abs(x) > 0.01),
    after=st.sampled_from(playing.AFTER),
    starts=st.integers(-90, 90),
    frames=st.integers(2, 40),
)
def test_whole_frames_are_those_that_footage_would_show(speed, after, starts, frames):
    """Footage of the same frames, asked where a moment is whole, is an independent way to it."""
    cut = Cut(0.0, frames / 25, after)
    gone = playing.elapsed(np.arange(50.0), starts, 25.0, speed)
    found, seen = playing.moments(gone, cut, 25.0, backwards=speed < 0)
    begins = np.arange(frames + 1) / 25
    shown = playing.played(gone, cut, begins, backwards=speed < 0)
    whole = np.abs(found - np.round(found)) < 1e-6
    there = seen & whole
    assert np.array_equal(np.round(found[there]), shown.index[there])
    assert np.array_equal(seen[whole], (shown.index != playing.NOTHING)[whole])


def test_what_is_slowed_down_goes_on_smoothly_and_round():
    around = loop("round")
    rider = Layer("r", "R", Shape("ellipse", 10, 10), ride=ride_round("round", 60))
    inner = replace(INNER, layers=(rider,), paths=(around,))
    scene = outer(inner, speed=0.25)
    scene = replace(scene, length=240)
    inside = Evaluation(scene).within(scene.layers[0])
    assert inside is not None
    places = inside.motion("r").maps[:, 4:]
    steps = np.hypot(*np.diff(places, axis=0).T)
    assert len(places) == 241
    assert steps.min() > 0
    own = Evaluation(inner).motion("r").maps[:, 4:]
    assert np.allclose(places[::4], own, atol=1e-6)
    # Between two frames lies what a finer scene has there.
    assert np.allclose(places[2::4], own[:-1] + np.diff(own, axis=0) / 2, atol=0.35)
    assert steps.max() / np.median(steps) < 1.2


def test_a_ride_that_settles_lies_between_its_frames():
    around = loop("round")
    ride = replace(ride_round("round", 60), facing=Facing("fixed"), settle_s=0.4)
    inner = replace(INNER, layers=(Layer("r", "R", Shape(), ride=ride),), paths=(around,))
    scene = replace(outer(inner, speed=0.5), length=120)
    inside = Evaluation(scene).within(scene.layers[0])
    assert inside is not None
    own = Evaluation(inner).motion("r").maps[:, 4:]
    found = inside.motion("r").maps[:, 4:]
    assert np.allclose(found[::2], own, atol=1e-9)
    assert np.allclose(found[1::2], (own[1:] + own[:-1]) / 2, atol=1e-9)


def test_it_is_cut_at_its_frame_and_as_faint_as_its_layer():
    faint = Transform((200, 150), opacity=0.5)
    picture = painted(outer(transform=faint), 0)
    ground = np.array([0xDD, 0xDD, 0xDD])
    # The circle at the corner is seen within the frame only.
    assert np.abs(picture[195, 295, :3] - (ground + BLUE_FIRST[0]) / 2).max() <= 2
    assert np.array_equal(picture[205, 305, :3], ground)
    # What lies over each other inside does not show through.
    assert np.abs(picture[150, 120, :3] - (ground + BLUE_FIRST[1]) / 2).max() <= 2


def test_its_place_size_and_turn_are_its_layers():
    scene = outer(transform=Transform((200, 150), scale=(0.5, -1.0), turn=90.0))
    item = next(
        s
        for s in program_of(Evaluation(scene)).steps
        if isinstance(s, Item) and s.name == "shown.box"
    )
    own = Evaluation(INNER).motion("box").map(9)
    # (x, y) of the inner scene about its middle: halved, mirrored, and a quarter turned.
    x, y = own[4] + 15 * own[0] + 15 * own[2] - 100, own[5] + 15 * own[1] + 15 * own[3] - 50
    a, b, c, d, e, f = item.map(9)
    assert (a * 15 + c * 15 + e, b * 15 + d * 15 + f) == pytest.approx((200 + y, 150 + 0.5 * x))


def test_scenes_in_scenes_in_scenes_and_masks_blend_and_blur_with_their_size():
    hole = drawn("hole", "M20 20H180V80H20Z")
    mask = Mask((MaskPart("hole"),), feather=10.0)
    masked = replace(INNER.layers[0], mask=mask, blend="multiply")
    innermost = replace(INNER, layers=(masked,), paths=(hole,))
    middle = Scene(
        400,
        200,
        Rate(30),
        60,
        None,
        (
            Layer(
                "m",
                "M",
                insets.inset_of("deep", innermost),
                Transform((200, 100), scale=(2.0, 2.0)),
            ),
        ),
    )
    outside = Scene(
        400,
        200,
        Rate(30),
        60,
        None,
        (Layer("o", "O", insets.inset_of("mid", middle), Transform((200, 100), scale=(0.5, 0.5))),),
    )
    whole = outside.with_scenes((Beside("mid", "Mid", middle), Beside("deep", "Deep", innermost)))
    # Twice as large and half as large again: as if it stood there by itself.
    alone = Scene(
        400,
        200,
        Rate(30),
        60,
        None,
        (Layer("a", "A", insets.inset_of("deep", innermost), Transform((200, 100))),),
    )
    alone = alone.with_scenes((Beside("deep", "Deep", innermost),))
    assert np.abs(painted(whole, 20) - painted(alone, 20)).max() <= 2


def test_in_a_file_it_is_whole_and_what_it_tells_of_the_other_is_told_anew():
    scene = outer()
    longer = replace(INNER, length=90, width=320)
    kept = replace(scene, scenes=(Beside("in", "Inner", longer),))
    read = codec.from_json(codec.to_json(kept))
    content = read.layers[0].content
    assert isinstance(content, Inset)
    assert (content.width, content.times.count, read.scenes[0].scene) == (320.0, 90, longer)
    assert read.alone() == read  # what it shows is no part of what it is
    assert codec.to_data(read.alone())["scenes"] == []


def test_what_it_needs_are_the_files_of_all_of_them():
    film = Footage("a.mp4", 10, 10, FrameTimes(30, ((60, 1),)))
    scene = outer(replace(INNER, layers=(Layer("f", "F", film),)))
    assert list(scene.assets()) == ["a.mp4"]
    assert list(scene.with_assets({"a.mp4": "b.mp4"}).assets()) == ["b.mp4"]


def test_no_scene_shows_itself():
    def showing(name: str, *shown: str) -> Beside:
        layers = tuple(Layer(x, x, insets.inset_of(x, INNER)) for x in shown)
        return Beside(name, name.upper(), replace(INNER, layers=layers))

    for circle in ([showing("a", "a")], [showing("a", "b"), showing("b", "a")]):
        with pytest.raises(ValidationError, match="would show itself"):
            Scene(scenes=tuple(circle))
    chain = tuple(showing(f"s{i}", f"s{i + 1}") for i in range(9))
    with pytest.raises(ValidationError, match="more than 8 scenes deep"):
        Scene(scenes=chain)
    assert Scene(scenes=(*chain[:7], showing("s7"))).scenes
    with pytest.raises(ValidationError, match="brings none itself"):
        Beside("x", "X", outer())


def test_small_scenes_that_multiply_are_counted():
    def tens(name: str, of: str) -> Beside:
        layers = tuple(Layer(f"l{i}", "L", insets.inset_of(of, INNER)) for i in range(10))
        return Beside(name, name, replace(INNER, layers=layers))

    chain = (tens("a", "b"), tens("b", "c"), tens("c", "d"), Beside("d", "D", INNER))
    scene = Scene(layers=tens("top", "a").scene.layers).with_scenes(chain)
    assert drawn_layers(scene) == (10 + 100 + 1000 + 10_000 + 2 * 10_000, 10_000, 0)
    with pytest.raises(EditRefused, match=f"{MOST_LAYERS:,}"):
        check_growth(None, scene)


def test_one_that_is_not_here_shows_nothing_and_says_so():
    scene = outer().alone()
    assert (painted(scene, 0) == painted(replace(scene, layers=()), 0)).all()
    assert [each.kind for each in reasons(scene, "shown", 0, lambda file: False)] == ["gone"]
    assert not reasons(outer(), "shown", 0, lambda file: False)
    over = outer(after="vanish", speed=2.0)
    assert [each.kind for each in reasons(over, "shown", 40, lambda file: False)] == ["over"]
    assert not reasons(over, "shown", 29, lambda file: False)


def test_the_seam_says_where_what_is_shown_does_not_go_on():
    assert not seam.report(Evaluation(outer(speed=0.75)))[0].clean
    assert (
        "shows frame 0 of its scene where 45"
        in seam.report(Evaluation(outer(speed=0.75)))[0].reasons()[0]
    )
    assert seam.report(Evaluation(outer(speed=2.0)))[0].clean
    # Where nothing moves, there is nothing to go on.
    still = replace(INNER, layers=INNER.layers[1:])
    assert seam.report(Evaluation(outer(still, speed=0.75))) == []
    riding = outer(still, speed=0.75)
    there = (Track("x", (Key("a", 0, 100.0), Key("b", 30, 200.0), Key("c", 60, 100.0))),)
    riding = riding.with_layer(replace(riding.layers[0], keys=there))
    assert seam.report(Evaluation(riding))[0].shows is None


def test_the_stage_is_told_of_it_again_only_where_the_other_scene_is_another():
    scene = outer()
    moved = scene.with_layer(replace(scene.layers[0], transform=Transform((10, 10))))
    assert b'"inside":[' in stage.pack(scene)
    assert b'"same":true' in stage.pack(scene, scene)
    put = stage.pack(moved, scene)
    assert b'"pose":true' in put
    assert b'"inside":[' not in put
    other = scene.with_scenes((Beside("in", "Inner", replace(INNER, background="#000000")),))
    assert b'"inside":[' in stage.pack(other, scene)


def test_it_is_trimmed_and_played_as_footage_is():
    scene = outer()
    cut = applied(scene, trim(scene, "shown", start=15, end=45).commands).layers[0].content
    assert isinstance(cut, Inset)
    assert (cut.begin, cut.end, cut.starts) == pytest.approx((0.5, 1.5, 15))
    lasting = applied(scene, play(scene, "shown", {}, Moment(), lasts=4.0).commands)
    assert lasting.layers[0].content.speed == pytest.approx(0.5)
    with pytest.raises(EditRefused, match="not a footage"):
        play(scene, "shown", {}, Moment(), fade=4.0)
    with pytest.raises(EditRefused, match="neither footage nor a scene"):
        play(INNER, "box", {"begin": 0.1}, Moment())


def grouped() -> Scene:
    """A group that turns on a path, with a path of its own and a line on it."""
    inner_path, round_path = drawn("in", "M100 100L260 160"), loop("round")
    members = (
        Layer("line", "Line", Line("in", "#204060", 4.0), parent="g"),
        Layer("box", "Box", Shape("rectangle", 40, 40, "#2266ff"), Transform((140, 120)), parent="g", keys=sliding((0, 140.0), (60, 240.0))),
    )  # fmt: skip
    group = Layer(
        "g", "Both", Group((180, 130)), Transform(scale=(0.5, 0.5)), ride_round("round", 60)
    )
    watcher = Layer("w", "W", Shape("ellipse", 8, 8, "#cc2244"), Transform((20, 20)))
    return Scene(
        400,
        300,
        Rate(30),
        60,
        "#ffffff",
        (*members, group, watcher),
        (replace(inner_path, parent="g"), round_path),
    )


def test_a_group_becomes_a_scene_of_its_own_and_nothing_is_seen_to_change():
    scene = grouped()
    inner = insets.scene_of_group(scene, "g", 0)
    assert {layer.id for layer in inner.layers} == {"line", "box"}
    assert [path.id for path in inner.paths] == ["in"]
    assert inner.background is None
    beside = Beside("made", "Both", inner)
    edit = insets.group_to_scene(scene, "g", beside, 0)
    after = applied(scene, edit.commands).with_scenes((beside,))
    assert [layer.id for layer in after.layers] == ["g", "w"]
    assert [path.id for path in after.paths] == ["round"]
    for frame in (0, 23, 59):
        assert np.abs(painted(scene, frame) - painted(after, frame)).max() <= 8
    back = applied(after, insets.scene_to_group(after, "g", 0).commands)
    for frame in (0, 23, 59):
        assert np.abs(painted(scene, frame) - painted(back, frame)).max() <= 1


def test_as_a_group_what_was_sped_up_keeps_its_moments():
    scene = outer(replace(INNER, background=None, layers=INNER.layers[:1]), speed=2.0)
    back = applied(scene, insets.scene_to_group(scene, "shown", 0).commands)
    for frame in (0, 10, 29):
        assert np.abs(painted(scene, frame) - painted(back, frame)).max() <= 1


@pytest.mark.parametrize(
    ("played", "words"),
    [
        ({"speed": -1.0}, "not simply played"),
        ({"starts": 4.0}, "not simply played"),
        ({"begin": 0.5}, "not simply played"),
        ({"speed": 100.0}, "nearer to 100 %"),
    ],
)
def test_what_layers_cannot_do_is_refused(played, words):
    scene = outer(**played)
    with pytest.raises(EditRefused, match=words):
        insets.scene_to_group(scene, "shown", 0)
    with pytest.raises(EditRefused, match="not here"):
        insets.scene_to_group(scene.alone(), "shown", 0)
    with pytest.raises(EditRefused, match="not a group"):
        insets.scene_of_group(scene, "shown", 0)


def test_added_it_is_fitted_and_what_is_not_seen_of_it_is_said():
    wide = replace(INNER, width=800, length=300)
    edit = insets.show_scene(Scene(400, 300, length=60), Beside("in", "Inner", wide))
    layer = edit.commands[0].layer
    assert layer.transform.scale == (0.5, 0.5)
    assert ["10 s, this scene 2 s" in edit.notes[0], "50 %" in edit.notes[1]] == [True, True]


def test_keys_of_its_speed_are_seconds_that_go_by():
    scene = outer()
    faster = Track("speed", (Key("a", 0, 0.0), Key("b", 60, 2.0)))
    scene = scene.with_layer(replace(scene.layers[0], keys=(faster,)))
    # From rest to twice as fast in 60 frames: half of 30 x 1 by the middle.
    assert moments(scene)[30] == pytest.approx(15.0, abs=1e-6)
