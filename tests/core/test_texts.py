"""Texts: lines as HarfBuzz sets them, set apart, wrapped, outlined, and keyed."""

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
import uharfbuzz as harfbuzz
from hypothesis import given, settings
from hypothesis import strategies as st

from coaster.motion.keys import Key
from coaster.render import texts
from coaster.render.evaluate import Evaluation
from coaster.render.faces import standing_face
from coaster.scene.contents import Text
from coaster.scene.document import Layer, Scene
from coaster.scene.properties import Track
from tests.core.test_masks import pixels

WORDS = st.lists(st.sampled_from(["Tide", "at", "four", "AVAVA", "flow,", "Řeka", "1234"]), min_size=1, max_size=12)  # fmt: skip


def width(text: Text) -> float:
    return texts.outline(text)[1]


def lines(text: Text) -> int:
    return round(texts.outline(text)[2] / (text.size * text.leading))


def test_a_line_is_set_as_harfbuzz_sets_it():
    text = Text("AVAST Tidepool", size=100.0)
    blob = harfbuzz.Blob.from_file_path(str(texts.FONT_FOLDER / "bricolage-grotesque-latin.ttf"))
    font = harfbuzz.Font(harfbuzz.Face(blob))
    font.set_variations({"wght": text.weight})
    buffer = harfbuzz.Buffer()
    buffer.add_str(text.text)
    buffer.guess_segment_properties()
    harfbuzz.shape(font, buffer)
    advance = sum(place.x_advance for place in buffer.glyph_positions)
    assert width(text) == pytest.approx(advance * 100 / font.face.upem)
    # Kerning is kept: the letters by themselves are wider.
    assert width(text) < sum(width(Text(letter, size=100.0)) for letter in text.text)


@given(st.sampled_from(["Ebb", "Tide at four", "ŘekaA"]), st.floats(-0.2, 2), st.floats(10, 200))
@settings(max_examples=30, deadline=None)
def test_tracking_is_put_between_letters_and_not_behind_the_last(words, tracking, size):
    text = Text(words, size=size, font="Figtree")
    wider = width(replace(text, tracking=tracking)) - width(text)
    assert wider == pytest.approx((len(words) - 1) * tracking * size, abs=1e-6 * size)


@given(WORDS, st.floats(20, 900))
@settings(max_examples=40, deadline=None)
def test_lines_are_broken_between_words_and_are_no_wider_than_asked(words, wrap):
    text = Text(" ".join(words), size=40.0, wrap=wrap)
    fonts = texts._fonts(text)
    scale = text.size / fonts[0].face.upem
    found = texts._wrapped(text, fonts, 0.0, wrap / scale)
    assert " ".join(found).split() == words
    for line in found:
        assert width(Text(line, size=40.0)) <= wrap + 1e-6 or " " not in line
    # No line could have taken the first word of the next.
    for line, after in pairwise(found):
        assert width(Text(f"{line} {after.split()[0]}", size=40.0)) > wrap
    assert (lines(text), width(text)) == (len(found), wrap)


def test_lines_that_are_typed_stay_and_wide_text_stays_as_it_was():
    text = Text("Ebb\n\nflow and ebb", size=40.0, wrap=5000.0)
    assert lines(text) == 3
    assert lines(replace(text, wrap=width(replace(text, wrap=None)))) == 3
    assert lines(replace(text, wrap=1.0)) == 5


def test_an_outline_is_drawn_and_tracking_may_be_keyed():
    keys = (Track("tracking", (Key("a", 0, 0.0), Key("b", 4, 1.0))),)
    plain = Text("Ebb", size=60.0, colour="#ffffff")
    edged = replace(plain, stroke="#e03020", stroke_width=6.0)
    one = Layer("t", "T", edged, keys=keys)
    scene = Scene(320, 120, length=4, background="#102030", layers=(one,))
    faces = Evaluation(scene).motion("t").faces
    widths = faces.boxes()[:, 2]
    assert widths[0] == pytest.approx(width(plain))
    assert widths[-1] == pytest.approx(width(replace(plain, tracking=1.0)))
    assert np.all(np.diff(widths) > 0)
    outline = standing_face(one, None).outlines[0]
    assert (outline.fill, outline.stroke, outline.stroke_width) == ("#ffffff", "#e03020", 6.0)
    # The letters keep their shape: what was white stays so.
    bare = replace(one, content=plain, keys=())
    white = pixels(replace(scene, width=160, layers=(bare,)))[..., :3].min(axis=2) > 0.99
    edged_white = pixels(replace(scene, width=160, layers=(replace(one, keys=()),)))[..., :3].min(axis=2) > 0.99  # fmt: skip
    assert np.array_equal(white, edged_white)
    shown = replace(scene, width=160, layers=(replace(one, keys=()),))
    red = (pixels(shown)[..., 0] > 0.7) & (pixels(shown)[..., 1] < 0.4)
    assert red.sum() > 100
