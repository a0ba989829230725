"""The scene as one immutable value: size, rate, length, background, layers and paths."""

from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import Annotated, Literal, TypeVar

from pydantic import Field
from pydantic.dataclasses import dataclass

from coaster.errors import SceneError, UnknownId
from coaster.geometry.path import STRICT, Colour, Id, Name, Path, Vec2
from coaster.motion import easing
from coaster.motion.keys import PROPERTIES, Property, Track
from coaster.motion.rate import Rate
from coaster.motion.ride import AtNode, Degrees, Ride
from coaster.motion.sections import Frames

SCHEMA = 3
"""The shape of the JSON; raised with every change of it, with an upgrade in ``codec``."""

Unit = Annotated[float, Field(ge=0, le=1)]
Curve = tuple[Unit, Annotated[float, Field(ge=-1000, le=1000)], Unit, Annotated[float, Field(ge=-1000, le=1000)]]
"""``cubic-bezier(x1, y1, x2, y2)``."""
Size = Annotated[int, Field(ge=16, le=8192, multiple_of=2)]
Extent = Annotated[float, Field(gt=0, le=100_000)]
Asset = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,80}\.(png|jpg|webp)$")]


@dataclass(frozen=True, slots=True, config=STRICT)
class Picture:
    """A still from a file; ``width`` and ``height`` are its size in scene px at scale 1."""

    asset: Asset
    width: Extent
    height: Extent
    type: Literal["picture"] = "picture"


@dataclass(frozen=True, slots=True, config=STRICT)
class Text:
    """Lines of text in a shipped font; ``size`` and ``leading`` in px and in sizes."""

    text: Annotated[str, Field(min_length=1, max_length=2000)]
    font: Literal["Bricolage Grotesque", "Figtree"] = "Bricolage Grotesque"
    weight: Annotated[int, Field(ge=300, le=800)] = 600
    size: Annotated[float, Field(ge=1, le=2000)] = 96.0
    colour: Colour = "#16222e"
    align: Literal["left", "centre", "right"] = "centre"
    leading: Annotated[float, Field(ge=0.5, le=4)] = 1.2
    type: Literal["text"] = "text"


@dataclass(frozen=True, slots=True, config=STRICT)
class Shape:
    """A plain figure in a box; ``points`` and ``inner`` (share of the radius) make stars."""

    figure: Literal["rectangle", "ellipse", "polygon", "star"] = "rectangle"
    width: Extent = 200.0
    height: Extent = 200.0
    fill: Colour | None = "#3cb38b"
    stroke: Colour | None = None
    stroke_width: Annotated[float, Field(ge=0, le=1000)] = 0.0
    radius: Annotated[float, Field(ge=0, le=100_000)] = 0.0
    points: Annotated[int, Field(ge=3, le=100)] = 5
    inner: Annotated[float, Field(gt=0, le=1)] = 0.5
    type: Literal["shape"] = "shape"


@dataclass(frozen=True, slots=True, config=STRICT)
class Line:
    """A visible stroke of a path, which it follows; ``dash`` is lengths on and off in px."""

    path: Id
    colour: Colour = "#16222e"
    width: Annotated[float, Field(gt=0, le=1000)] = 6.0
    dash: tuple[Annotated[float, Field(gt=0, le=10_000)], Annotated[float, Field(gt=0, le=10_000)]] | None = None
    type: Literal["line"] = "line"


COLOURED: tuple[Property, ...] = ("width", "colour", "stroke")
"""Properties of how outlines are painted."""
CONTENT_KEYS: dict[str, tuple[Property, ...]] = {
    "picture": (),
    "text": ("size", "colour"),
    "shape": ("size_x", "size_y", *COLOURED),
    "line": ("width", "colour"),
}
OF_CONTENT: tuple[Property, ...] = ("size", "size_x", "size_y", *COLOURED)
"""Properties of what a layer shows: those of each kind, and all of them; and those that a line may have keys of."""
LINED: tuple[Property, ...] = ("opacity", "width", "colour")
Content = Annotated[Picture | Text | Shape | Line, Field(discriminator="type")]


@dataclass(frozen=True, slots=True, config=STRICT)
class Transform:
    """Where a layer stands. ``anchor`` is a share of its box; it lies at ``position``.

    A ride replaces ``position`` and adds its facing to ``turn`` (degrees, clockwise).
    """

    position: Vec2 = (0.0, 0.0)
    anchor: tuple[Annotated[float, Field(ge=-100, le=100)], Annotated[float, Field(ge=-100, le=100)]] = (0.5, 0.5)
    scale: tuple[Annotated[float, Field(ge=-1000, le=1000)], Annotated[float, Field(ge=-1000, le=1000)]] = (1.0, 1.0)
    turn: Degrees = 0.0
    opacity: Annotated[float, Field(ge=0, le=1)] = 1.0


@dataclass(frozen=True, slots=True, config=STRICT)
class Layer:
    """One thing of the picture. A hidden layer is in no render; a locked one is not dragged.

    ``keys`` move properties over time, in place of what the transform says; where there is a ride,
    it has the place, and keys of x and y rest. ``shown`` is the layer's own time, from its
    first frame up to, not including, its second; None is always.
    """

    id: Id
    name: Name
    content: Content
    transform: Transform = Transform()
    ride: Ride | None = None
    visible: bool = True
    locked: bool = False
    keys: tuple[Track, ...] = ()
    shown: tuple[Frames, Frames] | None = None

    def __post_init__(self) -> None:
        if self.shown is not None and self.shown[1] <= self.shown[0]:
            raise ValueError(f"{self.name} is shown from an earlier to a later frame")
        names = [track.property for track in self.keys]
        if names != [name for name in PROPERTIES if name in names]:
            raise ValueError(
                f"the keys of {self.name} are in one list a property, in the order {', '.join(PROPERTIES)}"
            )

        able = CONTENT_KEYS[self.content.type]
        wrong = [name for name in names if name in OF_CONTENT and name not in able]
        if wrong:
            raise ValueError(f"{self.name} is a {self.content.type}; it has no {wrong[0]} to be keyed")

    def track(self, wanted: Property) -> Track | None:
        return next((track for track in self.keys if track.property == wanted), None)


