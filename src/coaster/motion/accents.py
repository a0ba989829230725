"""Accents: short motions on top of what a layer does anyway."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass as plain
from dataclasses import replace
from functools import cached_property
from typing import Annotated, Literal, get_args

import numpy as np

from coaster.documents import Rule, document
from coaster.geometry.bezier import Floats
from coaster.geometry.path import Id
from coaster.motion.distance import Way, passings, period_of
from coaster.motion.sections import Frames

Kind = Literal["shiver", "throb", "flicker", "hop", "twirl", "sway", "pop"]
When = Literal["at", "before", "during", "after", "peg", "node"]
KINDS: tuple[Kind, ...] = get_args(Kind)
WHENS: tuple[When, ...] = get_args(When)
MARKED: tuple[When, ...] = ("peg", "node")
"""When it goes by a peg, or a node of the path."""
Span = tuple[float, float]
MOST_ACCENTS = 20
"""Of one layer."""
SHIVER_PX, HOP_PX, SWAY_DEG, THROB, POP, DIM = 5.0, 36.0, 12.0, 0.16, 0.4, 0.85
"""How far each goes at a strength of 1: px, px, degrees, shares of the size, a share of opacity."""


@document
class Accent:
    """A short motion for ``lasts`` frames, ``count`` times to and fro in that, so strong, fading
    over the last ``fade``, 0..1, of it.

    It begins ``start`` frames into the scene (``at``), or so much later than right after the ride,
    or right before it; or it goes on ``during`` all of it. Of what rides none that is the scene.
    With ``mark`` it begins when the rider is at that ``peg``, or whenever it passes that ``node``
    of its path. ``twirl`` makes ``count`` whole turns, whatever its strength.
    """

    id: Id
    kind: Kind
    when: When = "at"
    start: Frames = 0.0
    lasts: Annotated[float, Rule(gt=0, le=100_000)] = 24.0
    count: Annotated[float, Rule(gt=0, le=1000)] = 3.0
    strength: Annotated[float, Rule(ge=-20, le=20)] = 1.0
    fade: Annotated[float, Rule(ge=0, le=1)] = 0.5
    mark: Id | None = None

    def retimed(self, factor: float) -> "Accent":
        """Return it so many times as late, and as long."""
        return replace(self, start=self.start * factor, lasts=self.lasts * factor)

    def spans(self, way: Way | None, length: int) -> list[Span]:
        """Return from when till when it goes on, frames, in a scene of this length; ``way`` is the
        layer's ride, if it has one. What comes round goes on over the scene's end.

        Degenerate: none where the peg or the node is not there, or is not passed.
        """
        begin, end = (0.0, float(length)) if way is None else (way.ride.start, way.ride.end)
        if self.when == "during":
            return [(begin, max(end, begin + 1e-6))]
        if self.when in MARKED:
            begins = [] if way is None else self._passed(way, length)
        else:
            begins = [{"at": 0.0, "before": begin - self.lasts, "after": end}[self.when]]
        spans = [(each + self.start, each + self.start + self.lasts) for each in begins]
        if self.when not in MARKED or way is None or period_of(way, length) is None:
            return spans
        rounds = [(a + by, b + by) for by in (0.0, -length, length) for a, b in spans]
        return [(a, b) for a, b in rounds if a <= length and b > 0]

    def _passed(self, way: Way, length: int) -> list[float]:
        """Return the frames at which a rider is at the peg or the node."""
        if self.when == "peg":
            return [peg.time for peg in way.ride.pegs if peg.id == self.mark]
        there = any(node.id == self.mark for node in way.path.nodes())
        return passings(way, self.mark, length) if there and self.mark is not None else []


@plain(frozen=True)
class Added:
    """What accents add at n times: px across and down, radians, and factors of size and opacity."""

    across: Floats
    down: Floats
    turn: Floats
    size: Floats
    opacity: Floats

    def and_then(self, more: Mapping[str, Floats]) -> "Added":
        """Return it with more: what moves is added up, what scales multiplied."""
        sums = {name: getattr(self, name) + more[name] for name in SUMS & more.keys()}
        products = {name: getattr(self, name) * more[name] for name in more.keys() - SUMS}
        return replace(self, **sums, **products)


SUMS = {"across", "down", "turn"}


def added(accents: Sequence[Accent], way: Way | None, length: int, times: Floats) -> Added:
    """Return what accents add to a layer at ``times``; ``way`` and ``length`` as for ``spans``."""
    zero, one = np.zeros(times.shape), np.ones(times.shape)
    found = Added(zero, zero, zero, one, one)
    for accent in accents:
        for begin, end in accent.spans(way, length):
            share = (times - begin) / (end - begin)
            found = found.and_then(EFFECTS[accent.kind](_Moment(accent, share)))
    return found


@plain(frozen=True)
class _Moment:
    """How far an accent is, 0..1 (n,); before and after that it adds nothing."""

    accent: Accent
    share: Floats

    @cached_property
    def on(self) -> Floats:
        return ((self.share >= 0) & (self.share < 1)).astype(float)

    @cached_property
    def strong(self) -> Floats:
        left = np.clip((1.0 - self.share) / max(self.accent.fade, 1e-9), 0.0, 1.0)
        return self.on * left * self.accent.strength

    def wave(self, rate: float = 1.0) -> Floats:
        """Return to and fro, as often as is wanted, times a rate."""
        return np.asarray(np.sin(2 * np.pi * rate * self.accent.count * self.share))


def _shiver(now: _Moment) -> dict[str, Floats]:
    # Two rates that have no common one, so that it does not go to and fro on a line.
    far = SHIVER_PX * now.strong
    return {"across": far * now.wave(), "down": far * now.wave(2**0.5)}


def _throb(now: _Moment) -> dict[str, Floats]:
    return {"size": 1.0 + THROB * now.strong * now.wave(0.5) ** 2}


def _flicker(now: _Moment) -> dict[str, Floats]:
    dim = np.clip(DIM * np.abs(now.strong), 0.0, 1.0)
    return {"opacity": 1.0 - np.where(now.wave() < 0, dim, 0.0)}


def _hop(now: _Moment) -> dict[str, Floats]:
    return {"down": -HOP_PX * now.strong * np.abs(now.wave(0.5))}


def _twirl(now: _Moment) -> dict[str, Floats]:
    eased = np.clip(now.share, 0.0, 1.0)
    turns = np.round(now.accent.count) * (1.0 if now.accent.strength >= 0 else -1.0)
    return {"turn": now.on * 2 * np.pi * turns * eased**2 * (3.0 - 2.0 * eased)}


def _sway(now: _Moment) -> dict[str, Floats]:
    return {"turn": np.radians(SWAY_DEG) * now.strong * now.wave()}


def _pop(now: _Moment) -> dict[str, Floats]:
    return {"size": 1.0 + POP * now.strong * now.wave() * (1.0 - np.clip(now.share, 0.0, 1.0))}


EFFECTS: dict[Kind, Callable[[_Moment], dict[str, Floats]]] = {
    "shiver": _shiver,
    "throb": _throb,
    "flicker": _flicker,
    "hop": _hop,
    "twirl": _twirl,
    "sway": _sway,
    "pop": _pop,
}
