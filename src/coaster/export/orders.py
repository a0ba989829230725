"""What is asked of a render: which frames, how often, how large, how fast, how blurred."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import ceil
from typing import Annotated

import numpy as np
from pydantic import TypeAdapter, ValidationError

from coaster.documents import Rule, document
from coaster.errors import FormatError
from coaster.media.writers import kind_named
from coaster.media.writing import QUALITIES, Kind, Quality
from coaster.motion.rate import Rate
from coaster.render.blur import FULL_TURN, STEP_PX, Plan, both, plan_of, sharp
from coaster.render.display import program_of
from coaster.render.evaluate import Evaluation
from coaster.render.frames import Frames
from coaster.render.raster import output_size
from coaster.scene.document import Scene

LARGEST_SIDE = 8192
MOST_FRAMES = 200_000


@dataclass(frozen=True)
class Order:
    """What to render: frames ``first`` up to but not ``last`` as so many ``pictures``, ``rate`` a
    second, ``loops`` times, at ``scale``.

    With ``returns`` each loop goes there and back. While the shutter is open, ``shutter`` degrees
    of 360, movement runs into one another. ``behind`` is a colour in place of the scene's own
    background, "none" for transparency, and "" for what the scene has.
    """

    first: int
    last: int
    pictures: int
    rate: Rate
    loops: int = 1
    scale: float = 1.0
    returns: bool = False
    shutter: float = 0.0
    behind: str = ""
    quality: Quality = "usual"
    retimed: bool = False
    """Whether its pictures are not the scene's frames."""

    @property
    def once(self) -> int:
        """How many frames of the file one loop has."""
        return _once(self.pictures, self.returns)

    @property
    def count(self) -> int:
        return self.once * self.loops

    def frames(self) -> list[int]:
        """Return the pictures in the order of the file: frames of the scene, or of the plan."""
        begin = 0 if self.is_planned else self.first
        there = list(range(begin, begin + self.pictures))
        # What is met at both ends is seen once: so there is no rest, and none at the seam.
        return (there + there[-2:0:-1] if self.returns else there) * self.loops

    @property
    def is_planned(self) -> bool:
        return self.retimed or self.shutter > 0

    def of(self, scene: Scene) -> Scene:
        """Return the scene with what is to be behind it."""
        if not self.behind:
            return scene
        return replace(scene, background=None if self.behind == "none" else self.behind)

    def plan(self, scene: Scene, wanted: Sequence[int] | None = None) -> Plan | None:
        """Return when pictures are seen, all or those ``wanted``; None where they are the scene's
        frames.
        """
        if not self.is_planned:
            return None
        # Spread evenly, so that the end meets the start also where the rates do not divide.
        step = (self.last - self.first) / self.pictures
        numbers = range(self.pictures) if wanted is None else wanted
        opens = self.first + np.array(numbers, dtype=float) * step
        if not self.shutter:
            return sharp(opens)
        lasts = step * self.shutter / FULL_TURN
        program = program_of(Evaluation(scene), at=Frames(both(opens, lasts)))
        return plan_of(opens, lasts, program, self.scale, STEP_PX[self.quality])


def _once(pictures: int, returns: bool) -> int:
    return max(2 * pictures - 2, 1) if returns else pictures


@document
class Choices:
    """What a person may choose of a render, as forms, presets and files have it; see ``Order``.

    ``fps`` in place of the scene's own, ``high`` px in place of a scale; whole loops until it lasts
    at least so many ``seconds``.
    """

    kind: str = "mp4"
    quality: Quality = "usual"
    first: int = 0
    last: int | None = None
    fps: Rate | None = None
    scale: float = 1.0
    high: int | None = None
    loops: int = 1
    seconds: float = 0.0
    returns: bool = False
    shutter: float = 0.0
    behind: Annotated[str, Rule(pattern="^(none|#[0-9a-fA-F]{6})?$")] = ""

    def order(self, scene: Scene) -> Order:
        """Return what they come to for a scene.

        Errors: FormatError: it cannot be rendered so.
        """
        order = order_for(
            scene, self.first, self.last, self.loops, self.scale, rate=self.fps,
            seconds=self.seconds, high=self.high, returns=self.returns, shutter=self.shutter,
            behind=self.behind, quality=self.quality,
        )  # fmt: skip
        check(scene, order, kind_named(self.kind))
        return order


READY: dict[str, Choices] = {
    "screen": Choices(),
    "web": Choices("webm", "small", high=720),
    "message": Choices("gif", high=360, fps=Rate(25)),
    "work": Choices("prores", "best"),
}
"""Presets that everybody has."""
_FORM = TypeAdapter(Choices)


