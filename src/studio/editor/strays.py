"""Takes in no scene: recordings that became no path, as the edit was refused. They are in the
bin, and put back as a scene of their own.
"""

from functools import partial

from django.db import transaction
from django.db.models import Exists, OuterRef, QuerySet, TextField
from django.db.models.functions import Cast

from coaster import commands
from coaster.edits.takes import NewTake, add_take
from coaster.scene.document import Scene as Document
from studio.projects.bin import SORTS, Binned, Sort
from studio.projects.models import RawTake, Revision, Scene
from studio.projects.querysets import Person
from studio.projects.services import create_scene


def strays(user: Person) -> QuerySet[RawTake]:
    """Return a person's takes that no scene names, as it is or as it can be again."""
    scenes = Scene.objects.filter(project=OuterRef("project"))
    steps = Revision.objects.filter(scene__project=OuterRef("project"))
    told = steps.annotate(said=Cast("commands", TextField()), unsaid=Cast("inverses", TextField()))
    name = OuterRef("file_name")
    mine = RawTake.objects.visible_to(user).select_related("project")
    return mine.exclude(
        Exists(scenes.filter(document__contains=name))
        | Exists(steps.filter(snapshot__contains=name))
        | Exists(told.filter(said__contains=name))
        | Exists(told.filter(unsaid__contains=name))
    )


def _told(take: RawTake) -> Binned:
    size = take.path.stat().st_size if take.path.is_file() else 0
    inside = f"of {take.project.name}, in no scene"
    return Binned("take", "record", take.pk, take.name, inside, take.created_at, size)


def _put_back(user: Person, pk: int) -> Scene:
    """Make a scene of its own with the take as a path.

    Errors: RawTake.DoesNotExist.
    """
    take = strays(user).get(pk=pk)
    begun = NewTake(take.file_name, 0.0, "", "Take")
    empty = Document()
    made, _ = commands.apply_all(empty, add_take(empty, take.path.read_text(), begun).commands)
    return create_scene(user, take.project, take.name[:80], made, words="A recording put back")


def _erase(take: RawTake) -> None:
    file = take.path
    take.delete()
    transaction.on_commit(partial(file.unlink, missing_ok=True))


SORTS["take"] = Sort(strays, _told, _put_back, _erase)
