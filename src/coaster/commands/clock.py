"""Edits of the scene's clock: its rate and length, and what keeps its seconds then."""

from dataclasses import replace
from typing import ClassVar

from coaster.commands.base import Command, Key, Setting, register
from coaster.commands.fields import set_layer, set_ride
from coaster.documents import document
from coaster.geometry.path import Id
from coaster.motion.keys import scaled
from coaster.motion.rate import Rate
from coaster.motion.ride import Peg, Ride
from coaster.motion.sections import retimed
from coaster.scene.contents import Content
from coaster.scene.document import Length, Scene, Span
from coaster.scene.properties import Track


@register
@document
class SetClock(Setting):
    """Set the rate and the length in frames, and the pegs and keys that keep their seconds."""

    kind: ClassVar[str] = "scene.clock"
    rate: Rate
    length: Length
    pegs: tuple[tuple[Id, tuple[Peg, ...]], ...] = ()
    keys: tuple[tuple[Id, tuple[Track, ...]], ...] = ()
    shown: tuple[tuple[Id, Span], ...] = ()
    contents: tuple[tuple[Id, Content], ...] = ()

    def apply(self, scene: Scene) -> Scene:
        for layer_id, pegs in self.pegs:
            ride = replace(scene.ride_of(layer_id), pegs=pegs)
            scene = scene.with_layer(replace(scene.layer(layer_id), ride=ride))
        for layer_id, tracks in self.keys:
            scene = scene.with_layer(replace(scene.layer(layer_id), keys=tracks))
        for layer_id, span in self.shown:
            scene = scene.with_layer(replace(scene.layer(layer_id), shown=span))
        for layer_id, content in self.contents:
            scene = scene.with_layer(replace(scene.layer(layer_id), content=content))
        return replace(scene, rate=self.rate, length=self.length)

    def inverse(self, before: Scene) -> Command:
        pegs = tuple((layer_id, before.ride_of(layer_id).pegs) for layer_id, _ in self.pegs)
        keys = tuple((layer_id, before.layer(layer_id).keys) for layer_id, _ in self.keys)
        spans = ((layer_id, before.layer(layer_id).shown) for layer_id, _ in self.shown)
        shown = tuple((x, span) for x, span in spans if span)
        contents = tuple((x, before.layer(x).content) for x, _ in self.contents)
        return SetClock(before.rate, before.length, pegs, keys, shown, contents)

    def merge(self, later: Command) -> Command | None:
        if not isinstance(later, SetClock):
            return None
        pegs, keys = dict(self.pegs) | dict(later.pegs), dict(self.keys) | dict(later.keys)
        shown = dict(self.shown) | dict(later.shown)
        contents = dict(self.contents) | dict(later.contents)
        return SetClock(
            later.rate,
            later.length,
            tuple(pegs.items()),
            tuple(keys.items()),
            tuple(shown.items()),
            tuple(contents.items()),
        )

    def touches(self) -> tuple[Key, ...]:
        pegs = (("layer", layer_id, "ride", "pegs") for layer_id, _ in self.pegs)
        keys = (("layer", layer_id, "keys") for layer_id, _ in self.keys)
        return (
            ("scene", "clock"),
            *pegs,
            *keys,
            *(("layer", layer_id, "shown") for layer_id, _ in self.shown),
            *(("layer", layer_id, "content") for layer_id, _ in self.contents),
        )

    def describe(self, scene: Scene) -> str:
        return "Rate and length"


def _retimed_pegs(scene: Scene, ride: Ride, factor: float, length: int) -> tuple[Peg, ...]:
    # A loop that filled the scene is to fill it at any length; else there would be a gap at the
    # seam.
    fills = (ride.start, ride.end) == (0.0, float(scene.length))
    end = float(length) if fills and scene.path(ride.path).loops else ride.end * factor
    return retimed(ride.pegs, ride.start * factor, end)


def clock_commands(scene: Scene, rate: Rate, length: int) -> list[Command]:
    """Return the commands for a new rate and length: the clock, and what else has frames."""
    factor = rate.fps / scene.rate.fps
    commands: list[Command] = [clock_for(scene, rate, length)]
    if factor == 1:
        return commands
    for layer in scene.layers:
        ride = layer.ride
        if ride is not None and ride.copies is not None:
            now = ride.copies
            copies = replace(now, later=now.later * factor, ahead=now.ahead * factor)
            commands += [set_ride(layer.id, copies=copies)] if copies != now else []
        if ride is not None and ride.letters is not None and ride.letters.later:
            letters = replace(ride.letters, later=ride.letters.later * factor)
            commands.append(set_ride(layer.id, letters=letters))
        if layer.accents:
            timed = tuple(accent.retimed(factor) for accent in layer.accents)
            commands.append(set_layer(layer.id, accents=timed))
        if any(follow.later for follow in layer.follows):
            later = tuple(replace(x, later=x.later * factor) for x in layer.follows)
            commands.append(set_layer(layer.id, follows=later))
    return commands


def clock_for(scene: Scene, rate: Rate, length: int) -> SetClock:
    """Return the command for a new rate and length.

    Rides and keys keep their seconds; those that fill the scene on a closed path go on filling it,
    so that a loop stays one.
    """
    factor = rate.fps / scene.rate.fps
    rides = [(layer.id, layer.ride) for layer in scene.layers if layer.ride]
    timed = [(name, ride, _retimed_pegs(scene, ride, factor, length)) for name, ride in rides]
    changed = [(name, pegs) for name, ride, pegs in timed if pegs != ride.pegs]
    tracks = [
        (x.id, tuple(replace(t, keys=scaled(t.keys, factor)) for t in x.keys))
        for x in scene.layers
        if x.keys
    ]
    spans = [(x.id, (x.shown[0] * factor, x.shown[1] * factor)) for x in scene.layers if x.shown]
    if factor == 1:
        tracks, spans = [], []
    told = ((x.id, x.content, x.content.retimed(factor)) for x in scene.layers)
    contents = tuple((name, after) for name, before, after in told if after != before)
    return SetClock(rate, length, tuple(changed), tuple(tracks), tuple(spans), contents)
