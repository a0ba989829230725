"""Footage, and what else is played: brought in, cut, sped up, and let come round."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from coaster.commands.fields import set_layer
from coaster.edits.edit import Edit, edit_of
from coaster.edits.imports import add_picture
from coaster.edits.keys import Moment
from coaster.edits.layers import look
from coaster.errors import EditRefused
from coaster.geometry.path import Vec2
from coaster.motion.playing import CLOSE_S
from coaster.scene.contents import Footage, Played, as_kind, as_played
from coaster.scene.document import Layer, Scene
from coaster.scene.footage import FrameTimes


def add_footage(
    scene: Scene,
    footage: Footage,
    title: str,
    file: str,
    notes: Sequence[str],
    at: Vec2 | None = None,
) -> Edit:
    """Add footage at a place, or in the middle, fitted to the frame as a picture is; what lasts
    longer than the scene is not cut, and that is said.
    """
    said, seconds = list(notes), footage.times.seconds
    if seconds > scene.seconds + 1 / scene.fps:
        said.append(
            f"{file} lasts {seconds:.3g} s, the scene {scene.seconds:.3g} s; what comes after that"
            " is not seen."
        )
    return add_picture(scene, footage, title, file, said, at)


def play(
    scene: Scene,
    layer_id: str,
    values: Mapping[str, Any],
    moment: Moment,
    *,
    lasts: float | None = None,
    fade: float | None = None,
) -> Edit:
    """Set fields of how footage is played; ``lasts`` is how many seconds of the scene what is
    played takes, ``fade`` how many of its frames are faded.

    Errors: EditRefused: it is no footage, or there is nothing left to be played.
    """
    layer = scene.layer(layer_id)
    now = _played(layer)
    fields = dict(values)
    notes = []
    if now.fade and ("begin" in fields or "end" in fields):
        begin, end = fields.get("begin", now.begin), fields.get("end", now.end)
        fields["fade"] = _fade_within(now, begin, now.times.seconds if end is None else end)
        notes = _said_of_fade(now, fields["fade"])
    if fade is not None:
        as_kind(now, Footage, layer.name)
        fields["fade"] = fade / now.times.fps
    if lasts is not None:
        if layer.track("speed") is not None:
            raise EditRefused(
                f"The speed of {layer.name} has keys, so it cannot last a set time. Clear them"
                " first; nothing was changed."
            )
        fields["speed"] = (-1 if now.speed < 0 else 1) * now.once / lasts
    edit = look(scene, layer_id, fields, moment)
    return edit_of(edit.commands, f"How {layer.name} is played", [*edit.notes, *notes])


def _played(layer: Layer) -> Played:
    """Errors: EditRefused: it is nothing that is played."""
    played = as_played(layer.content)
    if played is None:
        raise EditRefused(f"{layer.name} is neither footage nor a scene, so it is not played.")
    return played


def _fade_within(now: Played, begin: float, out: float) -> float:
    """Return the fade for what is played between two seconds: no longer than there is room for."""
    return min(now.fade, max(0.0, (out - begin) / 2))


def _said_of_fade(now: Played, fade: float) -> list[str]:
    frames = fade * now.times.fps
    return (
        [] if fade == now.fade else [f"Its fade is {frames:.3g} frames now, half of what is left."]
    )


def trim(
    scene: Scene, layer_id: str, *, start: float | None = None, end: float | None = None
) -> Edit:
    """Let footage begin or end at a frame of the scene: what is left stays where it is in time.

    Errors: EditRefused: its speed has keys, or it does not go on, or nothing would be left.
    """
    layer = scene.layer(layer_id)
    now = _played(layer)
    if layer.track("speed") is not None or not now.speed:
        raise EditRefused(f"{layer.name} has no even speed; type what is played of it instead.")
    rate = now.speed / scene.fps
    opening = now.cut.begin
    ends = now.starts + (now.out - opening) / abs(rate)
    by_start, by_end = (
        0.0 if to is None else (to - at) * rate for to, at in ((start, now.starts), (end, ends))
    )
    # Played backwards, what comes first is at the file's end.
    first, last = (opening, now.out) if rate > 0 else (now.out, opening)
    begin, out = (
        min(max(each, 0.0), now.times.seconds) for each in sorted((first + by_start, last + by_end))
    )
    if out - begin < 1 / now.times.fps:
        raise EditRefused(f"At least a frame of {layer.name} is left to be played.")
    came_by = (begin if rate > 0 else out) - first
    cut = _cut(now, begin, out, now.starts + came_by / rate)
    steps = [set_layer(layer_id, content=cut)]
    return edit_of(steps, f"Trim {layer.name}", _said_of_fade(now, cut.fade))


def _cut(now: Played, begin: float, out: float, starts: float) -> Played:
    """Return what is played between two seconds, from a frame of the scene on."""
    fade = _fade_within(now, begin, out)
    shorter: dict[str, Any] = {} if fade == now.fade else {"fade": fade}
    end = None if out > now.times.seconds - CLOSE_S else out
    return replace(now, begin=begin, end=end, starts=starts, **shorter)


def play_whole(scene: Scene, layer_id: str) -> Edit:
    """Play all of a file, or a scene, again."""
    layer = scene.layer(layer_id)
    whole = replace(_played(layer), begin=0.0, end=None)
    return edit_of([set_layer(layer_id, content=whole)], f"Play all of {layer.name}")


def close_gaps(scene: Scene, layer_id: str) -> Edit:
    """Let each frame be seen equally long, those before missing numbers too."""
    layer = scene.layer(layer_id)
    now = as_kind(layer.content, Footage, layer.name)
    counts, lengths = np.array(now.times.steps).T
    usual = int(np.median(np.repeat(lengths, counts)))
    even = FrameTimes(now.times.ticks, ((now.times.count, usual),))
    # Where it was cut may lie beyond the end that it has then.
    closed = replace(now, times=even, begin=0.0, end=None, fade=0.0)
    recut = (now.begin, now.end, now.fade) != (0.0, None, 0.0)
    notes = ["It is played from its first to its last frame again."] if recut else []
    words = f"Frames of {layer.name}, equally long"
    return edit_of([set_layer(layer_id, content=closed)], words, notes)
