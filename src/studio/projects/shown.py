"""Which scenes of a project show which."""

from collections.abc import Iterable

from coaster.errors import EditRefused
from coaster.scene.document import Scene as Document
from studio.projects.models import Scene, shown_by, shown_rows


def check(scene: Scene, before: Document, after: Document) -> None:
    """Errors: EditRefused: after an edit, the scene would show itself, by way of others or not."""
    new = set(after.shown_ids()) - set(before.shown_ids())
    if not new:
        return
    if str(scene.pk) in new:
        raise EditRefused(f"{scene.name} cannot be shown in itself; nothing was changed.")
    if str(scene.pk) in {pk for pk, _, _ in shown_rows(scene.project_id, new)}:
        raise EditRefused(
            f"{scene.name} would be shown in itself, by way of another scene; nothing was changed."
        )


def used_in(scenes: Iterable[Scene]) -> dict[int, list[str]]:
    """Return, of scenes of one project, by which others of them each is shown, by their names."""
    found: dict[int, list[str]] = {}
    for scene in scenes:
        for shown in shown_by(scene.document):
            if shown.isdecimal():
                found.setdefault(int(shown), []).append(scene.name)
    return found
