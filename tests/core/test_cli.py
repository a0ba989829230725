"""The command line as it is typed: what it writes, and how it refuses."""

import csv
import json
import os
import signal
import subprocess
import sys
import time

import pytest
from PIL import Image

from coaster.cli import main
from coaster.scene import codec
from coaster.scene.contents import Shape
from coaster.scene.document import Scene
from tests.core.test_commands import SCENE

SVG = """<svg xmlns="http://www.w3.org/2000/svg" width="300" height="200">
<g transform="translate(10 20)"><path id="way" d="M0 0H200"/><circle cx="50" cy="60" r="40"/></g></svg>"""


@pytest.fixture
def folder(tmp_path):
    (tmp_path / "way.svg").write_text(SVG)
    (tmp_path / "bad.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0Q"/></svg>'
    )
    (tmp_path / "long.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg"><path d="M-9e5 0C9e5 0 9e5 9 9e5 9"/></svg>'
    )
    ride = SCENE.layers[0].__class__("b", "Box", Shape(width=20, height=20))
    (tmp_path / "scene.json").write_text(codec.to_json(Scene(64, 32, length=5, layers=(ride,))))
    (tmp_path / "jumps.json").write_text(codec.to_json(jumping()))
    return tmp_path


def jumping() -> Scene:
    from coaster.motion import easing
    from coaster.motion.ride import Ride
    from coaster.motion.sampling import simple_pegs
    from coaster.scene.document import Layer

    rider = Layer("m", "Manta", Shape(), ride=Ride("r", simple_pegs(0, 4, 1, easing.EVEN)))
    return Scene(64, 32, length=5, layers=(rider,), paths=SCENE.paths)


def coaster(folder, *words: str) -> subprocess.CompletedProcess:
    environment = {k: v for k, v in os.environ.items() if k != "DJANGO_SETTINGS_MODULE"}
    environment["COASTER_DATA"] = str(folder.parent / "data")
    return subprocess.run(
        [sys.executable, "-m", "coaster", *words],
        capture_output=True, text=True, cwd=folder, check=False, timeout=120, env=environment,
    )  # fmt: skip


def test_what_is_written_is_there_whole_as_files_are_made_here_or_not_at_all(folder):
    sample = "sample", "way.svg", "-o"
    assert coaster(folder, *sample, "out.csv").returncode == 0
    (folder / "usual").touch()
    (folder / "room").mkdir()
    modes = {(folder / name).stat().st_mode for name in ("usual", "out.csv")}
    assert len(modes) == 1
    before = sorted(folder.iterdir())
    for out, words in (
        ("no/out.csv", "No such file or directory"),
        ("room", "Is a directory"),
        ("way.svg/out.csv", "Not a directory"),
    ):
        done = coaster(folder, *sample, out)
        assert (done.returncode, done.stderr) == (2, f"coaster sample: {out}: {words}.\n")
    assert sorted(folder.iterdir()) == before


def test_sample_writes_one_row_a_frame(folder):
    done = coaster(
        folder, "sample", "way.svg", "--seconds", "1", "--fps", "5", "--turn", "30", "-o", "out.csv"
    )
    assert (done.returncode, done.stdout) == (0, "")
    rows = list(csv.DictReader((folder / "out.csv").open()))
    assert list(rows[0]) == ["frame", "time", "x", "y", "angle", "travelled", "speed"]
    assert [float(r["x"]) for r in rows] == [10, 60, 110, 160, 210]
    assert {float(r["y"]) for r in rows} == {20}
    assert {float(r["angle"]) for r in rows} == {30}
    assert [float(r["time"]) for r in rows] == [0, 0.2, 0.4, 0.6, 0.8]
    assert float(rows[0]["speed"]) == 250


def test_sample_takes_an_index_and_writes_to_the_screen(folder):
    done = coaster(folder, "sample", "way.svg", "--path", "1", "--seconds", "1", "--fps", "4")
    first = next(csv.DictReader(done.stdout.splitlines()))
    assert (float(first["x"]), float(first["y"]), float(first["angle"])) == pytest.approx(
        (100, 80, 90), abs=1e-3
    )


def run_here(folder, code: str) -> str:
    done = subprocess.run(
        [sys.executable, "-c", code], capture_output=True, text=True, cwd=folder, timeout=120
    )
    assert done.returncode == 0, done.stderr
    return done.stdout


def test_a_short_command_takes_nothing_along_that_it_does_not_need(folder):
    told = run_here(
        folder,
        "import sys\nfrom coaster.cli.main import main\n"
        "assert main(['sample', 'way.svg', '-o', 'out.csv']) == 0\n"
        "print([m for m in ('importlib.metadata', 'pydantic', 'tinycss2', 'skia', 'av') if m in sys.modules])",
    )
    assert told.strip() == "[]"


