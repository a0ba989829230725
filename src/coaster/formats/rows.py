"""Rows of a series: a CSV file with a heading, one render a row."""

import csv
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass

from coaster.errors import FormatError

MOST_ROWS = 10_000
SEPARATORS = ",;\t"
_PLACE = re.compile(r"\{([^{}]*)\}")
_UNFIT = re.compile(r'[\\/:*?"<>|\x00-\x1f]')


@dataclass(frozen=True)
class Row:
    """A row, counted from 1 as people do who leave the heading out, and its values by column."""

    number: int
    values: dict[str, str]


def cells(text: str) -> list[list[str]]:
    """Return the cells of a table, by the separator that its first line has most of; empty lines
    are left out, and names of columns stand without blanks round them.
    """
    plain = text.lstrip("\ufeff")
    separator = max(SEPARATORS, key=plain.split("\n", 1)[0].count)
    lines = [line for line in csv.reader(io.StringIO(plain), delimiter=separator) if any(line)]
    return [[name.strip() for name in line] if i == 0 else line for i, line in enumerate(lines)]


def read(text: str) -> list[Row]:
    """Return the rows of a table; empty ones are left out.

    Errors: FormatError: it has no heading, no row, or too many.
    """
    heading, *lines = cells(text) or [[]]
    if not any(heading) or len(set(heading)) < len(heading):
        raise FormatError("The first line of the rows names the columns, each once.")
    found = []
    for number, line in enumerate(lines, 1):
        if len(line) > len(heading):
            raise FormatError(f"Row {number} has more cells than the first line has columns.")
        if number > MOST_ROWS:
            raise FormatError(f"There are more than {MOST_ROWS:,} rows.")
        line += [""] * (len(heading) - len(line))
        found.append(Row(number, dict(zip(heading, line, strict=True))))
    if not found:
        raise FormatError("There is no row under the first line.")
    return found


def to_csv(table: Sequence[Sequence[str]]) -> str:
    """Return a table as CSV."""
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows(table)
    return out.getvalue()


def file_name(pattern: str, row: Row) -> str:
    """Return a pattern with ``{column}`` replaced by what a row says, and ``{row}`` by its number;
    signs that file names cannot have become dashes.

    Errors: FormatError: there is no such column, or nothing in it.
    """

    def said(found: re.Match[str]) -> str:
        name = found[1].strip()
        value = str(row.number) if name == "row" else row.values.get(name)
        if value is None:
            raise FormatError(f"There is no column {name!r:.80} for the name of the file.")
        fit = _UNFIT.sub("-", value).strip(" .")
        if not fit:
            raise FormatError(f"{name} is empty, and the file is named by it.")
        return fit

    return _PLACE.sub(said, pattern)
