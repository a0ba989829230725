"""A crowd as pixels: one face at the sizes in which it is seen, laid many times over at once."""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
import skia
from numpy.typing import NDArray

from coaster.geometry import affine, maps
from coaster.geometry.bezier import Floats
from coaster.geometry.maps import Maps
from coaster.media.pictures import Pixels
from coaster.render.display import Crowd, corners_of, crowd_travel
from coaster.render.inks import as_image, canvas_on, draw_outline, skia_matrix
from coaster.render.outlines import Face, Outline
from coaster.render.sprites import NOWHERE, STEPS_PER_OCTAVE, Box, Sprite, boxes_of

LARGEST, LARGEST_PICTURE = 256.0, 1024.0
"""Px up to which outlines, and pictures, are laid; larger ones are drawn each by itself."""
SHARPER = 2
"""Steps by which outlines are laid from a larger picture than need be: nearest to them drawn."""
REMEMBERED = 32
"""Frames of which is known where all are: as many as a blurred picture asks for at once."""
FAINTEST = 1 / 512


@dataclass
class _Look:
    """A face at several sizes in one sheet. ``drawn`` makes it at a size of 2^(-k/4), in a box
    (left, top, width, height) of its px.
    """

    drawn: Callable[[int], Pixels]
    box: tuple[float, float, float, float]
    rows: dict[int, int] = field(default_factory=dict)
    cells: NDArray[np.intp] = field(default_factory=lambda: np.empty((0, 4), np.intp))
    sheet: NDArray[np.uint64] = field(default_factory=lambda: np.empty((0, 0), np.uint64))

    def seen_by(self, found: Floats, levels: NDArray[np.intp]) -> tuple[NDArray[np.intp], Floats]:
        """Return the cells (k, 4) that are seen at sizes ``levels`` (k,), and the maps (k, 6) from
        their px, for maps from those of the face.
        """
        wanted, which = np.unique(levels, return_inverse=True)
        for level in wanted.tolist():
            if level not in self.rows:
                self._add(level)
        cells = self.cells[[self.rows[level] for level in wanted.tolist()]]
        left, top, width, height = self.box
        across, down = width / (cells[:, 2] - 2), height / (cells[:, 3] - 2)
        clear = np.zeros(len(cells))
        # The outermost px are clear, and beside the box.
        own = np.stack([across, clear, clear, down, left - across, top - down], axis=-1)
        return cells[which], affine.compose(found, own[which])

    def _add(self, level: int) -> None:
        from coaster.render.kernel import parted  # with a compiler, which few scenes need

        made = np.pad(self.drawn(level), ((1, 1), (1, 1), (0, 0)))
        high, wide = made.shape[:2]
        words = parted(np.ascontiguousarray(made).view(np.uint32)[..., 0])
        before = self.sheet
        both = np.zeros((len(before) + high, max(before.shape[1], wide)), np.uint64)
        both[: len(before), : before.shape[1]] = before
        both[len(before) :, :wide] = words
        self.rows[level], self.sheet = len(self.cells), both
        self.cells = np.concatenate([self.cells, [[0, len(before), wide, high]]])


