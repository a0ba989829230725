"""The frame round a layer: what a hand does to its handles is seen where the hand is."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from coaster.commands import applied
from coaster.edits import frames
from coaster.edits.extents import box_of, own_box
from coaster.edits.keys import Moment
from coaster.errors import EditRefused
from coaster.geometry import affine
from coaster.motion.keys import Key
from coaster.render import places
from coaster.render.evaluate import Evaluation
from coaster.scene.contents import Group, Line, Shape
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.properties import Track
from tests.core.test_render import RING, loop

NOW = Moment(0.0)
HANDLES = [(x, y) for x in (-1, 0, 1) for y in (-1, 0, 1) if x or y]
size, turn, factor = (
    st.floats(20, 200),
    st.floats(-180, 180),
    st.sampled_from([-1.5, 0.4, 1.0, 2.0]),
)


@st.composite
def standing(draw) -> Scene:
    """A box that is turned, stretched and mirrored, in a group that is so, too, or in none."""
    at = Transform(
        (draw(size), draw(size)), (draw(st.floats(-0.2, 1.2)), draw(st.floats(-0.2, 1.2))),
        (draw(factor), draw(factor)), draw(turn),
    )  # fmt: skip
    shape = Shape("rectangle", draw(size), draw(size))
    one = Layer("one", "One", shape, at, parent=draw(st.sampled_from([None, "pod"])))
    even = draw(st.sampled_from([0.5, 2.0]))
    pod = Layer("pod", "Pod", Group((10.0, 20.0)), Transform((40.0, -30.0), scale=(even, even), turn=draw(turn)))  # fmt: skip
    return Scene(640, 360, length=9, layers=(one, pod) if one.parent else (one,))


def spot(scene: Scene, across: float, down: float, layer: str = "one") -> np.ndarray:
    """Where a share of a layer's box is seen."""
    left, top, width, height = own_box(scene, layer, 0)
    row = Evaluation(scene).motion(layer).map(0)
    return affine.apply(row, (left + across * width, top + down * height))


def stretched(scene: Scene, handle, end, **how) -> Scene:
    start = spot(scene, *((1 + np.array(handle)) / 2))
    how = {"even": False, "about_anchor": False} | how
    edit = frames.stretch(scene, "one", handle, tuple(start), tuple(end), NOW, **how)
    return applied(scene, edit.commands)


@given(standing(), st.sampled_from(HANDLES), st.floats(-150, 150), st.floats(-150, 150))
@settings(max_examples=80, deadline=None)
def test_a_handle_goes_with_the_hand_and_the_other_side_stays(scene, handle, dx, dy):
    share = (1 + np.array(handle)) / 2
    end = spot(scene, *share) + np.array([dx, dy])
    after = stretched(scene, handle, end)
    # Whatever the axes that the handle moves, the far side is where it was.
    assert spot(after, *(1 - share)) == pytest.approx(spot(scene, *(1 - share)), abs=0.02)
    if 0 not in handle:
        now, before = np.array(after.layer("one").transform.scale), np.array(scene.layer("one").transform.scale)  # fmt: skip
        assume(np.all(np.abs(now / before) > 0.01))
        assert spot(after, *share) == pytest.approx(end, abs=0.05)


@given(standing(), st.sampled_from(HANDLES), st.floats(-80, 80), st.floats(-80, 80))
@settings(max_examples=60, deadline=None)
def test_in_proportion_both_ways_change_alike_and_the_anchor_may_stay(scene, handle, dx, dy):
    share = (1 + np.array(handle)) / 2
    end = spot(scene, *share) + np.array([dx, dy])
    after = stretched(scene, handle, end, even=True, about_anchor=True)
    before, now = scene.layer("one").transform, after.layer("one").transform
    assert now.scale[0] / before.scale[0] == pytest.approx(now.scale[1] / before.scale[1], rel=1e-3)
    assert now.position == before.position


@given(standing(), turn)
@settings(max_examples=40, deadline=None)
def test_a_turn_follows_the_hand_round_the_anchor(scene, angle):
    x, y = places.spot_of(scene, "one", 0)
    # A hand tells a turn up to half of the way round.
    assume(abs(angle) < 179)
    cos, sin = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    edit = frames.turn(scene, "one", (x + 90, y), (x + 90 * cos, y + 90 * sin), NOW)
    after = applied(scene, edit.commands)
    was, now = spot(scene, 0.7, 0.3) - (x, y), spot(after, 0.7, 0.3) - (x, y)
    wanted = (cos * was[0] - sin * was[1], sin * was[0] + cos * was[1])
    assert now == pytest.approx(wanted, abs=0.02)


@given(standing(), st.floats(-0.5, 1.5), st.floats(-0.5, 1.5))
@settings(max_examples=40, deadline=None)
def test_an_anchor_is_moved_without_the_picture(scene, across, down):
    wanted = spot(scene, across, down)
    after = applied(scene, frames.move_anchor(scene, "one", tuple(wanted), NOW).commands)
    assert places.spot_of(after, "one", 0) == pytest.approx(wanted, abs=0.01)
    for share in ((0, 0), (1, 1)):
        assert spot(after, *share) == pytest.approx(spot(scene, *share), abs=0.01)


