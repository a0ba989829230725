"""Takes: drawn movements cleaned, fitted within a tolerance, timed, closed, and read from files."""

import json
from itertools import pairwise

import numpy as np
import pytest
from bench.takes import programme
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from coaster import cli
from coaster.errors import CoreError, EditRefused, FormatError
from coaster.formats import pathdata, svg
from coaster.formats import takes as files
from coaster.geometry import bezier, courses, samples
from coaster.geometry.nearest import nearest
from coaster.geometry.path import Path
from coaster.motion import hand, takes
from coaster.motion.distance import Way, travelled
from coaster.motion.ride import Ride
from coaster.motion.takes import Smoothing, Take
from coaster.motion.travel import evaluate

HANDS = [
    {},
    {"corners": 3},
    {"pauses": 2},
    {"whole_pixels": True},
    {"uneven": True, "corners": 1, "pauses": 1},
]
rough = hnp.arrays(
    float, st.tuples(st.integers(2, 60), st.just(2)), elements=st.floats(-300, 300, width=32)
)


def take_of(seed, **how) -> tuple[hand.HandTake, Take]:
    drawn = hand.draw(seed, **how)
    return drawn, takes.checked_take(drawn.times, drawn.places)


def farthest(run, points) -> float:
    """The largest distance of a point from a run, asked of the exact nearest place and nothing of
    the fit's own.
    """
    return float(nearest(run.segments(), points).distance.max())


def joints(run) -> float:
    """The largest angle, degrees, between the handles of a node that is no corner."""
    worst = 0.0
    for node in run.nodes:
        into, out = np.array(node.handle_in), np.array(node.handle_out)
        if node.kind == "corner" or not into.any() or not out.any():
            continue
        cosine = -(into @ out) / np.hypot(*into) / np.hypot(*out)
        worst = max(worst, float(np.degrees(np.arccos(np.clip(cosine, -1, 1)))))
    return worst


# ---- the curve


@pytest.mark.parametrize("how", HANDS)
@pytest.mark.parametrize("tolerance", [0.5, 1.0, 4.0, 20.0])
def test_no_sample_is_farther_from_the_curve_than_the_tolerance(how, tolerance):
    for seed in range(3):
        _, take = take_of(seed, length=1200, **how)
        found = takes.smooth(take, Smoothing(tolerance), fps=30)
        assert found.deviation <= tolerance
        assert farthest(found.run, take.places) <= found.deviation + 1e-6
        assert joints(found.run) < 0.5
        np.testing.assert_allclose(found.run.nodes[0].position, take.places[0])
        np.testing.assert_allclose(found.run.nodes[-1].position, take.places[-1])


@settings(max_examples=60)
@given(rough, st.floats(0.05, 50))
def test_whatever_is_drawn_stays_within_its_tolerance(points, tolerance):
    found = courses.fit(points, tolerance, corners=samples.corners_of(points, 50, 1.0))
    assert found.deviation <= tolerance
    assert len(found.off) == len(found.segment) == len(points)
    assert np.isfinite([[n.position, n.handle_in, n.handle_out] for n in found.run.nodes]).all()
    if len(found.run.nodes) > 2:
        places = bezier.points_at(found.run.segments()[found.segment], found.parameter)
        np.testing.assert_allclose(np.hypot(*(places - points).T), found.off, atol=1e-6)


def test_few_nodes_are_enough_and_nearer_to_the_movement_than_the_samples():
    counts, nearer = [], []
    for seed in range(10):
        drawn, take = take_of(seed, length=3000)
        corners = samples.corners_of(take.places, 50, take.tremor)
        counts.append(len(courses.fit(take.places, 4.0, corners=corners).run.nodes) - 1)
        course = courses.fit(take.places, take.suggested, corners=corners)
        places = bezier.points_at(course.run.segments()[course.segment], course.parameter)
        ours = np.sum((places - drawn.truth) ** 2)
        nearer.append(ours < np.sum((take.places - drawn.truth) ** 2))
    assert np.mean(counts) / 3 <= 6.5
    assert np.mean(nearer) >= 0.9


@pytest.mark.parametrize("how", HANDS)
@pytest.mark.parametrize("tolerance", [1.0, 4.0])
def test_hardly_more_nodes_than_a_dynamic_programme_finds(how, tolerance):
    ours = fewest = 0
    for seed in range(2):
        _, take = take_of(seed, length=700, **how)
        corners = samples.corners_of(take.places, 50, take.tremor, take.rate)
        course = courses.fit(take.places, tolerance, corners=corners, shake=take.tremor)
        ours += len(course.run.nodes) - 1
        fewest += programme(take.places, corners, tolerance, take.tremor)
    assert ours <= 1.1 * fewest + 1


