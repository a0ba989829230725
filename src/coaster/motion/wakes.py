"""Wakes: what a moving layer leaves behind. Each particle by its number alone, so that any frame
costs what any other does.
"""

from dataclasses import dataclass, fields
from typing import Annotated

import numpy as np
from numpy.typing import NDArray

from coaster.documents import Rule, document
from coaster.geometry.bezier import Floats
from coaster.geometry.path import Colour, Id
from coaster.motion.chance import chance

MOST_ALIVE = 10_000
"""Particles of one wake that are there at once."""
MOST_WHOLES = 100
"""Of these, where each is a group or a scene."""
FASTEST = 100_000.0
MOST_LOOKS, MOST_POINTS = 8, 8
"""Other layers whose looks particles have, and colours, sizes or strengths over their lives."""
POINTS = Rule(max_length=MOST_POINTS)

Unit = Annotated[float, Rule(ge=0, le=1)]
Pace = Annotated[float, Rule(ge=-FASTEST, le=FASTEST)]
Numbers = NDArray[np.intp]


@document
class Wake:
    """In place of itself a layer leaves its like where it has been: ``rate`` a second, each for
    ``life`` seconds; it is seen ``itself``, too, if wanted.

    They leave at ``speed`` px a second in a direction of ``angle`` degrees, or up to half of
    ``spread`` to its sides, and with a share of the layer's own speed (``inherit``). ``lift`` px/s²
    pulls them up, below 0 down; ``drift`` px/s takes them to the right; ``drag`` a second slows
    them. They turn by ``spin`` degrees a second, are ``grow`` times as large at birth and at the
    end, and appear and vanish over shares of their lives (``appear``, ``vanish``). In life, speed,
    size and spin they differ by up to a share, by chance; ``seed`` says by which. By chance, too,
    each looks like the layer or like one of those in ``looks``. Over their lives their own
    ``colours`` go through these, as strong as they are, and their ``sizes`` and ``strengths``
    through those, evenly, beside the rest.
    """

    rate: Annotated[float, Rule(gt=0, le=10_000)] = 12.0
    life: Annotated[float, Rule(gt=0, le=3600)] = 2.0
    speed: Annotated[float, Rule(ge=0, le=FASTEST)] = 40.0
    angle: Annotated[float, Rule(ge=-3600, le=3600)] = -90.0
    spread: Annotated[float, Rule(ge=0, le=360)] = 60.0
    inherit: Annotated[float, Rule(ge=-10, le=10)] = 0.0
    lift: Pace = 0.0
    drift: Pace = 0.0
    drag: Annotated[float, Rule(ge=0, le=1000)] = 0.0
    spin: Annotated[float, Rule(ge=-36_000, le=36_000)] = 0.0
    grow: tuple[Annotated[float, Rule(ge=0, le=100)], Annotated[float, Rule(ge=0, le=100)]] = (
        1.0,
        1.0,
    )
    appear: Unit = 0.1
    vanish: Unit = 0.4
    differ_life: Unit = 0.3
    differ_speed: Unit = 0.5
    differ_size: Unit = 0.4
    differ_spin: Unit = 0.5
    itself: bool = False
    seed: Annotated[int, Rule(ge=0, le=999_999)] = 1
    looks: Annotated[tuple[Id, ...], Rule(max_length=MOST_LOOKS)] = ()
    colours: Annotated[tuple[Colour, ...], Rule(max_length=MOST_POINTS)] = ()
    sizes: Annotated[tuple[Annotated[float, Rule(ge=0, le=100)], ...], POINTS] = ()
    strengths: Annotated[tuple[Unit, ...], POINTS] = ()

    def __post_init__(self) -> None:
        if self.most_alive > MOST_ALIVE:
            raise ValueError(
                f"a wake has at most {MOST_ALIVE:,} particles at once, and this would have"
                f" {self.most_alive:,}: take a lower rate or a shorter life"
            )

    @property
    def most_alive(self) -> int:
        """How many there are at once, at most."""
        return int(np.ceil(self.rate * self.life * (1.0 + self.differ_life))) + 2


STREAMS = ("birth", "life", "side", "speed", "size", "spin", "look")
"""What is left to chance of each particle."""


@dataclass(frozen=True, slots=True)
class Clock:
    """A scene's frames as its wakes see them: ``fps``, its ``length``, and whether what leaves them
    comes ``round``: then births wrap, so that its end leads to its start.
    """

    fps: float
    length: int
    round: bool


