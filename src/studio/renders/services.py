"""Starting, cancelling and starting renders again; and carrying one out."""

import shutil
from collections.abc import Iterable, Sequence
from contextlib import suppress
from functools import partial
from pathlib import Path as File

from django.conf import settings
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from coaster.errors import CoreError, EditRefused, RenderCancelled
from coaster.export.chunks import Watch
from coaster.export.cluster import crew_at
from coaster.export.estimate import estimated_size
from coaster.export.orders import READY, Choices, choices_of, data_of
from coaster.export.render import render
from coaster.export.vector import left_out
from coaster.media.writers import KINDS
from coaster.render.raster import output_size
from coaster.scene import codec
from coaster.scene.document import Scene as SceneValue
from studio.jobs import services as jobs
from studio.jobs.models import State
from studio.jobs.services import Desk
from studio.projects import space
from studio.projects.bin import SORTS, Binned, Sort
from studio.projects.models import Project, Scene
from studio.projects.querysets import Person
from studio.projects.services import allow, write_whole
from studio.reading import TooMuchError, apart
from studio.renders.models import LONGEST_NAME, Preset, Render

JOB = "render"


def start(user: Person, scene: Scene, choices: Choices) -> Render:
    """Put a render of the scene as it is now in line.

    Errors: FormatError: it cannot be rendered so.
    """
    allow(user, scene.project)
    space.check(user)
    return _put_in_line(user, scene, scene.value(), choices)


def start_filled(
    user: Person, scene: Scene, filled: Sequence[tuple[str, SceneValue]], choices: Choices
) -> list[Render]:
    """Put renders of a scene in line as it is filled in, each under a title: all of them, or none.

    Errors: FormatError: one cannot be rendered so.
    """
    allow(user, scene.project)
    space.check(user)
    with transaction.atomic():
        return [_put_in_line(user, scene, value, choices, title) for title, value in filled]


def _put_in_line(
    user: Person, scene: Scene, value: SceneValue, choices: Choices, title: str = ""
) -> Render:
    order = choices.order(value)
    width, height = output_size(value.width, value.height, order.scale)
    made = Render.objects.create(
        scene=scene,
        author=allow(user, scene.project),
        title=title[:200],
        revision=scene.revision,
        # The document itself: what is edited meanwhile is not in this render.
        document=codec.to_json(value, indent=None),
        format=choices.kind,
        choices=data_of(choices),
        width=width,
        height=height,
        total=order.count,
    )
    jobs.enqueue(JOB, made)
    return made


def cancel(user: Person, wanted: Render) -> None:
    """Stop a render; one that waits or was broken off is cancelled at once, one that runs soon."""
    allow(user, wanted.scene.project)
    jobs.cancel(wanted)
    if Render.objects.filter(pk=wanted.pk, state=State.CANCELLED).exists():
        _forget(wanted)


def pause(user: Person, wanted: Render) -> None:
    """Stop a render until ``again``; it goes on from the last part that is whole."""
    allow(user, wanted.scene.project)
    jobs.pause(wanted)


def hurry(user: Person, wanted: Render) -> None:
    """Let a render that waits be the next one."""
    allow(user, wanted.scene.project)
    jobs.hurry(wanted)


def again(user: Person, wanted: Render) -> None:
    """Render the same revision once more.

    Errors: EditRefused: it is still under way.
    """
    allow(user, wanted.scene.project)
    jobs.again(JOB, wanted)


def delete(user: Person, wanted: Render) -> None:
    """Put a render into the bin.

    Errors: EditRefused: it is still under way.
    """
    allow(user, wanted.scene.project)
    jobs.refuse_active(wanted, "This render is still under way; cancel it first.")
    _forget_parts(wanted)
    Render.objects.filter(pk=wanted.pk).update(deleted_at=timezone.now())


ACTS = {"cancel": cancel, "pause": pause, "hurry": hurry, "again": again, "delete": delete}
"""What may be done with a render, by the name that an address has it under."""
MOST_SHOWN = 100
_FIRST = (State.RUNNING, State.WAITING, State.PAUSED)


def in_queue(user: Person) -> list[Render]:
    """Return the renders of all scenes: what is under way, what waits in its order, then what was
    done last.
    """
    mine = Render.objects.visible_to(user).filter(scene__deleted_at=None)
    found = list(mine.select_related("scene").order_by("-asked_at")[:MOST_SHOWN])
    line = sorted(found, key=lambda one: (one.place, one.asked_at))
    return [
        *(each for state in _FIRST for each in line if each.state == state),
        *(each for each in found if each.state not in _FIRST),
    ]


def to_be_played(project: Project) -> list[Render]:
    """Return the last render of each scene of a project that a browser can show."""
    scenes = project.scenes.filter(deleted_at=None).order_by("pk")
    found = Render.objects.filter(scene__in=scenes, state=State.DONE, deleted_at=None)
    latest: dict[int, Render] = {}
    for each in found.select_related("scene").order_by("asked_at"):
        if each.kind.shown_as != "none":
            latest[each.scene_id] = each
    return [latest[scene.pk] for scene in scenes if scene.pk in latest]


def start_several(user: Person, scenes: Iterable[Scene], preset: str) -> list[str]:
    """Put renders of several scenes in line, as a preset has it or each as it was last; return why
    some were not.
    """
    refused = []
    for scene in scenes:
        try:
            start(user, scene, usual(user, scene, scene.value(), preset))
        except CoreError as error:
            refused.append(f"{scene.name} was left out: {error}")
    return refused


