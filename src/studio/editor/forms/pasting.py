"""Layers pasted: named by the scene they were copied from, as it was then."""

import json
from dataclasses import replace
from typing import Any

from django import forms

from coaster.commands.layers import AddLayer
from coaster.commands.paths import AddPath
from coaster.edits.edit import Edit
from coaster.edits.pasting import Taken, paste
from coaster.errors import EditRefused
from coaster.scene.document import Scene as Document
from studio.editor.forms.base import EditForm, Person
from studio.forms import Number
from studio.projects.models import Revision, Scene
from studio.projects.replay import document_at
from studio.projects.services import keep_shown, share_files

NOT_OURS = "What was copied are not layers of a scene here; nothing was pasted."
GONE = "The scene they were copied from is not here any more; copy them again."


class PasteForm(EditForm):
    """``copied`` is what a window copied; ``into`` is the scene it is pasted into, ``inside`` the
    group.
    """

    name = "layers-paste"
    copied = forms.CharField(max_length=500_000)
    into = Number(0, 1e12, label="Scene")
    frame = Number(0, 36_000, label="Frame")
    inside = forms.CharField(required=False, max_length=40)
    aside = forms.BooleanField(required=False)

    def clean_copied(self) -> tuple[int, int, tuple[str, ...]]:
        """Return the scene's key, its revision, and the layers."""
        try:
            told: Any = json.loads(self.cleaned_data["copied"])["coaster-layers"]
            scene, revision = int(told["scene"]), int(told["revision"])
            layers = tuple(str(each) for each in told["layers"])
        except (ValueError, TypeError, LookupError, OverflowError, RecursionError) as error:
            raise forms.ValidationError(NOT_OURS) from error
        if not layers or max(abs(scene), abs(revision)) > 1e12:
            raise forms.ValidationError(NOT_OURS)
        return scene, revision, layers

    def edit(self, scene: Document, person: Person) -> Edit:
        key, revision, layers = self.given("copied")
        mine = Scene.objects.visible_to(person).select_related("project")
        source, target = (mine.filter(pk=pk).first() for pk in (key, int(self.number("into"))))
        if source is None or target is None:
            raise EditRefused(GONE)
        try:
            then = document_at(source, revision)
        except Revision.DoesNotExist as error:
            raise EditRefused(GONE) from error
        taken = Taken(then, layers, same=source.pk == target.pk)
        if source.project_id != target.project_id:
            shown = {each.content.scene_id() for each in taken.all()} - {None}
            brought = keep_shown(person, target.project, then, [str(each) for each in shown])
            taken = replace(taken, source=brought)
        inside = self.given("inside") or None
        # Where the originals are not any more, as they were cut, the copies take their place.
        there = {layer.id for layer in scene.layers}
        aside = taken.same and self.given("aside") and there.issuperset(layers)
        edit = paste(scene, taken, self.number("frame"), inside=inside, aside=aside)
        # Only now: what is refused leaves no files behind.
        names = _files(edit).union(*(_files_of(each.scene) for each in then.scenes))
        share_files(person, source.project, target.project, names)
        return edit


def _files_of(scene: Document) -> set[str]:
    return {*scene.assets(), *scene.takes()}


def _files(edit: Edit) -> set[str]:
    """Return the file names of pictures and takes that come with an edit."""
    layers = [each.layer for each in edit.commands if isinstance(each, AddLayer)]
    paths = [each.path for each in edit.commands if isinstance(each, AddPath)]
    pictures = {name for layer in layers for name in layer.content.assets()}
    return pictures | {path.drawn.file for path in paths if path.drawn is not None}
