"""The program as pixels.

What stands still is drawn once; only where something moves is drawn anew.
"""

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from functools import cached_property
from math import ceil
from typing import Protocol

import cv2
import numpy as np
import skia
from numpy.typing import NDArray

from coaster.errors import RenderError
from coaster.geometry import affine, maps
from coaster.geometry.bezier import Floats
from coaster.geometry.maps import Maps
from coaster.media.pictures import Box, Pixels
from coaster.render.covering import Covering
from coaster.render.covers import REACH, Cover
from coaster.render.crowding import Crowding
from coaster.render.display import (
    Crowd,
    Item,
    Part,
    Program,
    Push,
    Sort,
    Step,
    Through,
    corners_of,
    travel,
)
from coaster.render.inks import (
    BLENDS,
    as_image,
    canvas_on,
    colour_of,
    draw_outline,
    skia_matrix,
    tint_filter,
)
from coaster.render.outlines import Face
from coaster.render.sprites import NOWHERE, Boxes, Placed, Sprite, boxes_of, common, placed


class FrameSource(Protocol):
    """Where pictures come from: by the file's name and the index of the frame in it, 0 for
    a still. What is writeable may be drawn on.
    """

    def pixels(self, asset: str, index: int) -> Pixels: ...

    def is_opaque(self, asset: str) -> bool:
        """Whether it is known that no frame of it has any transparency."""
        ...


FEW, FEW_ROWS = 64, 100_000
"""Of a crowd that is no larger, nor told of more maps, each is drawn by itself."""
WHOLE_PX = 1e-3
"""What is off by less lies on whole px."""


def output_size(width: int, height: int, scale: float) -> tuple[int, int]:
    """Return even sizes in px, at least 16, nearest to the scaled ones."""
    # Most video encoders halve the colour planes: an odd size would lose a row.
    return max(16, 2 * round(width * scale / 2)), max(16, 2 * round(height * scale / 2))


class _Part(Protocol):
    """Something to draw, from back to front: where it is in a frame, and how it is drawn there."""

    @property
    def moves(self) -> bool: ...
    def box(self, frame: int) -> Box: ...
    def moved(self, first: int, last: int) -> float:
        """Return how far anything of it goes from one frame to another, px of the scene."""
        ...

    def draw(self, canvas: skia.Canvas, frame: int) -> None: ...


@dataclass
class _Still:
    """A region of what stands still, drawn into one image."""

    image: skia.Image
    region: Box
    moves: bool = False

    def moved(self, first: int, last: int) -> float:
        return 0.0

    def box(self, frame: int) -> Box:
        return self.region

    def draw(self, canvas: skia.Canvas, frame: int) -> None:
        canvas.drawImage(self.image, self.region[0], self.region[1])


@dataclass
class _Drawable:
    """An item in n frames (one if it stands still), with the boxes (n, 4) in px that it touches."""

    item: Item
    boxes: Boxes

    @property
    def moves(self) -> bool:
        return not self.item.still

    def moved(self, first: int, last: int) -> float:
        ends = np.array([first]), np.array([last])
        return float(travel(self.item, self._corners, *ends)[0])

    @cached_property
    def _corners(self) -> Floats:
        return corners_of(self.item)

    def at(self, frame: int) -> int:
        return frame if len(self.boxes) > 1 else 0

    def box(self, frame: int) -> Box:
        left, top, right, bottom = self.boxes[self.at(frame)].tolist()
        return left, top, right, bottom


@dataclass
class _DrawablePicture(_Drawable):
    placed: Placed

    def draw(self, canvas: skia.Canvas, frame: int) -> None:
        left, top, _, _ = self.box(frame)
        opacity = self.item.strength(frame)
        paint = skia.Paint(Alphaf=opacity) if opacity < 1 else None
        # Pictures are resampled by OpenCV from copies of fitting size; Skia only lays them on,
        # whole px by whole px.
        patch = as_image(self.placed.patch(self.at(frame)))
        canvas.drawImage(patch, float(left), float(top), paint=paint)


