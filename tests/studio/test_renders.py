"""Renders: asked for, carried out, stopped, broken off, started again; and their files."""

import io
from datetime import timedelta

import av
import pytest
from django.urls import reverse
from django.utils import timezone

from coaster.edits.layers import delete_layers
from coaster.errors import EditRefused
from studio.editor import services as editing
from studio.jobs import services as jobs
from studio.jobs.models import State
from studio.renders import services
from studio.renders.models import Render


@pytest.fixture(autouse=True)
def drawn_here(settings):
    settings.RENDER_WORKERS = 0


@pytest.fixture
def asked(anna, scene) -> Render:
    return services.start(anna, scene, kind="mp4", loops=2)


def again(render: Render) -> Render:
    return Render.objects.get(pk=render.pk)


def test_a_render_is_of_the_scene_as_it_was_when_asked_for(anna, scene, asked):
    editing.edit(anna, scene.pk, lambda now: delete_layers(now, ["fish"]), base=0)
    jobs.carry_out("render", asked.pk)
    done = again(asked)
    assert (done.state, done.done, done.total, done.size) == (
        State.DONE,
        48,
        48,
        done.file.stat().st_size,
    )
    with av.open(str(done.file)) as container:
        pictures = [f.to_ndarray(format="rgb24") for f in container.decode(video=0)]
    assert len(pictures) == 48
    assert (pictures[0] != pictures[12]).any()  # the fish still swims in it


def test_a_render_is_carried_out_once(asked):
    jobs.carry_out("render", asked.pk)
    ended = again(asked).ended_at
    jobs.carry_out("render", asked.pk)
    assert again(asked).ended_at == ended


def test_a_waiting_render_is_cancelled_at_once_and_a_running_one_soon(anna, asked, monkeypatch):
    services.cancel(anna, asked)
    jobs.carry_out("render", asked.pk)
    assert again(asked).state == State.CANCELLED
    services.again(anna, again(asked))
    monkeypatch.setattr(jobs.Desk, "EVERY_S", 0.0)
    start = jobs.Desk.progress

    def cancel_at_five(desk, done: int) -> None:
        if done == 5:
            services.cancel(anna, again(asked))
        start(desk, done)

    monkeypatch.setattr(jobs.Desk, "progress", cancel_at_five)
    jobs.carry_out("render", asked.pk)
    assert again(asked).state == State.CANCELLED
    assert list(asked.file.parent.iterdir()) == []


def test_a_failing_render_says_which_frame_and_why_and_keeps_the_scene(asked, scene, value):
    for file in scene.project.folder.iterdir():
        file.write_bytes(b"no longer a picture")
    jobs.carry_out("render", asked.pk)
    failed = again(asked)
    assert failed.state == State.FAILED
    assert failed.words.startswith("Frame 0 could not be drawn: The picture ")
    assert failed.words.endswith("The scene is as it was.")
    assert scene.value() == value
    assert list(asked.file.parent.iterdir()) == []


def test_a_disk_that_refuses_is_a_failure_in_words(asked, monkeypatch):
    def full(*args, **options):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(services, "render", full)
    jobs.carry_out("render", asked.pk)
    assert "No space left on device" in again(asked).words


def test_a_silent_render_shows_as_interrupted_and_can_start_again(anna, scene, asked, client_of):
    silent = timezone.now() - timedelta(seconds=60)
    Render.objects.update(state=State.RUNNING, started_at=silent, alive_at=silent, done=7)
    client = client_of(anna)
    page = client.get(reverse("renders", args=[scene.pk])).content.decode()
    assert "Interrupted after 7 of 48 frames" in page
    client.post(reverse("render-act", args=[asked.pk, "again"]))
    assert again(asked).state == State.WAITING
    jobs.carry_out("render", asked.pk)
    assert again(asked).state == State.DONE


def test_what_is_under_way_is_neither_started_again_nor_deleted(anna, asked):
    for act in (services.again, services.delete):
        with pytest.raises(EditRefused, match="still under way"):
            act(anna, asked)


def test_the_list_shows_progress_and_time_left(anna, scene, asked, client_of):
    now = timezone.now()
    Render.objects.update(
        state=State.RUNNING, started_at=now - timedelta(seconds=10), alive_at=now, done=12
    )
    page = client_of(anna).get(reverse("renders", args=[scene.pk])).content.decode()
    assert "Frame 12 of 48, 30 s left" in " ".join(page.split())
    assert 'value="12"' in page


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"loops": "0"}, "Loops: at least 1."),
        ({"loops": "x"}, "Loops: write a whole number."),
        ({"scale": "9"}, "valid choice"),
        ({"format": "avi"}, "valid choice"),
    ],
)
def test_what_cannot_be_rendered_is_refused_in_words(anna, scene, client_of, fields, words):
    sent = {"format": "mp4", "scale": "1", "loops": "1"} | fields
    answer = client_of(anna).post(reverse("render-start", args=[scene.pk]), sent)
    assert answer.status_code == 422
    assert words in answer.content.decode()
    assert not Render.objects.exists()


@pytest.mark.parametrize(
    ("asked_for", "status", "part"),
    [("bytes=0-3", 206, slice(0, 4)), ("bytes=10-", 206, slice(10, None)), ("bytes=-5", 206, slice(-5, None)),
     ("bytes=2-999999999", 206, slice(2, None)), ("", 200, slice(None)), ("bytes=999999999-", 416, None)],
)  # fmt: skip
def test_a_player_gets_the_part_it_asks_for(anna, asked, client_of, asked_for, status, part):
    jobs.carry_out("render", asked.pk)
    whole = again(asked).file.read_bytes()
    headers = {"HTTP_RANGE": asked_for} if asked_for else {}
    answer = client_of(anna).get(reverse("render-file", args=[asked.pk]), **headers)
    assert answer.status_code == status
    if part is not None:
        assert b"".join(answer.streaming_content) == whole[part]


def test_the_download_is_named_after_the_scene(anna, asked, client_of):
    jobs.carry_out("render", asked.pk)
    answer = client_of(anna).get(reverse("render-file", args=[asked.pk]) + "?download")
    assert 'filename="loop.mp4"' in answer.headers["Content-Disposition"]
    assert io.BytesIO(b"".join(answer.streaming_content)).getbuffer().nbytes == again(asked).size
