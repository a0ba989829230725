"""Pictures under any affine map: kept at several sizes, warped into place."""

from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from coaster.geometry import affine, maps
from coaster.geometry.bezier import Floats
from coaster.geometry.maps import Maps
from coaster.media.pictures import Box, Pixels

STEPS_PER_OCTAVE = 4
"""Pictures are kept at scales 2^(-k/4): the warp that follows shrinks by less than a fifth."""
cv2.setNumThreads(1)  # drawing is spread over processes; threads on top only cost
WHOLE = 1e-6
"""Px and shares that are nearer than this to whole numbers are whole."""
SMALLEST = 1e-9
"""A map whose area is below this shows nothing."""

NOWHERE: Box = (0, 0, 0, 0)
Boxes = NDArray[np.intp]
"""Rows of left, top, right, bottom in whole px; right and bottom are one past the last."""


def common(a: Box, b: Box) -> Box:
    """Return what two boxes have in common; nowhere if that is nothing."""
    left, top = max(a[0], b[0]), max(a[1], b[1])
    right, bottom = min(a[2], b[2]), min(a[3], b[3])
    return (left, top, right, bottom) if left < right and top < bottom else NOWHERE


def boxes_of(corners: Floats, size: tuple[int, int], room: float = 1.0) -> Boxes:
    """Return the px that shapes with these corners can touch.

    Shapes: ``corners`` (n, k, 2) in px; (n, 4) out, cut to ``size``; empty ones have no area.
    """
    least, most = maps.extremes(corners)
    # What passes the viewer is as large as one likes; whole numbers are not.
    low = np.clip(np.floor(least - room), 0, size)
    high = np.clip(np.ceil(most + room), 0, size)
    return np.concatenate([low, np.maximum(high, low)], axis=1).astype(np.intp)


class Sprite:
    """A picture with smaller copies of itself, made when they are first needed.

    Accuracy: bilinear from a copy at most a fifth too large, so neither jagged nor blurred.
    """

    def __init__(self, pixels: Pixels, width: float, height: float) -> None:
        self.pixels = pixels
        self.to_scene = affine.scaling(width / pixels.shape[1], height / pixels.shape[0])
        """From the file's px to the layer's."""
        self._levels: dict[int, Pixels] = {}

    def level(self, number: int) -> Pixels:
        if number not in self._levels:
            factor = 2 ** (-number / STEPS_PER_OCTAVE)
            height, width = self.pixels.shape[:2]
            size = max(1, int(np.ceil(width * factor))), max(1, int(np.ceil(height * factor)))
            small = (
                cv2.resize(self.pixels, size, interpolation=cv2.INTER_AREA)
                if number
                else self.pixels
            )
            self._levels[number] = np.asarray(small)
        return self._levels[number]


