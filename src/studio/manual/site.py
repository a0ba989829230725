"""Where the manual's pages are: in a package as they were built with it; in a project built from
``docs`` when they are asked for, the first time or after these have changed.
"""

import subprocess
import sys
import threading
from collections.abc import Iterator
from pathlib import Path as File

from django.conf import settings

import coaster
from coaster.errors import MediaError

PACKAGED = settings.PACKAGE / "manual" / "pages"
PROJECT = settings.PACKAGE.parents[1]
TAKEN_IN = (
    "src/studio/editor/help.py",
    "src/studio/static/studio/js/commands.js",
    "src/coaster/*/*.py",
)
"""What the pages are made of beside ``docs``: topics, keys, and where the mathematics is from."""
LONGEST_S = 300
_one_at_a_time = threading.Lock()


def folder() -> File:
    """Return the folder of the pages, which takes some seconds where they have to be built.

    Errors: MediaError: they are not there and cannot be built.
    """
    if PACKAGED.is_dir():
        return PACKAGED
    if not (PROJECT / "docs" / "conf.py").exists():
        raise MediaError("This copy of Coaster came without the pages of its manual.")
    built = settings.DATA / "manual"
    mark = built / ".made-of"
    with _one_at_a_time:
        age = _age()
        if not mark.exists() or mark.read_text() != age:
            build(built)
            mark.write_text(age)
    return built


def build(into: File) -> None:
    """Build the pages into a folder.

    Errors: MediaError: Sphinx, which builds them, is not there, or says that it cannot.
    """
    command = [sys.executable, "-m", "sphinx", "-q", "-b", "html", "-A", "studio=1"]
    try:
        done = subprocess.run(  # noqa: S603 - ours, on our own pages
            [*command, "-d", str(into / ".parsed"), str(PROJECT / "docs"), str(into)],
            capture_output=True,
            text=True,
            timeout=LONGEST_S,
            check=False,
        )
    except subprocess.TimeoutExpired as error:
        raise MediaError("The manual took too long to build; try again later.") from error
    if done.returncode:
        last = (done.stderr.strip().splitlines() or ["nothing"])[-1]
        raise MediaError(f"The manual could not be built; Sphinx says: {last:.200}")


def _age() -> str:
    """Return a text that is another one once something that the pages are made of has changed."""
    seen = [file.stat().st_mtime_ns for file in _sources()]
    return f"{coaster.__version__} {len(seen)} {max(seen)}"


def _sources() -> Iterator[File]:
    yield from (file for file in (PROJECT / "docs").rglob("*") if file.is_file())
    for pattern in TAKEN_IN:
        yield from PROJECT.glob(pattern)
