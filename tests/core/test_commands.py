"""The laws of commands, for every registered kind on scenes of all sorts."""

import copy
import json
from dataclasses import replace
from typing import get_args

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from coaster import commands
from coaster.commands import base, fields, layers, paths, rides
from coaster.commands.clock import clock_for
from coaster.commands.history import Heads
from coaster.commands.whole import put_scene
from coaster.errors import CoreError, EditRefused, UnknownId
from coaster.geometry.path import Leg, Node, Path, Provenance, Subpath, subpath_from_segments
from coaster.motion.accents import KINDS, WHENS, Accent
from coaster.motion.copies import Copies, Spread
from coaster.motion.letters import BY, Letters
from coaster.motion.rate import Rate
from coaster.motion.ride import After, AtNode, AtPercent, Facing, Peg, Ride
from coaster.motion.wakes import READY
from coaster.scene.carriers import Carrier
from coaster.scene.contents import Group, Line, Shape, Text
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.fields import SceneField
from coaster.scene.follows import Follow
from coaster.scene.masks import BLENDS, MEETINGS, STENCILS, Mask, MaskPart
from coaster.scene.properties import Track
from coaster.scene.shades import Mirror, Tint
from tests.core import strategies as ours

COURSES = [
    subpath_from_segments([[[0, 0], [9, 0], [9, 9], [0, 9]]], closed=False),
    subpath_from_segments(
        [[[0, 0], [90, 0], [90, 90], [5, 7]], [[5, 7], [0, 0], [1, 1], [0, 0]]], closed=True
    ),
]
word = st.sampled_from(["a", "b", "c", "d"])
name = st.sampled_from(["Manta", "Buoy", "×"])
number = st.floats(-500, 500)


@st.composite
def pegs(draw, path=None):
    times = sorted(draw(st.lists(st.integers(0, 400), min_size=1, max_size=4, unique=True)))
    places = st.builds(AtPercent, st.floats(-50, 250))
    if path is not None:
        places |= st.builds(
            AtNode, st.sampled_from([n.id for n in path.nodes()]), st.integers(0, 2)
        )
    return tuple(Peg(f"p{i}", t * 1.5, draw(places)) for i, t in enumerate(times))


@st.composite
def a_path(draw, path_id):
    return Path(path_id, draw(name), (draw(st.sampled_from(COURSES)),), visible=draw(st.booleans()))


@st.composite
def a_node(draw):
    at = st.tuples(number, number)
    return Node(
        draw(st.sampled_from(["n1", "n2"])),
        draw(at),
        draw(at),
        draw(at),
        "corner",
        1.0,
        draw(st.booleans()),
    )


def masks(paths):
    parts = st.builds(MaskPart, paths, st.sampled_from(MEETINGS))
    some = st.lists(parts, min_size=1, max_size=2, unique_by=lambda part: part.path).map(tuple)
    return st.builds(Mask, some, st.booleans(), number, st.floats(0, 90), ours.fraction)


facings = st.builds(
    Facing,
    st.sampled_from(["fixed", "along", "target", "roll"]),
    number,
    st.booleans(),
    settle_s=st.floats(0, 2),
)
transforms = st.builds(
    Transform, position=st.tuples(number, number), turn=number, opacity=ours.fraction,
    z=number, tilt=number,
)  # fmt: skip
tracks = st.builds(Track, st.sampled_from(["x", "scale", "shift"]), ours.some_keys())
contents = st.builds(Shape, width=st.floats(1, 90)) | st.builds(Text, text=name)


@st.composite
def a_ride(draw, scene_paths):
    path = draw(st.sampled_from(scene_paths))
    return Ride(path.id, draw(pegs(path)), draw(facings), draw(number))


