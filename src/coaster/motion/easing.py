"""Easing functions of the CSS Easing standard, over arrays."""

import re
from typing import Literal, NamedTuple, get_args

import numpy as np
from numpy.typing import ArrayLike

from coaster.errors import FormatError
from coaster.geometry.bezier import Floats
from coaster.geometry.newton import guarded_step


class Bezier(NamedTuple):
    """``cubic-bezier(x1, y1, x2, y2)``; x1 and x2 lie in 0..1 so that time never runs back."""

    x1: float
    y1: float
    x2: float
    y2: float

    def numbers(self) -> str:
        return ", ".join(f"{v:.3g}" for v in self)

    def css(self) -> str:
        return f"cubic-bezier({self.numbers()})"


Step = Literal["none", "start", "end"]
STEP_KINDS: tuple[Step, ...] = get_args(Step)
Pace = Bezier | Step
"""A section's pace: a curve, or a jump at its start or its end."""


class Steps(NamedTuple):
    """``steps(number, jump)``: even jumps within a section."""

    number: int
    jump: str = "jump-end"


MOST_STEPS = 1000
STEPS = 60
"""Halvings that come to the last bit of a parameter, wherever Newton does not."""
EVEN = Bezier(1 / 3, 1 / 3, 2 / 3, 2 / 3)
PRESETS: dict[str, Bezier] = {
    "even": EVEN,
    "ease-in": Bezier(0.42, 0.0, 1.0, 1.0),
    "ease-out": Bezier(0.0, 0.0, 0.58, 1.0),
    "ease-both": Bezier(0.42, 0.0, 0.58, 1.0),
    "accelerate": Bezier(1 / 3, 0.0, 2 / 3, 1 / 3),
    "cubic": Bezier(1 / 3, 0.0, 2 / 3, 0.0),
    "dip": Bezier(0.2, 0.6, 0.8, 0.4),
    "burst": Bezier(0.8, 0.1, 0.2, 0.9),
}
KEYWORDS: dict[str, Pace] = {
    **PRESETS,
    "linear": EVEN,
    "ease": Bezier(0.25, 0.1, 0.25, 1.0),
    "ease-in-out": PRESETS["ease-both"],
    "step-start": "start",
    "step-end": "end",
    "hold": "end",
}
_NUMBER = r"\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)\s*"
_NUMBERS = re.compile(rf"{_NUMBER},{_NUMBER},{_NUMBER},{_NUMBER}")


def parse(text: str) -> Pace | Steps:
    """Read ``even``, ``ease-both``, ``accelerate``, ``hold``, a CSS easing keyword,
    ``cubic-bezier(a,b,c,d)`` or its four numbers alone, or ``steps(n, jump)``.

    Errors: FormatError: anything else, or a first or third number outside 0..1.
    """
    word = text.strip().lower()
    if word in KEYWORDS:
        return KEYWORDS[word]
    if word.startswith("steps"):
        return _steps(word, text)
    inside = (
        word[len("cubic-bezier(") : -1]
        if word.startswith("cubic-bezier(") and word.endswith(")")
        else word
    )
    match = _NUMBERS.fullmatch(inside)
    if not match:
        known = ", ".join(KEYWORDS)
        raise FormatError(
            f"{text!r} is not a pace; use one of {known}, cubic-bezier(a,b,c,d) or steps(n)."
        )
    bezier = Bezier(*map(float, match.groups()))
    if not (0 <= bezier.x1 <= 1 and 0 <= bezier.x2 <= 1):
        raise FormatError(f"The first and third number of {text!r} are times and must lie in 0..1.")
    if not all(abs(v) <= 1000 for v in bezier):
        raise FormatError(f"The numbers of {text!r} are too large; stay within 1000.")
    return bezier


_JUMPS = {"start": "jump-start", "end": "jump-end"}
_STEPS = re.compile(r"steps\(\s*(\d{1,6})\s*(?:,\s*([a-z-]+)\s*)?\)")


