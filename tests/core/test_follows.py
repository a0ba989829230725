"""What follows what, against numbers worked out by hand; rings, edits, the seam."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from coaster.commands import applied
from coaster.edits import becoming, follows, groups, layers
from coaster.edits.keys import Moment
from coaster.edits.pasting import Taken, paste
from coaster.errors import EditRefused
from coaster.motion import following
from coaster.motion.copies import Copies
from coaster.motion.keys import Key
from coaster.motion.wakes import READY
from coaster.render import seam, stage
from coaster.render.evaluate import Evaluation
from coaster.scene.contents import Line, Shape
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.follows import Follow
from coaster.scene.properties import Track
from tests.core.test_crowds import header_of
from tests.core.test_render import RING, loop

LENGTH = 60


def scene_of(*more: Follow, led: Layer | None = None) -> Scene:
    """A box on a ring, and a lamp that follows it."""
    lead = led or Layer("lead", "Lead", Shape(width=20, height=10), ride=loop(RING.id, LENGTH))
    lamp = Layer("lamp", "Lamp", Shape("ellipse", 8, 8), Transform((10, 20)), follows=more)
    return Scene(240, 200, length=LENGTH, layers=(lamp, lead), paths=(RING,))


def turns(scene: Scene, layer_id: str = "lamp") -> np.ndarray:
    """Return the angle of a layer in all frames, degrees that count on."""
    maps = Evaluation(scene).motion(layer_id).maps
    return np.degrees(np.unwrap(np.arctan2(maps[:, 1], maps[:, 0])))


def opacities(scene: Scene) -> np.ndarray:
    return Evaluation(scene).motion("lamp").opacities


def test_a_value_is_followed_by_range_and_range():
    scene = scene_of(Follow("opacity", "lead", "x", 60, 140, 0.2, 0.8))
    spots = Evaluation(scene).spots_of(Evaluation(scene).motion("lead"))
    wanted = 0.2 + 0.6 * np.clip((spots[:, 0] - 60) / 80, 0, 1)
    assert opacities(scene) == pytest.approx(wanted, abs=1e-9)
    backwards = scene_of(Follow("opacity", "lead", "x", 60, 140, 0.8, 0.2))
    assert opacities(backwards) == pytest.approx(1.0 - wanted, abs=1e-9)


def test_what_changes_is_followed_first():
    # Round the ring at an even pace the speed tells nothing.
    assert follows.usual_of(scene_of(), "lead") == "travelled"
    halting = (Track("shift", (Key("a", 0, 0.0), Key("b", 30, 40.0), Key("c", 60, 0.0))),)
    lead = Layer("lead", "Lead", Shape(), ride=loop(RING.id, LENGTH), keys=halting)
    assert follows.usual_of(scene_of(led=lead), "lead") == "speed"
    still = Layer("lead", "Lead", Shape())
    assert follows.usual_of(scene_of(led=still), "lead") == "x"
    drifting = (Track("y", (Key("a", 0, 1900.0), Key("b", 60, 1904.0))),)
    assert follows.usual_of(scene_of(led=replace(still, keys=drifting)), "lead") == "y"
    fading = (Track("opacity", (Key("a", 0, 0.0), Key("b", 30, 1.0))),)
    assert follows.usual_of(scene_of(led=replace(still, keys=fading)), "lead") == "opacity"


def test_heading_speed_and_travelled_are_those_of_the_ride():
    scene = scene_of(Follow("turn", "lead", "heading", 0, 360, 0, 360, beyond=True))
    travel = Evaluation(scene).motion("lead").travel
    assert turns(scene) == pytest.approx(
        np.degrees(travel.heading) - (np.degrees(travel.heading[0]) - turns(scene)[0]), abs=1e-6
    )
    speed = scene_of(Follow("x", "lead", "speed", 0, 1000, 0, 1000))
    place = Evaluation(speed).motion("lamp").stand.spots[:, 0]
    assert place == pytest.approx(np.abs(travel.rate) * speed.fps, abs=1e-6)
    far = scene_of(Follow("y", "lead", "travelled", 0, 1, 0, 100))
    place = Evaluation(far).motion("lamp").stand.spots[:, 1]
    assert place == pytest.approx(np.linspace(0, 100, LENGTH + 1), abs=1e-6)


def test_what_rides_nothing_is_followed_by_its_keys():
    track = Track("x", (Key("a", 0, 0.0), Key("b", 30, 60.0), Key("c", 60, 0.0)))
    lead = Layer("lead", "Lead", Shape(), keys=(track,))
    scene = scene_of(Follow("opacity", "lead", "x", 0, 60, 0, 1), led=lead)
    assert opacities(scene)[[0, 15, 30, 60]] == pytest.approx([0, 0.5, 1, 0], abs=1e-9)
    led = follows.seen_in(scene, "lead", "speed")
    assert led[[10, 20]] == pytest.approx(2 * scene.fps)
    grown = scene_of(Follow("scale", "lead", "opacity", 0, 1, 1, 3), led=replace(lead, keys=()))
    assert Evaluation(grown).motion("lamp").maps[0, 0] == pytest.approx(3)


@given(later=st.floats(-90, 90), lag=st.floats(0.1, 40))
def test_what_comes_round_is_followed_round_the_loop(later, lag):
    frames = np.arange(61)
    source = np.sin(frames * 2 * np.pi / 60)
    source[-1] = source[0]
    delayed = following.delayed(source, later)
    assert delayed == pytest.approx(np.interp((frames - later) % 60, frames, source), abs=1e-9)
    lagging = following.lagging(source, lag)
    assert abs(lagging[-1] - lagging[0]) < 1e-9
    kept = np.exp(-1 / lag)
    assert lagging[1:] == pytest.approx(kept * lagging[:-1] + (1 - kept) * source[1:], abs=1e-9)


def test_a_step_is_there_by_63_percent_after_the_lag_and_a_turn_goes_on_turning():
    step = np.r_[np.zeros(1), np.ones(60)]
    assert following.lagging(step, 10.0)[10] == pytest.approx(1 - np.exp(-1), abs=1e-9)
    ramp = np.linspace(0, 360, 61)
    late = following.late(ramp, 5.0, 0.0, gain=360.0)
    assert late == pytest.approx(ramp - 30, abs=1e-9)
    lagging = following.late(ramp, 0.0, 8.0, gain=360.0)
    kept = np.exp(-1 / 8)
    assert lagging[1:] == pytest.approx(kept * lagging[:-1] + (1 - kept) * ramp[1:], abs=1e-6)
    scene = scene_of(
        Follow("turn", "lead", "heading", 0, 360, 0, 360, beyond=True, later=7.0, damping=0.2)
    )
    assert all(row.clean for row in seam.report(Evaluation(scene)))


def test_rings_are_refused_in_words():
    scene = scene_of(Follow("opacity", "lead", "x", 0, 100, 0, 1))
    with pytest.raises(EditRefused, match="follow"):
        follows.follow(scene, "lead", "opacity", "lamp", "opacity")
    with pytest.raises(EditRefused, match="itself"):
        follows.follow(scene, "lamp", "turn", "lamp", "x")
    with pytest.raises(EditRefused, match="no 'colour'"):
        follows.follow(scene, "lamp", "colour", "lead", "x")
    with pytest.raises(EditRefused, match="two numbers"):
        follows.set_follow(scene, "lamp", "opacity", {"low": 100.0})
    with pytest.raises(EditRefused, match="0 to 100 %"):
        follows.set_follow(scene, "lamp", "opacity", {"at_high": 3.0})


def test_what_follows_becomes_no_path_until_that_is_let_go():
    scene = scene_of(Follow("turn", "lead", "x", 0, 100, 0, 1))
    with pytest.raises(EditRefused, match="Let that go first"):
        becoming.to_path(scene, "lamp", 0)
    free = applied(scene, follows.let_go(scene, "lamp", "turn").commands)
    assert becoming.to_path(free, "lamp", 0).commands


def test_the_plans_link_change_and_let_go():
    scene = scene_of()
    scene = applied(scene, follows.follow(scene, "lamp", "turn", "lead", "heading").commands)
    (made,) = scene.layer("lamp").follows
    assert (made.low, made.high, made.at_low, made.at_high, made.beyond) == (0, 360, 0, 360, True)
    scene = applied(
        scene, follows.set_follow(scene, "lamp", "turn", {"value": "x", "beyond": False}).commands
    )
    (made,) = scene.layer("lamp").follows
    assert made.high - made.low == pytest.approx(120, abs=2)
    assert [x.id for x, _ in follows.followers_of(scene, "lead")] == ["lamp"]
    gone = layers.delete_layers(scene, ["lead"])
    assert "has its own values again" in gone.notes[0]
    assert applied(scene, gone.commands).layer("lamp").follows == ()
    both = applied(scene, layers.copy_layer(scene, "lamp").commands)
    assert [x.follows == (made,) for x in both.layers] == [True, True, False]
    assert applied(scene, follows.let_go(scene, "lamp", "turn").commands) == replace(
        scene, layers=(replace(scene.layer("lamp"), follows=()), scene.layer("lead"))
    )


def test_what_is_followed_may_go_in_any_way_and_what_is_set_meanwhile_is_said():
    scene = scene_of(Follow("opacity", "lead", "x", 60, 140, 0, 1))
    grouped = applied(scene, groups.group(scene, ["lead"], 0).commands)
    pod = next(x.id for x in grouped.layers if x.content.can.hold)
    lamp = grouped.layer("lamp")
    by_pod = grouped.with_layer(replace(lamp, follows=(Follow("opacity", pod, "x"),)))
    gone = groups.ungroup(by_pod, pod, 0)
    assert "has its own values again: Lamp" in gone.notes[-1]
    assert applied(by_pod, gone.commands).layer("lamp").follows == ()
    line = Layer("line", "Line", Line(RING.id))
    by_line = replace(scene, layers=(line, *scene.layers))
    by_line = by_line.with_layer(replace(lamp, follows=(Follow("opacity", "line", "width"),)))
    gone = layers.delete_path(by_line, RING.id, 0)
    assert any("has its own values again: Lamp" in note for note in gone.notes)
    assert applied(by_line, gone.commands).layer("lamp").follows == ()
    placed = scene.with_layer(replace(scene.layer("lamp"), follows=(Follow("x", "lead", "x"),)))
    for edit in (
        layers.move_to(placed, "lamp", (5, 5), Moment(0, pin=False)),
        layers.nudge(placed, ["lamp"], (1, 0), Moment(0, pin=False)),
    ):
        assert any("what was set rests" in note for note in edit.notes)
    plain = layers.place(placed, "lamp", {"turn": 5.0}, Moment(0, pin=False))
    assert plain.notes == ()
    wide = scene.with_layer(
        replace(scene.layer("lamp"), follows=(Follow("size_x", "lead", "x", at_low=5, at_high=9),))
    )
    assert (
        "Width of Lamp" in layers.look(wide, "lamp", {"width": 30.0}, Moment(0, pin=False)).notes[0]
    )


def test_copies_wakes_and_groups_follow_as_well():
    link = Follow("scale", "lead", "x", 60, 140, 1, 2)
    scene = scene_of(link)
    lamp = replace(scene.layer("lamp"), ride=replace(loop(RING.id, LENGTH), copies=Copies(3)))
    copied = scene.with_layer(lamp)
    (one, other) = Evaluation(copied).copies_of(copied.layers)["lamp"]
    for copy in (one, other):
        sizes = np.hypot(copy.maps[:, 0], copy.maps[:, 1])
        assert np.ptp(sizes) == pytest.approx(1.0, abs=0.02)
    left = scene.with_layer(replace(scene.layer("lamp"), wake=READY["sparkle"]))
    maps, _, _ = Evaluation(left).trail_of(left.layer("lamp")).at(np.arange(LENGTH))
    plain = scene_of()
    plain = plain.with_layer(replace(plain.layer("lamp"), wake=READY["sparkle"]))
    before, _, _ = Evaluation(plain).trail_of(plain.layer("lamp")).at(np.arange(LENGTH))
    assert np.hypot(*maps[..., :2].T).max() > 1.3 * np.hypot(*before[..., :2].T).max()


def test_the_stage_is_told_what_is_seen_and_no_keys_of_it():
    scene = scene_of(Follow("opacity", "lead", "x", 60, 140, 0, 1))
    lamp = header_of(stage.pack(scene))["layers"][0]
    assert lamp["keys"] == []
    assert lamp["opacities"][1] == LENGTH + 1
    moved = scene.with_layer(replace(scene.layer("lead"), ride=None))
    again = header_of(stage.pack(moved, scene))["layers"]
    assert "same" not in again[0]


def test_what_is_pasted_elsewhere_without_its_lead_has_its_own_values():
    scene = scene_of(Follow("opacity", "lead", "x", 60, 140, 0, 1))
    edit = paste(Scene(), Taken(scene, ("lamp",)), 0)
    assert any("followed" in note for note in edit.notes)
    assert applied(Scene(), edit.commands).layers[0].follows == ()
    both = paste(scene, Taken(scene, ("lamp", "lead"), same=True), 0)
    after = applied(scene, both.commands)
    fresh = [x for x in after.layers if x.id not in ("lamp", "lead")]
    assert {x.id for x in fresh if not x.follows} == {
        each.layer for x in fresh for each in x.follows
    }
