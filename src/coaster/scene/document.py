"""The scene as one immutable value: size, rate, length, background, layers and paths."""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import field, replace
from typing import Annotated, Any, TypeVar

from coaster.documents import Rule, document, know_all, swapped
from coaster.errors import SceneError, UnknownId
from coaster.geometry.path import Colour, Coordinate, Id, Name, Path, Vec2
from coaster.motion import easing
from coaster.motion.accents import MOST_ACCENTS, Accent
from coaster.motion.keys import Keys
from coaster.motion.rate import Rate
from coaster.motion.ride import AtNode, Degrees, Ride
from coaster.motion.sections import Frames
from coaster.motion.wakes import MOST_WHOLES, Wake
from coaster.scene import insets, tree
from coaster.scene.carriers import Carrier
from coaster.scene.contents import (
    Content,
    as_inset,
    as_text,
    has_property,
    keyed_value,
    properties_of,
)
from coaster.scene.fields import MOST_FIELDS, SceneField
from coaster.scene.follows import MOST_FOLLOWS, Follow
from coaster.scene.masks import Blend, Mask, Stencil
from coaster.scene.properties import DEPTHS, MOST_SKEW, NAMES, PROPERTIES, Track
from coaster.scene.shades import Mirror, Tint

SCHEMA = 7
"""The shape of the JSON; raised by every released change of it, with an upgrade in ``codec``."""
LONGEST = 36_000
"""Frames of the longest scene."""

Unit = Annotated[float, Rule(ge=0, le=1)]
Steepness = Annotated[float, Rule(ge=-1000, le=1000)]
Share = Annotated[float, Rule(ge=-100, le=100)]
Factor = Annotated[float, Rule(ge=-1000, le=1000)]
Slant = Annotated[float, Rule(ge=-MOST_SKEW, le=MOST_SKEW)]
"""Degrees by which what is upright leans, to the right where it is positive."""
Curve = tuple[Unit, Steepness, Unit, Steepness]
"""``cubic-bezier(x1, y1, x2, y2)``."""
Size = Annotated[int, Rule(ge=16, le=8192, multiple_of=2)]
Length = Annotated[int, Rule(ge=1, le=LONGEST)]
Span = tuple[Frames, Frames]


@document
class Transform:
    """Where a layer stands. ``anchor`` is a share of its box; it lies at ``position``.

    It is scaled, then slanted by ``skew``, then turned (degrees, clockwise): together any map that
    leaves the anchor. A ride replaces ``position`` and adds its facing to ``turn``.

    Out of its plane it is ``z`` px behind that of its group; there it is swung about what is
    upright, its right edge away, and then tilted, its top away, about its anchor, which lies
    ``anchor_z`` px behind it. With ``to_viewer`` all that is from where it has its face to whoever
    looks. With ``short_way`` it goes from key to key of turn, tilt and swing by the shortest
    rotation, else by each angle's own way.
    """

    position: Vec2 = (0.0, 0.0)
    anchor: tuple[Share, Share] = (0.5, 0.5)
    scale: tuple[Factor, Factor] = (1.0, 1.0)
    turn: Degrees = 0.0
    skew: Slant = 0.0
    opacity: Unit = 1.0
    z: Coordinate = 0.0
    tilt: Degrees = 0.0
    swing: Degrees = 0.0
    anchor_z: Coordinate = 0.0
    to_viewer: bool = False
    short_way: bool = False

    @property
    def is_deep(self) -> bool:
        return bool(self.z or self.tilt or self.swing or self.anchor_z or self.to_viewer)


