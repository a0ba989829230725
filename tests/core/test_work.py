"""Coaster in scripts: the recipes as they stand, tables of motion out and in, and what is refused."""

import csv
import io
import json
import os
import re
import subprocess
import sys
from pathlib import Path as File

import numpy as np
import pytest
from PIL import Image

import coaster
from coaster.edits import driven
from coaster.errors import CoreError, EditRefused, FormatError
from coaster.export import motion
from coaster.formats import frames
from coaster.motion.thinning import bends
from coaster.render.evaluate import Evaluation

ROOT = File(__file__).resolve().parents[2]
RECIPES = re.findall(r"```python\n(.*?)```", (ROOT / "docs" / "scripts.md").read_text(), re.S)


@pytest.fixture(scope="module")
def folder(tmp_path_factory) -> File:
    """A folder with what the recipes ask for."""
    into = tmp_path_factory.mktemp("scripts")
    y, x = np.mgrid[0:60, 0:120]
    Image.fromarray(np.stack([x * 2, y * 4, 255 - x], axis=-1).astype(np.uint8)).save(into / "manta.png")  # fmt: skip
    turns = np.linspace(0, 5, 200)
    rows = np.stack([turns, 200 + 90 * np.cos(turns), 150 + 60 * np.sin(turns)], axis=1)
    np.savetxt(into / "take.csv", rows, "%.4f", ",", header="t,x,y", comments="")
    return into


def test_the_ten_recipes_run_one_after_the_other(folder):
    assert len(RECIPES) == 10
    # As a program of its own, which finds the command beside it.
    script = "\n".join(RECIPES)
    tools = folder / "bin"
    tools.mkdir()
    (tools / "coaster").write_text(
        f'#!/bin/sh\nexec {sys.executable} -c "from coaster.cli import main; raise SystemExit(main())" "$@"\n'
    )
    (tools / "coaster").chmod(0o755)
    env = os.environ | {"PATH": f"{tools}:{os.environ['PATH']}", "PYTHONPATH": str(ROOT / "src")}
    done = subprocess.run(
        [sys.executable, "-c", script], cwd=folder, env=env, capture_output=True, text=True
    )
    assert done.returncode == 0, done.stderr
    made = {each.name for each in folder.iterdir()}
    wanted = {"buoy.zip", "manta.zip", "driven.zip", "manta.csv", "manta.npz", "manta.mp4"}
    assert wanted | {"manta.gif", "manta.html", "monday.mp4", "tuesday.mp4"} <= made
    assert "clean" in done.stdout


def test_the_import_reads_nothing_that_is_not_asked_for():
    code = "import sys, coaster; print(sorted(m for m in sys.modules if m.startswith('coaster')), 'numpy' in sys.modules)"  # fmt: skip
    env = os.environ | {"PYTHONPATH": str(ROOT / "src")}
    told = subprocess.run([sys.executable, "-c", code], env=env, capture_output=True, text=True)
    assert told.stdout.strip() == "['coaster'] False"
    with pytest.raises(AttributeError, match="no 'sing'"):
        coaster.sing  # noqa: B018 - to ask for it is all


def reef() -> coaster.Work:
    work = coaster.new(400, 300, fps=25, seconds=2)
    run = work.add_path("M50 150C120 20 280 20 350 150S120 280 50 150Z", "Run")
    star = work.add("star", at=(200, 150))
    work.edit("rides.attach", star, run)
    return work


def test_motion_is_what_the_renderer_draws():
    work = reef()
    found = work.motion("Star")
    assert found.rows.shape == (50, len(motion.COLUMNS))
    told = Evaluation(work.scene).motion("star")
    np.testing.assert_allclose(np.stack([found["x"], found["y"]], 1), told.travel.position[:50])
    np.testing.assert_allclose(found.matrices[7, :2, :2].T.ravel(), told.map(7)[:4])
    np.testing.assert_allclose(found["speed"], np.abs(told.travel.rate[:50]) * 25, rtol=1e-2)
    assert found["travelled"][-1] == pytest.approx(told.travel.travelled[49])
    assert (found["visible"] == 1).all()
    work.edit("layers.show_in_time", "star", 10.0, 20.0)
    seen = work.motion("star")
    assert seen["visible"].nonzero()[0].tolist() == list(range(10, 20))


def test_a_layer_at_rest_keeps_its_direction_and_perspective_is_told():
    work = coaster.new(400, 300, seconds=1)
    still = work.add("rectangle", at=(100, 100))
    assert np.ptp(work.motion(still)["heading"]) == 0
    assert (work.motion(still)["speed"] == 0).all()
    work.edit("layers.place", still, {"swing": 40.0})
    matrix = work.motion(still).matrices[0]
    assert matrix[2, 0] != 0
    content = work.layer(still).content
    at = matrix @ [content.width / 2, content.height / 2, 1]
    assert (at[:2] / at[2]) == pytest.approx((100, 100))


def test_csv_json_and_arrays_tell_the_same(tmp_path):
    work = reef()
    found = work.motions()
    rows = list(csv.DictReader(io.StringIO(motion.to_csv(found, work.scene))))
    told = json.loads(motion.to_json(found, work.scene))
    arrays = np.load(io.BytesIO(motion.to_npz(found, work.scene)))
    (layer,) = told["layers"]
    assert (told["fps"], told["length"], layer["name"]) == (25, 50, "Star")
    assert list(arrays["columns"]) == list(motion.COLUMNS)
    for i, name in enumerate(motion.COLUMNS):
        column = [float(row[name]) for row in rows]
        np.testing.assert_allclose(column, layer[name], atol=2e-6)
        np.testing.assert_allclose(column, arrays["star"][:, i], atol=2e-6)


