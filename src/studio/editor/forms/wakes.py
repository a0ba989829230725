"""Wakes: what a layer leaves behind."""

from typing import Any

from django import forms

from coaster.edits import wakes
from coaster.edits.edit import Edit
from coaster.motion.wakes import FASTEST, MOST_POINTS, READY
from coaster.scene.document import Scene
from studio.editor.forms.base import LayerForm, Person
from studio.forms import COLOUR, Number, Numbers, Switch

SHARES = ("inherit", "appear", "vanish")
PERCENT = (*SHARES, "differ_life", "differ_speed", "differ_size", "differ_spin")
"""What is said in percent."""
LEAVES = {"leave_speed": "speed", "leave_angle": "angle", "leave_spread": "spread"}
"""What has another name in a card, in which others have that."""
PLAIN = ("rate", "life", "lift", "drift", "drag", "spin")


class WakeForm(LayerForm):
    """Set how a layer leaves its like, or that it does; ``new`` is left behind it by the layer."""

    name = "wake"
    new = forms.ChoiceField(required=False, choices=[(x, x) for x in (*READY, *wakes.STROKES)])
    kind = forms.ChoiceField(required=False, choices=[(kind, kind) for kind in READY])
    leaves, itself = Switch(), Switch()
    rate = Number(0.001, 10_000, unit="a second", label="Rate")
    life = Number(0.01, 3600, unit="s", label="Life")
    leave_speed = Number(0, FASTEST, unit="px/s", label="Speed")
    leave_angle = Number(-3600, 3600, unit="°", label="Direction")
    leave_spread = Number(0, 360, unit="°", label="Spread")
    inherit = Number(-1000, 1000, unit="%", label="Share of its speed")
    lift = Number(-FASTEST, FASTEST, unit="px/s²", label="Lift")
    drift = Number(-FASTEST, FASTEST, unit="px/s", label="Drift")
    drag = Number(0, 1000, label="Drag")
    spin = Number(-36_000, 36_000, unit="°/s", label="Spin")
    grow_from = Number(0, 10_000, unit="%", label="Size at birth")
    grow_to = Number(0, 10_000, unit="%", label="Size at the end")
    appear, vanish = (Number(0, 100, unit="%", label=each) for each in ("Appears", "Vanishes"))
    differ_life, differ_speed, differ_size, differ_spin = (
        Number(0, 100, unit="%", label="By chance") for _ in range(4)
    )
    wake_seed = Number(0, 999_999, whole=True, label="Which chance")
    life_sizes = Numbers(0, 10_000, unit="%", label="Sizes")
    life_strengths = Numbers(0, 100, unit="%", label="Opacities")
    like, unlike = (forms.CharField(required=False, max_length=40) for _ in range(2))
    wake_at = Number(0, MOST_POINTS, whole=True, label="Which colour")
    wake_colour = COLOUR
    drop = forms.CharField(required=False, max_length=4)

    def edit(self, scene: Scene, person: Person) -> Edit:
        if self.given("new"):
            return wakes.leave_wake(scene, self.layer_id, self.given("new"))
        if self.given("leaves") is False:
            return wakes.without_wake(scene, self.layer_id)
        if self.given("kind"):
            return wakes.set_kind(scene, self.layer_id, self.given("kind"))
        if other := self.given("like") or self.given("unlike"):
            return wakes.set_look(scene, self.layer_id, other, on=bool(self.given("like")))
        if self.given("wake_at") is not None:
            colour = None if self.given("drop") else self.given("wake_colour") or None
            return wakes.recoloured(scene, self.layer_id, int(self.given("wake_at")), colour)
        return wakes.set_wake(scene, self.layer_id, self._values(scene))

    def _values(self, scene: Scene) -> dict[str, Any]:
        values = self.sent(*PLAIN)
        values |= {name: value / 100 for name, value in self.sent(*PERCENT).items()}
        values |= {LEAVES[name]: value for name, value in self.sent(*LEAVES).items()}
        if self.given("wake_seed") is not None:
            values["seed"] = self.given("wake_seed")
        if self.given("itself") is not None:
            values["itself"] = self.given("itself")
        for name in ("sizes", "strengths"):
            # Sent but empty is none of them.
            if f"life_{name}" in self.data:
                said = self.given(f"life_{name}") or ()
                values[name] = tuple(round(each / 100, 6) for each in said)
        wake = scene.layer(self.layer_id).wake
        if self.sent("grow_from", "grow_to") and wake is not None:
            said = self.given("grow_from"), self.given("grow_to")
            pairs = zip(said, wake.grow, strict=True)
            values["grow"] = tuple(now if new is None else new / 100 for new, now in pairs)
        return values