@document
class Layer:
    """One thing of the picture. A hidden layer is in no render; a locked one is not dragged.

    ``keys`` move properties over time, in place of what the transform says; where there is a ride,
    it has the place, and keys of x and y rest. ``shown`` is the layer's own time, from its
    first frame up to, not including, its second; None is always. ``parent`` is its group.
    ``blend`` says how it is laid on what lies beneath, ``mask`` where it is seen; what blends
    inside an ``isolated`` group blends with what is in there alone. A ``guide`` is seen while
    working, and in no render. A ``stencil`` is not seen itself: the layer right below it in its
    group is seen where it is, by its alpha or its brightness, or where it is not. What has a
    ``carrier`` travels with that layer, or is drawn in step with it. With a
    ``wake`` it leaves its like behind, in its ``shown`` time, while these last. ``accents``
    are short motions on top of all that. Properties in ``follows`` go by others' values, whatever
    keys they have. ``tint`` lies over its colours; a ``mirror`` is its image on the ground. What
    is ``lit`` is so by lights, if there are any, and throws them back by its ``shine``. A ``tag``
    marks it in lists, in no picture.
    """

    id: Id
    name: Name
    content: Content
    transform: Transform = Transform()
    ride: Ride | None = None
    visible: bool = True
    locked: bool = False
    keys: tuple[Track, ...] = ()
    shown: Span | None = None
    parent: Id | None = None
    blend: Blend = "normal"
    mask: Mask | None = None
    isolated: bool = False
    guide: bool = False
    stencil: Stencil | None = None
    stencil_inverted: bool = False
    carrier: Carrier | None = None
    wake: Wake | None = None
    accents: Annotated[tuple[Accent, ...], Rule(max_length=MOST_ACCENTS)] = ()
    follows: Annotated[tuple[Follow, ...], Rule(max_length=MOST_FOLLOWS)] = ()
    tint: Tint | None = None
    mirror: Mirror | None = None
    lit: bool = True
    shine: Unit = 0.0
    tag: Colour | None = None

    def __post_init__(self) -> None:
        if self.shown is not None and self.shown[1] <= self.shown[0]:
            raise ValueError(f"{self.name} is shown from an earlier to a later frame")
        self._check_travel()
        if self.accents and not self.content.can.stand:
            raise ValueError(f"{self.name} is a line and follows its path; it has no accents")
        if len({accent.id for accent in self.accents}) != len(self.accents):
            raise ValueError(f"the accents of {self.name} have different ids")
        names = [track.property for track in self.keys]
        # In one order, so that two documents that say the same are equal.
        if names != [name for name in NAMES if name in names]:
            order = ", ".join(NAMES)
            raise ValueError(
                f"the keys of {self.name} are in one list a property, in the order {order}"
            )
        following = [follow.property for follow in self.follows]
        if len(set(following)) != len(following):
            raise ValueError(f"each property of {self.name} follows one value")
        names += following
        wrong = [name for name in names if not has_property(self.content, PROPERTIES[name])]
        if wrong:
            able = ", ".join(row.name for row in properties_of(self.content))
            raise ValueError(
                f"{self.name} has no {wrong[0]} to be keyed; a {self.content.type} has {able}"
            )

    def _check_travel(self) -> None:
        """Errors: ValueError: it rides, is carried, has copies or leaves a wake, and cannot."""
        if self.ride is not None and not self.content.can.stand:
            raise ValueError(f"{self.name} is a line and follows its path; it cannot ride one")
        if self.carrier is not None and not (self.content.can.stand or self.content.can.trail):
            raise ValueError(f"{self.name} is a line and follows its path; nothing carries it")
        if self.wake is not None and not self.content.can.stand:
            raise ValueError(f"{self.name} is a {self.content.type}, which leaves no wake")
        whole = self.content.can.hold or self.content.can.show
        if self.wake is not None and whole and self.wake.most_alive > MOST_WHOLES:
            raise ValueError(
                f"of a group or a scene a wake has at most {MOST_WHOLES} at once: take a lower rate"
                " or a shorter life"
            )
        if self.wake is not None and self.ride is not None and self.ride.copies is not None:
            raise ValueError(f"{self.name} has copies or leaves a wake, not both")
        if self.carrier is not None and self.ride is not None:
            raise ValueError(f"{self.name} rides a path or is carried by a layer, not both")

    def track(self, wanted: str) -> Track | None:
        # By hand: of each of hundreds of letters it is asked a dozen times a frame that is dragged.
        for track in self.keys:
            if track.property == wanted:
                return track
        return None

    def keys_of(self, wanted: str) -> Keys:
        """Return a property's keys; none where nothing moves it."""
        track = self.track(wanted)
        return track.keys if track else ()

    def standing(self, name: str) -> float | str | None:
        """Return what a property is where no keys move it; None where the layer has none such."""
        row = PROPERTIES[name]
        if row.home == "content":
            content_value: float | str | None = keyed_value(self.content, name)
            return content_value
        home = self._home(row.home)
        value = None if home is None else row.read(home)
        return value if value is None or isinstance(value, str) else float(value)

    def _home(self, name: str) -> Any:
        """Return the part of the layer in which properties stand, if it is there."""
        if name == "gradient":
            return getattr(self.content, "gradient", None)
        return getattr(self, name)

    def with_standing(self, name: str, value: float | str) -> "Layer":
        """Return the layer with what a property is without keys; a shift stays the ride's own."""
        row = PROPERTIES[name]
        if row.home == "content":
            changed: dict[str, Any] = {self.content.keyed[name]: value}
            return replace(self, content=replace(self.content, **changed))
        # A shift without keys is the ride's offset, which has a command of its own.
        home = None if row.home == "ride" else self._home(row.home)
        if home is None:
            return self
        changed = {row.home: replace(home, **row.written(home, value))}
        if row.home == "gradient":
            return replace(self, content=replace(self.content, **changed))
        return replace(self, **changed)

    def with_accents_later(self, frames: float) -> "Layer":
        """Return it with accents that begin so much later; those beside a ride go by that."""
        if not self.accents or not frames:
            return self
        later = (replace(x, start=x.start + frames) if x.when == "at" else x for x in self.accents)
        return replace(self, accents=tuple(later))

    def beside(self, number: int) -> "Layer":
        """Return it as one of its copies, with an id that no layer of a document can have."""
        return swapped(self, id=f"{self.id}.{number}")

    @property
    def rides_in_parts(self) -> bool:
        """Whether it is a text whose letters ride by themselves."""
        return (
            self.ride is not None and self.ride.letters is not None and bool(as_text(self.content))
        )

    @property
    def is_drawn_alone(self) -> bool:
        """Whether nothing is drawn of it but itself."""
        return self.goes_alone and not self.mirror

    @property
    def goes_alone(self) -> bool:
        """Whether no others ride beside it or for it, and it leaves nothing behind."""
        ride = self.ride
        has_others = ride is not None and (ride.copies or ride.letters)
        return not (has_others or self.wake)

    @property
    def is_deep(self) -> bool:
        """Whether it is ever out of the plane of its group, or sees all others from anywhere."""
        keyed = any(track.property in DEPTHS for track in self.keys)
        led = any(follow.property in DEPTHS for follow in self.follows)
        looks = self.ride is not None and self.ride.facing.leans
        return keyed or led or looks or self.transform.is_deep or not self.content.can.seen

    def strokes(self, path_id: str) -> bool:
        return self.content.path_id() == path_id

    def rides(self, path_id: str) -> bool:
        return self.ride is not None and self.ride.path == path_id

    def is_masked_by(self, path_id: str) -> bool:
        return self.mask is not None and path_id in self.mask.paths()

    def links(self) -> tuple[Any, ...]:
        """Return all by which it depends on others of the scene."""
        content = self.content.path_id(), self.content.can
        return self.parent, self.ride, self.mask, self.carrier, self.follows, *content

    def path_id(self) -> str | None:
        """Return the path it rides or strokes."""
        return self.ride.path if self.ride is not None else self.content.path_id()


