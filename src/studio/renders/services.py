"""Starting, cancelling and starting renders again; and carrying one out."""

from django.conf import settings

from coaster.export.render import Order, order_for, render
from coaster.render.raster import output_size
from coaster.scene import codec
from studio.jobs import services as jobs
from studio.jobs.services import Desk
from studio.projects.models import Scene
from studio.projects.services import Person, allow
from studio.renders.models import Render

JOB = "render"


def start(user: Person, scene: Scene, *, kind: str, scale: float = 1.0, loops: int = 1) -> Render:
    """Put a render of the scene as it is now in line.

    Errors: FormatError: a size or count that cannot be rendered.
    """
    author = allow(user, scene.project)
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
    """Forget a render and its file.

    Errors: EditRefused: it is still under way.
    """
    allow(user, wanted.scene.project)
    jobs.refuse_active(wanted, "This render is still under way; cancel it first.")
    # The file first: a row without its file can be deleted again, a file without row is lost.
    wanted.file.unlink(missing_ok=True)
    _sweep(wanted)
    wanted.delete()


def _work(job: Render, desk: Desk) -> dict[str, object]:
    scene = codec.from_json(job.document)
    job.file.parent.mkdir(parents=True, exist_ok=True)
    _sweep(job)
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


def _sweep(wanted: Render) -> None:
    """Remove what a process that was killed had written of this render."""
    for left in wanted.file.parent.glob(f".{wanted.file.name}.*.part"):
        left.unlink(missing_ok=True)


jobs.register(JOB, Render, _work)
