"""Starting, cancelling and starting renders again; and carrying one out."""

from functools import partial
from pathlib import Path as File

from django.conf import settings
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from coaster.export.render import Order, order_for, render
from coaster.render.raster import output_size
from coaster.scene import codec
from studio.jobs import services as jobs
from studio.jobs.services import Desk
from studio.projects import space
from studio.projects.bin import SORTS, Binned, Sort
from studio.projects.models import Scene
from studio.projects.querysets import Person
from studio.projects.services import allow
from studio.renders.models import Render

JOB = "render"


def start(user: Person, scene: Scene, *, kind: str, scale: float = 1.0, loops: int = 1) -> Render:
    """Put a render of the scene as it is now in line.

    Errors: FormatError: a size or count that cannot be rendered.
    """
    author = allow(user, scene.project)
    space.check(user)
    value = scene.value()
    order = order_for(value, loops=loops, scale=scale)
    width, height = output_size(value.width, value.height, scale)
    made = Render.objects.create(
        scene=scene,
        author=author,
        revision=scene.revision,
        # The document itself: what is edited meanwhile is not in this render.
        document=scene.document,
        format=kind,
        scale=scale,
        loops=loops,
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
    Render.objects.filter(pk=wanted.pk).update(deleted_at=timezone.now())


def restore(user: Person, pk: int) -> None:
    """Take a render out of the bin, into the list of its scene.

    Errors: Render.DoesNotExist.
    """
    in_bin(user).get(pk=pk)
    Render.objects.filter(pk=pk).update(deleted_at=None)


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
    render.delete()
    _sweep(file)
    transaction.on_commit(partial(file.unlink, missing_ok=True))


def _work(job: Render, desk: Desk) -> dict[str, object]:
    scene = codec.from_json(job.document)
    job.file.parent.mkdir(parents=True, exist_ok=True)
    _sweep(job.file)
    render(
        scene,
        job.scene.project.folder,
        job.file,
        Order(0, scene.length, job.loops, job.scale),
        workers=settings.RENDER_WORKERS,
        progress=desk.progress,
        cancelled=desk.cancelled,
    )
    # Written down once: the list of renders must not look at the disk for each row.
    return {"size": job.file.stat().st_size}


def _sweep(file: File) -> None:
    """Remove what a process that was killed had written of a render."""
    for left in file.parent.glob(f".{file.name}.*.part"):
        left.unlink(missing_ok=True)


jobs.register(JOB, Render, _work)
SORTS["render"] = Sort(in_bin, _told, restore, _erase)
