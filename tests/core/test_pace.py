"""The pace at pegs: speeds that are what they say, arrivals that hold, and the limit of going
forwards.
"""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.interpolate import pchip_interpolate

from coaster.commands import applied
from coaster.commands.fields import set_layer
from coaster.commands.joins import with_joins
from coaster.edits import rides as edits
from coaster.errors import EditRefused, FormatError
from coaster.geometry.path import transformed
from coaster.motion import distance, easing, pace
from coaster.motion.distance import Way
from coaster.motion.rate import Rate
from coaster.motion.ride import AtPercent, Peg, Ride
from coaster.motion.sampling import sample, simple_pegs
from coaster.motion.sections import Reach, with_paces
from coaster.scene.contents import Shape
from coaster.scene.document import Layer, Scene
from tests.core.test_travel import path, rides

SHAPE = path("M0 0C200 -150 300 250 500 0L900 300")
NEAR = 1e-6


@st.composite
def ways(draw, most=5):
    """Rides that never rest and never jump: every section goes some way on."""
    ride = draw(rides(most))
    stops = np.cumsum([draw(st.floats(3, 60)) for _ in ride.pegs])
    reach = st.builds(Reach, st.floats(0.02, 0.5), st.floats(0, 1))
    pegs = tuple(
        replace(p, place=AtPercent(float(s)), step="none", arrive=draw(reach), leave=draw(reach))
        for p, s in zip(ride.pegs, stops, strict=True)
    )
    return Way(SHAPE, replace(ride, pegs=pegs, never_backwards=draw(st.booleans())))


def speed(way: Way, time: float) -> float:
    """The speed at a time by differences, px per frame."""
    a, b = distance.travelled(way, [time - NEAR, time + NEAR])[0]
    return float(b - a) / (2 * NEAR)


@given(ways(), st.integers(0, 4), st.floats(0.05, 1))
def test_a_speed_that_is_set_is_the_speed_there_and_arrivals_hold(way, which, share):
    index = which % len(way.ride.pegs)
    peg, limits = way.ride.pegs[index], pace.pace_at_pegs(way)[index]
    most = min(m for m in (limits.arrive_most, limits.leave_most) if m > 0)
    wanted = share * (most if np.isfinite(most) else 20.0)
    done = Way(SHAPE, replace(way.ride, pegs=pace.with_speed(way, peg.id, wanted)))
    assert [p.time for p in done.ride.pegs] == [p.time for p in way.ride.pegs]
    assert [p.place for p in done.ride.pegs] == [p.place for p in way.ride.pegs]
    total, _ = distance.travelled(done, [p.time for p in done.ride.pegs])
    assert total == pytest.approx(
        [done.distance(p.place) for p in done.ride.pegs], abs=1e-9 * done.length
    )
    found = pace.pace_at_pegs(done)[index]
    if index:
        assert found.arrive == pytest.approx(wanted, rel=1e-6)
        assert speed(done, peg.time - 3 * NEAR) == pytest.approx(
            wanted, rel=0.05, abs=0.05 * way.length
        )
    if index + 1 < len(way.ride.pegs):
        assert found.leave == pytest.approx(wanted, rel=1e-6)
        assert speed(done, peg.time + 3 * NEAR) == pytest.approx(
            wanted, rel=0.05, abs=0.05 * way.length
        )


@given(ways(), st.integers(0, 4))
def test_beyond_the_limit_a_rider_would_run_backwards_and_is_refused(way, which):
    way = Way(SHAPE, replace(way.ride, never_backwards=True))
    index = which % (len(way.ride.pegs) - 1)
    peg, most = way.ride.pegs[index], pace.pace_at_pegs(way)[index].leave_most
    at_limit = pace.with_speed(way, peg.id, most, ("out",))
    free = Way(SHAPE, replace(way.ride, pegs=at_limit, never_backwards=False))
    times = np.linspace(peg.time, way.ride.pegs[index + 1].time, 400)
    total, _ = distance.travelled(free, times)
    assert np.diff(total).min() >= -1e-7 * way.length
    with pytest.raises(EditRefused, match="run backwards"):
        pace.with_speed(way, peg.id, most * 1.01, ("out",))
    with pytest.raises(EditRefused, match="backwards"):
        pace.with_speed(way, peg.id, -1.0, ("out",))


