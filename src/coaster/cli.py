"""The command line: the same computations as the studio's, without a browser."""

import argparse
import json
import os
import sys
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path as File
from typing import NoReturn

from coaster.errors import CoreError, FormatError, RenderCancelled
from coaster.export import video
from coaster.formats import animate, bundle, samples, svg
from coaster.formats.takes import read as read_take
from coaster.geometry.path import Path, bounds
from coaster.motion import easing
from coaster.motion.rate import parse_rate
from coaster.motion.ride import AtPercent, Facing, Peg, Ride
from coaster.motion.sampling import sample
from coaster.motion.takes import Smoothing, pauses, smooth
from coaster.motion.travel import Way
from coaster.render import seam
from coaster.render.evaluate import Evaluation
from coaster.scene import codec

WRONG = 2
"""The exit status of every refusal; one line on standard error says what was wrong."""
ROOT = File(__file__).resolve().parents[2]
HANDED_OVER = {"demo": "studio", "test": "pytest", "bench": "bench"}
"""Commands that are programs of their own, beside the core."""


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        print(f"{self.prog}: {message[:1].upper()}{message[1:].rstrip('.')}.", file=sys.stderr)
        raise SystemExit(WRONG)


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command and return the exit status: 0, 1 (not clean), 2 (refused), 130 (stopped)."""
    words = list(sys.argv[1:] if argv is None else argv)
    if words and words[0] in HANDED_OVER:
        return _hand_over(words)
    options = _parser().parse_args(words)
    run: Callable[[argparse.Namespace], int] = options.run
    try:
        return run(options)
    except (CoreError, OSError) as error:
        print(f"coaster {options.command}: {_one_line(error)}", file=sys.stderr)
        return WRONG
    except KeyboardInterrupt:
        return 130


def _hand_over(words: list[str]) -> int:
    module = HANDED_OVER[words[0]]
    rest = words if module == "studio" else words[1:]
    os.chdir(ROOT)
    os.execv(sys.executable, [sys.executable, "-m", module, *rest])  # noqa: S606 - our own interpreter


def _one_line(error: Exception) -> str:
    if isinstance(error, OSError) and error.strerror:
        return f"{error.filename}: {error.strerror}." if error.filename else f"{error.strerror}."
    return " ".join(str(error).split())


def _parser() -> _Parser:
    parser = _Parser(prog="coaster", description="Put things on paths, and render looping video.")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND", parser_class=_Parser)
    commands.add_parser("demo", help="start the studio with the Tidepool Hall demo (--fresh starts it over)")
    commands.add_parser("test", help="run every test, browser included")
    commands.add_parser("bench", help="run the benchmarks (--json for figures only)")
    _add_sample(commands.add_parser("sample", help="write where a rider is in every frame, as CSV"))
    _add_render(commands.add_parser("render", help="render a scene to video"))
    _add_check(commands.add_parser("check", help="report how clean a scene's loop is"))
    _add_smooth(commands.add_parser("smooth", help="make a drawn take a path of few nodes"))
    schema = commands.add_parser("schema", help="print the JSON Schema of scene files")
    schema.set_defaults(run=_schema)
    return parser


def _add_sample(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", type=File, metavar="FILE.svg")
    parser.add_argument("--path", metavar="ID_OR_INDEX", help="the element's id, or its index from 0")
    parser.add_argument("--seconds", type=_wrap(_positive), default=4.0, metavar="S")
    parser.add_argument("--fps", type=_wrap(parse_rate), default=parse_rate("30"), metavar="F")
    parser.add_argument("--pace", type=_wrap(easing.parse), default=easing.EVEN, metavar="P", help="even, a CSS easing")
    parser.add_argument("--laps", type=_wrap(_laps), default=1.0, metavar="L")
    parser.add_argument("--facing", type=_wrap(_facing), default=Facing(), metavar="fixed|along|reversed|ahead:S")
    parser.add_argument("--turn", type=_wrap(_number), default=0.0, metavar="DEG")
    parser.add_argument("--gap", choices=("glide", "jump"), default="glide")
    parser.add_argument("-o", dest="out", type=File, metavar="OUT.csv")
    parser.set_defaults(run=_sample)


def _add_render(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("scene", type=File, metavar="SCENE.json|BUNDLE.zip")
    parser.add_argument("out", type=File, metavar="OUT.mp4|.webm")
    parser.add_argument("--frames", type=_wrap(_frames), default=(0, None), metavar="A:B", help="A up to but not B")
    parser.add_argument("--scale", type=_wrap(_positive), default=1.0, metavar="K")
    parser.add_argument("--loops", type=_wrap(_whole), default=1, metavar="N")
    parser.add_argument("--workers", type=_wrap(_workers), metavar="N", help="drawing processes")
    parser.set_defaults(run=_render)


def _add_smooth(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", type=File, metavar="TAKE.csv")
    parser.add_argument("--tolerance", type=_wrap(_positive), metavar="PX", help="by default what its tremor suggests")
    parser.add_argument(
        "--steady", type=_wrap(_number), default=0.0, metavar="PX", help="steady it over so much way first"
    )
    parser.add_argument(
        "--corner", type=_wrap(_positive), default=50.0, metavar="DEG", help="sharper turns stay corners"
    )
    parser.add_argument("--timing", type=_wrap(_timing), default=0.0, metavar="keep|even|0..1")
    parser.add_argument("--close", action="store_true", help="make it a loop")
    parser.add_argument("--fps", type=_wrap(parse_rate), default=parse_rate("30"), metavar="F")
    parser.add_argument("-o", dest="out", type=File, metavar="OUT.svg")
    parser.add_argument("--report", type=File, metavar="R.json")
    parser.set_defaults(run=_smooth)


def _timing(text: str) -> float:
    if text in ("keep", "even"):
        return float(text == "even")
    value = _number(text)
    if not 0 <= value <= 1:
        raise FormatError(f"{text!r} is no timing; use keep, even, or a number from 0 to 1")
    return value


def _smooth(options: argparse.Namespace) -> int:
    text = options.file.read_text(encoding="utf-8-sig", errors="replace")
    take = read_take(text).take(fps=options.fps.fps)
    how = Smoothing(options.tolerance or take.suggested, options.steady, options.corner, options.timing, options.close)
    found = smooth(take, how, fps=options.fps.fps)
    path = Path("take", options.file.stem[:80] or "take", (found.run,))
    left, top, right, bottom = bounds(path.subpaths)
    ride = Way(path, Ride(path.id, found.pegs))
    drawn = animate.to_svg(ride, max(int(right) + 1, 1), max(int(bottom) + 1, 1), options.fps.fps)
    report = {
        "samples": len(take.times), "nodes": len(found.run.nodes), "max_deviation": found.deviation,
        "rms_deviation": found.rms, "tolerance": how.tolerance, "length": found.length, "duration": found.duration,
        "tremor": take.tremor, "suggested_tolerance": take.suggested, "corners": found.corners,
        "pauses": len(pauses(take)), "pegs": len(found.pegs), "max_frames_off": found.late,
        "rms_frames_off": found.late_rms, "strongest_turn_deg": found.turn, "notes": list(take.notes),
        "bounds": [left, top, right, bottom],
    }  # fmt: skip
    if options.report is not None:
        _write_whole(options.report, json.dumps(report, indent=2) + "\n")
    if options.out is None:
        sys.stdout.write(drawn)
    else:
        _write_whole(options.out, drawn)
    return 0


def _add_check(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("scene", type=File, metavar="SCENE.json|BUNDLE.zip")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_check)


def _number(text: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = float("nan")
    if not abs(value) <= 1e6:
        raise FormatError(f"{text!r} is no number within a million")
    return value


def _positive(text: str) -> float:
    value = _number(text)
    if value <= 0:
        raise FormatError(f"{text!r} must be more than 0")
    return value


def _laps(text: str) -> float:
    value = _number(text)
    if not 0 < abs(value) <= 1000:
        raise FormatError(f"{text!r} laps: write a number up to 1000, not 0; less than 0 rides backwards")
    return value


def _whole(text: str) -> int:
    if not text.isdecimal() or not 1 <= int(text) <= 100_000:
        raise FormatError(f"{text!r} is no whole number from 1")
    return int(text)


def _workers(text: str) -> int:
    if not text.isdecimal() or int(text) > 64:
        raise FormatError(f"{text!r} is no whole number of drawing processes from 0 to 64")
    return int(text)


def _frames(text: str) -> tuple[int, int | None]:
    first, colon, last = text.partition(":")
    if not colon or not (first or "0").isdecimal() or not (last or "0").isdecimal():
        raise FormatError(f"{text!r} is no range of frames; write A:B, as in 0:48")
    return int(first or 0), int(last) if last else None


def _facing(text: str) -> Facing:
    word, colon, seconds = text.partition(":")
    if word == "ahead" and colon:
        ahead = _positive(seconds)
        if ahead <= 60:
            return Facing("ahead", ahead_s=ahead)
    if text in ("fixed", "along", "reversed"):
        return Facing(text)  # type: ignore[arg-type]
    raise FormatError(f"{text!r} is no facing; use fixed, along, reversed or ahead:S with up to 60 s")


def _wrap(convert: Callable[[str], object]) -> Callable[[str], object]:
    """Let argparse show a refusal's own words."""

    def converted(text: str) -> object:
        try:
            return convert(text)
        except CoreError as error:
            raise argparse.ArgumentTypeError(str(error)) from error

    return converted


