"""Pinning: here at one time, there at another, and the path and pegs that come of it."""

import math
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from coaster.errors import EditRefused
from coaster.geometry.path import Path, subpath_from_segments
from coaster.motion import easing, pins
from coaster.motion.distance import Way
from coaster.motion.ride import AtNode, AtPercent, Peg, Ride
from coaster.motion.travel import evaluate
from tests.core import strategies as ours
from tests.core.test_travel import path as drawn

BOW = Path(
    "bow", "Bow", (subpath_from_segments([[[0, 0], [0, 80], [100, 80], [100, 0]]], closed=False),)
)
RIDE = Ride("bow", (Peg("a", 10, AtPercent(0)), Peg("b", 50, AtPercent(100))))
depths = st.just(0.0) | st.floats(-300, 300)
places = st.tuples(st.floats(-300, 300), st.floats(-300, 300), depths)


def at(path, ride, times):
    """Return places with their depths, (n, 3)."""
    found = evaluate(Way(path, ride), times, fps=30)
    deep = np.broadcast_to(found.deep, len(found.position))
    return np.column_stack([found.position, deep])


@given(
    st.lists(
        st.tuples(st.integers(0, 200), places), min_size=3, max_size=9, unique_by=lambda pin: pin[0]
    )
)
def test_the_rider_is_where_it_was_pinned_at_every_time(some):
    (t0, p0), (t1, p1), *rest = some
    if p0 == p1:
        p1 = (p1[0] + 1, *p1[1:])
    path, ride = pins.begun("p", "P", (t0, p0), (t1, p1), easing.EVEN)
    said = {t0: p0, t1: p1}
    for time, point in rest:
        if rests_at(path, ride, time):
            with pytest.raises(EditRefused, match="rests there"):
                pins.pinned(path, ride, time, point, easing.EVEN)
            continue
        path, pegs = pins.pinned(path, ride, time, point, easing.EVEN)
        ride = replace(ride, pegs=pegs)
        near = [t for t in said if math.dist(said[t], point) <= pins.SAME_PLACE]
        said[time] = said[near[0]] if near else point
        times = sorted(said)
        np.testing.assert_allclose(
            at(path, ride, times), [said[t] for t in times], atol=pins.SAME_PLACE
        )
    assert [peg.time for peg in ride.pegs] == sorted(said)
    assert all(isinstance(peg.place, AtNode) for peg in ride.pegs)


def rests_at(path, ride, time) -> bool:
    """Whether a time lies between two pegs in one place, where there is no way to put a
    node into.
    """
    times = [peg.time for peg in ride.pegs]
    if time in times or not times[0] < time < times[-1]:
        return False
    after = next(i for i, t in enumerate(times) if t > time)
    way = Way(path, ride)
    earlier, later = (way.distance(ride.pegs[i].place) for i in (after - 1, after))
    return abs(later - earlier) <= pins.NOWHERE * way.length


@given(ours.paths(closed=False), st.floats(5, 95), st.floats(5, 95))
def test_pegs_put_on_nodes_leave_the_travel_as_it_is(path, first, second):
    low, high = sorted([first, second + 1e-3])
    ride = Ride(
        "path",
        tuple(Peg(f"p{i}", 20.0 * i, AtPercent(v)) for i, v in enumerate((0, low, high, 100))),
    )
    if Way(path, ride).length < 1 or high - low < 0.01:
        return
    after, pegs = pins.on_nodes(path, ride)
    times = np.linspace(0, 60, 31)
    size = max(1.0, float(np.abs(path.segments()).max()))
    moved = at(after, replace(ride, pegs=pegs), times) - at(path, ride, times)
    assert np.abs(moved).max() <= 1e-5 * size
    assert all(isinstance(peg.place, AtNode) for peg in pegs)


def test_a_pin_between_bends_the_curve_there_and_nowhere_else():
    path, pegs = pins.pinned(BOW, RIDE, 30, (50.0, 90.0, 0.0), easing.EVEN)
    assert [n.position for n in path.nodes()] == [(0, 0), (50, 90), (100, 0)]
    assert [peg.time for peg in pegs] == [10, 30, 50]
    np.testing.assert_allclose(
        at(path, replace(RIDE, pegs=pegs), [10, 30, 50]),
        [[0, 0, 0], [50, 90, 0], [100, 0, 0]],
        atol=1e-9,
    )


