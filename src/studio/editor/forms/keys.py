"""Keys of properties, and pegs and keys together: moved, stretched, repeated, staggered, copied, cleared."""

import json
from collections.abc import Callable, Collection
from dataclasses import replace
from typing import Any, cast, get_args

from django import forms

from coaster.commands import Command
from coaster.commands.layers import FillLayer, PlaceLayer, SetKeys, TimeLayer
from coaster.commands.rides import SetPegs
from coaster.errors import EditRefused
from coaster.ids import fresh_id
from coaster.motion import easing, keys, sections
from coaster.motion.colours import to_hex
from coaster.motion.keys import Key, Keys, Property
from coaster.motion.pegs import without_peg
from coaster.motion.ride import Peg
from coaster.motion.sections import Reach
from coaster.scene.document import OF_CONTENT, Content, Layer, Scene, Transform
from studio.editor.forms.base import EditForm, LayerForm, Number, PaceField, Switch, called

MOST_ITEMS = 20_000
PEG = "peg"
NAMES: dict[str, str] = {"x": "X", "y": "Y", "scale": "Scale", "turn": "Turn", "opacity": "Opacity", "shift": "Shift",
                         "size": "Size", "size_x": "Width", "size_y": "Height",
                         "width": "Stroke width", "colour": "Colour", "stroke": "Stroke colour"}  # fmt: skip
FACTORS = {"scale": 100.0, "opacity": 100.0}
"""What a person reads is a percentage where the document has a share."""
Picked = dict[tuple[str, str], set[str]]
"""For each layer and property (or ``peg``) the ids of what is chosen of it."""


FIELDS: dict[str, dict[str, str]] = {
    "text": {"size": "size", "colour": "colour"},
    "shape": {"size_x": "width", "size_y": "height", "colour": "fill", "stroke": "stroke", "width": "stroke_width"},
    "line": {"colour": "colour", "width": "width"},
}
"""For each kind of content the fields that properties of its paint stand for."""


def here(layer: Layer, name: Property, frame: float) -> float | str:
    """Return what a property is at a frame, in the document's own units.

    Errors: EditRefused: the layer's content has none such.
    """
    track = layer.track(name)
    if track is not None and name in keys.COLOURS:
        return to_hex(keys.colours(track.keys, [frame])[0])
    if track is not None:
        return float(keys.values(track.keys, [frame])[0][0])
    if name in OF_CONTENT:
        field = FIELDS.get(layer.content.type, {}).get(name)
        found = getattr(layer.content, field) if field else None
        if found is None:
            raise EditRefused(f"{layer.name} has no {NAMES[name].lower()} to be keyed.")
        return cast(float | str, found)
    t = layer.transform
    shift = layer.ride.offset if layer.ride else 0.0
    still = {"x": t.position[0], "y": t.position[1], "scale": t.scale[0], "turn": t.turn, "opacity": t.opacity}
    return float(still.get(name, shift))


def standing(layer: Layer, name: Property, value: float) -> Transform:
    """Return the transform with a property at a value."""
    t = layer.transform
    if name in ("x", "y"):
        return replace(t, position=(value, t.position[1]) if name == "x" else (t.position[0], value))
    if name == "scale":
        ratio = t.scale[1] / t.scale[0] if t.scale[0] else 1.0
        return replace(t, scale=(value, value * ratio))
    return replace(t, **{name: value})


