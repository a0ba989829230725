"""Takes: a movement as it was drawn by hand, and the path and the pegs that say the same with
little.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import ArrayLike

from coaster.errors import EditRefused
from coaster.geometry import bezier, courses, samples
from coaster.geometry.bezier import Floats
from coaster.geometry.measure import MeasuredPath
from coaster.geometry.path import Subpath
from coaster.motion import easing, timing
from coaster.motion.ride import Peg
from coaster.motion.sampling import simple_pegs

MOST_SAMPLES = 100_000
PER_SEGMENT = 32
"""Even parameters at which a segment is measured to tell how far along a sample is."""
REST_S = 0.2
"""A rest shorter than this is no pause."""
APART = 3.0
"""Frames that pegs keep between them: nearer ones could not be seen, or edited."""
GAP_S = 1.0
"""Seconds without a sample that are told of."""
MOST_LOOKS = 100_000
"""Places at which the sharpest turn is looked for."""
SUGGESTED = 3.1
"""The tolerance that is suggested, in sizes of the tremor: what steadies it and follows the
movement.
"""


@dataclass(frozen=True)
class Take:
    """Raw samples: times (n,) in s, ascending from 0, places (n, 2) in px; ``notes`` say what was
    left out.

    ``pressure`` (n,), 0..1, is there if the device told any.
    """

    times: Floats
    places: Floats
    notes: tuple[str, ...] = ()
    pressure: Floats | None = None

    @property
    def duration(self) -> float:
        return float(self.times[-1])

    @property
    def rate(self) -> float:
        """Return how many samples come in a second."""
        return (len(self.times) - 1) / max(self.duration, 1e-9)

    @property
    def tremor(self) -> float:
        return samples.tremor(self.places, self.times)

    @property
    def suggested(self) -> float:
        """Return the tolerance, px, that this take's own tremor suggests."""
        return float(np.clip(round(SUGGESTED * self.tremor, 1), 0.5, 50.0))


def checked_take(times: ArrayLike, places: ArrayLike, pressure: ArrayLike | None = None) -> Take:
    """Return a take from samples as they came.

    Samples that are not later than the one before are left out, and told of; so are seconds without
    any.

    Errors: EditRefused: fewer than two samples, too many, one that is not a number, or all in one
    place.
    """
    t, p = np.asarray(times, float).ravel(), np.asarray(places, float).reshape(-1, 2)
    if len(t) != len(p) or len(t) < 2:
        raise EditRefused("A take needs two samples or more; press, draw, and let go.")
    if len(t) > MOST_SAMPLES:
        raise EditRefused(
            f"A take of {len(t):,} samples is too long; up to {MOST_SAMPLES:,} can be kept."
        )
    if not (np.isfinite(t).all() and np.isfinite(p).all()) or np.abs(p).max() > 1e6:
        raise EditRefused("A sample of the take is no place or no time; nothing was kept.")
    # Later than all before, not only than the last: clocks have been seen to step back.
    later = t > np.concatenate([[-np.inf], np.maximum.accumulate(t)[:-1]])
    notes = []
    if not later.all():
        notes.append(
            f"{int((~later).sum())} of {len(t)} samples were not later than the one before, and"
            " were left out."
        )
    t, p = t[later], p[later]
    if len(t) < 2 or np.ptp(p, axis=0).max() < 1e-6:
        raise EditRefused("The take stays in one place; there is no movement to be made a path of.")
    gaps = np.diff(t) > GAP_S
    if gaps.any():
        count = int(gaps.sum())
        found = f"{count} gaps have" if count > 1 else "A gap has"
        notes.append(f"{found} no samples for more than {GAP_S:g} s; the way across is straight.")
    return Take(t - t[0], p, tuple(notes), _told(pressure, later))


def _told(pressure: ArrayLike | None, kept: np.ndarray) -> Floats | None:
    """Return the pressure of the samples that were kept; a device that knows none says the same all
    the time.
    """
    if pressure is None:
        return None
    told = np.asarray(pressure, float).ravel()
    # A mouse says half pressure all the time: that is no pressure.
    if len(told) != len(kept) or not np.isfinite(told).all() or np.ptp(told[kept]) < 1e-6:
        return None
    return np.asarray(np.clip(told[kept], 0.0, 1.0))


