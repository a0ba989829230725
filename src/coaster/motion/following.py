"""A number over time that follows another one: its range, its curve, its delay and its lag."""

import numpy as np

from coaster.geometry.bezier import Floats
from coaster.motion import easing

SAME = 1e-6
"""What differs by less at both ends of a scene comes round with it."""


def followed(
    source: Floats, reads: tuple[float, float], gives: tuple[float, float], curve: str, *,
    beyond: bool, later: float, lag: float, gain: float = 0.0
) -> Floats:  # fmt: skip
    """Return what follows ``source`` in frames 0..N, (N + 1,).

    ``reads`` are two numbers of it, ``gives`` what is followed then; ``later`` and ``lag`` are
    frames. What comes round with the scene is followed round it, and what grows by ``gain`` in it
    grows on; else the source rests before the scene's start.
    """
    share = (late(source, later, lag, gain) - reads[0]) / (reads[1] - reads[0])
    eased = easing.ease(np.clip(share, 0.0, 1.0), *easing.PRESETS[curve])[0]
    if beyond:
        eased = np.where((share >= 0) & (share <= 1), eased, share)
    return np.asarray(gives[0] + eased * (gives[1] - gives[0]))


def late(source: Floats, later: float, lag: float, gain: float = 0.0) -> Floats:
    """Return numbers that come so much later, and lag; those that grow by ``gain`` in a scene, as a
    heading does by whole turns, grow on beyond it.
    """
    last = len(source) - 1
    if not gain or last < 1:
        return lagging(delayed(source, later), lag)
    # A ramp lags by a number of frames, whatever it is.
    kept = float(np.exp(-1.0 / lag)) if lag > 0 else 0.0
    behind = later + kept / (1.0 - kept)
    frames = np.arange(last + 1.0)
    level = source - gain * frames / last
    return late(level, later, lag) + gain * (frames - behind) / last


def comes_round(source: Floats) -> bool:
    return bool(abs(source[-1] - source[0]) <= SAME * max(1.0, np.abs(source).max()))


def delayed(source: Floats, later: float) -> Floats:
    """Return numbers so many frames later."""
    if not later:
        return source
    last = len(source) - 1
    times = np.arange(last + 1.0) - later
    times = times % last if comes_round(source) else np.clip(times, 0.0, last)
    return np.interp(times, np.arange(last + 1.0), source)


def lagging(source: Floats, lag: float) -> Floats:
    """Return numbers that near the source by a share of what is left each frame, so that after
    ``lag`` frames 63 % of a step are there.

    Source: the step response of a first-order low-pass filter, 1 - exp(-t / lag), exact where the
            source is one number a frame.
    """
    if lag <= 0 or len(source) < 2:
        return source
    kept = float(np.exp(-1.0 / lag))
    start = float(source[0])
    if comes_round(source):
        # After one round it is where it began: x = kept^N x + what came in meanwhile.
        came = _filtered(source, kept, 0.0)[-1]
        start = came / (1.0 - kept ** (len(source) - 1))
    return _filtered(source, kept, start)


def _filtered(source: Floats, kept: float, start: float) -> Floats:
    found, now = [start], start
    for each in source[1:].tolist():
        now = kept * now + (1.0 - kept) * each
        found.append(now)
    return np.array(found)