@st.composite
def scenes(draw):
    ids = draw(
        st.lists(word, min_size=draw(st.sampled_from([0, 1, 1, 2])), max_size=2, unique=True)
    )
    found = tuple(draw(a_path(i)) for i in ids)
    made = []
    for layer_id in draw(
        st.lists(word, max_size=3, unique=True, min_size=draw(st.sampled_from([0, 2])))
    ):
        ride = draw(a_ride(found)) if found and draw(st.booleans()) else None
        content = draw(contents if ride or not found else contents | st.just(Line(found[0].id)))
        keys = (
            () if not content.can.stand else draw(st.just(()) | tracks.map(lambda track: (track,)))
        )
        seen = draw(st.booleans())
        blend = draw(st.sampled_from(BLENDS))
        mask = draw(st.none() | masks(st.sampled_from(ids))) if ids else None
        look = {"blend": blend, "mask": mask}
        made.append(
            Layer(layer_id, draw(name), content, draw(transforms), ride, seen, keys=keys, **look)
        )
    if made and draw(st.booleans()):
        made = in_a_group(made, draw(st.integers(0, len(made) - 1)), draw(transforms))
    return Scene(length=draw(st.integers(1, 300)), layers=tuple(made), paths=found)


def in_a_group(made, first, transform):
    """Return layers with those from ``first`` on in a group in front of them."""
    members = [replace(layer, parent="pod") for layer in made[first:]]
    return [*made[:first], *members, Layer("pod", "Pod", Group((3.0, 4.0)), transform)]


def parent(scene):
    groups = [layer.id for layer in scene.layers if layer.content.can.hold]
    return st.none() | st.sampled_from(groups) if groups else st.none()


def layer_id(scene):
    return st.sampled_from([x.id for x in scene.layers] or ["none"]) | word


def rider_id(scene):
    riders = [x.id for x in scene.layers if x.ride]
    return st.sampled_from(riders) if riders else word


def path_id(scene):
    return st.sampled_from([p.id for p in scene.paths] or ["none"]) | word


def ride_for(scene):
    return a_ride(scene.paths) if scene.paths else st.builds(Ride, st.just("none"), pegs())


FIELDS = {
    "layer": {
        "name": name,
        "visible": st.booleans(),
        "locked": st.booleans(),
        "transform": transforms,
        "content": contents,
        "shown": st.none() | st.just((5.0, 20.0)),
        "blend": st.sampled_from(BLENDS),
        "mask": st.none() | masks(word),
        "isolated": st.booleans(),
        "guide": st.booleans(),
        "stencil": st.sampled_from([None, *STENCILS]),
        "stencil_inverted": st.booleans(),
        "tag": st.none() | st.just("#e4572e"),
        "carrier": st.none() | st.builds(Carrier, word, st.booleans(), st.booleans()),
        "accents": st.lists(
            st.builds(Accent, word, st.sampled_from(KINDS), st.sampled_from(WHENS)),
            max_size=3,
            unique_by=lambda accent: accent.id,
        ).map(tuple),
        "wake": st.none() | st.sampled_from(sorted(READY.values(), key=str)),
        "lit": st.booleans(),
        "shine": st.floats(0, 1),
        "tint": st.none() | st.just(Tint(("#ff0000", "#0000ff"), 0.5)),
        "mirror": st.none() | st.builds(Mirror, st.sampled_from(["reflection", "shadow"])),
        "follows": st.lists(
            st.builds(Follow, st.sampled_from(["x", "opacity"]), word, st.sampled_from(["speed"])),
            max_size=2,
            unique_by=lambda follow: follow.property,
        ).map(tuple),
    },
    "path": {
        "name": name,
        "visible": st.booleans(),
        "locked": st.booleans(),
        "colour": st.none() | st.just("#e4572e"),
        "strength": st.floats(0, 10),
        "subpaths": st.sampled_from(COURSES).map(lambda course: (course,)),
        "drawn": st.none() | st.just(Provenance("a.csv")),
        "parent": st.none() | word,
        "legs": st.lists(
            st.builds(Leg, word, word, st.booleans()), max_size=2, unique_by=lambda leg: leg.id
        ).map(tuple),
        "end_to_end": st.booleans(),
    },
    "ride": {
        "facing": facings,
        "offset": number,
        "gap": st.sampled_from(["glide", "jump"]),
        "relative": st.booleans(),
        "settle_s": st.floats(0, 2),
        "never_backwards": st.booleans(),
        "copies": st.none()
        | st.builds(
            Copies,
            st.integers(2, 9),
            st.sampled_from([x for x in get_args(Spread) if x != "places"]),
        ),
        "letters": st.none() | st.builds(Letters, st.sampled_from(BY), st.floats(-9, 9)),
        "beyond": st.sampled_from(["round", "hide"]),
        "after": st.none() | st.builds(After, word, st.sampled_from(["starts", "ends"])),
        "pegs": pegs(),
    },
    "scene": {
        "width": st.just(640),
        "height": st.just(360),
        "background": st.none() | st.just("#123456"),
        "pace": st.just((0.3, 0.0, 0.6, 1.0)),
        "by_depth": st.booleans(),
        "fields": st.just((SceneField("Day", "words", "text"),)),
    },
}


