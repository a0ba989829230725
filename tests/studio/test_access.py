"""Every page, file and endpoint: the owner gets it, others get nothing, strangers sign in first."""

import pytest
from django.urls import URLPattern, get_resolver, reverse

from coaster.commands.fields import set_path
from coaster.edits.edit import edit_of
from coaster.export.orders import Choices
from coaster.geometry.path import Provenance
from studio.api import keys
from studio.editor import library
from studio.editor import services as edits
from studio.jobs.models import State
from studio.projects import services
from studio.projects.models import Asset, Project, Scene
from studio.renders.models import Render
from studio.renders.services import keep_preset
from tests.core.moving import animated

GETS = {
    "projects": {}, "bin": {}, "project-files": {"project_id": 0}, "save-project": {"project_id": 0}, "new-scene": {"project_id": 0}, "save-scene": {"scene_id": 0},
    "still": {"scene_id": 0, "revision": 0}, "moving": {"scene_id": 0, "revision": 0},
    "asset": {"project_id": 0, "file_name": ""},
    "editor": {"scene_id": 0}, "stage": {"scene_id": 0}, "shelf": {"scene_id": 0}, "card": {"scene_id": 0}, "why": {"scene_id": 0}, "seam": {"scene_id": 0},
    "ride-svg": {"scene_id": 0, "layer_id": ""}, "revision": {"scene_id": 0}, "scenes": {"scene_id": 0}, "shown": {"scene_id": 0},
    "history": {"scene_id": 0}, "stage-at": {"scene_id": 0, "number": 0},
    "passed": {"scene_id": 0, "layer_id": "", "node_id": ""},
    "path-svg": {"scene_id": 0, "path_id": ""},
    "path-data": {"scene_id": 0, "path_id": ""}, "new-path-data": {"scene_id": 0},
    "take-csv": {"scene_id": 0, "path_id": ""}, "take-svg": {"scene_id": 0, "path_id": ""},
    "raw-take": {"scene_id": 0, "path_id": ""},
    "library": {"scene_id": 0}, "renders": {"scene_id": 0}, "series": {"scene_id": 0}, "queue": {}, "screen": {"project_id": 0}, "frame-picture": {"scene_id": 0, "number": 0}, "render-seen": {"render_id": 0}, "render-file": {"render_id": 0},
    "footage-block": {"project_id": 0, "file_name": "film.gif", "number": 0}, "footage-frame": {"project_id": 0, "file_name": "film.gif", "index": 0},
    "footage-small": {"project_id": 0, "file_name": "film.gif"},
    "account": {}, "change-password": {}, "people": {}, "programs": {}, "manual": {}, "manual-page": {"path": "words.html"},
}  # fmt: skip
POSTS = {
    "create-project": {}, "empty-bin": {}, "open-project": {}, "bin-unused": {"project_id": 0}, "bin-file": {"project_id": 0, "asset_id": 0}, "restore-files": {"project_id": 0}, "act-in-bin": {"kind": "scene", "pk": 0, "action": "erase"}, "rename-project": {"project_id": 0}, "delete-project": {"project_id": 0},
    "restore-project": {"project_id": 0}, "open-scene": {"project_id": 0}, "rename-scene": {"scene_id": 0},
    "duplicate-scene": {"scene_id": 0}, "delete-scene": {"scene_id": 0}, "restore-scene": {"scene_id": 0}, "rescue-scene": {"scene_id": 0},
    "edit": {"scene_id": 0}, "preview": {"scene_id": 0}, "undo": {"scene_id": 0}, "redo": {"scene_id": 0},
    "import": {"scene_id": 0}, "blocks": {"scene_id": 0}, "keep-ride": {"scene_id": 0}, "record-take": {"scene_id": 0},
    "forget-ride": {"scene_id": 0, "ride_id": 0},
    "render-start": {"scene_id": 0}, "series-read": {"scene_id": 0}, "series-add": {"scene_id": 0}, "series-look": {"scene_id": 0}, "series-start": {"scene_id": 0}, "render-several": {}, "screen-act": {"project_id": 0, "action": "link"}, "render-told": {"scene_id": 0}, "render-size": {"scene_id": 0}, "preset-keep": {"scene_id": 0}, "preset-drop": {"scene_id": 0, "preset_id": 0}, "render-act": {"render_id": 0, "action": "delete"},
    "group-scene": {"scene_id": 0}, "follow": {"scene_id": 0, "what": "mark"}, "followed": {"scene_id": 0}, "go-back": {"scene_id": 0, "number": 0}, "name-version": {"scene_id": 0, "number": 0}, "version-as-new": {"scene_id": 0, "number": 0},
    "footage-act": {"project_id": 0, "file_name": "film.gif", "action": "cancel"},
    "add-person": {}, "act-on-person": {"person_id": 0, "action": "off"},
    "make-key": {}, "withdraw-key": {"key_id": 0},
}  # fmt: skip
OPEN = {"sign-in", "sign-out", "set-password", "health",
        "linked-screen", "linked-file", "screen-worker", "set_language", "texts"}  # fmt: skip
