"""Some frames of a scene, for which alone something is worked out."""

from functools import cached_property

import numpy as np

from coaster.geometry.bezier import Floats
from coaster.motion.sense import Rows


class Frames:
    """Frames of a scene, ascending; two of the same are equal."""

    def __init__(self, numbers: Rows) -> None:
        self.numbers = numbers
        self._key = numbers.tobytes()

    @staticmethod
    def one(frame: int) -> "Frames":
        return Frames(np.array([frame]))

    def __len__(self) -> int:
        return len(self.numbers)

    def __hash__(self) -> int:
        return hash(self._key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Frames) and self._key == other._key

    @cached_property
    def times(self) -> Floats:
        return self.numbers.astype(float)

    def row(self, frame: int) -> int:
        """Return the row in which one of the frames is."""
        return int(np.searchsorted(self.numbers, frame))
