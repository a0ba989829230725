"""What was worked out a moment ago, kept for when it is asked again; many missing ones are made
together.
"""

from collections.abc import Callable, Hashable, Sequence
from threading import Lock
from typing import Generic, TypeVar, cast

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


class Recent(Generic[K, V]):
    """The ``most`` values made last; threads may share it. Keys are hashed as rarely as can be."""

    def __init__(self, most: int) -> None:
        self._kept: dict[K, V] = {}
        self._most, self._lock = most, Lock()

    def all(self, keys: Sequence[K], make: Callable[[list[K]], Sequence[V]]) -> list[V]:
        """Return the values of all keys; ``make`` is called once, with those that are missing."""
        found = [self._kept.get(key) for key in keys]
        missing = [i for i, value in enumerate(found) if value is None]
        if missing:
            made = make([keys[i] for i in missing])
            with self._lock:
                for i, value in zip(missing, made, strict=True):
                    found[i] = self._kept[keys[i]] = value
                while len(self._kept) > self._most:
                    del self._kept[next(iter(self._kept))]
        return cast(list[V], found)  # none of them is missing any more

    def clear(self) -> None:
        with self._lock:
            self._kept.clear()
