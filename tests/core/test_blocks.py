"""Long scenes are told by the block: each frame as all frames together say it."""

import json
from dataclasses import replace

import numpy as np
import pytest

from coaster.errors import UnknownId
from coaster.motion.keys import Key
from coaster.motion.ride import AtPercent, Facing, Peg, Ride
from coaster.render import stage
from coaster.render.evaluate import Evaluation
from coaster.scene.contents import Group, Shape
from coaster.scene.document import Layer, Scene
from coaster.scene.properties import Track
from tests.core.test_commands import SCENE

LENGTH = 3_000


def keys(*pairs: tuple[float, object]) -> tuple[Key, ...]:
    return tuple(Key(f"k{i}", time, value) for i, (time, value) in enumerate(pairs))


def long_scene() -> Scene:
    """A rider that rests for long, keys of every sort, and a member of a moving group."""
    stops = [(500.0, 0.0), (900.0, 60.0), (2_400.0, 60.0), (2_700.0, 10.0)]
    pegs = tuple(Peg(f"p{i}", time, AtPercent(at)) for i, (time, at) in enumerate(stops))
    path = SCENE.paths[0]
    ride = Ride(path.id, pegs, Facing("along", keep_upright=True))
    grown = (
        Track("opacity", keys((40, 1.0), (2_000, 0.2))),
        Track("size_x", keys((0, 10.0), (2_900, 90.0))),
        Track("colour", keys((0, "#000000"), (900, "#ffffff"))),
    )
    group = Layer("g", "G", Group((0.0, 0.0)), keys=(Track("x", keys((0, 0.0), (3_000, 500.0))),))
    layers = (
        Layer("r", "R", Shape(), ride=ride),
        replace(Layer("s", "S", Shape(), ride=ride), ride=replace(ride, settle_s=0.4)),
        Layer("m", "M", Shape(), parent="g", keys=grown),
        group,
    )
    return Scene(length=LENGTH, layers=layers, paths=(path,))


def unpacked(data: bytes):
    size = int.from_bytes(data[8:12], "little")
    numbers = np.frombuffer(data[12 + size :], "<f4")
    head = json.loads(data[12 : 12 + size])
    return head, lambda block: numbers[block[0] : block[0] + block[1]]


@pytest.mark.parametrize("frame", [0, 1_234, LENGTH])
def test_the_block_round_the_playhead_comes_first_with_some_of_the_rest(frame):
    scene = long_scene()
    head, read = unpacked(stage.pack(scene, frame=frame))
    frames = read(head["frames"]).astype(int)
    begin = frame // stage.BLOCK * stage.BLOCK
    block = set(range(begin, min(begin + stage.BLOCK, LENGTH + 1)))
    assert block | {0, LENGTH - 1, LENGTH} <= set(frames)
    assert len(frames) <= stage.BLOCK + stage.SAMPLES + 3
    assert np.diff(frames).min() == 1
    assert np.diff(frames).max() <= LENGTH / stage.SAMPLES
    for entry, motion in zip(head["layers"], Evaluation(scene).motions, strict=True):
        found = read(entry["maps"]).reshape(-1, 6)
        np.testing.assert_allclose(found, motion.maps[frames], atol=2e-4)


def test_blocks_are_what_all_frames_say():
    scene = long_scene()
    head, read = unpacked(stage.pack_blocks(scene, 7, 3, ["r", "s", "m"]))
    frames = np.arange(7 * stage.BLOCK, 10 * stage.BLOCK)
    assert (head["first"], head["end"]) == (frames[0], frames[-1] + 1)
    for entry in head["layers"]:
        motion = Evaluation(scene).motion(entry["id"])
        np.testing.assert_allclose(
            read(entry["maps"]).reshape(-1, 6), motion.maps[frames], atol=2e-4
        )
    ride, _, member = head["layers"]
    rows = read(ride["ride"]["rows"]).reshape(-1, len(stage.COLUMNS))
    travel = Evaluation(scene).motion("r").travel
    np.testing.assert_allclose(rows[:, 4], travel.travelled[frames], atol=2e-4)
    motion = Evaluation(scene).motion("m")
    np.testing.assert_allclose(read(member["opacities"]), motion.opacities[frames], atol=1e-6)
    faces, which = member["faces"]["list"], read(member["faces"]["which"]).astype(int)
    widths = [faces[face]["box"][2] for face in which]
    np.testing.assert_allclose(widths, [motion.faces.at(f).box[2] for f in frames], atol=1e-6)
    assert len(read(member["keys"][2]["colours"])) == 4 * len(frames)


def test_a_block_of_one_frame_tells_all_that_changes():
    scene = replace(long_scene(), length=20 * stage.BLOCK)
    head, read = unpacked(stage.pack_blocks(scene, 20, 4, ["m"]))
    (member,) = head["layers"]
    assert head["end"] - head["first"] == 1
    assert len(read(member["maps"])) == 6
    assert len(read(member["faces"]["which"])) == 1


def test_the_last_block_ends_with_the_scene_and_there_is_nothing_beyond():
    scene = long_scene()
    head, read = unpacked(stage.pack_blocks(scene, LENGTH // stage.BLOCK, 8, ["r"]))
    assert (head["first"], head["end"]) == (LENGTH // stage.BLOCK * stage.BLOCK, LENGTH + 1)
    assert len(read(head["layers"][0]["maps"])) == 6 * (head["end"] - head["first"])
    head, _ = unpacked(stage.pack_blocks(scene, 400, 8, ["r"]))
    assert head["layers"] == []
    with pytest.raises(UnknownId):
        stage.pack_blocks(scene, 0, 1, ["nobody"])


def test_a_short_scene_is_told_at_once():
    head, _ = unpacked(stage.pack(replace(long_scene(), length=200)))
    assert head["frames"] is None
