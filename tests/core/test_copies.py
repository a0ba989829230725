"""Copies of a rider against a computation of their places by hand; the seam, limits, layers made of
them.
"""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from coaster.commands import applied
from coaster.edits.copies import copies_as_layers, set_copies, without_copies
from coaster.edits.rides import attach
from coaster.edits.transfers import bake_ride, detach
from coaster.errors import EditRefused
from coaster.export.drawers import painter_of
from coaster.motion.colours import from_hex, lab
from coaster.motion.copies import Copies, by_chance
from coaster.motion.keys import Key
from coaster.render import seam, stage
from coaster.render.copies import copies_of
from coaster.render.display import Crowd, Item, Push, program_of
from coaster.render.evaluate import Evaluation
from coaster.scene.contents import Group, Inset, Shape
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.footage import FrameTimes
from coaster.scene.gradients import Gradient
from coaster.scene.limits import drawn_layers
from coaster.scene.properties import Track
from tests.core.test_crowds import header_of
from tests.core.test_render import RING, loop

ROUND = 2 * np.pi * 60
LENGTH = 100


def scene_of(copies: Copies | None, **more) -> Scene:
    ride = replace(loop(RING.id, LENGTH), copies=copies)
    buoy = Layer("buoy", "Buoy", Shape("rectangle", 20, 10, "#ff8000"), ride=ride, **more)
    return Scene(200, 200, length=LENGTH, layers=(buoy,), paths=(RING,))


def items(scene: Scene) -> list[Item]:
    """Return what is drawn, from the front to the back."""
    steps = program_of(Evaluation(scene)).steps
    many = [each for s in steps if isinstance(s, Crowd) for each in all_of(s)]
    return [step for step in steps if isinstance(step, Item)][::-1] + many


def all_of(crowd: Crowd) -> list[Item]:
    """Return each of a crowd, those that are never seen as well."""
    found, strengths, _ = crowd.at(np.arange(crowd.length))
    each = zip(np.moveaxis(found, 1, 0), strengths.T, strict=True)
    return [Item(crowd.name, crowd.faces, rows, strong) for rows, strong in each]


def middle(item: Item, frame: int) -> np.ndarray:
    a, b, c, d, e, f = item.map(frame)
    left, top, width, height = item.faces.at(frame).box
    x, y = left + width / 2, top + height / 2
    return np.array([a * x + c * y + e, b * x + d * y + f])


def on_ring(percent: float) -> np.ndarray:
    """Return where a share of the ring is, which is a circle."""
    angle = np.pi + 2 * np.pi * percent / 100
    return np.array([100 + 60 * np.cos(angle), 90 + 60 * np.sin(angle)])


@given(
    count=st.integers(2, 12),
    over=st.floats(-100, 200),
    apart=st.floats(-300, 300),
    by=st.sampled_from(["even", "apart"]),
    frame=st.integers(0, LENGTH - 1),
)
def test_they_are_where_the_first_is_so_much_along(count, over, apart, by, frame):
    found = items(scene_of(Copies(count, by, over=over, apart=apart)))
    assert len(found) == count
    step = over / count if by == "even" else -apart / ROUND * 100
    for number, item in enumerate(found):
        assert middle(item, frame) == pytest.approx(
            on_ring(100 * frame / LENGTH + number * step), abs=0.1
        )


def test_on_nodes_there_is_one_on_each():
    scene = scene_of(None)
    after = applied(scene, set_copies(scene, "buoy", {"spread": "nodes"}).commands)
    nodes = RING.nodes()
    assert after.layers[0].ride.copies.count == len(nodes)
    found = [middle(item, 0) for item in items(after)]
    assert np.allclose(found, [node.position for node in nodes], atol=0.02)


