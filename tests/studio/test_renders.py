"""Renders: asked for, carried out, stopped, broken off, started again; and their files."""

import io
import re
from datetime import timedelta
from functools import partial
from unittest.mock import Mock

import av
import numpy as np
import pytest
from django.urls import reverse
from django.utils import timezone
from PIL import Image

from coaster.edits.layers import delete_layers
from coaster.errors import EditRefused
from coaster.export import chunks
from coaster.export.drawers import painter_of
from coaster.export.orders import Choices, choices_of
from coaster.scene.document import Scene as Value
from studio import reading
from studio.editor import services as editing
from studio.jobs import services as jobs
from studio.jobs.models import State
from studio.projects import services as projects
from studio.projects.models import Project
from studio.renders import models, services
from studio.renders.models import Preset, Render, ScreenLink
from studio.upkeep import tidy


@pytest.fixture(autouse=True)
def drawn_here(settings):
    settings.RENDER_WORKERS = 0


@pytest.fixture
def asked(anna, scene) -> Render:
    return services.start(anna, scene, Choices(loops=2))


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
    assert again(asked).words.startswith("The studio’s disk is full")


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
        ({"size": "9"}, "valid choice"),
        ({"format": "avi"}, "valid choice"),
        ({"size": "own"}, "Height: write how many px high it is to be."),
        ({"size": "own", "high": "x"}, "Height: write a whole number."),
        ({"fps": "fast"}, "Frames a second: "),
        ({"format": "gif", "fps": "60"}, "ask for 50 or fewer"),
        ({"first": "20", "last": "30"}, "not in the scene, which has 0:24"),
        ({"shutter": "400"}, "Motion blur: 400"),
        ({"behind": "colour"}, "Choose the colour"),
        ({"behind": "none"}, "MP4, H.264 has no transparency"),
        ({"format": "still"}, "say which one"),
        ({"seconds": "1e9"}, "At least: "),
    ],
)
def test_what_cannot_be_rendered_is_refused_in_words(anna, scene, client_of, fields, words):
    sent = {"format": "mp4", "size": "1", "loops": "1"} | fields
    answer = client_of(anna).post(reverse("render-start", args=[scene.pk]), sent)
    assert answer.status_code == 422
    assert words in answer.content.decode()
    assert not Render.objects.exists()


def test_what_was_chosen_is_rendered_and_offered_again(anna, scene, client_of):
    client = client_of(anna)
    sent = {
        "format": "gif", "quality": "small", "size": "own", "high": "60", "fps": "12", "first": "4",
        "last": "20", "loops": "2", "returns": "true", "shutter": "180", "behind": "colour",
        "colour": "#336699",
    }  # fmt: skip
    answer = client.post(reverse("render-start", args=[scene.pk]), sent)
    assert answer.status_code == 200
    made = Render.objects.get()
    # 16 frames at 30 a second are 6 at 12: there and back 10, twice.
    assert (made.total, made.height, made.kind.name) == (20, 60, "gif")
    jobs.carry_out("render", made.pk)
    with Image.open(again(made).file) as image:
        assert image.n_frames == 20
    page = client.get(reverse("renders", args=[scene.pk])).content.decode()
    chosen = choices_of(again(made).choices)
    assert chosen.behind == "#336699"
    assert again(made).told in page
    for shown in ('value="60"', 'value="4"', 'value="20"', 'value="#336699"'):
        assert shown in page
    assert 'value="gif" selected' in " ".join(page.split())


@pytest.fixture
def in_parts(monkeypatch):
    """Parts of 8 frames, of 48 in all."""
    monkeypatch.setattr(chunks, "CHUNK", 8)
    monkeypatch.setattr(models, "CHUNK", 8)
    monkeypatch.setattr(jobs.Desk, "EVERY_S", 0.0)


def stopped_at(monkeypatch, step: int, act) -> None:
    """Let something happen once while a job is at a step."""
    told = jobs.Desk.progress

    def tell(desk, done: int) -> None:
        if done == step:
            act()
        told(desk, done)

    monkeypatch.setattr(jobs.Desk, "progress", tell)


