"""Arc length and its inverse: laws for all curves, and curves whose length is known."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad

from coaster.errors import GeometryError
from coaster.geometry import affine, bezier
from coaster.geometry.measure import MeasuredPath
from tests.core.strategies import fraction, segments


def length(pieces) -> float:
    return MeasuredPath(pieces).length


def polygon(pieces) -> float:
    return float(np.hypot(*np.moveaxis(np.diff(pieces, axis=1), -1, 0)).sum())


@given(segments(), fraction)
def test_a_split_adds_up(pieces, t):
    cut = [half for piece in pieces for half in bezier.split(piece, t)]
    assert length(np.array(cut)) == pytest.approx(
        length(pieces), rel=1e-9, abs=1e-9 * polygon(pieces)
    )


@given(segments(), st.floats(-3, 3), st.floats(0.01, 100), st.floats(-1e4, 1e4))
def test_similarity_scales_it(pieces, angle, factor, shift):
    place = affine.chain(
        [affine.translation(shift, -shift), affine.rotation(angle), affine.scaling(factor, -factor)]
    )
    moved = affine.apply(place, pieces)
    assert length(moved) == pytest.approx(factor * length(pieces), rel=1e-8, abs=1e-7)


@given(segments())
def test_reversal_keeps_it_and_chord_and_polygon_bound_it(pieces):
    found = length(pieces)
    assert length(pieces[::-1, ::-1]) == pytest.approx(found, rel=1e-10, abs=1e-12)
    chords = float(np.hypot(*(pieces[:, 3] - pieces[:, 0]).T).sum())
    assert chords * (1 - 1e-12) <= found <= polygon(pieces) * (1 + 1e-12)


@given(segments(), st.lists(fraction, min_size=1, max_size=20))
def test_the_inverse_is_one(pieces, shares):
    """The way up to a located place, measured afresh on the cut curve, is the distance
    asked for.
    """
    measure = MeasuredPath(pieces)
    wanted = np.sort(np.array(shares)) * measure.length
    places = measure.locate(wanted)
    slack = 2e-9 * max(measure.length, 1e-9)
    for s, segment, t in zip(wanted, places.segment, places.parameter, strict=True):
        head = bezier.split(pieces[segment], float(t))[0]
        before = float(measure.starts[segment])
        assert before + length(head[None]) == pytest.approx(s, abs=slack)


@given(segments())
def test_distances_never_run_back(pieces):
    measure = MeasuredPath(pieces)
    places = measure.locate(np.linspace(0, measure.length, 200))
    order = places.segment + places.parameter
    assert np.all(np.diff(order) >= -1e-12)
    assert np.isfinite(places.position).all()
    assert np.isfinite(measure.directions(places)).all()


CUSP = [[0, 0], [100, 100], [0, 100], [100, 0]]
KNOWN = {
    "line": ([[0, 0], [1, 2], [2, 4], [30, 60]], np.hypot(30, 60)),
    "line with both handles on its ends": ([[0, 0], [0, 0], [90, 0], [90, 0]], 90.0),
    "backtracking line": ([[0, 0], [300, 0], [-200, 0], [100, 0]], None),
    "cusp": (CUSP, None),
    "loop": ([[0, 0], [300, 200], [-200, 200], [100, 0]], None),
    "a point": ([[5, 5]] * 4, 0.0),
    "out and home": ([[0, 0], [50, 0], [50, 0], [0, 0]], 75.0),
    "a hair's breadth from a cusp": ([[0, 0], [100, 100.001], [0, 100], [100, 0]], None),
    "tiny": ([[0, 0], [1e-9, 1e-9], [2e-9, 0], [3e-9, 1e-9]], None),
    "far away": ([[999_000, 0], [999_100, 100], [999_000, 100], [999_100, 0]], None),
}


@pytest.mark.parametrize("name", KNOWN)
def test_degenerate_curves(name):
    points, exact = KNOWN[name]
    piece = np.array([points], float)
    found = MeasuredPath(piece)
    if exact is None:
        basis = bezier.velocity_basis(piece)[0]
        speed = lambda t: float(np.hypot(*bezier.velocity(basis, np.array(t))))  # noqa: E731
        stops = sorted({0.0, 0.5, *bezier.slowest_parameters(piece)[0], 1.0})
        exact = sum(
            quad(speed, a, b, epsabs=0, epsrel=1e-13, limit=500)[0] for a, b in pairwise(stops)
        )
    assert found.length == pytest.approx(exact, rel=1e-10, abs=1e-20)
    places = found.locate(np.linspace(0, found.length, 101))
    assert np.isfinite(places.position).all()
    steps = np.hypot(*np.diff(places.position, axis=0).T)
    assert np.all(steps <= found.length / 100 * (1 + 1e-6) + 1e-12)


def test_the_heading_at_a_cusp_is_the_side_one_comes_from():
    measure = MeasuredPath([CUSP])
    places = measure.locate([measure.length / 2])
    before, after = measure.directions(places), measure.directions(places, after=True)
    assert np.degrees(before) == pytest.approx(90, abs=1e-3)
    assert np.degrees(after) == pytest.approx(-90, abs=1e-3)


@pytest.mark.parametrize(
    ("points", "angle"),
    [
        ([[0, 0], [0, 0], [100, 100], [100, 200]], 45),
        ([[0, 0], [0, 0], [0, 0], [100, 0]], 0),
        ([[0, 0], [0, 50], [100, 100], [100, 200]], 90),
    ],
)
def test_a_zero_handle_leaves_towards_the_next_point(points, angle):
    measure = MeasuredPath([points])
    assert np.degrees(measure.directions(measure.locate([0.0]), after=True)) == pytest.approx(
        angle, abs=1e-4
    )


@pytest.mark.parametrize("bad", [np.empty((0, 4, 2)), np.zeros((4, 2)), np.full((1, 4, 2), np.nan)])
def test_what_is_no_path_is_refused(bad):
    with pytest.raises(GeometryError):
        MeasuredPath(bad)


@given(segments(), st.lists(fraction, min_size=1, max_size=5))
def test_a_place_knows_its_distance(pieces, shares):
    path = MeasuredPath(pieces)
    wanted = np.array(shares) * path.length
    places = path.locate(wanted)
    found = [
        path.distance_at(int(k), float(t))
        for k, t in zip(places.segment, places.parameter, strict=True)
    ]
    assert found == pytest.approx(wanted, abs=1e-9 * max(path.length, 1e-9))


def test_a_path_of_thousands_of_pieces_is_as_exact_as_its_pieces():
    rng = np.random.default_rng(7)
    points = np.cumsum(rng.normal(0, 5, (6001, 2)), axis=0)
    pieces = np.stack([points[i * 3 : i * 3 + 4] for i in range(2000)])
    whole = MeasuredPath(pieces)
    alone = [MeasuredPath(piece[None]).length for piece in pieces[::97]]
    assert np.diff(whole.starts)[::97] == pytest.approx(alone, rel=1e-10)
    places = whole.locate(np.linspace(0, whole.length, 500))
    for k in range(0, 500, 29):
        there = whole.distance_at(int(places.segment[k]), float(places.parameter[k]))
        assert there == pytest.approx(whole.length * k / 499, abs=1e-9 * whole.length)
