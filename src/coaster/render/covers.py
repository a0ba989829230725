"""Masks over all frames: where what is drawn apart is seen."""

from dataclasses import dataclass, replace

import numpy as np

from coaster.geometry import maps as mapping
from coaster.geometry.bezier import Floats
from coaster.geometry.maps import Maps
from coaster.motion.sense import Rows
from coaster.render import places
from coaster.render.figures import Figure
from coaster.render.frames import Frames, cut
from coaster.render.places import Placed
from coaster.scene.masks import Meeting

AFFINE = 6
"""Numbers of a map that is flat."""
REACH = 3.0
"""So many standard deviations of a Gaussian are drawn; what is farther off is under 0.2 %."""


@dataclass(frozen=True, eq=False)
class Cut:
    """A figure that adds to a cover, takes from it, or keeps only what it has in common with it.

    ``maps`` (n, 6) lead from its px to the scene's.
    """

    figure: Figure
    how: Meeting
    maps: Maps


@dataclass(frozen=True, eq=False)
class Cover:
    """What is seen of what is drawn apart, each number (n,) over n frames or (1,) for all.

    Units: ``grow`` px of the cuts' own, ``blur`` the standard deviation in px of the scene,
           ``strength`` 0..1: what is not seen is as strong as 1 less it.
    """

    cuts: tuple[Cut, ...]
    inverted: bool
    grow: Floats
    blur: Floats
    strength: Floats

    def at_rows(self, rows: Rows) -> "Cover":
        """Return the cover as it is in some rows."""
        numbers = (cut(each, rows) for each in (self.grow, self.blur, self.strength))
        cuts = tuple(replace(each, maps=cut(each.maps, rows)) for each in self.cuts)
        return Cover(cuts, self.inverted, *numbers)

    def through(self, maps: Maps) -> "Cover":
        """Return the cover where the px that it is told in lie under ``maps`` (n, 6)."""
        cuts = tuple(replace(x, maps=mapping.compose(maps, x.maps)) for x in self.cuts)
        blur = self.blur * _sizes(maps) if self.blur.any() else self.blur
        return replace(self, cuts=cuts, blur=blur)

    @property
    def still(self) -> bool:
        return self.shape_is_still and len(self.strength) == 1

    @property
    def shape_is_still(self) -> bool:
        rows = self.grow, self.blur, *(cut.maps for cut in self.cuts)
        return all(len(each) == 1 for each in rows)

    def at(self, frame: int) -> tuple[float, float, float]:
        """Return how far it is grown, blurred, and how strong it is in a frame."""
        grow, blur, strength = (_at(row, frame) for row in (self.grow, self.blur, self.strength))
        return grow, blur, strength

    @property
    def lets_through(self) -> bool:
        """Whether in some frame anything is seen outside of the cuts."""
        return self.inverted or bool(np.any(self.strength < 1))

    def window(self) -> Floats | None:
        """Return left, top, right and bottom, px of the scene, where all that the cover does is to
        show what lies in an upright box that stands still; else None.
        """
        numbers = self.grow, self.blur, self.strength
        if len(self.cuts) != 1 or not self.still or self.inverted:
            return None
        (cut,) = self.cuts
        shows = cut.how == "add" and [float(each[0]) for each in numbers] == [0.0, 0.0, 1.0]
        if not shows or not cut.figure.is_box:
            return None
        a, b, c, d, *_ = cut.maps[0]
        if b or c or min(a, d) <= 0 or cut.maps.shape[1] != AFFINE:
            return None
        left, top, right, bottom = cut.figure.bounds()
        (low, high) = mapping.apply_each(cut.maps, np.array([[left, top], [right, bottom]]))[0]
        return np.concatenate([low, high])

    def bounds(self) -> Floats:
        """Return left, top, right and bottom of all that a cut may show, px of the scene, (n, 4) or
        (1, 4); nowhere where no cut adds.
        """
        adding = [self._bounds(cut) for cut in self.cuts if cut.how == "add" and cut.figure.runs]
        if not adding:
            return np.array([[0.0, 0.0, -1.0, -1.0]])
        boxes = np.stack(np.broadcast_arrays(*adding))
        rows = [boxes[..., :2].min(axis=0), boxes[..., 2:].max(axis=0)]
        out = np.array([-1.0, -1, 1, 1]) * (REACH * self.blur + 1)[:, None]
        return np.concatenate(rows, axis=1) + out

    def _bounds(self, cut: Cut) -> Floats:
        left, top, right, bottom = cut.figure.bounds()
        room = float(max(self.grow.max(), 0.0))
        corners = np.array([[left, top], [right, top], [right, bottom], [left, bottom]])
        corners += room * np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]])
        seen = mapping.outline_of(cut.maps, corners)
        return np.concatenate(mapping.extremes(seen), axis=1)


def _at(row: Floats, frame: int) -> float:
    return float(row[frame if len(row) > 1 else 0])


def cover_of(placed: Placed, at: Frames | None = None) -> Cover | None:
    """Return the mask of a layer in frames 0..length, or ``at`` some; None where it has none."""
    mask, times = placed.layer.mask, placed.times(at)
    if mask is None:
        return None
    cuts = tuple(
        Cut(Figure.of(path.subpaths), part.how, places.plane_maps(placed, group, at))
        for part, (path, group) in zip(mask.parts, placed.masks, strict=True)
    )
    grow, feather, strength = (
        places.keyed(placed.layer, name, times) for name in ("grow", "feather", "masking")
    )
    # Two standard deviations are the feather: most of the fading lies within it.
    blur = np.maximum(feather, 0.0) / 2 * _sizes(cuts[0].maps)
    return Cover(cuts, mask.inverted, grow, blur, np.clip(strength, 0.0, 1.0))


def _sizes(maps: Maps) -> Floats:
    """Return by how much something is larger than in its own px, (n,)."""
    size = np.sqrt(np.abs(mapping.area_factor(maps)))
    # Told once where it does not change, though its group turns or goes somewhere.
    rows: Floats = size[:1] if np.allclose(size, size[0], rtol=1e-9) else size
    return rows
