"""Display lists as pixels. Layers that stand still are drawn once; pictures that turn are warped."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
import skia

from coaster.errors import RenderError
from coaster.formats import pathdata
from coaster.geometry import affine
from coaster.geometry.bezier import Floats
from coaster.media.pictures import Pixels
from coaster.render.evaluate import Evaluation, LayerMotion
from coaster.render.outlines import Outline

PictureSource = Callable[[str], Pixels]
STEPS_PER_OCTAVE = 4
"""Pictures are kept at scales 2^(-k/4): the warp that follows shrinks by less than a fifth."""


@lru_cache(maxsize=1024)
def skia_path(data: str) -> skia.Path:
    path = skia.Path()
    for pieces, closed in pathdata.runs(data):
        path.moveTo(*map(float, pieces[0, 0]))
        for piece in pieces:
            path.cubicTo(*map(float, piece[1:].ravel()))
        if closed:
            path.close()
    return path


def colour_of(text: str) -> int:
    value = int(text[1:7], 16)
    alpha = int(text[7:9], 16) if len(text) == 9 else 255
    return alpha << 24 | value


def paints(outline: Outline, opacity: float) -> list[skia.Paint]:
    """Return the fill's and the stroke's paint, those of them that there are."""
    made = []
    if outline.fill:
        made.append(skia.Paint(AntiAlias=True, Color=colour_of(outline.fill)))
    if outline.stroke and outline.stroke_width > 0:
        stroke = skia.Paint(AntiAlias=True, Color=colour_of(outline.stroke), Style=skia.Paint.kStroke_Style)
        stroke.setStrokeWidth(outline.stroke_width)
        stroke.setStrokeCap(skia.Paint.kRound_Cap)
        stroke.setStrokeJoin(skia.Paint.kRound_Join)
        if outline.dash:
            stroke.setPathEffect(skia.DashPathEffect.Make(list(outline.dash), 0.0))
        made.append(stroke)
    for paint in made:
        paint.setAlphaf(paint.getAlphaf() * opacity)
    return made


def skia_matrix(m: Floats) -> skia.Matrix:
    a, b, c, d, e, f = (float(v) for v in m)
    return skia.Matrix.MakeAll(a, c, e, b, d, f, 0, 0, 1)


def as_image(pixels: Pixels) -> skia.Image:
    """Copy pixels into an image; sharing them is a use after free in this binding."""
    return skia.Image.fromarray(pixels, skia.kBGRA_8888_ColorType, skia.kPremul_AlphaType, copy=True)


class Sprite:
    """A picture with smaller copies of itself, warped into place by any affine map.

    Accuracy: bilinear from a copy at most a fifth too large, so neither jagged nor blurred.
    """

    def __init__(self, pixels: Pixels, width: float, height: float) -> None:
        self._pixels = pixels
        self._to_pixels = (pixels.shape[1] / width, pixels.shape[0] / height)
        self._levels: dict[int, Pixels] = {}

    def _level(self, scale: float) -> Pixels:
        octave = math.floor(-math.log2(min(max(scale, 1e-4), 1.0)) * STEPS_PER_OCTAVE + 1e-9)
        if octave not in self._levels:
            factor = 2 ** (-octave / STEPS_PER_OCTAVE)
            height, width = self._pixels.shape[:2]
            size = max(1, math.ceil(width * factor)), max(1, math.ceil(height * factor))
            small = self._pixels if octave == 0 else cv2.resize(self._pixels, size, interpolation=cv2.INTER_AREA)
            self._levels[octave] = np.asarray(small)
        return self._levels[octave]

    def draw(self, canvas: skia.Canvas, matrix: Floats, size: tuple[int, int], opacity: float) -> None:
        """Draw under ``matrix``, from the picture's scene px to the ``size`` px of the canvas."""
        whole = affine.compose(matrix, affine.scaling(1 / self._to_pixels[0], 1 / self._to_pixels[1]))
        level = self._level(affine.largest_scale(whole))
        rows, columns = level.shape[:2]
        shrink = affine.scaling(self._pixels.shape[1] / columns, self._pixels.shape[0] / rows)
        m = affine.compose(whole, shrink)
        corners = affine.apply(m, [[0, 0], [columns, 0], [0, rows], [columns, rows]])
        left, top = np.maximum(np.floor(corners.min(axis=0)) - 1, 0).astype(int)
        right, bottom = np.minimum(np.ceil(corners.max(axis=0)) + 1, size).astype(int)
        if right <= left or bottom <= top or opacity <= 0 or abs(m[0] * m[3] - m[1] * m[2]) < 1e-9:
            return
        # Pixel centres are at halves here and at wholes in warpAffine.
        warp = affine.chain([affine.translation(-left - 0.5, -top - 0.5), m, affine.translation(0.5, 0.5)])
        patch = cv2.warpAffine(
            level,
            np.array([[warp[0], warp[2], warp[4]], [warp[1], warp[3], warp[5]]]),
            (int(right - left), int(bottom - top)),
            flags=cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_CONSTANT,
        )
        paint = skia.Paint(Alphaf=opacity) if opacity < 1 else None
        canvas.drawImage(as_image(np.ascontiguousarray(patch)), float(left), float(top), paint=paint)


