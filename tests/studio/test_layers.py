"""Carriers, gradients, shapes that become paths, fonts: over HTTP, done, undone, refused."""

from dataclasses import replace

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from coaster.render import fonts
from coaster.scene.carriers import Carrier
from coaster.scene.contents import Line
from coaster.scene.gradients import Gradient
from studio.projects import services
from studio.projects.models import Asset, Scene
from tests.core.test_fontfiles import font
from tests.studio.conftest import done_and_undone, now, refused_in_words

RAMP = Gradient("linear", colours=("#101010", "#e0e0e0"), offsets=(0.0, 1.0))


@pytest.fixture
def value(value):
    """The box goes with the fish and is filled with a gradient."""
    box = value.layer("box")
    filled = replace(box.content, gradient=RAMP)
    return value.with_layer(replace(box, carrier=Carrier("fish"), content=filled))


@pytest.fixture
def scene(project, value):
    return services.create_scene(project.owner, project, "Loop", value)


def ramp(value, layer: str = "box") -> Gradient:
    return value.layer(layer).content.gradient


WORKS = {
    "carried": ({"form": "carry", "layers": "words", "carrier": "box"},
                lambda v: v.layer("words").carrier == Carrier("box")),
    "sits": ({"form": "carry", "layers": "words", "carrier": "fish", "sits": "on"},
             lambda v: v.layer("words").transform.position == (0, 0)),
    "turns": ({"form": "carry", "layers": "box", "turns": "true"}, lambda v: v.layer("box").carrier.turn),
    "grows": ({"form": "carry", "layers": "box", "grows": "true"}, lambda v: v.layer("box").carrier.scale),
    "let go": ({"form": "carry", "layers": "box", "carrier": "none"}, lambda v: v.layer("box").carrier is None),
    "its carrier goes": ({"form": "delete", "layer": "fish", "frame": "3"}, lambda v: v.layer("box").carrier is None),
    "it rides": ({"form": "attach", "layer": "box", "path": "ring"}, lambda v: v.layer("box").carrier is None),
    "radial": ({"form": "gradient", "layer": "box", "filling": "radial"}, lambda v: ramp(v).form == "radial"),
    "plain": ({"form": "gradient", "layer": "box", "filling": "plain"}, lambda v: ramp(v) is None),
    "of a text": ({"form": "gradient", "layer": "words", "filling": "linear"}, lambda v: ramp(v, "words").colours[0] == "#16222e"),
    "one stop more": ({"form": "gradient", "layer": "box", "add": "on"}, lambda v: ramp(v).offsets == (0, 0.5, 1)),
    "turned round": ({"form": "gradient", "layer": "box", "reverse": "on"}, lambda v: ramp(v).start == (1.0, 0.5)),
    "ends by number": ({"form": "gradient", "layer": "box", "start_x": "25", "end_y": "90"},
                       lambda v: (ramp(v).start, ramp(v).end) == ((0.25, 0.5), (1.0, 0.9))),
    "of several": ({"form": "several", "layers": "box", "property": "stop_1_at", "value": "20"},
                   lambda v: ramp(v).offsets == (0.2, 1.0)),
    "a stop": ({"form": "gradient", "layer": "box", "stop": "2", "at": "80", "colour": "#00ff00", "colour_alpha": "50"},
               lambda v: (ramp(v).colours[1], ramp(v).offsets[1]) == ("#00ff0080", 0.8)),
    "an end": ({"form": "layer-frame", "layer": "box", "part": "ramp-end", "from_x": "0", "from_y": "0",
                "to_x": "80", "to_y": "60"}, lambda v: ramp(v).end != RAMP.end),
    "a side": ({"form": "layer-frame", "layer": "words", "part": "e", "from_x": "100", "from_y": "20",
                "to_x": "100", "to_y": "30", "slants": "true"}, lambda v: v.layer("words").transform.skew != 0),
    "off its path": ({"form": "place", "layer": "fish", "off_x": "4"}, lambda v: v.layer("fish").transform.anchor == (0, 0.5)),
    "skew": ({"form": "place", "layer": "words", "skew": "12"}, lambda v: v.layer("words").transform.skew == 12),
    "a line's fill": ({"form": "line", "layer": "line", "filled": "true"}, lambda v: v.layer("line").content.fill),
    "no stroke": ({"form": "line", "layer": "line", "stroked": "false"}, lambda v: v.layer("line").content.colour is None),
    "a shape": ({"form": "become", "layer": "line", "to": "shape"}, lambda v: v.layer("line").content.figure == "drawn"),
    "a filling": ({"form": "add", "what": "filling", "path": "ring"}, lambda v: v.layer("filling-of-ring").content.fill),
    "inside": ({"form": "shape", "layer": "box", "side": "inside"}, lambda v: v.layer("box").content.side == "inside"),
    "italic": ({"form": "text", "layer": "words", "font": "Figtree", "italic": "true"}, lambda v: v.layer("words").content.italic),
}  # fmt: skip


