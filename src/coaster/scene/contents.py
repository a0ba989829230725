"""What a layer can show: one declaration a kind, which says all that others need to know of it.

Nobody outside asks which kind a content is; they ask what it ``can``, and what it tells.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass as plain
from dataclasses import fields, replace
from functools import lru_cache
from typing import Annotated, Any, ClassVar, Literal, Protocol, Self, TypeVar, get_args

from coaster.documents import Rule, document
from coaster.errors import EditRefused
from coaster.geometry import depth
from coaster.geometry.path import Colour, Id, Subpath, Vec2
from coaster.media.moving import MOVING
from coaster.motion.letters import By, Spread
from coaster.motion.playing import CLOSE_S, After, Cut
from coaster.motion.rate import Rate
from coaster.scene.footage import FrameTimes
from coaster.scene.gradients import Gradient
from coaster.scene.properties import (
    LEAST_ANGLE,
    MOST_ANGLE,
    MOST_BRIGHT,
    PROPERTIES,
    TABLE,
    Property,
)

Extent = Annotated[float, Rule(gt=0, le=100_000)]
Asset = Annotated[str, Rule(pattern=r"^[A-Za-z0-9_-]{1,80}\.(png|jpg|webp)$")]
Moving = Annotated[
    str, Rule(pattern=rf"^[A-Za-z0-9_-]{{1,80}}\.({'|'.join(each[1:] for each in MOVING)})$")
]
FONTS = ("Bricolage Grotesque", "Figtree")
"""Those that ship."""
Font = Annotated[str, Rule(pattern=rf"^({'|'.join(FONTS)}|[A-Za-z0-9_-]{{1,80}}\.(ttf|otf))$")]
"""One that ships, or the file of one that was brought in."""
Align = Literal["left", "centre", "right"]
FigureName = Literal["rectangle", "ellipse", "polygon", "star", "drawn"]
Side = Literal["middle", "inside", "outside"]
"""Where a stroke lies: on the edge, or all of it within or beyond."""
PositiveWidth = Annotated[float, Rule(gt=0, le=1000)]
DashLength = Annotated[float, Rule(gt=0, le=10_000)]
Cap = Literal["round", "butt", "square"]
Join = Literal["round", "miter", "bevel"]
Dash = tuple[DashLength, DashLength]
DashOffset = Annotated[float, Rule(ge=-1e6, le=1e6)]
ALIGNS, CAPS, JOINS = (get_args(each) for each in (Align, Cap, Join))
SIDES = get_args(Side)
DRAWN: Literal["drawn"] = "drawn"
FIGURES = tuple(name for name in get_args(FigureName) if name != DRAWN)
"""Figures made from numbers; what is drawn has its own nodes."""
MOST_SPEED = 100.0
FileSeconds = Annotated[float, Rule(ge=0, le=100_000)]
FARTHEST = 1_000_000.0
"""Frames from a scene's start that anything may begin at."""
StartFrame = Annotated[float, Rule(ge=-FARTHEST, le=FARTHEST)]
Speed = Annotated[float, Rule(ge=-MOST_SPEED, le=MOST_SPEED)]
MOST_LETTERS = 2000
"""Of one text."""
Unit = Annotated[float, Rule(ge=0, le=1)]
ViewAngle = Annotated[float, Rule(ge=LEAST_ANGLE, le=MOST_ANGLE)]
TrailUnit = Literal["px", "frames"]
INK, LEAF = "#16222e", "#3cb38b"


@plain(frozen=True, slots=True)
class Can:
    """What a kind of content can do.

    ``stand`` have a place of its own, and ride; what cannot follows the path it strokes.
    ``fill``, ``stroke`` be painted; ``trace`` lend its outline to a path; ``hold`` have members;
    ``last`` go on in time by itself; ``show`` another scene; ``trail`` be drawn in step with what
    carries it; ``view`` the scene, so that all is seen from where it is; ``light`` it.
    """

    stand: bool = True
    fill: bool = False
    stroke: bool = False
    trace: bool = False
    hold: bool = False
    last: bool = False
    show: bool = False
    trail: bool = False
    view: bool = False
    light: bool = False

    @property
    def seen(self) -> bool:
        """Whether it is in the picture itself, and not only what others are seen by."""
        return not (self.view or self.light)