@dataclass
class Crowding:
    """A crowd in px of the picture of a ``size``, that lies under ``view``."""

    crowd: Crowd
    view: Floats
    size: tuple[int, int]
    sprite: Callable[[str, int, float, float], Sprite]
    moves: bool = True
    _seen: dict[int, tuple[Maps, Floats, Box]] = field(default_factory=dict)
    _looks: dict[int, _Look] = field(default_factory=dict)

    def box(self, frame: int) -> Box:
        return self._at(frame)[2]

    def moved(self, first: int, last: int) -> float:
        return float(crowd_travel(self.crowd, np.array([first]), np.array([last]))[0])

    def draw(self, canvas: skia.Canvas, frame: int) -> None:
        found, strengths, _ = self._at(frame)
        face = self.crowd.faces.at(frame)
        left, top, right, bottom = self.box(frame)
        if left >= right or top >= bottom:
            return
        corners = corners_of(self.crowd)
        scales = maps.largest_scale(found, corners)
        largest = float(scales.max() * np.ptp(corners, axis=0).max())
        most = LARGEST if face.picture is None else LARGEST_PICTURE
        if maps.is_flat(found) and face.mix is None and largest <= most:
            self._lay(canvas, frame, found, strengths, scales)
        else:
            self._one_by_one(canvas, frame, face)

    def _at(self, frame: int) -> tuple[Maps, Floats, Box]:
        """Return the maps of those that are seen, to the picture's px, how strong they are, and the
        box that they touch.
        """
        if frame not in self._seen:
            if len(self._seen) >= REMEMBERED:
                self._seen.clear()
            found, strengths = (each[0] for each in self.crowd.at(np.array([frame])))
            there = strengths > FAINTEST
            seen = maps.compose(self.view, found[there])
            self._seen[frame] = seen, strengths[there], self._box(seen)
        return self._seen[frame]

    def _box(self, found: Maps) -> Box:
        if not len(found):
            return NOWHERE
        corners = maps.apply_each(found, corners_of(self.crowd)).reshape(-1, 2)
        left, top, right, bottom = boxes_of(corners[None], self.size)[0].tolist()
        return left, top, right, bottom

    def _lay(
        self, canvas: skia.Canvas, frame: int, found: Maps, strengths: Floats, scales: Floats
    ) -> None:
        from coaster.render.kernel import lay  # with a compiler, which few scenes need

        look = self._look(frame)
        octaves = -np.log2(np.maximum(scales, 1e-4)) * STEPS_PER_OCTAVE
        if self.crowd.faces.at(frame).picture is None:
            octaves -= SHARPER
        else:
            # A picture is never enlarged ahead.
            octaves = np.maximum(octaves, 0.0)
        levels = np.floor(octaves + 1e-9).astype(np.intp)
        cells, seen = look.seen_by(found, levels)
        left, top, right, bottom = self.box(frame)
        patch = np.zeros((bottom - top, right - left), np.uint32)
        seen[:, 4:] -= left, top
        lay(patch, look.sheet, cells, seen, strengths)
        pixels = patch.view(np.uint8).reshape(*patch.shape, 4)
        canvas.drawImage(as_image(pixels), float(left), float(top))

    def _look(self, frame: int) -> _Look:
        """Return what all look like in a frame; one that has no keys is kept."""
        crowd = self.crowd
        which = int(crowd.faces.which[frame if len(crowd.faces.which) > 1 else 0])
        if crowd.paints is not None:
            return self._made(crowd.faces.faces[which], self._outlines(frame))
        if which not in self._looks:
            face = crowd.faces.faces[which]
            self._looks[which] = self._made(face, face.outlines)
        return self._looks[which]

    def _made(self, face: Face, outlines: tuple[Outline, ...]) -> _Look:
        if face.picture is not None:
            sprite = self.sprite(*face.picture, *face.size)
            return _Look(lambda level: sprite.level(level), (0.0, 0.0, *face.size))
        (left, top), (right, bottom) = corners_of(self.crowd)[[0, 2]].tolist()
        box = left, top, max(right - left, 1e-6), max(bottom - top, 1e-6)
        return _Look(lambda level: _drawn(outlines, box, level), box)

    def _outlines(self, frame: int) -> tuple[Outline, ...]:
        crowd = self.crowd
        outlines = crowd.faces.at(frame).outlines
        if crowd.paints is None:
            return outlines
        return tuple(crowd.paints.on(each, frame) for each in outlines)

    def _one_by_one(self, canvas: skia.Canvas, frame: int, face: Face) -> None:
        found, strengths, _ = self._at(frame)
        outlines = self._outlines(frame)
        image = None
        if face.picture is not None:
            image = as_image(np.ascontiguousarray(self.sprite(*face.picture, *face.size).pixels))
        for each, strength in zip(found[::-1], strengths[::-1].tolist(), strict=True):
            canvas.save()
            canvas.concat(skia_matrix(each))
            if image is not None:
                smooth = skia.SamplingOptions(skia.FilterMode.kLinear, skia.MipmapMode.kLinear)
                where = skia.Rect.MakeWH(*face.size)
                canvas.drawImageRect(image, where, smooth, skia.Paint(Alphaf=strength))
            for outline in outlines:
                draw_outline(canvas, outline, strength)
            canvas.restore()


def _drawn(
    outlines: tuple[Outline, ...], box: tuple[float, float, float, float], level: int
) -> Pixels:
    """Draw outlines 2^(-level/4) times as large."""
    left, top, width, height = box
    factor = 2 ** (-level / STEPS_PER_OCTAVE)
    wide, high = (max(1, int(np.ceil(side * factor))) for side in (width, height))
    pixels = np.zeros((high, wide, 4), np.uint8)
    canvas = canvas_on(pixels)
    canvas.scale(wide / width, high / height)
    canvas.translate(-left, -top)
    for outline in outlines:
        draw_outline(canvas, outline, 1.0)
    return pixels
