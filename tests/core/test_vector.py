"""A scene as a file of vectors that moves by itself: what it holds, and how few values tell it."""

import re
from dataclasses import replace

import numpy as np
import pytest
from defusedxml import ElementTree
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as arrays
from PIL import Image

from coaster.errors import EditRefused, FormatError, MediaError
from coaster.export import sheets
from coaster.export.orders import Choices
from coaster.export.render import render
from coaster.geometry.figures import figure
from coaster.geometry.path import Path
from coaster.media.writers import KINDS
from coaster.motion.keys import Key
from coaster.motion.rate import Rate
from coaster.render.display import Item, Part, Program, Sort, Sorted
from coaster.render.outlines import Face, Faces
from coaster.render.svg_moving import SVG, kept
from coaster.scene.contents import Picture, Shape
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.masks import Mask, MaskPart
from coaster.scene.properties import Track


def track(name: str, *values: object) -> Track:
    return Track(name, tuple(Key(f"{name}{i}", 12 * i, v) for i, v in enumerate(values)))


FISH = Layer("f", "Fish", Shape("ellipse", 40, 20, "#ff8000"), Transform((80, 40)))
SCENE = Scene(160, 96, Rate(24), 24, "#204060", layers=(FISH,))


def written(scene: Scene, folder, kind: str = "svg", **choices: object):
    out = folder / f"x{KINDS[kind].ending}"
    order = Choices(kind, **choices).order(scene)
    render(scene, folder, out, order, kind=KINDS[kind])
    return ElementTree.fromstring(out.read_text()) if kind == "svg" else out.read_text()


def animations(root) -> dict[str, list[str]]:
    """Return the values of each animated attribute or transform."""
    found = {}
    for tag in ("animate", "animateTransform"):
        for node in root.iter(SVG + tag):
            found[node.get("type") or node.get("attributeName")] = node.get("values").split(";")
    return found


columns = arrays.arrays(
    float, st.tuples(st.integers(2, 40), st.just(2)), elements=st.floats(-500, 500, width=32)
)


@given(columns, st.sampled_from([0.01, 1.0, 50.0]))
def test_the_values_that_are_kept_tell_the_others(column, tolerance):
    keys = kept(column, tolerance)
    rows = [row for row, _ in keys]
    assert rows == sorted(rows)
    assert (rows[0], rows[-1]) == (0, len(column) - 1)
    last = dict(keys)  # of two at one row the second is what is there
    first = dict(reversed(keys))
    for row, value in enumerate(column):
        after = next(r for r in rows if r >= row)
        before = max(r for r in rows if r <= row)
        share = 0 if after == before else (row - before) / (after - before)
        line = last[before] + share * (first[after] - last[before])
        told = last.get(row, line)
        assert np.abs(told - value).max() <= tolerance + 1e-9


def test_even_movement_takes_two_values_and_a_jump_two_of_one_frame():
    even = np.linspace(0, 100, 50)[:, None]
    assert [row for row, _ in kept(even, 0.02)] == [0, 49]
    jumping = np.concatenate([even[:20], even[20:] + 500])
    assert [row for row, _ in kept(jumping, 0.02)] == [0, 19, 20, 20, 49]


def test_what_stands_still_is_not_animated_and_what_moves_is_told_by_its_parts(tmp_path):
    assert animations(written(SCENE, tmp_path)) == {}
    keys = (
        track("x", 0.0, 80.0, 0.0),
        track("turn", 0.0, 90.0, 360.0),
        track("opacity", 0.0, 1.0, 0.0),
    )
    root = written(replace(SCENE, layers=(replace(FISH, keys=keys),)), tmp_path)
    found = animations(root)
    assert found["translate"] == ["0 40", "80 40", "0 40"]
    assert found["rotate"] == ["0", "90", "360"]
    assert found["opacity"] == ["0", "1", "0"]
    clocks = {node.get("dur") for node in root.iter(SVG + "animateTransform")}
    assert clocks == {"1s"}
    back = animations(
        written(replace(SCENE, layers=(replace(FISH, keys=keys),)), tmp_path, last=13, returns=True)
    )
    assert back["rotate"] == ["0", "90", "0"]


def test_colours_are_told_and_a_page_fills_its_window(tmp_path):
    keyed = replace(FISH, keys=(track("colour", "#000000", "#ffffff", "#000000"),))
    scene = replace(SCENE, layers=(keyed,))
    values = animations(written(scene, tmp_path))["fill"]
    assert (values[0], values[-1]) == ("#000000", "#000000")
    assert "#ffffff" in values
    page = written(scene, tmp_path, "html", scale=2.0)
    assert re.search(r'<body>\s*<svg [^>]*width="320" height="192" viewBox="0 0 160 96">', page)
    assert "http" not in page.replace("http://www.w3.org/2000/svg", "")


