"""A spot followed over HTTP: marked on the stage, followed in parts, made a path or a helper."""

import json

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from studio.projects.models import RawTake
from tests.core.moving import film
from tests.core.test_following import POSES, Made
from tests.studio.conftest import now

COUNT = 40
POSE = POSES["slides"]


def drifting(number: int, size: tuple[int, int], alpha: int) -> np.ndarray:
    return Made(POSE).pixels(number)


@pytest.fixture
def client(client_of, anna):
    return client_of(anna)


@pytest.fixture
def layer(client, scene, tmp_path) -> str:
    data = film(tmp_path / "d.mp4", COUNT, size=(640, 360), options={"crf": "14"}, paint=drifting)
    sent = {"file": SimpleUploadedFile("drift.mp4", data.read_bytes()), "base": scene.revision}
    assert client.post(reverse("import", args=[scene.pk]), sent).status_code == 200
    return now(scene).layers[-1].id


@pytest.fixture
def ask(client, scene, layer):
    def asked(what: str, **fields):
        return client.post(reverse("follow", args=[scene.pk, what]), {"layer": layer, **fields})

    return asked


def box(frame: int = 0, side: float = 15.0) -> dict[str, float]:
    """A box of the scene, 160 px wide, over the disc of the file, 640 px wide."""
    x, y = (each / 4 for each in POSE(frame)[:2])
    top = y + (120 - 90) / 2
    half = side / 2
    return {
        "left": x - half,
        "right": x + half,
        "top": top - half,
        "bottom": top + half,
        "frame": frame,
    }


def followed(ask, frame: int, step: int) -> list[list[float]]:
    told = ask("mark", **box(frame)).json()
    after, warp, marked, rows = told["marked"]["index"], None, told["marked"], []
    for _ in range(COUNT):
        fields = {
            "marked": json.dumps(marked),
            "warp": json.dumps(warp),
            "after": after,
            "step": step,
        }
        part = ask("on", **fields).json()
        rows += part["spots"]
        marked, warp = part["marked"], part["warp"]
        if part["ended"]:
            assert not part["lost"]
            return rows
        after = part["spots"][-1][0]
    raise AssertionError("it never ends")


def test_a_box_on_the_stage_is_one_of_the_file(ask):
    told = ask("mark", **box(0)).json()
    x, y, *_ = POSE(0)
    assert told["size"] == [640, 360]
    marked = told["marked"]
    assert (marked["index"], marked["width"], marked["height"]) == (0, 60, 60)
    assert (marked["x"], marked["y"]) == pytest.approx((x, y), abs=0.01)


@pytest.mark.parametrize(("frame", "step", "count"), [(0, 1, 39), (20, -1, 20)])
def test_it_is_followed_in_parts_to_either_end(ask, frame, step, count):
    rows = followed(ask, frame, step)
    assert len(rows) == count
    off = [np.hypot(x - POSE(int(index))[0], y - POSE(int(index))[1]) for index, x, y, _ in rows]
    assert (np.median(off) < 0.2, max(off) < 1.0) == (True, True)


@pytest.mark.parametrize("make", ["take", "helper"])
def test_what_was_found_becomes_a_path_or_a_helper_and_is_undone(
    client, post, ask, scene, layer, make
):
    rows = [[int(i), x, y] for i, x, y, _ in followed(ask, 0, 1)]
    before = now(scene)
    answer = post("followed", layer=layer, make=make, spots=json.dumps(rows))
    assert answer.status_code == 200, answer.content
    after = now(scene)
    if make == "take":
        path = after.paths[-1]
        assert (path.name, RawTake.objects.get().name) == ("Spot on drift", "Spot on drift")
        assert path.drawn is not None
    else:
        helper = after.layers[-1]
        assert (helper.guide, [track.property for track in helper.keys]) == (True, ["x", "y"])
    post("undo")
    assert now(scene) == before


@pytest.mark.parametrize(
    ("what", "fields", "words"),
    [
        ("mark", {}, "drag a box round a spot again"),
        ("mark", {**box(), "left": "nan"}, "drag a box round a spot again"),
        ("mark", {**box(), "layer": "box"}, "not a footage"),
        ("mark", {**box(), "layer": "nobody"}, "no layer"),
        ("on", {"marked": "[]", "after": "0", "step": "1"}, "drag a box"),
        ("on", {"marked": "{", "after": "0", "step": "1"}, "drag a box"),
        ("on", {"marked": '{"index":0,"x":1e9,"y":1,"width":30,"height":30}', "after": "0", "step": "1"}, "drag a box"),
        ("on", {"marked": '{"index":0.5,"x":50,"y":50,"width":30,"height":30}', "after": "0", "step": "1"}, "drag a box"),
        ("on", {"marked": '{"index":4000,"x":50,"y":50,"width":30,"height":30}', "after": "0", "step": "1"}, "drag a box"),
        ("on", {"marked": '{"index":0,"x":50,"y":[],"width":30,"height":30}', "after": "0", "step": "1"}, "drag a box"),
        ("on", {"marked": '{"index":0,"x":50,"y":50,"width":2,"height":30}', "after": "0", "step": "1"}, "8 to 400 px"),
        ("on", {"marked": '{"index":0,"x":50,"y":50,"width":30,"height":30}', "warp": "[1]", "after": "0", "step": "1"}, "drag a box"),
    ],
)  # fmt: skip
def test_what_is_asked_wrongly_is_refused_in_one_sentence(ask, what, fields, words):
    answer = ask(what, **fields)
    assert answer.status_code == 422
    assert words in answer.json()["words"]


@pytest.mark.parametrize(
    "spots", ["", "[]", "[[1]]", '{"a": 1}', "[[0, 1, 1]]", "[[0, 1e999, 1], [1, 2, 2]]"]
)
def test_spots_that_are_none_make_nothing(post, scene, layer, spots):
    before = now(scene)
    answer = post("followed", layer=layer, make="helper", spots=spots)
    assert (answer.status_code, now(scene)) == (422, before)


def test_nothing_else_is_asked_so(ask):
    assert ask("back").status_code == 404
