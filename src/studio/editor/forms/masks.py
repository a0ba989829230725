"""Blends, and masks by paths."""

from django import forms

from coaster.edits import masks
from coaster.edits.edit import Edit
from coaster.geometry.figures import Figure
from coaster.scene.document import Scene
from coaster.scene.masks import BLENDS, MEETINGS, STENCILS
from coaster.scene.properties import TABLE
from studio.editor.forms.base import LayerForm, MomentForm, Person, PropertiesForm
from studio.editor.forms.layers import choices
from studio.forms import Switch

MASKED = {row.name: row for row in TABLE if row.home == "mask"}
ROUND: tuple[Figure, ...] = ("ellipse", "rectangle")
"""What may be put round a layer to mask it."""


class BlendForm(LayerForm):
    """How a layer is laid on what lies beneath it, and whether it masks the one below."""

    name = "blend"
    blend = choices(BLENDS, label="Blend")
    isolated = Switch()
    stencil = choices(("none", *STENCILS), label="Masks")
    stencil_inverted = Switch()

    def edit(self, scene: Scene, person: Person) -> Edit:
        if self.given("isolated") is not None:
            return masks.isolate(scene, self.layer_id, self.given("isolated"))
        inverted = self.given("stencil_inverted")
        if self.given("stencil") or inverted is not None:
            by = self.given("stencil") or scene.layer(self.layer_id).stencil
            wanted = None if by == "none" else by
            return masks.stencil(scene, self.layer_id, wanted, inverted=inverted)
        layer = scene.layer(self.layer_id)
        return masks.blend(scene, layer.id, self.given("blend") or layer.blend)


class MaskForm(PropertiesForm):
    """Properties of a layer's mask."""

    name = "mask"
    rows = MASKED
    inverted = Switch()

    def edit(self, scene: Scene, person: Person) -> Edit:
        switched = self.given("inverted")
        values = self.properties()
        return masks.mask_look(scene, self.layer_id, values, self.moment, inverted=switched)


class MaskPathForm(MomentForm):
    """The paths of a mask: ``add`` takes one more, which may be a new one round the layer; ``path``
    is one of them, which goes with ``off``, or meets those before it as ``how`` says.
    """

    name = "mask-path"
    add = forms.CharField(required=False, max_length=40)
    path = forms.CharField(required=False, max_length=40)
    how = choices(MEETINGS)
    off = forms.BooleanField(required=False)

    def edit(self, scene: Scene, person: Person) -> Edit:
        added = self.given("add")
        for figure in ROUND:
            if added == f"new {figure}":
                return masks.mask_round(scene, self.layer_id, figure, self.moment.frame)
        if added:
            return masks.mask_with(scene, self.layer_id, added)
        if self.given("off"):
            return masks.without_part(scene, self.layer_id, self.given("path"))
        return masks.meet(scene, self.layer_id, self.given("path"), self.given("how") or "add")
