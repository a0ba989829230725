"""Frames a second, exactly."""

import re
from fractions import Fraction
from typing import Annotated

from coaster.documents import Rule, document, trusted
from coaster.errors import FormatError

BROADCAST = {
    "23.976": (24000, 1001),
    "23.98": (24000, 1001),
    "29.97": (30000, 1001),
    "59.94": (60000, 1001),
}
"""What people write for the rates of broadcasting, and what is meant."""
FINEST = 1_000_000
"""No rate is a fraction of larger numbers."""


@document
class Rate:
    """Frames a second as an exact fraction: 29.97 is 30000/1001."""

    numerator: Annotated[int, Rule(ge=1, le=FINEST)]
    denominator: Annotated[int, Rule(ge=1, le=100_000)] = 1

    def __post_init__(self) -> None:
        if not 1 <= self.numerator / self.denominator <= 120:
            raise ValueError("frames a second must be between 1 and 120")

    @property
    def fps(self) -> float:
        return self.numerator / self.denominator

    @property
    def fraction(self) -> Fraction:
        return Fraction(self.numerator, self.denominator)

    def frames(self, seconds: float) -> int:
        """Return the whole number of frames nearest to that many seconds."""
        return round(seconds * self.fps)

    def __str__(self) -> str:
        return f"{self.fps:.3f}".rstrip("0").rstrip(".")


def parse_rate(text: str) -> Rate:
    """Read ``30``, ``12.5``, ``30000/1001``, or one of broadcasting's rounded names.

    Errors: FormatError: no number, outside 1..120, or of more digits than a rate has.
    """
    word = text.strip()
    if word in BROADCAST:
        with trusted():
            return Rate(*BROADCAST[word])
    if not re.fullmatch(r"\d{1,6}(\.\d{1,4}|/\d{1,5})?", word) or word.endswith("/0"):
        raise FormatError(
            f"{text!r} is not a number of frames a second; write 25, 29.97 or 30000/1001."
        )
    exact = Fraction(word)
    if not 1 <= exact <= 120:
        raise FormatError(f"{text!r} frames a second is outside 1 to 120.")
    if exact.numerator > FINEST:
        raise FormatError(f"{text!r} frames a second is told too finely; leave out the last digit.")
    with trusted():
        return Rate(exact.numerator, exact.denominator)
