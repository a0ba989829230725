"""What every command is, the register of their kinds, and commands as JSON."""

from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from functools import reduce
from itertools import groupby
from typing import Any, ClassVar, Self, TypeVar

from pydantic import TypeAdapter, ValidationError

from coaster.commands.earlier import brought_up_to_date
from coaster.errors import EditRefused, SceneError
from coaster.scene.codec import words_of
from coaster.scene.document import Scene

Key = tuple[str, ...]
"""A part of the scene, from the outside in: ("layer", "manta", "facing")."""


class Command:
    """One edit as a frozen value; it sets absolute values, so that its inverse is exact.

    The laws, for every scene a command applies to: the inverse restores the scene; ``merge``
    equals doing both; JSON gives the same command back; the scene it was given is untouched.
    """

    kind: ClassVar[str]

    def apply(self, scene: Scene) -> Scene:
        """Errors: EditRefused, UnknownId or SceneError: it does not fit this scene."""
        raise NotImplementedError

    @classmethod
    def together(cls, commands: Sequence[Self], scene: Scene) -> Scene | None:
        """Return the scene after several of one kind, where that is one step; errors as
        ``apply``.
        """
        return None

    def inverse(self, before: Scene) -> "Command":
        """Return the command that takes the scene back to ``before``."""
        raise NotImplementedError

    def touches(self) -> tuple[Key, ...]:
        """Return the parts of the scene it changes; two edits of one part are in conflict."""
        raise NotImplementedError

    def describe(self, scene: Scene) -> str:
        """Return the words of the undo menu; ``scene`` is the one before."""
        raise NotImplementedError

    def merge(self, later: "Command") -> "Command | None":
        """Return one command that equals both, or None if there is none."""
        return None


class Setting(Command):
    """A command that sets one part; a later one of the same part makes it void."""

    def merge(self, later: Command) -> Command | None:
        return later if later.kind == self.kind and later.touches() == self.touches() else None


KINDS: dict[str, TypeAdapter[Any]] = {}
C = TypeVar("C")


def register(command: type[C]) -> type[C]:
    """Make a command's kind readable from JSON."""
    kind: str = command.kind  # type: ignore[attr-defined]
    if kind in KINDS:
        raise ValueError(f"two commands are called {kind!r}")
    KINDS[kind] = TypeAdapter(command)
    return command


def to_data(command: Command) -> dict[str, Any]:
    return {"kind": command.kind, **KINDS[command.kind].dump_python(command, mode="json")}


def from_data(data: Any) -> Command:
    """Read one command.

    Errors: EditRefused: no known kind, or fields that are missing, unknown or out of range.
    """
    data = brought_up_to_date(dict(data)) if isinstance(data, Mapping) else data
    kind = data.get("kind") if isinstance(data, dict) else data
    if not isinstance(data, dict) or not isinstance(kind, str) or kind not in KINDS:
        raise EditRefused(f"There is no edit called {kind!r:.60}.")
    fields = {k: v for k, v in data.items() if k != "kind"}
    try:
        command: Command = KINDS[kind].validate_python(fields)
    except ValidationError as error:
        raise EditRefused(words_of(error)) from error
    return command


def steps_of(scene: Scene, commands: Sequence[Command]) -> Iterator[tuple[Command, Scene, Scene]]:
    """Yield each command with the scene before and after it.

    Errors: EditRefused: it does not fit; nothing is changed.
    """
    for command in commands:
        with _refusing():
            after = command.apply(scene)
        yield command, scene, after
        scene = after


@contextmanager
def _refusing() -> Iterator[None]:
    try:
        yield
    except ValidationError as error:
        raise EditRefused(words_of(error)) from error
    except SceneError as error:
        raise EditRefused(str(error)) from error


def applied(scene: Scene, commands: Sequence[Command]) -> Scene:
    """Return the scene after commands in order; errors as ``steps_of``."""
    for _, each in groupby(commands, key=type):
        some = list(each)
        with _refusing():
            scene = some[0].together(some, scene) or reduce(lambda at, x: x.apply(at), some, scene)
    return scene


def apply_all(scene: Scene, commands: Sequence[Command]) -> tuple[Scene, tuple[Command, ...]]:
    """Return the scene after commands, and their inverses in the order to apply.

    Errors: as ``steps_of``.
    """
    inverses: list[Command] = []
    for command, before, after in steps_of(scene, commands):
        inverses.append(command.inverse(before))
        scene = after
    return scene, tuple(reversed(inverses))


def conflict(mine: Sequence[Command], theirs: Sequence[Command]) -> tuple[Command, Command] | None:
    """Return the first two commands that touch the same part, or None."""
    for a in mine:
        for b in theirs:
            if any(_overlap(x, y) for x in a.touches() for y in b.touches()):
                return a, b
    return None


def _overlap(a: Key, b: Key) -> bool:
    """Whether one part is the other, or holds it."""
    return all(x == y for x, y in zip(a, b, strict=False))