@dataclass
class _DrawableFootage(_Drawable):
    """Pictures of a file, one after the other; where it is in each frame says ``maps``."""

    maps: Maps
    source: FrameSource
    size: tuple[int, int]

    def draw(self, canvas: skia.Canvas, frame: int) -> None:
        face = self.item.faces.at(frame)
        if face.picture is None:
            return
        row = self.maps[self.at(frame)][None]
        where = placed(Sprite(self._pixels(face, *face.picture), *face.size), row, self.size)
        _DrawablePicture(self.item, where.boxes, where).draw(canvas, frame)

    def hiding(self, frame: int, region: Box) -> Pixels | None:
        """Return all px of a region where it hides what is behind it; None where it does not."""
        face = self.item.faces.at(frame)
        if face.picture is None or self.item.strength(frame) < 1:
            return None
        asset, index = face.picture
        if self.box(frame) != region or not self.source.is_opaque(asset):
            return None
        row = self.maps[self.at(frame)][None]
        sprite = Sprite(self._pixels(face, asset, index), *face.size)
        return placed(sprite, row, self.size).unwarped(0)

    def _pixels(self, face: Face, asset: str, index: int) -> Pixels:
        pixels = self.source.pixels(asset, index)
        if face.mix is None:
            return pixels
        over, share = face.mix
        other = self.source.pixels(asset, over)
        return np.asarray(cv2.addWeighted(pixels, 1 - share, other, share, 0), np.uint8)


@dataclass
class _DrawableOutlines(_Drawable):
    maps: Maps

    def draw(self, canvas: skia.Canvas, frame: int) -> None:
        canvas.save()
        canvas.concat(skia_matrix(self.maps[self.at(frame)]))
        opacity = self.item.strength(frame)
        for outline in self.item.outlines(frame):
            draw_outline(canvas, outline, opacity)
        canvas.restore()


@dataclass
class _Apart:
    """Parts drawn apart and laid on as one; only where they are, and only where the cover is."""

    push: Push
    parts: list[_Part]
    covering: Covering | None
    throughs: list[tuple[Through, list[_Part]]]
    soft: float = 0.0

    @property
    def moves(self) -> bool:
        seen_through = (part for _, parts in self.throughs for part in parts)
        return any(part.moves for part in (*self.parts, *seen_through)) or not self.push.still

    def moved(self, first: int, last: int) -> float:
        seen_through = (part for _, parts in self.throughs for part in parts)
        # How far a mask goes is not known here: as far as anything does.
        cover = self.push.cover
        if cover is not None and not cover.shape_is_still:
            return np.inf
        return max((part.moved(first, last) for part in (*self.parts, *seen_through)), default=0.0)

    def box(self, frame: int) -> Box:
        box = _union([part.box(frame) for part in self.parts])
        if self.soft and box != NOWHERE:
            room = int(np.ceil(REACH * self.soft))
            box = box[0] - room, box[1] - room, box[2] + room, box[3] + room
        if self.covering is None or self.covering.cover.lets_through:
            return box
        return common(box, self.covering.box(frame))

    def draw(self, canvas: skia.Canvas, frame: int) -> None:
        box = self.box(frame)
        if box == NOWHERE:
            return
        bounds = skia.Rect.MakeLTRB(*box)
        laid_on = skia.Paint(Alphaf=self.push.strength(frame), BlendMode=BLENDS[self.push.blend])
        tint = self.push.tinted(frame)
        if tint is not None and (over := tint_filter(tint)) is not None:
            laid_on.setColorFilter(over)
        if self.soft:
            laid_on.setImageFilter(skia.ImageFilters.Blur(self.soft, self.soft))
        canvas.save()
        canvas.clipRect(bounds)
        canvas.saveLayer(bounds, laid_on)
        for part in self.parts:
            part.draw(canvas, frame)
        for through, parts in self.throughs:
            canvas.saveLayer(bounds, _seen_through(through))
            for part in parts:
                part.draw(canvas, frame)
            canvas.restore()
        if self.covering is not None:
            self.covering.cut_out(canvas, frame, bounds)
        canvas.restore()
        canvas.restore()


