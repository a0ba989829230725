"""Paths that are made of others: riding path after path, whatever is done to them."""

from dataclasses import replace

import numpy as np
import pytest

from coaster.commands import applied
from coaster.commands.fields import set_path
from coaster.commands.holding import held
from coaster.edits import chains, nodes, rides
from coaster.edits.edit import Edit
from coaster.edits.groups import group
from coaster.edits.layers import delete_path
from coaster.edits.pasting import Taken, paste
from coaster.errors import EditRefused
from coaster.geometry.chains import chained, parts_of
from coaster.geometry.measure import measure_of
from coaster.geometry.path import Leg, Node, Path, Subpath
from coaster.motion.ride import AtNode
from coaster.render.evaluate import Evaluation
from coaster.scene.contents import Shape
from coaster.scene.document import Layer, Scene


def path(name: str, *places: tuple[float, float], closed: bool = False) -> Path:
    made = tuple(Node(f"n{i}", place) for i, place in enumerate(places, 1))
    return Path(name, name.upper(), (Subpath(made, closed),))


LINE = path("a", (0, 0), (100, 0))
HOOK = path("b", (100, 50), (100, 150), (200, 150))
ROUND = path("c", (200, 150), (400, 300), (400, 150), closed=True)


def done(scene: Scene, edit: Edit) -> Scene:
    return applied(scene, held(scene, edit.commands)[0])


def riding(path_id: str, frames: float, laps: float | None = None) -> Scene:
    layer = Layer("fish", "Fish", Shape("ellipse", 20, 20))
    scene = Scene(640, 360, length=400, layers=(layer,), paths=(LINE, HOOK, ROUND))
    scene = done(scene, rides.attach(scene, "fish", path_id))
    return done(scene, rides.retime(scene, "fish", 0, frames, laps))


def spots(scene: Scene) -> np.ndarray:
    return Evaluation(scene).motion("fish").stand.spots


def chain_of(scene: Scene) -> Path:
    return scene.path(scene.ride_of("fish").path)


def then(scene: Scene, path_id: str, *between: float) -> Scene:
    return done(scene, chains.then(scene, "fish", path_id, chains.Between(*between)))


def test_it_rides_one_path_as_before_and_then_the_other():
    before = riding("a", 40)
    scene = then(before, "b", 10)
    assert np.allclose(spots(scene)[:41], spots(before)[:41])
    assert np.allclose(spots(scene)[40:51], [100, 0])
    # 50 px over to it and 200 px along it, at the 2.5 px a frame of before.
    assert np.allclose(
        spots(scene)[[70, 110, 150, 300]], [[100, 50], [100, 150], [200, 150], [200, 150]]
    )


def test_it_goes_on_from_where_its_parts_are_whatever_shapes_them():
    scene = then(then(riding("a", 40), "b"), "c")
    assert chain_of(scene).name == "A, then B, then C"
    moved = done(scene, nodes.move(scene, "b", ["n3"], (10, 20)))
    ride = moved.ride_of("fish")
    at = round(next(p.time for p in ride.pegs if p.place == AtNode("g-2-n3")))
    assert np.allclose(spots(moved)[at], [210, 170])
    assert np.allclose(spots(moved)[-1], ROUND.subpaths[0].nodes[0].position)


def test_parts_that_meet_are_one_run_and_round_where_the_end_meets_the_start():
    known = {each.id: each for each in (LINE, HOOK, ROUND)}
    legs = (Leg("g", "b"), Leg("h", "c", laps=2))
    (run,) = chained(legs, known, end_to_end=False)
    assert not run.closed
    length = measure_of((run,), "glide")[0].length
    alone = [measure_of(each.subpaths, "glide")[0].length for each in (HOOK, ROUND)]
    assert length == pytest.approx(alone[0] + 2 * alone[1])
    there_and_back = (Leg("g", "b"), Leg("h", "b", backwards=True))
    assert chained(there_and_back, known, end_to_end=False)[0].closed
    assert len(chained((Leg("g", "a"), Leg("h", "b")), known, end_to_end=False)) == 2


def test_end_to_end_each_begins_where_the_one_before_ends():
    scene = then(riding("a", 40), "b")
    chain = chain_of(scene).id
    shut = done(scene, chains.set_end_to_end(scene, chain, on=True))
    places = [node.position for node in chain_of(shut).nodes()]
    assert places == [(0, 0), (100, 0), (100, 100), (200, 100)]
    assert np.allclose(spots(shut)[40], [100, 0])
    assert done(shut, chains.set_end_to_end(shut, chain, on=False)) == scene


@pytest.mark.parametrize("laps", [1.0, 3.0])
def test_laps_are_ridden_before_it_goes_on(laps):
    before = riding("c", 120, laps)
    scene = then(before, "a")
    assert chain_of(scene).legs[0].laps == laps
    assert np.allclose(spots(scene)[:121], spots(before)[:121])


def test_one_that_runs_back_along_its_path_goes_on_from_its_start():
    before = riding("a", 40)
    before = done(before, rides.backwards(before, "fish"))
    scene = then(before, "b")
    assert chain_of(scene).legs[0].backwards
    assert np.allclose(spots(scene)[:41], spots(before)[:41])
    assert np.allclose(spots(scene)[-1], [200, 150])