EVERYBODYS = {
    "projects",
    "bin",
    "account",
    "change-password",
    "create-project",
    "empty-bin",
    "open-project",
    "queue",
    "render-several",
    "programs",
    "manual",
    "manual-page",
    "make-key",
}
"""Where each person finds or makes what is their own."""
STAFFS = {"people", "add-person", "act-on-person"}


def names(patterns) -> set[str]:
    found = set()
    for pattern in patterns:
        if isinstance(pattern, URLPattern):
            found.add(pattern.name)
        # Django's own pages, there for a server of several people, are asked for in test_people;
        # what programs ask for in test_api.
        elif pattern.namespace not in ("admin", "api"):
            found |= names(pattern.url_patterns)
    return found


def test_no_address_is_left_out_here():
    assert names(get_resolver().url_patterns) == {*GETS, *POSTS, *OPEN}


@pytest.fixture
def address(scene, ben):
    services.write_whole(scene.project.folder / "x", b"")
    render = Render.objects.create(
        scene=scene, author=scene.project.owner, revision=0, document=scene.document,
        format="mp4", width=160, height=120, total=24, state=State.DONE,
    )  # fmt: skip
    services.write_whole(render.file, b"video")
    services.write_whole(render.picture, b"picture")
    ids = {
        "project_id": scene.project_id,
        "scene_id": scene.pk,
        "render_id": render.pk,
        "revision": 0,
    }
    raw = services.keep_take(
        scene.project.owner, scene.project, "t,x,y\n0,1,1\n1,50,5\n", "Walk", 2
    )
    drawn = set_path("ring", drawn=Provenance(raw.file_name))
    edits.edit(scene.project.owner, scene.pk, lambda value: edit_of([drawn]), base=0)
    animated(scene.project.folder / "film.gif", 2, "GIF")
    Asset.objects.create(
        project=scene.project, file_name="film.gif", original_name="Film", width=160, height=64
    )
    kept = library.keep(scene.project.owner, scene, "fish", "Round")
    ids |= {
        "ride_id": kept.pk,
        "file_name": Asset.objects.get(file_name__endswith=".png").file_name,
        "number": 0,
        "index": 0,
        "action": "delete",
        "path_id": "ring",
        "layer_id": "fish",
        "kind": "scene",
        "pk": scene.pk,
        "asset_id": Asset.objects.get(file_name__endswith=".png").pk,
        "person_id": ben.pk,
        "key_id": keys.make(scene.project.owner, "Mine")[0].pk,
        "preset_id": keep_preset(scene.project.owner, "Mine", Choices()).pk,
        "node_id": scene.value().path("ring").nodes()[0].id,
    }

    def make(name: str) -> str:
        wanted = (GETS | POSTS)[name]
        return reverse(name, kwargs={key: value or ids[key] for key, value in wanted.items()})

    return make


