"""Paths in depth: their length, where riders are on them, and what edits make of their nodes."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.integrate import quad

from coaster.edits import nodes
from coaster.edits.spaces import space_of
from coaster.geometry import bezier
from coaster.geometry.measure import MeasuredPath, measure_of
from coaster.geometry.path import Node, Path, Subpath
from coaster.motion.ride import Facing
from coaster.render.evaluate import Evaluation
from coaster.scene import codec
from tests.core.test_depth import LENGTH, lantern, loop, moved, pinhole, scene

ROUND = Subpath(
    (
        Node("a", (60, 100), (0, 55), (0, -55), "even", z=0.0),
        Node("b", (160, 0), (-55, 0), (55, 0), "even", z=120.0),
        Node("c", (260, 100), (0, -55), (0, 55), "even", z=40.0),
        Node("d", (160, 200), (55, 0), (-55, 0), "even", z=-90.0),
    ),
    closed=True,
)


def whole(run: Subpath) -> np.ndarray:
    return np.concatenate([run.segments(), run.depths()[..., None]], axis=2)


def test_length_is_that_of_the_curve_in_space():
    path = measure_of((ROUND,), "jump")[0]
    basis = bezier.velocity_basis(whole(ROUND))
    wanted = sum(
        quad(lambda t, b=b: np.linalg.norm(b[0] + t * (b[1] + t * b[2])), 0, 1, epsabs=0, epsrel=1e-12)[0]
        for b in basis
    )  # fmt: skip
    assert path.length == pytest.approx(wanted, rel=1e-10)
    assert path.length > MeasuredPath(ROUND.segments()).length


def test_equal_distances_are_equally_long_in_space():
    path = measure_of((ROUND,), "jump")[0]
    found = path.locate(np.linspace(0, path.length, 4001))
    steps = np.diff(np.column_stack([found.position, found.deep]), axis=0)
    sizes = np.linalg.norm(steps, axis=1)
    np.testing.assert_allclose(sizes, path.length / 4000, rtol=1e-4)


def test_a_smooth_node_has_one_direction_and_what_is_highest_is_level():
    cubics = whole(ROUND)
    into, out = cubics[:, 3] - cubics[:, 2], np.roll(cubics[:, 1] - cubics[:, 0], -1, axis=0)
    cosine = (into * out).sum(1) / np.linalg.norm(into, axis=1) / np.linalg.norm(out, axis=1)
    np.testing.assert_allclose(cosine, 1.0, atol=1e-12)
    # Its second node is the deepest, its last the nearest one.
    assert [cubics[i, 1, 2] - cubics[i, 0, 2] for i in (1, 3)] == [0, 0]


def test_between_corners_it_goes_straight():
    run = Subpath((Node("a", (0, 0)), Node("b", (300, 0), z=90.0), Node("c", (300, 200), z=90.0)))
    np.testing.assert_allclose(run.depths(), [[0, 30, 60, 90], [90, 90, 90, 90]])
    assert measure_of((run,), "jump")[0].length == pytest.approx(np.hypot(300, 90) + 200)


def test_what_lies_in_its_plane_is_measured_as_ever():
    flat = replace(ROUND, nodes=tuple(replace(node, z=0.0) for node in ROUND.nodes))
    assert measure_of((flat,), "jump")[0].depths is None
    level = replace(ROUND, nodes=tuple(replace(node, z=50.0) for node in ROUND.nodes))
    deep = measure_of((level,), "jump")[0]
    assert deep.length == pytest.approx(measure_of((flat,), "jump")[0].length)
    assert deep.locate([10.0, 500.0]).deep == pytest.approx([50.0, 50.0])


def ridden(**pose):
    path = Path("round", "Round", (ROUND,))
    rider = lantern("rider", **pose)
    ride = replace(loop("round", LENGTH), facing=Facing("fixed"))
    return scene(replace(rider, ride=ride), paths=(path,))


def test_a_rider_is_seen_where_a_pinhole_sees_its_place_in_space():
    seen = Evaluation(ridden())
    motion = seen.motion("rider")
    path = measure_of((ROUND,), "jump")[0]
    there = path.locate(motion.travel.along)
    wanted = pinhole(np.column_stack([there.position, there.deep]))
    np.testing.assert_allclose(seen.spots_of(motion), wanted, atol=0.01)
    # It goes at one speed in space, and is smaller where it is farther.
    far = np.argmax(there.deep)
    assert np.hypot(*motion.maps[far, :2]) == np.hypot(*motion.maps[:, :2].T).min()


def test_what_dives_has_its_nose_along_the_path_and_is_level_across():
    value = ridden()
    rider = value.layer("rider")
    facing = Facing("along", dives=True)
    value = value.with_layers([replace(rider, ride=replace(rider.ride, facing=facing))])
    motion = Evaluation(value).motion("rider")
    nose, across = motion.stand.space[:, :3, 0], motion.stand.space[:, :3, 1]
    path = measure_of((ROUND,), "jump")[0]
    along = np.clip(motion.travel.along, 1.0, path.length - 1.0)
    ends = [path.locate(along + step) for step in (-1e-3, 1e-3)]
    way = np.diff([np.column_stack([each.position, each.deep]) for each in ends], axis=0)[0]
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    rows = slice(1, -1)  # but at the seam, where the path was cut short
    np.testing.assert_allclose(nose[rows], way[rows], atol=1e-4)
    np.testing.assert_allclose(across[:, 2], 0.0, atol=1e-12)


def test_its_own_depth_is_added_to_that_of_its_path():
    plain, deeper = (Evaluation(ridden(**pose)).motion("rider").away for pose in ({}, {"z": 100.0}))
    assert np.ptp(deeper - plain) < 1e-12
    assert (deeper > plain).all()


def test_nodes_are_put_at_a_depth_together_and_a_new_one_lies_between():
    value = ridden()
    path = value.path("round")
    after = moved(value, nodes.line_up(value, path.id, ["b", "d"], None, None, 25.0))
    assert [node.z for node in after.path("round").nodes()] == [0.0, 25.0, 40.0, 25.0]
    flat = moved(value, nodes.line_up(value, path.id, list("abcd"), None, None, 0.0))
    assert not flat.path("round").is_deep
    x, y, z = bezier.points_at(whole(ROUND)[:1], np.array([0.5]))[0].tolist()
    made = moved(value, nodes.insert_near(value, path.id, (x, y)))
    new = made.path("round").nodes()[1]
    assert new.position == pytest.approx((x, y), abs=1e-6)
    assert new.z == pytest.approx(z, abs=1e-6)


def test_a_node_in_depth_goes_with_the_hand():
    value = ridden()
    for shown in (value, replace(value, layers=())):
        space = space_of(shown, None, 0, 120.0)
        after = moved(shown, nodes.move(shown, "round", ["b"], (10.0, -6.0), space))
        before, now = (
            pinhole(np.array([[*each.path("round").node("b").position, 120.0]]))[0]
            for each in (shown, after)
        )
        assert now - before == pytest.approx([10, -6])


def test_a_flat_path_stays_flat_in_the_file():
    data = codec.to_data(ridden())
    (path,) = data["paths"]
    assert [node.get("z") for node in path["subpaths"][0]["nodes"]] == [None, 120.0, 40.0, -90.0]
    assert codec.from_data(data) == ridden()
