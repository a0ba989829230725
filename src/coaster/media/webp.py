"""Animated WebP, with transparency; its times are whole milliseconds, and it loops for ever."""

from functools import partial

from coaster.media.video import Encoding, VideoWriter
from coaster.media.writing import Kind

ENCODING = Encoding(
    "webp",
    "libwebp_anim",
    "bgra",
    "bgra",
    yuv=False,
    options={"compression_level": "2"},
    qualities={"small": {"quality": "60"}, "usual": {"quality": "80"}, "best": {"quality": "95"}},
    container_options={"loop": "0"},
)
WEBP = Kind(
    "webp",
    ".webp",
    "WebP, animated",
    "image/webp",
    True,
    "image",
    partial(VideoWriter, ENCODING),
    {name: f"quality {options['quality']}" for name, options in ENCODING.qualities.items()},
)
