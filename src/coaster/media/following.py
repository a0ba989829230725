"""A spot followed through footage, frame by frame, by what it looks like.

The patch that was marked is looked for in each frame by enhanced correlation (Evangelidis and
Psarakis, 2008, as OpenCV has it), from where it was in the frame before: first by the translation
that correlates best, then by the affine map that does. All frames are compared with the patch as it
was marked, so that nothing adds up; where it has come to look otherwise it is marked anew.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from coaster.errors import MediaError
from coaster.media.pictures import Pixels
from coaster.media.reading import Footage

Grey = NDArray[np.float32]
Warp = tuple[float, float, float, float, float, float]
"""From px about the middle of the patch to px of a frame: a, b, c, d, x, y, as SVG has them."""

LEAST_SIDE, LARGEST_SIDE = 8.0, 400.0
"""Px of the file that a box may be wide and high."""
MOST_SIDE = 96
"""Px of a side at which a larger patch is compared: more cost time and find nothing better."""
FLAT = 1.5
"""Levels by which what can be followed differs within itself, as a standard deviation."""
SURE, LOST = 0.9, 0.6
"""Correlations: from here on the patch may be marked anew, and below there it is lost."""
REACH = 1.5
"""How far a spot may go from one frame to the next, in sides of its box, and 24 px more."""
ALIKE = (0.6, 1.7)
"""By how much a patch may shrink or grow against the one that was marked last."""
STEPS = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 40, 1e-4)


@dataclass(frozen=True)
class Marked:
    """A spot as it was marked: in which frame, its middle and its sides, px of the file."""

    index: int
    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True)
class Spot:
    """Where it is in a frame, px of the file, and how sure that is, 0 to 1: its correlation with
    the patch that was marked.
    """

    index: int
    x: float
    y: float
    sure: float


@dataclass(frozen=True)
class Followed:
    """Spots in the order in which they were found, how the patch lies in the last of them, and
    whether it was lost after that.
    """

    marked: Marked
    spots: tuple[Spot, ...]
    warp: Warp
    lost: bool = False


def follow(footage: Footage, marked: Marked, warp: Warp | None, indices: Sequence[int]) -> Followed:
    """Follow what was marked through frames, one after the other in either direction, from where
    it lies by ``warp`` in the frame before the first of them; without it, where it was marked.

    Accuracy:   of a patch with some texture in it typically within 0.05 px, 0.2 px with noise.
    Degenerate: stops before the first frame in which it is lost, or is out of the frame.
    Errors:     MediaError: nothing in the box can be followed, or a frame cannot be read.
    """
    eye = _Eye.on(footage, marked)
    now = warp or (1.0, 0.0, 0.0, 1.0, marked.x, marked.y)
    spots = list[Spot]()
    for index in indices:
        frame = grey(footage.pixels(index))
        found = eye.look(frame, now)
        if found is None:
            return Followed(eye.marked, tuple(spots), now, lost=True)
        now, sure = found
        spots.append(Spot(index, now[4], now[5], sure))
        if sure < SURE or not ALIKE[0] < _size(now) < ALIKE[1]:
            eye, now = eye.anew(frame, index, now)
    return Followed(eye.marked, tuple(spots), now)


def grey(pixels: Pixels) -> Grey:
    """Return a frame's brightness, 0 to 255, over black."""
    return np.asarray(cv2.cvtColor(pixels, cv2.COLOR_BGRA2GRAY), np.float32)


def _size(warp: Warp) -> float:
    a, b, c, d, _, _ = warp
    return float(np.sqrt(abs(a * d - b * c)))


