"""Rows of a series: a CSV file with a heading, one render a row."""

import codecs
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


def decoded(data: bytes) -> str:
    """Return the text of a file of rows, which is UTF-8, or UTF-16 where its first bytes say so.

    Errors: FormatError: it is neither. Another encoding would have to be guessed.
    """
    wide = data.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE))
    try:
        return data.decode("utf-16" if wide else "utf-8-sig")
    except UnicodeDecodeError as error:
        line = data.count(b"\n", 0, error.start) + 1
        raise FormatError(
            f"The rows are not UTF-8: line {line} has a sign that is none there. Nothing was read;"
            " save the table as CSV in UTF-8."
        ) from error


def cells(text: str) -> list[list[str]]:
    """Return the cells of a table, by the separator that its first line has most of; empty lines
    are left out, and names of columns stand without blanks round them.

    Errors: FormatError: it is no table.
    """
    plain = text.lstrip("\ufeff")
    separator = max(SEPARATORS, key=plain.split("\n", 1)[0].count)
    try:
        lines = [line for line in csv.reader(io.StringIO(plain), delimiter=separator) if any(line)]
    except csv.Error as error:
        raise FormatError(f"The rows are no CSV: {error}.") from error
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
