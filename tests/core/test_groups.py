"""Groups: where their members are, what is drawn, and what making and dissolving them
leaves alone.
"""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from coaster.commands import apply_all
from coaster.commands.fields import set_layer
from coaster.edits import groups, layers, nodes, spaces, transfers
from coaster.edits.keys import Moment
from coaster.errors import CoreError, EditRefused
from coaster.export.drawers import painter_of
from coaster.formats import pathdata
from coaster.geometry.path import Path
from coaster.motion import distance, easing, travel
from coaster.motion.distance import Way
from coaster.motion.keys import Key
from coaster.motion.ride import Facing, Ride
from coaster.motion.sampling import simple_pegs
from coaster.render import places
from coaster.render.display import Item, Push, program_of
from coaster.render.evaluate import Evaluation
from coaster.render.frames import Frames
from coaster.scene import tree
from coaster.scene.contents import Group, Line, Shape, Text
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.properties import Track

LENGTH = 24
RING = Path(
    "ring", "Ring", pathdata.subpaths(pathdata.runs("M40 90A60 60 0 0 1 160 90A60 60 0 0 1 40 90Z"))
)
SWELL = Path("swell", "Swell", pathdata.subpaths(pathdata.runs("M0 60C60 0 120 120 200 40")))


def keyed(name: str, *pairs: tuple[float, float]) -> Track:
    return Track(name, tuple(Key(f"k{i}", time, value) for i, (time, value) in enumerate(pairs)))


def ride(path: str, mode: str = "along", **options) -> Ride:
    pegs = simple_pegs(0, LENGTH, 1, easing.PRESETS["ease-both"])
    return Ride(path, pegs, Facing(mode, **options))


def group(name: str, parent: str | None, transform=None, **options) -> Layer:
    content = Group((30.0, 20.0))
    return Layer(name, name, content, transform or Transform((30, 20)), parent=parent, **options)


def box(name: str, parent: str | None, transform=None, **options) -> Layer:
    return Layer(
        name,
        name,
        Shape(width=20, height=10),
        transform or Transform((60, 50)),
        parent=parent,
        **options,
    )


number = st.floats(-80, 160)
transforms = st.builds(
    Transform,
    st.tuples(number, number),
    scale=st.tuples(st.floats(0.4, 2), st.floats(0.4, 2)),
    turn=st.floats(-200, 200),
)
key_lists = st.sampled_from(
    [
        (),
        (keyed("x", (0, 10), (24, 90)),),
        (keyed("scale", (3, 0.5), (20, 1.5)), keyed("turn", (0, 0), (24, 180))),
    ]
)


@st.composite
def nested(draw) -> Scene:
    """Three levels of groups that move by keys and by rides, with riders across them."""
    homes = {
        "ring": draw(st.sampled_from([None, "a", "b", "c"])),
        "swell": draw(st.sampled_from([None, "a", "b"])),
    }
    modes = st.sampled_from(["fixed", "along", "reversed", "ahead"])

    def riding(paths: list[str]) -> Ride | None:
        path = draw(st.none() | st.sampled_from(paths)) if paths else None
        return (
            ride(path, draw(modes), turn=draw(st.floats(-90, 90)), keep_upright=draw(st.booleans()))
            if path
            else None
        )

    free = [name for name, home in homes.items() if home is None]
    made = [
        box("deep", "c", draw(transforms), ride=riding(list(homes)), keys=draw(key_lists)),
        Layer("trace", "trace", Line("ring"), parent="c"),
        group("c", "b", draw(transforms), keys=draw(key_lists)),
        box("middle", "b", draw(transforms), ride=riding(list(homes))),
        group("b", "a", draw(transforms), ride=riding(free)),
        box("high", "a", draw(transforms), ride=riding(list(homes))),
        group("a", None, draw(transforms), ride=riding(free), keys=draw(key_lists)),
        box("out", None, draw(transforms), ride=riding(list(homes))),
    ]
    paths = tuple(replace(path, parent=homes[path.id]) for path in (RING, SWELL))
    return Scene(200, 180, length=LENGTH, layers=tuple(made), paths=paths)


def matrix(a, b, c, d, e, f) -> np.ndarray:
    return np.array([[a, c, e], [b, d, f], [0, 0, 1.0]])


def turned(angle: float) -> np.ndarray:
    return matrix(np.cos(angle), np.sin(angle), -np.sin(angle), np.cos(angle), 0, 0)


