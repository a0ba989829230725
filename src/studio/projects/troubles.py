"""Ills of the disk and of the database, in words: they are nobody's mistake, and pass."""

import errno

from django.db import DatabaseError

_BY_NUMBER = {
    errno.ENOSPC: "The studio’s disk is full",
    errno.EDQUOT: "The studio’s disk is full",
    errno.EROFS: "The studio’s folder cannot be written to",
    errno.EACCES: "The studio’s folder cannot be written to",
    errno.EPERM: "The studio’s folder cannot be written to",
}
_BY_WORDS = {
    "full": "The studio’s disk is full",
    "readonly": "The studio’s database cannot be written to",
    "locked": "The studio’s database is busy",
    "unable to open": "The studio’s database cannot be opened",
    "disk I/O": "The studio’s disk does not answer",
    "malformed": "The studio’s database is damaged",
    "not a database": "The studio’s database is damaged",
}
"""By what SQLite says."""


def words_of(error: BaseException) -> str | None:
    """Return what ails the disk or the database and what to do, or None where they do not."""
    if isinstance(error, OSError):
        ill = _BY_NUMBER.get(error.errno or 0)
    elif isinstance(error, DatabaseError):
        ill = next((ill for words, ill in _BY_WORDS.items() if words in str(error)), None)
    else:
        ill = None
    if ill is None:
        return None
    return f"{ill}, so this was not kept. What was kept before is safe; ./coaster doctor says more."