def keyed(
    layer: Layer, name: Property, value: float | str, frame: float, pace: easing.Pace, *, pin: bool
) -> Keys | None:
    """Return the keys after a property was set at a frame; None if it has no keys and gets none.

    A key at that time takes the value. Else, with ``pin``, there is one more; without, all its
    keys change alike, by a factor for scale.

    Errors: EditRefused: a colour between its keys, without ``pin``.
    """
    track = layer.track(name)
    if track is None:
        return (Key("key", frame, value),) if pin else None
    if pin or any(abs(key.time - frame) < 1e-6 for key in track.keys):
        return keys.with_key(track.keys, frame, value, pace)
    now = here(layer, name, frame)
    if isinstance(value, str) or isinstance(now, str):
        raise EditRefused(
            f"{NAMES[name]} of {layer.name} has {called(len(track.keys), 'key')}: go to one of them, or turn on Pin."
        )
    if name == "scale" and now:
        return tuple(replace(key, value=keys.number(key) * value / now) for key in track.keys)
    return tuple(replace(key, value=keys.number(key) + value - now) for key in track.keys)


class ContentForm(LayerForm):
    """A form of what a layer shows; what has keys is kept in them (see ``keyed``)."""

    frame = Number(0, 36_000, label="Frame")
    pin = Switch()

    def filled(self, scene: Scene, layer: Layer, content: Content, sent: Collection[str]) -> list[Command]:
        """Return the commands for a layer's new content; ``sent`` are the fields of it that were asked for."""
        frame, pin = self.cleaned_data["frame"] or 0.0, bool(self.cleaned_data["pin"])
        steps: list[Command] = []
        for name, field in FIELDS[content.type].items():
            value = getattr(content, field)
            if value is None or field not in sent:
                continue
            made = keyed(layer, cast(Property, name), value, frame, easing.Bezier(*scene.pace), pin=pin)
            if made is not None:
                steps.append(SetKeys(layer.id, cast(Property, name), made))
                content = replace(content, **{field: getattr(layer.content, field)})
        return [FillLayer(layer.id, content), *steps]


class KeyForm(LayerForm):
    """Put a key on a property at a frame, as it is then or at ``value``; take it out; or clear them all."""

    name = "key"
    property = forms.ChoiceField(choices=[(p, p) for p in get_args(Property)])
    frame = Number(-36_000, 36_000, label="Frame")
    value = Number(-1_000_000, 1_000_000, label="Value")
    to = forms.ChoiceField(required=False, choices=[(w, w) for w in ("add", "remove", "clear")])

    def commands(self, scene: Scene) -> list[Command]:
        sent = self.cleaned_data
        layer, name, frame = scene.layer(sent["layer"]), cast(Property, sent["property"]), sent["frame"] or 0.0
        track = layer.track(name)
        words = f"{NAMES[name]} of {layer.name}"
        if sent["to"] in ("remove", "clear"):
            if track is None:
                raise EditRefused(f"{words} has no keys.")
            if sent["to"] == "clear":
                self.title = f"Clear {called(len(track.keys), 'key')} of {words}"
                return [SetKeys(layer.id, name, ()), *_kept(layer, name, here(layer, name, frame))]
            rest = tuple(key for key in track.keys if abs(key.time - frame) > 1e-6)
            self.title = f"Take a key off {words}"
            return [SetKeys(layer.id, name, rest), *(_kept(layer, name, here(layer, name, frame)) if not rest else [])]
        if name == "shift" and layer.ride is None:
            raise EditRefused(f"{layer.name} rides no path, so there is nothing to shift it along.")
        value = here(layer, name, frame)
        if sent["value"] is not None and not isinstance(value, str):
            value = sent["value"] / FACTORS.get(name, 1.0)
        self.title = f"Key of {words}"
        old = track.keys if track else ()
        return [SetKeys(layer.id, name, keys.with_key(old, frame, value, easing.Bezier(*scene.pace)))]


def _kept(layer: Layer, name: Property, value: float | str) -> list[Command]:
    """Where a property's keys are cleared it stays as it was seen."""
    if name in OF_CONTENT:
        return [FillLayer(layer.id, replace(layer.content, **{FIELDS[layer.content.type][name]: value}))]
    return [] if name == "shift" else [PlaceLayer(layer.id, standing(layer, name, float(value)))]