@given(ways(), st.integers(0, 4), st.floats(0.05, 0.95), st.sampled_from(["in", "out"]))
def test_a_longer_reach_keeps_the_speed(way, which, reach, side):
    way = Way(SHAPE, replace(way.ride, never_backwards=False))
    index = which % len(way.ride.pegs)
    before = pace.pace_at_pegs(way)[index]
    end = way.ride.pegs[index].arrive if side == "in" else way.ride.pegs[index].leave
    assume(end.time > 0.01)
    after = pace.pace_at_pegs(
        Way(SHAPE, replace(way.ride, pegs=pace.with_reach(way, f"p{index}", reach, side)))
    )[index]
    assert (after.arrive, after.leave) == pytest.approx(
        (before.arrive, before.leave), rel=1e-5, abs=1e-6
    )


@given(ways())
def test_an_even_ride_has_one_speed(way):
    done = Way(SHAPE, replace(way.ride, pegs=pace.even_pegs(way)))
    assert (done.ride.start, done.ride.end) == (way.ride.start, way.ride.end)
    speeds = [v for p in pace.pace_at_pegs(done) for v in (p.arrive, p.leave) if v]
    assert max(speeds) == pytest.approx(min(speeds), rel=1e-9)
    total, _ = distance.travelled(done, np.linspace(way.ride.start, way.ride.end, 50))
    assert np.diff(total) == pytest.approx(np.diff(total).mean(), rel=1e-6)


@given(ways())
def test_a_smooth_ride_has_no_jump_in_speed_and_never_turns_back(way):
    done = Way(SHAPE, replace(way.ride, pegs=pace.smooth(way), never_backwards=False))
    for peg in pace.pace_at_pegs(done)[1:-1]:
        assert peg.arrive == pytest.approx(peg.leave, rel=1e-6, abs=1e-9)
    times = np.linspace(way.ride.start, way.ride.end, 300)
    total, _ = distance.travelled(done, times)
    assert np.diff(total).min() >= -1e-9 * way.length
    if len(way.ride.pegs) > 2:
        stops = [way.distance(p.place) for p in way.ride.pegs]
        reference = pchip_interpolate([p.time for p in way.ride.pegs], stops, times)
        assert total == pytest.approx(reference, abs=1e-7 * way.length)


def test_a_smooth_loop_has_no_jump_at_its_seam():
    ring = path("M0 0C0 -80 100 -80 100 0C100 80 0 80 0 0Z")
    pegs = tuple(
        Peg(f"p{i}", t, AtPercent(s))
        for i, (t, s) in enumerate([(0, 0), (10, 55), (30, 70), (40, 100)])
    )
    done = Way(ring, Ride("path", pace.smooth(Way(ring, Ride("path", pegs)), round_the_seam=True)))
    first, *_, last = pace.pace_at_pegs(done)
    assert first.leave == pytest.approx(last.arrive)
    assert first.leave > 0


@given(ways(), st.floats(1, 40), st.integers(0, 4))
def test_a_rest_stands_still_and_moves_on_what_is_later(way, frames, which):
    index = which % len(way.ride.pegs)
    done = Way(SHAPE, replace(way.ride, pegs=pace.pegs_with_rest(way, f"p{index}", frames)))
    here = way.ride.pegs[index].time
    total, _ = distance.travelled(done, np.linspace(here, here + frames, 9))
    assert total == pytest.approx(total[0], abs=1e-9 * way.length)
    before, after = (distance.travelled(w, np.array([t]))[0] for w, t in
                     ((way, way.ride.end), (done, way.ride.end + frames)))  # fmt: skip
    assert before == pytest.approx(after)


@given(ways())
def test_backwards_twice_is_as_it_was(way):
    free = Way(SHAPE, replace(way.ride, never_backwards=False))
    once = Way(SHAPE, replace(free.ride, pegs=pace.backwards(free)))
    times = np.linspace(free.ride.start, free.ride.end, 40)
    there, _ = distance.travelled(free, times)
    back, _ = distance.travelled(once, free.ride.start + free.ride.end - times)
    assert back == pytest.approx(there, abs=1e-7 * way.length)
    again = Way(SHAPE, replace(free.ride, pegs=pace.backwards(once)))
    assert distance.travelled(again, times)[0] == pytest.approx(there, abs=1e-7 * way.length)