class Kind(Protocol):
    """What every kind declares. ``keyed`` names the field that each of its own properties is."""

    can: ClassVar[Can]
    keyed: ClassVar[Mapping[str, str]]
    picked_by: ClassVar[Literal["box", "ink"]]

    @property
    def type(self) -> str: ...
    def assets(self) -> Iterator[str]: ...
    def with_assets(self, renamed: Mapping[str, str]) -> Self: ...
    def retimed(self, factor: float) -> Self: ...
    def recoloured(self, change: Callable[[str], str]) -> Self: ...
    def later(self, frames: float) -> Self: ...
    def path_id(self) -> str | None: ...
    def scene_id(self) -> str | None: ...


class Shown(Protocol):
    """What there is to tell of a scene that others show."""

    @property
    def width(self) -> int: ...
    @property
    def height(self) -> int: ...
    @property
    def rate(self) -> Rate: ...
    @property
    def length(self) -> int: ...


class _Plain:
    """A kind without pictures or path; those that have them say so."""

    __slots__ = ()
    can: ClassVar[Can] = Can()
    keyed: ClassVar[Mapping[str, str]] = {}
    picked_by: ClassVar[Literal["box", "ink"]] = "box"

    def assets(self) -> Iterator[str]:
        """Yield the file names of its pictures."""
        return iter(())

    def with_assets(self, renamed: Mapping[str, str]) -> Self:
        """Return the content with its pictures' file names changed; those not named stay."""
        return self

    def recoloured(self, change: Callable[[str], str]) -> Self:
        """Return the content with its colours changed; pictures keep theirs."""
        named = [own for name, own in self.keyed.items() if PROPERTIES[name].kind == "colour"]
        colours = {own: getattr(self, own) for own in named}
        changed: dict[str, Any] = {n: change(value) for n, value in colours.items() if value}
        if (gradient := getattr(self, "gradient", None)) is not None:
            stops = tuple(map(change, gradient.colours))
            changed["gradient"] = replace(gradient, colours=stops)
        # Every kind is a dataclass.
        return replace(self, **changed) if changed else self  # type: ignore[type-var]

    def retimed(self, factor: float) -> Self:
        """Return the content where its times, in frames, are multiplied."""
        return self

    def later(self, frames: float) -> Self:
        """Return the content where what is played begins so many frames later."""
        return self

    def path_id(self) -> str | None:
        """Return the path it strokes."""
        return None

    def scene_id(self) -> str | None:
        """Return the other scene that it shows."""
        return None


@document
class Picture(_Plain):
    """A still from a file; ``width`` and ``height`` are its size in scene px at scale 1."""

    asset: Asset
    width: Extent
    height: Extent
    type: Literal["picture"] = "picture"

    def assets(self) -> Iterator[str]:
        yield self.asset

    def with_assets(self, renamed: Mapping[str, str]) -> Self:
        return replace(self, asset=renamed.get(self.asset, self.asset))