@document
class Scene:
    """The document. ``layers`` run from the back to the front; ``length`` is in frames.

    ``pace`` is what new keys and pegs begin with. What is farther away is drawn first ``by_depth``,
    else the layers are drawn in their order. ``fields`` are what is filled in from outside.
    ``scenes`` are those that its layers show, and
    that these show in turn: they come with a file, but are no part of what this scene is.
    """

    width: Size = 1920
    height: Size = 1080
    rate: Rate = Rate(30)
    length: Length = 150
    background: Colour | None = "#ffffff"
    layers: tuple[Layer, ...] = ()
    paths: tuple[Path, ...] = ()
    pace: Curve = easing.EVEN
    by_depth: bool = False
    fields: Annotated[tuple[SceneField, ...], Rule(max_length=MOST_FIELDS)] = ()
    scenes: "tuple[Beside, ...]" = field(default=(), compare=False)

    def __post_init__(self) -> None:
        _check_ids(self.layers, "")
        _check_ids(self.paths, "")
        for path in self.paths:
            _check_ids(path.nodes(), f" in {path.name}")
            _check_ids(path.legs, f" among the parts of {path.name}")
        paths = {path.id: path for path in self.paths}
        there = {layer.id: layer for layer in self.layers}
        for layer in self.layers:
            _check_links(layer, paths, there)
        if len({each.name for each in self.fields}) < len(self.fields):
            raise ValueError("two fields have one name")
        # Last: the checks before it have seen to it that all ids lead somewhere.
        tree.check(self.layers, self.paths)
        _check_ids(self.scenes, "")
        insets.check({each.id: (each.name, each.scene.shown_ids()) for each in self.scenes})

    @property
    def fps(self) -> float:
        return self.rate.fps

    @property
    def seconds(self) -> float:
        return self.length / self.rate.fps

    def layer(self, layer_id: str) -> Layer:
        return _with_id(self.layers, layer_id, "layer")

    def path(self, path_id: str) -> Path:
        return _with_id(self.paths, path_id, "path")

    def path_of(self, layer: Layer) -> Path | None:
        """Return the path a layer rides or strokes."""
        path_id = layer.path_id()
        return None if path_id is None else self.path(path_id)

    def ride_of(self, layer_id: str) -> Ride:
        """Errors: SceneError: the layer rides nothing."""
        layer = self.layer(layer_id)
        if layer.ride is None:
            raise SceneError(f"{layer.name} rides no path.")
        return layer.ride

    def with_layer(self, changed: Layer) -> "Scene":
        return self.with_layers([changed])

    def with_layers(self, changed: Iterable[Layer]) -> "Scene":
        """Errors: UnknownId: one of them is not there."""
        new = {layer.id: layer for layer in changed}
        layers = tuple(new.pop(before.id, before) for before in self.layers)
        for missing in new:
            self.layer(missing)
        if any(
            x.links() != y.links() for x, y in zip(self.layers, layers, strict=True) if x is not y
        ):
            return replace(self, layers=layers)
        # Only what leads elsewhere has rules between things: of a hundred layers that are moved,
        # each would check all again.
        return swapped(self, layers=layers)

    def with_path(self, changed: Path) -> "Scene":
        self.path(changed.id)
        return replace(self, paths=tuple(changed if x.id == changed.id else x for x in self.paths))

    def users_of(self, path_id: str) -> tuple[Layer, ...]:
        """Return the layers that ride or stroke a path, or are masked by it."""
        uses = (Layer.rides, Layer.strokes, Layer.is_masked_by)
        return tuple(x for x in self.layers if any(use(x, path_id) for use in uses))

    def riders_of(self, path_id: str) -> tuple[Layer, ...]:
        return tuple(x for x in self.layers if x.rides(path_id))

    def all_scenes(self) -> Iterator["Scene"]:
        """Yield this scene, and those that it shows."""
        yield self
        yield from (beside.scene for beside in self.scenes)

    def assets(self) -> Iterator[str]:
        """Yield the file name of each picture once, those of the scenes that it shows with them."""
        layers = (layer for scene in self.all_scenes() for layer in scene.layers)
        # As a dict keeps their order, and with it the order in which files are written.
        yield from dict.fromkeys(name for layer in layers for name in layer.content.assets())

    def takes(self) -> Iterator[str]:
        """Yield the file name of each raw take once, as ``assets``."""
        paths = (path for scene in self.all_scenes() for path in scene.paths)
        yield from dict.fromkeys(path.drawn.file for path in paths if path.drawn)

    def with_assets(self, renamed: Mapping[str, str]) -> "Scene":
        """Return the scene with its pictures' file names changed; those not named stay."""
        layers = tuple(replace(x, content=x.content.with_assets(renamed)) for x in self.layers)
        beside = (replace(x, scene=x.scene.with_assets(renamed)) for x in self.scenes)
        return replace(self, layers=layers, scenes=tuple(beside))

    def shown_ids(self) -> list[str]:
        """Return the ids of the scenes that its own layers show, each once."""
        shown = (layer.content.scene_id() for layer in self.layers)
        return list(dict.fromkeys(each for each in shown if each is not None))

    def shown_by(self, layer: Layer) -> "Scene | None":
        """Return the scene that a layer shows, with those beside it; None where it is not here."""
        wanted = layer.content.scene_id()
        found = next((each.scene for each in self.scenes if each.id == wanted), None)
        return None if found is None else swapped(found, scenes=self.scenes)

    def with_scenes(self, beside: "tuple[Beside, ...]") -> "Scene":
        """Return the scene with those that it shows; its layers, and theirs, tell how large and how
        long these are. What shows one that is not here stays as it is.
        """
        there = {each.id: each.scene for each in beside}
        sized = tuple(each.sized(there) for each in beside)
        return swapped(self._with_facts(there), scenes=sized)

    def _with_facts(self, scenes: Mapping[str, "Scene"]) -> "Scene":
        changed = []
        for layer in self.layers:
            inset, shown = as_inset(layer.content), scenes.get(layer.content.scene_id() or "")
            if inset is None or shown is None:
                continue
            content = inset.showing(shown)
            if content is not inset:
                changed.append(replace(layer, content=content))
        return self.with_layers(changed) if changed else self

    def with_shown(self, renamed: Mapping[str, str]) -> "Scene":
        """Return the scene with other ids for those it shows, which it then does not bring."""
        changed = []
        for layer in self.layers:
            inset = as_inset(layer.content)
            if inset is not None and inset.scene in renamed:
                content = replace(inset, scene=renamed[inset.scene])
                changed.append(replace(layer, content=content))
        return self.with_layers(changed).alone()

    def alone(self) -> "Scene":
        """Return the scene without those that it shows."""
        return swapped(self, scenes=()) if self.scenes else self


