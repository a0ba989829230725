"""Newton's method kept within a bracket, for many unknowns at once."""

import numpy as np

from coaster.geometry.bezier import Floats


def guarded_step(t: Floats, error: Floats, slope: Floats, low: Floats, high: Floats) -> Floats:
    """Return the next guess at where an error is nothing, each within its bracket.

    Shapes:     all (n,); ``error`` and its ``slope`` are those at ``t``.
    Degenerate: a step that would leave the bracket, or has no slope to go by, goes to its middle.
    """
    with np.errstate(divide="ignore", invalid="ignore"):
        step = t - error / slope
    return np.where((step > low) & (step < high), step, (low + high) / 2)
