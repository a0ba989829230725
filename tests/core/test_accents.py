"""Accents against what they are said to add, and what edits and clocks make of them."""

from dataclasses import replace

import numpy as np
import pytest

from coaster.commands import applied
from coaster.commands.clock import clock_commands
from coaster.edits import accents, rides
from coaster.errors import EditRefused
from coaster.geometry.path import Path, Subpath
from coaster.motion import easing
from coaster.motion.accents import HOP_PX, KINDS, MOST_ACCENTS, POP, SWAY_DEG, THROB, Accent, added
from coaster.motion.distance import Way, passings
from coaster.motion.letters import Letters
from coaster.motion.rate import Rate
from coaster.motion.ride import AtPercent, Peg, Ride
from coaster.motion.sampling import simple_pegs
from coaster.render.display import program_of
from coaster.render.evaluate import Evaluation
from coaster.scene.carriers import Carrier
from coaster.scene.contents import Line, Shape
from coaster.scene.document import Layer, Scene, Transform
from tests.core.test_chains import path
from tests.core.test_letters import scene_of as letters_of
from tests.core.test_render import RING, loop

TIMES = np.arange(0.0, 61.0)
SPAN = (10.0, 40.0)
RODE = Way(RING, Ride(RING.id, (Peg("a", 10, AtPercent(0)), Peg("b", 40, AtPercent(100)))))


def alone(kind, **more):
    return both([Accent("a", kind, start=12, lasts=24, count=2, fade=0, **more)])


def both(accents):
    return added(accents, RODE, 60, TIMES)


def test_each_adds_what_it_is_said_to_and_nothing_before_and_after():
    for kind in KINDS:
        found = alone(kind)
        out = (TIMES < 12) | (TIMES >= 36)
        for name, still in (("across", 0), ("down", 0), ("turn", 0), ("size", 1), ("opacity", 1)):
            assert getattr(found, name)[out] == pytest.approx(still), kind
    assert alone("hop").down[18] == pytest.approx(-HOP_PX)
    assert alone("sway").turn[15] == pytest.approx(np.radians(SWAY_DEG))
    assert alone("throb", strength=2).size[18] == pytest.approx(1 + 2 * THROB)
    assert alone("twirl").turn[24] == pytest.approx(2 * np.pi)
    assert alone("pop").size[15] == pytest.approx(1 + POP * 7 / 8)
    assert set(np.round(alone("flicker").opacity, 6)) == {1.0, 0.15}
    shiver = alone("shiver")
    assert np.ptp(shiver.across) > 5
    assert np.ptp(shiver.down) > 5


def test_it_fades_over_its_end_and_several_add_up():
    fading = Accent("a", "hop", start=0, lasts=40, count=4, fade=0.5)
    found = both([fading])
    assert found.down[5] == pytest.approx(-HOP_PX)
    assert found.down[35] == pytest.approx(-HOP_PX / 4)
    twice = both([fading, replace(fading, id="b", kind="throb")])
    assert twice.down == pytest.approx(found.down)
    assert twice.size.max() > 1.1


@pytest.mark.parametrize(
    ("when", "start", "span"),
    [
        ("at", 5, (5, 11)),
        ("before", 0, (4, 10)),
        ("before", -3, (1, 7)),
        ("during", 99, SPAN),
        ("after", 2, (42, 48)),
        ("peg", 2, (42, 48)),
    ],
)
def test_it_is_when_it_is_said_to_be_beside_a_ride(when, start, span):
    ((found),) = Accent("a", "hop", when, start, 6, mark="b").spans(RODE, 60)
    assert found == pytest.approx(span)


def scene_with(*more: Accent) -> Scene:
    box = Layer("box", "Box", Shape(width=20, height=10), Transform((60, 90)), accents=more)
    led = Layer("led", "Led", Shape(width=4, height=4), carrier=Carrier("box"))
    line = Layer("line", "Line", Line(RING.id))
    return Scene(200, 200, length=60, layers=(box, led, line), paths=(RING,))


def test_what_rests_moves_and_takes_along_what_it_carries():
    scene = scene_with(Accent("a", "hop", start=12, lasts=24, count=2, fade=0))
    evaluation = Evaluation(scene)
    assert evaluation.spot(evaluation.motion("box"), 18) == pytest.approx([60, 90 - HOP_PX])
    assert evaluation.spot(evaluation.motion("led"), 18) == pytest.approx([60, 90 - HOP_PX])
    assert evaluation.spot(evaluation.motion("box"), 40) == pytest.approx([60, 90])
    dim = Evaluation(scene_with(Accent("a", "flicker", start=0, lasts=60, count=1, fade=0)))
    assert dim.motion("box").opacity(50) == pytest.approx(0.15)
    riding = scene.with_layer(replace(scene.layer("box"), ride=loop(RING.id, 60)))
    plain = riding.with_layer(replace(riding.layer("box"), accents=()))
    spots = [Evaluation(s).spot(Evaluation(s).motion("box"), 18) for s in (riding, plain)]
    assert spots[0] - spots[1] == pytest.approx([0, -HOP_PX])