def test_each_is_smaller_turned_fainter_and_later_than_the_one_before():
    keys = (Track("opacity", (Key("k", 0, 0.8),)),)
    copies = Copies(3, over=0, later=10, scale=0.5, turn=30, opacity=0.5)
    first, second, third = items(scene_of(copies, keys=keys))
    assert [item.strength(0) for item in (first, second, third)] == pytest.approx([0.8, 0.4, 0.2])
    for item, back in ((second, 10), (third, 20)):
        assert middle(item, 40) == pytest.approx(middle(first, 40 - back), abs=1e-6)
    ahead, behind = first.map(30)[:4], second.map(40)[:4]
    turn = np.radians(30)
    spun = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]]) * 0.5
    assert pytest.approx(ahead.reshape(2, 2).T @ spun, abs=1e-9) == behind.reshape(2, 2).T


def test_chance_is_the_same_everywhere_and_each_is_on_its_own():
    few, many = by_chance(7, 1, 10), by_chance(7, 1, 1000)
    assert np.array_equal(few, many[:10])
    assert few[0] == 0
    assert abs(many).max() <= 1
    assert abs(many.mean()) < 0.1
    assert not np.array_equal(many, by_chance(8, 1, 1000))
    strays = Copies(50, stray=1.0).shifts(1000.0, np.zeros(1))
    assert (np.diff(strays) > 0).all()


def test_in_step_on_a_closed_path_they_come_round_without_a_seam():
    for copies in (Copies(5), Copies(5, later=7.5, stray=0.4), Copies(4, "apart", apart=40)):
        scene = scene_of(copies)
        assert [one.clean for one in seam.report(Evaluation(scene))] == [True]
        at_end = Evaluation(scene).copies_of(scene.layers)["buoy"]
        for motion in at_end:
            assert motion.map(LENGTH) == pytest.approx(motion.map(0), abs=1e-6)


def test_a_copy_that_does_not_come_round_is_named():
    ride = loop(RING.id, LENGTH)
    keys = (Track("scale", (Key("a", 0, 1.0), Key("b", 90, 2.0), Key("c", 100, 1.0))),)
    scene = scene_of(Copies(2, later=50), keys=keys)
    (found,) = seam.report(Evaluation(scene))
    assert (found.layer_id, found.name, found.clean) == ("buoy", "Buoy, copy 1", False)
    assert ride.copies is None


def test_as_layers_nothing_is_seen_to_change(tmp_path):
    copies = Copies(4, scale=0.7, turn=20, opacity=0.6, later=5, stray=0.5)
    scene = scene_of(copies)
    apart = applied(scene, copies_as_layers(scene, "buoy").commands)
    assert len(apart.layers) == 4
    assert all(layer.ride.copies is None for layer in apart.layers)
    for frame in (0, 33, 99):
        both = [painter_of(each, tmp_path).picture(frame).astype(int) for each in (scene, apart)]
        assert np.abs(both[0] - both[1]).max() <= 1
    with pytest.raises(EditRefused, match="has no copies"):
        copies_as_layers(apart, "buoy")


def test_one_rider_is_no_copies_and_limits_count_all():
    scene = scene_of(Copies(300))
    assert drawn_layers(scene) == (300, 300, 0)
    for edit in (without_copies(scene, "buoy"), set_copies(scene, "buoy", {"count": 1})):
        assert applied(scene, edit.commands).layers[0].ride.copies is None


def test_they_go_along_to_another_path_and_without_a_ride_they_are_said_to_be_gone():
    other = replace(RING, id="other", name="Other")
    scene = replace(scene_of(Copies(3)), paths=(RING, other))
    after = applied(scene, attach(scene, "buoy", "other").commands)
    assert after.layers[0].ride.copies == Copies(3)
    for edit in (detach(scene, "buoy", 0), bake_ride(scene, "buoy", 0, None)):
        assert "copies of Buoy are gone" in edit.notes[0]
        assert applied(scene, edit.commands).layers[0].ride is None


