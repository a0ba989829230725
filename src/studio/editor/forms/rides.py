"""Rides: facing, time, pace, pegs, attaching and taking off."""

from dataclasses import replace
from typing import get_args

import numpy as np
from django import forms

from coaster.commands import Command
from coaster.commands.layers import SetKeys
from coaster.commands.paths import reshaped
from coaster.commands.rides import AttachRide, SetCourse, SetFacing, SetPace, SetPegs, SetTime
from coaster.errors import EditRefused
from coaster.geometry.path import Path
from coaster.motion import easing, pace, pins
from coaster.motion.first import first_ride
from coaster.motion.pegs import off_nodes, trimmed, with_peg, without_peg
from coaster.motion.ride import AtPercent, Facing, FacingMode, NodeAngle, with_laps
from coaster.motion.sections import paced, retimed
from coaster.motion.travel import Way, period_of
from coaster.render.outlines import drawable
from coaster.scene.document import Scene
from studio.editor.forms.base import LayerForm, Number, PaceField, Switch
from studio.editor.forms.keys import keyed


class FacingForm(LayerForm):
    name = "facing"
    mode = forms.ChoiceField(required=False, choices=[(m, m) for m in get_args(FacingMode)], label="Facing")
    turn = Number(-3600, 3600, unit="°", label="Turn by")
    flip_x, flip_y, keep_upright = Switch(), Switch(), Switch()
    ahead_s = Number(0, 60, unit="s", label="Looks ahead")
    settle_s = Number(0, 60, unit="s", label="Settles in")
    counted = Switch()
    axis = forms.ChoiceField(required=False, choices=[("x", "x"), ("y", "y")], label="Axis")
    per_px = Number(-1000, 1000, unit="°", label="Turn for each px")
    target = forms.CharField(required=False, max_length=40)
    spot_x, spot_y = Number(-100_000, 100_000, unit="px", label="X"), Number(-100_000, 100_000, unit="px", label="Y")
    node = forms.CharField(required=False, max_length=40)
    angle = Number(-36_000, 36_000, unit="°", label="Angle")
    no_angle = forms.CharField(required=False, max_length=40)

    def commands(self, scene: Scene) -> list[Command]:
        layer = scene.layer(self.cleaned_data["layer"])
        facing, ride = scene.ride_of(layer.id).facing, scene.ride_of(layer.id)
        values = self.sent("turn", "flip_x", "flip_y", "keep_upright", "ahead_s", "settle_s", "counted", "per_px")
        values |= {name: self.cleaned_data[name] for name in ("mode", "axis") if self.cleaned_data[name]}
        if values.get("mode") == "target" and facing.target is None and facing.spot == (0.0, 0.0):
            values["spot"] = (scene.width / 2, scene.height / 2)
        if values.get("mode") == "roll" and facing.mode != "roll":
            # A wheel that does not slip: once round for the way of its rim.
            height = drawable(layer, None).height * abs(layer.transform.scale[1])
            values["per_px"] = round(360 / (np.pi * height), 4) if height else facing.per_px
        if "target" in self.data:
            values["target"] = self.cleaned_data["target"] or None
        x, y = self.cleaned_data["spot_x"], self.cleaned_data["spot_y"]
        if x is not None or y is not None:
            values |= {"target": None, "spot": (facing.spot[0] if x is None else x, facing.spot[1] if y is None else y)}
        if self.cleaned_data["node"]:
            values["angles"] = self._angles(facing, scene.path(ride.path))
        if self.cleaned_data["no_angle"]:
            values["angles"] = tuple(a for a in facing.angles if a.node != self.cleaned_data["no_angle"])
        return [SetFacing(layer.id, replace(facing, **values))]

    def _angles(self, facing: Facing, path: Path) -> tuple[NodeAngle, ...]:
        node, angle = self.cleaned_data["node"], self.cleaned_data["angle"]
        path.node(node)
        kept = {a.node: a for a in facing.angles} | {node: NodeAngle(node, angle or 0.0)}
        return tuple(kept[n.id] for n in path.nodes() if n.id in kept)


