"""The files of a project and the project as one file: listed, removed and put back, saved and opened."""

import io
import json
import zipfile

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from coaster.commands.layers import AddLayer
from coaster.edits.edit import edit_of
from coaster.edits.insets import inset_of
from coaster.edits.layers import delete_layers
from coaster.scene.contents import Picture
from coaster.scene.document import Layer, Scene
from studio.editor import library
from studio.editor import services as edits
from studio.projects import bin as binned
from studio.projects import files, services
from studio.projects.models import Asset, Project
from studio.projects.models import Scene as Row
from tests.studio.conftest import now, png


@pytest.fixture
def client(client_of, anna):
    return client_of(anna)


@pytest.fixture
def idle(anna, project, scene) -> Asset:
    asset, _ = services.import_picture(anna, project, png((30, 20)), "idle.png")
    return asset


def names(project: Project) -> dict[str, str]:
    told = {True: "nowhere", False: "history"}
    return {
        str(each.row): ", ".join(s.name for s in each.scenes) or told[each.unused]
        for each in files.of_project(project)
    }


def test_each_file_is_told_with_where_it_is_used(client, anna, project, scene, idle):
    assert names(project) == {"fish.png": "Loop", "idle.png": "nowhere"}
    page = client.get(reverse("project-files", args=[project.pk])).content.decode()
    assert "Remove 1 unused" in page
    # What an undo would bring back is not one of those.
    edits.edit(anna, scene.pk, lambda value: delete_layers(value, ["fish"]), base=0)
    assert names(project)["fish.png"] == "history"
    page = client.get(reverse("project-files", args=[project.pk])).content.decode()
    assert ("in the history alone" in page, "Remove 1 unused" in page) == (True, True)


def test_a_file_of_a_scene_that_another_shows_is_used_by_the_one_that_shows_it_itself(
    anna, project, scene
):
    outer = Scene(layers=(Layer("l", "L", inset_of(str(scene.pk), scene.value())),))
    services.create_scene(anna, project, "Outer", outer)
    assert names(project) == {"fish.png": "Loop"}


def test_what_nothing_uses_is_removed_undone_and_erased(client, project, idle):
    answer = client.post(reverse("bin-unused", args=[project.pk]), follow=True).content.decode()
    assert "1 file that nothing used was removed." in answer
    assert "idle.png" not in names(project)
    assert idle.path.is_file()
    undo = reverse("restore-files", args=[project.pk]) + f"?files={idle.pk}"
    assert undo in answer
    client.post(undo)
    assert names(project)["idle.png"] == "nowhere"
    client.post(reverse("bin-file", args=[project.pk, idle.pk]))
    assert "idle.png (picture)" in client.get(reverse("bin")).content.decode()
    assert client.post(reverse("act-in-bin", args=["file", idle.pk, "erase"])).status_code == 302
    assert not Asset.objects.filter(pk=idle.pk).exists()


def test_what_is_used_is_kept_and_said(client, project, scene):
    asset = Asset.objects.get(original_name="fish.png")
    answer = client.post(reverse("bin-file", args=[project.pk, asset.pk]), follow=True)
    assert "fish.png is used in Loop; take it out there first." in answer.content.decode()
    assert Asset.objects.get(pk=asset.pk).deleted_at is None
    assert (
        "Everything here is used"
        in client.post(reverse("bin-unused", args=[project.pk]), follow=True).content.decode()
    )


def test_brought_in_or_used_again_it_is_out_of_the_bin(anna, project, scene, idle):
    files.bin_file(anna, idle)
    assert [each.pk for each in binned.contents(anna)] == [idle.pk]
    again, _ = services.import_picture(anna, project, png((30, 20)), "idle.png")
    assert (again.pk, again.deleted_at, binned.contents(anna)) == (idle.pk, None, [])
    files.bin_file(anna, idle)
    # As an undo would: a scene that names it keeps it from being erased.
    value = Scene(layers=(Layer("l", "L", Picture(idle.file_name, 30, 20)),))
    services.create_scene(anna, project, "Again", value)
    assert binned.contents(anna) == []
    assert names(project)["idle.png"] == "Again"


