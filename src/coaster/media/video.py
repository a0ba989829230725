"""Frames into files that a video library writes: exact counts, BT.709 converted and tagged."""

import contextlib
import os
import queue
import threading
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path as File
from typing import Any

import av
import av.error
from av.container import OutputContainer
from av.packet import Packet
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from coaster.errors import MediaError
from coaster.files import part_of
from coaster.media.converting import Converter
from coaster.media.pictures import Box, Pixels
from coaster.media.writing import Ending, Job, Quality, Splice

REFUSALS = av.error.FFmpegError, OSError, ValueError
"""What its library raises where it, or the disk, refuses."""
BT709 = 1
LIMITED = 1


@dataclass(frozen=True)
class Encoding:
    """How a video library writes a kind of file.

    ``pixels`` and ``alpha_pixels`` are its formats of frames without and with transparency; one in
    ``yuv`` is converted to BT.709 and tagged; the encoder is given ``stored``, where that is
    another one. ``qualities`` are options beside ``options``,
    ``clock`` the seconds that times are told in, where these are not frames, ``tag`` what the
    container calls the codec, where not by its usual name.
    """

    container: str
    codec: str
    pixels: str
    alpha_pixels: str | None = None
    yuv: bool = True
    stored: str | None = None
    options: Mapping[str, str] = field(default_factory=dict)
    qualities: Mapping[Quality, Mapping[str, str]] = field(default_factory=dict)
    container_options: Mapping[str, str] = field(default_factory=dict)
    clock: Fraction | None = None
    tag: str = ""


def _opened(encoding: Encoding, part: File) -> OutputContainer:
    # Exact, as its library says: without numbers drawn by lot, so that the same frames make the
    # same file.
    options = {"fflags": "+bitexact", **encoding.container_options}
    return av.open(str(part), "w", format=encoding.container, options=options)


def _tagged(stream: VideoStream, encoding: Encoding) -> None:
    if encoding.tag:
        stream.codec_context.codec_tag = encoding.tag


class VideoSplice(Splice):
    """Puts the packets of encoded files behind each other."""

    def __init__(self, encoding: Encoding, job: Job, into: File) -> None:
        self._encoding, self._job, self._part = encoding, job, part_of(into / job.file.name)
        self._film: tuple[OutputContainer, VideoStream] | None = None
        self._count = 0

    def add(self, piece: File, count: int) -> None:
        # What decoding a frame tells of the first holds for all.
        read: Any = [{"skip_frame": "all" if self._film else "default"}]
        with self._refusals(), av.open(str(piece), stream_options=read) as opened:
            stream = opened.streams.video[0]
            whole, made = self._film = self._film or self._begun(stream)
            assert stream.time_base is not None  # noqa: S101 - what was written has one
            offset = round(self._count / self._job.rate / stream.time_base)
            for packet in opened.demux(stream):
                if packet.dts is None or packet.pts is None:
                    continue
                packet.pts, packet.dts = packet.pts + offset, packet.dts + offset
                packet.stream = made
                whole.mux(packet)
            self._count += count

    def _begun(self, like: VideoStream) -> tuple[OutputContainer, VideoStream]:
        whole = _opened(self._encoding, self._part)
        made = whole.add_stream_from_template(like, opaque=True)
        _tagged(made, self._encoding)
        if self._job.alpha and self._encoding.alpha_pixels is not None:
            # It is told by the frames' format, which a copy knows nothing of.
            made.metadata["alpha_mode"] = "1"
        return whole, made

    def close(self) -> None:
        """Put the finished file in its place."""
        with self._refusals():
            if self._film is not None:
                self._film[0].close()
            os.replace(self._part, self._job.file)

    def abandon(self) -> None:
        """Drop what was put together; no file appears."""
        if self._film is not None:
            with contextlib.suppress(*REFUSALS):  # thrown away in any case
                self._film[0].close()
        self._part.unlink(missing_ok=True)

    @contextlib.contextmanager
    def _refusals(self) -> Iterator[None]:
        try:
            yield
        except REFUSALS as error:
            self.abandon()
            raise MediaError(f"{self._job.file.name} could not be joined: {error}.") from error


def told(encoding: Encoding) -> dict[Quality, str]:
    """Return what its qualities are in the encoder's numbers."""
    return {name: f"CRF {options['crf']}" for name, options in encoding.qualities.items()}


THREADS = 1
"""The same on every machine, as encoders decide otherwise by their number; and one, since chunks
are made side by side: that takes less CPU, and processors never wait for each other."""
CONVERTED_AHEAD = 3
"""Converted frames that may wait for the encoder."""


