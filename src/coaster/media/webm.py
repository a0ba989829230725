"""VP9 in WebM, with transparency; its times are whole milliseconds."""

from functools import partial

from coaster.media.video import Encoding, VideoWriter
from coaster.media.writing import Kind

ENCODING = Encoding(
    "webm",
    "libvpx-vp9",
    "yuv420p",
    "yuva420p",
    options={
        "crf": "24",
        "b": "0",
        "deadline": "good",
        "cpu-used": "4",
        "row-mt": "1",
        "auto-alt-ref": "0",
    },
)
WEBM = Kind(
    "webm", ".webm", "WebM, VP9", "video/webm", True, "video", partial(VideoWriter, ENCODING)
)
