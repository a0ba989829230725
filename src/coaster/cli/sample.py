"""``sample``: where a rider is in every frame, as CSV."""

import argparse
import sys
from pathlib import Path as File

from coaster.cli.options import add_out, add_rate, checked, give_out, laps, number, positive
from coaster.documents import swapped, trusted
from coaster.errors import FormatError
from coaster.formats import samples, svg
from coaster.geometry.path import Path
from coaster.motion import easing
from coaster.motion.ride import AtPercent, Facing, Peg, Ride
from coaster.motion.sampling import sample


def add(parser: argparse.ArgumentParser) -> None:
    one = parser.add_argument
    one("file", type=File, metavar="FILE.svg")
    one("--path", metavar="ID_OR_INDEX", help="the element's id, or its index from 0")
    one("--seconds", type=checked(positive), default=4.0, metavar="S", help="how long it takes (4)")
    add_rate(parser)
    one(
        "--pace",
        type=checked(easing.parse),
        default=easing.EVEN,
        metavar="P",
        help="even, or a CSS easing",
    )
    one("--laps", type=checked(laps), default=1.0, metavar="L", help="how often along the path (1)")
    one("--facing", type=checked(facing), default=Facing(), metavar="fixed|along|reversed|ahead:S")
    one("--turn", type=checked(number), default=0.0, metavar="DEG", help="added to the facing (0)")
    one("--gap", choices=("glide", "jump"), default="glide", help="what is done between pieces")
    add_out(parser, "OUT.csv")


def facing(text: str) -> Facing:
    word, colon, seconds = text.partition(":")
    with trusted():
        if word == "ahead" and colon:
            ahead = positive(seconds)
            if ahead <= 60:
                return Facing("ahead", ahead_s=ahead)
        if text in ("fixed", "along", "reversed"):
            return Facing(text)  # type: ignore[arg-type]  # one of the modes, as was just asked
    raise FormatError(
        f"{text!r} is not a facing; use fixed, along, reversed or ahead:S with up to 60 s"
    )


def run(options: argparse.Namespace) -> int:
    drawing = svg.read(options.file)
    drawn = drawing.pick(options.path)
    for words in drawing.left_out:
        print(f"coaster sample: {words}", file=sys.stderr)
    timed = {"seconds": options.seconds, "rate": options.fps, "pace": options.pace}
    # What is made of options and a drawing, which are checked where they are read.
    with trusted():
        path = Path("path", (drawn.id or "path")[:80], drawn.subpaths())
        facing = swapped(options.facing, turn=options.turn)
        # One peg is enough: how long it takes and how it goes are the order's.
        ride = Ride(path.id, (Peg("p1", 0.0, AtPercent(0.0)),), facing, gap=options.gap)
        found = sample(path, ride, **timed, laps=options.laps)
    give_out(samples.to_csv(found), options.out)
    return 0