def test_every_field_that_may_be_set_has_values_here():
    settable = {owner: set(each.words) for owner, each in fields.SETTABLE.items()}
    assert {owner: set(values) for owner, values in FIELDS.items()} == settable


@st.composite
def some_fields(draw, scene):
    owner = draw(st.sampled_from(sorted(FIELDS)))
    chosen = draw(
        st.lists(st.sampled_from(sorted(FIELDS[owner])), min_size=1, max_size=2, unique=True)
    )
    ids = {"layer": layer_id, "path": path_id, "ride": rider_id, "scene": lambda s: st.just("")}
    values = {name: draw(FIELDS[owner][name]) for name in chosen}
    return fields.SetField(owner, draw(ids[owner](scene)), values)


def a_key_list(scene):
    names = st.sampled_from(["x", "opacity", "turn", "colour"])
    return st.builds(layers.SetKeys, layer_id(scene), names, st.just(()) | ours.some_keys(0, 1))


def some_nodes(scene):
    nodes = st.lists(a_node(), min_size=1, max_size=2, unique_by=lambda node: node.id)
    return st.builds(paths.SetNodes, path_id(scene), nodes.map(tuple))


EXAMPLES = {
    "layer.add": lambda s: st.builds(
        layers.AddLayer, st.builds(Layer, word, name, contents, parent=parent(s)), st.integers(0, 5)
    ),
    "layer.remove": lambda s: st.builds(layers.RemoveLayer, layer_id(s)),
    "layer.move": lambda s: st.builds(layers.MoveLayer, layer_id(s), parent(s), st.integers(0, 2)),
    "layer.keys": a_key_list,
    "path.add": lambda s: st.builds(paths.AddPath, word.flatmap(a_path), st.integers(0, 3)),
    "path.remove": lambda s: st.builds(paths.RemovePath, path_id(s)),
    "path.nodes": some_nodes,
    "ride.attach": lambda s: st.builds(rides.AttachRide, layer_id(s), ride_for(s)),
    "ride.detach": lambda s: st.builds(rides.DetachRide, rider_id(s)),
    "scene.clock": lambda s: st.builds(
        clock_for, st.just(s), st.builds(Rate, st.integers(12, 60)), st.integers(1, 400)
    ),
    "scene.put": lambda s: st.builds(
        lambda width: put_scene(replace(s, width=width)), st.sampled_from([640, 800])
    ),
    "set": some_fields,
}


def test_every_kind_has_an_example_here():
    assert set(EXAMPLES) == set(commands.KINDS)