def test_a_section_takes_a_pace_of_its_own_and_a_peg_another_time():
    pegs = tuple(Peg(f"p{i}", 10.0 * i, AtPercent(30.0 * i)) for i in range(3))
    way = Way(SHAPE, Ride("path", pegs))
    shaped = with_paces(pegs, ["p0"], easing.PRESETS["ease-in"])
    assert shaped[0].leave.time == 0.42
    assert (shaped[1].leave, shaped[2]) == (pegs[1].leave, pegs[2])
    assert pace.moved_in_time(way, "p1", 12.5)[1].time == 12.5
    for wrong in (0.0, 20.0, 25.0):
        with pytest.raises(EditRefused, match="pass its neighbour"):
            pace.moved_in_time(way, "p1", wrong)
    for work in (
        lambda: with_paces(pegs, ["p2"], easing.EVEN),
        lambda: pace.pegs_with_rest(way, "p1", 0),
        lambda: pace.find(way, "gone"),
        lambda: pace.even_pegs(
            Way(SHAPE, Ride("path", (pegs[0], replace(pegs[1], place=pegs[0].place))))
        ),
        lambda: pace.with_speed(
            Way(SHAPE, Ride("path", (pegs[0], replace(pegs[1], place=pegs[0].place)))), "p0", 5.0
        ),
    ):
        with pytest.raises(EditRefused) as refusal:
            work()
        assert str(refusal.value).endswith(".")


@pytest.mark.parametrize(
    ("text", "levels"),
    [
        ("steps(4)", [0, 25, 50, 75]),
        ("steps(4, jump-start)", [25, 50, 75, 100]),
        ("steps(4,start)", [25, 50, 75, 100]),
        ("steps(5, jump-none)", [0, 25, 50, 75, 100]),
        ("steps(1)", [0]),
    ],
)
def test_steps_are_even_jumps_as_css_has_them(text, levels):
    pace = easing.parse(text)
    line = path("M0 0L100 0")
    found = sample(
        line, Ride("p", simple_pegs(0, 1, 1, easing.EVEN)), seconds=2.02, rate=Rate(50), pace=pace
    )
    x = found.travel.position[:, 0]
    for k, level in enumerate(levels):
        inside = x[int(100 * k / len(levels)) + 1 : int(100 * (k + 1) / len(levels)) - 1]
        np.testing.assert_allclose(inside, level, atol=1e-6)
    assert x[-1] == pytest.approx(100)


@pytest.mark.parametrize(
    "text", ["steps(0)", "steps(1, jump-none)", "steps(3, jump-both)", "steps(x)", "steps(9999)"]
)
def test_steps_that_are_none_are_refused(text):
    with pytest.raises(FormatError, match="steps"):
        easing.parse(text)


def test_a_curve_that_is_upright_in_its_midst_is_as_steep_there_as_beside_it():
    for y1, y2 in ((0.0, 1.0), (0.3, 0.4), (2.0, -1.0)):
        u = 0.5 + np.array([-2e-5, -1e-5, 0.0, 1e-5, 2e-5])
        value, rate = easing.ease(u, 1.0, y1, 0.0, y2)
        mean = (value[3] - value[1]) / 2e-5
        assert abs(rate[2]) > abs(mean)
        assert np.sign(rate[2]) == np.sign(mean)
        assert np.isfinite(rate).all()


def test_a_steady_acceleration_and_a_cube_are_what_they_are_called():
    u = np.linspace(0, 1, 21)
    for name, power in (("accelerate", 2), ("cubic", 3)):
        value, _ = easing.ease(u, *easing.PRESETS[name])
        np.testing.assert_allclose(value, u**power, atol=1e-12)


def test_a_reach_of_nothing_and_back_keeps_the_speed():
    pegs = simple_pegs(0, 60, 1, easing.PRESETS["burst"])
    way = Way(path("M0 0L100 0"), Ride("p", pegs))
    before = pace.pace_at_pegs(way)[0].leave
    for reach in (0.0, 0.4):
        way = way.with_pegs(pace.with_reach(way, "p1", reach, "out"))
    assert pace.pace_at_pegs(way)[0].leave == pytest.approx(before, rel=1e-6)


