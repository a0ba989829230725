"""Takes over HTTP: recorded, brought in as files, smoothed again from what was kept, and
given out.
"""

import json
import zipfile
from io import BytesIO

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from coaster.formats import svg
from coaster.formats import takes as files
from coaster.geometry.nearest import nearest
from coaster.motion import hand, takes
from studio.projects import bin as binned
from studio.projects import services
from studio.projects.models import RawTake, Scene
from tests.studio.conftest import now

DRAWN = hand.draw(3, length=900, corners=1)


def samples(drawn=DRAWN) -> str:
    return json.dumps(
        [[t * 1000, x, y, 0.5] for t, (x, y) in zip(drawn.times, drawn.places, strict=True)]
    )


def csv(drawn=DRAWN) -> str:
    return files.to_csv(takes.checked_take(drawn.times, drawn.places))


@pytest.fixture
def client(client_of, anna):
    return client_of(anna)


@pytest.fixture
def record(client, scene):
    def send(**fields):
        return client.post(
            f"/scenes/{scene.pk}/takes", {"base": 0, "samples": samples(), "frame": "3"} | fields
        )

    return send


def far_from(path, places) -> float:
    return float(nearest(path.subpaths[0].segments(), places).distance.max())


def test_a_recording_is_kept_raw_and_becomes_a_path_that_the_layer_rides(record, scene):
    assert record(layer="box").status_code == 200
    value = now(scene)
    path = value.path("take")
    assert far_from(path, DRAWN.places) <= path.drawn.tolerance
    ride = value.ride_of("box")
    assert (ride.path, ride.start) == ("take", 3)
    assert ride.end == pytest.approx(3 + DRAWN.times[-1] * value.fps)
    kept = RawTake.objects.get()
    stored = files.read(kept.path.read_text()).take()
    np.testing.assert_allclose(stored.places, DRAWN.places, atol=1e-3)
    np.testing.assert_allclose(stored.times, DRAWN.times - DRAWN.times[0], atol=1e-5)
    assert kept.samples == len(DRAWN.times)


def test_a_recording_is_kept_though_its_layer_was_changed_in_another_window(record, post, scene):
    for fields in (
        {"form": "detach", "layer": "fish"},
        {"form": "attach", "layer": "box", "path": "ring"},
    ):
        assert post(**fields).status_code == 200
    for layer in ("fish", "box"):
        answer = record(layer=layer)
        assert answer.status_code == 200
        assert b"changed in another window" in answer.content
    value = now(scene)
    assert [p.id for p in value.paths if p.drawn] == ["take", "take-2"]
    assert not any(x.ride and x.ride.path.startswith("take") for x in value.layers)


def test_a_recording_that_can_be_no_path_is_in_the_bin_and_put_back_as_a_scene(
    record, scene, client, anna, django_capture_on_commit_callbacks
):
    record()
    assert binned.contents(anna) == []
    client.post(reverse("delete-scene", args=[scene.pk]))
    other = hand.draw(4, length=700)
    answer = record(samples=samples(other))
    assert answer.status_code == 422
    assert "in the bin" in answer.json()["words"]
    (stray,) = [thing for thing in binned.contents(anna) if thing.kind == "take"]
    client.post(reverse("act-in-bin", args=["take", stray.pk, "restore"]))
    made = Scene.objects.latest("pk")
    path = made.value().paths[0]
    assert (made.name, path.drawn.file) == (stray.name, RawTake.objects.get(pk=stray.pk).file_name)
    assert far_from(path, other.places) <= path.drawn.tolerance
    assert [thing.kind for thing in binned.contents(anna)] == ["scene"]
    record(samples=samples(hand.draw(5, length=700)))
    (stray,) = [thing for thing in binned.contents(anna) if thing.kind == "take"]
    with django_capture_on_commit_callbacks(execute=True):
        client.post(reverse("act-in-bin", args=["take", stray.pk, "erase"]))
    assert not RawTake.objects.filter(pk=stray.pk).exists()
    assert len(list(scene.project.folder.glob("*.csv"))) == 2


def test_a_recording_that_is_sent_again_is_one_take(record, scene):
    for _ in range(2):
        assert record(layer="box", key="k1").status_code == 200
    assert [p.id for p in now(scene).paths if p.drawn] == ["take"]
    assert scene.revisions.count() == 2


def test_a_slow_recording_has_its_true_speed_and_without_a_layer_nobody_rides(record, scene):
    assert record(slow="0.25").status_code == 200
    value = now(scene)
    assert not value.riders_of("take")
    stored = files.read(RawTake.objects.get().path.read_text()).take()
    assert stored.duration == pytest.approx(DRAWN.times[-1] / 4, abs=1e-4)


def test_the_pressure_of_a_pen_is_kept(record):
    rows = [[i * 10, i * 5, i * 3, 0.2 + i / 100] for i in range(50)]
    assert record(samples=json.dumps(rows)).status_code == 200
    assert (
        RawTake.objects.get()
        .path.read_text()
        .startswith("t,x,y,pressure\n0.000000,0.0000,0.0000,0.2000\n")
    )


