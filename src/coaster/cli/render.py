"""``render``: a scene as a file of frames."""

import argparse
import json
import os
import re
import signal
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import replace
from pathlib import Path as File

from rich.console import Console
from rich.progress import BarColumn, Progress, TextColumn, TimeRemainingColumn

from coaster.cli.options import checked, frames, number, positive, whole, workers
from coaster.edits.edit import called
from coaster.errors import CoreError, FormatError, RenderCancelled
from coaster.export.chunks import Watch
from coaster.export.cluster import crew_at
from coaster.export.kept import kept_beside, parts_in
from coaster.export.orders import READY, Choices, choices_of
from coaster.export.render import Film, render, render_several
from coaster.export.vector import left_out
from coaster.formats import bundle, rows
from coaster.media.writers import KINDS, kind_for
from coaster.media.writing import QUALITIES
from coaster.motion.rate import parse_rate
from coaster.series import beside, filled_rows, room_for

STOPPED = 130


def add(parser: argparse.ArgumentParser) -> None:
    one = parser.add_argument
    endings = "|".join(dict.fromkeys(kind.ending for kind in KINDS.values()))
    one("scene", type=File, metavar="SCENE.json|BUNDLE.zip")
    one("out", type=File, metavar=f"OUT{endings}")
    one(
        "--preset", metavar="NAME|FILE.json", help=f"choices: {', '.join(READY)}, or a file of them"
    )
    one("--as", dest="kind", choices=list(KINDS), help="where an ending may be several")
    one("--quality", choices=list(QUALITIES), help="how much a file keeps (usual)")
    one("--frames", type=checked(frames), metavar="A:B", help="A up to but not B")
    one("--fps", type=checked(parse_rate), metavar="F", help="frames a second of the file")
    one("--scale", type=checked(positive), metavar="K", help="its size, 1 for the scene's own")
    one("--high", type=checked(whole), metavar="PX", help="its height in place of a scale")
    one("--loops", type=checked(whole), metavar="N", help="how often it runs (1)")
    one("--seconds", type=checked(positive), metavar="S", help="whole loops until then")
    one("--returns", action="store_true", default=None, help="there and back in each loop")
    one("--blur", dest="shutter", type=checked(number), metavar="DEG", help="shutter, of 360°")
    one(
        "--behind", type=checked(_behind), metavar="#RRGGBB|none", help="in place of what is behind"
    )
    _add_means(parser)


def _add_means(parser: argparse.ArgumentParser) -> None:
    """Add options that say how it is made, and not what."""
    one = parser.add_argument
    one("--workers", type=checked(workers), metavar="N", help="drawing processes at most")
    cluster = os.environ.get("COASTER_CLUSTER", "")
    one(
        "--cluster",
        default=cluster,
        metavar="tcp://HOST:PORT",
        help="a Dask scheduler to render on",
    )
    one("--watch", action="store_true", help="again whenever the scene's file changes")
    one(
        "--rows", type=File, metavar="ROWS.csv",
        help="one for each row, which fills in the scene's fields; OUT is like out/{name}.mp4",
    )  # fmt: skip


CHOSEN = (
    "kind", "quality", "fps", "scale", "high", "loops", "seconds", "returns", "shutter", "behind",
)  # fmt: skip
"""Options that are choices of the same name."""
LOOK_EVERY_S = 0.5


def _behind(text: str) -> str:
    if text != "none" and not re.fullmatch("#[0-9a-fA-F]{6}", text):
        raise FormatError(f"{text!r} is no background: write a colour like #1f6f8b, or none")
    return text


def run(options: argparse.Namespace) -> int:
    choices = _choices(options)
    try:
        if options.rows:
            _render_rows(options, choices)
        elif options.watch:
            _watch(options, choices)
        else:
            _render(options, choices)
    except RenderCancelled:
        return STOPPED
    return 0


def _watch(options: argparse.Namespace, choices: Choices) -> None:
    """Render whenever the scene's file changes, until somebody ends it."""
    with suppress(KeyboardInterrupt), _ending() as ended:
        while not ended:
            seen = _changed(options.scene)
            # What is saved at this moment is half there, and whole at the next change.
            try:
                _render(options, choices)
            except (CoreError, OSError) as error:
                print(error, file=sys.stderr)
            print(f"Waiting for {options.scene} to change; Ctrl-C ends it.", file=sys.stderr)
            while _changed(options.scene) == seen and not ended:
                time.sleep(LOOK_EVERY_S)


