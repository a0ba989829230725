"""How a layer meets what lies beneath it: its blend, and the mask that says where it is seen."""

from dataclasses import replace
from typing import Annotated, Literal, get_args

from coaster.documents import Rule, document
from coaster.geometry.path import Id

Blend = Literal[
    "normal", "multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn",
    "hard-light", "soft-light", "difference", "exclusion", "hue", "saturation", "color",
    "luminosity",
]  # fmt: skip
"""By their CSS names."""
Meeting = Literal["add", "take", "meet"]
Stencil = Literal["alpha", "brightness"]
"""What of a layer masks the one below it."""
STENCILS = get_args(Stencil)
BLENDS, MEETINGS = get_args(Blend), get_args(Meeting)
MOST_PARTS = 50


@document
class MaskPart:
    """The inside of a path: added to what the parts before it show, taken from it, or kept of it
    alone. Open runs are closed by a straight line.
    """

    path: Id
    how: Meeting = "add"


@document
class Mask:
    """Where a layer is seen: inside of paths, which lie where they are seen themselves.

    ``grow`` moves the edge of every part outwards, in px of its path; ``feather`` is over how many
    px of the first path the edge fades: two standard deviations of a Gaussian. ``inverted`` shows
    what is outside. With a ``strength`` below 1 what is masked away is still seen a little.
    """

    parts: Annotated[tuple[MaskPart, ...], Rule(min_length=1, max_length=MOST_PARTS)]
    inverted: bool = False
    grow: Annotated[float, Rule(ge=-1000, le=1000)] = 0.0
    feather: Annotated[float, Rule(ge=0, le=1000)] = 0.0
    strength: Annotated[float, Rule(ge=0, le=1)] = 1.0

    def __post_init__(self) -> None:
        if len(set(self.paths())) < len(self.parts):
            raise ValueError("a mask has each of its paths once")

    def paths(self) -> tuple[str, ...]:
        return tuple(part.path for part in self.parts)

    def without(self, path_id: str) -> "Mask | None":
        """Return the mask without a path; None if that was its only one."""
        rest = tuple(part for part in self.parts if part.path != path_id)
        return replace(self, parts=rest) if rest else None