class Particles:
    """The particles of a wake that are there at some times: one row a time, one column a lane. One
    that lives stays in its lane.

    Shapes: so many ``lanes`` k; ``ages`` and ``lives`` (m, k) in seconds, of which it has ``lived``
            so many, ``births`` (m, k) in frames, and ``alive``.
    Source: births evenly in time, each up to half of that to its side by chance.
    """

    def __init__(self, wake: Wake, clock: Clock, times: Floats) -> None:
        self.wake = wake
        times = times % clock.length if clock.round else times
        # As near to the rate as comes round with the scene.
        a_loop = max(1, round(wake.rate * clock.length / clock.fps))
        step = clock.length / a_loop if clock.round else clock.fps / wake.rate
        longest = wake.life * (1.0 + wake.differ_life) * clock.fps
        self.lanes = int(np.ceil(longest / step)) + 3
        newest = np.floor(times / step).astype(np.intp)[:, None] + 1
        # Each lane has every so-manieth particle, the newest of those that may be born already.
        self.numbers: Numbers = newest - (newest - np.arange(self.lanes)) % self.lanes
        self._named = self.numbers % a_loop if clock.round else self.numbers
        self.births: Floats = (self.numbers + 0.5 * self.by_chance("birth")) * step
        self.ages: Floats = (times[:, None] - self.births) / clock.fps
        self.lives: Floats = wake.life * (1.0 + wake.differ_life * self.by_chance("life"))
        self.alive = (self.ages >= 0) & (self.ages < self.lives)
        # What is not there rests where it was born, or ended: its numbers stay within bounds.
        self.lived: Floats = np.clip(self.ages, 0.0, self.lives)
        if not clock.round:
            self.alive &= (self.births >= 0) & (self.births <= clock.length)

    def leave_out_the_rest(self) -> None:
        """Leave out those that are not alive, of one time alone: it is no lanes any more."""
        (there,) = np.nonzero(self.alive[0])
        for name in ("numbers", "_named", "births", "ages", "lives", "alive", "lived"):
            setattr(self, name, getattr(self, name)[:, there])

    def by_chance(self, of: str) -> Floats:
        """Return numbers -1..1, each by its particle alone."""
        return chance(self.wake.seed, STREAMS.index(of), self._named)

    def gone(self, turns: Floats, carried: Floats) -> Floats:
        """Return how far each has come since its birth (m, k, 2), px: with the directions turned by
        ``turns`` (m, k), radians, and the layer's own speed ``carried`` (m, k, 2), px a second.
        """
        wake, t = self.wake, self.lived
        angle = np.radians(wake.angle + wake.spread / 2 * self.by_chance("side")) + turns
        speed = wake.speed * (1.0 + wake.differ_speed * self.by_chance("speed"))
        # Across and down by themselves: the last axis, of two, is a slow one to go along.
        across = np.cos(angle) * speed + wake.inherit * carried[..., 0]
        down = np.sin(angle) * speed + wake.inherit * carried[..., 1]
        if wake.drag < 1e-6:
            x, y = across * t, down * t - wake.lift * t**2 / 2
        else:
            # Slowed by its own speed it nears the one at which the pull and the drag are equal.
            steady, slowed = -wake.lift / wake.drag, -np.expm1(-wake.drag * t) / wake.drag
            x, y = across * slowed, (down - steady) * slowed + steady * t
        return np.stack([x + wake.drift * t, y], axis=-1)

    @property
    def shares(self) -> Floats:
        """How much of its life each has lived (m, k), 0..1."""
        return np.asarray(self.lived / np.maximum(self.lives, 1e-12))

    def sizes(self) -> Floats:
        """Return how many times as large as its layer each is (m, k)."""
        at_birth, at_end = self.wake.grow
        own = 1.0 + self.wake.differ_size * self.by_chance("size")
        return own * (at_birth + (at_end - at_birth) * self.shares) * self._through("sizes")

    def _through(self, points: str) -> Floats | float:
        """Return the values of points that lie evenly over their lives, 1 without any."""
        values = getattr(self.wake, points)
        if not values:
            return 1.0
        return np.asarray(np.interp(self.shares, np.linspace(0.0, 1.0, len(values)), values))

    def among(self, count: int) -> Numbers:
        """Return one of so many for each (m, k), by chance."""
        drawn = (self.by_chance("look") + 1.0) / 2.0 * count
        return np.minimum(drawn.astype(np.intp), count - 1)

    def at_step(self, count: int) -> Numbers:
        """Return in which of so many steps of its life each is (m, k)."""
        return np.minimum((self.shares * count).astype(np.intp), count - 1)

    def turned(self) -> Floats:
        """Return by how much each has turned since its birth (m, k), radians."""
        spin = self.wake.spin * (1.0 + self.wake.differ_spin * self.by_chance("spin"))
        return np.radians(spin * self.lived)

    def strengths(self) -> Floats:
        """Return how strong each is (m, k), 0..1; nothing where it is not there."""
        appear, vanish = (max(each, 1e-9) for each in (self.wake.appear, self.wake.vanish))
        seen = np.minimum(self.shares / appear, (1.0 - self.shares) / vanish)
        seen = np.clip(seen, 0.0, 1.0) * self._through("strengths")
        return np.where(self.alive, seen, 0.0)


READY: dict[str, Wake] = {
    "bubbles": Wake(10, 2.6, 30, -90, 70, lift=60, drag=0.8, grow=(0.5, 1.1), appear=0.15),
    "dust": Wake(24, 1.4, 26, -90, 360, lift=-12, drag=1.6, grow=(0.7, 1.8), vanish=0.9),
    "sparks": Wake(
        60,
        0.7,
        260,
        180,
        80,
        lift=-420,
        drag=1.2,
        grow=(1.0, 0.3),
        vanish=0.6,
        colours=("#fff4c2", "#ffb347", "#d8432b"),
    ),
    "snow": Wake(20, 5.0, 20, 90, 50, lift=-6, drift=14, spin=50, differ_speed=0.8, vanish=0.2),
    "echoes": Wake(
        5,
        1.2,
        0,
        0,
        0,
        appear=0,
        vanish=1,
        differ_life=0,
        differ_size=0,
        differ_spin=0,
        itself=True,
    ),
    "sparkle": Wake(16, 0.9, 8, 0, 360, spin=120, grow=(0.2, 1.0), appear=0.3, vanish=0.7),
}
"""Ready ones."""
NAMES = tuple(each.name for each in fields(Wake))
