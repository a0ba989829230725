"""The riders that stand for a text whose letters ride by themselves: layers of a part each, which
are in no document.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from coaster.documents import swapped
from coaster.geometry.bezier import Floats
from coaster.geometry.path import Path
from coaster.motion.distance import Way
from coaster.motion.keys import Keys
from coaster.motion.keys import later as moved_on
from coaster.motion.keys import number as value_of
from coaster.motion.letters import Letters, Spread
from coaster.motion.ride import Ride
from coaster.render import texts
from coaster.render.faces import faces_of_parts
from coaster.render.later import within_time
from coaster.render.outlines import Faces
from coaster.scene.contents import TextPart, as_text
from coaster.scene.document import Layer
from coaster.scene.properties import PROPERTIES, Track


@lru_cache(maxsize=64)
def riders_of(layer: Layer, ride: Ride, path: Path) -> tuple[Layer, ...]:
    """Return a rider for each part of a text."""
    text, way = as_text(layer.content), Way(path, ride)
    assert text is not None  # noqa: S101 - asked before
    places = _places(layer, ride, way, text.tracking)
    # Set wider, what is broken may have more lines: these stay as they are.
    fixed = ride.letters is not None and ride.letters.by == "line" and text.wrap is not None
    # Between two keys of the tracking a part moves as evenly as it changes.
    spaced = [
        _places(layer, ride, way, value_of(key))
        for key in (() if fixed else layer.keys_of("tracking"))
    ]
    like = _as_part(layer)
    return tuple(
        _part(like, ride, number, place, [each[number] for each in spaced])
        for number, place in enumerate(places)
    )


@dataclass(frozen=True, eq=False)
class Abreast:
    """Parts of a text that all do what one rider does at once, ``like`` which each is: what each
    looks like, and how far ``ahead`` each is, percent of the path (k,).
    """

    like: Layer
    faces: Faces
    ahead: Floats


def abreast_of(layer: Layer, ride: Ride, path: Path) -> Abreast | None:
    """Return the parts of a text as one; None where there is none, or they are not alike but for
    their places.
    """
    letters, text = ride.letters, as_text(layer.content)
    assert letters is not None  # noqa: S101 - asked before
    assert text is not None  # noqa: S101 - asked before
    if letters.later or layer.keys or layer.accents:
        return None
    places = _places(layer, ride, Way(path, ride), text.tracking)
    if not places:
        return None
    like = swapped(_as_part(layer), ride=swapped(ride, letters=None, copies=None))
    ahead = [_offset(ride, behind) - ride.offset for behind in places]
    return Abreast(like, faces_of_parts(text, letters.by, len(places)), np.array(ahead))


def _as_part(layer: Layer) -> Layer:
    """Return a text as its parts are: each turns about its middle, and all are masked together."""
    anchor = 0.5, layer.transform.anchor[1]
    return swapped(layer, transform=swapped(layer.transform, anchor=anchor), mask=None)


def _places(layer: Layer, ride: Ride, way: Way, tracking: float) -> list[float]:
    """Return how far ahead of the text's anchor each of its parts is, percent of the path."""
    letters, text = ride.letters, as_text(layer.content)
    assert letters is not None  # noqa: S101 - asked before
    assert text is not None  # noqa: S101 - asked before
    text = swapped(text, tracking=tracking)
    parts = texts.parts_of(text, letters.by)
    middle = layer.transform.anchor[0] * texts.set_text(text).width
    percent = 100.0 / max(way.length, 1e-9) * _squeezed(letters, layer, parts, way)
    factor = _sense(way, ride) * percent
    return [factor * (part.left + part.width / 2 - middle) for part in parts]


def _part(layer: Layer, ride: Ride, number: int, behind: float, spaced: list[float]) -> Layer:
    """Return the rider for one part, which is so far ahead of the text's anchor, percent, and at
    each key of the tracking so far (``spaced``).
    """
    text = as_text(layer.content)
    assert ride.letters is not None  # noqa: S101 - asked before
    assert text is not None  # noqa: S101 - asked before
    by = ride.letters.by
    later = within_time(layer, ride, ride.letters.later * number)
    # They are in no document, and there may be hundreds: nothing of them is checked again.
    riding = swapped(ride, offset=_offset(ride, behind), letters=None, copies=None)
    if later:
        moved = (swapped(peg, time=peg.time + later) for peg in ride.pegs)
        riding = swapped(riding, pegs=tuple(moved))
    content = TextPart.of(text, by, number, _spread(layer, behind, spaced, later))
    # A letter by itself looks the same, however far the next one is.
    unlike = () if spaced and by != "letter" else ("tracking",)
    tracks = (_moved(each, behind) for each in layer.keys if each.property not in unlike)
    timed = tuple(swapped(track, keys=moved_on(track.keys, later)) for track in tracks)
    shown = layer.shown and (layer.shown[0] + later, layer.shown[1] + later)
    one = swapped(layer, content=content, ride=riding, keys=timed, shown=shown)
    return one.with_accents_later(later).beside(number + 1)


def _offset(ride: Ride, behind: float) -> float:
    return PROPERTIES["shift"].within(ride.offset + behind)


def _moved(track: Track, behind: float) -> Track:
    """Return a text's keys as a part has them, which is so far ahead, percent of the path."""
    if track.property != "shift":
        return track
    places = [value_of(key) + behind for key in track.keys]
    return swapped(track, keys=_with_values(track.keys, places))


def _spread(layer: Layer, behind: float, spaced: list[float], later: float) -> Spread | None:
    """Return how a part comes to lie farther ahead than it is set: as its text grows or, at the
    keys of its tracking, is ``spaced`` wider.
    """
    standing = {"scale": layer.transform.scale[0], "size": layer.standing("size")}
    grown = []
    for name, usual in standing.items():
        keys = layer.keys_of(name)
        if keys:
            factors = [value_of(key) / (float(usual or 1.0) or 1.0) for key in keys]
            grown.append(_with_values(keys, factors))
    tracking = layer.keys_of("tracking") if spaced else ()
    added = _with_values(tracking, [each - behind for each in spaced])
    return Spread(behind, added, tuple(grown)).later(later) if grown or added else None


def _with_values(keys: Keys, values: Sequence[float]) -> Keys:
    return tuple(swapped(key, value=value) for key, value in zip(keys, values, strict=True))


def _sense(way: Way, ride: Ride) -> float:
    """Return 1 where a text reads on along its path, -1 where it reads back."""
    first, last = (way.distance(ride.pegs[i].place) for i in (0, -1))
    back = (last < first) != (ride.facing.mode == "reversed")
    return -1.0 if back != ride.facing.flip_x else 1.0


def _squeezed(letters: Letters, layer: Layer, parts: tuple[texts.Part, ...], way: Way) -> float:
    """Return how many px of the path a px of the text is, while it has its standing size."""
    scale = abs(layer.transform.scale[0])
    if not letters.squeeze or not parts:
        return scale
    long = max(part.left + part.width for part in parts) - min(part.left for part in parts)
    return scale * min(1.0, way.length / max(long * scale, 1e-9))
