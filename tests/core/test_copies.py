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
from coaster.motion.copies import Copies, by_chance
from coaster.motion.keys import Key
from coaster.render import seam
from coaster.render.display import Crowd, Item, program_of
from coaster.render.evaluate import Evaluation
from coaster.scene.contents import Group, Shape
from coaster.scene.document import Layer, Scene
from coaster.scene.limits import drawn_layers
from coaster.scene.properties import Track
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
    found, strengths = crowd.at(np.arange(crowd.length))
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


def test_groups_have_none():
    pod = Layer("pod", "Pod", Group((50, 50)), ride=loop(RING.id, LENGTH))
    scene = Scene(length=LENGTH, layers=(pod,), paths=(RING,))
    with pytest.raises(EditRefused, match="groups have no copies"):
        applied(scene, set_copies(scene, "pod", {"count": 3}).commands)
