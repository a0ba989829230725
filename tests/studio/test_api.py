"""Programs come in with a key, as one person: what they may, they can; what they may not, is said."""

import json
from datetime import timedelta

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from coaster.commands.fields import set_scene
from coaster.edits.edit import edit_of
from coaster.scene.fields import SceneField
from studio.api import keys
from studio.api.models import Key
from studio.api.operations import api
from studio.editor import services as edits
from studio.jobs.models import State
from studio.projects import services
from studio.projects.models import Project, Scene
from studio.renders.models import Render
from tests.studio.conftest import now, png


@pytest.fixture
def ask_as():
    """Ask as a program does: with a key, and nothing else."""

    def made(user):
        key = keys.make(user, "Timetable")[1] if user else "coaster_none"

        def ask(method: str, path: str, body: object = None, **fields):
            has_body = body is not None and method == "post"
            sent = fields or (json.dumps(body) if has_body else None)
            kind = {} if fields or sent is None else {"content_type": "application/json"}
            send = getattr(Client(enforce_csrf_checks=True), method.lower())
            return send(f"/api{path}", sent, headers={"Authorization": f"Bearer {key}"}, **kind)

        return ask

    return made


@pytest.fixture
def ask(ask_as, anna):
    return ask_as(anna)


@pytest.fixture
def template(scene):
    fields = (
        SceneField("words", "words", "text"),
        SceneField("Colour", "box", "colour"),
        SceneField("fish", "fish", "picture"),
        SceneField("course", "ring", "shape"),
    )
    edits.edit(
        scene.project.owner, scene.pk, lambda value: edit_of([set_scene(fields=fields)]), base=0
    )
    return scene


@pytest.fixture
def film(scene):
    made = Render.objects.create(
        scene=scene, author=scene.project.owner, revision=0, document=scene.document,
        format="mp4", width=160, height=120, total=24, state=State.DONE, size=5,
    )  # fmt: skip
    services.write_whole(made.file, b"video")
    return made


def operations() -> list[tuple[str, str]]:
    found = api.get_openapi_schema()["paths"].items()
    return [(method, path.removeprefix("/api")) for path, methods in found for method in methods]


def at(path: str, scene: Scene, film: Render) -> str:
    ids = {"project_id": scene.project_id, "scene_id": scene.pk, "render_id": film.pk, "number": 0}
    return path.format(**ids)


def state() -> list:
    return [list(model.objects.order_by("pk").values()) for model in (Project, Scene, Render)]


@pytest.mark.parametrize(("method", "path"), operations())
def test_without_a_key_nothing_is_told_or_done(ask_as, client_of, anna, scene, film, method, path):
    before, address = state(), at(path, scene, film)
    refused = ask_as(None)(method, address, {})
    assert (refused.status_code, refused["WWW-Authenticate"]) == (401, "Bearer")
    assert "key" in refused.json()["words"]
    # A browser that is signed in brings none, so no page can ask in a person's name.
    browser = client_of(anna)
    assert getattr(browser, method)(f"/api{address}").status_code == 401
    assert state() == before


@pytest.mark.parametrize(("method", "path"), [o for o in operations() if "{" in o[1]])
def test_a_strangers_key_finds_nothing(ask_as, ben, scene, film, method, path):
    before, address = state(), at(path, scene, film)
    if path.endswith(("/open", "/pictures")):
        answer = ask_as(ben)(method, address, file=SimpleUploadedFile("a.png", png()))
    else:
        answer = ask_as(ben)(method, address, {"name": "x", "rows": "name\nx"})  # fmt: skip
    assert answer.status_code in (404, 422)
    if answer.status_code == 422:  # what it said is wrong already
        assert "belongs" in answer.json()["words"]
    assert state() == before


def test_lists_hold_ones_own_and_nothing_else(ask_as, anna, ben, scene, film):
    for path, id_ in (("/projects", scene.project_id), ("/scenes", scene.pk), ("/renders", film.pk)):  # fmt: skip
        assert [one["id"] for one in ask_as(anna)("get", path).json()] == [id_]
        assert ask_as(ben)("get", path).json() == []


def test_keys_are_shown_once_and_only_their_digest_is_kept(client_of, anna):
    client = client_of(anna)
    shown = client.post(reverse("make-key"), {"name": "Lobby"}).content.decode()
    text = shown.partition(keys.BEGINS)[2].partition('"')[0]
    assert keys.owner_of(keys.BEGINS + text) == anna
    assert text not in client.get(reverse("programs")).content.decode()
    assert text not in str(Key.objects.values())


