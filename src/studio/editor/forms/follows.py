"""What of a layer follows what of another one."""

from typing import Any

from django import forms

from coaster.edits import follows
from coaster.edits.edit import Edit
from coaster.errors import EditRefused
from coaster.scene.document import Scene
from coaster.scene.follows import told
from coaster.scene.properties import PROPERTIES
from studio.editor.forms.base import FAR, LayerForm, Person
from studio.forms import Number, Switch

CURVES = [("even", "evenly"), ("ease-in", "slow at first"), ("ease-out", "slow at last"),
          ("ease-both", "slow at both")]  # fmt: skip


class FollowForm(LayerForm):
    """Let a property of a layer follow a value of another."""

    name = "follow"
    property = forms.CharField(max_length=20)
    source = forms.CharField(max_length=40, required=False)

    def edit(self, scene: Scene, person: Person) -> Edit:
        source_id = self.given("source") or _usual(scene, self.layer_id)
        value = follows.usual_of(scene, source_id)
        return follows.follow(scene, self.layer_id, self.given("property"), source_id, value)


def _usual(scene: Scene, layer_id: str) -> str:
    """Return whom one begins to follow: who carries it, the frontmost rider, or whoever there is.

    Errors: EditRefused: it is alone.
    """
    layer = scene.layer(layer_id)
    others = [x for x in reversed(scene.layers) if x.id != layer_id]
    if layer.carrier is not None:
        return layer.carrier.layer
    # Who follows it already, or goes along with it, cannot lead it.
    led = [x for x in others if not any(follow.layer == layer_id for follow in x.follows)]
    led = [x for x in led if x.carrier is None or x.carrier.layer != layer_id] or others
    if not led:
        raise EditRefused(f"{layer.name} is alone here: there is nobody to follow.")
    return next((x.id for x in led if x.ride is not None), led[0].id)


class FollowsForm(LayerForm):
    """Change how a property follows, or let it go."""

    name = "follows"
    property = forms.ChoiceField(choices=[(name, name) for name in PROPERTIES])
    source = forms.CharField(max_length=40, required=False)
    value = forms.CharField(max_length=20, required=False)
    follow_low = Number(-FAR, FAR, label="From")
    follow_high = Number(-FAR, FAR, label="To")
    follow_at_low = Number(-FAR, FAR, label="Goes from")
    follow_at_high = Number(-FAR, FAR, label="Goes to")
    curve = forms.ChoiceField(required=False, choices=CURVES)
    beyond = Switch()
    follow_later_s = Number(-3600, 3600, unit="s", label="Later by")
    follow_damping_s = Number(0, 3600, unit="s", label="Lags by")
    none = forms.CharField(required=False, max_length=4)

    def edit(self, scene: Scene, person: Person) -> Edit:
        name = self.given("property")
        if self.given("none"):
            return follows.let_go(scene, self.layer_id, name)
        return follows.set_follow(scene, self.layer_id, name, self._values(scene, name))

    def _values(self, scene: Scene, name: str) -> dict[str, Any]:
        values = self.sent("curve", "value")
        if self.given("source"):
            values["layer"] = self.given("source")
        if "beyond" in self.data:
            values["beyond"] = bool(self.given("beyond"))
        now = next((x for x in scene.layer(self.layer_id).follows if x.property == name), None)
        reads = 1 / told(now.value)[2] if now else 1.0
        gives = 1 / PROPERTIES[name].factor
        factors = {"low": reads, "high": reads, "at_low": gives, "at_high": gives}
        factors |= {"later_s": scene.fps, "damping_s": 1.0}
        return values | self.numbers("follow", factors)