@document
class Text(_Plain):
    """Lines of text; ``size`` is in px, ``leading``, from line to line, and
    ``tracking``, between letters, in sizes. With ``wrap`` lines are broken between words to be no
    wider, px.
    """

    can: ClassVar[Can] = Can(fill=True, stroke=True)
    keyed: ClassVar[Mapping[str, str]] = {
        "size": "size",
        "tracking": "tracking",
        "width": "stroke_width",
        "colour": "colour",
        "stroke": "stroke",
    }

    text: Annotated[str, Rule(min_length=1, max_length=MOST_LETTERS)]
    font: Font = "Bricolage Grotesque"
    weight: Annotated[int, Rule(ge=1, le=1000)] = 600
    size: Annotated[float, Rule(ge=1, le=2000)] = 96.0
    colour: Colour = INK
    align: Align = "centre"
    leading: Annotated[float, Rule(ge=0.5, le=4)] = 1.2
    tracking: Annotated[float, Rule(ge=-0.5, le=5)] = 0.0
    wrap: Extent | None = None
    stroke: Colour | None = None
    stroke_width: Annotated[float, Rule(ge=0, le=1000)] = 0.0
    gradient: Gradient | None = None
    italic: bool = False
    type: Literal["text"] = "text"

    def assets(self) -> Iterator[str]:
        if self.font not in FONTS:
            yield self.font

    def with_assets(self, renamed: Mapping[str, str]) -> Self:
        return replace(self, font=renamed.get(self.font, self.font))


@document
class TextPart(Text):
    """A letter, word or line of a text, in that one's px: no kind that a document has."""

    by: By = "letter"
    number: int = 0
    spread: Spread | None = None

    @staticmethod
    @lru_cache(maxsize=4096)  # of a path that is dragged they are the same each time
    def of(text: Text, by: By, number: int, spread: Spread | None) -> "TextPart":
        said = {each.name: getattr(text, each.name) for each in fields(text)}
        return TextPart(**said, by=by, number=number, spread=spread)

    @property
    def whole(self) -> Text:
        return Text(**{each.name: getattr(self, each.name) for each in fields(Text)})


@document
class Shape(_Plain):
    """A figure in a box: by numbers, of which ``points`` and ``inner`` (share of the radius) make
    stars, or ``drawn`` by its ``runs``, which are stretched to the box. A ``gradient`` fills it in
    place of ``fill``. ``dash`` is lengths on and off in px, from ``dash_offset`` px along the edge
    on; the stroke lies on a ``side`` of the edge.
    """

    can: ClassVar[Can] = Can(fill=True, stroke=True, trace=True)
    keyed: ClassVar[Mapping[str, str]] = {
        "size_x": "width",
        "size_y": "height",
        "width": "stroke_width",
        "dashes": "dash_offset",
        "colour": "fill",
        "stroke": "stroke",
    }
    picked_by: ClassVar[Literal["box", "ink"]] = "ink"

    figure: FigureName = "rectangle"
    width: Extent = 200.0
    height: Extent = 200.0
    fill: Colour | None = LEAF
    stroke: Colour | None = None
    stroke_width: Annotated[float, Rule(ge=0, le=1000)] = 0.0
    radius: Annotated[float, Rule(ge=0, le=100_000)] = 0.0
    points: Annotated[int, Rule(ge=3, le=100)] = 5
    inner: Annotated[float, Rule(gt=0, le=1)] = 0.5
    cap: Cap = "round"
    join: Join = "round"
    dash: Dash | None = None
    dash_offset: DashOffset = 0.0
    gradient: Gradient | None = None
    side: Side = "middle"
    runs: tuple[Subpath, ...] = ()
    type: Literal["shape"] = "shape"

    def __post_init__(self) -> None:
        if (self.figure == DRAWN) != bool(self.runs):
            raise ValueError("a drawn shape has runs of nodes, and any other has none")


