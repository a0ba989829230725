"""What comes of a spot that was followed through footage: a take, or keys of a helper."""

from collections.abc import Mapping
from itertools import pairwise

import numpy as np

from coaster.commands.base import Command
from coaster.commands.layers import FRONT, AddLayer, SetKeys
from coaster.edits.edit import Edit, edit_of
from coaster.edits.layers import HELPER, new_thing
from coaster.errors import EditRefused
from coaster.formats import takes as files
from coaster.geometry import maps
from coaster.geometry.bezier import Floats
from coaster.geometry.path import Vec2
from coaster.motion.keys import MOST_KEYS, Key
from coaster.motion.takes import checked_take
from coaster.render.evaluate import Evaluation
from coaster.scene.contents import Footage, as_kind
from coaster.scene.document import Scene

Spots = Mapping[int, Vec2]
"""Where a spot is, by the frames of the file, px of the file."""


def file_place(scene: Scene, layer_id: str, frame: float, point: Vec2, size: Vec2) -> Vec2:
    """Return a place of the scene in px of the file, ``size`` px large, that a layer shows.

    Errors: EditRefused: it is no footage, or has no size at that frame.
    """
    layer = scene.layer(layer_id)
    film = as_kind(layer.content, Footage, layer.name)
    own = Evaluation(scene).motion(layer_id).map(_at(scene, frame))
    if abs(float(maps.area_factor(own))) < 1e-9:
        raise EditRefused(f"{layer.name} has no size here, so nothing of it can be followed.")
    x, y = maps.apply(maps.inverse(own), point)
    return float(x) * size[0] / film.width, float(y) * size[1] / film.height


def file_frame(scene: Scene, layer_id: str, frame: float) -> int:
    """Return the frame of its file that a layer shows.

    Errors: EditRefused: it is no footage, or shows nothing then.
    """
    layer = scene.layer(layer_id)
    as_kind(layer.content, Footage, layer.name)
    shown = Evaluation(scene).motion(layer_id).face(_at(scene, frame)).picture
    if shown is None:
        raise EditRefused(f"{layer.name} shows nothing at this moment; go to where it plays.")
    return shown[1]


def _at(scene: Scene, frame: float) -> int:
    return min(max(round(frame), 0), scene.length)


def in_scene(scene: Scene, layer_id: str, spots: Spots, size: Vec2) -> tuple[Floats, Floats]:
    """Return the frames of the scene at which followed spots are seen, and where, px of the scene:
    while the footage is played for the first time since one of them.

    Shapes: (n,), (n, 2).
    Errors: EditRefused: in fewer than two frames.
    """
    layer = scene.layer(layer_id)
    film = as_kind(layer.content, Footage, layer.name)
    motion = Evaluation(scene).motion(layer_id)
    found = list[tuple[int, int]]()
    for frame in range(scene.length):
        shown = motion.face(frame).picture
        # It may have been hidden for a while.
        if shown is not None and shown[1] in spots:
            found.append((frame, shown[1]))
    found = found[: _once(found)]
    if len(found) < 2:
        raise EditRefused("The spot is seen in fewer than two frames of the scene; follow it on.")
    factors = np.array([film.width / size[0], film.height / size[1]])
    places = [
        maps.apply(motion.map(frame), np.array(spots[index]) * factors) for frame, index in found
    ]
    return np.array([float(frame) for frame, _ in found]), np.array(places)


def _once(found: list[tuple[int, int]]) -> int:
    """Return how many of the frames show the file for the first time, before it begins again or
    turns round, and not longer than its last frame is new.
    """
    way, count = 0, 1
    for (_, before), (_, after) in pairwise(found):
        step = int(np.sign(after - before))
        if step and way and step != way:
            break
        way = way or step
        count += 1
    last = found[count - 1][1] if found else 0
    while count > 1 and found[count - 2][1] == last:
        count -= 1
    return count


def as_take(scene: Scene, layer_id: str, spots: Spots, size: Vec2) -> tuple[str, float]:
    """Return a raw take of the spot, as CSV, and the frame it begins at."""
    frames, places = in_scene(scene, layer_id, spots, size)
    take = checked_take(((frames - frames[0]) / scene.fps).tolist(), places.tolist())
    return files.to_csv(take), float(frames[0])


def as_helper(scene: Scene, layer_id: str, spots: Spots, size: Vec2) -> Edit:
    """Add a helper that goes with the spot by keys of x and y, one a frame: to carry others, or to
    be looked at.
    """
    frames, places = in_scene(scene, layer_id, spots, size)
    name = scene.layer(layer_id).name
    if len(frames) > MOST_KEYS:
        raise EditRefused(f"That would be more than {MOST_KEYS} keys; follow fewer frames.")
    x, y = places[0]
    layer = new_thing(scene, HELPER, (float(x), float(y)), f"Spot on {name}")
    steps: list[Command] = [AddLayer(layer, FRONT)]
    for axis, values in zip("xy", np.round(places.T, 3), strict=True):
        pairs = zip(frames.tolist(), values.tolist(), strict=True)
        keys = tuple(Key(f"k{int(frame)}", frame, value) for frame, value in pairs)
        steps.append(SetKeys(layer.id, axis, keys))
    notes = [*_gaps(scene, frames), "Others go with it: choose it under Goes with on their card."]
    return edit_of(steps, f"A helper on the spot of {name}", notes, layer=layer.id)


def _gaps(scene: Scene, frames: Floats) -> list[str]:
    """Say where a spot was not followed for a while."""
    wide = np.flatnonzero(np.diff(frames) > 1)
    if not len(wide):
        return []
    first = wide[0]
    begin, end = (float(frames[first + i]) / scene.fps for i in (0, 1))
    more = f", and {len(wide) - 1} times more" if len(wide) > 1 else ""
    return [f"Between {begin:.2f} and {end:.2f} s it was not followed{more}; it goes straight on."]
