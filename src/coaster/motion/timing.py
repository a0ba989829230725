"""Timing from samples: pegs for distances that were measured or drawn, as few as meet a
tolerance.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import ArrayLike, NDArray

from coaster.errors import EditRefused
from coaster.geometry.bezier import Floats
from coaster.ids import Ids
from coaster.motion.distance import Way, travelled
from coaster.motion.ride import AtPercent, Peg
from coaster.motion.sections import Reach

MOST_PEGS, FEW = 400, 20
"""Knots at which a fit ends, and up to which they are put in one by one."""
THIRD = 1 / 3
Ints = NDArray[np.intp]


@dataclass(frozen=True)
class Timing:
    """Knots of a piecewise cubic D(t): times, distances, slopes; and its largest miss of a
    sample.
    """

    times: Floats
    distances: Floats
    slopes: Floats
    miss: float


def fit_timing(
    times: ArrayLike,
    distances: ArrayLike,
    tolerance: float,
    *,
    keep: Sequence[float] = (),
    apart: float = 0.0,
) -> Timing:
    """Fit distances over time, continuous in speed, with as few knots as keep every sample within a
    tolerance.

    Shapes:     ``times`` (n,) ascending and ``distances`` (n,) not falling; n >= 2.
    Units:      any; ``tolerance`` as the distances. ``keep`` are times that stay knots and are met
                exactly; other knots keep ``apart``, in the unit of the times, even where that costs
                the tolerance.
    Accuracy:   slopes by least squares, held where the curve would run back (Fritsch and Carlson's
                limit); ``miss`` is measured at the samples. With ``MOST_PEGS`` knots it ends.
    Source:     Fritsch and Carlson, 'Monotone piecewise cubic interpolation' (1980).
    """
    t, d = np.asarray(times, float), np.asarray(distances, float)
    knots = {0, len(t) - 1} | {int(np.argmin(np.abs(t - one))) for one in keep}
    free = np.ones(len(t), bool)
    for knot in knots:
        free &= np.abs(t - t[knot]) >= apart
    while True:
        at = np.array(sorted(knots))
        slopes = _slopes(t, d, at)
        off = np.abs(_hermite(t, t[at], d[at], slopes) - d)
        off[at] = 0.0
        able = np.where(free, off, 0.0)
        if able.max() <= tolerance or len(at) >= min(MOST_PEGS, len(t)):
            return Timing(t[at], d[at], slopes, float(off.max()))
        for fresh in _worst(able, at, tolerance):
            knots.add(fresh)
            near = np.abs(t - t[fresh]) < apart
            free &= ~near
            able[near] = 0.0


def _worst(able: Floats, at: Ints, tolerance: float) -> Iterator[int]:
    """Yield the samples that miss the most: the worst one while there are few knots, then one in
    every section.

    So there are few rounds, and few knots too many.
    """
    sections = [(0, len(able) - 1)] if len(at) < FEW else pairwise(at)
    for a, b in sections:
        if able[a : b + 1].max() > tolerance:
            yield int(a + np.argmax(able[a : b + 1]))


def at(timing: Timing, times: ArrayLike) -> Floats:
    """Return the distances of a timing at ``times``."""
    t = np.clip(np.asarray(times, float), timing.times[0], timing.times[-1])
    return _hermite(t, timing.times, timing.distances, timing.slopes)


def _slopes(t: Floats, d: Floats, at: Ints) -> Floats:
    """Return the slopes at knots that come nearest to all samples, and never lead back."""
    x, y = t[at], d[at]
    k, u = _shares(t, x)
    step = np.diff(x)
    mean, h = np.diff(y) / step, step[k]
    rest = d - _rise(u, y[k], y[k + 1])
    left, right = u * (1 - u) ** 2 * h, u**2 * (u - 1) * h
    found = _least_squares(k, left, right, rest, mean)
    # Up to three times the lesser of the means beside it, a slope lets neither section run back.
    lesser = np.minimum(np.append(mean[:1], mean), np.append(mean, mean[-1:]))
    return np.asarray(np.clip(found, 0.0, 3 * lesser))


def _least_squares(k: Ints, left: Floats, right: Floats, rest: Floats, mean: Floats) -> Floats:
    """Return the slopes at knots whose curves, ``left`` and ``right`` of the sections k, come
    nearest to ``rest``.
    """
    n = len(mean) + 1
    main = np.bincount(k, left * left, n) + np.bincount(k + 1, right * right, n)
    beside = np.bincount(k, left * right, n)[:-1]
    # Where no sample lies between, nothing says what the slope is: the mean of both sides is taken.
    guess = np.concatenate([mean[:1], (mean[:-1] + mean[1:]) / 2, mean[-1:]])
    slight = 1e-6 * float(main.max() or 1.0)
    normal = np.diag(main + slight) + np.diag(beside, 1) + np.diag(beside, -1)
    sides = np.bincount(k, left * rest, n) + np.bincount(k + 1, right * rest, n)
    return np.asarray(np.linalg.solve(normal, sides + slight * guess))


def _shares(t: Floats, x: Floats) -> tuple[Ints, Floats]:
    """Return for times the section between knots x, and the share of it that has passed."""
    k = np.clip(np.searchsorted(x, t, side="right") - 1, 0, len(x) - 2)
    return k, (t - x[k]) / np.diff(x)[k]


def _rise(u: Floats, first: Floats, last: Floats) -> Floats:
    """Return Hermite's cubic from ``first`` to ``last`` that is level at both ends."""
    return np.asarray((1 + 2 * u) * (1 - u) ** 2 * first + u**2 * (3 - 2 * u) * last)


