"""What is made of a render stays beside its file until that is whole, however it was ended."""

import fcntl
import os
import subprocess
import sys
import time
from dataclasses import replace
from pathlib import Path

import pytest

from coaster.export.chunks import CHUNK
from coaster.export.kept import LOCK, kept_beside, parts_in
from coaster.export.orders import Choices
from coaster.media.writers import KINDS
from coaster.scene import codec
from coaster.scene.contents import Picture
from coaster.scene.document import Layer, Scene

MP4 = KINDS["mp4"]
LONG = Scene(64, 36, length=CHUNK + 40)


def beside(out: Path, scene: Scene = LONG, **choices):
    order = Choices(**choices).order(scene)
    return kept_beside(out, scene, out.parent, order, MP4)


def ended(out: Path, scene: Scene = LONG, **choices) -> Path:
    """Begin a render and end it with one chunk made; return where that is."""
    made = list[Path]()

    def begin() -> None:
        with beside(out, scene, **choices) as room:
            (room / "000000-000060.mp4").write_bytes(b"made")
            made.append(room)
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        begin()
    return made[0]


def test_the_same_render_goes_on_and_leaves_nothing_once_it_is_whole(tmp_path):
    out = tmp_path / "out.mp4"
    room = ended(out)
    with beside(out) as again:
        assert again == room
        assert parts_in(again) == 1
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize("change", ["scene", "order", "picture"])
def test_another_render_to_the_same_file_begins_anew_and_clears_away(tmp_path, change):
    (tmp_path / "fish.png").write_bytes(b"one")
    pictured = replace(LONG, layers=(Layer("fish", "Fish", Picture("fish.png", 8, 4)),))
    out = tmp_path / "out.mp4"
    room = ended(out, pictured)
    if change == "picture":
        (tmp_path / "fish.png").write_bytes(b"two")
    scene = replace(pictured, background="#123456") if change == "scene" else pictured
    with beside(out, scene, **({"loops": 2} if change == "order" else {})) as other:
        assert other != room
        assert parts_in(other) == 0
        assert not room.exists()


def test_what_another_process_makes_is_left_to_it(tmp_path):
    out = tmp_path / "out.mp4"
    room = ended(out)
    with (room / LOCK).open() as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        with beside(out) as mine:
            assert mine is None
        with beside(out, loops=2) as other:
            assert parts_in(other) == 0
    assert parts_in(room) == 1


def test_a_render_of_one_piece_and_one_into_nowhere_keep_nothing(tmp_path):
    with beside(tmp_path / "out.mp4", replace(LONG, length=CHUNK)) as room:
        assert room is None
    with beside(tmp_path / "gone" / "out.mp4") as room:
        assert room is None
    assert list(tmp_path.iterdir()) == []


def test_a_render_that_was_killed_is_gone_on_with_to_the_byte(tmp_path):
    (tmp_path / "scene.json").write_text(codec.to_json(replace(LONG, width=1280, height=720)))
    words = [sys.executable, "-m", "coaster", "render", "scene.json", "--loops", "6"]

    def run(out: str) -> subprocess.Popen:
        return subprocess.Popen(
            [*words, out], cwd=tmp_path, start_new_session=True, stdout=subprocess.DEVNULL
        )

    with run("killed.mp4") as process:
        while process.poll() is None and not any(tmp_path.glob(".killed.mp4.*.parts/0*.mp4")):
            time.sleep(0.005)
        os.killpg(process.pid, 9)
    (room,) = tmp_path.glob(".killed.mp4.*.parts")
    assert any(room.glob("0*.mp4"))
    for out in ("killed.mp4", "whole.mp4"):
        with run(out) as process:
            assert process.wait() == 0
    assert (tmp_path / "killed.mp4").read_bytes() == (tmp_path / "whole.mp4").read_bytes()
    assert {file.name for file in tmp_path.iterdir()} == {"scene.json", "killed.mp4", "whole.mp4"}