@pytest.mark.parametrize("rate", [60, 125, 240, 500, 750, 1000])
def test_tremor_is_told_at_every_rate_and_rests_have_no_corners(rate):
    ratios, false = [], 0
    for seed in range(8):
        size = (0.5, 1.0, 1.5, 3.0)[seed % 4]
        drawn, take = take_of(seed, rate=rate, tremor=size, pauses=seed % 3, length=1800)
        true = np.sqrt(np.mean((drawn.places - drawn.truth) ** 2))
        ratios.append(take.tremor / true)
        false += len(samples.corners_of(take.places, 50, take.tremor, take.rate))
    assert np.median(ratios) == pytest.approx(1, abs=0.15)
    assert false <= 3


def test_corners_that_were_drawn_are_found_where_they_are():
    found = drawn = 0
    for seed in range(20):
        movement, take = take_of(seed, length=2500, corners=3)
        kept = samples.corners_of(take.places, 50, take.tremor)
        at = take.places[kept]
        for corner in movement.corners.astype(int):
            drawn += 1
            near = (
                np.hypot(*(at - movement.truth[min(corner, len(movement.truth) - 1)]).T)
                if len(at)
                else np.array([99])
            )
            found += bool(near.min() < 15)
    assert found >= 0.85 * drawn


@pytest.mark.parametrize("size", [0.5, 1.0, 3.0])
def test_the_tremor_is_told_from_the_movement(size):
    told = [take_of(seed, length=3000, tremor=size)[1].tremor for seed in range(8)]
    assert np.mean(told) == pytest.approx(size, rel=0.35)
    assert (
        takes.checked_take(np.arange(60) / 60, np.stack([np.arange(60.0), np.zeros(60)], 1)).tremor
        < 1e-9
    )


def test_a_straight_line_and_a_circle_take_what_they_need():
    line = np.stack([np.linspace(0, 900, 400), np.linspace(0, 300, 400)], axis=1)
    assert len(courses.fit(line, 0.5).run.nodes) == 2
    turn = np.linspace(0, 2 * np.pi, 500)
    ring = 200 * np.stack([np.cos(turn), np.sin(turn)], axis=1)
    found = courses.fit(ring, 0.5, closed=True)
    assert found.run.closed
    assert len(found.run.nodes) <= 5
    assert joints(found.run) < 0.1


# ---- the timing


@pytest.mark.parametrize("how", HANDS)
def test_the_ride_is_where_the_hand_was_within_what_is_said(how):
    for seed in (1, 2):
        _, take = take_of(seed, length=1500, **how)
        found = takes.smooth(take, Smoothing(4.0), fps=30, start=12)
        way = Way(Path("p", "P", (found.run,)), Ride("p", found.pegs))
        assert (way.ride.start, way.ride.end) == pytest.approx((12, 12 + take.duration * 30))
        assert np.all(np.diff(travelled(way, np.linspace(12, way.ride.end, 400))[0]) >= -1e-9)
        there = evaluate(way, 12 + take.times * 30, fps=30).position
        speed = found.length / (take.duration * 30)
        assert np.hypot(*(there - take.places).T).max() <= 4.0 + max(found.late, 0.5) * speed * 4
        assert len(found.pegs) < 40
        assert found.late_rms <= found.late < 8


def test_timing_is_softened_to_even():
    _, take = take_of(3, length=1500, pauses=1)
    spreads = []
    for soften in (0.0, 0.5, 1.0):
        found = takes.smooth(take, Smoothing(4.0, soften=soften), fps=30)
        _, rate = travelled(
            Way(Path("p", "P", (found.run,)), Ride("p", found.pegs)),
            np.linspace(1, take.duration * 30 - 1, 300),
        )
        spreads.append(float(rate.std() / rate.mean()))
    assert spreads[0] > spreads[1] > spreads[2]
    assert spreads[2] < 1e-6


def test_pauses_are_recognised():
    for seed in range(4):
        _, take = take_of(seed, length=2500, pauses=2)
        assert len(takes.pauses(take)) == 2
    assert takes.pauses(take_of(0, length=2000)[1]) == []


# ---- steadying and closing


def test_steadied_samples_come_nearer_to_the_movement_and_ends_stay():
    drawn, take = take_of(6, length=2500)
    none = np.zeros(0, np.intp)
    calm = samples.steadied(take.places, 60.0, none)
    error = [np.mean(np.sum((p - drawn.truth) ** 2, axis=1)) for p in (take.places, calm)]
    assert error[1] < 0.85 * error[0]
    np.testing.assert_array_equal(calm[[0, -1]], take.places[[0, -1]])
    found = takes.smooth(take, Smoothing(1.5, steady=60.0), fps=30)
    assert len(found.run.nodes) < len(takes.smooth(take, Smoothing(1.5), fps=30).run.nodes)
    assert (
        farthest(found.run, take.places)
        <= found.deviation + 1e-6
        <= farthest(found.run, take.places) + 1.0
    )


