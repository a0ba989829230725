"""What options are made of: numbers, ranges and names, each refused in one sentence."""

import argparse
import sys
from collections.abc import Callable
from pathlib import Path as File

from coaster.errors import CoreError, FormatError
from coaster.files import write_whole
from coaster.motion.rate import parse_rate


def number(text: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = float("nan")
    if not abs(value) <= 1e6:
        raise FormatError(f"{text!r} is not a number within a million")
    return value


def positive(text: str) -> float:
    value = number(text)
    if value <= 0:
        raise FormatError(f"{text!r} must be more than 0")
    return value


def laps(text: str) -> float:
    value = number(text)
    if not 0 < abs(value) <= 1000:
        raise FormatError(
            f"{text!r} laps: write a number up to 1000, not 0; less than 0 rides backwards"
        )
    return value


def whole(text: str) -> int:
    if not text.isdecimal() or not 1 <= int(text) <= 100_000:
        raise FormatError(f"{text!r} is not a whole number from 1")
    return int(text)


def workers(text: str) -> int:
    if not text.isdecimal() or int(text) > 64:
        raise FormatError(f"{text!r} is not a whole number of drawing processes from 0 to 64")
    return int(text)


def frames(text: str) -> tuple[int, int | None]:
    first, colon, last = text.partition(":")
    if not colon or not (first or "0").isdecimal() or not (last or "0").isdecimal():
        raise FormatError(f"{text!r} is not a range of frames; write A:B, as in 0:48")
    return int(first or 0), int(last) if last else None


def checked(convert: Callable[[str], object]) -> Callable[[str], object]:
    """Let argparse show a refusal's own words."""

    def converted(text: str) -> object:
        try:
            return convert(text)
        except CoreError as error:
            raise argparse.ArgumentTypeError(str(error)) from error

    return converted


def add_rate(parser: argparse.ArgumentParser) -> None:
    usual = parse_rate("30")
    kind, words = checked(parse_rate), "frames a second (30)"
    parser.add_argument("--fps", type=kind, default=usual, metavar="F", help=words)


def add_out(parser: argparse.ArgumentParser, metavar: str) -> None:
    words = "instead of standard output"
    parser.add_argument("-o", dest="out", type=File, metavar=metavar, help=words)


def give_out(text: str, out: File | None) -> None:
    """Write to a file, or to standard output without one."""
    if out is None:
        sys.stdout.write(text)
    else:
        write_whole(out, text)
