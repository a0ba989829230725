"""A scene's history as its person sees it: edits in words, versions by names, and ways back."""

from dataclasses import dataclass

from coaster.commands.whole import put_scene
from coaster.edits.edit import Edit, edit_of
from coaster.errors import EditRefused
from coaster.scene.document import Scene as Document
from studio.projects.models import Revision, Scene
from studio.projects.querysets import Person
from studio.projects.replay import document_at
from studio.projects.services import allow, create_scene

PAGE = 100
LONGEST_NAME = 80


@dataclass(frozen=True)
class Page:
    """Some revisions, the newest first, and the number before which there are more; 0 for none."""

    rows: list[Revision]
    more: int


def page(scene: Scene, before: int | None = None, *, named: bool = False) -> Page:
    """Return the newest revisions, or those before a number; with ``named`` versions alone."""
    rows = scene.revisions.order_by("-number").select_related("author")
    # What each did is many times as long as what it is called.
    rows = rows.defer("commands", "inverses", "snapshot")
    if named:
        rows = rows.exclude(name="")
    if before is not None:
        rows = rows.filter(number__lt=before)
    found = list(rows[: PAGE + 1])
    return Page(found[:PAGE], found[PAGE - 1].number if len(found) > PAGE else 0)


def name_version(user: Person, scene: Scene, number: int, name: str) -> None:
    """Call a revision by a name; without one it is no version of its own any more.

    Errors: EditRefused: too long a name; Revision.DoesNotExist.
    """
    allow(user, scene.project)
    if len(name) > LONGEST_NAME:
        raise EditRefused(f"A version's name has at most {LONGEST_NAME} letters; it was not named.")
    revision = scene.revisions.get(number=number)
    Revision.objects.filter(pk=revision.pk).update(name=name.strip())


def called(revision: Revision) -> str:
    """Return what a revision is called: its name, or what was done last."""
    return revision.name or revision.words


def back_to(scene: Scene, number: int, now: Document) -> Edit:
    """Return the edit that makes a scene what it was after a revision.

    Errors: EditRefused: it is so already; Revision.DoesNotExist; CoreError: it cannot be read.
    """
    revision, before = scene.revisions.get(number=number), document_at(scene, number)
    if before == now:
        raise EditRefused("The scene is as it was then; nothing was changed.")
    return edit_of([put_scene(before)], f"Back to: {called(revision)}")


def as_new_scene(user: Person, scene: Scene, number: int) -> Scene:
    """Make a scene of its own of another one as it was.

    Errors: Revision.DoesNotExist; CoreError: it cannot be read.
    """
    revision = scene.revisions.get(number=number)
    name, words = f"{scene.name[:60]}, {number}", f"{scene.name} at: {called(revision)}"
    return create_scene(user, scene.project, name, document_at(scene, number), words=words[:200])
