"""Carriers: where what is carried is, whatever carries it, and what changes leave where it is."""

from collections.abc import Callable
from dataclasses import replace
from functools import partial

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from coaster.commands import applied
from coaster.commands.fields import set_layer
from coaster.edits import carriers, frames, groups, layers, pasting, rides, transfers
from coaster.edits.edit import Edit
from coaster.edits.keys import Moment
from coaster.errors import CoreError, EditRefused
from coaster.geometry import affine
from coaster.render import places
from coaster.render.evaluate import Evaluation
from coaster.scene import codec
from coaster.scene.carriers import Carrier
from coaster.scene.document import Layer, Scene, Transform
from tests.core.test_groups import LENGTH, RING, SWELL, box, group, keyed, ride

AT = 7
number = st.floats(-80, 160)
transforms = st.builds(
    Transform,
    st.tuples(number, number),
    scale=st.tuples(st.floats(0.4, 2), st.sampled_from([-1.2, 0.5, 1.0])),
    turn=st.floats(-200, 200),
    skew=st.floats(-40, 40),
)


def unless_refused(scene: Scene, edit: Callable[[], Edit]) -> Scene:
    """The scene after an edit; a case in which a layer cannot be kept, as it would lean too far or
    its keys say otherwise, is left out.
    """
    try:
        return applied(scene, edit().commands)
    except EditRefused as refusal:
        said = str(refusal)
    assume("lean" not in said and "keys of" not in said)
    raise AssertionError(said)


def scene_of(*stack: Layer) -> Scene:
    return Scene(320, 180, length=LENGTH, layers=stack, paths=(RING, SWELL))


@st.composite
def carried(draw) -> Scene:
    """A box that goes with a rider or a box by keys, each in a group that moves, or in none."""
    homes = [draw(st.sampled_from([None, "a", "b"])) for _ in range(2)]
    moved = draw(st.sampled_from(["ride", "keys"]))
    mover = box("mover", homes[0], draw(transforms))
    if moved == "ride":
        mover = replace(mover, ride=ride("swell", draw(st.sampled_from(["fixed", "along"]))))
    else:
        mover = replace(mover, keys=(keyed("x", (0, 3), (20, 90)), keyed("turn", (2, 0), (24, 90))))
    one = box("one", homes[1], draw(transforms))
    how = Carrier("mover", draw(st.booleans()), draw(st.booleans()))
    one = replace(one, carrier=draw(st.sampled_from([None, how])))
    turned = (keyed("turn", (0, 0), (24, draw(st.floats(-300, 300)))),)
    stack = [group("a", None, draw(transforms)), replace(group("b", None), keys=turned)]
    for layer in (mover, one):
        names = [each.id for each in stack]
        stack.insert(names.index(layer.parent) if layer.parent else len(stack), layer)
    return scene_of(*stack)


def map_of(scene: Scene, layer: str, frame: int = AT) -> np.ndarray:
    return Evaluation(scene).motion(layer).map(frame)


@given(carried())
@settings(max_examples=60, deadline=None)
def test_what_is_carried_keeps_its_place_in_the_px_about_its_carrier(scene):
    """By the definition: scale and turn about the carrier's anchor, as far as they are taken."""
    one = scene.layer("one")
    if one.carrier is None:
        one = replace(one, carrier=Carrier("mover"))
        scene = scene.with_layer(one)
    home = places.group_map(scene, one.parent, AT)
    seen = affine.compose(affine.inverse(home), map_of(scene, "mover"))
    spot = affine.apply(affine.inverse(home), places.spot_of(scene, "mover", AT))
    a, b, c, d = seen[:4]
    turn = np.arctan2(b, a) if one.carrier.turn else 0.0
    grown = (np.hypot(a, b), (a * d - b * c) / np.hypot(a, b)) if one.carrier.scale else (1, 1)
    about = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]]) @ np.diag(grown)
    wanted = affine.apply(home, about @ np.array(one.transform.position) + spot)
    assert places.spot_of(scene, "one", AT) == pytest.approx(wanted.tolist(), abs=2e-3)


@given(carried(), st.booleans(), st.booleans())
@settings(max_examples=60, deadline=None)
def test_taking_along_and_letting_go_is_not_seen_at_that_frame(scene, turn, scale):
    before = map_of(scene, "one")
    if scene.layer("one").carrier is None:
        scene = applied(scene, carriers.carry(scene, ["one"], "mover", AT).commands)
        assert map_of(scene, "one") == pytest.approx(before, abs=1e-5)
    take = partial(carriers.take_along, scene, "one", AT, turn=turn, scale=scale)
    after = unless_refused(scene, take)
    assert map_of(after, "one") == pytest.approx(before, abs=1e-5)
    free = applied(after, carriers.let_go(after, ["one"], AT).commands)
    assert free.layer("one").carrier is None
    assert map_of(free, "one") == pytest.approx(before, abs=1e-5)


