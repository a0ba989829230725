"""Letters that ride by themselves, against places worked out letter by letter."""

import json
from dataclasses import replace

import numpy as np
import pytest

from coaster.commands import applied
from coaster.edits import letters, wakes
from coaster.edits.copies import copies_as_layers, set_copies
from coaster.errors import EditRefused
from coaster.export.drawers import painter_of
from coaster.geometry.measure import measure_of
from coaster.motion.accents import Accent
from coaster.motion.keys import Key
from coaster.motion.letters import Letters, Spread
from coaster.motion.ride import AtPercent, Facing, NodeAngle, Peg, Ride
from coaster.render import stage, texts
from coaster.render.display import Item, program_of
from coaster.render.evaluate import Evaluation
from coaster.render.frames import Frames
from coaster.scene.contents import Group, Shape, Text
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.limits import drawn_layers
from coaster.scene.properties import Track
from tests.core.test_traces import CURVE, GAPPY, ROUND, path_from

WORDS = Text("AVA to\ntow", size=24, align="left")


def scene_of(data: str, text: Text = WORDS, parts: Letters | None = None, **ride) -> Scene:
    path = path_from("way", "Way", data)
    stops = ride.pop("stops", ((0, 0), (24, 100)))
    pegs = tuple(Peg(f"p{i}", t, AtPercent(at)) for i, (t, at) in enumerate(stops))
    riding = Ride("way", pegs, letters=parts or Letters(), **ride)
    words = Layer("words", "Words", text, Transform(anchor=(0.25, 0.5)), ride=riding)
    return Scene(400, 400, length=24, background="#ffffff", layers=(words,), paths=(path,))


def items(scene: Scene) -> list[Item]:
    """Return what is drawn of the letters, the first one first, the text itself last."""
    steps = program_of(Evaluation(scene)).steps
    return sorted((s for s in steps if isinstance(s, Item)), key=lambda s: (len(s.name), s.name))[
        1:
    ]


def middle(item: Item, frame: int) -> np.ndarray:
    a, b, c, d, e, f = item.map(frame)
    left, _, width, height = item.faces.first.box
    x, y = left + width / 2, height / 2
    return np.array([a * x + c * y + e, b * x + d * y + f])


def edges(item: Item, frame: int) -> np.ndarray:
    """Return the corners of what is drawn in a frame, left and top, right and bottom."""
    a, b, c, d, e, f = item.map(frame)
    left, top, width, height = item.faces.at(frame).box
    across, down = np.array([left, left + width]), np.array([top, top + height])
    return np.concatenate([a * across + c * down + e, b * across + d * down + f])


def test_each_letter_is_on_the_path_by_its_own_width_with_kerning():
    scene = scene_of(CURVE)
    found, whole = items(scene), measure_of(scene.paths[0].subpaths, "jump")[0]
    spots = texts.set_text(WORDS)
    parts = [part for line in spots.lines for part in line if part]
    assert len(found) == len(parts) == 8
    for frame in (9, 14):
        for item, part in zip(found, parts, strict=True):
            ahead = part.left + part.width / 2 - 0.25 * spots.width
            distance = whole.length * frame / 24 + ahead
            at = whole.locate([distance]).position[0]
            assert middle(item, frame) == pytest.approx(at, abs=1e-6)
    # A and V are kerned: nearer than alone.
    assert parts[0].width < texts.set_text(Text("A", size=24)).width
    tracked = texts.set_text(replace(WORDS, tracking=0.5))
    assert tracked.width > spots.width


def test_parts_together_are_the_text_as_it_is_set():
    text = Text("Réef  tank, שלום 12", size=30)
    whole = texts.outline(text)[0]
    for by, count in (("word", 4), ("line", 1)):
        parts = texts.parts_of(text, by)
        assert len(parts) == count
        assert sum(len(part.runs) for part in parts) == len(whole.runs)
    # A mark rides with its letter.
    assert len(texts.parts_of(Text("e\u0301e"), "letter")) == 2


