"""Settle: what follows a value with delay, over a whole sequence at once."""

from itertools import accumulate

import numpy as np

from coaster.geometry.bezier import Floats

SETTLED = 3.0
"""Time constants after which 95 % of a step are done: ``settle`` is the time until then."""


def _followed(values: Floats, keep: float) -> Floats:
    """Return what follows values, keeping a share of where it was from each to the next."""
    first = float(values[0])
    # From the first one on, so that what is far away loses no digits.
    follow = accumulate(
        (values - first).tolist(), lambda before, now: keep * before + (1 - keep) * now
    )
    return first + np.fromiter(follow, float, len(values))


def settled(values: Floats, settle: float, *, loop: bool = False) -> Floats:
    """Return values softened by a causal exponential.

    Shapes:     ``values`` (n,) or (n, k), one a frame; the same out.
    Units:      ``settle`` in frames: after a step, 95 % of it are done by then.
    Accuracy:   the value at a frame is the same however it is come to: it depends on the sequence
                alone. With ``loop``, where the last value continues the first (turns and laps
                counted on), the sequence is warmed up by itself: out[-1] - out[0] = values[-1] -
                values[0].
    Degenerate: 0 or less changes nothing.
    """
    if settle <= 0 or len(values) < 2:
        return values
    if values.ndim > 1:
        return np.stack([settled(column, settle, loop=loop) for column in values.T], axis=1)
    keep = float(np.exp(-SETTLED / settle))
    out = _followed(values, keep)
    if not loop:
        return out
    # The lag to begin with is that which is left at the end: lag = keep^N lag + (out[-1] -
    # values[-1]).
    fading = keep ** np.arange(len(values))
    return np.asarray(out + fading * (out[-1] - values[-1]) / (1 - fading[-1]))
