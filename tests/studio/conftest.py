"""A studio of several people, with a scene in it that has everything a scene can have."""

import io
import json

import pytest
from django.contrib.auth.models import User
from django.test import Client
from django.urls import reverse
from PIL import Image

from coaster.motion import easing
from coaster.motion.ride import Facing, Ride
from coaster.motion.sampling import simple_pegs
from coaster.scene.contents import Line, Picture, Shape, Text
from coaster.scene.document import Layer, Scene, Transform
from studio.demo.scenes import path
from studio.projects import services
from studio.projects.models import Project
from studio.projects.models import Scene as Row


def png(size: tuple[int, int] = (8, 4), colour: tuple[int, ...] = (228, 87, 46, 255)) -> bytes:
    out = io.BytesIO()
    Image.new("RGBA", size, colour).save(out, "PNG")
    return out.getvalue()


@pytest.fixture(autouse=True)
def several_people(settings, tmp_path):
    settings.SERVER_MODE = True
    settings.DATA = tmp_path


@pytest.fixture
def anna(db) -> User:
    return User.objects.create_user("anna", password="tide-pool-7")


@pytest.fixture
def ben(db) -> User:
    return User.objects.create_user("ben", password="tide-pool-8")


@pytest.fixture
def project(anna) -> Project:
    return services.create_project(anna, "Lobby")


@pytest.fixture
def value(project) -> Scene:
    asset, _ = services.import_picture(project.owner, project, png(), "fish.png")
    ring = path("ring", "Ring", "M20 60A40 40 0 0 1 100 60A40 40 0 0 1 20 60Z")
    ride = Ride("ring", simple_pegs(0, 24, 1, easing.EVEN), Facing())
    return Scene(
        160, 120, length=24, background="#103040",
        layers=(
            Layer("line", "Wake line", Line("ring")),
            Layer("fish", "Fish", Picture(asset.file_name, 8, 4), Transform(scale=(4, 4)), ride),
            Layer("box", "Box", Shape("rectangle", 20, 10), Transform((80, 60))),
            Layer("words", "Words", Text("Tide", size=20), Transform((80, 20))),
        ),
        paths=(ring,),
    )  # fmt: skip


@pytest.fixture
def scene(project, value) -> Row:
    return services.create_scene(project.owner, project, "Loop", value)


@pytest.fixture
def client_of():
    def make(user: User | None) -> Client:
        client = Client()
        if user is not None:
            client.force_login(user)
        return client

    return make


@pytest.fixture
def post(client_of, anna, scene):
    client = client_of(anna)

    def send(name: str = "edit", headers=None, **fields):
        fields.setdefault("base", Row.objects.get(pk=scene.pk).revision)
        if "commands" in fields and not isinstance(fields["commands"], str):
            fields["commands"] = json.dumps(fields["commands"])
        return client.post(reverse(name, args=[scene.pk]), fields, headers=headers)

    return send


def now(scene) -> object:
    return Row.objects.get(pk=scene.pk).value()


def done_and_undone(post, scene, value, fields, holds) -> None:
    """A look ahead changes nothing; an edit does what it says; undo and redo are exact."""
    looked = post("preview", **fields)
    assert (looked.status_code, now(scene)) == (200, value)
    assert post(**fields).status_code == 200
    done = now(scene)
    assert holds(done)
    assert post("undo").status_code == 200
    assert now(scene) == value
    assert post("redo").status_code == 200
    assert now(scene) == done


def refused_in_words(post, scene, value, fields, status, words) -> None:
    answer = post(**fields)
    assert answer.status_code == status
    assert words in answer.json()["words"]
    assert "\n" not in answer.json()["words"]
    assert now(scene) == value