def test_a_paused_render_goes_on_from_its_last_whole_part(anna, asked, in_parts, monkeypatch):
    told = []
    with monkeypatch.context() as patched:
        stopped_at(patched, 25, lambda: services.pause(anna, again(asked)))
        jobs.carry_out("render", asked.pk)
    assert again(asked).state == State.PAUSED
    assert asked.picture.read_bytes().startswith(b"\xff\xd8")
    names = [file.name for file in sorted(asked.parts.iterdir())]
    kept = 8 * len(names)
    assert names == [f"{i:06}-{i + 8:06}.mp4" for i in range(0, kept, 8)]
    # Drawing is some frames ahead of what is told of it.
    assert 24 <= kept < 48
    services.again(anna, again(asked))
    stopped_at(monkeypatch, kept + 1, lambda: told.append(again(asked).done))
    jobs.carry_out("render", asked.pk)
    done = again(asked)
    assert (done.state, done.done, done.found) == (State.DONE, 48, kept)
    assert told == [0]
    assert not done.parts.parent.exists()
    with av.open(str(done.file)) as container:
        assert len(list(container.decode(video=0))) == 48


def test_a_killed_render_is_taken_up_where_it_was(anna, asked, in_parts, monkeypatch):
    def dies():
        raise KeyboardInterrupt

    with monkeypatch.context() as patched:
        stopped_at(patched, 33, dies)
        with pytest.raises(KeyboardInterrupt):
            jobs.carry_out("render", asked.pk)
    assert len(list(asked.parts.iterdir())) >= 2
    # What is kept is not tidied away, and goes with its render.
    assert not [found for found in tidy.find() if found.count]
    services.again(anna, again(asked))
    jobs.carry_out("render", asked.pk)
    assert again(asked).found in (32, 40)


def test_what_is_paused_can_be_cancelled_and_leaves_nothing(anna, asked, in_parts, monkeypatch):
    stopped_at(monkeypatch, 25, lambda: services.pause(anna, again(asked)))
    jobs.carry_out("render", asked.pk)
    services.cancel(anna, again(asked))
    assert again(asked).state == State.CANCELLED
    assert list(asked.file.parent.iterdir()) == []


def test_renders_that_wait_are_done_in_the_order_one_wants(anna, scene, client_of):
    first, second, third = (services.start(anna, scene, Choices(loops=n)) for n in (1, 2, 3))
    client = client_of(anna)
    client.post(reverse("render-act", args=[third.pk, "hurry"]) + "?queue")
    client.post(reverse("render-act", args=[first.pk, "pause"]) + "?queue")
    assert [each.pk for each in services.in_queue(anna)] == [third.pk, second.pk, first.pk]
    assert jobs.next_in_line("render") == third.pk
    client.post(reverse("render-act", args=[first.pk, "again"]) + "?queue")
    assert [each.pk for each in services.in_queue(anna)] == [third.pk, first.pk, second.pk]
    for each in (third, first, second):
        assert jobs.next_in_line("render") == each.pk
        jobs.carry_out("render", each.pk)
    assert jobs.next_in_line("render") is None


def test_one_frame_is_a_picture_to_keep(anna, scene, value, client_of):
    answer = client_of(anna).get(reverse("frame-picture", args=[scene.pk, 7]))
    assert 'filename="loop-7.png"' in answer.headers["Content-Disposition"]
    wanted = painter_of(value, scene.project.folder).picture(7)[..., [2, 1, 0]]
    assert np.array_equal(np.asarray(Image.open(io.BytesIO(answer.content))), wanted)
    gone = client_of(anna).get(reverse("frame-picture", args=[scene.pk, 24]))
    assert gone.status_code == 404
    for file in scene.project.folder.iterdir():
        file.write_bytes(b"no picture")
    answer = client_of(anna).get(reverse("frame-picture", args=[scene.pk, 7]))
    assert answer.status_code == 422
    assert answer.json()["words"].startswith("Frame 7 could not be drawn")


def test_several_scenes_are_rendered_at_once(anna, ben, scene, client_of):
    clear = projects.create_scene(
        anna, scene.project, "Clear", Value(64, 48, length=3, background=None)
    )
    sent = {"scene": [scene.pk, clear.pk], "preset": "screen"}
    page = client_of(anna).post(reverse("render-several"), sent).content.decode()
    assert "Clear was left out: MP4, H.264 has no transparency" in page
    assert [(r.scene.name, r.format) for r in Render.objects.all()] == [("Loop", "mp4")]
    assert client_of(anna).post(reverse("render-several"), {}).status_code == 422
    # Nobody else's are seen or rendered.
    assert client_of(ben).post(reverse("render-several"), sent).status_code == 422
    assert "Loop" not in client_of(ben).get(reverse("queue")).content.decode()
    assert "Loop" in client_of(anna).get(reverse("queue")).content.decode()