def test_pinned_again_at_its_time_the_node_moves_and_at_one_place_the_rider_rests():
    path, pegs = pins.pinned(BOW, RIDE, 50, (120.0, 20.0, 0.0), easing.EVEN)
    assert path.nodes()[-1].position == (120, 20)
    assert len(pegs) == 2
    path, pegs = pins.pinned(path, replace(RIDE, pegs=pegs), 80, (120.2, 20.0, 0.0), easing.EVEN)
    assert len(path.nodes()) == 2
    there = at(path, replace(RIDE, pegs=pegs), [50, 65, 80])
    np.testing.assert_allclose(there, [[120, 20, 0]] * 3)


def test_new_sections_begin_with_the_scenes_pace():
    both = easing.PRESETS["ease-both"]
    _, pegs = pins.pinned(BOW, RIDE, 90, (200.0, 0.0, 0.0), both)
    assert (pegs[1].leave.time, pegs[2].arrive.time) == (both.x1, 1 - both.x2)
    _, pegs = pins.pinned(BOW, RIDE, 0, (-200.0, 0.0, 0.0), both)
    assert [b.time - a.time for a, b in pairwise(pegs)] == [10, 40]
    assert pegs[0].leave.time == both.x1


RING = replace(BOW, subpaths=(replace(BOW.subpaths[0], closed=True),))
TWO = replace(
    BOW,
    subpaths=(
        *BOW.subpaths,
        subpath_from_segments([[[5, 5], [6, 6], [7, 7], [8, 8]]], closed=False, first=5),
    ),
)


@pytest.mark.parametrize(
    ("path", "ride", "time", "words"),
    [
        (replace(BOW, locked=True), RIDE, 20, "locked; unlock it to pin"),
        (TWO, RIDE, 20, "several runs"),
        (BOW, replace(RIDE, offset=20), 20, "set the shift to 0"),
        (RING, RIDE, 90, "comes round already"),
        (BOW.with_node(replace(BOW.nodes()[0], locked=True)), RIDE, 10, "node there is locked"),
        (
            BOW,
            replace(RIDE, pegs=(RIDE.pegs[0], Peg("b", 50, AtPercent(140)))),
            30,
            "lies off the path",
        ),
    ],
)
def test_a_pin_that_cannot_be_is_refused_in_words(path, ride, time, words):
    with pytest.raises(EditRefused, match=words):
        pins.pinned(path, ride, time, (30.0, 30.0, 0.0), easing.EVEN)


def test_a_rest_is_not_torn_apart():
    path, pegs = pins.pinned(BOW, RIDE, 80, (100.0, 0.0, 0.0), easing.EVEN)
    with pytest.raises(EditRefused, match="rests there"):
        pins.pinned(path, replace(RIDE, pegs=pegs), 60, (50.0, 50.0, 0.0), easing.EVEN)


def test_two_pins_at_one_place_make_no_path():
    with pytest.raises(EditRefused, match="a path needs two"):
        pins.begun("p", "P", (0, (1.0, 1.0, 0.0)), (9, (1.0, 1.0, 0.0)), easing.EVEN)


def test_a_peg_that_is_put_on_a_node_takes_the_one_that_is_near():
    line = drawn("M0 0L100 0L200 0L300 0")
    for percent, count, lap in ((34.0, 4, 0), (50.0, 5, 0), (98.0, 4, 0)):
        ride = Ride("path", (Peg("a", 0, AtPercent(0)), Peg("b", 10, AtPercent(percent))))
        after, pegs = pins.on_nodes(line, ride, "b", pins.NEAR_PX)
        assert len(after.nodes()) == count
        assert isinstance(pegs[1].place, AtNode)
        assert pegs[1].place.lap == lap
    ring = drawn("M0 0L100 0L100 100Z")
    ride = Ride("path", (Peg("a", 0, AtPercent(0)), Peg("b", 10, AtPercent(99.0))))
    after, pegs = pins.on_nodes(ring, ride, "b", pins.NEAR_PX)
    assert (len(after.nodes()), pegs[1].place.node, pegs[1].place.lap) == (3, "n1", 1)


def test_of_several_runs_the_node_is_put_in_the_one_where_the_peg_is():
    two = drawn("M0 0L100 0M100 50L100 150L200 150")
    # 100 px, 50 over the gap, 200 more.
    for percent, place in ((20.0, (70.0, 0.0)), (60.0, (100.0, 110.0))):
        ride = Ride("path", (Peg("a", 0, AtPercent(0)), Peg("b", 10, AtPercent(percent))))
        after, pegs = pins.on_nodes(two, ride, "b")
        np.testing.assert_allclose(after.node(pegs[1].place.node).position, place, atol=1e-6)
    ride = Ride("path", (Peg("a", 0, AtPercent(0)), Peg("b", 10, AtPercent(35.0))))
    with pytest.raises(EditRefused, match="in a gap"):
        pins.on_nodes(two, ride, "b")