def _sample(options: argparse.Namespace) -> int:
    drawn = svg.read(options.file).pick(options.path)
    path = Path("path", (drawn.id or "path")[:80], drawn.subpaths())
    facing = Facing(options.facing.mode, options.turn, ahead_s=options.facing.ahead_s)
    ride = Ride(path.id, (Peg("p1", 0.0, AtPercent(0.0)),), facing, gap=options.gap)
    found = sample(path, ride, seconds=options.seconds, rate=options.fps, pace=options.pace, laps=options.laps)
    text = samples.to_csv(found)
    if options.out is None:
        sys.stdout.write(text)
    else:
        _write_whole(options.out, text)
    return 0


def _write_whole(out: File, text: str) -> None:
    """Write a file so that it is there entirely or not at all."""
    with tempfile.NamedTemporaryFile("w", dir=out.parent, prefix=f".{out.name}.", delete=False) as part:
        try:
            part.write(text)
            part.close()
            os.replace(part.name, out)
        except BaseException:
            os.unlink(part.name)
            raise


def _render(options: argparse.Namespace) -> int:
    video.format_of(options.out)
    first, last = options.frames
    with bundle.opened(options.scene) as (scene, folder):
        order = video.order_for(scene, first, last, options.loops, options.scale)
        show = _progress(order.count) if sys.stderr.isatty() else lambda done: None
        try:
            video.render(scene, folder, options.out, order, workers=options.workers, progress=show)
        except RenderCancelled:
            return 130
    print(f"{options.out}: {order.count} frames at {scene.rate} fps")
    return 0


