"""Chains: a layer that rides path after path, on one that is made of them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from coaster.commands.base import Command
from coaster.commands.fields import set_layer, set_path
from coaster.commands.layers import SetKeys
from coaster.commands.paths import AddPath, reshaped_commands
from coaster.commands.rides import AttachRide
from coaster.edits.edit import Edit, Selection, edit_of
from coaster.edits.making import LONGEST_NAME, new_path
from coaster.edits.paths import starter_way
from coaster.errors import EditRefused
from coaster.geometry.chains import chained, node_id
from coaster.geometry.path import MOST_LAPS, MOST_LEGS, Leg, Path
from coaster.ids import fresh_id
from coaster.motion.accents import Accent
from coaster.motion.distance import Way, within
from coaster.motion.easing import Bezier
from coaster.motion.first import CROSSING_S
from coaster.motion.keys import Keys, values, with_key
from coaster.motion.ride import AtNode, AtPercent, Facing, Peg, Place, Ride
from coaster.motion.sections import paced, retimed
from coaster.scene.document import Layer, Scene
from coaster.scene.properties import PropertyName, Track

SAME = 1e-6
"""Shares of a chain's length within which two places are one."""


@dataclass(frozen=True)
class Between:
    """What a layer does between two paths: it rests for so many frames, and meanwhile turns by
    degrees more and becomes so many times as large.
    """

    rest: float = 0.0
    turn: float = 0.0
    scale: float = 1.0

    def told(self, fps: float) -> "Between":
        """Return it with a rest of half a second where it does something in none."""
        does = self.turn or self.scale != 1.0
        return replace(self, rest=float(round(fps / 2))) if does and not self.rest else self


def then(scene: Scene, layer_id: str, path_id: str, between: Between = Between()) -> Edit:
    """Let a layer that rides go on along another path, as fast as on the first one.

    A scene that ends before that has all of the ride within it.

    Errors: EditRefused: the path is in another group, or made of others itself; or the ride goes
            past the ends of its path.
    """
    layer, ride, between = scene.layer(layer_id), scene.ride_of(layer_id), between.told(scene.fps)
    first = scene.path(ride.path)
    going = _Going(scene, layer, ride, _longer(scene, ride, first, _part(scene, first, path_id)))
    pegs, notes = going.pegs(between)
    facing = going.facing()
    after = replace(ride, path=going.chain.id, pegs=pegs, facing=facing, offset=0.0)
    steps: list[Command] = [*going.path_commands(), AttachRide(layer.id, after)]
    if (accents := going.accents()) != layer.accents:
        steps.append(set_layer(layer.id, accents=accents))
    tracks = {track.property: track.keys for track in _in_time(layer, ride, pegs)}
    if tracks.pop("shift", None):
        notes.append("Its keys of the shift are gone: they told shares of the first path.")
    if between.rest:
        tracks |= _turning(scene, layer, tracks, (pegs[-3].time, pegs[-2].time), between)
    steps += _keys_commands(layer, tracks)
    words = f"Let {layer.name} ride {scene.path(path_id).name} then"
    return edit_of(steps, words, [*notes, *going.said()])


def _keys_commands(layer: Layer, tracks: Mapping[PropertyName, Keys]) -> list[Command]:
    """Return the commands that give a layer these keys, and no others."""
    names = dict.fromkeys([*tracks, *(track.property for track in layer.keys)])
    pairs = [(name, tracks.get(name, ())) for name in names]
    return [SetKeys(layer.id, name, k) for name, k in pairs if k != layer.keys_of(name)]


def then_anew(scene: Scene, layer_id: str, between: Between = Between()) -> Edit:
    """Let a layer that rides go on along a new path, from where the one that it rides ends."""
    layer, ride = scene.layer(layer_id), scene.ride_of(layer_id)
    way = Way(scene.path(ride.path), ride)
    x, y = way.measure.locate(
        [within(np.array([_stops(way.path, ride)[-1] * way.length]), way)[0]]
    ).position[0]
    run = starter_way((float(x), float(y)), scene.width, scene.height)
    made = replace(new_path(scene, f"{layer.name}'s way", (run,)), parent=way.path.parent)
    step = AddPath(made)
    edit = then(step.apply(scene), layer_id, made.id, between)
    select = Selection(path=made.id, nodes=("n2",))
    return replace(edit, commands=(step, *edit.commands), select=select)


def _part(scene: Scene, beside: Path, path_id: str) -> Path:
    """Return a path that another one may go on with. Errors: EditRefused: it may not."""
    path = scene.path(path_id)
    if path.legs:
        raise EditRefused(f"{path.name} is made of other paths; go on with one of those.")
    if path.parent != beside.parent:
        raise EditRefused(f"{path.name} is in another group; take it out of there first.")
    if len(beside.legs) >= MOST_LEGS:
        raise EditRefused(f"A path is made of {MOST_LEGS} others at most.")
    return path


