"""Footage: what is played of it, from when on, how fast, and what comes then."""

from django import forms

from coaster.edits import footage
from coaster.edits.edit import Edit
from coaster.motion.playing import AFTER
from coaster.scene.contents import MOST_SPEED
from coaster.scene.document import Scene
from studio.editor.forms.base import FAR, MomentForm, Person
from studio.editor.forms.layers import choices
from studio.forms import Number

SIDES = ("Starts", "Begins", "Ends")


class FootageForm(MomentForm):
    """``begin`` and ``end`` are seconds of the file, an empty end is the file's; ``starts`` and
    ``lasts`` seconds of the scene, ``fade`` frames of the file; ``starts_f`` and trimmed ends are
    frames of the scene.
    """

    name = "footage"
    begin, end = (Number(0, 100_000, unit="s", label=name) for name in ("From", "To"))
    starts = Number(-36_000, 36_000, unit="s", label="Starts")
    speed = Number(-100 * MOST_SPEED, 100 * MOST_SPEED, unit="%", label="Speed")
    lasts = Number(0.001, 36_000, unit="s", label="Lasts")
    after = choices(AFTER, label="At its end")
    fade = Number(0, 36_000, label="Fade")
    starts_f, trim_start, trim_end = (Number(-FAR, FAR, label=side) for side in SIDES)
    whole, even = (forms.BooleanField(required=False) for _ in range(2))

    def edit(self, scene: Scene, person: Person) -> Edit:
        if self.given("whole"):
            return footage.play_whole(scene, self.layer_id)
        if self.given("even"):
            return footage.close_gaps(scene, self.layer_id)
        start, end = self.given("trim_start"), self.given("trim_end")
        if start is not None or end is not None:
            return footage.trim(scene, self.layer_id, start=start, end=end)
        values = self.sent("begin", "end", "after")
        if "end" in self.data and self.given("end") is None:
            values["end"] = None
        if self.given("starts") is not None:
            values["starts"] = round(self.given("starts") * scene.fps, 9)
        if self.given("starts_f") is not None:
            values["starts"] = self.given("starts_f")
        if self.given("speed") is not None:
            values["speed"] = self.given("speed") / 100
        lasts, fade = self.given("lasts"), self.given("fade")
        return footage.play(scene, self.layer_id, values, self.moment, lasts=lasts, fade=fade)
