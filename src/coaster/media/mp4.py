"""H.264 in MP4: times are exact, and the file needs no edit list of milliseconds."""

from functools import partial

from coaster.media.video import Encoding, VideoWriter
from coaster.media.writing import Kind

ENCODING = Encoding(
    "mp4",
    "libx264",
    "yuv420p",
    options={"crf": "18", "preset": "medium"},
    # A finer clock than the usual thousand a second: else 59 frames of 60 fps round to 984 ms.
    container_options={"movflags": "+faststart", "movie_timescale": "60000"},
)
MP4 = Kind("mp4", ".mp4", "MP4, H.264", "video/mp4", False, "video", partial(VideoWriter, ENCODING))
