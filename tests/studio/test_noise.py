"""Whatever is sent: an answer with words, never a crash, and nothing half done."""

import io
import json
import zipfile

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from coaster.commands import KINDS
from studio.editor.forms import FORMS
from studio.projects.models import Asset, Revision, Scene
from tests.studio.test_files import DRAWING

quietly = settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture])
odd = st.sampled_from(
    ["", "0", "-1", "1e308", "-1e308", "nan", "inf", "1,5", "٣", "0x10", "true", "false", "null", "fish", "ring", "box",
     "words", "line", "gone", "../..", "\x00", "<b>", "'; drop table", "#12345", "#abcdef", "text", "ellipse", "ahead",
     "cubic-bezier(0,0,1,1)", "cubic-bezier(0,1e3,1,-1e3)", "30000/1001", "1/0", "🐟", "a" * 3000]
)  # fmt: skip
junk = st.recursive(
    st.none() | st.booleans() | st.integers(-(10**9), 10**9) | st.floats(allow_nan=False) | odd,
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(odd, inner, max_size=4),
    max_leaves=8,
)


@pytest.fixture
def client(client_of, anna):
    client = client_of(anna)
    client.raise_request_exception = True
    return client


def state(scene) -> tuple:
    row = Scene.objects.get(pk=scene.pk)
    return row.document, row.revision, Revision.objects.count()


def held(answer, before, scene) -> None:
    """Done in one revision or refused in one sentence, with nothing changed."""
    assert answer.status_code in (200, 409, 422)
    if answer.status_code == 200:
        assert Scene.objects.get(pk=scene.pk).revision - before[1] in (0, 1)
        Scene.objects.get(pk=scene.pk).value()
    else:
        words = answer.json()["words"]
        assert words
        assert "\n" not in words
        assert "Traceback" not in words
        assert len(words) < 400
        assert state(scene) == before


@pytest.mark.parametrize("form", sorted(FORMS))
@given(data=st.data())
@quietly
def test_any_values_in_any_form(client, scene, form, data):
    names = [*FORMS[form].base_fields, "nothing"]
    fields = data.draw(st.dictionaries(st.sampled_from(names), odd, max_size=5))
    if "layer" in names and data.draw(st.booleans()):
        fields["layer"] = data.draw(st.sampled_from(["fish", "box", "words", "line"]))
    before = state(scene)
    sent = {"form": form, "base": before[1], **fields}
    looked = client.post(reverse("preview", args=[scene.pk]), sent)
    assert looked.status_code in (200, 422)
    assert state(scene) == before
    kept = client.post(reverse("edit", args=[scene.pk]), sent)
    assert kept.status_code == looked.status_code
    held(kept, before, scene)


part = st.sampled_from(
    ["layer_id", "path_id", "ride", "facing", "pegs", "content", "index", "length"]
)
command = st.tuples(st.dictionaries(part, junk), st.sampled_from(sorted(KINDS))).map(
    lambda p: p[0] | {"kind": p[1]}
)


@given(st.lists(junk | command, max_size=3))
@quietly
def test_any_commands(client, scene, commands):
    before = state(scene)
    sent = {"base": before[1], "commands": json.dumps(commands)}
    held(client.post(reverse("edit", args=[scene.pk]), sent), before, scene)


@given(
    st.integers(0, len(DRAWING) - 1),
    st.binary(max_size=6),
    st.sampled_from(["", "picture", "path"]),
)
@quietly
def test_a_drawing_with_any_bytes_in_it(client, scene, at, noise, use):
    before, assets = state(scene), Asset.objects.count()
    broken = DRAWING[:at] + noise + DRAWING[at + len(noise) :]
    sent = {"file": SimpleUploadedFile("way.svg", broken), "base": before[1], "pick": "0"} | (
        {"use": use} if use else {}
    )
    answer = client.post(reverse("import", args=[scene.pk]), sent)
    if answer.headers["Content-Type"].startswith("text/html"):
        assert state(scene) == before
        return
    held(answer, before, scene)
    if answer.status_code != 200:
        assert Asset.objects.count() == assets


@given(data=st.data())
@quietly
def test_a_scene_file_with_any_bytes_in_it(client, project, scene, data):
    saved = client.get(reverse("save-scene", args=[scene.pk])).getvalue()
    at = data.draw(st.integers(0, len(saved) - 1))
    noise = data.draw(st.binary(max_size=9))
    broken = saved[:at] + noise + saved[at + len(noise) :]
    count = Scene.objects.count()
    answer = client.post(
        reverse("open-scene", args=[project.pk]), {"file": SimpleUploadedFile("a.zip", broken)}
    )
    assert answer.status_code == 302
    opened = Scene.objects.count() - count
    assert opened == (answer.url != reverse("projects"))
    for made in Scene.objects.all():
        made.value()


def test_a_zip_that_unpacks_to_too_much_is_refused_unpacked(client, project):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as bomb:
        bomb.writestr("scene.json", b" " * 70_000_000)
    sent = {"file": SimpleUploadedFile("bomb.zip", out.getvalue())}
    page = client.post(reverse("open-scene", args=[project.pk]), sent, follow=True)
    assert "scene.json is larger than 64 MB" in page.content.decode()
    assert not Scene.objects.exists()
