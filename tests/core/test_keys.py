"""Keys over time, what is done to many at once, settling, and the ways of facing beyond the
path's.
"""

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from coaster.edits import layers
from coaster.edits.keys import Moment
from coaster.errors import EditRefused, SceneError
from coaster.geometry.path import Node, Path, Subpath
from coaster.motion import colours as palette
from coaster.motion import easing, keys
from coaster.motion.keys import Key
from coaster.motion.ride import AtPercent, Facing, NodeAngle, Peg, Ride
from coaster.motion.sections import Reach, moved, paced
from coaster.motion.settle import settled
from coaster.render import seam
from coaster.render.display import program_of
from coaster.render.evaluate import Evaluation
from coaster.render.frames import Frames
from coaster.render.raster import Painter
from coaster.scene import codec
from coaster.scene.contents import Line, Picture, Shape, Text
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.properties import Track
from tests.core import strategies as ours

RING = Path("ring", "Ring", (Subpath((
    Node("e", (300.0, 200.0), (0.0, -55.0), (0.0, 55.0)), Node("s", (200.0, 300.0), (55.0, 0.0), (-55.0, 0.0)),
    Node("w", (100.0, 200.0), (0.0, 55.0), (0.0, -55.0)), Node("n", (200.0, 100.0), (-55.0, 0.0), (55.0, 0.0)),
), closed=True),))  # fmt: skip
FULL = (Peg("a", 0, AtPercent(0)), Peg("b", 100, AtPercent(100)))


def plain(*pairs):
    return tuple(Key(f"k{i}", float(t), float(v)) for i, (t, v) in enumerate(pairs))


def painter(value) -> Painter:
    return Painter(program_of(Evaluation(value)), source=None)


def scene(*layers, length=100):
    return Scene(width=400, height=400, length=length, layers=layers, paths=(RING,))


def rider(facing=None, name="rider", **change):
    return Layer(
        name,
        name,
        Shape(width=60, height=20),
        ride=Ride("ring", FULL, facing or Facing(), **change),
    )


def angles(layer, *others):
    a, b, *_ = Evaluation(scene(layer, *others)).motion(layer.id).maps.T
    return np.degrees(np.unwrap(np.arctan2(b, a)))


# ---- values


@given(ours.some_keys())
def test_every_key_is_met_and_nothing_moves_outside_them(some):
    times = np.array([key.time for key in some])
    # A jump has come about at the key it starts from, and one that waits at the key it leads to.
    wanted = [
        some[i + 1].value if i + 1 < len(some) and key.step == "start" else key.value
        for i, key in enumerate(some)
    ]
    np.testing.assert_allclose(keys.values(some, times)[0], wanted, atol=1e-9)
    before, after = keys.values(some, [times[0] - 5, times[-1] + 5])[0]
    assert (before, after) == (some[0].value, some[-1].value)


@given(ours.some_keys())
def test_the_rate_is_the_slope_of_the_values(some):
    for a, b in pairwise(some):
        t = np.array([a.time + (b.time - a.time) * share for share in (0.3, 0.6)])
        h = (b.time - a.time) * 1e-6
        _, rate = keys.values(some, t)
        low, high = keys.values(some, t - h)[0], keys.values(some, t + h)[0]
        assume(np.all(np.abs(rate) < 1e4))
        np.testing.assert_allclose((high - low) / (2 * h), rate, rtol=0.02, atol=0.05)


@given(ours.some_keys(), st.integers(0, 150))
def test_a_key_is_put_in_or_changed_at_its_time(some, time):
    after = keys.with_key(some, time, 7.5, easing.PRESETS["ease-both"])
    assert keys.values(after[:], [time])[0][0] == 7.5 or after[-1].step == "start" or any(
        key.time == time and key.step == "start" for key in after)  # fmt: skip
    others = [(key.id, key.time, key.value) for key in after if key.time != time]
    assert others == [(key.id, key.time, key.value) for key in some if key.time != time]
    Track("x", after)


@given(ours.some_keys())
def test_backwards_twice_is_as_before_and_once_mirrors_the_values(some):
    twice = keys.backwards(keys.backwards(some))
    assert [(k.id, k.value) for k in twice] == [(k.id, k.value) for k in some]
    np.testing.assert_allclose([k.time for k in twice], [k.time for k in some], atol=1e-9)
    times = np.linspace(some[0].time, some[-1].time, 23)[1:-1] + 1e-4
    mirrored = some[0].time + some[-1].time - times
    assume(
        all(
            np.min(np.abs(times - key.time)) > 1e-5 and np.min(np.abs(mirrored - key.time)) > 1e-5
            for key in some
        )
    )
    np.testing.assert_allclose(
        keys.values(keys.backwards(some), mirrored)[0],
        keys.values(some, times)[0],
        atol=1e-5,
        rtol=1e-6,
    )


