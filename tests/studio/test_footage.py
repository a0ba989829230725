"""Footage over HTTP: brought in, its small frames made and lost and made again, cut and undone."""

import json
import zipfile

import cv2
import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from coaster.errors import MediaError
from coaster.media.small import PER_BLOCK, unpacked
from studio.footage import services
from studio.footage.models import SmallFrames
from studio.jobs import services as jobs
from studio.jobs.models import State
from studio.projects import services as projects
from studio.projects.models import Asset
from studio.projects.thumbnails import scene_file
from studio.upkeep import tidy
from tests.core.moving import animated, film, number_on, stills
from tests.studio.conftest import done_and_undone, now, refused_in_words

COUNT = 40


@pytest.fixture
def client(client_of, anna):
    return client_of(anna)


@pytest.fixture
def send(client, scene):
    def upload(name: str, data: bytes, **fields):
        sent = {"file": SimpleUploadedFile(name, data), "base": scene.revision, **fields}
        return client.post(reverse("import", args=[scene.pk]), sent)

    return upload


@pytest.fixture
def film_data(tmp_path) -> bytes:
    return film(tmp_path / "made.mp4", COUNT, sound=True).read_bytes()


@pytest.fixture
def small(send, film_data) -> SmallFrames:
    answer = send("kelp.mp4", film_data, x="30", y="40")
    assert answer.status_code == 200, answer.content
    return SmallFrames.objects.get()


def again(job: SmallFrames) -> SmallFrames:
    return SmallFrames.objects.get(pk=job.pk)


def footage(scene):
    return now(scene).layers[-1]


def block(client, small, number):
    asset = small.asset
    return client.get(reverse("footage-block", args=[asset.project_id, asset.file_name, number]))


def numbers_of(answer) -> list[int]:
    images = (cv2.imdecode(np.frombuffer(each, np.uint8), 1) for each in unpacked(answer.content))
    return [number_on(image) for image in images]


def test_a_film_becomes_a_layer_and_what_is_left_out_is_said(send, scene, film_data):
    answer = send("kelp.mp4", film_data, x="30", y="40")
    head = json.loads(answer.content[12 : 12 + int.from_bytes(answer.content[8:12], "little")])
    assert "kelp.mp4: its sound is left out." in head["notes"]
    layer = footage(scene)
    assert (layer.name, layer.transform.position) == ("kelp", (30, 40))
    assert (layer.content.times.count, layer.content.times.fps) == (COUNT, 30)
    assert SmallFrames.objects.get().total == COUNT
    # The same file again is kept once, and its frames are made once.
    assert send("copy.mp4", film_data).status_code == 200
    assert (Asset.objects.filter(file_name__endswith=".mp4").count(), len(now(scene).layers)) == (
        1,
        6,
    )
    assert SmallFrames.objects.count() == 1


def test_all_kinds_come_in_by_what_they_are_not_by_their_names(send, scene, tmp_path):
    animated(tmp_path / "a.gif", 4, "GIF")
    animated(tmp_path / "a.apng", 4, "PNG")
    stills(tmp_path / "a.zip", [1, 2, 3, 4])
    for name, called in (("a.gif", "x.mp4"), ("a.apng", "x.png"), ("a.zip", "tank.zip")):
        assert send(called, (tmp_path / name).read_bytes()).status_code == 200
        assert footage(scene).content.times.count == 4


def test_numbered_pictures_that_are_sent_together_are_one_film(client, scene, tmp_path):
    with zipfile.ZipFile(stills(tmp_path / "s.zip", [7, 8, 9, 12])) as archive:
        files = [SimpleUploadedFile(n, archive.read(n)) for n in sorted(archive.namelist())]
    sent = {"file": files, "base": scene.revision, "use": "footage", "x": "10", "y": "20"}
    answer = client.post(reverse("import", args=[scene.pk]), sent)
    assert answer.status_code == 200, answer.content
    assert b"2 numbers are missing, the first after 9" in answer.content
    layer, rate = footage(scene), now(scene).rate
    assert (layer.name, layer.transform.position) == ("tank", (10, 20))
    assert layer.content.times.steps == (
        (2, rate.denominator),
        (1, 3 * rate.denominator),
        (1, rate.denominator),
    )
    small = SmallFrames.objects.get()
    assert numbers_of(block(client, small, 0)) == [0, 1, 2, 3]