@pytest.mark.parametrize("name", [*GETS, *POSTS])
def test_a_stranger_is_sent_to_sign_in(client_of, address, name):
    client = client_of(None)
    answer = client.get(address(name)) if name in GETS else client.post(address(name))
    assert answer.status_code == 302
    assert answer.url.startswith(reverse("sign-in"))


@pytest.mark.parametrize("name", [n for n in GETS if n not in EVERYBODYS | STAFFS])
def test_somebody_else_finds_nothing(client_of, ben, anna, address, name):
    assert client_of(ben).get(address(name)).status_code == 404
    assert client_of(anna).get(address(name)).status_code == 200


@pytest.mark.parametrize("name", sorted(STAFFS))
def test_accounts_are_for_those_who_look_after_them(client_of, anna, ben, address, name):
    client = client_of(anna)
    answer = client.get(address(name)) if name in GETS else client.post(address(name))
    assert answer.status_code == 403
    ben.refresh_from_db()
    assert ben.is_active


@pytest.mark.parametrize("name", [n for n in POSTS if n not in EVERYBODYS | STAFFS])
def test_somebody_else_changes_nothing(client_of, ben, address, name, scene):
    before = state()
    assert (
        client_of(ben)
        .post(address(name), {"name": "Mine", "form": "add", "what": "text", "base": 0})
        .status_code
        == 404
    )
    assert state() == before


def state() -> list:
    rows = [
        list(model.objects.order_by("pk").values()) for model in (Project, Scene, Render, Asset)
    ]
    return [[{k: v for k, v in row.items() if k != "edited_at"} for row in table] for table in rows]


def test_others_do_not_see_it_in_their_list(client_of, ben, scene):
    assert b"Lobby" not in client_of(ben).get(reverse("projects")).content


@pytest.mark.parametrize("name", [*POSTS])
def test_nothing_is_changed_by_following_a_link(client_of, anna, address, name):
    assert client_of(anna).get(address(name)).status_code == 405


def test_without_the_token_nothing_is_taken(anna, address):
    from django.test import Client

    client = Client(enforce_csrf_checks=True)
    client.force_login(anna)
    assert client.post(address("delete-scene")).status_code == 403


def test_what_is_in_the_bin_is_gone_for_everybody_until_it_is_restored(
    client_of, anna, scene, address
):
    client = client_of(anna)
    client.post(address("delete-scene"))
    assert client.get(address("stage")).status_code == 404
    assert (
        client.post(address("edit"), {"form": "add", "what": "text", "base": 0}).status_code == 404
    )
    client.post(address("restore-scene"))
    assert client.get(address("stage")).status_code == 200
    client.post(address("delete-project"))
    assert client.get(address("stage")).status_code == 404
    assert client.post(address("restore-scene")).status_code == 404
    client.post(address("restore-project"))
    assert client.get(address("stage")).status_code == 200


@pytest.mark.parametrize("path", ["../../coaster.sqlite3", "x", "..%2fx"])
def test_only_known_pictures_are_given_out(client_of, anna, scene, path):
    services.write_whole(scene.project.folder / "x", b"secret")
    assert client_of(anna).get(f"/projects/{scene.project_id}/assets/{path}").status_code == 404


def test_pages_carry_a_policy_without_inline_scripts(client_of, anna, address):
    answer = client_of(anna).get(address("editor"))
    policy = answer.headers["Content-Security-Policy"]
    assert "script-src 'self'" in policy
    assert "unsafe" not in policy
    assert b" style=" not in answer.content
    assert b"onclick" not in answer.content


def test_one_person_on_their_own_machine_is_signed_in(client_of, settings, db):
    settings.SERVER_MODE = False
    assert client_of(None).get(reverse("projects")).status_code == 200


def test_signing_in_needs_the_password(client_of, anna, settings):
    client = client_of(None)
    wrong = client.post(reverse("sign-in"), {"username": "anna", "password": "tide"})
    assert b"do not belong together" in wrong.content
    right = client.post(reverse("sign-in"), {"username": "anna", "password": "tide-pool-7"})
    assert right.url == reverse("projects")
