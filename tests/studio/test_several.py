"""Several layers at once: one value for all of them, lined up, spread evenly."""

from dataclasses import replace

import numpy as np
import pytest

from coaster.edits.extents import box_of
from coaster.scene.contents import Shape
from coaster.scene.document import Layer, Transform
from studio.projects import services
from tests.studio.conftest import done_and_undone, now, refused_in_words

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
}  # fmt: skip


def rooms_are_one(value) -> bool:
    found = boxes(value)
    ends = found[0, 0], found[2, 2]
    rooms = found[1:, 0] - found[:-1, 2]
    return np.isclose(rooms[0], rooms[1]) and np.allclose(ends, (20, 140))


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
