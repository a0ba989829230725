"""The bin: what is deleted waits in it, is put back whole or erased for good; and what cannot be read
does not stand in the way of the rest.
"""

import pytest
from django.urls import reverse

from coaster.edits import layers
from studio.editor import services as edits
from studio.jobs.models import State
from studio.jobs.services import Desk
from studio.projects import bin as binned
from studio.projects import replay, services
from studio.projects.models import Asset, Project, Revision, Scene
from studio.renders.models import Render


@pytest.fixture
def client(client_of, anna):
    return client_of(anna)


def act(kind: str, pk: int, action: str = "erase") -> str:
    return reverse("act-in-bin", args=[kind, pk, action])


@pytest.fixture
def rendered(scene) -> Render:
    made = Render.objects.create(
        scene=scene, author=scene.project.owner, revision=0, document=scene.document,
        format="mp4", width=160, height=120, total=24, size=5000, state=State.DONE,
    )  # fmt: skip
    services.write_whole(made.file, b"v" * 5000)
    return made


def test_a_deleted_scene_is_in_the_bin_with_its_size_and_comes_back_whole(client, scene, rendered):
    client.post(reverse("delete-scene", args=[scene.pk]))
    (thing,) = binned.contents(scene.project.owner)
    assert (thing.kind, thing.name, thing.inside) == ("scene", "Loop", "of Lobby")
    assert thing.size >= 5000 + len(scene.document)
    assert "Loop" in client.get(reverse("bin")).content.decode()
    client.post(reverse("restore-scene", args=[scene.pk]))
    assert binned.contents(scene.project.owner) == []
    assert rendered.file.is_file()


def test_a_deleted_project_is_one_thing_and_takes_its_deleted_scenes_along(
    client, scene, anna, django_capture_on_commit_callbacks
):
    services.bin_scene(anna, scene)
    client.post(reverse("delete-project", args=[scene.project_id]))
    assert [(t.kind, t.inside) for t in binned.contents(anna)] == [("project", "1 scene")]
    folder = scene.project.folder
    assert folder.is_dir()
    with django_capture_on_commit_callbacks(execute=True):
        client.post(act("project", scene.project_id))
    assert not any(model.objects.exists() for model in (Project, Scene, Revision, Asset))
    assert not folder.parent.exists()


def test_emptied_all_that_is_in_it_is_gone_and_nothing_else(
    client, scene, rendered, anna, django_capture_on_commit_callbacks
):
    kept = services.duplicate_scene(anna, scene)
    client.post(reverse("delete-scene", args=[scene.pk]))
    with django_capture_on_commit_callbacks(execute=True):
        client.post(reverse("empty-bin"))
    assert list(Scene.objects.all()) == [kept]
    assert not rendered.file.exists()
    assert "Nothing is deleted" in client.get(reverse("bin")).content.decode()


def test_a_render_whose_scene_was_erased_stops(scene, rendered, anna):
    desk = Desk(rendered)
    desk.progress(1)
    assert not desk.cancelled()
    services.bin_scene(anna, scene)
    binned.empty(anna)
    desk._next = 0.0
    desk.progress(2)
    assert desk.cancelled()


@pytest.mark.parametrize(("kind", "pk"), [("scene", 0), ("project", 0), ("render", 0), ("user", 1)])
def test_only_what_is_in_the_bin_is_erased_or_put_back(client, scene, rendered, kind, pk):
    pk = {"scene": scene.pk, "project": scene.project_id, "render": rendered.pk}.get(kind, pk)
    for action in ("erase", "restore"):
        assert client.post(act(kind, pk, action)).status_code == 404
    assert Render.objects.filter(pk=rendered.pk).exists()


def test_a_deleted_render_waits_in_the_bin_and_comes_back_or_goes(
    client, scene, rendered, anna, django_capture_on_commit_callbacks
):
    delete = reverse("render-act", args=[rendered.pk, "delete"])
    assert f"render-{rendered.pk}" not in client.post(delete).content.decode()
    (thing,) = binned.contents(anna)
    assert (thing.kind, thing.name) == ("render", "MP4, H.264 of Loop")
    assert thing.size >= 5000
    assert client.get(reverse("render-file", args=[rendered.pk])).status_code == 404
    client.post(act("render", rendered.pk, "restore"))
    assert client.get(reverse("render-file", args=[rendered.pk])).status_code == 200
    client.post(delete)
    with django_capture_on_commit_callbacks(execute=True):
        client.post(act("render", rendered.pk))
    assert not Render.objects.exists()
    assert not rendered.file.exists()


def test_nobody_sees_or_empties_the_bin_of_another(client, client_of, ben, scene):
    client.post(reverse("delete-scene", args=[scene.pk]))
    theirs = client_of(ben)
    assert "Loop" not in theirs.get(reverse("bin")).content.decode()
    theirs.post(reverse("empty-bin"))
    assert Scene.objects.filter(pk=scene.pk).exists()


def test_what_the_history_of_a_damaged_scene_still_gives_is_had_back(client, scene, anna):
    for number in range(5):
        edits.edit(
            anna, scene.pk, lambda now, n=number: layers.rename(now, f"Fish {n}", layer_id="fish"),
            base=number,
        )  # fmt: skip
    scene.refresh_from_db()
    whole, path = scene.value(), reverse("rescue-scene", args=[scene.pk])
    Scene.objects.filter(pk=scene.pk).update(document="{")
    assert path in client.get(reverse("projects")).content.decode()
    page = client.post(path, follow=True).content.decode()
    assert "nothing is lost" in page
    made = Scene.objects.latest("pk")
    assert (made.name, made.value()) == ("Loop, rescued", whole)
    # With a revision damaged too, what came before it.
    scene.revisions.filter(number=3).update(commands=[{"kind": "nonsense"}])
    assert "the last 3 edits cannot be had" in client.post(path, follow=True).content.decode()
    assert Scene.objects.latest("pk").value() == replay.document_at(scene, 2)
    scene.revisions.update(snapshot="{")
    assert "No earlier state" in client.post(path, follow=True).content.decode()
    assert Scene.objects.get(pk=scene.pk).document == "{"


def test_a_scene_that_cannot_be_read_leaves_the_others_to_be_worked_on(client, scene, anna):
    other = services.duplicate_scene(anna, scene)
    Scene.objects.filter(pk=scene.pk).update(document='{"schema": 999}')
    page = client.get(reverse("projects")).content.decode()
    assert "cannot be read" in page
    assert reverse("editor", args=[other.pk]) in page
    for name in ("editor", "save-scene", "stage"):
        answer = client.get(reverse(name, args=[scene.pk]))
        assert answer.status_code == 422
        assert "Nothing was changed" in answer.content.decode()
    part = client.get(reverse("card", args=[scene.pk]), headers={"HX-Request": "true"})
    assert (part.status_code, part.content[:3]) == (422, b"<p ")
    asked = client.get(reverse("stage", args=[scene.pk]), headers={"Sec-Fetch-Mode": "cors"})
    assert asked.json()["words"]


def test_a_scene_whose_picture_is_gone_says_so_when_it_is_saved(client, scene):
    Asset.objects.get().path.unlink()
    answer = client.get(reverse("save-scene", args=[scene.pk]))
    assert answer.status_code == 422
    assert "picture" in answer.content.decode()
