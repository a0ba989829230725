"""What of a layer follows what of another one."""

from typing import Annotated, Any, Literal

from pydantic import Field

from coaster.documents import Rule, document
from coaster.geometry.path import Id
from coaster.motion.sections import Frames
from coaster.scene.properties import PROPERTIES, PropertyName

Curve = Literal["even", "ease-in", "ease-out", "ease-both"]
Value = Annotated[float, Rule(ge=-1_000_000, le=1_000_000)]
MOST_FOLLOWS = 20
"""Of one layer."""
MEASURES: dict[str, tuple[str, str, float]] = {
    "speed": ("speed", "px/s", 1.0),
    "heading": ("heading", "°", 1.0),
    "travelled": ("travelled", "%", 100.0),
    "x": ("X", "px", 1.0),
    "y": ("Y", "px", 1.0),
}
"""What is measured of a layer's way: words, and the unit and factor by which a person reads it."""
NUMBERS = tuple(name for name, row in PROPERTIES.items() if row.kind == "number")
Followed = Annotated[
    str, Field(json_schema_extra={"enum": list(dict.fromkeys((*MEASURES, *NUMBERS)))})
]


@document
class Follow:
    """A property that is a number follows a ``value`` of another ``layer``, keys or none.

    While that goes from ``low`` to ``high``, the property goes from ``at_low`` to ``at_high``, by a
    ``curve``; beyond, it rests there or, ``beyond``, goes on evenly. It comes ``later`` frames
    later, and lags behind by ``damping`` seconds, after which 63 % of a step are there. A value is
    a property of that layer or one of ``MEASURES``, in px of the scene, px a second, degrees that
    count on, and shares of its path.
    """

    property: PropertyName
    layer: Id
    value: Followed
    low: Value = 0.0
    high: Value = 1.0
    at_low: Value = 0.0
    at_high: Value = 1.0
    curve: Curve = "even"
    beyond: bool = False
    later: Frames = 0.0
    damping: Annotated[float, Rule(ge=0, le=3600)] = 0.0

    def __post_init__(self) -> None:
        row = PROPERTIES[self.property]
        if row.kind != "number":
            raise ValueError(f"{row.words} is a colour, and follows no number")
        if self.value not in MEASURES and not is_number(self.value):
            known = ", ".join(MEASURES)
            raise ValueError(f"there is no value {self.value!r}; there are {known} and properties")
        if self.low == self.high:
            raise ValueError("what a value goes from and to are two numbers")
        for said in (self.at_low, self.at_high):
            if not row.low <= said <= row.high:
                limits = f"{row.low * row.factor:g} to {row.shown(row.high)}"
                raise ValueError(f"{row.words} is {limits}, not {row.shown(said)}")


def is_number(name: Any) -> bool:
    return name in NUMBERS


def told(value: str) -> tuple[str, str, float]:
    """Return a value's words, and the unit and factor by which a person reads it."""
    if value in MEASURES:
        return MEASURES[value]
    row = PROPERTIES[value]
    return row.words.lower(), row.unit, row.factor