def test_a_take_is_closed_without_a_kink_or_a_jump_in_speed():
    _, take = take_of(8, length=2000)
    found = takes.smooth(take, Smoothing(4.0, close=True), fps=30)
    assert found.run.closed
    assert joints(found.run) < 0.5
    way = Way(Path("p", "P", (found.run,)), Ride("p", found.pegs))
    _, rate = travelled(way, [way.ride.start + 1e-6, way.ride.end - 1e-6])
    assert rate[0] == pytest.approx(rate[1], rel=1e-3)
    assert way.distance(way.ride.pegs[-1].place) == pytest.approx(way.length)


def test_a_take_with_corners_is_closed_without_a_kink_too():
    corners = 0
    for seed in range(20, 28):
        drawn, take = take_of(seed, length=2000, corners=4)
        # Round about, so that the ends meet about in one direction.
        ends = 2 * np.pi * np.linspace(0, 1, len(drawn.times))
        places = take.places + 300 * np.stack([np.cos(ends), np.sin(ends)], axis=1)
        found = takes.smooth(Take(take.times, places), Smoothing(4.0, close=True), fps=30)
        first, last = found.run.segments()[[0, -1]]
        out, into = first[1] - first[0], last[3] - last[2]
        cosine = out @ into / np.hypot(*out) / np.hypot(*into)
        turn = np.degrees(np.arccos(np.clip(cosine, -1, 1)))
        assert turn < 0.5 or turn > 40
        assert joints(found.run) < 0.5
        corners += found.corners
    assert corners > 5


# ---- what comes in


@pytest.mark.parametrize(
    ("times", "places", "words"),
    [
        ([0], [[1, 1]], "two samples or more"),
        ([0, 1, 2], [[5, 5]] * 3, "stays in one place"),
        ([0, 1], [[0, 0], [np.nan, 1]], "no place or no time"),
        ([0, 1], [[0, 0], [1e9, 1]], "no place or no time"),
        (np.zeros(5), np.arange(10).reshape(5, 2), "stays in one place"),
        (np.arange(100_001), np.zeros((100_001, 2)), "too long"),
    ],
)
def test_what_is_no_take_is_refused_in_words(times, places, words):
    with pytest.raises(EditRefused, match=words):
        takes.checked_take(times, places)


def test_times_that_run_back_and_gaps_are_told_of():
    take = takes.checked_take(
        [1, 1.1, 1.05, 1.1, 1.2, 4.0], [[0, 0], [1, 0], [2, 0], [3, 0], [4, 0], [90, 0]]
    )
    assert take.times.tolist() == pytest.approx([0, 0.1, 0.2, 3.0])
    assert "2 of 6 samples were not later" in take.notes[0]
    assert "A gap has no samples for more than 1 s" in take.notes[1]
    assert takes.smooth(take, Smoothing(1.0), fps=30).deviation <= 1


@settings(max_examples=40)
@given(rough, st.integers(0, 3))
def test_any_take_is_smoothed_or_refused_and_never_worse(points, seed):
    chance = np.random.default_rng(seed)
    try:
        take = takes.checked_take(np.cumsum(chance.choice([0.0, 0.01, 0.5], len(points))), points)
    except EditRefused:
        return
    for how in (Smoothing(2.0), Smoothing(5.0, steady=20, soften=0.5), Smoothing(3.0, close=True)):
        found = takes.smooth(take, how, fps=25)
        assert np.isfinite([found.deviation, found.late, found.length]).all()
        assert all(b.time > a.time for a, b in pairwise(found.pegs))


@pytest.mark.parametrize(
    ("text", "unit", "first"),
    [
        ("t,x,y\n0,1,2\n0.5,3,4\n", "s", (1, 2)),
        ("y;x;time\n2,5;1;0\n4;3;0,5\n", "s", (1, 2.5)),
        ("\ufeffms\tx\ty\tpressure\n0\t1\t2\t.5\n16\t3\t4\t.6\n", "ms", (1, 2)),
        ("# a tracker\n0 1 2\n\n0.5 3 4\n", "s", (1, 2)),
        ("Time (s),X (px),Y (px)\n0,1,2\n0.5,3,4\n", "s", (1, 2)),
        ("Time (ms),X,Y\n0,1,2\n16,3,4\n", "ms", (1, 2)),
        ("frame,x,y\n0,1,2\n12,3,4\n", "frames", (1, 2)),
    ],
)
def test_files_of_many_kinds_are_read(text, unit, first):
    table = files.read(text)
    assert table.unit == unit
    assert tuple(table.places[0]) == first
    assert len(table.take().times) == 2
    last = table.times[-1] * {"s": 1, "ms": 0.001, "frames": 1 / 24}[unit]
    assert table.take(fps=24).times[-1] == pytest.approx(last)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "empty"),
        ("hello", "no column t"),
        ("t,x\n1,2\n", "no column y"),
        ("t,x,y\n0,1,2\n0.1,,3\n", "Row 3, x: a number is missing"),
        ("# from a tracker\n\nt,x,y\n0,1,2\n0.1,,3\n", "Row 5, x: a number is missing"),
        ("t,x,y\n0,1,2\n0.1,abc,3\n", "Row 3, x: “abc” is not a number"),
        ("t,x,y\n0,1,2\n0.1,inf,3\n", "Row 3 has a value that is not a number"),
        ("1,2\n3,4\n", "three columns"),
        ("t,x,y\n" + "0,1,2\n" * 100_001, "more than 100,000 rows"),
    ],
)
def test_files_that_cannot_be_read_say_where(text, words):
    with pytest.raises(FormatError, match=words):
        files.read(text)