class Plainly:
    """The rule of spaces, written down frame by frame, layer by layer, with 3 x 3 matrices."""

    def __init__(self, scene: Scene, frame: int) -> None:
        self.scene, self.frame = scene, frame

    def to_scene(self, parent: str | None, frame: int) -> np.ndarray:
        return (
            np.eye(3)
            if parent is None
            else Plainly(self.scene, frame).map(self.scene.layer(parent))
        )

    def value(self, layer: Layer, name: str) -> float:
        track = layer.track(name)
        if track is None:
            return float(layer.standing(name))
        from coaster.motion import keys

        return float(keys.values(track.keys, [self.frame])[0][0])

    def map(self, layer: Layer) -> np.ndarray:
        path = self.scene.path_of(layer)
        if path is not None and layer.ride is None:
            return self.to_scene(path.parent, self.frame)
        t = layer.transform
        across = self.value(layer, "scale")
        down = across * t.scale[1] / t.scale[0]
        facing, upside, turn = 0.0, 1.0, np.radians(self.value(layer, "turn"))
        place = np.array([self.value(layer, "x"), self.value(layer, "y")])
        if layer.ride is not None:
            place, facing, upside = self.ridden(layer, path)
            turn += np.radians(layer.ride.facing.turn)
        left, top = layer.content.pivot if layer.content.can.hold else (10.0, 5.0)
        own = (
            matrix(1, 0, 0, 1, *place) @ turned(facing) @ matrix(1, 0, 0, upside, 0, 0)
            @ turned(turn) @ matrix(across, 0, 0, down, 0, 0) @ matrix(1, 0, 0, 1, -left, -top)
        )  # fmt: skip
        return self.to_scene(layer.parent, self.frame) @ own

    def ridden(self, layer: Layer, path: Path) -> tuple[np.ndarray, float, float]:
        """The place on the rail goes out through the path's groups and back in through the
        rider's.
        """
        way = Way(path, layer.ride)
        period = distance.period_of(way, LENGTH)
        plain = replace(layer.ride, facing=Facing("along"))
        gone = travel.evaluate(Way(path, plain), np.arange(LENGTH + 1), fps=30, period=period)
        across = np.linalg.inv(self.to_scene(layer.parent, self.frame)) @ self.to_scene(
            path.parent, self.frame
        )

        def seen(point, w=1.0) -> np.ndarray:
            return (across @ [*point, w])[:2]

        here, heading = gone.rail[self.frame], gone.rail_heading[self.frame]
        front = seen((np.cos(heading), np.sin(heading)), 0.0)
        mode, facing = layer.ride.facing.mode, layer.ride.facing
        if mode == "ahead":
            later, _ = distance.travelled(way, [self.frame + facing.ahead_s * 30], period)
            there = way.measure.locate(distance.within(later, way)).position[0]
            if np.hypot(*(seen(there) - seen(here))) > 1e-3:
                front = seen(there) - seen(here)
        angle = {"fixed": 0.0}.get(
            mode, np.arctan2(front[1], front[0]) + (np.pi if mode == "reversed" else 0)
        )
        upright = facing.keep_upright and mode != "fixed"
        return seen(here), angle, -1.0 if upright and np.cos(angle) < -1e-9 else 1.0


@settings(max_examples=60)
@given(nested(), st.integers(0, LENGTH))
def test_members_and_riders_are_where_the_rule_of_spaces_puts_them(scene, frame):
    plain = Plainly(scene, frame)
    for motion in Evaluation(scene).motions:
        a, b, c, d, e, f = motion.map(frame)
        np.testing.assert_allclose(matrix(a, b, c, d, e, f), plain.map(motion.layer), atol=1e-6)
        if motion.layer.content.can.stand:
            left, top = motion.layer.content.pivot if motion.layer.content.can.hold else (10.0, 5.0)
            spot = places.spots_of(scene, motion.layer.id)[frame]
            np.testing.assert_allclose(
                spot, (plain.map(motion.layer) @ [left, top, 1])[:2], atol=1e-6
            )


@settings(max_examples=40)
@given(nested(), st.integers(0, LENGTH))
def test_a_look_at_one_frame_is_what_all_frames_say(scene, frame):
    evaluation = Evaluation(scene)
    alone = evaluation.motions_of(scene.layers, Frames.one(frame))
    for motion, pose in zip(evaluation.motions, alone, strict=True):
        np.testing.assert_allclose(pose.map(frame), motion.map(frame), atol=1e-7)
        assert pose.opacity(frame) == pytest.approx(motion.opacity(frame))


def plain_scene(**options) -> Scene:
    made = (
        box("one", None, Transform((60, 60), turn=10)),
        box("two", None, Transform((75, 65)), ride=ride("ring")),
        Layer("words", "Words", Text("Ebb", size=30), Transform((100, 120))),
    )
    return Scene(200, 180, length=LENGTH, layers=made, paths=(RING, SWELL), **options)


def done(scene: Scene, edit) -> Scene:
    after, inverses = apply_all(scene, edit.commands)
    assert apply_all(after, inverses)[0] == scene
    return after


