"""``render``: a scene as a file of frames."""

import argparse
import sys
from collections.abc import Callable
from pathlib import Path as File

from coaster.cli.options import checked, frames, positive, whole, workers
from coaster.errors import RenderCancelled
from coaster.export.render import order_for, render
from coaster.formats import bundle
from coaster.media.writers import KINDS, kind_for

WORDS = "render a scene"
STOPPED = 130


def add(parser: argparse.ArgumentParser) -> None:
    one = parser.add_argument
    one("scene", type=File, metavar="SCENE.json|BUNDLE.zip")
    one("out", type=File, metavar="OUT" + "|".join(kind.ending for kind in KINDS.values()))
    one(
        "--frames", type=checked(frames), default=(0, None), metavar="A:B", help="A up to but not B"
    )
    one(
        "--scale",
        type=checked(positive),
        default=1.0,
        metavar="K",
        help="its size, 1 for the scene's own",
    )
    one("--loops", type=checked(whole), default=1, metavar="N", help="how often it runs (1)")
    one("--workers", type=checked(workers), metavar="N", help="drawing processes at most")


def run(options: argparse.Namespace) -> int:
    kind_for(options.out.name)
    first, last = options.frames
    with bundle.open_bundle(options.scene) as (scene, folder):
        order = order_for(scene, first, last, options.loops, options.scale)
        show = _progress(order.count) if sys.stderr.isatty() else lambda done: None
        try:
            render(scene, folder, options.out, order, workers=options.workers, progress=show)
        except RenderCancelled:
            return STOPPED
    print(f"{options.out}: {order.count} frames at {scene.rate} fps")
    return 0


def _progress(count: int) -> Callable[[int], None]:
    def show(done: int) -> None:
        print(
            f"\r{done} of {count} frames",
            end="\n" if done == count else "",
            file=sys.stderr,
            flush=True,
        )

    return show