def test_several_takes_are_kept_beside_each_other(record, scene):
    record(layer="box")
    record(base=1, layer="box", samples=samples(hand.draw(4, length=700)))
    value = now(scene)
    assert [p.name for p in value.paths][1:] == ["Take", "Take 2"]
    assert value.ride_of("box").path == "take-2"
    assert RawTake.objects.count() == 2


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"samples": ""}, "not a list of times and places"),
        ({"samples": "[]"}, "two samples or more"),
        ({"samples": "[[0,1,2]]"}, "two samples or more"),
        ({"samples": "[[0,1,2],[1,1,2]]"}, "stays in one place"),
        ({"samples": "[[0,1],[1]]"}, "not a list of times and places"),
        ({"samples": "[[0,1,NaN],[1,2,3]]"}, "no place or no time"),
        ({"samples": "[" * 4000}, "not a list of times and places"),
        ({"frame": "soon"}, "does not say when it began"),
        ({"slow": "-1"}, "does not say when it began"),
        ({"seen_from": "below"}, "in which plane"),
        ({"seen_from": "above", "level": "inf"}, "in which plane"),
    ],
)
def test_a_recording_that_makes_no_sense_keeps_nothing(record, scene, value, fields, words):
    answer = record(**fields)
    assert answer.status_code in (409, 422)
    assert words in answer.json()["words"]
    assert now(scene) == value


@pytest.mark.parametrize("side", ["above", "side"])
def test_what_is_drawn_from_a_side_lies_there_and_is_smoothed_there_again(
    record, post, client, scene, side
):
    assert record(layer="box", seen_from=side, level="120").status_code == 200
    for tolerance in ("", "16"):
        if tolerance:
            assert post(form="take", path="take", tolerance=tolerance).status_code == 200
        path = now(scene).path("take")
        points = np.concatenate([*path.subpaths[0].segments()])
        depths = path.subpaths[0].depths().reshape(-1)
        flat, across, up = (points[:, 1], points[:, 0], -depths) if side == "above" else (
            points[:, 0], depths, points[:, 1])  # fmt: skip
        assert flat == pytest.approx(np.full(len(flat), 120.0))
        # On the paper it is what is drawn on the stage.
        drawn = np.stack([across, up], axis=1).reshape(-1, 4, 2)
        away = nearest(drawn, DRAWN.places).distance.max()
        assert away <= path.drawn.tolerance
    card = client.get(f"/scenes/{scene.pk}/card?path=take").content.decode()
    assert "nodes" in card
    assert "was edited since" not in card


def test_it_is_smoothed_again_from_the_raw_take_and_undone_exactly(record, post, scene):
    record(layer="box")
    before = now(scene)
    counts = []
    for tolerance in ("1", "4", "16"):
        looked = post("preview", form="take", path="take", tolerance=tolerance)
        assert looked.status_code == 200
        assert post(form="take", path="take", tolerance=tolerance).status_code == 200
        path = now(scene).path("take")
        assert far_from(path, DRAWN.places) <= float(tolerance)
        counts.append(len(path.nodes()))
    assert counts[0] > counts[1] > counts[2]
    for _ in range(3):
        post("undo")
    assert now(scene) == before


def test_edits_of_a_take_are_replaced_knowingly(record, post, scene, client):
    record(layer="box")
    card = f"/scenes/{scene.pk}/card?path=take"
    assert "was edited since" not in client.get(card).content.decode()
    node = now(scene).path("take").nodes()[1].id
    post(form="node-move", path="take", nodes=node, dx="20", dy="0")
    assert "was edited since" in client.get(card).content.decode()
    post(form="take", path="take", soften="100")
    value = now(scene)
    assert "was edited since" not in client.get(card).content.decode()
    assert len(value.ride_of("box").pegs) == 2
    post(form="take", path="take", close="true", pegs="keep")
    assert now(scene).path("take").loops
    assert len(now(scene).ride_of("box").pegs) == 2


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"path": "ring", "tolerance": "2"}, "was not drawn as a take"),
        ({"path": "take", "tolerance": "0"}, "Tolerance: 0 px is outside"),
        ({"path": "take", "corner": "200"}, "Corners: 200"),
        ({"path": "gone", "tolerance": "2"}, "no path 'gone'"),
    ],
)
def test_smoothing_that_makes_no_sense_gets_one_sentence(record, post, scene, fields, words):
    record()
    before = now(scene)
    answer = post(form="take", **fields)
    assert answer.status_code == 422
    assert words in answer.json()["words"]
    assert now(scene) == before


def test_a_locked_take_and_one_whose_raw_file_is_gone_say_so(record, post, scene, client):
    record()
    post(form="rail", path="take", locked="true")
    assert "unlock it to smooth" in post(form="take", path="take", tolerance="9").json()["words"]
    post(form="rail", path="take", locked="false")
    RawTake.objects.get().path.unlink()
    assert (
        "raw take is not in this project"
        in post(form="take", path="take", tolerance="9").json()["words"]
    )
    assert (
        "raw take is not in this project"
        in client.get(f"/scenes/{scene.pk}/card?path=take").content.decode()
    )
    assert client.get(f"/scenes/{scene.pk}/takes/take/raw").status_code == 404


