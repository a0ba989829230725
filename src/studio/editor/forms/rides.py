"""Rides: facing, time, pace, pegs, attaching, giving and taking off."""

from typing import get_args

import numpy as np
from django import forms

from coaster.edits import copies, letters, order, rides, transfers
from coaster.edits.edit import Edit
from coaster.edits.rides import PegSpeed
from coaster.edits.spaces import space_of
from coaster.errors import EditRefused
from coaster.geometry.path import Gap
from coaster.motion.copies import MOST_COPIES, Spread
from coaster.motion.letters import BY
from coaster.motion.ride import EVENTS, Beyond, FacingMode, Looks
from coaster.scene.document import Scene
from studio.editor.forms.base import FAR, SEEN_FROM, LayerForm, MomentForm, Person
from studio.forms import Number, Numbers, PaceField, Switch
from studio.projects.models import SavedRide

FACING_FIELDS = (
    "turn", "flip_x", "flip_y", "keep_upright", "ahead_s", "settle_s", "counted", "per_px", "mode",
    "axis", "looks", "dives", "banks",
)  # fmt: skip


class FacingForm(LayerForm):
    name = "facing"
    mode = forms.ChoiceField(
        required=False, choices=[(m, m) for m in get_args(FacingMode)], label="Facing"
    )
    turn = Number(-3600, 3600, unit="°", label="Turn by")
    flip_x, flip_y, keep_upright, dives = Switch(), Switch(), Switch(), Switch()
    banks = Number(-20, 20, label="Banks")
    ahead_s = Number(0, 60, unit="s", label="Looks ahead")
    settle_s = Number(0, 60, unit="s", label="Settles in")
    counted = Switch()
    axis = forms.ChoiceField(required=False, choices=[("x", "x"), ("y", "y")], label="Axis")
    per_px = Number(-1000, 1000, unit="°", label="Turn for each px")
    target = forms.CharField(required=False, max_length=40)
    looks = forms.ChoiceField(required=False, choices=[(x, x) for x in get_args(Looks)])
    spot_x = Number(-100_000, 100_000, unit="px", label="X")
    spot_y = Number(-100_000, 100_000, unit="px", label="Y")
    seen_at = Number(0, 36_000, label="Frame")
    node = forms.CharField(required=False, max_length=40)
    angle = Number(-36_000, 36_000, unit="°", label="Angle")
    no_angle = forms.CharField(required=False, max_length=40)

    def edit(self, scene: Scene, person: Person) -> Edit:
        x, y = self.given("spot_x"), self.given("spot_y")
        if x is not None or y is not None:
            parent = scene.layer(self.layer_id).parent
            on = space_of(scene, parent, self.given("seen_at"))
            return rides.look_at_point(scene, self.layer_id, x, y, on)
        if self.given("node"):
            return rides.set_angle(scene, self.layer_id, self.given("node"), self.number("angle"))
        if self.given("no_angle"):
            return rides.remove_angle(scene, self.layer_id, self.given("no_angle"))
        values = self.sent(*FACING_FIELDS)
        # Sent but empty means the point again, in place of a layer.
        if "target" in self.data:
            values["target"] = self.given("target") or None
        return rides.set_facing(scene, self.layer_id, values)


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

    def edit(self, scene: Scene, person: Person) -> Edit:
        if self.sent("trim_start", "trim_end"):
            start, end = self.given("trim_start"), self.given("trim_end")
            return rides.trim(scene, self.layer_id, start, end)
        start, lasts = (self._frames(name, scene.fps) for name in ("start", "lasts"))
        return rides.retime(scene, self.layer_id, start, lasts, self.given("laps"))

    def _frames(self, name: str, fps: float) -> float | None:
        seconds, frames = self.given(f"{name}_s"), self.given(f"{name}_f")
        if frames is not None or seconds is None:
            return None if frames is None else float(frames)
        # 1.2 s at 25 frames a second are frame 30, not 30.000000000000004.
        return round(seconds * fps, 9)


class PaceForm(LayerForm):
    name = "pace"
    pace = PaceField(steps=True)

    def edit(self, scene: Scene, person: Person) -> Edit:
        return rides.set_pace(scene, self.layer_id, self.given("pace"))


