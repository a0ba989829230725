"""Some frames of a scene, for which alone something is worked out."""

from functools import cached_property

import numpy as np

from coaster.geometry.bezier import Floats
from coaster.motion.sense import Rows


def cut(values: Floats, rows: Rows) -> Floats:
    """Return some rows of numbers, of which there is one where it stands for all."""
    return values if len(values) == 1 else values[rows]


class Frames:
    """Frames of a scene, ascending, or moments between them; two of the same are equal."""

    def __init__(self, numbers: Rows | Floats) -> None:
        self._numbers = numbers
        self._key = numbers.tobytes()

    @staticmethod
    def one(frame: int) -> "Frames":
        return Frames(np.array([frame]))

    def __len__(self) -> int:
        return len(self._numbers)

    def __hash__(self) -> int:
        return hash(self._key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Frames) and self._key == other._key

    @cached_property
    def times(self) -> Floats:
        return self._numbers.astype(float)

    def row(self, frame: int) -> int:
        """Return the row in which one of the frames is."""
        return int(np.searchsorted(self._numbers, frame))

    def among(self, length: int) -> tuple[Floats, Rows]:
        """Return the times 0..length with those between them, and in which of them each of these
        is.
        """
        every = np.arange(length + 1.0)
        if self._numbers.dtype.kind == "i":
            return every, self._numbers.astype(np.intp)
        every = np.union1d(every, self._numbers)
        return every, np.searchsorted(every, self._numbers)

    def within(self, length: int) -> tuple[Rows, Floats]:
        """Return the frame before each, and how far it is from there to the next."""
        before = np.minimum(np.floor(self.times), length - 1).astype(np.intp)
        return before, self.times - before
