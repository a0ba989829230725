"""Sections: what lies between two pegs or two keys, and how its way is shared out over its time."""

from collections.abc import Collection, Sequence
from dataclasses import replace
from functools import lru_cache
from itertools import pairwise
from typing import Annotated, Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

from coaster.documents import Rule, document
from coaster.errors import EditRefused
from coaster.geometry.bezier import Floats
from coaster.motion import easing
from coaster.motion.easing import Bezier, Pace

Frames = Annotated[float, Rule(ge=-1_000_000, le=1_000_000)]


@document
class Reach:
    """One side of a peg: a handle of the section's curve, as shares of the section.

    ``time`` is how far the peg's speed holds on in time (the reach), ``distance`` how far the
    rider gets by then: speed = distance / time x the section's average speed.
    """

    time: Annotated[float, Rule(ge=0, le=1)] = 1 / 3
    distance: Annotated[float, Rule(ge=-1000, le=1000)] = 1 / 3


class Timed(Protocol):
    """A peg or a key: a time, and how the sections on its two sides begin and end."""

    @property
    def id(self) -> str: ...
    @property
    def time(self) -> float: ...
    @property
    def arrive(self) -> Reach: ...
    @property
    def leave(self) -> Reach: ...
    @property
    def step(self) -> easing.Step: ...


T = TypeVar("T", bound=Timed)


def changed(stop: T, **values: object) -> T:
    """Return a peg or a key with some fields changed."""
    # Both are dataclasses, which a protocol cannot say.
    return replace(stop, **values)  # type: ignore[type-var]


@lru_cache(maxsize=1024)
def shares(
    pegs: Sequence[Timed], forward_only: bool, times: bytes
) -> tuple[NDArray[np.intp], Floats, Floats]:
    """Return for each time its section, the share of it that is covered, and the share a frame.

    What is passed has no say in this: while a path is being shaped, all of it is known.

    ``times`` are the bytes of float64 frames, any order. The shares may lie outside 0..1.
    """
    t = np.frombuffer(times)
    marks = np.array([p.time for p in pegs])
    k, u, span = _in_sections(t, marks)
    value, slope = easing.ease(u, *section_curves(pegs, forward_only)[k].T)
    steps = np.array([easing.STEP_KINDS.index(p.step) for p in pegs[:-1]])[k]
    value = np.choose(steps, [value, np.ones_like(u), np.floor(u)])
    # Between jumps and outside the ride nothing moves, whatever the curve's slope says.
    resting = (t < marks[0]) | (t > marks[-1]) | (steps > 0)
    found = k, value, np.where(resting, 0.0, slope / span)
    for array in found:
        # They are shared by all that ask: nobody may write into them.
        array.setflags(write=False)
    return found


def _in_sections(t: Floats, marks: Floats) -> tuple[NDArray[np.intp], Floats, Floats]:
    """Return each time's section, the share of it that is over, and how long it is; at the last
    mark, though nothing comes after it, that is the section before.
    """
    last = len(marks) - 2
    k = np.clip(np.searchsorted(marks, t, side="right") - 1, 0, last)
    span = np.diff(marks)[k]
    return k, np.clip((t - marks[k]) / span, 0.0, 1.0), span


def section_curves(pegs: Sequence[Timed], forward_only: bool) -> Floats:
    """Return x1, y1, x2, y2 of each section (n - 1, 4).

    With ``forward_only`` a curve that would run back is flattened until it just does not: its
    handles' distances p = y1 and q = 1 - y2 shrink together. A monotone curve stays as it is.

    Source: the derivative, in Bernstein form p, 1 - p - q, q, has no negative value if p and q
            have none and p + q - sqrt(p q) <= 1.
    """
    rows = [
        (a.leave.time, a.leave.distance, 1 - b.arrive.time, 1 - b.arrive.distance)
        for a, b in pairwise(pegs)
    ]
    curves = np.array(rows, float)
    if forward_only:
        _flatten(curves)
    return curves