@given(carried(), st.sampled_from([None, "a", "b"]))
@settings(max_examples=60, deadline=None)
def test_what_is_put_elsewhere_is_seen_where_it_was(scene, parent):
    for name in ("one", "mover"):
        before = map_of(scene, name)
        after = unless_refused(scene, partial(groups.put_into, scene, [name], parent, None, AT))
        assert map_of(after, name) == pytest.approx(before, abs=1e-5)


@given(carried())
@settings(max_examples=40, deadline=None)
def test_a_dissolved_group_leaves_riders_and_keys_where_they_are(scene):
    for name in ("a", "b"):
        members = [x.id for x in scene.layers if x.parent == name]
        before = {each: map_of(scene, each) for each in members}
        after = unless_refused(scene, partial(groups.ungroup, scene, name, AT))
        for each, row in before.items():
            assert map_of(after, each) == pytest.approx(row, abs=1e-5)


@pytest.mark.parametrize("first", ["one", "mover"])
def test_what_carries_may_be_kept_after_what_it_carries(first):
    """Both leave a turned group; in whichever order they are looked at."""
    turned = group("a", None, Transform((40, 30), turn=50, scale=(2, 2)))
    mover = box("mover", "a", Transform((10.0, 20.0), turn=15))
    one = replace(box("one", "a", Transform((30.0, -8.0))), carrier=Carrier("mover", True, True))
    members = (one, mover) if first == "one" else (mover, one)
    scene = scene_of(*members, turned)
    after = applied(scene, groups.ungroup(scene, "a", 0).commands)
    for name in ("one", "mover"):
        assert map_of(after, name, 0) == pytest.approx(map_of(scene, name, 0), abs=1e-6)


def test_keys_of_both_places_go_through_a_turned_group_at_all_times():
    keys = (keyed("x", (0, 10), (24, 90)), keyed("y", (0, 50), (24, 20)))
    turned = group("a", None, Transform((40, 30), turn=90, scale=(2, 2)))
    scene = scene_of(replace(box("one", "a"), keys=keys), turned)
    after = applied(scene, groups.ungroup(scene, "a", 0).commands)
    for frame in (0, 11, 24):
        assert map_of(after, "one", frame) == pytest.approx(map_of(scene, "one", frame), abs=1e-6)


def test_keys_of_places_at_different_times_cannot_be_turned_and_that_is_said():
    keys = (keyed("x", (0, 10), (24, 90)), keyed("y", (0, 50), (20, 20)))
    turned = group("a", None, Transform((40, 30), turn=90))
    scene = scene_of(replace(box("one", "a"), keys=keys), turned)
    with pytest.raises(EditRefused, match="keys of X and Y at different times"):
        groups.ungroup(scene, "a", 0)


def pair(**how) -> Scene:
    mover = replace(box("mover", None), ride=ride("ring"))
    one = replace(box("one", None, Transform((10.0, -5.0))), carrier=Carrier("mover", **how))
    return scene_of(mover, one)


def test_circles_are_refused_in_one_sentence_and_chains_are_not_endless():
    scene = pair()
    with pytest.raises(EditRefused, match="cannot carry itself"):
        carriers.carry(scene, ["one"], "one", 0)
    freed = applied(scene, [set_layer("one", carrier=None)])
    looking = replace(freed.layer("mover"), ride=None)
    freed = freed.with_layer(looking)
    both = applied(freed, [set_layer("one", carrier=Carrier("mover"))])
    with pytest.raises(CoreError, match="each other: mover, one"):
        applied(both, [set_layer("mover", carrier=Carrier("one"))])
    row = [box(f"b{i}", None) for i in range(50)]
    chain = [replace(x, carrier=Carrier(f"b{i - 1}")) if i else x for i, x in enumerate(row)]
    with pytest.raises(ValueError, match="more than 40 in a row"):
        scene_of(*chain)
    kept = scene_of(*chain[:30])
    assert codec.from_json(codec.to_json(kept)) == kept


def test_a_group_is_not_carried_by_what_is_in_it():
    with pytest.raises(ValueError, match="depends on it"):
        scene_of(box("in", "a"), replace(group("a", None), carrier=Carrier("in")))


def test_two_may_look_at_each_other_while_one_carries_the_other():
    mover = replace(box("mover", None), ride=ride("ring", "target", target="one"))
    one = replace(box("one", None), carrier=Carrier("mover"))
    assert Evaluation(scene_of(mover, one)).motion("one").maps.shape == (LENGTH + 1, 6)
    # With the turn it would turn with what looks at it.
    with pytest.raises(ValueError, match="depends on it"):
        scene_of(mover, replace(one, carrier=Carrier("mover", turn=True)))


