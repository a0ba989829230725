"""How outlines are painted over time, where colours and stroke widths have keys."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from coaster.geometry.bezier import Floats
from coaster.motion import keys
from coaster.motion.colours import to_hex
from coaster.motion.sense import Rows
from coaster.render.frames import cut
from coaster.render.outlines import Outline, Ramp
from coaster.scene.document import Layer
from coaster.scene.properties import PROPERTIES, Track


def _at(values: Floats, frame: int) -> Any:
    return values[frame if len(values) > 1 else 0]


@dataclass(frozen=True, eq=False)
class Paints:
    """Keyed colours, red, green, blue and alpha (n, 4), 0..1, widths and offsets of dashes (n,),
    px; None where there are not keys. ``stops`` are the colours of a gradient's stops that have
    keys, by their number, ``stops_at`` their offsets (n,).
    """

    fill: Floats | None = None
    stroke: Floats | None = None
    width: Floats | None = None
    offset: Floats | None = None
    stops: Mapping[int, Floats] = field(default_factory=dict)
    stops_at: Mapping[int, Floats] = field(default_factory=dict)

    def on(self, outline: Outline, frame: int) -> Outline:
        """Return an outline as it is painted in a frame."""
        changed: dict[str, Any] = {}
        if isinstance(outline.fill, Ramp):
            changed["fill"] = self._ramp(outline.fill, frame)
        elif self.fill is not None:
            changed["fill"] = to_hex(_at(self.fill, frame))
        if self.stroke is not None:
            changed["stroke"] = to_hex(_at(self.stroke, frame))
        if self.width is not None:
            changed["stroke_width"] = float(_at(self.width, frame))
        if self.offset is not None:
            changed["pen"] = replace(outline.pen, offset=float(_at(self.offset, frame)))
        return replace(outline, **changed)

    def at_rows(self, rows: Rows) -> "Paints":
        """Return the paint as it is in some rows."""
        keyed = {each: getattr(self, each) for each in BRUSHES}
        brushes = {each: cut(keyed[each], rows) for each in BRUSHES if keyed[each] is not None}
        stops, stops_at = (
            {number: cut(values, rows) for number, values in of.items()}
            for of in (self.stops, self.stops_at)
        )
        return Paints(**brushes, stops=stops, stops_at=stops_at)

    def _ramp(self, ramp: Ramp, frame: int) -> Ramp:
        """Return a gradient as it is in a frame; an offset never falls behind the one before."""
        colours = [
            to_hex(_at(self.stops[i], frame)) if i in self.stops else colour
            for i, colour in enumerate(ramp.colours)
        ]
        offsets = [
            float(_at(self.stops_at[i], frame)) if i in self.stops_at else offset
            for i, offset in enumerate(ramp.offsets)
        ]
        rising = np.clip(np.maximum.accumulate(offsets), 0.0, 1.0).tolist()
        return replace(ramp, colours=tuple(colours), offsets=tuple(rising))

    @property
    def widest(self) -> float | None:
        return None if self.width is None else float(self.width.max())


BRUSHES = ("fill", "stroke", "width", "offset")
"""What of a paint may have keys."""


def paints_of(layer: Layer, times: Floats) -> Paints | None:
    """Return the paint of a layer at ``times``; None where none of it has keys."""
    found: dict[str, Any] = {
        brush: _values(track, times)
        for track in layer.keys
        if (brush := _brush(layer, track.property)) is not None
    }
    for track in layer.keys:
        row = PROPERTIES[track.property]
        if row.home == "gradient":
            part = "stops" if row.field == "colours" else "stops_at"
            found.setdefault(part, {})[row.index] = _values(track, times)
    return Paints(**found) if found else None


def _brush(layer: Layer, name: str) -> str | None:
    """Return what a property paints: the colour of what cannot be filled is its stroke's."""
    if name == "colour":
        return "fill" if layer.content.can.fill else "stroke"
    return {"stroke": "stroke", "fill": "fill", "width": "width", "dashes": "offset"}.get(name)


def _values(track: Track, times: Floats) -> Floats:
    if PROPERTIES[track.property].kind == "colour":
        return keys.colours(track.keys, times)
    return keys.values(track.keys, times)[0]