@pytest.mark.parametrize(("fields", "holds"), WORKS.values(), ids=WORKS)
def test_an_edit_is_looked_at_done_and_undone(post, scene, value, fields, holds):
    done_and_undone(post, scene, value, fields, holds)


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"form": "carry", "layers": "box", "carrier": "box"}, "cannot carry itself"),
        ({"form": "carry", "layers": "fish", "carrier": "words"}, "rides Ring, which sets its place"),
        ({"form": "carry", "layers": "line", "carrier": "words"}, "does not ride"),
        ({"form": "carry", "layers": "words", "carrier": "line"}, "no place of its own"),
        ({"form": "carry", "layers": "words", "turns": "true"}, "No layer carries Words"),
        ({"form": "carry", "layers": "words", "carrier": "gone"}, "no layer 'gone'"),
        ({"form": "gradient", "layer": "fish", "filling": "linear"}, "nothing to be filled"),
        ({"form": "gradient", "layer": "words", "add": "on"}, "choose a gradient first"),
        ({"form": "gradient", "layer": "box", "stop": "1", "remove": "on"}, "at least two stops"),
        ({"form": "gradient", "layer": "box", "stop": "5", "at": "3"}, "no stop 5"),
        ({"form": "gradient", "layer": "box", "stop": "1", "colour": "teal"}, "Colour"),
        ({"form": "place", "layer": "words", "skew": "90"}, "90 ° is outside -85 to 85 °"),
        ({"form": "become", "layer": "box", "to": "path"}, "moves by itself"),
        ({"form": "text", "layer": "words", "font": "Sparkle"}, "font"),
        ({"form": "text", "layer": "words", "text": "x" * 100_000}, "it has 100000 letters, and may have 2000"),
    ],
)  # fmt: skip
def test_what_makes_no_sense_gets_one_sentence(post, scene, value, fields, words):
    refused_in_words(post, scene, value, fields, 422, words)


@pytest.fixture
def send(client_of, anna, scene):
    client = client_of(anna)

    def upload(name: str, data: bytes, **fields):
        base = Scene.objects.get(pk=scene.pk).revision
        sent = {"file": SimpleUploadedFile(name, data), "base": base, **fields}
        return client.post(reverse("import", args=[scene.pk]), sent)

    return upload


def test_a_font_sets_the_chosen_text_and_is_offered_to_all(send, scene, project, client_of, anna):
    kelp = font(flavour="woff2")
    # Without a text it makes one of its own; of one that is chosen, what it lacks comes from others.
    assert send("kelp.woff2", kelp).status_code == 200
    made = now(scene).layers[-1].content
    asset = Asset.objects.get(file_name=made.font)
    assert (asset.original_name, fonts.is_there(made.font)) == ("Kelp Bold", True)
    assert send("kelp.woff2", kelp, layer="words").status_code == 200
    assert now(scene).layer("words").content.font == made.font
    assert Asset.fonts_of(project).count() == 1
    card = (
        client_of(anna).get(reverse("card", args=[scene.pk]), {"layer": "words"}).content.decode()
    )
    assert "Kelp Bold" in card
    assert "one weight" in card


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (font()[:300], "broken or no font"),
        (font(licence=2), "forbids being taken along"),
        (b"ttcf" + bytes(80), "collection"),
    ],
)
def test_a_font_that_cannot_be_used_leaves_nothing_behind(send, scene, value, data, words):
    before = Asset.objects.count()
    answer = send("x.ttf", data)
    assert answer.status_code == 422
    assert words in answer.json()["words"]
    assert (now(scene), Asset.objects.count()) == (value, before)


def test_a_scene_with_its_font_is_saved_and_opened_elsewhere(send, scene, client_of, ben):
    send("kelp.ttf", font(letters="KelpBod 1234"))
    used = now(scene).layers[-1].content.font
    bundle = services.export_bundle(scene.project.owner, Scene.objects.get(pk=scene.pk)).read()
    theirs = services.create_project(ben, "Theirs")
    opened = services.import_bundle(ben, theirs, SimpleUploadedFile("loop.zip", bundle)).value()
    assert opened.layers[-1].content.font == used
    assert Asset.fonts_of(theirs).get().original_name == "Kelp Bold"
    assert isinstance(opened.layer("line").content, Line)
