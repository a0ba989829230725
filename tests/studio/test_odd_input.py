"""Input that nobody sends by hand: numbers and cells of thousands of digits, pictures of one row."""

import io
import json
import re

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from PIL import Image

from studio.projects.models import Asset, RawTake
from tests.studio.conftest import now

BIG = "9" * 5000


def row_of_pixels(size: tuple[int, int]) -> bytes:
    out = io.BytesIO()
    Image.new("L", size).save(out, "PNG")
    return out.getvalue()


def table(cell: str) -> bytes:
    return f"t,x,y\n0,1,1\n1,{cell},3\n2,3,3\n".encode()


EDITS = {
    "a base": {"form": "add", "what": "text", "base": BIG},
    "a command": {"commands": f'[{{"do":"set","x":{BIG}}}]', "base": 0},
    "a number": {"form": "facing", "layer": "fish", "turn": BIG, "base": 0},
}
FILES = {
    "a long cell": ("a.csv", table("1" * 140_000), {}),
    "a long word": ("a.csv", table("x" * 140_000), {}),
    "digits": ("a.csv", table("1" * 400), {}),
    "a wide picture": ("w.png", row_of_pixels((200_000, 1)), {"use": "picture"}),
    "a tall picture": ("w.png", row_of_pixels((1, 200_000)), {"use": "picture"}),
    "years": ("a.csv", b"t,x,y\n0,1,1\n500000,2,2\n900000,3,3\n", {"use": "take", "unit": "s"}),
}
SAMPLES = {"400 digits": "1" * 400, "5000 digits": BIG, "words": '"far"', "nothing": "null"}


@pytest.fixture
def client(client_of, anna):
    return client_of(anna)


def refused(answer) -> str:
    words = answer.json()["words"]
    assert answer.status_code == 422
    assert words.endswith(".")
    assert "\n" not in words
    assert len(words) < 300
    return words


@pytest.mark.parametrize("name", EDITS)
def test_edits_with_huge_numbers_are_refused_in_a_sentence(client, scene, value, name):
    refused(client.post(reverse("edit", args=[scene.pk]), EDITS[name]))
    assert now(scene) == value


@pytest.mark.parametrize("name", FILES)
def test_odd_files_are_refused_and_leave_nothing(client, scene, name):
    file, data, fields = FILES[name]
    kept = sorted(scene.project.folder.iterdir())
    sent = {"file": SimpleUploadedFile(file, data), "base": 0} | fields
    refused(client.post(reverse("import", args=[scene.pk]), sent))
    assert (Asset.objects.count(), RawTake.objects.count()) == (1, 0)
    assert sorted(scene.project.folder.iterdir()) == kept


@pytest.mark.parametrize("name", SAMPLES)
def test_recordings_that_are_none_are_refused(client, scene, name):
    samples = f"[[0,1,1],[1,{SAMPLES[name]},3],[2,3,3]]"
    sent = {"samples": samples, "base": 0, "frame": 0}
    refused(client.post(reverse("record-take", args=[scene.pk]), sent))
    assert not RawTake.objects.exists()


@pytest.mark.parametrize(
    ("old", "new", "words"),
    [
        ('"length": 24', f'"length": {BIG}', "This is not JSON"),
        ('"type": "text"', '"type": "texx"', "of a type that there is not"),
        ('"type": "text"', '"tipe": "text"', "does not say its type"),
        ('"#103040"', '"red"', "has to be a colour"),
        ('"width": 160', '"width": "wide"', "width has to be a whole number (it is 'wide')"),
        ('"width": 160', '"colour": 1, "width": 160', "is nothing that belongs there"),
    ],
)
def test_scene_files_are_refused_in_plain_words(client, scene, old, new, words):
    text = json.dumps(json.loads(scene.document))
    assert old in text
    file = SimpleUploadedFile("a.json", text.replace(old, new).encode())
    page = client.post(reverse("open-scene", args=[scene.project_id]), {"file": file}, follow=True)
    assert words in page.content.decode().replace("&#x27;", "'")


def test_what_is_too_much_to_send_is_said_on_a_page(client, scene, settings):
    settings.LARGEST_FOOTAGE = 1000
    file = SimpleUploadedFile("a.json", b"x" * 2000)
    answer = client.post(reverse("open-scene", args=[scene.project_id]), {"file": file})
    assert answer.status_code == 413
    assert answer.content.startswith(b"<!doctype html>")
    assert "Nothing was kept" in answer.content.decode()


def test_half_a_pivot_is_asked_for_whole_and_locked_nodes_are_named(post, scene, value):
    whole = {"form": "path-transform", "path": "ring", "turn": "10"}
    answer = post(**whole, pivot_x="5", headers={"Sec-Fetch-Mode": "cors"})
    assert "both X and Y" in refused(answer)
    assert "not a number" in refused(post(**whole, pivot_x="zzz"))
    node = value.path("ring").nodes()[0].id
    post(form="node-change", path="ring", nodes=node, to="lock")
    done = post(**whole).content
    assert b"1 locked node went along" in done


def test_a_picture_is_laid_over_the_frame_by_what_its_card_offers(post, client, scene, value):
    post(form="detach", layer="fish", frame="0")
    page = client.get(reverse("card", args=[scene.pk]), {"layer": "fish"}).content.decode()
    offers = re.findall(r'data-fields="(x=[^"]+)"', page)
    assert len(offers) == 2
    sizes = []
    for offer in offers:
        fields = dict(pair.split("=") for pair in offer.replace("&amp;", "&").split("&"))
        assert post(form="place", layer="fish", frame="0", **fields).status_code == 200
        stands = now(scene).layer("fish").transform
        assert stands.position == pytest.approx((80, 60))
        sizes.append((8 * stands.scale[0], 4 * stands.scale[1]))
    assert sizes == [pytest.approx((160, 80)), pytest.approx((240, 120))]
