"""Layers taken over from a scene, this one or another: with all that is inside them, their paths,
their rides and what masks them.
"""

from collections.abc import Callable, Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

from coaster.commands import applied
from coaster.commands.base import Command
from coaster.commands.clock import clock_commands
from coaster.commands.fields import set_layer, set_path, set_ride
from coaster.commands.layers import FRONT, AddLayer
from coaster.commands.paths import AddPath
from coaster.edits.carriers import let_go_commands
from coaster.edits.edit import Edit, Selection, called
from coaster.edits.groups import outermost, path_out_commands, put_into
from coaster.edits.layers import looking_elsewhere_commands, set_off
from coaster.edits.making import LONGEST_NAME, like_path
from coaster.geometry.path import Path
from coaster.ids import fresh_id, fresh_name
from coaster.motion.ride import After
from coaster.motion.wakes import Wake
from coaster.render import places
from coaster.scene import tree
from coaster.scene.document import LONGEST, Layer, Scene
from coaster.scene.shades import Tint

FEW = 60
"""Characters of names that the words of undo have room for."""


@dataclass(frozen=True)
class Taken:
    """Layers of a scene to be taken over. ``same`` says that it is an earlier state, or the present
    one, of the scene they are pasted into: paths and what is looked at are those that are there.
    """

    source: Scene
    layer_ids: tuple[str, ...]
    same: bool = False

    def spans(self) -> list[tuple[Layer, ...]]:
        """Return each outermost layer with all that is inside it, members before their group."""
        layers = self.source.layers
        return [layers[tree.span_of(layers, top.id)] for top in self.tops()]

    def tops(self) -> list[Layer]:
        return outermost(self.source, self.layer_ids)

    def all(self) -> Iterator[Layer]:
        return (layer for span in self.spans() for layer in span)

    def after(self, steps: Sequence[Command]) -> "Taken":
        return replace(self, source=applied(self.source, steps))


def paste(
    scene: Scene,
    taken: Taken,
    frame: float,
    *,
    inside: str | None = None,
    aside: bool = False,
    share: bool = True,
) -> Edit:
    """Add copies of layers in front, or ``inside`` a group, where they are seen in their own scene
    at a frame; ``aside`` a little beside that.

    A path that the scene has is shared, unless it must not be; any other comes along. Seconds stay
    at another rate.

    Errors: EditRefused: they are not there, or move in a way that cannot be kept in no group.
    """
    taken = _at_rate(taken, scene)
    staying = taken.same and all(top.parent == inside for top in taken.tops())
    home = inside if staying else None
    taken = taken.after(put_into(taken.source, taken.layer_ids, home, None, frame).commands)
    shared = _shared(scene, taken) if share else set()
    known = {layer.id for layer in scene.layers} if taken.same else set()
    notes = left_behind(taken, known)
    taken = _freed(taken, known, shared, frame)
    copies = _Copies(scene, taken, shared, home)
    steps = copies.commands(aside=aside)
    tops = [copies.ids[top.id] for top in taken.tops()]
    if inside != home:
        steps += put_into(applied(scene, steps), tops, inside, None, frame).commands
    names, counted = ", ".join(top.name for top in taken.tops()), called(len(tops), "layer")
    words = f"Paste {names}" if len(names) < FEW else f"Paste {counted}"
    return Edit(tuple(steps), words, (*notes, *copies.notes()), Selection(tuple(tops)))


def left_behind(taken: Taken, known: Collection[str] = ()) -> list[str]:
    """Say which of the layers go with one, or look at one, that neither goes along nor is known
    where they go.
    """
    there = {layer.id for layer in taken.all()} | set(known)
    notes = []
    for named, words in LEFT_BEHIND:
        names = [x.name for x in taken.all() if not set(named(x)) <= there]
        if names:
            notes.append(f"{', '.join(names[:3])}: {words}")
    return notes


def _carrier_of(layer: Layer) -> list[str]:
    return [layer.carrier.layer] if layer.carrier else []


def _target_of(layer: Layer) -> list[str]:
    target = layer.ride.facing.looks_at() if layer.ride else None
    return [target] if target else []


