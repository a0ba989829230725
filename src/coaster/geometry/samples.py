"""Samples of a hand: how far along they are, how they tremble and turn, a line through them."""

import numpy as np
from numpy.typing import NDArray

from coaster.geometry.bezier import Floats

Ints = NDArray[np.intp]
FEWEST = 5
"""Samples that a local quadratic takes in at least, as far as there are so many."""
ENOUGH = 40
"""Samples that tell as much of a wide window as hundreds."""
USUAL_RATE, QUICK_RATE = 120.0, 150.0
LONGEST_STEP = 3.0
"""So many usual steps of time at most count between two samples: what is longer is a gap."""
SURER = 1.02
"""So many times the angle that is asked for a corner turns: many smooth ways turn by nearly it."""
TREMOR_HZ = 9.5
"""About as fast a hand trembles: 8 to 12 Hz."""


def _local_cubic(half: int) -> Floats:
    """Return the weights of 2 half + 1 samples in the middle of the cubic nearest to them."""
    u = np.arange(-half, half + 1) / half
    basis = np.stack([u**k for k in range(4)], axis=1)
    return np.asarray(basis @ np.linalg.solve(basis.T @ basis, basis[half]))


def tremor(points: Floats, times: Floats | None = None) -> float:
    """Return the size of the tremor in samples (n, 2): its standard deviation, px an axis.

    Accuracy: within 15 % as a rule for tremor about 8 to 12 Hz of 0.5 px or more, at 60 to 1000
              samples a second, in takes of a second or longer; more is told of small tremor where
              the hand bends its way quickly all the time. It is what is left when local cubics
              over 0.2 s are taken off, where the hand is slow.
    Source:   Savitzky and Golay, 'Smoothing and differentiation of data' (1964).
    """
    rate = USUAL_RATE
    if times is not None and len(times) > 2:
        points, rate = _at_even_times(points, times)
    # Tremor is slow beside the samples of a quick device: every so many of them tell it as well.
    step = max(1, int(rate / QUICK_RATE))
    points, rate = points[::step], rate / step
    half = max(round(0.1 * rate), 3)
    if len(points) < 2 * half + 3:
        return 0.0
    weights = _local_cubic(half)
    smooth = [np.convolve(points[:, k], weights[::-1], "valid") for k in (0, 1)]
    size = lengths(points[half:-half] - np.stack(smooth, axis=1))
    # Where the hand is slow its movement leaves least in it.
    speed = lengths(points[2 * half :] - points[: -2 * half])
    slow = size[speed <= np.quantile(speed, 0.75)]
    # Half of a two-dimensional normal lies within 1.1774 standard deviations.
    return float(np.median(slow) / 1.1774 / _left_over(weights, rate))


def _left_over(weights: Floats, rate: float) -> float:
    """Return the share of a tremor that is left when what ``weights`` make of it is taken off."""
    half = len(weights) // 2
    hertz = np.linspace(5.0, 15.0, 41)
    turns = np.cos(2 * np.pi / rate * np.outer(hertz, np.arange(-half, half + 1)))
    usual = np.exp(-(((hertz - TREMOR_HZ) / 2.5) ** 2))
    return float(np.sqrt(np.average((1 - turns @ weights) ** 2, weights=usual**2)))


def _at_even_times(points: Floats, times: Floats) -> tuple[Floats, float]:
    """Return samples (n, 2) as they were at even times, and how many there are in a second; seconds
    without any are taken out.

    Source: cubics through each two samples, in the directions of parabolas through each three.
    """
    steps = np.diff(times)
    usual = float(np.median(steps))
    h = np.clip(steps, 1e-9, LONGEST_STEP * usual)[:, None]
    when = np.concatenate([[0.0], np.cumsum(h)])
    even = np.linspace(0.0, when[-1], len(points))
    i = np.clip(np.searchsorted(when, even, side="right") - 1, 0, len(h) - 1)
    slopes = _by_parabolas(points, h)
    u = ((even - when[i]) / h[i, 0])[:, None]
    s = 1 - u
    start, end = points[i] + u * h[i] * slopes[i], points[i + 1] - s * h[i] * slopes[i + 1]
    # Hermite's cubic: what each end and its direction say, weighed by how near it is.
    found = s * s * (start + 2 * u * points[i]) + u * u * (end + 2 * s * points[i + 1])
    return found, (len(points) - 1) / max(float(when[-1]), 1e-9)


