"""What a plan comes to: commands, words for the undo menu, what there is to say, what is selected
then.
"""

from collections.abc import Iterable
from dataclasses import dataclass

from coaster.commands.base import Command


@dataclass(frozen=True)
class Selection:
    """Layers, or a path and nodes of it."""

    layers: tuple[str, ...] = ()
    path: str = ""
    nodes: tuple[str, ...] = ()

    def told(self) -> dict[str, object]:
        """Return it as JSON values; empty if there is nothing."""
        if self.path:
            return {"path": self.path} | ({"nodes": list(self.nodes)} if self.nodes else {})
        return {"layers": list(self.layers)} if self.layers else {}


NOTHING = Selection()


@dataclass(frozen=True)
class Edit:
    """Commands in order; without ``words`` the first command's own are taken."""

    commands: tuple[Command, ...]
    words: str = ""
    notes: tuple[str, ...] = ()
    select: Selection = NOTHING


def edit_of(
    commands: Iterable[Command],
    words: str = "",
    notes: Iterable[str] = (),
    *,
    layer: str = "",
    path: str = "",
    nodes: Iterable[str] = (),
) -> Edit:
    """Return an edit that selects one layer, or a path and nodes of it, if any is named."""
    select = Selection((layer,) if layer else (), path, tuple(nodes))
    return Edit(tuple(commands), words, tuple(notes), select)


def called(count: int, noun: str) -> str:
    """Write a count with its noun: 1 node, 2 nodes."""
    return f"{count} {noun}" if count == 1 else f"{count} {noun}s"
