"""How the colours of a video's frames are coded, and what they are in RGB."""

from av.video.frame import VideoFrame
from av.video.reformatter import ColorRange, Colorspace, Interpolation, VideoReformatter

FULL_RANGE = 2
HD_LINES = 720
MATRICES = {
    1: Colorspace.ITU709,
    4: Colorspace.FCC,
    5: Colorspace.ITU601,
    6: Colorspace.ITU601,
    7: Colorspace.SMPTE240M,
    9: Colorspace.BT2020,
    10: Colorspace.BT2020,
}
"""How files say that colours are coded (ISO/IEC 23091-2), and what the library calls it."""
Coded = tuple[Colorspace, ColorRange]


def coded(frame: VideoFrame) -> Coded:
    """Return how a frame's colours are coded; as players have it where nothing is said."""
    usual = Colorspace.ITU709 if frame.height >= HD_LINES else Colorspace.ITU601
    full = frame.color_range == FULL_RANGE or frame.format.name.startswith("yuvj")
    spread = ColorRange.JPEG if full else ColorRange.MPEG
    return MATRICES.get(frame.colorspace, usual), spread


def in_rgb(
    convert: VideoReformatter,
    frame: VideoFrame,
    colours: Coded,
    pixels: str,
    how: Interpolation,
    size: tuple[int, int] | None = None,
) -> VideoFrame:
    """Return a frame in one of the library's formats of RGB, all 256 levels used."""
    matrix, spread = colours
    return convert.reformat(
        frame,
        *(size or (frame.width, frame.height)),
        format=pixels,
        src_colorspace=matrix,
        dst_colorspace=Colorspace.ITU709,
        src_color_range=spread,
        dst_color_range=ColorRange.JPEG,
        interpolation=how,
    )
