"""Properties that may have keys: one table, which the core, the forms and the browser read."""

from collections.abc import Sequence
from dataclasses import dataclass as plain
from itertools import pairwise
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field

from coaster.documents import Rule, document
from coaster.motion.keys import MOST_KEYS, Key, Keys, number
from coaster.scene.gradients import MOST_STOPS
from coaster.scene.shades import MOST_COLOURS

Kind = Literal["number", "colour"]
Home = Literal["transform", "ride", "content", "mask", "tint", "gradient"]
"""The part of a layer in which a property stands while no keys move it."""


@plain(frozen=True, slots=True)
class Property:
    """What there is to know of one property.

    ``unit`` and ``factor`` say how a person reads it: the document's value times ``factor``.
    ``low`` and ``high`` are in the document's units. Numbers are interpolated as they are,
    colours in a perceptual space. ``field`` and ``index`` say where in its ``home`` it stands;
    of a content the kind says so (see ``contents``). With ``proportional`` all keys of a property
    that is set between them change by a factor; else by a sum. ``free`` says that even what
    follows a path and has no place of its own has it.
    """

    name: str
    words: str
    unit: str
    low: float
    high: float
    home: Home
    field: str = ""
    index: int | None = None
    factor: float = 1.0
    kind: Kind = "number"
    proportional: bool = False
    free: bool = False

    def read(self, home: Any) -> Any:
        """Return the standing value from the part of the layer that has it; None where it has no
        such stop.
        """
        found = getattr(home, self.field)
        if self.index is None:
            return found
        return found[self.index] if self.index < len(found) else None

    def written(self, home: Any, value: Any) -> dict[str, Any]:
        """Return the changed field of that part, for a new standing value."""
        if self.index is None:
            return {self.field: value}
        now = getattr(home, self.field)
        if self.proportional:
            ratio = now[1] / now[0] if now[0] else 1.0
            return {self.field: (value, value * ratio)}
        changed = list(now)
        changed[self.index] = value
        return {self.field: tuple(changed)}

    def within(self, value: float) -> float:
        """Return the nearest value that it may be."""
        return min(max(value, self.low), self.high)

    def shown(self, value: float) -> str:
        """Write a value as a person reads it, with its unit."""
        space = "" if self.unit in ("", "°") else " "
        return f"{value * self.factor:g}{space}{self.unit}"

    def told(self) -> dict[str, Any]:
        """Return what the page needs to know."""
        return {"words": self.words, "unit": self.unit, "factor": self.factor, "kind": self.kind}


LEAST_ANGLE, MOST_ANGLE = 1.0, 170.0
"""Degrees that a camera sees across: at 0 it would be endlessly far away, at 180 in the picture."""
MOST_BRIGHT = 10.0
"""Times as bright as white."""
MOST_SKEW = 85.0
"""Degrees; at 90 nothing would be left to see."""