@pytest.mark.parametrize("kind", EXAMPLES)
@given(data=st.data())
def test_the_laws(kind, data):
    scene = data.draw(scenes())
    first, second = data.draw(EXAMPLES[kind](scene)), data.draw(EXAMPLES[kind](scene))
    untouched = copy.deepcopy(scene)
    assert base.from_data(json.loads(json.dumps(base.to_data(first)))) == first
    try:
        after, inverses = base.apply_all(scene, [first])
    except CoreError:
        assume(False)
    assert scene == untouched
    assert base.apply_all(after, inverses)[0] == scene
    assert first.describe(scene)
    merged = first.merge(second)
    if merged is not None:
        try:
            both, _ = base.apply_all(after, [second])
        except CoreError:
            return
        assert base.apply_all(scene, [merged])[0] == both


@given(st.data())
def test_a_run_of_edits_is_undone_by_its_inverses(data):
    scene = start = data.draw(scenes())
    done = []
    for kind in data.draw(st.lists(st.sampled_from(sorted(EXAMPLES)), max_size=6)):
        command = data.draw(EXAMPLES[kind](scene))
        try:
            scene, inverses = base.apply_all(scene, [command])
        except CoreError:
            continue
        done.append(inverses)
    for inverses in reversed(done):
        scene, _ = base.apply_all(scene, inverses)
    assert scene == start


@settings(max_examples=200)
@given(st.data())
def test_edits_that_are_not_in_conflict_can_be_made_in_either_order(data):
    """So an edit made on an older state may be carried out on the newer one: neither is lost."""
    scene = data.draw(scenes())
    first, second = (
        data.draw(EXAMPLES[data.draw(st.sampled_from(sorted(EXAMPLES)))](scene)) for _ in range(2)
    )
    if base.conflict([first], [second]):
        assert base.conflict([second], [first])
        return
    try:
        one, _ = base.apply_all(scene, [first, second])
        other, _ = base.apply_all(scene, [second, first])
    except CoreError:
        return
    assert without_order(one) == without_order(other)


def without_order(scene: Scene) -> tuple:
    """The scene with its lists sorted: where an edit puts a thing in the order depends on the
    others.
    """
    lists = [sorted(things, key=lambda thing: thing.id) for things in (scene.layers, scene.paths)]
    return (*lists, replace(scene, layers=(), paths=()))


SCENE = Scene(
    layers=(
        Layer("m", "Manta", Shape(), ride=Ride("r", (Peg("p", 0, AtPercent(0)),))),
        Layer("l", "Wake", Line("r")),
    ),
    paths=(
        Path(
            "r", "Reef", (subpath_from_segments([[[0, 0], [1, 0], [2, 0], [9, 9]]], closed=False),)
        ),
    ),
)


@pytest.mark.parametrize(
    ("data", "error", "words"),
    [
        ({"kind": "layer.melt"}, EditRefused, "no edit called 'layer.melt'"),
        ("x", EditRefused, "no edit"),
        ({"kind": "layer.remove"}, EditRefused, "layer_id"),
        ({"kind": "layer.remove", "layer_id": "m", "more": 1}, EditRefused, "more"),
        ({"kind": "layer.remove", "layer_id": "gone"}, UnknownId, "no layer 'gone'"),
        ({"kind": "layer.add", "layer": {"id": "m", "name": "M", "content": {"type": "shape"}}}, EditRefused, "twice"),
        ({"kind": "path.remove", "path_id": "r"}, EditRefused, "in use by Manta, Wake"),
        ({"kind": "ride.detach", "layer_id": "l"}, EditRefused, "rides no path"),
        ({"kind": "ride.attach", "layer_id": "l", "ride": {"path": "r", "pegs": [
            {"id": "p", "time": 0, "place": {"on": "length", "percent": 0}}]}}, EditRefused, "cannot ride"),
        ({"kind": "ride.facing", "layer_id": "m", "facing": {"turn": float("nan")}}, EditRefused, "turn"),
        ({"kind": "ride.pegs", "layer_id": "m", "pegs": []}, EditRefused, "Pegs: "),
        ({"kind": "scene.frame", "width": 641, "height": 360, "background": None}, EditRefused, "Width: "),
    ],
)  # fmt: skip
def test_what_does_not_fit_is_refused_in_words(data, error, words):
    with pytest.raises(error, match=words):
        base.apply_all(SCENE, [base.from_data(data)])


