"""The whole scene as one edit: what goes back to an earlier state sets everything at once."""

from dataclasses import replace
from typing import Any, ClassVar

from coaster.commands.base import Command, Key, register
from coaster.documents import document
from coaster.scene import codec
from coaster.scene.document import Scene


@register
@document
class PutScene(Command):
    """Put another scene in place of this one; as a file has it, so that later versions read it."""

    kind: ClassVar[str] = "scene.put"
    document: dict[str, Any]

    def apply(self, scene: Scene) -> Scene:
        # What its layers show is as it is now.
        return replace(codec.from_data(self.document), scenes=scene.scenes)

    def inverse(self, before: Scene) -> Command:
        return put_scene(before)

    def touches(self) -> tuple[Key, ...]:
        # The part that holds all others.
        return ((),)

    def describe(self, scene: Scene) -> str:
        return "Another state of the scene"


def put_scene(scene: Scene) -> PutScene:
    return PutScene(codec.to_data(scene.alone()))