def test_facing_and_direction_say_from_which_end_it_reads():
    upright = items(scene_of(CURVE, facing=Facing("fixed")))
    assert all(np.allclose(item.maps[:, 1], 0) for item in upright)
    for ride in ({"facing": Facing("reversed")}, {"stops": ((0, 100), (24, 0))}):
        scene = scene_of("M0 200L400 200", **ride)
        first, second, *_ = items(scene)
        # It reads from right to left in the scene, upside down: on its head it is a text again.
        assert first.map(12)[0] == pytest.approx(-1)
        assert middle(first, 12)[0] > middle(second, 12)[0]


def test_what_is_past_the_ends_is_unseen_or_comes_round():
    hidden, wrapped = (items(scene_of("M0 200L400 200", beyond=how)) for how in ("hide", "round"))
    last = [item.strength(23) for item in hidden]
    assert last[0] == 1
    assert 0 in last
    assert all(item.strength(23) == 1 for item in wrapped)
    assert min(middle(item, 23)[0] for item in wrapped) < 60


def test_later_letters_do_what_the_first_does_so_much_later():
    scene = scene_of("M0 200L400 200", parts=Letters(later=2), stops=((0, 20), (10, 60)))
    found = items(scene)
    assert middle(found[0], 5)[0] > middle(found[0], 0)[0] + 50
    assert middle(found[3], 6)[0] == pytest.approx(middle(found[3], 0)[0])
    assert middle(found[3], 8)[0] > middle(found[3], 6)[0]


def test_a_text_that_grows_moves_its_letters_apart():
    track = Track("scale", (Key("a", 0, 1.0), Key("b", 20, 2.0)))
    scene = scene_of("M0 200L400 200", stops=((0, 50),))
    scene = scene.with_layer(replace(scene.layer("words"), keys=(track,)))
    first, second = items(scene)[:2]
    apart = [middle(second, f)[0] - middle(first, f)[0] for f in (0, 10, 20)]
    assert apart == pytest.approx([apart[0], 1.5 * apart[0], 2 * apart[0]])
    # Those that go back as they make room are not turned round.
    assert [first.map(f)[0] for f in (0, 10, 20)] == pytest.approx([1.0, 1.5, 2.0])


@pytest.mark.parametrize("by", ["letter", "word"])
def test_a_text_that_is_set_wider_is_at_each_key_as_if_it_had_been_set_so(by):
    track = Track("tracking", (Key("a", 0, 0.0), Key("b", 20, 0.5)))
    parts, stops = Letters(by=by), ((0, 50),)
    scene = scene_of("M0 200L400 200", parts=parts, stops=stops)
    keyed = items(scene.with_layer(replace(scene.layer("words"), keys=(track,))))
    for frame, tracking in ((0, 0.0), (10, 0.25), (20, 0.5)):
        text = replace(WORDS, tracking=tracking)
        standing = items(scene_of("M0 200L400 200", text, parts, stops=stops))
        for one, wanted in zip(keyed, standing, strict=True):
            assert edges(one, frame) == pytest.approx(edges(wanted, 0))


def test_what_grows_twice_and_is_set_wider_is_at_each_moment_as_if_it_had_been_set_so():
    stops, growing = ((0, 50),), {"scale": (1.0, 2.0), "size": (30, 40), "tracking": (0.0, 0.5)}
    keys = tuple(
        Track(name, (Key("a", 0, first), Key("b", 20, last)))
        for name, (first, last) in growing.items()
    )
    scene = scene_of("M0 200L400 200", replace(WORDS, size=30), stops=stops)
    keyed = items(scene.with_layer(replace(scene.layer("words"), keys=keys)))
    for frame in (0, 10, 15, 20):
        scale, size, tracking = (a + (b - a) * frame / 20 for a, b in growing.values())
        still = scene_of(
            "M0 200L400 200", replace(WORDS, size=size, tracking=tracking), stops=stops
        )
        words = still.layer("words")
        large = replace(words, transform=replace(words.transform, scale=(scale, scale)))
        for one, wanted in zip(keyed, items(still.with_layer(large)), strict=True):
            assert edges(one, frame) == pytest.approx(edges(wanted, 0), abs=1e-6)