class PickedForm(EditForm):
    """What is done to pegs and keys chosen together: ``items`` are layer/property/id, or layer/peg/id."""

    items = forms.CharField(max_length=2_000_000)
    verb = ""

    def clean_items(self) -> Picked:
        found: Picked = {}
        items = str(self.cleaned_data["items"]).split()
        if len(items) > MOST_ITEMS:
            raise forms.ValidationError(f"That are more than {MOST_ITEMS} at once; choose fewer.")
        for item in items:
            layer, _, rest = item.partition("/")
            name, _, one = rest.partition("/")
            if not one or (name != PEG and name not in keys.PROPERTIES):
                raise forms.ValidationError(f"“{item[:40]}” is no peg or key.")
            found.setdefault((layer, name), set()).add(one)
        return found

    @property
    def picked(self) -> Picked:
        return cast(Picked, self.cleaned_data["items"])

    def changed(
        self,
        scene: Scene,
        on_keys: Callable[[Layer, Keys, set[str]], Keys],
        on_pegs: Callable[[Layer, tuple[Peg, ...], set[str]], tuple[Peg, ...]] | None = None,
    ) -> list[Command]:
        """Return the commands for a change of the chosen keys, and of the chosen pegs."""
        self.title = f"{self.verb} {self._called(scene)}"
        steps: list[Command] = []
        for (layer_id, name), ids in self.picked.items():
            layer = scene.layer(layer_id)
            if name == PEG:
                if on_pegs is None:
                    raise EditRefused(f"That is for keys; there are pegs of {layer.name} among what is chosen.")
                pegs = scene.ride_of(layer_id).pegs
                _all_there(ids, {peg.id for peg in pegs})
                steps.append(SetPegs(layer_id, on_pegs(layer, pegs, ids)))
                continue
            track = layer.track(cast(Property, name))
            _all_there(ids, {key.id for key in track.keys} if track else set())
            assert track is not None  # noqa: S101 - its keys are all there
            steps.append(SetKeys(layer_id, track.property, on_keys(layer, track.keys, ids)))
        return steps

    def _called(self, scene: Scene) -> str:
        """Say what is chosen in words: a peg of Manta, 3 keys of Title, 5 pegs and keys."""
        count = sum(len(ids) for ids in self.picked.values())
        pegs = sum(len(ids) for (_, name), ids in self.picked.items() if name == PEG)
        nouns = f"{count} pegs and keys" if 0 < pegs < count else called(count, "peg" if pegs else "key")
        of = {layer for layer, _ in self.picked}
        return f"{nouns} of {scene.layer(of.pop()).name}" if len(of) == 1 else nouns


def _all_there(wanted: set[str], there: set[str]) -> None:
    if wanted - there:
        raise EditRefused("Some of what is chosen is not there any more; choose again.")


class MoveKeysForm(PickedForm):
    """Move what is chosen by frames, and stretch its times about one of them."""

    name = "keys-move"
    verb = "Move"
    by = Number(-72_000, 72_000, label="By")
    factor = Number(0.001, 1000, label="Stretch")
    about = Number(-36_000, 36_000, label="About")

    def commands(self, scene: Scene) -> list[Command]:
        sent = self.cleaned_data
        by, factor, about = sent["by"] or 0.0, sent["factor"] or 1.0, sent["about"] or 0.0

        def change(layer: Layer, stops: Any, ids: set[str]) -> Any:
            return sections.moved(stops, ids, by, factor, about)

        return self.changed(scene, change, change)


class StaggerForm(PickedForm):
    """Set off what is chosen of one layer after the other, in the order of the lanes, by a step of frames."""

    name = "keys-stagger"
    verb = "Stagger"
    step = Number(-36_000, 36_000, label="Step")

    def commands(self, scene: Scene) -> list[Command]:
        chosen = [layer.id for layer in reversed(scene.layers) if any(x == layer.id for x, _ in self.picked)]
        if len(chosen) < 2:
            raise EditRefused("To set one off after the other takes keys or pegs of two layers or more.")
        step = self.cleaned_data["step"] or 0.0

        def change(layer: Layer, stops: Any, ids: set[str]) -> Any:
            return sections.moved(stops, ids, chosen.index(layer.id) * step)

        return self.changed(scene, change, change)


