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


def read(text: str) -> list[Row]:
    """Return the rows of a table; empty ones are left out.

    Errors: FormatError: it has no heading, no row, or too many.
    """
    first = text.lstrip("\ufeff").split("\n", 1)[0]
    separator = max(SEPARATORS, key=first.count)
    reader = csv.reader(io.StringIO(text.lstrip("\ufeff")), delimiter=separator)
    heading = [name.strip() for name in next(reader, [])]
    if not any(heading) or len(set(heading)) < len(heading):
        raise FormatError("The first line of the rows names the columns, each once.")
    found = []
    for number, cells in enumerate((each for each in reader if any(each)), 1):
        if len(cells) > len(heading):
            raise FormatError(f"Row {number} has more cells than the first line has columns.")
        if number > MOST_ROWS:
            raise FormatError(f"There are more than {MOST_ROWS:,} rows.")
        cells += [""] * (len(heading) - len(cells))
        found.append(Row(number, dict(zip(heading, cells, strict=True))))
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
