"""Gradients and their stops."""

from django import forms

from coaster.edits import gradients
from coaster.edits.edit import Edit
from coaster.scene.document import Scene
from coaster.scene.gradients import FORMS, MOST_STOPS
from studio.editor.forms.base import MomentForm, Person
from studio.editor.forms.layers import choices
from studio.forms import ALPHA, COLOUR, Number

PLAIN = "plain"
"""What is filled with one colour."""


class GradientForm(MomentForm):
    """A gradient's form as ``filling``, or what is done with it; of its ``stop`` the colour, its
    alpha or where it is ``at``.
    """

    name = "gradient"
    filling = choices((PLAIN, *FORMS), label="Fill")
    stop = Number(1, MOST_STOPS, label="Stop")
    colour, colour_alpha = COLOUR, ALPHA
    at = Number(0, 100, unit="%", label="Stop at")
    start_x, start_y, end_x, end_y = (
        Number(-10_000, 10_000, unit="%", label="End") for _ in range(4)
    )
    add, remove, reverse = (forms.BooleanField(required=False) for _ in range(3))

    def edit(self, scene: Scene, person: Person) -> Edit:
        layer_id, filling = self.layer_id, self.given("filling")
        if filling:
            return gradients.set_form(scene, layer_id, None if filling == PLAIN else filling)
        if self.given("add"):
            return gradients.add_stop(scene, layer_id)
        if self.given("reverse"):
            return gradients.reverse(scene, layer_id)
        ends = self.sent(*(f"{end}_{axis}" for end in gradients.ENDS for axis in "xy"))
        if ends:
            spots = {(n[:-2], "xy".index(n[-1])): value / 100 for n, value in ends.items()}
            return gradients.set_ends(scene, layer_id, spots)
        number = round(self.number("stop"))
        if self.given("remove"):
            return gradients.remove_stop(scene, layer_id, number)
        percents = {name: self.given(name) for name in ("colour_alpha", "at")}
        alpha, at = (None if v is None else float(v) / 100 for v in percents.values())
        colour = self.given("colour") or None
        return gradients.set_stop(
            scene, layer_id, number, self.moment, colour=colour, alpha=alpha, at=at
        )