@pytest.mark.parametrize(("set_by_the_person", "found"), [(None, "1"), ("3", "3")])
def test_a_command_needs_no_threads_for_matrices_unless_told(
    folder, monkeypatch, set_by_the_person, found
):
    monkeypatch.delenv("OPENBLAS_NUM_THREADS", raising=False)
    if set_by_the_person:
        monkeypatch.setenv("OPENBLAS_NUM_THREADS", set_by_the_person)
    told = run_here(
        folder,
        "import os, threading\nfrom coaster.cli.main import main\n"
        "assert main(['sample', 'way.svg', '-o', 'out.csv']) == 0\n"
        "print(os.environ['OPENBLAS_NUM_THREADS'], len(os.listdir('/proc/self/task')))",
    )
    words = told.split()
    assert words[0] == found
    assert (int(words[1]) > 1) == bool(set_by_the_person and os.cpu_count() != 1)


@pytest.mark.parametrize("inside_a_library", [False, True])
def test_who_stops_a_command_that_still_begins_reads_nothing_of_its_inside(
    monkeypatch, capsys, inside_a_library
):
    def stopped(name: str) -> None:
        if inside_a_library:
            raise ImportError("initialization failed") from KeyboardInterrupt()
        raise KeyboardInterrupt

    monkeypatch.setattr(sys.modules["coaster.cli.main"], "_module", stopped)
    assert main(["render", "scene.json", "out.mp4"]) == 130
    assert capsys.readouterr() == ("", "")


@pytest.mark.parametrize("words", [("sample", "way.svg"), ("check", "scene.json"), ("schema",)])
def test_who_reads_no_further_hears_nothing_of_it(folder, words):
    read, write = os.pipe()
    os.close(read)
    done = subprocess.run(
        [sys.executable, "-m", "coaster", *words],
        stdout=write, stderr=subprocess.PIPE, cwd=folder, check=False, timeout=120,
    )  # fmt: skip
    os.close(write)
    assert (done.returncode, done.stderr) == (141, b"")


def test_a_pipe_that_breaks_elsewhere_is_said(monkeypatch, capsys):
    def broken(name: str) -> None:
        raise BrokenPipeError(32, "Broken pipe")

    monkeypatch.setattr(sys.modules["coaster.cli.main"], "_module", broken)
    assert main(["render", "scene.json", "out.mp4"]) == 2
    assert capsys.readouterr().err == "coaster render: Broken pipe.\n"


REFUSED = [
    ("sample", "none.svg"), ("sample", "bad.svg"), ("sample", "long.svg"), ("sample", "way.svg", "--path", "7"),
    ("sample", "way.svg", "--fps", "119.9999"),
    ("sample", "way.svg", "--seconds", "0"), ("sample", "way.svg", "--seconds", "nan"),
    ("sample", "way.svg", "--seconds", "1e9"), ("sample", "way.svg", "--seconds", "1e5", "--fps", "60"),
    ("sample", "way.svg", "--fps", "0"), ("sample", "way.svg", "--pace", "quick"), ("sample", "way.svg", "--laps", "0"),
    ("sample", "way.svg", "--facing", "up"), ("sample", "way.svg", "--facing", "ahead:-1"),
    ("sample", "way.svg", "--gap", "leap"), ("sample", "way.svg", "-o", "no/such/folder.csv"),
    ("sample", "scene.json"), ("render", "scene.json", "out.avi"), ("render", "way.svg", "out.mp4"),
    ("render", "scene.json", "out.mp4", "--frames", "3:9"), ("render", "scene.json", "out.mp4", "--frames", "x"),
    ("render", "scene.json", "out.mp4", "--scale", "-1"), ("render", "scene.json", "out.mp4", "--loops", "0"),
    ("render", "scene.json", "no/out.mp4"), ("render", "scene.json", "out.mp4", "--workers", "many"),
    ("render", "scene.json", "out.mp4", "--as", "gif"), ("render", "scene.json", "out.mp4", "--preset", "message"),
    ("render", "scene.json", "out.mp4", "--preset", "none"), ("render", "scene.json", "out.mp4", "--preset", "bad.svg"),
    ("render", "scene.json", "out.mp4", "--behind", "red"), ("render", "scene.json", "out.png"),
    ("render", "scene.json", "out.mp4", "--behind", "none"), ("render", "scene.json", "out.gif", "--fps", "60"),
    ("render", "scene.json", "out.mp4", "--blur", "400"), ("render", "scene.json", "out.mp4", "--quality", "poor"),
    ("edit", "scene.json", "nothing.known"), ("edit", "none.json"), ("edit", "scene.json", "groups.group", "layer_ids"),
    ("edit", "scene.json", "groups.group", "layer_ids=3", "frame=0"), ("edit", "scene.json", "groups.ungroup", "layer_id=b", "frame=0"),
    ("edit", "scene.json", "groups.ungroup", "layer_id=x", "frame=0"), ("edit", "scene.json", "layers.order", "layer_id=b", "to=sideways"),
    ("edit", "scene.json", "groups.put_into", 'layer_ids=["b"]', "parent=b", "place=0", "frame=0"),
    ("check", "none.json"), ("demo", "--nope"),
    ("demo", "--port", "x"), ("bench", "--nope"), ("melt",), ("sample",), ("sample", "way.svg", "--unknown"),
]  # fmt: skip


