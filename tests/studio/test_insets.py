"""Scenes in scenes over HTTP: shown, live, refused in circles, carried along, made of groups."""

import io
import json
import zipfile

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from coaster.edits.groups import group
from coaster.edits.insets import inset_of
from coaster.edits.scene import SceneChange
from coaster.edits.scene import change as core_change
from coaster.export.orders import Choices
from coaster.scene import codec
from coaster.scene.contents import Inset, Shape
from coaster.scene.document import Layer, Scene
from coaster.scene.limits import MOST_LAYERS
from studio.editor import services as edits
from studio.projects import services
from studio.projects.models import Scene as Row
from studio.projects.thumbnails import scene_file
from studio.renders import services as renders
from tests.studio.conftest import done_and_undone, now, refused_in_words


@pytest.fixture
def client(client_of, anna):
    return client_of(anna)


@pytest.fixture
def buoy(anna, project) -> Row:
    box = Layer("box", "Box", Shape("rectangle", 40, 20, "#e03020"))
    return services.create_scene(anna, project, "Buoy", Scene(80, 60, length=12, layers=(box,)))


@pytest.fixture
def showing(post, scene, buoy) -> Row:
    assert post(form="inset", shown=str(buoy.pk)).status_code == 200
    return Row.objects.get(pk=scene.pk)


def told(answer) -> dict:
    size = int.from_bytes(answer.content[8:12], "little")
    return json.loads(answer.content[12 : 12 + size])


def shown_layer(scene) -> Layer:
    return next(layer for layer in now(scene).layers if layer.content.can.show)


def change(person, row: Row, **fields) -> None:
    """Change a scene as another window would."""
    edits.edit(
        person,
        row.pk,
        lambda value: core_change(value, SceneChange(**fields)),
        base=Row.objects.get(pk=row.pk).revision,
    )


def test_it_is_added_with_what_there_is_to_know_and_undone(post, scene, value, buoy):
    def holds(after: Scene) -> bool:
        content = after.layers[-1].content
        facts = content.scene, content.width, content.times.count, after.layers[-1].name
        return facts == (str(buoy.pk), 80.0, 12, "Buoy") and after.scenes[0].scene == buoy.value()

    done_and_undone(
        post, scene, value, {"form": "inset", "shown": str(buoy.pk), "x": "40", "y": "30"}, holds
    )


def test_what_is_kept_names_it_and_does_not_hold_it(showing, buoy):
    assert json.loads(showing.document)["scenes"] == []
    assert "e03020" not in showing.document
    assert buoy.value() == showing.value().scenes[0].scene


def test_what_is_changed_there_shows_here_at_once(client, anna, showing, buoy):
    look, before = showing.look, scene_file(showing, "still")
    change(anna, buoy, width=120, frames=30, background="#123456")
    after = Row.objects.get(pk=showing.pk)
    content = shown_layer(after).content
    assert (content.width, content.times.count) == (120.0, 30)
    stage = told(client.get(reverse("stage", args=[showing.pk])))
    (layer,) = [each for each in stage["layers"] if each["inside"]]
    ground = layer["inside"][1]["faces"]["list"][0]["outlines"][0]
    assert ground["fill"] == "#123456"
    assert layer["shows"] == str(buoy.pk)
    # A small picture is another one too, though nothing was edited here.
    assert (after.look != look, scene_file(after, "still") != before) == (True, True)
    assert after.revision == showing.revision


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"shown": "999999"}, "not in this project any more"),
        ({"shown": "x"}, "whole number"),
        ({"shown": "-4"}, "greater than or equal to 1"),
        ({"shown": "self"}, "Loop cannot be shown in itself"),
    ],
)
def test_what_cannot_be_shown_is_refused(post, scene, value, fields, words):
    fields = {name: str(scene.pk) if text == "self" else text for name, text in fields.items()}
    refused_in_words(post, scene, value, {"form": "inset", **fields}, 422, words)


def test_scenes_of_other_projects_and_people_are_not_shown(post, scene, value, anna, ben):
    for person in (anna, ben):
        other = services.create_project(person, "Other")
        row = services.create_scene(person, other, "Elsewhere", Scene())
        refused_in_words(
            post, scene, value, {"form": "inset", "shown": str(row.pk)}, 422, "not in this project"
        )


