"""Rides made, given and turned into something else: pinning, giving, taking off, baking, drawing a pace."""

from dataclasses import replace

import numpy as np
from django import forms

from coaster.commands import Command
from coaster.commands.layers import PlaceLayer, SetKeys
from coaster.commands.paths import AddPath, reshaped
from coaster.commands.rides import AttachRide, DetachRide, SetFacing, SetPace, SetPegs
from coaster.errors import EditRefused
from coaster.ids import fresh_id, fresh_name
from coaster.motion import bake, easing, pins, timing
from coaster.motion.keys import values, with_key
from coaster.motion.pegs import off_nodes
from coaster.motion.ride import Facing
from coaster.motion.travel import Way
from coaster.render.evaluate import motion, places_of
from coaster.scene.document import Layer, Line, Scene
from studio.editor.forms.base import LayerForm, Number, called
from studio.editor.library import loaded
from studio.projects.models import SavedRide


def place_of(scene: Scene, layer_id: str, frame: float) -> tuple[float, float]:
    """Return where a layer's anchor is at a frame, px."""
    x, y = places_of(scene.layer(layer_id), scene)[min(max(round(frame), 0), scene.length)]
    return round(float(x), 3), round(float(y), 3)


def standing_still(scene: Scene, layer_id: str, frame: int) -> list[Command]:
    """Return the commands that take a rider off its path and leave it where a frame shows it."""
    scene.ride_of(layer_id)
    placed = replace(scene.layer(layer_id).transform, position=place_of(scene, layer_id, frame))
    steps: list[Command] = [DetachRide(layer_id), PlaceLayer(layer_id, placed)]
    # Keys of x and y rested while it rode; they would take it elsewhere now.
    steps += [
        SetKeys(layer_id, t.property, ()) for t in scene.layer(layer_id).keys if t.property in ("x", "y", "shift")
    ]
    return steps


class DetachForm(LayerForm):
    """Take a layer off its path; it stays where it is at ``frame``."""

    name = "detach"
    frame = Number(0, 36_000, label="Frame")

    def commands(self, scene: Scene) -> list[Command]:
        layer = self.cleaned_data["layer"]
        return [*standing_still(scene, layer, round(self.cleaned_data["frame"] or 0))]


class PinForm(LayerForm):
    """Place a layer at a frame: a node in its path and a peg on it; the first two places make the path."""

    name = "pin"
    frame = Number(0, 36_000, label="Frame")
    x, y = Number(-100_000, 100_000, unit="px", label="X"), Number(-100_000, 100_000, unit="px", label="Y")

    def commands(self, scene: Scene) -> list[Command]:
        sent, layer = self.cleaned_data, scene.layer(self.cleaned_data["layer"])
        if isinstance(layer.content, Line):
            raise EditRefused(f"{layer.name} is a line and follows its path; it cannot be pinned.")
        if sent["x"] is None or sent["y"] is None:
            raise EditRefused("Where is it to be? The pin has no place.")
        time, point = sent["frame"] or 0.0, (sent["x"], sent["y"])
        self.title = f"Pin {layer.name} at {time / scene.fps:.2f} s"
        if layer.ride is not None:
            path = scene.path(layer.ride.path)
            if layer.track("shift"):
                raise EditRefused(f"{layer.name} has keys of its shift along the path; clear them to pin places.")
            after, pegs = pins.pinned(path, layer.ride, time, point, easing.Bezier(*scene.pace))
            return [*reshaped(scene, after), SetPegs(layer.id, pegs)]
        return self._unridden(scene, layer, time, point)

    def _unridden(self, scene: Scene, layer: Layer, time: float, point: tuple[float, float]) -> list[Command]:
        x, y = layer.track("x"), layer.track("y")
        curve = easing.Bezier(*scene.pace)
        there = [(key.time, (key.value, other.value)) for key, other in zip(x.keys, y.keys)] if x and y else []  # noqa: B905
        if len(there) == 1 and x and y and len(x.keys) == len(y.keys) == 1 and abs(there[0][0] - time) > 1e-6:
            name = fresh_name(f"Way of {layer.name}"[:80], {p.name for p in scene.paths})
            path_id = fresh_id(name, {p.id for p in scene.paths}, "path")
            path, ride = pins.begun(path_id, name, there[0], (time, point), curve)
            ride = replace(ride, facing=Facing("fixed"))
            self.notes.append(f"{layer.name} now rides a path of its own, {name}. Each further pin makes a node in it.")
            cleared = [SetKeys(layer.id, "x", ()), SetKeys(layer.id, "y", ())]
            return [AddPath(path), *cleared, AttachRide(layer.id, ride)]
        if not there:
            self.notes.append(
                f"{layer.name} is pinned here at {time / scene.fps:.2f} s. Go to another time and drag it on."
            )
        old = (x.keys if x else (), y.keys if y else ())
        return [
            SetKeys(layer.id, "x", with_key(old[0], time, point[0], curve)),
            SetKeys(layer.id, "y", with_key(old[1], time, point[1], curve)),
        ]