class VideoWriter(Ending):
    """Writes frames to ``file``, which appears only when the last one is in.

    The caller's thread converts, a thread of the writer's own encodes: both leave Python's lock,
    so they run side by side.

    Shapes:   frames are premultiplied BGRA (height, width, 4), even sizes.
    Accuracy: flat colours within 1 level of 255 plus the encoder's loss; transparent ones are
              stored straight. Frame i lies at i / rate, as finely as the container tells time.
    Errors:   MediaError: the encoder or the disk refused.
    """

    def __init__(self, encoding: Encoding, job: Job) -> None:
        self.file, self._part = job.file, part_of(job.file)
        self._encoding = encoding
        alpha = job.alpha and encoding.alpha_pixels is not None
        self._pixels = encoding.alpha_pixels or encoding.pixels if alpha else encoding.pixels
        self._converter = Converter(
            self._pixels, alpha=alpha, yuv=encoding.yuv, held=CONVERTED_AHEAD + 1
        )
        self._count = 0
        self._clock = encoding.clock or 1 / job.rate
        self._in_clocks = 1 / job.rate / self._clock
        try:
            # Before the library is asked: a folder that cannot be written to is the system's to
            # refuse, in its words.
            self._part.touch()
            self._container = _opened(encoding, self._part)
            self._stream = self._begun(job)
        except (av.error.FFmpegError, OSError) as error:
            self._part.unlink(missing_ok=True)
            raise MediaError(
                f"{self.file.name} could not be begun: {error.strerror or error}."
            ) from error
        # Bounded: a slow encoder holds the drawing back in place of filling the memory.
        self._waiting: queue.Queue[VideoFrame | None] = queue.Queue(CONVERTED_AHEAD)
        self._failure: Exception | None = None
        self._resting = self._dropped = False
        self._encoder = threading.Thread(target=self._encode, name="coaster encoder", daemon=True)
        self._encoder.start()

    def _begun(self, job: Job) -> VideoStream:
        stream = self._container.add_stream(self._encoding.codec, rate=job.rate)
        assert isinstance(stream, VideoStream)  # noqa: S101 - a video codec makes nothing else
        chosen = self._encoding.qualities.get(job.quality, {})
        stream.options = {**self._encoding.options, **chosen}
        _tagged(stream, self._encoding)
        stream.width, stream.height = job.size
        stream.pix_fmt = self._encoding.stored or self._pixels
        context = stream.codec_context
        stream.time_base = context.time_base = self._clock
        context.thread_count = THREADS
        # Without the tags players guess by the size, and colours come out differently.
        if self._encoding.yuv:
            context.color_primaries = context.color_trc = context.colorspace = BT709
            context.color_range = LIMITED
        return stream

    @property
    def idle(self) -> bool:
        """Whether the encoder waits for the next frame."""
        return self._resting and self._waiting.empty()

    def write(self, pixels: Pixels, changed: Sequence[Box] | None = None) -> None:
        """Take the next frame; ``pixels`` may be reused afterwards."""
        frame = self._converter.frame(pixels, changed)
        frame.pts, frame.time_base = self._begin(self._count), self._clock
        self._count += 1
        while self._failure is None:
            with contextlib.suppress(queue.Full):
                self._waiting.put(frame, timeout=0.5)
                return
        raise self._refusal()

    def _refusal(self) -> MediaError:
        error = MediaError(
            f"{self.file.name} could not be written near frame {self._count - 1}: {self._failure}."
        )
        error.__cause__ = self._failure
        return error

    def _begin(self, index: int) -> int:
        """Return when a frame begins, in the clock of the file."""
        return round(index * self._in_clocks)

    def _next(self) -> VideoFrame | None:
        self._resting = True
        frame = self._waiting.get()
        self._resting = False
        return frame

    def _packets(self, frame: VideoFrame | None) -> "list[Packet[VideoStream]]":
        """Return what a frame, or the end of all, makes the encoder give out."""
        return self._stream.encode(frame)

    def _encode(self) -> None:
        """Encode what is put in line until None comes; runs in a thread of its own."""
        try:
            frame: VideoFrame | None
            while (frame := self._next()) is not None:
                self._container.mux(self._packets(frame))
            # What is dropped need not be encoded to its end, which takes a second or two.
            if not self._dropped:
                self._container.mux(self._packets(None))
        except REFUSALS as error:
            self._failure = error

    def close(self) -> None:
        """Flush the encoder and put the finished file in its place."""
        self._stop()
        try:
            if self._failure is not None:
                raise self._failure
            self._container.close()
            os.replace(self._part, self.file)
        except REFUSALS as error:
            self.abandon()
            raise MediaError(f"{self.file.name} could not be finished: {error}.") from error

    def abandon(self) -> None:
        """Drop what was written; no file appears."""
        self._dropped = True
        with contextlib.suppress(queue.Empty):
            while True:
                self._waiting.get_nowait()
        self._stop()
        with contextlib.suppress(*REFUSALS):  # thrown away in any case
            self._container.close()
        self._part.unlink(missing_ok=True)

    def _stop(self) -> None:
        while self._encoder.is_alive():
            with contextlib.suppress(queue.Full):
                self._waiting.put(None, timeout=0.2)
                break
        self._encoder.join()