@dataclass
class _Flat:
    """Layers that stand still, drawn into one image, cut to what is not empty."""

    image: skia.Image
    left: int
    top: int


class Painter:
    """Draws the frames of one scene, premultiplied BGRA, at ``scale``.

    Shapes: ``paint`` fills (height, width, 4) uint8.
    Errors: RenderError with the frame, if a picture is missing or broken.
    """

    def __init__(self, evaluation: Evaluation, source: PictureSource, scale: float = 1.0) -> None:
        self.evaluation, self._source = evaluation, source
        scene = evaluation.scene
        self.width, self.height = output_size(scene.width, scene.height, scale)
        self._view = affine.scaling(self.width / scene.width, self.height / scene.height)
        self._sprites: dict[tuple[str, float, float], Sprite] = {}
        self._base: Pixels | None = None
        self._runs: list[LayerMotion | _Flat] = []

    def paint(self, frame: int, into: Pixels) -> None:
        """Draw one frame over whatever ``into`` holds."""
        try:
            np.copyto(into, self._still())
            canvas = canvas_on(into)
            for run in self._runs:
                if isinstance(run, _Flat):
                    canvas.drawImage(run.image, run.left, run.top)
                else:
                    self._draw(canvas, run, frame)
        except (OSError, ValueError, RuntimeError, MemoryError, cv2.error) as error:
            raise RenderError(f"Frame {frame} could not be drawn: {error}", frame) from error

    def picture(self, frame: int) -> Pixels:
        """Return one frame in pixels of its own."""
        pixels = np.empty((self.height, self.width, 4), np.uint8)
        self.paint(frame, pixels)
        return pixels

    def prepare(self) -> None:
        """Draw ahead what all frames share: the background and the runs of still layers."""
        self.paint(0, np.empty((self.height, self.width, 4), np.uint8))

    def _still(self) -> Pixels:
        if self._base is None:
            self._base, self._runs = self._flattened()
        return self._base

    def _flattened(self) -> tuple[Pixels, list[LayerMotion | _Flat]]:
        """Draw the background and every run of still layers once."""
        base = np.zeros((self.height, self.width, 4), np.uint8)
        background = self.evaluation.scene.background
        if background:
            canvas_on(base).clear(colour_of(background))
        shown = [m for m in self.evaluation.motions if m.layer.visible]
        waiting: list[LayerMotion] = []
        runs: list[LayerMotion | _Flat] = []
        first = next((i for i, m in enumerate(shown) if not m.still), len(shown))
        for motion in shown[:first]:
            self._draw(canvas_on(base), motion, 0)
        for motion in shown[first:]:
            if motion.still:
                waiting.append(motion)
                continue
            runs += self._flat(waiting)
            waiting = []
            runs.append(motion)
        return base, [*runs, *self._flat(waiting)]

    def _flat(self, motions: list[LayerMotion]) -> list[_Flat]:
        if not motions:
            return []
        pixels = np.zeros((self.height, self.width, 4), np.uint8)
        for motion in motions:
            self._draw(canvas_on(pixels), motion, 0)
        rows, columns = np.flatnonzero(pixels[..., 3].any(axis=1)), np.flatnonzero(pixels[..., 3].any(axis=0))
        if not len(rows):
            return []
        cut = np.ascontiguousarray(pixels[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1])
        return [_Flat(as_image(cut), int(columns[0]), int(rows[0]))]

    def _draw(self, canvas: skia.Canvas, motion: LayerMotion, frame: int) -> None:
        item, opacity = motion.drawable, motion.layer.transform.opacity
        matrix = affine.compose(self._view, motion.matrix(frame))
        if item.asset:
            sprite = self._sprite(item.asset, item.width, item.height)
            sprite.draw(canvas, matrix, (self.width, self.height), opacity)
            return
        canvas.save()
        canvas.concat(skia_matrix(matrix))
        for outline in item.outlines:
            for paint in paints(outline, opacity):
                canvas.drawPath(skia_path(outline.data), paint)
        canvas.restore()

    def _sprite(self, asset: str, width: float, height: float) -> Sprite:
        key = (asset, width, height)
        if key not in self._sprites:
            self._sprites[key] = Sprite(self._source(asset), width, height)
        return self._sprites[key]


def canvas_on(pixels: Pixels) -> skia.Canvas:
    """Return a canvas that draws into ``pixels``, which must outlive it."""
    return skia.Canvas(pixels, skia.kBGRA_8888_ColorType, skia.kPremul_AlphaType)


def output_size(width: int, height: int, scale: float) -> tuple[int, int]:
    """Return even sizes in px, at least 16, nearest to the scaled ones."""
    return max(16, 2 * round(width * scale / 2)), max(16, 2 * round(height * scale / 2))