@document
class Beside:
    """A scene that others show, by the id they know it by; it brings none of its own."""

    id: Id
    name: Name
    scene: Scene

    def __post_init__(self) -> None:
        if self.scene.scenes:
            raise ValueError(f"{self.name} is told with all other scenes, and brings none itself")

    def sized(self, scenes: Mapping[str, Scene]) -> "Beside":
        """Return it with what there is to tell of the scenes that it shows itself."""
        scene = self.scene._with_facts(scenes)
        return self if scene is self.scene else replace(self, scene=scene)


know_all()

Thing = TypeVar("Thing", Layer, Path)


def _with_id(things: tuple[Thing, ...], wanted: str, noun: str) -> Thing:
    for thing in things:
        if thing.id == wanted:
            return thing
    raise UnknownId(f"The scene has no {noun} {wanted!r}.")


def _check_ids(things: Iterable[Any], where: str) -> None:
    seen = set[str]()
    for thing in things:
        if thing.id in seen:
            raise ValueError(f"the id {thing.id!r} is used twice{where}")
        seen.add(thing.id)


def _check_nodes(name: str, ride: Ride, path: Path) -> None:
    nodes = {node.id for node in path.nodes()}
    for peg in ride.pegs:
        if isinstance(peg.place, AtNode) and peg.place.node not in nodes:
            raise ValueError(
                f"a peg of {name} stands on a node {peg.place.node!r} that is not there"
            )
    for angle in ride.facing.angles:
        if angle.node not in nodes:
            raise ValueError(f"{name} has an angle at a node {angle.node!r} that is not there")


