"""A scene of a project as rows or a program fill it in; pictures go by the names they came with."""

from collections.abc import Mapping
from functools import partial
from pathlib import Path as File

from coaster.errors import FormatError
from coaster.formats import rows
from coaster.scene.contents import Picture
from coaster.scene.document import Scene as SceneValue
from coaster.series import Filled, filled_rows, filled_with
from studio.projects.models import Scene

MOST = 200
"""Renders that are begun at once."""


def filled(scene: Scene, text: str) -> list[Filled]:
    """Return the scene as each row of a table fills it in.

    Errors: FormatError: with the faults of all rows.
    """
    found = rows.read(text)
    if len(found) > MOST:
        raise FormatError(f"There are {len(found)} rows; {MOST} can be rendered at once.")
    pattern = "{name}" if "name" in found[0].values else "{row}"
    return filled_rows(scene.value(), found, File(pattern), partial(_picture, scene))


def filled_once(scene: Scene, values: Mapping[str, str]) -> SceneValue:
    """Return the scene as values by the names of its fields fill it in.

    Errors: EditRefused, FormatError: it cannot be filled so.
    """
    return filled_with(scene.value(), values, partial(_picture, scene))


def _picture(scene: Scene, name: str) -> Picture:
    there = scene.project.assets.filter(deleted_at=None)
    found = there.filter(original_name=name).order_by("-pk").first()
    if found is None or not found.width:
        raise FormatError(f"There is no picture {name!r:.80} in the project; bring it in first.")
    return Picture(found.file_name, found.width, found.height)
