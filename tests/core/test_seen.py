"""What is told of a layer is how it is at the frame one looks at: when it is shown, and by its keys."""

import json
import struct
from dataclasses import replace

import numpy as np
import pytest

from coaster.commands import applied
from coaster.edits import nodes
from coaster.formats import pathdata
from coaster.geometry.path import Path
from coaster.motion import easing
from coaster.motion.keys import Key
from coaster.motion.letters import Letters
from coaster.motion.ride import Ride
from coaster.motion.sampling import simple_pegs
from coaster.render import stage
from coaster.scene.contents import Shape, Text
from coaster.scene.document import Layer, Scene
from coaster.scene.properties import Track
from tests.core.test_commands import SCENE


def told(scene: Scene) -> tuple[dict, np.ndarray]:
    """Return the header and the numbers of what the stage is sent."""
    packed = stage.pack(scene)
    (size,) = struct.unpack_from("<I", packed, 8)
    return json.loads(packed[12 : 12 + size]), np.frombuffer(packed[12 + size :], "<f4")


def test_the_stage_draws_a_layer_only_while_it_is_shown():
    layer = Layer("a", "A", Shape(), shown=(3.0, 6.0))
    header, numbers = told(Scene(length=10, layers=(layer,)))
    start, count = header["layers"][0]["opacities"]
    strong = np.flatnonzero(numbers[start : start + count])
    assert list(strong[strong < 10]) == [3, 4, 5]


def test_a_rider_that_passes_gaps_unseen_is_in_no_frame_between_the_pieces():
    ride = Ride("way", simple_pegs(0, 10, 1, easing.EVEN), gap="hide")
    way = Path("way", "Way", pathdata.subpaths(pathdata.runs("M0 0H40M60 0H100")))
    scene = Scene(length=11, layers=(Layer("dot", "Dot", Shape(), ride=ride),), paths=(way,))
    header, numbers = told(scene)
    start, _ = header["layers"][0]["opacities"]
    assert numbers[start : start + 11].tolist() == [1, 1, 1, 1, 1, 0, 1, 1, 1, 1, 1]


def test_a_node_lands_on_a_keyed_layer_where_it_is_seen():
    keys = tuple(Track(name, (Key("k", 0.0, 10.0), Key("l", 20.0, 50.0))) for name in ("x", "y"))
    scene = replace(SCENE, layers=(*SCENE.layers, Layer("a", "A", Shape(), keys=keys)))
    node = scene.path("r").nodes()[0].id
    after = applied(scene, nodes.land(scene, "r", [node], "a", 10.0).commands)
    assert after.path("r").nodes()[0].position == pytest.approx((30.0, 30.0), abs=1e-6)


def test_the_seam_that_is_told_is_also_that_of_letters():
    """The text itself is in no frame; its letters come onto the path, and leave it at the end."""
    ride = Ride("way", simple_pegs(0, 10, 1, easing.EVEN), letters=Letters(), beyond="hide")
    way = Path("way", "Way", pathdata.subpaths(pathdata.runs("M20 50H180")))
    one = Layer("one", "One", Text("Six", size=20), ride=ride)
    scene = Scene(200, 100, length=10, layers=(one,), paths=(way,))
    seam = told(scene)[0]["layers"][0]["seam"]
    assert not seam["clean"]
    assert "opacity" in seam["reasons"][0]
    round_again = replace(one, ride=replace(ride, beyond="round"))
    assert told(replace(scene, layers=(round_again,)))[0]["layers"][0]["seam"]["clean"]