def test_a_key_that_is_withdrawn_or_of_an_account_that_is_off_lets_nobody_in(
    ask_as, client_of, anna, ben
):
    ask, other = ask_as(anna), ask_as(anna)
    client_of(anna).post(reverse("withdraw-key", args=[Key.objects.earliest("pk").pk]))
    assert (ask("get", "/scenes").status_code, other("get", "/scenes").status_code) == (401, 200)
    mine = Key.objects.get()
    assert client_of(ben).post(reverse("withdraw-key", args=[mine.pk])).status_code == 404
    anna.is_active = False
    anna.save()
    assert other("get", "/scenes").status_code == 401


@pytest.mark.parametrize("name", ["", "  ", "x" * 61])
def test_a_key_without_a_name_is_not_made(client_of, anna, name):
    answer = client_of(anna).post(reverse("make-key"), {"name": name})
    assert (answer.status_code, Key.objects.count()) == (422, 0)
    assert b"name of up to 60" in answer.content


def test_when_a_key_was_used_is_noted_to_the_minute(ask, anna):
    ask("get", "/scenes")
    first = Key.objects.get().used_at
    ask("get", "/scenes")
    assert Key.objects.get().used_at == first
    Key.objects.update(used_at=timezone.now() - timedelta(minutes=2))
    ask("get", "/scenes")
    assert Key.objects.get().used_at > first


def test_a_scene_is_read(ask, template):
    told = ask("get", f"/scenes/{template.pk}").json()
    assert (told["width"], told["height"], told["fps"], told["length"]) == (160, 120, 30, 24)
    assert {each["name"]: (each["kind"], each["value"]) for each in told["fields"]} == {
        "words": ("text", "Tide"), "Colour": ("colour", now(template).layer("box").standing("colour")),
        "fish": ("picture", ""), "course": ("path", told["fields"][3]["value"]),
    }  # fmt: skip
    document = ask("get", f"/scenes/{template.pk}/document").json()
    assert document["layers"][1]["name"] == "Fish"
    motion = ask("get", f"/scenes/{template.pk}/motion?layer=fish").json()["layers"]
    assert [len(each["x"]) for each in motion] == [24]
    frame = ask("get", f"/scenes/{template.pk}/frames/0.png")
    assert frame.content.startswith(b"\x89PNG")
    packed = ask("get", f"/scenes/{template.pk}/file")
    assert b"".join(packed.streaming_content).startswith(b"PK")


def test_a_scene_is_made_of_a_template(ask, template):
    ask("post", f"/projects/{template.project_id}/pictures", file=SimpleUploadedFile("ray.png", png((20, 10))))  # fmt: skip
    values = {"words": "High tide", "Colour": "#123456", "fish": "ray.png"}
    answer = ask("post", f"/scenes/{template.pk}/copies", {"name": "Tuesday", "values": values})
    assert answer.status_code == 201
    made = Scene.objects.get(pk=answer.json()["id"])
    value = made.value()
    assert (made.name, made.project) == ("Tuesday", template.project)
    assert value.layer("words").content.text == "High tide"
    assert value.layer("box").standing("colour") == "#123456"
    assert value.layer("fish").content.width == 20
    assert value.paths == now(template).paths
    assert now(template).layer("words").content.text == "Tide"


def test_a_scene_file_is_opened(ask, scene):
    packed = b"".join(ask("get", f"/scenes/{scene.pk}/file").streaming_content)
    file = SimpleUploadedFile("Brought.zip", packed)
    made = ask("post", f"/projects/{scene.project_id}/open", file=file).json()
    assert made["name"] == "Brought"
    assert now(Scene.objects.get(pk=made["id"])) == now(scene)


def test_a_render_is_put_in_line_filled_in(ask, template):
    answer = ask("post", f"/scenes/{template.pk}/renders", {
        "values": {"words": "Neap"}, "name": "neap", "choices": {"kind": "webm", "high": 60},
    })  # fmt: skip
    assert answer.status_code == 201
    told = answer.json()
    assert (told["state"], told["name"], told["frames"], told["height"], told["file"]) == ("waiting", "neap", 24, 60, None)  # fmt: skip
    assert "Neap" in Render.objects.get(pk=told["id"]).document
    assert ask("post", f"/renders/{told['id']}/cancel").json()["state"] == "cancelled"


def test_a_series_is_put_in_line_or_nothing_of_it(ask, template):
    rows = "name,words\nmon,Low\ntue,High\n"
    made = ask("post", f"/scenes/{template.pk}/series", {"rows": rows, "preset": "web"}).json()
    assert [(one["name"], one["state"]) for one in made] == [("mon", "waiting"), ("tue", "waiting")]
    bad = ask("post", f"/scenes/{template.pk}/series", {"rows": "name,Colour\na,#123456\nb,reddish\n"})  # fmt: skip
    assert (bad.status_code, Render.objects.count()) == (422, 2)
    assert "Row 2" in bad.json()["words"]


