"""How much of a path is drawn in step with a rider of it."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from coaster.geometry.bezier import Floats
from coaster.motion.distance import Way, period_of, travelled

Windows = Floats
"""Rows (n, 2) of distances from a path's start, px, ascending; on a loop they count on."""


@dataclass(frozen=True)
class Lead:
    """A rider in step with which its path is drawn; ``length`` is the scene's, frames."""

    way: Way
    length: int

    def behind(self, times: Floats, trail: float | None = None, *, in_frames: bool) -> Windows:
        """Return what lies between where the rider is at ``times`` (n,) and where it began; with
        ``trail`` so many px of it, or what it came by in so many frames.

        What repeats has been under way forever: its trail goes on behind where it begins.
        """
        tip, began = self._gone(times), self._gone([self.way.ride.start])
        if trail is None:
            return self._window(began, np.maximum(tip, began) if self._repeats else tip)
        if in_frames:
            return self._window(self._gone(times - trail), tip)
        return self._window(tip - trail if self._repeats else np.maximum(tip - trail, began), tip)

    def ahead(self, times: Floats) -> Windows:
        """Return what lies between where the rider is at ``times`` (n,) and where its ride ends."""
        tip, ends = self._gone(times), self._gone([self.way.ride.end])
        return self._window(np.minimum(tip, ends) if self._repeats else tip, ends)

    @property
    def _repeats(self) -> bool:
        return period_of(self.way, self.length) is not None

    @property
    def runs_back(self) -> bool:
        """Whether on the whole it goes against its path."""
        first, last = (self.way.distance(self.way.ride.pegs[i].place) for i in (0, -1))
        return last < first

    @property
    def _sense(self) -> float:
        return -1.0 if self.runs_back else 1.0

    def _gone(self, times: Floats | Sequence[float]) -> Floats:
        """Return how far the rider has come (n,), more and more."""
        return self._sense * travelled(self.way, times, period_of(self.way, self.length))[0]

    def _window(self, one: Floats, other: Floats) -> Windows:
        ends = np.stack(np.broadcast_arrays(one, other), axis=1) * self._sense
        found: Windows = np.sort(ends, axis=1)
        return found
