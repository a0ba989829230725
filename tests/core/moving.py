"""Moving pictures made for tests: each frame has its number painted on it, to be read back."""

import io
import zipfile
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path as File

import av
import numpy as np
from PIL import Image

BITS, BLOCK = 10, 16
"""The number is painted as so many blocks in a row, white for 1 and black for 0."""
SIZE = (BITS * BLOCK, 4 * BLOCK)


def painted(number: int, size: tuple[int, int] = SIZE, alpha: int = 255) -> np.ndarray:
    """Return a frame (height, width, 4), straight RGBA, that carries its number in its top row."""
    (width, height), (wide, high) = size, (size[0] // BITS, size[1] // 4)
    rgba = np.full((height, width, 4), (60, 120, 200, alpha), np.uint8)
    for bit in range(BITS):
        shade = 255 if number >> bit & 1 else 0
        rgba[:high, bit * wide : (bit + 1) * wide] = (shade, shade, shade, 255)
    return rgba


def number_on(pixels: np.ndarray) -> int:
    """Read the number off a frame, whatever its compression left of it."""
    height, width = pixels.shape[:2]
    row = pixels[int(height / 8), [int((bit + 0.5) * width / BITS) for bit in range(BITS)], 1]
    return sum(1 << bit for bit, shade in enumerate(row) if shade > 127)


def film(
    file: File,
    count: int,
    *,
    codec: str = "libx264",
    pixels: str = "yuv420p",
    rate: Fraction = Fraction(30),
    stamps: list[int] | None = None,
    options: dict[str, str] | None = None,
    size: tuple[int, int] = SIZE,
    alpha: int = 255,
    turned: int = 0,
    shape: Fraction | None = None,
    sound: bool = False,
    paint: Callable[[int, tuple[int, int], int], np.ndarray] = painted,
) -> File:
    """Write a video of so many numbered frames, or those that ``paint`` makes; ``stamps`` are in
    ticks of 1 / 90000 s.
    """
    base = Fraction(1, 90_000) if stamps else 1 / rate
    with av.open(str(file), "w") as container:
        stream = container.add_stream(codec, rate=rate, options=options or {})
        stream.width, stream.height, stream.pix_fmt = *size, pixels
        stream.time_base = stream.codec_context.time_base = base
        if shape:
            stream.codec_context.sample_aspect_ratio = shape
        if turned:
            stream.set_display_rotation(turned)
        noise = container.add_stream("aac", rate=44_100) if sound else None
        for number in range(count):
            frame = av.VideoFrame.from_ndarray(paint(number, size, alpha), format="rgba")
            frame = frame.reformat(format=pixels)
            frame.pts, frame.time_base = stamps[number] if stamps else number, base
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
        if noise is not None:
            quiet = av.AudioFrame.from_ndarray(np.zeros((1, 1024), np.float32), "fltp", "mono")
            quiet.sample_rate, quiet.pts = 44_100, 0
            container.mux(noise.encode(quiet))
            container.mux(noise.encode(None))
    return file


def animated(file: File, count: int, kind: str, milliseconds: int | list[int] = 40) -> File:
    """Write an animated GIF, PNG or WebP."""
    first, *rest = (Image.fromarray(painted(i)) for i in range(count))
    more = {"lossless": True} if kind == "WEBP" else {"disposal": 2} if kind == "GIF" else {}
    first.save(file, kind, save_all=True, append_images=rest, duration=milliseconds, loop=0, **more)
    return file


def stills(file: File, numbers: list[int]) -> File:
    """Write numbered PNG files into a zip, the last one first."""
    with zipfile.ZipFile(file, "w") as archive:
        for place, number in reversed(list(enumerate(numbers))):
            out = io.BytesIO()
            Image.fromarray(painted(place)).save(out, "PNG")
            archive.writestr(f"tank_{number:04}.png", out.getvalue())
    return file