def _hermite(t: Floats, x: Floats, y: Floats, m: Floats) -> Floats:
    k, u = _shares(t, x)
    h = np.diff(x)[k]
    rise = _rise(u, y[k], y[k + 1])
    return np.asarray(rise + u * (1 - u) ** 2 * h * m[k] + u**2 * (u - 1) * h * m[k + 1])


def pegs_of(timing: Timing, length: float, *, known: Sequence[Peg] = ()) -> tuple[Peg, ...]:
    """Return the pegs of a timing in px on a path of a length.

    Those of ``known`` that stand at a knot's time keep their id and their place.
    """
    made = _at_knots(timing, length, known)
    gone = np.diff(timing.distances)
    means = gone / np.diff(timing.times)
    means[gone <= 1e-9 * max(length, 1e-9)] = 0.0
    for k, mean in enumerate(means.tolist()):
        out, into = (_reach(slope, mean) for slope in timing.slopes[k : k + 2].tolist())
        made[k] = replace(made[k], leave=out)
        made[k + 1] = replace(made[k + 1], arrive=into)
    return tuple(made)


def _reach(slope: float, mean: float) -> Reach:
    """Return the reach over a third of a section's time; in a rest any is as good."""
    return Reach(THIRD, min(slope / mean, 3.0) * THIRD if mean else THIRD)


def _at_knots(timing: Timing, length: float, known: Sequence[Peg]) -> list[Peg]:
    """Return a peg for each knot: that which stands there already, or a new one."""
    ids = Ids(peg.id for peg in known)
    made: list[Peg] = []
    for time, distance in zip(timing.times.tolist(), timing.distances.tolist(), strict=True):
        peg = next((peg for peg in known if abs(peg.time - time) < 1e-6), None)
        if peg is None:
            percent = distance / length * 100 if length else 0.0
            peg = Peg(ids.fresh("peg"), time, AtPercent(percent))
        made.append(replace(peg, step="none"))
    return made


def fit_speeds(
    way: Way, times: ArrayLike, speeds: ArrayLike, *, tolerance: float = 1.0
) -> tuple[tuple[Peg, ...], float]:
    """Return pegs for a speed drawn over time, and how far, in px, they miss what it gives.

    Shapes:   ``times`` (n,) ascending frames and ``speeds`` (n,) px a frame, not negative; where
              nothing was drawn the ride keeps its own speed.
    Accuracy: every peg keeps its time and its place: in each section the drawn speed is scaled so
              that its area is the distance to cover.
    Errors:   EditRefused: fewer than two points, a ride of one peg, or a way that turns back.
    """
    t, v = np.asarray(times, float), np.asarray(speeds, float)
    pegs = way.ride.pegs
    if len(t) < 2 or len(pegs) < 2:
        raise EditRefused(
            "A drawn speed takes a stroke over some time, and a ride that goes from one peg to"
            " another."
        )
    stops = np.array([way.distance(peg.place) for peg in pegs])
    if np.any(np.diff(stops) < 0):
        raise EditRefused(
            "The ride turns back on its way; draw the speed of rides that go one way."
        )
    order = np.argsort(t, kind="stable")
    marks = np.array([peg.time for peg in pegs])
    grid = np.unique(np.concatenate([np.arange(np.ceil(marks[0]), marks[-1], 0.5), marks]))
    gone = _gone(way, grid, t[order], np.maximum(v[order], 0.0))
    distance = _between(gone, np.searchsorted(grid, marks), stops)
    found = fit_timing(grid, distance, tolerance, keep=[float(m) for m in marks])
    return pegs_of(found, way.length, known=pegs), found.miss


def _gone(way: Way, grid: Floats, t: Floats, v: Floats) -> Floats:
    """Return how far a rider gets by a speed v drawn at times t; elsewhere it keeps its own."""
    _, own = travelled(way, grid)
    speed = np.where((grid >= t[0]) & (grid <= t[-1]), np.interp(grid, t, v), np.abs(own))
    return np.concatenate([[0.0], np.cumsum(np.diff(grid) * (speed[1:] + speed[:-1]) / 2)])


def _between(gone: Floats, at: Ints, stops: Floats) -> Floats:
    """Return distances that meet the ``stops`` at the rows ``at``, between them in proportion to
    ``gone``; evenly where nothing is gone.
    """
    found = np.empty_like(gone)
    for k, (a, b) in enumerate(pairwise(at)):
        area = gone[b] - gone[a]
        even = np.linspace(0, 1, b - a + 1)
        share = (gone[a : b + 1] - gone[a]) / area if area > 0 else even
        found[a : b + 1] = stops[k] + share * (stops[k + 1] - stops[k])
    return found