def test_a_circle_is_refused_whichever_way_it_would_come_about(client, anna, scene, showing, buoy):
    back = reverse("edit", args=[buoy.pk])
    answer = client.post(back, {"form": "inset", "shown": str(scene.pk), "base": "0"})
    assert (answer.status_code, answer.json()["words"]) == (
        422, "Buoy would be shown in itself, by way of another scene; nothing was changed.",
    )  # fmt: skip
    sheet = client.get(reverse("shown", args=[buoy.pk])).content.decode()
    assert "It shows this one." in sheet
    # Taken out here and shown there, an undo here would make one as well.
    content = shown_layer(showing)
    client.post(
        reverse("edit", args=[scene.pk]),
        {"form": "delete", "layer": content.id, "base": str(showing.revision)},
    )
    assert (
        client.post(back, {"form": "inset", "shown": str(scene.pk), "base": "0"}).status_code == 200
    )
    answer = client.post(reverse("undo", args=[scene.pk]), {"base": str(now_row(scene).revision)})
    assert "would be shown in itself" in answer.json()["words"]
    assert not now(scene).shown_ids()


def now_row(scene) -> Row:
    return Row.objects.get(pk=scene.pk)


def test_a_circle_that_is_there_all_the_same_shows_nothing(showing, buoy):
    """As two windows of an earlier version, or a hand in the database, could make one."""
    ring = Scene(layers=(Layer("l", "L", inset_of(str(showing.pk), Scene())),))
    Row.objects.filter(pk=buoy.pk).update(document=codec.to_json(ring, indent=None))
    assert now(showing).scenes == ()
    mirror = Scene(layers=(Layer("l", "L", inset_of(str(buoy.pk), Scene())),))
    Row.objects.filter(pk=buoy.pk).update(document=codec.to_json(mirror, indent=None))
    assert now(showing).scenes == ()


def test_scenes_that_multiply_beyond_all_measure_are_not_drawn(showing, buoy):
    many = tuple(Layer(f"l{i}", "L", Shape()) for i in range(4 * MOST_LAYERS + 1))
    Row.objects.filter(pk=buoy.pk).update(document=codec.to_json(Scene(layers=many), indent=None))
    assert now(showing).scenes == ()


def test_deleting_one_that_is_shown_asks_says_where_and_leaves_an_empty_frame(
    client, showing, buoy
):
    page = client.get(reverse("projects")).content.decode()
    assert f"{buoy.name} is shown in Loop." in page
    answer = client.post(reverse("delete-scene", args=[buoy.pk]), follow=True).content.decode()
    assert "Its frame is empty now in Loop." in answer
    assert now(showing).scenes == ()
    card = client.get(reverse("card", args=[showing.pk]), {"layer": shown_layer(showing).id})
    assert "is not here" in card.content.decode()
    client.post(reverse("restore-scene", args=[buoy.pk]))
    assert now(showing).scenes


def test_one_file_carries_all_of_them_and_opened_again_none_is_made_twice(
    client, project, showing, buoy
):
    data = b"".join(client.get(reverse("save-scene", args=[showing.pk])).streaming_content)
    held = json.loads(zipfile.ZipFile(io.BytesIO(data)).read("scene.json"))
    assert [each["name"] for each in held["scenes"]] == ["Buoy"]
    before = Row.objects.count()
    answer = client.post(
        reverse("open-scene", args=[project.pk]), {"file": SimpleUploadedFile("again.zip", data)}
    )
    again = Row.objects.latest("pk")
    assert answer.url == reverse("editor", args=[again.pk])
    assert (Row.objects.count(), again.value().shown_ids()) == (before + 1, [str(buoy.pk)])


def test_opened_in_another_project_they_are_made_there(client, anna, showing, buoy):
    data = b"".join(client.get(reverse("save-scene", args=[showing.pk])).streaming_content)
    other = services.create_project(anna, "Other")
    client.post(
        reverse("open-scene", args=[other.pk]), {"file": SimpleUploadedFile("again.zip", data)}
    )
    brought, opened = other.scenes.order_by("pk")
    assert (brought.name, brought.value()) == ("Buoy", buoy.value())
    assert opened.value().shown_ids() == [str(brought.pk)]
    assert opened.value().scenes[0].scene == buoy.value()


