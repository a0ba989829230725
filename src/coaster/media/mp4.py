"""H.264 and AV1 in MP4: times are exact, and the file needs no edit list of milliseconds.

HEVC is left out: of files of one frame the library's encoder breaks a few in a hundred.
"""

import os
from functools import partial

from coaster.media.video import Encoding, VideoWriter, join, told
from coaster.media.writing import Kind

# Its encoder tells all it does, a page for each file, unless it is asked for errors alone.
os.environ.setdefault("SVT_LOG", "1")

CONTAINER = {"movflags": "+faststart", "movie_timescale": "60000"}
"""A finer clock than the usual thousand a second: else 59 frames of 60 fps round to 984 ms."""

H264 = Encoding(
    "mp4",
    "libx264",
    "yuv420p",
    options={"x264-params": "open-gop=0"},
    # As usual, half of the CPU for the same likeness: by SSIM on the demo's scenes "veryfast" at 17
    # is within 0.0003 of "medium" at 18, in files up to a tenth larger (docs/decisions/0027).
    qualities={
        "small": {"preset": "medium", "crf": "25"},
        "usual": {"preset": "veryfast", "crf": "17"},
        "best": {"preset": "medium", "crf": "12"},
    },
    container_options=CONTAINER,
)
AV1 = Encoding(
    "mp4",
    "libsvtav1",
    "yuv420p",
    options={"preset": "8"},
    qualities={"small": {"crf": "38"}, "usual": {"crf": "26"}, "best": {"crf": "16"}},
    container_options=CONTAINER,
)
KINDS = tuple(
    Kind(
        name, ".mp4", words, "video/mp4", False, "video", partial(VideoWriter, how), told(how),
        join=partial(join, how),
    )
    for name, words, how in (
        ("mp4", "MP4, H.264", H264),
        ("av1", "MP4, AV1", AV1),
    )
)  # fmt: skip