@pytest.mark.parametrize(
    "copies",
    [
        Copies(1000, "apart", apart=100_000, turn=3600, stray=1.0),
        Copies(1000, over=-1000, turn=-3600, later=100, opacity=0),
        Copies(100, scale=1.07, later=-1000),
    ],
)
def test_the_farthest_of_them_can_be_drawn(copies):
    keys = (Track("scale", (Key("a", -990_000, 900.0), Key("b", 999_990, 1.0))),)
    for more in ({}, {"keys": keys, "shown": (0.0, 999_999.0)}):
        found = items(scene_of(copies, **more))
        assert len(found) == copies.count
        assert all(np.isfinite(item.maps).all() for item in found)


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"count": 1000, "scale": 1.2}, "may be 1,000 times as large"),
        ({"count": 1000, "later": 3000.0}, "may come 100,000 frames later"),
        ({"count": 100_000}, "count may be at most 1000"),
    ],
)
def test_what_goes_too_far_is_refused_in_words(values, words):
    with pytest.raises(EditRefused, match=words):
        set_copies(scene_of(Copies(2)), "buoy", values)


def pod_of(copies: Copies | None, **more) -> Scene:
    """A group that rides round, of a still box and one that turns, which has a copy of its own."""
    pod = Layer(
        "pod",
        "Pod",
        Group((50, 50)),
        Transform((50, 50)),
        ride=replace(loop(RING.id, LENGTH), copies=copies),
        **more,
    )
    box = Layer(
        "box", "Box", Shape("rectangle", 20, 10, "#ff8000"), Transform((50, 50)), parent="pod"
    )
    turn = (Track("turn", (Key("a", 0, 0.0), Key("b", LENGTH, 360.0))),)
    blade = Layer(
        "blade",
        "Blade",
        Shape("rectangle", 6, 16, "#0080ff"),
        Transform((60, 50)),
        parent="pod",
        keys=turn,
    )
    return Scene(
        200, 200, background="#ffffff", length=LENGTH, layers=(box, blade, pod), paths=(RING,)
    )


def test_copies_of_a_group_hold_what_it_holds():
    scene = pod_of(Copies(4, scale=0.8, opacity=0.5))
    steps = program_of(Evaluation(scene)).steps
    boxes = [step for step in steps if isinstance(step, Item) and step.name == "box"]
    assert len(boxes) == 4
    for number, item in enumerate(reversed(boxes)):
        assert middle(item, 30) == pytest.approx(on_ring(30 + 25 * number), abs=0.1)
        assert np.hypot(*item.map(0)[:2]) == pytest.approx(0.8**number)
    strengths = [step.strength(0) for step in steps if isinstance(step, Push)]
    assert strengths == pytest.approx([0.125, 0.25, 0.5, 1.0])
    assert [one.clean for one in seam.report(Evaluation(scene))] == [True, True, True]
    assert drawn_layers(scene)[0] == 4 + 2 * 4
    with pytest.raises(EditRefused, match="is a group"):
        copies_as_layers(scene, "pod")


def test_a_group_in_a_copied_group_has_its_own_copies_there():
    outer = Layer("outer", "Outer", Group(), ride=replace(loop(RING.id, LENGTH), copies=Copies(2)))
    scene = pod_of(Copies(3))
    inner = [replace(x, parent=x.parent or "outer") for x in scene.layers]
    nested = replace(scene, layers=(*inner, outer))
    names = [x.name for x in program_of(Evaluation(nested)).steps if isinstance(x, Item)]
    assert names.count("box") == 6
    assert drawn_layers(nested)[0] == 2 + 3 * 2 + 2 * 6


def test_the_picture_of_a_groups_copies_is_that_of_groups_beside_it(tmp_path):
    scene = pod_of(Copies(2))
    other = pod_of(None).layers
    ids = {"box": "box-2", "blade": "blade-2", "pod": "pod-2", None: None}
    beside = [replace(x, id=ids[x.id], parent=ids[x.parent]) for x in other]
    pod = replace(beside[2], ride=replace(beside[2].ride, offset=50.0))
    two = replace(scene, layers=(*beside[:2], pod, *other))
    pictures = [painter_of(s, tmp_path).picture(33).astype(int) for s in (scene, two)]
    assert np.abs(pictures[0] - pictures[1]).max() <= 1


