"""How outlines are painted over time, where colours and stroke widths have keys."""

from dataclasses import dataclass, replace
from typing import Any

from coaster.geometry.bezier import Floats
from coaster.motion import keys
from coaster.motion.colours import to_hex
from coaster.render.faces import Outline
from coaster.scene.document import Layer


def _at(values: Floats, frame: int) -> Any:
    return values[frame if len(values) > 1 else 0]


@dataclass(frozen=True, eq=False)
class Paints:
    """Keyed colours, red, green, blue and alpha (n, 4), 0..1, and widths (n,), px; None where there
    are not keys.
    """

    fill: Floats | None
    stroke: Floats | None
    width: Floats | None

    def on(self, outline: Outline, frame: int) -> Outline:
        """Return an outline as it is painted in a frame."""
        changed: dict[str, Any] = {}
        if self.fill is not None:
            changed["fill"] = to_hex(_at(self.fill, frame))
        if self.stroke is not None:
            changed["stroke"] = to_hex(_at(self.stroke, frame))
        if self.width is not None:
            changed["stroke_width"] = float(_at(self.width, frame))
        return replace(outline, **changed)

    @property
    def widest(self) -> float | None:
        return None if self.width is None else float(self.width.max())


def paints_of(layer: Layer, times: Floats) -> Paints | None:
    """Return the paint of a layer at ``times``; None where none of it has keys."""
    found = {"fill": None, "stroke": None, "width": None} | {
        _brush(layer, track.property): _values(track, times)
        for track in layer.keys
        if track.property in ("colour", "stroke", "width")
    }
    return Paints(**found) if any(value is not None for value in found.values()) else None


def _brush(layer: Layer, name: str) -> str:
    """Return what a property paints: the colour of what cannot be filled is its stroke's."""
    if name == "colour":
        return "fill" if layer.content.can.fill else "stroke"
    return name


def _values(track: Any, times: Floats) -> Floats:
    if track.property == "width":
        return keys.values(track.keys, times)[0]
    return keys.colours(track.keys, times)
