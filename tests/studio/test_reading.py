"""Files that would take all time or all memory: each is left in words, and the next one is read."""

import time

import pytest

from coaster.errors import EditRefused, FormatError
from coaster.formats import pictures, svg
from coaster.scene import codec, limits
from coaster.scene.document import Scene
from studio import reading
from studio.demo.scenes import path
from studio.editor import questions
from studio.reading import apart

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" width="4096" height="4096" viewBox="0 0 4096 4096">'
DRAWING = f'{HEAD}<path d="M0 0L40 20"/></svg>'.encode()
BLURRED = (
    f'{HEAD}<filter id="f"><feGaussianBlur stdDeviation="80"/></filter>'
    + '<g filter="url(#f)">' * 50
    + '<rect width="4000" height="4000"/>'
    + "</g>" * 50
    + "</svg>"
).encode()
ZEROS = b'{"schema":4,"layers":[' + b"0," * 12_000_000 + b"0]}"


def test_what_is_read_apart_comes_back_and_so_does_what_is_wrong_with_it():
    assert apart(svg.read, DRAWING).shapes[0].tag == "path"
    with pytest.raises(FormatError, match="not a readable SVG"):
        apart(svg.read, b"<svg")


def test_what_takes_too_long_is_left_and_the_next_file_is_read(monkeypatch):
    apart(svg.read, DRAWING)
    monkeypatch.setattr(reading, "LONGEST_S", 1.0)
    begun = time.monotonic()
    with pytest.raises(reading.TooMuchError, match="takes more than 1 s to read"):
        apart(pictures.import_picture, BLURRED, "blurred.svg")
    # Ended, not only given up on: it would go on for minutes.
    assert time.monotonic() - begun < 60
    monkeypatch.undo()
    assert apart(svg.read, DRAWING).width == 4096


def test_what_takes_too_much_memory_is_left_and_the_next_file_is_read():
    with pytest.raises(reading.TooMuchError, match="of memory"):
        apart(codec.from_json, ZEROS)
    assert apart(svg.read, DRAWING).width == 4096


def test_a_scene_grows_up_to_its_limits_and_one_beyond_them_can_be_made_smaller(monkeypatch):
    ring = path("ring", "Ring", "M0 0L100 0L100 100Z")
    scene = Scene(160, 120, length=24, paths=(ring,))
    limits.check_growth(None, scene)
    monkeypatch.setattr(limits, "MOST_NODES", 2)
    with pytest.raises(EditRefused, match="3 nodes in its paths; a scene may have 2"):
        limits.check_growth(None, scene)
    with pytest.raises(EditRefused, match="13 nodes"):
        limits.check_nodes(scene, 10)
    limits.check_growth(scene, scene)


def test_a_scene_of_too_many_layers_is_refused(monkeypatch, scene, post, value):
    monkeypatch.setattr(limits, "MOST_LAYERS", len(value.layers))
    answer = post(form="add", what="text")
    assert answer.status_code == 422
    assert "5 layers; a scene may have 4" in answer.json()["words"]


def test_a_very_long_path_is_asked_about_with_a_small_drawing_and_its_true_count():
    pieces = "".join(f"C{i} 1 {i} 9 {i + 1} {i % 7}" for i in range(30_000))
    drawing = f'{HEAD}<path d="M0 0{pieces}M5 5L9 9"/></svg>'.encode()
    (choice,) = questions.of_drawing(drawing, "long.svg", 1920, 1080).choices
    assert (choice.nodes, choice.pieces, choice.closed) == (30_003, 2, False)
    assert len(choice.data) < 200_000
    left, _, width, _ = map(float, choice.view.split())
    assert left <= 0
    assert left + width >= 30_000
