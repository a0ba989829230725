"""Wakes in the picture: where each particle is and how it looks, from where its layer was when it
was born.
"""

from functools import cached_property

import numpy as np

from coaster.geometry import maps
from coaster.geometry.bezier import Floats
from coaster.motion.sense import Rows
from coaster.motion.wakes import Clock, Particles, Wake
from coaster.render import places
from coaster.render.places import Placed, Stand

COMES_ROUND = 0.5
"""Px by which a layer may be elsewhere at the end of a scene than at its start, and still its wake
comes round.
"""


class Trail:
    """What a layer leaves behind, of whose strengths ``always`` (n,) or (1,) are those in all
    frames; seen at ``times`` (m,). One that lives stays in its lane.
    """

    def __init__(self, one: Placed, wake: Wake, always: Floats, times: Floats) -> None:
        self._one, self._wake, self._always, self._times = one, wake, always, times
        self._left = _Left(one, wake, places.stands([one])[0])
        self.lanes = Particles(wake, self._left.clock, times[:1]).lanes

    def at(self, rows: Rows | slice) -> tuple[Floats, Floats]:
        """Return the maps (r, k, 6) of all that may be there at some of the times, from their px to
        the scene's, and how strong they are (r, k).
        """
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
        own = left.maps(found)
        if one.group is not None:
            own = maps.compose(_group_maps(one, times)[:, None], own)
        return own, strong


def _group_maps(one: Placed, times: Floats) -> Floats:
    """Return the maps of a wake's group at moments (m, 6), or one for all."""
    every = places.group_maps(one.group, None)
    return every if len(every) == 1 else _between(every, times)


def _between(rows: Floats, times: Floats) -> Floats:
    """Return rows of all frames at moments between them, of the shape of these."""
    shape = *times.shape, *rows.shape[1:]
    if len(rows) == 1:
        return np.broadcast_to(rows[0], shape)
    frames, columns = np.arange(float(len(rows))), rows.reshape(len(rows), -1).T
    return np.stack([np.interp(times, frames, each) for each in columns], axis=-1).reshape(shape)


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

    def maps(self, found: Particles) -> Floats:
        """Return the maps (m, k, 6) of particles to the px of their layer's group."""
        stand = self._stand
        # Maps between those of two frames would be smaller: it looks as in the nearer one.
        own, spots = self._looked(found.births), self.at(stand.spots, found.births)
        turned, grown = found.turned(), found.sizes()
        cos, sin = np.cos(turned) * grown, np.sin(turned) * grown
        a, b, c, d = (own[..., i] for i in range(4))
        linear = [cos * a - sin * b, sin * a + cos * b, cos * c - sin * d, sin * c + cos * d]
        x, y = np.moveaxis(spots + found.gone(self._turns(found), self._speeds(found)), -1, 0)
        anchor = self._anchor()
        across = linear[0] * anchor[0] + linear[2] * anchor[1]
        down = linear[1] * anchor[0] + linear[3] * anchor[1]
        return np.stack([*linear, x - across, y - down], axis=-1)

    def _looked(self, births: Floats) -> Floats:
        """Return its own maps at births (m, k, 6)."""
        rows = self._stand.own
        if len(rows) == 1:
            return rows[None]
        nearest = np.round(births).astype(np.intp)
        last = len(rows) - 1
        return rows[nearest % last if self.clock.round else np.clip(nearest, 0, last)]

    def _anchor(self) -> tuple[float, float]:
        """Return where the anchor is, in the layer's own px."""
        left, top, width, height = self._stand.faces.first.box
        across, down = self._one.layer.transform.anchor
        return left + across * width, top + down * height

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