def test_the_change_of_a_spread_is_its_slope():
    def keys(*values: float) -> tuple[Key, ...]:
        return tuple(Key(f"k{i}", 10.0 * i, value) for i, value in enumerate(values))

    spread = Spread(-8.0, keys(0.0, 3.0), (keys(1.0, 2.5, 0.5), keys(2.0, 1.0))).later(4.0)
    times = np.array([4.5, 9.0, 13.9, 18.0, 23.5])
    before, after = (spread.beyond(times + step)[0] for step in (-1e-4, 1e-4))
    assert spread.beyond(times)[1] == pytest.approx((after - before) / 2e-4, rel=1e-5, abs=1e-6)
    assert spread.beyond(np.array([0.0, 4.0]))[0] == pytest.approx([-8.0, -8.0])


def test_lines_that_are_broken_to_a_width_stay_as_they_are_set():
    track = Track("tracking", (Key("a", 0, 0.0), Key("b", 20, 2.0)))
    text, parts = replace(WORDS, text="round and round it goes", wrap=150), Letters(by="line")
    scene = scene_of("M0 200L400 200", text, parts, stops=((0, 50),))
    keyed = items(scene.with_layer(replace(scene.layer("words"), keys=(track,))))
    for one, wanted in zip(keyed, items(scene), strict=True):
        assert one.map(20) == pytest.approx(wanted.map(20))


def test_squeezed_it_fits_and_a_loop_comes_round(tmp_path):
    text = Text("round and round and round it goes ", size=40)
    long = texts.set_text(text).width
    scene = scene_of(ROUND, text, Letters(squeeze=True), stops=((0, 0), (24, 100)))
    length = measure_of(scene.paths[0].subpaths, "jump")[0].length
    assert long > length
    offsets = [one.ride.offset for one in _riders(scene)]
    assert max(offsets) - min(offsets) < 100
    painter = painter_of(scene, tmp_path)
    assert (painter.picture(0) == painter.picture(24)).all()


def _riders(scene: Scene) -> list[Layer]:
    evaluation = Evaluation(scene)
    return [motion.layer for motion in evaluation.copies_of(scene.layers)["words"]]


def test_the_plans_let_a_text_ride_in_parts_rest_and_ride_in_one():
    scene = scene_of("M0 200L40 200")
    whole = applied(scene, letters.as_one(scene, "words").commands)
    assert whole.layer("words").ride.letters is None
    assert len([s for s in program_of(Evaluation(whole)).steps if isinstance(s, Item)]) == 1
    edit = letters.set_letters(whole, "words", {"by": "word"})
    assert "not seen" in edit.notes[0]
    after = applied(whole, edit.commands).layer("words").ride
    assert (after.letters.by, after.beyond) == ("word", "hide")
    assert letters.set_letters(whole, "words", {"squeeze": True}).notes == ()
    rests = applied(scene, letters.at_rest(scene, "words").commands).layer("words").ride
    assert [peg.place for peg in rests.pegs] == [AtPercent(50)]
    assert drawn_layers(scene) == (11, 11, 0)


def long_of(scene: Scene, parts: Letters | None = None) -> Scene:
    """Return the scene with a text of 600 letters."""
    words = scene.layer("words")
    ride = replace(words.ride, letters=parts or words.ride.letters)
    return scene.with_layer(replace(words, content=Text("x" * 600, size=10), ride=ride))


def test_what_has_no_letters_is_refused_in_words_and_rides_as_one():
    scene = scene_of(CURVE)
    layer = replace(scene.layer("words"), content=Shape(width=20, height=10))
    shape = scene.with_layer(layer)
    with pytest.raises(EditRefused, match="no letters"):
        letters.set_letters(shape, "words", {})
    assert len(program_of(Evaluation(shape)).steps) == 1
    one = applied(scene, letters.as_one(scene, "words").commands)
    copied = applied(one, set_copies(one, "words", {"count": 3}).commands)
    with pytest.raises(EditRefused, match="has copies"):
        letters.set_letters(copied, "words", {})
    with pytest.raises(EditRefused, match="ride by themselves"):
        set_copies(scene, "words", {"count": 3})
    with pytest.raises(EditRefused, match="frames later, and may 100,000"):
        letters.set_letters(long_of(scene), "words", {"later": 3600})
    far = long_of(scene, Letters(later=3600))
    assert len(_riders(far)) == 600
    with pytest.raises(EditRefused, match="no copies to make layers of"):
        copies_as_layers(scene, "words")
    left = applied(one, wakes.set_wake(one, "words", {}).commands)
    again = applied(left, letters.set_letters(left, "words", {}).commands)
    assert again.layer("words").wake is None