def _flatten(curves: Floats) -> None:
    """Bring curves in place to where they just do not run back."""
    p, q = np.maximum(curves[:, 1], 0.0), np.maximum(1 - curves[:, 3], 0.0)
    excess = np.maximum(p + q - np.sqrt(p * q), 1.0)
    held = (excess > 1) | (curves[:, 1] < 0) | (curves[:, 3] > 1)
    curves[held, 1], curves[held, 3] = (p / excess)[held], (1 - q / excess)[held]


def moved(
    stops: tuple[T, ...],
    chosen: Collection[str],
    by: float,
    factor: float = 1.0,
    about: float = 0.0,
) -> tuple[T, ...]:
    """Return pegs or keys with those chosen ``by`` frames later, their times stretched ``about``
    one first.

    Errors: EditRefused: one would come to stand on another, or the order would change.
    """

    def time(stop: T) -> float:
        return about + (stop.time - about) * factor + by if stop.id in chosen else stop.time

    there = tuple(changed(stop, time=round(time(stop), 9)) for stop in stops)
    if any(b.time <= a.time for a, b in pairwise(there)):
        raise EditRefused(
            "Two would stand at one time, or pass each other; they were kept where they were."
        )
    return there


def paced(pegs: tuple[T, ...], pace: Pace) -> tuple[T, ...]:
    """Give every section of the travel the same pace."""
    if isinstance(pace, str):
        return tuple(changed(p, step=pace) for p in pegs)
    leave, arrive = Reach(pace.x1, pace.y1), Reach(1 - pace.x2, 1 - pace.y2)
    last = len(pegs) - 1
    return tuple(
        changed(
            p,
            step="none",
            leave=leave if i < last else p.leave,
            arrive=arrive if i > 0 else p.arrive,
        )
        for i, p in enumerate(pegs)
    )


def with_paces(stops: tuple[T, ...], chosen: Collection[str], pace: Pace) -> tuple[T, ...]:
    """Return pegs or keys with a pace in each section between two of those chosen; one alone, in
    that after it.

    Errors: EditRefused: no section begins there.
    """
    begins = [i for i, stop in enumerate(stops[:-1]) if stop.id in chosen]
    wanted = [i for i in begins if stops[i + 1].id in chosen] or begins
    if not wanted:
        raise EditRefused("After the last one nothing moves; choose the one before.")
    made = list(stops)
    for i in wanted:
        before, after = made[i : i + 2]
        first, second = paced((before, after), pace)
        # What lies beyond the section stays: how it is come to, and how it is left.
        made[i] = changed(first, arrive=before.arrive)
        made[i + 1] = changed(second, leave=after.leave, step=after.step)
    return tuple(made)


def pace_of(pegs: Sequence[Timed]) -> tuple[str, Bezier | None]:
    """Return the name of the preset that every section follows, else ``own``; and the curve.

    The curve is None where the sections differ.
    """
    curves = [section_curve(a, b) for a, b in pairwise(pegs)] or [easing.EVEN]
    if any(_apart(curve, curves[0]) for curve in curves):
        return "own", None
    return pace_name(curves[0]), curves[0]


def pace_name(curve: Bezier) -> str:
    """Return the name of the preset that a curve is, else ``own``."""
    return next((n for n, preset in easing.PRESETS.items() if not _apart(curve, preset)), "own")


def _apart(a: Bezier, b: Bezier) -> bool:
    return max(abs(x - y) for x, y in zip(a, b, strict=True)) > 1e-9


def section_curve(a: Timed, b: Timed) -> Bezier:
    return Bezier(a.leave.time, a.leave.distance, 1 - b.arrive.time, 1 - b.arrive.distance)


def retimed(pegs: tuple[T, ...], start: float, end: float) -> tuple[T, ...]:
    """Stretch the pegs in proportion so that they reach from ``start`` to ``end`` (frames)."""
    old, span = pegs[0].time, pegs[-1].time - pegs[0].time
    if span == 0:
        return (changed(pegs[0], time=start),)
    moved = tuple(changed(p, time=start + (p.time - old) / span * (end - start)) for p in pegs)
    return (*moved[:-1], changed(moved[-1], time=end))
