"""Copies of a rider along its path: how many, how far apart, what each of them does otherwise."""

from dataclasses import replace
from typing import Annotated, Literal

import numpy as np

from coaster.documents import Rule, document
from coaster.geometry.bezier import Floats
from coaster.motion.chance import chance
from coaster.motion.sections import Frames

MOST_COPIES = 1000
"""Riders of one layer, itself included."""
MOST_LATER, MOST_GROWN = 100_000, 1000
"""Frames by which the last may come later, and how many times as large or as small it may be."""
Spread = Literal["even", "apart", "nodes", "places"]
Place = Annotated[float, Rule(ge=-100_000, le=100_000)]
STRAYS_TURN, STRAYS_SIZE = 40.0, 0.5
"""What a copy may be turned and grown by where all is left to chance: degrees, a share."""


@document
class Copies:
    """``count`` riders in place of one, of which it is the first and lies in front.

    They are spread evenly over a share of the path (``over``, %), ``apart`` px, on its nodes, no
    more than there are, or at ``places``, % of it ahead of the first. Each does what the one before
    does, ``later`` frames later, ``scale`` times as large, turned by ``turn`` degrees more,
    ``opacity`` times as strong, its colours ``hue`` degrees further round; of footage and scenes it
    shows what the one before does so many frames ``ahead``. By ``stray``, 0..1, they differ by
    chance: in place up to halfway to the next one, in turn, in size; ``seed`` says by which. Those
    that are ``standing`` do not ride: they stand on the path, spread from its start.
    """

    count: Annotated[int, Rule(ge=2, le=MOST_COPIES)] = 6
    spread: Spread = "even"
    over: Annotated[float, Rule(ge=-1000, le=1000)] = 100.0
    apart: Annotated[float, Rule(ge=-100_000, le=100_000)] = 100.0
    later: Frames = 0.0
    scale: Annotated[float, Rule(ge=0.01, le=100)] = 1.0
    turn: Annotated[float, Rule(ge=-3600, le=3600)] = 0.0
    opacity: Annotated[float, Rule(ge=0, le=1)] = 1.0
    stray: Annotated[float, Rule(ge=0, le=1)] = 0.0
    seed: Annotated[int, Rule(ge=0, le=999_999)] = 1
    places: Annotated[tuple[Place, ...], Rule(max_length=MOST_COPIES - 1)] = ()
    hue: Annotated[float, Rule(ge=-360, le=360)] = 0.0
    ahead: Frames = 0.0
    standing: bool = False

    def __post_init__(self) -> None:
        last = self.count - 1
        if self.spread == "places" and len(self.places) != last:
            raise ValueError("of copies at given places there is one at each, and the first")
        if abs(self.ahead) * last > MOST_LATER:
            raise ValueError(
                f"the last copy may be {MOST_LATER:,} frames ahead: take fewer, or fewer frames"
            )
        if abs(self.later) * last > MOST_LATER:
            raise ValueError(
                f"the last copy may come {MOST_LATER:,} frames later: take fewer, or a shorter time"
            )
        # As a logarithm: the number itself may be too large for any.
        if abs(np.log(self.scale)) * last > np.log(MOST_GROWN) + 1e-9:
            raise ValueError(
                f"the last copy may be {MOST_GROWN:,} times as large or small: take fewer of them,"
                " or a size nearer to 100 %"
            )

    def shifts(self, length: float, nodes: Floats) -> Floats:
        """Return by how much each is shifted along a path, in percent of its length (n,), the first
        by nothing: ``length`` px long, with ``nodes`` at these distances.
        """
        if self.spread == "places":
            return np.array([0.0, *self.places])
        if self.spread == "nodes":
            on_nodes: Floats = (nodes[: self.count] - nodes[0]) / max(length, 1e-9) * 100.0
            return on_nodes
        step = self.over / self.count
        if self.spread == "apart":
            # Behind the first one, as what follows it.
            step = -self.apart / max(length, 1e-9) * 100.0
        numbers = np.arange(float(self.count))
        return step * (numbers + self.stray * by_chance(self.seed, 0, self.count) / 2)

    def stands(self, length: float, nodes: Floats) -> Floats:
        """Return where those beside the first stand on a path, in percent of its length (n - 1,);
        ``length`` and ``nodes`` as for ``shifts``.
        """
        if self.spread == "places":
            return np.array(self.places)
        beside = replace(self, count=max(self.count - 1, 2), standing=False)
        found = beside.shifts(length, nodes)[: self.count - 1]
        # Not behind the first one, but on from the path's start.
        return np.asarray(-found if self.spread == "apart" else found)

    def turns(self, count: int) -> Floats:
        """Return what each is turned by more than the first, degrees (n,)."""
        strays = by_chance(self.seed, 1, count) * STRAYS_TURN * self.stray
        return np.arange(count) * self.turn + strays

    def sizes(self, count: int) -> Floats:
        """Return how many times as large as the first each is (n,)."""
        strays = 1.0 + by_chance(self.seed, 2, count) * STRAYS_SIZE * self.stray
        return self.scale ** np.arange(float(count)) * strays


def by_chance(seed: int, of: int, count: int) -> Floats:
    """Return numbers -1..1 (n,), each by its number alone, and 0 for the first."""
    found = chance(seed, of, np.arange(count))
    found[:1] = 0.0
    return found