class GiveForm(LayerForm):
    """Give a rider's ride, with path, pace and facing, to another layer, or its pace or facing alone."""

    name = "ride-give"
    to = forms.CharField(max_length=40)
    only = forms.ChoiceField(required=False, choices=[(w, w) for w in ("pace", "facing")])

    def commands(self, scene: Scene) -> list[Command]:
        ride, other = scene.ride_of(self.cleaned_data["layer"]), scene.layer(self.cleaned_data["to"])
        what = self.cleaned_data["only"] or "ride"
        self.title = f"Give the {what} of {scene.layer(self.cleaned_data['layer']).name} to {other.name}"
        if ride.facing.target == other.id:
            ride = replace(ride, facing=replace(ride.facing, target=None, spot=place_of(scene, other.id, 0)))
        if not self.cleaned_data["only"]:
            return [AttachRide(other.id, ride)]
        theirs = scene.ride_of(other.id)
        if self.cleaned_data["only"] == "facing":
            angles = ride.facing.angles if theirs.path == ride.path else ()
            return [SetFacing(other.id, replace(ride.facing, angles=angles))]
        pegs = off_nodes(Way(scene.path(ride.path), ride))
        return [SetPace(other.id, pegs)]


class BakeForm(LayerForm):
    """Turn a ride into keys of x, y and turn, one a frame; or such keys back into a path with a ride."""

    name = "bake"
    first = Number(0, 36_000, label="First frame")
    last = Number(0, 36_000, label="Last frame")
    back = forms.BooleanField(required=False)
    tolerance = Number(0.05, 1000, unit="px", label="Within")

    def commands(self, scene: Scene) -> list[Command]:
        layer, sent = scene.layer(self.cleaned_data["layer"]), self.cleaned_data
        if sent["back"]:
            return self._back(scene, layer)
        scene.ride_of(layer.id)
        first, last = round(sent["first"] or 0), round(scene.length if sent["last"] is None else sent["last"])
        if not first < last <= scene.length:
            raise EditRefused(f"The frames run from a first to a later one, up to {scene.length}.")
        found = motion(layer, scene)
        assert found.travel is not None  # noqa: S101 - it rides
        self.title = f"Turn the ride of {layer.name} into keys of x and y"
        frames, ride = slice(first, last + 1), layer.ride
        places, flips = found.travel.position[frames], (1.0, 1.0)
        steps: list[Command] = [DetachRide(layer.id)]
        steps += [SetKeys(layer.id, "x", bake.a_key_a_frame(places[:, 0], first))]
        steps += [SetKeys(layer.id, "y", bake.a_key_a_frame(places[:, 1], first)), SetKeys(layer.id, "shift", ())]
        if ride is not None and (ride.facing.mode != "fixed" or ride.facing.turn):
            own = layer.track("turn")
            still = np.full(scene.length + 1, layer.transform.turn)
            turn = still if own is None else values(own.keys, np.arange(scene.length + 1.0))[0]
            angles = np.degrees(found.travel.facing) + turn + ride.facing.turn
            steps.append(SetKeys(layer.id, "turn", bake.a_key_a_frame(angles[frames], first)))
        if ride is not None and (ride.facing.flip_x or ride.facing.flip_y):
            flips = (-1.0 if ride.facing.flip_x else 1.0, -1.0 if ride.facing.flip_y else 1.0)
            across, down = layer.transform.scale
            steps.append(PlaceLayer(layer.id, replace(layer.transform, scale=(across * flips[0], down * flips[1]))))
            scale = layer.track("scale")
            if scale and flips[0] < 0:
                steps.append(SetKeys(layer.id, "scale", tuple(replace(k, value=-k.value) for k in scale.keys)))
        if ride is not None and ride.facing.keep_upright and np.any(found.travel.upside < 0):
            self.notes.append("Keeping upright has no keys: where it was mirrored, it is not any more.")
        return steps

    def _back(self, scene: Scene, layer: Layer) -> list[Command]:
        x, y = layer.track("x"), layer.track("y")
        if layer.ride is not None or not (x and y):
            raise EditRefused(f"{layer.name} has no keys of x and y that place it; there is nothing to fit a path to.")
        begin = max(0, int(np.ceil(min(x.keys[0].time, y.keys[0].time))))
        end = min(scene.length, int(np.floor(max(x.keys[-1].time, y.keys[-1].time))))
        times, tolerance = np.arange(begin, end + 1.0), self.cleaned_data["tolerance"] or 1.0
        name = fresh_name(f"Way of {layer.name}"[:80], {p.name for p in scene.paths})
        path_id = fresh_id(name, {p.id for p in scene.paths}, "path")
        found = bake.fit_back(path_id, name, times, places_of(layer, scene)[begin : end + 1], tolerance)
        ride = replace(found.ride, facing=Facing("fixed"))
        self.title = f"Fit a path to the keys of {layer.name}"
        counts = f"{called(len(found.path.nodes()), 'node')} and {called(len(ride.pegs), 'peg')}"
        close = (
            ""
            if found.deviation <= tolerance
            else f" That is more than {tolerance:g} px: it moves too roughly for that."
        )
        self.notes.append(f"{name}: {counts}, at most {found.deviation:.2f} px from where it was.{close}")
        cleared = [SetKeys(layer.id, "x", ()), SetKeys(layer.id, "y", ())]
        return [AddPath(found.path), *cleared, AttachRide(layer.id, ride)]