LIKE = {
    "along": {},
    "back, upright": {"facing": Facing("reversed", 20.0, keep_upright=True, flip_x=True)},
    "fixed, hidden past the ends": {"facing": Facing("fixed"), "beyond": "hide", "offset": 60.0},
    "to a point": {"facing": Facing("target", spot=(90.0, 300.0))},
    "there and back": {"stops": ((0, 10), (9, 90), (24, 20))},
    "gap": {"gap": "hide"},
    "round a loop": {"beyond": "round", "offset": 95.0},
    "by nodes": {"facing": Facing("nodes", angles=(NodeAngle("n1", 0.0), NodeAngle("n2", 130.0)))},
}
PATHS = {"gap": GAPPY, "round a loop": ROUND}


@pytest.mark.parametrize("name", LIKE)
@pytest.mark.parametrize("frame", [0, 5, 12, 24])
def test_letters_worked_out_as_one_are_where_each_of_them_is(name, frame):
    scene = scene_of(PATHS.get(name, CURVE), replace(WORDS, tracking=0.1), **LIKE[name])
    words = replace(scene.layer("words"), parent="group")
    held = Layer("group", "Group", Group(), Transform((30.0, 9.0), turn=25.0, opacity=0.5))
    swings = Track("turn", (Key("a", 0, 0.0), Key("b", 24, 90.0)))
    scene = replace(scene, layers=(words, replace(held, keys=(swings,))))
    at, evaluation = Frames.one(frame), Evaluation(scene)
    found = evaluation.abreast(words, at)
    each = evaluation.copies_of([words], at)["words"]
    assert len(each) == 8
    assert found.maps == pytest.approx(np.concatenate([one.maps for one in each]), abs=1e-9)
    strengths = np.broadcast_to(found.opacities, 8).tolist()
    assert strengths == [one.opacity(frame) for one in each]


@pytest.mark.parametrize(
    "change",
    [
        {"parts": Letters(later=2.0)},
        {"facing": Facing("ahead")},
        {"facing": Facing("roll")},
        {"settle_s": 0.5},
        {"relative": True},
    ],
    ids=str,
)
def test_letters_that_do_not_all_do_the_same_are_not_worked_out_as_one(change):
    scene = scene_of(CURVE, **change)
    assert Evaluation(scene).abreast(scene.layer("words"), Frames.one(5)) is None


@pytest.mark.parametrize(
    "change",
    [
        {"keys": (Track("opacity", (Key("a", 0, 0.0), Key("b", 24, 1.0))),)},
        {"accents": (Accent("a", "hop", start=2, lasts=5),)},
        {"content": replace(WORDS, text=" ")},
        {"transform": Transform(anchor=(0.25, 0.5), z=30.0)},
    ],
    ids=lambda change: next(iter(change)),
)
def test_nor_are_those_of_a_text_that_does_more_than_ride(change):
    scene = scene_of(CURVE)
    scene = scene.with_layer(replace(scene.layer("words"), **change))
    assert Evaluation(scene).abreast(scene.layer("words"), Frames.one(5)) is None


def test_a_glance_tells_known_letters_as_one():
    before = scene_of(CURVE)
    path = path_from("way", "Way", ROUND)
    glance = stage.Glance(7, "")
    for moved, told in ((replace(before, paths=(path,)), True), (before_with("Other"), False)):
        packed = stage.pack(moved, before, glance=glance)
        size = int.from_bytes(packed[8:12], "little")
        (layer,) = json.loads(packed[12 : 12 + size])["layers"]
        assert ("parts" in layer) == told
        assert bool(layer["copies"]) != told
        if told:
            numbers = np.frombuffer(packed[12 + size :], "<f4")
            offset, count = layer["parts"]["maps"]
            each = Evaluation(moved).copies_of([moved.layer("words")])["words"]
            wanted = np.concatenate([one.map(7) for one in each])
            assert numbers[offset : offset + count] == pytest.approx(wanted, abs=1e-3)


def before_with(words: str) -> Scene:
    return scene_of(CURVE, replace(WORDS, text=words))
