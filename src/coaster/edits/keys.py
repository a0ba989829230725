"""Keys of properties: putting in, taking out, and what is done to pegs and keys chosen together."""

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, NoReturn

from coaster.commands.base import Command
from coaster.commands.fields import set_layer, set_ride
from coaster.commands.layers import SetKeys
from coaster.edits.edit import Edit, called, edit_of
from coaster.errors import EditRefused
from coaster.ids import Ids
from coaster.motion import easing, keys, sections
from coaster.motion.colours import to_hex
from coaster.motion.easing import Pace
from coaster.motion.keys import Key, Keys
from coaster.motion.pegs import without_peg
from coaster.motion.ride import Peg
from coaster.motion.sections import Reach
from coaster.scene.contents import INK
from coaster.scene.document import Layer, Scene
from coaster.scene.properties import PROPERTIES, Home, Property

SAME_TIME = 1e-6
"""Frames within which a key is at the playhead."""
PEG = "peg"
Picked = Mapping[tuple[str, str], set[str]]
"""For each layer and property (or ``peg``) the ids of what is chosen of it."""


@dataclass(frozen=True)
class Moment:
    """The frame of the playhead, and whether what is set there makes a key (``pin``)."""

    frame: float = 0.0
    pin: bool = False


def row_of(name: str) -> Property:
    if name not in PROPERTIES:
        raise EditRefused(f"There is no property called {name!r:.40}.")
    return PROPERTIES[name]


def value_at(layer: Layer, name: str, frame: float) -> float | str:
    """Return what a property is at a frame, in the document's own units.

    Errors: EditRefused: the layer has none such.
    """
    track, row = layer.track(name), row_of(name)
    if track is not None and row.kind == "colour":
        return to_hex(keys.colours(track.keys, [frame])[0])
    if track is not None:
        return float(keys.values(track.keys, [frame])[0][0])
    found = layer.standing(name)
    if found is None and name == "shift":
        raise EditRefused(f"{layer.name} rides no path, so there is nothing to shift it along.")
    if found is None:
        raise EditRefused(f"{layer.name} has no {row.words.lower()} to be keyed.")
    return found


def painted(layer: Layer, name: str, colour: str | None, alpha: float | None, frame: float) -> str:
    """Return a colour with its alpha; what is not said is as it is at the frame."""
    there = layer.track(name) is not None or layer.standing(name) is not None
    now = str(value_at(layer, name, frame)) if there else f"{INK}ff"
    said = (colour or now)[:7]
    kept = (colour or "")[7:9] or now[7:9] or "ff"
    level = kept if alpha is None else f"{round(alpha * 255):02x}"
    return said if level.lower() == "ff" else said + level


def keys_after(
    scene: Scene, layer: Layer, name: str, value: float | str, moment: Moment
) -> Keys | None:
    """Return the keys after a property was set at a moment; None if it has no keys and gets none.

    A key at that time takes the value. Else, with ``pin``, there is one more; without, all its
    keys change alike, by a factor for scale.

    Errors: EditRefused: a colour between its keys, without ``pin``.
    """
    track = layer.track(name)
    if track is None:
        return (Key("key", moment.frame, value),) if moment.pin else None
    if moment.pin or any(abs(key.time - moment.frame) < SAME_TIME for key in track.keys):
        return keys.with_key(track.keys, moment.frame, value, easing.Bezier(*scene.pace))
    row, now = row_of(name), value_at(layer, name, moment.frame)
    if isinstance(value, str) or isinstance(now, str):
        count = called(len(track.keys), "key")
        raise EditRefused(
            f"{row.words} of {layer.name} has {count}: go to one of them, or turn on Pin."
        )
    return _all_changed(track.keys, now, value, by_factor=row.proportional and now != 0)


def with_values(
    scene: Scene, layer: Layer, values: Mapping[str, float | str], moment: Moment
) -> tuple[Layer, list[Command]]:
    """Return a layer with properties as they stand, and the commands for those that have keys."""
    after, steps = layer, list[Command]()
    for name, value in values.items():
        keyed = keys_after(scene, layer, name, value, moment)
        if keyed is None:
            after = after.with_standing(name, value)
        else:  # where there are keys, what the layer says rests, and stays as it was
            steps.append(SetKeys(layer.id, name, keyed))
    return after, steps


