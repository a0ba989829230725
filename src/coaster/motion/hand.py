"""A simulated hand: repeatable takes with tremor, pauses, corners, whole pixels and uneven
sampling.
"""

from dataclasses import dataclass

import numpy as np

from coaster.geometry.bezier import Floats


@dataclass(frozen=True)
class HandTake:
    """A take (times (n,) in s, places (n, 2) in px), the true movement at the same times, and its
    corners.
    """

    times: Floats
    places: Floats
    truth: Floats
    corners: Floats


def _times(chance: np.random.Generator, count: int, rate: float) -> Floats:
    """Return times as uneven as those of a window that is busy with other things."""
    times = np.sort(np.arange(count) / rate + chance.uniform(-0.4, 0.4, count) / rate)
    return np.asarray(times - times[0])


def draw(
    seed: int,
    *,
    length: float = 2000.0,
    tremor: float = 1.0,
    rate: float = 120.0,
    speed: float = 500.0,
    corners: int = 0,
    pauses: int = 0,
    whole_pixels: bool = False,
    uneven: bool = False,
) -> HandTake:
    """Return a take of a wandering movement.

    Units:  px, s, px/s, samples a second; ``tremor`` is its standard deviation an axis. ``corners``
            sharp turns and ``pauses`` of 0.3 s are spread along the way.
    """
    chance = np.random.default_rng(seed)
    seconds = length / speed
    count = max(int(seconds * rate), 8)
    times = _times(chance, count, rate) if uneven else np.arange(count) / rate
    t = times / times[-1]
    heading, at = _heading(chance, t, length, corners)
    steps = np.diff(times, prepend=0.0) * _pace(chance, times, seconds, pauses)
    steps *= length / steps.sum()
    ways = np.stack([np.cos(heading), np.sin(heading)], axis=1)
    truth = np.cumsum(steps[:, None] * ways, axis=0) + 400.0
    shake = tremor * _shake(chance, count, rate) + 0.12 * tremor * chance.normal(0, 1, (count, 2))
    places = np.rint(truth + shake) if whole_pixels else truth + shake
    return HandTake(times, places, truth, np.searchsorted(t, at).astype(float))


def _heading(
    chance: np.random.Generator, t: Floats, length: float, corners: int
) -> tuple[Floats, Floats]:
    """Return a direction that wanders smoothly, as when one draws, and where corners turn it at
    once.
    """
    waves = sum(
        chance.normal(0, 1.1 / k)
        * np.sin(2 * np.pi * k * t * length / 900 + chance.uniform(0, 6.3))
        for k in (1, 2, 3)
    )
    at = np.sort(chance.uniform(0.1, 0.9, corners))
    turns = sum(
        (chance.choice([-1, 1]) * chance.uniform(1.2, 2.4) * (t >= c) for c in at), np.zeros(len(t))
    )
    return np.asarray(waves + turns, float), at


def _pace(chance: np.random.Generator, times: Floats, seconds: float, pauses: int) -> Floats:
    """Return a speed that swells, but for pauses."""
    t = times / times[-1]
    pace = 1 + 0.5 * np.sin(2 * np.pi * t * seconds / 1.7 + chance.uniform(0, 6.3))
    for c in chance.uniform(0.15, 0.85, pauses):
        pace = np.where(np.abs(times - c * times[-1]) < 0.15, 0.0, pace)
    return np.asarray(pace)


def _shake(chance: np.random.Generator, count: int, rate: float) -> Floats:
    """Return tremor of 6 to 14 Hz, as a hand has, of standard deviation 1 an axis."""
    frequencies = np.fft.rfftfreq(count, 1 / rate)
    band = np.exp(-(((frequencies - 9.5) / 3.0) ** 2))
    spectrum = np.fft.rfft(chance.normal(0, 1, (count, 2)), axis=0) * band[:, None]
    shake = np.fft.irfft(spectrum, count, axis=0)
    return np.asarray(shake / max(float(shake.std()), 1e-12))


def follow(seed: int, times: Floats, truth: Floats, *, tremor: float = 1.0) -> HandTake:
    """Return a take of a hand that follows a movement (n, 2), px, at ``times`` (n,), s, evenly
    spaced.
    """
    chance = np.random.default_rng(seed)
    rate = (len(times) - 1) / float(times[-1] - times[0])
    return HandTake(times, truth + tremor * _shake(chance, len(times), rate), truth, np.zeros(0))
