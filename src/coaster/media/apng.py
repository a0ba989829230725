"""Animated PNG: every pixel as it was drawn, transparency included; it loops for ever."""

from functools import partial

from coaster.media.video import Encoding, VideoWriter
from coaster.media.writing import Kind

ENCODING = Encoding("apng", "apng", "rgb24", "rgba", yuv=False, container_options={"plays": "0"})
APNG = Kind(
    "apng",
    ".apng",
    "APNG, lossless",
    "image/apng",
    True,
    "image",
    partial(VideoWriter, ENCODING),
    lossless=True,
)
