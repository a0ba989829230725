"""The files of a project: what each is, how large, where it is used, and which nothing needs."""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from functools import partial

from django.db import transaction
from django.db.models import Exists, OuterRef, QuerySet, TextField
from django.db.models.functions import Cast
from django.utils import timezone

from coaster.errors import EditRefused
from coaster.formats.bundle import noun_of
from studio.projects.bin import SORTS, Binned, Sort
from studio.projects.models import Asset, Project, RawTake, Revision, Scene, assets_of
from studio.projects.querysets import Person
from studio.projects.services import allow

TAKE = "take"
NAMED = re.compile(r"[A-Za-z0-9_-]{1,80}\.[a-z0-9]{3,5}")
"""What may be the name of a file, in the text of a document or an edit."""


@dataclass(frozen=True)
class Used:
    """A file, what it is, its bytes (None where it is gone), and the scenes that use it now; or
    whether one did before, so that an undo may bring it back.
    """

    row: Asset | RawTake
    noun: str
    size: int | None
    scenes: tuple[Scene, ...]
    before: bool = False

    @property
    def unused(self) -> bool:
        return not self.scenes and not self.before


def of_project(project: Project) -> list[Used]:
    """Return the files of a project, those that nothing needs first, then the largest.

    Takes that nothing names are in the bin by themselves, and not among them.
    """
    users = _users(Scene.objects.filter(project=project, deleted_at=None))
    nouns: dict[Asset | RawTake, str] = {
        # One in the bin that an undo has brought back is used, and there as long as it is.
        row: noun_of(row.file_name)
        for row in project.assets.all()
        if row.deleted_at is None or row.file_name in users
    }
    nouns |= dict.fromkeys(project.takes.all(), TAKE)
    idle = {row.file_name for row in nouns} - users.keys()
    before = _named_before(project) if idle else set()
    found = [
        Used(
            row,
            noun,
            row.path.stat().st_size if row.path.is_file() else None,
            tuple(users.get(row.file_name, ())),
            row.file_name in before and row.file_name not in users,
        )
        for row, noun in nouns.items()
    ]
    told = (each for each in found if each.noun != TAKE or not each.unused)
    return sorted(told, key=lambda each: (not each.unused, bool(each.scenes), -(each.size or 0)))


def _users(scenes: Iterable[Scene]) -> dict[str, list[Scene]]:
    found: dict[str, list[Scene]] = {}
    for scene in scenes:
        for name in assets_of(scene.document):
            found.setdefault(name, []).append(scene)
    return found


def _named_before(project: Project) -> set[str]:
    """Return what any edit of its scenes names, those in the bin with them: in one pass, however
    many files there are.
    """
    texts = Revision.objects.filter(scene__project=project).annotate(
        did=Cast("commands", TextField()), undid=Cast("inverses", TextField())
    )
    found = set[str]()
    for row in texts.values_list("did", "undid", "snapshot").iterator():
        for text in row:
            found.update(NAMED.findall(text))
    for document in Scene.objects.filter(project=project).values_list("document", flat=True):
        found.update(NAMED.findall(document))
    for document in project.rides.values_list("document", flat=True):
        found.update(NAMED.findall(document))
    return found


def bin_file(user: Person, asset: Asset) -> None:
    """Take a file out of sight; from the bin it comes back.

    Errors: EditRefused: a scene uses it.
    """
    allow(user, asset.project)
    users = _users(Scene.objects.filter(project=asset.project_id, deleted_at=None))
    names = [scene.name for scene in users.get(asset.file_name, [])]
    if names:
        raise EditRefused(
            f"{asset} is used in {' and '.join(names)}; take it out there first. It was kept."
        )
    Asset.objects.filter(pk=asset.pk).update(deleted_at=timezone.now())


def bin_unused(user: Person, project: Project) -> list[Asset]:
    """Take all files out of sight that nothing needs, nor any undo; return them."""
    allow(user, project)
    unused = (each.row for each in of_project(project) if each.unused)
    gone = [row for row in unused if isinstance(row, Asset)]
    Asset.objects.filter(pk__in=[each.pk for each in gone]).update(deleted_at=timezone.now())
    return gone


def restore_files(user: Person, project: Project, pks: Iterable[int]) -> int:
    """Put files back; return how many."""
    allow(user, project)
    return project.assets.filter(pk__in=list(pks)).update(deleted_at=None)


def _binned(user: Person) -> QuerySet[Asset]:
    """Those of which no scene has made use again since."""
    scenes = Scene.objects.filter(project=OuterRef("project"))
    mine = Asset.objects.visible_to(user).exclude(deleted_at=None).select_related("project")
    return mine.exclude(Exists(scenes.filter(document__contains=OuterRef("file_name"))))


def _told(asset: Asset) -> Binned:
    assert asset.deleted_at is not None  # noqa: S101 - by the query
    size = asset.path.stat().st_size if asset.path.is_file() else 0
    noun = noun_of(asset.file_name)
    inside = f"of {asset.project.name}"
    return Binned(
        "file", ICONS[noun], asset.pk, f"{asset} ({noun})", inside, asset.deleted_at, size
    )


ICONS = {"picture": "image", "footage": "film-strip", "font": "text-t"}


def _put_back(user: Person, pk: int) -> None:
    Asset.objects.visible_to(user).filter(pk=pk).update(deleted_at=None)


def _erase(asset: Asset) -> None:
    file = asset.path
    asset.delete()
    transaction.on_commit(partial(file.unlink, missing_ok=True))


SORTS["file"] = Sort(_binned, _told, _put_back, _erase)
