"""Static files under names that change with their content, ES modules' imports included."""

import hashlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.staticfiles.finders import get_finders
from django.core.management import call_command
from whitenoise.compress import Compressor
from whitenoise.storage import CompressedManifestStaticFilesStorage

from studio.config.apps import UsedStaticFiles

IMPORTS = r"""(?P<matched>import(?s:(?P<import>[\s\{].*?))\s*from\s*['"](?P<url>\./.*?)["'])"""
"""Django's own pattern wants a semicolon behind each import; our modules have none."""
MARK = "collected"
"""The file that tells of what the others were made."""


class ModuleStorage(CompressedManifestStaticFilesStorage):
    """Also rewrites ``import`` statements, so that a module never meets an older one."""

    max_post_process_passes = 30
    """Each pass settles the modules that import none that is unsettled: one is needed a step of the
    longest chain.
    """
    patterns = (
        *CompressedManifestStaticFilesStorage.patterns,
        ("*.js", ((IMPORTS, """import%(import)s from "%(url)s\""""),)),
    )

    def create_compressor(self, **options: Any) -> Compressor:
        """By gzip alone: Brotli makes them a seventh smaller, and takes thirty times as long."""
        return Compressor(use_brotli=False, **options)


def collect() -> None:
    """Have the static files as this version needs them; that takes seconds, so not each time."""
    mark, wanted = Path(settings.STATIC_ROOT, MARK), _made_of()
    if mark.exists() and mark.read_text() == wanted:
        return
    mark.unlink(missing_ok=True)
    call_command("collectstatic", verbosity=0, interactive=False)
    mark.write_text(wanted)


def _made_of() -> str:
    """Return what changes with any file that is collected, and with how that is done."""
    return hashlib.sha256("\n".join(sorted(_sources())).encode()).hexdigest()


def _sources() -> Iterator[str]:
    files = [
        Path(storage.path(name))
        for finder in get_finders()
        for name, storage in finder.list(UsedStaticFiles.ignore_patterns)
    ]
    for file in (Path(__file__), *files):
        about = file.stat()
        yield f"{file} {about.st_size} {about.st_mtime_ns}"
