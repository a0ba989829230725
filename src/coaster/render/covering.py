"""A cover as pixels: what is drawn apart is cut out by it."""

from dataclasses import dataclass

import cv2
import numpy as np
import skia
from numpy.typing import NDArray

from coaster.geometry.maps import Maps
from coaster.render.covers import REACH, Cover, Cut
from coaster.render.inks import skia_matrix, skia_path
from coaster.render.sprites import Box, Boxes

Coverage = NDArray[np.uint8]
LEAST = 8.0
"""A blur of fewer px is done at full size; wider ones on a picture that is so many times smaller
that it is at least this there: within 2 of 255, in a fraction of the time."""
MEETS = {
    "add": skia.BlendMode.kSrcOver,
    "take": skia.BlendMode.kDstOut,
    "meet": skia.BlendMode.kDstIn,
}


@dataclass
class Covering:
    """A cover in px of the picture: ``maps`` are those of its cuts, ``size`` of a px of the scene,
    ``boxes`` (n, 4) where its cuts are.
    """

    cover: Cover
    maps: list[Maps]
    size: float
    boxes: Boxes
    _kept: skia.Image | None = None

    def box(self, frame: int) -> Box:
        left, top, right, bottom = self.boxes[frame if len(self.boxes) > 1 else 0]
        return int(left), int(top), int(right), int(bottom)

    def cut_out(self, canvas: skia.Canvas, frame: int, bounds: skia.Rect) -> None:
        """Take away, of what is drawn in a layer of this canvas, all that is not to be seen."""
        strength = self.cover.at(frame)[2]
        mode = skia.BlendMode.kDstOut if self.cover.inverted else skia.BlendMode.kDstIn
        canvas.saveLayer(bounds, skia.Paint(BlendMode=mode))
        if not self.cover.inverted and strength < 1:
            canvas.drawColor(skia.Color4f(0, 0, 0, 1 - strength), skia.BlendMode.kSrc)
        left, top, right, bottom = self.box(frame)
        if left < right and top < bottom:
            # 1 - s is there already, and s times the cover comes to it: exactly 1 where it is
            # whole.
            laid_on = skia.Paint(Alphaf=strength, BlendMode=skia.BlendMode.kPlus)
            canvas.drawImage(self._image(frame), left, top, paint=laid_on)
        canvas.restore()

    def _image(self, frame: int) -> skia.Image:
        """Return the cover in its box; drawn once if its shape stands still."""
        if self._kept is not None:
            return self._kept
        coverage = np.ascontiguousarray(self._coverage(frame))
        image = skia.Image.fromarray(
            coverage.reshape(*coverage.shape, 1),
            skia.kAlpha_8_ColorType,
            skia.kPremul_AlphaType,
            copy=True,
        )
        if self.cover.shape_is_still:
            self._kept = image
        return image

    def _coverage(self, frame: int) -> Coverage:
        """Return how much of each px of the box is covered, 0..255."""
        left, top, right, bottom = self.box(frame)
        grow, blur, _ = self.cover.at(frame)
        # What lies just outside fades into the box.
        room = int(np.ceil(REACH * blur * self.size))
        sharp = np.zeros((bottom - top + 2 * room, right - left + 2 * room, 1), np.uint8)
        canvas = skia.Canvas(sharp, skia.kAlpha_8_ColorType, skia.kPremul_AlphaType)
        canvas.translate(room - left, room - top)
        for cut, maps in zip(self.cover.cuts, self.maps, strict=True):
            canvas.save()
            row = skia_matrix(maps[frame if len(maps) > 1 else 0])
            _draw_cut(canvas, cut, row, grow)
            canvas.restore()
        soft = blurred(sharp[..., 0], blur * self.size)
        return soft[room : soft.shape[0] - room, room : soft.shape[1] - room]


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


def blurred(coverage: Coverage, deviation: float) -> Coverage:
    """Return a coverage (h, w) blurred by a Gaussian, 0 outside of it.

    Units:    px.
    Accuracy: within 3 of 255 of the Gaussian, where nothing is covered near the edge.
    """
    if deviation <= 0:
        return coverage
    times = 2 ** max(int(np.floor(np.log2(deviation / LEAST))), 0)
    if times == 1:
        soft = cv2.GaussianBlur(coverage, (0, 0), deviation, borderType=cv2.BORDER_CONSTANT)
        return np.asarray(soft)
    height, width = coverage.shape
    tall, wide = (-(-side // times) for side in (height, width))
    added = tall * times - height, wide * times - width
    whole = cv2.copyMakeBorder(coverage, 0, added[0], 0, added[1], cv2.BORDER_CONSTANT)
    small = cv2.resize(whole.astype(np.float32), (wide, tall), interpolation=cv2.INTER_AREA)
    # To average, and to draw lines between averages, has blurred already: variances add up.
    already = (times**2 - 1) / 12 + (times**2 - 1) / 6
    rest = np.sqrt(deviation**2 - already) / times
    soft = cv2.GaussianBlur(small, (0, 0), float(rest), borderType=cv2.BORDER_CONSTANT)
    large = cv2.resize(soft, (wide * times, tall * times), interpolation=cv2.INTER_LINEAR)
    return np.asarray(np.rint(large[:height, :width]).astype(np.uint8))
