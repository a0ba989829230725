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


PER_PX = 4
"""Places a px at which a movement is made up before it is timed."""


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
            sharp turns, before which a hand slows down, and ``pauses`` of 0.3 to 0.8 s are spread
            along the way.
    """
    chance = np.random.default_rng(seed)
    way = np.linspace(0.0, length, int(PER_PX * length))
    places, turns = _course(chance, way, corners)
    when = _clock(chance, way, turns, speed, pauses)
    count = max(int(when[-1] * rate), 8)
    times = np.arange(count) / rate
    if uneven:  # as when a window is busy with other things
        times = np.sort(times + chance.uniform(-0.4, 0.4, count) / rate)
        times -= times[0]
    gone = np.interp(times, when, way)
    truth = np.stack([np.interp(gone, way, places[:, k]) for k in (0, 1)], axis=1) + 400.0
    shake = tremor * _shake(chance, count, rate) + 0.12 * tremor * chance.normal(0, 1, (count, 2))
    drawn = np.rint(truth + shake) if whole_pixels else truth + shake
    return HandTake(times, drawn, truth, np.searchsorted(gone, turns).astype(float))


def _course(chance: np.random.Generator, way: Floats, corners: int) -> tuple[Floats, Floats]:
    """Return places that wander smoothly along a way (n,), px, with sharp turns; and where these
    are on it.
    """
    waves = ((0.004, 900.0), (0.006, 400.0), (0.008, 180.0))
    bend = sum(
        chance.normal(0, size) * np.sin(2 * np.pi * way / wave + chance.uniform(0, 6.3))
        for size, wave in waves
    )
    step = way[1] - way[0]
    heading = chance.uniform(0, 6.3) + np.cumsum(bend) * step
    # Apart from each other, and from the ends.
    at = way[-1] * (np.arange(corners) + chance.uniform(0.3, 0.7, corners)) / max(corners, 1)
    for where in at:
        heading = heading + chance.choice([-1, 1]) * chance.uniform(1.2, 2.4) * (way >= where)
    places = np.cumsum(step * np.stack([np.cos(heading), np.sin(heading)], axis=1), axis=0)
    return places, at


def _clock(
    chance: np.random.Generator, way: Floats, turns: Floats, speed: float, pauses: int
) -> Floats:
    """Return when each place of a way is passed, s: slowly at turns and ends, with rests."""
    pace = speed * (1 + 0.5 * np.sin(2 * np.pi * way / 850 + chance.uniform(0, 6.3)))
    rests = chance.uniform(0.15, 0.85, pauses) * way[-1]
    for where in (0.0, *turns, *rests, way[-1]):
        pace = pace * (1 - 0.8 * np.exp(-(((way - where) / 20) ** 2)))
    steps = np.diff(way, prepend=0.0) / pace
    for where in rests:
        steps[np.searchsorted(way, where)] += chance.uniform(0.3, 0.8)
    return np.asarray(np.cumsum(steps) - steps[0])


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
