"""Wakes against particles worked out one by one; the seam, jumps, limits, what edits make of them."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from coaster.commands import applied
from coaster.edits import wakes
from coaster.edits.copies import set_copies
from coaster.edits.layers import delete_layers
from coaster.edits.pasting import Taken, paste
from coaster.edits.unseen import reasons
from coaster.errors import EditRefused
from coaster.export.drawers import painter_of
from coaster.motion.chance import chance
from coaster.motion.keys import Key
from coaster.motion.wakes import MOST_ALIVE, READY, STREAMS, Clock, Particles, Wake
from coaster.render import seam, stage
from coaster.render.display import Crowd, Item, Push, program_of
from coaster.render.evaluate import Evaluation, forget
from coaster.render.frames import Frames
from coaster.scene.carriers import Carrier
from coaster.scene.contents import Group, Inset, Line, Picture, Shape
from coaster.scene.document import Beside, Layer, Scene, Transform
from coaster.scene.footage import FrameTimes
from coaster.scene.limits import drawn_layers
from coaster.scene.properties import Track
from coaster.scene.shades import Mirror
from tests.core.test_crowds import header_of
from tests.core.test_render import RING, loop

LENGTH = 60
PLAIN = Wake(
    6, 0.8, 50, 0, 0, appear=0, vanish=0, differ_life=0, differ_speed=0, differ_size=0, differ_spin=0
)  # fmt: skip


def scene_of(wake: Wake, *, rides: bool = True, **more) -> Scene:
    mother = Layer("mother", "Mother", Shape(width=8, height=8), Transform((60, 90)))
    if rides:
        mother = replace(mother, ride=loop(RING.id, LENGTH))
    left = Layer("left", "Left", Shape("ellipse", 12, 12, "#ff8000"), wake=wake, **more)
    left = replace(left, carrier=Carrier("mother", turn=True))
    return Scene(240, 200, length=LENGTH, layers=(left, mother), paths=(RING,))


def seen(scene: Scene, frame: int) -> np.ndarray:
    """Return x, y, size and strength of all that is there in a frame, the oldest first."""
    steps = program_of(Evaluation(scene), at=Frames.one(frame)).one_by_one()
    found = []
    for step in steps:
        if isinstance(step, Item) and step.name.startswith("left") and step.strength(0) > 0:
            a, b, c, d, e, f = step.map(0)
            size = np.hypot(a, b)
            found.append((6 * (a + c) + e, 6 * (b + d) + f, size, step.strength(0)))
    return np.array(sorted(found)).reshape(-1, 4)


@pytest.mark.parametrize("frame", [0, 13, 37])
def test_particles_leave_from_where_their_layer_was(frame):
    """By hand: births every fifth frame, half of that to its side by chance, round the loop."""
    scene, fps = scene_of(PLAIN), 30
    evaluation = Evaluation(scene)
    spots = evaluation.spots_of(evaluation.motion("mother"))
    headings = evaluation.motion("mother").travel.heading
    count = round(6 * LENGTH / fps)
    wanted = []
    for number in range(-count, count):
        jitter = chance(1, STREAMS.index("birth"), np.array([number % count]))[0]
        birth = (number + 0.5 * jitter) * LENGTH / count
        age = (frame - birth) / fps
        if 0 <= age < 0.8:
            at, part = divmod(birth % LENGTH, 1)
            at = int(at)
            spot = (1 - part) * spots[at] + part * spots[at + 1]
            turn = (1 - part) * headings[at] + part * headings[at + 1]
            wanted.append(spot + 50 * age * np.array([np.cos(turn), np.sin(turn)]))
    found = seen(scene, frame)
    assert len(found) == len(wanted) > 2
    assert found[:, :2] == pytest.approx(np.array(sorted(map(tuple, wanted))), abs=0.3)
    assert found[:, 2:] == pytest.approx(1)


def test_pull_and_drag_are_those_of_the_equation_of_motion():
    wake = replace(PLAIN, lift=120, drag=1.7, drift=9, angle=30)
    clock = Clock(30, LENGTH, round=False)
    found = Particles(wake, clock, np.array([55.0]))
    gone = found.gone(np.zeros(found.births.shape), np.zeros((*found.births.shape, 2)))
    row, lane = np.argwhere(found.alive)[0]
    speed = 50 * np.array([np.cos(np.pi / 6), np.sin(np.pi / 6)])
    place, steps = np.zeros(2), 20_000
    h = found.ages[row, lane] / steps
    for _ in range(steps):
        middle = speed + h / 2 * (np.array([0, -120.0]) - 1.7 * speed)
        place = place + h * (middle + np.array([9.0, 0.0]))
        speed = speed + h * (np.array([0, -120]) - 1.7 * middle)
    assert gone[row, lane] == pytest.approx(place, abs=1e-4)


@given(
    kind=st.sampled_from(sorted(READY)),
    length=st.integers(20, 200),
    life=st.floats(0.1, 9),
    rate=st.floats(0.7, 60),
)
def test_a_loop_comes_round_for_any_life_and_rate(kind, length, life, rate):
    wake = replace(READY[kind], life=life, rate=rate)
    clock = Clock(30, length, round=True)
    first, last = (Particles(wake, clock, np.array([t])) for t in (0.0, float(length)))
    assert (first.strengths() == last.strengths()).all()
    assert (first.sizes() == last.sizes()).all()
    # One that lives stays in its lane, whatever its number.
    one, other = (Particles(wake, clock, np.array([t])) for t in (5.0, 5.4))
    both = one.alive & other.alive & (one.ages < other.ages)
    assert (one.numbers == other.numbers)[both].all()
    assert first.alive.sum() <= wake.rate * 2 * life * 1.6 + 4


@pytest.mark.parametrize("kind", sorted(READY))
def test_every_ready_wake_is_the_same_at_the_seam_and_from_anywhere(tmp_path, kind):
    scene = scene_of(replace(READY[kind], inherit=0.3))
    painter = painter_of(scene, tmp_path)
    assert (painter.picture(0) == painter.picture(LENGTH)).all()
    assert all(row.clean for row in seam.report(Evaluation(scene)))
    whole = list(program_of(Evaluation(scene)).one_by_one())
    forget()
    for frame in (7, 44):
        there = sorted(
            tuple(np.round(s.map(frame), 9))
            for s in whole
            if s.name[:5] == "left." and s.strength(frame)
        )
        alone = program_of(Evaluation(scene), at=Frames.one(frame)).one_by_one()
        here = [
            tuple(np.round(s.map(0), 9)) for s in alone if s.name[:5] == "left." and s.strength(0)
        ]
        assert sorted(here) == there


def test_what_is_not_there_keeps_its_numbers_within_bounds():
    """Slowed hard, and born long after: backwards in time it would be without bounds."""
    wake = replace(PLAIN, rate=0.01, life=5, drag=900, lift=300, differ_life=1)
    for comes_round in (True, False):
        found = Particles(wake, Clock(30, 9000, comes_round), np.array([0.0, 4000.0]))
        gone = found.gone(np.zeros(found.births.shape), np.zeros((*found.births.shape, 2)))
        assert np.isfinite(gone).all()
        assert np.abs(gone).max() < 1e4


def test_what_does_not_come_round_begins_with_nothing_and_its_seam_says_so():
    track = Track("x", (Key("a", 0, 20.0), Key("b", 50, 200.0)))
    scene = scene_of(PLAIN, rides=False)
    scene = scene.with_layer(replace(scene.layer("mother"), keys=(track,)))
    assert len(seen(scene, 0)) == 0
    assert len(seen(scene, 50)) >= 4
    names = [row.name for row in seam.broken(Evaluation(scene))]
    assert "Left, its wake" in names


def test_its_time_is_when_it_leaves_any_and_they_live_on():
    scene = scene_of(PLAIN, shown=(10.0, 20.0))
    counts = [len(seen(scene, frame)) for frame in (5, 18, 30, 50)]
    assert counts[0] == counts[3] == 0
    assert counts[1] > 0
    assert counts[2] > 0


def test_the_layer_itself_is_seen_only_if_that_is_wanted_and_moves_on():
    own = [
        [
            s.strength(9)
            for s in program_of(Evaluation(scene_of(wake))).one_by_one()
            if s.name == "left"
        ]
        for wake in (PLAIN, replace(PLAIN, itself=True))
    ]
    assert own == [[0.0], [1.0]]
    resting = scene_of(PLAIN, rides=False)
    evaluation = Evaluation(resting)
    assert not evaluation.is_still(evaluation.motion("left"))


def test_the_plans_add_change_and_take_away_and_the_carrier_may_go():
    scene = scene_of(PLAIN)
    bare = replace(scene, layers=(scene.layer("mother"),))
    echoes = applied(bare, wakes.leave_wake(bare, "mother", "echoes").commands)
    assert [layer.wake for layer in echoes.layers] == [READY["echoes"]]
    for kind in wakes.LOOKS:
        edit = wakes.leave_wake(bare, "mother", kind)
        after = applied(bare, edit.commands)
        assert [layer.wake for layer in after.layers] == [READY[kind], None]
        assert edit.select.layers == (after.layers[0].id,)
    tail = applied(bare, wakes.leave_wake(bare, "mother", "tail").commands).layers[0]
    assert (tail.content.trail, tail.carrier) == (36.0, Carrier("mother"))
    changed = applied(scene, wakes.set_wake(scene, "left", {"life": 2.5}).commands)
    assert changed.layer("left").wake == replace(PLAIN, life=2.5)
    sparks = applied(changed, wakes.set_kind(changed, "left", "sparks").commands)
    assert sparks.layer("left").wake == READY["sparks"]
    assert applied(scene, wakes.without_wake(scene, "left").commands).layer("left").wake is None
    gone = applied(scene, delete_layers(scene, ["mother"], 12).commands)
    assert gone.layer("left").carrier is None
    assert len(seen(gone, 30)) > 0


def test_what_cannot_leave_a_wake_is_refused_in_words():
    line = Layer("line", "Line", Line(RING.id))
    scene = replace(scene_of(PLAIN), layers=(line, *scene_of(PLAIN).layers))
    with pytest.raises(EditRefused, match="follows its path"):
        wakes.set_wake(scene, "line", {})
    with pytest.raises(EditRefused, match=f"at most {MOST_ALIVE:,}"):
        wakes.set_wake(scene, "left", {"rate": 10_000, "life": 60})
    with pytest.raises(EditRefused, match="rides no path"):
        wakes.leave_wake(scene, "left", "tail")
    copied = applied(scene, set_copies(scene, "mother", {"count": 3}).commands)
    with pytest.raises(EditRefused, match="has copies"):
        wakes.set_wake(copied, "mother", {})
    leaving = applied(scene, wakes.set_wake(scene, "mother", {}).commands)
    with pytest.raises(EditRefused, match="leaves a wake"):
        set_copies(leaving, "mother", {"count": 3})
    assert reasons(scene, "left", 20, lambda name: True) == []
    assert drawn_layers(scene) == (3, 2, PLAIN.most_alive)


def test_sizes_and_strengths_go_through_theirs_over_a_life():
    clock, times = Clock(30.0, LENGTH, True), np.arange(LENGTH + 1.0)
    plain = Particles(PLAIN, clock, times)
    found = Particles(replace(PLAIN, sizes=(1, 3, 2), strengths=(0.0, 1.0)), clock, times)
    wanted = np.interp(plain.shares, [0, 0.5, 1], [1, 3, 2])
    assert found.sizes() == pytest.approx(plain.sizes() * wanted)
    assert found.strengths() == pytest.approx(plain.strengths() * plain.shares)


def done(scene: Scene, edit) -> Scene:
    return applied(scene, edit.commands)


def test_the_plans_set_what_they_look_like_and_it_may_go():
    scene = scene_of(PLAIN)
    like = done(scene, wakes.set_look(scene, "left", "mother", on=True))
    assert like.layer("left").wake.looks == ("mother",)
    gone = delete_layers(like, ["mother"])
    assert gone.notes == ("What Left leaves looks like Mother no more.",)
    assert done(like, gone).layer("left").wake.looks == ()
    pasted = done(scene, paste(scene, Taken(like, ("left",)), 0))
    assert pasted.layers[-1].wake.looks == ()
    both = done(scene, paste(scene, Taken(like, ("left", "mother")), 0))
    assert both.layers[-2].wake.looks == (both.layers[-1].id,)
    unlike = done(like, wakes.set_look(like, "left", "mother", on=False))
    assert unlike.layer("left").wake.looks == ()
    # A ready wake keeps them, and brings its colours.
    sparks = done(like, wakes.set_kind(like, "left", "sparks"))
    assert sparks.layer("left").wake.looks == ("mother",)
    assert sparks.layer("left").wake.colours == READY["sparks"].colours
    fewer = done(sparks, wakes.recoloured(sparks, "left", 1, None))
    assert len(fewer.layer("left").wake.colours) == len(READY["sparks"].colours) - 1


def test_looks_and_colours_that_cannot_be_are_refused():
    scene = scene_of(PLAIN)
    line = Layer("line", "Line", Line(RING.id))
    scene = replace(scene, layers=(line, *scene.layers))
    for other in ("line", "left"):
        with pytest.raises(EditRefused, match="do not look like"):
            wakes.set_look(scene, "left", other, on=True)
    with pytest.raises(EditRefused, match="1 to 8 colours"):
        wakes.recoloured(scene, "left", 5, "#ffffff")
    photo = scene.with_layer(replace(scene.layer("left"), content=Picture("a.png", 9, 9)))
    with pytest.raises(EditRefused, match="keeps its colours"):
        wakes.recoloured(photo, "left", 0, "#ffffff")


def whole(kind: str) -> Scene:
    """A group, or a scene that is shown, of a red box, which leaves its like."""
    scene = scene_of(replace(PLAIN, rate=3))
    box = Layer("box", "Box", Shape("rectangle", 12, 12, "#ff0000"), Transform((6, 6)))
    inner = Scene(16, 16, length=LENGTH, background=None, layers=(box,))
    content = Group() if kind == "group" else Inset("1", 16, 16, FrameTimes(30, ((LENGTH, 1),)))
    left = replace(scene.layer("left"), content=content)
    if kind == "scene":
        beside = (Beside("1", "One", inner),)
        return replace(scene.with_layer(left), scenes=beside)
    return replace(scene, layers=(replace(box, parent="left"), left, scene.layer("mother")))


@pytest.mark.parametrize("kind", ["group", "scene"])
def test_groups_and_scenes_are_left_with_all_that_they_hold(tmp_path, kind):
    scene = whole(kind)
    evaluation = Evaluation(scene)
    there = np.count_nonzero(evaluation.trail_of(scene.layer("left")).at(np.array([31])).strengths)
    steps = program_of(evaluation).steps
    assert sum(isinstance(x, Push) and x.strength(31) > 0 for x in steps) == there > 1
    assert not any(isinstance(step, Crowd) for step in steps)
    picture = painter_of(scene, tmp_path).picture(31)
    red = (picture[..., 2] > 200) & (picture[..., 1] < 60)
    # Boxes of 144 px, some of which lie on others.
    assert 72 * there < red.sum() <= 150 * there
    pictures = [painter_of(scene, tmp_path).picture(frame) for frame in (0, LENGTH)]
    assert np.array_equal(*pictures)
    told = next(x for x in header_of(stage.pack(scene))["layers"] if x["id"] == "left")
    assert sum(step["kind"] == "pop" for step in told["mirror"]) >= there
    assert told["crowd"] is None


def test_of_groups_and_scenes_there_are_fewer():
    for kind in ("group", "scene"):
        with pytest.raises(EditRefused, match="at most 100"):
            applied(whole(kind), wakes.set_wake(whole(kind), "left", {"rate": 900}).commands)
        with pytest.raises(EditRefused, match="alone"):
            wakes.set_look(whole(kind), "left", "mother", on=True)


@pytest.mark.parametrize("kind", ["group", "scene", "mirror"])
def test_block_by_block_the_stage_is_told_of_as_many(kind):
    """Also of the last block, which is one frame of 601."""
    looks = replace(PLAIN, looks=("mother",))
    scene = scene_of(looks, mirror=Mirror(floor=150)) if kind == "mirror" else whole(kind)
    scene = replace(scene, length=600)
    packs = [stage.pack(scene), *(stage.pack_blocks(scene, i, 1, ["left"]) for i in range(6))]
    told = [next(x for x in header_of(pack)["layers"] if x["id"] == "left") for pack in packs]
    counts = {len(each["mirror"]) for each in told}
    assert len(counts) == 1
    assert counts.pop() > 6
