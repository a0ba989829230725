"""What is held by edits: after each of them it is as it was said to be, whatever they did."""

from collections.abc import Sequence

from coaster.commands.base import Command
from coaster.commands.chains import with_chains
from coaster.commands.joins import with_joins
from coaster.commands.order import with_order
from coaster.scene.document import Scene


def held(scene: Scene, steps: Sequence[Command]) -> tuple[tuple[Command, ...], tuple[str, ...]]:
    """Return commands, and after them those by which paths that are made of others have their
    shape, joined pegs one speed, and rides begin when the ones that they follow say; and what there
    is to say of it.
    """
    shaped, of_shapes = with_chains(scene, steps)
    ordered, of_order = with_order(scene, with_joins(scene, shaped))
    return ordered, (*of_shapes, *of_order)
