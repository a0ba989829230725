"""The pace of a ride at its pegs: how fast it comes and goes, how long that holds on, and what it
may be.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import pairwise
from typing import Literal

import numpy as np

from coaster.errors import EditRefused
from coaster.geometry.bezier import Floats
from coaster.ids import Ids, fresh_id
from coaster.motion import easing
from coaster.motion.distance import Way
from coaster.motion.easing import Step, Steps
from coaster.motion.ride import AtPercent, Peg
from coaster.motion.sections import Reach, paced, retimed, section_curves

Side = Literal["in", "out"]
USUAL, SHORTEST = 1 / 3, 0.01
"""The reach a side is given whose own is shorter than the second: shares of its section."""
LEAST = 1e-6
"""What a reach of 0 is kept as: it says the speed still, and holds it for no time to speak of."""


@dataclass(frozen=True)
class PegPace:
    """Speeds in px per frame at which a peg is come to and left, and the most they may be.

    A side without a section, before the first peg and after the last, has speed 0 and most 0;
    ``most`` is infinite where the ride may run backwards.
    """

    arrive: float
    leave: float
    arrive_most: float
    leave_most: float


def pace_at_pegs(way: Way) -> list[PegPace]:
    """Return the pace at each peg, limited as the travel is.

    Units:      px per frame, along the path in the direction of each section.
    Accuracy:   exact slopes of the sections' curves at their ends; where a handle has no length
                in time, the slope a millionth of the section further in.
    Degenerate: a section that covers no distance, or jumps, has speed 0 at both ends.
    """
    pegs = way.ride.pegs
    sides = [[0.0, 0.0, 0.0, 0.0] for _ in pegs]
    for k, (first, last) in enumerate(_end_slopes(pegs, way.ride.never_backwards)):
        mean = _mean(way, k)
        if pegs[k].step != "none" or not mean:
            continue
        # Slopes are shares of the way over shares of the time; the section's mean makes them px a
        # frame.
        sides[k][1], sides[k + 1][0] = first * mean, last * mean
        leave, arrive = pegs[k].leave, pegs[k + 1].arrive
        sides[k][3] = _most(way, mean, leave.time, arrive.distance)
        sides[k + 1][2] = _most(way, mean, arrive.time, leave.distance)
    return [PegPace(*side) for side in sides]


@lru_cache(maxsize=512)
def _end_slopes(pegs: tuple[Peg, ...], forward_only: bool) -> list[tuple[float, float]]:
    """Return the slopes of each section's curve at its two ends, which no path has a say in."""
    if len(pegs) < 2:
        return []
    curves = np.repeat(section_curves(pegs, forward_only), 2, axis=0)
    _, slopes = easing.ease(np.tile([0.0, 1.0], len(pegs) - 1), *curves.T)
    return [(float(first), float(last)) for first, last in slopes.reshape(-1, 2)]


def _mean(way: Way, section: int) -> float:
    """Return a section's mean speed, px per frame; its direction is left out."""
    a, b = way.ride.pegs[section : section + 2]
    return abs(way.distance(b.place) - way.distance(a.place)) / (b.time - a.time)


def _most(way: Way, mean: float, reach: float, other: float) -> float:
    """Return the speed at one end beyond which the section would run backwards.

    Source: p + q - sqrt(p q) <= 1 (see ``section_curves``), solved for p.
    """
    if not way.ride.never_backwards:
        return float("inf")
    # Beyond 4/3 the other end alone would run the section back: nothing is left for this one.
    q = min(max(other, 0.0), 4 / 3)
    share = ((np.sqrt(q) + np.sqrt(4 - 3 * q)) / 2) ** 2
    return float(share / (reach if reach >= SHORTEST else USUAL) * mean)


def _check_speed(speed: float, mean: float, most: float, *, forward_only: bool) -> None:
    if not mean:
        raise EditRefused("The rider rests there; a speed needs some way to go.")
    if speed < 0 and forward_only:
        raise EditRefused("A negative speed runs backwards; allow that first.")
    if speed > most * (1 + 1e-9):
        raise EditRefused(
            f"At most {most:.2f} px a frame fit there: more, and the rider would have to run"
            " backwards to arrive in time. Give it a shorter reach, or more time."
        )


