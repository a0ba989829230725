"""The program as SVG: one frame as elements, or as a file of its own."""

import zlib
from collections.abc import Callable, Iterator
from typing import Any

from coaster.errors import EditRefused
from coaster.formats.pathdata import number
from coaster.formats.quoting import quoted
from coaster.geometry import affine, maps
from coaster.geometry.bezier import Floats
from coaster.motion.colours import to_hex
from coaster.render.covers import REACH
from coaster.render.display import Drawn, Item, Part, Pop, Program, Push, Sort, Sorted, Through
from coaster.render.outlines import Face, Outline, Ramp
from coaster.render.shades import WASH
from coaster.render.svg_masks import DIGITS, is_sayable, masks_of, matrix, seen_through

Href = Callable[[str, int], str]
"""Where a picture is, by the name of its file and the index in it."""
SHOWN = "shown"
"""The attribute of a group of looks that says which of them is seen, where all frames are alike."""


def file(
    program: Program, frame: int, href: Href, *, alike: bool = False, again: bool = False
) -> str:
    """Return one frame as an SVG file; with ``alike`` in the same elements as every other
    one, which differ in their attributes only: what is not seen is there, and footage stands still.
    Of several looks of a layer only the one that is seen is written where it is ``again`` one of
    such frames: the others are as they were.

    Errors: EditRefused: something is drawn in perspective, which this cannot say; where all are
            alike it is left out.
    """
    size = f'width="{program.width}" height="{program.height}"'
    box = f"0 0 {program.width} {program.height}"
    ground = ""
    if program.background:
        ground = f"<rect {size}{_attributes(fill=program.background)}/>"
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" {size} viewBox="{box}">'
        f"{ground}{elements(program, frame, href, alike=alike, again=again)}</svg>\n"
    )


def elements(
    program: Program, frame: int, href: Href, *, alike: bool = False, again: bool = False
) -> str:
    """Return what is drawn in one frame, from the back to the front, as ``file``."""
    size = program.width, program.height
    steps = program.one_by_one(None if alike else frame)
    return _Writer(frame, href, size, alike, again).until_end(steps)[0]


class _Writer:
    def __init__(
        self, frame: int, href: Href, size: tuple[int, int], alike: bool, again: bool
    ) -> None:
        self.frame, self.href, self.size = frame, href, size
        self.alike, self.again = alike, again
        self.count = 0

    def until_end(self, steps: Iterator[Drawn]) -> tuple[str, Drawn | None]:
        """Return the elements up to the end, or to the ``Through`` or ``Pop`` of what is drawn
        apart, and that one.
        """
        parts: list[str] = []
        for step in steps:
            if isinstance(step, Push):
                parts.append(self._apart(step, steps))
            elif isinstance(step, Sort):
                parts.append(self._by_depth(steps))
            elif isinstance(step, Through | Pop | Part | Sorted):
                return "".join(parts), step
            elif self.alike:
                parts.append(_with_looks(step, self.frame, self.href, again=self.again))
            elif step.strength(self.frame) > 0:
                parts.append(_item(step, self.frame, self.href))
        return "".join(parts), None

    def _by_depth(self, steps: Iterator[Drawn]) -> str:
        """Return what is sorted; where all frames are to be alike, as it is in the first."""
        found, ended = self.until_end(steps)
        sets: list[tuple[float, str]] = []
        while isinstance(ended, Part):
            row = self.frame if len(ended.away) > 1 and not self.alike else 0
            far = float(ended.away[row])
            inside, ended = self.until_end(steps)
            sets.append((far, inside))
        sets.sort(key=lambda each: -each[0])
        return found + "".join(inside for _, inside in sets)

    def _apart(self, push: Push, steps: Iterator[Drawn]) -> str:
        inside, ended = self.until_end(steps)
        while isinstance(ended, Through):
            seen, following = self.until_end(steps)
            self.count += 1
            name = f"through-{self.count}-{push.name}"
            inside = (
                f'{seen_through(ended, seen, name, self.size)}<g mask="url(#{name})">{inside}</g>'
            )
            ended = following
        return f"{_pushed(push, self.frame, self.size, self.alike)}{inside}</g>"


