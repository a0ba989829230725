"""Several layers at once: one value for all of them, lined up, spread evenly."""

import json
from dataclasses import replace

import numpy as np
import pytest
from django.core.exceptions import ValidationError
from django.urls import reverse

from coaster.edits.extents import box_of
from coaster.scene.contents import Picture, Shape
from coaster.scene.document import Layer, Transform
from coaster.scene.document import Scene as Document
from studio.forms import Number
from studio.projects import services
from studio.projects.models import Scene as Row
from tests.studio.conftest import done_and_undone, now, png, refused_in_words

THREE = "one two three"


@pytest.fixture
def shown(value):
    """Three boxes of different sizes, one of them turned, beside all that there is."""
    boxes = (
        Layer("one", "One", Shape("rectangle", 20, 10, "#112233"), Transform((30, 20))),
        Layer("two", "Two", Shape("ellipse", 30, 20), Transform((60, 70), turn=30, opacity=0.5)),
        Layer("three", "Three", Shape("rectangle", 10, 30), Transform((120, 50), (0, 0), (2, 2))),
    )
    return replace(value, layers=(*value.layers, *boxes))


@pytest.fixture
def scene(project, shown):
    return services.create_scene(project.owner, project, "Loop", shown)


def boxes(value) -> np.ndarray:
    return np.array([box_of(value, [name], 0) for name in THREE.split()])


def lined(value, axis: int, share: float, at: float) -> bool:
    found = boxes(value)
    line = found[:, axis] + share * (found[:, axis + 2] - found[:, axis])
    return bool(np.allclose(line, at, atol=1e-6))


def transforms(value) -> list[Transform]:
    return [value.layer(name).transform for name in THREE.split()]


def several(name: str, typed: str, how: str = "set", layers: str = THREE) -> dict[str, str]:
    return {"form": "several", "layers": layers, "property": name, "value": typed, "how": how}


def line_up(**more: str) -> dict[str, str]:
    return {"form": "line-up", "layers": THREE, **more}


WORKS = {
    "opacity": (several("opacity", "40 %"), lambda v: [t.opacity for t in transforms(v)] == [0.4] * 3),
    "more of it": (several("x", "2.5", "add"), lambda v: [t.position[0] for t in transforms(v)] == [32.5, 62.5, 122.5]),
    "less of it": (several("opacity", "-25", "add"), lambda v: [t.opacity for t in transforms(v)] == [0.75, 0.25, 0.75]),
    "twice": (several("scale", "2", "times"), lambda v: [t.scale for t in transforms(v)] == [(2, 2), (2, 2), (4, 4)]),
    "colour": (several("colour", "#abcdef", layers="one words"),
               lambda v: (v.layer("one").content.fill, v.layer("words").content.colour) == ("#abcdef",) * 2),
    "keys": (several("turn", "9") | {"pin": "true", "frame": "3"},
             lambda v: all(v.layer(name).keys_of("turn")[0].value == 9 for name in THREE.split())),
    "left of the frame": (line_up(side="left", to="frame"), lambda v: lined(v, 0, 0, 0)),
    "middle of the frame": (line_up(side="middle", to="frame"), lambda v: lined(v, 1, 0.5, 60)),
    "right of the frame": (line_up(side="right", to="frame"), lambda v: lined(v, 0, 1, 160)),
    "top of them": (line_up(side="top", to="each other"), lambda v: lined(v, 1, 0, 15)),
    "bottom of them": (line_up(side="bottom", to="each other"), lambda v: lined(v, 1, 1, 110)),
    "one by the frame": ({"form": "line-up", "layers": "one", "side": "centre"},
                         lambda v: v.layer("one").transform.position == (80, 20)),
    "rooms": (line_up(way="across"), lambda v: rooms_are_one(v)),
    "along a line": (line_up(way="line"), lambda v: are_on_a_line(v)),
}  # fmt: skip


def rooms_are_one(value) -> bool:
    found = boxes(value)
    ends = found[0, 0], found[2, 2]
    rooms = found[1:, 0] - found[:-1, 2]
    return np.isclose(rooms[0], rooms[1]) and np.allclose(ends, (20, 140))


def are_on_a_line(value) -> bool:
    middles = (boxes(value)[:, :2] + boxes(value)[:, 2:]) / 2
    return bool(np.allclose(middles[1], (middles[0] + middles[2]) / 2))


@pytest.mark.parametrize(("fields", "holds"), WORKS.values(), ids=WORKS)
def test_an_edit_is_looked_at_done_and_undone(post, scene, shown, fields, holds):
    done_and_undone(post, scene, shown, fields, holds)


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        (several("opacity", "75", "add"), "Opacity of One would be 175 %; it is 0 to 100 %. Nothing was changed."),
        (several("opacity", "140"), "140 % is outside 0 to 100 %"),
        (several("x", "far"), "“far” is not a number"),
        (several("scale", "", "times"), "Value"),
        (several("size", "9"), "Size: none of them has it to be set."),
        (several("colour", "reddish"), "Value"),
        (several("x", "3", layers="fish"), "X: none of them has it to be set."),
        (several("x", "3", layers="one gone"), "no layer 'gone'"),
        ({"form": "line-up", "layers": "fish", "side": "left"}, "Fish rides a path, which sets the place"),
        ({"form": "line-up", "layers": "one two"}, "Nothing says by which side"),
        ({"form": "line-up", "layers": "one two", "way": "down"}, "need 3 of them"),
    ],
)  # fmt: skip
def test_what_makes_no_sense_gets_one_sentence_and_changes_nothing(
    post, scene, shown, fields, words
):
    refused_in_words(post, scene, shown, fields, 422, words)


