"""Shaping paths: what stays as it was, what is best, and what is refused."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, example, given
from hypothesis import strategies as st

from coaster.errors import EditRefused, GeometryError
from coaster.geometry import affine, arrange, bezier, figures, fitting, handles, nodes
from coaster.geometry.measure import measure_of
from coaster.geometry.nearest import nearest
from coaster.geometry.path import Node, Path, Subpath, bounds
from tests.core.strategies import coordinate, fraction, segments
from tests.core.strategies import paths as any_path

FINE = np.linspace(0, 1, 401)
kinds = st.sampled_from(["corner", "smooth", "even", "auto"])
vector = st.tuples(st.floats(-300, 300), st.floats(-300, 300))


def points_of(path: Path | Subpath) -> np.ndarray:
    pieces = path.segments()
    return np.concatenate(
        [bezier.points_at(np.repeat(p[None], len(FINE), axis=0), FINE) for p in pieces]
    )


def size_of(path) -> float:
    return max(float(np.abs(path.segments()).max()), 1.0)


def polygon(*corners: tuple[float, float], closed: bool = False, kind="corner") -> Path:
    made = tuple(
        Node(f"n{i + 1}", (float(x), float(y)), kind=kind) for i, (x, y) in enumerate(corners)
    )
    return Path("p", "P", (Subpath(made, closed),))


@given(segments(), st.lists(st.tuples(coordinate, coordinate), min_size=1, max_size=5))
@example(np.array([[[0, 0], [100, 0], [0, 0], [100, 0]]], float), [(50.0, 0.0)])
@example(np.zeros((1, 4, 2)), [(3.0, 4.0)])
def test_nothing_of_the_path_is_nearer_than_the_nearest_place(pieces, points):
    found = nearest(pieces, points)
    fine = np.concatenate([bezier.points_at(np.repeat(p[None], 401, axis=0), FINE) for p in pieces])
    for k, point in enumerate(points):
        dense = np.hypot(*(fine - point).T).min()
        assert found.distance[k] <= dense + 1e-9 * max(np.abs(pieces).max(), 1)
        there = bezier.points_at(pieces[found.segment[k]][None], found.parameter[k : k + 1])[0]
        assert np.hypot(*(there - point)) == pytest.approx(found.distance[k], abs=1e-9)


@given(any_path(), st.integers(0, 9), st.floats(1e-6, 1 - 1e-6), kinds)
def test_a_node_put_in_changes_nothing_of_the_curve(path, piece, t, kind):
    run = path.subpaths[0]
    path = nodes.with_auto_handles(
        replace(
            path, subpaths=(replace(run, nodes=tuple(replace(n, kind=kind) for n in run.nodes)),)
        )
    )
    piece %= len(path.segments())
    made, name = nodes.with_node_at(path, piece, t)
    before, after = path.segments(), made.segments()
    assert len(after) == len(before) + 1
    u = np.linspace(0, 1, 33)
    slack = 1e-9 * size_of(path)
    for k in range(len(before)):
        old = bezier.points_at(np.repeat(before[k][None], 33, axis=0), u)
        if k != piece:
            same = after[k if k < piece else k + 1]
            assert (
                np.abs(bezier.points_at(np.repeat(same[None], 33, axis=0), u) - old).max() <= slack
            )
        else:
            first, last = after[k], after[k + 1]
            halves = [
                bezier.points_at(np.repeat(h[None], 33, axis=0), v)
                for h, v in (
                    (first, np.clip(u / t, 0, 1)),
                    (last, np.clip((u - t) / (1 - t), 0, 1)),
                )
            ]
            assert np.abs(np.where((u <= t)[:, None], *halves) - old).max() <= slack
    assert nodes.with_auto_handles(made).segments() == pytest.approx(
        after, abs=slack
    )  # no auto node is left to spoil it
    assert made.node(name).id == name


@given(any_path(), st.booleans())
def test_turned_round_twice_is_as_it_was(path, closed):
    path = replace(path, subpaths=(*path.subpaths, replace(path.subpaths[0], closed=closed)))
    once = arrange.reversed_path(path)
    assert arrange.reversed_path(once) == path
    a, b = (measure_of(p.subpaths, "jump")[0].length for p in (path, once))
    assert a == pytest.approx(b, rel=1e-9, abs=1e-9)


@given(any_path(), st.floats(0.05, 20), st.floats(-7, 7), vector)
def test_measuring_after_a_similarity_is_measuring_and_scaling(path, scale, angle, pivot):
    turned = arrange.about(
        path, affine.compose(affine.rotation(angle), affine.scaling(scale, scale)), pivot
    )
    a, b = (measure_of(p.subpaths, "glide")[0].length for p in (path, turned))
    assert b == pytest.approx(a * scale, rel=1e-7, abs=1e-6)


@given(
    st.lists(vector, min_size=3, max_size=8, unique=True),
    st.booleans(),
    st.floats(-7, 7),
    st.floats(0.1, 9),
)
def test_auto_handles_turn_and_scale_with_their_nodes(points, closed, angle, scale):
    p = np.array(points)
    turn = scale * np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
    away = np.hypot(*np.diff(np.concatenate([p, p[:1]]), axis=0).T)
    assume(away.min() > 1)
    here, there = (
        handles.auto_handles(p, closed=closed),
        handles.auto_handles(p @ turn, closed=closed),
    )
    u = np.diff(np.concatenate([p[-1:], p, p[:1]]), axis=0)
    u = u / np.hypot(*u.T)[:, None]
    assume(
        np.hypot(*(u[1:] + u[:-1]).T).min() > 1e-3
    )  # a way straight back has no direction to keep
    for a, b in zip(here, there, strict=True):
        assert a @ turn == pytest.approx(b, abs=1e-5 * scale * 300)


def test_auto_nodes_on_a_circle_make_it():
    ring = [(100 * np.cos(a), 100 * np.sin(a)) for a in np.linspace(0, 2 * np.pi, 7)[:-1]]
    circle = nodes.with_auto_handles(polygon(*ring, closed=True, kind="auto"))
    assert np.hypot(*points_of(circle).T) == pytest.approx(100, abs=0.01)
    stronger = nodes.with_auto_handles(replace(circle, strength=1.5))
    assert np.hypot(*stronger.node("n1").handle_out) == pytest.approx(
        1.5 * np.hypot(*circle.node("n1").handle_out)
    )
    weighted = nodes.with_nodes(circle, {"n2": replace(circle.node("n2"), weight=0.0)})
    assert weighted.node("n2").handle_out == pytest.approx((0, 0))


@given(any_path(closed=False), fraction, fraction)
def test_deleting_what_was_put_in_gives_the_curve_back(path, where, t):
    pieces = path.segments()
    piece = int(where * (len(pieces) - 1))
    made, name = nodes.with_node_at(path, piece, 0.2 + 0.6 * t)
    healed, deviation = nodes.without(made, [name])
    assert len(healed.nodes()) == len(path.nodes())
    bent = np.abs(np.diff(pieces[piece], n=2, axis=0)).max()
    if bent < 1e-9:
        assert deviation < 1e-6
    old = bezier.points_at(np.repeat(pieces[piece][None], 99, axis=0), FINE[::4][:99])
    off = nearest(healed.segments()[piece][None], old).distance
    # What is said to be the deviation is none too little: of 24 places of a piece a narrow peak
    # between two may be missed by a sixth.
    assert off.max() <= deviation * 1.2 + 1e-2


def test_a_gentle_curve_heals_to_itself_and_a_polygon_stays_straight():
    arc = Path("p", "P", (figures.figure("ellipse", 0, 0, 400, 300),))
    made, name = nodes.with_node_at(arc, 1, 0.37)
    healed, deviation = nodes.without(made, [name])
    assert deviation < 0.05
    assert np.abs(points_of(healed) - points_of(arc)).max() < 0.5
    flat, _ = nodes.without(polygon((0, 0), (50, 80), (100, 0)), ["n2"])
    assert flat.segments()[0] == pytest.approx(
        np.array([[0, 0], [100 / 3, 0], [200 / 3, 0], [100, 0]])
    )


@pytest.mark.parametrize("closed", [False, True])
@pytest.mark.parametrize("tolerance", [0.2, 2.0, 20.0])
def test_a_lighter_path_is_within_the_tolerance_it_says(closed, tolerance):
    t = np.linspace(0, 2 * np.pi, 120)[: -1 if closed else None]
    points = np.stack([300 * np.cos(t) + 60 * np.cos(5 * t), 200 * np.sin(t)], axis=1)
    rough = nodes.with_auto_handles(polygon(*points, closed=closed, kind="auto"))
    light, deviation = nodes.lighter(rough, tolerance, {"n40"})
    assert deviation <= tolerance * 1.2
    assert len(light.nodes()) < 50
    assert light.node("n40")
    true = nearest(light.segments(), points_of(rough)).distance.max()
    assert true <= deviation + 0.02
    assert nodes.lighter(light, 1e-9, set())[0] == light


@given(
    st.sampled_from(figures.FIGURES), coordinate, coordinate, st.floats(1, 900), st.floats(1, 900)
)
def test_figures_fill_their_box(kind, left, top, width, height):
    made = figures.figure(kind, left, top, width, height, radius=width / 5, points=4, turns=3)
    x0, y0, x1, y1 = bounds([made])
    assert made.closed is (kind not in ("spiral", "wave"))
    slack = max(width, height) * (0.03 if kind == "spiral" else 1e-3)
    assert min(x0 - left, y0 - top, left + width - x1, top + height - y1) >= -slack
    if kind in ("ellipse", "rectangle", "wave"):
        assert max(x0 - left, y0 - top, left + width - x1, top + height - y1) <= slack
    assert len({n.id for n in made.nodes}) == len(made.nodes)


def test_curved_figures_are_what_they_are_called():
    ring = points_of(figures.figure("ellipse", -100, -100, 200, 200))
    assert np.hypot(*ring.T) == pytest.approx(100, abs=0.03)
    wave = points_of(figures.figure("wave", 0, -50, 600, 100, points=3))
    assert wave[:, 1] == pytest.approx(-50 * np.sin(2 * np.pi * wave[:, 0] / 200), abs=0.6)
    spiral = points_of(figures.figure("spiral", -100, -100, 200, 200, turns=2, inner=0.25))
    assert np.hypot(*spiral.T)[-1] == pytest.approx(100)
    turned = np.unwrap(np.arctan2(spiral[:, 1], spiral[:, 0]))
    assert np.hypot(*spiral.T) == pytest.approx(
        25 + 75 * (turned - turned[0]) / (4 * np.pi), abs=0.2
    )


@pytest.mark.parametrize(
    "box", [(0, 0, 0, 10), (0, 0, 10, 0), (0, 0, float("nan"), 5), (0, 0, 1e9, 5), (0, 0, -4, 5)]
)
def test_a_figure_without_size_is_refused(box):
    with pytest.raises(GeometryError):
        figures.figure("ellipse", *box)


@given(any_path(), st.integers(0, 9), vector, st.sampled_from(["in", "out"]))
def test_handles_keep_to_the_kind_of_their_node(path, which, offset, side):
    assume(np.hypot(*offset) > 1e-3)
    node = path.nodes()[which % len(path.nodes())]
    for kind in ("corner", "smooth", "even", "auto"):
        moved = handles.with_handle(
            replace(node, kind=kind, handle_in=(3.0, 4.0), handle_out=(9.0, 1.0)), side, offset
        )
        own, other = (
            (moved.handle_in, moved.handle_out)
            if side == "in"
            else (moved.handle_out, moved.handle_in)
        )
        assert own == offset
        if kind == "corner":
            assert other in ((3.0, 4.0), (9.0, 1.0))
            continue
        assert own[0] * other[1] - own[1] * other[0] == pytest.approx(
            0, abs=1e-6 * np.hypot(*own) * 10
        )
        assert own[0] * other[0] + own[1] * other[1] < 0
        length = np.hypot(*own) if kind == "even" else 5 if side == "out" else np.hypot(9, 1)
        assert np.hypot(*other) == pytest.approx(length)
    broken = handles.with_handle(node, side, offset, free=True)
    assert broken.kind == "corner"


@given(any_path(), kinds, kinds)
def test_a_kind_is_true_of_the_handles_it_is_given(path, first, then):
    run = path.subpaths[0]
    natural = handles.natural_handles(run)
    for node in run.nodes:
        made = handles.with_kind(
            handles.with_kind(node, first, natural[node.id]), then, natural[node.id]
        )
        into, out = np.array(made.handle_in), np.array(made.handle_out)
        assert made.kind == then
        if then in ("smooth", "even") and into.any() and out.any():
            slack = 1e-6 * (1 + np.hypot(*into) * np.hypot(*out))
            assert into[0] * out[1] - into[1] * out[0] == pytest.approx(0, abs=slack)
        if then == "even" and into.any() and out.any():
            assert np.hypot(*into) == pytest.approx(np.hypot(*out), rel=1e-6)


def test_cutting_and_joining_are_each_others_way_back():
    ring = Path("p", "P", (figures.figure("ellipse", 0, 0, 400, 300),))
    cut = arrange.split(ring, "n3")
    assert not cut.subpaths[0].closed
    assert measure_of(cut.subpaths, "jump")[0].length == pytest.approx(
        measure_of(ring.subpaths, "jump")[0].length
    )
    ends = cut.subpaths[0].nodes
    again = arrange.joined(cut, ends[0].id, ends[-1].id)
    assert again.subpaths[0].closed
    assert len(again.nodes()) == 4
    assert sorted(map(tuple, points_of(again).round(6))) == sorted(
        map(tuple, points_of(ring).round(6))
    )
    line = polygon((0, 0), (50, 80), (100, 0))
    two = arrange.split(line, "n2")
    assert [len(s.nodes) for s in two.subpaths] == [2, 2]
    one = arrange.joined(two, two.subpaths[0].nodes[-1].id, two.subpaths[1].nodes[0].id)
    assert np.array_equal(one.segments(), line.segments())
    far = arrange.united(line, replace(polygon((300, 0), (400, 0)), id="q"))
    assert len(far.subpaths[0].nodes) == 5
    assert measure_of(far.subpaths, "jump")[0].length == pytest.approx(
        measure_of(line.subpaths, "jump")[0].length + 300
    )


def test_open_and_closed_are_a_switch():
    line = polygon((0, 0), (50, 80), (100, 0))
    shut = arrange.closed(line, 0)
    assert arrange.opened(shut, 0) == line
    meets = polygon((0, 0), (50, 80), (100, 0), (0, 0))
    assert [n.id for n in arrange.closed(meets, 0).nodes()] == ["n1", "n2", "n3"]
    assert [n.id for n in arrange.started_at(shut, "n2").nodes()] == ["n2", "n3", "n1"]


@pytest.mark.parametrize(
    "work",
    [
        lambda p: arrange.closed(arrange.closed(p, 0), 0),
        lambda p: arrange.opened(p, 0),
        lambda p: arrange.split(p, "n1"),
        lambda p: arrange.started_at(p, "n2"),
        lambda p: arrange.joined(p, "n1", "n2"),
        lambda p: arrange.joined(p, "n1", "n1"),
        lambda p: arrange.united(p, arrange.closed(p, 0)),
        lambda p: nodes.without(p, ["n1", "n2"]),
        lambda p: nodes.without(p, ["n1", "n2", "n3"]),
        lambda p: nodes.without(
            nodes.with_nodes(p, {"n2": replace(p.node("n2"), locked=True)}), ["n2"]
        ),
        lambda p: nodes.with_nodes(p, {i: replace(p.node(i), disabled=True) for i in ("n1", "n2")}),
        lambda p: nodes.with_node_at(p, 0, 0.0),
    ],
)
def test_what_makes_no_path_is_refused_in_words(work):
    with pytest.raises(EditRefused) as refusal:
        work(polygon((0, 0), (50, 80), (100, 0)))
    assert str(refusal.value).endswith(".")


def test_a_disabled_node_is_passed_by_and_comes_back():
    line = polygon((0, 0), (50, 80), (100, 0))
    without = nodes.with_nodes(line, {"n2": replace(line.node("n2"), disabled=True)})
    assert measure_of(without.subpaths, "jump")[0].length == pytest.approx(100)
    assert len(without.nodes()) == 3
    assert nodes.with_nodes(without, {"n2": replace(without.node("n2"), disabled=False)}) == line
    healed, _ = nodes.without(without, ["n2"])
    assert [n.id for n in healed.nodes()] == ["n1", "n3"]


def test_fitting_a_cubic_gives_it_back():
    cubic = np.array([[0, 0], [60, -40], [140, 90], [200, 20]], float)
    samples = bezier.points_at(np.repeat(cubic[None], 60, axis=0), np.linspace(0, 1, 60) ** 1.3)[
        None
    ]
    ends = [d / np.hypot(*d) for d in (cubic[1] - cubic[0], cubic[3] - cubic[2])]
    fitted = fitting.fit_cubics(samples, ends[0][None], ends[1][None], rounds=200)
    assert fitted.deviation[0] < 1e-3
    assert fitted.cubics[0] == pytest.approx(cubic, abs=0.05)


@given(any_path(closed=False), st.integers(0, 9))
def test_a_cut_keeps_the_curve_and_joining_gives_it_back(path, which):
    run = path.subpaths[0]
    assume(len(run.nodes) > 2)
    node = run.nodes[1 + which % (len(run.nodes) - 2)]
    cut = arrange.split(path, node.id)
    assert np.array_equal(np.concatenate([s.segments() for s in cut.subpaths]), path.segments())
    assert len({n.id for n in cut.nodes()}) == len(path.nodes()) + 1
    again = arrange.joined(cut, cut.subpaths[0].nodes[-1].id, node.id)
    assert np.array_equal(again.segments(), path.segments())


@given(any_path(closed=True), st.integers(0, 9))
def test_another_start_is_the_same_curve_begun_elsewhere(path, which):
    node = path.nodes()[which % len(path.nodes())]
    begun = arrange.started_at(path, node.id)
    assert begun.nodes()[0] == node
    assert sorted(begun.segments().ravel()) == sorted(path.segments().ravel())
    assert measure_of(begun.subpaths, "jump")[0].length == pytest.approx(
        measure_of(path.subpaths, "jump")[0].length
    )


@pytest.mark.parametrize("mine", [False, True])
@pytest.mark.parametrize("theirs", [False, True])
def test_paths_are_united_at_the_ends_that_are_nearest(mine, theirs):
    one, two = polygon((0, 0), (100, 0)), replace(polygon((110, 0), (200, 50)), id="q")
    one = arrange.reversed_path(one) if mine else one
    two = arrange.reversed_path(two) if theirs else two
    both = arrange.united(one, two)
    xs = [n.position[0] for n in both.nodes()]
    assert xs in ([0, 100, 110, 200], [200, 110, 100, 0])


@given(any_path(), st.sampled_from([(-1.0, 1.0), (1.0, -1.0)]))
def test_a_path_flipped_twice_about_its_middle_is_where_it_was(path, flip):
    once = arrange.about(path, affine.scaling(*flip))
    assert bounds(once.subpaths) == pytest.approx(bounds(path.subpaths), abs=1e-6)
    twice = arrange.about(once, affine.scaling(*flip))
    assert twice.segments() == pytest.approx(path.segments(), abs=1e-6)


def test_what_is_locked_or_a_corner_stays_when_a_path_is_made_lighter():
    steps = np.linspace(0, 1, 30)
    sides = [[(100 * t, 0.0) for t in steps], [(100.0, 80 * t) for t in steps[1:]]]
    drawn = polygon(*sides[0], *sides[1])
    light, deviation = nodes.lighter(drawn, 0.5, set())
    assert [n.position for n in light.nodes()] == [(0, 0), (100, 0), (100, 80)]
    assert deviation == pytest.approx(0, abs=1e-9)
    held = nodes.with_nodes(drawn, {"n9": replace(drawn.node("n9"), locked=True)})
    assert "n9" in [n.id for n in nodes.lighter(held, 0.5, set())[0].nodes()]


def test_marks_tell_nodes_apart():
    bent = Node("a", (0, 0), (-9, 0), (0, 9))
    made = [
        Node("b", (1, 0)),
        bent,
        replace(bent, id="c", kind="smooth", handle_out=(9, 0), locked=True),
    ]
    made += [
        replace(bent, id="d", handle_out=(9.0, 0.1)),
        Node("e", (9, 9), kind="auto", disabled=True),
    ]
    assert handles.marks(Path("p", "P", (Subpath(tuple(made)),))) == ["c", "bk", "sl", "b", "ad"]