LEFT_BEHIND: tuple[tuple[Callable[[Layer], Iterable[str]], str], ...] = (
    (_carrier_of, "what carried it is not there, so it stands where it was."),
    (
        lambda x: [follow.layer for follow in x.follows],
        "what it followed is not there, so it has its own values.",
    ),
    (
        lambda x: [x.tint.under] if x.tint and x.tint.under else [],
        "the picture of their tint is not there, so they have its colours.",
    ),
    (
        lambda x: x.wake.looks if x.wake else (),
        "what they leave looks like them alone; the other is not there.",
    ),
    (_target_of, "what it looked at is not there, so it looks where that was."),
)
"""Whom a layer needs beside it, and what is said where that is not there."""


def _at_rate(taken: Taken, scene: Scene) -> Taken:
    source = taken.source
    if source.rate == scene.rate:
        return taken
    length = round(source.length * scene.fps / source.fps)
    return taken.after(clock_commands(source, scene.rate, min(max(length, 1), LONGEST)))


def _paths_of(layer: Layer) -> Iterator[str]:
    """Yield the paths without which a layer is not what it is."""
    path_id = layer.path_id()
    if path_id is not None:
        yield path_id
    if layer.mask is not None:
        yield from layer.mask.paths()


def _needed(taken: Taken) -> list[Path]:
    """Return the paths that go along: those that are used, those that these are made of, and those
    in a group that goes.
    """
    used = {path_id for layer in taken.all() for path_id in _paths_of(layer)}
    used |= {leg.path for path in taken.source.paths if path.id in used for leg in path.legs}
    going = {layer.id for layer in taken.all()}
    return [path for path in taken.source.paths if path.id in used or path.parent in going]


def _shared(scene: Scene, taken: Taken) -> set[str]:
    """Return the paths that the scene has already; one that lies in a group that is copied is
    copied as well.
    """
    there = {path.id: path for path in scene.paths}
    going = {layer.id for layer in taken.all()}
    found = set()
    for path in _needed(taken):
        mine = there.get(path.id)
        if mine is None or path.parent in going:
            continue
        # Pegs stand on nodes; of the same scene a path may have been reshaped since.
        same_nodes = {n.id for n in path.nodes()} <= {n.id for n in mine.nodes()}
        if (taken.same and same_nodes) or (mine.subpaths, mine.parent) == (path.subpaths, None):
            found.add(path.id)
    return found


def _freed(taken: Taken, known: set[str], shared: set[str], frame: float) -> Taken:
    """Return the layers without what stays behind: groups that paths are in, layers that are looked
    at or that carry.
    """
    going = {layer.id for layer in taken.all()}
    steps: list[Command] = []
    for path in _needed(taken):
        if path.id not in shared and path.parent is not None and path.parent not in going:
            where = places.group_map(taken.source, path.parent, frame)
            steps += path_out_commands(path, None, where)
    known = going | known
    for target in {_target(layer) for layer in taken.all()} - known:
        if target is not None:
            steps += looking_elsewhere_commands(taken.source, target)
    for layer in taken.all():
        rest = tuple(each for each in layer.follows if each.layer in known)
        if rest != layer.follows:
            steps.append(set_layer(layer.id, follows=rest))
    left = [x.id for x in taken.all() if x.carrier and x.carrier.layer not in known]
    return taken.after([*steps, *let_go_commands(taken.source, left, frame)])


def _target(layer: Layer) -> str | None:
    return layer.ride.facing.target if layer.ride is not None else None