BAD = {
    "no frames": ("a.mp4", b"\0\0\0\x20ftypisom" + b"x" * 500, "cannot be read"),
    "an empty zip": ("a.zip", b"PK\x03\x04" + b"x" * 500, "cannot be read"),
}


@pytest.mark.parametrize("kind", BAD)
def test_a_bad_film_gets_one_sentence_and_leaves_nothing_behind(send, scene, kind):
    name, data, words = BAD[kind]
    before = sorted(f.name for f in scene.project.folder.iterdir())
    answer = send(name, data)
    assert answer.status_code == 422
    assert answer.json()["words"].startswith(name)
    assert words in answer.json()["words"]
    assert sorted(f.name for f in scene.project.folder.iterdir()) == before
    assert not SmallFrames.objects.exists()


def test_what_is_no_footage_may_not_be_as_large(send, settings):
    settings.LARGEST_UPLOAD = 100
    answer = send("a.svg", b"<svg/>" + b" " * 200)
    assert "what is no footage may have" in answer.json()["words"]


def test_small_frames_are_there_before_they_are_made_and_made_again_if_lost(client, small):
    assert numbers_of(block(client, small, 1)) == list(range(16, 32))
    assert again(small).state == State.WAITING
    jobs.carry_out("small-frames", small.pk)
    assert (again(small).state, again(small).done) == (State.DONE, COUNT)
    assert sorted(f.name for f in small.folder.iterdir()) == [f"{i}.frames" for i in range(3)]
    small.block(2).unlink()
    assert numbers_of(block(client, small, 2)) == list(range(32, COUNT))
    assert block(client, small, 3).status_code == 404
    page = client.get(
        reverse("footage-frame", args=[small.asset.project_id, small.asset.file_name, 7])
    )
    assert number_on(cv2.imdecode(np.frombuffer(page.content, np.uint8), 1)) == 7


def test_a_worker_that_is_killed_leaves_whole_blocks_and_the_next_goes_on(small, monkeypatch):
    whole, written = services.write_whole, []

    def dies(file, data):
        if len(written) == 2:
            raise KeyboardInterrupt
        written.append(file.name)
        whole(file, data)

    monkeypatch.setattr(services, "write_whole", dies)
    with pytest.raises(KeyboardInterrupt):
        jobs.carry_out("small-frames", small.pk)
    assert [f.name for f in sorted(small.folder.iterdir())] == ["0.frames", "1.frames"]
    monkeypatch.setattr(
        services, "write_whole", lambda file, data: (written.append(file.name), whole(file, data))
    )
    services.again(small.asset.project.owner, again(small))
    jobs.carry_out("small-frames", small.pk)
    assert written == ["0.frames", "1.frames", "2.frames"]
    assert again(small).state == State.DONE


def test_a_full_disk_is_said_and_the_scene_goes_on(small, monkeypatch):
    def full(file, data):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(services, "write_whole", full)
    jobs.carry_out("small-frames", small.pk)
    failed = again(small)
    assert failed.state == State.FAILED
    assert failed.words.startswith("The studio’s disk is full")
    # What cannot be kept is shown all the same.
    assert unpacked(services.block(failed, 1))


def test_it_is_stopped_and_made_after_all_from_the_card(client, small, scene):
    def act(action):
        where = [small.asset.project_id, small.asset.file_name, action]
        return client.post(reverse("footage-act", args=where)).content.decode()

    assert "were stopped at 0 of 40" in act("cancel")
    card = client.get(reverse("card", args=[scene.pk]), {"layer": footage(scene).id})
    assert "were stopped at 0 of 40" in card.content.decode()
    assert "wait for their turn" in act("again")
    assert "still under way" in act("again")
    jobs.carry_out("small-frames", small.pk)
    page = client.get(
        reverse("footage-small", args=[small.asset.project_id, small.asset.file_name])
    )
    assert "40 small frames are ready" in page.content.decode()


