"""A ride as SVG's own animation evaluates back to the same travel."""

import re
from dataclasses import replace

import numpy as np
import pytest
from defusedxml.ElementTree import fromstring
from hypothesis import assume, given
from hypothesis import strategies as st

from coaster.errors import EditRefused
from coaster.formats import animate
from coaster.motion import distance
from coaster.motion.distance import Way
from coaster.motion.ride import AtPercent, Facing, Peg, Ride
from coaster.motion.sections import Reach
from tests.core import strategies as ours
from tests.core.test_timing import PEGS, WAVE

reach = st.builds(Reach, st.floats(0.01, 1), st.floats(-1.5, 3))


sections = st.lists(
    st.tuples(st.integers(1, 60), st.floats(0, 100), reach, reach), min_size=2, max_size=6
)


@given(ours.paths(), sections, st.booleans())
def test_key_points_times_and_splines_say_the_same_travel(path, some, forward):
    times = np.cumsum([t for t, *_ in some])
    rows = enumerate(zip(times, some, strict=True))
    pegs = tuple(Peg(f"p{i}", float(t), AtPercent(v), a, b) for i, (t, (_, v, a, b)) in rows)
    way = Way(path, Ride("path", pegs, never_backwards=forward))
    assume(way.length > 1)
    try:
        found = animate.motion_of(way)
    except EditRefused:
        assume(False)
    assert np.all((found.splines >= 0) & (found.splines <= 1))
    assert np.all(np.diff(found.times) >= 0)
    asked = np.linspace(times[0], times[-1], 41)
    wanted, _ = distance.travelled(way, asked)
    shares = [found.at((t - times[0]) / (times[-1] - times[0])) for t in asked]
    np.testing.assert_allclose(shares, np.clip(wanted / way.length, 0, 1), atol=1e-6)


def test_the_file_is_svg_with_the_ride_in_it():
    way = Way(WAVE, Ride("w", PEGS, Facing("along")))
    root = fromstring(animate.to_svg(way, 640, 360, 30.0))
    found = root.find(".//{http://www.w3.org/2000/svg}animateMotion").attrib
    assert (found["dur"], found["rotate"], found["calcMode"]) == ("4s", "auto", "spline")
    assert [float(v) for v in found["keyTimes"].split(";")] == pytest.approx([0, 1 / 3, 0.5, 1])
    assert [float(v) for v in found["keyPoints"].split(";")] == pytest.approx([0, 0.5, 0.6, 1])
    assert len(re.split(";", found["keySplines"])) == 3


@pytest.mark.parametrize(
    ("ride", "words"),
    [
        (Ride("w", PEGS[:1]), "stands still"),
        (Ride("w", (replace(PEGS[0], step="end"), *PEGS[1:])), "jumps from peg to peg"),
        (Ride("w", PEGS, offset=30), "past the ends"),
    ],
)
def test_what_svg_cannot_say_is_refused_in_words(ride, words):
    with pytest.raises(EditRefused, match=words):
        animate.motion_of(Way(WAVE, ride))