def joined_way(speed: float = 3.0) -> Way:
    pegs = (Peg("a", 0, AtPercent(0)), Peg("b", 40, AtPercent(40)), Peg("c", 100, AtPercent(100)))
    way = Way(SHAPE, Ride("path", pegs))
    return way.with_pegs(pace.with_speed(way, "b", speed))


def sides(way: Way, index: int = 1) -> tuple[float, float]:
    told = pace.pace_at_pegs(way)[index]
    return told.arrive, told.leave


def test_a_speed_on_both_sides_joins_a_peg_and_one_on_a_side_parts_it():
    way = joined_way()
    assert way.ride.pegs[1].joined
    assert sides(way) == pytest.approx((3.0, 3.0))
    parted = way.with_pegs(pace.with_speed(way, "b", 5.0, ("out",)))
    assert not parted.ride.pegs[1].joined
    assert sides(parted) == pytest.approx((3.0, 5.0))
    again = parted.with_pegs(pace.joined(parted, "b", on=True))
    assert sides(again) == pytest.approx((4.0, 4.0))
    with pytest.raises(EditRefused, match="joined"):
        pace.joined(way, "a", on=True)


@given(ways(), st.integers(0, 4), st.floats(-20, 20), st.floats(0.3, 3))
def test_a_joined_peg_has_one_speed_whatever_is_retimed_or_reshaped(way, index, by, factor):
    index = min(index, len(way.ride.pegs) - 1)
    joined = tuple(
        replace(p, joined=0 < k < len(way.ride.pegs) - 1) for k, p in enumerate(way.ride.pegs)
    )
    before = way.with_pegs(pace.rejoined(None, way.with_pegs(joined)))
    peg = before.ride.pegs[index]
    try:
        moved = pace.moved_in_time(before, peg.id, peg.time + by)
    except EditRefused:
        moved = before.ride.pegs
    longer = transformed(SHAPE.subpaths, (factor, 0, 0, 1, 0, 0))
    after = Way(replace(SHAPE, subpaths=longer), replace(before.ride, pegs=moved))
    after = after.with_pegs(pace.rejoined(before, after))
    for k, told in enumerate(pace.pace_at_pegs(after)):
        if after.ride.pegs[k].joined:
            assert told.arrive == pytest.approx(told.leave, rel=1e-6, abs=1e-9)


def test_an_edit_of_a_neighbour_keeps_a_joined_peg_at_its_speed():
    way = joined_way(2.5)
    layer = Layer("fish", "Fish", Shape("rectangle", 20, 10), ride=way.ride)
    scene = Scene(1000, 600, length=100, layers=(layer,), paths=(SHAPE,))
    for edit in (edits.time_peg(scene, "fish", "c", 80), edits.move_peg(scene, "fish", "c", 90)):
        joined, plain = (
            applied(scene, steps) for steps in (with_joins(scene, edit.commands), edit.commands)
        )
        assert sides(Way(SHAPE, joined.ride_of("fish"))) == pytest.approx((2.5, 2.5), rel=1e-6)
        arrive, leave = sides(Way(SHAPE, plain.ride_of("fish")))
        assert abs(arrive - leave) > 0.1
    assert with_joins(scene, [set_layer("fish", name="Ray")]) == (set_layer("fish", name="Ray"),)


def test_slow_here_and_fast_here_are_one_step_and_leave_the_arrival():
    way = joined_way(2.5)
    layer = Layer("fish", "Fish", Shape("rectangle", 20, 10), ride=way.ride)
    scene = Scene(1000, 600, length=100, layers=(layer,), paths=(SHAPE,))
    before = speed(way, 70)
    for factor in (0.4, 1.8):
        steps = edits.change_speed_here(scene, "fish", 70, factor).commands
        after = Way(SHAPE, applied(scene, steps).ride_of("fish"))
        assert len(after.ride.pegs) == 4
        told = pace.pace_at_pegs(after)[2]
        assert told.arrive == pytest.approx(told.leave)
        assert told.arrive == pytest.approx(min(before * factor, told.arrive_most, told.leave_most))
        again = edits.change_speed_here(applied(scene, steps), "fish", 70, factor).commands
        assert len(applied(applied(scene, steps), again).ride_of("fish").pegs) == 4
        ends = [distance.travelled(each, [0.0, 100.0])[0] for each in (way, after)]
        np.testing.assert_allclose(*ends)