PLANS = {
    "cut": ({"begin": "0.2", "end": "1"}, lambda c: (c.begin, c.end) == (0.2, 1.0)),
    "later": ({"starts": "0.5"}, lambda c: c.starts == 15 / 30 * 30),
    "speed": ({"speed": "-50"}, lambda c: c.speed == -0.5),
    "lasts": ({"lasts": "4"}, lambda c: c.speed == pytest.approx(1 / 3)),
    "after": ({"after": "return"}, lambda c: c.after == "return"),
    "fade": ({"after": "repeat", "fade": "6"}, lambda c: c.fade == pytest.approx(0.2)),
    "trimmed": ({"trim_start": "6"}, lambda c: (c.begin, c.starts) == pytest.approx((0.2, 6))),
    "slid": ({"starts_f": "7"}, lambda c: c.starts == 7),
}


@pytest.mark.parametrize("name", PLANS)
def test_how_it_is_played_is_set_and_undone(post, scene, small, name):
    fields, holds = PLANS[name]
    film_id, value = footage(scene).id, now(scene)
    done_and_undone(
        post, scene, value, {"form": "footage", "layer": film_id, **fields},
        lambda done: holds(done.layer(film_id).content),
    )  # fmt: skip


def test_without_an_end_it_is_played_to_its_own(post, scene, small):
    film = {"form": "footage", "layer": footage(scene).id}
    assert post(**film, end="1").status_code == 200
    assert footage(scene).content.end == 1
    assert post(**film, end="").status_code == 200
    assert footage(scene).content.end is None


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"begin": "9"}, "within its 1.33333 s"),
        ({"end": "5"}, "within its 1.33333 s"),
        ({"speed": "fast"}, "not a number"),
        ({"speed": "20000"}, "outside -10000 to 10000 %"),
        ({"lasts": "0"}, "outside 0.001"),
        ({"after": "repeat", "fade": "39"}, "at most half"),
        ({"trim_start": "400"}, "At least a frame"),
    ],
)
def test_what_cannot_be_played_is_refused_in_a_sentence(post, scene, small, fields, words):
    film_id = footage(scene).id
    refused_in_words(
        post, scene, now(scene), {"form": "footage", "layer": film_id, **fields}, 422, words
    )


def test_a_bundle_takes_its_footage_along(client, anna, scene, small):
    scene.refresh_from_db()
    data = projects.export_bundle(anna, scene).read()
    elsewhere = projects.create_project(anna, "Elsewhere")
    copy = projects.import_bundle(anna, elsewhere, SimpleUploadedFile("loop.zip", data))
    content = copy.value().layers[-1].content
    assert (elsewhere.folder / content.asset).read_bytes() == small.asset.path.read_bytes()
    asset = Asset.objects.get(project=elsewhere, file_name=content.asset)
    assert numbers_of(block(client, services.of_asset(anna, asset), 0)) == list(range(PER_BLOCK))
    assert scene_file(copy, "still").is_file()


def test_a_file_that_is_gone_is_said(client, scene, small):
    small.asset.path.unlink()
    assert block(client, small, 0).status_code == 404
    with pytest.raises(MediaError, match="is not there"):
        services.block(small, 0)
    page = client.get(reverse("card", args=[scene.pk]), {"layer": footage(scene).id})
    assert "is gone; bring it in again" in page.content.decode()


def test_small_frames_of_what_is_gone_are_tidied(anna, small):
    jobs.carry_out("small-frames", small.pk)
    folder, found = small.folder, {f.words: f for f in tidy.find()}
    assert found["files of scenes, projects and pictures that are gone"].count == 0
    small.asset.delete()
    for each in tidy.find():
        each.remove()
    assert not folder.exists()