def box(**more) -> Scene:
    one = Layer("one", "One", Shape("rectangle", 100, 50), Transform((200.0, 100.0)), **more)
    return Scene(640, 360, length=20, layers=(one,), paths=(RING,))


def test_an_anchor_is_drawn_to_corners_edges_and_the_middle():
    for point, share in (((152, 78), (0, 0)), ((203, 121), (0.5, 1)), ((240, 90), (0.9, 0.3))):
        edit = frames.move_anchor(box(), "one", point, NOW, near=6.0)
        assert applied(box(), edit.commands).layer("one").transform.anchor == pytest.approx(share)


def test_keys_are_kept_and_pin_makes_one():
    tracks = (Track("x", (Key("a", 0, 200.0), Key("b", 10, 300.0))), Track("scale", (Key("a", 0, 1.0), Key("b", 10, 2.0))))  # fmt: skip
    keyed = box(keys=tracks)
    after = stretched(keyed, (1, 0), spot(keyed, 1, 0.5) + np.array([50, 0]))
    assert [key.value for key in after.layer("one").keys_of("scale")] == pytest.approx([1.5, 2.0])
    assert [key.value for key in after.layer("one").keys_of("x")] == pytest.approx([225, 300])
    edit = frames.turn(box(), "one", (250, 100), (200, 150), Moment(4.0, pin=True), steps=15)
    assert applied(box(), edit.commands).layer("one").keys_of("turn")[0].value == 90


def test_what_rides_is_scaled_about_its_anchor_and_keeps_it():
    riding = box(ride=loop(RING.id, 20))
    after = stretched(riding, (1, 1), spot(riding, 1, 1) + np.array([50, 25]))
    assert places.spot_of(after, "one", 0) == places.spot_of(riding, "one", 0)
    assert after.layer("one").transform.scale != (1.0, 1.0)
    with pytest.raises(EditRefused, match="rides by its anchor"):
        frames.move_anchor(riding, "one", (9, 9), NOW)


def test_a_group_is_scaled_with_all_that_is_in_it():
    pod = Layer("pod", "Pod", Group((200.0, 100.0)), Transform((200.0, 100.0)))
    inside = replace(box().layer("one"), parent="pod")
    scene = Scene(640, 360, length=9, layers=(inside, pod))
    assert own_box(scene, "pod", 0) == pytest.approx([150, 75, 100, 50])
    edit = frames.stretch(scene, "pod", (1, 1), (250, 125), (350, 175), NOW, even=True, about_anchor=False)  # fmt: skip
    after = applied(scene, edit.commands)
    assert box_of(after, ["one"], 0) == pytest.approx([150, 75, 350, 175], abs=0.01)
    moved = applied(after, frames.move_anchor(after, "pod", (150, 75), NOW, near=3).commands)
    assert box_of(moved, ["one"], 0) == pytest.approx([150, 75, 350, 175], abs=0.01)
    assert places.spot_of(moved, "pod", 0) == pytest.approx((150, 75))


def test_what_cannot_be_framed_is_refused_in_words():
    flat = box().with_layer(replace(box().layer("one"), transform=Transform(scale=(0.0, 1.0))))
    line = Scene(layers=(Layer("one", "One", Line(RING.id)),), paths=(RING,))
    empty = Scene(layers=(Layer("one", "One", Group()),))
    for scene, words in (
        (flat, "has no size here"),
        (line, "follows its path"),
        (empty, "shows nothing"),
    ):
        with pytest.raises(EditRefused, match=words):
            frames.stretch(
                scene, "one", (1, 1), (0, 0), (9, 9), NOW, even=False, about_anchor=False
            )


def test_a_rider_is_shifted_off_its_path_in_its_own_axes():
    """What is seen goes with the hand, wherever it faces; its ride is as it was."""
    rider = "one"
    shape = Layer(rider, "One", Shape(width=30, height=20), Transform(turn=20), ride=loop())
    one = Scene(200, 180, length=12, layers=(shape,), paths=(RING,))
    for frame in (0, 5, 11):
        before = Evaluation(one).motion(rider)
        row, box = before.map(frame), np.array(before.face(frame).box)
        start = affine.apply(row, box[:2] + box[2:] * 0.8)
        end = start + np.array([7.0, -4.0])
        edit = frames.shift(one, rider, tuple(start), tuple(end), Moment(float(frame)))
        after = applied(one, edit.commands)
        moved = Evaluation(after).motion(rider).map(frame)
        assert affine.apply(moved, box[:2] + box[2:] * 0.8) == pytest.approx(end, abs=0.01)
        assert after.layer(rider).ride == one.layer(rider).ride
        # The numbers of the card say the same, and put it back.
        off = frames.off_path(after, rider)
        assert np.hypot(*off) == pytest.approx(np.hypot(7, 4) / np.hypot(*row[:2]), rel=0.01)
        back = applied(after, frames.put_off_path(after, rider, (0.0, 0.0)).commands)
        assert back.layer(rider).transform.anchor == (0.5, 0.5)
