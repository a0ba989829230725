"""Video files of any codec that the library reads: each frame found by its time stamp."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property, partial
from pathlib import Path as File

import av
import av.error
import cv2
import numpy as np
from av.video.codeccontext import VideoCodecContext
from av.video.frame import VideoFrame
from av.video.reformatter import Interpolation, VideoReformatter

from coaster.errors import MediaError
from coaster.media.coded import coded, in_rgb
from coaster.media.pictures import Pixels, premultiply
from coaster.media.reading import MOST_KEPT, READING, Facts, Kept, in_runs, unreadable
from coaster.media.small import of_frame, of_pixels

GAP = 48
"""So many frames are decoded in passing; to go farther, the reader jumps to a key frame."""
STAMP_S = 0.0015
"""Containers that tell time in whole milliseconds are this far off an even rate."""
BACK = 48
"""A step back by no more than so many frames is one of playing backwards, not a new beginning."""
LATE_S = 0.5
"""A file that ends so much earlier than it says is cut off."""
USUAL_RATE = Fraction(25)
"""Frames a second where a file says nothing of it."""
WITH_ALPHA = {"vp9": "libvpx-vp9", "vp8": "libvpx"}
"""Decoders that read transparency, which the usual ones of the same codecs leave out."""
TURNS = {90: cv2.ROTATE_90_COUNTERCLOCKWISE, 180: cv2.ROTATE_180, 270: cv2.ROTATE_90_CLOCKWISE}


@dataclass(frozen=True)
class _Stamps:
    """When the frames of a stream are shown, in its own ticks, how long the last one is, and which
    can be decoded without those before. Not ``told``, they are counted.
    """

    at: tuple[int, ...]
    last: int
    keys: tuple[bool, ...]
    told: bool = True

    def key_before(self, index: int) -> int:
        while index > 0 and not self.keys[index]:
            index -= 1
        return index


class Video:
    """The pictures of a video file; its sound is left.

    A frame that is damaged is shown as the one before it.
    """

    def __init__(self, file: File) -> None:
        self._name = file.name
        self._container = av.open(str(file))
        if not self._container.streams.video:
            self.close()
            raise MediaError(f"{file.name} has no pictures in it.")
        self._stream = self._container.streams.video[0]
        self._stream.thread_type = "AUTO"
        self._decoder = self._stream.codec_context
        self._convert, self._kept = VideoReformatter(), Kept()
        self._frames: Iterator[VideoFrame] | None = None
        self._next = 0
        said = {name.lower(): value for name, value in self._stream.metadata.items()}
        if said.get("alpha_mode") == "1" and self._decoder.codec.name in WITH_ALPHA:
            apart = av.CodecContext.create(WITH_ALPHA[self._decoder.codec.name], "r")
            assert isinstance(apart, VideoCodecContext)  # noqa: S101 - a video codec makes nothing else
            self._decoder = apart

    def close(self) -> None:
        self._container.close()

    @cached_property
    def facts(self) -> Facts:
        first, stamps = self._frame(0), self._stamps
        rate, lengths = self._clock()
        shape = self._stream.sample_aspect_ratio or Fraction(1)
        wide, high = first.width * float(shape), float(first.height)
        if first.rotation % 180:
            wide, high = high, wide
        notes = []
        if not stamps.told:
            notes.append(f"it has no time stamps, and is read at {float(rate / lengths[0]):g} fps")
        if self._breaks_off(rate, lengths):
            notes.append(f"it breaks off after {len(lengths)} frames, which are played")
        if self._container.streams.audio:
            notes.append("its sound is left out")
        return Facts(wide, high, rate, in_runs(lengths), _is_clear(first), tuple(notes))

    def _breaks_off(self, rate: int, lengths: Sequence[int]) -> bool:
        """Whether the file says that it has more frames, or goes on for longer, than it does."""
        if self._stream.frames:
            return self._stream.frames > len(lengths)
        said = (self._container.duration or 0) / av.time_base
        return not self._container.streams.audio and said > sum(lengths) / rate + LATE_S

    def _clock(self) -> tuple[int, list[int]]:
        """Return ticks a second, and for how many of them each frame is seen; those of a file whose
        stamps are even but for its clock are as even as its rate.
        """
        stamps, count = self._stamps, len(self._stamps.at)
        rate = self._stream.average_rate or self._stream.guessed_rate or USUAL_RATE
        base = self._stream.time_base or 1 / USUAL_RATE
        at = (np.array(stamps.at) - stamps.at[0]) * float(base)
        off = np.abs(at - np.arange(count) / float(rate)).max()
        if not stamps.told or off <= STAMP_S:
            return rate.numerator, [rate.denominator] * count
        lengths = [*np.diff(stamps.at).tolist(), stamps.last]
        # Of two frames at one time nobody sees the first; it is told as the shortest there is.
        return base.denominator, [max(1, each) * base.numerator for each in lengths]

    @cached_property
    def _stamps(self) -> _Stamps:
        """Errors: MediaError: there are no frames."""
        found = sorted(self._told(), key=lambda each: each[0] or 0)
        if not found:
            raise MediaError(f"{self._name} has no frames in it.")
        count = len(found)
        if any(stamp is None for stamp, *_ in found):
            return _Stamps(tuple(range(count)), 1, (True, *[False] * (count - 1)), told=False)
        at = tuple(stamp or 0 for stamp, *_ in found)
        usual = (at[-1] - at[0]) // max(1, count - 1)
        return _Stamps(at, found[-1][1] or max(1, usual), tuple(key for *_, key in found))

    def _told(self) -> Iterator[tuple[int | None, int, bool]]:
        """Yield of each frame of a file just opened when it is seen, how long, and whether it
        can be decoded by itself, as far as the file can be read; none of it is kept.
        """
        try:
            for packet in self._container.demux(self._stream):
                if packet.size and not packet.is_discard:
                    yield packet.pts, packet.duration or 0, packet.is_keyframe
        except av.error.FFmpegError:
            return  # it is cut off: what came before is there

    def _rewind(self, key: int) -> None:
        """Go to a key frame of the stream, or to one before."""
        stamps = self._stamps
        self._container.seek(stamps.at[key] if stamps.told else 0, stream=self._stream)
        self._decoder.flush_buffers()
        self._frames, self._next = self._decoded(), key

    def pixels(self, index: int) -> Pixels:
        try:
            return self._drawn(self._frame(index))
        except READING as error:
            raise unreadable(self._name, index) from error

    def small(self, index: int) -> Callable[[], bytes]:
        try:
            frame = self._frame(index)
            plain = (frame.width, frame.height) == self._size and not frame.rotation % 360
            if not plain or _is_clear(frame):
                return partial(of_pixels, self._drawn(frame), clear=self.facts.alpha)
        except READING as error:
            raise unreadable(self._name, index) from error
        return partial(of_frame, frame)

    def _frame(self, index: int) -> VideoFrame:
        """Errors: MediaError: neither it nor one before it can be read."""
        kept: VideoFrame | None = self._kept.get(index)
        return kept or self._passed(index)

    def _passed(self, index: int) -> VideoFrame:
        """Decode on up to a frame; those on the way are kept, for what goes back."""
        key = self._stamps.key_before(index) if self._stamps.told else 0
        ahead = index - self._next
        if -BACK <= ahead < 0:
            # It is played backwards: those before it in its group are wanted next.
            self._kept.most = MOST_KEPT
        if self._frames is None or ahead < 0 or (ahead > GAP and key > self._next):
            self._rewind(key)
        found = self._found(index)
        if found is None:
            # Not all files can be gone into where they say.
            self._rewind(0)
            found = self._found(index)
        if found is None:
            raise unreadable(self._name, index)
        return found

    def _found(self, index: int) -> VideoFrame | None:
        """Return the last frame up to one, of those from where the file is."""
        found = None
        for frame in self._frames or ():
            number = self._number_of(frame)
            if number is None:
                continue
            self._next = number + 1
            self._kept.put(number, frame, sum(plane.buffer_size for plane in frame.planes))
            if number <= index:
                found = frame
            if number >= index:
                return found
        self._frames = None
        return found

    def _decoded(self) -> Iterator[VideoFrame]:
        """Yield frames from where the file is; what is damaged is passed over."""
        for packet in self._container.demux(self._stream):
            try:
                yield from self._decoder.decode(packet if packet.size else None)
            except (av.error.InvalidDataError, av.error.EOFError):
                continue

    def _number_of(self, frame: VideoFrame) -> int | None:
        """Return which frame of the file this is; None of what it does not show."""
        if not self._stamps.told:
            return self._next
        number = int(np.searchsorted(self._stamps.at, frame.pts or 0))
        there = number < len(self._stamps.at) and self._stamps.at[number] == frame.pts
        return number if there else None

    @cached_property
    def _size(self) -> tuple[int, int]:
        """The size of the first frame, to which all others are brought."""
        first = self._frame(0)
        return first.width, first.height

    def _drawn(self, frame: VideoFrame) -> Pixels:
        colours, size = coded(frame), self._size
        rgb = in_rgb(self._convert, frame, colours, "bgra", Interpolation.BICUBIC, size)
        found = np.asarray(rgb.to_ndarray(), np.uint8)
        if _is_clear(frame):
            premultiply(found)
        turn = TURNS.get(frame.rotation % 360)
        return found if turn is None else np.asarray(cv2.rotate(found, turn), np.uint8)


def _is_clear(frame: VideoFrame) -> bool:
    """Whether a frame has transparency."""
    return any(part.is_alpha for part in frame.format.components)
