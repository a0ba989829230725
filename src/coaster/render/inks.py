"""What the drawing library is told: paths, colours, paints, maps, images."""

from functools import lru_cache

import skia

from coaster.geometry import maps
from coaster.geometry.bezier import Floats
from coaster.media.pictures import Pixels
from coaster.render.figures import Figure
from coaster.render.outlines import MITER, Outline, Ramp

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
    stops = [colour_of(each) for each in shown.colours], list(shown.offsets)
    if shown.form == "radial":
        shader = skia.GradientShader.MakeRadial(skia.Point(*shown.start), shown.radius, *stops)
    else:
        ends = [skia.Point(*shown.start), skia.Point(*shown.end)]
        shader = skia.GradientShader.MakeLinear(ends, *stops)
    return skia.Paint(AntiAlias=True, Shader=shader)


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