def said_of(layer: Layer, values: Iterable[str], steps: Iterable[Command]) -> list[str]:
    """Say where setting a value between keys has changed all of them, and where it rests, as the
    property follows another layer.
    """
    wanted = set(values)
    led = [row_of(x.property).words for x in layer.follows if x.property in wanted]
    said = [f"{words} of {layer.name} follows another layer: what was set rests." for words in led]
    for step in steps:
        if not isinstance(step, SetKeys):
            continue
        pairs = list(zip(layer.keys_of(step.property), step.keys, strict=False))
        if len(pairs) == len(step.keys) > 1 and all(a != b for a, b in pairs):
            said.append(
                f"All {len(pairs)} keys of {row_of(step.property).words.lower()} changed alike;"
                " with Pin on, a key is put in here."
            )
    return said


def _all_changed(before: Keys, now: float, value: float, *, by_factor: bool) -> Keys:
    """Return keys changed alike, so that what is ``now`` becomes a value."""
    if by_factor:
        return tuple(replace(key, value=keys.number(key) * value / now) for key in before)
    return tuple(replace(key, value=keys.number(key) + value - now) for key in before)


def add_key(
    scene: Scene, layer_id: str, name: str, frame: float, value: float | None = None
) -> Edit:
    """Put a key on a property at a frame, as it is then or at a value in the document's units."""
    layer = scene.layer(layer_id)
    now = value_at(layer, name, frame)
    wanted = now if value is None or isinstance(now, str) else value
    if name == "shift" and layer.ride is None:
        raise EditRefused(f"{layer.name} rides no path, so there is nothing to shift it along.")
    made = keys.with_key(layer.keys_of(name), frame, wanted, easing.Bezier(*scene.pace))
    return edit_of([SetKeys(layer.id, name, made)], f"Key of {row_of(name).words} of {layer.name}")


def last_keyed(layer: Layer, home: Home) -> int:
    """Return the number of the last of several in a ``home`` that has keys, which are told by it; 0
    if none has.
    """
    rows = (PROPERTIES[track.property] for track in layer.keys)
    several = [row.index for row in rows if row.home == home and row.index is not None]
    return max(several, default=-1) + 1


def _keyed_track(layer: Layer, name: str) -> Keys:
    track = layer.track(name)
    if track is None:
        raise EditRefused(f"{row_of(name).words} of {layer.name} has no keys.")
    return track.keys


def remove_key(scene: Scene, layer_id: str, name: str, frame: float) -> Edit:
    """Take a property's key at a frame out; after the last one it stays as it was seen."""
    layer = scene.layer(layer_id)
    rest = tuple(key for key in _keyed_track(layer, name) if abs(key.time - frame) > SAME_TIME)
    kept = [] if rest else kept_commands(layer, name, value_at(layer, name, frame))
    words = f"Take a key off {row_of(name).words} of {layer.name}"
    return edit_of([SetKeys(layer.id, name, rest), *kept], words)


def clear_keys(scene: Scene, layer_id: str, name: str, frame: float) -> Edit:
    """Take all keys of a property out; it stays as it is at the frame."""
    layer = scene.layer(layer_id)
    count = called(len(_keyed_track(layer, name)), "key")
    kept = kept_commands(layer, name, value_at(layer, name, frame))
    words = f"Clear {count} of {row_of(name).words} of {layer.name}"
    return edit_of([SetKeys(layer.id, name, ()), *kept], words)


def kept_commands(layer: Layer, name: str, value: float | str) -> list[Command]:
    """Return the commands that let a property stay as it was seen, where its keys are cleared."""
    after = layer.with_standing(name, value)
    changed = {
        home: getattr(after, home)
        for home in ("content", "transform", "mask", "tint")
        if getattr(after, home) != getattr(layer, home)
    }
    return [set_layer(layer.id, **changed)] if changed else []


OnKeys = Callable[[Layer, Keys, set[str]], Keys]
OnPegs = Callable[[Layer, tuple[Peg, ...], set[str]], tuple[Peg, ...]]


