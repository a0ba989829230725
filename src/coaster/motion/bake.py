"""From a ride to curves of x and y, a key a frame, and from such curves back to a path with
a ride.
"""

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from coaster.errors import EditRefused
from coaster.geometry import handles, simplify
from coaster.geometry.bezier import Floats
from coaster.geometry.measure import MeasuredPath, measure_of
from coaster.geometry.path import Node, Path, Subpath
from coaster.motion import timing, travel
from coaster.motion.distance import Way
from coaster.motion.keys import MOST_KEYS, Key, Keys
from coaster.motion.ride import Ride

STILL = 1e-6
"""Px in a frame below which nothing moves."""
CORNER = np.radians(50)
"""A turn from one frame to the next that is a corner."""
TRIES = 6
SHARES = (0.5, 0.25, 0.1, 0.02)
"""Shares of the tolerance that the timing may use up, tried one after the other."""


def a_key_a_frame(values: Floats, first: int) -> Keys:
    """Return even keys, one a frame from ``first`` on.

    Errors: EditRefused: more than a property has.
    """
    if len(values) > MOST_KEYS:
        raise EditRefused(f"That would be more than {MOST_KEYS} keys; choose fewer frames.")
    return tuple(
        Key(f"k{first + i}", float(first + i), float(value)) for i, value in enumerate(values)
    )


@dataclass(frozen=True)
class FittedBack:
    """A path and a ride on it, and the largest distance, in px, at any frame from where the curves
    were.
    """

    path: Path
    ride: Ride
    deviation: float


def fit_back(
    path_id: str, name: str, times: Floats, places: Floats, tolerance: float
) -> FittedBack:
    """Fit a path with a ride to places over time.

    Shapes:   ``times`` (n,) whole frames, ascending; ``places`` (n, 2) px.
    Accuracy: ``deviation`` is measured at every frame; it is at most the tolerance, in px, unless
              the movement is too rough for that, and then it says so.
    Errors:   EditRefused: nothing moves, or there are fewer than two frames.
    """
    steps = np.hypot(*np.diff(places, axis=0).T) if len(places) > 1 else np.zeros(0)
    if not np.any(steps > STILL):
        raise EditRefused("Nothing moves there; a path needs two places.")
    kept = np.concatenate([[True], steps > STILL])
    course = _course(places[kept])
    tries: list[FittedBack] = []
    share = 0.6
    while len(tries) < TRIES and not (tries and tries[-1].deviation <= tolerance):
        run, _ = simplify.simplified(course, tolerance * share)
        tries.append(_ridden(Path(path_id, name, (run,)), times, places, tolerance))
        share *= 0.5
    return min(tries, key=lambda each: each.deviation)


def _course(places: Floats) -> Subpath:
    """Return a curve through places, smooth but where they turn sharply."""
    nodes = [Node(f"n{i}", (x, y), kind="auto") for i, (x, y) in enumerate(places.tolist(), 1)]
    made: list[Node] = []
    for a, b in pairwise([0, *_corners(places), len(nodes) - 1]):
        first, *rest = handles.with_auto_handles(Subpath(tuple(nodes[a : b + 1]))).nodes
        if made:  # where two pieces meet, it is a corner, with a handle of each
            first = replace(first, handle_in=made.pop().handle_in, kind="corner")
        made += [first, *rest]
    fixed = (replace(node, kind="smooth") if node.kind == "auto" else node for node in made)
    return Subpath(tuple(handles.with_true_kind(node) for node in fixed))


def _corners(places: Floats) -> list[int]:
    way = np.diff(places, axis=0)
    turns = np.diff(np.arctan2(way[:, 1], way[:, 0]))
    sharp = np.abs((turns + np.pi) % (2 * np.pi) - np.pi) > CORNER
    return (np.flatnonzero(sharp) + 1).tolist()


def _ridden(path: Path, times: Floats, places: Floats, tolerance: float) -> FittedBack:
    """Return the ride on a path that is nearest to places at their times."""
    measure, _ = measure_of(path.subpaths, "glide")
    along = _followed(measure, places, tolerance)
    off = np.inf
    # Timing that is off adds to a path that is off: the first try that is near enough in all is
    # the one with the fewest pegs.
    for share in SHARES:
        timed = timing.fit_timing(times, np.maximum.accumulate(along), tolerance * share)
        trial = Ride(path.id, timing.pegs_of(timed, measure.length))
        missed = _furthest(Way(path, trial), times, places)
        if missed < off:
            best, off = trial, missed
        if off <= tolerance:
            break
    return FittedBack(path, best, off)


def _furthest(way: Way, times: Floats, places: Floats) -> float:
    there = travel.evaluate(way, times, fps=1.0).position
    return float(np.hypot(*(there - places).T).max())


def _window(fine: Floats, low: float, high: float) -> tuple[int, int]:
    """Return which of some distances lie between two: from, to; at least one of them."""
    a, b = np.searchsorted(fine, [low, high]).tolist()
    b = min(max(b, a + 1), len(fine))
    return min(a, b - 1), b


def _followed(measure: MeasuredPath, places: Floats, tolerance: float) -> Floats:
    """Return how far along a path places (n, 2) lie, never going back."""
    length = measure.length
    fine = np.linspace(0.0, length, max(8 * len(places), 400))
    found = measure.locate(fine)
    heading, half = measure.directions(found), length / (len(fine) - 1) / 2
    # The nearest place within reach of how far it must be by now; so crossings are told apart.
    reach, low = max(4 * tolerance, length * 0.02), 0.0
    along = np.empty(len(places))
    for i, (place, about) in enumerate(zip(places, _walked(places, length), strict=True)):
        a, b = _window(fine, max(low, about - reach), about + reach)
        off = place - found.position[a:b]
        nearest = a + int(np.argmin(np.hypot(*off.T)))
        past = off[nearest - a] @ (np.cos(heading[nearest]), np.sin(heading[nearest]))
        low = along[i] = max(low, fine[nearest] + float(np.clip(past, -half, half)))
    along[0], along[-1] = 0.0, length
    return along


def _walked(places: Floats, length: float) -> Floats:
    """Return how far places have come along the line through them, as a share of ``length``."""
    walked = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(places, axis=0).T))])
    walked *= length / walked[-1]
    return np.asarray(walked)