def with_speed(
    way: Way, peg_id: str, speed: float, sides: tuple[Side, ...] = ("in", "out")
) -> tuple[Peg, ...]:
    """Return the pegs with one come to, left, or both, at ``speed`` (px per frame); reaches stay.

    Errors: EditRefused: the speed is more than the section can do without running backwards, or
            negative; or its section covers no distance. UnknownId-like: no such peg.
    """
    index = find(way, peg_id)
    limits = pace_at_pegs(way)[index]
    pegs = list(way.ride.pegs)
    beside = {"in": (index - 1, limits.arrive_most), "out": (index, limits.leave_most)}
    for side in sides:
        section, most = beside[side]
        if not 0 <= section < len(pegs) - 1:
            continue
        mean = _mean(way, section)
        # In a rest a speed of 0 is how it is already.
        if not mean and not speed:
            continue
        _check_speed(speed, mean, most, forward_only=way.ride.never_backwards)
        pegs[index] = _with_side(pegs[index], side, lambda r, mean=mean: _at_speed(r, speed, mean))  # type: ignore[misc]
    # One side by itself is parted from the other.
    pegs[index] = replace(pegs[index], joined=len(sides) == 2 and 0 < index < len(pegs) - 1)
    return tuple(pegs)


def joined(way: Way, peg_id: str, *, on: bool) -> tuple[Peg, ...]:
    """Return the pegs with one joined, at a speed between those of its sides, or parted.

    Errors: EditRefused: it has no two sides that go some way.
    """
    index = find(way, peg_id)
    pegs = way.ride.pegs
    if not on:
        return (*pegs[:index], replace(pegs[index], joined=False), *pegs[index + 1 :])
    if not _has_two_sides(way, index):
        raise EditRefused("A peg is joined between two sections that go some way; this one is not.")
    here = pace_at_pegs(way)[index]
    return with_speed(way, peg_id, _allowed((here.arrive + here.leave) / 2, here))


def rejoined(before: Way | None, after: Way) -> tuple[Peg, ...]:
    """Return pegs with those that are joined at one speed again: at the one they had before, as far
    as there is room for it.
    """
    known = {}
    if before is not None:
        paces = zip(before.ride.pegs, pace_at_pegs(before), strict=True)
        known = {peg.id: told.arrive for peg, told in paces if peg.joined}
    way = after
    for index, peg in enumerate(after.ride.pegs):
        if not peg.joined:
            continue
        here = pace_at_pegs(way)[index]
        slack = 1e-9 * max(abs(here.arrive), abs(here.leave), 1e-9)
        if not _has_two_sides(way, index) or abs(here.arrive - here.leave) <= slack:
            continue
        wanted = known.get(peg.id, (here.arrive + here.leave) / 2)
        way = way.with_pegs(with_speed(way, peg.id, _allowed(wanted, here)))
    return way.ride.pegs


def _has_two_sides(way: Way, index: int) -> bool:
    pegs = way.ride.pegs
    if not 0 < index < len(pegs) - 1:
        return False
    glides = pegs[index - 1].step == pegs[index].step == "none"
    return glides and bool(_mean(way, index - 1)) and bool(_mean(way, index))


def _allowed(speed: float, here: PegPace) -> float:
    return min(speed, here.arrive_most, here.leave_most)


def _at_speed(reach: Reach, speed: float, mean: float) -> Reach:
    time = reach.time if reach.time >= SHORTEST else USUAL
    return Reach(time, speed / mean * time)


def _with_side(peg: Peg, side: Side, change: Callable[[Reach], Reach]) -> Peg:
    if side == "in":
        return replace(peg, arrive=change(peg.arrive))
    return replace(peg, leave=change(peg.leave))


def with_reach(way: Way, peg_id: str, reach: float, side: Side) -> tuple[Peg, ...]:
    """Return the pegs with one side's speed holding on for another share of its section, 0..1."""
    index = find(way, peg_id)

    def stretched(old: Reach) -> Reach:
        # A longer reach at the same speed covers more of the way. Without any, there would be no
        # speed to come back to.
        slope = old.distance / old.time if old.time else 1.0
        return Reach(max(reach, LEAST), slope * max(reach, LEAST))

    pegs = list(way.ride.pegs)
    pegs[index] = _with_side(pegs[index], side, stretched)
    return tuple(pegs)


def moved_in_time(way: Way, peg_id: str, time: float) -> tuple[Peg, ...]:
    """Return the pegs with one at another time; sections keep their shapes.

    Errors: EditRefused: it would stand at, or pass, a neighbour's time.
    """
    index = find(way, peg_id)
    pegs = way.ride.pegs
    low = pegs[index - 1].time if index else -np.inf
    high = pegs[index + 1].time if index + 1 < len(pegs) else np.inf
    if not low < time < high:
        raise EditRefused(
            "Pegs stand at different times, in their order; this one would pass its neighbour."
        )
    return (*pegs[:index], replace(pegs[index], time=time), *pegs[index + 1 :])


