"""One command sets fields of a layer, a ride, a path or the scene; what each field is, its owner
says.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass as plain
from dataclasses import replace
from functools import cache
from typing import Any, ClassVar, Literal, Self, get_type_hints

from pydantic import TypeAdapter, ValidationError

from coaster.commands.base import Command, Key, Setting, register
from coaster.documents import document
from coaster.geometry.path import Id, Path
from coaster.motion.ride import Ride
from coaster.scene.codec import words_of
from coaster.scene.document import Layer, Scene

Owner = Literal["layer", "ride", "path", "scene"]


@plain(frozen=True)
class Settable:
    """What may be set of one kind of owner: the words of the undo menu for each field."""

    type: type
    words: Mapping[str, str]


SETTABLE: dict[Owner, Settable] = {
    "layer": Settable(
        Layer,
        {
            "name": "Rename {name}",
            "visible": "Show or hide {name}",
            "locked": "Lock or unlock {name}",
            "transform": "Place {name}",
            "content": "Look of {name}",
            "shown": "Time of {name}",
            "blend": "Blend of {name}",
            "mask": "Mask of {name}",
            "isolated": "Blends in {name}",
            "guide": "Guide or not, {name}",
            "stencil": "What {name} masks",
            "stencil_inverted": "What {name} masks",
            "carrier": "Carrier of {name}",
            "wake": "Wake of {name}",
            "accents": "Accents of {name}",
            "follows": "What {name} follows",
            "tint": "Tint of {name}",
            "mirror": "Image of {name} on the ground",
            "lit": "Light on {name}",
            "shine": "Shine of {name}",
            "tag": "Tag of {name}",
        },
    ),
    "ride": Settable(
        Ride,
        {
            "pegs": "Pegs of {name}",
            "facing": "Facing of {name}",
            "offset": "Shift of {name}",
            "gap": "Gaps of {name}",
            "settle_s": "Settling of {name}",
            "never_backwards": "Way back of {name}",
            "copies": "Copies of {name}",
            "letters": "Letters of {name}",
            "beyond": "Past the ends, {name}",
            "after": "What {name} follows",
            "relative": "Where {name} rides from",
        },
    ),
    "path": Settable(
        Path,
        {
            "name": "Rename {name}",
            "visible": "Show or hide {name}",
            "locked": "Lock or unlock {name}",
            "colour": "Colour of {name}'s rail",
            "strength": "Strength of {name}'s handles",
            "subpaths": "Shape {name}",
            "drawn": "Smooth {name}",
            "parent": "Group of {name}",
            "legs": "What {name} is made of",
            "end_to_end": "How {name} goes on",
        },
    ),
    "scene": Settable(
        Scene,
        {
            "width": "Size",
            "height": "Size",
            "background": "Background",
            "pace": "Pace of what is new",
            "by_depth": "Order of layers",
            "fields": "Fields of the scene",
        },
    ),
}
"""A ride is named by its layer."""
LEADS = {"content", "mask", "carrier", "follows"}
"""What leads from a layer elsewhere: each step of those is checked."""


@cache
def _adapter(owner: Owner, field: str) -> TypeAdapter[Any]:
    return TypeAdapter(get_type_hints(SETTABLE[owner].type, include_extras=True)[field])


@register
@document
class SetField(Setting):
    """Set fields of one owner; ``id`` names the layer or the path, and is empty for the scene."""

    kind: ClassVar[str] = "set"
    owner: Owner
    id: Id | Literal[""]
    values: dict[str, Any]

    def __post_init__(self) -> None:
        words = SETTABLE[self.owner].words
        wrong = [name for name in self.values if name not in words]
        if wrong or not self.values:
            raise ValueError(f"a {self.owner} has no field {wrong[0] if wrong else ''!r} to be set")
        for name, value in self.values.items():
            try:
                self.values[name] = _adapter(self.owner, name).validate_python(value)
            except ValidationError as error:
                raise ValueError(f"{name}: {words_of(error).rstrip('.')}") from error

    def apply(self, scene: Scene) -> Scene:
        changed = replace(self._owner(scene), **self.values)
        if isinstance(changed, Scene):
            return changed
        if isinstance(changed, Path):
            return scene.with_path(changed)
        if isinstance(changed, Ride):
            return scene.with_layer(replace(scene.layer(self.id), ride=changed))
        return scene.with_layer(changed)

    @classmethod
    def together(cls, commands: Sequence[Self], scene: Scene) -> Scene | None:
        # A hundred layers that are dragged make one new scene, not a hundred of a hundred layers.
        there = {layer.id: layer for layer in scene.layers}
        if any(
            x.owner != "layer" or x.id not in there or LEADS & x.values.keys() for x in commands
        ):
            return None
        for each in commands:
            there[each.id] = replace(there[each.id], **each.values)
        return scene.with_layers(there[each.id] for each in commands)

    def _owner(self, scene: Scene) -> Layer | Ride | Path | Scene:
        """Errors: UnknownId; SceneError: the layer rides nothing."""
        if self.owner == "scene":
            return scene
        if self.owner == "path":
            return scene.path(self.id)
        return scene.ride_of(self.id) if self.owner == "ride" else scene.layer(self.id)

    def inverse(self, before: Scene) -> Command:
        owner = self._owner(before)
        return replace(self, values={name: getattr(owner, name) for name in self.values})

    def merge(self, later: Command) -> Command | None:
        if not isinstance(later, SetField) or (later.owner, later.id) != (self.owner, self.id):
            return None
        return later if later.values.keys() == self.values.keys() else None

    def touches(self) -> tuple[Key, ...]:
        if self.owner == "scene":
            return tuple(("scene", name) for name in self.values)
        if self.owner == "ride":
            return tuple(("layer", self.id, "ride", name) for name in self.values)
        return tuple((self.owner, self.id, name) for name in self.values)

    def describe(self, scene: Scene) -> str:
        words = SETTABLE[self.owner].words[next(iter(self.values))]
        if self.owner == "scene":
            return words
        named = scene.path(self.id) if self.owner == "path" else scene.layer(self.id)
        return words.format(name=named.name)


def set_layer(layer_id: str, **values: Any) -> SetField:
    return SetField("layer", layer_id, values)


def set_ride(layer_id: str, **values: Any) -> SetField:
    return SetField("ride", layer_id, values)


def set_path(path_id: str, **values: Any) -> SetField:
    return SetField("path", path_id, values)


def set_scene(**values: Any) -> SetField:
    return SetField("scene", "", values)
