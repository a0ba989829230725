"""What holds of paths that are made of others, after whatever was done to those."""

from collections.abc import Iterator, Sequence

from coaster.commands.base import Command, applied
from coaster.commands.fields import SetField, set_path
from coaster.commands.paths import AddPath, reshaped_commands
from coaster.documents import swapped
from coaster.geometry.chains import chained
from coaster.geometry.path import Path
from coaster.scene.document import Scene


def with_chains(
    scene: Scene, steps: Sequence[Command]
) -> tuple[tuple[Command, ...], tuple[str, ...]]:
    """Return commands, and after them those that give paths that are made of others the shape of
    these; and what there is to say of it.

    One of whose parts is gone, or in another group, keeps its shape as one of its own.
    """
    if not any(path.legs for path in scene.paths) and not any(map(_may_chain, steps)):
        return tuple(steps), ()
    made, notes = list(steps), list[str]()
    before, after = {path.id: path for path in scene.paths}, applied(scene, steps)
    known = {path.id: path for path in after.paths}
    for path in after.paths:
        # By identity: what was not touched is the same value.
        if not path.legs or all(known.get(x) is before.get(x) for x in (path.id, *_parts(path))):
            continue
        if all(_may_be_part(known.get(each), path) for each in _parts(path)):
            runs = chained(path.legs, known, end_to_end=path.end_to_end)
            made += reshaped_commands(after, swapped(path, subpaths=runs))
        else:
            made.append(set_path(path.id, legs=(), end_to_end=False))
            notes.append(
                f"{path.name} keeps its shape as a path of its own: a part of it is gone or in"
                " another group."
            )
    return tuple(made), tuple(notes)


def _parts(path: Path) -> Iterator[str]:
    return (leg.path for leg in path.legs)


def _may_be_part(part: Path | None, whole: Path) -> bool:
    return part is not None and part.parent == whole.parent and not part.legs


def _may_chain(step: Command) -> bool:
    """Whether a command may bring the first path that is made of others."""
    if isinstance(step, AddPath):
        return bool(step.path.legs)
    return isinstance(step, SetField) and step.owner == "path" and "legs" in step.values
