"""Series: fields of a scene, rows that fill them in, and what is wrong with them."""

import subprocess
import sys
from dataclasses import replace
from pathlib import Path as File

import numpy as np
import pytest
from PIL import Image

import coaster
from coaster.cli import main
from coaster.commands import applied
from coaster.edits import series
from coaster.edits.layers import delete_layers
from coaster.errors import CoreError, EditRefused, FormatError
from coaster.formats import rows
from coaster.scene import codec
from coaster.scene.fields import SceneField

DAYS = "name,Day,Colour,Size\nmon,Monday,#e4572e,80\ntue,Tuesday,#2a7590,120\n"


def board(folder: File) -> coaster.Work:
    """A text, a rectangle, a picture and a path, with a field of each."""
    work = coaster.new(320, 180, fps=10, seconds=0.8)
    words = work.add("text", at=(160, 40))
    box = work.add("rectangle", at=(160, 110))
    Image.fromarray(np.full((40, 80, 3), 90, np.uint8)).save(folder / "fish.png")
    work.add_picture(folder / "fish.png", at=(40, 140))
    run = work.add_path("M20 20L300 20", "Run")
    assert (words, box, run) == ("new-text", "rectangle", "run")
    for name, of, what in (
        ("Day", words, "text"), ("Colour", box, "colour"), ("Size", box, "scale"),
        ("Fish", "fish", "picture"), ("Course", run, "shape"),
    ):  # fmt: skip
        work.edit("series.name_field", name, of, what)
    return work


def test_fields_are_filled_in_by_what_they_are(tmp_path):
    work = board(tmp_path)
    values = {"Day": "Friday", "Colour": "#102030", "Size": "50", "Course": "M0 0L50 90"}
    after = series.filled(work.scene, values)
    assert after.layer("new-text").content.text == "Friday"
    box = after.layer("rectangle")
    assert (box.content.fill, box.transform.scale) == ("#102030", (0.5, 0.5))
    assert after.path("run").nodes()[1].position == (50, 90)
    assert codec.from_data(codec.to_data(after)) == after
    assert series.filled(work.scene, dict.fromkeys(("Colour", "Size", "Fish", "Course"), " ")) == work.scene  # fmt: skip
    # A field may have another name, and go; one of what is gone fills in nothing.
    named = applied(
        work.scene, series.name_field(work.scene, "Day", "new-text", "opacity").commands
    )
    assert [f.name for f in named.fields] == ["Colour", "Size", "Fish", "Course", "Day"]
    less = applied(named, series.remove_field(named, "Day").commands)
    assert len(less.fields) == 4
    gone = applied(work.scene, delete_layers(work.scene, ["new-text"]).commands)
    with pytest.raises(CoreError, match="text"):
        series.filled(gone, {"Day": "x"})


def test_tints_are_filled_in_and_what_is_of_a_ride_is_refused(tmp_path):
    work = board(tmp_path)
    work.edit("shades.set_tint", "rectangle", {"colours": ("#ff0000", "#0000ff")})
    work.edit("rides.attach", "rectangle", "run")
    for name, what in (("Over", "tint_2"), ("Amount", "tinting"), ("Shift", "shift")):
        work.edit("series.name_field", name, "rectangle", what)
    after = series.filled(work.scene, {"Over": "#00ff00", "Amount": "25"})
    tint = after.layer("rectangle").tint
    assert (tint.colours, tint.amount) == (("#ff0000", "#00ff00"), 0.25)
    with pytest.raises(CoreError, match="of a ride"):
        series.filled(work.scene, {"Shift": "10"})


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"Days": "x"}, "no field 'Days'; the scene has Day"),
        ({"Size": "large"}, "'large' is not a number"),
        ({"Size": "1e9"}, "Size: 1e9 is outside"),
        ({"Colour": "reddish"}, "olour"),
        ({"Fish": "none.png"}, "needs a picture"),
        ({"Course": "hello"}, "path"),
    ],
)
def test_what_cannot_be_filled_in_is_said(tmp_path, values, words):
    with pytest.raises(CoreError, match=words):
        series.filled(board(tmp_path).scene, values)


@pytest.mark.parametrize(
    ("of", "what"),
    [("new-text", "picture"), ("rectangle", "size"), ("none", "text"), ("new-text", "shape")],
)
def test_only_what_is_there_can_be_a_field(tmp_path, of, what):
    with pytest.raises(CoreError):
        series.name_field(board(tmp_path).scene, "X", of, what)
    with pytest.raises(ValueError, match="nothing called"):
        SceneField("X", "a", "nonsense")
    scene = board(tmp_path).scene
    with pytest.raises(ValueError, match="one name"):
        replace(scene, fields=(*scene.fields, scene.fields[0]))


