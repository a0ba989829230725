"""A cover as pixels: what is drawn apart is cut out by it."""

from dataclasses import dataclass

import cv2
import numpy as np
import skia
from numpy.typing import NDArray

from coaster.geometry.maps import Maps
from coaster.media.pictures import Box
from coaster.render.covers import REACH, Cover, Cut
from coaster.render.inks import as_image, skia_matrix, skia_path
from coaster.render.sprites import Boxes

Coverage = NDArray[np.uint8]
LEAST = 3.0
"""Px by which a picture is blurred at least that is drawn smaller for it: within 2 of 255 of the
Gaussian, in a fraction of the time."""
MEETS = {
    "add": skia.BlendMode.kSrcOver,
    "take": skia.BlendMode.kDstOut,
    "meet": skia.BlendMode.kDstIn,
}


@dataclass
class Covering:
    """A cover in px of the picture: ``maps`` are those of its cuts, ``size`` of a px of the scene,
    ``boxes`` (n, 4) where it is in the ``frame`` (width, height).
    """

    cover: Cover
    maps: list[Maps]
    size: float
    boxes: Boxes
    frame: tuple[int, int]
    _kept: skia.Image | None = None

    def box(self, frame: int) -> Box:
        left, top, right, bottom = self.boxes[frame if len(self.boxes) > 1 else 0]
        return int(left), int(top), int(right), int(bottom)

    def cut_out(self, canvas: skia.Canvas, frame: int, bounds: skia.Rect) -> None:
        """Take away, of what is drawn in a layer of this canvas, all that is not to be seen."""
        strength = self.cover.at(frame)[2]
        if self.cover.inverted:
            how = skia.Paint(Alphaf=strength, BlendMode=skia.BlendMode.kDstOut)
            self._lay(canvas, frame, how)
        elif not self.cover.lets_through:
            # There is nothing to be seen beyond the box of the cover, to which this is clipped.
            self._lay(canvas, frame, skia.Paint(BlendMode=skia.BlendMode.kDstIn))
        else:
            canvas.saveLayer(bounds, skia.Paint(BlendMode=skia.BlendMode.kDstIn))
            # Over 1 - s a cover c comes to c + (1 - s)(1 - c), which is 1 - s (1 - c).
            canvas.drawColor(skia.Color4f(0, 0, 0, 1 - strength), skia.BlendMode.kSrc)
            self._lay(canvas, frame, skia.Paint())
            canvas.restore()

    def _lay(self, canvas: skia.Canvas, frame: int, how: skia.Paint) -> None:
        left, top, right, bottom = self.box(frame)
        if left < right and top < bottom:
            canvas.drawImage(self._image(frame), left, top, paint=how)

    def _image(self, frame: int) -> skia.Image:
        """Return the cover in its box; drawn once if its shape stands still."""
        if self._kept is not None:
            return self._kept
        coverage = self._coverage(frame)
        # An image of alpha alone is drawn three times as slowly.
        pixels = np.zeros((*coverage.shape, 4), np.uint8)
        pixels[..., 3] = coverage
        image = as_image(pixels)
        if self.cover.shape_is_still:
            self._kept = image
        return image

    def _coverage(self, frame: int) -> Coverage:
        """Return how much of each px of the box is covered, 0..255."""
        left, top, right, bottom = self.box(frame)
        grow, blur, _ = self.cover.at(frame)
        deviation = blur * self.size
        times = smaller(deviation)
        # The box holds all of it, but for what lies outside of the frame and fades into it.
        room = int(np.ceil(REACH * deviation))
        width, height = self.frame
        x, y = room * (left == 0), room * (top == 0)
        wide = x + right - left + room * (right == width)
        tall = y + bottom - top + room * (bottom == height)
        # Whole ones of the smaller px: what is drawn is brought down by averaging them.
        whole = (-(-side // times) * times for side in (tall, wide))
        sharp = np.zeros((*whole, 1), np.uint8)
        canvas = skia.Canvas(sharp, skia.kAlpha_8_ColorType, skia.kPremul_AlphaType)
        canvas.translate(x - left, y - top)
        for cut, maps in zip(self.cover.cuts, self.maps, strict=True):
            canvas.save()
            row = skia_matrix(maps[frame if len(maps) > 1 else 0])
            _draw_cut(canvas, cut, row, grow)
            canvas.restore()
        soft = blurred(sharp[..., 0], deviation, times)
        return soft[y : y + bottom - top, x : x + right - left]


def _draw_cut(canvas: skia.Canvas, cut: Cut, row: skia.Matrix, grow: float) -> None:
    mode, path = MEETS[cut.how], skia_path(cut.figure)
    # What only adds, or only takes, can do so stroke by stroke; all else is drawn apart first.
    apart = cut.how == "meet" or grow < 0
    if apart:
        canvas.saveLayer(None, skia.Paint(BlendMode=mode))
        mode = skia.BlendMode.kSrcOver
    canvas.concat(row)
    canvas.drawPath(path, skia.Paint(AntiAlias=True, BlendMode=mode))
    if grow:
        edge = skia.Paint(AntiAlias=True, Style=skia.Paint.kStroke_Style, BlendMode=mode)
        edge.setStrokeWidth(2 * abs(grow))
        edge.setStrokeJoin(skia.Paint.kRound_Join)
        if grow < 0:
            edge.setBlendMode(skia.BlendMode.kDstOut)
        canvas.drawPath(path, edge)
    if apart:
        canvas.restore()


def smaller(deviation: float) -> int:
    """Return how many times smaller a cover is while it is blurred so much, px."""
    return 1 << int(np.log2(max(deviation, LEAST) / LEAST))


def blurred(coverage: Coverage, deviation: float, times: int) -> Coverage:
    """Return a coverage (h, w) blurred by a Gaussian, by way of one so many times smaller.

    Shapes:   h and w are multiples of ``times``.
    Units:    px.
    Accuracy: within 2 of 255 of the Gaussian of what is 0 all round.
    """
    if deviation <= 0:
        return coverage
    if times == 1:
        return _gaussian(coverage, deviation)
    height, width = coverage.shape
    size = width // times, height // times
    small = np.asarray(cv2.resize(coverage, size, interpolation=cv2.INTER_AREA), np.uint8)
    # Averages, and lines between them, are blurred already: variances add up.
    already = (times**2 - 1) / 12 + (times**2 - 1) / 6
    soft = _gaussian(small, float(np.sqrt(deviation**2 - already)) / times)
    return np.asarray(cv2.resize(soft, (width, height), interpolation=cv2.INTER_LINEAR))


def _gaussian(coverage: Coverage, deviation: float) -> Coverage:
    exact = coverage.astype(np.float32)
    soft = cv2.GaussianBlur(exact, (0, 0), deviation, borderType=cv2.BORDER_CONSTANT)
    return np.asarray(np.rint(soft), np.uint8)
