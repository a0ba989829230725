"""A cover as masks of SVG: white where something is seen, one mask in another where need be."""

from collections.abc import Iterable

from coaster.formats.pathdata import number
from coaster.geometry import maps
from coaster.render.covers import REACH, Cover, Cut
from coaster.render.display import Through

DIGITS = 6


def matrix(row: Iterable[float]) -> str:
    return f"matrix({' '.join(number(float(v), DIGITS) for v in row)})"


def masks_of(
    cover: Cover, frame: int, name: str, size: tuple[int, int], *, alike: bool = False
) -> str:
    """Return the elements that define a mask by this id, for a picture of this size in px; with
    ``alike`` the same ones in every frame.
    """
    return _Masks(name, size).of(cover, frame, alike)


class _Masks:
    def __init__(self, name: str, size: tuple[int, int]) -> None:
        self.name = name
        self.box = f'x="0" y="0" width="{size[0]}" height="{size[1]}"'
        self.size = size
        self.defined: list[str] = []

    def of(self, cover: Cover, frame: int, alike: bool) -> str:
        grow, blur, strength = cover.at(frame)
        inside = self._cuts(cover, frame, grow)
        if blur > 0 or (alike and cover.blur.any()):
            inside = f'<g filter="{self._blur(blur)}">{inside}</g>'
        if cover.inverted or strength < 1 or (alike and cover.lets_through):
            alone = self._mask("cover", inside)
            # White lies under it: as strong as what is not masked away.
            ground = "" if cover.inverted else f' opacity="{number(1 - strength, DIGITS)}"'
            over = f' fill="#000" opacity="{number(strength, DIGITS)}"' if cover.inverted else ""
            inside = self._rect(ground) + self._rect(f'{over} mask="{alone}"')
        self._mask("", inside)
        return "".join(self.defined)

    def _rect(self, how: str) -> str:
        white = "" if "fill=" in how else ' fill="#fff"'
        return f"<rect {self.box}{white}{how}/>"

    def _mask(self, word: str, inside: str) -> str:
        """Define a mask; return what refers to it."""
        known = f"{self.name}-{word}" if word else self.name
        units = 'maskUnits="userSpaceOnUse"'
        self.defined.append(f'<mask id="{known}" {units} {self.box}>{inside}</mask>')
        return f"url(#{known})"

    def _blur(self, blur: float) -> str:
        room, (width, height) = number(REACH * blur, DIGITS), self.size
        across, down = (number(side + 2 * REACH * blur, DIGITS) for side in (width, height))
        self.defined.append(
            f'<filter id="{self.name}-blur" filterUnits="userSpaceOnUse" x="-{room}" y="-{room}"'
            f' width="{across}" height="{down}" color-interpolation-filters="sRGB">'
            f'<feGaussianBlur stdDeviation="{number(blur, DIGITS)}"/></filter>'
        )
        return f"url(#{self.name}-blur)"

    def _cuts(self, cover: Cover, frame: int, grow: float) -> str:
        inside = ""
        for place, cut in enumerate(cover.cuts):
            part = self._part(cut, frame, grow, str(place))
            if cut.how == "meet":
                inside = f'<g mask="{self._mask(f"{place}-meet", part)}">{inside}</g>'
            else:
                inside += part
        return inside

    def _part(self, cut: Cut, frame: int, grow: float, word: str) -> str:
        row = cut.maps[frame if len(cut.maps) > 1 else 0]
        path = f'd="{cut.figure.path_data()}" transform="{matrix(row)}"'
        colour = "#000" if cut.how == "take" else "#fff"
        width = f'stroke-width="{number(2 * abs(grow), DIGITS)}" stroke-linejoin="round"'
        if grow >= 0:
            edge = f' stroke="{colour}" {width}' if grow else ""
            return f'<path {path} fill="{colour}"{edge}/>'
        kept = f'{self._rect("")}<path {path} fill="none" stroke="#000" {width}/>'
        return f'<g mask="{self._mask(f"{word}-edge", kept)}"><path {path} fill="{colour}"/></g>'


def is_sayable(cover: Cover) -> bool:
    """Whether SVG has the means: it knows no perspective."""
    return all(maps.is_flat(cut.maps) for cut in cover.cuts)


DARK = "0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 1 0"
"""Black, as opaque as it was."""


def seen_through(through: Through, inside: str, name: str, size: tuple[int, int]) -> str:
    """Return the elements that define a mask by this id, of what is seen through."""
    box = f'x="0" y="0" width="{size[0]}" height="{size[1]}"'
    units = f'maskUnits="userSpaceOnUse" {box}'
    if not through.inverted:
        kind = "alpha" if through.by == "alpha" else "luminance"
        return f'<mask id="{name}" style="mask-type:{kind}" {units}>{inside}</mask>'
    # White all over, and black where it is: as black as it is opaque, or bright and opaque.
    dark = f'<feColorMatrix values="{DARK}"/>'
    if through.by == "brightness":
        dark = (
            '<feColorMatrix type="luminanceToAlpha"/><feComposite in2="SourceAlpha" operator="in"/>'
        )
    return (
        f'<filter id="{name}-dark" filterUnits="userSpaceOnUse" {box}'
        f' color-interpolation-filters="sRGB">{dark}</filter><mask id="{name}" {units}>'
        f'<rect {box} fill="#fff"/><g filter="url(#{name}-dark)">{inside}</g></mask>'
    )
