"""A ride as SVG's own animation: ``animateMotion`` with key points, times and splines, or frame
by frame.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from coaster.errors import EditRefused
from coaster.formats.pathdata import number, to_path_data
from coaster.geometry import bezier
from coaster.geometry.bezier import Floats
from coaster.motion import easing
from coaster.motion.distance import Way
from coaster.motion.sections import section_curves
from coaster.motion.travel import Travel, evaluate, looking_at, settles

MOST_SPLITS = 24


@dataclass(frozen=True)
class Motion:
    """The attributes of ``animateMotion``: shares of the path and of the time (n,), and splines (n
    - 1, 4).
    """

    points: Floats
    times: Floats
    splines: Floats

    def at(self, share: float) -> float:
        """Return the share of the path at a share of the time, as SVG has it: for tests and for
        those who read it.
        """
        k = min(
            max(int(np.searchsorted(self.times, share, side="right")) - 1, 0), len(self.splines) - 1
        )
        low, high = self.times[k], self.times[k + 1]
        x1, y1, x2, y2 = self.splines[k]
        u = (share - low) / (high - low) if high > low else 1.0
        value = float(easing.ease(np.array([u]), x1, y1, x2, y2)[0][0])
        return float(self.points[k] + value * (self.points[k + 1] - self.points[k]))


def motion_of(way: Way) -> Motion:
    """Return a ride from its first peg to its last as key points, times and splines.

    Accuracy: evaluates to the same share of the path within 1e-6. Splines must lie in 0..1, so a
    section
              whose curve leads beyond its ends and back is parted where it turns, exactly.
    Errors:   EditRefused: more than one lap, outside the path, a jump, or a ride that stands still.
    """
    _refuse_unsayable(way)
    pieces = [
        piece for cubic, bounds in _sections(way) for piece in _within(cubic, bounds, MOST_SPLITS)
    ]
    ends = np.array([pieces[0][0], *(piece[3] for piece in pieces)])
    times, points = ends.T
    if points.min() < -1e-9 or points.max() > 1 + 1e-9:
        raise EditRefused(
            "The ride goes past the ends of its path or round more than once, which SVG cannot say."
        )
    return Motion(np.clip(points, 0.0, 1.0), times, np.array([_spline(p) for p in pieces]))


def _sections(way: Way) -> Iterator[tuple[Floats, tuple[float, float]]]:
    """Yield each section as a curve of the share of the path over that of the time, and the bounds
    it is kept in.
    """
    pegs = way.ride.pegs
    stops = np.array([way.distance(peg.place) for peg in pegs]) / way.length + way.ride.offset / 100
    start, span = pegs[0].time, pegs[-1].time - pegs[0].time
    # On an open path the rider never leaves what its pegs span (see ``distance.travelled``).
    bounds = (-np.inf, np.inf) if way.loops else (float(stops.min()), float(stops.max()))
    for k, curve in enumerate(section_curves(pegs, way.ride.never_backwards)):
        t0, t1 = ((peg.time - start) / span for peg in pegs[k : k + 2])
        begin, end = np.array([t0, stops[k]]), np.array([t1, stops[k + 1]])
        handles = (begin + np.array(curve[i : i + 2]) * (end - begin) for i in (0, 2))
        yield np.array([begin, *handles, end]), bounds


def _refuse_unsayable(way: Way) -> None:
    if way.path.is_deep:
        raise EditRefused(
            f"{way.path.name} goes into depth, which SVG cannot say; put its nodes at a depth of 0"
            " first."
        )
    if len(way.ride.pegs) < 2 or not way.length:
        raise EditRefused("The ride stands still; there is nothing to animate.")
    if any(peg.step != "none" for peg in way.ride.pegs[:-1]):
        raise EditRefused(
            "The ride jumps from peg to peg, which SVG's splines cannot say; let it glide first."
        )


def _within(cubic: Floats, bounds: tuple[float, float], depth: int) -> list[Floats]:
    """Part a curve over time until each piece's handles lie between its ends, and it within or
    without the bounds.
    """
    low, high = sorted((cubic[0, 1], cubic[3, 1]))
    slack = 1e-12 + 1e-9 * (high - low)
    inside = np.all((cubic[1:3, 1] >= low - slack) & (cubic[1:3, 1] <= high + slack))
    apart = np.all(cubic[:, 1] >= bounds[1]) or np.all(cubic[:, 1] <= bounds[0])
    known = inside and low >= bounds[0] - slack and high <= bounds[1] + slack
    if known or apart or depth == 0 or cubic[3, 0] - cubic[0, 0] < 1e-7:
        return [np.stack([cubic[:, 0], np.clip(cubic[:, 1], *bounds)], axis=1)]
    left, right = bezier.split(cubic, 0.5)
    return _within(left, bounds, depth - 1) + _within(right, bounds, depth - 1)


def _spline(piece: Floats) -> tuple[float, float, float, float]:
    size = piece[3] - piece[0]
    safe = np.where(np.abs(size) > 1e-15, size, 1.0)
    (x1, y1), (x2, y2) = ((piece[i] - piece[0]) / safe for i in (1, 2))
    return tuple(float(min(max(v, 0.0), 1.0)) for v in (x1, y1, x2, y2))  # type: ignore[return-value]


def _attributes(motion: Motion) -> str:
    shown = {
        "keyPoints": "; ".join(_exact(v) for v in motion.points),
        "keyTimes": "; ".join(_exact(v) for v in motion.times),
        "keySplines": "; ".join(" ".join(_exact(v) for v in spline) for spline in motion.splines),
    }
    return " ".join(f'{name}="{value}"' for name, value in shown.items())


def to_svg(way: Way, width: int, height: int, fps: float, *, period: float | None = None) -> str:
    """Return an SVG file in which an arrow rides the path as the ride says, over and over.

    Accuracy: the place exactly, by ``animateMotion``; facings that are not simply those of the path
              in every frame, and linearly between. A ride that is softened or shifted by keys is
              told frame by frame, too.
    Errors:   EditRefused: as ``motion_of``; or it faces another layer, which is not in the file.
    """
    facing = way.ride.facing
    if facing.looks_at():
        raise EditRefused(
            "The rider faces another layer, which is not in this file; give it another facing."
        )
    drawn = to_path_data(way.path.subpaths)
    times, travel = _told(way, fps, period)
    angles, rotate = travel.angle(facing.turn), _rotate(way, travel)
    clock = f'dur="{number((times[-1] - times[0]) / fps)}s" repeatCount="indefinite"'
    # Only what the path itself does not say is told frame by frame.
    turned = "" if rotate else _values("rotate", angles, clock)
    if _by_frame(way):
        moved = _values("translate", travel.position, clock)
    else:
        ridden = to_path_data(way.path.subpaths, joined=way.ride.gap != "jump")
        moved = (
            f'<animateMotion path="{ridden}" {clock} calcMode="spline" rotate="{rotate or 0}"'
            f" {_attributes(motion_of(way))}/>"
        )
    flip = ' transform="scale(-1 1)"' if facing.flip_x else ""
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width} {height}" width="{width}"'
        f' height="{height}"><path d="{drawn}" fill="none" stroke="#16222e" stroke-width="2"/>'
        f"<g>{moved}{_unseen(way, travel, clock)}<g>{turned}"
        f'<path d="M-18 -12L18 0L-18 12Z" fill="#e4572e"{flip}/></g></g>'
        "</svg>\n"
    )


def _unseen(way: Way, travel: Travel, clock: str) -> str:
    """Return an animation that hides the rider, frame by frame, where it is unseen, if it is."""
    hidden = way.is_unseen(travel.along, travel.travelled)
    if not hidden.any():
        return ""
    values = ";".join(np.where(hidden, "0", "1"))
    return f'<animate attributeName="opacity" values="{values}" calcMode="discrete" {clock}/>'


def _by_frame(way: Way) -> bool:
    """Whether the place, too, has to be told frame by frame."""
    return bool(way.shift or way.spread) or settles(way)


def _told(way: Way, fps: float, period: float | None) -> tuple[Floats, Travel]:
    """Return the times (n,) of a ride from its first peg to its last, in frames, and what it does
    then.
    """
    start, end = way.ride.start, way.ride.end
    if not _by_frame(way):
        _refuse_unsayable(way)
        times = np.linspace(start, end, math.ceil(end - start) + 1)
        travel = evaluate(way, times, fps=fps, period=period)
    else:
        # What is softened depends on all frames from the scene's first on.
        first, last = math.floor(start), math.ceil(end)
        every = np.arange(min(first, 0), max(last, first + 1) + 1, dtype=float)
        wanted = np.flatnonzero(every >= first)
        travel, times = evaluate(way, every, fps=fps, period=period).at(wanted), every[wanted]
    spot = way.ride.facing.own_spot()
    if spot is not None:
        travel = looking_at(travel, way, np.array(spot), fps=fps, period=period)
    return times, travel


def _rotate(way: Way, travel: Travel) -> str | None:
    """Return what SVG calls a facing that follows from the path alone, or None."""
    facing = way.ride.facing
    if facing.turn or _by_frame(way) or facing.mode not in ("along", "reversed"):
        return None
    # A path's direction, to SVG, does not turn with a rider that runs back on it.
    rates = travel.rate[1:-1]
    back = facing.mode == "reversed"
    if np.all(rates > 0):
        return "auto-reverse" if back else "auto"
    return None


def _values(kind: str, values: Floats, clock: str) -> str:
    """Return an animation through values (n,) or (n, 2), linear between them."""
    rows = np.atleast_2d(values.T).T
    told = ";".join(" ".join(number(v) for v in row) for row in rows)
    return f'<animateTransform attributeName="transform" type="{kind}" {clock} values="{told}"/>'


def _exact(value: float) -> str:
    return f"{value:.9f}".rstrip("0").rstrip(".") or "0"
