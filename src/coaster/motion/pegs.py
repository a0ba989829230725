"""Pegs put in and taken out without disturbing the travel around them."""

from dataclasses import replace

import numpy as np

from coaster.errors import EditRefused
from coaster.geometry import bezier
from coaster.geometry.bezier import Floats
from coaster.geometry.nearest import nearest
from coaster.geometry.path import Path
from coaster.ids import fresh_id
from coaster.motion import easing
from coaster.motion.distance import Way, travelled
from coaster.motion.ride import AtNode, AtPercent, Peg, Ride
from coaster.motion.sections import Reach, section_curves

SAME_TIME = 1e-6
"""Frames within which two pegs would stand at the same time."""


def peg_at(pegs: tuple[Peg, ...], time: float) -> Peg | None:
    """Return the peg that stands at a time (frames), if there is one."""
    return next((p for p in pegs if abs(p.time - time) <= SAME_TIME), None)


def with_peg(way: Way, time: float) -> tuple[Peg, ...]:
    """Return the pegs with one more at ``time`` (frames), where the rider then is.

    Accuracy: inside the ride the travel stays as it was within 1e-9 x length (the section's
              curve is cut by de Casteljau), unless the reaches of the section cross: then a
              reach would have to be longer than its new section, and stops at its end. Before
              the ride's start or after its end the rider rests up to or from the new peg.
    Errors:   EditRefused: there is a peg already.
    """
    pegs = way.ride.pegs
    if peg_at(pegs, time) is not None:
        raise EditRefused(f"There is a peg at frame {time:g} already.")
    place = AtPercent(_percent_at(way, time))
    made = Peg(fresh_id("peg", {p.id for p in pegs}), time, place)
    later = next((i for i, p in enumerate(pegs) if p.time > time), len(pegs))
    if later in (0, len(pegs)):
        return (*pegs[:later], made, *pegs[later:])
    around = (pegs[later - 1], made, pegs[later])
    three = _between(*around, forward_only=way.ride.never_backwards)
    return (*pegs[: later - 1], *three, *pegs[later + 1 :])


def _between(before: Peg, made: Peg, after: Peg, *, forward_only: bool) -> tuple[Peg, ...]:
    """Return three pegs whose sections are the two parts of the one that there was."""
    # A jump has no curve to cut: its place is the same on both sides.
    if before.step != "none":
        return before, replace(made, step=before.step), after
    curve = section_curves((before, after), forward_only)[0]
    left, right = _cut(curve, (made.time - before.time) / (after.time - before.time))
    return (
        replace(before, leave=_leave(left)),
        replace(made, arrive=_arrive(left), leave=_leave(right), joined=True),
        replace(after, arrive=_arrive(right)),
    )


def _percent_at(way: Way, time: float) -> float:
    total, _ = travelled(way, np.array([time]))
    return float(total[0] / way.length * 100 - way.ride.offset) if way.length else 0.0


def _cut(curve: Floats, share: float) -> tuple[Floats, Floats]:
    """Cut the curve (0, 0), (x1, y1), (x2, y2), (1, 1) where x is ``share``."""
    x1, y1, x2, y2 = (float(v) for v in curve)
    s = float(easing.solve_time(np.array(share), x1, x2))
    return bezier.split(np.array([[0.0, 0.0], [x1, y1], [x2, y2], [1.0, 1.0]]), s)


def _leave(piece: Floats) -> Reach:
    return _reach(piece[1] - piece[0], piece[3] - piece[0])


def _arrive(piece: Floats) -> Reach:
    return _reach(piece[3] - piece[2], piece[3] - piece[0])


def _reach(handle: Floats, section: Floats) -> Reach:
    """Return a handle as shares of its section; one that covers no distance keeps its time."""
    time = min(max(float(handle[0] / section[0]), 0.0), 1.0)
    flat = abs(float(section[1])) < 1e-12
    return Reach(time, time if flat else float(handle[1] / section[1]))


def without_peg(pegs: tuple[Peg, ...], peg_id: str) -> tuple[Peg, ...]:
    """Return the pegs without one.

    Errors: EditRefused: it is the only one, or not there.
    """
    rest = tuple(p for p in pegs if p.id != peg_id)
    if len(rest) == len(pegs):
        raise EditRefused(f"There is not a peg {peg_id!r}.")
    if not rest:
        raise EditRefused("A ride keeps at least one peg; take the layer off the path instead.")
    return rest


def kept_on(ride: Ride, before: Path, after: Path) -> tuple[Peg, ...]:
    """Return the pegs of a ride for a path of another shape.

    A peg on a node that is gone or disabled then stands at the place of the new path that is
    nearest to where the node was; all others stay.
    """
    stand = {node.id for node in after.nodes() if not node.disabled}
    if all(not isinstance(p.place, AtNode) or p.place.node in stand for p in ride.pegs):
        return ride.pegs
    way = Way(after, replace(ride, pegs=(Peg("none", 0.0, AtPercent(0.0)),)))

    def put(peg: Peg) -> Peg:
        if not isinstance(peg.place, AtNode) or peg.place.node in stand:
            return peg
        found = nearest(way.measure.segments, [before.node(peg.place.node).position])
        distance = way.measure.distance_at(int(found.segment[0]), float(found.parameter[0]))
        share = distance / way.length if way.length else 0.0
        return replace(peg, place=AtPercent((share + peg.place.lap) * 100))

    return tuple(put(peg) for peg in ride.pegs)


def off_nodes(way: Way) -> tuple[Peg, ...]:
    """Return the pegs at shares of the length, where they stood on nodes."""

    def put(peg: Peg) -> Peg:
        if not isinstance(peg.place, AtNode) or not way.length:
            return peg
        return replace(peg, place=AtPercent(way.distance(peg.place) / way.length * 100))

    return tuple(put(peg) for peg in way.ride.pegs)


def trimmed_pegs(way: Way, start: float | None = None, end: float | None = None) -> tuple[Peg, ...]:
    """Return the pegs of a ride cut off before and after two times (frames); what is left goes as
    it went.

    Errors: EditRefused: nothing would be left.
    """
    low = way.ride.start if start is None else start
    high = way.ride.end if end is None else end
    for time in (low, high):
        if way.ride.start < time < way.ride.end and peg_at(way.ride.pegs, time) is None:
            way = way.with_pegs(with_peg(way, time))
    kept = tuple(p for p in way.ride.pegs if low - SAME_TIME <= p.time <= high + SAME_TIME)
    if len(kept) < 2:
        raise EditRefused("Nothing of the ride would be left; trim it less.")
    return kept
