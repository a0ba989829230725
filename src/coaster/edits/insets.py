"""Scenes in scenes: one shown as a layer, a group made a scene of its own, and back."""

from dataclasses import replace
from fractions import Fraction

import numpy as np

from coaster.commands import applied
from coaster.commands.base import Command
from coaster.commands.clock import clock_commands
from coaster.commands.fields import set_layer, set_path
from coaster.commands.layers import MoveLayer
from coaster.commands.paths import AddPath, RemovePath
from coaster.edits.edit import Edit, edit_of
from coaster.edits.extents import boxes_of
from coaster.edits.follows import check_leaves
from coaster.edits.imports import add_picture
from coaster.edits.layers import delete_layers
from coaster.edits.pasting import Taken, left_behind, paste
from coaster.errors import EditRefused, FormatError
from coaster.geometry.path import Vec2
from coaster.motion.rate import Rate
from coaster.scene import tree
from coaster.scene.contents import Group, Inset, Shown, as_kind
from coaster.scene.document import LONGEST, Beside, Layer, Scene, Transform
from coaster.scene.footage import FrameTimes

CLOSE = 1e-9


def inset_of(scene_id: str, shown: Shown) -> Inset:
    """Return the content that shows a scene, all of it again and again."""
    facts = Inset(scene_id, 1.0, 1.0, FrameTimes(1, ((1, 1),)))
    return facts.showing(shown)


def show_scene(scene: Scene, beside: Beside, at: Vec2 | None = None) -> Edit:
    """Add another scene as a layer at a place, or in the middle, fitted to the frame; what lasts
    longer than this scene is not cut, and that is said.
    """
    content, notes = inset_of(beside.id, beside.scene), list[str]()
    seconds = beside.scene.seconds
    if seconds > scene.seconds + 1 / scene.fps:
        notes.append(
            f"{beside.name} lasts {seconds:.3g} s, this scene {scene.seconds:.3g} s; what comes"
            " after that is not seen."
        )
    added = add_picture(scene, content, beside.name, beside.name, notes, at)
    return replace(added, words=f"Show {beside.name}")


def scene_of_group(scene: Scene, layer_id: str, frame: float) -> Scene:
    """Return what a group holds as a scene of its own, as large and as long as this one, without a
    background; with the paths that its layers use.

    Errors: EditRefused: it is no group, or holds nothing.
    """
    group = scene.layer(layer_id)
    pivot = as_kind(group.content, Group, group.name).pivot
    members = [member.id for member in tree.members(scene.layers, layer_id)]
    if not members:
        raise EditRefused(f"{group.name} holds nothing to make a scene of.")
    # At rest the px of a group are those of the scene: so they are in a scene of its own.
    resting = Layer(group.id, group.name, group.content, Transform(pivot))
    plain = scene.with_layer(resting)
    plain = applied(plain, [MoveLayer(group.id, None, 0)]) if group.parent else plain
    bare = replace(scene, layers=(), paths=(), background=None)
    made = applied(bare, paste(bare, Taken(plain, tuple(members)), frame).commands)
    return made.with_scenes(scene.scenes)


def group_to_scene(scene: Scene, layer_id: str, beside: Beside, frame: float) -> Edit:
    """Let a group's place be taken by the scene that was made of it: what it does, and what depends
    on it, stays.
    """
    group = scene.layer(layer_id)
    pivot = as_kind(group.content, Group, group.name).pivot
    members = [member.id for member in tree.members(scene.layers, layer_id)]
    steps: list[Command] = list(delete_layers(scene, members, frame).commands)
    after = applied(scene, steps)
    for path in after.paths:
        if path.parent == layer_id:
            used = bool(after.users_of(path.id))
            steps.append(set_path(path.id, parent=group.parent) if used else RemovePath(path.id))
    content = inset_of(beside.id, beside.scene)
    anchor = pivot[0] / content.width, pivot[1] / content.height
    transform = replace(group.transform, anchor=anchor)
    steps.append(set_layer(layer_id, content=content, transform=transform, isolated=False))
    notes = [f"{beside.name} is a scene of this project now; Open on its card leads there."]
    notes += left_behind(Taken(scene, tuple(members)))
    if _sticks_out(beside.scene, frame):
        notes.append("What sticks out of the frame is cut there; make that scene larger to see it.")
    return edit_of(steps, f"{group.name} as a scene of its own", notes, layer=layer_id)


