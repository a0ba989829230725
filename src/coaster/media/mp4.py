"""H.264, HEVC and AV1 in MP4: times are exact, and the file needs no edit list of milliseconds."""

import os
from dataclasses import replace
from functools import partial

import cv2

from coaster.media.video import Encoding, VideoSplice, VideoWriter, told
from coaster.media.writing import Kind

# Its encoder tells all it does, a page for each file, unless it is asked for errors alone.
os.environ.setdefault("SVT_LOG", "1")

CONTAINER = {"movflags": "+faststart", "movie_timescale": "60000"}
"""A finer clock than the usual thousand a second: else 59 frames of 60 fps round to 984 ms."""

AVX_512 = 13  # as the library numbers what processors can do
STEADY = (
    ":asm=MMX2,SSE2,SSE3,SSSE3,SSE4.1,SSE4.2,AVX,FMA3,BMI1,BMI2,AVX2"
    if cv2.checkHardwareSupport(AVX_512)
    else ""
)
"""Without its AVX-512: with it, pictures whose width is not a multiple of 256 px come out one byte
larger or smaller now and then (seen in 1 to 40 of 100 files).
"""
H264 = Encoding(
    "mp4",
    "libx264",
    "yuv420p",
    options={"x264-params": f"open-gop=0{STEADY}"},
    # As usual, least CPU for the same likeness: by SSIM on the demo's scenes within 0.0001 of
    # "veryfast" at 17, which is within 0.0003 of "medium" at 18 in twice the CPU
    # (docs/decisions/0027, 0049).
    qualities={
        "small": {"preset": "medium", "crf": "25"},
        "usual": {
            "preset": "veryfast",
            "crf": "16.5",
            "subq": "1",
            "motion-est": "dia",
            "b_strategy": "0",
        },
        "best": {"preset": "medium", "crf": "12"},
    },
    container_options=CONTAINER,
)
HEVC = Encoding(
    "mp4",
    "libx265",
    "yuv420p",
    options={"x265-params": "log-level=none:open-gop=0"},
    qualities={
        "small": {"preset": "fast", "crf": "28"},
        "usual": {"preset": "superfast", "crf": "19"},
        "best": {"preset": "fast", "crf": "13"},
    },
    container_options=CONTAINER,
    # Some players open no other.
    tag="hvc1",
)
AV1 = Encoding(
    "mp4",
    "libsvtav1",
    "yuv420p",
    options={"preset": "8"},
    qualities={"small": {"crf": "38"}, "usual": {"crf": "26"}, "best": {"crf": "16"}},
    container_options=CONTAINER,
)


def _kind(name: str, words: str, how: Encoding) -> Kind:
    write = partial(VideoWriter, how)
    return Kind(name, ".mp4", words, "video/mp4", False, "video", write, told(how),
                join=partial(VideoSplice, how))  # fmt: skip


KINDS = (
    _kind("mp4", "MP4, H.264", H264),
    # Few browsers play it; of files of one or two frames its encoder breaks some in a hundred.
    replace(_kind("hevc", "MP4, HEVC", HEVC), shown_as="none", fewest_frames=5),
    _kind("av1", "MP4, AV1", AV1),
)
