"""Pictures on their way in: checked by content, decoded within limits, never run."""

import io
import warnings
from dataclasses import dataclass
from pathlib import Path as File

import numpy as np
import skia
from PIL import Image, ImageOps, UnidentifiedImageError

from coaster.errors import MediaError
from coaster.formats import safe_svg, svg
from coaster.media.pictures import PNG, Pixels, encoded_png

LARGEST_FILE = 40_000_000
MOST_PIXELS = 50_000_000
LONGEST_GIVEN = 100_000
LONGEST_SIDE = 4096
"""Working pictures are no larger than this; bigger ones are scaled down once, on the way in."""
ENDINGS = {"PNG": ".png", "JPEG": ".jpg", "WEBP": ".webp"}
ORIENTATION = 0x0112
"""The EXIF tag that says which way is up."""
_CLAIMS = {".png": "PNG", ".jpg": "JPEG", ".jpeg": "JPEG", ".webp": "WEBP", ".svg": "SVG"}


@dataclass(frozen=True)
class Imported:
    """A picture ready for use: its file's bytes and ending, its size in px, and what was done."""

    data: bytes
    ending: str
    width: float
    height: float
    notes: tuple[str, ...] = ()


def import_picture(data: bytes, name: str) -> Imported:
    """Check an uploaded picture and bring it into a form that every part can draw.

    PNG, JPEG and WebP are kept as they are unless they are turned by their EXIF data, move, use
    other colours than RGB, or are too large; SVG is drawn once, finely.

    Errors: MediaError with one sentence: empty, too large, not what its name says, broken.
    """
    if not data:
        raise MediaError(f"{name} is empty.")
    if len(data) > LARGEST_FILE:
        raise MediaError(
            f"{name} is {len(data) / 1e6:.0f} MB; pictures may have {LARGEST_FILE // 1_000_000} MB."
        )
    kind = kind_of(data)
    claimed = _CLAIMS.get(File(name).suffix.lower())
    if kind is None:
        raise MediaError(
            f"{name} is no picture (PNG, JPEG, WebP, SVG), and no footage that can be read."
        )
    if claimed != kind:
        ending = File(name).suffix or "no ending"
        raise MediaError(
            f"{name} is a {kind} picture by its content but has {ending}; rename it and try again."
        )
    return _import_svg(data, name) if kind == "SVG" else _import_raster(data, name, kind)


def kind_of(data: bytes) -> str | None:
    """Return PNG, JPEG, WEBP or SVG by the first bytes, or None."""
    if data.startswith(PNG):
        return "PNG"
    if data.startswith(b"\xff\xd8\xff"):
        return "JPEG"
    if data[:4] == b"RIFF" and data[8:12] == b"WEBP":
        return "WEBP"
    return "SVG" if b"<svg" in data[:4096] else None


def _upright(image: Image.Image, name: str) -> Image.Image:
    try:
        upright = ImageOps.exif_transpose(image)
        upright.load()
    except (OSError, ValueError, SyntaxError, EOFError) as error:
        raise MediaError(f"{name} is broken or cut short.") from error
    return upright


def _import_raster(data: bytes, name: str, kind: str) -> Imported:
    image = _open(data, name)
    _check_size(image, name)
    notes, changed = [], image.mode not in ("RGB", "RGBA")
    if getattr(image, "n_frames", 1) > 1:
        notes.append("It moves; its first frame is used.")
        changed = True
    upright = _upright(image, name)
    changed = changed or image.getexif().get(ORIENTATION, 1) != 1
    width, height = upright.size
    if max(upright.size) > LONGEST_SIDE:
        upright.thumbnail((LONGEST_SIDE, LONGEST_SIDE), Image.Resampling.LANCZOS)
        notes.append(f"It is kept at {upright.width} × {upright.height} px.")
        changed = True
    if not changed:
        return Imported(data, ENDINGS[kind], float(width), float(height), tuple(notes))
    out = io.BytesIO()
    # Palettes, CMYK and 16 bits are made what all that follows can take.
    upright.convert("RGBA" if _has_alpha(upright) else "RGB").save(out, "PNG")
    return Imported(out.getvalue(), ".png", float(width), float(height), tuple(notes))


def _check_size(image: Image.Image, name: str) -> None:
    if max(image.size) > LONGEST_GIVEN:
        raise MediaError(
            f"{name} is {image.width:,} × {image.height:,} px; a side may have"
            f" {LONGEST_GIVEN:,}. Cut it to what is to be seen and try again."
        )
    if image.width * image.height > MOST_PIXELS:
        raise MediaError(
            f"{name} has {image.width * image.height / 1e6:.0f} megapixels; "
            f"pictures may have {MOST_PIXELS // 1_000_000}. Make it smaller and try again."
        )


def _has_alpha(image: Image.Image) -> bool:
    return "A" in image.getbands() or "transparency" in image.info


def _open(data: bytes, name: str) -> Image.Image:
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            return Image.open(io.BytesIO(data), formats=("PNG", "JPEG", "WEBP"))
    except Image.DecompressionBombError as error:
        raise MediaError(
            f"{name} has too many pixels; pictures may have {MOST_PIXELS // 1_000_000} million."
        ) from error
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError) as error:
        raise MediaError(f"{name} is broken or cut short.") from error


def _import_svg(data: bytes, name: str) -> Imported:
    root = safe_svg.parse(data)
    for embedded in safe_svg.embedded_pictures(root):
        _check_size(_open(embedded, f"A picture in {name}"), f"A picture in {name}")
    width, height = svg.size_of(root)
    if max(width, height) > 20_000:
        raise MediaError(
            f"{name} is {width:.0f} × {height:.0f} px; drawings may have 20,000 px a side."
        )
    scale = min(2.0, LONGEST_SIDE / max(width, height))
    pixels = rasterise(data, max(1, round(width * scale)), max(1, round(height * scale)))
    if not pixels[..., 3].any():
        raise MediaError(f"{name} shows nothing when it is drawn.")
    return Imported(encoded_png(pixels), ".png", width, height)


def rasterise(data: bytes, width: int, height: int) -> Pixels:
    """Draw an SVG to fill ``width`` x ``height`` px.

    Errors: MediaError: it cannot be drawn.
    """
    root = safe_svg.parse(data)
    own = svg.size_of(root)
    dom = skia.SVGDOM.MakeFromStream(skia.MemoryStream(data))
    if dom is None:
        raise MediaError("The drawing cannot be drawn.")
    dom.setContainerSize(skia.Size(*own))
    pixels = np.zeros((height, width, 4), np.uint8)
    canvas = skia.Canvas(pixels, skia.kBGRA_8888_ColorType, skia.kPremul_AlphaType)
    canvas.scale(width / own[0], height / own[1])
    dom.render(canvas)
    return pixels