def test_repeats_get_longer_or_shorter_and_lower_and_end_where_they_ought_to():
    hop = plain((0, 0), (5, -100), (10, 0))
    dying = keys.repeated(hop, 4, stretch=0.8, fade=0.5)
    assert [key.value for key in dying] == [0, -100, 0, -50, 0, -25, 0, -12.5, 0]
    np.testing.assert_allclose([dying[i].time for i in (2, 4, 6, 8)], [10, 18, 24.4, 29.52])
    assert len({key.id for key in dying}) == 9
    again = keys.repeated(hop, 3)
    np.testing.assert_allclose(keys.values(again, [3, 13, 23])[0], [-60] * 3)


@pytest.mark.parametrize(
    ("do", "words"),
    [
        (lambda k: keys.repeated(k[:1], 3), "two keys or more"),
        (lambda k: keys.repeated(k, 1), "twice or more"),
        (lambda k: keys.repeated(k, 5000), "more than 5000 keys"),
        (lambda k: keys.repeated(k, 200, stretch=0.5), "shorter than a frame"),
        (lambda k: moved(k, ["k0"], 10), "pass each other"),
    ],
)
def test_what_cannot_be_done_to_keys_is_refused_in_words(do, words):
    with pytest.raises(EditRefused, match=words):
        do(plain((0, 0), (10, 1)))


@pytest.mark.parametrize(
    ("tracks", "words"),
    [
        ([{"property": "x", "keys": []}], "at least 1"),
        (
            [{"property": "opacity", "keys": [{"id": "a", "time": 0, "value": 2}]}],
            "opacity is 0 to 100 %, not 200 %",
        ),
        (
            [
                {
                    "property": "x",
                    "keys": [
                        {"id": "a", "time": 1, "value": 2},
                        {"id": "b", "time": 1, "value": 2},
                    ],
                }
            ],
            "order",
        ),
        (
            [{"property": n, "keys": [{"id": "a", "time": 0, "value": 1}]} for n in ("x", "x")],
            "one list a property",
        ),
    ],
)
def test_a_scene_with_keys_that_make_no_sense_is_refused(tracks, words):
    data = codec.to_data(scene(Layer("l", "L", Shape())))
    data["layers"][0]["keys"] = tracks
    with pytest.raises(SceneError, match=words):
        codec.from_data(data)


def test_a_property_takes_thousands_of_keys():
    many = tuple(Key(f"k{i}", i / 2, float(i % 7)) for i in range(2000))
    found, _ = keys.values(many, np.arange(1000.0))
    np.testing.assert_allclose(found, [(2 * i) % 7 for i in range(1000)])


# ---- keyed layers


def test_keys_move_a_layer_and_a_ride_has_the_place():
    tracks = (Track("x", plain((0, 10), (50, 60))), Track("scale", plain((0, 1), (100, 3))),
              Track("turn", plain((0, 0), (100, 90))), Track("opacity", plain((0, 0), (10, 1))))  # fmt: skip
    layer = Layer("l", "L", Shape(width=60, height=20), Transform((0, 77)), keys=tracks)
    found = Evaluation(scene(layer)).motion(layer.id)
    centre = found.maps @ np.array([[30, 0], [0, 30], [10, 0], [0, 10], [1, 0], [0, 1]])
    np.testing.assert_allclose(
        centre[[0, 25, 50, 99]], [[10, 77], [35, 77], [60, 77], [60, 77]], atol=1e-9
    )
    a, b = found.maps[50, :2]
    assert np.hypot(a, b) == pytest.approx(2)
    assert np.degrees(np.arctan2(b, a)) == pytest.approx(45)
    assert [found.opacity(f) for f in (0, 5, 40)] == [0, 0.5, 1]
    ridden = replace(rider(), keys=tracks)
    np.testing.assert_allclose(
        Evaluation(scene(ridden)).motion(ridden.id).travel.position,
        Evaluation(scene(rider())).motion(rider().id).travel.position,
    )
    assert Evaluation(scene(ridden)).motion(ridden.id).opacity(5) == 0.5


def test_a_keyed_shift_takes_the_rider_along_its_path():
    still = replace(
        rider(),
        ride=replace(rider().ride, pegs=FULL[:1]),
        keys=(Track("shift", plain((0, 0), (100, 50))),),
    )
    found = Evaluation(scene(still)).motion(still.id).travel
    assert found.position[0] == pytest.approx((300, 200))
    assert found.position[100] == pytest.approx((100, 200), abs=1e-6)
    assert np.degrees(found.heading[50]) == pytest.approx(180, abs=0.5)
    assert found.rate[50] == pytest.approx(found.travelled[100] / 100)