def test_units_and_origin_are_what_one_says_they_are():
    table = files.read("t,x,y\n0,1,2\n10,3,4\n")
    take = table.take(files.Units(0.1, 100.0, (5.0, 7.0), flip_y=True))
    assert take.times.tolist() == [0, 1]
    assert take.places.tolist() == [[105, -193], [305, -393]]


@given(st.integers(0, 20))
def test_a_take_written_is_read_as_the_same(seed):
    _, take = take_of(seed, length=300)
    again = files.read(files.to_csv(take)).take()
    np.testing.assert_allclose(again.times, take.times, atol=1e-6)
    np.testing.assert_allclose(again.places, take.places, atol=1e-4)


def test_pressure_is_kept_where_a_device_tells_any():
    told = takes.checked_take(
        [0, 1, 0.5, 2], [[0, 0], [5, 0], [7, 7], [9, 0]], [0.2, 0.4, 0.9, 1.4]
    )
    assert told.pressure.tolist() == [0.2, 0.4, 1.0]
    again = files.read(files.to_csv(told)).take()
    np.testing.assert_allclose(again.pressure, told.pressure)
    assert takes.checked_take([0, 1], [[0, 0], [5, 0]], [0.5, 0.5]).pressure is None
    with pytest.raises(FormatError, match="Row 2, pressure: a number is missing"):
        files.read("t,x,y,pressure\n0,1,2\n")


# ---- the command line


def test_smooth_writes_a_path_within_its_tolerance_and_figures(tmp_path, monkeypatch, capsys):
    monkeypatch.chdir(tmp_path)
    _, take = take_of(4, length=1500, corners=1)
    (tmp_path / "take.csv").write_text(files.to_csv(take))
    words = ["smooth", "take.csv", "--tolerance", "3", "-o", "out.svg", "--report", "out.json"]
    assert cli.main(words) == 0
    report = json.loads((tmp_path / "out.json").read_text())
    drawn = svg.read(tmp_path / "out.svg").pick("0")
    segments = np.concatenate([run.segments() for run in drawn.subpaths()])
    assert nearest(segments, take.places).distance.max() <= 3.0
    assert report["max_deviation"] <= report["tolerance"] == 3
    assert report["samples"] == len(take.times)
    assert report["nodes"] == len(drawn.subpaths()[0].nodes)
    assert report["duration"] == pytest.approx(take.duration)
    assert cli.main(["smooth", "take.csv", "--close", "--timing", "even"]) == 0
    assert "animateMotion" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("text", "words", "said"),
    [
        ("t,x,y\n0,1,2\n", ["take.csv"], "two samples or more"),
        ("t,x,y\n0,1,2\n1,x,3\n", ["take.csv"], "Row 3, x"),
        ("t,x,y\n0,1,2\n1,5,3\n", ["take.csv", "--tolerance", "0"], "more than 0"),
        ("t,x,y\n0,1,2\n1,5,3\n", ["take.csv", "--timing", "late"], "not a number"),
        ("t,x,y\n0,1,2\n1,5,3\n", ["gone.csv"], "No such file"),
    ],
)
def test_smooth_refuses_in_one_line_and_writes_nothing(
    tmp_path, monkeypatch, capsys, text, words, said
):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "take.csv").write_text(text)
    try:
        status = cli.main(["smooth", *words, "-o", "out.svg", "--report", "r.json"])
    except SystemExit as stop:
        status = stop.code
    error = capsys.readouterr().err
    assert (status, error.count("\n")) == (2, 1)
    assert said in error
    assert [f.name for f in tmp_path.iterdir()] == ["take.csv"]


def test_the_run_goes_out_as_path_data_that_reads_as_the_same():
    _, take = take_of(9, length=900)
    found = takes.smooth(take, Smoothing(2.0), fps=30)
    again = pathdata.subpaths(pathdata.runs(pathdata.to_path_data((found.run,))))
    assert farthest(again[0], take.places) <= 2.0
    assert issubclass(EditRefused, CoreError)
