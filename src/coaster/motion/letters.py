"""Letters: a text whose parts ride by themselves, one behind the other as they are set."""

from typing import Literal, get_args

import numpy as np

from coaster.documents import document
from coaster.geometry.bezier import Floats
from coaster.motion import keys
from coaster.motion.keys import Keys
from coaster.motion.sections import Frames

By = Literal["letter", "word", "line"]
BY: tuple[By, ...] = get_args(By)
MOST_LATER = 100_000
"""Frames by which the last part may come later."""


@document
class Letters:
    """Each part of a text, ``by`` letter, word or line, rides in its own place in the text: so far
    ahead or behind as it is set from the anchor, lines beside each other.

    Each does what the one before does, ``later`` frames later. With ``squeeze`` they lie closer
    where the path is shorter than the text.
    """

    by: By = "letter"
    later: Frames = 0.0
    squeeze: bool = False


@document
class Spread:
    """How a part comes to lie farther from its text's anchor than the ``set`` percent of the path:
    by keys of what is ``added`` as the text is set wider, and of how many times all of that has
    ``grown``.
    """

    set: float
    added: Keys = ()
    grown: tuple[Keys, ...] = ()

    def beyond(self, times: Floats) -> tuple[Floats, Floats]:
        """Return how much farther it is at ``times`` (n,), percent, and the change a frame."""
        ahead, rate = np.full(times.shape, self.set), np.zeros(times.shape)
        if self.added:
            wider, rate = keys.values(self.added, times)
            ahead = ahead + wider
        for factors in self.grown:
            factor, gain = keys.values(factors, times)
            ahead, rate = ahead * factor, rate * factor + ahead * gain
        return ahead - self.set, rate

    def later(self, frames: float) -> "Spread":
        """Return the same, so many frames later."""
        grown = tuple(keys.later(each, frames) for each in self.grown)
        return Spread(self.set, keys.later(self.added, frames), grown)
