"""Depth of layers and groups, the camera that sees them, and light on them."""

from typing import Any

from django import forms

from coaster.edits import depth
from coaster.edits.edit import Edit
from coaster.scene.document import Scene
from coaster.scene.properties import PROPERTIES
from studio.editor.forms.base import FAR, EditForm, Person, PropertiesForm
from studio.forms import COLOUR, Number, Switch


class DepthForm(EditForm):
    """How a layer lies in depth and is lit, what a group keeps of it and, of a group or without one
    of the scene, which is drawn first.
    """

    name = "depth"
    layer = forms.CharField(required=False, max_length=40)
    anchor_z = Number(-FAR, FAR, unit="px", label="Turns about")
    to_viewer, short_way, flat, by_depth, lit = (Switch() for _ in range(5))
    shine = Number(0, 100, unit="%", label="Shine")

    def edit(self, scene: Scene, person: Person) -> Edit:
        shine = self.given("shine")
        if shine is not None or self.sent("lit"):
            thrown = None if shine is None else shine / 100
            return depth.be_lit(scene, self.given("layer"), **self.sent("lit"), shine=thrown)
        lies, keeps = self.sent("anchor_z", "to_viewer", "short_way"), self.sent("flat", "by_depth")
        if lies:
            return depth.lie(scene, self.given("layer"), **lies)
        return depth.keep(scene, self.given("layer"), **keeps)


class CameraForm(PropertiesForm):
    """How much a camera sees."""

    name = "camera"
    rows = {"angle": PROPERTIES["angle"]}

    def edit(self, scene: Scene, person: Person) -> Edit:
        return depth.see(scene, self.layer_id, self.properties(), self.moment)


class LightForm(PropertiesForm):
    """How a light shines."""

    name = "light"
    rows = {n: PROPERTIES[n] for n in ("brightness", "reach", "spread", "ambient")}
    soft = Number(0, 100, unit="%", label="Soft edge")
    light_colour = COLOUR

    def edit(self, scene: Scene, person: Person) -> Edit:
        values: dict[str, Any] = self.properties()
        if self.given("light_colour"):
            values["colour"] = self.given("light_colour")
        soft = self.given("soft")
        part = None if soft is None else soft / 100
        return depth.shine(scene, self.layer_id, values, self.moment, part)
