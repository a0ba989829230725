"""When the frames of a moving picture begin, as its file says."""

from functools import lru_cache
from typing import Annotated

import numpy as np

from coaster.documents import Rule, document
from coaster.geometry.bezier import Floats
from coaster.media.moving import MOST_FRAMES

Ticks = Annotated[int, Rule(ge=1, le=1_000_000_000)]
Count = Annotated[int, Rule(ge=1, le=MOST_FRAMES)]


@document
class FrameTimes:
    """``steps`` are runs of frames in order, each with how many there are and how long every one of
    them is seen, in ticks, of which there are ``ticks`` a second. The first begins at 0.
    """

    ticks: Ticks
    steps: Annotated[tuple[tuple[Count, Ticks], ...], Rule(min_length=1, max_length=MOST_FRAMES)]

    def __post_init__(self) -> None:
        if self.count > MOST_FRAMES:
            raise ValueError(f"footage has at most {MOST_FRAMES} frames, not {self.count}")

    @property
    def count(self) -> int:
        return sum(count for count, _ in self.steps)

    @property
    def seconds(self) -> float:
        return sum(count * each for count, each in self.steps) / self.ticks

    @property
    def fps(self) -> float:
        """Frames a second, on average."""
        return self.count / self.seconds

    @property
    def even(self) -> bool:
        """Whether all frames are seen equally long."""
        return len({each for _, each in self.steps}) == 1

    def begins(self) -> Floats:
        """Return when each frame begins, and when the last one ends, in seconds, (count + 1,)."""
        return _begins(self)


@lru_cache(maxsize=64)
def _begins(times: FrameTimes) -> Floats:
    counts, each = np.array(times.steps, np.int64).T
    found: Floats = np.concatenate([[0], np.cumsum(np.repeat(each, counts))]) / times.ticks
    found.flags.writeable = False
    return found
