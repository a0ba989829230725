"""Series in the studio: rows that are looked at, and rendered."""

import html
import re

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from coaster.scene import codec
from coaster.scene.document import Scene
from studio.renders.models import Render

ROWS = "name,Words,Tint\nmon,Monday tide,#e4572e\ntue,Tuesday tide,#2a7590\n"


@pytest.fixture
def client(client_of, anna):
    return client_of(anna)


@pytest.fixture
def series(post, scene):
    """A scene with two fields."""
    assert post(form="field", of="text:words").status_code == 200
    assert post(form="field", of="colour:box", title="Tint").status_code == 200
    return scene


def test_rows_are_looked_at_with_a_picture_of_each(client, series):
    page = client.get(f"/scenes/{series.pk}/series").content.decode()
    assert "name,Words,Tint" in page
    answer = client.post(f"/scenes/{series.pk}/series/look", {"rows": ROWS})
    text = answer.content.decode()
    assert answer.status_code == 200
    assert len(re.findall("data:image/webp", text)) == 2
    assert "Monday tide" in text
    assert "Render 2 films" in text
    assert not Render.objects.exists()


def test_rows_of_a_file_are_put_in_place_of_those_that_are_typed(client, series):
    def sent(data: bytes | None):
        files = {} if data is None else {"file": SimpleUploadedFile("days.csv", data)}
        return client.post(f"/scenes/{series.pk}/series/read", {"rows": "typed"} | files)

    table = ROWS.replace(",", ";").replace("Tuesday", "Dienstag früh")
    answer = sent(table.encode("utf-16"))
    assert answer.status_code == 200
    text = html.unescape(re.search(r">(.*)</textarea>", answer.content.decode(), re.S)[1])
    assert text == table
    assert "as days.csv has" in " ".join(answer.content.decode().split())
    large = b"name\n" + b"a" * 1_000_000
    for data, words in ((table.encode("cp1252"), "not UTF-8: line 3"), (large, "larger than 1 MB"), (None, "Choose a file")):  # fmt: skip
        answer = sent(data)
        assert (answer.status_code, answer["HX-Retarget"]) == (422, "#series")
        assert words in answer.content.decode()
        # The same file can be picked again once it is mended.
        assert 'id="rows-file"' in answer.content.decode()
    wide = {"rows": "name\n" + "a" * 200_000, "value": ["x"]}
    answer = client.post(f"/scenes/{series.pk}/series/add", wide)
    assert (answer.status_code, answer["HX-Retarget"]) == (422, "#series")


def test_each_row_is_a_render_of_its_own_under_its_name(client, series):
    answer = client.post(f"/scenes/{series.pk}/series/start", {"rows": ROWS, "preset": "message"})
    assert answer["HX-Redirect"] == "/renders"
    made = list(Render.objects.order_by("pk"))
    assert [(one.title, one.format) for one in made] == [("mon", "gif"), ("tue", "gif")]
    values: list[Scene] = [codec.from_json(one.document) for one in made]
    assert [v.layer("words").content.text for v in values] == ["Monday tide", "Tuesday tide"]
    assert values[1].layer("box").content.fill == "#2a7590"
    assert "mon" in client.get("/renders").content.decode()


def test_a_row_is_filled_in_by_hand_and_stands_behind_the_others(client, series):
    def added(rows: str, *values: str) -> str:
        sent = {"rows": rows, "value": list(values)}
        answer = client.post(f"/scenes/{series.pk}/series/add", sent).content.decode()
        return html.unescape(re.search(r">(.*)</textarea>", answer, re.S)[1])

    page = client.get(f"/scenes/{series.pk}/series").content.decode()
    assert 'type="color"' in page
    text = added("", "wed", 'High "tide", at two', "#112233")
    assert text == 'name,Words,Tint\nwed,"High ""tide"", at two",#112233\n'
    assert added("Words;name\nx;y", "thu", "Ebb", "#445566") == "Words,name,Tint\nx,y,\nEbb,thu,#445566\n"  # fmt: skip
    looked = client.post(f"/scenes/{series.pk}/series/look", {"rows": added(text, "thu", "Ebb", "#445566")})  # fmt: skip
    assert "Render 2 films" in looked.content.decode()


@pytest.mark.parametrize(
    ("rows", "words"),
    [
        ("", "names the columns"),
        ("name,Noon\na,b\n", "No column of the rows is a field"),
        ("name,Tint\na,reddish\nb,#12\n", "Row 2: Tint"),
        ("name,Words\na,b\na,c\n", "is the file of row 1"),
        ("name,Words\n" + "".join(f"r{i},x\n" for i in range(201)), "200 can be rendered at once"),
    ],
)
def test_what_is_wrong_with_rows_is_said_by_row_and_nothing_begins(client, series, rows, words):
    for what in ("look", "start"):
        answer = client.post(f"/scenes/{series.pk}/series/{what}", {"rows": rows})
        assert answer.status_code == 422
        assert words in answer.content.decode()
    assert not Render.objects.exists()


def test_pictures_are_those_of_the_project_and_no_others(client, post, series):
    assert post(form="field", of="picture:fish").status_code == 200
    there = "name,Fish\na,fish.png\n"
    assert client.post(f"/scenes/{series.pk}/series/look", {"rows": there}).status_code == 200
    for name in ("../../etc/passwd", "/etc/hostname", "crab.png"):
        answer = client.post(f"/scenes/{series.pk}/series/look", {"rows": f"name,Fish\na,{name}\n"})
        assert answer.status_code == 422
        assert "There is no picture" in answer.content.decode()


def test_a_scene_without_fields_says_how_to_name_some(client, scene):
    assert "name what is" in client.get(f"/scenes/{scene.pk}/series").content.decode()