def test_what_a_group_holds_is_told_anew_with_its_copies():
    scene = pod_of(Copies(2))
    told = next(x for x in header_of(stage.pack(scene))["layers"] if x["id"] == "pod")
    assert [step["kind"] for step in told["mirror"]] == ["push", "item", "item", "pop"]
    moved = scene.with_layer(replace(scene.layer("box"), transform=Transform((40, 50))))
    after = {x["id"]: x for x in header_of(stage.pack(moved, scene))["layers"]}
    assert [after[each].get("same", False) for each in ("blade", "pod")] == [True, False]
    assert not told["still"]


def test_at_places_each_is_where_it_is_said_to_be():
    scene = scene_of(Copies(3))
    spread = applied(scene, set_copies(scene, "buoy", {"spread": "places"}).commands)
    # They begin where they were.
    assert spread.layers[0].ride.copies.places == pytest.approx((33.33, 66.67))
    placed = applied(spread, set_copies(spread, "buoy", {"places": (5.0, 10.0, 60.0)}).commands)
    for item, along in zip(items(placed), (0, 5, 10, 60), strict=True):
        assert middle(item, 30) == pytest.approx(on_ring(30 + along), abs=0.1)
    with pytest.raises(EditRefused, match="write the places"):
        set_copies(placed, "buoy", {"count": 9})


@pytest.mark.parametrize("by", ["even", "apart", "nodes", "places"])
def test_those_that_stand_stay_on_the_path_while_the_first_rides_by(by):
    scene = scene_of(Copies(5, "even", apart=ROUND / 4))
    steps = [{"standing": True}, {"spread": by}]
    for values in steps:
        scene = applied(scene, set_copies(scene, "buoy", values).commands)
    first, *rest = items(scene)
    assert middle(first, 30) == pytest.approx(on_ring(30), abs=0.1)
    for number, item in enumerate(rest):
        assert len(item.maps) == 1 or np.ptp(item.maps, axis=0).max() < 1e-9
        if by != "nodes":
            assert middle(item, 30) == pytest.approx(on_ring(25 * number), abs=0.1)
        # As the first is turned when it comes by there.
        assert item.map(0)[:4] == pytest.approx(turned_at(scene, middle(item, 0)), abs=0.02)
    assert len(rest) == (len(RING.nodes()) if by == "nodes" else 4)
    assert [one.clean for one in seam.report(Evaluation(scene))] == [True]


def turned_at(scene: Scene, place: np.ndarray) -> np.ndarray:
    """Return how the first rider is turned on the ring at a place of it."""
    angle = np.arctan2(place[1] - 90, place[0] - 100) + np.pi / 2
    return np.array([np.cos(angle), np.sin(angle), -np.sin(angle), np.cos(angle)])


def test_hues_go_round_and_what_is_shown_goes_ahead():
    ramp = Gradient(colours=("#ff0000", "#00ff0080"))
    scene = scene_of(Copies(3, hue=120.0))
    scene = scene.with_layer(replace(scene.layers[0], content=Shape(fill="#d04040", gradient=ramp)))
    _, second, third = (scene.layers[0], *copies_of(scene, scene.layers[0]))
    lightness = [lab(from_hex(x.content.fill)[:3])[0] for x in (scene.layers[0], second, third)]
    assert lightness == pytest.approx([lightness[0]] * 3, abs=0.08)
    assert len({second.content.fill, third.content.fill, "#d04040"}) == 3
    assert second.content.gradient.colours[1].endswith("80")
    whole = applied(scene, set_copies(scene, "buoy", {"hue": 360.0}).commands)
    (once, _) = copies_of(whole, whole.layers[0])
    assert np.abs(np.array(from_hex(once.content.fill)) - from_hex("#d04040")).max() < 0.01
    inset = Inset("1", 64, 32, FrameTimes(30, ((30, 1),)))
    shown = scene_of(Copies(3, ahead=4))
    shown = shown.with_layer(replace(shown.layers[0], content=inset))
    assert [x.content.starts for x in copies_of(shown, shown.layers[0])] == [-4, -8]
