"""Files in and out over HTTP: uploads of every bad kind, drawings, scene files, new scenes,
thumbnails.
"""

import io
import json
import struct
import zipfile
import zlib
from base64 import b64encode

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from PIL import Image

from studio.projects.models import Asset, Project, Scene
from tests.studio.conftest import png

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" width="40" height="20" viewBox="0 0 40 20">'
DRAWING = f'{HEAD}<path id="a" d="M0 0L40 20"/><rect id="b" width="9" height="9" fill="#f00"/></svg>'.encode()


def picture(form: str, size=(6, 4)) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, (10, 80, 90)).save(out, form)
    return out.getvalue()


def huge_png() -> bytes:
    """A PNG of 12,000 x 12,000 px that is a few bytes long."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return (
            struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
        )

    head = chunk(b"IHDR", struct.pack(">IIBBBBB", 12_000, 12_000, 8, 2, 0, 0, 0))
    return (
        b"\x89PNG\r\n\x1a\n"
        + head
        + chunk(b"IDAT", zlib.compress(b"\0" * 1000))
        + chunk(b"IEND", b"")
    )


@pytest.fixture
def client(client_of, anna):
    return client_of(anna)


@pytest.fixture
def send(client, scene):
    def upload(name: str, data: bytes, **fields):
        sent = {
            "file": SimpleUploadedFile(name, data),
            "base": Scene.objects.get(pk=scene.pk).revision,
            **fields,
        }
        return client.post(reverse("import", args=[scene.pk]), sent)

    return upload


def kept(scene) -> tuple:
    files = sorted(p.name for p in scene.project.folder.iterdir())
    return Asset.objects.count(), Scene.objects.get(pk=scene.pk).revision, files


def test_a_file_that_is_sent_again_is_one_layer(send, scene):
    for _ in range(2):
        assert send("fish.png", png((40, 20)), base=0, key="once").status_code == 200
    assert scene.revisions.count() == 2


@pytest.mark.parametrize(
    ("name", "data"),
    [
        ("a.png", picture("PNG")),
        ("b.jpg", picture("JPEG")),
        ("c.webp", picture("WEBP")),
        ("d.svg", DRAWING),
    ],
)
def test_every_kind_of_picture_becomes_a_layer(send, scene, name, data):
    assert send(name, data, use="picture").status_code == 200
    layer = Scene.objects.get().value().layers[-1]
    assert layer.name == name[0]
    assert layer.transform.position == (80, 60)
    assert (scene.project.folder / layer.content.asset).is_file()


HUGE_INSIDE = f'{HEAD}<image href="data:image/png;base64,{b64encode(huge_png()).decode()}"/></svg>'
BAD = {
    "empty": ("a.png", b"", "a.png is empty"),
    "truncated": ("a.png", png((90, 90))[:90], "broken or cut short"),
    "huge": ("a.png", huge_png(), "144 megapixels"),
    "mislabelled": ("a.png", picture("JPEG"), "is a JPEG picture by its content"),
    "no picture": ("a.png", b"hello there", "is no picture (PNG, JPEG, WebP, SVG)"),
    "a page": ("a.svg", b"<html><svg></svg></html>", "root is <html>"),
    "script": ("a.svg", f"{HEAD}<script/></svg>".encode(), "run something"),
    "entities": ("a.svg", b'<!DOCTYPE x [<!ENTITY a "b">]>' + f"{HEAD}&a;</svg>".encode(), "defines entities"),
    "outside": ("a.svg", f'{HEAD}<image href="http://x.test/a.png"/></svg>'.encode(), "outside itself"),
    "doubling": ("a.svg", (HEAD + '<path id="p0" d="M0 0h9v9z"/>' + "".join(
        f'<g id="p{n}"><use href="#p{n - 1}"/><use href="#p{n - 1}"/></g>' for n in range(1, 40)) + "</svg>").encode(),
        "uses its parts so often"),
    "huge inside": ("a.svg", HUGE_INSIDE.encode(), "A picture in a.svg has 144 megapixels"),
    "nothing to see": ("a.svg", f"{HEAD}</svg>".encode(), "shows nothing"),
}  # fmt: skip


@pytest.mark.parametrize("kind", BAD)
def test_a_bad_file_gets_one_sentence_and_leaves_nothing_behind(send, scene, kind):
    name, data, words = BAD[kind]
    before = kept(scene)
    answer = send(name, data, use="picture")
    assert answer.status_code == 422
    assert words in answer.json()["words"]
    assert kept(scene) == before


def test_what_is_too_large_is_turned_away_unread(client, scene, settings):
    settings.LARGEST_FOOTAGE = 1000
    answer = client.post(
        reverse("import", args=[scene.pk]),
        {"file": SimpleUploadedFile("a.png", b"x" * 2000)},
        headers={"Sec-Fetch-Mode": "cors"},
    )
    assert answer.status_code == 413
    assert "Nothing was kept" in answer.json()["words"]


def test_a_drawing_is_asked_about_and_becomes_the_paths_that_were_chosen(send, scene):
    before = kept(scene)
    question = send("way.svg", DRAWING)
    assert b"A path to ride" in question.content
    assert kept(scene) == before
    assert send("way.svg", DRAWING, use="path", pick=["0", "1"], size="fit").status_code == 200
    value = Scene.objects.get().value()
    assert [p.name for p in value.paths] == ["Ring", "a", "b"]
    assert value.path("a").nodes()[1].position == pytest.approx(
        (160, 100)
    )  # 4 x, in the middle of 160 x 120
    assert Scene.objects.get().revision == 1


def test_a_drawing_without_a_choice_is_refused(send, scene):
    assert "no path '9'" in send("way.svg", DRAWING, use="path", pick=["9"]).json()["words"]
    assert "was chosen" in send("way.svg", DRAWING, use="path", pick=[]).json()["words"]


NEW = {
    "name": "Tank",
    "size": "1920x1080",
    "rate": "25",
    "length": "8",
    "unit": "s",
    "background": "#102030",
}


@pytest.mark.parametrize(
    ("change", "holds"),
    [
        ({}, lambda v: (v.width, v.length, v.background) == (1920, 200, "#102030")),
        (
            {"rate": "23.976"},
            lambda v: (v.rate.numerator, v.rate.denominator, v.length) == (24000, 1001, 192),
        ),
        ({"rate": "29.97", "unit": "f"}, lambda v: (str(v.rate), v.length) == ("29.97", 8)),
        ({"transparent": "on"}, lambda v: v.background is None),
        (
            {"size": "free", "width": "64", "height": "32"},
            lambda v: (v.width, v.height) == (64, 32),
        ),
    ],
)
def test_a_new_scene_is_what_was_asked_for(client, project, change, holds):
    answer = client.post(reverse("new-scene", args=[project.pk]), NEW | change)
    made = Scene.objects.get()
    assert answer.headers["HX-Redirect"] == reverse("editor", args=[made.pk])
    assert holds(made.value())


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"name": " "}, "Give the scene a name"),
        ({"rate": "11"}, "outside 12 to 60"),
        ({"rate": "x"}, "is not a number of frames a second"),
        ({"length": ""}, "how long the scene is"),
        ({"length": "-1"}, "outside"),
        ({"length": "1.5", "unit": "f"}, "not a whole number of frames"),
        ({"length": "36000"}, "too many"),
        ({"size": "free"}, "write both"),
        ({"size": "free", "width": "63", "height": "32"}, "not an even whole number"),
        ({"size": "free", "width": "nan", "height": "32"}, "is not a number"),
        ({"size": "8x8"}, "valid choice"),
        ({"background": "red"}, "valid value"),
    ],
)
def test_a_new_scene_that_makes_no_sense_is_refused_in_words(client, project, change, words):
    answer = client.post(reverse("new-scene", args=[project.pk]), NEW | change)
    assert answer.status_code == 422
    assert words in answer.content.decode()
    assert not Scene.objects.exists()


def test_a_scene_file_opens_again_as_the_same_scene(client, project, scene, value):
    saved = client.get(reverse("save-scene", args=[scene.pk])).getvalue()
    other = Project.objects.create(owner=project.owner, name="Other")
    answer = client.post(
        reverse("open-scene", args=[other.pk]), {"file": SimpleUploadedFile("Loop.zip", saved)}
    )
    opened = Scene.objects.get(project=other)
    assert answer.url == reverse("editor", args=[opened.pk])
    assert opened.value() == value
    assert [(other.folder / a).is_file() for a in opened.value().assets()] == [True]


@pytest.mark.parametrize(
    "kind", ["no zip", "no scene", "no picture", "bad picture", "later", "rules", "climbing"]
)
def test_a_scene_file_that_is_none_is_refused_and_nothing_is_kept(client, project, scene, kind):
    with zipfile.ZipFile(
        io.BytesIO(client.get(reverse("save-scene", args=[scene.pk])).getvalue())
    ) as good:
        parts = {name: good.read(name) for name in good.namelist()}
    picture_name = next(name for name in parts if name.startswith("assets/"))
    document = json.loads(parts["scene.json"])
    if kind == "no scene":
        del parts["scene.json"]
    elif kind == "no picture":
        del parts[picture_name]
    elif kind == "bad picture":
        parts[picture_name] = b"x"
    elif kind == "climbing":
        parts["../" + picture_name] = parts.pop(picture_name)
    elif kind in ("later", "rules"):
        document |= {"schema": 99} if kind == "later" else {"length": 0}
        parts["scene.json"] = json.dumps(document).encode()
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as bad:
        for name, data in parts.items():
            bad.writestr(name, data)
    data = b"PK nothing" if kind == "no zip" else out.getvalue()
    before = kept(scene)
    upload = {"file": SimpleUploadedFile("bad.zip", data)}
    page = client.post(reverse("open-scene", args=[project.pk]), upload, follow=True)
    assert b"bad.zip was not opened." in page.content
    assert kept(scene) == before
    assert Scene.objects.count() == 1


def test_thumbnails_show_the_scene_and_move(client, scene):
    still = Image.open(
        io.BytesIO(b"".join(client.get(reverse("still", args=[scene.pk, 0])).streaming_content))
    )
    moving = Image.open(
        io.BytesIO(b"".join(client.get(reverse("moving", args=[scene.pk, 0])).streaming_content))
    )
    assert still.size == moving.size == (384, 288)
    assert moving.n_frames == 24
    corner = still.convert("RGB").getpixel((2, 2))
    assert max(abs(a - b) for a, b in zip(corner, (0x10, 0x30, 0x40), strict=True)) < 8


def test_what_was_deleted_can_be_brought_back_from_the_page(client, scene):
    page = client.post(reverse("delete-scene", args=[scene.pk]), follow=True).content.decode()
    assert "Loop was deleted." in page
    assert reverse("restore-scene", args=[scene.pk]) in page
    assert (
        "Loop is back."
        in client.post(reverse("restore-scene", args=[scene.pk]), follow=True).content.decode()
    )


def test_a_copy_has_a_name_and_a_history_of_its_own(client, scene, value):
    client.post(reverse("duplicate-scene", args=[scene.pk]))
    copy = Scene.objects.latest("pk")
    assert (copy.name, copy.value(), copy.revision) == ("Loop 2", value, 0)


@pytest.mark.parametrize("name", ["", "x" * 81])
def test_a_name_that_is_none_is_refused(client, scene, name):
    page = client.post(reverse("rename-scene", args=[scene.pk]), {"name": name}, follow=True)
    assert b"It is still called Loop." in page.content
    assert Scene.objects.get().name == "Loop"
