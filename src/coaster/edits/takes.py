"""Takes: made paths that are ridden in the hand's timing, and smoothed again from what was
recorded.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

from coaster.commands.base import Command
from coaster.commands.fields import set_path, set_ride
from coaster.commands.paths import AddPath
from coaster.edits.carriers import riding_commands
from coaster.edits.edit import Edit, edit_of
from coaster.edits.making import new_path
from coaster.edits.spaces import in_space
from coaster.errors import EditRefused
from coaster.formats import takes as files
from coaster.geometry.path import Provenance, SeenFrom, Subpath
from coaster.motion import takes
from coaster.motion.ride import Facing, Ride
from coaster.motion.takes import Smoothed, Smoothing, Take
from coaster.scene.document import Layer, Scene

LATEST = 1_000_000
"""No peg stands later, in frames."""


@lru_cache(maxsize=32)
def take_of(text: str) -> Take:
    """Return the take that a CSV of samples holds; what was asked lately is remembered."""
    return files.read(text).take()


@lru_cache(maxsize=256)
def _smoothed(text: str, how: Smoothing, fps: float, start: float) -> Smoothed:
    return takes.smooth(take_of(text), how, fps=fps, start=start)


def smoothed(text: str, drawn: Provenance, fps: float) -> Smoothed:
    """Return a raw take smoothed as a path says; what was asked lately is remembered."""
    how = Smoothing(drawn.tolerance, drawn.steady, drawn.corner, drawn.soften, drawn.close)
    return _smoothed(text, how, fps, drawn.start)


def run_of(found: Smoothed, drawn: Provenance) -> Subpath:
    """Return a smoothed take as it lies in the scene."""
    if drawn.seen_from == "front":
        return found.run
    return in_space(found.run, drawn.seen_from, drawn.level)


@dataclass(frozen=True)
class NewTake:
    """What a new take is to be: its file, the frame it begins at, whose it is to be, a name, and
    from where, in which plane, it was drawn (see ``Provenance``).
    """

    file: str
    start: float
    layer: str
    name: str
    seen_from: SeenFrom = "front"
    level: float = 0.0


def add_take(scene: Scene, text: str, begun: NewTake, words: str = "") -> Edit:
    """Make a take a path, ridden by a layer if one is named and there."""
    take = take_of(text)
    if abs(begun.start) + take.duration * scene.fps > LATEST:
        raise EditRefused(
            f"The take lasts {take.duration:,.0f} s, longer than any scene; are its times in"
            " another unit? Nothing was added."
        )
    drawn = Provenance(
        begun.file, begun.start, take.suggested, seen_from=begun.seen_from, level=begun.level
    )
    found = smoothed(text, drawn, scene.fps)
    path = new_path(scene, begun.name, (run_of(found, drawn),), drawn=drawn)
    layers = [each for each in scene.layers if each.id == begun.layer and each.content.can.stand]
    rides = [
        step
        for each in layers
        for step in riding_commands(scene, each, Ride(path.id, found.pegs, _facing_of(each)))
    ]
    rode = [(each.name, scene.path(each.ride.path).name) for each in layers if each.ride]
    left = [f"{name} rides this now, and {old} no more; Undo puts it back." for name, old in rode]
    notes = [*left, *take.notes, summary(take, found)]
    return edit_of([AddPath(path), *rides], words, notes, path=path.id)


def _facing_of(layer: Layer) -> Facing:
    """Return the facing a layer keeps on another path: angles at nodes are the old one's."""
    return replace(layer.ride.facing, angles=()) if layer.ride else Facing("along")


def summary(take: Take, found: Smoothed) -> str:
    """Say in a sentence what smoothing came to."""
    return (
        f"{len(take.times)} samples became {len(found.run.nodes)} nodes and {len(found.pegs)} pegs,"
        f" at most {found.deviation:.1f} px off, {found.rms:.1f} px as a rule."
    )


def smooth_again(
    scene: Scene, path_id: str, text: str, values: Mapping[str, Any], *, keep_pegs: bool
) -> Edit:
    """Smooth a take anew from its raw ``text``; the pegs of its riders are made anew, unless they
    are kept.
    """
    path, drawn = drawn_path(scene, path_id)
    drawn = replace(drawn, **values)
    found = smoothed(text, drawn, scene.fps)
    there = {node.id for node in found.run.nodes}
    steps: list[Command] = []
    for rider in scene.riders_of(path_id):
        assert rider.ride is not None  # noqa: S101 - it is a rider
        if not keep_pegs:
            steps.append(set_ride(rider.id, pegs=found.pegs))
        angles = tuple(angle for angle in rider.ride.facing.angles if angle.node in there)
        if angles != rider.ride.facing.angles:
            steps.append(set_ride(rider.id, facing=replace(rider.ride.facing, angles=angles)))
    steps.append(set_path(path_id, drawn=drawn, subpaths=(run_of(found, drawn),)))
    return edit_of(steps, f"Smooth {path}", [_cost(found)])


def drawn_path(scene: Scene, path_id: str) -> tuple[str, Provenance]:
    """Return the name of a path that comes from a take, and how it was smoothed.

    Errors: EditRefused: it does not, or it is locked.
    """
    path = scene.path(path_id)
    if path.drawn is None:
        raise EditRefused(
            f"{path.name} was not drawn as a take; there is nothing to smooth it from."
        )
    if held := path.held("smooth it"):
        raise EditRefused(held)
    return path.name, path.drawn


def _cost(found: Smoothed) -> str:
    worst = f"farthest at {found.worst[0]:.0f}, {found.worst[1]:.0f}"
    return (
        f"{len(found.run.nodes)} nodes, at most {found.deviation:.2f} px off ({worst}),"
        f" {found.rms:.2f} px as a rule; {len(found.pegs)} pegs, at most {found.late:.1f} frames"
        " off."
    )