@dataclass
class _Sorted:
    """Sets of parts, of which in each frame those that are farthest away are drawn first."""

    sets: list[list[_Part]]
    away: list[Floats]
    moves: bool = True

    def moved(self, first: int, last: int) -> float:
        return max((part.moved(first, last) for parts in self.sets for part in parts), default=0.0)

    def box(self, frame: int) -> Box:
        return _union([part.box(frame) for parts in self.sets for part in parts])

    def draw(self, canvas: skia.Canvas, frame: int) -> None:
        for _, parts in _farthest_first(self.sets, self.away, frame):
            for part in parts:
                part.draw(canvas, frame)


def _farthest_first(
    sets: list[list[_Part]], away: list[Floats], frame: int
) -> list[tuple[float, list[_Part]]]:
    far = [float(each[frame if len(each) > 1 else 0]) for each in away]
    return sorted(zip(far, sets, strict=True), key=lambda each: -each[0])


@dataclass
class _Clipped:
    """A part of which only what lies in a box of whole px is seen."""

    part: _Part
    within: Box

    @property
    def moves(self) -> bool:
        return self.part.moves

    def moved(self, first: int, last: int) -> float:
        return self.part.moved(first, last)

    def box(self, frame: int) -> Box:
        return common(self.part.box(frame), self.within)

    def draw(self, canvas: skia.Canvas, frame: int) -> None:
        canvas.save()
        canvas.clipRect(skia.Rect.MakeLTRB(*self.within))
        self.part.draw(canvas, frame)
        canvas.restore()


def _blends(part: _Part) -> bool:
    """Whether it needs what is behind it."""
    if isinstance(part, _Clipped):
        return _blends(part.part)
    if isinstance(part, _Sorted):
        return any(_blends(each) for parts in part.sets for each in parts)
    return isinstance(part, _Apart) and part.push.blend != "normal"


def _seen_through(through: Through) -> skia.Paint:
    """Return how what is seen through is laid on what it masks."""
    mode = skia.BlendMode.kDstOut if through.inverted else skia.BlendMode.kDstIn
    paint = skia.Paint(BlendMode=mode)
    if through.by == "brightness":
        # Brightness times alpha becomes the alpha.
        paint.setColorFilter(skia.LumaColorFilter.Make())
    return paint


@dataclass
class Surface:
    """Pixels to draw frames into, one after the other; remembers where the last one, and the one
    before it, differ from what is still.
    """

    pixels: Pixels
    moved: list[Box] | None = field(default=None)
    before: list[Box] | None = field(default=None)

    @property
    def changed(self) -> list[Box] | None:
        """The boxes outside of which the last frame is the one before; None if that is not
        known.
        """
        return None if self.before is None else [*self.before, *(self.moved or ())]

    def put_back(self, still: Pixels, regions: list[Box]) -> None:
        """Put back what is still, but in the regions, which are about to be drawn anew."""
        # Nothing is known of what a fresh surface holds, nor of one on which drawing failed.
        if self.moved is None:
            np.copyto(self.pixels, still)
        for left, top, right, bottom in set(self.moved or ()) - set(regions):
            self.pixels[top:bottom, left:right] = still[top:bottom, left:right]
        self.before, self.moved = self.moved, regions

    def forget(self) -> None:
        """Know nothing of what was drawn last."""
        self.moved = self.before = None