def in_steps(way: Way, steps: Steps) -> tuple[Peg, ...]:
    """Return the pegs with each section parted into even jumps, by pegs of their own.

    Source: CSS Easing Functions 1, section 2.3: where each jump leads.
    """
    ids = Ids(peg.id for peg in way.ride.pegs)
    kind: Step = "start" if steps.jump == "jump-start" else "end"
    levels = steps.number - 1 if steps.jump == "jump-none" else steps.number
    made: list[Peg] = []
    for first, last in pairwise(way.ride.pegs):
        start, end = way.distance(first.place), way.distance(last.place)
        made.append(replace(first, step=kind))
        for k in range(1, steps.number):
            time = first.time + k / steps.number * (last.time - first.time)
            there = (start + k / levels * (end - start)) / way.length * 100 if way.length else 0.0
            made.append(Peg(ids.fresh("step"), time, AtPercent(there), step=kind))
    return (*made, way.ride.pegs[-1])


def even_pegs(way: Way) -> tuple[Peg, ...]:
    """Return the pegs moved in time so that the rider goes at one speed all the way.

    Accuracy:   the speed is the same within 1e-9 of it; the ride's start and end stay.
    Errors:     EditRefused: a section covers no distance, so a peg would have no time of its own.
    """
    pegs = way.ride.pegs
    stops = np.array([way.distance(p.place) for p in pegs])
    gone = np.abs(np.diff(stops))
    if len(pegs) < 2 or not gone.all():
        raise EditRefused("A rest has no place in an even ride; take its pegs out first.")
    share = np.concatenate([[0.0], np.cumsum(gone)]) / gone.sum()
    times = way.ride.start + share * (way.ride.end - way.ride.start)
    times[-1] = way.ride.end  # to the last bit
    moved = tuple(map(_at_time, pegs, times.tolist()))
    return paced(moved, easing.EVEN)


def _at_time(peg: Peg, time: float) -> Peg:
    return replace(peg, time=time)


def smooth(way: Way, *, round_the_seam: bool = False) -> tuple[Peg, ...]:
    """Return the pegs with speeds that go through all of them without a jump; times and places
    stay.

    Accuracy:   the travel is continuous in speed, within 1e-9 of it, and never runs back where
                the places do not; ``round_the_seam`` also where the loop closes.
    Source:     Fritsch and Butland, 'A method for constructing local monotone piecewise cubic
                interpolants' (1984); with reaches of a third a section is that cubic exactly.
    """
    pegs = way.ride.pegs
    if len(pegs) < 3 and not round_the_seam:
        return paced(pegs, easing.EVEN)
    times = np.array([p.time for p in pegs])
    stops = np.array([way.distance(p.place) for p in pegs])
    slopes = _slopes_round(times, stops) if round_the_seam else _monotone_slopes(times, stops)
    made = [replace(p, step="none") for p in pegs]
    for k, mean in enumerate(np.diff(stops) / np.diff(times)):
        out, into = (float(slope / mean) if mean else 0.0 for slope in slopes[k : k + 2])
        made[k] = replace(made[k], leave=Reach(USUAL, out * USUAL))
        made[k + 1] = replace(made[k + 1], arrive=Reach(USUAL, into * USUAL))
    last = len(made) - 1
    return tuple(replace(peg, joined=0 < k < last) for k, peg in enumerate(made))


def _slopes_round(times: Floats, stops: Floats) -> Floats:
    """Return slopes at the pegs of a loop, the same at its end as at its start."""
    count, lap, span = len(times), stops[-1] - stops[0], times[-1] - times[0]
    # A lap before and one behind: so the seam is a peg between others like any.
    around = np.concatenate([times[:-1] - span, times, times[1:] + span])
    slopes = _monotone_slopes(around, np.concatenate([stops[:-1] - lap, stops, stops[1:] + lap]))
    slopes = slopes[count - 1 : 2 * count - 1]
    # Equal by what they are, and by this to the last bit.
    slopes[-1] = slopes[0]
    return slopes


