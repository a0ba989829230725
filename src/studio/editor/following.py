"""A spot followed through footage: a part of it at a time, and what is made of it."""

import json
from collections.abc import Mapping
from dataclasses import asdict
from pathlib import Path as File
from typing import Any

import numpy as np

from coaster.edits import following as edits
from coaster.edits.edit import Edit
from coaster.edits.takes import NewTake
from coaster.errors import EditRefused
from coaster.media.following import Marked, Warp
from coaster.media.readers import follow_on, pixel_size
from coaster.scene.contents import Footage, as_kind
from coaster.scene.document import Scene as Document
from studio.editor import services, takes
from studio.editor.services import Edited
from studio.projects.models import Scene
from studio.projects.querysets import Person
from studio.reading import apart

AT_ONCE = 24
"""Frames that are followed before it is told how far it is."""
FARTHEST = 1e5
"""Px from any footage that what is followed may be."""
NOT_SAID = "What is to be followed is not said as it has to be; drag a box round a spot again."


def _film(value: Document, layer_id: str, scene: Scene) -> tuple[Footage, File]:
    layer = value.layer(layer_id)
    film = as_kind(layer.content, Footage, layer.name)
    return film, scene.project.folder / film.asset


def _numbers(posted: Mapping[str, str], *names: str) -> list[float]:
    try:
        found = [float(posted[name]) for name in names]
    except (KeyError, ValueError) as error:
        raise EditRefused(NOT_SAID) from error
    if not np.isfinite(found).all() or max(map(abs, found)) > 1e6:
        raise EditRefused(NOT_SAID)
    return found


def mark(scene: Scene, posted: Mapping[str, str]) -> dict[str, Any]:
    """Return a box on the stage as a box of the footage: ``marked``, and the ``size`` of that, px.

    Errors: EditRefused, MediaError: it is no footage, or shows nothing there.
    """
    value, layer_id = scene.value(), posted.get("layer", "")
    _, file = _film(value, layer_id, scene)
    left, top, right, bottom, frame = _numbers(posted, "left", "top", "right", "bottom", "frame")
    size = apart(pixel_size, file)
    corners = [(left, top), (right, top), (right, bottom), (left, bottom)]
    seen = np.array([edits.file_place(value, layer_id, frame, each, size) for each in corners])
    # Upright in the file, whichever way the layer is turned.
    x, y = seen.mean(axis=0)
    wide, high = (np.hypot(*(seen[i] - seen[i - 1])) for i in (1, 2))
    marked = Marked(edits.file_frame(value, layer_id, frame), float(x), float(y), wide, high)
    return {"marked": asdict(marked), "size": size}


def follow_part(scene: Scene, posted: Mapping[str, str]) -> dict[str, Any]:
    """Follow what is ``marked`` on from the frame ``after``; return the spots, and with what to go
    on.

    Errors: EditRefused, MediaError: it cannot be followed.
    """
    value = scene.value()
    film, file = _film(value, posted.get("layer", ""), scene)
    marked, warp = _told(posted, film.times.count)
    after, step = (int(each) for each in _numbers(posted, "after", "step"))
    found = apart(follow_on, file, marked, warp, after, 1 if step > 0 else -1, AT_ONCE)
    last = found.spots[-1].index if found.spots else after
    ended = found.lost or last in (0, film.times.count - 1) or not found.spots
    return {
        "spots": [[spot.index, spot.x, spot.y, spot.sure] for spot in found.spots],
        "marked": asdict(found.marked),
        "warp": found.warp,
        "lost": found.lost,
        "ended": ended,
    }


def _told(posted: Mapping[str, str], count: int) -> tuple[Marked, Warp | None]:
    """Return what is followed, as it was sent to the window, and comes back from there.

    Errors: EditRefused: it is nothing that was sent.
    """
    try:
        told = json.loads(posted["marked"])
        box = [float(told[name]) for name in ("index", "x", "y", "width", "height")]
        way = json.loads(posted.get("warp", "null"))
        a, b, c, d, x, y = (0.0,) * 6 if way is None else (float(each) for each in way)
    except (KeyError, TypeError, ValueError, OverflowError, RecursionError) as error:
        raise EditRefused(NOT_SAID) from error
    numbers = np.array([*box, a, b, c, d, x, y])
    known = box[0] == round(box[0]) and 0 <= box[0] < count if np.isfinite(box[0]) else False
    if not known or not np.isfinite(numbers).all() or np.abs(numbers).max() > FARTHEST:
        raise EditRefused(NOT_SAID)
    return Marked(int(box[0]), *box[1:]), None if way is None else (a, b, c, d, x, y)


def make(user: Person, scene: Scene, posted: Mapping[str, str], *, base: int, key: str) -> Edited:
    """Make a take, which becomes a path, or a helper with keys of the spots that were found.

    Errors: EditRefused: they are not told as they have to be, or are too few; StaleRevision.
    """
    value, layer_id = scene.value(), posted.get("layer", "")
    _, file = _film(value, layer_id, scene)
    size = apart(pixel_size, file)
    try:
        rows = json.loads(posted["spots"])
        spots = {int(index): (float(x), float(y)) for index, x, y in rows}
    except (KeyError, TypeError, ValueError, OverflowError, RecursionError) as error:
        raise EditRefused(NOT_SAID) from error
    if not spots or not np.isfinite(list(spots.values())).all():
        raise EditRefused(NOT_SAID)
    if posted.get("make") == "helper":

        def plan(now: Document) -> Edit:
            return edits.as_helper(now, layer_id, spots, size)

        return services.edit(user, scene.pk, plan, base=base, key=key)
    text, start = edits.as_take(value, layer_id, spots, size)
    name = f"Spot on {value.layer(layer_id).name}"[:80]
    begun = NewTake("", start, "", name)
    return takes.keep(user, scene, text, name, begun, base=base, key=key)