class Painter:
    """Runs a program frame by frame, premultiplied BGRA, at ``scale``.

    Shapes: ``paint`` fills (height, width, 4) uint8.
    Errors: RenderError with the frame, if a picture is missing or broken.
    """

    def __init__(self, program: Program, source: FrameSource, scale: float = 1.0) -> None:
        self.program, self._source = program, source
        self.width, self.height = output_size(program.width, program.height, scale)
        self._factors = self.width / program.width, self.height / program.height
        self._view = affine.scaling(*self._factors)
        self._sprites: dict[tuple[str, int, float, float], Sprite] = {}
        self._ended: Step | None = None
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
        self._keep(self.painted(frame, surface), surface)

    def _keep(self, found: Pixels, surface: Surface) -> None:
        """Put pixels of their own onto a surface."""
        if found is not surface.pixels:
            np.copyto(surface.pixels, found)
            surface.moved = [self._whole]

    def painted(self, frame: int, surface: Surface) -> Pixels:
        """Return one frame, as ``repaint`` draws it, or as pixels of its own where these need no
        copying: those of footage that fills the frame. They are valid until the next one is asked
        for.
        """
        with _undrawn(frame, surface):
            return self._painted(frame, surface)

    def _painted(self, frame: int, surface: Surface) -> Pixels:
        ground, still, parts = self._prepared()
        boxes = [part.box(frame) for part in parts]
        moving = [box for box, part in zip(boxes, parts, strict=True) if part.moves]
        # Boxes that overlap are joined: what lies in both must not be drawn twice where it is
        # see-through.
        regions = disjoint(moving)
        there = [
            [p for box, p in zip(boxes, parts, strict=True) if meet(box, region)]
            for region in regions
        ]
        if regions == [self._whole] and (own := self._own(frame, there[0])) is not None:
            surface.forget()
            return own
        surface.put_back(still, regions)
        canvas = canvas_on(surface.pixels)
        for region, inside in zip(regions, there, strict=True):
            left, top, right, bottom = region
            surface.pixels[top:bottom, left:right] = ground[top:bottom, left:right]
            _draw_within(region, inside, canvas, frame)
        return surface.pixels

    def mean(self, called: int, rows: range, surface: Surface) -> None:
        """Draw the mean of some frames over the last one drawn there: where it moves most of all of
        them, elsewhere of as many fewer as it moves less. It is refused by its number ``called``.
        """
        with _undrawn(called, surface):
            if len(rows) == 1:
                self._keep(self._painted(rows[0], surface), surface)
            else:
                self._draw_means(rows, surface)

    def _draw_means(self, rows: range, surface: Surface) -> None:
        _, still, parts = self._prepared()
        boxes = [[part.box(row) for row in rows] for part in parts]
        ways = [_union(each) for each in boxes]
        moved = [part.moved(rows[0], rows[-1]) if part.moves else 0.0 for part in parts]
        regions = disjoint([way for way, part in zip(ways, parts, strict=True) if part.moves])
        surface.put_back(still, regions)
        most = max(moved, default=0.0)
        for region in regions:
            near = [i for i, way in enumerate(ways) if meet(way, region)]
            farthest = max(moved[i] for i in near)
            share = farthest / most if 0 < most < np.inf else 1.0
            wanted = max(1, ceil(share * len(rows)))
            moments = []
            for at in (int((i + 0.5) * len(rows) / wanted) for i in range(wanted)):
                there = [parts[i] for i in near if meet(boxes[i][at], region)]
                moments.append((rows[at], there))
            self._draw_mean(region, moments, surface.pixels)

    def _draw_mean(
        self, region: Box, moments: Sequence[tuple[int, list[_Part]]], pixels: Pixels
    ) -> None:
        """Draw a region as it is on the mean of some frames, of each with the parts in it."""
        ground, _, _ = self._prepared()
        left, top, right, bottom = region
        inside, canvas = pixels[top:bottom, left:right], canvas_on(pixels)
        several = len(moments) > 1
        # 16 bits hold more moments than there ever are, in half the memory of floats.
        total = np.zeros(inside.shape if several else 0, np.uint16)
        for row, parts in moments:
            inside[...] = ground[top:bottom, left:right]
            _draw_within(region, parts, canvas, row)
            if several:
                np.add(total, inside, out=total)
        if several:
            inside[...] = cv2.convertScaleAbs(total, alpha=1 / len(moments))

    @property
    def _whole(self) -> Box:
        return 0, 0, self.width, self.height

    def _own(self, frame: int, parts: list[_Part]) -> Pixels | None:
        """Return a frame drawn on the pixels of footage that fills it and hides all behind it; None
        where there is none.
        """
        first, *rest = parts
        if not isinstance(first, _DrawableFootage):
            return None
        found = first.hiding(frame, self._whole)
        if found is None:
            return None
        # Those that are kept for another time are not to be drawn on.
        if not (found.flags.writeable and found.flags.c_contiguous):
            found = found.copy()
        _draw_within(self._whole, rest, canvas_on(found), frame)
        return found

    def prepare(self) -> None:
        """Draw ahead what all frames share.

        Errors: RenderError: a picture is missing or broken.
        """
        self.picture(0)

    def _prepared(self) -> tuple[Pixels, Pixels, list[_Part]]:
        """Return the ground behind all that moves, the picture of all that is still, and the parts
        in front.
        """
        if self._ready is None:
            ground, front = self._ground(list(self._parts(iter(self.program.steps))))
            parts = list(self._with_stills_joined(front))
            still = ground.copy()
            _draw([part for part in parts if not part.moves], still)
            self._ready = ground, still, parts
        return self._ready

    def _ground(self, parts: list[_Part]) -> tuple[Pixels, list[_Part]]:
        """Draw what is behind all that moves; return it, and the parts that are left."""
        ground = np.zeros((self.height, self.width, 4), np.uint8)
        if self.program.background:
            canvas_on(ground).clear(colour_of(self.program.background))
        first = next((i for i, part in enumerate(parts) if part.moves), len(parts))
        _draw(parts[:first], ground)
        return ground, parts[first:]

    def _parts(self, steps: Iterator[Step]) -> Iterator[_Part]:
        """Yield the parts up to the end, or to what ends or parts that which is drawn apart or is
        sorted: that is left in ``_ended``.
        """
        for step in steps:
            if isinstance(step, Item):
                yield self._drawn(step)
            elif isinstance(step, Crowd):
                yield from self._crowd(step)
            elif isinstance(step, Push):
                yield from self._apart(step, steps)
            elif isinstance(step, Sort):
                yield from self._sorted(steps)
            else:
                self._ended = step
                return

    def _apart(self, push: Push, steps: Iterator[Step]) -> Iterator[_Part]:
        """Yield what is drawn apart from a push on, as one or, where that is the same, part by
        part; the steps go on behind its ``Pop``.
        """
        inside, throughs = list(self._parts(steps)), list[tuple[Through, list[_Part]]]()
        while isinstance(through := self._ended, Through):
            parts = list(self._parts(steps))
            throughs.append((through, list(self._with_stills_joined(parts))))
        within = None if throughs or any(map(_blends, inside)) else self._window(push)
        if within is None:
            joined = list(self._with_stills_joined(inside))
            soft = push.soft * self._factors[0]
            yield _Apart(push, joined, self._covering(push.cover), throughs, soft)
        elif within == self._whole:
            yield from inside
        else:
            yield from (_Clipped(part, within) for part in inside)

    def _sorted(self, steps: Iterator[Step]) -> Iterator[_Part]:
        """Yield what is sorted as one, or part by part where it stands still; the steps go on
        behind its end.
        """
        found, far = list(self._parts(steps)), list[Floats]()
        sets: list[list[_Part]] = []
        while isinstance(part := self._ended, Part):
            sets.append(list(self._parts(steps)))
            far.append(part.away)
        moves = any(part.moves for parts in sets for part in parts)
        yield from found
        if moves or any(len(each) > 1 for each in far):
            yield _Sorted(sets, far)
        else:
            for _, parts in _farthest_first(sets, far, 0):
                yield from parts

    def _window(self, push: Push) -> Box | None:
        """Return the box in which what is drawn apart is seen, where it is laid on as it is and a
        box of whole px that stands still is all its mask; None of any other.

        A scene in a scene mostly is so: drawn part by part, only what moves in it is drawn anew.
        """
        plain = push.blend == "normal" and len(push.opacity) == 1 and push.opacity[0] == 1
        plain = plain and push.tint is None and not push.soft
        corners = push.cover.window() if push.cover is not None and plain else None
        if corners is None:
            return None
        box = corners * np.tile(self._factors, 2)
        if np.abs(box - np.round(box)).max() > WHOLE_PX:
            return None
        left, top, right, bottom = (int(each) for each in np.round(box))
        return common((left, top, right, bottom), self._whole)

    def _with_stills_joined(self, parts: Sequence[_Part]) -> Iterator[_Part]:
        """Yield the parts, with those that stand still and follow each other drawn into images."""
        waiting: list[_Part] = []
        for part in parts:
            # What blends needs what is behind it, so it is no part of an image.
            if not part.moves and not _blends(part):
                waiting.append(part)
                continue
            yield from self._stills(waiting)
            waiting = []
            yield part
        yield from self._stills(waiting)

    def _stills(self, parts: Sequence[_Part]) -> list[_Still]:
        """Draw parts that stand still into images, one for each band of rows that holds
        something.
        """
        if not parts:
            return []
        pixels = np.zeros((self.height, self.width, 4), np.uint8)
        _draw(parts, pixels)
        # In bands, so that a text at the top and one at the foot are not one image of the whole
        # height.
        bands = _runs(np.asarray(pixels[..., 3].any(axis=1)))
        return [_cut(pixels, top, bottom) for top, bottom in bands]

    def _drawn(self, item: Item) -> _Part:
        seen, size = maps.compose(self._view, item.maps), (self.width, self.height)
        first, changes = item.faces.first, not item.faces.still
        if first.picture is not None and first.mix is None and not changes:
            where = placed(self._sprite(*first.picture, *first.size), seen, size)
            return _DrawablePicture(item, where.boxes, where)
        boxes = boxes_of(maps.outline_of(seen, corners_of(item)), size)
        if any(face.picture for face in item.faces.faces):
            return _DrawableFootage(item, boxes, seen, self._source, size)
        return _DrawableOutlines(item, boxes, seen)

    def _crowd(self, crowd: Crowd) -> Iterator[_Part]:
        # A few by themselves: only what is under each of them is drawn anew.
        if crowd.many.lanes <= FEW and crowd.many.lanes * crowd.length <= FEW_ROWS:
            yield from map(self._drawn, crowd.items())
        else:
            size = self.width, self.height
            yield Crowding(crowd, self._view, size, self._sprite)

    def _covering(self, cover: Cover | None) -> Covering | None:
        if cover is None:
            return None
        seen = [maps.compose(self._view, cut.maps) for cut in cover.cuts]
        around = cover.bounds()[:, [0, 1, 2, 1, 2, 3, 0, 3]].reshape(-1, 4, 2) * self._factors
        frame = self.width, self.height
        scale = float(np.sqrt(np.prod(self._factors)))
        return Covering(cover, seen, scale, boxes_of(around, frame), frame)

    def _sprite(self, asset: str, index: int, width: float, height: float) -> Sprite:
        key = (asset, index, width, height)
        if key not in self._sprites:
            self._sprites[key] = Sprite(self._source.pixels(asset, index), width, height)
        return self._sprites[key]


