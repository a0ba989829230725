"""The kinds of files that moving pictures are read from, known by their content."""

from collections.abc import Callable
from contextlib import closing
from dataclasses import replace
from functools import lru_cache
from pathlib import Path as File

import numpy as np

from coaster.errors import MediaError
from coaster.media import small
from coaster.media.animated import Animated, Stills
from coaster.media.filmed import Video
from coaster.media.following import Followed, Marked, Warp, follow
from coaster.media.moving import ANIMATED, FILMED, MOST_FRAMES, STILLS
from coaster.media.pictures import PNG
from coaster.media.reading import READING, Facts, Footage

READERS: dict[str, Callable[[File], Footage]] = {
    **dict.fromkeys(FILMED, Video),
    **dict.fromkeys(ANIMATED, Animated),
    STILLS: Stills,
}
"""By the endings under which files are kept."""
MOST_PIXELS = 7680 * 4320
FEWEST_TO_LOOP, LIKE_A_STEP = 8, 1.5
"""Frames that a loop has at least; how many steps inside it the one at its seam may be."""
MEETS = "its last frame leads into its first, so it loops: let it play again at its end"
NO_FRAMES = "what is there holds no whole frame. If it broke off on its way, bring it in again"
HEAD = 4096
"""So many bytes of a file tell its kind."""


def ending_of(head: bytes) -> str | None:
    """Return the ending for a file that begins like this; None if it holds no moving pictures."""
    if head[4:8] == b"ftyp":
        return ".mov" if head[8:10] == b"qt" else ".mp4"
    if head[:4] == b"\x1a\x45\xdf\xa3":
        return ".webm" if b"webm" in head[:80] else ".mkv"
    if head[:4] == b"RIFF" and head[8:12] == b"AVI ":
        return ".avi"
    if head[:4] == b"RIFF" and head[8:12] == b"WEBP" and b"ANIM" in head[:64]:
        return ".awebp"
    if head[:8] == PNG and b"acTL" in head:
        return ".apng"
    if head[:4] == b"GIF8":
        return ".gif"
    return ".zip" if head[:4] == b"PK\x03\x04" else None


def open_footage(file: File) -> Footage:
    """Open a file by its ending.

    Errors: MediaError: it is not there, has no frames, or cannot be read.
    """
    try:
        found = READERS[file.suffix](file)
        # Asked here, so that who has it open knows that it can be read.
        _ = found.facts
    except MediaError:
        raise
    except FileNotFoundError as error:
        raise MediaError(f"The footage {file.name} is not there.") from error
    except READING as error:
        # The disk's own words are for people; those of the decoders are not.
        reason = isinstance(error, OSError) and error.strerror
        raise MediaError(f"{file.name} cannot be read: {reason or NO_FRAMES}.") from error
    return found


def look_into(file: File, name: str) -> Facts:
    """Check a person's file, which it calls ``name``, and say what there is to know of it.

    Errors: MediaError in one sentence: it has no frames, or is past the limits.
    """
    try:
        footage = open_footage(file)
    except MediaError as error:
        raise MediaError(str(error).replace(file.name, name)) from error
    with closing(footage):
        facts = footage.facts
        if facts.count > MOST_FRAMES:
            raise MediaError(
                f"{name} has {facts.count:,} frames; footage may have {MOST_FRAMES:,}. Cut it"
                " into parts, and bring in those that you need."
            )
        if facts.width * facts.height > MOST_PIXELS:
            size = f"{facts.width:g} × {facts.height:g}"
            raise MediaError(f"{name} is {size} px; footage may have 7680 × 4320.")
        meets = [MEETS] if _comes_round(footage, facts.count) else []
        return replace(facts, notes=(*facts.notes, *meets))


def small_block(file: File, number: int) -> bytes:
    """Return a block of small frames of a file, for who asks for one after the other.

    Errors: MediaError: it cannot be read.
    """
    return small.block(_asked_last(file), number)


def follow_on(
    file: File, marked: Marked, warp: Warp | None, after: int, step: int, count: int
) -> Followed:
    """Follow a spot through up to so many frames of a file, forwards (``step`` 1) or backwards (-1)
    from the one ``after``.

    Errors: MediaError: it cannot be read, or nothing in the box can be followed.
    """
    footage = _asked_last(file)
    wanted = range(after + step, after + step * (count + 1), step)
    return follow(footage, marked, warp, [i for i in wanted if 0 <= i < footage.facts.count])


def pixel_size(file: File) -> tuple[float, float]:
    """Return how many px frames of a file have across and down, as they are decoded.

    Errors: MediaError: it cannot be read.
    """
    height, width = _asked_last(file).pixels(0).shape[:2]
    return float(width), float(height)


@lru_cache(maxsize=1)
def _asked_last(file: File) -> Footage:
    # Kept open: to go on takes far less than to find the place again.
    return open_footage(file)


def _comes_round(footage: Footage, count: int) -> bool:
    """Whether the step from the last frame to the first is no larger than one inside the file."""
    if count < FEWEST_TO_LOOP:
        return False
    first, second, last = (footage.pixels(i).astype(np.int16) for i in (0, 1, count - 1))
    step, seam = (float(np.abs(each - first).mean()) for each in (second, last))
    return step > 0 and seam <= LIKE_A_STEP * step
