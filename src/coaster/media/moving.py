"""What there is to know of files of moving pictures without opening one."""

from pathlib import Path as File

FILMED = (".mp4", ".mov", ".webm", ".mkv", ".avi")
ANIMATED = (".gif", ".apng", ".awebp")
STILLS = ".zip"
"""Of numbered pictures."""
MOVING = (*FILMED, *ANIMATED, STILLS)
"""The endings under which they are kept; a person's file may be called otherwise."""
MOST_FRAMES = 36_000
"""Of one file; as many as the longest scene has."""


def is_moving(name: str) -> bool:
    """Whether a file, by the name it is kept under, holds moving pictures."""
    return File(name).suffix in MOVING