class DeleteKeysForm(PickedForm):
    name = "keys-delete"
    verb = "Delete"

    def commands(self, scene: Scene) -> list[Command]:
        def pegs(layer: Layer, stops: tuple[Peg, ...], ids: set[str]) -> tuple[Peg, ...]:
            for one in ids:
                stops = without_peg(stops, one)
            return stops

        steps = self.changed(scene, lambda layer, stops, ids: keys.without(stops, ids), pegs)
        for step in list(steps):
            if isinstance(step, SetKeys) and not step.keys:
                layer = scene.layer(step.layer_id)
                track = layer.track(step.property)
                assert track is not None  # noqa: S101 - its last keys are being deleted
                steps += _kept(layer, step.property, track.keys[0].value)
        return steps


class ReverseKeysForm(PickedForm):
    name = "keys-reverse"
    verb = "Reverse"

    def commands(self, scene: Scene) -> list[Command]:
        return self.changed(scene, lambda layer, stops, ids: keys.on_run(stops, ids, keys.backwards))


class RepeatKeysForm(PickedForm):
    """Repeat the chosen keys, each time stretched and fading towards where they end."""

    name = "keys-repeat"
    verb = "Repeat"
    times = Number(2, 1000, label="Times")
    stretch = Number(1, 1000, unit="%", label="Stretch")
    fade = Number(-1000, 1000, unit="%", label="Height")

    def commands(self, scene: Scene) -> list[Command]:
        sent = self.cleaned_data
        times, stretch, fade = round(sent["times"] or 2), (sent["stretch"] or 100.0) / 100, sent["fade"]

        def again(run: Keys) -> Keys:
            return keys.repeated(run, times, stretch=stretch, fade=1.0 if fade is None else fade / 100)

        return self.changed(scene, lambda layer, stops, ids: keys.on_run(stops, ids, again))


class KeyPaceForm(PickedForm):
    """Give the sections that begin at what is chosen a pace; two that follow each other, the one between."""

    name = "keys-pace"
    verb = "Pace of"
    pace = PaceField()

    def commands(self, scene: Scene) -> list[Command]:
        def change(layer: Layer, stops: Any, ids: set[str]) -> Any:
            return sections.with_paces(stops, ids, self.cleaned_data["pace"])

        return self.changed(scene, change, change)


class KeyValueForm(PickedForm):
    """Set the value of the chosen keys, or change it ``by`` so much; and one side's handle of them."""

    name = "keys-value"
    verb = "Value of"
    value = Number(-1_000_000, 1_000_000, label="Value")
    by = Number(-1_000_000, 1_000_000, label="By")
    time_f = Number(-36_000, 36_000, label="Key at frame")
    time_s = Number(-1200, 1200, unit="s", label="Key at")
    side = forms.ChoiceField(required=False, choices=[("in", "in"), ("out", "out")])
    reach = Number(0, 1, label="Reach")
    gain = Number(-1000, 1000, label="Gain")

    def commands(self, scene: Scene) -> list[Command]:
        sent = self.cleaned_data
        time = sent["time_f"] if sent["time_s"] is None else round(sent["time_s"] * scene.fps, 9)

        def one(layer: Layer, key: Key, factor: float) -> Key:
            if sent["side"]:
                reach = Reach(sent["reach"] or 0.0, sent["gain"] or 0.0)
                return replace(key, arrive=reach) if sent["side"] == "in" else replace(key, leave=reach)
            moved = replace(key, time=key.time if time is None else time)
            if isinstance(key.value, str):
                if sent["by"]:
                    raise EditRefused("A colour is chosen in the card, not moved up and down.")
                return moved
            value = key.value if sent["value"] is None else sent["value"] / factor
            return replace(moved, value=value + (sent["by"] or 0.0) / factor)

        steps = []
        for step in self.changed(scene, lambda layer, stops, ids: stops):
            assert isinstance(step, SetKeys)  # noqa: S101 - pegs are refused
            layer, ids = scene.layer(step.layer_id), self.picked[step.layer_id, step.property]
            factor = FACTORS.get(step.property, 1.0)
            steps.append(replace(step, keys=tuple(one(layer, k, factor) if k.id in ids else k for k in step.keys)))
        return [*steps]