@dataclass(frozen=True)
class Placed:
    """A sprite under n maps at once: which copy, where, and which px it touches."""

    sprite: Sprite
    maps: Maps
    levels: NDArray[np.intp]
    boxes: Boxes

    def patch(self, index: int) -> Pixels:
        """Return what it looks like inside its box, premultiplied, as under the map ``index``."""
        level = self.sprite.level(int(self.levels[index]))
        left, top, right, bottom = self.boxes[index]
        size = (int(right - left), int(bottom - top))
        if (plain := self.unwarped(index)) is not None:
            return np.ascontiguousarray(plain)
        map_to_patch = self._map_to_patch(index, level.shape[:2])
        # Smoothly between px, and nothing beyond its edge.
        if maps.is_flat(self.maps):
            return np.asarray(cv2.warpAffine(level, map_to_patch, size), np.uint8)
        patch = np.asarray(cv2.warpPerspective(level, map_to_patch, size), np.uint8)
        return patch if self.is_all_before[index] else self._cut_off(patch, index)

    @cached_property
    def is_all_before(self) -> NDArray[np.bool_]:
        """Whether all of it is far enough from the viewer, under each map."""
        height, width = self.sprite.pixels.shape[:2]
        corners = np.array([[0, 0, 1], [width, 0, 1], [width, height, 1], [0, height, 1]], float)
        return np.asarray((corners @ maps.full(self.maps)[:, 2].T >= maps.NEAR).all(axis=0))

    def _cut_off(self, patch: Pixels, index: int) -> Pixels:
        """Return a patch without what would be seen of what is behind the viewer."""
        back = maps.full(maps.inverse(self.maps[index]))
        left, top, right, bottom = self.boxes[index]
        x, y = np.arange(left, right) + 0.5, np.arange(top, bottom) + 0.5
        # One over w: of what is behind, it is below nothing.
        nearness = back[2, 0] * x + (back[2, 1] * y + back[2, 2])[:, None]
        seen = (nearness > 0) & (nearness <= 1 / maps.NEAR)
        return np.asarray(patch * seen[..., None].astype(np.uint8))

    def unwarped(self, index: int) -> Pixels | None:
        """Return what lies in the box where the picture is only moved by whole px, as footage
        that fills the frame is; None where it is not, or does not fill its box.
        """
        seen = self.maps[index]
        level = self.sprite.pixels
        if self.levels[index] or not maps.is_flat(self.maps):
            return None
        whole = np.round(seen)
        if np.abs(seen - whole).max() > WHOLE or tuple(whole[:4]) != (1, 0, 0, 1):
            return None
        x, y = (int(each) for each in whole[4:])
        left, top, right, bottom = (int(each) for each in self.boxes[index])
        height, width = level.shape[:2]
        if left < x or top < y or right > x + width or bottom > y + height:
            return None
        return level[top - y : bottom - y, left - x : right - x]

    def _map_to_patch(self, index: int, shape: tuple[int, ...]) -> Floats:
        """Return the map from a copy of a size (rows, columns) to the box, (2, 3) or (3, 3)."""
        sy, sx = (full / own for full, own in zip(self.sprite.pixels.shape, shape, strict=False))
        left, top = self.boxes[index, :2]
        # Pixel centres are at halves here and at wholes in OpenCV.
        if maps.is_flat(self.maps):
            a, b, c, d, e, f = self.maps[index]
            a, b, c, d = a * sx, b * sx, c * sy, d * sy
            shift_x, shift_y = e + (a + c) / 2 - left - 0.5, f + (b + d) / 2 - top - 0.5
            return np.array([[a, c, shift_x], [b, d, shift_y]])
        to_patch = affine.translation(-float(left) - 0.5, -float(top) - 0.5)
        from_level = affine.compose(affine.scaling(sx, sy), affine.translation(0.5, 0.5))
        return maps.full(maps.compose(maps.compose(to_patch, self.maps[index]), from_level))


def _levels(scale: Floats) -> NDArray[np.intp]:
    """Return which smaller copy is drawn at each scale: the smallest that is not enlarged."""
    # A picture that is shown larger than it is has no copy that would serve better.
    octaves = -np.log2(np.clip(scale, 1e-4, 1.0))
    return np.floor(octaves * STEPS_PER_OCTAVE + 1e-9).astype(np.intp)


def placed(sprite: Sprite, matrices: Maps, size: tuple[int, int]) -> Placed:
    """Place a sprite by maps (n, 6) or (n, 9), from the layer's px to those of a canvas of
    ``size``.
    """
    seen = maps.compose(matrices, sprite.to_scene)
    height, width = sprite.pixels.shape[:2]
    corners = np.array([[0, 0], [width, 0], [width, height], [0, height]], float)
    levels = _levels(maps.largest_scale(seen, corners))
    boxes = boxes_of(maps.outline_of(seen, corners), size)
    flat = np.abs(maps.area_factor(seen)) < SMALLEST
    boxes[flat, 2:] = boxes[flat, :2]
    return Placed(sprite, seen, levels, boxes)
