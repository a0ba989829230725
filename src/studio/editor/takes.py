"""Takes in the studio: kept raw in the project, made paths, and shown beside what was made
of them.
"""

import json
import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np
from django.contrib.auth.models import AnonymousUser, User

from coaster.edits.edit import Edit
from coaster.edits.takes import NewTake, add_take, run_of, smoothed, take_of
from coaster.errors import CoreError, EditRefused
from coaster.formats import takes as files
from coaster.geometry.path import FURTHEST, SEEN_FROM, Path, Provenance, SeenFrom
from coaster.motion import takes
from coaster.motion.distance import Way
from coaster.motion.ride import Ride
from coaster.motion.takes import Take
from coaster.motion.travel import evaluate
from coaster.scene.document import Scene as Document
from studio.editor import services
from studio.editor.services import Edited, StaleRevision
from studio.projects.models import RawTake, Scene
from studio.projects.querysets import Person
from studio.projects.services import keep_take

Asker = User | AnonymousUser
MOST_POSTED = 12_000_000
IN_THE_BIN = "What was drawn is in the bin, from where it is put back as a scene of its own."
CHANGED_MEANWHILE = (
    "The layer was changed in another window meanwhile, so the take is a path of its own; drop the"
    " layer on it to let it ride."
)


def raw(user: Asker, file: str) -> str:
    """Return the CSV of a raw take.

    Errors: EditRefused: there is none of this name in the person's projects.
    """
    found = RawTake.objects.visible_to(user).filter(file_name=file).first()
    if found is None or not found.path.is_file():
        raise EditRefused("The raw take is not in this project; the path stays as it is.")
    return found.path.read_text()


def posted_take(text: str, slow: float) -> Take:
    """Read recorded samples, JSON rows of milliseconds, x and y, while the scene ran ``slow`` times
    as fast.

    Errors: EditRefused in one sentence.
    """
    # Before it is parsed: reading it is what would take the time and the memory.
    if len(text) > MOST_POSTED:
        raise EditRefused("The take is too long to be kept; record it in parts.")
    try:
        rows = json.loads(text)
        # At half the speed a movement of two seconds is one of one second in the scene.
        times = [float(row[0]) / 1000 * slow for row in rows]
        places = [[float(row[1]), float(row[2])] for row in rows]
        pressure = [float(row[3]) if len(row) > 3 else 0.0 for row in rows]
    except (ValueError, TypeError, LookupError, RecursionError, OverflowError) as error:
        raise EditRefused(
            "The recording is not a list of times and places; nothing was kept."
        ) from error
    if not times:
        raise EditRefused("A take needs two samples or more; press, draw, and let go.")
    return takes.checked_take(times, places, pressure)


def plane_of(posted: Mapping[str, str]) -> tuple[SeenFrom, float]:
    """Return from where a scene was seen as it was drawn on, and in which plane that lies.

    Errors: EditRefused: neither is known.
    """
    side = next((each for each in SEEN_FROM if each == posted.get("seen_from", "front")), None)
    try:
        level = float(posted.get("level", "0"))
    except ValueError:
        level = math.nan
    if side is None or not abs(level) <= FURTHEST:
        raise EditRefused("The recording does not say in which plane it was drawn.")
    return side, level


def keep(
    user: Person, scene: Scene, text: str, name: str, begun: NewTake, *, base: int, key: str = ""
) -> Edited:
    """Keep a take raw in the project, and make a path of it."""
    # First of all: whatever becomes of the edit, what the hand has drawn is not lost.
    kept = keep_take(user, scene.project, text, name, text.count("\n") - 1)
    begun = replace(begun, file=kept.file_name)
    words = "Record a take" if begun.name == "Take" else f"Bring in {begun.name}"
    try:
        return services.edit(
            user, scene.pk, lambda now: add_take(now, text, begun, words), base=base, key=key
        )
    except StaleRevision:

        def alone(now: Document) -> Edit:
            made = add_take(now, text, replace(begun, layer=""), words)
            return replace(made, notes=(CHANGED_MEANWHILE, *made.notes))

        # A path of its own is in nobody's way, whatever was done to the scene meanwhile.
        return services.edit(user, scene.pk, alone, base=scene.revision, key=key)
    except CoreError as error:
        raise EditRefused(f"{error} {IN_THE_BIN}") from error


def panel(user: Asker, path: Path, fps: float) -> dict[str, Any]:
    """The context of the card for a path that comes from a take."""
    if path.drawn is None:
        return {}
    try:
        text = raw(user, path.drawn.file)
    except EditRefused as error:
        return {"take": {"missing": str(error)}}
    take, found = take_of(text), smoothed(text, path.drawn, fps)
    return {
        "take": {
            "drawn": path.drawn,
            "raw": take,
            "found": found,
            "pauses": len(takes.pauses(take)),
            # Smoothed again it is the same to the last bit, so that any edit shows.
            "edited": run_of(found, path.drawn) != path.subpaths[0] or len(path.subpaths) > 1,
            "softened": path.drawn.soften * 100,
        }
    }


def smooth_csv(text: str, drawn: Provenance, fps: float) -> str:
    """Return where the smooth ride is at the times of a raw take's samples, as CSV."""
    take, found = take_of(text), smoothed(text, drawn, fps)
    # By the same road as in the scene, so that the file says what is seen.
    way = Way(Path("take", "Take", (found.run,)), Ride("take", found.pegs))
    places = evaluate(way, drawn.start + take.times * fps, fps=fps).position
    return files.to_csv(replace(take, places=places))


def raw_svg(text: str, width: int, height: int) -> str:
    """Return a raw take as an SVG file of the frame's size: one polyline through its samples."""
    points = " ".join(f"{x:.3f},{y:.3f}" for x, y in take_of(text).places)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}" viewBox="0 0'
        f' {width} {height}"><polyline points="{points}" fill="none" stroke="#b93d18"'
        ' stroke-width="1"/></svg>\n'
    )


def raw_line(text: str, path: Path, fps: float) -> dict[str, Any]:
    """Return a raw take as path data, and the places of its farthest samples with how far they are,
    px.
    """
    take = take_of(text)
    assert path.drawn is not None  # noqa: S101 - asked only of paths that come from takes
    found = smoothed(text, path.drawn, fps)
    line = "L".join(f"{x:.1f} {y:.1f}" for x, y in take.places)
    # The farthest samples are neighbours: of forty a handful of places are left.
    far = [int(i) for i in np.argsort(-found.off)[:40]]
    marks: list[list[float]] = []
    for i in far:
        x, y = take.places[i]
        if all(np.hypot(x - mx, y - my) > 30 for mx, my, _ in marks) and len(marks) < 5:
            marks.append([float(x), float(y), float(found.off[i])])
    return {"d": f"M{line}", "worst": marks}
