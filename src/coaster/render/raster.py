"""Display lists as pixels. What stands still is drawn once; only where something moves is drawn anew."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Protocol

import cv2
import numpy as np
import skia
from numpy.typing import NDArray

from coaster.errors import RenderError
from coaster.formats import pathdata
from coaster.geometry import affine
from coaster.geometry.bezier import Floats
from coaster.media.pictures import Pixels
from coaster.render.evaluate import Evaluation, LayerMotion
from coaster.render.outlines import Outline
from coaster.render.sprites import Boxes, Placed, Sprite, boxes_of, placed

PictureSource = Callable[[str], Pixels]
Box = tuple[int, int, int, int]
"""Left, top, right, bottom in whole px; right and bottom are one past the last."""


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


def canvas_on(pixels: Pixels) -> skia.Canvas:
    """Return a canvas that draws into ``pixels``, which must outlive it."""
    return skia.Canvas(pixels, skia.kBGRA_8888_ColorType, skia.kPremul_AlphaType)


def output_size(width: int, height: int, scale: float) -> tuple[int, int]:
    """Return even sizes in px, at least 16, nearest to the scaled ones."""
    return max(16, 2 * round(width * scale / 2)), max(16, 2 * round(height * scale / 2))


class _Part(Protocol):
    """Something to draw, from back to front: where it is in a frame, and how it is drawn there."""

    def box(self, frame: int) -> Box: ...

    def draw(self, canvas: skia.Canvas, frame: int) -> None: ...


@dataclass
class _Still:
    """A region of layers that stand still, drawn into one image."""

    image: skia.Image
    region: Box

    def box(self, frame: int) -> Box:
        return self.region

    def draw(self, canvas: skia.Canvas, frame: int) -> None:
        canvas.drawImage(self.image, self.region[0], self.region[1])


@dataclass
class _Mover:
    """A layer in n frames (one if it stands still); each kind has its px boxes ready."""

    boxes: Boxes

    def at(self, frame: int) -> int:
        return frame if len(self.boxes) > 1 else 0

    def box(self, frame: int) -> Box:
        left, top, right, bottom = self.boxes[self.at(frame)]
        return int(left), int(top), int(right), int(bottom)


@dataclass
class _MovingPicture(_Mover):
    placed: Placed
    motion: LayerMotion

    def draw(self, canvas: skia.Canvas, frame: int) -> None:
        left, top, _, _ = self.box(frame)
        opacity = self.motion.opacity(frame)
        paint = skia.Paint(Alphaf=opacity) if opacity < 1 else None
        canvas.drawImage(as_image(self.placed.patch(self.at(frame))), float(left), float(top), paint=paint)


@dataclass
class _MovingOutlines(_Mover):
    matrices: Floats
    motion: LayerMotion
    drawn: list[tuple[skia.Path, Outline]]

    def draw(self, canvas: skia.Canvas, frame: int) -> None:
        canvas.save()
        canvas.concat(skia_matrix(self.matrices[self.at(frame)]))
        opacity = self.motion.opacity(frame)
        for path, outline in self.drawn:
            shown = self.motion.painted(outline, frame)
            figure = path if shown.data == outline.data else skia_path(shown.data)
            for paint in paints(shown, opacity):
                canvas.drawPath(figure, paint)
        canvas.restore()


@dataclass
class Surface:
    """Pixels to draw frames into, one after the other; remembers where it differs from what is still."""

    pixels: Pixels
    moved: list[Box] | None = field(default=None)


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
        self._ready: tuple[Pixels, Pixels, list[_Part]] | None = None

    def paint(self, frame: int, into: Pixels) -> None:
        """Draw one frame over whatever ``into`` holds."""
        self.repaint(frame, Surface(into))

    def picture(self, frame: int) -> Pixels:
        """Return one frame in pixels of its own."""
        pixels = np.empty((self.height, self.width, 4), np.uint8)
        self.paint(frame, pixels)
        return pixels

    def repaint(self, frame: int, surface: Surface) -> None:
        """Draw one frame over the last one drawn there; only what moved is touched."""
        try:
            ground, still, parts = self._prepared()
            if surface.moved is None:
                np.copyto(surface.pixels, still)
            for left, top, right, bottom in surface.moved or ():
                surface.pixels[top:bottom, left:right] = still[top:bottom, left:right]
            boxes = [part.box(frame) for part in parts]
            moving = [box for box, part in zip(boxes, parts, strict=True) if isinstance(part, _Mover)]
            surface.moved = regions = disjoint(moving)
            canvas = canvas_on(surface.pixels)
            for region in regions:
                left, top, right, bottom = region
                surface.pixels[top:bottom, left:right] = ground[top:bottom, left:right]
                canvas.save()
                canvas.clipRect(skia.Rect.MakeLTRB(left, top, right, bottom))
                for box, part in zip(boxes, parts, strict=True):
                    if meet(box, region):
                        part.draw(canvas, frame)
                canvas.restore()
        except (OSError, ValueError, RuntimeError, MemoryError, cv2.error) as error:
            surface.moved = None
            raise RenderError(f"Frame {frame} could not be drawn: {error}", frame) from error

    def prepare(self) -> None:
        """Draw ahead what all frames share.

        Errors: RenderError: a picture is missing or broken.
        """
        self.picture(0)

    def _prepared(self) -> tuple[Pixels, Pixels, list[_Part]]:
        """Return the ground behind all that moves, the picture of all that is still, and the parts in front."""
        if self._ready is None:
            ground = np.zeros((self.height, self.width, 4), np.uint8)
            background = self.evaluation.scene.background
            if background:
                canvas_on(ground).clear(colour_of(background))
            shown = [m for m in self.evaluation.motions if m.layer.visible]
            first = next((i for i, m in enumerate(shown) if not m.still), len(shown))
            self._draw_all(shown[:first], ground)
            still, parts = ground.copy(), list[_Part]()
            waiting: list[LayerMotion] = []
            for motion in shown[first:]:
                if motion.still:
                    waiting.append(motion)
                    continue
                parts += self._stills(waiting)
                parts.append(self._mover(motion))
                waiting = []
            parts += self._stills(waiting)
            canvas = canvas_on(still)
            for part in parts:
                if isinstance(part, _Still):
                    part.draw(canvas, 0)
            self._ready = ground, still, parts
        return self._ready

    def _draw_all(self, motions: list[LayerMotion], pixels: Pixels) -> None:
        canvas = canvas_on(pixels)
        for motion in motions:
            self._mover(motion).draw(canvas, 0)

    def _stills(self, motions: list[LayerMotion]) -> list[_Still]:
        """Draw layers that stand still into images, one for each band of rows that holds something."""
        if not motions:
            return []
        pixels = np.zeros((self.height, self.width, 4), np.uint8)
        self._draw_all(motions, pixels)
        found = []
        for top, bottom in _runs(np.asarray(pixels[..., 3].any(axis=1))):
            columns = np.flatnonzero(pixels[top:bottom, :, 3].any(axis=0))
            left, right = int(columns[0]), int(columns[-1]) + 1
            image = as_image(np.ascontiguousarray(pixels[top:bottom, left:right]))
            found.append(_Still(image, (left, top, right, bottom)))
        return found

    def _mover(self, motion: LayerMotion) -> _MovingPicture | _MovingOutlines:
        item = motion.drawable
        matrices, size = affine.compose(self._view, motion.matrices), (self.width, self.height)
        if item.asset:
            where = placed(self._sprite(item.asset, item.width, item.height), matrices, size)
            return _MovingPicture(where.boxes, where, motion)
        drawn = [(skia_path(o.data), o) for o in item.outlines]
        widest = motion.tints.widest if motion.tints else None
        thick = [(path, o if widest is None else replace(o, stroke_width=widest)) for path, o in drawn]
        if motion.tints and motion.tints.shapes:
            # The largest it gets, across and down, holds all of its frames.
            largest = [
                max(motion.tints.shapes, key=lambda s: s.width),
                max(motion.tints.shapes, key=lambda s: s.height),
            ]
            thick = [(skia_path(s.outlines[0].data), thick[0][1]) for s in largest]
        painted = [_corners(path, paint) for path, outline in thick for paint in paints(outline, 1.0)]
        corners = np.array(painted or np.zeros((1, 4, 2))).reshape(-1, 2)
        return _MovingOutlines(boxes_of(affine.apply_each(matrices, corners), size), matrices, motion, drawn)

    def _sprite(self, asset: str, width: float, height: float) -> Sprite:
        key = (asset, width, height)
        if key not in self._sprites:
            self._sprites[key] = Sprite(self._source(asset), width, height)
        return self._sprites[key]


def _corners(path: skia.Path, paint: skia.Paint) -> list[list[float]]:
    """Return the corners of what a path covers with its stroke, in its own px."""
    box, room = path.getBounds(), paint.getStrokeWidth() / 2
    left, top, right, bottom = box.left() - room, box.top() - room, box.right() + room, box.bottom() + room
    return [[left, top], [right, top], [right, bottom], [left, bottom]]


def _runs(holds: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Return the (begin, end) of each run of True."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], holds.astype(np.int8), [0]])))
    return [(int(a), int(b)) for a, b in edges.reshape(-1, 2)]


def meet(a: Box, b: Box) -> bool:
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]


def disjoint(boxes: list[Box]) -> list[Box]:
    """Join boxes that meet until none do; those without area are left out."""
    done: list[Box] = []
    for box in boxes:
        if box[2] <= box[0] or box[3] <= box[1]:
            continue
        joined = box
        while touching := [other for other in done if meet(other, joined)]:
            done = [other for other in done if other not in touching]
            lefts, tops, rights, bottoms = zip(joined, *touching, strict=True)
            joined = (min(lefts), min(tops), max(rights), max(bottoms))
        done.append(joined)
    return done