def _in_time(layer: Layer, ride: Ride, pegs: Sequence[Peg]) -> tuple[Track, ...]:
    """Return the keys of a layer, sooner by as much as its pegs are now."""
    before, now = ride.pegs[-1].time - ride.start, pegs[len(ride.pegs) - 1].time - ride.start
    if not before or abs(now - before) < SAME:
        return layer.keys
    return tuple(
        replace(track, keys=_retimed(track.keys, ride.start, now / before)) for track in layer.keys
    )


def _retimed(keys: Keys, start: float, factor: float) -> Keys:
    """Return keys so many times as late after a frame; those before it stay."""
    return tuple(
        replace(key, time=start + (key.time - start) * factor) if key.time > start else key
        for key in keys
    )


def _turning(
    scene: Scene,
    layer: Layer,
    tracks: Mapping[str, Keys],
    rest: tuple[float, float],
    between: Between,
) -> dict[PropertyName, Keys]:
    """Return the keys by which a layer turns and grows while it rests."""
    found, pace = dict[PropertyName, Keys](), Bezier(*scene.pace)
    changes: dict[PropertyName, tuple[float, float]] = {
        "turn": (1.0, between.turn),
        "scale": (between.scale, 0.0),
    }
    for name, (factor, more) in changes.items():
        if (factor, more) == (1.0, 0.0):
            continue
        keys = tracks.get(name, ())
        now = float(values(keys, [rest[0]])[0][0] if keys else layer.standing(name) or 0.0)
        begun = with_key(keys, rest[0], now, pace)
        found[name] = with_key(begun, rest[1], now * factor + more, pace)
    return found


def _longer(scene: Scene, ride: Ride, first: Path, added: Path) -> Path:
    """Return the path that is one, and then another: with its id where only it is to go on."""
    legs = first.legs or (_leg_of(first, ride),)
    leg = Leg(fresh_id("g", {leg.id for leg in legs}), added.id)
    runs = chained((*legs, leg), _known(scene), end_to_end=first.end_to_end)
    if first.legs and len(scene.users_of(first.id)) == 1:
        return replace(first, name=_named(first, added), legs=(*legs, leg), subpaths=runs)
    made = new_path(scene, _named(first, added), runs)
    return replace(
        made, legs=(*legs, leg), parent=first.parent, end_to_end=first.end_to_end, colour=None
    )


def _named(first: Path, added: Path) -> str:
    """Return a name that tells what a path is made of, as far as there is room for it."""
    name = f"{first.name}, then {added.name}"
    return name if len(name) <= LONGEST_NAME else first.name


def _leg_of(path: Path, ride: Ride) -> Leg:
    """Return a path as the leg that a ride makes of it: which way, how many laps."""
    stops = _stops(path, ride)
    turned = bool(stops[-1] < stops[0])
    if not path.loops:
        return Leg("g", path.id, turned)
    laps = int(np.ceil(stops.max() - np.floor(stops.min() + SAME) - SAME))
    if laps > MOST_LAPS:
        raise EditRefused(f"A ride goes round at most {MOST_LAPS} times before it goes on.")
    return Leg("g", path.id, turned, max(laps, 1))


def _stops(path: Path, ride: Ride) -> np.ndarray[tuple[int], np.dtype[np.float64]]:
    """Return where pegs stand, the shift included, as shares of the path's length (n,)."""
    way = Way(path, ride)
    length = way.length or 1.0
    return np.array([way.distance(peg.place) / length + ride.offset / 100 for peg in ride.pegs])


def _known(scene: Scene) -> dict[str, Path]:
    return {path.id: path for path in scene.paths}