def test_a_picture_is_in_the_file_once_and_a_missing_one_is_said(tmp_path):
    Image.new("RGBA", (8, 8), "#ff000080").save(tmp_path / "fish.png")
    two = (
        Layer("a", "A", Picture("fish.png", 8, 8), Transform((20, 20))),
        Layer("b", "B", Picture("fish.png", 8, 8), Transform((90, 20))),
    )
    root = written(replace(SCENE, layers=two), tmp_path)
    assert len(list(root.iter(SVG + "image"))) == 1
    uses = [node.get("href") for node in root.iter(SVG + "use")]
    assert uses == ["#picture-0", "#picture-0"]
    (tmp_path / "fish.png").unlink()
    with pytest.raises(MediaError, match=r"fish\.png could not be read"):
        written(replace(SCENE, layers=two), tmp_path / "..")


@pytest.mark.parametrize(
    ("choices", "words"),
    [
        ({"shutter": 90.0}, "has no motion blur"),
        ({"fps": Rate(30)}, "has no frames a second of its own"),
        ({"loops": 2}, "runs for ever"),
        ({"seconds": 5.0}, "runs for ever"),
    ],
)
def test_what_belongs_to_frames_is_refused(choices, words):
    with pytest.raises(FormatError, match=words):
        Choices("svg", **choices).order(SCENE)


def test_a_mask_that_grows_and_shrinks_is_refused_and_nothing_is_written(tmp_path):
    hole = figure("ellipse", 60, 30, 40, 20)
    masked = replace(FISH, mask=Mask((MaskPart("hole"),)), keys=(track("grow", 6.0, -6.0, 6.0),))
    scene = replace(SCENE, layers=(masked,), paths=(Path("hole", "Hole", (hole,)),))
    with pytest.raises(EditRefused, match="Frame 7 is made of other parts"):
        written(scene, tmp_path)
    assert list(tmp_path.iterdir()) == []


def test_of_several_looks_one_is_seen_in_every_frame(tmp_path):
    grown = replace(FISH, keys=(track("size_x", 40.0, 60.0, 40.0),))
    looks = [g for g in written(replace(SCENE, layers=(grown,)), tmp_path).iter(SVG + "g")
             if g.get("display")]  # fmt: skip
    seen = []
    for look in looks:
        told = look.find(SVG + "animate")
        begins = np.array(told.get("keyTimes").split(";"), dtype=float) * 24
        at = np.searchsorted(begins, np.arange(24) + 0.001) - 1
        seen.append([told.get("values").split(";")[i] == "inline" for i in at])
    widths = [float(re.search(r"[\d.]+", look.find(SVG + "path").get("d"))[0]) for look in looks]
    assert np.sum(seen, axis=0).tolist() == [1] * 24
    shown = [widths[i] for i in np.argmax(seen, axis=0)]
    assert shown == pytest.approx([40 + 20 * (12 - abs(12 - i)) / 12 for i in range(24)], abs=1e-3)


def test_sheets_lie_in_order_of_their_depth_in_every_frame_and_what_follows_lies_upon_them():
    def item(name: str) -> Item:
        deep = np.array([[1.0, 0, 0, 0, 1, 0, 1e-4, 0, 1]])
        faces = Faces((Face((0, 0, 10, 10), picture=("a.png", 0)),))
        return Item(name, faces, deep, np.ones(1))

    away = {"a": [3.0, 1.0, 2.0], "b": [2.0, 3.0, 3.0], "c": [1.0, 2.0, 1.0]}
    steps = [item("under"), Sort("s")]
    for name, far in away.items():
        # One set has two things, one upon the other.
        steps += [Part(name, np.array(far)), item(name), *([item("a2")] if name == "a" else [])]
    program = Program(100, 80, 2, "#000000", (*steps, Sorted(), item("over")))
    found = sheets.sheets_of(program)
    for frame in range(3):
        seen = sorted((each.order[frame if len(each.order) > 1 else 0], each.program.steps[0].name) for each in found if each.seen is not None)  # fmt: skip
        names = [name for _, name in seen]
        wanted = sorted(away, key=lambda name, frame=frame: -away[name][frame])
        wanted = [each for name in wanted for each in ([name, "a2"] if name == "a" else [name])]
        assert names == ["under", *wanted, "over"]
        assert len({order for order, _ in seen}) == len(seen)