def test_what_is_carried_is_dragged_pinned_and_turned_where_the_hand_is():
    scene = pair(turn=True, scale=True)
    moved = applied(scene, layers.move_to(scene, "one", (100.0, 60.0), Moment(AT)).commands)
    assert places.spot_of(moved, "one", AT) == pytest.approx((100, 60), abs=2e-3)
    pinned = applied(scene, transfers.pin(scene, "one", AT, (90.0, 70.0)).commands)
    assert places.spot_of(pinned, "one", AT) == pytest.approx((90, 70), abs=2e-3)
    again = applied(pinned, transfers.pin(pinned, "one", AT + 5, (20.0, 30.0)).commands)
    assert again.layer("one").ride is None
    assert places.spot_of(again, "one", AT + 5) == pytest.approx((20, 30), abs=2e-3)
    at = places.spot_of(scene, "one", AT)
    hand = (at[0] + 10, at[1]), (at[0], at[1] + 10)
    turned = applied(scene, frames.turn(scene, "one", *hand, Moment(AT)).commands)
    a, b = map_of(turned, "one")[:2]
    was = map_of(scene, "one")[:2]
    assert np.degrees(np.arctan2(b, a) - np.arctan2(was[1], was[0])) % 360 == pytest.approx(90)


def test_it_lets_go_when_its_carrier_goes_and_when_it_rides():
    scene = pair(turn=True)
    before = map_of(scene, "one")
    alone = applied(scene, layers.delete_layers(scene, ["mover"], AT).commands)
    assert map_of(alone, "one") == pytest.approx(before, abs=1e-6)
    edit = rides.attach(scene, "one", "swell")
    assert applied(scene, edit.commands).layer("one").carrier is None
    assert "carries one no more" in edit.notes[0]
    with pytest.raises(EditRefused, match="rides Ring, which sets its place"):
        carriers.carry(scene, ["mover"], "one", 0)


def test_sitting_on_it_puts_anchor_on_anchor_in_every_frame():
    scene = pair(turn=True)
    after = applied(scene, carriers.sit_on(scene, "one").commands)
    assert places.spots_of(after, "one") == pytest.approx(places.spots_of(after, "mover"))


def test_copies_are_carried_by_copies_and_pasted_alone_stay_where_they_are():
    scene = pair(turn=True)
    both = applied(scene, layers.copy_layers(scene, ["mover", "one"]).commands)
    assert {x.carrier.layer for x in both.layers if x.carrier} == {"mover"}
    pod = scene_of(box("m", "a"), replace(box("o", "a"), carrier=Carrier("m")), group("a", None))
    copied = applied(pod, layers.copy_layers(pod, ["a"]).commands)
    made = [x for x in copied.layers if x.carrier and x.id != "o"]
    assert made[0].carrier.layer not in ("m", "o", "a")
    taken = pasting.Taken(scene, ("mover", "one"))
    other = scene_of(box("there", None))
    pasted = applied(other, pasting.paste(other, taken, AT).commands)
    carrier = next(x.carrier for x in pasted.layers if x.carrier)
    assert pasted.layer(carrier.layer).ride is not None
    alone = applied(other, pasting.paste(other, pasting.Taken(scene, ("one",)), AT).commands)
    assert map_of(alone, "one") == pytest.approx(map_of(scene, "one"), abs=1e-6)


@given(transforms, st.sampled_from([(0, -1), (0, 1), (1, 0), (-1, 0)]), st.floats(-30, 30))
@settings(max_examples=60, deadline=None)
def test_a_side_that_is_slanted_goes_along_itself_and_the_opposite_stays(transform, side, by):
    scene = scene_of(box("one", None, transform))
    row, size = map_of(scene, "one", 0), np.array([20.0, 10.0])
    near, far = size * (1 + np.array(side)) / 2, size * (1 - np.array(side)) / 2
    at = affine.apply(row, near)
    along = np.reshape(row[:4], (2, 2)).T @ (np.array(side)[::-1] != 0).astype(float)
    end = at + along / np.hypot(*along) * by
    how = {"about_anchor": False}
    slant = partial(frames.slant, scene, "one", side, tuple(at), tuple(end), Moment(), **how)
    after = map_of(unless_refused(scene, slant), "one", 0)
    assert affine.apply(after, near) == pytest.approx(end, abs=0.05)
    assert affine.apply(after, far) == pytest.approx(affine.apply(row, far), abs=0.05)