def choices_of(data: object) -> Choices:
    """Read what ``data_of`` wrote.

    Errors: FormatError: it says something else.
    """
    try:
        return _FORM.validate_python(data)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(map(str, first["loc"]))
        raise FormatError(f"These are no choices of a render: {where}: {first['msg']}.") from error


def data_of(choices: Choices) -> dict[str, object]:
    """Return choices as JSON has them, without those that are as usual."""
    data: dict[str, object] = _FORM.dump_python(choices, mode="json", exclude_defaults=True)
    return data


def words_of(choices: Choices) -> list[str]:
    """Say what is chosen beside the kind and the size, where it is not as usual."""
    told = {
        f"frames {choices.first}:{choices.last or ''}": choices.first or choices.last is not None,
        f"{choices.fps} a second": choices.fps is not None,
        f"{choices.loops} loops": choices.loops > 1,
        f"at least {choices.seconds:g} s": choices.seconds > 0,
        "there and back": choices.returns,
        f"blurred by {choices.shutter:g}°": choices.shutter > 0,
        "transparent" if choices.behind == "none" else f"on {choices.behind}": choices.behind,
        QUALITIES[choices.quality].lower(): choices.quality != "usual",
    }
    return [words for words, holds in told.items() if holds]


def check(scene: Scene, order: Order, kind: Kind) -> None:
    """Errors: FormatError: a kind of file cannot hold what is asked for."""
    if order.of(scene).background is None and not kind.alpha:
        raise FormatError(
            f"{kind.words} has no transparency, and nothing is behind this scene: choose a colour"
            " that lies behind it, or a format that is transparent."
        )
    if order.rate.fps > kind.most_fps:
        raise FormatError(
            f"{kind.words} cannot keep the time of {order.rate} frames a second: ask for"
            f" {kind.most_fps:g} or fewer."
        )
    if order.count < kind.fewest_frames:
        raise FormatError(
            f"{kind.words} has {kind.fewest_frames} frames or more, and {order.count} are asked"
            " for: ask for more of them, or for another format."
        )
    if kind.most_frames is not None and order.count > kind.most_frames:
        raise FormatError(
            f"{kind.words}, holds no more than {kind.most_frames}, and {order.count} are asked for:"
            " say which one."
        )
    if kind.vectors:
        _refuse_frames(order, kind)


def _refuse_frames(order: Order, kind: Kind) -> None:
    """Errors: FormatError: what is asked for belongs to frames, and the file has none."""
    asked = {
        "motion blur": order.shutter > 0,
        "frames a second of its own": order.retimed,
        "number of loops: it runs for ever": order.loops > 1,
    }
    for words, is_asked in asked.items():
        if is_asked:
            raise FormatError(f"{kind.words} is not made of frames and has no {words}.")


def order_for(
    scene: Scene,
    first: int = 0,
    last: int | None = None,
    loops: int = 1,
    scale: float = 1.0,
    *,
    rate: Rate | None = None,
    seconds: float = 0.0,
    high: int | None = None,
    returns: bool = False,
    shutter: float = 0.0,
    behind: str = "",
    quality: Quality = "usual",
) -> Order:
    """Check what is asked of a scene: in place of its own ``rate`` another, whole loops until it
    lasts at least so many ``seconds``, a scale by which it is ``high`` px high.

    Errors: FormatError: no frames, frames outside the scene, or a size that cannot be encoded.
    """
    last = scene.length if last is None else last
    if not 0 <= first < last <= scene.length:
        raise FormatError(
            f"Frames {first}:{last} are not in the scene, which has 0:{scene.length}."
        )
    if not 0 <= shutter <= FULL_TURN:
        raise FormatError(f"A shutter of {shutter:g}° does not exist: write 0 to 360.")
    retimed = rate is not None and rate.fraction != scene.rate.fraction
    wanted = rate if rate is not None and retimed else scene.rate
    pictures = max(1, round((last - first) / scene.fps * wanted.fps)) if retimed else last - first
    once = _once(pictures, returns)
    loops = max(loops, ceil(seconds * wanted.fps / once - 1e-9))
    if loops < 1 or once * loops > MOST_FRAMES:
        raise FormatError(
            f"{loops} loops of {once} frames: at least one loop, at most {MOST_FRAMES:,} frames."
        )
    scale = high / scene.height if high else scale
    if not 0.01 <= scale <= 8 or max(output_size(scene.width, scene.height, scale)) > LARGEST_SIDE:
        raise FormatError(
            f"A scale of {scale:g} makes this scene too large or too small for video."
        )
    return Order(
        first, last, pictures, wanted, loops, scale, returns, shutter, behind, quality, retimed
    )