def test_letters_do_it_one_after_the_other():
    scene = letters_of("M0 200L400 200", parts=Letters(later=6), stops=((0, 50),))
    hop = Accent("a", "hop", start=0, lasts=6, count=1, fade=0)
    scene = scene.with_layer(replace(scene.layer("words"), accents=(hop,)))
    steps = {step.name: step for step in program_of(Evaluation(scene)).steps}
    lifted = [[steps[f"words.{i}"].map(f)[5] for i in (1, 2, 3)] for f in (3, 9, 15, 21)]
    low = max(map(max, lifted))
    assert np.array(lifted) == pytest.approx(low - HOP_PX * np.eye(4, 3))


def test_the_plans_put_in_change_and_take_out():
    scene = scene_with()
    edit = accents.add_accent(scene, ["box", "led"], "sway", 10, stagger=4)
    after = applied(scene, edit.commands)
    assert [after.layer(x).accents[0].start for x in ("box", "led")] == [10, 14]
    own = after.layer("box").accents[0].id
    changed = applied(after, accents.set_accent(after, "box", own, {"when": "after"}).commands)
    assert (changed.layer("box").accents[0].when, changed.layer("box").accents[0].start) == (
        "after",
        0,
    )
    gone = applied(changed, accents.without_accent(changed, "box", own).commands)
    assert gone.layer("box").accents == ()
    with pytest.raises(EditRefused, match="no accents"):
        accents.add_accent(scene, ["line"], "hop", 0)
    with pytest.raises(EditRefused, match="any more"):
        accents.set_accent(scene, "box", "hop", {})
    with pytest.raises(EditRefused, match="Accent of Box"):
        accents.set_accent(after, "box", own, {"lasts": -1})
    full = scene_with(*(Accent(f"a{i}", "hop") for i in range(MOST_ACCENTS)))
    with pytest.raises(EditRefused, match="no layer has more"):
        accents.add_accent(full, ["box"], "hop", 0)


def test_another_rate_keeps_the_seconds_of_accents_letters_and_tails():
    scene = letters_of("M0 200L400 200", parts=Letters(later=2))
    tail = Layer("tail", "Tail", Line("way", trail=15, trail_in="frames"), carrier=Carrier("words"))
    words = replace(scene.layer("words"), accents=(Accent("a", "hop", start=10, lasts=5),))
    scene = replace(scene, layers=(tail, words))
    after = applied(scene, clock_commands(scene, Rate(60), 48))
    accent = after.layer("words").accents[0]
    assert (accent.start, accent.lasts, after.layer("words").ride.letters.later) == (20, 10, 4)
    assert after.layer("tail").content.trail == 30


SQUARE = path("square", (0, 0), (100, 0), (100, 100), (0, 100), closed=True)


def going_round(laps: float, length: int = 60) -> Way:
    return Way(SQUARE, Ride(SQUARE.id, simple_pegs(0, length, laps, easing.EVEN)))


@pytest.mark.parametrize(
    ("laps", "node", "times"), [(1, 2, [30]), (2, 2, [15, 45]), (2, 0, [0, 30])]
)
def test_it_begins_whenever_its_rider_passes_a_node(laps, node, times):
    mark = SQUARE.nodes()[node].id
    found = Accent("a", "hop", "node", 0, 4, mark=mark).spans(going_round(laps), 60)
    assert sorted({round(begin, 6) % 60 for begin, _ in found}) == pytest.approx(times)


def test_over_the_seam_it_goes_on():
    early = Accent("a", "hop", "node", -3, 6, 1, mark=SQUARE.nodes()[0].id)
    found = added([early], going_round(1), 60, TIMES)
    assert found.down[0] == pytest.approx(found.down[60])
    assert found.down[0] < -1
    assert found.down[58] < -1
    assert not found.down[3:57].any()


def test_what_goes_to_and_fro_passes_twice_and_an_open_end_once():
    line = Path("line", "Line", (Subpath(SQUARE.nodes()),))
    pegs = [
        Peg(name, at, AtPercent(share))
        for name, at, share in (("a", 0, 0), ("b", 30, 100), ("c", 60, 0))
    ]
    way = Way(line, Ride("line", tuple(pegs)))
    assert passings(way, SQUARE.nodes()[2].id, 60) == pytest.approx([20, 40])
    assert passings(way, SQUARE.nodes()[0].id, 60) == pytest.approx([0])


def test_at_what_is_gone_it_does_nothing():
    for when in ("peg", "node"):
        assert Accent("a", "hop", when, mark="gone").spans(RODE, 60) == []
        assert Accent("a", "hop", when, mark="a").spans(None, 60) == []
    scene = replace(
        scene_with(Accent("a", "hop")), layers=scene_with(Accent("a", "hop")).layers[:1]
    )
    with pytest.raises(EditRefused, match="rides no path"):
        accents.set_accent(scene, "box", "a", {"when": "node"})
    scene = scene.with_layer(replace(scene.layer("box"), ride=loop(RING.id, 60)))
    at_peg = applied(scene, accents.set_accent(scene, "box", "a", {"when": "peg"}).commands)
    mark = at_peg.layer("box").accents[0].mark
    assert rides.remove_peg(at_peg, "box", mark).notes == (
        "Box does its hop no more: that was at this peg.",
    )
