"""A scene as a file of frames."""

from collections.abc import Callable
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path as File

from coaster.errors import FormatError, RenderCancelled
from coaster.export.drawers import Drawers
from coaster.media.writers import kind_for
from coaster.media.writing import Job
from coaster.render.raster import output_size
from coaster.scene.document import Scene

LARGEST_SIDE = 8192
MOST_FRAMES = 200_000


@dataclass(frozen=True)
class Order:
    """What to render: frames ``first`` up to but not ``last``, ``loops`` times, at ``scale``."""

    first: int
    last: int
    loops: int = 1
    scale: float = 1.0

    @property
    def count(self) -> int:
        return (self.last - self.first) * self.loops

    def frames(self) -> list[int]:
        return list(range(self.first, self.last)) * self.loops


def order_for(
    scene: Scene, first: int = 0, last: int | None = None, loops: int = 1, scale: float = 1.0
) -> Order:
    """Check what is asked of a scene.

    Errors: FormatError: no frames, frames outside the scene, or a size that cannot be encoded.
    """
    last = scene.length if last is None else last
    if not 0 <= first < last <= scene.length:
        raise FormatError(
            f"Frames {first}:{last} are not in the scene, which has 0:{scene.length}."
        )
    if loops < 1 or (last - first) * loops > MOST_FRAMES:
        raise FormatError(
            f"{loops} loops of {last - first} frames: at least one loop, at most {MOST_FRAMES:,}"
            " frames."
        )
    if not 0.01 <= scale <= 8 or max(output_size(scene.width, scene.height, scale)) > LARGEST_SIDE:
        raise FormatError(
            f"A scale of {scale:g} makes this scene too large or too small for video."
        )
    return Order(first, last, loops, scale)


def render(
    scene: Scene,
    folder: File,
    out: File,
    order: Order,
    *,
    workers: int | None = None,
    progress: Callable[[int], None] = lambda done: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> None:
    """Render to ``out``, which appears only when it is whole.

    ``progress`` hears how many frames are in; ``cancelled`` is asked before each.

    Errors: RenderError with the frame; MediaError: the encoder or the disk refused; FormatError:
            its ending is of no kind that is known; RenderCancelled: it was asked to stop.
    """
    kind, see_through = kind_for(out.name), scene.background is None
    with ExitStack() as stack:
        drawers = stack.enter_context(Drawers(scene, folder, scale=order.scale, workers=workers))
        job = Job(out, drawers.size, scene.rate.fraction, alpha=see_through)
        writer = stack.enter_context(kind.open(job))
        for done, pixels in enumerate(drawers.frames(order.frames())):
            if cancelled():
                raise RenderCancelled("The render was cancelled.")
            if writer.idle:
                drawers.report_idle()
            writer.write(pixels)
            progress(done + 1)