def _pushed(push: Push, frame: int, size: tuple[int, int], alike: bool) -> str:
    """Open a group, and define its mask before it."""
    style = f"isolation:isolate;mix-blend-mode:{push.blend}"
    how = {"opacity": push.strength(frame), "style": style}
    tint = push.tinted(frame)
    if tint is None and not push.soft:
        return _covered(push, frame, size, alike, how)
    how["filter"] = f"url(#tint-{push.name})"
    filters = _filter(tint, push.soft, f"tint-{push.name}", size)
    return f"{filters}{_covered(push, frame, size, alike, how)}"


def _filter(tint: Floats | None, soft: float, name: str, size: tuple[int, int]) -> str:
    """Define what lays a colour over others, within their shape, and softens them."""
    room = number(REACH * soft, DIGITS)
    wide, high = (number(side + 2 * REACH * soft, DIGITS) for side in size)
    box = {"x": f"-{room}" if soft else 0, "y": f"-{room}" if soft else 0}
    where = _attributes(id=name, filterUnits="userSpaceOnUse", **box, width=wide, height=high)
    space = _attributes(**{"color-interpolation-filters": "sRGB"})
    softened = f"<feGaussianBlur{_attributes(stdDeviation=number(soft, DIGITS))}/>" if soft else ""
    return f"<filter{where}{space}>{_tinting(tint) if tint is not None else ''}{softened}</filter>"


def _tinting(tint: Floats) -> str:
    if len(tint) == WASH:
        parts = zip("RGB", tint[:3], tint[3:], strict=True)
        told = "".join(
            f"<feFunc{name}{_attributes(type='linear', slope=factor, intercept=added)}/>"
            for name, factor, added in parts
        )
        return f"<feComponentTransfer>{told}</feComponentTransfer>"
    flood = _attributes(**{"flood-color": to_hex([*tint[:3], 1.0]), "flood-opacity": tint[3]})
    over = _attributes(operator="atop", in2="SourceGraphic")
    return f"<feFlood{flood}/><feComposite{over}/>"


def _covered(
    push: Push, frame: int, size: tuple[int, int], alike: bool, how: dict[str, Any]
) -> str:
    if push.cover is None:
        return f"<g{_attributes(**how)}>"
    if not is_sayable(push.cover):
        if alike:
            return f"<g{_attributes(**how)}>"
        raise EditRefused("A mask in perspective cannot be written as SVG.")
    name = f"mask-{push.name}"
    masks = masks_of(push.cover, frame, name, size, alike=alike)
    return f"{masks}<g{_attributes(**how, mask=f'url(#{name})')}>"


def _item(item: Item, frame: int, href: Href) -> str:
    if not maps.is_flat(item.maps):
        raise EditRefused("A layer in perspective cannot be written as SVG.")
    inner = face(item.faces.at(frame), href, item.outlines(frame))
    how = _attributes(transform=matrix(item.map(frame)), opacity=item.strength(frame))
    return f"<g{how}>{inner}</g>"


def _with_looks(item: Item, frame: int, href: Href, *, again: bool) -> str:
    """Return an item with all faces that it ever has, of which one is seen; ``again`` with that."""
    if not maps.is_flat(item.maps):
        return ""
    faces, on = item.faces, item.paints.on if item.paints else None
    several = len(faces.faces) > 1 and not faces.first.picture
    seen = faces.number(frame if several else 0)
    inner = ""
    for index, look in enumerate(faces.faces):
        if index != seen and (again or not several):
            continue
        outlines = tuple(on(one, frame) for one in look.outlines) if on else None
        inside = face(look, href, outlines)
        display = "inline" if index == seen else "none"
        inner += f'<g display="{display}">{inside}</g>' if several else inside
    if several:
        inner = f'<g {SHOWN}="{seen}">{inner}</g>'
    row = item.map(frame).tolist()
    if len(item.maps) > 1:
        # Told by where its middle is: what turns would move on an arc by its corner.
        left, top, width, height = item.faces.first.box
        x, y = left + width / 2, top + height / 2
        row = affine.product(row, affine.moved(x, y))
        inner = f"<g{_attributes(transform=matrix(affine.moved(-x, -y)))}>{inner}</g>"
    how = _attributes(transform=matrix(row), opacity=item.strength(frame))
    return f"<g{how}>{inner}</g>"


def face(shown: Face, href: Href, outlines: tuple[Outline, ...] | None = None) -> str:
    """Return a face as elements in its own px."""
    picture = ""
    if shown.picture is not None:
        left, top, width, height = shown.box
        box = _attributes(x=left, y=top, width=width, height=height, href=href(*shown.picture))
        picture = f'<image preserveAspectRatio="none"{box}/>'
    return picture + "".join(_outline(one) for one in outlines or shown.outlines)


