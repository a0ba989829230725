"""A scene's history carried out again: as it was after any of its edits, and what can be had back
of one that is damaged.
"""

from collections.abc import Iterator

from coaster import commands as core_commands
from coaster.errors import CoreError, EditRefused
from coaster.scene import codec
from coaster.scene.document import Scene as Document
from studio.projects.models import Revision, Scene
from studio.projects.querysets import Person
from studio.projects.services import create_scene


def document_at(scene: Scene, number: int) -> Document:
    """Return the scene as it was at a revision, from the snapshot before it.

    Errors: Revision.DoesNotExist; CoreError: the history cannot be read.
    """
    scene.revisions.get(number=number)
    # Snapshots are rare; from the last one on, commands are carried out again.
    start = scene.revisions.filter(number__lte=number).exclude(snapshot="").latest("number")
    *_, (_, value) = _from(start, number)
    return scene.completed(value)


def _from(start: Revision, last: int) -> Iterator[tuple[int, Document]]:
    """Yield the numbers and documents of revisions from one with a snapshot on."""
    value = codec.from_json(start.snapshot)
    yield start.number, value
    following = Revision.objects.filter(
        scene=start.scene_id, number__gt=start.number, number__lte=last
    )
    for revision in following.order_by("number"):
        steps = [core_commands.from_data(data) for data in revision.commands]
        value, _ = core_commands.apply_all(value, steps)
        yield revision.number, value


def rescue(user: Person, scene: Scene) -> tuple[Scene, int]:
    """Make a scene of its own of the last state of a damaged one that its history still gives;
    return it, and after how many edits that was. The damaged one stays as it is.

    Errors: EditRefused: no state of it can be read.
    """
    for start in scene.revisions.exclude(snapshot="").order_by("-number"):
        found = _last_readable(start, scene.revision)
        if found:
            number, value = found
            name, words = f"{scene.name[:68]}, rescued", f"{scene.name} after {number} edits"
            return create_scene(user, scene.project, name, value, words=words), number
    raise EditRefused(
        f"No earlier state of {scene.name} can be read either. It is left as it is; a backup may"
        " hold it, or the version of Coaster that made it."
    )


def _last_readable(start: Revision, last: int) -> tuple[int, Document] | None:
    found = None
    try:
        for state in _from(start, last):
            found = state
    except CoreError:
        return found  # what came before that edit is what can be had
    return found
