"""Of many samples those between which straight lines are near enough."""

import numpy as np

from coaster.geometry.bezier import Floats


def bends(times: Floats, column: Floats, tolerance: float) -> list[int]:
    """Return the rows of a column (n, k) at ascending ``times`` (n,) that are kept, so that all
    others lie within ``tolerance`` of the line between those beside them; first and last are.

    Source: Douglas and Peucker's way, with the distance told at the same time.
    """
    end = len(column) - 1
    found, stack = {0, end}, [(0, end)]
    while stack:
        first, last = stack.pop()
        if last - first < 2:
            continue
        inner = slice(first + 1, last)
        share = (times[inner] - times[first])[:, None] / (times[last] - times[first])
        line = column[first] + share * (column[last] - column[first])
        off = np.abs(column[inner] - line).max(axis=1)
        worst = int(off.argmax())
        if off[worst] > tolerance:
            middle = first + 1 + worst
            found.add(middle)
            stack += [(first, middle), (middle, last)]
    return sorted(found)