def _monotone_slopes(x: Floats, y: Floats) -> Floats:
    """Return slopes at points for a cubic through them that never turns back where they do not."""
    h = np.diff(x)
    d = np.diff(y) / h
    if len(x) == 2:
        return np.repeat(d, 2)
    before, after = 2 * h[1:] + h[:-1], h[1:] + 2 * h[:-1]
    # The weighted harmonic mean of both sides; flat where they lead to different sides.
    with np.errstate(divide="ignore", invalid="ignore"):
        mean = (before + after) / (before / d[:-1] + after / d[1:])
    inner = np.where(d[:-1] * d[1:] > 0, mean, 0.0)
    first, last = _end_slope(h[:2], d[:2]), _end_slope(h[:-3:-1], d[:-3:-1])
    return np.concatenate([[first], inner, [last]])


def _end_slope(spans: Floats, slopes: Floats) -> float:
    """Return the slope at an end from the two spans next to it, kept from overshooting."""
    (h0, h1), (d0, d1) = spans, slopes
    slope = ((2 * h0 + h1) * d0 - h0 * d1) / (h0 + h1)
    # A three-point estimate may point the other way, or overshoot: then it is brought back.
    if slope * d0 <= 0:
        return 0.0
    if d0 * d1 <= 0 and abs(slope) > 3 * abs(d0):
        return float(3 * d0)
    return float(slope)


def pegs_with_rest(way: Way, peg_id: str, frames: float) -> tuple[Peg, ...]:
    """Return the pegs with a rest of so many frames at one; what comes later comes later.

    Errors: EditRefused: no such peg, or no time to rest.
    """
    if frames <= 0:
        raise EditRefused("A rest takes more than 0 frames.")
    index = find(way, peg_id)
    pegs = way.ride.pegs
    here = pegs[index]
    fresh = fresh_id("rest", {p.id for p in pegs})
    # Both pegs stand in one place, and how it was left goes to the later one.
    stays = replace(here, leave=Reach(USUAL, USUAL), step="none", joined=False)
    goes = Peg(fresh, here.time + frames, here.place, Reach(USUAL, USUAL), here.leave, here.step)
    later = tuple(replace(p, time=p.time + frames) for p in pegs[index + 1 :])
    return (*pegs[:index], stays, goes, *later)


def backwards(way: Way) -> tuple[Peg, ...]:
    """Return the pegs for the same way the other way round: last place first, each section
    mirrored.
    """
    pegs = way.ride.pegs
    start, end = way.ride.start, way.ride.end
    steps = [p.step for p in pegs[:-1]]
    return tuple(
        replace(
            now,
            # A share in place of a node: pegs keep their ids, so one on a node would get another's
            # place.
            place=AtPercent(way.distance(p.place) / way.length * 100 if way.length else 0.0),
            arrive=p.leave,
            leave=p.arrive,
            step=steps[-1 - k] if k < len(steps) else "none",
            time=start + end - p.time,
        )
        for k, (now, p) in enumerate(zip(pegs, reversed(pegs), strict=True))
    )


def to_and_fro(way: Way) -> tuple[Peg, ...]:
    """Return the pegs for there and back in the same time: each half as the way was, the second
    mirrored.

    Errors: EditRefused: the ride stands still.
    """
    pegs = way.ride.pegs
    if len(pegs) < 2:
        raise EditRefused("The ride stands still; there is no way to come back on.")
    start, end = way.ride.start, way.ride.end
    middle = (start + end) / 2
    there = retimed(pegs, start, middle)
    first, *back = retimed(backwards(way.with_pegs(there)), middle, end)
    # At the turn there is one peg, come to by the way there and left by the way back.
    turn = replace(there[-1], leave=first.leave, step=first.step)
    ids = Ids(peg.id for peg in pegs)
    return (*there[:-1], turn, *(replace(peg, id=ids.fresh("peg")) for peg in back))


def stepping(pegs: tuple[Peg, ...]) -> tuple[Peg, ...]:
    """Return the pegs jumping from each to the next when its time comes or, where all do so
    already, gliding.
    """
    steps = is_stepping(pegs)
    return tuple(replace(p, step="none" if steps else "end") for p in pegs)


def is_stepping(pegs: tuple[Peg, ...]) -> bool:
    return len(pegs) > 1 and all(p.step != "none" for p in pegs[:-1])


def find(way: Way, peg_id: str) -> int:
    """Errors: EditRefused: there is no such peg."""
    for index, peg in enumerate(way.ride.pegs):
        if peg.id == peg_id:
            return index
    raise EditRefused("The peg is not there any more.")
