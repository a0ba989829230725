"""``smooth``: a drawn take as a path of few nodes."""

import argparse
import json
from pathlib import Path as File
from typing import Any

from coaster.cli.options import add_out, add_rate, checked, give_out, number, positive
from coaster.errors import FormatError
from coaster.files import write_whole
from coaster.formats import animate
from coaster.formats.takes import read
from coaster.geometry.path import Path, bounds
from coaster.motion.distance import Way
from coaster.motion.ride import Ride
from coaster.motion.takes import Smoothed, Smoothing, Take, pauses, smooth


def add(parser: argparse.ArgumentParser) -> None:
    one = parser.add_argument
    one("file", type=File, metavar="TAKE.csv")
    more, any_number, share = checked(positive), checked(number), checked(timing)
    one("--tolerance", type=more, metavar="PX", help="by default what its tremor suggests")
    one("--steady", type=any_number, default=0.0, metavar="PX", help="over so much way, first")
    one("--corner", type=more, default=50.0, metavar="DEG", help="sharper turns stay corners")
    one("--timing", type=share, default=0.0, metavar="keep|even|0..1", help="the hand's, or even")
    one("--close", action="store_true", help="make it a loop")
    add_rate(parser)
    add_out(parser, "OUT.svg")
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
    asked = options.steady, options.corner, options.timing, options.close
    how = Smoothing(options.tolerance or take.suggested, *asked)
    found = smooth(take, how, fps=fps)
    path = Path("take", options.file.stem[:80] or "take", (found.run,))
    width, height = (_side(furthest) for furthest in bounds(path.subpaths)[2:])
    drawn = animate.to_svg(Way(path, Ride(path.id, found.pegs)), width, height, fps)
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
