"""The seam's panel: what it says, shows and offers; and what mends it, over HTTP."""

import base64
import re

import cv2
import numpy as np
import pytest
from django.urls import reverse

from coaster.edits.layers import delete_layers
from coaster.edits.rides import retime
from studio.editor import services as edits
from tests.studio.conftest import done_and_undone, now, refused_in_words


@pytest.fixture
def panel(anna, scene, client_of):
    return lambda: client_of(anna).get(reverse("seam", args=[scene.pk])).content.decode()


@pytest.fixture
def broken(anna, scene):
    edits.edit(anna, scene.pk, lambda value: retime(value, "fish", None, 10.0, None), base=0)


def test_a_clean_loop_says_so_and_offers_nothing(panel):
    words = panel()
    assert "The loop is" in words
    assert "what jumps, ×" in words
    assert "data-form" not in words


def test_a_seam_that_shows_is_named_shown_and_offered_to_be_mended(panel, broken):
    words = panel()
    assert "The loop steps at its seam" in words
    assert "px/s at once" in words
    assert "layer=fish&amp;way=whole" in words
    pictures = re.findall(r"base64,([^\"]+)", words)
    last, first, differs = (
        cv2.imdecode(np.frombuffer(base64.b64decode(each), np.uint8), 1) for each in pictures
    )
    assert last.shape == first.shape == differs.shape
    # Each step of the ride is longer than the one before only at its two ends.
    assert words.count('fill="#e4572e"') == 2


def test_a_scene_whose_pictures_are_gone_still_tells_who_does_not_meet(panel, broken, scene):
    for file in scene.project.folder.iterdir():
        file.write_bytes(b"no picture")
    words = panel()
    assert "could not be drawn" in words
    assert "px/s at once" in words


def test_nothing_moves(anna, scene, panel):
    ids = [layer.id for layer in scene.value().layers]
    edits.edit(anna, scene.pk, lambda value: delete_layers(value, ids), base=0)
    assert "Nothing moves yet" in panel()


@pytest.mark.parametrize(
    "fields", [{"form": "loop", "layer": "fish", "way": "whole"}, {"form": "loop-all"}]
)
def test_it_is_mended_as_one_step_and_undone(post, scene, broken, fields):
    def whole(done) -> bool:
        return done.ride_of("fish").end == scene.value().length

    done_and_undone(post, scene, now(scene), fields, whole)


@pytest.mark.parametrize(
    ("fields", "status", "words"),
    [
        ({"layer": "fish", "way": "close"}, 422, "does not help"),
        ({"layer": "fish", "way": "x"}, 422, "no way called"),
        ({"layer": "gone", "way": "whole"}, 422, "gone"),
    ],
)
def test_ways_that_do_not_help_are_refused(post, scene, broken, fields, status, words):
    refused_in_words(post, scene, now(scene), {"form": "loop"} | fields, status, words)
