"""What the stage says of a layer that is not seen, and its buttons: each mends what it says."""

import json
import re
from html import unescape

import pytest
from django.urls import reverse

from studio.editor.why import CURES, is_opaque, told
from studio.projects import services
from studio.projects.models import Scene as Row
from tests.core.test_unseen import CASES
from tests.studio.conftest import png

UNSEEN = {
    name: (shown, frame)
    for name, (shown, frame, wanted) in CASES.items()
    if wanted and not list(shown.assets())
}
INCURABLE = {"nothing in it", "nothing shown in it", "of a scene that is gone"}


def asked(client, scene, frame: int) -> str:
    answer = client.get(reverse("why", args=[scene.pk]), {"layer": "front", "frame": str(frame)})
    assert answer.status_code == 200
    return answer.content.decode()


def pressed(button: str, frame: int) -> dict[str, str]:
    """Return what a button sends."""
    told_of = {
        name: unescape(value)
        for name, _, value in re.findall(r"data-([a-z]+)=(['\"])(.*?)\2", button)
    }
    if "commands" in told_of:
        return {"commands": told_of["commands"]}
    fields = dict(
        pair.split("=") for part in ("target", "fields") for pair in told_of[part].split("&")
    )
    return {"form": told_of["form"], "frame": str(frame), **fields}


@pytest.mark.parametrize(("shown", "frame"), UNSEEN.values(), ids=UNSEEN)
def test_every_button_mends_what_is_said(client_of, anna, project, request, shown, frame):
    scene = services.create_scene(anna, project, "Pile", shown)
    client = client_of(anna)
    before = asked(client, scene, frame)
    assert "<p>" in before
    buttons = re.findall(r"<button.*?</button>", before, re.S)
    assert bool(buttons) == (request.node.callspec.id not in INCURABLE)
    for button in buttons:
        base = Row.objects.get(pk=scene.pk).revision
        answer = client.post(
            reverse("edit", args=[scene.pk]), pressed(button, frame) | {"base": str(base)}
        )
        assert answer.status_code == 200, answer.content
    after = [reason.kind for reason, _ in told(Row.objects.get(pk=scene.pk), "front", frame)]
    assert after == [] if buttons else after


def test_there_is_a_cure_of_every_kind_here_and_seen_things_have_no_words(client_of, anna, scene):
    kinds = {kind for _, _, wanted in CASES.values() for kind, _ in wanted} | {"gap"}
    assert set(CURES) | {"empty", "gone"} == kinds
    client = client_of(anna)
    for layer in ("box", "gone", ""):
        answer = client.get(reverse("why", args=[scene.pk]), {"layer": layer, "frame": "x"})
        assert (answer.status_code, answer.content.strip()) == (200, b"")


def test_a_picture_hides_what_is_behind_it_only_if_all_of_it_is_opaque(tmp_path):
    for name, colour, opaque in (("a.png", (9, 9, 9, 255), True), ("b.png", (9, 9, 9, 254), False)):
        (tmp_path / name).write_bytes(png(colour=colour))
        assert is_opaque(tmp_path / name) is opaque
    (tmp_path / "c.png").write_bytes(b"no picture")
    assert not is_opaque(tmp_path / "c.png")
    assert not is_opaque(tmp_path / "gone.png")


def test_the_commands_of_a_button_are_json(client_of, anna, project):
    shown, frame, _ = CASES["hidden"]
    scene = services.create_scene(anna, project, "Pile", shown)
    sent = pressed(
        re.findall(r"<button.*?</button>", asked(client_of(anna), scene, frame), re.S)[0], frame
    )
    assert json.loads(sent["commands"])[0]["values"] == {"visible": True}
