"""Edits of layers."""

from dataclasses import replace
from typing import Annotated, ClassVar

from pydantic import Field
from pydantic.dataclasses import dataclass

from coaster.commands.base import Command, Key, Setting, register
from coaster.errors import EditRefused
from coaster.geometry.path import STRICT, Id, Name
from coaster.motion.keys import MOST_KEYS, PROPERTIES, Keys, Property, Track
from coaster.motion.sections import Frames
from coaster.scene.document import Content, Layer, Scene, Transform

Index = Annotated[int, Field(ge=0, le=100_000)]


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class AddLayer(Command):
    """Put a new layer at ``index`` from the back; past the front it goes to the front."""

    kind: ClassVar[str] = "layer.add"
    layer: Layer
    index: Index = 100_000

    def apply(self, scene: Scene) -> Scene:
        layers = (*scene.layers[: self.index], self.layer, *scene.layers[self.index :])
        return replace(scene, layers=layers)

    def inverse(self, before: Scene) -> Command:
        return RemoveLayer(self.layer.id)

    def touches(self) -> tuple[Key, ...]:
        return (("layer", self.layer.id),)

    def describe(self, scene: Scene) -> str:
        return f"Add {self.layer.name}"


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class RemoveLayer(Command):
    """Take a layer out."""

    kind: ClassVar[str] = "layer.remove"
    layer_id: Id

    def apply(self, scene: Scene) -> Scene:
        gone = scene.layer(self.layer_id)
        return replace(scene, layers=tuple(x for x in scene.layers if x is not gone))

    def inverse(self, before: Scene) -> Command:
        layer = before.layer(self.layer_id)
        return AddLayer(layer, before.layers.index(layer))

    def touches(self) -> tuple[Key, ...]:
        return (("layer", self.layer_id),)

    def describe(self, scene: Scene) -> str:
        return f"Delete {scene.layer(self.layer_id).name}"


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class OrderLayer(Setting):
    """Move a layer to ``index`` from the back."""

    kind: ClassVar[str] = "layer.order"
    layer_id: Id
    index: Index

    def apply(self, scene: Scene) -> Scene:
        layer = scene.layer(self.layer_id)
        if self.index >= len(scene.layers):
            raise EditRefused(f"There is no place {self.index} among {len(scene.layers)} layers.")
        rest = [x for x in scene.layers if x is not layer]
        rest.insert(self.index, layer)
        return replace(scene, layers=tuple(rest))

    def inverse(self, before: Scene) -> Command:
        return OrderLayer(self.layer_id, before.layers.index(before.layer(self.layer_id)))

    def touches(self) -> tuple[Key, ...]:
        return (("order", self.layer_id),)

    def describe(self, scene: Scene) -> str:
        return f"Move {scene.layer(self.layer_id).name} in the order"


class LayerPart(Setting):
    """Sets the field ``part`` of a layer, from the command's own field of that name."""

    part: ClassVar[str]
    words: ClassVar[str]
    layer_id: Id

    def apply(self, scene: Scene) -> Scene:
        return scene.with_layer(replace(scene.layer(self.layer_id), **{self.part: getattr(self, self.part)}))

    def inverse(self, before: Scene) -> Command:
        return self._with(**{self.part: getattr(before.layer(self.layer_id), self.part)})

    def touches(self) -> tuple[Key, ...]:
        return (("layer", self.layer_id, self.part),)

    def describe(self, scene: Scene) -> str:
        return self.words.format(name=scene.layer(self.layer_id).name)


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class RenameLayer(LayerPart):
    kind: ClassVar[str] = "layer.rename"
    part: ClassVar[str] = "name"
    words: ClassVar[str] = "Rename {name}"
    layer_id: Id
    name: Name


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class ShowLayer(LayerPart):
    """Show a layer in the picture and in renders, or hide it."""

    kind: ClassVar[str] = "layer.show"
    part: ClassVar[str] = "visible"
    words: ClassVar[str] = "Show or hide {name}"
    layer_id: Id
    visible: bool


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class LockLayer(LayerPart):
    """Keep a layer from being picked and dragged on the stage, or let it."""

    kind: ClassVar[str] = "layer.lock"
    part: ClassVar[str] = "locked"
    words: ClassVar[str] = "Lock or unlock {name}"
    layer_id: Id
    locked: bool


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class PlaceLayer(LayerPart):
    """Set where a layer stands, its size, turn, anchor and opacity."""

    kind: ClassVar[str] = "layer.place"
    part: ClassVar[str] = "transform"
    words: ClassVar[str] = "Place {name}"
    layer_id: Id
    transform: Transform


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class FillLayer(LayerPart):
    """Set what a layer shows: a text and its look, a figure and its colours, a line's stroke."""

    kind: ClassVar[str] = "layer.fill"
    part: ClassVar[str] = "content"
    words: ClassVar[str] = "Look of {name}"
    layer_id: Id
    content: Content


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class TimeLayer(LayerPart):
    """Set from which frame up to which a layer is shown; None is always."""

    kind: ClassVar[str] = "layer.time"
    part: ClassVar[str] = "shown"
    words: ClassVar[str] = "Time of {name}"
    layer_id: Id
    shown: tuple[Frames, Frames] | None


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class SetKeys(Setting):
    """Set all keys of one property of a layer; without any, what the layer's transform says holds."""

    kind: ClassVar[str] = "layer.keys"
    layer_id: Id
    property: Property
    keys: Annotated[Keys, Field(max_length=MOST_KEYS)]

    def apply(self, scene: Scene) -> Scene:
        layer = scene.layer(self.layer_id)
        made = [*layer.keys, Track(self.property, self.keys)] if self.keys else layer.keys
        kept = {track.property: track for track in made}
        if not self.keys:
            kept.pop(self.property, None)
        in_order = tuple(kept[name] for name in PROPERTIES if name in kept)
        return scene.with_layer(replace(layer, keys=in_order))

    def inverse(self, before: Scene) -> Command:
        track = before.layer(self.layer_id).track(self.property)
        return SetKeys(self.layer_id, self.property, track.keys if track else ())

    def touches(self) -> tuple[Key, ...]:
        return (("layer", self.layer_id, "keys", self.property),)

    def describe(self, scene: Scene) -> str:
        return f"Keys of {self.property}, {scene.layer(self.layer_id).name}"