@given(st.tuples(*[st.integers(0, 255)] * 6), st.floats(0, 1))
def test_colours_meet_their_keys_and_between_them_lightness_is_even(levels, share):
    first, last = ("#{:02x}{:02x}{:02x}".format(*levels[i : i + 3]) for i in (0, 3))
    some = (Key("a", 0.0, first), Key("b", 10.0, last))
    found = keys.colours(some, [-3, 0, 10 * share, 10, 12])
    assert [palette.to_hex(found[i]) for i in (0, 1, 3, 4)] == [first, first, last, last]
    ends = palette.lab(found[[1, 3], :3])[:, 0]
    # Mixed colours may lie outside what a screen shows, and are held within it.
    assert palette.lab(found[2, :3])[0] == pytest.approx(
        ends[0] + share * (ends[1] - ends[0]), abs=0.04
    )
    assert np.all((found >= 0) & (found <= 1))


def test_keyed_colours_and_widths_are_what_is_drawn():
    box = Layer(
        "l",
        "L",
        Shape(width=100, height=100, fill="#000000", stroke="#ff0000", stroke_width=4),
        Transform((200, 200)),
    )
    blue_to_green = (Key("a", 0.0, "#0000ff"), Key("b", 10.0, "#00ff00"))
    yellow = Track("stroke", (Key("c", 0.0, "#ffff00"),))
    painted = replace(
        box, keys=(Track("width", plain((0, 4), (10, 60))), Track("colour", blue_to_green), yellow)
    )
    drawn = painter(replace(scene(painted), background="#ffffff"))
    pixel = [
        [tuple(int(v) for v in drawn.picture(f)[y, 200, 2::-1]) for y in (200, 125)]
        for f in (0, 10)
    ]
    assert pixel == [[(0, 0, 255), (255, 255, 255)], [(0, 255, 0), (255, 255, 0)]]
    line = Layer("w", "W", Line("ring"), keys=(Track("width", plain((0, 2), (10, 40))),))
    ring = painter(replace(scene(line), background="#ffffff"))
    assert [int(ring.picture(f)[200, 115, 0]) for f in (0, 10)] == [255, 0x2E]


@pytest.mark.parametrize(
    ("content", "name", "key", "words"),
    [
        (Shape(), "colour", 3.0, "colour is a colour"),
        (Shape(), "x", "#ffffff", "x is a number"),
        (Shape(), "width", -1.0, "width is 0 to 1000"),
        (Shape(), "size", 40.0, "no size to be keyed; a shape has"),
        (Shape(), "size_x", 0.0, "size_x is 0.01 to"),
        (Picture("a.png", 5, 5), "colour", "#ffffff", "no colour to be keyed; a picture has"),
        (Line("ring"), "stroke", "#ffffff", "no stroke to be keyed; a line has"),
    ],
)
def test_a_key_of_the_wrong_kind_is_refused(content, name, key, words):
    with pytest.raises(ValueError, match=words):
        scene(Layer("l", "L", content, keys=(Track(name, (Key("a", 0.0, key),)),)))


def test_keyed_sizes_are_what_is_drawn_and_the_anchor_stays():
    tracks = (
        Track("size_x", plain((0, 40), (10, 200))),
        Track("size_y", plain((0, 40), (10, 100))),
    )
    box = Layer(
        "l",
        "L",
        Shape("ellipse", 40, 40, "#000000", "#ff0000", 6),
        Transform((200, 200)),
        keys=tracks,
    )
    drawn = painter(replace(scene(box), background="#ffffff"))
    for frame, wide, high in ((0, 20, 20), (5, 60, 35), (10, 100, 50)):
        dark = drawn.picture(frame)[..., 1] < 128
        rows, columns = np.flatnonzero(dark.any(axis=1)), np.flatnonzero(dark.any(axis=0))
        # The stroke keeps its width: half of it lies outside.
        assert (columns[0], columns[-1]) == pytest.approx((200 - wide - 3, 199 + wide + 3), abs=1)
        assert (rows[0], rows[-1]) == pytest.approx((200 - high - 3, 199 + high + 3), abs=1)
    text = Layer(
        "t",
        "T",
        Text("Tide", size=40),
        Transform((200, 200)),
        keys=(Track("size", plain((0, 40), (10, 80))),),
    )
    small, large = (painter(replace(scene(x), background="#ffffff")) for x in (
        text, replace(text, content=replace(text.content, size=80), keys=())))  # fmt: skip
    assert np.abs(small.picture(10).astype(int) - large.picture(0)).mean() < 0.5


