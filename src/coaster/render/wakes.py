"""Wakes in the picture: where each particle is and how it looks, from where its layer was when it
was born.
"""

from collections.abc import Sequence
from dataclasses import replace
from functools import cached_property, lru_cache, partial

import numpy as np
from numpy.typing import NDArray

from coaster.geometry import maps
from coaster.geometry.bezier import Floats
from coaster.motion import colours as palette
from coaster.motion.sense import Rows
from coaster.motion.wakes import Clock, Particles, Wake
from coaster.render import places
from coaster.render.faces import standing_face
from coaster.render.many import Lanes
from coaster.render.outlines import Face
from coaster.render.places import Placed, Stand
from coaster.scene.document import Layer

COMES_ROUND = 0.5
"""Px by which a layer may be elsewhere at the end of a scene than at its start, and still its wake
comes round.
"""


class Trail:
    """What a layer leaves behind, of whose strengths ``always`` (n,) or (1,) are those in all
    frames; seen at ``times`` (m,). One that lives stays in its lane.

    Where they have several looks these are its ``faces``: of each thing that they look like so many
    ``steps``, one after another.
    """

    def __init__(self, one: Placed, wake: Wake, always: Floats, times: Floats) -> None:
        self._one, self._wake, self._always, self._times = one, wake, always, times
        self._left = _Left(one, wake, places.stands([one])[0])
        self.lanes = Particles(wake, self._left.clock, times[:1]).lanes
        self.things = (one.layer, *one.looks)
        self.steps = COLOUR_STEPS if wake.colours else 1
        several = len(self.things) > 1 or self.steps > 1
        self.faces = _faces_of(self.things, wake.colours, self.steps) if several else ()

    def at(self, rows: Rows | slice) -> Lanes:
        one, left, times = self._one, self._left, self._times[rows]
        found = Particles(self._wake, left.clock, times)
        if len(times) == 1:
            found.leave_out_the_rest()
        strong = found.strengths() * left.at(self._always, found.births)
        if one.layer.shown is not None:
            # Its time is that in which it leaves any; these live on.
            begin, end = one.layer.shown
            births = found.births % one.length if left.clock.round else found.births
            strong = np.where((births >= begin) & (births < end), strong, 0.0)
        things = found.among(len(self.things)) if self.faces else None
        own = left.maps(found, things)
        if one.group is not None or one.viewer is not None:
            own = maps.compose(_home_maps(one, times)[:, None], own)
        if things is None:
            return Lanes(own, strong)
        return Lanes(own, strong, things * self.steps + found.at_step(self.steps))


COLOUR_STEPS = 12
"""Looks in which particles go through their colours."""


@lru_cache(maxsize=64)
def _faces_of(things: tuple[Layer, ...], colours: tuple[str, ...], steps: int) -> tuple[Face, ...]:
    """Return what things look like in each step of a life."""
    if not colours:
        return tuple(standing_face(thing, None) for thing in things)
    mixed = palette.along(colours, (np.arange(steps) + 0.5) / steps)
    faces = []
    for thing in things:
        for colour in mixed.tolist():
            content = thing.content.recoloured(partial(_as_strong, colour))
            faces.append(standing_face(replace(thing, content=content), None))
    return tuple(faces)


def _as_strong(colour: Sequence[float], before: str) -> str:
    """Return a colour that is seen through as far as another one, too."""
    return palette.to_hex([*colour[:3], colour[3] * palette.from_hex(before)[3]])


def _home_maps(one: Placed, times: Floats) -> Floats:
    """Return how the plane is seen in which a wake is left, at moments (m, 6) or (m, 9), or one for
    all.
    """
    every = places.home_maps(one, None)
    return every if len(every) == 1 else _between(every, times)


def _between(rows: Floats, times: Floats) -> Floats:
    """Return rows of all frames at moments between them, of the shape of these."""
    if len(rows) == 1:
        return np.broadcast_to(rows[0], (*times.shape, *rows.shape[1:]))
    at = np.clip(times, 0.0, len(rows) - 1.0)
    before = np.minimum(at.astype(np.intp), len(rows) - 2)
    share, columns = at - before, rows.reshape(len(rows), -1).T
    # Column by column: the last axis, of two or six, is a slow one to go along.
    found = [here[before] + share * (here[before + 1] - here[before]) for here in columns]
    return np.stack(found, axis=-1).reshape(*times.shape, *rows.shape[1:])