def test_rows_are_read_as_tables_come():
    for text in (DAYS, DAYS.replace(",", ";"), "\ufeff" + DAYS.replace("\n", "\r\n") + ",,,\n\n"):
        found = rows.read(text)
        assert [row.values["Day"] for row in found] == ["Monday", "Tuesday"]
    assert rows.file_name("{name}-{row}.mp4", found[1]) == "tue-2.mp4"
    slashes = replace(found[0], values={"name": " a/b: c "})
    assert rows.file_name("{name}.mp4", slashes) == "a-b- c.mp4"


def test_rows_are_text_as_files_have_it_and_never_guessed(tmp_path, capsys):
    table = DAYS.replace("Monday", "Grüße")
    for encoding in ("utf-8", "utf-8-sig", "utf-16"):
        assert rows.decoded(table.encode(encoding)) == table
    for encoding in ("cp1252", "utf-16-le"):
        with pytest.raises(FormatError, match=r"line \d has a sign that is none there"):
            rows.decoded(table.encode(encoding) + b"\xff")
    (tmp_path / "rows.csv").write_bytes(table.encode("cp1252"))
    scene = str(board(tmp_path).save(tmp_path / "board.zip"))
    out = str(tmp_path / "{name}.gif")
    assert main(["render", scene, out, "--rows", str(tmp_path / "rows.csv")]) == 2
    assert "save the table as CSV in UTF-8" in capsys.readouterr().err
    assert not list(tmp_path.glob("*.gif"))
    with pytest.raises(FormatError, match="no CSV: field larger"):
        rows.read("name\n" + "a" * 200_000)


@pytest.mark.parametrize(
    ("text", "words"),
    [("", "names the columns"), ("a,a\n1,2\n", "names the columns"), ("a\n", "no row"), ("a\n1,2\n", "Row 1 has more")],
)  # fmt: skip
def test_what_are_no_rows_is_refused(text, words):
    with pytest.raises(FormatError, match=words):
        rows.read(text)


def run(folder: File, table: str, out: str = "out/{name}.gif") -> int:
    (folder / "rows.csv").write_text(table)
    scene = str(board(folder).save(folder / "board.zip"))
    return main(["render", scene, str(folder / out), "--rows", str(folder / "rows.csv")])


def test_each_row_becomes_a_file_of_its_own(tmp_path, capsys):
    Image.fromarray(np.full((20, 20, 3), (200, 0, 0), np.uint8)).save(tmp_path / "crab.png")
    table = DAYS.replace("Size", "Size,Fish").replace("80\n", "80,fish.png\n").replace("120\n", "120,crab.png\n")  # fmt: skip
    assert run(tmp_path, table) == 0
    assert "2 files" in capsys.readouterr().err
    assert sorted(each.name for each in (tmp_path / "out").iterdir()) == ["mon.gif", "tue.gif"]
    frames = []
    for name in ("mon", "tue"):
        with Image.open(tmp_path / "out" / f"{name}.gif") as image:
            frames.append(np.asarray(image.convert("RGB")).astype(int))
    assert np.abs(frames[0][110, 160] - (0xE4, 0x57, 0x2E)).max() < 12
    assert np.abs(frames[1][110, 160] - (0x2A, 0x75, 0x90)).max() < 12
    assert frames[1][140, 40, 0] > 180 > 110 > frames[0][140, 40, 0]


@pytest.mark.parametrize(
    ("table", "out", "words"),
    [
        (
            DAYS.replace("80", "big").replace("120", "1e9"),
            "{name}.gif",
            ("Row 1: Size", "Row 2: Size"),
        ),
        (DAYS.replace("tue", "mon"), "{name}.gif", ("Row 2: mon.gif is the file of row 1",)),
        (DAYS, "all.gif", ("Row 2: all.gif is the file of row 1",)),
        (DAYS, "{title}.gif", ("no column 'title'",)),
        ("name,Title\na,b\n", "{name}.gif", ("No column of the rows is a field", "Day, Fish")),
        ("name,Fish\na,none.png\n", "{name}.gif", ("no picture 'none.png'",)),
    ],
)
def test_the_faults_of_all_rows_are_said_before_anything_is_rendered(
    tmp_path, capsys, table, out, words
):
    assert run(tmp_path, table, f"out/{out}") == 2
    said = capsys.readouterr().err
    for each in words:
        assert each.replace("Day, Fish", "Colour, Course, Day, Fish, Size") in said
    assert not (tmp_path / "out").exists()


def test_a_script_fills_them_in_too(tmp_path):
    work = board(tmp_path)
    work.fill({"Day": "Sunday"})
    assert work.layer("new-text").content.text == "Sunday"
    with pytest.raises(EditRefused):
        work.fill({"Noon": "x"})


def test_the_command_says_what_it_wants():
    told = subprocess.run(
        [sys.executable, "-c", "from coaster.cli import main; main(['render', '--help'])"],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    assert "--rows" in told.stdout
