"""Cubics fitted to samples between given tangents, many spans at once, in the plane or in space."""

from copy import copy
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coaster.geometry.bezier import Floats

ROUNDS = 8
"""Improvements of a result."""
AT_ONCE = 16384
"""Samples that are worked on together: as many as a processor keeps at hand."""
WORTH_IT = 0.8
HOPELESS = 4.0
"""So many times farther off than is enough, and no improvement will do."""
LEAST, MOST = 1e-3, 3.0
"""Shares of the samples' way that a handle has: one step that is too bold must not turn it round,
nor send it off."""


@dataclass(frozen=True)
class Fitted:
    """Cubics (n, 4, 2), in space (n, 4, 3), and how far the samples lie off them at most, px
    (n,).
    """

    cubics: Floats
    deviation: Floats


def fit_cubics(
    samples: Floats, start: Floats, end: Floats, rounds: int = ROUNDS, enough: float = 0.0
) -> Fitted:
    """Fit one cubic to each row of samples, with its ends and the directions there given.

    Shapes:     ``samples`` (n, k, 2), in order, the first and last being the ends; ``start`` and
                ``end`` (n, 2) unit directions of travel at the ends; in space 3 in place of 2.
    Units:      px. Where only it matters whether a span is off by more than ``enough``, it is not
                improved once that can be told.
    Accuracy:   least squares; ``deviation`` is the largest distance of a sample from the curve,
                at the parameter found for it: never less than the true one.
    Degenerate: samples that settle no length for a handle get a third of their way.
    Source:     Schneider, 'An algorithm for automatically fitting digitized curves' (1990), for
                many spans at once; then Gauss and Newton's steps on the distances across the curve.
    """
    blocks = range(0, max(len(samples), 1), max(AT_ONCE // samples.shape[1], 1))
    parts = [slice(i, i + blocks.step) for i in blocks]
    found = [_fitted(samples[i], start[i], end[i], rounds, enough) for i in parts]
    return Fitted(*(np.concatenate(each) for each in zip(*found, strict=True)))


def _fitted(
    samples: Floats, start: Floats, end: Floats, rounds: int, enough: float
) -> tuple[Floats, Floats]:
    # To tell whether a span is near enough single precision does: its places are its own.
    kind = np.float32 if enough else np.float64
    spans = _Spans(samples.transpose(2, 0, 1), start.T[..., None], end.T[..., None], kind)
    t, arms = spans.first_guess()
    best, least = arms.copy(), np.full(len(samples), np.inf)
    rows = np.arange(len(samples))
    for left in reversed(range(rounds + 1)):
        t, off, velocity = spans.nearest(t, arms)
        deviation = np.sqrt(dot(off, off).max(axis=1))
        # A step can make it worse; what was best of each span is kept.
        better = deviation < least[rows]
        least[rows[better]], best[rows[better]] = deviation[better], arms[better]
        going = _matters(least[rows], enough)
        if not left or not going.any():
            break
        # To take rows out costs as much as some of a step's work on them.
        if np.mean(going) < WORTH_IT:
            spans, rows, t, arms = spans.only(going), rows[going], t[going], arms[going]
            off, velocity = off[:, going], velocity[:, going]
        arms = spans.stepped(t, arms, off, velocity)
    return _cubics(samples, start, end, best), least


def _matters(deviation: Floats, enough: float) -> NDArray[np.bool_]:
    """Tell of which spans it cannot be told yet whether they are near enough."""
    return (deviation > enough) & ((deviation < HOPELESS * enough) | (enough == 0))


def _cubics(samples: Floats, start: Floats, end: Floats, arms: Floats) -> Floats:
    p0, p3 = samples[:, 0], samples[:, -1]
    return np.stack([p0, p0 + arms[:, :1] * start, p3 - arms[:, 1:] * end, p3], axis=1)


class _Spans:
    """Samples (2, n, k) seen from the first of each row, and the directions (2, n, 1) at both ends:
    x and y, and in space z, each by themselves, so that work on them is work on long rows.
    """

    def __init__(self, places: Floats, start: Floats, end: Floats, kind: type[np.floating]) -> None:
        self.places = (places - places[..., :1]).astype(kind)
        self.start, self.end = start.astype(kind), end.astype(kind)
        self.last = self.places[..., -1:]
        steps = np.diff(self.places, axis=2)
        self.steps = np.sqrt(dot(steps, steps))
        self.way = self.steps.sum(axis=1, keepdims=True)

    def only(self, rows: NDArray[np.bool_]) -> "_Spans":
        some = copy(self)
        some.places, some.last = self.places[:, rows], self.last[:, rows]
        some.start, some.end, some.way = self.start[:, rows], self.end[:, rows], self.way[rows]
        return some

    def first_guess(self) -> tuple[Floats, Floats]:
        """Return where the samples lie by the chords between them, 0..1, and the lengths of both
        handles (n, 2) with which the squares of the distances there sum up to the least.
        """
        t = np.zeros_like(self.places[0])
        np.cumsum(self.steps, axis=1, out=t[:, 1:])
        even = np.linspace(0, 1, t.shape[1], dtype=t.dtype)
        t = np.where(self.way > 0, t / np.where(self.way > 0, self.way, 1.0), even)
        s = 1 - t
        b1, b2 = 3 * s * s * t, -3 * s * t * t
        rest = self.places - self.last * (t * t * t - b2)
        rows = b1 * b1, b1 * b2 * dot(self.start, self.end), b2 * b2
        sound, arms = _two_unknowns(*rows, b1 * dot(self.start, rest), b2 * dot(self.end, rest))
        usable = sound & ((arms > LEAST * self.way) & (arms < MOST * self.way)).all(axis=1)
        return t, np.where(usable[:, None], arms, self.way / 3)

    def nearest(self, t: Floats, arms: Floats) -> tuple[Floats, Floats, Floats]:
        """Take one of Gauss and Newton's steps towards the feet of the samples; return where they
        are, how far off the curve is there, and its velocity.
        """
        p1, p2 = arms[:, :1] * self.start, self.last - arms[:, 1:] * self.end
        c1, c2, c3 = 3 * p1, 3 * (p2 - 2 * p1), self.last + 3 * (p1 - p2)
        velocity = c1 + t * (2 * c2 + t * (3 * c3))
        off = t * (c1 + t * (c2 + t * c3)) - self.places
        steep = dot(velocity, velocity)
        moved = t - dot(off, velocity) / np.where(steep > 0, steep, np.inf)
        moved[:, 0], moved[:, -1] = 0.0, 1.0
        t = np.clip(moved, 0.0, 1.0, out=moved)
        off = t * (c1 + t * (c2 + t * c3)) - self.places
        return t, off, velocity

    def stepped(self, t: Floats, arms: Floats, off: Floats, velocity: Floats) -> Floats:
        """Return handle lengths one step nearer to the least distances across."""
        speed = np.sqrt(dot(velocity, velocity))
        along = velocity / np.where(speed > 0, speed, np.inf)
        s = 1 - t
        one = _across(along, self.start, 3 * s * s * t)
        two = _across(along, self.end, -3 * s * t * t)
        rest = _across(along, off, -1.0)
        pairs = (one, one), (one, two), (two, two), (one, rest), (two, rest)
        sound, step = _two_unknowns(*(dot(u, v) for u, v in pairs))
        limits = LEAST * self.way, MOST * self.way
        return np.where(sound[:, None], np.clip(arms + step, *limits), arms)


def _across(along: Floats, way: Floats, share: Floats | float) -> Floats:
    """Return what of ways (2, ...), or (3, ...), leads across unit directions, times a share: in
    the plane (1, ...), how far to their left.
    """
    if len(along) == 2:
        return np.asarray(share * (along[0] * way[1] - along[1] * way[0]))[None]
    return np.asarray(share * (way - dot(along, way) * along))


def dot(u: Floats, v: Floats) -> Floats:
    """Return the products of vectors (2, ...), or (3, ...), x and y each by themselves."""
    total = u[0] * v[0]
    for each, other in zip(u[1:], v[1:], strict=True):
        total = total + each * other
    return np.asarray(total)


def _two_unknowns(*products: Floats) -> tuple[NDArray[np.bool_], Floats]:
    """Return where the a and b can be told with which a x one + b x two come nearest to ``rest``,
    row by row, and both (n, 2).

    ``products``: one x one, one x two, two x two, one x rest, two x rest, each (n, k).
    """
    c11, c12, c22, x1, x2 = (each.sum(axis=1) for each in products)
    det, size = c11 * c22 - c12 * c12, c11 * c22
    digits = np.finfo(size.dtype)
    sound = det > np.maximum(digits.eps**0.75 * size, digits.tiny)
    safe = np.where(sound, det, 1.0)
    return sound, np.stack([x1 * c22 - x2 * c12, c11 * x2 - c12 * x1], axis=1) / safe[:, None]
