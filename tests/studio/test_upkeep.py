"""What keeps a studio well: what goes and what stays when it is tidied, and what is seen of ills."""

import errno
import io
import json
import os
import time
from datetime import timedelta
from pathlib import Path as File

import pytest
from django.core.management import CommandError, call_command
from django.db import DatabaseError, OperationalError, connection
from django.db.migrations.recorder import MigrationRecorder
from django.urls import reverse
from django.utils import timezone

from coaster.commands.fields import set_layer
from coaster.edits.edit import edit_of
from coaster.errors import EditRefused
from coaster.export import cluster
from studio.config import static
from studio.editor import services as edits
from studio.editor.services import StaleRevision
from studio.jobs import presence
from studio.jobs.models import State
from studio.projects import replay, services, troubles
from studio.projects.models import Asset, Revision, Scene
from studio.renders.models import Render
from studio.upkeep import doctor, tidy


@pytest.fixture
def rendered(scene) -> Render:
    made = Render.objects.create(
        scene=scene, author=scene.project.owner, revision=0, document=scene.document,
        format="mp4", width=160, height=120, total=24, state=State.DONE,
    )  # fmt: skip
    services.write_whole(made.file, b"video")
    return made


def named(scene, count: int) -> None:
    for i in range(count):
        step = set_layer("fish", name=f"Fish {i}")
        edits.edit(scene.project.owner, scene.pk, lambda _, s=step: edit_of([s]), base=i)


@pytest.mark.django_db(transaction=True)
def test_what_belongs_to_nothing_goes_and_all_else_stays(scene, rendered, settings):
    named(scene, 3)
    old, young = rendered.file.parent / ".7.mp4.x.part", rendered.file.parent / ".8.mp4.x.part"
    gone = [settings.DATA / "renders" / "999" / "1.mp4", settings.DATA / "projects" / "999" / "x"]
    for file in (*gone, scene.project.folder / "stray.png", old, young):
        services.write_whole(file, b"x" * 100)
    os.utime(old, (time.time() - 7200,) * 2)
    found = {each.words: (each.count, each.size) for each in tidy.find()}
    assert found["files that were never finished"] == (1, 100)
    assert found["files of scenes, projects and pictures that are gone"] == (3, 300)
    tidy.remove(tidy.find())
    assert not any(file.exists() for file in (*gone, old))
    assert all(file.is_file() for file in (young, rendered.file, Asset.objects.get().path))
    assert Revision.objects.filter(scene=scene).count() == 4
    assert [each.count for each in tidy.find()] == [0] * 5


@pytest.mark.django_db(transaction=True)
def test_looking_removes_nothing(scene, rendered, settings):
    stray = scene.project.folder / "stray.png"
    services.write_whole(stray, b"x")
    out = io.StringIO()
    call_command("tidy", "--look", stdout=out)
    assert "1  files of scenes" in out.getvalue()
    assert stray.exists()
    call_command("tidy", stdout=out)
    assert not stray.exists()


@pytest.mark.django_db(transaction=True)
def test_old_revisions_go_as_far_as_each_of_the_rest_can_still_be_shown(scene, settings):
    named(scene, 120)
    settings.HISTORY = 40
    tidy.remove(tidy.find())
    left = list(Revision.objects.filter(scene=scene).values_list("number", flat=True))
    assert left == list(range(50, 121))
    row = Scene.objects.get(pk=scene.pk)
    assert replay.document_at(row, 50).layer("fish").name == "Fish 49"
    with pytest.raises(StaleRevision, match="tidied away"):
        edits.edit(
            row.project.owner, row.pk, lambda _: edit_of([set_layer("box", name="B")]), base=9
        )
    for _ in range(71):
        edits.undo(row.project.owner, row.pk)
    assert Scene.objects.get(pk=scene.pk).value().layer("fish").name == "Fish 48"
    with pytest.raises(EditRefused, match="nothing to undo"):
        edits.undo(row.project.owner, row.pk)


def seen(what: str) -> doctor.Finding:
    return next(found for found in doctor.examine() if found.what == what)


@pytest.fixture
def kept(settings, scene):
    """The database where the doctor looks for it: the tests' own has another name."""
    settings.DATABASE = File(connection.settings_dict["NAME"])


def test_a_studio_that_is_well(kept, rendered):
    with presence.working():
        assert [found for found in doctor.examine() if not found.well] == []