def restore(user: Person, pk: int) -> None:
    """Take a render out of the bin, into the list of its scene.

    Errors: Render.DoesNotExist.
    """
    in_bin(user).get(pk=pk)
    Render.objects.filter(pk=pk).update(deleted_at=None)


def keep_preset(user: Person, name: str, choices: Choices) -> Preset:
    """Keep choices under a name; one of that name is replaced.

    Errors: EditRefused: it has no name, or that of one that everybody has.
    """
    name = name.strip()
    if not name or len(name) > LONGEST_NAME:
        raise EditRefused(f"Give the preset a name of up to {LONGEST_NAME} letters.")
    if name.lower() in READY:
        raise EditRefused(f"{name} is there for everybody; give yours another name.")
    made, _ = Preset.objects.update_or_create(
        owner_id=user.pk, name=name, defaults={"choices": data_of(choices)}
    )
    return made


def foreseen(scene: Scene, choices: Choices) -> dict[str, object]:
    """Return what a render would be: how large in px, how many frames, how long.

    Errors: CoreError: it cannot be rendered so.
    """
    value = scene.value()
    order, kind = choices.order(value), KINDS[choices.kind]
    return {
        "size": output_size(value.width, value.height, order.scale),
        "order": order,
        "seconds": order.count / order.rate.fps,
        "number": kind.qualities.get(choices.quality, ""),
        "kind": kind,
        "left_out": left_out(value, kind.ending) if kind.vectors else [],
    }


def foreseen_size(scene: Scene, choices: Choices) -> dict[str, object]:
    """Return about how many ``bytes`` a render would have, None where that takes long to say.

    Errors: CoreError: it cannot be rendered so.
    """
    value, folder = scene.value(), scene.project.folder
    order, kind = choices.order(value), KINDS[choices.kind]
    try:
        return {"bytes": apart(estimated_size, value, folder, order, kind)}
    except TooMuchError:
        return {"bytes": None}  # What cannot be foreseen soon can be made all the same.


def usual(user: Person, scene: Scene, value: SceneValue, preset: str = "") -> Choices:
    """Return what is offered: a preset, else what the scene was rendered as last, else the first
    format that can hold it.
    """
    with suppress(EditRefused):  # forgotten in another window, it is offered no more
        return preset_named(user, preset)
    last = scene.renders.filter(deleted_at=None).first()
    if last is not None:
        return choices_of(last.choices)
    return Choices(next(k.name for k in KINDS.values() if k.alpha or value.background))


def preset_named(user: Person, name: str) -> Choices:
    """Errors: EditRefused: there is none of that name."""
    if name in READY:
        return READY[name]
    own = Preset.objects.filter(owner=user.pk)
    if kept := own.filter(name=name).first():
        return kept.value
    there = ", ".join([*READY, *own.values_list("name", flat=True)])
    raise EditRefused(f"There is no preset {name!r:.80}; there are {there}.")


def in_bin(user: Person) -> QuerySet[Render]:
    """Return those that were deleted by themselves: others go and come with their scenes."""
    mine = Render.objects.filter(scene__in=Scene.objects.visible_to(user))
    return mine.exclude(deleted_at=None).select_related("scene")


def _told(render: Render) -> Binned:
    assert render.deleted_at is not None  # noqa: S101 - by the query
    inside = f"{render.width} × {render.height}, {render.total} frames"
    size = render.size + len(render.document)
    return Binned("render", "film-strip", render.pk, str(render), inside, render.deleted_at, size)


def _erase(render: Render) -> None:
    file = render.file
    _forget(render)
    render.delete()
    _sweep(file)
    transaction.on_commit(partial(file.unlink, missing_ok=True))


def _work(job: Render, desk: Desk) -> dict[str, object]:
    scene = codec.from_json(job.document)
    job.file.parent.mkdir(parents=True, exist_ok=True)
    _sweep(job.file)
    try:
        render(
            scene,
            job.scene.project.folder,
            job.file,
            choices_of(job.choices).order(scene),
            kind=job.kind,
            workers=settings.RENDER_WORKERS,
            crew=crew_at(settings.CLUSTER, settings.RENDER_WORKERS),
            watch=Watch(desk.progress, partial(_keep, job.picture), desk.cancelled),
            parts=job.parts,
        )
    except RenderCancelled:
        if not desk.pauses:
            _forget(job)
        raise
    _forget_parts(job)
    # Written down once: the list of renders must not look at the disk for each row.
    return {"size": job.file.stat().st_size}


def _keep(picture: File, jpeg: bytes) -> None:
    # A render is not to fail for its picture.
    with suppress(OSError):
        write_whole(picture, jpeg)


def _sweep(file: File) -> None:
    """Remove what a process that was killed had written of a render."""
    for left in file.parent.glob(f".{file.name}.*.part"):
        left.unlink(missing_ok=True)


def _forget_parts(job: Render) -> None:
    shutil.rmtree(job.parts.parent, ignore_errors=True)


def _forget(job: Render) -> None:
    """Remove all that there is of a render that was not finished."""
    _forget_parts(job)
    job.picture.unlink(missing_ok=True)


jobs.register(JOB, Render, _work)
SORTS["render"] = Sort(in_bin, _told, restore, _erase)
