"""``smooth``: a drawn take as a path of few nodes."""

import argparse
import json
from pathlib import Path as File
from typing import Any

from coaster.cli.options import checked, give_out, number, positive, write_whole
from coaster.errors import FormatError
from coaster.formats import animate
from coaster.formats.takes import read
from coaster.geometry.path import Path, bounds
from coaster.motion.distance import Way
from coaster.motion.rate import parse_rate
from coaster.motion.ride import Ride
from coaster.motion.takes import Smoothed, Smoothing, Take, pauses, smooth

WORDS = "make a drawn take a path of few nodes"


def add(parser: argparse.ArgumentParser) -> None:
    one = parser.add_argument
    one("file", type=File, metavar="TAKE.csv")
    one(
        "--tolerance",
        type=checked(positive),
        metavar="PX",
        help="by default what its tremor suggests",
    )
    one(
        "--steady",
        type=checked(number),
        default=0.0,
        metavar="PX",
        help="steady it over so much way first",
    )
    one(
        "--corner",
        type=checked(positive),
        default=50.0,
        metavar="DEG",
        help="sharper turns stay corners",
    )
    one(
        "--timing",
        type=checked(timing),
        default=0.0,
        metavar="keep|even|0..1",
        help="the hand's timing, or even",
    )
    one("--close", action="store_true", help="make it a loop")
    one(
        "--fps",
        type=checked(parse_rate),
        default=parse_rate("30"),
        metavar="F",
        help="frames a second (30)",
    )
    one("-o", dest="out", type=File, metavar="OUT.svg", help="instead of standard output")
    one("--report", type=File, metavar="R.json", help="write figures there, too")


def timing(text: str) -> float:
    if text in ("keep", "even"):
        return float(text == "even")
    value = number(text)
    if not 0 <= value <= 1:
        raise FormatError(f"{text!r} is not a timing; use keep, even, or a number from 0 to 1")
    return value


def run(options: argparse.Namespace) -> int:
    fps = options.fps.fps
    text = options.file.read_text(encoding="utf-8-sig", errors="replace")
    take = read(text).take(fps=fps)
    how = Smoothing(
        options.tolerance or take.suggested,
        options.steady,
        options.corner,
        options.timing,
        options.close,
    )
    found = smooth(take, how, fps=fps)
    path = Path("take", options.file.stem[:80] or "take", (found.run,))
    _, _, right, bottom = bounds(path.subpaths)
    drawn = animate.to_svg(Way(path, Ride(path.id, found.pegs)), _side(right), _side(bottom), fps)
    if options.report is not None:
        write_whole(options.report, json.dumps(_report(take, how, found, path), indent=2) + "\n")
    give_out(drawn, options.out)
    return 0


def _side(furthest: float) -> int:
    """Return whole px that a coordinate fits into."""
    return max(int(furthest) + 1, 1)


def _report(take: Take, how: Smoothing, found: Smoothed, path: Path) -> dict[str, Any]:
    return {
        "samples": len(take.times),
        "nodes": len(found.run.nodes),
        "max_deviation": found.deviation,
        "rms_deviation": found.rms,
        "tolerance": how.tolerance,
        "length": found.length,
        "duration": found.duration,
        "tremor": take.tremor,
        "suggested_tolerance": take.suggested,
        "corners": found.corners,
        "pauses": len(pauses(take)),
        "pegs": len(found.pegs),
        "max_frames_off": found.late,
        "rms_frames_off": found.late_rms,
        "strongest_turn_deg": found.turn,
        "notes": list(take.notes),
        "bounds": list(bounds(path.subpaths)),
    }