def test_what_was_told_drives_another_layer_the_same_way(tmp_path):
    work = reef()
    table = tmp_path / "star.csv"
    table.write_text(motion.to_csv(work.motions(), work.scene))
    twin = work.add("star", at=(10, 10))
    edit = work.drive(twin, table)
    assert "keys of x, y, turn, scale" in edit.notes[-1]
    one, other = work.motion("star"), work.motion(twin)
    for name, near in (("x", 0.03), ("y", 0.03), ("turn", 0.03), ("scale", 2e-4)):
        np.testing.assert_allclose(other[name], one[name], atol=near)
    # As few keys as that takes.
    assert len(work.layer(twin).keys_of("scale")) == 2
    exact = len(work.layer(twin).keys_of("x"))
    work.drive(twin, table, of="star", tolerance=1.0)
    assert len(work.layer(twin).keys_of("x")) < exact / 2
    np.testing.assert_allclose(work.motion(twin)["x"], one["x"], atol=1.0)
    # A rider is let off its path, which is said; a table without a place leaves it there.
    work.drive("star", {"frame": [0, 49], "opacity": [1, 0]})
    assert work.layer("star").ride is not None
    assert "no path any more" in work.drive("star", table, of="star").notes[0]


@pytest.mark.parametrize(
    ("columns", "words"),
    [
        ({"x": [1, 2]}, "neither a column frame nor"),
        ({"frame": [0, 0], "x": [1, 2]}, "not in order"),
        ({"frame": [0, 1], "colour": [1, 2]}, "no column that Star has"),
        ({"frame": [0, 1], "opacity": [1, 2]}, "not 0 to 1"),
        ({"frame": [0, 1], "x": [1]}, "not equally long"),
        ({"frame": [], "x": []}, "no frame"),
        ({"frame": [0, 1], "x": [1, float("nan")]}, "values that are not"),
        ({"frame": range(6000), "x": [i % 2 for i in range(6000)]}, "may have 5,000"),
    ],
)
def test_a_table_that_cannot_drive_is_refused_and_nothing_changes(columns, words):
    work = reef()
    before = work.scene
    with pytest.raises(EditRefused, match=words):
        work.drive("star", columns)
    assert work.scene is before


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "names its columns"),
        ("frame,x\n", "holds no frame"),
        ("frame,x\n0,here\n", "not all are numbers"),
        ("frame,x\n0,nan\n", "not all are numbers"),
        ("layer,frame,x\na,0,1\nb,0,1\n", r"several layers \(a, b\)"),
        ("layer,frame,x\na,0,1\n", "of no layer 'c'"),
        ("{", "no JSON"),
        ("[1, 2]", "an object of columns"),
        ('{"frame": [0, 1], "x": [1]}', "not equally long"),
        ('{"layers": [{"layer": "a", "x": [1]}]}', "of no layer 'c'"),
    ],
)
def test_what_is_no_table_is_refused(text, words):
    with pytest.raises(FormatError, match=words):
        frames.read(text, "c" if "'c'" in words else "")


def test_samples_between_which_lines_are_near_are_left_out():
    times = np.array([0.0, 1, 2, 4, 8, 9])
    column = np.array([0.0, 10, 20, 40, 80, 0])[:, None]
    assert bends(times, column, 1e-9) == [0, 4, 5]
    assert bends(times, column, 1e3) == [0, 5]
    assert bends(times[:1], column[:1], 0.1) == [0]


def test_what_cannot_be_done_is_refused_and_the_scene_is_as_it_was(tmp_path):
    work = reef()
    before = work.scene
    for plan, values in (("rides.attach", ("star", "nowhere")), ("rides.fly", ()), ("os.system", ("x",)), ("layers.place", ("star", 3))):  # fmt: skip
        with pytest.raises((CoreError, FormatError)):
            work.edit(plan, *values)
    for wrong in ({"fps": 0}, {"seconds": 0}, {"width": 3}):
        with pytest.raises(CoreError):
            coaster.new(**{"width": 400, "height": 300} | wrong)
    for wrong in ({"high": -3}, {"speed": 2}, {"fps": "quick"}):
        with pytest.raises(CoreError):
            work.render(tmp_path / "out.mp4", **wrong)
    assert list(tmp_path.iterdir()) == []
    with pytest.raises(FormatError, match="no frame 50"):
        work.picture(50)
    with pytest.raises(CoreError, match="could not be read"):
        coaster.smooth(tmp_path / "none.csv")
    for name in ("none.zip", "none.json"):
        with pytest.raises((OSError, CoreError), match="none"):
            coaster.open(tmp_path / name)
    assert work.scene is before
    assert "layers.place" in coaster.plans()


def test_a_scene_is_saved_with_its_pictures_either_way(folder, tmp_path):
    work = coaster.new(200, 100, seconds=1)
    work.add_picture(folder / "manta.png", at=(50, 50))
    for name in ("one.zip", "sub/two.json"):
        out = tmp_path / name
        out.parent.mkdir(exist_ok=True)
        again = coaster.open(work.save(out))
        assert again.scene == work.scene
        np.testing.assert_array_equal(again.picture(0), work.picture(0))
        again.close()


def test_the_plan_that_drives_is_one_of_the_plans():
    assert coaster.plans()["driven.drive"] is driven.drive