def pauses(take: Take) -> list[tuple[float, float]]:
    """Return when the hand rested: from and to, s, for ``REST_S`` or longer."""
    # A hand at rest trembles on: what stays within its own tremor is rest.
    room = 2.5 * take.tremor + 1.5
    t, p = take.times, take.places
    found: list[tuple[float, float]] = []
    i = 0
    while i < len(t) - 1:
        ahead = int(np.searchsorted(t, t[i] + REST_S))
        if ahead >= len(t):
            break
        if np.hypot(*(p[i : ahead + 1] - p[i : ahead + 1].mean(axis=0)).T).max() <= room:
            about = p[i : ahead + 1].mean(axis=0)
            while ahead + 1 < len(t) and np.hypot(*(p[ahead + 1] - about)) <= room:
                ahead += 1
            found.append((float(t[i]), float(t[ahead])))
            i = ahead + 1
        else:
            # A rest is longer than the step, so none is passed over.
            i += max((ahead - i) // 4, 1)
    return found


@dataclass(frozen=True)
class Smoothing:
    """How a take is smoothed.

    ``tolerance`` px from the samples; ``steady`` px of way over which they are steadied before;
    corners of more than ``corner`` degrees stay; ``soften`` 0..1 takes the timing from the hand's
    own to even; ``close`` makes a loop of it.
    """

    tolerance: float
    steady: float = 0.0
    corner: float = 50.0
    soften: float = 0.0
    close: bool = False


@dataclass(frozen=True)
class Smoothed:
    """A take made a run of few nodes and a few pegs; what it costs in px, frames and degrees.

    ``off`` are the samples' distances from the curve (n,), ``worst`` is where the farthest one is.
    """

    run: Subpath
    pegs: tuple[Peg, ...]
    off: Floats
    worst: tuple[float, float]
    length: float
    duration: float
    late: float
    late_rms: float
    turn: float
    corners: int

    @property
    def deviation(self) -> float:
        return float(self.off.max(initial=0.0))

    @property
    def rms(self) -> float:
        return float(np.sqrt(np.mean(self.off**2)))


def closed_up(places: Floats) -> Floats:
    """Return places whose end is their start, the correction spread over all of the way."""
    steps = np.hypot(*np.diff(places, axis=0).T)
    share = np.concatenate([[0.0], np.cumsum(steps)]) / max(float(steps.sum()), 1e-12)
    # Eased at both ends, so that neither gets a new direction there.
    ease = share * share * (3 - 2 * share)
    out = places + ease[:, None] * (places[0] - places[-1])
    out[-1] = out[0]
    return np.asarray(out)


def smooth(
    take: Take, how: Smoothing, *, fps: float, start: float = 0.0, pace_error: float = 0.5
) -> Smoothed:
    """Smooth a take, from its raw samples.

    Units:    ``start`` is the frame at which it begins; ``pace_error`` the frames by which pegs may
              miss. Accuracy: without steadying or closing no sample is farther from the curve than
              the tolerance; with them the steadied samples are not. ``off`` is from the raw ones in
              any case, at the nearest place of their own piece. ``late`` is by how many frames the
              ride is ahead of a sample or behind it, at most; where the hand hardly moves, a tenth
              of its mean speed is counted with.
    """
    places = closed_up(take.places) if how.close else take.places
    corners = _corners(take, places, how)
    work = samples.steadied(places, how.steady, corners, closed=how.close)
    # A little less than allowed: written to a thousandth of a px it still holds.
    within = max(how.tolerance - 0.002, 0.9 * how.tolerance)
    course = courses.fit(work, within, corners=corners, shake=take.tremor, closed=how.close)
    measure = MeasuredPath(course.run.segments())
    along = np.maximum.accumulate(_along(measure, course))
    if how.close:
        along[-1] = measure.length
    pegs, late, late_rms = _pegs(take, along, measure.length, how, fps, start, pace_error)
    off = course.off if work is take.places else course.away(take.places)
    x, y = take.places[int(np.argmax(off))]
    return Smoothed(
        course.run, pegs, off, (float(x), float(y)), measure.length,
        take.duration, late, late_rms, _strongest_turn(measure), len(course.corners),
    )  # fmt: skip


def _corners(take: Take, places: Floats, how: Smoothing) -> np.ndarray:
    """Return the samples at corners; those of a loop are looked for round its join, which is 0."""
    if not how.close:
        return samples.corners_of(places, how.corner, take.tremor, take.rate)
    around = samples.round_the_loop(places)
    found = samples.corners_of(around, how.corner, take.tremor, take.rate) - (len(places) - 1)
    return found[(found >= 0) & (found < len(places) - 1)]


def _along(measure: MeasuredPath, course: courses.Course) -> Floats:
    """Return how far along the curve each sample's place is, px."""
    table = _lengths_within(measure)
    at = course.parameter * PER_SEGMENT
    low = np.minimum(at.astype(int), PER_SEGMENT - 1)
    share = at - low
    here = table[course.segment, low] * (1 - share) + table[course.segment, low + 1] * share
    return np.asarray(measure.starts[course.segment] + here)


def _lengths_within(measure: MeasuredPath) -> Floats:
    """Return how long each segment is up to so many even parameters, (n, PER_SEGMENT + 1), px."""
    grid = np.linspace(0.0, 1.0, PER_SEGMENT + 1)
    fine = np.einsum("bg,sbd->sgd", np.stack(bezier.bernstein(grid)), measure.segments)
    steps = np.diff(fine, axis=1)
    table = np.zeros(fine.shape[:2])
    np.cumsum(np.hypot(steps[..., 0], steps[..., 1]), axis=1, out=table[:, 1:])
    whole = np.diff(measure.starts)
    # Straight pieces are a little short of the curve; in all, each has its true length.
    table *= (whole / np.where(table[:, -1] > 0, table[:, -1], 1.0))[:, None]
    return table


def _pegs(
    take: Take,
    along: Floats,
    length: float,
    how: Smoothing,
    fps: float,
    start: float,
    pace_error: float,
) -> tuple[tuple[Peg, ...], float, float]:
    """Return the pegs of a take, and by how many frames they are early or late: at most, and on
    the whole.
    """
    frames = take.times * fps
    mean = length / max(float(frames[-1]), 1e-9)
    if how.soften >= 1.0 or length <= 0:
        pegs = simple_pegs(start, start + float(frames[-1]), 1.0, easing.EVEN)
        wanted = frames / frames[-1] * length
    else:
        softened = along + how.soften * (frames / frames[-1] * length - along)
        few = _thinned(frames, softened)
        within = max(pace_error * mean, length * 1e-5)
        found = timing.fit_timing(frames[few], softened[few], within, apart=APART)
        found = _round_the_loop(found) if how.close else found
        pegs = tuple(replace(peg, time=peg.time + start) for peg in timing.pegs_of(found, length))
        wanted = np.asarray(timing.at(found, frames))
    # Where the hand hardly moves, a tenth of its mean speed is counted with.
    speed = np.maximum(np.abs(np.gradient(along, frames)), max(0.1 * mean, 1e-9))
    late = np.abs(wanted - along) / speed
    return pegs, float(late.max()), float(np.sqrt(np.mean(late**2)))


def _round_the_loop(found: timing.Timing) -> timing.Timing:
    """Return a timing that ends as fast as it begins."""
    means = np.diff(found.distances) / np.diff(found.times)
    both = min((found.slopes[0] + found.slopes[-1]) / 2, 3 * means[0], 3 * means[-1])
    return replace(found, slopes=np.concatenate([[both], found.slopes[1:-1], [both]]))


def _thinned(frames: Floats, along: Floats) -> np.ndarray:
    """Return which samples tell the timing: with very many, as many as a fit takes in quickly."""
    most = 1500
    if len(frames) <= most:
        return np.arange(len(frames))
    return np.unique(np.linspace(0, len(frames) - 1, most).astype(int))


def _strongest_turn(measure: MeasuredPath) -> float:
    """Return the sharpest turn of the curve, degrees in 10 px of way; of a line that is longer than
    most hands ever draw, in as much more.
    """
    if measure.length < 20:
        return 0.0
    step = max(5.0, measure.length / MOST_LOOKS)
    places = measure.locate(np.arange(0.0, measure.length, step))
    heading = np.unwrap(measure.directions(places))
    return float(np.degrees(np.abs(heading[2:] - heading[:-2]).max(initial=0.0)))
