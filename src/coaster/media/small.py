"""Small frames of footage, for a stage that cannot decode it: packed in blocks, each by itself."""

import struct
import threading
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from itertools import pairwise

import cv2
import numpy as np
from av.video.frame import VideoFrame
from av.video.reformatter import Interpolation, VideoReformatter
from numpy.typing import NDArray

from coaster.media.coded import coded, in_rgb
from coaster.media.pictures import Pixels, straight_rgba
from coaster.media.reading import Footage

PER_BLOCK = 16
"""Frames that are packed together: what a stage asks for at once."""
LARGEST = 960, 540
"""Px of the largest small frame."""
JPEG_QUALITY, PNG_EFFORT = 85, 1
ENCODERS = 2

Encode = Callable[[], bytes]
"""Makes a JPEG or, where there is transparency, a PNG of a frame that is decoded; in any thread."""


def blocks_in(frames: int) -> int:
    return -(-frames // PER_BLOCK)


def small_size(width: int, height: int) -> tuple[int, int]:
    """Return the size of a file's small frames: even numbers, and no larger than the file."""
    factor = min(1.0, LARGEST[0] / width, LARGEST[1] / height)
    return max(2, 2 * round(width * factor / 2)), max(2, 2 * round(height * factor / 2))


def block(footage: Footage, number: int) -> bytes:
    """Return one block: how many frames, the length of each (u32, little-endian), and they.

    Errors: MediaError: none of them can be read.
    """
    indices = range(number * PER_BLOCK, min((number + 1) * PER_BLOCK, footage.facts.count))
    return _packed([footage.small(index)() for index in indices])


def blocks(footage: Footage, first: int = 0) -> Iterator[bytes]:
    """Yield the blocks from one on, decoding ahead while others encode."""
    total = footage.facts.count
    with ThreadPoolExecutor(ENCODERS) as pool:
        waiting = None
        for begin in range(first * PER_BLOCK, total, PER_BLOCK):
            some = range(begin, min(begin + PER_BLOCK, total))
            begun = [pool.submit(footage.small(index)) for index in some]
            if waiting is not None:
                yield _packed([each.result() for each in waiting])
            waiting = begun
        if waiting is not None:
            yield _packed([each.result() for each in waiting])


def _packed(frames: Sequence[bytes]) -> bytes:
    lengths = struct.pack(f"<{len(frames) + 1}I", len(frames), *map(len, frames))
    return lengths + b"".join(frames)


def unpacked(data: bytes) -> list[bytes]:
    """Return the frames of a block."""
    (frames,) = struct.unpack_from("<I", data)
    lengths = struct.unpack_from(f"<{frames}I", data, 4)
    ends = np.cumsum([4 + 4 * frames, *lengths]).tolist()
    return [data[begin:end] for begin, end in pairwise(ends)]


def of_pixels(pixels: Pixels, *, clear: bool) -> bytes:
    """Return a frame, premultiplied BGRA, small."""
    height, width = pixels.shape[:2]
    size = small_size(width, height)
    fitting = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
    if not clear:
        return _jpeg(np.asarray(fitting[..., :3], np.uint8))
    straight = cv2.cvtColor(straight_rgba(np.asarray(fitting, np.uint8)), cv2.COLOR_RGBA2BGRA)
    _, found = cv2.imencode(".png", straight, [cv2.IMWRITE_PNG_COMPRESSION, PNG_EFFORT])
    return found.tobytes()


class _Tools(threading.local):
    """What each thread needs of its own."""

    def __init__(self) -> None:
        self.scale, self.colours = VideoReformatter(), VideoReformatter()


_TOOLS = _Tools()


def of_frame(frame: VideoFrame) -> bytes:
    """Return an opaque frame, as it is coded, small."""
    size = small_size(frame.width, frame.height)
    # First smaller, then in other colours: both in one step takes three times as long.
    fitting = _TOOLS.scale.reformat(frame, *size, interpolation=Interpolation.AREA)
    # How they are coded is told by the frame as it was: where nothing is said, by its size.
    rgb = in_rgb(_TOOLS.colours, fitting, coded(frame), "bgr24", Interpolation.BILINEAR)
    return _jpeg(np.asarray(rgb.to_ndarray(), np.uint8))


def _jpeg(bgr: NDArray[np.uint8]) -> bytes:
    _, found = cv2.imencode(".jpg", bgr, [cv2.IMWRITE_JPEG_QUALITY, JPEG_QUALITY])
    return found.tobytes()
