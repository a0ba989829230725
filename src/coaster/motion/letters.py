"""Letters: a text whose parts ride by themselves, one behind the other as they are set."""

from typing import Literal, get_args

from pydantic.dataclasses import dataclass

from coaster.geometry.path import STRICT
from coaster.motion.sections import Frames

By = Literal["letter", "word", "line"]
BY: tuple[By, ...] = get_args(By)
MOST_LATER = 100_000
"""Frames by which the last part may come later."""


@dataclass(frozen=True, slots=True, config=STRICT)
class Letters:
    """Each part of a text, ``by`` letter, word or line, rides in its own place in the text: so far
    ahead or behind as it is set from the anchor, lines beside each other.

    Each does what the one before does, ``later`` frames later. With ``squeeze`` they lie closer
    where the path is shorter than the text.
    """

    by: By = "letter"
    later: Frames = 0.0
    squeeze: bool = False
