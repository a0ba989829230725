"""VP9 in WebM, with transparency; its times are whole milliseconds."""

from functools import partial

from coaster.media.video import Encoding, VideoSplice, VideoWriter, told
from coaster.media.writing import Kind

ENCODING = Encoding(
    "webm",
    "libvpx-vp9",
    "yuv420p",
    "yuva420p",
    options={"b": "0", "deadline": "good", "cpu-used": "4", "row-mt": "1", "auto-alt-ref": "0"},
    qualities={"small": {"crf": "34"}, "usual": {"crf": "24"}, "best": {"crf": "14"}},
)
WEBM = Kind(
    "webm",
    ".webm",
    "WebM, VP9",
    "video/webm",
    True,
    "video",
    partial(VideoWriter, ENCODING),
    told(ENCODING),
    join=partial(VideoSplice, ENCODING),
)