def shots(scene: Scene, tmp_path) -> list[np.ndarray]:
    painter = painter_of(scene, tmp_path)
    return [painter.picture(frame) for frame in (0, 7, 23)]


def test_making_and_dissolving_a_group_change_no_pixel(tmp_path):
    scene = plain_scene()
    grouped = done(scene, groups.group(scene, ["one", "two"], 5))
    assert [(x.id, x.parent) for x in grouped.layers] == [
        ("one", "group"), ("two", "group"), ("group", None), ("words", None)
    ]  # fmt: skip
    assert grouped.path("ring").parent == "group"  # nobody else rides it
    assert grouped.path("swell").parent is None
    assert all(
        np.array_equal(a, b)
        for a, b in zip(shots(scene, tmp_path), shots(grouped, tmp_path), strict=True)
    )
    again = done(grouped, groups.ungroup(grouped, "group", 5))
    assert again == scene


@pytest.mark.parametrize(
    "transform",
    [Transform((90, 40), scale=(1.5, 1.5), turn=35), Transform((20, 90), scale=(-1, 1))],
)
def test_a_group_that_was_moved_is_dissolved_where_it_is_seen(transform, tmp_path):
    scene = plain_scene()
    grouped = done(scene, groups.group(scene, ["one", "words"], 0))
    moved = done(grouped, layers.edit_of([set_layer("group", transform=transform)]))
    apart = done(moved, groups.ungroup(moved, "group", 0))
    for a, b in zip(shots(moved, tmp_path), shots(apart, tmp_path), strict=True):
        assert np.abs(a.astype(int) - b).mean() < 0.2
    assert not any(layer.content.can.hold for layer in apart.layers)


def test_what_is_put_into_a_moved_group_stays_where_it_is_seen(tmp_path):
    scene = plain_scene()
    grouped = done(scene, groups.group(scene, ["one"], 0))
    moved = done(
        grouped, layers.edit_of([set_layer("group", transform=Transform((90, 40), turn=50))])
    )
    inside = done(moved, groups.put_into(moved, ["words"], "group", None, 0))
    assert inside.layer("words").parent == "group"
    for a, b in zip(shots(moved, tmp_path), shots(inside, tmp_path), strict=True):
        assert np.abs(a.astype(int) - b).mean() < 0.2


def test_a_faint_group_is_drawn_as_one(tmp_path):
    """Two white boxes that lie on each other: half as strong where they overlap as well."""
    made = (
        box("one", "pod", Transform((60, 60)), shown=None),
        box("two", "pod", Transform((66, 62))),
        group("pod", None, Transform((30, 20), opacity=0.5)),
    )
    scene = Scene(200, 180, length=4, background="#000000", layers=made)
    scene = replace(scene, layers=tuple(
        replace(x, content=replace(x.content, fill="#ffffff")) if x.content.can.fill else x for x in scene.layers
    ))  # fmt: skip
    assert type(program_of(Evaluation(scene)).steps[0]) is Push
    shot = painter_of(scene, tmp_path).picture(0)
    levels = {int(v) for v in np.unique(shot[58:66, 55:75, 0])}
    assert max(levels) in (127, 128)
    strong = done(scene, layers.edit_of([set_layer("pod", transform=Transform((30, 20)))]))
    assert all(isinstance(step, Item) for step in program_of(Evaluation(strong)).steps)


def test_a_hidden_group_and_its_own_time_hold_for_its_members(tmp_path):
    made = (box("one", "pod"), group("pod", None, shown=(2.0, 6.0)))
    scene = Scene(200, 180, length=12, background="#000000", layers=made)
    painter = painter_of(scene, tmp_path)
    assert [bool(painter.picture(frame).any(axis=2)[50, 60]) for frame in (0, 3)] == [True, True]
    assert painter.picture(0)[50, 60, 1] == 0
    assert painter.picture(3)[50, 60, 1] > 0
    hidden = done(scene, layers.edit_of([set_layer("pod", visible=False)]))
    assert not tree.is_visible(hidden, hidden.layer("one"))
    assert program_of(Evaluation(hidden)).steps == ()


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda: Scene(layers=(box("one", "gone"),)), "'gone', which is not a group"),
        (lambda: Scene(layers=(box("one", "x"), box("between", None), group("x", None))), "right behind the group"),
        (lambda: Scene(layers=(group("x", None, ride=ride("ring")),), paths=(replace(RING, parent="x"),)),
         "depends on it"),
        (lambda: Scene(layers=(box("m", "x"), group("x", None, ride=ride("ring", "target", target="m"))), paths=(RING,)),
         "depends on it"),
        (lambda: Scene(layers=(box("one", "two"), box("two", None))), "'two', which is not a group"),
    ],
)  # fmt: skip
def test_what_breaks_the_tree_is_refused_in_one_sentence(make, words):
    with pytest.raises(ValueError, match=words):
        make()