def test_nobody_else_removes_or_puts_back(client_of, ben, project, idle):
    client = client_of(ben)
    for name, args in (("bin-unused", []), ("bin-file", [idle.pk]), ("restore-files", [])):
        assert client.post(reverse(name, args=[project.pk, *args])).status_code == 404
    assert Asset.objects.get(pk=idle.pk).deleted_at is None


def saved(client, project) -> bytes:
    return b"".join(client.get(reverse("save-project", args=[project.pk])).streaming_content)


def opened(client, data: bytes, name: str = "lobby.zip") -> str:
    sent = {"file": SimpleUploadedFile(name, data)}
    return client.post(reverse("open-project"), sent, follow=True).content.decode()


@pytest.fixture
def whole(anna, project, scene) -> Project:
    """A project whose first scene shows its last one, with two alike and a kept ride."""
    inner = services.create_scene(anna, project, "Inner", Scene(length=12))
    twin = services.create_scene(anna, project, "Inner", Scene(length=12))
    show = Layer("l", "L", inset_of(str(twin.pk), twin.value()))
    edits.edit(anna, scene.pk, lambda value: edit_of([AddLayer(show)]), base=0)
    library.keep(anna, scene, "fish", "Round")
    assert inner.pk < twin.pk
    return project


def test_a_project_is_one_file_and_opened_it_is_the_same_again(client, whole, scene):
    data = saved(client, whole)
    told = json.loads(zipfile.ZipFile(io.BytesIO(data)).read("scene.json"))
    assert (told["project"], len(told["scenes"])) == ("Lobby", 4)
    assert "Lobby is here, with 3 scenes." in opened(client, data)
    again = Project.objects.latest("pk")
    rows = list(again.scenes.order_by("created_at"))
    assert [row.name for row in rows] == ["Loop", "Inner", "Inner"]
    assert rows[0].value().shown_ids() == [str(rows[2].pk)]
    plain = rows[0].value().with_shown({str(rows[2].pk): now(scene).shown_ids()[0]})
    assert plain == now(scene)
    assert again.rides.get().value() == whole.rides.get().value()
    assert [a.original_name for a in again.assets.all()] == [
        a.file_name for a in whole.assets.all()
    ]
    assert all(asset.path.is_file() for asset in again.assets.all())


def test_a_scene_file_makes_a_project_of_it_and_a_project_no_scene(client, project, whole, scene):
    data = b"".join(client.get(reverse("save-scene", args=[scene.pk])).streaming_content)
    assert "buoy is here, with 2 scenes." in opened(client, data, "buoy.zip")
    count = Row.objects.count()
    sent = {"file": SimpleUploadedFile("lobby.zip", saved(client, whole))}
    answer = client.post(reverse("open-scene", args=[project.pk]), sent, follow=True)
    assert "It is a whole project; open it with Open a project" in answer.content.decode()
    assert Row.objects.count() == count


@pytest.mark.parametrize("data", [b"", b"PK\x03\x04no zip", b"{}", b'{"schema": 7, "project": 4}'])
def test_what_is_no_project_leaves_nothing_behind(client, anna, data):
    before = Project.objects.count()
    answer = (
        opened(client, data, "x.zip")
        if data
        else client.post(reverse("open-project"), follow=True).content.decode()
    )
    assert "was not opened" in answer or "nothing was opened" in answer
    assert Project.objects.count() == before


def test_a_damaged_scene_is_named_and_nothing_is_saved(client, project, scene):
    Row.objects.filter(pk=scene.pk).update(document="{")
    answer = client.get(reverse("save-project", args=[project.pk]), follow=True).content.decode()
    assert "Loop is damaged, so the project cannot be one whole file" in answer


def test_two_hundred_files_are_listed_in_a_few_questions(
    client, anna, project, scene, django_assert_max_num_queries
):
    Asset.objects.bulk_create(
        Asset(
            project=project,
            file_name=f"{'a' * 30}{i}.png",
            original_name=f"{i}.png",
            width=8,
            height=8,
        )
        for i in range(200)
    )
    with django_assert_max_num_queries(14):
        page = client.get(reverse("project-files", args=[project.pk]))
    assert page.content.decode().count("the file is gone") == 200
