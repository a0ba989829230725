"""Masks over all frames: where what is drawn apart is seen."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from coaster.geometry import maps as mapping
from coaster.geometry.bezier import Floats
from coaster.geometry.maps import Maps
from coaster.render import places
from coaster.render.figures import Figure
from coaster.render.frames import Frames
from coaster.render.places import Placed
from coaster.scene.masks import Meeting

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
        seen = mapping.apply_each(cut.maps, corners)
        return np.concatenate([seen.min(axis=1), seen.max(axis=1)], axis=1)


def _at(row: Floats, frame: int) -> float:
    return float(row[frame if len(row) > 1 else 0])


def cover_of(placed: Placed, at: Frames | None = None) -> Cover | None:
    """Return the mask of a layer in frames 0..length, or ``at`` some; None where it has none."""
    mask, times = placed.layer.mask, placed.times(at)
    if mask is None:
        return None
    cuts = tuple(
        Cut(Figure.of(path.subpaths), part.how, places.group_maps(group, at))
        for part, (path, group) in zip(mask.parts, placed.masks, strict=True)
    )
    grow, feather, strength = (
        places.keyed(placed.layer, name, times) for name in ("grow", "feather", "masking")
    )
    # Two standard deviations are the feather: most of the fading lies within it.
    blur = np.maximum(feather, 0.0) / 2 * _sizes(cuts)
    return Cover(cuts, mask.inverted, grow, blur, np.clip(strength, 0.0, 1.0))


def _sizes(cuts: Sequence[Cut]) -> Floats:
    """Return by how much the first cut is larger in the scene than in its own px, (n,)."""
    a, b, c, d = cuts[0].maps[:, :4].T
    size = np.sqrt(np.abs(a * d - b * c))
    # Told once where it does not change, though its group turns or goes somewhere.
    rows: Floats = size[:1] if np.allclose(size, size[0], rtol=1e-9) else size
    return rows