def _by_parabolas(points: Floats, h: Floats) -> Floats:
    """Return the velocities (n, 2) at points of the parabolas through each three; ``h`` (n - 1, 1)
    are the steps of time between them.
    """
    chords = np.diff(points, axis=0) / h
    inner = (chords[:-1] * h[1:] + chords[1:] * h[:-1]) / (h[1:] + h[:-1])
    return np.concatenate([chords[:1], inner, chords[-1:]])


def lengths(vectors: Floats) -> Floats:
    """Return the lengths of vectors (..., 2)."""
    return np.asarray(np.hypot(vectors[..., 0], vectors[..., 1]))


def steadied(points: Floats, reach: float, corners: Ints, *, closed: bool = False) -> Floats:
    """Return samples (n, 2) moved to the local quadratics of those within ``reach`` px along the
    way.

    Corners and ends stay.
    """
    if reach <= 0 or len(points) < 4:
        return points
    closed = closed and 0 not in corners
    line = SampledLine(points, corners, reach, closed=closed)
    out = line.at(np.arange(len(points)))[0]
    out[corners] = points[corners]
    if not closed:
        out[[0, -1]] = points[[0, -1]]
    return out


def corners_of(points: Floats, angle_deg: float, shake: float, rate: float = USUAL_RATE) -> Ints:
    """Return the samples at which the way turns sharply, by more than an angle (degrees), in order.

    The directions before and after are taken over a stretch of way and over half of it: a corner
    turns as much over both, a curve by half. What a hand trembles at rest is no way: it would be
    full of corners. ``rate`` is in samples a second.
    """
    if len(points) < 7:
        return np.zeros(0, np.intp)
    along = _gone(points, shake, rate)
    steps = np.diff(along)
    usual = float(np.median(steps[steps > 0])) if np.any(steps > 0) else 0.0
    stretch = max(20.0, 16.0 * shake, 4.0 * usual)
    sums = np.concatenate([np.zeros((1, 2)), np.cumsum(points, axis=0)])
    wide, near = (_turn(along, sums, points, stretch * k) for k in (1.0, 0.5))
    # Strong tremor turns the way by itself: a corner has to turn by so much more.
    own = 8.0 * shake / max(stretch, 1e-9)
    limit = np.radians(angle_deg) * SURER + (0.3 * np.arctan(own) if own > 0.25 else 0.0)
    sharp = (np.minimum(wide, near) >= limit) & (near >= 0.72 * wide)
    sharp &= (along > stretch / 2) & (along < along[-1] - stretch / 2)
    return _sharpest(np.where(sharp, wide + near, 0.0), along, stretch)


