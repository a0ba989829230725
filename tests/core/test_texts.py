"""Texts: lines as HarfBuzz sets them, set apart, wrapped, outlined, and keyed."""

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
import uharfbuzz as harfbuzz
from hypothesis import given, settings
from hypothesis import strategies as st

from coaster.commands import applied
from coaster.edits import layers
from coaster.edits.keys import Moment
from coaster.motion.keys import Key
from coaster.render import fonts, texts
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
    blob = harfbuzz.Blob.from_file_path(str(fonts.FOLDER / "bricolage-grotesque-latin.ttf"))
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
    found = texts.lines_of(text)
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


def test_a_text_that_nobody_named_is_called_by_its_first_line():
    scene = Scene(layers=(Layer("a", "High tide", Text("x")),))
    made = applied(scene, layers.add(scene, "text").commands)
    written = {"text": "High tide\nat four"}
    edit = layers.text_look(made, "new-text", written, Moment())
    told = applied(made, edit.commands)
    assert told.layer("new-text").name == "High tide 2"
    assert told.layer("new-text").content.text == written["text"]
    # From then on the name is its own, as is one that was given.
    again = layers.text_look(told, "new-text", {"text": "Low tide"}, Moment())
    assert applied(told, again.commands).layer("new-text").name == "High tide 2"
    only = layers.text_look(made, "new-text", {"size": 20.0}, Moment())
    assert applied(made, only.commands).layer("new-text").name == "New text"


def test_a_figure_is_added_as_large_as_asked_and_a_text_as_it_is():
    scene = Scene()
    made = applied(scene, layers.add(scene, "star", at=(30, 40), size=(50, 20)).commands)
    star = made.layers[0]
    assert (star.content.width, star.content.height) == (50, 20)
    assert star.transform.position == (30, 40)
    half = applied(scene, layers.add(scene, "star", size=(50, None)).commands).layers[0]
    assert half.content.width == 50 != half.content.height
    layers.add(scene, "text", size=(50, 20))


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


SHALOM, MARHABA = "\u05e9\u05dc\u05d5\u05dd", "\u0645\u0631\u062d\u0628\u0627"


def glyphs(text: Text) -> list[tuple[int, float]]:
    """The glyphs of the first line from left to right, and where each is."""
    setting = texts._Setting.of(text)
    line, base = next(iter(texts._lines(text, setting)))
    return [(number, x) for run in setting.shaped(line, base)[0] for number, x, *_ in run.glyphs]


def by_harfbuzz(
    words: str, file: str, direction: str, weight: int = 600
) -> list[tuple[int, float]]:
    """What HarfBuzz itself makes of a run of one script: glyphs and advances in font units."""
    font = harfbuzz.Font(harfbuzz.Face(harfbuzz.Blob.from_file_path(str(fonts.FOLDER / file))))
    font.set_variations({"wght": weight})
    buffer = harfbuzz.Buffer()
    buffer.add_str(words)
    buffer.guess_segment_properties()
    buffer.direction = direction
    harfbuzz.shape(font, buffer)
    pairs = zip(buffer.glyph_infos, buffer.glyph_positions, strict=True)
    return [(info.codepoint, place.x_advance / font.face.upem) for info, place in pairs]


@pytest.mark.parametrize(
    ("words", "file"),
    [
        (SHALOM, "noto-sans-hebrew.ttf"),
        (MARHABA, "noto-sans-arabic.ttf"),
        ("\u0928\u092e\u0938\u094d\u0924\u0947", "noto-sans-devanagari.ttf"),
        ("\u0391\u03b9\u03b3\u03b1\u03af\u03bf", "noto-sans-greek.ttf"),
        ("\u0e2a\u0e27\u0e31\u0e2a\u0e14\u0e35", "noto-sans-thai.ttf"),
    ],
)
def test_other_scripts_are_set_as_harfbuzz_sets_them(words, file):
    way = "rtl" if words in (SHALOM, MARHABA) else "ltr"
    wanted, text = by_harfbuzz(words, file, way), Text(words, size=100.0)
    assert [number for number, _ in glyphs(text)] == [number for number, _ in wanted]
    assert width(text) == pytest.approx(100 * sum(advance for _, advance in wanted), rel=1e-9)


def test_mixed_lines_run_each_their_way():
    """Within left-to-right words the others run to the left, and their numbers to the right."""
    mixed = Text(f"Bay {SHALOM} 12 tide", size=100.0)
    seen = [number for number, _ in glyphs(mixed)]
    bay = [number for number, _ in glyphs(Text("Bay ", size=100.0))]
    hebrew = [n for n, _ in by_harfbuzz(SHALOM, "noto-sans-hebrew.ttf", "rtl")]
    assert seen[: len(bay)] == bay
    # The number follows the Hebrew as it is read, so it stands on its left.
    at = next(i for i in range(len(seen)) if seen[i : i + len(hebrew)] == hebrew)
    twelve = [number for number, _ in glyphs(Text("12", size=100.0))]
    assert seen[at - len(twelve) - 1 : at - 1] == twelve
    # A paragraph that begins with it runs to the left as a whole.
    turned = [number for number, _ in glyphs(Text(f"{SHALOM} Bay", size=100.0))]
    assert turned[-len(hebrew) :] == hebrew


def test_blanks_at_the_end_of_a_line_are_the_paragraphs():
    assert texts._line_levels([("a", 0), (SHALOM[0], 1), (" ", 1)], 0)[-1] == (" ", 0)


def test_marks_stay_with_their_letter_when_letters_are_set_apart():
    plain = Text("e\u0301a", size=100.0, font="Figtree")
    apart = replace(plain, tracking=1.0)
    assert width(apart) - width(plain) == pytest.approx(100)


def test_scripts_without_blanks_are_broken_between_signs():
    known = "\u6f6e\u6c50\u3002\u6f6e"
    letters, _ = texts._levelled(known)
    # The full stop does not begin a line.
    assert list(texts._words(letters)) == [(0, 1), (1, 3), (3, 4)]


def test_italics_are_another_style_where_there_is_one():
    upright = Text("flow", font="Figtree")
    italic = replace(upright, italic=True)
    assert texts.outline(italic)[0].path_data() != texts.outline(upright)[0].path_data()
    assert (fonts.has_italic("Figtree"), fonts.has_italic("Bricolage Grotesque")) == (True, False)


def test_what_no_font_has_is_named():
    assert texts.missing_letters(Text(f"Bay {SHALOM}\u6f6e{MARHABA}\u6c50")) == "\u6f6e\u6c50"
