"""A crowd as pixels: one face at the sizes in which it is seen, laid many times over at once."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
import skia
from numpy.typing import NDArray

from coaster.geometry import affine, maps
from coaster.geometry.bezier import Floats
from coaster.geometry.maps import Maps
from coaster.media.pictures import Box, Pixels
from coaster.render.display import Crowd, corners_of, covered, crowd_travel
from coaster.render.inks import as_image, canvas_on, draw_outline, skia_matrix
from coaster.render.outlines import Face, Outline
from coaster.render.sprites import NOWHERE, STEPS_PER_OCTAVE, Sprite, boxes_of

LARGEST, LARGEST_PICTURE = 256.0, 1024.0
"""Px up to which outlines, and pictures, are laid; larger ones are drawn each by itself."""
SHARPER = 2
"""Steps by which outlines are laid from a larger picture than need be: nearest to them drawn."""
REMEMBERED = 32
"""Frames of which is known where all are: as many as a blurred picture asks for at once."""
FAINTEST = 1 / 512


Drawing = Callable[[int], Pixels]
"""Makes a face at a size."""


@dataclass
class _Looks:
    """Faces at several sizes in one sheet. Of each kind one of ``drawn`` makes it at a size of
    2^(-k/4), in a box (left, top, width, height) of its px, one of the rows (n, 4) of ``boxes``.
    """

    drawn: list[Drawing]
    boxes: Floats
    rows: dict[int, int] = field(default_factory=dict)
    cells: NDArray[np.intp] = field(default_factory=lambda: np.empty((0, 4), np.intp))
    sheet: NDArray[np.uint64] = field(default_factory=lambda: np.empty((0, 0), np.uint64))

    def seen_by(
        self, found: Floats, levels: NDArray[np.intp], kinds: NDArray[np.intp]
    ) -> tuple[NDArray[np.intp], Floats]:
        """Return the cells (k, 4) that are seen of ``kinds`` (k,) at sizes ``levels`` (k,), and the
        maps (k, 6) from their px, for maps from those of the faces.
        """
        wanted, which = np.unique(kinds * LEVELS + levels, return_inverse=True)
        for code in wanted.tolist():
            if code not in self.rows:
                self._add(code)
        cells = self.cells[[self.rows[code] for code in wanted.tolist()]][which]
        left, top, width, height = self.boxes[kinds].T
        across, down = width / (cells[:, 2] - 2), height / (cells[:, 3] - 2)
        clear = np.zeros(len(cells))
        # The outermost px are clear, and beside the box.
        own = np.stack([across, clear, clear, down, left - across, top - down], axis=-1)
        return cells, affine.compose(found, own)

    def _add(self, code: int) -> None:
        from coaster.render.kernel import parted  # with a compiler, which few scenes need

        # Rounded, so that a size below 0 is not of the kind before.
        kind = round(code / LEVELS)
        made = np.pad(self.drawn[kind](code - kind * LEVELS), ((1, 1), (1, 1), (0, 0)))
        high, wide = made.shape[:2]
        words = parted(np.ascontiguousarray(made).view(np.uint32)[..., 0])
        before = self.sheet
        both = np.zeros((len(before) + high, max(before.shape[1], wide)), np.uint64)
        both[: len(before), : before.shape[1]] = before
        both[len(before) :, :wide] = words
        self.rows[code], self.sheet = len(self.cells), both
        self.cells = np.concatenate([self.cells, [[0, len(before), wide, high]]])


LEVELS = 1000
"""More than twice as many as there are sizes."""


class _Seen(NamedTuple):
    """Those that are seen in a frame: maps to the picture's px, how strong, of which kinds, and the
    box that they touch.
    """

    maps: Maps
    strengths: Floats
    kinds: NDArray[np.intp]
    box: Box


@dataclass
class Crowding:
    """A crowd in px of the picture of a ``size``, that lies under ``view``."""

    crowd: Crowd
    view: Floats
    size: tuple[int, int]
    sprite: Callable[[str, int, float, float], Sprite]
    moves: bool = True
    _seen: dict[int, _Seen] = field(default_factory=dict)
    _known: dict[int, _Looks] = field(default_factory=dict)

    def box(self, frame: int) -> Box:
        return self._at(frame).box

    def moved(self, first: int, last: int) -> float:
        return float(crowd_travel(self.crowd, np.array([first]), np.array([last]))[0])

    def draw(self, canvas: skia.Canvas, frame: int) -> None:
        seen = self._at(frame)
        left, top, right, bottom = seen.box
        if left >= right or top >= bottom:
            return
        faces = self._faces(frame)
        corners = corners_of(self.crowd)
        scales = maps.largest_scale(seen.maps, corners)
        largest = float(scales.max() * np.ptp(corners, axis=0).max())
        pictures = all(face.picture is not None for face in faces)
        plain = maps.is_flat(seen.maps) and all(face.mix is None for face in faces)
        if plain and largest <= (LARGEST_PICTURE if pictures else LARGEST):
            self._lay(canvas, frame, seen, scales)
        else:
            self._one_by_one(canvas, frame, seen)

    def _faces(self, frame: int) -> tuple[Face, ...]:
        """Return what they look like in a frame, of each kind."""
        return self.crowd.looks or (self.crowd.faces.at(frame),)

    def _at(self, frame: int) -> _Seen:
        if frame not in self._seen:
            if len(self._seen) >= REMEMBERED:
                self._seen.clear()
            found, strengths, kinds = self.crowd.at(np.array([frame]))
            there = strengths[0] > FAINTEST
            seen = maps.compose(self.view, found[0][there])
            own = np.zeros(len(seen), np.intp) if kinds is None else kinds[0][there]
            self._seen[frame] = _Seen(seen, strengths[0][there], own, self._box(seen))
        return self._seen[frame]

    def _box(self, found: Maps) -> Box:
        if not len(found):
            return NOWHERE
        corners = maps.outline_of(found, corners_of(self.crowd)).reshape(-1, 2)
        left, top, right, bottom = boxes_of(corners[None], self.size)[0].tolist()
        return left, top, right, bottom

    def _lay(self, canvas: skia.Canvas, frame: int, seen: _Seen, scales: Floats) -> None:
        from coaster.render.kernel import lay  # with a compiler, which few scenes need

        looks = self._looks(frame)
        octaves = -np.log2(np.maximum(scales, 1e-4)) * STEPS_PER_OCTAVE
        drawn = np.array([face.picture is None for face in self._faces(frame)])[seen.kinds]
        # A picture is never enlarged ahead.
        octaves = np.where(drawn, octaves - SHARPER, np.maximum(octaves, 0.0))
        levels = np.floor(octaves + 1e-9).astype(np.intp)
        cells, placed = looks.seen_by(seen.maps, levels, seen.kinds)
        left, top, right, bottom = seen.box
        patch = np.zeros((bottom - top, right - left), np.uint32)
        placed[:, 4:] -= left, top
        lay(patch, looks.sheet, cells, placed, seen.strengths)
        pixels = patch.view(np.uint8).reshape(*patch.shape, 4)
        canvas.drawImage(as_image(pixels), float(left), float(top))

    def _looks(self, frame: int) -> _Looks:
        """Return what they look like in a frame; those that have no keys are kept."""
        crowd, faces = self.crowd, self._faces(frame)
        if crowd.paints is not None and not crowd.looks:
            return self._made(faces, [self._outlines(frame, faces[0])])
        which = crowd.faces.which
        key = 0 if crowd.looks else int(which[frame if len(which) > 1 else 0])
        if key not in self._known:
            self._known[key] = self._made(faces, [face.outlines for face in faces])
        return self._known[key]

    def _made(self, faces: Sequence[Face], outlines: Sequence[tuple[Outline, ...]]) -> _Looks:
        made = [self._look(*each) for each in zip(faces, outlines, strict=True)]
        return _Looks([draw for draw, _ in made], np.array([box for _, box in made]))

    def _look(self, face: Face, outlines: tuple[Outline, ...]) -> tuple[Drawing, Floats]:
        """Return what draws a face at a size, and the box in which it does."""
        if face.picture is not None:
            sprite = self.sprite(*face.picture, *face.size)
            return lambda level: sprite.level(level), np.array([0.0, 0.0, *face.size])
        left, top, right, bottom = covered(face, self.crowd.paints).tolist()
        box = left, top, max(right - left, 1e-6), max(bottom - top, 1e-6)
        return lambda level: _drawn(outlines, box, level), np.array(box)

    def _outlines(self, frame: int, face: Face) -> tuple[Outline, ...]:
        paints = None if self.crowd.looks else self.crowd.paints
        if paints is None:
            return face.outlines
        return tuple(paints.on(each, frame) for each in face.outlines)

    def _one_by_one(self, canvas: skia.Canvas, frame: int, seen: _Seen) -> None:
        looks = [(self._outlines(frame, x), self._image(x), x.size) for x in self._faces(frame)]
        every = zip(seen.maps, seen.strengths.tolist(), seen.kinds.tolist(), strict=True)
        for found, strength, kind in reversed(list(every)):
            outlines, image, size = looks[kind]
            canvas.save()
            canvas.concat(skia_matrix(found))
            if image is not None:
                smooth = skia.SamplingOptions(skia.FilterMode.kLinear, skia.MipmapMode.kLinear)
                where = skia.Rect.MakeWH(*size)
                canvas.drawImageRect(image, where, smooth, skia.Paint(Alphaf=strength))
            for outline in outlines:
                draw_outline(canvas, outline, strength)
            canvas.restore()

    def _image(self, face: Face) -> skia.Image | None:
        if face.picture is None:
            return None
        return as_image(np.ascontiguousarray(self.sprite(*face.picture, *face.size).pixels))


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