class _Copies:
    """Copies of layers with new ids and names, and of the paths that are not shared."""

    def __init__(self, scene: Scene, taken: Taken, shared: set[str], home: str | None) -> None:
        self.scene, self.taken, self.home = scene, taken, home
        self.paths = [path for path in _needed(taken) if path.id not in shared]
        self.path_ids = {path_id: path_id for path_id in shared}
        self.ids: dict[str, str] = {}
        self.names: dict[str, str] = {}
        names, ids = ({getattr(x, key) for x in scene.layers} for key in ("name", "id"))
        for layer in taken.all():
            name = fresh_name(layer.name[:LONGEST_NAME], names)
            self.names[layer.id] = name
            # What was cut comes back as itself.
            free = layer.id not in ids
            self.ids[layer.id] = layer.id if free else fresh_id(name, ids, "layer")
            names.add(name)
            ids.add(self.ids[layer.id])

    def commands(self, *, aside: bool) -> list[Command]:
        steps, now = list[Command](), self.scene
        for path in self.paths:
            named = like_path(now, path.name, path)
            free = path.id not in {each.id for each in now.paths}
            self.path_ids[path.id] = fresh = path.id if free else named.id
            # In no group yet: that one comes only now, and rides and masks need their path first.
            alone = replace(path, id=fresh, name=named.name, parent=None, legs=())
            steps.append(AddPath(alone))
            now = applied(now, steps[-1:])
        for *members, top in self.taken.spans():
            copied = replace(self._copied(top), parent=self.home)
            steps.append(AddLayer(set_off(self.scene, copied) if aside else copied, FRONT))
            # A group before its members, and of these the last first: each goes to the back.
            steps += [AddLayer(self._copied(member), 0) for member in reversed(members)]
        return [*steps, *self._into_groups(), *self._looking()]

    def _copied(self, layer: Layer) -> Layer:
        ride, mask, content = layer.ride, layer.mask, layer.content
        if ride is not None:
            facing = ride.facing
            if facing.target is not None:  # which may not be there yet
                facing = replace(facing, target=None, spot=facing.spot or (0.0, 0.0))
            after = self._followed(ride.after)
            ride = replace(ride, path=self.path_ids[ride.path], facing=facing, after=after)
        if mask is not None:
            parts = (replace(part, path=self.path_ids[part.path]) for part in mask.parts)
            mask = replace(mask, parts=tuple(parts))
        if content.path_id() is not None:
            stroked = self.path_ids[str(content.path_id())]
            content = replace(content, path=stroked)  # type: ignore[arg-type]  # it has one
        copied = replace(layer, id=self.ids[layer.id], name=self.names[layer.id], carrier=None)
        copied = replace(copied, follows=(), wake=self._left(layer), tint=self._tinted(layer))
        parent = self.ids.get(layer.parent or "")
        return replace(copied, content=content, ride=ride, mask=mask, parent=parent)

    def _left(self, layer: Layer) -> Wake | None:
        """Return a wake that looks like copies of what it looked like, in its scene like that."""
        if layer.wake is None or not layer.wake.looks:
            return layer.wake
        there = (x for x in layer.wake.looks if x in self.ids or self.taken.same)
        return replace(layer.wake, looks=tuple(self.ids.get(each, each) for each in there))

    def _tinted(self, layer: Layer) -> Tint | None:
        if layer.tint is None or layer.tint.under is None:
            return layer.tint
        under = layer.tint.under if self.taken.same else None
        return replace(layer.tint, under=self.ids.get(layer.tint.under, under))

    def _followed(self, after: After | None) -> After | None:
        """Return what a copy begins with: the copy of that, or in the same scene that itself."""
        if after is None or (after.layer not in self.ids and not self.taken.same):
            return None
        return replace(after, layer=self.ids.get(after.layer, after.layer))

    def _into_groups(self) -> Iterator[Command]:
        for path in self.paths:
            if path.parent in self.ids:
                yield set_path(self.path_ids[path.id], parent=self.ids[path.parent])
            if path.legs:
                legs = (replace(leg, path=self.path_ids[leg.path]) for leg in path.legs)
                yield set_path(self.path_ids[path.id], legs=tuple(legs))

    def _looking(self) -> Iterator[Command]:
        """Yield the commands that let copies look at copies and be carried by them, or else by what
        is there.
        """
        for layer in self.taken.all():
            if layer.carrier is not None:
                there = self.ids.get(layer.carrier.layer, layer.carrier.layer)
                yield set_layer(self.ids[layer.id], carrier=replace(layer.carrier, layer=there))
            follows = tuple(
                replace(each, layer=self.ids.get(each.layer, each.layer)) for each in layer.follows
            )
            if follows:
                yield set_layer(self.ids[layer.id], follows=follows)
            target = _target(layer)
            if layer.ride is not None and target is not None:
                facing = replace(layer.ride.facing, target=self.ids.get(target, target))
                yield set_ride(self.ids[layer.id], facing=facing)

    def notes(self) -> list[str]:
        mine = {path.id for path in self.paths}
        riding = [x for x in self.taken.all() if x.ride and x.ride.path not in mine]
        if not riding or not self.taken.same:
            return []
        names = ", ".join(self.names[each.id] for each in riding[:3])
        return [f"{names}: on the same path in the same place; shift it along, or unlink it."]
