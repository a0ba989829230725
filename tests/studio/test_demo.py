"""The demo: loaded once, kept as the person left it, started over when asked to."""

import io
import socket

import pytest
from django.core.management import CommandError, call_command

from coaster.render import seam
from coaster.render.evaluate import Evaluation
from studio.demo import loader
from studio.projects import services
from studio.projects.models import Project, Scene
from studio.upkeep import running


@pytest.fixture(autouse=True)
def one_person(settings):
    settings.SERVER_MODE = False


@pytest.fixture
def person(db):
    return services.single_person()


def test_it_is_loaded_once_and_keeps_what_was_changed(person):
    assert loader.load(person)
    scene = Scene.objects.first()
    services.rename_scene(person, scene, "My manta")
    services.bin_scene(person, Scene.objects.last())
    assert not loader.load(person)
    assert Scene.objects.filter(deleted_at=None).first().name == "My manta"
    assert Scene.objects.filter(deleted_at=None).count() == 10


def test_fresh_starts_over_and_puts_the_persons_in_the_bin(person):
    loader.load(person)
    services.rename_scene(person, Scene.objects.first(), "My manta")
    assert loader.load(person, fresh=True)
    shown = Scene.objects.visible_to(person)
    assert sorted(s.name for s in shown) == sorted(
        [
            "Manta loop",
            "Jellies on the oval",
            "High water at four",
            "A round by torchlight",
            "Bobbing buoy",
            "The keeper's round",
            "Through the porthole",
            "At the kelp window",
            "Buoy at the window",
            "Round the opening hours",
            "Lanterns over still water",
        ]
    )
    binned = Project.objects.get(deleted_at__isnull=False)
    assert binned.scenes.first().name == "My manta"


def test_every_scene_of_it_loops_clean_and_one_is_transparent(person):
    loader.load(person)
    values = [scene.value() for scene in Scene.objects.all()]
    for value in values:
        assert [s.reasons() for s in seam.report(Evaluation(value)) if not s.clean] == []
    assert [value.background is None for value in values].count(True) == 1


def test_the_command_loads_it_and_says_so(person, monkeypatch):
    monkeypatch.setattr(running, "run", lambda port, ready, host: ready())
    said = io.StringIO()
    call_command("demo", "--port", "0", stdout=said)
    assert "The demo was loaded." in said.getvalue()
    assert "http://127.0.0.1:" in said.getvalue()
    call_command("demo", "--load-only", stdout=said)
    assert "The demo is as you left it" in said.getvalue()


def test_a_taken_port_is_passed_over_unless_it_was_asked_for(monkeypatch):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        with pytest.raises(CommandError, match=f"Port {port} is in use"):
            running.free_port(port)
        monkeypatch.setattr(running, "PORT", port)
        assert running.free_port(None) != port


def test_no_free_port_is_said(monkeypatch):
    class Busy:
        def __enter__(self):
            return self

        def __exit__(self, *args):
            pass

        def setsockopt(self, *args):
            pass

        def bind(self, address):
            raise OSError

    monkeypatch.setattr(running.socket, "socket", Busy)
    with pytest.raises(CommandError, match="all in use"):
        running.free_port(None)
    with pytest.raises(CommandError, match="is no port"):
        running.free_port(70_000)


def test_nobody_else_comes_to_a_studio_in_which_nobody_signs_in(settings):
    assert running.host_of("127.0.0.1") == "127.0.0.1"
    with pytest.raises(CommandError, match="without signing in"):
        running.host_of("0.0.0.0")  # noqa: S104 - it is refused
    settings.SERVER_MODE = True
    assert running.host_of("0.0.0.0") == "0.0.0.0"  # noqa: S104