TABLE = (
    Property("x", "X", "px", -1e6, 1e6, "transform", "position", 0),
    Property("y", "Y", "px", -1e6, 1e6, "transform", "position", 1),
    Property(
        "scale", "Scale", "%", -1000, 1000, "transform", "scale", 0, factor=100, proportional=True
    ),
    Property("turn", "Turn", "°", -1e6, 1e6, "transform", "turn"),
    Property("skew", "Skew", "°", -MOST_SKEW, MOST_SKEW, "transform", "skew"),
    Property("z", "Depth", "px", -1e6, 1e6, "transform", "z"),
    Property("tilt", "Tilt", "°", -1e6, 1e6, "transform", "tilt"),
    Property("swing", "Swing", "°", -1e6, 1e6, "transform", "swing"),
    Property("opacity", "Opacity", "%", 0, 1, "transform", "opacity", factor=100, free=True),
    Property("shift", "Shift", "%", -1e6, 1e6, "ride", "offset"),
    Property("grow", "Mask grown", "px", -1000, 1000, "mask", "grow", free=True),
    Property("feather", "Mask feather", "px", 0, 1000, "mask", "feather", free=True),
    Property("masking", "Mask strength", "%", 0, 1, "mask", "strength", factor=100, free=True),
    Property("tinting", "Tint amount", "%", 0, 1, "tint", "amount", factor=100, free=True),
    Property("size", "Size", "px", 1, 2000, "content"),
    Property("tracking", "Tracking", "%", -0.5, 5, "content", factor=100),
    Property("size_x", "Width", "px", 0.01, 100_000, "content"),
    Property("size_y", "Height", "px", 0.01, 100_000, "content"),
    Property("begin", "Drawn from", "%", 0, 1, "content", factor=100),
    Property("end", "Drawn to", "%", 0, 1, "content", factor=100),
    Property("width", "Stroke width", "px", 0, 1000, "content"),
    Property("dashes", "Dash offset", "px", -1e6, 1e6, "content"),
    Property("speed", "Speed", "%", -100, 100, "content", factor=100),
    Property("angle", "Angle of view", "°", LEAST_ANGLE, MOST_ANGLE, "content"),
    Property("brightness", "Brightness", "%", 0, MOST_BRIGHT, "content", factor=100),
    Property("reach", "Reach", "px", 0, 100_000, "content"),
    Property("spread", "Spread", "°", 1, 360, "content"),
    Property("ambient", "Elsewhere", "%", 0, 1, "content", factor=100),
    Property("colour", "Colour", "% light", 0, 1, "content", factor=100, kind="colour"),
    Property("stroke", "Stroke colour", "% light", 0, 1, "content", factor=100, kind="colour"),
    Property("fill", "Fill colour", "% light", 0, 1, "content", factor=100, kind="colour"),
    *(
        Property(
            f"stop_{i + 1}",
            f"Stop {i + 1}",
            "% light",
            0,
            1,
            "gradient",
            "colours",
            i,
            factor=100,
            kind="colour",
            free=True,
        )
        for i in range(MOST_STOPS)
    ),
    *(
        Property(
            f"tint_{i + 1}",
            f"Tint colour {i + 1}",
            "% light",
            0,
            1,
            "tint",
            "colours",
            i,
            factor=100,
            kind="colour",
            free=True,
        )
        for i in range(MOST_COLOURS)
    ),
    *(
        Property(
            f"stop_{i + 1}_at",
            f"Stop {i + 1} at",
            "%",
            0,
            1,
            "gradient",
            "offsets",
            i,
            factor=100,
            free=True,
        )
        for i in range(MOST_STOPS)
    ),
)
"""In the order in which a layer keeps them."""
PROPERTIES = {each.name: each for each in TABLE}
NAMES = tuple(PROPERTIES)
PLACES = tuple(each.name for each in TABLE if each.field == "position")
"""Those that say where a layer is; they rest while it rides."""
DEPTHS = ("z", "tilt", "swing")
ATTITUDE = ("turn", "tilt", "swing")
"""Those that bring it out of its group's plane."""


def _known(name: str) -> str:
    if name not in PROPERTIES:
        raise ValueError(f"there is no property {name!r}")
    return name


PropertyName = Annotated[
    str, AfterValidator(_known), Field(json_schema_extra={"enum": list(NAMES)})
]


@document
class Track:
    """All keys of one property, in the order of time."""

    property: PropertyName
    keys: Annotated[Keys, Rule(min_length=1, max_length=MOST_KEYS)]

    def __post_init__(self) -> None:
        row = PROPERTIES[self.property]
        if any(b.time <= a.time for a, b in pairwise(self.keys)):
            raise ValueError(f"the keys of {row.name} stand at different times, in order")
        if len({key.id for key in self.keys}) != len(self.keys):
            raise ValueError(f"the keys of {row.name} have different ids")
        if any(isinstance(key.value, str) != (row.kind == "colour") for key in self.keys):
            raise ValueError(f"{row.name} is a {row.kind}")
        if row.kind == "number":
            _check_limits(row, self.keys)


def _check_limits(row: Property, keys: Sequence[Key]) -> None:
    wrong = next((key for key in keys if not row.low <= number(key) <= row.high), None)
    if wrong is not None:
        limits = f"{row.low * row.factor:g} to {row.shown(row.high)}"
        raise ValueError(f"{row.name} is {limits}, not {row.shown(number(wrong))}")


def in_order(tracks: Sequence[Track]) -> tuple[Track, ...]:
    """Return tracks in the order of the table."""
    return tuple(sorted(tracks, key=lambda track: NAMES.index(track.property)))