@document
class Line(_Plain):
    """A visible stroke of a path, which it follows, in a ``colour`` or none; ``dash`` is lengths on
    and off in px, from ``dash_offset`` px along it on. What the path encloses is filled with
    ``fill``, or the ``gradient``, or not.

    It is stroked from ``begin`` to ``end``, 0..1 of its length; where the layer's carrier rides the
    path, in step with that instead: behind it, as far as it has come or the last ``trail`` px or
    frames, or ``ahead`` of it. ``thin`` are the shares of its width at its tail and at its tip, and
    ``fade`` how strong it is at its tail.
    """

    can: ClassVar[Can] = Can(stand=False, stroke=True, trail=True)
    keyed: ClassVar[Mapping[str, str]] = {
        "begin": "begin",
        "end": "end",
        "width": "width",
        "dashes": "dash_offset",
        "colour": "colour",
        "fill": "fill",
    }
    picked_by: ClassVar[Literal["box", "ink"]] = "ink"

    path: Id
    colour: Colour | None = INK
    width: PositiveWidth = 6.0
    dash: Dash | None = None
    dash_offset: DashOffset = 0.0
    cap: Cap = "round"
    join: Join = "round"
    fill: Colour | None = None
    gradient: Gradient | None = None
    begin: Unit = 0.0
    end: Unit = 1.0
    ahead: bool = False
    trail: Extent | None = None
    trail_in: TrailUnit = "px"
    thin: tuple[Unit, Unit] = (1.0, 1.0)
    fade: Unit = 1.0
    type: Literal["line"] = "line"

    def retimed(self, factor: float) -> Self:
        if self.trail is None or self.trail_in == "px":
            return self
        return replace(self, trail=self.trail * factor)

    def path_id(self) -> str | None:
        return self.path


@document
class Group(_Plain):
    """Layers drawn as one, in the scene's px while it rests; it turns and scales about ``pivot``.

    The layer's ``position`` is where the pivot lies; a group at rest has it on the pivot itself.
    What is in it keeps its depth, unless the group is ``flat``: then all lies in its plane. What of
    it is farther away is drawn first ``by_depth``, else its members are drawn in their order.
    """

    can: ClassVar[Can] = Can(hold=True)
    picked_by: ClassVar[Literal["box", "ink"]] = "ink"

    pivot: Vec2 = (0.0, 0.0)
    flat: bool = False
    by_depth: bool = False
    type: Literal["group"] = "group"


@document
class Camera(_Plain):
    """What the scene is seen through: ``angle`` degrees from the left edge to the right.

    Its place is that which is seen in the middle, as large as it is; it looks from as far before
    that as the angle says, and turns round it. Of several the one in front is looked through, in
    its time.
    """

    can: ClassVar[Can] = Can(view=True)
    keyed: ClassVar[Mapping[str, str]] = {"angle": "angle"}

    angle: ViewAngle = depth.ANGLE
    type: Literal["camera"] = "camera"


@document
class Light(_Plain):
    """What shines on all layers that are ``lit``, by the way that they face.

    It is white at a ``brightness`` of 1, and fades until nothing is left ``reach`` px away, or
    never at 0. It shines all round, or into a cone of ``spread`` degrees about where it points,
    away from the viewer unless it is turned; its edge is ``soft`` over a share of that. What it
    does not reach is as bright as ``ambient``. Of several the one in front shines, in its time.
    """

    can: ClassVar[Can] = Can(light=True)
    keyed: ClassVar[Mapping[str, str]] = {
        "brightness": "brightness", "reach": "reach", "spread": "spread", "ambient": "ambient",
        "colour": "colour",
    }  # fmt: skip

    colour: Colour = "#ffffff"
    brightness: Annotated[float, Rule(ge=0, le=MOST_BRIGHT)] = 1.0
    reach: Annotated[float, Rule(ge=0, le=100_000)] = 0.0
    spread: Annotated[float, Rule(ge=1, le=360)] = 360.0
    soft: Unit = 0.5
    ambient: Unit = 0.25
    type: Literal["light"] = "light"


