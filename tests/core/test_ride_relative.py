"""Rides that begin at the layer's own place."""

from dataclasses import replace

import numpy as np
import pytest

from coaster.commands import applied
from coaster.edits import layers, rides, transfers
from coaster.edits.keys import Moment
from coaster.errors import EditRefused
from coaster.render import places, seam
from coaster.render.evaluate import Evaluation
from coaster.render.frames import Frames
from coaster.scene.contents import Group, Shape
from coaster.scene.document import Layer, Scene, Transform
from tests.core.test_render import RING, loop

LENGTH = 60


def scene_of(*, relative: bool = True, at=(10.0, 170.0), **more) -> Scene:
    ride = replace(loop(RING.id, LENGTH), relative=relative)
    box = Layer("box", "Box", Shape(width=20, height=10), Transform(at), ride=ride, **more)
    return Scene(240, 200, length=LENGTH, layers=(box,), paths=(RING,))


def spots(scene: Scene) -> np.ndarray:
    return places.spots_of(scene, "box")


def test_the_same_way_is_gone_from_the_layers_own_place():
    there, plain = spots(scene_of()), spots(scene_of(relative=False))
    assert there[0] == pytest.approx([10, 170])
    assert there - there[0] == pytest.approx(plain - plain[0], abs=1e-9)
    evaluation = Evaluation(scene_of())
    assert seam.broken(evaluation) == []
    one = evaluation.motions_of(evaluation.scene.layers, Frames.one(17))[0]
    assert one.stand.spots[0] == pytest.approx(there[17])
    headings = [Evaluation(scene_of(relative=on)).motion("box").travel.heading for on in (0, 1)]
    assert np.cos(headings[0]) == pytest.approx(np.cos(headings[1]))


def test_in_a_turned_group_it_goes_as_the_path_is_seen_from_there():
    inside = replace(scene_of().layers[0], parent="pod", transform=Transform((0, 0)))
    pod = Layer("pod", "Pod", Group(), Transform((100, 50), turn=90.0))
    scene = replace(scene_of(), layers=(inside, pod))
    there, plain = spots(scene), spots(scene_of(relative=False))
    assert there[0] == pytest.approx([100, 50])
    # The path is in no group: as long as it is, it is seen as it lies.
    assert there - there[0] == pytest.approx(plain - plain[0], abs=1e-6)


def test_turned_on_it_stays_is_dragged_as_a_whole_and_goes_back_to_its_path():
    plain = scene_of(relative=False)
    scene = applied(plain, rides.ride_from(plain, "box", own=True).commands)
    assert spots(scene) == pytest.approx(spots(plain), abs=1e-3)
    moved = applied(scene, layers.move_to(scene, "box", (200, 30), Moment(20, pin=False)).commands)
    assert spots(moved)[20] == pytest.approx([200, 30], abs=1e-3)
    assert spots(moved) - spots(moved)[0] == pytest.approx(spots(scene) - spots(scene)[0])
    nudged = layers.nudge(moved, ["box"], (5, -3), Moment(0, pin=False))
    assert spots(applied(moved, nudged.commands))[0] == pytest.approx(spots(moved)[0] + [5, -3])
    typed = layers.place(moved, "box", {"x": 30.0, "scale": 2.0}, Moment(5, pin=True))
    after = applied(moved, typed.commands).layer("box")
    assert after.transform.position[0] == 30.0
    assert [track.property for track in after.keys] == ["scale"]
    back = applied(moved, rides.ride_from(moved, "box", own=False).commands)
    assert spots(back) == pytest.approx(spots(plain))
    with pytest.raises(EditRefused, match="turn Pin off"):
        transfers.pin(moved, "box", 20, (100, 60))
    baked = applied(moved, transfers.bake_ride(moved, "box", 0, None).commands)
    assert spots(baked) == pytest.approx(spots(moved), abs=0.01)
    stood = applied(moved, transfers.detach(moved, "box", 20).commands)
    assert spots(stood)[0] == pytest.approx(spots(moved)[20], abs=0.01)
    with pytest.raises(EditRefused, match="set by the ride"):
        layers.move_to(back, "box", (0, 0), Moment(0, pin=False))