def test_who_stays_is_said(post, scene):
    said = str(post(form="line-up", layers="one fish", side="left", to="frame").content)
    assert "Fish stayed: a path sets the place" in said
    assert "X: 1 layer without it stayed." in str(post(**several("x", "5", layers="one fish")).content)  # fmt: skip
    assert now(scene).layer("one").transform.position[0] == 5


# Layers copied and pasted


def copied(scene, *layers: str, revision: int | None = None) -> str:
    told = {"scene": scene.pk, "revision": scene.revision if revision is None else revision}
    return json.dumps({"coaster-layers": {**told, "layers": layers}})


def paste_of(scene, text: str, **more: str) -> dict[str, str]:
    return {"form": "layers-paste", "copied": text, "into": str(scene.pk), "frame": "0", **more}


def test_layers_are_pasted_beside_themselves_done_and_undone(post, scene, shown):
    done_and_undone(
        post, scene, shown, paste_of(scene, copied(scene, "fish", "one"), aside="on"),
        lambda v: [x.name for x in v.layers[-2:]] == ["Fish 2", "One 2"] and len(v.paths) == len(shown.paths),
    )  # fmt: skip
    assert now(scene).layers[-2].ride == shown.layer("fish").ride


def test_what_was_cut_comes_back_as_it_was(post, scene, shown):
    text = copied(Row.objects.get(pk=scene.pk), "fish", "line")
    assert post(form="delete", layer="fish line").status_code == 200
    assert post(form="delete", path="ring").status_code == 200
    assert post(**paste_of(scene, text, aside="on")).status_code == 200
    assert {x.id for x in now(scene).layers} == {x.id for x in shown.layers}
    assert now(scene).layer("fish").ride == shown.layer("fish").ride


def test_into_another_project_the_files_come_along(post, client_of, anna, scene, shown):
    other = services.create_project(anna, "Second hall")
    unwanted, _ = services.import_picture(
        anna, scene.project, png(colour=(1, 2, 3, 255)), "whale.png"
    )
    whale = Layer("whale", "Whale", Picture(unwanted.file_name, 8, 4))
    scene = services.create_scene(
        anna, scene.project, "Full", replace(shown, layers=(*shown.layers, whale))
    )
    empty = services.create_scene(anna, other, "Empty", Document(160, 120))
    answer = client_of(anna).post(
        reverse("edit", args=[empty.pk]), paste_of(empty, copied(scene, "fish")) | {"base": "0"}
    )
    assert answer.status_code == 200
    made = now(empty)
    assert [layer.name for layer in made.layers] == ["Fish"]
    assert [path.name for path in made.paths] == ["Ring"]
    (asset,) = made.assets()
    assert other.assets.get(file_name=asset).path.read_bytes() == png()
    # Only what came along: the scene has other files, too.
    assert other.assets.get().original_name == "fish.png"


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("{}", "are not layers of a scene here"),
        ("[1]", "are not layers of a scene here"),
        ('{"coaster-layers": {"scene": 1, "revision": "x", "layers": ["a"]}}', "are not layers"),
        ('{"coaster-layers": {"scene": 1, "revision": 0, "layers": []}}', "are not layers"),
        ('{"coaster-layers": {"scene": 1e400, "revision": 0, "layers": ["fish"]}}', "are not layers"),
        ('{"coaster-layers": {"scene": 1, "revision": -Infinity, "layers": ["fish"]}}', "are not layers"),
        ('{"coaster-layers": {"scene": 99999, "revision": 0, "layers": ["fish"]}}', "copy them again"),
        ('{"coaster-layers": {"scene": SCENE, "revision": -4, "layers": ["fish"]}}', "copy them again"),
        ('{"coaster-layers": {"scene": SCENE, "revision": 0, "layers": ["whale"]}}', "no layer 'whale'"),
    ],
)  # fmt: skip
def test_what_cannot_be_pasted_is_said(post, scene, shown, text, words):
    fields = paste_of(scene, text.replace("SCENE", str(scene.pk)))
    refused_in_words(post, scene, shown, fields, 422, words)


def test_nobody_pastes_what_is_not_theirs(client_of, ben, scene):
    own = services.create_project(ben, "Ben's")
    mine = services.create_scene(ben, own, "Mine", Document(160, 120))
    answer = client_of(ben).post(
        reverse("edit", args=[mine.pk]), paste_of(mine, copied(scene, "fish")) | {"base": "0"}
    )
    assert answer.status_code == 422
    assert "not here any more" in answer.json()["words"]
    assert now(mine).layers == ()


@pytest.mark.parametrize(
    ("typed", "number"),
    [("120/2", 60), ("-(3+4)*2", -14), ("1,5*2 px", 3), ("((7))", 7), ("--5", 5), ("2*3+4/8", 6.5)],
)
def test_numbers_may_be_typed_as_sums(typed, number):
    assert Number(-100, 100, unit="px").clean(typed) == number


@pytest.mark.parametrize(
    "typed", ["2**9", "1/0", "1+", "5 5", "0x10", "nan", "1" * 90 + "+1", "()", "(1)(2)", "[1]"]
)
def test_what_is_no_sum_is_refused(typed):
    with pytest.raises(ValidationError, match="is not a number"):
        Number(-1e99, 1e99, unit="px").clean(typed)