def _steps(word: str, text: str) -> Pace | Steps:
    match = _STEPS.fullmatch(word)
    if not match:
        raise FormatError(f"{text!r} is not a pace; write steps(4) or steps(4, jump-start).")
    count, jump = int(match.group(1)), match.group(2) or "jump-end"
    jump = _JUMPS.get(jump, jump)
    if jump not in ("jump-start", "jump-end", "jump-none"):
        raise FormatError(f"{text!r}: steps may be jump-start, jump-end or jump-none.")
    least = 2 if jump == "jump-none" else 1
    if not least <= count <= MOST_STEPS:
        raise FormatError(f"{text!r}: there may be {least} to {MOST_STEPS} steps.")
    if count == 1:
        return "start" if jump == "jump-start" else "end"
    return Steps(count, jump)


def solve_time(u: ArrayLike, x1: ArrayLike, x2: ArrayLike) -> Floats:
    """Return the parameter s at which the time curve 0, x1, x2, 1 reaches ``u``.

    Shapes:     all broadcast together; u in 0..1.
    Accuracy:   |x(s) - u| below 1e-15 or the last bit of s.
    Degenerate: flat ends (x1 = 0 or x2 = 1, where x' vanishes) converge by bisection.
    """
    given = np.broadcast_arrays(*(np.asarray(v, float) for v in (u, x1, x2)))
    wanted, first, second = (v.ravel() for v in given)
    found = wanted.copy()
    active, low, high = np.arange(len(wanted)), np.zeros(len(wanted)), np.ones(len(wanted))
    for _ in range(STEPS):
        s, x1, x2 = found[active], first[active], second[active]
        error = bernstein(s, x1, x2) - wanted[active]
        # Those that are there already are left out: most are after a few steps.
        rest = np.abs(error) > 1e-15
        if not rest.any():
            break
        late = error > 0
        low, high = np.where(late, low, s)[rest], np.where(late, s, high)[rest]
        active = active[rest]
        steep = slope(s, x1, x2)[rest]
        found[active] = guarded_step(s[rest], error[rest], steep, low, high)
    return found.reshape(given[0].shape)


def bernstein(s: Floats, p1: ArrayLike, p2: ArrayLike) -> Floats:
    """Return the cubic with ordinates 0, p1, p2, 1 at ``s``."""
    r, p1, p2 = 1 - s, np.asarray(p1, float), np.asarray(p2, float)
    return np.asarray(3 * r * r * s * p1 + 3 * r * s * s * p2 + s * s * s)


def slope(s: Floats, p1: ArrayLike, p2: ArrayLike) -> Floats:
    """Return the derivative of ``bernstein``."""
    r = 1 - s
    p1, p2 = np.asarray(p1, float), np.asarray(p2, float)
    return np.asarray(3 * r * r * p1 + 6 * r * s * (p2 - p1) + 3 * s * s * (1 - p2))


def ease(
    u: ArrayLike, x1: ArrayLike, y1: ArrayLike, x2: ArrayLike, y2: ArrayLike
) -> tuple[Floats, Floats]:
    """Return the eased value at time fraction ``u`` (0..1), and its derivative by u.

    Degenerate: where both curves stand still the derivative is the limit from inside; a
                vertical one is the finite slope 1e-6 further in or, in the midst of the curve,
                the mean over 1e-6 of the time on both sides.
    """
    s = solve_time(u, x1, x2)
    value = bernstein(s, y1, y2)
    inner = np.clip(s, 1e-6, 1 - 1e-6)
    run = slope(s, x1, x2)
    flat = run < 1e-9
    at = np.where(flat, inner, s)
    with np.errstate(divide="ignore", invalid="ignore"):
        rate = slope(at, y1, y2) / np.where(flat, slope(inner, x1, x2), run)
    rate = np.nan_to_num(rate, nan=0.0, posinf=0.0, neginf=0.0)
    upright = flat & (s == inner)
    if upright.any():
        given = np.broadcast_arrays(*(np.asarray(v, float) for v in (u, x1, y1, x2, y2)))
        there, *curve = (each[upright] for each in given)
        before, after = (
            bernstein(solve_time(there + by, curve[0], curve[2]), curve[1], curve[3])
            for by in (-1e-6, 1e-6)
        )
        rate[upright] = (after - before) / 2e-6
    return value, rate
