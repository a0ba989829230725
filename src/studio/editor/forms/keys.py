"""Keys of properties, and pegs and keys that are chosen together."""

import json

from django import forms

from coaster.edits import keys
from coaster.edits.edit import Edit
from coaster.edits.keys import PEG, KeyChange, Picked
from coaster.errors import EditRefused
from coaster.motion.sections import Reach
from coaster.scene.document import Scene
from coaster.scene.properties import NAMES, PROPERTIES
from studio.editor.forms.base import EditForm, LayerForm, Person
from studio.forms import Number, PaceField

MOST_ITEMS = 20_000


class KeyForm(LayerForm):
    """Put a key on a property at a frame, as it is then or at ``value``; take it out; or clear them
    all.
    """

    name = "key"
    property = forms.ChoiceField(choices=[(name, name) for name in NAMES])
    frame = Number(-36_000, 36_000, label="Frame")
    value = Number(-1_000_000, 1_000_000, label="Value")
    to = forms.ChoiceField(required=False, choices=[(w, w) for w in ("add", "remove", "clear")])

    def edit(self, scene: Scene, person: Person) -> Edit:
        name, frame, to = self.given("property"), self.number("frame"), self.given("to")
        if to == "remove":
            return keys.remove_key(scene, self.layer_id, name, frame)
        if to == "clear":
            return keys.clear_keys(scene, self.layer_id, name, frame)
        typed = self.given("value")
        value = None if typed is None else typed / PROPERTIES[name].factor
        return keys.add_key(scene, self.layer_id, name, frame, value)


class PickedForm(EditForm):
    """What is done to pegs and keys chosen together: ``items`` are layer/property/id, or
    layer/peg/id.
    """

    items = forms.CharField(max_length=2_000_000)

    def clean_items(self) -> Picked:
        found: dict[tuple[str, str], set[str]] = {}
        items = str(self.cleaned_data["items"]).split()
        if len(items) > MOST_ITEMS:
            raise forms.ValidationError(f"Those are more than {MOST_ITEMS}; choose fewer.")
        for item in items:
            layer, _, rest = item.partition("/")
            name, _, one = rest.partition("/")
            if not one or (name != PEG and name not in PROPERTIES):
                raise forms.ValidationError(f"“{item[:40]}” is not a peg or key.")
            found.setdefault((layer, name), set()).add(one)
        return found

    @property
    def picked(self) -> Picked:
        chosen: Picked = self.cleaned_data["items"]
        return chosen


class MoveKeysForm(PickedForm):
    """Move what is chosen by frames, and stretch its times about one of them."""

    name = "keys-move"
    by = Number(-72_000, 72_000, label="By")
    factor = Number(0.001, 1000, label="Stretch")
    about = Number(-36_000, 36_000, label="About")

    def edit(self, scene: Scene, person: Person) -> Edit:
        by, factor, about = (
            self.number("by"),
            self.number("factor", 1.0),
            self.number("about"),
        )
        return keys.move_picked(scene, self.picked, by, factor, about)


class StaggerForm(PickedForm):
    """Set off what is chosen of one layer after the other, by a step of frames."""

    name = "keys-stagger"
    step = Number(-36_000, 36_000, label="Step")

    def edit(self, scene: Scene, person: Person) -> Edit:
        return keys.stagger_picked(scene, self.picked, self.number("step"))


class DeleteKeysForm(PickedForm):
    name = "keys-delete"

    def edit(self, scene: Scene, person: Person) -> Edit:
        return keys.delete_picked(scene, self.picked)


class ReverseKeysForm(PickedForm):
    name = "keys-reverse"

    def edit(self, scene: Scene, person: Person) -> Edit:
        return keys.reverse_picked(scene, self.picked)


class RepeatKeysForm(PickedForm):
    """Repeat the chosen keys, each time stretched and fading towards where they end."""

    name = "keys-repeat"
    times = Number(2, 1000, label="Times")
    stretch = Number(1, 1000, unit="%", label="Stretch")
    fade = Number(-1000, 1000, unit="%", label="Height")

    def edit(self, scene: Scene, person: Person) -> Edit:
        times = round(self.number("times", 2))
        stretch, fade = (self.number(name, 100.0) / 100 for name in ("stretch", "fade"))
        return keys.repeat_picked(scene, self.picked, times, stretch, fade)


class KeyPaceForm(PickedForm):
    """Give the sections that begin at what is chosen a pace; two that follow each other, the one
    between.
    """

    name = "keys-pace"
    pace = PaceField()

    def edit(self, scene: Scene, person: Person) -> Edit:
        return keys.pace_picked(scene, self.picked, self.given("pace"))


class KeyValueForm(PickedForm):
    """Set the value of the chosen keys, or change it ``by`` so much; and one side's handle
    of them.
    """

    name = "keys-value"
    value = Number(-1_000_000, 1_000_000, label="Value")
    by = Number(-1_000_000, 1_000_000, label="By")
    time_f = Number(-36_000, 36_000, label="Key at frame")
    time_s = Number(-1200, 1200, unit="s", label="Key at")
    side = forms.ChoiceField(required=False, choices=[("in", "in"), ("out", "out")])
    reach = Number(0, 1, label="Reach")
    gain = Number(-1000, 1000, label="Gain")

    def edit(self, scene: Scene, person: Person) -> Edit:
        seconds, side = self.given("time_s"), self.given("side")
        time = self.given("time_f") if seconds is None else round(seconds * scene.fps, 9)
        reach = Reach(self.number("reach"), self.number("gain")) if side else None
        change = KeyChange(self.given("value"), self.number("by"), time, side, reach)
        return keys.set_picked(scene, self.picked, change)


class PasteKeysForm(LayerForm):
    """Put copied keys on a layer, the first of them at a frame; those they fall on are replaced."""

    name = "keys-paste"
    data = forms.CharField(max_length=2_000_000)  # type: ignore[assignment]  # as it is sent
    frame = Number(-36_000, 36_000, label="Frame")

    def edit(self, scene: Scene, person: Person) -> Edit:
        try:
            copied = json.loads(self.given("data"))
        except (ValueError, RecursionError) as error:
            raise EditRefused("What was copied are not keys; nothing was pasted.") from error
        found = keys.clipboard_keys(copied)
        return keys.paste_keys(scene, self.layer_id, found, self.number("frame"))