class TimeForm(LayerForm):
    """Start and duration, in seconds or in frames, and laps."""

    name = "time"
    start_s = Number(-1200, 1200, unit="s", label="Starts")
    start_f = Number(-36_000, 36_000, label="Starts at frame")
    lasts_s = Number(0, 1200, unit="s", label="Lasts")
    lasts_f = Number(0, 36_000, label="Lasts frames")
    laps = Number(-1000, 1000, label="Laps")
    trim_start = Number(-36_000, 36_000, label="Trim to frame")
    trim_end = Number(-36_000, 36_000, label="Trim to frame")

    def commands(self, scene: Scene) -> list[Command]:
        layer = self.cleaned_data["layer"]
        ride = scene.ride_of(layer)
        if self.sent("trim_start", "trim_end"):
            way = Way(scene.path(ride.path), ride)
            self.title = f"Trim the ride of {scene.layer(layer).name}"
            return [SetTime(layer, trimmed(way, self.cleaned_data["trim_start"], self.cleaned_data["trim_end"]))]
        start = self._frames("start", scene.fps, ride.start)
        lasts = self._frames("lasts", scene.fps, ride.end - ride.start)
        if lasts <= 0 and len(ride.pegs) > 1:
            raise EditRefused("A ride lasts more than 0 frames.")
        pegs = retimed(ride.pegs, start, start + lasts)
        laps = self.cleaned_data["laps"]
        if laps == 0:
            raise EditRefused("A ride of 0 laps goes nowhere; write 1 for once along the path.")
        if laps is not None:
            pegs = with_laps(pegs, laps)
        return [SetTime(layer, pegs)]

    def _frames(self, name: str, fps: float, now: float) -> float:
        seconds, frames = self.cleaned_data[f"{name}_s"], self.cleaned_data[f"{name}_f"]
        if frames is not None:
            return float(frames)
        return round(seconds * fps, 9) if seconds is not None else now


class PaceForm(LayerForm):
    name = "pace"
    pace = PaceField()

    def commands(self, scene: Scene) -> list[Command]:
        layer = self.cleaned_data["layer"]
        return [SetPace(layer, paced(scene.ride_of(layer).pegs, self.cleaned_data["pace"]))]


class CourseForm(LayerForm):
    name = "course"
    offset = Number(-100_000, 100_000, unit="%", label="Shifted by")
    gap = forms.ChoiceField(required=False, choices=[("glide", "glide"), ("jump", "jump")], label="Gaps")
    settle_s = Number(0, 60, unit="s", label="Place settles in")
    backwards = Switch()
    frame = Number(0, 36_000, label="Frame")
    pin = Switch()

    def commands(self, scene: Scene) -> list[Command]:
        layer = self.cleaned_data["layer"]
        ride = scene.ride_of(layer)
        sent = {k: v for k, v in self.sent("offset", "gap", "settle_s").items() if v != ""}
        if self.cleaned_data["backwards"] is not None:
            sent["never_backwards"] = not self.cleaned_data["backwards"]
        track = scene.layer(layer).track("shift")
        if track is not None and "offset" in sent:
            frame, pin = self.cleaned_data["frame"] or 0.0, bool(self.cleaned_data["pin"])
            made = keyed(scene.layer(layer), "shift", sent["offset"], frame, easing.Bezier(*scene.pace), pin=pin)
            return [SetKeys(layer, "shift", made or ())]
        now = {name: getattr(ride, name) for name in SetCourse.parts}
        return [SetCourse(layer, **(now | sent))]


class PegForm(LayerForm):
    """Move a peg to another place, put one in at a frame, or take one out."""

    name = "peg"
    peg = forms.CharField(required=False, max_length=40)
    percent = Number(-100_000, 100_000, unit="%", label="Travelled")
    add_at = Number(-36_000, 36_000, label="Frame")
    remove = forms.CharField(required=False, max_length=40)
    on = forms.ChoiceField(required=False, choices=[("node", "node"), ("length", "length")])

    def commands(self, scene: Scene) -> list[Command]:
        layer, sent = self.cleaned_data["layer"], self.cleaned_data
        ride = scene.ride_of(layer)
        pegs = ride.pegs
        if sent["on"] == "node":
            self.title = f"Put a peg of {scene.layer(layer).name} on a node"
            path, pegs = pins.on_nodes(scene.path(ride.path), ride, sent["peg"])
            return [*reshaped(scene, path), SetPegs(layer, pegs)]
        if sent["on"] == "length":
            off = off_nodes(Way(scene.path(ride.path), ride))
            return [SetPegs(layer, tuple(b if b.id == sent["peg"] else a for a, b in zip(pegs, off, strict=True)))]
        if sent["add_at"] is not None:
            pegs = with_peg(Way(scene.path(ride.path), ride), sent["add_at"])
        elif sent["remove"]:
            pegs = without_peg(pegs, sent["remove"])
        elif sent["percent"] is not None:
            place = AtPercent(sent["percent"] - ride.offset)
            pegs = tuple(replace(p, place=place) if p.id == sent["peg"] else p for p in pegs)
        return [SetPegs(layer, pegs)]


