"""What is laid over a layer's colours, and what stands for it on the ground."""

from typing import Annotated, Literal

from coaster.documents import Rule, document
from coaster.geometry.path import Colour, Id

MOST_COLOURS = 6
"""Of one tint."""
Unit = Annotated[float, Rule(ge=0, le=1)]
Px = Annotated[float, Rule(ge=-1_000_000, le=1_000_000)]


@document
class Tint:
    """Colours laid over all that a layer shows, within its shape, by an ``amount``: several lie
    evenly along the path it rides, and on a closed one the first follows the last. ``by``
    brightness it is only as much darker as they are. With ``under`` its colour is that of a picture
    where the layer's anchor is over it, and none beside it.
    """

    colours: Annotated[tuple[Colour, ...], Rule(min_length=1, max_length=MOST_COLOURS)]
    amount: Unit = 1.0
    by: Literal["colour", "brightness"] = "colour"
    under: Id | None = None


@document
class Mirror:
    """A layer once more, upside down below a ``floor``, the px of the scene from its top at which
    the ground is: ``height`` times as high, sheared by ``lean`` px across for each px up, so
    strong, and fainter the higher the layer is, until it is gone ``fade`` px above the floor, or
    never at 0. Its edges are ``soft``, px wide. A ``shadow`` is all black.
    """

    kind: Literal["reflection", "shadow"] = "reflection"
    floor: Px = 0.0
    height: Annotated[float, Rule(ge=-10, le=10)] = 1.0
    lean: Annotated[float, Rule(ge=-10, le=10)] = 0.0
    strength: Unit = 0.35
    fade: Annotated[float, Rule(ge=0, le=1_000_000)] = 0.0
    soft: Annotated[float, Rule(ge=0, le=2000)] = 0.0
