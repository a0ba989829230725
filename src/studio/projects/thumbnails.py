"""Small pictures of scenes, made once for each revision and kept."""

from pathlib import Path as File

from coaster.export import miniatures
from coaster.formats.bundle import noun_of
from studio.projects.models import Scene, scene_folder
from studio.projects.services import write_whole
from studio.reading import apart

DRAWN = {"still": miniatures.still, "moving": miniatures.moving}


def scene_file(scene: Scene, kind: str) -> File:
    """Return the file of a scene's ``still`` or ``moving`` picture as it is now.

    Errors: RenderError, MediaError: it cannot be drawn; FormatError: it takes too long.
    """
    folder = scene_folder("thumbnails", scene.pk)
    file = folder / f"{scene.look}-{kind}.webp"
    if not file.exists():
        write_whole(file, _drawn(scene, kind))
        for old in folder.glob(f"*-{kind}.webp"):
            if old != file:
                old.unlink(missing_ok=True)
    return file


def _drawn(scene: Scene, kind: str) -> bytes:
    value, folder = scene.value(), scene.project.folder
    # What decodes footage must not take the server with it; all else is drawn sooner than sent.
    moves = any(noun_of(name) == "footage" for name in value.assets())
    return apart(DRAWN[kind], value, folder) if moves else DRAWN[kind](value, folder)