@document
class Footage(_Plain):
    """Moving pictures from a file, whose frames lie in time as ``times`` says; ``width`` and
    ``height`` are their size in scene px at scale 1. What lies ``begin`` to ``end`` (seconds of the
    file; without an end, all) is played from the scene's frame ``starts`` on, ``speed`` times as
    fast, backwards below 0; ``after`` says what comes then. The last ``fade`` seconds of what
    repeats are faded into its beginning.
    """

    can: ClassVar[Can] = Can(last=True)
    keyed: ClassVar[Mapping[str, str]] = {"speed": "speed"}

    asset: Moving
    width: Extent
    height: Extent
    times: FrameTimes
    begin: FileSeconds = 0.0
    end: FileSeconds | None = None
    starts: StartFrame = 0.0
    speed: Speed = 1.0
    after: After = "hold"
    fade: FileSeconds = 0.0
    type: Literal["footage"] = "footage"

    def __post_init__(self) -> None:
        seconds = self.times.seconds
        if not self.begin < self.out <= seconds + CLOSE_S:
            raise ValueError(
                f"what is played of footage lies within its {seconds:g} s and has some length, not"
                f" {self.begin:g} to {self.out:g} s"
            )
        if self.fade > (self.out - self.begin) / 2:
            raise ValueError("footage is faded over at most half of what is played of it")

    @property
    def out(self) -> float:
        """The second of the file at which it ends."""
        return self.times.seconds if self.end is None else self.end

    @property
    def once(self) -> float:
        """The seconds of the file after which it ends, or begins again."""
        return self.cut.period if self.after == "repeat" else self.out - self.begin

    @property
    def cut(self) -> Cut:
        return Cut(self.begin, self.out, self.after, self.fade)

    def assets(self) -> Iterator[str]:
        yield self.asset

    def with_assets(self, renamed: Mapping[str, str]) -> Self:
        return replace(self, asset=renamed.get(self.asset, self.asset))

    def retimed(self, factor: float) -> Self:
        return replace(self, starts=self.starts * factor)

    def later(self, frames: float) -> Self:
        return replace(self, starts=min(max(self.starts + frames, -FARTHEST), FARTHEST))


@document
class Inset(_Plain):
    """Another scene, by the id it is known by beside this one, in a frame of its own. How large and
    how long it is, is told here as it was when this was written; who has that scene tells it anew
    (see ``scene.insets``). It is played as footage is; what of it would begin or end beyond its end
    is not there.
    """

    can: ClassVar[Can] = Can(last=True, show=True)
    keyed: ClassVar[Mapping[str, str]] = {"speed": "speed"}

    scene: Id
    width: Extent
    height: Extent
    times: FrameTimes
    begin: FileSeconds = 0.0
    end: FileSeconds | None = None
    starts: StartFrame = 0.0
    speed: Speed = 1.0
    after: After = "repeat"
    type: Literal["scene"] = "scene"

    def __post_init__(self) -> None:
        if self.end is not None and self.end <= self.begin:
            raise ValueError(
                f"what is played of a scene has some length, not {self.begin:g} to {self.end:g} s"
            )

    @property
    def out(self) -> float:
        """The second of the scene at which it ends."""
        seconds = self.times.seconds
        return seconds if self.end is None else min(self.end, seconds)

    @property
    def once(self) -> float:
        """The seconds of the scene after which it ends, or begins again."""
        return self.out - self.cut.begin

    @property
    def fade(self) -> float:
        """Scenes are never faded: their last frame leads to the first, if they come round."""
        return 0.0

    @property
    def cut(self) -> Cut:
        # A scene that has become shorter has at least a frame to show.
        latest = max(0.0, self.out - 1 / self.times.fps)
        return Cut(min(self.begin, latest), self.out, self.after)

    def showing(self, scene: "Shown") -> Self:
        """Return the content with what there is to tell of the scene."""
        rate = scene.rate.fraction
        times = FrameTimes(rate.numerator, ((scene.length, rate.denominator),))
        width, height = float(scene.width), float(scene.height)
        if (self.width, self.height, self.times) == (width, height, times):
            return self
        return replace(self, width=width, height=height, times=times)

    def retimed(self, factor: float) -> Self:
        return replace(self, starts=self.starts * factor)

    def later(self, frames: float) -> Self:
        return replace(self, starts=min(max(self.starts + frames, -FARTHEST), FARTHEST))

    def scene_id(self) -> str | None:
        return self.scene