def change_picked(
    scene: Scene, picked: Picked, verb: str, on_keys: OnKeys, on_pegs: OnPegs | None = None
) -> Edit:
    """Change the chosen keys, and the chosen pegs."""
    steps: list[Command] = []
    for (layer_id, name), ids in picked.items():
        layer = scene.layer(layer_id)
        if name == PEG:
            pegs = scene.ride_of(layer_id).pegs
            _check_there(ids, {peg.id for peg in pegs})
            steps.append(set_ride(layer_id, pegs=(on_pegs or _refused)(layer, pegs, ids)))
        else:
            found = layer.keys_of(name)
            _check_there(ids, {key.id for key in found})
            steps.append(SetKeys(layer_id, name, on_keys(layer, found, ids)))
    return edit_of(steps, f"{verb} {name_of(scene, picked)}")


def _refused(layer: Layer, pegs: tuple[Peg, ...], ids: Collection[str]) -> NoReturn:
    raise EditRefused(f"That is for keys; there are pegs of {layer.name} among what is chosen.")


def _check_there(wanted: set[str], there: set[str]) -> None:
    if wanted - there:
        raise EditRefused("Some of what is chosen is not there any more; choose again.")


def name_of(scene: Scene, picked: Picked) -> str:
    """Say what is chosen in words: a peg of Manta, 3 keys of Title, 5 pegs and keys."""
    count = sum(len(ids) for ids in picked.values())
    pegs = sum(len(ids) for (_, name), ids in picked.items() if name == PEG)
    nouns = (
        f"{count} pegs and keys" if 0 < pegs < count else called(count, "peg" if pegs else "key")
    )
    of = {layer for layer, _ in picked}
    return f"{nouns} of {scene.layer(of.pop()).name}" if len(of) == 1 else nouns


def move_picked(scene: Scene, picked: Picked, by: float, factor: float, about: float) -> Edit:
    """Move what is chosen by frames, and stretch its times about one of them."""

    def change(layer: Layer, stops: Any, ids: set[str]) -> Any:
        return sections.moved(stops, ids, by, factor, about)

    return change_picked(scene, picked, "Move", change, change)


def stagger_picked(scene: Scene, picked: Picked, step: float) -> Edit:
    """Set off what is chosen of one layer after the other, in the order of the lanes, by frames."""
    named_layers = {layer_id for layer_id, _ in picked}
    # Lanes list the frontmost layer first, the document the one at the back.
    chosen = [layer.id for layer in reversed(scene.layers) if layer.id in named_layers]
    if len(chosen) < 2:
        raise EditRefused(
            "To set one off after the other takes keys or pegs of two layers or more."
        )

    def change(layer: Layer, stops: Any, ids: set[str]) -> Any:
        return sections.moved(stops, ids, chosen.index(layer.id) * step)

    return change_picked(scene, picked, "Stagger", change, change)


def delete_picked(scene: Scene, picked: Picked) -> Edit:
    """Delete what is chosen; a property that loses its last key stays at what its first one
    said.
    """

    def pegs(layer: Layer, stops: tuple[Peg, ...], ids: set[str]) -> tuple[Peg, ...]:
        for one in ids:
            stops = without_peg(stops, one)
        return stops

    found = change_picked(
        scene, picked, "Delete", lambda layer, stops, ids: keys.without(stops, ids), pegs
    )
    kept: list[Command] = []
    for step in found.commands:
        if isinstance(step, SetKeys) and not step.keys:
            layer = scene.layer(step.layer_id)
            # By what was drawn of it before anything moved, not by where the playhead happens to
            # be.
            kept += kept_commands(layer, step.property, _keyed_track(layer, step.property)[0].value)
    return replace(found, commands=(*found.commands, *kept))


def reverse_picked(scene: Scene, picked: Picked) -> Edit:
    return change_picked(
        scene, picked, "Reverse", lambda layer, stops, ids: keys.on_run(stops, ids, keys.backwards)
    )


def repeat_picked(scene: Scene, picked: Picked, times: int, stretch: float, fade: float) -> Edit:
    """Repeat the chosen keys, each time stretched and fading towards where they end."""

    def again(run: Keys) -> Keys:
        return keys.repeated(run, times, stretch=stretch, fade=fade)

    return change_picked(
        scene, picked, "Repeat", lambda layer, stops, ids: keys.on_run(stops, ids, again)
    )