def test_ills_are_told_by_name(kept, scene, rendered):
    rendered.file.unlink()
    assert f"renders/{scene.pk}/{rendered.pk}.mp4" in seen("files").words
    Scene.objects.filter(pk=scene.pk).update(document="{}")
    assert "Loop" in seen("scenes").words
    Render.objects.update(state=State.WAITING)
    assert "1 renders wait" in seen("worker").words
    out = io.StringIO()
    with pytest.raises(SystemExit):
        call_command("doctor", stdout=out)
    assert out.getvalue().count("LOOK") == 2


def test_a_cluster_that_cannot_be_reached_is_told(monkeypatch, settings, db):
    settings.CLUSTER = "tcp://127.0.0.1:9"
    monkeypatch.setattr(cluster, "CONNECT_S", 0.3)
    found = seen("cluster")
    assert not found.well
    assert "tcp://127.0.0.1:9 cannot be reached" in found.words


def test_a_damaged_database_is_told_and_nothing_more_is_asked_of_it(settings, tmp_path, db):
    settings.DATABASE = tmp_path / "coaster.sqlite3"
    settings.DATABASE.write_bytes(b"SQLite format 3\0" + b"\xff" * 5000)
    *_, last = doctor.examine()
    assert (last.what, last.well) == ("database", False)
    assert "backup" in last.words


def test_a_waiting_render_says_whether_somebody_works(client_of, anna, scene, rendered):
    Render.objects.update(state=State.WAITING)
    page = reverse("renders", args=[scene.pk])
    assert "nobody works here" in client_of(anna).get(page).content.decode()
    with presence.working():
        assert "Waits for its turn" in client_of(anna).get(page).content.decode()


@pytest.mark.parametrize("hours", [-30, 30])
def test_a_clock_that_was_set_back_or_on_ends_what_no_process_does(rendered, hours):
    alive = timezone.now() + timedelta(hours=hours)
    Render.objects.update(state=State.RUNNING, alive_at=alive)
    found = Render.objects.get()
    assert (found.interrupted, found.active) == (True, False)
    assert list(Render.silent()) == [found]


def test_nudges_a_day_apart_by_a_clock_that_was_set_back_are_two(scene, anna):
    def nudge(name: str, base: int) -> None:
        step = set_layer("fish", name=name)
        edits.edit(anna, scene.pk, lambda _: edit_of([step]), base=base, nudge=True)

    nudge("One", 0)
    Revision.objects.filter(number=1).update(made_at=timezone.now() + timedelta(days=1))
    nudge("Two", 1)
    assert not Revision.objects.get(number=2).joins


@pytest.mark.parametrize(
    ("ill", "words"),
    [
        (OperationalError("database or disk is full"), "disk is full"),
        (OperationalError("attempt to write a readonly database"), "cannot be written to"),
        (OSError(errno.ENOSPC, "No space left on device"), "disk is full"),
        (DatabaseError("database disk image is malformed"), "is damaged"),
    ],
)
def test_ills_of_the_disk_are_said_as_they_are_and_an_edit_may_be_sent_again(
    post, scene, monkeypatch, ill, words
):
    def ailing(*_args, **_more):
        raise ill

    monkeypatch.setattr(edits, "_append", ailing)
    answer = post(form="add", what="text", headers={"Sec-Fetch-Mode": "cors"})
    assert answer.status_code == 503
    assert words in answer.json()["words"]
    assert "was not kept" in answer.json()["words"]


def test_other_mistakes_are_not_put_down_to_the_disk():
    assert troubles.words_of(OperationalError("no such table: x")) is None
    assert troubles.words_of(FileNotFoundError(errno.ENOENT, "No such file")) is None
    assert troubles.words_of(ValueError("disk is full")) is None


def test_a_database_of_a_later_version_is_left_alone(db, settings):
    MigrationRecorder(connection).record_applied("projects", "0999_later")
    assert doctor.used_by_later()
    with pytest.raises(CommandError, match="later version"):
        call_command("demo", "--load-only")
    assert not Scene.objects.exists()


def test_static_files_are_collected_once_a_version(settings, tmp_path):
    settings.STATIC_ROOT = tmp_path
    backend = {"BACKEND": "studio.config.static.ModuleStorage"}
    settings.STORAGES = settings.STORAGES | {"staticfiles": backend}
    told = tmp_path / "staticfiles.json"
    static.collect()
    first = told.stat().st_mtime_ns
    static.collect()
    assert told.stat().st_mtime_ns == first
    (tmp_path / static.MARK).write_text("of an earlier version")
    static.collect()
    assert told.stat().st_mtime_ns > first
    assert json.loads(told.read_text())["paths"]["studio/app.css"].startswith("studio/app.")
