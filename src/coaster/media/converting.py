"""Frames in the pixels that an encoder takes; in YUV, only what changed is converted anew."""

from collections import deque
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

import numpy as np
from av.video.frame import VideoFrame
from av.video.reformatter import ColorRange, Colorspace, Interpolation, VideoReformatter
from numpy.typing import NDArray

from coaster.media.pictures import Box, Pixels, straight_rgba

STEP = 16
"""Px that boxes are widened to multiples of, and are high at least: whole squares of the halved
colour planes, and more rows than the library needs to take a box as it takes the whole picture."""
BELOW = 2
"""Rows of px that are converted below a box: of each picture the library rounds the last row of
colours otherwise than those above."""
SIZES = 64
"""Sizes of boxes for which the library is kept set up: that takes as long as a box of 100 px."""
APIECE, WORTH = 20_000, 0.75
"""Px that a box costs beside its own, and the share of the picture up to which converting boxes is
less work."""
MEANS = Interpolation.AREA | Interpolation.FULL_CHR_H_INP
"""Colours are the means of four px; by way of all of them, the same is a fifth quicker."""

Levels = NDArray[np.uint8 | np.uint16]


class Converter:
    """Makes frames of ``form``, as a video library calls it, of premultiplied BGRA; with ``alpha``
    they are straight. In ``yuv`` each is written over when ``held`` others were made since.

    Accuracy: to BT.709 in ``yuv``; the same to the bit, whether what changed is told or not.
    """

    def __init__(self, form: str, *, alpha: bool, yuv: bool, held: int) -> None:
        self._form, self._alpha, self._yuv, self._held = form, alpha, yuv, held
        self._reformatter = lru_cache(SIZES)(lambda height, width: VideoReformatter())
        self._sheets = deque[_Sheet]()

    def frame(self, pixels: Pixels, changed: Sequence[Box] | None = None) -> VideoFrame:
        """Return the next frame, which keeps nothing of ``pixels``; outside of the boxes
        ``changed`` these are those of the last frame.
        """
        if not self._yuv:
            return self._as_it_is(pixels)
        height, width = pixels.shape[:2]
        boxes = None if changed is None else _gathered(_widened(changed, width, height))
        if not self._sheets or boxes is None or _work(boxes) > WORTH * width * height:
            self._sheets.clear()
            self._sheets.append(_Sheet(self._in_yuv(pixels)))
        else:
            self._sheets.append(self._patched(pixels, boxes))
        return self._sheets[-1].frame

    def _as_it_is(self, pixels: Pixels) -> VideoFrame:
        if self._alpha:
            source = VideoFrame.from_ndarray(straight_rgba(pixels), format="rgba")
        else:
            # What is not converted waits as it is, while the pixels are drawn on again.
            shared = self._form != "bgra"
            take = VideoFrame.from_numpy_buffer if shared else VideoFrame.from_ndarray
            source = take(pixels, format="bgra")
        return source.reformat(format=self._form)

    def _patched(self, pixels: Pixels, boxes: Sequence[Box]) -> "_Sheet":
        """Return the last frame once more, with boxes of it converted anew."""
        last = self._sheets[-1].frame
        sheet = self._sheets.popleft() if len(self._sheets) > self._held else _blank(last)
        for each in self._sheets:
            each.missed.update(boxes)
        planes = sheet.brought_up_to(last, but=boxes)
        for box in boxes:
            left, top, right, bottom = box
            # Rows below it come along, and are left out again.
            fresh = self._in_yuv(pixels[top : bottom + BELOW, left:right])
            for plane, part in zip(planes, _planes(fresh), strict=True):
                rows, columns = _within(plane, box, last)
                plane[rows, columns] = part[: rows.stop - rows.start]
        return sheet

    def _in_yuv(self, pixels: Pixels) -> VideoFrame:
        if self._alpha:
            straight = straight_rgba(np.ascontiguousarray(pixels))
            source = VideoFrame.from_numpy_buffer(straight, format="rgba")
        else:
            source = VideoFrame.from_numpy_buffer(pixels, format="bgra")
        return self._reformatter(*pixels.shape[:2]).reformat(
            source,
            format=self._form,
            src_colorspace=Colorspace.ITU709,
            dst_colorspace=Colorspace.ITU709,
            src_color_range=ColorRange.JPEG,
            dst_color_range=ColorRange.MPEG,
            interpolation=MEANS,
            threads=1,
        )


