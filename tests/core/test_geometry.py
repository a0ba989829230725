"""Beziers, arcs, affine maps and paths: laws that hold for all of them."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from coaster.errors import GeometryError, UnknownId
from coaster.geometry import affine, arcs, bezier
from coaster.geometry import path as paths
from coaster.geometry.measure import measure_of
from coaster.geometry.path import FURTHEST, Node, Path, Subpath, node_kind, subpath_from_segments
from tests.core.strategies import coordinate, fraction, segments
from tests.core.strategies import paths as any_path

angle = st.floats(-7, 7)
radius = st.floats(0.1, 900)
matrices = st.tuples(*[st.floats(-3, 3)] * 4, coordinate, coordinate)


@given(segments(), st.lists(fraction, min_size=1, max_size=8))
def test_bounds_contain_the_curve_and_touch_it(pieces, shares):
    left, top, right, bottom = bezier.bounds(pieces)
    fine = np.linspace(0, 1, 400)
    points = np.concatenate(
        [bezier.points_at(np.repeat(p[None], 400, axis=0), fine) for p in pieces]
    )
    slack = 1e-9 * max(np.abs(pieces).max(), 1)
    assert (points >= np.array([left, top]) - slack).all()
    assert (points <= np.array([right, bottom]) + slack).all()
    reached = [points[:, 0].min() - left, points[:, 1].min() - top, right - points[:, 0].max()]
    assert max(reached) <= 1e-3 * max(np.ptp(pieces), 1)


@given(segments(most=1), fraction, fraction)
def test_a_cut_curve_is_the_same_curve(pieces, t, u):
    first, second = bezier.split(pieces[0], t)
    slack = 1e-8 * max(np.abs(pieces).max(), 1)
    for half, at in ((first, t * u), (second, t + (1 - t) * u)):
        there = bezier.points_at(pieces, np.array([at]))
        assert bezier.points_at(half[None], np.array([u])) == pytest.approx(there, abs=slack)


@given(segments(most=1), fraction)
def test_the_velocity_is_the_power_forms_derivative(pieces, t):
    power = bezier.power_basis(pieces)[0]
    slope = power[1] + 2 * power[2] * t + 3 * power[3] * t * t
    found = bezier.velocity(bezier.velocity_basis(pieces), np.array([t]))[0]
    assert found == pytest.approx(slope, abs=1e-8 * max(np.abs(pieces).max(), 1))


@given(segments(most=1))
def test_the_speed_is_stationary_where_it_is_said_to_be(pieces):
    basis = bezier.velocity_basis(pieces)
    size = np.abs(basis).max()
    for t in bezier.slowest_parameters(pieces)[0]:
        if 0 < t < 1 and size > 1:
            a, b = (np.hypot(*bezier.velocity(basis, np.array([t + d]))[0]) for d in (-1e-5, 1e-5))
            assert abs(b - a) <= 2e-4 * size


@given(radius, radius, angle, st.floats(-6.28, 6.28), angle, st.sampled_from([1e-1, 1e-3, 1e-5]))
def test_arcs_stay_within_their_tolerance(rx, ry, start, sweep, tilt, tolerance):
    pieces = arcs.arc((5, -7), (rx, ry), start, sweep, tilt=tilt, tolerance=tolerance)
    fine = np.linspace(0, 1, 50)
    points = np.concatenate(
        [bezier.points_at(np.repeat(p[None], 50, axis=0), fine) for p in pieces]
    )
    back = affine.chain([affine.rotation(-tilt), affine.translation(5, -7) * [1, 1, 1, 1, -1, -1]])
    u, v = affine.apply(back, points).T
    off = np.abs(np.hypot(u / rx, v / ry) - 1) * max(rx, ry)
    assert off.max() <= tolerance * 1.01 + 1e-9
    ends = [[rx * math.cos(a), ry * math.sin(a)] for a in (start, start + sweep)]
    assert np.stack([u[[0, -1]], v[[0, -1]]], axis=1) == pytest.approx(np.array(ends), abs=1e-6)


@pytest.mark.parametrize("radius", [1e-3, 1e-100, 1e-200, 5e-324])
def test_of_radii_that_are_far_too_small_only_the_proportion_counts(radius):
    found, wanted = (arcs.arc_between(0j, (r, r), 0, False, True, 50 + 50j) for r in (radius, 1.0))
    assert found == pytest.approx(wanted, abs=1e-9)
    flat = arcs.arc_between(0j, (5, radius * 1e-10), 0, False, True, 50 + 50j)
    assert flat == pytest.approx([0, (50 + 50j) / 3, (100 + 100j) / 3, 50 + 50j])


@given(matrices, matrices, coordinate, coordinate)
def test_composed_maps_act_one_after_the_other(outer, inner, x, y):
    both = affine.apply(affine.compose(outer, inner), [x, y])
    apart = affine.apply(outer, affine.apply(inner, [x, y]))
    assert both == pytest.approx(apart, rel=1e-9, abs=1e-6)
    each = affine.apply_each(np.array([outer, inner]), np.array([[x, y]]))
    assert each[:, 0] == pytest.approx(
        np.array([affine.apply(m, [x, y]) for m in (outer, inner)]), rel=1e-9, abs=1e-6
    )


@given(matrices, angle)
def test_no_direction_is_stretched_more_than_the_largest_scale(matrix, way):
    a, b, c, d, _, _ = matrix
    stretched = math.hypot(
        a * math.cos(way) + c * math.sin(way), b * math.cos(way) + d * math.sin(way)
    )
    assert stretched <= float(affine.largest_scale(matrix)) * (1 + 1e-9) + 1e-9


@given(segments(), st.booleans())
def test_nodes_give_the_curves_they_were_made_from(pieces, closed):
    made = subpath_from_segments(pieces, closed=closed)
    again = made.segments()
    assert again[: len(pieces)] == pytest.approx(pieces, abs=1e-6)
    assert made.closed is closed
    assert len({node.id for node in made.nodes}) == len(made.nodes)


@given(any_path(), st.floats(0.01, 50), angle, coordinate)
def test_a_moved_path_is_as_long_as_its_scale_says(path, factor, turn, shift):
    place = affine.chain(
        [affine.translation(shift, 3), affine.rotation(turn), affine.scaling(factor, factor)]
    )
    moved = paths.transformed(path.subpaths, place)
    before, after = (measure_of(s, "glide")[0].length for s in (path.subpaths, moved))
    assert after == pytest.approx(factor * before, rel=1e-6, abs=1e-5)


@pytest.mark.parametrize(
    ("handles", "kind"),
    [(((-9, 0), (9, 0)), "even"), (((-9, 0), (3, 0)), "smooth"), (((-9, 0), (0, 9)), "corner"),
     (((9, 0), (9, 0)), "corner"), (((0, 0), (9, 0)), "corner"), (((-9, 0), (9, 0.1)), "corner"),
     (((-9, 0), (9, 0.01)), "even")],
)  # fmt: skip
def test_what_two_handles_make_of_a_node(handles, kind):
    assert node_kind(*handles) == kind


@pytest.mark.parametrize(
    "bad",
    [
        np.zeros((0, 4, 2)),
        np.zeros((3, 2)),
        np.full((1, 4, 2), np.inf),
        np.full((1, 4, 2), 2 * FURTHEST),
        # Handles that are longer than that.
        np.array([[(-0.9, 0), (0.9, 0), (0.9, 0), (0.9, 0)]]) * FURTHEST,
        np.array([[(-0.9, 0), (-0.9, 0), (-0.9, 0), (0.9, 0.1)]]) * FURTHEST,
    ],
)
def test_coordinates_that_make_no_path_are_refused(bad):
    with pytest.raises(GeometryError):
        subpath_from_segments(bad, closed=False)


def test_a_node_is_changed_by_its_id_and_only_it():
    path = Path(
        "p", "P", (Subpath((Node("a", (0, 0)), Node("b", (9, 0)))), Subpath((Node("c", (1, 1)),)))
    )
    changed = path.with_node(Node("c", (5, 5)))
    assert [n.position for n in changed.nodes()] == [(0, 0), (9, 0), (5, 5)]
    with pytest.raises(UnknownId, match="no node 'd'"):
        path.with_node(Node("d", (0, 0)))


def test_a_path_of_one_point_has_no_length_and_every_place_is_that_point():
    lone = Path("p", "P", (Subpath((Node("a", (3, 4)),)),))
    measure, _ = measure_of(lone.subpaths, "glide")
    assert measure.length == 0
    assert measure.locate([0.0]).position.tolist() == [[3, 4]]
    assert paths.bounds(lone.subpaths) == (3, 4, 3, 4)