def _progress(count: int) -> Callable[[int], None]:
    def show(done: int) -> None:
        print(f"\r{done} of {count} frames", end="\n" if done == count else "", file=sys.stderr, flush=True)

    return show


def _check(options: argparse.Namespace) -> int:
    with bundle.opened(options.scene) as (scene, _):
        found = seam.report(Evaluation(scene))
    clean = all(s.clean for s in found)
    if options.json:
        rows = [
            {"layer": s.layer_id, "name": s.name, "position_px": s.position, "angle_deg": s.angle}
            | {"speed_end": s.speed_end, "speed_start": s.speed_start, "clean": s.clean}
            for s in found
        ]
        print(json.dumps({"clean": clean, "layers": rows}, indent=2))
    else:
        _print_seams(found, clean)
    return 0 if clean else 1


def _print_seams(found: list[seam.LayerSeam], clean: bool) -> None:
    width = max([len(s.name) for s in found] + [5])
    print(f"{'layer':{width}}  {'px':>9}  {'degrees':>9}  {'px/s end':>9}  {'px/s start':>10}  seam")
    for s in found:
        verdict = "clean" if s.clean else ", ".join(s.reasons())
        row = f"{s.position:9.2f}  {s.angle:9.2f}  {s.speed_end:9.1f}  {s.speed_start:10.1f}"
        print(f"{s.name:{width}}  {row}  {verdict}")
    print("The loop is clean." if clean else "The loop is not clean.")


def _schema(options: argparse.Namespace) -> int:
    print(json.dumps(codec.json_schema(), indent=2))
    return 0
