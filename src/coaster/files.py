"""Files that are there entirely or not at all."""

import os
from contextlib import suppress
from pathlib import Path as File


def part_of(file: File) -> File:
    """Return where a file is written until it is whole."""
    return file.parent / f".{file.name}.{os.getpid()}.part"


def write_whole(file: File, text: str) -> None:
    """Write a file, or leave what is there as it was.

    Errors: OSError, which names the file that was asked for.
    """
    part = part_of(file)
    try:
        part.write_text(text)
        os.replace(part, file)
    except OSError as error:
        error.filename, error.filename2 = str(file), None
        raise
    finally:
        with suppress(OSError):
            part.unlink()