def test_one_that_leaves_its_path_on_the_way_is_there_until_it_rides_the_other():
    before = riding("a", 40)
    before = done(before, rides.move_peg(before, "fish", before.ride_of("fish").pegs[1].id, 60))
    found = spots(then(before, "b", 5))
    assert np.allclose(found[[44, 45]], [[60, 0], [100, 50]])


def test_what_it_does_between_is_keys_of_the_rest():
    scene = then(riding("a", 40), "b", 10, 90, 2)
    maps = Evaluation(scene).motion("fish").maps
    grown = np.hypot(maps[:, 0], maps[:, 1])
    assert grown[[40, 50]] == pytest.approx([1, 2])
    later = then(riding("a", 40), "b", 0, 90)
    assert later.ride_of("fish").pegs[2].time == 40 + later.fps / 2


def test_a_scene_that_is_too_short_has_all_of_it():
    full = riding("a", 399)
    edit = chains.then(full, "fish", "b", chains.Between(20, 90))
    assert any("ends with the scene" in note for note in edit.notes)
    scene = done(full, edit)
    assert scene.ride_of("fish").end <= scene.length
    turning = [key.time for key in scene.layer("fish").keys_of("turn")]
    assert turning == [peg.time for peg in scene.ride_of("fish").pegs[1:3]]
    again = then(scene, "a")
    rest = [peg.time for peg in again.ride_of("fish").pegs[1:3]]
    assert np.allclose([key.time for key in again.layer("fish").keys_of("turn")], rest, atol=1)


def test_legs_are_turned_moved_and_taken_out_and_it_is_parted():
    scene = then(then(riding("a", 40), "b"), "c")
    chain, (first, second, third) = chain_of(scene).id, (leg.id for leg in chain_of(scene).legs)
    turned = done(scene, chains.set_leg(scene, chain, second, backwards=True))
    assert chain_of(turned).subpaths[1].nodes[0].position == (200, 150)
    round_twice = done(scene, chains.set_leg(scene, chain, third, laps=2))
    assert len(chain_of(round_twice).nodes()) == len(chain_of(scene).nodes()) + 3
    moved = done(scene, chains.move_leg(scene, chain, third, -2))
    assert [leg.path for leg in chain_of(moved).legs] == ["c", "a", "b"]
    without = done(scene, chains.remove_leg(scene, chain, first))
    assert [leg.path for leg in chain_of(without).legs] == ["b", "c"]
    assert spots(without).shape == spots(scene).shape
    parted = done(scene, chains.part(scene, chain))
    assert np.allclose(spots(parted), spots(scene))
    assert done(parted, nodes.move(parted, chain, ["g-n1"], (5, 5)))


def test_a_part_that_is_gone_or_elsewhere_leaves_the_shape():
    scene = then(riding("a", 40), "b")
    for edit in (delete_path(scene, "b", 0), regrouped(scene)):
        steps, notes = held(scene, edit.commands)
        after = applied(scene, steps)
        assert not chain_of(after).legs
        assert "keeps its shape" in notes[0]
        assert chain_of(after).subpaths == chain_of(scene).subpaths


def regrouped(scene: Scene) -> Edit:
    made = group(scene, ["fish"], 0)
    return replace(made, commands=(*made.commands, set_path("a", parent=made.select.layers[0])))


def test_a_group_of_its_rider_leaves_it_together():
    scene = then(riding("a", 40), "b")
    grouped = done(scene, group(scene, ["fish"], 0))
    assert chain_of(grouped).legs
    inside = Evaluation(grouped)
    assert np.allclose(inside.spots_of(inside.motion("fish")), spots(scene))


def test_pasted_elsewhere_it_brings_its_parts():
    scene = then(riding("a", 40), "b")
    other = Scene(640, 360, length=400, paths=(replace(HOOK, id="a"),))
    there = done(other, paste(other, Taken(scene, ("fish",)), 0))
    rider = next(layer for layer in there.layers if layer.ride)
    chain = there.path(rider.ride.path)
    assert [there.path(leg.path).subpaths for leg in chain.legs] == [LINE.subpaths, HOOK.subpaths]


@pytest.mark.parametrize(
    ("plan", "words"),
    [
        (lambda s, c: nodes.move(s, c, ["g-n1"], (1, 1)), "made of other paths"),
        (lambda s, c: chains.then(s, "fish", c), "made of other paths"),
        (lambda s, c: chains.set_leg(s, c, "g", laps=3), "has no laps"),
        (lambda s, c: chains.set_leg(s, c, "none"), "no such part"),
        (lambda s, c: chains.part(s, "a"), "nothing to part"),
        (lambda s, c: rides.peg_on_node(s, "fish", "peg"), "made of other paths"),
    ],
)
def test_what_does_not_fit_is_refused(plan, words):
    scene = then(riding("a", 40), "b")
    last = scene.ride_of("fish").pegs[-1]
    scene = done(scene, rides.move_peg(scene, "fish", last.id, 90))
    with pytest.raises(EditRefused, match=words):
        plan(scene, chain_of(scene).id)


def test_each_node_is_known_to_be_its_paths():
    chain = chain_of(then(riding("c", 120, 2.0), "a"))
    known = {each.id: each for each in (LINE, HOOK, ROUND)}
    found = parts_of(chain, known)
    assert found == [("c", f"n{i}") for i in (1, 2, 3, 1, 2, 3, 1)] + [("a", "n1"), ("a", "n2")]
    assert parts_of(chain, {"a": LINE})[0] is None