class CourseForm(MomentForm):
    name = "course"
    offset = Number(-100_000, 100_000, unit="%", label="Shifted by")
    gap = forms.ChoiceField(
        required=False, choices=[(gap, gap) for gap in get_args(Gap)], label="Gaps"
    )
    settle_s = Number(0, 60, unit="s", label="Place settles in")
    beyond = forms.ChoiceField(required=False, choices=[(each, each) for each in get_args(Beyond)])
    backwards, own_place = Switch(), Switch()

    def edit(self, scene: Scene, person: Person) -> Edit:
        if "own_place" in self.data:
            return rides.ride_from(scene, self.layer_id, own=bool(self.given("own_place")))
        values = self.sent("offset", "gap", "settle_s", "beyond")
        if self.given("backwards") is not None:
            values["never_backwards"] = not self.given("backwards")
        return rides.set_course(scene, self.layer_id, values, self.moment)


class CopiesForm(LayerForm):
    """Set how many riders there are and how each differs; or take them away, or make layers."""

    name = "copies"
    count = Number(1, MOST_COPIES, whole=True, label="Copies")
    spread = forms.ChoiceField(required=False, choices=[(each, each) for each in get_args(Spread)])
    over = Number(-1000, 1000, unit="%", label="Spread over")
    apart = Number(-100_000, 100_000, unit="px", label="Apart")
    later_s = Number(-3600, 3600, unit="s", label="Later by")
    # Not by the names of the layer's own, which are in the same card.
    each_scale = Number(1, 10_000, unit="%", label="Size of each")
    each_turn = Number(-3600, 3600, unit="°", label="Turn of each")
    each_opacity = Number(0, 100, unit="%", label="Opacity of each")
    stray = Number(0, 100, unit="%", label="By chance")
    seed = Number(0, 999_999, whole=True, label="Which chance")
    each_hue = Number(-360, 360, unit="°", label="Hue of each")
    ahead_f = Number(-36_000, 36_000, unit="fr", label="Ahead by")
    places = Numbers(-100_000, 100_000, unit="%", label="Places")
    standing = Switch()
    none = forms.CharField(required=False, max_length=4)
    layers = forms.CharField(required=False, max_length=4)

    def edit(self, scene: Scene, person: Person) -> Edit:
        if self.given("none"):
            return copies.without_copies(scene, self.layer_id)
        if self.given("layers"):
            return copies.copies_as_layers(scene, self.layer_id)
        values = self.sent("count", "spread", "over", "apart", "seed", "places")
        if self.given("standing") is not None:
            values["standing"] = self.given("standing")
        by_unit = {
            "each_scale": ("scale", 0.01),
            "each_turn": ("turn", 1.0),
            "each_opacity": ("opacity", 0.01),
            "later_s": ("later", scene.fps),
            "stray": ("stray", 0.01),
            "each_hue": ("hue", 1.0),
            "ahead_f": ("ahead", 1.0),
        }
        for field, (name, factor) in by_unit.items():
            if self.given(field) is not None:
                values[name] = self.given(field) * factor
        return copies.set_copies(scene, self.layer_id, values)


class LettersForm(LayerForm):
    """Let the parts of a text ride by themselves, change how they do, or set it on its path."""

    name = "letters"
    by = forms.ChoiceField(required=False, choices=[(each, each) for each in (*BY, "one")])
    each_later_s = Number(-3600, 3600, unit="s", label="Later by")
    squeeze = Switch()
    rest = forms.CharField(required=False, max_length=4)

    def edit(self, scene: Scene, person: Person) -> Edit:
        if self.given("rest"):
            return letters.at_rest(scene, self.layer_id)
        if self.given("by") == "one":
            return letters.as_one(scene, self.layer_id)
        values = self.sent("by")
        if self.given("squeeze") is not None:
            values["squeeze"] = self.given("squeeze")
        if self.given("each_later_s") is not None:
            values["later"] = round(self.given("each_later_s") * scene.fps, 9)
        return letters.set_letters(scene, self.layer_id, values)