def test_what_is_done_is_fetched_also_in_part_and_deleted(ask, film):
    told = ask("get", f"/renders/{film.pk}").json()
    assert told["file"] == f"/api/renders/{film.pk}/file"
    assert b"".join(ask("get", f"/renders/{film.pk}/file").streaming_content) == b"video"
    assert ask("delete", f"/renders/{film.pk}").status_code == 204
    assert ask("get", f"/renders/{film.pk}").status_code == 404
    film.refresh_from_db()
    assert film.deleted_at is not None


REFUSED = {
    "unknown preset": ("/scenes/{scene}/renders", {"preset": "huge"}, "no preset 'huge'"),
    "unknown field": ("/scenes/{scene}/renders", {"values": {"tide": "x"}}, "no field 'tide'"),
    "no colour": ("/scenes/{scene}/copies", {"name": "x", "values": {"Colour": "red"}}, "no colour"),
    "no picture": ("/scenes/{scene}/copies", {"name": "x", "values": {"fish": "../x"}}, "no picture"),
    "no name": ("/scenes/{scene}/copies", {"values": {}}, "name is not there"),
    "a slip": ("/scenes/{scene}/renders", {"presets": "web"}, "presets is nothing that belongs there"),
    "number": ("/scenes/{scene}/renders", {"choices": {"loops": "many"}}, "choices > loops has to be a whole number"),
    "format": ("/scenes/{scene}/renders", {"choices": {"kind": "tape"}}, "tape"),
    "frames": ("/scenes/{scene}/renders", {"choices": {"first": 30}}, "30"),
    "not an object": ("/scenes/{scene}/copies", [], "dictionary"),
    "no table": ("/scenes/{scene}/series", {"rows": ""}, "first line"),
}  # fmt: skip


@pytest.mark.parametrize("case", REFUSED)
def test_what_cannot_be_is_said_in_words_and_nothing_is_made(ask, template, case):
    path, body, words = REFUSED[case]
    before = state()
    answer = ask("post", path.format(scene=template.pk), body)
    assert answer.status_code == 422, answer.content
    assert words in answer.json()["words"]
    assert state() == before


def test_numbers_are_for_who_looks_after_the_studio(ask_as, anna, ben, film):
    anna.is_staff = True
    anna.save()
    told = ask_as(anna)("get", "/metrics").content.decode()
    rows = dict(line.rsplit(" ", 1) for line in told.splitlines() if not line.startswith("#"))
    assert rows['coaster_renders{state="done"}'] == rows["coaster_scenes"] == "1.0"
    assert rows["coaster_people"] == "2.0"
    assert float(rows["coaster_disk_free_bytes"]) > 0
    assert ask_as(ben)("get", "/metrics").status_code == 403


def test_what_is_no_json_or_no_number_is_said(ask, template):
    path = f"/api/scenes/{template.pk}/copies"
    key = keys.make(template.project.owner, "x")[1]
    answer = Client().post(path, "{", "application/json", headers={"Authorization": f"Bearer {key}"})  # fmt: skip
    assert answer.status_code == 400
    assert answer.json()["words"]
    assert "nothing at /api/tides" in ask("get", "/tides").json()["words"]
    assert "What is sent" in ask("post", f"/scenes/{template.pk}/copies").json()["words"]
    assert "scene_id has to be a whole number" in ask("get", "/scenes/many").json()["words"]
    assert ask("get", f"/scenes/{template.pk}/frames/24.png").status_code == 404
    assert "motes" in ask("get", f"/scenes/{template.pk}/motion?layer=motes").json()["words"]


def test_the_room_that_each_has_holds_for_programs(ask, settings, template):
    settings.QUOTA = 1
    answer = ask("post", f"/scenes/{template.pk}/renders", {})
    assert (answer.status_code, Render.objects.count()) == (422, 0)
    assert "no room" in answer.json()["words"]


def test_what_is_too_large_is_said_to_programs_as_everything_is(ask, settings, scene):
    settings.LARGEST_UPLOAD = 100
    file = SimpleUploadedFile("a.png", png((64, 64)) + b"x" * 200)
    answer = ask("post", f"/projects/{scene.project_id}/pictures", file=file)
    assert answer.status_code == 413
    assert "can be sent at once" in answer.json()["words"]


def test_a_full_disk_is_said(ask, template, monkeypatch):
    def full(*_, **__):
        raise OSError(28, "No space left")

    monkeypatch.setattr(services, "create_scene", full)
    answer = ask("post", f"/scenes/{template.pk}/copies", {"name": "x"})
    assert answer.status_code == 503
    assert "disk is full" in answer.json()["words"]


def test_the_page_tells_all_operations_and_the_description_is_for_everybody(client_of, anna):
    page = client_of(anna).get(reverse("programs")).content.decode()
    for _, path in operations():
        assert f"/api{path}" in page
    described = client_of(None).get(reverse("api:openapi-json")).json()
    assert described["info"]["title"] == "Coaster"
    assert all(
        told["description"] for ways in described["paths"].values() for told in ways.values()
    )
