"""Tints of layers, and their images on the ground."""

from typing import Any

from django import forms

from coaster.edits import shades
from coaster.edits.edit import Edit
from coaster.scene.document import Scene
from coaster.scene.properties import TABLE
from coaster.scene.shades import MOST_COLOURS
from studio.editor.forms.base import FAR, LayerForm, Person, PropertiesForm
from studio.forms import COLOUR, Number

TINTS = [("none", "none"), ("colour", "colour"), ("brightness", "darkness")]
MIRRORS = [("none", "nothing"), ("reflection", "reflection"), ("shadow", "shadow")]


TINTED = {row.name: row for row in TABLE if row.home == "tint" and row.kind == "number"}
OWN = "+"
"""In place of a picture's id: colours of its own."""


class TintForm(PropertiesForm):
    """Lay colours over a layer, change them, or take them away."""

    name = "tint"
    rows = TINTED
    by = forms.ChoiceField(required=False, choices=TINTS)
    at = Number(0, MOST_COLOURS, whole=True, label="Which colour")
    colour = COLOUR
    under = forms.CharField(required=False, max_length=40)
    drop = forms.CharField(required=False, max_length=4)

    def edit(self, scene: Scene, person: Person) -> Edit:
        if self.given("by") == "none":
            return shades.without_tint(scene, self.layer_id)
        if self.given("at") is not None:
            colour = None if self.given("drop") else self.given("colour")
            index = int(self.given("at"))
            return shades.recoloured(scene, self.layer_id, index, colour or None, self.moment)
        values: dict[str, Any] = self.sent("by")
        if self.given("under"):
            values["under"] = None if self.given("under") == OWN else self.given("under")
        if amounts := self.properties():
            return shades.tint_amount(scene, self.layer_id, amounts, self.moment)
        return shades.set_tint(scene, self.layer_id, values)


class MirrorForm(LayerForm):
    """Give a layer an image on the ground, change it, or take it away."""

    name = "mirror"
    frame = Number(0, 36_000, label="Frame")
    image = forms.ChoiceField(required=False, choices=MIRRORS)
    mirror_floor = Number(-FAR, FAR, unit="px", label="Floor")
    mirror_height = Number(-1000, 1000, unit="%", label="Height")
    mirror_lean = Number(-1000, 1000, unit="%", label="Lean")
    mirror_strength = Number(0, 100, unit="%", label="Strength")
    mirror_fade = Number(0, FAR, unit="px", label="Gone above")
    mirror_soft = Number(0, 2000, unit="px", label="Soft")

    def edit(self, scene: Scene, person: Person) -> Edit:
        image = self.given("image")
        if image == "none":
            return shades.without_mirror(scene, self.layer_id)
        values: dict[str, Any] = {"kind": image} if image else {}
        factors = dict.fromkeys(("floor", "fade", "soft"), 1.0)
        factors |= dict.fromkeys(("height", "lean", "strength"), 0.01)
        values |= self.numbers("mirror", factors)
        return shades.set_mirror(scene, self.layer_id, values, self.number("frame"))
