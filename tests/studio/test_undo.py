"""Undo all the way: edits of every kind, one after the other, taken back to the beginning."""

import os
from random import Random

import pytest
from django.urls import reverse

from coaster.edits.insets import inset_of
from coaster.scene.document import Layer, Scene
from studio.editor import services as edits
from studio.projects import services
from studio.projects.models import Revision
from tests.studio import (
    test_editing,
    test_layers,
    test_masks,
    test_paths,
    test_several,
    test_time,
)
from tests.studio.conftest import now

MODULES = test_editing, test_layers, test_masks, test_paths, test_several, test_time
FIELDS = [fields for module in MODULES for fields, _ in module.WORKS.values()]
COUNT = int(os.environ.get("COASTER_EDITS", "60"))
"""Edits that are made; some hundreds are tried by hand before a release."""


@pytest.mark.parametrize("seed", range(2))
def test_mixed_edits_are_taken_back_to_the_first_and_done_again(
    client_of, anna, project, value, seed
):
    inner = services.create_scene(anna, project, "Inner", Scene(length=12))
    shown = Layer("shown", "Shown", inset_of(str(inner.pk), inner.value()))
    scene = services.create_scene(anna, project, "Mixed", Scene(
        value.width, value.height, length=value.length, layers=(*value.layers, shown), paths=value.paths))  # fmt: skip
    client, random, made = client_of(anna), Random(seed), 0
    states = [now(scene)]
    more = [
        {"form": "footage", "layer": "shown", "speed": "50", "frame": "0"},
        {"form": "inset", "shown": str(inner.pk)},
        {"form": "paths-unused"},
    ]
    while made < COUNT:
        fields = random.choice([*FIELDS, *more])
        base = Revision.objects.filter(scene=scene).latest("number").number
        answer = client.post(reverse("edit", args=[scene.pk]), {**fields, "base": str(base)})
        assert answer.status_code in (200, 422), (fields, answer.content)
        if now(scene) != states[-1]:
            states.append(now(scene))
            made += 1
    for before in reversed(states[:-1]):
        edits.undo(anna, scene.pk)
        assert now(scene) == before
    for after in states[1:]:
        edits.redo(anna, scene.pk)
        assert now(scene) == after
