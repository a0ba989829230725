"""Which frame of a moving picture is seen when: from the scene's frames to those of a file."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from coaster.geometry.bezier import Floats
from coaster.motion import keys
from coaster.motion.keys import Key

After = Literal["hold", "repeat", "return", "vanish"]
"""What happens where a file has no more frames: the last one stays, it begins again, it goes back
the way it came, or nothing is seen.
"""
AFTER = get_args(After)
NOTHING = -1
CLOSE_S = 1e-6
"""Times that differ by less are the same: neither a scene nor a file has frames that close."""


@dataclass(frozen=True)
class Cut:
    """The part of a file that is played, from ``begin`` to ``end``, seconds; what is ``after`` it,
    and the seconds of its end over which it ``fades`` into its beginning where it repeats.
    """

    begin: float
    end: float
    after: After = "hold"
    fade: float = 0.0

    @property
    def period(self) -> float:
        """The seconds after which it looks the same again, where it repeats."""
        return self.end - self.begin - self.fade


@dataclass(frozen=True)
class Played:
    """The frames of a file that are seen: ``index`` (n,), or NOTHING, and laid over each, as strong
    as its ``share`` (n,), the one of ``over`` (n,).
    """

    index: NDArray[np.intp]
    over: NDArray[np.intp]
    share: Floats


def elapsed(times: Floats, starts: float, fps: float, speed: float | Sequence[Key]) -> Floats:
    """Return the seconds of a file that have gone by at ``times`` (n,), frames of the scene, since
    the frame ``starts``; before it they are below 0 (played backwards, above).

    With keys of the speed they are its integral, by the trapezoidal rule over whole frames: the
    same whichever frames are asked for.
    """
    if isinstance(speed, int | float):
        return (times - starts) / fps * speed
    first = int(np.floor(min(starts, times.min(initial=starts), 0.0)))
    last = int(np.ceil(max(starts, times.max(initial=starts)))) + 1
    frames = np.arange(first, last + 1.0)
    rates = keys.values(speed, frames)[0] / fps
    gone = np.concatenate([[0.0], np.cumsum((rates[1:] + rates[:-1]) / 2)])
    found: Floats = np.interp(times, frames, gone) - np.interp(starts, frames, gone)
    return found


def is_backwards(starts: float, speed: float | Sequence[Key]) -> bool:
    """Whether what is played begins at its end. With keys the way it goes first says so: one that
    turns round has both.
    """
    if isinstance(speed, int | float):
        return speed < 0
    return bool(keys.values(speed, np.array([starts]))[0][0] < 0)


def played(gone: Floats, cut: Cut, begins: Floats, *, backwards: bool) -> Played:
    """Return which frames are seen after the seconds ``gone`` (n,); what is played ``backwards``
    starts at its end.

    Shapes: ``begins`` (k + 1,) are the seconds at which the file's frames begin, and its end.
    """
    nowhere = np.zeros(len(gone), np.intp), np.zeros(len(gone))
    if cut.after == "repeat" and cut.fade > 0:
        return _faded(gone, cut, begins, backwards)
    if cut.after == "return":
        return Played(_to_and_fro(gone, cut, begins, backwards), *nowhere)
    length = cut.end - cut.begin
    into = gone + length if backwards else gone
    if cut.after == "repeat":
        into = _within(into, length, backwards)
    index = _index(cut.begin + into, cut, begins, backwards)
    if cut.after == "vanish":
        # From the first frame's beginning up to, not with, the last one's end.
        edge = CLOSE_S if backwards else -CLOSE_S
        index = np.where((into >= edge) & (into < length + edge), index, NOTHING)
    return Played(index, *nowhere)


def _index(
    seconds: Floats, cut: Cut, begins: Floats, backwards: bool | NDArray[np.bool_]
) -> NDArray[np.intp]:
    """Return the frames seen at seconds of the file, held at the ends of the cut. Backwards, a
    frame is seen from its end on: else the last one would be seen for no time.
    """
    close = np.where(backwards, -CLOSE_S, CLOSE_S)
    found = np.searchsorted(begins, seconds + close, side="right") - 1
    first = int(np.searchsorted(begins, cut.begin + CLOSE_S, side="right")) - 1
    last = int(np.searchsorted(begins, cut.end - CLOSE_S, side="right")) - 1
    last = min(max(last, first), len(begins) - 2)
    return np.clip(found, min(first, last), last).astype(np.intp)


def _within(into: Floats, period: float, backwards: bool) -> Floats:
    """Return seconds within one period; the end of it is the beginning of the next, or, backwards,
    the other way round.
    """
    if backwards:
        return period - _within(period - into, period, backwards=False)
    found = np.mod(into, period)
    # What is all but a whole period is one: 29.9999999 frames of 30 are none of the next.
    return np.where(found > period - CLOSE_S, 0.0, found)


def _to_and_fro(gone: Floats, cut: Cut, begins: Floats, backwards: bool) -> NDArray[np.intp]:
    """Return the frames there and back; at neither turn is one seen twice."""
    ends = _index(np.array([cut.begin, cut.end]), cut, begins, np.array([False, True]))
    # From the beginning of the first frame to that of the last.
    way = float(begins[ends[1]] - begins[ends[0]])
    if way <= 0:
        return np.full(len(gone), ends[0])
    across = np.mod((-gone + way) if backwards else gone, 2 * way)
    return _index(begins[ends[0]] + np.minimum(across, 2 * way - across), cut, begins, False)


def _faded(gone: Floats, cut: Cut, begins: Floats, backwards: bool) -> Played:
    """Return the frames of a cut whose end is faded into its beginning, so that it comes round."""
    into = _within(gone + cut.period if backwards else gone, cut.period, backwards)
    head = _index(cut.begin + into, cut, begins, backwards)
    tail = _index(cut.begin + cut.period + into, cut, begins, backwards)
    share = np.clip(into / cut.fade, 0.0, 1.0)
    fading = (share < 1) & (head != tail)
    return Played(np.where(fading, tail, head), head, np.where(fading, share, 0.0))


def moments(
    gone: Floats, cut: Cut, fps: float, *, backwards: bool
) -> tuple[Floats, NDArray[np.bool_]]:
    """Return the frames of a scene that are seen after the seconds ``gone`` (n,) of it, and whether
    anything is.

    As ``played``, but a scene has something between its frames: what is slowed down goes on
    smoothly, and what repeats goes on from its last frame to its first. Whole frames are exact.
    """
    first, last = cut.begin * fps, cut.end * fps
    length, way = last - first, max(last - first - 1.0, 0.0)
    into = gone * fps + (way if backwards else 0.0)
    whole = np.round(into)
    into = np.where(np.abs(into - whole) < CLOSE_S * fps, whole, into)
    seen = np.ones(len(gone), np.bool_)
    if cut.after == "vanish":
        # From the first frame's beginning up to, not with, the last one's end.
        seen = (into > -1.0) & (into <= way) if backwards else (into >= 0.0) & (into < length)
    if cut.after == "repeat":
        into = np.mod(into, length)
    elif cut.after == "return" and way > 0:
        into = np.mod(into, 2 * way)
        into = np.minimum(into, 2 * way - into)
    else:
        into = np.clip(into, 0.0, way)
    return first + into, seen