def test_two_in_different_groups_may_look_at_each_other():
    one = box("one", "x", ride=ride("ring", "target", target="two"))
    two = box("two", "y", ride=ride("swell", "target", target="one"))
    made = (one, group("x", None, keys=(keyed("turn", (0, 0), (24, 90)),)), two, group("y", None))
    scene = Scene(200, 180, length=LENGTH, layers=made, paths=(RING, SWELL))
    motion = Evaluation(scene).motion("one")
    for frame in (0, 9, 24):
        spot, other = places.spots_of(scene, "one")[frame], places.spots_of(scene, "two")[frame]
        a, b, *_ = motion.map(frame)
        dx, dy = other - spot
        assert a * dy - b * dx == pytest.approx(0, abs=1e-6)
        assert np.dot([a, b], other - spot) > 0


def test_members_of_one_group_come_and_go_without_a_trace():
    scene = plain_scene()
    grouped = done(scene, groups.group(scene, ["one", "two"], 0))
    with pytest.raises(CoreError, match="holds one, two, Ring"):
        apply_all(grouped, [layers.RemoveLayer("group")])
    gone = done(grouped, layers.delete_layers(grouped, ["group"]))
    assert [layer.id for layer in gone.layers] == ["words"]
    assert gone.path("ring").parent is None
    twice = done(grouped, layers.copy_layer(grouped, "group"))
    assert [(x.id, x.parent) for x in twice.layers][:6] == [
        ("one", "group"), ("two", "group"), ("group", None),
        ("one-2", "group-2"), ("two-2", "group-2"), ("group-2", None),
    ]  # fmt: skip


def test_several_layers_are_copied_each_beside_its_own():
    grouped = done(plain_scene(), groups.group(plain_scene(), ["one", "two"], 0))
    copied = layers.copy_layers(grouped, ["words", "group", "one"])
    assert copied.words == "Duplicate Group, Words"
    assert copied.select.layers == ("group-2", "words-2")
    order = [layer.id for layer in done(grouped, copied).layers]
    assert order == ["one", "two", "group", "one-2", "two-2", "group-2", "words", "words-2"]


def test_places_of_the_stage_are_taken_into_the_group_they_mean():
    """What is pointed at in the scene ends up there, however the group lies at that frame."""
    tilted = group(
        "pod", None, Transform((80, 30), scale=(1.4, 1.4)), keys=(keyed("turn", (0, 0), (24, 90)),)
    )
    made = (box("one", "pod"), box("two", "pod", ride=ride("ring")), tilted)
    scene = Scene(200, 180, length=LENGTH, layers=made, paths=(replace(RING, parent="pod"), SWELL))
    for frame in (0, 11):
        moment = Moment(frame)
        put = done(scene, layers.move_to(scene, "one", (120, 70), moment))
        assert places.spot_of(put, "one", frame) == pytest.approx((120, 70), abs=2e-3)
        nudged = done(put, layers.nudge(put, ["one"], (1, -2), moment))
        assert places.spot_of(nudged, "one", frame) == pytest.approx((121, 68), abs=4e-3)
        pinned = done(scene, transfers.pin(scene, "two", frame, (90, 60)))
        assert places.spot_of(pinned, "two", frame) == pytest.approx((90, 60), abs=2e-3)
        seen = spaces.space_of(scene, "pod", frame)
        node = scene.path("ring").nodes()[1]
        moved = done(scene, nodes.move(scene, "ring", [node.id], (10, 0), seen))
        on = np.array(moved.path("ring").node(node.id).position) - node.position
        a, b, c, d, _, _ = places.group_map(scene, "pod", frame)
        assert [a * on[0] + c * on[1], b * on[0] + d * on[1]] == pytest.approx([10, 0], abs=1e-6)
        landed = done(scene, nodes.land(scene, "ring", [node.id], "one", frame))
        target = Way(landed.path("ring"), landed.ride_of("two"))
        spot = landed.path("ring").node(node.id).position
        assert spot == pytest.approx((60, 50), abs=1e-3)  # both are in the pod
        assert target.length > 0
        detached = done(scene, transfers.detach(scene, "two", frame))
        before = places.spot_of(scene, "two", frame)
        assert places.spot_of(detached, "two", frame) == pytest.approx(before, abs=5e-3)


def test_keys_that_cannot_be_turned_are_named():
    made = (
        box("one", "pod", keys=(keyed("x", (0, 0), (9, 9)),)),
        group("pod", None, Transform((30, 20), turn=30)),
    )
    scene = Scene(length=12, layers=made)
    with pytest.raises(EditRefused, match="keys of X and Y at different times"):
        groups.ungroup(scene, "pod", 0)