@dataclass(frozen=True, slots=True, config=STRICT)
class Scene:
    """The document. ``layers`` run from the back to the front; ``length`` is in frames.

    ``pace`` is what new keys and pegs begin with.
    """

    width: Size = 1920
    height: Size = 1080
    rate: Rate = Rate(30)
    length: Annotated[int, Field(ge=1, le=36_000)] = 150
    background: Colour | None = "#ffffff"
    layers: tuple[Layer, ...] = ()
    paths: tuple[Path, ...] = ()
    pace: Curve = easing.EVEN

    def __post_init__(self) -> None:
        for things in (self.layers, self.paths):
            ids = [thing.id for thing in things]
            if len(set(ids)) != len(ids):
                raise ValueError(f"the id {_first_double(ids)!r} is used twice")
        paths = {path.id: path for path in self.paths}
        for path in self.paths:
            nodes = [node.id for node in path.nodes()]
            if len(set(nodes)) != len(nodes):
                raise ValueError(f"the node id {_first_double(nodes)!r} is used twice in {path.name}")
        there = {layer.id for layer in self.layers}
        for layer in self.layers:
            _check_links(layer, paths)
            target = layer.ride.facing.target if layer.ride else None
            if target is not None and (target not in there or target == layer.id):
                raise ValueError(f"{layer.name} looks at a layer {target!r} that is itself or not there")

    @property
    def fps(self) -> float:
        return self.rate.fps

    @property
    def seconds(self) -> float:
        return self.length / self.rate.fps

    def layer(self, layer_id: str) -> Layer:
        return _found(self.layers, layer_id, "layer")

    def path(self, path_id: str) -> Path:
        return _found(self.paths, path_id, "path")

    def ride_of(self, layer_id: str) -> Ride:
        """Errors: SceneError: the layer rides nothing."""
        layer = self.layer(layer_id)
        if layer.ride is None:
            raise SceneError(f"{layer.name} rides no path.")
        return layer.ride

    def with_layer(self, changed: Layer) -> "Scene":
        self.layer(changed.id)
        return replace(self, layers=tuple(changed if x.id == changed.id else x for x in self.layers))

    def with_path(self, changed: Path) -> "Scene":
        self.path(changed.id)
        return replace(self, paths=tuple(changed if x.id == changed.id else x for x in self.paths))

    def users_of(self, path_id: str) -> tuple[Layer, ...]:
        """Return the layers that ride or stroke a path."""
        return tuple(
            layer
            for layer in self.layers
            if (layer.ride and layer.ride.path == path_id)
            or (isinstance(layer.content, Line) and layer.content.path == path_id)
        )

    def riders_of(self, path_id: str) -> tuple[Layer, ...]:
        return tuple(layer for layer in self.layers if layer.ride and layer.ride.path == path_id)

    def assets(self) -> Iterator[str]:
        """Yield the file name of each picture once."""
        yield from dict.fromkeys(x.content.asset for x in self.layers if isinstance(x.content, Picture))

    def takes(self) -> Iterator[str]:
        """Yield the file name of each raw take once."""
        yield from dict.fromkeys(path.drawn.file for path in self.paths if path.drawn)

    def with_assets(self, renamed: Mapping[str, str]) -> "Scene":
        """Return the scene with its pictures' file names changed; those not named stay."""
        layers = tuple(
            replace(x, content=replace(x.content, asset=renamed.get(x.content.asset, x.content.asset)))
            if isinstance(x.content, Picture)
            else x
            for x in self.layers
        )
        return replace(self, layers=layers)


Thing = TypeVar("Thing", Layer, Path)


def _found(things: tuple[Thing, ...], wanted: str, noun: str) -> Thing:
    for thing in things:
        if thing.id == wanted:
            return thing
    raise UnknownId(f"The scene has no {noun} {wanted!r}.")


def _first_double(ids: list[str]) -> str:
    return next(x for i, x in enumerate(ids) if x in ids[:i])


def _check_links(layer: Layer, paths: dict[str, Path]) -> None:
    if isinstance(layer.content, Line) and any(track.property not in LINED for track in layer.keys):
        raise ValueError(f"{layer.name} is a line and follows its path; only its opacity, colour and width have keys")
    if isinstance(layer.content, Line) and layer.content.path not in paths:
        raise ValueError(f"{layer.name} strokes a path {layer.content.path!r} that is not there")
    if layer.ride is None:
        return
    if isinstance(layer.content, Line):
        raise ValueError(f"{layer.name} is a line and follows its path; it cannot ride one")
    if layer.ride.path not in paths:
        raise ValueError(f"{layer.name} rides a path {layer.ride.path!r} that is not there")
    nodes = {node.id for node in paths[layer.ride.path].nodes()}
    for peg in layer.ride.pegs:
        if isinstance(peg.place, AtNode) and peg.place.node not in nodes:
            raise ValueError(f"a peg of {layer.name} stands on a node {peg.place.node!r} that is not there")
    for angle in layer.ride.facing.angles:
        if angle.node not in nodes:
            raise ValueError(f"{layer.name} has an angle at a node {angle.node!r} that is not there")