def test_what_it_will_come_to_is_told_before(anna, scene, client_of):
    def told(of: str, **choices: str) -> str:
        sent = {"format": "mp4", "size": "0.5", "loops": "3"} | choices
        answer = client_of(anna).post(reverse(f"render-{of}", args=[scene.pk]), sent)
        return " ".join(answer.content.decode().split())

    words = told("told")
    assert words.startswith("72 frames, 2.4 s, 80 × 60 px")
    assert "measuring its size" in words
    assert words.endswith("; CRF 16.5")
    assert re.fullmatch(r", about \d+(\.\d)? (bytes|KB)", told("size"))
    assert "every pixel is kept" in told("told", format="apng")
    still = told("told", format="still", first="3", last="4", loops="1")
    assert still.startswith("1 frame, 80 × 60 px")
    for of in ("told", "size"):
        assert "Loops: at least 1." in told(of, loops="0")
        assert "Frames 9:3 are not in the scene" in told(of, first="9", last="3")


def test_what_takes_long_to_foresee_is_told_without_its_size(anna, scene, client_of, monkeypatch):
    monkeypatch.setattr(services, "apart", Mock(side_effect=reading.TooMuchError))
    sent = {"format": "svg", "loops": "1"}
    told = client_of(anna).post(reverse("render-told", args=[scene.pk]), sent)
    assert "sharp at any size, runs for ever" in told.content.decode()
    assert client_of(anna).post(reverse("render-size", args=[scene.pk]), sent).content == b""


def test_presets_are_kept_by_name_and_each_persons_own(anna, ben, scene, client_of):
    client, keep = client_of(anna), reverse("preset-keep", args=[scene.pk])
    sent = {"format": "webp", "size": "0.25", "loops": "1", "name": "Board"}
    assert "Board" in client.post(keep, sent).content.decode()
    client.post(keep, sent | {"size": "0.5"})
    kept = Preset.objects.get()
    assert kept.value == Choices("webp", scale=0.5)
    assert services.usual(anna, scene, scene.value(), "Board") == kept.value
    assert services.usual(ben, scene, scene.value(), "Board") == Choices()
    for name, words in (("", "Give the preset a name"), ("Screen", "is there for everybody")):
        answer = client.post(keep, sent | {"name": name})
        assert answer.status_code == 422
        assert words in answer.content.decode()
    client.post(reverse("preset-drop", args=[scene.pk, kept.pk]))
    assert not Preset.objects.exists()


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


def test_a_screen_is_seen_by_its_link_until_that_is_withdrawn(client_of, anna, ben, asked):
    jobs.carry_out("render", asked.pk)
    project, stranger = asked.scene.project, client_of(None)
    act = partial(client_of(anna).post, follow=True)
    page = act(reverse("screen-act", args=[project.pk, "link"])).content.decode()
    link = ScreenLink.objects.get(project=project)
    assert f"http://testserver{reverse('linked-screen', args=[link.key])}" in page
    # Made twice it is the same one.
    act(reverse("screen-act", args=[project.pk, "link"]))
    assert ScreenLink.objects.get(project=project).key == link.key
    address = reverse("linked-screen", args=[link.key])
    shown = stranger.get(address).content.decode()
    file = reverse("linked-file", args=[link.key, asked.pk])
    assert file in shown
    assert reverse("projects") not in re.findall(r'href="([^"]+)"', shown)
    assert b"".join(stranger.get(file).streaming_content) == asked.file.read_bytes()
    # Nothing else is had by it, and nobody else withdraws it.
    assert stranger.get(reverse("linked-file", args=[link.key, asked.pk + 1])).status_code == 404
    withdraw = reverse("screen-act", args=[project.pk, "withdraw"])
    assert client_of(ben).post(withdraw).status_code == 404
    assert stranger.get(address).status_code == 200
    Project.objects.filter(pk=project.pk).update(deleted_at=timezone.now())
    assert stranger.get(address).status_code == 404
    Project.objects.filter(pk=project.pk).update(deleted_at=None)
    act(withdraw)
    assert stranger.get(address).status_code == 404
    assert stranger.get(file).status_code == 404
    # The next one is another one.
    act(reverse("screen-act", args=[project.pk, "link"]))
    assert ScreenLink.objects.get(project=project).key != link.key


def test_the_keeper_of_screens_may_keep_any_of_them(client_of):
    answer = client_of(None).get(reverse("screen-worker"))
    assert answer["Service-Worker-Allowed"] == "/"
    assert answer["Content-Type"] == "text/javascript"
