"""Pegs from drawn and measured timing; baking rides to x and y, and fitting back."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from coaster.errors import EditRefused
from coaster.geometry.path import Path, subpath_from_segments
from coaster.motion import bake, distance, easing, keys, timing, travel
from coaster.motion.distance import Way
from coaster.motion.ride import AtPercent, Peg, Ride
from coaster.motion.sections import paced
from tests.core import strategies as ours

HUMPS = [[[0, 0], [100, -200], [200, 200], [300, 0]], [[300, 0], [400, -200], [500, 200], [600, 0]]]
WAVE = Path("w", "Wave", (subpath_from_segments(HUMPS, closed=False),))
PEGS = tuple(
    Peg(f"p{i}", t, AtPercent(v))
    for i, (t, v) in enumerate(((0, 0), (40, 50), (60, 60), (120, 100)))
)
WAY = Way(WAVE, Ride("w", PEGS))
FRAMES = np.arange(0, 121.0)


@given(st.lists(st.floats(0, 30), min_size=20, max_size=120), st.floats(0.5, 20))
def test_a_fit_meets_every_sample_within_its_tolerance_and_never_runs_back(steps, tolerance):
    distances = np.concatenate([[0.0], np.cumsum(steps)])
    found = timing.fit_timing(np.arange(len(distances)), distances, tolerance)
    assert found.miss <= tolerance
    fine = np.linspace(0, len(distances) - 1, 500)
    way = Way(WAVE, Ride("w", timing.pegs_of(found, WAY.length)))
    there, rate = distance.travelled(way, fine)
    assert np.all(rate >= -1e-9)
    inside = np.minimum(np.interp(fine, np.arange(len(distances)), distances), WAY.length)
    if distances[-1] <= WAY.length:
        assert np.abs(there - inside).max() <= tolerance + max(steps)


def test_what_is_smooth_takes_few_knots():
    t = np.linspace(0, 100, 401)
    assert len(timing.fit_timing(t, 300 * (1 - np.cos(t / 100 * np.pi)), 1.0).times) <= 6
    assert len(timing.fit_timing(t, t * 4, 0.1).times) == 2


@given(st.lists(st.tuples(st.floats(-10, 130), st.floats(0, 60)), min_size=2, max_size=60))
def test_a_drawn_speed_keeps_every_peg_where_it_is_when_it_is(stroke):
    times, speeds = zip(*stroke, strict=True)
    pegs, _ = timing.fit_speeds(WAY, times, speeds)
    way = Way(WAVE, replace(WAY.ride, pegs=pegs))
    marks = [peg.time for peg in PEGS]
    assert distance.travelled(way, marks)[0] == pytest.approx(
        distance.travelled(WAY, marks)[0], abs=1e-9 * WAY.length
    )
    assert {peg.id for peg in PEGS} <= {peg.id for peg in pegs}
    assert np.all(distance.travelled(way, np.linspace(0, 120, 400))[1] >= -1e-9)


def test_the_shape_that_was_drawn_is_the_shape_that_comes_of_it():
    whole = Way(WAVE, Ride("w", (PEGS[0], replace(PEGS[3]))))
    t = np.linspace(0, 120, 200)
    shape = 1 + np.sin(t / 120 * np.pi) ** 2
    pegs, miss = timing.fit_speeds(whole, t, shape * 3, tolerance=0.5)
    _, rate = distance.travelled(Way(WAVE, replace(whole.ride, pegs=pegs)), t)
    scale = whole.length / 120 / shape.mean()
    np.testing.assert_allclose(rate, shape * scale, rtol=0.06)
    assert miss <= 0.5
    assert len(pegs) < 16


def test_a_speed_that_cannot_be_drawn_is_refused_in_words():
    back = Way(WAVE, Ride("w", (PEGS[1], replace(PEGS[3], place=AtPercent(10)))))
    for way, stroke, words in ((WAY, [1], "stroke over some time"), (back, [1, 2], "turns back")):
        with pytest.raises(EditRefused, match=words):
            timing.fit_speeds(way, stroke, stroke)


@pytest.mark.parametrize("pace", ["even", "ease-in", "ease-both"])
@pytest.mark.parametrize("tolerance", [0.5, 2.0])
def test_a_ride_that_is_baked_and_fitted_back_goes_the_same_way_at_the_same_times(pace, tolerance):
    ride = Ride("w", paced(PEGS, easing.PRESETS[pace]))
    places = travel.evaluate(Way(WAVE, ride), FRAMES, fps=30).position
    found = bake.fit_back("back", "Back", FRAMES, places, tolerance)
    assert found.deviation <= tolerance
    there = travel.evaluate(Way(found.path, found.ride), FRAMES, fps=30).position
    assert np.hypot(*(there - places).T).max() == pytest.approx(found.deviation)
    assert len(found.path.nodes()) <= 12
    assert len(found.ride.pegs) <= 30


@given(ours.paths(closed=False), st.integers(0, 40))
def test_baked_keys_are_where_the_ride_was_in_every_frame(path, first):
    way = Way(path, Ride("path", (Peg("a", 0, AtPercent(0)), Peg("b", 50, AtPercent(100)))))
    places = travel.evaluate(way, np.arange(first, 51.0), fps=30).position
    for axis in (0, 1):
        made = bake.a_key_a_frame(places[:, axis], first)
        np.testing.assert_allclose(
            keys.values(made, np.arange(first, 51.0))[0], places[:, axis], atol=1e-9
        )


def test_a_loop_with_a_crossing_and_a_rest_comes_back_in_its_order():
    t = np.linspace(0, 2 * np.pi, 121)
    eight = np.stack([200 * np.sin(t), 120 * np.sin(2 * t)], axis=1)
    eight[60:] = np.concatenate([np.repeat(eight[60:61], 20, axis=0), eight[60:101]])
    found = bake.fit_back("e", "Eight", FRAMES, eight, 2.0)
    assert found.deviation <= 2.0


def test_what_does_not_move_or_is_too_much_is_refused():
    with pytest.raises(EditRefused, match="Nothing moves"):
        bake.fit_back("b", "B", FRAMES, np.ones((121, 2)), 1.0)
    with pytest.raises(EditRefused, match="more than 5000 keys"):
        bake.a_key_a_frame(np.zeros(6000), 0)
