"""Rides over time: pegs are met, D never runs back, headings are continuous, loops close."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from coaster.errors import EditRefused, FormatError
from coaster.formats import pathdata
from coaster.geometry import nodes
from coaster.geometry.path import Path
from coaster.motion import distance, easing, sense, travel
from coaster.motion.distance import Way
from coaster.motion.first import first_ride
from coaster.motion.pegs import kept_on, off_nodes, with_peg, without_peg
from coaster.motion.rate import Rate
from coaster.motion.ride import AtNode, AtPercent, Facing, Peg, Ride, with_laps
from coaster.motion.sampling import sample, simple_pegs
from coaster.motion.sections import Reach, pace_of, paced, retimed
from tests.core.strategies import cubic_beziers, fraction, paths


def path(data: str) -> Path:
    return Path("path", "Path", pathdata.subpaths(pathdata.runs(data)))


def ridden(
    data: str,
    *,
    rows: int = 5,
    facing: Facing | None = None,
    laps: float = 1,
    pace=easing.EVEN,
    gap="glide",
):
    ride = Ride("path", (Peg("p", 0, AtPercent(0)),), facing or Facing(), gap=gap)
    return sample(path(data), ride, seconds=rows / 10, rate=Rate(10), pace=pace, laps=laps).travel


reaches = st.builds(Reach, st.floats(0, 0.5), st.floats(-1, 2))


@st.composite
def rides(draw, most=5):
    times = sorted(draw(st.lists(st.integers(0, 300), min_size=2, max_size=most, unique=True)))
    stops = draw(st.lists(st.floats(0, 300), min_size=len(times), max_size=len(times)))
    pegs = tuple(
        Peg(
            f"p{i}",
            float(t),
            AtPercent(s),
            draw(reaches),
            draw(reaches),
            draw(st.sampled_from(["none"] * 4 + ["end"])),
        )
        for i, (t, s) in enumerate(zip(times, stops, strict=True))
    )
    return Ride("path", pegs, never_backwards=draw(st.booleans()))


@st.composite
def turning(draw):
    """Rides that turn back where a node is: at the ends of the path, and half way."""
    times = sorted(draw(st.lists(st.integers(0, 60), min_size=2, max_size=5, unique=True)))
    stops = st.sampled_from([0.0, 100.0, 50.0, 25.0])
    pegs = tuple(
        Peg(f"p{i}", float(t), AtPercent(draw(stops)), draw(reaches), draw(reaches))
        for i, t in enumerate(times)
    )
    return Ride("path", pegs, never_backwards=draw(st.booleans()))


@given(paths(closed=True), rides())
def test_every_peg_is_met(shape, ride):
    way = Way(shape, ride)
    total, _ = distance.travelled(way, [p.time for p in ride.pegs])
    wanted = [way.distance(p.place) for p in ride.pegs]
    assert total == pytest.approx(wanted, abs=1e-9 * max(way.length, 1e-9))


@given(paths(closed=False), turning())
def test_on_an_open_path_a_rider_is_where_it_has_come_to_in_every_frame(shape, ride):
    way = Way(shape, ride)
    gone = travel.evaluate(way, np.arange(61), fps=25)
    there = way.measure.locate(np.clip(gone.travelled, 0, way.length)).position
    assert gone.position == pytest.approx(there, abs=1e-7 * max(way.length, 1))


@given(turning(), st.booleans())
def test_at_a_node_a_rider_faces_along_the_piece_it_came_by_and_is_about_to_leave_by(ride, closed):
    """Out to a corner and back: of two pieces that meet there it has only ever seen one."""
    way = Way(path("M0 0H100V100" + "Z" * closed), replace(ride, never_backwards=True))
    times = np.arange(61)
    gone = travel.evaluate(way, times, fps=25)
    step, (_, rate) = np.diff(gone.travelled, prepend=np.nan), distance.travelled(way, times)
    for frame in np.flatnonzero((step > 0) & (rate < 0) | (step < 0) & (rate > 0)):
        side = distance.within(gone.travelled[frame], way, after=step[frame] < 0)
        place = way.measure.locate(side, after=step[frame] < 0)
        along = way.measure.directions(place, after=step[frame] < 0)[0]
        heading = along + (np.pi if rate[frame] < 0 else 0)
        assert np.cos(gone.heading[frame] - heading) == pytest.approx(1)


@given(rides())
def test_with_never_backwards_distance_is_monotone_between_pegs(ride):
    way = Way(path("M0 0H100V100Z"), replace(ride, never_backwards=True))
    for a, b in zip(ride.pegs, ride.pegs[1:], strict=False):
        total, rate = distance.travelled(way, np.linspace(a.time, b.time, 60))
        ahead = np.sign(way.distance(b.place) - way.distance(a.place))
        assert np.all(np.diff(total) * ahead >= -1e-9)
        assert np.all(rate[:-1] * ahead >= -1e-9)  # the last one belongs to the next section


@given(rides())
def test_a_ride_that_would_run_back_is_said_to_be_held_back(ride):
    held = distance.is_limited(replace(ride, never_backwards=True))
    way = Way(path("M0 0H100V100Z"), replace(ride, never_backwards=False))
    backwards = False
    for a, b in zip(ride.pegs, ride.pegs[1:], strict=False):
        gain = way.distance(b.place) - way.distance(a.place)
        total, _ = distance.travelled(way, np.linspace(a.time, b.time, 400))
        backwards |= gain != 0 and bool((np.diff(total) * np.sign(gain) < -1e-7 * abs(gain)).any())
    if backwards and all(p.step == "none" for p in ride.pegs):
        assert held


@given(rides(), st.floats(0.1, 9))
def test_retiming_scales_speeds_by_its_inverse_and_keeps_the_shape(ride, factor):
    shape = path("M0 0H100V100Z")
    slow = replace(ride, pegs=retimed(ride.pegs, ride.start * factor, ride.end * factor))
    times = np.linspace(ride.start, ride.end, 40)[1:-1] + 1e-7
    d1, v1 = distance.travelled(Way(shape, ride), times)
    d2, v2 = distance.travelled(Way(shape, slow), times * factor)
    assert d2 == pytest.approx(d1, abs=1e-4)
    steady = np.abs(v1) < 1e4
    assert v2[steady] * factor == pytest.approx(v1[steady], rel=1e-3, abs=1e-2)


@given(cubic_beziers, st.floats(0.01, 0.99))
def test_the_rate_is_the_derivative_of_the_distance(curve, u):
    step = 1e-6
    bezier = easing.Bezier(*curve)
    way = Way(path("M0 0H100"), Ride("path", simple_pegs(0, 1, 1, bezier)))
    (a, b), (_, rate) = (
        distance.travelled(way, [u - step, u + step])[0],
        distance.travelled(way, [u, u])[1],
    )
    if abs(rate) < 1e3:
        assert (b - a) / (2 * step) == pytest.approx(rate, rel=1e-2, abs=1e-2)


@given(cubic_beziers, fraction)
def test_easing_solves_its_own_time_curve(curve, u):
    s = easing.solve_time(u, curve[0], curve[2])
    assert easing.bernstein(s, curve[0], curve[2]) == pytest.approx(u, abs=1e-12)


@given(rides(), st.integers(0, 300))
def test_a_peg_put_in_disturbs_nothing(ride, at):
    way = Way(path("M0 0H100V100Z"), replace(ride, never_backwards=True))
    times = np.linspace(-5, 305, 311)
    before, _ = distance.travelled(way, times)
    try:
        pegs = with_peg(way, float(at))
    except EditRefused:
        assert any(p.time == at for p in ride.pegs)
        return
    after, _ = distance.travelled(Way(way.path, replace(way.ride, pegs=pegs)), times)
    assert after == pytest.approx(before, abs=1e-6)
    assert len(pegs) == len(ride.pegs) + 1
    assert len(without_peg(pegs, pegs[1].id)) == len(ride.pegs)


@given(paths(closed=True), cubic_beziers, st.integers(2, 50), st.integers(1, 3))
def test_a_closed_ride_meets_its_start_again(shape, curve, rows, laps):
    ride = Ride("path", simple_pegs(0, rows, laps, easing.Bezier(*curve)))
    way = Way(shape, ride)
    assert distance.period_of(way, rows) == rows
    found = travel.evaluate(way, np.arange(rows + 1), fps=10, period=rows)
    assert found.position[-1] == pytest.approx(found.position[0], abs=1e-6)
    assert found.travelled[-1] - found.travelled[0] == pytest.approx(laps * way.length)


@given(paths(), st.integers(2, 40), st.sampled_from(["along", "reversed", "ahead", "fixed"]))
def test_headings_are_finite_and_unwrapped(shape, rows, mode):
    ride = first_ride(shape, width=1920, rate=Rate(10), scene_length=rows, facing=Facing(mode))
    found = travel.evaluate(Way(shape, ride), np.arange(rows + 1), fps=10)
    for angles in (found.heading, found.facing):
        assert np.isfinite(angles).all()
        assert np.all(np.abs(np.diff(angles)) <= np.pi + 1e-9)
    assert np.isfinite(found.position).all()


def test_an_open_path_ends_in_the_last_row_and_a_closed_one_would_in_the_next():
    assert ridden("M0 0H100").position[:, 0].tolist() == [0, 25, 50, 75, 100]
    closed = ridden("M0 0H50V50H0Z", rows=4)
    assert closed.position == pytest.approx(np.array([[0, 0], [50, 0], [50, 50], [0, 50]]))
    assert np.degrees(closed.heading) == pytest.approx(
        [0, 0, 90, 180]
    )  # at a corner, the side it came from


def test_laps_count_on_and_wrap_round():
    found = ridden("M0 0H50V50H0Z", rows=4, laps=2)
    assert found.travelled.tolist() == [0, 100, 200, 300]
    assert found.position[2] == pytest.approx([0, 0])
    back = ridden("M0 0H50V50H0Z", rows=4, laps=-1)
    assert back.position == pytest.approx(np.array([[0, 0], [0, 50], [50, 50], [50, 0]]))
    assert np.degrees(back.heading[0]) == pytest.approx(90)


def test_a_gap_is_crossed_or_jumped():
    glide = ridden("M0 0H40M60 0H100", rows=6)
    assert glide.position[:, 0] == pytest.approx([0, 20, 40, 60, 80, 100])
    jump = ridden("M0 0H40M60 0H100", rows=5, gap="jump")
    assert jump.position[:, 0] == pytest.approx([0, 20, 40, 80, 100])
    assert jump.travelled[-1] == pytest.approx(80)
    unseen = ridden("M0 0H40M60 0H100", rows=11, gap="hide")
    assert unseen.position[:, 0] == pytest.approx(np.arange(0, 101, 10))


def test_facing_along_reversed_ahead_and_the_constant_turn():
    quarter = "M0 0A100 100 0 0 1 100 100"
    along = ridden(quarter, rows=11)
    assert np.degrees(along.facing) == pytest.approx(np.linspace(0, 90, 11), abs=0.01)
    assert along.angle(10)[0] == pytest.approx(10, abs=0.01)
    assert np.degrees(ridden(quarter, facing=Facing("reversed")).facing[0]) == pytest.approx(
        180, abs=0.01
    )
    ahead = ridden(quarter, rows=11, facing=Facing("ahead", ahead_s=0.5))
    assert np.degrees(ahead.facing[0]) == pytest.approx(
        22.5, abs=0.1
    )  # the chord to where it is 45 degrees later
    assert np.degrees(ahead.facing[-1]) == pytest.approx(90, abs=0.1)
    assert not ridden(quarter, facing=Facing("fixed")).facing.any()


def test_a_rider_that_keeps_upright_is_mirrored_while_it_would_be_upside_down():
    found = ridden("M0 0H100L0 1", rows=9, facing=Facing(keep_upright=True))
    assert set(found.upside[:4]) == {1.0}
    assert set(found.upside[5:]) == {-1.0}


def test_while_it_rests_a_rider_faces_where_it_came_from_or_before_that_where_it_leaves_to():
    way = Way(path("M0 0H100V100"), Ride("path", simple_pegs(5, 10, 1, easing.EVEN)))
    found = travel.evaluate(way, np.arange(20), fps=10)
    assert np.degrees(found.heading[[0, 4, 15, 19]]) == pytest.approx([0, 0, 90, 90])
    assert found.position[[0, 19]] == pytest.approx(np.array([[0, 0], [100, 100]]))


def test_pegs_on_nodes_move_with_them():
    shape = path("M0 0H100V100Z")
    nodes = [n.id for n in shape.nodes()]
    pegs = (
        Peg("a", 0, AtNode(nodes[0])),
        Peg("b", 10, AtNode(nodes[1])),
        Peg("c", 20, AtNode(nodes[0], 1)),
    )
    assert distance.travelled(Way(shape, Ride("path", pegs)), [10, 20])[
        0
    ].tolist() == pytest.approx([100, 200 + 100 * 2**0.5])
    moved = shape.with_node(replace(shape.node(nodes[1]), position=(50.0, 0.0)))
    found = travel.evaluate(Way(moved, Ride("path", pegs)), [10], fps=10)
    assert found.position[0] == pytest.approx([50, 0])


@pytest.mark.parametrize(
    ("data", "frames"),
    [("M0 0H9", 90), ("M0 0H2400", 150), ("M0 0H99999", 240), ("M0 0H9V9Z", 300)],
)
def test_the_first_ride_can_be_watched_at_once(data, frames):
    ride = first_ride(path(data), width=1920, rate=Rate(30), scene_length=300)
    assert (ride.start, ride.end) == (0, frames)
    assert pace_of(ride.pegs)[0] == "even"


def test_the_first_ride_fits_a_scene_that_is_shorter():
    assert first_ride(path("M0 0H2400"), width=1920, rate=Rate(30), scene_length=40).end == 39
    assert len(first_ride(path("M0 0H2400"), width=1920, rate=Rate(30), scene_length=1).pegs) == 1


@given(rides(), st.sampled_from(sorted(easing.PRESETS)), st.floats(0.1, 5))
def test_pace_and_laps_are_read_back_as_they_were_set(ride, name, laps):
    smooth = paced(ride.pegs, easing.PRESETS[name])
    assert pace_of(smooth)[0] == name
    # Of a travel that all but ends where it began, what lies between would go off too far.
    assume(abs(smooth[-1].place.percent - smooth[0].place.percent) > 0.1)
    changed = Ride("path", with_laps(smooth, laps))
    assert distance.laps_of(Way(path("M0 0H100V100Z"), changed)) == pytest.approx(laps)


def test_the_four_numbers_of_a_curve_are_a_pace_with_and_without_their_function():
    assert (
        easing.parse(" .2, 0,.8,1 ")
        == easing.parse("cubic-bezier(.2,0,.8,1)")
        == easing.Bezier(0.2, 0, 0.8, 1)
    )
    for curve in easing.PRESETS.values():
        assert (
            easing.parse(curve.numbers())
            == easing.parse(curve.css())
            == pytest.approx(curve, abs=0.0005)
        )


@pytest.mark.parametrize(
    "word",
    [
        "hop",
        "1,2,3",
        "cubic-bezier(0,0,1,1",
        "0,0,1,1)",
        "cubic-bezier(1,2,3)",
        "cubic-bezier(2,0,0,0)",
        "cubic-bezier(0,9e9,0,0)",
        "",
    ],
)
def test_a_pace_that_is_none_is_refused(word):
    with pytest.raises(ValueError, match=r"pace|number"):
        easing.parse(word)


@pytest.mark.parametrize(
    ("text", "exact"), [("29.97", (30000, 1001)), ("23.976", (24000, 1001)), ("12.5", (25, 2))]
)
def test_rates_of_broadcasting_are_exact(text, exact):
    from coaster.motion.rate import parse_rate

    assert parse_rate(text) == Rate(*exact)


@pytest.mark.parametrize(
    ("text", "why"), [("x", "not a number"), ("25/0", "not a number"), ("0.5", "outside 1 to 120"),
                      ("120.0001", "outside"), ("119.9999", "leave out the last digit")]
)  # fmt: skip
def test_rates_that_are_none_are_refused_in_words(text, why):
    from coaster.motion.rate import parse_rate

    with pytest.raises(FormatError, match=why):
        parse_rate(text)


@given(st.fractions(1, 120, max_denominator=99_999))
def test_a_rate_that_is_read_keeps_the_rules_of_rates(exact):
    from coaster.motion.rate import FINEST, parse_rate

    if exact.numerator < FINEST:
        read = parse_rate(f"{exact.numerator}/{exact.denominator}")
        assert read == Rate(exact.numerator, exact.denominator)


@given(
    paths(),
    st.lists(st.one_of(rides(), turning()), min_size=1, max_size=4),
    st.lists(st.floats(-90, 90), min_size=4, max_size=4),
    st.sets(st.integers(0, 301), min_size=1),
)
def test_riders_evaluated_together_are_as_each_alone(shape, several, offsets, some):
    together = [replace(r, offset=o) for r, o in zip(several, offsets, strict=False)]
    ways = [Way(shape, ride) for ride in (*together, together[0])]
    periods = [distance.period_of(way, 40) for way in ways]
    times = np.arange(302.0)
    for rows in (None, np.array(sorted(some))):
        found = travel.evaluate_all(ways, times, fps=25, periods=periods, rows=rows)
        at = slice(None) if rows is None else rows
        for way, period, each in zip(ways, periods, found, strict=True):
            alone = travel.evaluate(way, times, fps=25, period=period)
            for name in ("travelled", "rate", "along", "position", "upside"):
                slack = 1e-9 * max(way.length, 1)
                assert getattr(each, name) == pytest.approx(getattr(alone, name)[at], abs=slack)
            turn = each.facing - alone.facing[at]
            assert np.abs(np.sin(turn / 2)).max() < 1e-9


@given(
    st.lists(st.sampled_from([0.0, 0.0, 0.0, 1.0, -1.0]), min_size=1, max_size=400),
    st.data(),
)
def test_the_way_a_rider_goes_at_rest_is_found_without_all_frames(signs, data):
    signs = np.array(signs)
    some = data.draw(st.sets(st.integers(0, len(signs) - 1), min_size=1))
    rows = np.array(sorted(some))
    moving = np.flatnonzero(signs)
    span = (int(moving[0]), int(moving[-1])) if len(moving) else (len(signs), 0)
    for known in (span, (0, len(signs) - 1)):
        found = sense.filled_at(rows, signs[rows], lambda at: signs[at], known)
        assert found.tolist() == sense.filled(signs)[rows].tolist()


@given(paths(), rides(), st.floats(-200, 200))
def test_a_node_is_passed_when_the_rider_first_comes_to_it(shape, ride, offset):
    way = Way(
        shape,
        replace(ride, offset=offset, never_backwards=True, pegs=tuple(sorted_by_place(ride.pegs))),
    )
    total, _ = distance.travelled(way, np.arange(302.0))
    frames = distance.passing(way, total)
    assert len(frames) == len(shape.nodes())
    slack = 1e-5 * max(way.length, 1)
    for frame, node in zip(frames, way.node_distances(), strict=True):
        rounds = (
            np.round((total - node) / way.length) * way.length if way.loops and way.length else 0.0
        )
        beyond = (total - node - rounds) if way.loops else total - node
        if np.isnan(frame):
            passed = (
                np.diff(np.floor((total - node - slack) / way.length)).max()
                if way.loops and way.length
                else 0
            )
            assert passed == 0 or not way.loops
            assert way.loops or total[-1] < node + slack or total[0] > node - slack
            continue
        here = int(frame)
        step = np.abs(np.diff(total)).max(initial=0.0)
        assert np.abs(beyond[here]) <= step / 2 + slack


def sorted_by_place(pegs):
    places = sorted(p.place.percent for p in pegs)
    return [replace(p, place=AtPercent(place)) for p, place in zip(pegs, places, strict=True)]


def pegged(data: str, *names: str) -> tuple[Path, Ride]:
    return path(data), Ride(
        "path", tuple(Peg(f"p{i}", 10.0 * i, AtNode(name)) for i, name in enumerate(names))
    )


def test_pegs_of_a_node_that_goes_stay_where_it_was():
    shape, ride = pegged("M0 0L100 0L100 100L0 100", "n1", "n3", "n4")
    lighter, _ = nodes.without(shape, ["n3"])
    pegs = kept_on(ride, shape, lighter)
    assert [type(p.place) for p in pegs] == [AtNode, AtPercent, AtNode]
    there = Way(lighter, replace(ride, pegs=pegs))
    at = there.measure.locate([there.distance(pegs[1].place)]).position[0]
    assert np.hypot(*(at - (100, 100))) <= np.hypot(100, 100) / 2 + 1e-6
    assert kept_on(ride, shape, shape) is ride.pegs


@given(st.integers(0, 3), st.floats(0, 90))
def test_pegs_taken_off_their_nodes_leave_the_travel_as_it_was(lap, offset):
    shape, ride = pegged("M0 0C50 -80 90 40 100 0L140 90Z", "n1", "n2", "n3")
    last = Peg("end", 40.0, AtNode("n1", lap + 1))
    way = Way(shape, replace(ride, pegs=(*ride.pegs, last), offset=offset))
    free = Way(shape, replace(way.ride, pegs=off_nodes(way)))
    times = np.linspace(0, 40, 99)
    assert distance.travelled(free, times)[0] == pytest.approx(
        distance.travelled(way, times)[0], abs=1e-9 * way.length * 9
    )


def test_laps_of_a_ride_that_comes_back_are_refused_in_words():
    def at(percent: float, time: float) -> Peg:
        return Peg(f"p{time:g}", time, AtPercent(percent))

    there_and_back = (at(0.0, 0.0), at(80.0, 30.0), at(1e-4, 60.0))
    with pytest.raises(EditRefused, match="all but ends where it began"):
        with_laps(there_and_back, 2.0)
    # Where it ends far enough off, the peg between goes along.
    assert with_laps((at(0.0, 0.0), at(80.0, 30.0), at(40.0, 60.0)), 1.0)[1].place.percent == 200
