"""A scene's history: told in pages, shown as it was, gone back to, named, and made a scene of its own."""

import json

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from coaster.commands.whole import put_scene
from coaster.render.stage import pack
from coaster.scene import codec
from studio.editor import services as editing
from studio.projects import history
from studio.projects.models import Revision, Scene
from tests.studio.conftest import now


@pytest.fixture
def client(client_of, anna):
    return client_of(anna)


@pytest.fixture
def edited(post, scene, value):
    """The scene after five edits, and what it was after each."""
    states = [value]
    for turn in (10, 20, 30, 40, 50):
        assert post(form="place", layer="box", frame="0", turn=str(turn)).status_code == 200
        states.append(now(scene))
    return states


def listed(client, scene, **asked) -> str:
    return client.get(reverse("history", args=[scene.pk]), asked).content.decode()


def act(client, scene, name, number, **fields):
    fields.setdefault("base", Scene.objects.get(pk=scene.pk).revision)
    return client.post(reverse(name, args=[scene.pk, number]), fields)


def test_every_edit_is_told_newest_first_in_pages(client, scene, edited, monkeypatch):
    page = listed(client, scene)
    at = [page.index(f'data-number="{number}"') for number in range(5, -1, -1)]
    assert at == sorted(at)
    assert page.count("<span>Place Box") == 5
    assert "anna" in page
    monkeypatch.setattr(history, "PAGE", 2)
    assert 'data-earlier="4"' in listed(client, scene)
    second = listed(client, scene, before="4")
    assert [f'data-number="{n}"' in second for n in range(6)] == [
        False,
        False,
        True,
        True,
        False,
        False,
    ]
    assert "data-earlier" not in listed(client, scene, before="2")


def test_the_stage_is_told_each_state_as_it_was(client, scene, edited):
    for number, state in enumerate(edited):
        told = client.get(reverse("stage-at", args=[scene.pk, number])).content
        head, numbers = opened(told)
        wanted, wanted_numbers = opened(pack(state))
        assert (head["layers"], head["paths"]) == (wanted["layers"], wanted["paths"])
        assert numbers == wanted_numbers
    assert client.get(reverse("stage-at", args=[scene.pk, 99])).status_code == 404


def opened(packed: bytes) -> tuple[dict, bytes]:
    end = 12 + int.from_bytes(packed[8:12], "little")
    return json.loads(packed[12:end]), packed[end:]


def test_going_back_is_an_edit_that_can_be_undone(client, post, scene, edited):
    answer = act(client, scene, "go-back", 2)
    assert answer.status_code == 200
    assert now(scene) == edited[2]
    assert Revision.objects.get(scene=scene, number=6).words == "Back to: Place Box"
    assert (
        act(client, scene, "go-back", 2).json()["words"].startswith("The scene is as it was then")
    )
    assert post("undo").status_code == 200
    assert now(scene) == edited[5]
    assert post("redo").status_code == 200
    assert now(scene) == edited[2]
    # The states since are still there.
    assert act(client, scene, "go-back", 4).status_code == 200
    assert now(scene) == edited[4]


def test_what_another_window_did_meanwhile_is_not_overwritten_unseen(client, post, scene, edited):
    base = Scene.objects.get(pk=scene.pk).revision
    assert post(form="place", layer="words", frame="0", turn="9").status_code == 200
    answer = act(client, scene, "go-back", 1, base=base)
    assert answer.status_code == 409
    assert now(scene).layer("words").transform.turn == 9


def test_versions_have_names_and_are_listed_alone(client, scene, edited):
    assert (
        "First cut" in act(client, scene, "name-version", 3, title="  First cut ").content.decode()
    )
    alone = listed(client, scene, named="on")
    assert ("First cut" in alone, alone.count("data-number")) == (True, 1)
    assert act(client, scene, "go-back", 3).status_code == 200
    assert Revision.objects.get(scene=scene, number=6).words == "Back to: First cut"
    assert "at most 80" in act(client, scene, "name-version", 3, title="x" * 81).json()["words"]
    act(client, scene, "name-version", 3, title="")
    assert "No version has a name yet" in listed(client, scene, named="on")
    assert act(client, scene, "name-version", 77, title="x").status_code == 404


def test_an_old_state_becomes_a_scene_of_its_own(client, scene, edited):
    told = act(client, scene, "version-as-new", 1).json()
    made = Scene.objects.get(pk=int(told["address"].strip("/").split("/")[-1]))
    assert made.value() == edited[1]
    assert now(scene) == edited[5]
    assert made.revisions.get().words == "Loop at: Place Box"


def test_a_whole_scene_of_an_earlier_schema_is_still_read(value):
    command = put_scene(value)
    earlier = {**command.document, "schema": codec.SCHEMA - 1}
    for layer in earlier["layers"]:
        for field in (
            "blend",
            "mask",
            "isolated",
            "guide",
            "stencil",
            "stencil_inverted",
            "carrier",
            "tag",
        ):
            layer.pop(field)
    assert type(command)(json.loads(json.dumps(earlier))).apply(value) == value


def test_five_thousand_edits_are_listed_and_shown_without_waiting(anna, scene, client):
    last = Scene.objects.get(pk=scene.pk)
    Revision.objects.bulk_create(
        Revision(scene=last, number=number, author=anna, words=f"Edit {number}", commands=[{"x": "y" * 500}],
                 snapshot=last.document if number % 50 == 0 else "")
        for number in range(1, 5001)
    )  # fmt: skip
    Scene.objects.filter(pk=scene.pk).update(revision=5000)
    with CaptureQueriesContext(connection) as asked:
        assert listed(client, scene).count("data-number") == history.PAGE
    # One page is read, and of it only what is told.
    (read,) = [q["sql"] for q in asked if 'FROM "projects_revision"' in q["sql"]]
    assert f"LIMIT {history.PAGE + 1}" in read
    assert '"commands"' not in read
    with CaptureQueriesContext(connection) as asked:
        assert client.get(reverse("stage-at", args=[scene.pk, 5000])).status_code == 200
    assert len(asked) < 12
    assert editing.undo_words(Scene.objects.get(pk=scene.pk)) == ("", "")
