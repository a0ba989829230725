"""Takes in the studio: kept raw in the project, made paths, and smoothed again from what was kept."""

import json
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import numpy as np
from django.contrib.auth.models import AnonymousUser, User

from coaster.commands import Command
from coaster.commands.paths import AddPath
from coaster.commands.rides import AttachRide
from coaster.errors import EditRefused
from coaster.formats import takes as files
from coaster.geometry.path import Drawn, Path
from coaster.ids import fresh_id, fresh_name
from coaster.motion import takes
from coaster.motion.ride import Facing, Ride
from coaster.motion.takes import Smoothed, Smoothing, Take
from coaster.motion.travel import Way, evaluate
from coaster.scene.document import Line
from coaster.scene.document import Scene as Document
from studio.projects.models import RawTake

Asker = User | AnonymousUser
MOST_POSTED = 12_000_000


@lru_cache(maxsize=32)
def _read(text: str) -> Take:
    return files.read(text).take()


@lru_cache(maxsize=256)
def _smoothed(text: str, how: Smoothing, fps: float, start: float) -> Smoothed:
    return takes.smooth(_read(text), how, fps=fps, start=start)


def raw(user: Asker, file: str) -> str:
    """Return the CSV of a raw take.

    Errors: EditRefused: there is none of this name in the person's projects.
    """
    found = RawTake.objects.visible_to(user).filter(file_name=file).first()
    if found is None or not found.path.is_file():
        raise EditRefused("The raw take is not in this project; the path stays as it is.")
    return found.path.read_text()


def smoothing(drawn: Drawn) -> Smoothing:
    return Smoothing(drawn.tolerance, drawn.steady, drawn.corner, drawn.soften, drawn.close)


def smoothed(text: str, drawn: Drawn, fps: float) -> Smoothed:
    """Return a raw take smoothed as a path says; what was asked lately is remembered."""
    return _smoothed(text, smoothing(drawn), fps, drawn.start)


def posted(text: str, slow: float) -> Take:
    """Read recorded samples, JSON rows of milliseconds, x and y, while the scene ran ``slow`` times as fast.

    Errors: EditRefused in one sentence.
    """
    if len(text) > MOST_POSTED:
        raise EditRefused("The take is too long to be kept; record it in parts.")
    try:
        rows = json.loads(text)
        times = [float(row[0]) / 1000 * slow for row in rows]
        places = [[float(row[1]), float(row[2])] for row in rows]
        pressure = [float(row[3]) if len(row) > 3 else 0.0 for row in rows]
    except (ValueError, TypeError, IndexError, KeyError, RecursionError) as error:
        raise EditRefused("The recording is no list of times and places; nothing was kept.") from error
    if not times:
        raise EditRefused("A take needs two samples or more; press, draw, and let go.")
    return takes.taken(times, places, pressure)


@dataclass
class Begun:
    """What a new take is to be: its file, the frame it begins at, whose it is to be, and a name."""

    file: str
    start: float
    layer: str
    name: str


def plan(value: Document, text: str, begun: Begun, said: list[str], select: dict[str, str]) -> list[Command]:
    """Return the commands that make a take a path, ridden by a layer if one is named."""
    take = _read(text)
    drawn = Drawn(begun.file, begun.start, tolerance=take.suggested)
    found = smoothed(text, drawn, value.fps)
    name = fresh_name(begun.name[:72], {p.name for p in value.paths})
    path_id = fresh_id(name, {p.id for p in value.paths}, "path")
    select["path"] = path_id
    said += [*take.notes, figures(take, found)]
    steps: list[Command] = [AddPath(Path(path_id, name, (found.run,), drawn=drawn))]
    layer = next((x for x in value.layers if x.id == begun.layer), None)
    if layer is not None and not isinstance(layer.content, Line):
        facing = layer.ride.facing if layer.ride else Facing("along")
        facing = replace(facing, angles=())
        steps.append(AttachRide(layer.id, Ride(path_id, found.pegs, facing)))
    return steps


def figures(take: Take, found: Smoothed) -> str:
    """Say in a sentence what smoothing came to."""
    return (
        f"{len(take.times)} samples became {len(found.run.nodes)} nodes and {len(found.pegs)} pegs, "
        f"at most {found.deviation:.1f} px off, {found.rms:.1f} px as a rule."
    )


def panel(user: Asker, path: Path, fps: float) -> dict[str, Any]:
    """The context of the card for a path that comes from a take."""
    if path.drawn is None:
        return {}
    try:
        text = raw(user, path.drawn.file)
    except EditRefused as error:
        return {"take": {"missing": str(error)}}
    take, found = _read(text), smoothed(text, path.drawn, fps)
    return {
        "take": {
            "drawn": path.drawn,
            "raw": take,
            "found": found,
            "pauses": len(takes.pauses(take)),
            "edited": found.run != path.subpaths[0] or len(path.subpaths) > 1,
            "softened": path.drawn.soften * 100,
        }
    }


def smooth_csv(text: str, drawn: Drawn, fps: float) -> str:
    """Return where the smooth ride is at the times of a raw take's samples, as CSV."""
    take, found = _read(text), smoothed(text, drawn, fps)
    way = Way(Path("take", "Take", (found.run,)), Ride("take", found.pegs))
    places = evaluate(way, drawn.start + take.times * fps, fps=fps).position
    return files.to_csv(replace(take, places=places))


def raw_svg(text: str, width: int, height: int) -> str:
    """Return a raw take as an SVG file of the frame's size: one polyline through its samples."""
    points = " ".join(f"{x:.3f},{y:.3f}" for x, y in _read(text).places)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}" viewBox="0 0 {width} {height}">'
        f'<polyline points="{points}" fill="none" stroke="#b93d18" stroke-width="1"/></svg>\n'
    )


def raw_line(text: str, path: Path, fps: float) -> dict[str, Any]:
    """Return a raw take as path data, and the places of its farthest samples with how far they are, px."""
    take = _read(text)
    assert path.drawn is not None  # noqa: S101 - asked only of paths that come from takes
    found = smoothed(text, path.drawn, fps)
    line = "L".join(f"{x:.1f} {y:.1f}" for x, y in take.places)
    far = [int(i) for i in np.argsort(-found.off)[:40]]
    marks: list[list[float]] = []
    for i in far:
        x, y = take.places[i]
        if all(np.hypot(x - mx, y - my) > 30 for mx, my, _ in marks) and len(marks) < 5:
            marks.append([float(x), float(y), float(found.off[i])])
    return {"d": f"M{line}", "worst": marks}
