"""Starting, cancelling and starting renders again; and carrying one out."""

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager

from django.conf import settings
from django.db import close_old_connections, transaction
from django.utils import timezone

from coaster.errors import CoreError, EditRefused, RenderCancelled
from coaster.export import video
from coaster.export.video import Order
from coaster.render.raster import output_size
from coaster.scene import codec
from studio.projects.models import Scene
from studio.projects.services import Person, allow
from studio.renders.models import Render

State = Render.State


def start(user: Person, scene: Scene, *, form: str, scale: float = 1.0, loops: int = 1) -> Render:
    """Put a render of the scene as it is now in line.

    Errors: FormatError: a size or count that cannot be rendered.
    """
    allow(user, scene.project)
    value = scene.value()
    order = video.order_for(value, loops=loops, scale=scale)
    width, height = output_size(value.width, value.height, scale)
    render = Render.objects.create(
        scene=scene,
        author=user,
        revision=scene.revision,
        document=scene.document,
        format=form,
        scale=scale,
        loops=loops,
        width=width,
        height=height,
        frames=order.count,
    )
    _enqueue(render)
    return render


def _enqueue(render: Render) -> None:
    from studio.renders.tasks import render_video  # tasks import this module

    transaction.on_commit(lambda: render_video.enqueue(render.pk))


def cancel(user: Person, render: Render) -> None:
    """Stop a render; one that waits or was broken off is cancelled at once, one that runs soon."""
    allow(user, render.scene.project)
    at_once = Render.objects.filter(pk=render.pk, state=State.WAITING)
    if render.interrupted:
        at_once = Render.objects.filter(pk=render.pk, state=State.RUNNING)
    if not at_once.update(state=State.CANCELLED, ended_at=timezone.now()):
        Render.objects.filter(pk=render.pk, state=State.RUNNING).update(cancel_asked=True)


def again(user: Person, render: Render) -> Render:
    """Render the same revision once more.

    Errors: EditRefused: it is still under way.
    """
    allow(user, render.scene.project)
    if render.active:
        raise EditRefused("This render is still under way.")
    if render.interrupted:
        Render.objects.filter(pk=render.pk, state=State.RUNNING).update(
            state=State.FAILED, words="Broken off; started again.", ended_at=timezone.now()
        )
    Render.objects.filter(pk=render.pk).update(
        state=State.WAITING, done=0, words="", cancel_asked=False, started_at=None, alive_at=None, ended_at=None
    )
    _enqueue(render)
    return Render.objects.get(pk=render.pk)


def delete(user: Person, render: Render) -> None:
    """Forget a render and its file.

    Errors: EditRefused: it is still under way.
    """
    allow(user, render.scene.project)
    if render.active:
        raise EditRefused("This render is still under way; cancel it first.")
    render.file.unlink(missing_ok=True)
    _sweep(render)
    render.delete()


def carry_out(pk: int) -> None:
    """Render what is in line under ``pk``, unless it was cancelled or is being done already."""
    claimed = Render.objects.filter(pk=pk, state=State.WAITING).update(
        state=State.RUNNING, started_at=timezone.now(), alive_at=timezone.now()
    )
    if not claimed:
        return
    render = Render.objects.select_related("scene__project").get(pk=pk)
    try:
        with _signs_of_life(pk):
            _render(render)
        _end(pk, State.DONE, size=render.file.stat().st_size, done=render.frames)
    except RenderCancelled:
        _end(pk, State.CANCELLED)
    except (CoreError, OSError, MemoryError) as error:
        _end(pk, State.FAILED, words=f"{error} The scene is as it was."[:300])
    except BaseException:
        _end(pk, State.FAILED, words="The render was stopped. The scene is as it was; start it again.")
        raise


def _render(render: Render) -> None:
    scene = codec.from_json(render.document)
    order = Order(0, scene.length, render.loops, render.scale)
    render.file.parent.mkdir(parents=True, exist_ok=True)
    _sweep(render)
    desk = _Desk(render.pk)
    video.render(
        scene,
        render.scene.project.folder,
        render.file,
        order,
        workers=settings.RENDER_WORKERS,
        progress=desk.progress,
        cancelled=desk.cancelled,
    )


def _sweep(render: Render) -> None:
    """Remove what a process that was killed had written of this render."""
    for left in render.file.parent.glob(f".{render.file.name}.*.part"):
        left.unlink(missing_ok=True)


def _end(pk: int, state: str, **fields: object) -> None:
    Render.objects.filter(pk=pk).update(state=state, ended_at=timezone.now(), **fields)


class _Desk:
    """Writes down progress and reads whether to stop, a few times a second, not each frame."""

    EVERY_S = 0.25

    def __init__(self, pk: int) -> None:
        self._render = Render.objects.filter(pk=pk)
        self._next = 0.0
        self._stop = False

    def progress(self, done: int) -> None:
        if time.monotonic() < self._next:
            return
        self._next = time.monotonic() + self.EVERY_S
        self._render.update(done=done)
        self._stop = self._render.values_list("cancel_asked", flat=True).get()

    def cancelled(self) -> bool:
        return self._stop


@contextmanager
def _signs_of_life(pk: int) -> Iterator[None]:
    """Say every second that the render's process is there, whatever it is doing."""
    over = threading.Event()

    def beat() -> None:
        while not over.wait(settings.HEARTBEAT_S):
            Render.objects.filter(pk=pk).update(alive_at=timezone.now())
        close_old_connections()

    thread = threading.Thread(target=beat, name="signs of life", daemon=True)
    thread.start()
    try:
        yield
    finally:
        over.set()
        thread.join()