class DrawnPaceForm(LayerForm):
    """The speed of a ride as it was drawn over time: ``stroke`` is frame,speed pairs, px/s."""

    name = "pace-drawn"
    stroke = forms.CharField(max_length=200_000)

    def clean_stroke(self) -> list[tuple[float, float]]:
        try:
            pairs = [tuple(map(float, pair.split(","))) for pair in str(self.cleaned_data["stroke"]).split()]
            found = [(t, v) for t, v in pairs]
        except ValueError as error:
            raise forms.ValidationError("The stroke is no list of frame,speed pairs.") from error
        if not np.isfinite(np.array(found)).all():
            raise forms.ValidationError("The stroke has a place that is no number.")
        return found

    def commands(self, scene: Scene) -> list[Command]:
        layer = self.cleaned_data["layer"]
        ride = scene.ride_of(layer)
        times, speeds = zip(*self.cleaned_data["stroke"], strict=True)
        way = Way(scene.path(ride.path), ride)
        pegs, miss = timing.drawn(way, times, np.array(speeds) / scene.fps, tolerance=max(way.length / 1000, 0.5))
        self.title = f"Draw the pace of {scene.layer(layer).name}"
        fresh = len(pegs) - len(ride.pegs)
        self.notes.append(f"{called(fresh, 'peg')} more; within {miss:.1f} px of what was drawn, arrival times held.")
        return [SetPace(layer, pegs)]


class LoadForm(LayerForm):
    """Put a layer on a ride of the project's library."""

    name = "ride-load"
    saved = forms.IntegerField(label="Ride")

    def commands(self, scene: Scene) -> list[Command]:
        saved = SavedRide.objects.visible_to(self.user).filter(pk=self.cleaned_data["saved"]).first()
        if saved is None:
            raise EditRefused("The ride is not in the library any more.")
        layer = scene.layer(self.cleaned_data["layer"])
        self.title = f"Put {layer.name} on {saved.name}"
        return loaded(scene, layer.id, saved)
