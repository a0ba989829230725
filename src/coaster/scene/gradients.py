"""Colours that go over into each other across what is filled."""

from itertools import pairwise
from typing import Annotated, Literal, get_args

from coaster.documents import Rule, document
from coaster.geometry.path import Colour

GradientForm = Literal["linear", "radial"]
FORMS = get_args(GradientForm)
MOST_STOPS = 6
Spot = tuple[Annotated[float, Rule(ge=-100, le=100)], Annotated[float, Rule(ge=-100, le=100)]]
"""Shares of a layer's box, across and down."""
Offset = Annotated[float, Rule(ge=0, le=1)]


@document
class Gradient:
    """Stops between two spots of a layer's box: along the line from ``start`` to ``end``, or in
    rings round ``start`` that reach to ``end``. Beyond the first and last stop theirs goes on.
    """

    form: GradientForm = "linear"
    start: Spot = (0.0, 0.5)
    end: Spot = (1.0, 0.5)
    colours: Annotated[tuple[Colour, ...], Rule(min_length=2, max_length=MOST_STOPS)] = (
        "#16222e",
        "#3cb38b",
    )
    offsets: Annotated[tuple[Offset, ...], Rule(min_length=2, max_length=MOST_STOPS)] = (0.0, 1.0)

    def __post_init__(self) -> None:
        if len(self.colours) != len(self.offsets):
            raise ValueError("a gradient has an offset for each of its colours")
        if any(b < a for a, b in pairwise(self.offsets)):
            raise ValueError("the stops of a gradient stand in the order of their offsets")
