"""GIF: one palette for all frames, chosen from some of them, dithered; exact in the sum of its
times.
"""

from collections.abc import Iterator, Sequence
from contextlib import suppress
from fractions import Fraction

import av.error
from av.filter import Graph
from av.filter.context import FilterContext
from av.packet import Packet
from av.video.format import VideoFormat
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from coaster.media.pictures import Pixels, straight_rgba
from coaster.media.video import Encoding, VideoWriter
from coaster.media.writing import Job, Kind, Quality

CLOCK = Fraction(1, 100)
"""Seconds: the format tells no finer times."""
MOST_FPS = 50.0
"""Players take what lasts less than two hundredths for ten."""
DITHERS: dict[Quality, str] = {
    "small": "dither=bayer:bayer_scale=4",
    "usual": "dither=sierra2_4a",
    "best": "dither=floyd_steinberg",
}
ENCODING = Encoding(
    "gif",
    "gif",
    "bgra",
    "rgba",
    yuv=False,
    stored="pal8",
    container_options={"loop": "0"},
    clock=CLOCK,
)


class GifWriter(VideoWriter):
    """Writes frames in the colours of one palette; what is less than half opaque is transparent.

    Accuracy: frame i begins at the hundredth of a second nearest to i / rate.
    """

    def __init__(self, job: Job) -> None:
        self._colours = _Colours(job)
        self._muxed = 0
        super().__init__(ENCODING, job)

    def _packets(self, frame: VideoFrame | None) -> "list[Packet[VideoStream]]":
        drawn = list(self._colours.of(frame))
        packets = [packet for each in drawn for packet in self._stream.encode(each)]
        if frame is None:
            packets += self._stream.encode(None)
        for packet in packets:
            # The last frame's time is told by nothing else.
            packet.duration = self._begin(self._muxed + 1) - self._begin(self._muxed)
            self._muxed += 1
        return packets


class _Colours:
    """Brings frames into the colours of one palette."""

    def __init__(self, job: Job) -> None:
        width, height = job.size
        form = VideoFormat("rgba" if job.alpha else "bgra")
        palette = _palette(job.samples, alpha=job.alpha)
        self._graph = Graph()
        self._frames = self._graph.add_buffer(
            width=width, height=height, format=form, time_base=CLOCK
        )
        colours = self._graph.add_buffer(
            width=palette.width, height=palette.height, format=palette.format, time_base=CLOCK
        )
        use = self._graph.add("paletteuse", f"{DITHERS[job.quality]}:diff_mode=rectangle")
        self._out = self._graph.add("buffersink")
        self._frames.link_to(use, 0, 0)
        colours.link_to(use, 0, 1)
        use.link_to(self._out)
        self._graph.configure()
        palette.pts, palette.time_base = 0, CLOCK
        colours.push(palette)
        colours.push(None)

    def of(self, frame: VideoFrame | None) -> Iterator[VideoFrame]:
        """Yield the frames that are done once this one, or the end of all, is there."""
        self._frames.push(frame)
        with suppress(av.error.BlockingIOError, av.error.EOFError):
            while True:
                yield _pulled(self._out)


def _palette(samples: Sequence[Pixels], *, alpha: bool) -> VideoFrame:
    """Return the colours that show some frames best."""
    height, width = samples[0].shape[:2]
    graph = Graph()
    source = graph.add_buffer(
        width=width, height=height, format=VideoFormat("rgba"), time_base=CLOCK
    )
    choose = graph.add("palettegen", f"reserve_transparent={int(alpha)}")
    sink = graph.add("buffersink")
    source.link_to(choose)
    choose.link_to(sink)
    graph.configure()
    for index, pixels in enumerate(samples):
        frame = VideoFrame.from_ndarray(straight_rgba(pixels), format="rgba")
        frame.pts, frame.time_base = index, CLOCK
        source.push(frame)
    source.push(None)
    return _pulled(sink)


def _pulled(sink: FilterContext) -> VideoFrame:
    frame = sink.pull()
    assert isinstance(frame, VideoFrame)  # noqa: S101 - filters of pictures make nothing else
    return frame


GIF = Kind(
    "gif",
    ".gif",
    "GIF",
    "image/gif",
    True,
    "image",
    GifWriter,
    {"small": "ordered dots", "usual": "fine noise", "best": "finest noise"},
    looks_ahead=24,
    most_fps=MOST_FPS,
)
