"""Looks as values: outlines with how they are painted, pictures, and which of them is seen when."""

import math
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from coaster.geometry.bezier import Floats
from coaster.motion.sense import Rows
from coaster.render.figures import Figure
from coaster.scene.contents import Cap, Join, Side
from coaster.scene.gradients import Gradient, GradientForm

MITER = 4.0
"""As SVG has it where nothing is said."""
HALF_DIAGONAL = 2**-0.5
SHORTEST_RAMP = 1e-3
"""Px; a gradient that is shorter is its last colour, as SVG has it."""
ALWAYS_FIRST = np.zeros(1, np.intp)


@dataclass(frozen=True)
class Pen:
    """How a stroke goes: its ends and corners, by their SVG names, and dashes, px on and off from
    ``offset`` px along it on. A corner that would stand out by more than ``MITER`` widths is cut.
    """

    cap: Cap = "round"
    join: Join = "round"
    dash: tuple[float, float] | None = None
    offset: float = 0.0


ROUND = Pen()


@dataclass(frozen=True)
class Ramp:
    """A gradient in the content's own px: stops from ``start`` to ``end``, or in rings round
    ``start``, the last of which goes through ``end``.
    """

    form: GradientForm
    start: tuple[float, float]
    end: tuple[float, float]
    colours: tuple[str, ...]
    offsets: tuple[float, ...]

    @property
    def radius(self) -> float:
        return math.dist(self.start, self.end)

    @property
    def shown(self) -> "str | Ramp":
        """What there is to fill with: where it has no length, its last colour."""
        return self if self.radius > SHORTEST_RAMP else self.colours[-1]


def ramp_of(gradient: Gradient | None, box: tuple[float, float, float, float]) -> Ramp | None:
    """Return a gradient over a box (left, top, width, height)."""
    if gradient is None:
        return None
    start, end = (
        (box[0] + spot[0] * box[2], box[1] + spot[1] * box[3])
        for spot in (gradient.start, gradient.end)
    )
    return Ramp(gradient.form, start, end, gradient.colours, gradient.offsets)


@dataclass(frozen=True, eq=False)
class Outline:
    """A figure in the content's own px, with how it is filled and stroked; the stroke ``under`` the
    fill if it is to leave its shape alone, or on one ``side`` of the edge.
    """

    figure: Figure
    fill: str | Ramp | None = None
    stroke: str | None = None
    stroke_width: float = 0.0
    pen: Pen = ROUND
    under: bool = False
    side: Side = "middle"

    @property
    def reach(self) -> float:
        """How far the stroke reaches beyond the figure, in widths."""
        corner = 0.5 * MITER if self.pen.join == "miter" else 0.5
        middle = max(corner, HALF_DIAGONAL if self.pen.cap == "square" else 0.0)
        return middle * 2 * self.beyond

    @property
    def beyond(self) -> float:
        """How much of the stroke's width lies beyond the edge."""
        return {"inside": 0.0, "middle": 0.5, "outside": 1.0}[self.side]

    @property
    def drawn_width(self) -> float:
        """How wide it is stroked: of what lies on one side, half is cut away."""
        return self.stroke_width * (1 if self.side == "middle" else 2)


@dataclass(frozen=True, eq=False)
class Face:
    """One look: ``picture`` (file and index of the frame in it) or outlines, in a box (left, top,
    width, height). ``mix`` is a frame that the picture fades into, and how far it has.
    """

    box: tuple[float, float, float, float]
    picture: tuple[str, int] | None = None
    outlines: tuple[Outline, ...] = ()
    mix: tuple[int, float] | None = None

    @property
    def size(self) -> tuple[float, float]:
        return self.box[2], self.box[3]


@dataclass(frozen=True, eq=False)
class Faces:
    """The looks of a layer, ``which`` (n,) of them in each frame, or (1,) where it is always the
    same.

    ``grown`` (n,) or (1,) is by how much a face is larger than it is here.
    """

    faces: tuple[Face, ...]
    which: NDArray[np.intp] = field(default_factory=lambda: ALWAYS_FIRST)
    grown: Floats | None = None

    @property
    def first(self) -> Face:
        return self.faces[int(self.which[0])]

    @property
    def still(self) -> bool:
        return len(self.which) == 1

    def number(self, frame: int) -> int:
        """Return which of the faces is seen in a frame."""
        return int(self.which[frame if len(self.which) > 1 else 0])

    def at(self, frame: int) -> Face:
        return self.faces[self.number(frame)]

    def at_rows(self, rows: Rows) -> "Faces":
        """Return the looks in some frames; how much they are grown is in their maps already."""
        return self if self.still else Faces(self.faces, self.which[rows])

    def boxes(self) -> Floats:
        """Return the box in each frame, (n, 4) or (1, 4)."""
        if self.still:
            return np.array([self.first.box])
        return np.array([face.box for face in self.faces])[self.which]
