"""Rides that begin when another one does something, whatever is done to that."""

from dataclasses import replace

import pytest

from coaster.commands import applied
from coaster.commands.fields import set_ride
from coaster.commands.order import with_order
from coaster.edits import order, rides
from coaster.edits.edit import Edit
from coaster.edits.layers import delete_layers
from coaster.edits.scene import SceneChange, change
from coaster.errors import EditRefused
from coaster.motion.rate import Rate
from coaster.motion.ride import AtPercent, Peg, Ride
from coaster.scene.contents import Shape
from coaster.scene.document import Layer, Scene
from tests.core.test_traces import CURVE, path_from


def rider(name: str, begin: float, end: float) -> Layer:
    pegs = (Peg("a", begin, AtPercent(0)), Peg("b", end, AtPercent(100)))
    return Layer(name, name.capitalize(), Shape(width=9, height=9), ride=Ride("way", pegs))


def three() -> Scene:
    layers = (rider("one", 0, 20), rider("two", 5, 15), rider("three", 7, 9))
    path = path_from("way", "Way", CURVE)
    return Scene(400, 400, length=90, layers=layers, paths=(path,))


def done(scene: Scene, edit: Edit) -> Scene:
    return applied(scene, with_order(scene, edit.commands)[0])


def starts(scene: Scene) -> list[float]:
    return [layer.ride.start for layer in scene.layers]


def in_a_row() -> Scene:
    scene = done(three(), order.follow(three(), "two", "one", "ends", 3))
    return done(scene, order.follow(scene, "three", "two", "ends"))


def test_they_begin_after_one_another_and_go_on_doing_so():
    scene = in_a_row()
    assert starts(scene) == [0, 23, 33]
    longer = done(scene, rides.retime(scene, "one", None, 40, None))
    assert starts(longer) == [0, 43, 53]
    assert longer.layer("three").ride.end == 55
    again = done(longer, rides.retime(longer, "one", 10, None, None))
    assert starts(again) == [10, 53, 63]


def test_one_that_is_moved_itself_follows_so_much_later():
    scene = in_a_row()
    moved = done(scene, rides.retime(scene, "two", 28, None, None))
    assert starts(moved) == [0, 28, 38]
    assert moved.layer("two").ride.after.frames == 8
    sooner = done(moved, order.later(moved, "two", -5))
    assert starts(sooner) == [0, 15, 25]
    free = done(sooner, order.by_itself(sooner, "two"))
    assert starts(done(free, rides.retime(free, "one", 30, None, None))) == [30, 15, 25]


def test_with_another_one_and_as_it_passes_a_node():
    scene = done(three(), order.follow(three(), "two", "one", "starts", 2))
    assert starts(scene)[1] == 2
    last = three().paths[0].nodes()[-1].id
    passing = done(three(), order.follow(three(), "two", "one", "passes", 0, last))
    assert starts(passing)[1] == 20
    late = done(passing, rides.retime(passing, "one", None, 50, None))
    assert starts(late)[1] == 50


def test_rings_and_those_who_begin_nothing_are_refused_in_words():
    scene = in_a_row()
    for other, words in (("one", "itself"), ("three", "Three, which follows it")):
        with pytest.raises(EditRefused, match=f"cannot begin after {words}"):
            order.follow(scene, "one", other, "ends")
    still = replace(scene.layer("three"), ride=None)
    with pytest.raises(EditRefused, match="rides no path"):
        order.follow(scene.with_layer(still), "one", "three", "ends")
    with pytest.raises(EditRefused, match="never comes by"):
        order.follow(three(), "two", "one", "passes", 0, "nowhere")
    with pytest.raises(EditRefused, match="follows no other"):
        order.later(three(), "one", 3)


def test_when_the_one_it_follows_is_gone_it_stays_and_that_is_said():
    scene = in_a_row()
    edit = delete_layers(scene, ["one"], 0)
    steps, notes = with_order(scene, edit.commands)
    after = applied(scene, steps)
    assert starts(after) == [23, 33]
    assert after.layer("two").ride.after is None
    assert notes == ("Two begins by itself now: what it followed is gone.",)
    ring = set_ride("one", after=replace(scene.layer("two").ride.after, layer="three"))
    # A ring that was made by other means ends: nothing is moved for good.
    assert with_order(scene, [ring])[0]


def test_another_rate_keeps_what_follows_what_in_seconds():
    scene = in_a_row()
    after = done(scene, change(scene, SceneChange(rate=Rate(60))))
    assert starts(after) == [0, 46, 66]
    assert after.layer("two").ride.after.frames == 6