def test_the_seam_tells_a_size_and_not_a_place_where_only_the_size_has_keys():
    box = Layer(
        "l",
        "L",
        Shape(width=40),
        Transform((200, 200)),
        keys=(Track("size_x", plain((0, 40), (100, 200))),),
    )
    (found,) = seam.report(Evaluation(scene(box)))
    assert found.position == pytest.approx(0)
    assert [reason.split(" by ")[0] for reason in found.reasons()] == ["changes size"]


def test_colours_repeat_and_turn_round_like_any_keys():
    some = (Key("a", 0.0, "#000000"), Key("b", 10.0, "#ffffff"))
    assert [k.value for k in keys.repeated(some, 3, fade=0.5)] == [
        "#000000",
        "#ffffff",
        "#ffffff",
        "#ffffff",
    ]
    assert [k.value for k in keys.backwards(some)] == ["#ffffff", "#000000"]


def test_a_keyed_opacity_is_what_is_drawn_and_a_layer_that_fades_is_not_still():
    box = Layer("l", "L", Shape(width=100, height=100, fill="#000000"), Transform((200, 200)))
    fading = replace(box, keys=(Track("opacity", plain((0, 1), (50, 0))),))
    drawn = painter(replace(scene(fading), background="#ffffff"))
    shades = [int(drawn.picture(frame)[200, 200, 0]) for frame in (0, 25, 50, 10)]
    assert shades == pytest.approx([0, 127, 255, 51], abs=1)


def test_a_frame_looked_at_alone_is_as_in_the_whole():
    soft = rider(Facing("target", spot=(0, 0), settle_s=0.5), settle_s=0.3)
    keyed = Layer(
        "k",
        "K",
        Shape(),
        keys=(Track("x", plain((0, 0), (70, 50))), Track("opacity", plain((3, 0), (9, 1)))),
    )
    made = scene(soft, keyed)
    for layer in (soft, keyed):
        whole = Evaluation(made).motion(layer.id)
        for frame in (0, 31, 100):
            alone = Evaluation(made).motions_of([layer], Frames.one(frame))[0]
            np.testing.assert_allclose(alone.map(frame), whole.map(frame), atol=1e-9)
            assert alone.opacity(frame) == pytest.approx(whole.opacity(frame))


def test_the_seam_tells_what_keys_do_to_it():
    layer = Layer("l", "L", Shape(), Transform((200, 200)), keys=(
        Track("x", plain((0, 0), (100, 30))), Track("scale", plain((0, 1), (100, 2))),
        Track("opacity", plain((0, 1), (100, 0.5))),
    ))  # fmt: skip
    (found,) = seam.report(Evaluation(scene(layer)))
    assert not found.clean
    assert found.reasons() == [
        "jumps 30.0 px",
        "changes size by -50% at once",
        "changes opacity by +50% at once",
    ]
    assert found.speed_end == pytest.approx(0.3 * 30)
    there_and_back = replace(
        layer,
        keys=(Track("x", paced(plain((0, 0), (50, 30), (100, 0)), easing.PRESETS["ease-both"])),),
    )
    assert seam.report(Evaluation(scene(there_and_back)))[0].clean
    assert seam.report(Evaluation(scene(replace(layer, keys=())))) == []


def test_a_line_takes_keys_of_its_opacity_alone():
    line = Layer("l", "L", Line("ring"), keys=(Track("opacity", plain((0, 0), (50, 1))),))
    assert Evaluation(scene(line)).motion(line.id).opacity(25) == 0.5
    with pytest.raises(ValueError, match=r"a line has opacity, .*width, dashes, colour"):
        scene(replace(line, keys=(Track("x", plain((0, 0))),)))


# ---- settle


@given(st.lists(st.floats(-500, 500), min_size=2, max_size=80), st.floats(0.2, 60))
def test_settling_round_a_loop_is_the_same_in_every_lap(values, settle):
    once = np.array([*values, values[0]])
    lap = settled(once, settle, loop=True)
    assert lap[-1] - lap[0] == pytest.approx(0, abs=1e-6)
    many = settled(np.concatenate([*[once[:-1]] * 400, once[:1]]), settle)
    np.testing.assert_allclose(many[-len(once) :], lap, atol=0.05)


