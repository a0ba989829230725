"""What the drawing library is told: paths, colours, paints, maps, images."""

from functools import lru_cache

import numpy as np
import skia

from coaster.geometry import maps
from coaster.geometry.bezier import Floats
from coaster.media.pictures import Pixels
from coaster.render.figures import Figure
from coaster.render.outlines import MITER, Outline, Ramp
from coaster.render.shades import WASH

BLENDS = {
    "normal": skia.BlendMode.kSrcOver,
    "multiply": skia.BlendMode.kMultiply,
    "screen": skia.BlendMode.kScreen,
    "overlay": skia.BlendMode.kOverlay,
    "darken": skia.BlendMode.kDarken,
    "lighten": skia.BlendMode.kLighten,
    "color-dodge": skia.BlendMode.kColorDodge,
    "color-burn": skia.BlendMode.kColorBurn,
    "hard-light": skia.BlendMode.kHardLight,
    "soft-light": skia.BlendMode.kSoftLight,
    "difference": skia.BlendMode.kDifference,
    "exclusion": skia.BlendMode.kExclusion,
    "hue": skia.BlendMode.kHue,
    "saturation": skia.BlendMode.kSaturation,
    "color": skia.BlendMode.kColor,
    "luminosity": skia.BlendMode.kLuminosity,
}


CAPS = {
    "round": skia.Paint.kRound_Cap,
    "butt": skia.Paint.kButt_Cap,
    "square": skia.Paint.kSquare_Cap,
}
JOINS = {
    "round": skia.Paint.kRound_Join,
    "miter": skia.Paint.kMiter_Join,
    "bevel": skia.Paint.kBevel_Join,
}


@lru_cache(maxsize=1024)
def skia_path(figure: Figure) -> skia.Path:
    path = skia.Path()
    for run in figure.runs:
        path.moveTo(*map(float, run.cubics[0, 0]))
        for cubic in run.cubics:
            path.cubicTo(*map(float, cubic[1:].ravel()))
        if run.closed:
            path.close()
    return path


def colour_of(text: str) -> int:
    value = int(text[1:7], 16)
    alpha = int(text[7:9], 16) if len(text) == 9 else 255
    return alpha << 24 | value


def paints(outline: Outline, opacity: float) -> list[skia.Paint]:
    """Return the fill's and the stroke's paint, those of them that there are, in their order."""
    made = []
    if outline.fill:
        made.append(_filling(outline.fill))
    if outline.stroke and outline.stroke_width > 0:
        stroke = skia.Paint(
            AntiAlias=True, Color=colour_of(outline.stroke), Style=skia.Paint.kStroke_Style
        )
        stroke.setStrokeWidth(outline.drawn_width)
        pen = outline.pen
        stroke.setStrokeCap(CAPS[pen.cap])
        stroke.setStrokeJoin(JOINS[pen.join])
        stroke.setStrokeMiter(MITER)
        if pen.dash:
            # Cut to one period: the library counts in single precision.
            phase = pen.offset % sum(pen.dash)
            stroke.setPathEffect(skia.DashPathEffect.Make(list(pen.dash), phase))
        made.append(stroke)
    for paint in made:
        paint.setAlphaf(paint.getAlphaf() * opacity)
    return made[::-1] if outline.under else made


def _filling(fill: str | Ramp) -> skia.Paint:
    shown = fill if isinstance(fill, str) else fill.shown
    if isinstance(shown, str):
        return skia.Paint(AntiAlias=True, Color=colour_of(shown))
    if shown.form == "linear" and (shader := _straight(shown)) is not None:
        return skia.Paint(AntiAlias=True, Shader=shader)
    # Dithered, it is drawn in half the time: the library takes another way then.
    return skia.Paint(AntiAlias=True, Dither=True, Shader=_gradient(shown))


SHADES = 4096
"""Colours of a strip: a sixteenth of a level apart, were it from black to white."""


