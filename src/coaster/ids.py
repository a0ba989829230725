"""Ids that can be read: made from a name, and counted on when taken."""

import re
import unicodedata
from collections.abc import Collection, Iterable

LONGEST = 32


def fresh_id(name: str, taken: Collection[str], fallback: str = "thing") -> str:
    """Return an id like ``reef-run`` or, if that is taken, ``reef-run-2``."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    stem = re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:LONGEST].strip("-") or fallback
    if stem not in taken:
        return stem
    return next(f"{stem}-{n}" for n in range(2, len(taken) + 3) if f"{stem}-{n}" not in taken)


def fresh_name(name: str, taken: Collection[str]) -> str:
    """Return the name or, if that is taken, ``name 2``, ``name 3``, ..."""
    if name not in taken:
        return name
    stem = re.sub(r" \d+$", "", name)
    return next(f"{stem} {n}" for n in range(2, len(taken) + 3) if f"{stem} {n}" not in taken)


class Ids:
    """Ids of things, and fresh ones for more of them; each takes the same time, however many there
    are.
    """

    def __init__(self, taken: Iterable[str] = ()) -> None:
        self._taken = set(taken)
        self._next: dict[str, int] = {}

    def fresh(self, stem: str) -> str:
        """Return an id like ``key`` or, if that is taken, ``key-2``, which is taken then."""
        number = self._next.get(stem, 1)
        found = stem
        while found in self._taken:
            number += 1
            found = f"{stem}-{number}"
        self._next[stem] = number
        self._taken.add(found)
        return found
