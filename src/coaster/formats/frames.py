"""Tables of frames that come from elsewhere: CSV with a heading, or JSON with columns."""

import csv
import io
import json
from typing import Any

import numpy as np

from coaster.errors import FormatError
from coaster.geometry.bezier import Floats

Columns = dict[str, Floats]
MOST = 200_000


def read(text: str, layer: str = "") -> Columns:
    """Return the columns of a table, by their names in small letters; of one that tells of several
    layers those of ``layer``, by its id or name, or of its only one.

    Shapes: (n,) each, all as long, sorted as they stand there.
    Errors: FormatError: it is no such table, or not of that layer.
    """
    rows = _of_json(text, layer) if text.lstrip().startswith(("{", "[")) else _of_csv(text, layer)
    if not rows or not len(next(iter(rows.values()))):
        raise FormatError("The table holds no frame.")
    if len({len(column) for column in rows.values()}) > 1:
        raise FormatError("The columns of the table are not equally long.")
    return rows


def _of_csv(text: str, layer: str) -> Columns:
    reader = csv.DictReader(io.StringIO(text))
    names = [name.strip().lower() for name in reader.fieldnames or ()]
    if len(names) < 2:
        raise FormatError("The first line of the table names its columns: frame, x, y, ….")
    reader.fieldnames = names
    rows = [row for _, row in zip(range(MOST + 1), reader, strict=False)]
    if len(rows) > MOST:
        raise FormatError(f"The table has more than {MOST:,} rows.")
    if "layer" in names:
        wanted = layer or _only({str(row["layer"]) for row in rows})
        rows = [row for row in rows if row["layer"] == wanted]
        if not rows:
            raise FormatError(f"The table tells of no layer {wanted!r:.80}.")
    wide = [name for name in names if name not in ("layer", "name")]
    return {name: _numbers(name, [row[name] for row in rows]) for name in wide}


def _of_json(text: str, layer: str) -> Columns:
    try:
        told = json.loads(text)
    except ValueError as error:
        raise FormatError("The table is no JSON that can be read.") from error
    if isinstance(told, dict) and isinstance(told.get("layers"), list):
        layers = [each for each in told["layers"] if isinstance(each, dict)]
        wanted = layer or _only({str(each.get("layer")) for each in layers})
        told = next((x for x in layers if wanted in (x.get("layer"), x.get("name"))), None)
        if told is None:
            raise FormatError(f"The table tells of no layer {wanted!r:.80}.")
    if not isinstance(told, dict):
        raise FormatError("The table is to be an object of columns: frame, x, y, ….")
    return {
        str(name).lower(): _numbers(str(name), column)
        for name, column in told.items()
        if isinstance(column, list)
    }


def _only(names: set[str]) -> str:
    if len(names) != 1:
        some = ", ".join(sorted(names)[:5])
        raise FormatError(f"The table tells of several layers ({some}); say of which one.")
    return names.pop()


def _numbers(name: str, values: list[Any]) -> Floats:
    try:
        found = np.array([float(value) for value in values], float)
    except (TypeError, ValueError) as error:
        raise FormatError(f"In the column {name!r:.40} not all are numbers.") from error
    if not np.isfinite(found).all():
        raise FormatError(f"In the column {name!r:.40} not all are numbers.")
    return found
