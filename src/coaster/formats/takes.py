"""Takes as CSV, in and out: times and places, one sample a row."""

import csv
import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from coaster.errors import FormatError
from coaster.geometry.bezier import Floats
from coaster.motion.takes import MOST_SAMPLES, Take, checked_take

SEPARATORS = ",;\t "
COLUMNS = ("t", "x", "y", "pressure")
MS = ("ms", "millis", "milliseconds", "time_ms")
FRAMES = ("frame", "frames", "fr")
NAMES = {
    "t": ("t", "time", "seconds", "sec", "s", "time_s", *MS, *FRAMES),
    "x": ("x", "px", "pos_x", "x_px", "posx"),
    "y": ("y", "py", "pos_y", "y_px", "posy"),
}
BIGGEST = 20_000_000


Unit = Literal["s", "ms", "frames"]


def seconds_of(unit: Unit, fps: float) -> float:
    """Return the seconds that one of a unit lasts."""
    return {"s": 1.0, "ms": 0.001, "frames": 1 / fps}[unit]


@dataclass(frozen=True)
class Units:
    """What a file's numbers are: the seconds of one of its time, the px of one of its places, and
    its origin.
    """

    second: float = 1.0
    scale: float = 1.0
    offset: tuple[float, float] = (0.0, 0.0)
    flip_y: bool = False


@dataclass(frozen=True)
class Table:
    """A file's samples as they stand, what its header says that times are in, and any pressure."""

    times: Floats
    places: Floats
    unit: Unit
    pressure: Floats | None = None

    def take(self, units: Units | None = None, *, fps: float = 30.0) -> Take:
        """Return the take in s and px; without ``units`` as its header says, frames at ``fps``.

        Errors: EditRefused: too few samples, or no movement.
        """
        units = units or Units(seconds_of(self.unit, fps))
        places = self.places * (
            units.scale,
            -units.scale if units.flip_y else units.scale,
        ) + np.array(units.offset)
        return checked_take(self.times * units.second, places, self.pressure)


def _check_finite(values: Floats, numbers: Sequence[int]) -> None:
    broken = np.flatnonzero(~np.isfinite(values).all(axis=1))
    if len(broken):
        raise FormatError(
            f"Row {numbers[broken[0]]} has a value that is not a number; nothing was read."
        )


def read(text: str) -> Table:
    """Read samples with a header that names ``t``, ``x`` and ``y``, or three columns in that order
    without one.

    Separators are comma, semicolon, tab or spaces; with semicolons or tabs numbers may have a
    decimal comma.

    Errors: FormatError: no three columns, a cell that is not a number, with its row; too many rows.
    """
    lines, numbers = _lines(text)
    # What splits the first line into three or more; of several the most frequent, spaces last of
    # all.
    separator = max(SEPARATORS, key=lambda s: (lines[0].count(s) > 1, s != " ", lines[0].count(s)))
    rows: list[list[str]] = [line.split() for line in lines]
    if separator != " ":
        rows = _cells(lines, separator)
    columns, unit, body = _columns(rows[0], separator)
    values = np.empty((len(rows) - body, len(columns)))
    for i, row in enumerate(rows[body:]):
        values[i] = _numbers(row, columns, separator, numbers[i + body])
    _check_finite(values, numbers[body:])
    return Table(values[:, 0], values[:, 1:3], unit, values[:, 3] if len(columns) > 3 else None)


def _cells(lines: list[str], separator: str) -> list[list[str]]:
    try:
        return list(csv.reader(lines, delimiter=separator, skipinitialspace=True))
    except csv.Error as error:
        raise FormatError(
            "A cell of the file is longer than any number is; nothing was read."
        ) from error


def _lines(text: str) -> tuple[list[str], list[int]]:
    """Return the lines that say something, and their numbers in the file."""
    if len(text) > BIGGEST:
        raise FormatError("The file is too large for a take; up to 20 MB are read.")
    there = [
        (i, line) for i, line in enumerate(text.lstrip("\ufeff").splitlines(), 1) if line.strip()
    ]
    there = [(i, line) for i, line in there if not line.lstrip().startswith("#")]
    lines, numbers = [line for _, line in there], [i for i, _ in there]
    if not lines:
        raise FormatError("The file is empty; a take has a header t,x,y and a row for each sample.")
    if len(lines) > MOST_SAMPLES + 1:
        raise FormatError(
            f"The file has more than {MOST_SAMPLES:,} rows, which is more than a take holds."
        )
    return lines, numbers


def _numbers(row: list[str], columns: list[int], separator: str, number: int) -> list[float]:
    """Return the numbers of a row; ``number`` is the row's in the file."""
    found = []
    for name, column in zip(COLUMNS, columns, strict=False):
        cell = row[column].strip() if column < len(row) else ""
        try:
            found.append(float(cell.replace(",", ".") if separator != "," else cell))
        except ValueError as error:
            said = f"“{cell[:20]}” is not a number" if cell else "a number is missing"
            raise FormatError(f"Row {number}, {name}: {said}; nothing was read.") from error
    return found


def _columns(head: list[str], separator: str) -> tuple[list[int], Unit, int]:
    """Return the columns of t, x and y, the unit of t, and the rows of the header."""
    names = [cell.strip().strip('"').lower() for cell in head]
    if all(_is_number(name, separator) for name in names):
        if len(names) < 3:
            raise FormatError("A take has three columns: t, x and y.")
        return [0, 1, 2], "s", 0
    found: list[int] = []
    for wanted, able in NAMES.items():
        at = next((i for i, name in enumerate(names) if re.split(r"[ (\[]", name)[0] in able), None)
        if at is None:
            raise FormatError(
                f"The header has no column {wanted}; it names {', '.join(names)[:80] or 'nothing'}."
            )
        found.append(at)
    found += [i for i, name in enumerate(names) if name == "pressure"][:1]
    said = set(re.split(r"[ (\[\])]+", names[found[0]]))
    unit: Unit = "ms" if said & set(MS) else "frames" if said & set(FRAMES) else "s"
    return found, unit, 1


def _is_number(cell: str, separator: str) -> bool:
    try:
        float(cell.replace(",", ".") if separator != "," else cell)
    except ValueError:
        return False
    return True


def to_csv(take: Take) -> str:
    """Return a take as CSV, s and px, exact enough to be read as the same."""
    rows = [f"{t:.6f},{x:.4f},{y:.4f}" for t, (x, y) in zip(take.times, take.places, strict=True)]
    head = "t,x,y"
    if take.pressure is not None:
        head += ",pressure"
        rows = [f"{row},{told:.4f}" for row, told in zip(rows, take.pressure, strict=True)]
    return "\n".join([head, *rows]) + "\n"