def test_pasted_in_another_project_it_is_brought_along(client, anna, showing, buoy):
    other = services.create_project(anna, "Other")
    target = services.create_scene(anna, other, "Target", Scene())
    copied = {
        "scene": showing.pk,
        "revision": showing.revision,
        "layers": [shown_layer(showing).id],
    }
    sent = {
        "form": "layers-paste",
        "copied": json.dumps({"coaster-layers": copied}),
        "into": str(target.pk),
        "frame": "0",
        "base": "0",
    }
    answer = client.post(reverse("edit", args=[target.pk]), sent)
    assert answer.status_code == 200, answer.content
    value = now(target)
    assert [each.name for each in value.scenes] == ["Buoy"]
    assert value.scenes[0].id != str(buoy.pk)


def test_a_render_has_what_was_shown_when_it_was_asked_for(anna, showing, buoy):
    made = renders.start(anna, showing, Choices())
    change(anna, buoy, background="#ff0000")
    assert codec.from_json(made.document).scenes[0].scene.background == Scene().background


def test_a_group_is_made_a_scene_and_its_layer_a_group_again(
    client, post, anna, project, scene, value
):
    grouped = group(value, ["box", "words"], 0)
    edits.edit(anna, scene.pk, lambda _: grouped, base=0)
    (made,) = [layer for layer in now(scene).layers if layer.content.can.hold]
    before = now(scene)
    answer = post("group-scene", layer=made.id, playhead="3", key="once")
    assert answer.status_code == 200, answer.content
    inner = Row.objects.latest("pk")
    assert (inner.name, {x.id for x in inner.value().layers}) == ("Group", {"box", "words"})
    assert isinstance(shown_layer(scene).content, Inset)
    # Sent once more, as its answer was lost, it makes no other.
    again = client.post(
        reverse("group-scene", args=[scene.pk]), {"layer": made.id, "base": "1", "key": "once"}
    )
    assert (again.status_code, Row.objects.filter(project=project).count()) in ((200, 2), (422, 2))
    post("undo")
    assert now(scene) == before
    post("redo")
    assert post(form="inset-group", layer=made.id, frame="3").status_code == 200
    assert {x.id for x in now(scene).layers} == {x.id for x in before.layers}
    assert inner.value() == Row.objects.get(pk=inner.pk).value()


@pytest.mark.parametrize(("layer", "words"), [("box", "not a group"), ("nobody", "no layer")])
def test_what_is_no_group_makes_no_scene(post, scene, layer, words):
    count = Row.objects.count()
    answer = post("group-scene", layer=layer)
    assert (answer.status_code, Row.objects.count()) == (422, count)
    assert words in answer.json()["words"]


def test_the_editor_leads_back_to_where_one_came_from(client, showing, buoy):
    page = client.get(reverse("editor", args=[buoy.pk]), {"from": str(showing.pk)}).content.decode()
    assert f'href="{reverse("editor", args=[showing.pk])}"' in page
    for odd in ("x", "9" * 30, "404404"):
        assert client.get(reverse("editor", args=[buoy.pk]), {"from": odd}).status_code == 200


def test_a_window_that_was_away_hears_that_what_it_shows_is_another(client, anna, showing, buoy):
    asked = reverse("revision", args=[showing.pk])
    before = client.get(asked).json()
    change(anna, buoy, background="#123456")
    after = client.get(asked).json()
    assert (before["revision"] == after["revision"], before["shown"] != after["shown"]) == (
        True,
        True,
    )
    assert client.get(reverse("revision", args=[buoy.pk])).json()["shown"] == 0


@pytest.mark.parametrize("odd", ["9" * 40, "whale", "-", "0"])
def test_ids_that_are_nothing_here_show_nothing(anna, project, client, odd):
    """As files from elsewhere may name scenes."""
    value = Scene(layers=(Layer("l", "L", inset_of(odd, Scene())),))
    row = services.create_scene(anna, project, "Odd", value)
    assert row.value().scenes == ()
    for name in ("editor", "stage", "shelf", "revision"):
        assert client.get(reverse(name, args=[row.pk])).status_code == 200
    card = client.get(reverse("card", args=[row.pk]), {"layer": "l"}).content.decode()
    assert "is not here" in card
    assert client.get(reverse("projects")).status_code == 200


def test_one_that_is_too_large_to_be_shown_is_refused(post, scene, value, anna, project):
    many = tuple(Layer(f"l{i}", "L", Shape()) for i in range(MOST_LAYERS))
    large = services.create_scene(anna, project, "Large", Scene(layers=many))
    refused_in_words(
        post,
        scene,
        value,
        {"form": "inset", "shown": str(large.pk)},
        422,
        "layers; a scene may have",
    )