@contextmanager
def _undrawn(frame: int, surface: Surface) -> Iterator[None]:
    """Errors: RenderError with the frame, whatever it was that kept it from being drawn."""
    try:
        yield
    except (OSError, ValueError, RuntimeError, MemoryError, cv2.error) as error:
        # Half a frame may stand there: the next one begins from what is still.
        surface.forget()
        raise RenderError(f"Frame {frame} could not be drawn: {error}", frame) from error


def _cut(pixels: Pixels, top: int, bottom: int) -> _Still:
    """Return what there is in a band of rows, no wider than it is."""
    band = pixels[top:bottom]
    columns = np.flatnonzero(band[..., 3].any(axis=0))
    left, right = int(columns[0]), int(columns[-1]) + 1
    image = as_image(np.ascontiguousarray(band[:, left:right]))
    return _Still(image, (left, top, right, bottom))


def _draw_within(region: Box, parts: Sequence[_Part], canvas: skia.Canvas, frame: int) -> None:
    canvas.save()
    canvas.clipRect(skia.Rect.MakeLTRB(*region))
    for part in parts:
        part.draw(canvas, frame)
    canvas.restore()


def _draw(parts: Sequence[_Part], pixels: Pixels) -> None:
    """Draw parts that stand still."""
    canvas = canvas_on(pixels)
    for part in parts:
        part.draw(canvas, 0)


def _union(boxes: Sequence[Box]) -> Box:
    """Return the box round boxes; those without area are left out."""
    there = [box for box in boxes if box[2] > box[0] and box[3] > box[1]]
    if not there:
        return NOWHERE
    lefts, tops, rights, bottoms = zip(*there, strict=True)
    return min(lefts), min(tops), max(rights), max(bottoms)


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
            joined = _union([joined, *touching])
        done.append(joined)
    return done