@dataclass(frozen=True)
class _Going:
    """A ride that goes on along a ``chain`` whose last leg is new."""

    scene: Scene
    layer: Layer
    ride: Ride
    chain: Path

    @property
    def first(self) -> Path:
        return self.scene.path(self.ride.path)

    @property
    def way(self) -> Way:
        return Way(self.chain, replace(self.ride, path=self.chain.id))

    def path_commands(self) -> list[Command]:
        if self.chain.id != self.ride.path:
            return [AddPath(self.chain, self.scene.paths.index(self.first) + 1)]
        chain = self.chain
        return [set_path(chain.id, name=chain.name, legs=chain.legs, subpaths=chain.subpaths)]

    def said(self) -> list[str]:
        """Say which lines were drawn in step with the layer on the path that it rode."""
        led = [
            line.name
            for line in self.scene.layers
            if line.carrier and line.carrier.layer == self.layer.id and line.strokes(self.first.id)
        ]
        if not led or self.chain.id == self.ride.path:
            return []
        return [f"{', '.join(led)}: drawn whole now, as {self.layer.name} rides {self.chain.name}."]

    def _length(self, legs: Sequence[Leg]) -> float:
        runs = chained(legs, _known(self.scene), end_to_end=self.chain.end_to_end)
        return Way(replace(self.chain, subpaths=runs), self.ride).length

    def _begun(self) -> Sequence[float]:
        """Return where pegs stand on the chain, px. Errors: EditRefused: before or past its part of
        it.
        """
        before, stops = Way(self.first, self.ride).length, _stops(self.first, self.ride)
        legs = self.chain.legs[:-1]
        if not self.first.legs:
            if self.first.loops:
                stops = stops - np.floor(stops.min() + SAME)
            stops = legs[0].laps - stops if legs[0].backwards else stops
        if stops.min() < -SAME or stops.max() > self._length(legs) / (before or 1.0) + SAME:
            raise EditRefused(
                f"{self.layer.name} rides past the ends of {self.first.name}; bring its pegs and"
                " its shift within 0 to 100 % first."
            )
        return [float(each) for each in stops * before]

    def _place(self, distance: float, *, on_node: bool) -> Place:
        """Return a place so many px along the chain, on a node if one is there and wanted."""
        way = self.way
        for node in self.chain.nodes() if on_node else ():
            if abs(way.node_distance(node.id) - distance) <= SAME * way.length:
                return AtNode(node.id)
        return AtPercent(distance / way.length * 100 if way.length else 0.0)

    def pegs(self, between: Between) -> tuple[tuple[Peg, ...], list[str]]:
        """Return the pegs of all of the ride, and what there is to say of them."""
        begun = self._begun()
        pegs, leaves = self._up_to_the_new_one(begun, between)
        frames = max(round((self.way.length - leaves) / self._speed(begun)), 1)
        final = Peg(_fresh(pegs), pegs[-1].time + frames, AtPercent(100.0))
        before, final = paced((pegs[-1], final), Bezier(*self.scene.pace))
        return self._within_scene((*pegs[:-1], replace(before, arrive=pegs[-1].arrive), final))

    def _up_to_the_new_one(
        self, begun: Sequence[float], between: Between
    ) -> tuple[list[Peg], float]:
        """Return the pegs up to where the new leg is begun, and the px from where that is."""
        whole, legs = self.way.length, self.chain.legs
        ends, begins = self._length(legs[:-1]), whole - self._length(legs[-1:])
        *pegs, last = (
            replace(peg, place=self._place(at, on_node=isinstance(peg.place, AtNode)))
            for peg, at in zip(self.ride.pegs, begun, strict=True)
        )
        if abs(begun[-1] - ends) > SAME * whole:
            # It leaves its path on the way: what lies between is no part of either.
            there = self._place(begins, on_node=True)
            pegs.append(replace(last, step="end"))
            return [*pegs, Peg(_fresh(pegs), last.time + max(between.rest, 1.0), there)], begins
        # It stays at the end of its path whatever becomes of that.
        pegs.append(replace(last, place=self._place(ends, on_node=True)))
        if not between.rest:
            return pegs, ends
        time = last.time + between.rest
        return [*pegs, replace(pegs[-1], id=_fresh(pegs), time=time, joined=False)], ends

    def _speed(self, begun: Sequence[float]) -> float:
        """Return how fast it was on the whole, px a frame, or what is easily watched."""
        lasted, far = self.ride.end - self.ride.start, begun[-1] - begun[0]
        if not lasted or far <= 0:
            return self.scene.width / (CROSSING_S * self.scene.fps)
        return far / lasted

    def _within_scene(self, pegs: tuple[Peg, ...]) -> tuple[tuple[Peg, ...], list[str]]:
        end, start = max(self.scene.length - 1.0, 1.0), pegs[0].time
        if pegs[-1].time <= self.scene.length or start >= end:
            return pegs, []
        note = "All of the ride now ends with the scene; make that longer to have it slower."
        return _on_whole_frames(retimed(pegs, start, end)), [note]

    def accents(self) -> tuple[Accent, ...]:
        """Return its accents, those that go by nodes of its path by those of the chain."""
        if self.first.legs:
            return self.layer.accents
        leg = self.chain.legs[0]
        marked = (x for x in self.layer.accents if x.when == "node" and x.mark)
        moved = {x.id: replace(x, mark=node_id(leg, str(x.mark))) for x in marked}
        return tuple(moved.get(each.id, each) for each in self.layer.accents)

    def facing(self) -> Facing:
        """Return its facing with angles at the nodes that its path has in the chain."""
        now = self.ride.facing
        if self.first.legs:
            return now
        leg = self.chain.legs[0]
        angles = (replace(each, node=node_id(leg, each.node)) for each in now.angles)
        return replace(now, angles=tuple(angles))