def _gradient(ramp: Ramp) -> skia.Shader:
    start, end = (skia.Point(*spot) for spot in (ramp.start, ramp.end))
    stops = [colour_of(each) for each in ramp.colours], list(ramp.offsets)
    if ramp.form == "radial":
        return skia.GradientShader.MakeRadial(start, ramp.radius, *stops)
    return skia.GradientShader.MakeLinear([start, end], *stops)


def _straight(ramp: Ramp) -> skia.Shader | None:
    """Return a gradient straight across or down as an image of one row or column, which is drawn in
    a tenth of the time; None of any other.
    """
    (x, y), (end_x, end_y) = ramp.start, ramp.end
    if x != end_x and y != end_y:
        return None
    wide, high = ((end_x - x) / SHADES or 1.0), ((end_y - y) / SHADES or 1.0)
    to_ramp = skia.Matrix.MakeAll(wide, 0, x, 0, high, y, 0, 0, 1)
    strip = _strip(ramp.colours, ramp.offsets, down=x == end_x)
    clamped = skia.TileMode.kClamp
    return strip.makeShader(clamped, clamped, skia.SamplingOptions(), to_ramp)


@lru_cache(maxsize=64)
def _strip(colours: tuple[str, ...], offsets: tuple[float, ...], *, down: bool) -> skia.Image:
    pixels = np.zeros((SHADES, 1, 4) if down else (1, SHADES, 4), np.uint8)
    along = Ramp("linear", (0.0, 0.0), (0.0, SHADES) if down else (SHADES, 0.0), colours, offsets)
    canvas_on(pixels).drawPaint(skia.Paint(Shader=_gradient(along)))
    return as_image(pixels)


def draw_outline(canvas: skia.Canvas, outline: Outline, opacity: float) -> None:
    """Fill and stroke an outline; a stroke on one side of the edge is cut off at the edge."""
    path = skia_path(outline.figure)
    for paint in paints(outline, opacity):
        if outline.side == "middle" or paint.getStyle() != skia.Paint.kStroke_Style:
            canvas.drawPath(path, paint)
            continue
        inside = outline.side == "inside"
        canvas.save()
        how = skia.ClipOp.kIntersect if inside else skia.ClipOp.kDifference
        canvas.clipPath(path, how, doAntiAlias=True)
        canvas.drawPath(path, paint)
        canvas.restore()


def tint_filter(tint: Floats) -> skia.ColorFilter | None:
    """Return what lays a colour (red, green, blue, alpha, 0..1) over others, within their shape;
    or what multiplies red, green and blue, and adds to them (6 numbers, see ``shades.washed``).
    """
    if len(tint) == WASH:
        # Of red, green, blue and alpha, each by these and one.
        told = np.eye(4, 5)
        told[[0, 1, 2], [0, 1, 2]], told[:3, 4] = tint[:3], tint[3:]
        return skia.ColorFilters.Matrix(told.ravel().tolist())
    red, green, blue, alpha = (round(255 * float(each)) for each in tint)
    colour = skia.Color(red, green, blue, alpha)
    return skia.ColorFilters.Blend(colour, skia.BlendMode.kSrcATop)


def skia_matrix(m: Floats) -> skia.Matrix:
    # The whole 3x3 map: Skia takes perspective as it comes.
    return skia.Matrix.MakeAll(*map(float, maps.full(m).ravel()))


def as_image(pixels: Pixels) -> skia.Image:
    """Copy pixels into an image; sharing them is a use after free in this binding."""
    return skia.Image.fromarray(
        pixels, skia.kBGRA_8888_ColorType, skia.kPremul_AlphaType, copy=True
    )


def canvas_on(pixels: Pixels) -> skia.Canvas:
    """Return a canvas that draws into ``pixels``, which must outlive it."""
    return skia.Canvas(pixels, skia.kBGRA_8888_ColorType, skia.kPremul_AlphaType)
