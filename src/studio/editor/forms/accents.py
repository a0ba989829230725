"""Accents: short motions on top of what layers do."""

from typing import Any

from django import forms

from coaster.edits import accents
from coaster.edits.edit import Edit
from coaster.errors import EditRefused
from coaster.motion.accents import KINDS, WHENS
from coaster.scene.document import Scene
from studio.editor.forms.base import LayerForm, LayersForm, Person
from studio.forms import Number


class AddAccentForm(LayersForm):
    """Let ``layers`` do something short from a frame on, each ``stagger_s`` later."""

    name = "accent-add"
    kind = forms.ChoiceField(choices=[(kind, kind) for kind in KINDS])
    stagger_s = Number(-3600, 3600, unit="s", label="Each later by")

    def edit(self, scene: Scene, person: Person) -> Edit:
        if not self.layer_ids:
            raise EditRefused("Choose the layers that are to do it first.")
        stagger = self.number("stagger_s") * scene.fps
        kind, frame = self.given("kind"), self.number("frame")
        return accents.add_accent(scene, self.layer_ids, kind, frame, stagger=stagger)


class AccentForm(LayerForm):
    """Change an accent of a layer, or take it out."""

    name = "accent"
    accent = forms.CharField(max_length=40)
    when = forms.ChoiceField(required=False, choices=[(when, when) for when in WHENS])
    kind = forms.ChoiceField(required=False, choices=[(kind, kind) for kind in KINDS])
    accent_start_s = Number(-3600, 3600, unit="s", label="Starts")
    accent_lasts_s = Number(0.001, 3600, unit="s", label="Lasts")
    accent_count = Number(0.01, 1000, label="How often")
    accent_strength = Number(-2000, 2000, unit="%", label="Strength")
    accent_fade = Number(0, 100, unit="%", label="Fades over")
    mark = forms.CharField(required=False, max_length=40)
    none = forms.CharField(required=False, max_length=4)

    def edit(self, scene: Scene, person: Person) -> Edit:
        accent = self.given("accent")
        if self.given("none"):
            return accents.without_accent(scene, self.layer_id, accent)
        return accents.set_accent(scene, self.layer_id, accent, self._values(scene))

    def _values(self, scene: Scene) -> dict[str, Any]:
        values = self.sent("when", "kind", "mark")
        factors = {"start_s": scene.fps, "lasts_s": scene.fps, "count": 1.0}
        factors |= {"strength": 0.01, "fade": 0.01}
        return values | self.numbers("accent", factors)