def test_edits_of_one_part_are_in_conflict_and_of_others_not():
    turn, pace = (
        fields.set_ride("m", facing=Facing(turn=5)),
        fields.set_ride("m", pegs=SCENE.ride_of("m").pegs),
    )
    assert base.conflict([turn], [pace]) is None
    assert base.conflict([turn], [fields.set_ride("m", facing=Facing())])
    assert base.conflict([turn], [layers.RemoveLayer("m")])
    assert base.conflict([rides.DetachRide("m")], [pace])
    assert base.conflict([layers.RemoveLayer("l")], [turn]) is None


@given(st.lists(st.sampled_from(["edit", "undo", "redo"]), max_size=40))
def test_undo_and_redo_follow_a_plain_stack(actions):
    """Against two lists; each revision's effect is to add or take one token."""
    heads, kept = [Heads()], {0: []}
    document, undone = [], []
    for action in actions:
        now, number = heads[-1], len(heads)
        if action == "edit":
            document, undone = [*document, number], []
            heads.append(now.after_edit(number))
        elif action == "undo" and now.undo:
            assert document
            document, undone = document[:-1], [*undone, document[-1]]
            heads.append(now.after_undo(number, heads[now.undo - 1]))
        elif action == "redo" and now.redo:
            assert undone
            document, undone = [*document, undone[-1]], undone[:-1]
            heads.append(now.after_redo(number, heads[now.redo - 1]))
        else:
            assert not (document if action == "undo" else undone)
            continue
        kept[number] = document
        # Undo leads to the document before the revision it takes back.
        if heads[-1].undo:
            assert kept[heads[-1].undo - 1] == document[:-1]


def test_a_new_rate_keeps_seconds_and_loops_keep_filling_the_scene():
    closed = Path(
        "c", "Ring", (subpath_from_segments([[[0, 0], [9, 0], [9, 9], [0, 0]]], closed=True),)
    )
    pegs = (Peg("p", 0, AtPercent(0)), Peg("q", 150, AtPercent(100)))
    loop, part = (
        Layer("a", "A", Shape(), ride=Ride("c", pegs)),
        Layer("b", "B", Shape(), ride=Ride("r", pegs[:1])),
    )
    part = replace(part, ride=Ride("r", (pegs[0], replace(pegs[1], time=60.0))))
    scene = Scene(layers=(loop, part), paths=(closed, *SCENE.paths))
    after, _ = base.apply_all(scene, [clock_for(scene, Rate(60), 240)])
    assert after.ride_of("a").end == 240
    assert after.ride_of("b").end == 120


@given(scenes(), st.data())
def test_a_reshaped_path_leaves_every_rider_a_place_to_be(scene, data):
    assume(scene.paths)
    path = data.draw(st.sampled_from(scene.paths))
    shapes = [(data.draw(st.sampled_from(COURSES)),), path.subpaths]
    nodes = path.subpaths[0].nodes
    shapes.append(
        (replace(path.subpaths[0], nodes=(replace(nodes[0], disabled=True), *nodes[1:])),)
    )
    shapes.append((Subpath((Node("other", (0.0, 0.0)), nodes[-1])),))
    after = replace(path, subpaths=data.draw(st.sampled_from(shapes)))
    done, inverses = base.apply_all(scene, paths.reshaped_commands(scene, after))
    assert done.path(path.id) == after
    assert base.apply_all(done, inverses)[0] == scene
    stand = {node.id for node in after.nodes() if not node.disabled}
    for rider in done.riders_of(path.id):
        assert all(isinstance(p.place, AtPercent) or p.place.node in stand for p in rider.ride.pegs)
        assert [p.time for p in rider.ride.pegs] == [
            p.time for p in scene.layer(rider.id).ride.pegs
        ]
