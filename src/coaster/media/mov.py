"""QuickTime for those who work on it further: ProRes 4444 in ten bits, or every pixel as PNG."""

from functools import partial

from coaster.media.video import Encoding, VideoSplice, VideoWriter
from coaster.media.writing import Kind

PRORES = Encoding(
    "mov",
    "prores_ks",
    "yuv444p10le",
    "yuva444p10le",
    options={"profile": "4444"},
)
PNG = Encoding("mov", "png", "rgb24", "rgba", yuv=False)
KINDS = tuple(
    # Browsers play neither.
    Kind(
        name, ".mov", words, "video/quicktime", True, "none", partial(VideoWriter, how),
        lossless=not how.yuv, join=partial(VideoSplice, how),
    )
    for name, words, how in (
        ("prores", "MOV, ProRes 4444", PRORES),
        ("mov-png", "MOV, PNG, lossless", PNG),
    )
)  # fmt: skip
