"""Wakes in the picture: where each particle is and how it looks, from where its layer was when it
was born.
"""

from dataclasses import dataclass

import numpy as np

from coaster.geometry import maps
from coaster.geometry.bezier import Floats
from coaster.motion.wakes import Clock, Particles, Wake
from coaster.render import places
from coaster.render.places import Placed, Stand

COMES_ROUND = 0.5
"""Px by which a layer may be elsewhere at the end of a scene than at its start, and still its wake
comes round.
"""


@dataclass(frozen=True)
class Lane:
    """Particles one after the other: maps (m, 6) to the scene's px, and strengths (m,)."""

    own: Floats
    maps: Floats
    strengths: Floats


def lanes_of(one: Placed, wake: Wake, strengths: Floats, times: Floats) -> list[Lane]:
    """Return the lanes of a wake at ``times`` (m,), from the oldest; ``strengths`` (n,) or (1,) are
    those of its layer in all frames.
    """
    left = _Left(one, wake, places.stands([one])[0])
    found = Particles(wake, left.clock, times)
    own = left.maps(found)
    strong = found.strengths() * left.at(strengths, found.births)
    if one.layer.shown is not None:
        # Its time is that in which it leaves any; these live on.
        begin, end = one.layer.shown
        births = found.births % one.length if left.clock.round else found.births
        strong = np.where((births >= begin) & (births < end), strong, 0.0)
    lanes = np.flatnonzero((strong > 0).any(axis=0))
    outwards = _group_maps(one, times)
    return [
        Lane(own[:, k], maps.compose(outwards, own[:, k]), strong[:, k]) for k in lanes.tolist()
    ]


def _group_maps(one: Placed, times: Floats) -> Floats:
    """Return the maps of a wake's group at moments (m, 6), or one for all."""
    every = places.group_maps(one.group, None)
    return every if len(every) == 1 else _between(every, times)


def _between(rows: Floats, times: Floats) -> Floats:
    """Return rows of all frames at moments between them, of the shape of these."""
    last = len(rows) - 1
    if last == 0:
        return np.broadcast_to(rows[0], (*times.shape, *rows.shape[1:]))
    at = np.clip(times, 0, last)
    before = np.minimum(at.astype(np.intp), last - 1)
    part = (at - before).reshape(*at.shape, *(1,) * (rows.ndim - 1))
    return np.asarray((1.0 - part) * rows[before] + part * rows[before + 1])


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
        own, spots = self.at(stand.own, np.round(found.births)), self.at(stand.spots, found.births)
        turned, grown = found.turned(), found.sizes()
        cos, sin = np.cos(turned) * grown, np.sin(turned) * grown
        a, b, c, d = (own[..., i] for i in range(4))
        linear = [cos * a - sin * b, sin * a + cos * b, cos * c - sin * d, sin * c + cos * d]
        x, y = np.moveaxis(spots + found.gone(self._turns(found), self._speeds(found)), -1, 0)
        anchor = self._anchor()
        across = linear[0] * anchor[0] + linear[2] * anchor[1]
        down = linear[1] * anchor[0] + linear[3] * anchor[1]
        return np.stack([*linear, x - across, y - down], axis=-1)

    def _anchor(self) -> tuple[float, float]:
        """Return where the anchor is, in the layer's own px."""
        left, top, width, height = self._stand.faces.first.box
        across, down = self._one.layer.transform.anchor
        return left + across * width, top + down * height

    def _turns(self, found: Particles) -> Floats:
        """Return how its layer was turned by what carries it, or by its ride, radians (m, k)."""
        stand = self._stand
        if stand.travel is not None:
            ahead = np.stack([np.cos(stand.travel.heading), np.sin(stand.travel.heading)], axis=1)
        elif stand.carried is not None:
            ahead = stand.carried[:, :2]
        else:
            return np.zeros(found.births.shape)
        x, y = np.moveaxis(self.at(ahead, found.births), -1, 0)
        return np.asarray(np.arctan2(y, x))

    def _speeds(self, found: Particles) -> Floats:
        """Return how fast its layer was (m, k, 2), px a second."""
        spots = self._stand.spots
        if len(spots) == 1 or not found.wake.inherit:
            return np.zeros((*found.births.shape, 2))
        a_frame: Floats = self.at(np.gradient(spots, axis=0), found.births)
        return a_frame * self._one.fps
