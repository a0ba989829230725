"""Carriers: what a layer travels with."""

from django import forms

from coaster.edits import carriers
from coaster.edits.edit import Edit
from coaster.errors import EditRefused
from coaster.scene.document import Scene
from studio.editor.forms.base import LayersForm, Person
from studio.forms import Switch

NOBODY = "none"
"""The carrier of what stands by itself."""


class CarryForm(LayersForm):
    """Let ``layers`` travel with a ``carrier``, where they are or, with ``sits``, on its anchor;
    without one, ``turns`` and ``grows`` say what of the one there is takes the first along.
    """

    name = "carry"
    carrier = forms.CharField(required=False, max_length=40)
    turns, grows = Switch(), Switch()
    sits = forms.BooleanField(required=False)

    def edit(self, scene: Scene, person: Person) -> Edit:
        ids, frame, carrier = self.layer_ids, self.number("frame"), self.given("carrier")
        if not ids:
            raise EditRefused("Choose the layers to be carried first.")
        if carrier == NOBODY:
            return carriers.let_go(scene, ids, frame)
        if carrier:
            return carriers.carry(scene, ids, carrier, frame, distance=not self.given("sits"))
        if self.given("sits"):
            return carriers.sit_on(scene, ids[0])
        turns, grows = self.given("turns"), self.given("grows")
        return carriers.take_along(scene, ids[0], frame, turn=turns, scale=grows)
