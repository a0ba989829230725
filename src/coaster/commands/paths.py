"""Edits of paths."""

from dataclasses import replace
from typing import Annotated, ClassVar

from pydantic import Field
from pydantic.dataclasses import dataclass

from coaster.commands.base import Command, Key, Setting, register
from coaster.errors import EditRefused
from coaster.geometry.path import STRICT, Id, Name, Path
from coaster.scene.document import Scene


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class AddPath(Command):
    """Put a new path at ``index`` of the list; past its end it goes to the end."""

    kind: ClassVar[str] = "path.add"
    path: Path
    index: Annotated[int, Field(ge=0, le=100_000)] = 100_000

    def apply(self, scene: Scene) -> Scene:
        return replace(scene, paths=(*scene.paths[: self.index], self.path, *scene.paths[self.index :]))

    def inverse(self, before: Scene) -> Command:
        return RemovePath(self.path.id)

    def touches(self) -> tuple[Key, ...]:
        return (("path", self.path.id),)

    def describe(self, scene: Scene) -> str:
        return f"Add {self.path.name}"


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class RemovePath(Command):
    """Take out a path that no layer rides or strokes."""

    kind: ClassVar[str] = "path.remove"
    path_id: Id

    def apply(self, scene: Scene) -> Scene:
        gone, users = scene.path(self.path_id), scene.users_of(self.path_id)
        if users:
            raise EditRefused(f"{gone.name} is in use by {', '.join(u.name for u in users)}.")
        return replace(scene, paths=tuple(p for p in scene.paths if p is not gone))

    def inverse(self, before: Scene) -> Command:
        path = before.path(self.path_id)
        return AddPath(path, before.paths.index(path))

    def touches(self) -> tuple[Key, ...]:
        return (("path", self.path_id),)

    def describe(self, scene: Scene) -> str:
        return f"Delete {scene.path(self.path_id).name}"


class PathPart(Setting):
    """Sets the field ``part`` of a path, from the command's own field of that name."""

    part: ClassVar[str]
    words: ClassVar[str]
    path_id: Id

    def apply(self, scene: Scene) -> Scene:
        return scene.with_path(replace(scene.path(self.path_id), **{self.part: getattr(self, self.part)}))

    def inverse(self, before: Scene) -> Command:
        return self._with(**{self.part: getattr(before.path(self.path_id), self.part)})

    def touches(self) -> tuple[Key, ...]:
        return (("path", self.path_id, self.part),)

    def describe(self, scene: Scene) -> str:
        return self.words.format(name=scene.path(self.path_id).name)


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class RenamePath(PathPart):
    kind: ClassVar[str] = "path.rename"
    part: ClassVar[str] = "name"
    words: ClassVar[str] = "Rename {name}"
    path_id: Id
    name: Name


@register
@dataclass(frozen=True, slots=True, config=STRICT)
class ShowPath(PathPart):
    """Show a path's rail while working, or hide it; its riders ride on in either case."""

    kind: ClassVar[str] = "path.show"
    part: ClassVar[str] = "visible"
    words: ClassVar[str] = "Show or hide {name}"
    path_id: Id
    visible: bool