@dataclass
class _Sheet:
    """A frame that was given out, and where later ones differ from it."""

    frame: VideoFrame
    missed: set[Box] = field(default_factory=set)

    def brought_up_to(self, last: VideoFrame, but: Sequence[Box]) -> list[Levels]:
        """Copy what it missed from the last frame, except in some boxes; return its planes."""
        # Whoever still holds it keeps what was given out.
        self.frame.make_writable()
        planes, left = _planes(self.frame), list(self.missed - set(but))
        for cover in but:
            left = [part for box in left for part in _outside(box, cover)]
        for plane, now in zip(planes, _planes(last), strict=True):
            for box in left:
                where = _within(plane, box, last)
                plane[where] = now[where]
        self.missed = set()
        return planes


def _blank(like: VideoFrame) -> _Sheet:
    frame = VideoFrame(like.width, like.height, like.format.name)
    frame.colorspace, frame.color_range = like.colorspace, like.color_range
    return _Sheet(frame, {(0, 0, like.width, like.height)})


def _within(plane: Levels, box: Box, frame: VideoFrame) -> tuple[slice, slice]:
    """Return the rows and columns of a plane, which may be a halved one, where a box is."""
    left, top, right, bottom = box
    down, across = frame.height // plane.shape[0], frame.width // plane.shape[1]
    return slice(top // down, bottom // down), slice(left // across, right // across)


def _outside(box: Box, cover: Box) -> Iterator[Box]:
    """Yield what of a box lies outside of another one, as boxes: above, below and beside it."""
    left, top, right, bottom = box
    if left >= cover[2] or top >= cover[3] or right <= cover[0] or bottom <= cover[1]:
        yield box
        return
    if top < cover[1]:
        yield left, top, right, cover[1]
    if bottom > cover[3]:
        yield left, cover[3], right, bottom
    top, bottom = max(top, cover[1]), min(bottom, cover[3])
    if left < cover[0]:
        yield left, top, cover[0], bottom
    if right > cover[2]:
        yield cover[2], top, right, bottom


def _widened(boxes: Sequence[Box], width: int, height: int) -> Iterator[Box]:
    """Yield boxes as they are converted; those without area are left out."""
    for left, top, right, bottom in boxes:
        if left < right and top < bottom:
            # The foot of a picture may be lower than a step.
            first = min(top - top % STEP, max(height - STEP, 0))
            yield left - left % STEP, first, min(_up(right), width), min(_up(bottom), height)


def _gathered(boxes: Iterable[Box]) -> list[Box]:
    """Return fewer and larger boxes that hold these, where that is less work."""
    found = list[Box]()
    for box in boxes:
        for at, other in enumerate(found):
            (a, b, c, d), (e, f, g, h) = box, other
            both = min(a, e), min(b, f), max(c, g), max(d, h)
            if _work([both]) <= _work([box, other]):
                found[at] = both
                break
        else:
            found.append(box)
    return found


def _up(px: int) -> int:
    return -(-px // STEP) * STEP


def _work(boxes: Sequence[Box]) -> int:
    """Return how many px are as much work as converting boxes."""
    return sum((right - left) * (bottom - top) + APIECE for left, top, right, bottom in boxes)


def _planes(frame: VideoFrame) -> list[Levels]:
    """Return the planes of a frame as they lie in its memory, (rows, columns) each."""
    found = list[Levels]()
    for plane, component in zip(frame.planes, frame.format.components, strict=True):
        memory: Any = plane  # which its library does not say is memory
        levels: Levels = np.frombuffer(memory, f"u{1 + (component.bits > 8)}")
        found.append(levels.reshape(plane.height, -1)[:, : plane.width])
    return found
