"""What was read a moment ago, for as long as nothing in the database has changed."""

import copy
import threading
from collections.abc import Callable, Hashable
from typing import Any, TypeVar

from django.db import connection
from django.db.models import Model

Row = TypeVar("Row", bound=Model)
MOST = 4
"""Rows that are kept of each thread, the ones that were read last."""


class _Kept(threading.local):
    """What one thread has read, and in which state the database was then."""

    def __init__(self) -> None:
        self.state: object = None
        self.rows: dict[Hashable, Any] = {}


_KEPT = _Kept()


def as_before(key: Hashable, read: Callable[[], Row]) -> Row:
    """Return a row as it was read for this key before or, where anything was written since, by
    whomever, as it is read now. Each asker has a copy of it; what was read along with it is shared,
    and not to be changed.

    To put a question into SQL takes longer than the rest of a small request; whether anything has
    changed SQLite knows at once.
    """
    state = _state()
    if state is None:
        return read()
    if state != _KEPT.state:
        _KEPT.state, _KEPT.rows = state, {}
    if key not in _KEPT.rows:
        found = read()
        # What is made while it is read is a change of its own, and read once more.
        if _state() != state:
            return found
        _KEPT.rows[key] = found
        while len(_KEPT.rows) > MOST:
            del _KEPT.rows[next(iter(_KEPT.rows))]
    row: Row = copy.copy(_KEPT.rows[key])
    return row


def _state() -> object:
    """Return what differs whenever anything was written, here or by others; None within a
    transaction, which may be taken back.

    Source: SQLite, PRAGMA data_version; sqlite3_total_changes.
    """
    connection.ensure_connection()
    if connection.in_atomic_block:
        return None
    raw = connection.connection
    with connection.wrap_database_errors:
        (written_by_others,) = raw.execute("PRAGMA data_version").fetchone()
    # Another connection counts from the start, so that it is part of it.
    return raw, written_by_others, raw.total_changes
