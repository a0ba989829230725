"""The ride: the link between a layer and a path. Pegs say when the rider is where."""

from dataclasses import replace
from itertools import pairwise
from typing import Annotated, Literal, get_args

from coaster.documents import Rule, document
from coaster.errors import EditRefused
from coaster.geometry.path import Gap, Id, Vec2
from coaster.motion import easing
from coaster.motion.copies import Copies
from coaster.motion.letters import Letters
from coaster.motion.sections import Frames, Reach

MOST_PERCENT = 1_000_000
Percent = Annotated[float, Rule(ge=-MOST_PERCENT, le=MOST_PERCENT)]
Seconds = Annotated[float, Rule(ge=0, le=60)]
Degrees = Annotated[float, Rule(ge=-1_000_000, le=1_000_000)]
Looks = Literal["side", "face"]
FacingMode = Literal["fixed", "along", "reversed", "ahead", "target", "nodes", "roll"]
Event = Literal["starts", "ends", "passes"]
EVENTS: tuple[Event, ...] = get_args(Event)
Beyond = Literal["round", "hide"]
FACINGS: tuple[FacingMode, ...] = get_args(FacingMode)
FACING_WORDS: dict[str, str] = {"nodes": "By node"}
"""What people call a way of facing where that is not its name."""


@document
class AtPercent:
    """A place at a share of the path's length; past 100 is the next lap."""

    percent: Percent
    on: Literal["length"] = "length"


@document
class AtNode:
    """A place on a node, with which it moves; ``lap`` whole laps later."""

    node: Id
    lap: Annotated[int, Rule(ge=-1000, le=1000)] = 0
    on: Literal["node"] = "node"


Place = Annotated[AtPercent | AtNode, Rule(discriminator="on")]


@document
class Peg:
    """At ``time`` (frames, may be fractional) be at ``place``.

    The section from here to the next peg follows ``leave`` and that peg's ``arrive``, or jumps
    at its ``step``. A ``joined`` peg is left at the speed it is come to, whatever is retimed: edits
    hold it (see ``pace.rejoined``).
    """

    id: Id
    time: Frames
    place: Place
    arrive: Reach = Reach()
    leave: Reach = Reach()
    step: easing.Step = "none"
    joined: bool = False


@document
class NodeAngle:
    """Degrees at a node; past 360 they count whole turns."""

    node: Id
    angle: Degrees


@document
class Facing:
    """How a rider turns: the picture's +x side is its front; ``turn`` is added to the facing.

    ``target`` looks at a layer or, without one, at the point ``spot``: it ``looks`` with its side,
    which turns it in its plane, or with its ``face``, which turns it in depth, as a camera always
    does. ``nodes`` blends between the ``angles``, the shorter way round unless they are
    ``counted``. ``roll`` turns by ``per_px`` degrees for each px of shift along ``axis`` since the
    scene's start. ``settle_s`` softens all of them but a face. What ``dives`` goes into depth with
    its nose ahead, as its path does. It ``banks`` into curves as what flies does: by the lean whose
    tangent is so many times its push outwards over 1000 px/s², which is the speed squared times the
    curvature.
    """

    mode: FacingMode = "along"
    turn: Degrees = 0.0
    flip_x: bool = False
    flip_y: bool = False
    keep_upright: bool = False
    ahead_s: Annotated[float, Rule(ge=0, le=60)] = 0.25
    target: Id | None = None
    spot: Vec2 = (0.0, 0.0)
    looks: Looks = "side"
    dives: bool = False
    banks: Annotated[float, Rule(ge=-20, le=20)] = 0.0
    angles: Annotated[tuple[NodeAngle, ...], Rule(max_length=10_000)] = ()
    counted: bool = False
    axis: Literal["x", "y"] = "x"
    per_px: Annotated[float, Rule(ge=-1000, le=1000)] = 0.5
    settle_s: Seconds = 0.0

    def __post_init__(self) -> None:
        if len({angle.node for angle in self.angles}) != len(self.angles):
            raise ValueError("a node has one angle")

    def own_spot(self) -> Vec2 | None:
        """Return the place that is looked at, where it is no layer's."""
        return self.spot if self.mode == "target" and self.target is None else None

    @property
    def leans(self) -> bool:
        """Whether it is ever out of the plane of its path by facing alone."""
        return self.in_depth or self.banks != 0

    @property
    def in_depth(self) -> bool:
        """Whether it turns its face to what it looks at."""
        return self.mode == "target" and self.looks == "face"

    def looks_at(self) -> str | None:
        """Return the layer it looks at, if it looks at one."""
        return self.target if self.mode == "target" else None


@document
class After:
    """A ride begins so many ``frames`` after the ride of another ``layer`` ``starts`` or ``ends``,
    or first ``passes`` a ``node`` of its path. Edits hold it (see ``commands.order``).
    """

    layer: Id
    event: Event = "ends"
    frames: Frames = 0.0
    node: Id | None = None


@document
class Ride:
    """A layer's travel on a path; ``offset`` (%) shifts the rider along it, wrapping round.

    ``settle_s`` softens where the rider is: it follows its place on the path, and cuts corners.
    With ``copies`` there are more riders like it, with ``letters`` a text rides part by part. What
    is shifted ``beyond`` the ends of an open path comes round to its other end, or is not seen.
    ``after`` says what it begins with. ``relative`` rides begin at the layer's own place: the path
    says where it goes from there.
    """

    path: Id
    pegs: Annotated[tuple[Peg, ...], Rule(min_length=1)]
    facing: Facing = Facing()
    offset: Percent = 0.0
    gap: Gap = "glide"
    never_backwards: bool = True
    settle_s: Seconds = 0.0
    copies: Copies | None = None
    letters: Letters | None = None
    beyond: Beyond = "round"
    after: After | None = None
    relative: bool = False

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


def with_laps(pegs: tuple[Peg, ...], laps: float) -> tuple[Peg, ...]:
    """Scale the pegs' percents about the first so that the whole travel is ``laps`` lengths.

    Pegs on nodes stay on them. Degenerate: a travel that goes nowhere gets all of it at its end.
    Errors: EditRefused: it all but ends where it began, and pegs between would be flung far off.
    """
    percents = [p.place.percent for p in pegs if isinstance(p.place, AtPercent)]
    if len(percents) < 2:
        return pegs
    first, span = percents[0], percents[-1] - percents[0]

    def scaled(peg: Peg) -> Peg:
        if not isinstance(peg.place, AtPercent):
            return peg
        share = (peg.place.percent - first) / span if span else float(peg is pegs[-1])
        percent = first + share * laps * 100
        if abs(percent) > MOST_PERCENT:
            raise EditRefused(
                "The ride all but ends where it began, so it has no laps to count; move its last"
                " peg first."
            )
        return replace(peg, place=AtPercent(percent))

    return tuple(scaled(p) for p in pegs)