class PegPaceForm(LayerForm):
    """One peg: its time, the speed at which it is come to and left, and how long that holds on."""

    name = "peg-pace"
    peg = forms.CharField(max_length=40)
    time_f = Number(-36_000, 36_000, label="Peg at frame")
    time_s = Number(-1200, 1200, unit="s", label="Peg at")
    speed = Number(-100_000, 100_000, label="Speed")
    arrive = Number(-100_000, 100_000, label="Speed in")
    leave = Number(-100_000, 100_000, label="Speed out")
    reach_in = Number(0, 100, unit="%", label="Reach before")
    reach_out = Number(0, 100, unit="%", label="Reach after")

    def commands(self, scene: Scene) -> list[Command]:
        layer, sent = self.cleaned_data["layer"], self.cleaned_data
        ride = scene.ride_of(layer)
        way, peg = Way(scene.path(ride.path), ride), sent["peg"]
        if sent["time_s"] is not None:
            sent["time_f"] = round(sent["time_s"] * scene.fps, 9)
        if sent["time_f"] is not None:
            return [SetPegs(layer, pace.moved_in_time(way, peg, sent["time_f"]))]
        both: tuple[tuple[str, tuple[pace.Side, ...]], ...] = (
            ("speed", ("in", "out")),
            ("arrive", ("in",)),
            ("leave", ("out",)),
        )
        for name, sides in both:
            if sent[name] is not None:
                return [SetPace(layer, pace.with_speed(way, peg, sent[name] / scene.fps, sides))]
        if sent["reach_in"] is not None:
            return [SetPace(layer, pace.with_reach(way, peg, sent["reach_in"] / 100, "in"))]
        if sent["reach_out"] is not None:
            return [SetPace(layer, pace.with_reach(way, peg, sent["reach_out"] / 100, "out"))]
        raise EditRefused("Nothing was typed for the peg; it was kept as it was.")


class HelpForm(LayerForm):
    """Do to a ride's pegs, in one step, what ``to`` says."""

    name = "ride-help"
    to = forms.ChoiceField(choices=[(w, w) for w in ("even", "smooth", "backwards", "hold", "return", "step")])
    peg = forms.CharField(required=False, max_length=40)
    frames = Number(0, 36_000, unit="fr", label="Rest")

    def commands(self, scene: Scene) -> list[Command]:
        layer, to = self.cleaned_data["layer"], self.cleaned_data["to"]
        ride = scene.ride_of(layer)
        way = Way(scene.path(ride.path), ride)
        name = scene.layer(layer).name
        self.title = {
            "even": f"Even speed of {name}",
            "smooth": f"Smooth speed of {name}",
            "backwards": f"Send {name} backwards",
            "hold": f"Let {name} rest",
            "return": f"Send {name} to and fro",
            "step": f"{'Glide' if pace.is_stepping(ride.pegs) else 'Step'} of {name}",
        }[to]
        if to == "hold":
            return [
                SetPegs(layer, pace.held(way, self.cleaned_data["peg"], self.cleaned_data["frames"] or scene.fps / 2))
            ]
        if to == "return":
            return [SetPegs(layer, pace.to_and_fro(way))]
        if to == "step":
            return [SetPace(layer, pace.stepping(ride.pegs))]
        if to == "smooth":
            return [SetPace(layer, pace.smooth(way, round_the_seam=period_of(way, scene.length) is not None))]
        if to == "backwards":
            # A way that starts at its end runs back along the path on purpose.
            return [SetPegs(layer, pace.backwards(way))]
        return [SetPace(layer, pace.even(way))]


class AttachForm(LayerForm):
    """Put a layer on a path; one that rides already keeps its facing."""

    name = "attach"
    path = forms.CharField(max_length=40)

    def commands(self, scene: Scene) -> list[Command]:
        layer, path = scene.layer(self.cleaned_data["layer"]), scene.path(self.cleaned_data["path"])
        if layer.ride is not None and layer.ride.path == path.id:
            raise EditRefused(f"{layer.name} rides {path.name} already.")
        facing = layer.ride.facing if layer.ride else None
        ride = first_ride(path, width=scene.width, rate=scene.rate, scene_length=scene.length, facing=facing)
        return [AttachRide(layer.id, ride)]