def test_raw_and_smooth_go_out_as_csv_and_the_raw_line_to_the_stage(record, scene, client):
    record()
    there = f"/scenes/{scene.pk}/takes/take"
    raw = files.read(client.get(f"{there}.csv").content.decode()).take()
    np.testing.assert_allclose(raw.places, DRAWN.places, atol=1e-3)
    smooth = files.read(client.get(f"{there}.csv?smoothed").content.decode()).take()
    assert len(smooth.times) == len(raw.times)
    assert far_from(now(scene).path("take"), smooth.places) < 0.01
    drawing = svg.read(client.get(f"{there}.svg").content, tolerance=0.01)
    points = np.array([n.position for n in drawing.pick("0").subpaths()[0].nodes])
    np.testing.assert_allclose(points, DRAWN.places, atol=1e-2)
    line = client.get(f"{there}/raw").json()
    assert line["d"].count("L") == len(raw.times) - 1
    assert line["worst"][0][2] == pytest.approx(
        far_from(now(scene).path("take"), DRAWN.places), abs=0.01
    )


def test_nobody_smooths_or_reads_anybody_elses_take(record, client_of, ben, scene):
    record()
    stranger = client_of(ben)
    assert stranger.get(f"/scenes/{scene.pk}/takes/take.csv").status_code == 404
    assert (
        stranger.post(f"/scenes/{scene.pk}/takes", {"base": 0, "samples": samples()}).status_code
        == 404
    )


@pytest.fixture
def upload(client, scene):
    def send(text, name="walk.csv", **fields):
        file = SimpleUploadedFile(name, text.encode() if isinstance(text, str) else text)
        return client.post(f"/scenes/{scene.pk}/import", {"base": 0, "file": file} | fields)

    return send


def test_a_file_is_asked_about_and_becomes_a_take(upload, scene):
    asked = upload(csv())
    assert asked.headers["Content-Type"].startswith("text/html")
    assert f"A take of {len(DRAWN.times)} samples" in asked.content.decode()
    in_frames = upload(csv().replace("t,x,y", "frame,x,y")).content.decode()
    assert 'value="frames" checked autofocus' in " ".join(in_frames.split())
    assert (
        upload(csv(), use="take", unit="s", scale="0.5", x="10", y="20", layer="box").status_code
        == 200
    )
    value = now(scene)
    assert (
        far_from(value.path("walk"), DRAWN.places * 0.5 + (10, 20))
        <= value.path("walk").drawn.tolerance
    )
    assert value.ride_of("box").path == "walk"


def test_a_file_is_fitted_to_the_frame_and_its_time_is_what_one_says(upload, scene):
    upload(csv(), use="take", unit="frames", size="fit", flip="on")
    value = now(scene)
    places = np.array([n.position for n in value.path("walk").nodes()])
    assert np.all((places > 0) & (places < (value.width, value.height)))
    stored = files.read(RawTake.objects.get().path.read_text()).take()
    assert stored.duration == pytest.approx(DRAWN.times[-1] / value.fps, abs=1e-4)


@pytest.mark.parametrize(
    ("text", "fields", "words"),
    [
        ("t,x,y\n0,1,2\n0.1,,3\n", {}, "Row 3, x: a number is missing"),
        ("nothing", {}, "no column t"),
        ("t,x,y\n0,1,2\n", {}, "two samples or more"),
        (
            "t,x,y\n0,1,2\n1,5,2\n",
            {"use": "take", "scale": "big"},
            "“big” is not a number for scale",
        ),
        ("t,x,y\n0,1,2\n1,5,2\n", {"use": "take", "scale": "1e9"}, "too large a number"),
    ],
)
def test_a_file_that_is_no_take_gets_one_sentence_and_leaves_nothing(
    upload, scene, value, text, fields, words
):
    answer = upload(text, **fields)
    assert answer.status_code == 422
    assert words in answer.json()["words"]
    assert now(scene) == value
    assert not RawTake.objects.exists()


def test_a_scene_file_brings_its_raw_takes_along(record, scene, anna, ben):
    record(layer="box")
    scene.refresh_from_db()
    data = services.export_bundle(anna, scene).read()
    name = now(scene).path("take").drawn.file
    assert f"assets/{name}" in zipfile.ZipFile(BytesIO(data)).namelist()
    theirs = services.create_project(ben, "Elsewhere")
    opened = services.import_bundle(ben, theirs, SimpleUploadedFile("scene.zip", data))
    assert opened.value().path("take").drawn.file == name
    assert RawTake.objects.get(project=theirs).path.read_text() == csv_of(scene, name)


def csv_of(scene, name) -> str:
    return (scene.project.folder / name).read_text()
