"""The seam as it is seen: the last frame, the first, and where the picture jumps between them."""

from dataclasses import dataclass
from pathlib import Path as File

import numpy as np

from coaster.export.drawers import painter_of
from coaster.media.pictures import Pixels
from coaster.scene.document import Scene

VISIBLE = 2
"""Levels of 255 that the eye lets pass, and the rounding of what is drawn turned or faint."""
LET_PASS = 0.1
"""The share of what changes from one frame to the next in any case, within which a jump hides."""
SHOWN_TIMES = 8
"""How many times stronger a difference is shown than it is."""


@dataclass(frozen=True, eq=False)
class SeamPictures:
    """The last frame and the first, and how what would follow the last differs from the first.

    Shapes: ``last``, ``first`` and ``differs``, shown stronger, (height, width, 4).
    Units:  ``most`` is the largest difference of any channel, of 255; ``share`` the part of all px
            that differ visibly, 0..1; ``of_step`` is the jump as a part of what changes from the
            last frame to the one that would follow, both on the mean.
    """

    last: Pixels
    first: Pixels
    differs: Pixels
    most: int
    share: float
    of_step: float

    @property
    def clean(self) -> bool:
        return self.most <= VISIBLE or self.of_step <= LET_PASS

    @property
    def words(self) -> str:
        if not self.most:
            return "What would follow the last frame is the first, px by px."
        if not self.share:
            return (
                "What would follow the last frame differs from the first by up to"
                f" {self.most} of 255, which nobody sees."
            )
        share = f"{100 * self.share:.2g}%"
        words = (
            "What would follow the last frame differs from the first by up to"
            f" {self.most} of 255, visibly in {share} of the picture."
        )
        if not self.clean:
            return words
        return f"{words} That is {self.of_step:.1%} of a step, which nobody sees."


def seam_pictures(scene: Scene, folder: File, scale: float = 1.0) -> SeamPictures:
    """Draw the seam of a scene whose files are in a folder.

    Errors: RenderError, MediaError: it cannot be drawn.
    """
    painter = painter_of(scene, folder, scale)
    last, first, follows = (painter.picture(frame) for frame in (scene.length - 1, 0, scene.length))
    apart = np.abs(follows.astype(np.int16) - first)
    shown = np.minimum(SHOWN_TIMES * apart, 255).astype(np.uint8)
    shown[..., 3] = 255
    seen = apart.max(axis=-1)
    step = float(np.abs(follows.astype(np.int16) - last).mean())
    jump = float(apart.mean())
    of_step = jump / step if step else np.inf if jump else 0.0
    share = float((seen > VISIBLE).mean())
    return SeamPictures(last, first, shown, int(seen.max()), share, of_step)
