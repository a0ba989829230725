"""Edits of layers: putting in, taking out, their order and groups, and keys."""

from dataclasses import replace
from typing import Annotated, ClassVar

from coaster.commands.base import Command, Key, Setting, register
from coaster.documents import Rule, document
from coaster.errors import EditRefused
from coaster.geometry.path import Id
from coaster.motion.keys import MOST_KEYS, Keys
from coaster.scene import tree
from coaster.scene.document import Layer, Scene
from coaster.scene.properties import PROPERTIES, PropertyName, Track, in_order

Place = Annotated[int, Rule(ge=0, le=100_000)]
"""A place among the layers of one group, or the outermost ones, from the back."""
FRONT = 100_000


Layers = tuple[Layer, ...]


def _inserted(layers: Layers, span: Layers, place: int) -> Layers:
    """Return layers with one more, and all that is inside it, at a place among its siblings."""
    parent = span[-1].parent
    siblings = tree.members(layers, parent)
    if place < len(siblings):
        at = tree.span_of(layers, siblings[place].id).start
    elif parent is None:
        at = len(layers)
    else:  # members lie right behind their group
        at = tree.span_of(layers, parent).stop - 1
    return (*layers[:at], *span, *layers[at:])


def place_of(scene: Scene, layer_id: str) -> int:
    """Return a layer's place among its siblings, from the back."""
    siblings = tree.members(scene.layers, scene.layer(layer_id).parent)
    return [layer.id for layer in siblings].index(layer_id)


@register
@document
class AddLayer(Command):
    """Put a new layer at ``index`` among those of its group; past the front it goes to the
    front.
    """

    kind: ClassVar[str] = "layer.add"
    layer: Layer
    index: Place = FRONT

    def apply(self, scene: Scene) -> Scene:
        return replace(scene, layers=_inserted(scene.layers, (self.layer,), self.index))

    def inverse(self, before: Scene) -> Command:
        return RemoveLayer(self.layer.id)

    def touches(self) -> tuple[Key, ...]:
        return (("layer", self.layer.id),)

    def describe(self, scene: Scene) -> str:
        return f"Add {self.layer.name}"


@register
@document
class RemoveLayer(Command):
    """Take a layer out; a group has to be empty first."""

    kind: ClassVar[str] = "layer.remove"
    layer_id: Id

    def apply(self, scene: Scene) -> Scene:
        gone = scene.layer(self.layer_id)
        parents = tree.parents_of(scene.layers, scene.paths)
        inside = [name for name, parent in parents if parent == gone.id]
        if inside:
            raise EditRefused(f"{gone.name} holds {', '.join(inside)}; take them out first.")
        return replace(scene, layers=tuple(x for x in scene.layers if x is not gone))

    def inverse(self, before: Scene) -> Command:
        return AddLayer(before.layer(self.layer_id), place_of(before, self.layer_id))

    def touches(self) -> tuple[Key, ...]:
        return (("layer", self.layer_id),)

    def describe(self, scene: Scene) -> str:
        return f"Delete {scene.layer(self.layer_id).name}"


@register
@document
class MoveLayer(Setting):
    """Move a layer, with all that is inside it, to a place among those of a group (None: the
    outermost).
    """

    kind: ClassVar[str] = "layer.move"
    layer_id: Id
    parent: Id | None
    place: Place

    def apply(self, scene: Scene) -> Scene:
        layer = scene.layer(self.layer_id)
        if self.parent is not None:
            scene.layer(self.parent)  # refuses a group that is not there
            if tree.is_inside(scene, self.parent, layer.id):
                raise EditRefused(f"{layer.name} cannot be put into itself.")
        span = tree.span_of(scene.layers, layer.id)
        *inside, top = scene.layers[span]
        lifted = (*inside, replace(top, parent=self.parent))
        rest = scene.layers[: span.start] + scene.layers[span.stop :]
        if self.place > len(tree.members(rest, self.parent)):
            raise EditRefused(f"There is no place {self.place} among the layers there.")
        return replace(scene, layers=_inserted(rest, lifted, self.place))

    def inverse(self, before: Scene) -> Command:
        return MoveLayer(
            self.layer_id, before.layer(self.layer_id).parent, place_of(before, self.layer_id)
        )

    def touches(self) -> tuple[Key, ...]:
        return (("layer", self.layer_id, "parent"),)

    def describe(self, scene: Scene) -> str:
        layer = scene.layer(self.layer_id)
        if layer.parent == self.parent:
            return f"Move {layer.name} in the order"
        if self.parent is None:
            return f"Take {layer.name} out of {scene.layer(str(layer.parent)).name}"
        return f"Put {layer.name} into {scene.layer(self.parent).name}"


@register
@document
class SetKeys(Setting):
    """Set all keys of one property of a layer; without any, what the layer itself says holds."""

    kind: ClassVar[str] = "layer.keys"
    layer_id: Id
    property: PropertyName
    keys: Annotated[Keys, Rule(max_length=MOST_KEYS)]

    def apply(self, scene: Scene) -> Scene:
        layer = scene.layer(self.layer_id)
        kept = [track for track in layer.keys if track.property != self.property]
        if self.keys:
            kept.append(Track(self.property, self.keys))
        return scene.with_layer(replace(layer, keys=in_order(kept)))

    def inverse(self, before: Scene) -> Command:
        kept = before.layer(self.layer_id).keys_of(self.property)
        return SetKeys(self.layer_id, self.property, kept)

    def touches(self) -> tuple[Key, ...]:
        return (("layer", self.layer_id, "keys", self.property),)

    def describe(self, scene: Scene) -> str:
        words = PROPERTIES[self.property].words
        return f"Keys of {words.lower()}, {scene.layer(self.layer_id).name}"
