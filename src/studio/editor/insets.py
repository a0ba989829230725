"""Scenes in scenes: which can be shown, and a group made a scene of its own."""

from django.db import transaction

from coaster.edits import insets as edits
from coaster.edits.edit import Edit
from coaster.errors import EditRefused
from coaster.ids import fresh_name
from coaster.scene.document import Beside
from coaster.scene.document import Scene as Document
from studio.editor import services
from studio.editor.services import Edited
from studio.projects.models import Scene, shown_rows
from studio.projects.querysets import Person
from studio.projects.services import allow, create_scene

Row = tuple[Scene, str, str]
"""A scene, what there is to be said of it, and why it cannot be shown, if it cannot."""


def others(scene: Scene) -> list[Row]:
    """Return the other scenes of a project, those edited last first."""
    rows = Scene.objects.filter(project=scene.project_id, deleted_at=None).exclude(pk=scene.pk)
    return [(each, *_about(each, scene)) for each in rows.order_by("-edited_at")]


def _about(other: Scene, scene: Scene) -> tuple[str, str]:
    value = other.readable()
    if value is None:
        return "", "It cannot be read."
    if str(scene.pk) in {pk for pk, _, _ in shown_rows(scene.project_id, value.shown_ids())}:
        return "", "It shows this one."
    ground = "" if value.background else ", transparent"
    return f"{value.width} × {value.height}, {value.seconds:.3g} s{ground}", ""


def beside(scene_pk: int, shown_pk: int) -> Beside:
    """Return a scene as another one of its project shows it.

    Errors: EditRefused: it is not there, or of another project.
    """
    home = Scene.objects.get(pk=scene_pk)
    found = Scene.objects.filter(project=home.project_id, deleted_at=None, pk=shown_pk).first()
    value = None if found is None else found.readable()
    if found is None or value is None:
        raise EditRefused("That scene is not in this project any more; nothing was added.")
    return Beside(str(found.pk), found.name, value.alone())


def group_to_scene(
    user: Person, scene: Scene, layer_id: str, frame: float, *, base: int, key: str
) -> Edited:
    """Make a group a scene of its own in the project, which takes its place here.

    Errors: as ``services.edit``; nothing is made then.
    """
    allow(user, scene.project)
    value = scene.value()
    inner = edits.scene_of_group(value, layer_id, frame)
    taken = set(Scene.objects.filter(project=scene.project).values_list("name", flat=True))
    name = fresh_name(value.layer(layer_id).name[:72], taken)
    with transaction.atomic():
        words = f"Made of a group of {scene.name}"[:200]
        made = create_scene(user, scene.project, name, inner, words=words)
        shown = Beside(str(made.pk), name, inner.alone())

        def plan(now: Document) -> Edit:
            return edits.group_to_scene(now, layer_id, shown, frame)

        done = services.edit(user, scene.pk, plan, base=base, key=key)
        if shown.id not in done.after.shown_ids():
            made.delete()  # it was done already, when this was first sent
    return done