@pytest.mark.parametrize("words", REFUSED, ids=" ".join)
def test_what_makes_no_sense_is_one_line_and_exit_2_and_no_file(folder, words):
    before = sorted(p.name for p in folder.iterdir())
    done = coaster(folder, *words)
    assert done.returncode == 2
    assert done.stdout == ""
    assert done.stderr.count("\n") == 1
    assert "Traceback" not in done.stderr
    assert sorted(p.name for p in folder.iterdir()) == before


def test_edit_does_what_the_studio_does(folder):
    words = ("groups.group", 'layer_ids=["b"]', "frame=0", "-o", "out.json")
    assert coaster(folder, "edit", "scene.json", *words).returncode == 0
    after = codec.from_json((folder / "out.json").read_bytes())
    assert [(layer.id, layer.parent) for layer in after.layers] == [("b", "group"), ("group", None)]
    told = coaster(folder, "edit", "scene.json").stdout
    assert "groups.group layer_ids frame\n" in told


def test_render_writes_the_frames_asked_for(folder):
    import av

    done = coaster(
        folder, "render", "scene.json", "out.mp4", "--frames", "1:4", "--loops", "2", "--scale", "2"
    )
    assert done.returncode == 0, done.stderr
    with av.open(str(folder / "out.mp4")) as container:
        assert container.streams.video[0].codec_context.width == 128
        assert sum(1 for _ in container.decode(video=0)) == 6


def test_render_takes_a_preset_and_what_is_chosen_beside_it(folder):
    (folder / "board.json").write_text('{"kind": "gif", "high": 24, "loops": 2}')
    done = coaster(
        folder,
        "render",
        "scene.json",
        "out.gif",
        "--preset",
        "board.json",
        "--loops",
        "1",
        "--returns",
    )
    assert done.returncode == 0, done.stderr
    with Image.open(folder / "out.gif") as image:
        assert image.height == 24
        frames = image.n_frames
    length = codec.from_json((folder / "scene.json").read_bytes()).length
    assert frames == 2 * length - 2
    done = coaster(folder, "render", "scene.json", "one.png", "--frames", "1:2")
    assert done.stdout == "one.png: 1 frame at 30 fps\n"


def test_watched_a_scene_is_rendered_again_when_it_changes(folder):
    scene = folder / "scene.json"
    environment = {k: v for k, v in os.environ.items() if k != "DJANGO_SETTINGS_MODULE"}
    words = [sys.executable, "-m", "coaster", "render", "scene.json", "out.gif", "--watch"]
    with subprocess.Popen(
        words,
        cwd=folder,
        env=environment,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
    ) as process:
        assert process.stdout.readline().startswith("out.gif: ")
        whole = scene.read_bytes()
        # Half of it is saved: that is said, and waited for.
        for step, data in enumerate((whole[:40], whole), 1):
            scene.write_bytes(data)
            later = time.time_ns() + step * 10**9
            os.utime(scene, ns=(later, later))
            if data == whole:
                assert process.stdout.readline().startswith("out.gif: ")
            else:
                while "JSON" not in process.stderr.readline():
                    pass
        process.send_signal(signal.SIGINT)
        assert process.wait(60) == 0


def test_check_says_what_is_not_clean_and_exits_with_1(folder):
    assert coaster(folder, "check", "scene.json").returncode == 0
    done = coaster(folder, "check", "jumps.json")
    assert done.returncode == 1
    assert "Manta" in done.stdout
    assert "jumps" in done.stdout
    report = json.loads(coaster(folder, "check", "jumps.json", "--json").stdout)
    assert report["clean"] is False
    assert report["layers"][0]["position_px"] > 5


def test_alone_it_shows_what_there_is(folder):
    done = coaster(folder)
    assert done.returncode == 0
    assert all(word in done.stdout for word in ("demo", "serve", "render", "doctor"))