def _fresh(pegs: Sequence[Peg]) -> str:
    return fresh_id("peg", {peg.id for peg in pegs})


def _on_whole_frames(pegs: tuple[Peg, ...]) -> tuple[Peg, ...]:
    """Return pegs at the whole frames nearest to them, where these are different ones."""
    times = [float(round(peg.time)) for peg in pegs]
    if len(set(times)) < len(times):
        return pegs
    return tuple(replace(peg, time=time) for peg, time in zip(pegs, times, strict=True))


def chain(scene: Scene, path_id: str, other_id: str) -> Edit:
    """Make a path of one and another that comes after it; one that is made of others goes on with
    it.
    """
    first = scene.path(path_id)
    added = _part(scene, first, other_id)
    words = f"Go on from {first.name} with {added.name}"
    legs = first.legs or (Leg("g", first.id),)
    legs = (*legs, Leg(fresh_id("g", {leg.id for leg in legs}), added.id))
    runs = chained(legs, _known(scene), end_to_end=first.end_to_end)
    if first.legs:
        return _changed(scene, replace(first, legs=legs), words)
    made = new_path(scene, _named(first, added), runs)
    made = replace(made, legs=legs, parent=first.parent)
    return edit_of([AddPath(made, scene.paths.index(first) + 1)], words, path=made.id)


def set_leg(
    scene: Scene, path_id: str, leg_id: str, *, backwards: bool | None = None, laps: int = 0
) -> Edit:
    """Let a leg be gone along the other way, or so many times round."""
    path, leg = _leg(scene, path_id, leg_id)
    if laps > 1 and not scene.path(leg.path).loops:
        raise EditRefused(f"{scene.path(leg.path).name} is open, and has no laps.")
    turned = leg.backwards if backwards is None else backwards
    changed = replace(leg, backwards=turned, laps=laps or leg.laps)
    legs = tuple(changed if each.id == leg_id else each for each in path.legs)
    return _changed(scene, replace(path, legs=legs), f"How {path.name} goes on")


def move_leg(scene: Scene, path_id: str, leg_id: str, by: int) -> Edit:
    """Let a leg come so many places later, or earlier below 0."""
    path, leg = _leg(scene, path_id, leg_id)
    legs = [each for each in path.legs if each.id != leg_id]
    place = min(max(path.legs.index(leg) + by, 0), len(legs))
    legs.insert(place, leg)
    return _changed(scene, replace(path, legs=tuple(legs)), f"Order of {path.name}")


def remove_leg(scene: Scene, path_id: str, leg_id: str) -> Edit:
    """Errors: EditRefused: it is the only one."""
    path, leg = _leg(scene, path_id, leg_id)
    legs = tuple(each for each in path.legs if each.id != leg_id)
    if not legs:
        raise EditRefused(f"{path.name} is made of this one alone; delete it instead.")
    words = f"Take {scene.path(leg.path).name} out of {path.name}"
    return _changed(scene, replace(path, legs=legs), words)


def _leg(scene: Scene, path_id: str, leg_id: str) -> tuple[Path, Leg]:
    path = scene.path(path_id)
    found = next((leg for leg in path.legs if leg.id == leg_id), None)
    if found is None:
        raise EditRefused(f"{path.name} has no such part any more.")
    return path, found


def _changed(scene: Scene, path: Path, words: str) -> Edit:
    """Return the edit by which a path is made of other legs, and its riders keep to it."""
    runs = chained(path.legs, _known(scene), end_to_end=path.end_to_end)
    shaped = reshaped_commands(scene, replace(path, subpaths=runs))
    of_path = set_path(path.id, legs=path.legs, end_to_end=path.end_to_end)
    return edit_of([of_path, *shaped], words)


def set_end_to_end(scene: Scene, path_id: str, *, on: bool) -> Edit:
    """Let each leg begin where the one before ends, or all lie where their paths are."""
    path = _made_of_others(scene, path_id)
    return _changed(scene, replace(path, end_to_end=on), f"How {path.name} goes on")


def part(scene: Scene, path_id: str) -> Edit:
    """Let a path that is made of others keep its shape as one of its own."""
    path = _made_of_others(scene, path_id)
    return edit_of([set_path(path.id, legs=(), end_to_end=False)], f"Part {path.name}")


def _made_of_others(scene: Scene, path_id: str) -> Path:
    path = scene.path(path_id)
    if not path.legs:
        raise EditRefused(f"{path.name} is a path of its own; there is nothing to part it from.")
    return path