def pace_picked(scene: Scene, picked: Picked, pace: Pace) -> Edit:
    """Give the sections that begin at what is chosen a pace; two that follow each other, the one
    between.
    """

    def change(layer: Layer, stops: Any, ids: set[str]) -> Any:
        return sections.with_paces(stops, ids, pace)

    return change_picked(scene, picked, "Pace of", change, change)


_SIDES = {"in": "arrive", "out": "leave"}


@dataclass(frozen=True)
class KeyChange:
    """What is set of keys: ``value`` or ``by`` in the units a person reads, a time, or one side's
    handle.
    """

    value: float | None = None
    by: float = 0.0
    time: float | None = None
    side: str = ""
    reach: Reach | None = None

    def made(self, key: Key, factor: float) -> Key:
        if self.reach is not None:
            return sections.changed(key, **{_SIDES[self.side]: self.reach})
        moved = replace(key, time=key.time if self.time is None else self.time)
        if isinstance(key.value, str):
            if self.by:
                raise EditRefused("A colour is chosen in the card, not moved up and down.")
            return moved
        value = key.value if self.value is None else self.value / factor
        return replace(moved, value=value + self.by / factor)


def set_picked(scene: Scene, picked: Picked, change: KeyChange) -> Edit:
    """Set the value of the chosen keys, or change it by so much; and one side's handle of them."""
    steps: list[Command] = []
    for step in change_picked(scene, picked, "", lambda layer, stops, ids: stops).commands:
        assert isinstance(step, SetKeys)  # noqa: S101 - pegs are refused
        ids, factor = picked[step.layer_id, step.property], PROPERTIES[step.property].factor
        made = tuple(change.made(key, factor) if key.id in ids else key for key in step.keys)
        steps.append(replace(step, keys=made))
    return edit_of(steps, f"Value of {name_of(scene, picked)}")


def _pasted(there: Keys, copied: Sequence[Key], by: float) -> Keys:
    """Return keys with copies of others among them, so much later."""
    made, ids = list(there), Ids(key.id for key in there)
    for key in copied:
        # Sums of fractions of frames: without it, a key copied to and fro would drift by the last
        # bit.
        time = round(key.time + by, 9)
        # Two keys at one time would be a jump that nobody asked for.
        made = [other for other in made if abs(other.time - time) > SAME_TIME]
        made.append(replace(key, id=ids.fresh("key"), time=time))
    return tuple(sorted(made, key=lambda key: key.time))


def paste_keys(
    scene: Scene, layer_id: str, copied: Mapping[str, Sequence[Key]], frame: float
) -> Edit:
    """Put copied keys on a layer, the first of them at a frame; those they fall on are replaced."""
    layer = scene.layer(layer_id)
    by = frame - min(key.time for many in copied.values() for key in many)
    steps: list[Command] = []
    for name, many in copied.items():
        steps.append(SetKeys(layer.id, name, _pasted(layer.keys_of(name), many, by)))
    count = called(sum(map(len, copied.values())), "key")
    return edit_of(steps, f"Paste {count} to {layer.name}")


def clipboard_keys(data: Any) -> dict[str, list[Key]]:
    """Read what the strip copies: for each property a list of time, value, arrive, leave and step.

    Errors: EditRefused: it is something else.
    """
    try:
        copied = {
            str(name): [_clipboard_key(one) for one in many]
            for name, many in data["coaster-keys"].items()
        }
    except (ValueError, TypeError, KeyError, AttributeError) as error:
        raise EditRefused("What was copied are not keys; nothing was pasted.") from error
    if not copied or not all(copied.values()) or set(copied) - set(PROPERTIES):
        raise EditRefused(
            "What was copied are not keys of a layer's properties; nothing was pasted."
        )
    return copied


def _clipboard_key(data: Any) -> Key:
    """Errors: ValueError, TypeError, KeyError."""
    time, value = float(data["time"]), data["value"]
    value = value if isinstance(value, str) else float(value)
    return Key("key", time, value, Reach(*data["arrive"]), Reach(*data["leave"]), data["step"])
