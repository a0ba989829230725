"""Colours of pictures, as those who pass over them see them."""

from functools import lru_cache
from pathlib import Path as File

import cv2
import numpy as np
from numpy.typing import NDArray

from coaster.geometry import affine, maps
from coaster.geometry.bezier import Floats
from coaster.geometry.maps import Maps
from coaster.media import pictures
from coaster.media.found import file_of
from coaster.scene.contents import Picture

FINEST = 256
"""Px of the longer side to which pictures are made smaller: what is passed over is a patch of it,
no dot.
"""


def colours_under(picture: Picture, placed: Maps, spots: Floats) -> Floats:
    """Return red, green, blue and alpha, 0..1 (n, 4), of a picture that is ``placed`` (n, 6) or
    (1, 6) in the scene, at spots (n, 2) or (1, 2) of that; nothing beside it, where its file is
    gone, or in perspective.
    """
    rows = max(len(placed), len(spots))
    file = file_of(picture.asset)
    if file is None or not maps.is_flat(placed):
        return np.zeros((rows, 4))
    back = np.broadcast_to(affine.inverse(placed), (rows, 6))
    own = affine.apply_rows(back, np.broadcast_to(spots, (rows, 2)))
    return _seen_at(_patches(file), own / [picture.width, picture.height])


def _seen_at(pixels: NDArray[np.float32], shares: Floats) -> Floats:
    """Return red, green, blue and alpha (n, 4) at shares (n, 2) of a picture's width and height."""
    high, wide = pixels.shape[:2]
    # The middle of the first px is half a px in.
    x, y = (shares * [wide, high] - 0.5).astype(np.float32).T
    beyond = cv2.BORDER_REPLICATE
    seen = cv2.remap(pixels, x[:, None], y[:, None], cv2.INTER_LINEAR, borderMode=beyond)[:, 0]
    inside = np.asarray(np.all((shares >= 0) & (shares <= 1), axis=1))
    alpha, black = seen[:, 3:], np.zeros((len(seen), 3), np.float32)
    colour = np.divide(seen[:, 2::-1], alpha, out=black, where=alpha > 0)
    found = np.concatenate([colour, alpha * inside[:, None]], axis=1)
    return np.asarray(np.clip(found, 0.0, 1.0), float)


@lru_cache(maxsize=16)
def _patches(file: File) -> NDArray[np.float32]:
    """Return a picture's blue, green, red and alpha, premultiplied, 0..1, made smaller."""
    pixels = pictures.load(file)
    factor = min(FINEST / max(pixels.shape[:2]), 1.0)
    size = [max(round(side * factor), 1) for side in pixels.shape[1::-1]]
    small = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
    return np.asarray(small, np.float32) / np.float32(255)
