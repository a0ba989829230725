"""Files that were brought in, found by their names alone: these are made of their content, so that
a name means the same wherever it is found.
"""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path as File

Finder = Callable[[str], File | None]
"""Returns where a file is, by its name; None if it does not know."""
_finders: list[Finder] = []
_found: dict[str, File] = {}


def add_finder(finder: Finder) -> None:
    if finder not in _finders:
        _finders.append(finder)


def look_in(folder: File) -> None:
    """Let files of a folder be found."""
    add_finder(InFolder(folder))


@dataclass(frozen=True)
class InFolder:
    """Finds what is a file of a folder."""

    folder: File

    def __call__(self, name: str) -> File | None:
        file = self.folder / name
        return file if file.is_file() else None


def file_of(name: str) -> File | None:
    """Return where a file is; None if it is gone."""
    if name not in _found or not _found[name].is_file():
        there = next((file for finder in _finders if (file := finder(name)) is not None), None)
        if there is None:
            _found.pop(name, None)
            return None
        _found[name] = there
    return _found[name]
