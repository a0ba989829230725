"""Depth of layers and groups, and the camera that sees them."""

from django import forms

from coaster.edits import depth
from coaster.edits.edit import Edit
from coaster.scene.document import Scene
from coaster.scene.properties import PROPERTIES
from studio.editor.forms.base import FAR, EditForm, Person, PropertiesForm
from studio.forms import Number, Switch


class DepthForm(EditForm):
    """How a layer lies in depth, what a group keeps of it and, of a group or without one of the
    scene, which is drawn first.
    """

    name = "depth"
    layer = forms.CharField(required=False, max_length=40)
    anchor_z = Number(-FAR, FAR, unit="px", label="Turns about")
    to_viewer, flat, by_depth = Switch(), Switch(), Switch()

    def edit(self, scene: Scene, person: Person) -> Edit:
        lies, keeps = self.sent("anchor_z", "to_viewer"), self.sent("flat", "by_depth")
        if lies:
            return depth.lie(scene, self.given("layer"), **lies)
        return depth.keep(scene, self.given("layer"), **keeps)


class CameraForm(PropertiesForm):
    """How much a camera sees."""

    name = "camera"
    rows = {"angle": PROPERTIES["angle"]}

    def edit(self, scene: Scene, person: Person) -> Edit:
        return depth.see(scene, self.layer_id, self.properties(), self.moment)