class FollowsForm(LayerForm):
    """Say what a ride begins with, how much later, or that it begins by itself."""

    name = "order-of"
    event = forms.ChoiceField(required=False, choices=[(x, x) for x in (*EVENTS, "itself")])
    other = forms.CharField(required=False, max_length=40)
    node = forms.CharField(required=False, max_length=40)
    follows_s = Number(-3600, 3600, unit="s", label="Later by")

    def edit(self, scene: Scene, person: Person) -> Edit:
        now = scene.ride_of(self.layer_id).after
        if self.given("follows_s") is not None:
            frames = round(self.given("follows_s") * scene.fps, 9)
            return order.later(scene, self.layer_id, frames)
        if self.given("event") == "itself":
            return order.by_itself(scene, self.layer_id)
        event = self.given("event") or (now.event if now else "ends")
        other = self.given("other") or (now.layer if now else self._nearest(scene))
        node = self.given("node") or (now.node if now and now.layer == other else None)
        if event == "passes" and not node:
            path = scene.path(scene.ride_of(other).path)
            node = path.nodes()[len(path.nodes()) // 2].id
        frames = now.frames if now and now.layer == other and now.event == event else 0.0
        return order.follow(scene, self.layer_id, other, event, frames, node)

    def _nearest(self, scene: Scene) -> str:
        """Return the rider that ends last before this one begins, or any other.

        Errors: EditRefused: there is none.
        """
        start = scene.ride_of(self.layer_id).start
        others = [x for x in scene.layers if x.ride and x.id != self.layer_id]
        if not others:
            raise EditRefused("No other layer rides yet, so there is none to begin after.")
        ends = {x.id: x.ride.end for x in others if x.ride}
        before = [x for x in others if ends[x.id] <= start]
        return max(before or others, key=lambda x: ends[x.id]).id


class PegForm(LayerForm):
    """Move a peg to another place, put one in at a frame, or take one out."""

    name = "peg"
    peg = forms.CharField(required=False, max_length=40)
    percent = Number(-100_000, 100_000, unit="%", label="Travelled")
    add_at = Number(-36_000, 36_000, label="Frame")
    remove = forms.CharField(required=False, max_length=40)
    on = forms.ChoiceField(required=False, choices=[("node", "node"), ("length", "length")])

    def edit(self, scene: Scene, person: Person) -> Edit:
        peg, on = self.given("peg"), self.given("on")
        if on:
            stand = rides.peg_on_node if on == "node" else rides.peg_off_node
            return stand(scene, self.layer_id, peg)
        if self.given("add_at") is not None:
            return rides.add_peg(scene, self.layer_id, self.given("add_at"))
        if self.given("remove"):
            return rides.remove_peg(scene, self.layer_id, self.given("remove"))
        if self.given("percent") is None:
            raise EditRefused("Nothing was typed for the peg; it was kept as it was.")
        return rides.move_peg(scene, self.layer_id, peg, self.given("percent"))


class PegPaceForm(LayerForm):
    """One peg: its time, the speed at which it is come to and left, and how long that holds on."""

    name = "peg-pace"
    peg = forms.CharField(max_length=40)
    time_f = Number(-36_000, 36_000, label="Peg at frame")
    time_s = Number(-1200, 1200, unit="s", label="Peg at")
    speed = Number(-100_000, 100_000, label="Speed")
    arrive = Number(-100_000, 100_000, label="Speed in")
    leave = Number(-100_000, 100_000, label="Speed out")
    joined = Switch()
    reach_in = Number(0, 100, unit="%", label="Reach before")
    reach_out = Number(0, 100, unit="%", label="Reach after")

    def edit(self, scene: Scene, person: Person) -> Edit:
        peg, sent = self.given("peg"), self.sent(*self.fields)
        for name, read in _PEG_READERS.items():
            if name in sent:
                return read(scene, self.layer_id, peg, sent[name])
        raise EditRefused("Nothing was typed for the peg; it was kept as it was.")


_PEG_READERS = {
    "time_s": lambda scene, layer, peg, v: rides.time_peg(
        scene, layer, peg, round(v * scene.fps, 9)
    ),
    "time_f": rides.time_peg,
    "speed": lambda scene, layer, peg, v: rides.speed_peg(scene, layer, peg, PegSpeed(v)),
    "arrive": lambda scene, layer, peg, v: rides.speed_peg(scene, layer, peg, PegSpeed(v, ("in",))),
    "leave": lambda scene, layer, peg, v: rides.speed_peg(scene, layer, peg, PegSpeed(v, ("out",))),
    "joined": rides.join_peg,
    "reach_in": lambda scene, layer, peg, v: rides.reach_peg(scene, layer, peg, v / 100, "in"),
    "reach_out": lambda scene, layer, peg, v: rides.reach_peg(scene, layer, peg, v / 100, "out"),
}
"""What each field of the form does; the first that was sent is taken."""


SPEED_HERE = {"slow": 0.4, "fast": 1.8}
"""How many times as fast a rider becomes by one word."""


class RideToolForm(LayerForm):
    """Do to a ride's pegs, in one step, what ``to`` says."""

    name = "ride-tool"
    to = forms.ChoiceField(choices=[(w, w) for w in ("hold", *SPEED_HERE, *rides.WHOLE_RIDE)])
    peg = forms.CharField(required=False, max_length=40)
    frames = Number(0, 36_000, unit="fr", label="Rest")
    frame = Number(0, 36_000, label="Frame")

    def edit(self, scene: Scene, person: Person) -> Edit:
        factor = SPEED_HERE.get(self.given("to"))
        if factor is not None:
            return rides.change_speed_here(scene, self.layer_id, self.number("frame"), factor)
        if self.given("to") == "hold":
            frames = self.number("frames", scene.fps / 2)
            return rides.rest_at(scene, self.layer_id, self.given("peg"), frames)
        return rides.WHOLE_RIDE[self.given("to")](scene, self.layer_id)


class AttachForm(LayerForm):
    """Put a layer on a path; one that rides already keeps its facing."""

    name = "attach"
    path = forms.CharField(max_length=40)

    def edit(self, scene: Scene, person: Person) -> Edit:
        return rides.attach(scene, self.layer_id, self.given("path"))


class DetachForm(LayerForm):
    """Take a layer off its path; it stays where it is at ``frame``."""

    name = "detach"
    frame = Number(0, 36_000, label="Frame")

    def edit(self, scene: Scene, person: Person) -> Edit:
        return transfers.detach(scene, self.layer_id, self.number("frame"))


class PinForm(LayerForm):
    """Place a layer at a frame: a node in its path and a peg on it; the first two places make the
    path.
    """

    name = "pin"
    frame = Number(0, 36_000, label="Frame")
    x, y = (Number(-FAR, FAR, unit="px", label=axis) for axis in "XY")
    seen_from = forms.ChoiceField(required=False, choices=SEEN_FROM)

    def edit(self, scene: Scene, person: Person) -> Edit:
        x, y = self.given("x"), self.given("y")
        if x is None or y is None:
            raise EditRefused("Where is it to be? The pin has no place.")
        side = self.given("seen_from") or None
        return transfers.pin(scene, self.layer_id, self.number("frame"), (x, y), side)


class GiveForm(LayerForm):
    """Give a rider's ride, with path, pace and facing, to another layer, or its pace or facing
    alone.
    """

    name = "ride-give"
    to = forms.CharField(max_length=40)
    only = forms.ChoiceField(required=False, choices=[(w, w) for w in ("pace", "facing")])

    def edit(self, scene: Scene, person: Person) -> Edit:
        only = self.given("only") or "ride"
        return transfers.give(scene, self.layer_id, self.given("to"), only)


class BakeForm(LayerForm):
    """Turn a ride into keys of x, y and turn, one a frame; or such keys back into a path with a
    ride.
    """

    name = "bake"
    first = Number(0, 36_000, label="First frame")
    last = Number(0, 36_000, label="Last frame")
    back = forms.BooleanField(required=False)
    tolerance = Number(0.05, 1000, unit="px", label="Within")

    def edit(self, scene: Scene, person: Person) -> Edit:
        if self.given("back"):
            return transfers.fit_path(scene, self.layer_id, self.number("tolerance", 1.0))
        last = self.given("last")
        end = None if last is None else round(last)
        return transfers.bake_ride(scene, self.layer_id, round(self.number("first")), end)


class DrawnPaceForm(LayerForm):
    """The speed of a ride as it was drawn over time: ``stroke`` is frame,speed pairs, px/s."""

    name = "pace-drawn"
    stroke = forms.CharField(max_length=200_000)

    def clean_stroke(self) -> list[tuple[float, float]]:
        try:
            text = str(self.cleaned_data["stroke"])
            pairs = [tuple(map(float, pair.split(","))) for pair in text.split()]
            found = [(time, speed) for time, speed in pairs]
        except ValueError as error:
            raise forms.ValidationError("The stroke is not a list of frame,speed pairs.") from error
        if not np.isfinite(np.array(found)).all():
            raise forms.ValidationError("The stroke has a place that is not a number.")
        return found

    def edit(self, scene: Scene, person: Person) -> Edit:
        return transfers.draw_pace(scene, self.layer_id, self.given("stroke"))


class LoadForm(LayerForm):
    """Put a layer on a ride of the project's library."""

    name = "ride-load"
    saved = forms.IntegerField(label="Ride")

    def edit(self, scene: Scene, person: Person) -> Edit:
        saved = SavedRide.objects.visible_to(person).filter(pk=self.given("saved")).first()
        if saved is None:
            raise EditRefused("The ride is not in the library any more.")
        layer = scene.layer(self.layer_id)
        words = f"Put {layer.name} on {saved.name}"
        return transfers.take_ride(scene, self.layer_id, saved.value(), words)