@contextmanager
def _ending() -> Iterator[list[int]]:
    """Remember that somebody ended it: an interrupt that comes while things are put away is lost
    otherwise.
    """
    ended = list[int]()

    def end(number: int, _: object) -> None:
        ended.append(number)
        raise KeyboardInterrupt

    before = signal.signal(signal.SIGINT, end)
    try:
        yield ended
    finally:
        signal.signal(signal.SIGINT, before)


def _changed(file: File) -> int | None:
    """Return when a file was changed last; None while it is not there."""
    return file.stat().st_mtime_ns if file.exists() else None


def _choices(options: argparse.Namespace) -> Choices:
    """Return a preset with what is chosen beside it.

    Errors: FormatError: there is no such preset, or the file's ending is not that of the kind.
    """
    base = _preset(options.preset) if options.preset else Choices()
    given = {name: getattr(options, name) for name in CHOSEN}
    given = {name: value for name, value in given.items() if value is not None}
    if options.frames:
        given |= {"first": options.frames[0], "last": options.frames[1]}
    if "scale" in given:
        given["high"] = given.get("high")
    wanted = options.kind or (base.kind if options.preset else "")
    return replace(base, **given | {"kind": kind_for(options.out.name, wanted).name})


def _preset(name: str) -> Choices:
    if name in READY:
        return READY[name]
    try:
        return choices_of(json.loads(File(name).read_text()))
    except FileNotFoundError as error:
        raise FormatError(
            f"There is no preset {name!r:.60}: there are {', '.join(READY)}, or a file of choices."
        ) from error
    except ValueError as error:
        raise FormatError(f"{name}: {error}") from error


def _render_rows(options: argparse.Namespace, choices: Choices) -> None:
    """Render one file for each row, after all rows were looked at."""
    if options.watch:
        raise FormatError("Rows are rendered once; leave --watch out.")
    text = rows.decoded(options.rows.read_bytes())
    kind = KINDS[choices.kind]
    with bundle.open_bundle(options.scene) as (scene, folder), room_for(folder) as room:
        found = filled_rows(scene, rows.read(text), options.out, beside(options.rows, room))
        options.out.parent.mkdir(parents=True, exist_ok=True)
        orders = [choices.order(one.scene) for one in found]
        films = [Film(one.scene, order, one.out) for one, order in zip(found, orders, strict=True)]
        with _progress(sum(order.count for order in orders)) as show:
            crew = crew_at(options.cluster, options.workers)
            render_several(films, room, kind, watch=Watch(progress=show), crew=crew)
    print(f"{options.out}: {called(len(found), 'file')}", file=sys.stderr)


def _render(options: argparse.Namespace, choices: Choices) -> None:
    with bundle.open_bundle(options.scene) as (scene, folder):
        order, kind = choices.order(scene), KINDS[choices.kind]
        for words in left_out(scene, kind.ending) if kind.vectors else ():
            print(f"{options.out}: {words}", file=sys.stderr)
        with kept_beside(options.out, scene, folder, order, kind) as parts:
            try:
                with _progress(order.count) as show:
                    render(
                        scene, folder, options.out, order, kind=kind, parts=parts,
                        workers=options.workers, watch=Watch(progress=show),
                        crew=crew_at(options.cluster, options.workers),
                    )  # fmt: skip
            except (KeyboardInterrupt, CoreError):
                if parts_in(parts):
                    words = "what is whole of it stays; the same command goes on from there."
                    print(f"{options.out}: {words}", file=sys.stderr)
                raise
    told = called(order.count, "frame")
    print(f"{options.out}: {told} at {order.rate} fps", flush=True)


@contextmanager
def _progress(count: int) -> Iterator[Callable[[int], None]]:
    """Show how many frames are in, and the time left, where somebody looks on."""
    if not sys.stderr.isatty():
        yield lambda done: None
        return
    frames_told = TextColumn("{task.completed} of {task.total} frames")
    columns = BarColumn(), frames_told, TimeRemainingColumn(compact=True)
    with Progress(*columns, console=Console(stderr=True)) as line:
        task = line.add_task("", total=count)
        yield lambda done: line.update(task, completed=done)