def _outline(outline: Outline) -> str:
    shape = {"d": outline.figure.path_data()}
    defined, filled = _filling(outline.fill)
    if outline.stroke is None or outline.stroke_width <= 0:
        return f"{defined}<path{_attributes(**shape, **filled)}/>"
    stroked = _stroking(outline, outline.stroke)
    if outline.side == "middle":
        return f"{defined}<path{_attributes(**shape, **filled, **stroked)}/>"
    cut, within = _one_side(outline)
    fill = f"<path{_attributes(**shape, **filled)}/>" if outline.fill else ""
    return f"{defined}{cut}{fill}<path{_attributes(**shape, fill='none', **stroked, **within)}/>"


def _stroking(outline: Outline, colour: str) -> dict[str, Any]:
    pen = outline.pen
    found = _paint("stroke", colour) | {"stroke-width": outline.drawn_width}
    found |= {"stroke-linecap": pen.cap, "stroke-linejoin": pen.join}
    if outline.under:
        found["paint-order"] = "stroke"
    if pen.dash:
        found["stroke-dasharray"] = " ".join(number(v, DIGITS) for v in pen.dash)
        found |= {"stroke-dashoffset": pen.offset} if pen.offset else {}
    return found


def _named(kind: str, content: str) -> str:
    """Return an id for what is defined: the same for the same, so that it does not matter which of
    two in a document is meant.
    """
    return f"{kind}-{zlib.crc32(content.encode()):08x}"


def _filling(fill: str | Ramp | None) -> tuple[str, dict[str, str | float]]:
    """Return what has to be defined for a fill, and its attributes."""
    shown = fill.shown if isinstance(fill, Ramp) else fill
    if not isinstance(shown, Ramp):
        return "", _paint("fill", shown)
    (x1, y1), (x2, y2) = shown.start, shown.end
    ends = {"x1": x1, "y1": y1, "x2": x2, "y2": y2}
    if shown.form == "radial":
        ends = {"cx": x1, "cy": y1, "r": shown.radius}
    stops = "".join(
        f"<stop{_attributes(offset=at, **_paint('stop', colour, part='-color'))}/>"
        for colour, at in zip(shown.colours, shown.offsets, strict=True)
    )
    name = _named("ramp", f"{ends}{stops}")
    tag, units = f"{shown.form}Gradient", {"gradientUnits": "userSpaceOnUse"}
    defined = f"<{tag}{_attributes(id=name, **units, **ends)}>{stops}</{tag}>"
    return defined, {"fill": f"url(#{name})"}


def _one_side(outline: Outline) -> tuple[str, dict[str, str]]:
    """Return what cuts a stroke off at the edge, and the attribute that uses it."""
    data = outline.figure.path_data()
    if outline.side == "inside":
        name = _named("inside", data)
        return f'<clipPath id="{name}"><path d="{data}"/></clipPath>', {
            "clip-path": f"url(#{name})"
        }
    left, top, right, bottom = outline.figure.bounds()
    room = outline.stroke_width * outline.reach + 1
    box = {"x": left - room, "y": top - room}
    box |= {"width": right - left + 2 * room, "height": bottom - top + 2 * room}
    name = _named("outside", f"{data}{room}")
    where = _attributes(id=name, maskUnits="userSpaceOnUse", **box)
    ground = f"<rect{_attributes(fill='#ffffff', **box)}/>"
    return f'<mask{where}>{ground}<path d="{data}"/></mask>', {"mask": f"url(#{name})"}


def _paint(name: str, colour: str | None, part: str = "") -> dict[str, Any]:
    """Return a fill, a stroke or the ``part`` of a stop; its alpha apart, as not all readers know
    colours of eight digits.
    """
    if colour is None:
        return {name: "none"}
    alpha = int(colour[7:9], 16) / 255 if len(colour) == 9 else 1.0
    return {f"{name}{part}": colour[:7]} | ({} if alpha == 1 else {f"{name}-opacity": alpha})


def _attributes(**values: Any) -> str:
    """Write attributes; numbers as short as they can be, a full opacity not at all."""
    written = []
    for name, value in values.items():
        if name == "opacity" and value == 1:
            continue
        text = value if isinstance(value, str) else number(float(value), DIGITS)
        written.append(f" {name}={quoted(text)}")
    return "".join(written)
