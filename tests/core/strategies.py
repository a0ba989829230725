"""Paths, rides and scenes to try properties on."""

import numpy as np
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from coaster.geometry.path import Path, subpath_from_segments
from coaster.motion.keys import Key
from coaster.motion.sections import Reach

coordinate = st.floats(-2000, 2000, allow_nan=False, width=32)
fraction = st.floats(0.0, 1.0)


@st.composite
def segments(draw, most=5):
    """Joined cubics (n, 4, 2); coarse coordinates make coincident points and straight runs
    common.
    """
    count = draw(st.integers(1, most))
    kind = st.one_of(coordinate, st.integers(-3, 3).map(lambda v: v * 100.0))
    points = draw(hnp.arrays(float, (3 * count + 1, 2), elements=kind))
    return np.stack([points[3 * i : 3 * i + 4] for i in range(count)])


@st.composite
def paths(draw, closed=None):
    shut = draw(st.booleans()) if closed is None else closed
    return Path("path", "Path", (subpath_from_segments(draw(segments()), closed=shut),))


@st.composite
def some_keys(draw, low=-50, high=50, most=5):
    """Keys in the order of time, with paces of all sorts."""
    times = sorted(draw(st.lists(st.integers(0, 300), min_size=1, max_size=most, unique=True)))
    reach = st.builds(Reach, fraction, st.floats(-1, 2))
    values = st.floats(low, high)
    return tuple(
        Key(
            f"k{i}",
            t / 2,
            draw(values),
            draw(reach),
            draw(reach),
            draw(st.sampled_from(["none", "none", "start", "end"])),
        )
        for i, t in enumerate(times)
    )


cubic_beziers = st.tuples(fraction, fraction, fraction, fraction)
