"""Fonts from files: what is taken, what is refused in one sentence, and texts set in them."""

import io

import pytest
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib import TTFont

from coaster.commands import applied
from coaster.edits import imports, layers
from coaster.edits.keys import Moment
from coaster.errors import EditRefused, FormatError
from coaster.formats import bundle, fontfiles
from coaster.media import found
from coaster.render import fonts, texts
from coaster.scene import codec
from coaster.scene.contents import Text
from coaster.scene.document import Layer, Scene


def font(*, flavour: str | None = None, licence: int = 0, letters: str = "AB\u6f6e") -> bytes:
    """A font of our own: each letter a box."""
    pen = TTGlyphPen(None)
    for x, y in ((100, 0), (100, 700), (500, 700), (500, 0)):
        (pen.moveTo if (x, y) == (100, 0) else pen.lineTo)((x, y))
    pen.closePath()
    box, names = pen.glyph(), [f"g{ord(letter)}" for letter in letters]
    builder = FontBuilder(1000)
    builder.setupGlyphOrder([".notdef", *names])
    builder.setupCharacterMap({ord(c): name for c, name in zip(letters, names, strict=True)})
    builder.setupGlyf(dict.fromkeys((".notdef", *names), box))
    builder.setupHorizontalMetrics(dict.fromkeys((".notdef", *names), (600, 100)))
    builder.setupHorizontalHeader(ascent=800, descent=-200)
    builder.setupNameTable({"familyName": "Kelp", "styleName": "Bold"})
    builder.setupOS2(fsType=licence)
    builder.setupPost()
    builder.font.flavor = flavour
    out = io.BytesIO()
    builder.font.save(out)
    return out.getvalue()


@pytest.fixture
def kelp(tmp_path, monkeypatch) -> str:
    """The name under which a font is there."""
    monkeypatch.setattr(found, "_finders", [])
    monkeypatch.setattr(found, "_found", {})
    (tmp_path / "kelp.ttf").write_bytes(fontfiles.import_font(font(), "kelp.ttf").data)
    found.look_in(tmp_path)
    return "kelp.ttf"


@pytest.mark.parametrize("flavour", [None, "woff", "woff2"])
def test_fonts_are_unpacked_and_say_their_name(flavour):
    found = fontfiles.import_font(font(flavour=flavour), "x.woff2")
    assert (found.title, found.ending, found.notes) == ("Kelp Bold", ".ttf", ())
    assert TTFont(io.BytesIO(found.data)).flavor is None


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (font()[:400], "x.ttf is broken or no font"),
        (b"\x00\x01\x00\x00" + b"\xff" * 300, "broken or no font"),
        (b"wOF2" + b"\x00" * 64, "broken or no font"),
        (b"ttcf" + b"\x00" * 64, "a collection of fonts"),
        (b"OTTO" + bytes(fontfiles.LARGEST), "larger than 30 MB"),
        (font(licence=0x0002), "forbids being taken along"),
        (font(licence=0x0200), "forbids being taken along"),
        (font(letters=""), "has no letters"),
    ],
)
def test_what_cannot_be_used_is_refused_in_one_sentence(data, words):
    with pytest.raises(FormatError, match=words):
        fontfiles.import_font(data, "x.ttf")


def test_a_licence_for_showing_only_is_said():
    found = fontfiles.import_font(font(licence=0x0004), "x.ttf")
    assert "ask its maker" in found.notes[0]
    assert fontfiles.import_font(font(licence=0x0008), "x.ttf").notes == ()


def test_a_text_is_set_in_it_and_other_letters_come_from_the_rest(kelp):
    text = Text("A\u6f6e", kelp, size=100.0)
    assert texts.outline(text)[1] == pytest.approx(120)
    assert texts.missing_letters(text) == ""
    mixed = texts.outline(Text("AZ", kelp, size=100.0))[1]
    alone = texts.outline(Text("Z", "Figtree", size=100.0))[1]
    assert mixed == pytest.approx(60 + alone)
    assert (fonts.weights_of(kelp), fonts.has_italic(kelp)) == (None, False)


def test_one_that_is_gone_is_stood_in_for(kelp):
    gone = Text("AB", "gone.ttf", size=100.0)
    assert not fonts.is_there("gone.ttf")
    assert texts.outline(gone)[1] == texts.outline(Text("AB", fonts.PLAIN, size=100.0))[1]


def test_it_goes_along_in_bundles(kelp, tmp_path):
    layer = Layer("t", "Tide", Text("AB", kelp))
    scene = Scene(layers=(layer,))
    with (tmp_path / "x.zip").open("wb") as out:
        bundle.pack(scene, tmp_path, out)
    (tmp_path / "back").mkdir()
    back = bundle.unpack(tmp_path / "x.zip", "x.zip", tmp_path / "back")
    assert codec.from_json(codec.to_json(back.scene)) == scene
    assert back.assets == (kelp,)
    assert (tmp_path / "back" / kelp).read_bytes() == (tmp_path / kelp).read_bytes()
    renamed = scene.with_assets({kelp: "other.ttf"})
    assert renamed.layer("t").content.font == "other.ttf"


def test_a_font_that_is_dropped_sets_the_chosen_text_or_makes_one(kelp):
    scene = Scene(layers=(Layer("t", "Tide", Text("AB")),))
    after = applied(scene, imports.add_font(scene, kelp, "Kelp Bold", "t", ()).commands)
    assert after.layer("t").content.font == kelp
    fresh = imports.add_font(scene, kelp, "Kelp Bold", "", ())
    made = applied(scene, fresh.commands).layer(fresh.select.layers[0])
    assert (made.name, made.content.font) == ("Kelp Bold", kelp)
    assert "among the fonts" in fresh.notes[0]


def test_letters_italics_and_weights_that_are_not_there_are_said(kelp):
    scene = Scene(layers=(Layer("t", "Tide", Text("AB", "Bricolage Grotesque")),))
    for values, words in (
        ({"text": "A\u6c50"}, "No font here has “\u6c50”"),
        ({"italic": True}, "no italics"),
        ({"weight": 950}, "weight is 200 to 800"),
    ):
        with pytest.raises(EditRefused, match=words):
            layers.text_look(scene, "t", values, Moment())
