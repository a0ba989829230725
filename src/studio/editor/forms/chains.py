"""Chains: riding path after path, and what a path is made of."""

from django import forms

from coaster.edits import chains
from coaster.edits.edit import Edit
from coaster.errors import EditRefused
from coaster.geometry.path import MOST_LAPS
from coaster.scene.document import Scene
from studio.editor.forms.base import EditForm, LayerForm, Person
from studio.forms import Number, Switch

NEW = "+"
"""In place of a path's id: one that is made for it."""


class ThenForm(LayerForm):
    """Let a layer ride another path after its own, or a ``new`` one; between them it rests, turns,
    grows.
    """

    name = "ride-then"
    path = forms.CharField(max_length=40)
    rest_s = Number(0, 3600, unit="s", label="Rests")
    turn_more = Number(-36_000, 36_000, unit="°", label="Turns by")
    size_then = Number(1, 10_000, unit="%", label="Size then")

    def edit(self, scene: Scene, person: Person) -> Edit:
        between = chains.Between(
            float(round(self.number("rest_s") * scene.fps)),
            self.number("turn_more"),
            self.number("size_then", 100.0) / 100,
        )
        if self.given("path") == NEW:
            return chains.then_anew(scene, self.layer_id, between)
        return chains.then(scene, self.layer_id, self.given("path"), between)


class ChainForm(EditForm):
    """Go on from a path with another one, set how its parts lie, or part it from them."""

    name = "path-chain"
    path = forms.CharField(max_length=40)
    then = forms.CharField(required=False, max_length=40)
    end_to_end = Switch()
    part = forms.CharField(required=False, max_length=4)

    def edit(self, scene: Scene, person: Person) -> Edit:
        path_id = self.given("path")
        if self.given("part"):
            return chains.part(scene, path_id)
        if self.given("end_to_end") is not None:
            return chains.set_end_to_end(scene, path_id, on=self.given("end_to_end"))
        if not self.given("then"):
            raise EditRefused("Which path is to come then? None was named.")
        return chains.chain(scene, path_id, self.given("then"))


class LegForm(EditForm):
    """One of the paths that a path is made of: which way, how often round, its place, or without
    it.
    """

    name = "path-leg"
    path = forms.CharField(max_length=40)
    leg = forms.CharField(max_length=40)
    laps = Number(1, MOST_LAPS, whole=True, label="Laps")
    backwards = Switch()
    by = Number(-1, 1, whole=True, label="Later by")
    none = forms.CharField(required=False, max_length=4)

    def edit(self, scene: Scene, person: Person) -> Edit:
        aim = self.given("path"), self.given("leg")
        if self.given("none"):
            return chains.remove_leg(scene, *aim)
        if self.given("by"):
            return chains.move_leg(scene, *aim, round(self.given("by")))
        laps = round(self.number("laps"))
        return chains.set_leg(scene, *aim, backwards=self.given("backwards"), laps=laps)