class _Left:
    """Where a layer has been, and how it looked there, for what it left."""

    def __init__(self, one: Placed, wake: Wake, stand: Stand) -> None:
        self._one, self._stand = one, stand
        apart = stand.spots[-1] - stand.spots[0]
        often = wake.rate * one.length / one.fps >= 0.5
        comes_round = bool(often and np.hypot(*apart) <= COMES_ROUND)
        self.clock = Clock(one.fps, one.length, comes_round)

    def at(self, rows: Floats, births: Floats) -> Floats:
        """Return rows of all frames as they were at births (m, k)."""
        return _between(rows, births % self._one.length if self.clock.round else births)

    def maps(self, found: Particles, things: NDArray[np.intp] | None) -> Floats:
        """Return the maps (m, k, 6) of particles, which are of several ``things`` (m, k) or all of
        the first, to the px of their layer's group.
        """
        stand = self._stand
        # Maps between those of two frames would be smaller: it looks as in the nearer one.
        own, spots = self._looked(found.births), self.at(stand.spots, found.births)
        turned, grown = found.turned(), found.sizes()
        cos, sin = np.cos(turned) * grown, np.sin(turned) * grown
        a, b, c, d = (own[..., i] for i in range(4))
        wide, high, left, top = self._of_things[:, 0 if things is None else things]
        if things is not None:
            a, b, c, d = a * wide, b * wide, c * high, d * high
        linear = [cos * a - sin * b, sin * a + cos * b, cos * c - sin * d, sin * c + cos * d]
        x, y = np.moveaxis(spots + found.gone(self._turns(found), self._speeds(found)), -1, 0)
        across = linear[0] * left + linear[2] * top
        down = linear[1] * left + linear[3] * top
        return np.stack([*linear, x - across, y - down], axis=-1)

    @cached_property
    def _of_things(self) -> Floats:
        """How much wider and higher things are scaled than the first (the layer itself), and where
        their anchors are in their own px: (4, things).
        """
        layer = self._one.layer
        rows = [[1.0, 1.0, *_anchor(layer, self._stand.faces.first)]]
        for other in self._one.looks:
            scales = zip(other.transform.scale, layer.transform.scale, strict=True)
            scaled = [wanted / (own or 1.0) for wanted, own in scales]
            rows.append([*scaled, *_anchor(other, standing_face(other, None))])
        return np.array(rows).T

    def _looked(self, births: Floats) -> Floats:
        """Return its own maps at births (m, k, 6)."""
        rows = self._stand.own
        if len(rows) == 1:
            return rows[None]
        nearest = np.round(births).astype(np.intp)
        last = len(rows) - 1
        return rows[nearest % last if self.clock.round else np.clip(nearest, 0, last)]

    def _turns(self, found: Particles) -> Floats:
        """Return how its layer was turned by what carries it, or by its ride, radians (m, k)."""
        if self._ahead is None:
            return np.zeros(found.births.shape)
        x, y = np.moveaxis(self.at(self._ahead, found.births), -1, 0)
        return np.asarray(np.arctan2(y, x))

    @cached_property
    def _ahead(self) -> Floats | None:
        """Where ahead is in all frames, (n, 2); None where that is never turned."""
        travel, carried = self._stand.travel, self._stand.carried
        if travel is not None:
            return np.stack([np.cos(travel.heading), np.sin(travel.heading)], axis=1)
        return None if carried is None else carried[:, :2]

    def _speeds(self, found: Particles) -> Floats:
        """Return how fast its layer was (m, k, 2), px a second."""
        if len(self._stand.spots) == 1 or not found.wake.inherit:
            return np.zeros((*found.births.shape, 2))
        return self.at(self._steps, found.births) * self._one.fps

    @cached_property
    def _steps(self) -> Floats:
        """How far it goes in a frame, (n, 2)."""
        return np.asarray(np.gradient(self._stand.spots, axis=0))


def _anchor(layer: Layer, face: Face) -> tuple[float, float]:
    """Return where a layer's anchor is, in its own px."""
    left, top, width, height = face.box
    across, down = layer.transform.anchor
    return left + across * width, top + down * height