def test_settling_takes_its_seconds_and_turns_are_counted_on():
    step = np.concatenate([[0.0], np.ones(200)])
    soft = settled(step, 30.0)
    assert soft[30] == pytest.approx(0.95, abs=0.005)
    np.testing.assert_array_equal(settled(step, 0.0), step)
    np.testing.assert_array_equal(settled(step[:50], 30.0), soft[:50])
    turning = np.linspace(0, 2 * np.pi, 101)
    lap = settled(turning, 20.0, loop=True)
    assert lap[-1] - lap[0] == pytest.approx(2 * np.pi)
    np.testing.assert_allclose(np.diff(lap), 2 * np.pi / 100)


# ---- facing


def test_a_target_is_looked_at_and_two_may_look_at_each_other():
    here = Evaluation(scene(rider())).motion(rider().id).travel.position
    for facing, goal in (
        (Facing("target", spot=(50, 60)), np.array([50, 60])),
        (Facing("target", target="o"), None),
    ):
        other = rider(Facing("target", target="rider"), name="o", offset=30)
        there = (
            Evaluation(scene(rider(), other)).motion(other.id).travel.position
            if goal is None
            else goal
        )
        want = np.degrees(np.arctan2(*(there - here).T[::-1]))
        found = angles(rider(facing), other)
        np.testing.assert_allclose((found - want + 180) % 360 - 180, 0, atol=1e-6)


def test_angles_at_nodes_are_blended_the_short_way_or_as_counted():
    turns = (NodeAngle("e", 350), NodeAngle("w", 10))
    short = angles(rider(Facing("nodes", angles=turns)))
    assert np.ptp(short) == pytest.approx(20)
    assert short[[0, 25, 50, 75]] == pytest.approx([-10, 0, 10, 0], abs=0.01)
    counted = angles(rider(Facing("nodes", angles=turns, counted=True)))
    assert np.ptp(counted) == pytest.approx(340)
    assert np.all(angles(rider(Facing("nodes"))) == 0)
    assert angles(rider(Facing("nodes", angles=turns[:1], turn=5))) == pytest.approx([-5] * 101)


def test_rolling_turns_by_the_shift_along_one_axis():
    found = angles(rider(Facing("roll", per_px=0.9)))
    x = Evaluation(scene(rider())).motion(rider().id).travel.position[:, 0]
    np.testing.assert_allclose(found, (x - 300) * 0.9, atol=1e-6)
    assert angles(rider(Facing("roll", axis="y", per_px=1)))[25] == pytest.approx(100, abs=1e-6)


def test_a_settled_facing_turns_less_abruptly_and_meets_its_start():
    square = replace(RING, subpaths=(replace(RING.subpaths[0], nodes=tuple(
        replace(n, handle_in=(0.0, 0.0), handle_out=(0.0, 0.0)) for n in RING.subpaths[0].nodes)),))  # fmt: skip
    hard, soft = (
        np.degrees(
            Evaluation(replace(scene(layer), paths=(square,))).motion(layer.id).travel.facing
        )
        for layer in (rider(), rider(Facing(settle_s=0.4)))
    )
    assert np.abs(np.diff(hard)).max() > 80
    assert np.abs(np.diff(soft)).max() < 25
    assert soft[-1] - soft[0] == pytest.approx(360)


@pytest.mark.parametrize(
    ("facing", "words"),
    [
        (Facing("target", target="rider"), "itself"),
        (Facing("target", target="gone"), "not there"),
        (Facing("nodes", angles=(NodeAngle("gone", 1),)), "an angle at a node 'gone'"),
    ],
)
def test_a_facing_that_names_what_is_not_there_is_refused(facing, words):
    with pytest.raises(ValueError, match=words):
        scene(rider(facing))


def test_a_reach_of_its_own_shapes_the_section():
    quick = (
        replace(plain((0, 0))[0], leave=Reach(0.1, 0.9)),
        replace(plain((0, 0), (100, 1))[1], arrive=Reach(0.9, 0.1)),
    )
    assert keys.values(quick, [20])[0][0] > 0.75


def test_a_value_set_between_keys_without_the_pin_says_that_all_of_them_changed():
    shown = Layer("a", "A", Shape("rectangle", 20, 10))
    keys = (Key("k1", 0, 0.5), Key("k2", 20, 2.0))
    scene = Scene(100, 100, length=40, layers=(replace(shown, keys=(Track("size_x", keys),)),))
    between = layers.place(scene, "a", {"size_x": 1.0}, Moment(10))
    assert "All 2 keys" in between.notes[0]
    assert "Pin" in between.notes[0]
    assert layers.place(scene, "a", {"size_x": 1.0}, Moment(20)).notes == ()
    assert layers.place(scene, "a", {"size_x": 1.0}, Moment(10, pin=True)).notes == ()
