"""Blends and masks over HTTP: what the card sends, what it says, and what is refused."""

from dataclasses import replace

import pytest

from coaster.scene.masks import Mask, MaskPart
from studio.demo.scenes import path
from studio.projects import services
from tests.studio.conftest import done_and_undone, now, refused_in_words


@pytest.fixture
def masked(value):
    """A scene in which a box is masked by a ring."""
    square = path("square", "Square", "M0 0L50 0L50 50L0 50Z")
    open_one = path("swell", "Swell", "M0 0L50 0L50 50")
    box = replace(value.layer("box"), mask=Mask((MaskPart("ring"),)))
    return replace(value.with_layer(box), paths=(*value.paths, square, open_one))


@pytest.fixture
def scene(project, masked):
    return services.create_scene(project.owner, project, "Loop", masked)


def mask(value, layer: str = "box") -> Mask:
    return value.layer(layer).mask


WORKS = {
    "blend": ({"form": "blend", "layer": "fish", "blend": "color-dodge"}, lambda v: v.layer("fish").blend == "color-dodge"),
    "the one below": ({"form": "blend", "layer": "fish", "stencil": "alpha"}, lambda v: v.layer("fish").stencil == "alpha"),
    "the other way": ({"form": "blend", "layer": "fish", "stencil_inverted": "true"}, lambda v: v.layer("fish").stencil_inverted),
    "by itself": ({"form": "blend", "layer": "box", "isolated": "true"}, lambda v: v.layer("box").isolated),
    "a mask": ({"form": "mask-path", "layer": "fish", "add": "square"},
               lambda v: mask(v, "fish") == Mask((MaskPart("square"),))),
    "a path more": ({"form": "mask-path", "layer": "box", "add": "square"},
                    lambda v: mask(v).paths() == ("ring", "square")),
    "how they meet": ({"form": "mask-path", "layer": "box", "path": "ring", "how": "take"},
                      lambda v: mask(v).parts == (MaskPart("ring", "take"),)),
    "the last one": ({"form": "mask-path", "layer": "box", "path": "ring", "off": "on"}, lambda v: mask(v) is None),
    "a new oval": ({"form": "mask-path", "layer": "words", "add": "new ellipse"},
                   lambda v: mask(v, "words").paths() == (v.paths[-1].id,) and v.paths[-1].name == "Mask of Words"),
    "its edge": ({"form": "mask", "layer": "box", "feather": "12", "grow": "-3", "masking": "40"},
                 lambda v: (mask(v).feather, mask(v).grow, mask(v).strength) == (12, -3, 0.4)),
    "inverted": ({"form": "mask", "layer": "box", "inverted": "true"}, lambda v: mask(v).inverted),
    "keyed": ({"form": "mask", "layer": "box", "feather": "9", "frame": "6", "pin": "true"},
              lambda v: [k.value for k in v.layer("box").keys_of("feather")] == [9] and mask(v).feather == 0),
    "a path that goes": ({"form": "delete", "path": "ring"}, lambda v: mask(v) is None),
}  # fmt: skip
"""What the card sends, and what holds then."""


@pytest.mark.parametrize(("fields", "holds"), WORKS.values(), ids=WORKS)
def test_an_edit_is_looked_at_done_and_undone(post, scene, masked, fields, holds):
    done_and_undone(post, scene, masked, fields, holds)


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"form": "mask-path", "layer": "box", "add": "ring"}, "Ring masks Box already."),
        ({"form": "mask-path", "layer": "box", "add": "gone"}, "no path 'gone'"),
        ({"form": "mask-path", "layer": "box", "path": "square", "how": "meet"}, "Square does not mask Box."),
        ({"form": "mask", "layer": "fish", "feather": "3"}, "Fish has no mask"),
        ({"form": "mask", "layer": "box", "feather": "-3"}, "Mask feather: -3"),
        ({"form": "mask", "layer": "box", "masking": "much"}, "Mask strength: “much”"),
        ({"form": "blend", "layer": "box", "blend": "burnt"}, "burnt"),
        ({"form": "key", "layer": "fish", "property": "feather", "frame": "3"}, "Fish has no mask feather"),
    ],
)  # fmt: skip
def test_what_makes_no_sense_gets_one_sentence_and_changes_nothing(
    post, scene, masked, fields, words
):
    refused_in_words(post, scene, masked, fields, 422, words)


def test_what_is_done_is_said(post, scene):
    assert "Swell is open; as a mask it is closed" in str(
        post(form="mask-path", layer="fish", add="swell").content
    )
    said = str(post(form="delete", path="ring", frame="0").content)
    assert "It masks Box no more: what it hid is seen." in said
    assert now(scene).layer("box").mask is None
    assert now(scene).layer("fish").ride is None
    assert "so it masks nothing yet" in str(
        post(form="blend", layer="fish", stencil="brightness").content
    )
    assert post(form="blend", layer="fish", stencil="none").status_code == 200
