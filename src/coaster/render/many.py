"""Many of one kind: where all of them are, frame by frame."""

from typing import NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from coaster.geometry.bezier import Floats
from coaster.geometry.maps import Maps
from coaster.motion.sense import Rows


class Lanes(NamedTuple):
    """Maps (r, k, 6) or (r, k, 9) and strengths (r, k) of k lanes in r frames, and which of several
    looks each has (r, k), where there are several.
    """

    maps: Maps
    strengths: Floats
    kinds: NDArray[np.intp] | None = None

    def every(self, step: int) -> "Lanes":
        """Return every so-manieth lane."""
        kinds = None if self.kinds is None else self.kinds[:, ::step]
        return Lanes(self.maps[:, ::step], self.strengths[:, ::step], kinds)


class Placing(Protocol):
    """Says where those are that are there in some frames."""

    def at(self, rows: Rows) -> Lanes: ...


def steady_lanes(many: Placing, rows: Rows) -> Lanes:
    """Return all lanes in some frames: of one frame by itself there would be only those that are
    seen in it.
    """
    if len(rows) > 1:
        return many.at(rows)
    maps, strengths, kinds = many.at(np.repeat(rows, 2))
    return Lanes(maps[:1], strengths[:1], None if kinds is None else kinds[:1])


class Many(Placing, Protocol):
    """Says where many are, in so many ``lanes``, each of which is one for as long as it is seen."""

    lanes: int


class Sample:
    """Every so-manieth of many."""

    def __init__(self, many: Many, step: int) -> None:
        self._many, self._step = many, step
        self.lanes = -(-many.lanes // step)

    def at(self, rows: Rows) -> Lanes:
        return self._many.at(rows).every(self._step)
