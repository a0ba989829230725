"""One path ridden once, without a scene: what the command line samples."""

from dataclasses import dataclass

import numpy as np

from coaster.errors import FormatError
from coaster.geometry.path import Path
from coaster.motion import travel
from coaster.motion.distance import Way
from coaster.motion.easing import EVEN, Pace, Steps
from coaster.motion.pace import in_steps
from coaster.motion.rate import Rate
from coaster.motion.ride import AtPercent, Peg, Ride
from coaster.motion.sections import paced
from coaster.motion.travel import Travel

MOST_ROWS = 1_000_000


@dataclass(frozen=True)
class Sampled:
    """A travel over ``len(travel.along)`` frames at ``rate``, and the turn of its rider."""

    travel: Travel
    rate: Rate
    turn_deg: float


def simple_pegs(start: float, end: float, laps: float, pace: Pace) -> tuple[Peg, ...]:
    """Return the two pegs of a plain travel: 0 % at ``start``, ``laps`` x 100 % at ``end``
    (frames).
    """
    first, last = Peg("p1", start, AtPercent(0.0)), Peg("p2", end, AtPercent(100.0 * laps))
    return paced((first, last) if end > start else (first,), pace)


def sample(
    path: Path, ride: Ride, *, seconds: float, rate: Rate, pace: Pace | Steps, laps: float = 1.0
) -> Sampled:
    """Ride ``path`` once in ``seconds``; the pegs of ``ride`` are replaced.

    Shapes:   round(seconds x fps) frames. An open path reaches its end in the last one; on a
              closed one frame i of n is at i/n, so that n would be the start again.
    Errors:   FormatError: no frame at all, or more than ``MOST_ROWS``.
    """
    count = rate.frames(seconds) if seconds < MOST_ROWS else MOST_ROWS + 1
    if not 1 <= count <= MOST_ROWS:
        raise FormatError(
            f"{seconds:g} s at {rate} frames a second are {count} frames; 1 to {MOST_ROWS:,} are"
            " possible."
        )
    span = count if path.loops else count - 1
    smooth = EVEN if isinstance(pace, Steps) else pace
    pegs = simple_pegs(0.0, float(span), laps, smooth)
    way = Way(path, Ride(path.id, pegs, ride.facing, ride.offset, ride.gap))
    if isinstance(pace, Steps):
        way = way.with_pegs(in_steps(way, pace))
    period = float(count) if path.loops else None
    ridden = travel.evaluate(way, np.arange(count), fps=rate.fps, period=period)
    return Sampled(ridden, rate, ride.facing.turn)
