"""Scenes in scenes: one added as a layer, and one made a group."""

from django import forms

from coaster.edits import insets
from coaster.edits.edit import Edit
from coaster.scene.document import Scene
from studio.editor.forms.base import FAR, EditForm, LayerForm, Person
from studio.editor.insets import beside
from studio.forms import Number


class InsetForm(EditForm):
    """Show another scene of the project, ``shown``, at a place or in the middle."""

    name = "inset"
    shown = forms.IntegerField(min_value=1)
    x, y = (Number(-FAR, FAR, label=name) for name in ("X", "Y"))

    def edit(self, scene: Scene, person: Person) -> Edit:
        x, y = self.given("x"), self.given("y")
        at = None if x is None or y is None else (x, y)
        return insets.show_scene(scene, beside(self.scene_pk, self.given("shown")), at)


class InsetGroupForm(LayerForm):
    """Let what a layer shows become a group of its layers."""

    name = "inset-group"
    frame = Number(0, 36_000, label="Frame")

    def edit(self, scene: Scene, person: Person) -> Edit:
        return insets.scene_to_group(scene, self.layer_id, self.number("frame"))
