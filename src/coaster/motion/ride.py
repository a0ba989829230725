"""The ride: the link between a layer and a path. Pegs say when the rider is where."""

from dataclasses import replace
from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field
from pydantic.dataclasses import dataclass

from coaster.geometry.path import STRICT, Gap, Id
from coaster.motion import easing
from coaster.motion.easing import Bezier, Pace

Frames = Annotated[float, Field(ge=-1_000_000, le=1_000_000)]
Percent = Annotated[float, Field(ge=-1_000_000, le=1_000_000)]
Degrees = Annotated[float, Field(ge=-1_000_000, le=1_000_000)]
FacingMode = Literal["fixed", "along", "reversed", "ahead"]


@dataclass(frozen=True, slots=True, config=STRICT)
class AtPercent:
    """A place at a share of the path's length; past 100 is the next lap."""

    percent: Percent
    on: Literal["length"] = "length"


@dataclass(frozen=True, slots=True, config=STRICT)
class AtNode:
    """A place on a node, with which it moves; ``lap`` whole laps later."""

    node: Id
    lap: Annotated[int, Field(ge=-1000, le=1000)] = 0
    on: Literal["node"] = "node"


Place = Annotated[AtPercent | AtNode, Field(discriminator="on")]


@dataclass(frozen=True, slots=True, config=STRICT)
class Reach:
    """One side of a peg: a handle of the section's curve, as shares of the section.

    ``time`` is how far the peg's speed holds on in time (the reach), ``distance`` how far the
    rider gets by then: speed = distance / time x the section's average speed.
    """

    time: Annotated[float, Field(ge=0, le=1)] = 1 / 3
    distance: Annotated[float, Field(ge=-1000, le=1000)] = 1 / 3


@dataclass(frozen=True, slots=True, config=STRICT)
class Peg:
    """At ``time`` (frames, may be fractional) be at ``place``.

    The section from here to the next peg follows ``leave`` and that peg's ``arrive``, or jumps
    at its ``step``.
    """

    id: Id
    time: Frames
    place: Place
    arrive: Reach = Reach()
    leave: Reach = Reach()
    step: easing.Step = "none"


@dataclass(frozen=True, slots=True, config=STRICT)
class Facing:
    """How a rider turns: the picture's +x side is its front; ``turn`` is added to the facing."""

    mode: FacingMode = "along"
    turn: Degrees = 0.0
    flip_x: bool = False
    flip_y: bool = False
    keep_upright: bool = False
    ahead_s: Annotated[float, Field(ge=0, le=60)] = 0.25


@dataclass(frozen=True, slots=True, config=STRICT)
class Ride:
    """A layer's travel on a path; ``offset`` (%) shifts the rider along it, wrapping round."""

    path: Id
    pegs: Annotated[tuple[Peg, ...], Field(min_length=1)]
    facing: Facing = Facing()
    offset: Percent = 0.0
    gap: Gap = "glide"
    never_backwards: bool = True

    def __post_init__(self) -> None:
        times = [peg.time for peg in self.pegs]
        if any(b <= a for a, b in pairwise(times)):
            raise ValueError("the pegs of a ride stand at different times, in order")
        if len({peg.id for peg in self.pegs}) != len(self.pegs):
            raise ValueError("the pegs of a ride have different ids")

    @property
    def start(self) -> float:
        return self.pegs[0].time

    @property
    def end(self) -> float:
        return self.pegs[-1].time

    def uses_node(self, node_id: str) -> bool:
        return any(isinstance(p.place, AtNode) and p.place.node == node_id for p in self.pegs)


def paced(pegs: tuple[Peg, ...], pace: Pace) -> tuple[Peg, ...]:
    """Give every section of the travel the same pace."""
    if isinstance(pace, str):
        return tuple(replace(p, step=pace) for p in pegs)
    leave, arrive = Reach(pace.x1, pace.y1), Reach(1 - pace.x2, 1 - pace.y2)
    last = len(pegs) - 1
    return tuple(
        replace(p, step="none", leave=leave if i < last else p.leave, arrive=arrive if i > 0 else p.arrive)
        for i, p in enumerate(pegs)
    )


def pace_of(pegs: tuple[Peg, ...]) -> tuple[str, Bezier | None]:
    """Return the name of the preset that every section follows, else ``own``; and the curve.

    The curve is None where the sections differ.
    """
    curves = [section_curve(a, b) for a, b in pairwise(pegs)] or [easing.EVEN]
    if any(_apart(curve, curves[0]) for curve in curves):
        return "own", None
    name = next((n for n, preset in easing.PRESETS.items() if not _apart(curves[0], preset)), "own")
    return name, curves[0]


def _apart(a: Bezier, b: Bezier) -> bool:
    return max(abs(x - y) for x, y in zip(a, b, strict=True)) > 1e-9


def section_curve(a: Peg, b: Peg) -> Bezier:
    return Bezier(a.leave.time, a.leave.distance, 1 - b.arrive.time, 1 - b.arrive.distance)


def retimed(pegs: tuple[Peg, ...], start: float, end: float) -> tuple[Peg, ...]:
    """Stretch the pegs in proportion so that they reach from ``start`` to ``end`` (frames)."""
    old, span = pegs[0].time, pegs[-1].time - pegs[0].time
    if span == 0:
        return (replace(pegs[0], time=start),)
    moved = tuple(replace(p, time=start + (p.time - old) / span * (end - start)) for p in pegs)
    return (*moved[:-1], replace(moved[-1], time=end))


def with_laps(pegs: tuple[Peg, ...], laps: float) -> tuple[Peg, ...]:
    """Scale the pegs' percents about the first so that the whole travel is ``laps`` lengths.

    Pegs on nodes stay on them. Degenerate: a travel that goes nowhere gets all of it at its end.
    """
    percents = [p.place.percent for p in pegs if isinstance(p.place, AtPercent)]
    if len(percents) < 2:
        return pegs
    first, span = percents[0], percents[-1] - percents[0]

    def scaled(peg: Peg) -> Peg:
        if not isinstance(peg.place, AtPercent):
            return peg
        share = (peg.place.percent - first) / span if span else float(peg is pegs[-1])
        return replace(peg, place=AtPercent(first + share * laps * 100))

    return tuple(scaled(p) for p in pegs)