def _gone(points: Floats, shake: float, rate: float) -> Floats:
    """Return how far the hand has come at each sample, px, its tremor left out."""
    half = min(max(round(0.06 * rate), 1), (len(points) - 1) // 2)
    ahead = np.minimum(np.arange(len(points)) + half, len(points) - 1)
    behind = np.maximum(np.arange(len(points)) - half, 0)
    far = lengths(points[ahead] - points[behind])
    # Two samples are apart by twice the tremor, though nothing moved; half as much again is rare.
    moved = np.sqrt(np.maximum(far**2 - 9 * shake**2, 0.0)) / (ahead - behind)
    along = np.concatenate([[0.0], np.cumsum((moved[1:] + moved[:-1]) / 2)])
    return np.asarray(along + 1e-9 * np.arange(len(points)))


def _sharpest(score: Floats, along: Floats, apart: float) -> Ints:
    """Return the samples that score most, each farther than ``apart`` px from those before it."""
    found: list[int] = []
    for i in np.argsort(-score, kind="stable"):
        if score[i] <= 0:
            break
        if all(abs(along[i] - along[j]) > apart for j in found):
            found.append(int(i))
    return np.array(sorted(found), np.intp)


def _turn(along: Floats, sums: Floats, points: Floats, stretch: float) -> Floats:
    """Return by how much the way turns at each sample, radians, between the stretches before and
    after it.
    """
    n = len(along)

    def mean(low: Floats, high: Floats) -> Floats:
        a = np.searchsorted(along, low, side="left")
        b = np.maximum(np.searchsorted(along, high, side="right"), a + 1)
        a, b = np.minimum(a, n - 1), np.minimum(b, n)
        return np.asarray((sums[b] - sums[a]) / (b - a)[:, None])

    half = stretch / 2
    # A rest is one place, however many samples it has.
    here = mean(along - 0.05 * stretch, along + 0.05 * stretch)
    before = here - mean(along - stretch, along - half)
    after = mean(along + half, along + stretch) - here
    cross = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    return np.asarray(np.abs(np.arctan2(cross, np.einsum("ij,ij->i", before, after))))


def way_along(points: Floats) -> Floats:
    """Return how far along the way each sample lies; tremor counts little, as every third sample is
    measured.
    """
    steps = np.hypot(*np.diff(points, axis=0).T)
    if len(points) > 12:
        three = points[3:] - points[:-3]
        smooth = np.hypot(three[:, 0], three[:, 1]) / 3
        padded = np.concatenate([smooth[:1], smooth, smooth[-1:]])
        steps = np.minimum(steps, np.maximum(padded[: len(steps)], 0.2 * steps))
    return np.concatenate([[0.0], np.cumsum(np.maximum(steps, 1e-9))])


def round_the_loop(points: Floats) -> Floats:
    """Return the samples of a loop three times over: before its start is what is before its end."""
    return np.asarray(np.concatenate([points[:-1], points, points[1:]]))


class SampledLine:
    """Samples with local quadratics over the way, between corners; asked for places and
    directions.
    """

    def __init__(self, points: Floats, corners: Ints, reach: float, *, closed: bool) -> None:
        count, self.closed = len(points), closed
        self.shift = count - 1 if closed else 0
        inner = corners[(corners > 0) & (corners < count - 1)]
        if closed:
            points, inner = round_the_loop(points), np.add.outer(self.shift * np.arange(3), inner)
        self.points, self.reach = points, reach
        self.along = way_along(points)
        self.marks = np.unique(np.concatenate([[0], inner.ravel(), [len(points) - 1]]))

    def at(self, index: Ints, side: int = 0) -> tuple[Floats, Floats]:
        """Return places (m, 2) and unit directions (m, 2) at samples; ``side`` -1 looks back only,
        1 ahead only.
        """
        i = np.asarray(index) + self.shift
        before = np.searchsorted(self.marks, i, side="left" if side < 0 else "right") - 1
        piece = np.clip(before, 0, len(self.marks) - 2)
        low, high = self.marks[piece], self.marks[piece + 1]
        here, room = self.along[i], FEWEST // 2
        a = np.maximum(np.searchsorted(self.along, here - self.reach, side="left"), low)
        b = np.minimum(np.searchsorted(self.along, here + self.reach, side="right") - 1, high)
        a = np.maximum(np.minimum(a, i - room), low)
        b = np.minimum(np.maximum(b, i + room), high)
        return self._quadratic(i, a, b)

    def _quadratic(self, i: Ints, a: Ints, b: Ints) -> tuple[Floats, Floats]:
        """Return places and directions at samples by the quadratics of those from a to b."""
        rows, valid = _windows(a, b)
        u = (self.along[rows] - self.along[i][:, None]) / self.reach
        weight = np.where(valid, np.maximum(1 - (u / 1.2) ** 2, 0.05), 0.0)
        c = _least_squares(u, weight, self.points[rows] - self.points[i][:, None], valid)
        return self.points[i] + c[:, 0], _directions(c[:, 1], self.points[b] - self.points[a])


def _windows(a: Ints, b: Ints) -> tuple[Ints, NDArray[np.bool_]]:
    """Return the samples from a to b, (m, k), and which of them are no fillers."""
    width = int((b - a).max()) + 1
    rows = a[:, None] + np.arange(0, width, max(1, width // ENOUGH))
    return np.minimum(rows, b[:, None]), rows <= b[:, None]


def _least_squares(u: Floats, weight: Floats, p: Floats, valid: NDArray[np.bool_]) -> Floats:
    """Return the coefficients (m, 3, 2) of weighted quadratics in u (m, k) through p (m, k, 2)."""
    powers = np.stack([np.einsum("mk,mk->m", weight, u**k) for k in range(5)], 1)
    ridge = 1e-9 * np.maximum(powers[:, 0], 1.0)
    matrix = powers[:, np.add.outer(np.arange(3), np.arange(3))] + ridge[:, None, None] * np.eye(3)
    matrix[valid.sum(axis=1) < 4, 2, 2] += 1e6  # of so few only a straight line
    sides = [np.einsum("mk,mkd->md", weight * u**k, p) for k in range(3)]
    return np.asarray(np.linalg.solve(matrix, np.stack(sides, 1)))


def _directions(ways: Floats, chords: Floats) -> Floats:
    """Return ways (m, 2) as unit directions; the chord's where there is none, else to the right."""
    size, length = lengths(ways), lengths(chords)
    flat = size < 1e-9
    straight = chords / np.where(length > 0, length, 1.0)[:, None]
    found = np.where(flat[:, None], straight, ways / np.where(flat, 1.0, size)[:, None])
    found[lengths(found) < 0.5] = (1.0, 0.0)
    return found
