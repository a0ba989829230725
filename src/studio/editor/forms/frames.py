"""The frame round a layer on the stage: what its handles do."""

from django import forms

from coaster.edits import frames, gradients
from coaster.edits.edit import Edit
from coaster.errors import EditRefused
from coaster.geometry.path import Vec2
from coaster.scene.document import Scene
from coaster.scene.gradients import MOST_STOPS
from studio.editor.forms.base import FAR, MomentForm, Person
from studio.editor.forms.layers import choices
from studio.forms import Number, Switch

PARTS = {
    "nw": (-1, -1), "n": (0, -1), "ne": (1, -1), "e": (1, 0),
    "se": (1, 1), "s": (0, 1), "sw": (-1, 1), "w": (-1, 0),
}  # fmt: skip
"""Handles by where they are on the box, before the layer is turned."""
RAMP = "ramp-"
"""Before the names of a gradient's ends and the numbers of its stops."""
RAMPS = tuple(f"{RAMP}{each}" for each in (*gradients.ENDS, *range(1, MOST_STOPS + 1)))
STEPS = 15.0
"""Degrees to which a turn is drawn."""


class FrameForm(MomentForm):
    """What a hand does to a frame: a ``part`` of it, the ``knob``, the ``anchor``, the ``radius``
    of its corners, an end or stop of its gradient goes ``from`` one place of the scene ``to``
    another.
    """

    name = "layer-frame"
    part = choices((*PARTS, "knob", "anchor", "radius", "shift", *RAMPS))
    from_x, from_y, to_x, to_y = (Number(-FAR, FAR, unit="px", label=axis) for axis in "XYXY")
    even, about_anchor, steps, slants = Switch(), Switch(), Switch(), Switch()
    near = Number(0, 1000, unit="px", label="Near")

    def clean(self) -> dict[str, object]:
        data = super().clean() or {}
        if not data.get("part") or data.get("to_x") is None or data.get("to_y") is None:
            raise forms.ValidationError("A part of the frame goes to a place of the scene.")
        return data

    def edit(self, scene: Scene, person: Person) -> Edit:
        part, to = str(self.given("part")), (self.number("to_x"), self.number("to_y"))
        layer_id, moment = self.layer_id, self.moment
        if part.startswith(RAMP):
            return self._ramp(scene, part.removeprefix(RAMP), to)
        if part == "radius":
            return frames.round_corners(scene, layer_id, to, moment)
        if part == "anchor":
            return frames.move_anchor(scene, layer_id, to, moment, near=self.number("near"))
        if self.given("from_x") is None or self.given("from_y") is None:
            raise EditRefused("A hand goes from one place of the scene to another.")
        begun = self.number("from_x"), self.number("from_y")
        if part == "knob":
            steps = STEPS if self.given("steps") else 0.0
            return frames.turn(scene, layer_id, begun, to, moment, steps=steps)
        if part == "shift":
            return frames.shift(scene, layer_id, begun, to, moment)
        even, about = bool(self.given("even")), bool(self.given("about_anchor"))
        if self.given("slants"):
            return frames.slant(scene, layer_id, PARTS[part], begun, to, moment, about_anchor=about)
        return frames.stretch(
            scene, layer_id, PARTS[part], begun, to, moment, even=even, about_anchor=about
        )

    def _ramp(self, scene: Scene, part: str, to: Vec2) -> Edit:
        if part in gradients.ENDS:
            return gradients.move_end(scene, self.layer_id, part, to, self.moment)
        return gradients.move_stop(scene, self.layer_id, int(part), to, self.moment)
