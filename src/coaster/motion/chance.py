"""Numbers by chance that are the same everywhere: each by a seed, what it is of, and its number."""

import numpy as np
from numpy.typing import NDArray

from coaster.geometry.bezier import Floats

STREAMS = 8
"""Of one seed, so many kinds of numbers."""


def chance(seed: int, of: int, numbers: NDArray[np.integer]) -> Floats:
    """Return numbers -1..1 for whole numbers of any shape, each by its number alone.

    Source: the finalizer of splitmix64 (Steele, Lea and Flood, 2014), on a counter.
    """
    with np.errstate(over="ignore"):
        x = numbers.astype(np.uint64) + np.uint64((seed * STREAMS + of) << 32)
        x = (x + np.uint64(1)) * np.uint64(0x9E3779B97F4A7C15)
        x = (x ^ (x >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        x = (x ^ (x >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return ((x ^ (x >> np.uint64(31))) >> np.uint64(11)).astype(float) / 2.0**52 - 1.0