def _sticks_out(scene: Scene, frame: float) -> bool:
    boxes = list(boxes_of(scene, [x.id for x in tree.members(scene.layers, None)], frame).values())
    if not boxes:
        return False
    low, high = np.min(boxes, axis=0)[:2], np.max(boxes, axis=0)[2:]
    return bool(np.any(low < -0.5) or high[0] > scene.width + 0.5 or high[1] > scene.height + 0.5)


def scene_to_group(scene: Scene, layer_id: str, frame: float) -> Edit:
    """Let a layer that shows a scene become a group of that one's layers, at the speed at which it
    plays; the scene itself stays as it is.

    Errors: EditRefused: it shows none, one that is not here, or plays it in a way that layers
            cannot.
    """
    layer = scene.layer(layer_id)
    inset = as_kind(layer.content, Inset, layer.name)
    check_leaves(layer)
    taken = _layers_of(scene, layer, inset)
    across, down = layer.transform.anchor
    pivot = across * inset.width, down * inset.height
    own = replace(layer.transform, anchor=Transform().anchor)
    grouped = set_layer(layer_id, content=Group(pivot), transform=own, isolated=True)
    now = applied(scene, [grouped])
    # Pasted where they are in the frame, and then taken in: so nothing is seen to move.
    resting = replace(now.layer(layer_id), transform=Transform(pivot), ride=None, keys=())
    there = now.with_layer(resting)
    pasted = paste(there, taken, frame, inside=layer_id, share=False)
    paths = [each.path for each in pasted.commands if isinstance(each, AddPath)]
    going = (set_path(path.id, parent=layer_id) for path in paths if path.parent is None)
    steps = [grouped, *pasted.commands, *going]
    words, notes = f"{layer.name} as a group", _said_of_group(taken.source)
    return edit_of(steps, words, notes, layer=layer_id)


def _layers_of(scene: Scene, layer: Layer, inset: Inset) -> Taken:
    """Return the layers of the scene that a layer shows, as fast as it is played.

    Errors: EditRefused: as ``scene_to_group``.
    """
    shown = scene.shown_by(layer)
    if shown is None:
        raise EditRefused(f"The scene that {layer.name} shows is not here; there is nothing in it.")
    if layer.track("speed") or inset.speed <= 0 or abs(inset.starts) > CLOSE or inset.begin > 0:
        raise EditRefused(
            f"{layer.name} is not simply played from its start at 0 s; as a group it could not be."
            " Set Starts and From to 0 and its speed above 0, without keys, first."
        )
    source = _at_speed(shown, inset.speed)
    ids = tuple(member.id for member in tree.members(source.layers, None))
    if not ids:
        raise EditRefused(f"{layer.name} shows an empty scene; there is nothing to be grouped.")
    return Taken(source, ids)


def _said_of_group(shown: Scene) -> list[str]:
    notes = ["Nothing is cut at its frame any more, and it is played once."]
    if shown.background is not None:
        notes.append("Its background stayed behind.")
    return notes


def _at_speed(shown: Scene, speed: float) -> Scene:
    """Return a scene whose frames come so many times as fast, told at its rate."""
    if abs(speed - 1) < CLOSE:
        return shown
    try:
        fast = Fraction(shown.rate.fraction / Fraction(speed).limit_denominator(1000))
        rate = Rate(fast.numerator, fast.denominator)
    except (FormatError, ValueError) as error:
        raise EditRefused(
            f"At {speed * 100:g} % it cannot be a group; set a speed nearer to 100 % first."
        ) from error
    length = min(max(round(shown.length / speed), 1), LONGEST)
    slowed = applied(shown, clock_commands(shown, rate, length))
    return replace(slowed, rate=shown.rate)