class PasteKeysForm(LayerForm):
    """Put copied keys on a layer, the first of them at a frame; those they fall on are replaced."""

    name = "keys-paste"
    data = forms.CharField(max_length=2_000_000)
    frame = Number(-36_000, 36_000, label="Frame")

    def commands(self, scene: Scene) -> list[Command]:
        layer = scene.layer(self.cleaned_data["layer"])
        try:
            found = json.loads(self.cleaned_data["data"])
            copied = {str(name): [_key(one) for one in many] for name, many in found["coaster-keys"].items()}
        except (ValueError, TypeError, KeyError, AttributeError, RecursionError) as error:
            raise EditRefused("What was copied are no keys; nothing was pasted.") from error
        if not copied or not all(copied.values()) or set(copied) - set(keys.PROPERTIES):
            raise EditRefused("What was copied are no keys of a layer's properties; nothing was pasted.")
        begin = min(key.time for many in copied.values() for key in many)
        by = (self.cleaned_data["frame"] or 0.0) - begin
        self.title = f"Paste {called(sum(map(len, copied.values())), 'key')} to {layer.name}"
        steps: list[Command] = []
        for name, many in copied.items():
            track = layer.track(cast(Property, name))
            there = [] if track is None else list(track.keys)
            taken = {key.id for key in there}
            for key in many:
                time = round(key.time + by, 9)
                fresh = fresh_id("key", taken)
                taken.add(fresh)
                there = [k for k in there if abs(k.time - time) > 1e-6] + [replace(key, id=fresh, time=time)]
            steps.append(SetKeys(layer.id, cast(Property, name), tuple(sorted(there, key=lambda k: k.time))))
        return steps


def _key(data: Any) -> Key:
    """Read a key as it was copied. Errors: ValueError, TypeError, KeyError."""
    time, value = float(data["time"]), data["value"]
    value = value if isinstance(value, str) else float(value)
    return Key("key", time, value, Reach(*data["arrive"]), Reach(*data["leave"]), data["step"])


class LayerTimeForm(LayerForm):
    """From when till when a layer is shown; blank is always."""

    name = "layer-time"
    from_s = Number(-1200, 1200, unit="s", label="Shown from")
    to_s = Number(-1200, 1200, unit="s", label="Shown to")
    from_f = Number(-36_000, 36_000, label="Shown from frame")
    to_f = Number(-36_000, 36_000, label="Shown to frame")
    always = forms.BooleanField(required=False)

    def commands(self, scene: Scene) -> list[Command]:
        layer, sent = scene.layer(self.cleaned_data["layer"]), self.cleaned_data
        if sent["always"]:
            return [TimeLayer(layer.id, None)]
        begin, end = layer.shown or (0.0, float(scene.length))
        begin = sent["from_f"] if sent["from_f"] is not None else _frames(sent["from_s"], scene.fps, begin)
        end = sent["to_f"] if sent["to_f"] is not None else _frames(sent["to_s"], scene.fps, end)
        if end <= begin:
            raise EditRefused(f"{layer.name} would end before it begins; its time was kept as it was.")
        whole = begin <= 0 and end >= scene.length
        return [TimeLayer(layer.id, None if whole else (float(begin), float(end)))]


def _frames(seconds: float | None, fps: float, now: float) -> float:
    return now if seconds is None else round(seconds * fps, 9)