@dataclass(frozen=True, eq=False)
class _Eye:
    """A patch, compared at ``scale`` px of its own a px of the file."""

    marked: Marked
    patch: Grey
    scale: float

    @classmethod
    def on(cls, footage: Footage, marked: Marked) -> "_Eye":
        sides = marked.width, marked.height
        if min(sides) < LEAST_SIDE or max(sides) > LARGEST_SIDE:
            raise MediaError(
                f"A box of {marked.width:.0f} × {marked.height:.0f} px of the footage cannot be"
                f" followed; its sides may have {LEAST_SIDE:.0f} to {LARGEST_SIDE:.0f} px."
            )
        eye = cls._cut(grey(footage.pixels(marked.index)), marked)
        if float(eye.patch.std()) < FLAT:
            raise MediaError(
                "What is in the box looks the same all over, so it cannot be followed. Take in an"
                " edge or a corner of something."
            )
        return eye

    @classmethod
    def _cut(cls, frame: Grey, marked: Marked) -> "_Eye":
        scale = min(1.0, MOST_SIDE / max(marked.width, marked.height))
        size = round(marked.width * scale), round(marked.height * scale)
        eye = cls(marked, np.empty(size[::-1], np.float32), scale)
        own = eye._to_frame((1.0, 0.0, 0.0, 1.0, marked.x, marked.y))
        return replace(eye, patch=_cut_out(frame, own, size))

    def anew(self, frame: Grey, index: int, now: Warp) -> tuple["_Eye", Warp]:
        """Return the eye on what the patch has become, unless that is next to nothing."""
        marked = replace(self.marked, index=index, x=now[4], y=now[5])
        fresh = self._cut(frame, marked)
        if float(fresh.patch.std()) < FLAT:
            return self, now
        return fresh, (1.0, 0.0, 0.0, 1.0, marked.x, marked.y)

    def look(self, frame: Grey, last: Warp) -> tuple[Warp, float] | None:
        """Return where the patch is in a frame and how sure that is; None where it is not."""
        near = self._nearest(frame, last)
        if near is None:
            return None
        found, sure = self._fitted(frame, near)
        height, width = frame.shape
        inside = 0 <= found[4] <= width - 1 and 0 <= found[5] <= height - 1
        return (found, sure) if sure >= LOST and inside else None

    def _nearest(self, frame: Grey, last: Warp) -> Warp | None:
        """Return the warp moved to where what it showed correlates best, by whole px."""
        height, width = self.patch.shape
        reach = int(np.ceil(REACH * max(width, height) + 24 * self.scale))
        own = self._to_frame(last)
        # A window round it, as the patch sees it: turned and sized alike.
        around = own.copy()
        around[:, 2] -= own[:, :2] @ (reach, reach)
        window = _cut_out(frame, around, (width + 2 * reach, height + 2 * reach))
        scores = cv2.matchTemplate(window, self.patch, cv2.TM_CCOEFF_NORMED)
        # Of places that are as like, the nearer one: what repeats would be lost else.
        rows, columns = np.indices(scores.shape)
        off = np.hypot(rows - reach, columns - reach) / reach
        row, column = np.unravel_index(np.argmax(scores - 0.1 * off), scores.shape)
        if not np.isfinite(scores[row, column]):
            return None
        across, down = own[:, :2] @ (column - reach, row - reach)
        return (*last[:4], last[4] + float(across), last[5] + float(down))

    def _fitted(self, frame: Grey, near: Warp) -> tuple[Warp, float]:
        """Return the warp that correlates best, and how well; where an affine one runs away, the
        best translation.
        """
        best = near, self._likeness(frame, near)
        for mode in (cv2.MOTION_TRANSLATION, cv2.MOTION_AFFINE):
            found = self._aligned(frame, best[0], mode)
            if found is not None and found[1] > best[1] and _stays_near(found[0], best[0]):
                best = found
        return best

    def _aligned(self, frame: Grey, warp: Warp, mode: int) -> tuple[Warp, float] | None:
        """Return the warp after a search, which works on what it already shows of the frame."""
        height, width = self.patch.shape
        room = 4
        around = self._to_frame(warp)
        around[:, 2] -= around[:, :2] @ (room, room)
        seen = _cut_out(frame, around, (width + 2 * room, height + 2 * room))
        start = np.array([[1, 0, room], [0, 1, room]], np.float32)
        everywhere = np.full(seen.shape, 255, np.uint8)
        try:
            _, step = cv2.findTransformECC(self.patch, seen, start, mode, STEPS, everywhere, 3)
        except cv2.error:
            return None  # it did not come nearer to anything
        whole = around @ np.vstack([step, [0, 0, 1]])
        found = self._of_frame(whole)
        return found, self._likeness(frame, found)

    def _likeness(self, frame: Grey, warp: Warp) -> float:
        height, width = self.patch.shape
        seen = _cut_out(frame, self._to_frame(warp), (width, height))
        score = float(cv2.matchTemplate(seen, self.patch, cv2.TM_CCOEFF_NORMED)[0, 0])
        return score if np.isfinite(score) else 0.0

    def _to_frame(self, warp: Warp) -> NDArray[np.float64]:
        """Return the map (2, 3) from px of the patch to px of a frame, by their middles."""
        a, b, c, d, x, y = warp
        linear = np.array([[a, c], [b, d]]) / self.scale
        height, width = self.patch.shape
        middle = np.array([(width - 1) / 2, (height - 1) / 2])
        return np.column_stack([linear, np.array([x, y]) - linear @ middle])

    def _of_frame(self, own: NDArray[np.float64]) -> Warp:
        height, width = self.patch.shape
        x, y = own @ ((width - 1) / 2, (height - 1) / 2, 1.0)
        (a, c), (b, d) = own[:, :2] * self.scale
        return float(a), float(b), float(c), float(d), float(x), float(y)


def _stays_near(found: Warp, near: Warp) -> bool:
    """Whether a search has ended near to where it began: by a few px, and hardly larger."""
    moved = np.hypot(found[4] - near[4], found[5] - near[5])
    return bool(moved < 6 and 0.7 < _size(found) / max(_size(near), 1e-9) < 1.4)


def _cut_out(frame: Grey, own: NDArray[np.float64], size: tuple[int, int]) -> Grey:
    """Return what a map (2, 3) from px of a patch to those of a frame shows; beyond the frame its
    edge goes on.
    """
    how = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    seen = cv2.warpAffine(frame, own, size, flags=how, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(seen, np.float32)
