"""The riders that stand for a text whose letters ride by themselves: layers of a part each, which
are in no document.
"""

from dataclasses import replace
from functools import lru_cache

from coaster.geometry.path import Path, swapped
from coaster.motion.distance import Way
from coaster.motion.letters import Letters
from coaster.motion.ride import Ride
from coaster.render import texts
from coaster.render.later import within_time
from coaster.scene.contents import TextPart, as_text
from coaster.scene.document import Layer
from coaster.scene.properties import PROPERTIES, Track, in_order

GROWING = ("scale", "size")
"""What moves letters apart when it has keys; the first that has."""


@lru_cache(maxsize=64)
def riders_of(layer: Layer, ride: Ride, path: Path) -> tuple[Layer, ...]:
    """Return a rider for each part of a text."""
    letters, text, way = ride.letters, as_text(layer.content), Way(path, ride)
    assert letters is not None  # noqa: S101 - asked before
    assert text is not None  # noqa: S101 - asked before
    parts = texts.parts_of(text, letters.by)
    across, down = layer.transform.anchor
    middle = across * texts.set_text(text).width
    sense = _sense(way, ride)
    percent = 100.0 / max(way.length, 1e-9) * _squeezed(letters, layer, parts, way)
    places = (sense * percent * (part.left + part.width / 2 - middle) for part in parts)
    as_parts = replace(layer, transform=replace(layer.transform, anchor=(0.5, down)), mask=None)
    return tuple(_part(as_parts, ride, *each) for each in enumerate(places))


def _part(layer: Layer, ride: Ride, number: int, behind: float) -> Layer:
    """Return the rider for one part, which is so far ahead of the text's anchor, percent."""
    text = as_text(layer.content)
    assert ride.letters is not None  # noqa: S101 - asked before
    assert text is not None  # noqa: S101 - asked before
    later = within_time(layer, ride, ride.letters.later * number)
    moved = (swapped(peg, time=peg.time + later) for peg in ride.pegs)
    keys, offset = _keys(layer, ride, behind, later)
    # They are in no document, and there may be hundreds: nothing of them is checked again.
    pegs = tuple(moved) if later else ride.pegs
    riding = swapped(ride, pegs=pegs, offset=offset, letters=None, copies=None)
    shown = layer.shown and (layer.shown[0] + later, layer.shown[1] + later)
    content = TextPart.of(text, ride.letters.by, number)
    one = swapped(layer, content=content, ride=riding, keys=keys, shown=shown)
    return one.with_accents_later(later).beside(number + 1)


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


def _keys(layer: Layer, ride: Ride, behind: float, later: float) -> tuple[tuple[Track, ...], float]:
    """Return the keys of a part, later, with its place in the text, percent of the path, and the
    offset of its ride; as the text grows, its parts move apart.
    """
    tracks = {track.property: track for track in layer.keys if track.property != "tracking"}
    standing = {"scale": layer.transform.scale[0], "size": layer.standing("size")}
    row = PROPERTIES["shift"]
    growing = next((name for name in GROWING if name in tracks), None)
    if "shift" in tracks:
        moved = (replace(x, value=float(x.value) + behind) for x in tracks["shift"].keys)
        tracks["shift"] = Track("shift", tuple(moved))
    elif growing is not None:
        usual = float(standing[growing] or 1.0) or 1.0
        tracks["shift"] = Track(
            "shift",
            tuple(
                replace(x, value=row.within(ride.offset + behind * float(x.value) / usual))
                for x in tracks[growing].keys
            ),
        )
    timed = (
        Track(track.property, tuple(replace(x, time=x.time + later) for x in track.keys))
        for track in tracks.values()
    )
    return in_order(tuple(timed)), row.within(ride.offset + behind)