Played = Footage | Inset
"""What goes on in time by itself, each with its own frames."""
Content = Annotated[
    Picture | Text | Shape | Line | Group | Footage | Inset | Camera | Light,
    Rule(discriminator="type"),
]
KINDS: dict[str, type] = {
    kind.__dataclass_fields__["type"].default: kind
    for kind in (Picture, Text, Shape, Line, Group, Footage, Inset, Camera, Light)
}
"""Every kind by its name."""


def usual(kind: str, field: str) -> Any:
    """Return what a field of a kind is unless something is said."""
    return KINDS[kind].__dataclass_fields__[field].default  # type: ignore[attr-defined]  # every kind is one


def kind_of(content: Kind) -> str:
    """Return the name of a content's kind, as people call it."""
    return content.type


UNSEEN = ("scale", "skew", "opacity")
"""What only things that are seen have, beside masks and tints."""


def has_property(content: Kind, row: Property) -> bool:
    """Whether layers of this content have a property that may be keyed."""
    if row.home == "content":
        return row.name in content.keyed
    if row.home == "gradient":
        return hasattr(content, "gradient")
    if not content.can.seen and (row.name in UNSEEN or row.home in ("mask", "tint")):
        return False
    return row.free or content.can.stand


def properties_of(content: Kind) -> tuple[Property, ...]:
    """Return the properties that layers of this content have, in the order of the table."""
    return tuple(row for row in TABLE if has_property(content, row))


def has_colours(content: Kind) -> bool:
    """Whether it is seen in colours of its own, and not in those of a picture."""
    return any(row.kind == "colour" and row.home != "tint" for row in properties_of(content))


def keyed_value(content: Kind, name: str) -> Any:
    """Return what one of a content's own properties is; None where there is none, or no
    such paint.
    """
    field = content.keyed.get(PROPERTIES[name].name)
    return getattr(content, field) if field else None


K = TypeVar("K")


def as_kind(content: object, kind: type[K], name: str) -> K:
    """Return the content as one of this kind.

    Errors: EditRefused: it is another; ``name`` is the layer's.
    """
    if not isinstance(content, kind):
        noun = kind.__dataclass_fields__["type"].default  # type: ignore[attr-defined]  # every kind has its name
        raise EditRefused(f"{name} is not a {noun}.")
    return content


def as_text(content: Kind) -> Text | None:
    """Return what has words, for those who set them; None of all else."""
    return content if isinstance(content, Text) else None


def spread_of(content: Kind) -> Spread | None:
    """Return how a part of a text comes to lie farther along than it is set; None of all else."""
    return content.spread if isinstance(content, TextPart) else None


def as_line(content: Kind) -> Line | None:
    """Return what strokes a path, for those who draw along it; None of all else."""
    return content if isinstance(content, Line) else None


def as_footage(content: Kind) -> Footage | None:
    """Return what is played from a file, for those who look into it; None of all else."""
    return content if isinstance(content, Footage) else None


def as_inset(content: Kind) -> Inset | None:
    """Return what shows another scene; None of all else."""
    return content if isinstance(content, Inset) else None


def as_camera(content: Kind) -> Camera | None:
    """Return what the scene is seen through; None of all else."""
    return content if isinstance(content, Camera) else None


def as_light(content: Kind) -> Light | None:
    """Return what shines on others; None of all else."""
    return content if isinstance(content, Light) else None


def as_group(content: Kind) -> Group | None:
    """Return what holds others; None of all else."""
    return content if isinstance(content, Group) else None


def as_picture(content: Kind) -> Picture | None:
    """Return a still picture; None of all else."""
    return content if isinstance(content, Picture) else None


def as_played(content: Kind) -> Played | None:
    """Return what is played, for those who cut it; None of all else."""
    return content if isinstance(content, Footage | Inset) else None


def corner_radius(content: Kind) -> float | None:
    """Return how round the corners are of what has such corners, px; None of all else."""
    return content.radius if isinstance(content, Shape) and content.figure == "rectangle" else None
