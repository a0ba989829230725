"""Paths in depth: their length, where riders are on them, and what edits make of their nodes."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.integrate import quad

from coaster.edits import layers, nodes, transfers
from coaster.edits import paths as paths_edits
from coaster.edits.keys import Moment
from coaster.edits.paths import PenNode
from coaster.edits.spaces import beside, in_space, space_of
from coaster.errors import EditRefused
from coaster.geometry import arrange, bezier, handles
from coaster.geometry import nodes as geometry_nodes
from coaster.geometry import path as paths
from coaster.geometry.measure import MeasuredPath, measure_of
from coaster.geometry.path import Node, Path, Subpath
from coaster.motion.ride import Facing
from coaster.render import places
from coaster.render.evaluate import Evaluation
from coaster.render.frames import Frames
from coaster.scene import codec
from coaster.scene.contents import Camera, Group
from coaster.scene.document import Layer, Transform
from tests.core.test_depth import LENGTH, keyed, lantern, loop, moved, pinhole, scene

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


def test_what_banks_leans_into_its_curve_as_its_speed_asks():
    angles = np.arange(6) * np.pi / 3
    spots = zip(100 + 80 * np.cos(angles), 100 + 80 * np.sin(angles), strict=True)
    nodes_on = (Node(f"n{i}", spot, kind="auto") for i, spot in enumerate(spots))
    circle = handles.with_auto_handles(Subpath(tuple(nodes_on), closed=True))
    path = Path("round", "Round", (circle,))
    ride = replace(loop("round", LENGTH), facing=Facing("along", banks=2.0))
    value = replace(ridden(), layers=(replace(ridden().layer("rider"), ride=ride),))
    lean = np.arctan(2.0 * (2 * np.pi * 80 / LENGTH * value.fps) ** 2 / 80 / 1000)
    for way, sign in ((path, 1), (arrange.reversed_path(path), -1)):
        space = Evaluation(replace(value, paths=(way,))).motion("rider").stand.space
        # What lies to the right of it, clockwise towards the middle, is away from the viewer.
        across = space[:, 2, 1] / np.linalg.norm(space[0, :3, 1])
        np.testing.assert_allclose(across, sign * np.sin(lean), atol=2e-3)
        nose = space[:, :3, 0] / np.linalg.norm(space[:, :3, 0], axis=1)[:, None]
        np.testing.assert_allclose(nose[:, 2], 0.0, atol=1e-12)
    straight = Path("round", "Round", (Subpath((Node("a", (0, 0)), Node("b", (200, 0)))),))
    space = Evaluation(replace(value, paths=(straight,))).motion("rider").stand.space
    assert space is None or np.abs(space[:, 2, :2]).max() < 1e-12


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


def test_handles_have_depths_of_their_own_and_a_new_node_leaves_the_curve_as_it_is():
    bent = replace(ROUND.nodes[1], handle_z=(-40.0, 70.0))
    run = ROUND.with_node(bent)
    assert (run.depths()[0, 2], run.depths()[1, 1]) == (80.0, 190.0)
    assert paths.handle_depths(run)["b"] == (-40.0, 70.0)
    path = Path("bent", "Bent", (run,))
    for segment, t in ((0, 0.3), (1, 0.7), (3, 0.5)):
        after, made = geometry_nodes.with_node_at(path, segment, t)
        curves = whole(after.subpaths[0])
        shares = np.linspace(0, 1, 9)
        for curve, wanted in ((segment, t * shares), (segment + 1, t + (1 - t) * shares)):
            found = bezier.points_at(np.repeat(curves[curve : curve + 1], 9, 0), shares)
            there = bezier.points_at(np.repeat(whole(run)[segment : segment + 1], 9, 0), wanted)
            np.testing.assert_allclose(found, there, atol=1e-9)
        others = [k for k in range(4) if k != segment]
        kept = [k if k < segment else k + 1 for k in others]
        np.testing.assert_allclose(curves[kept], whole(run)[others], atol=1e-9)
        assert after.node(made).z


def test_a_loop_of_one_node_in_depth_is_parted_where_it_is():
    one = Node("a", (0, 0), (-80, 40), (80, 40), "corner", z=5.0, handle_z=(30.0, -20.0))
    run = Subpath((one,), closed=True)
    after, _ = geometry_nodes.with_node_at(Path("one", "One", (run,)), 0, 0.4)
    shares = np.linspace(0, 1, 7)
    for curve, wanted in zip(
        whole(after.subpaths[0]), (0.4 * shares, 0.4 + 0.6 * shares), strict=True
    ):
        found = bezier.points_at(np.repeat(curve[None], 7, 0), shares)
        there = bezier.points_at(np.repeat(whole(run), 7, 0), wanted)
        np.testing.assert_allclose(found, there, atol=1e-9)


@pytest.mark.parametrize("kind", ["smooth", "even", "corner"])
def test_a_handle_that_is_set_in_depth_takes_the_other_along_as_its_node_asks(kind):
    node = replace(ROUND.nodes[1], kind=kind)
    value = replace(ridden(), paths=(Path("round", "Round", (ROUND.with_node(node),)),))
    now = paths.handle_depths(value.path("round").subpaths[0])["b"][0]
    change = nodes.HandleChange("out", 30.0, 0.0, z=40.0)
    made = moved(value, nodes.set_handle(value, "round", ["b"], change)).path("round").node("b")
    assert (*made.handle_out, made.handle_z[1]) == (30.0, 0.0, 40.0)
    other = np.array([*made.handle_in, made.handle_z[0]])
    wanted = {"even": [-30, 0, -40], "smooth": [-33, 0, -44], "corner": [-55, 0, now]}[kind]
    np.testing.assert_allclose(other, wanted, atol=1e-9)
    # Only its depth is said: where it is seen from the front it stays.
    deeper = nodes.set_handle(value, "round", ["b"], nodes.HandleChange("in", z=12.0))
    assert moved(value, deeper).path("round").node("b").handle_in[0] < 0


def test_turned_round_its_handles_keep_their_depths():
    bent = replace(ROUND.nodes[1], handle_z=(-40.0, 70.0))
    path = Path("bent", "Bent", (ROUND.with_node(bent),))
    back = arrange.reversed_path(path)
    assert back.node("b").handle_z == (70.0, -40.0)
    assert arrange.reversed_path(back) == path


LEANING = Layer(
    "pod", "Pod", Group(), Transform((90, 40), scale=(2.0, 2.0), tilt=35.0, swing=20.0, turn=15.0)
)


def in_scene(value, node: Node, parent: str | None) -> np.ndarray:
    space = places.space_map(value, parent, 0)
    return (space @ [*node.position, node.z, 1.0])[:3]


@pytest.mark.parametrize("parent", [None, "pod"])
@pytest.mark.parametrize("side", ["above", "side"])
def test_what_is_dragged_from_a_side_goes_with_the_hand_in_space(parent, side):
    path = Path("round", "Round", (ROUND,), parent=parent)
    value = replace(ridden(), layers=(lantern(), LEANING), paths=(path,))
    space = beside(value, parent, 0.0, side)
    after = moved(value, nodes.move(value, "round", ["b"], (30.0, -12.0), space)).path("round")
    before, now = (in_scene(value, each.node("b"), parent) for each in (path, after))
    wanted = [30, 0, 12] if side == "above" else [0, -12, 30]
    np.testing.assert_allclose(now - before, wanted, atol=1e-9)
    # Where the hand drew it, with what is not seen from there in the plane that is drawn in.
    drawn = beside(value, parent, 0.0, side, 77.0)
    node = PenNode((50.0, -20.0), (9.0, 4.0)).node("x", drawn)
    wanted = [50, 77, 20] if side == "above" else [77, -20, 50]
    np.testing.assert_allclose(in_scene(value, node, parent), wanted, atol=1e-9)
    assert node.handle_z is not None
    # A new node is nearest to where it was pointed at, as the curve is drawn there.
    ends = np.array([in_scene(value, Node("m", tuple(p[:2]), z=float(p[2])), parent) for p in bezier.points_at(whole(ROUND)[:1], np.array([0.5]))])  # fmt: skip
    (x, y, z), seen = ends[0], (ends[0][0], -ends[0][2])
    seen = seen if side == "above" else (z, y)
    made = moved(value, nodes.insert_near(value, "round", seen, space)).path("round").nodes()
    np.testing.assert_allclose(in_scene(value, made[1], parent), [x, y, z], atol=1e-3)


@pytest.mark.parametrize("parent", [None, "pod"])
def test_a_node_is_put_where_the_curve_is_seen_and_where_its_rider_is(parent):
    path = Path("round", "Round", (ROUND,), parent=parent)
    camera = Layer("cam", "Camera", Camera(60.0), Transform((150, 90), tilt=10.0, swing=-12.0))
    (rider,) = ridden().layers
    rider = replace(rider, parent=parent)
    value = replace(ridden(), layers=(rider, LEANING, camera), paths=(path,))
    wanted = bezier.points_at(whole(ROUND)[1:2], np.array([0.37]))
    space = space_of(value, parent, 0)
    seen = places.lift_map(value, parent, 0) @ [*wanted[0], 1.0]
    after = moved(value, nodes.insert_near(value, "round", tuple(seen[:2] / seen[2]), space))
    made = after.path("round").nodes()[2]
    assert (*made.position, made.z) == pytest.approx(tuple(wanted[0]), abs=1e-3)
    under = moved(value, nodes.insert_under(value, "round", "rider", 7.0))
    there = places.point_of(value, "rider", 7.0)
    fresh = next(n for n in under.path("round").nodes() if n.id not in "abcd")
    assert in_scene(value, fresh, parent) == pytest.approx(there, abs=1e-3)


def test_a_path_is_turned_and_scaled_from_above():
    value = ridden()
    space = beside(value, None, 0.0, "above")
    quarter = paths_edits.Change(turn=90.0, pivot=(160.0, 0.0))
    after = moved(value, paths_edits.transform(value, "round", quarter, space)).path("round")
    for old, new in zip(value.path("round").nodes(), after.nodes(), strict=True):
        across, deep = old.position[0] - 160, old.z
        # A quarter clockwise, as the paper lies: what was far is to the right.
        assert new.position == pytest.approx((160 + deep, old.position[1]))
        assert new.z == pytest.approx(-across)
    assert measure_of(after.subpaths, "jump")[0].length == pytest.approx(
        measure_of((ROUND,), "jump")[0].length, rel=1e-9
    )


@pytest.mark.parametrize("parent", [None, "pod"])
def test_layers_are_moved_from_a_side_and_kept_in_their_keys(parent):
    base = replace(lantern(), parent=parent)
    keyed_z = replace(base, keys=(keyed("z", 10, 30),))
    for layer in (base, keyed_z):
        value = replace(ridden(), layers=(layer, LEANING))
        there = places.point_of(value, layer.id, 0)
        after = moved(value, layers.move_beside(value, layer.id, (40.0, 25.0), Moment(0.0), "side"))
        assert places.point_of(after, layer.id, 0) == pytest.approx((there[0], 25.0, 40.0))
    assert after.layer(layer.id).track("z").keys[0].value != 10
    with pytest.raises(EditRefused, match="set by the ride"):
        layers.move_beside(ridden(), "rider", (0.0, 0.0), Moment(0.0), "above")


@pytest.mark.parametrize("parent", [None, "pod"])
@pytest.mark.parametrize("own", [0.0, 15.0])
def test_layers_are_pinned_from_any_side_and_stay_where_they_were_pinned(parent, own):
    base = lantern(z=own)
    value = replace(ridden(), layers=(replace(base, parent=parent), LEANING))
    _, y, _ = places.point_of(value, "lantern", 0)
    value = moved(value, transfers.pin(value, "lantern", 0, (40.0, 25.0), "above"))
    assert value.layer("lantern").ride is None
    first = (40.0, y, -25.0)
    assert places.point_of(value, "lantern", 0) == pytest.approx(first)
    value = moved(value, transfers.pin(value, "lantern", 20, (30.0, 60.0), "side"))
    second = (40.0, 60.0, 30.0)
    assert value.ride_of("lantern").pegs[1].time == 20
    for frame, place in ((0, first), (20, second)):
        assert places.point_of(value, "lantern", frame) == pytest.approx(place, abs=1e-6)
    value = moved(value, transfers.pin(value, "lantern", 10, (90.0, 0.0), "above"))
    _, y, _ = places.point_of(value, "lantern", 10)
    # On the stage it is where it is seen, in the plane in which it was.
    seen = places.spot_of(value, "lantern", 10)
    after = moved(value, transfers.pin(value, "lantern", 10, (seen[0] + 8.0, seen[1] + 3.0)))
    assert places.spot_of(after, "lantern", 10) == pytest.approx(
        (seen[0] + 8, seen[1] + 3), abs=0.1
    )
    for frame, place in ((0, first), (10, (90.0, y, 0.0)), (20, second)):
        assert places.point_of(value, "lantern", frame) == pytest.approx(place, abs=1e-6)


def test_a_member_of_a_flat_group_stays_in_its_plane():
    flat = replace(LEANING, content=Group(flat=True))
    value = replace(ridden(), layers=(replace(lantern(), parent="pod"), flat))
    edit = layers.nudged(value, "lantern", (10.0, 5.0), Moment(0.0), "above")
    after = moved(value, edit)
    assert after.layer("lantern").transform.z == pytest.approx(0.0, abs=1e-9)


def test_a_flat_path_stays_flat_in_the_file():
    data = codec.to_data(ridden())
    (path,) = data["paths"]
    assert [node.get("z") for node in path["subpaths"][0]["nodes"]] == [None, 120.0, 40.0, -90.0]
    assert codec.from_data(data) == ridden()


def apart(deep: bool, facing=None, **cage):
    """A path in a tilted group that goes back and forth; it is ridden in there, and from outside."""
    run = ROUND if deep else replace(ROUND, nodes=tuple(replace(n, z=0.0) for n in ROUND.nodes))
    path = Path("round", "Round", (run,), parent="pod")
    ride = replace(loop("round", LENGTH), facing=facing or Facing("fixed"))
    pose = Transform((150, 90), tilt=50.0, turn=15.0)
    pod = Layer("pod", "Pod", Group((160, 100)), pose, keys=(keyed("z", 0, 60, 0),))
    inner = replace(lantern("inner"), parent="pod", ride=ride)
    around = Layer("cage", "Cage", Group((160, 100)), Transform((170, 110), **cage))
    outer = replace(lantern("outer"), parent="cage" if cage else None, ride=ride)
    layers = (inner, pod, outer, around) if cage else (inner, pod, outer)
    return scene(*layers, paths=(path,))


@pytest.mark.parametrize("deep", [False, True])
@pytest.mark.parametrize("cage", [{}, {"swing": 35.0}, {"tilt": -20.0, "z": 30.0, "scale": (0.8, 0.8)}, {"turn": 40.0}])  # fmt: skip
def test_a_rider_sits_on_a_path_of_another_group_wherever_both_lie_in_depth(deep, cage):
    seen = Evaluation(apart(deep, **cage))
    inner, outer = (seen.motion(name) for name in ("inner", "outer"))
    np.testing.assert_allclose(seen.spots_of(outer), seen.spots_of(inner), atol=1e-6)
    np.testing.assert_allclose(outer.stand.away, inner.stand.away, atol=1e-9)
    np.testing.assert_allclose(outer.travel.along, inner.travel.along, atol=1e-12)
    some = Evaluation(apart(deep, **cage))
    (motion,) = some.motions_of([some.scene.layer("outer")], Frames(np.array([3, 11, 17])))
    np.testing.assert_allclose(motion.maps, outer.maps[[3, 11, 17]], atol=1e-9)


def test_its_nose_goes_into_depth_as_the_path_does():
    seen = Evaluation(apart(True, Facing("along", dives=True)))
    inner, outer = (seen.motion(name).stand.space[:, :3, 0] for name in ("inner", "outer"))
    inner, outer = (each / np.linalg.norm(each, axis=1, keepdims=True) for each in (inner, outer))
    np.testing.assert_allclose(outer, inner, atol=1e-9)


@pytest.mark.parametrize("side", ["above", "side"])
def test_a_run_that_is_drawn_from_a_side_is_as_long_in_space_and_as_even(side):
    straight = Node("e", (400, 150), kind="corner"), Node("f", (420, 300), kind="corner")
    run = Subpath((*(replace(node, z=0.0) for node in ROUND.nodes), *straight))
    lies = in_space(run, side, 75.0)
    flat, deep = (measure_of((each,), "jump")[0] for each in (run, lies))
    assert deep.length == pytest.approx(flat.length, rel=1e-9)
    on = beside(scene(), None, 0.0, side)
    spots = np.linspace(0, flat.length, 50)
    found = deep.locate(spots)
    in_all = np.column_stack([found.position, found.deep])
    assert on.drawn(in_all) == pytest.approx(flat.locate(spots).position, abs=1e-6)


def test_what_has_a_place_of_its_own_goes_from_there_into_depth():
    value = apart(False)
    outer = value.layer("outer")
    own = replace(outer, ride=replace(outer.ride, relative=True), transform=Transform((40, 30)))
    value = value.with_layers([own])
    seen, known = Evaluation(value), places.Known(value)
    points = places.points_of(known.placed(own), seen.motion("outer").stand, None)
    np.testing.assert_allclose(points[0], [40, 30, 0], atol=1e-9)
    inner = value.layer("inner")
    wanted = places.points_of(known.placed(inner), seen.motion("inner").stand, None)
    # What takes the whole path along does not take where it begins.
    pod = value.layer("pod")
    still = value.with_layers([replace(pod, keys=())])
    known, seen = places.Known(still), Evaluation(still)
    moved_on, as_path = (
        places.points_of(known.placed(still.layer(x)), seen.motion(x).stand, None)
        for x in ("outer", "inner")
    )
    np.testing.assert_allclose(moved_on - moved_on[0], as_path - as_path[0], atol=1e-9)
    assert np.ptp(moved_on[:, 2]) > 50
    assert np.abs(wanted[:, 2] - as_path[:, 2]).max() > 1


def test_a_path_on_which_nodes_lie_behind_one_another_goes_no_farther_than_they_are():
    spots = ((0.0, 4.0, 0.0), (0.0, 0.0, 1.0), (0.0, 0.0, 2.0), (3.0, 0.0, 5.0))
    nodes = (Node(f"n{i}", (x, y), kind="auto", z=z) for i, (x, y, z) in enumerate(spots))
    run = Subpath(tuple(nodes))
    assert (run.depths() >= 0).all()
    assert (run.depths() <= 5).all()
    chords = np.linalg.norm(np.diff(spots, axis=0), axis=1).sum()
    assert measure_of((run,), "jump")[0].length == pytest.approx(chords, rel=0.1)


def test_in_depth_a_path_is_made_lighter_by_what_is_seen_from_nowhere():
    """Seen from the front it is one straight line: all that there is of it is in its depth."""
    bend = np.linspace(0, 2 * np.pi, 40)
    spots = np.column_stack([60 * bend, np.full(40, 80.0), 90 * np.sin(bend)])
    dense = [Node(f"n{i}", (x, y), kind="auto", z=z) for i, (x, y, z) in enumerate(spots.tolist())]
    path = geometry_nodes.with_auto_handles(Path("wave", "Wave", (Subpath(tuple(dense)),)))
    light, off = geometry_nodes.lighter(path, 0.5, set())
    assert 4 <= len(light.nodes()) <= 12
    assert off <= 0.5
    before, after = (measure_of(each.subpaths, "jump")[0] for each in (path, light))
    assert after.length == pytest.approx(before.length, rel=1e-3)
    found = after.locate(np.linspace(0, after.length, 400))
    x, z = found.position[:, 0], found.deep
    assert np.abs(z - 90 * np.sin(x / 60)).max() < 1.5
    assert found.position[:, 1] == pytest.approx(np.full(400, 80.0))


@pytest.mark.parametrize("kind", ["smooth", "corner"])
def test_in_depth_a_node_is_taken_out_and_the_curve_goes_on_where_it_went(kind):
    bent = Subpath(
        (
            Node("a", (0, 0), handle_out=(30, 0), handle_z=(0.0, 30.0)),
            Node("b", (100, 40), (-30, -10), (30, 10), kind, z=60.0, handle_z=(-15.0, 15.0)),
            Node("c", (200, 60), handle_in=(-30, 0), z=20.0, handle_z=(10.0, 0.0)),
            Node("d", (260, 60), z=-40.0),
        )
    )
    path = Path("bent", "Bent", (bent,))
    split, made = geometry_nodes.with_node_at(path, 0, 0.5)
    back, off = geometry_nodes.without(split, [made])
    assert off < 0.01
    fine = np.linspace(0, 1, 50)
    was, now = (bezier.sampled(whole(each.subpaths[0]), fine) for each in (path, back))
    np.testing.assert_allclose(now, was, atol=0.05)


def test_in_depth_what_is_straight_stays_so():
    spots = ((0.0, 0.0, 0.0), (30.0, 0.0, 60.0), (60.0, 0.0, 120.0), (60.0, 50.0, 0.0))
    run = Subpath(tuple(Node(f"n{i}", (x, y), z=z) for i, (x, y, z) in enumerate(spots)))
    light, off = geometry_nodes.lighter(Path("line", "Line", (run,)), 0.2, set())
    assert [node.id for node in light.nodes()] == ["n0", "n2", "n3"]
    assert off < 1e-9
    straight = whole(light.subpaths[0])[0]
    np.testing.assert_allclose(np.diff(straight, axis=0), [[20, 0, 40]] * 3, atol=1e-9)