def _check_links(layer: Layer, paths: dict[str, Path], there: Mapping[str, Layer]) -> None:
    """Errors: ValueError: it strokes, rides, stands on, looks at, or is masked or carried by what
    is not there.
    """
    stroked = layer.content.path_id()
    if stroked is not None and stroked not in paths:
        raise ValueError(f"{layer.name} strokes a path {stroked!r} that is not there")
    for masking in layer.mask.paths() if layer.mask else ():
        if masking not in paths:
            raise ValueError(f"{layer.name} is masked by a path {masking!r} that is not there")
    if layer.carrier is not None:
        _check_carrier(layer, there.get(layer.carrier.layer))
    for follow in layer.follows:
        if follow.layer not in there or follow.layer == layer.id:
            raise ValueError(f"{layer.name} follows a layer that is itself or not there")
    if layer.ride is None:
        return
    if layer.ride.path not in paths:
        raise ValueError(f"{layer.name} rides a path {layer.ride.path!r} that is not there")
    _check_nodes(layer.name, layer.ride, paths[layer.ride.path])
    target = layer.ride.facing.target
    if target is not None and (target not in there or target == layer.id):
        raise ValueError(f"{layer.name} looks at a layer {target!r} that is itself or not there")


def _check_carrier(layer: Layer, carrier: Layer | None) -> None:
    if carrier is None:
        raise ValueError(f"{layer.name} is carried by a layer that is not there")
    if not carrier.content.can.stand:
        raise ValueError(f"{carrier.name} is a line, which has no place of its own to carry from")
