"""The scene: size, background, rate and length."""

from django import forms

from coaster.commands import Command
from coaster.commands.settings import SetFrame, SetScenePace, clock_for
from coaster.errors import EditRefused, FormatError
from coaster.motion.rate import Rate, parse_rate
from coaster.scene.document import Scene
from studio.editor.forms.base import COLOUR, EditForm, Number, PaceField, Switch

RATES = ["12", "15", "23.976", "24", "25", "29.97", "30", "48", "50", "59.94", "60"]
"""The frames a second that are offered; others may be typed where there is a field."""
LONGEST = 36_000
"""Frames of the longest scene."""


class SceneForm(EditForm):
    """Size, background, rate and length of the scene."""

    name = "scene"
    width = Number(16, 8192, unit="px", label="Width")
    height = Number(16, 8192, unit="px", label="Height")
    background = COLOUR
    transparent = Switch()
    rate = forms.CharField(required=False, max_length=20, label="Frames a second")
    seconds = Number(0.01, 1200, unit="s", label="Length")
    frames = Number(1, 36_000, label="Length in frames")

    def clean_rate(self) -> Rate | None:
        text = self.cleaned_data["rate"]
        return checked_rate(text) if text else None

    def commands(self, scene: Scene) -> list[Command]:
        sent = self.cleaned_data
        width, height = (even(sent[n], getattr(scene, n), n.capitalize()) for n in ("width", "height"))
        background = sent["background"] or scene.background or "#ffffff"
        clear = (
            sent["transparent"] if sent["transparent"] is not None else not sent["background"] and not scene.background
        )
        rate = sent["rate"] or scene.rate
        seconds = scene.seconds if sent["seconds"] is None else sent["seconds"]
        length = length_of(rate, frames=sent["frames"], seconds=seconds)
        frame = SetFrame(width, height, None if clear else background)
        return [frame, clock_for(scene, rate, length)]


class ScenePaceForm(EditForm):
    """The pace that new pegs and keys begin with."""

    name = "scene-pace"
    pace = PaceField()

    def commands(self, scene: Scene) -> list[Command]:
        found = self.cleaned_data["pace"]
        if isinstance(found, str):
            raise EditRefused("New pegs begin with a curve; a jump can be given to each of them.")
        return [SetScenePace(tuple(found))]


def even(value: float | None, now: int, label: str) -> int:
    """Return a side in px; video needs even ones.

    Errors: EditRefused: odd or not whole.
    """
    if value is None:
        return now
    if value != round(value) or round(value) % 2:
        raise EditRefused(f"{label}: {value:g} px is not an even whole number, which video needs.")
    return round(value)


def checked_rate(text: str) -> Rate:
    """Read frames a second from 12 to 60.

    Errors: ValidationError in one sentence.
    """
    try:
        rate = parse_rate(text)
    except FormatError as error:
        raise forms.ValidationError(str(error)) from error
    if not 12 <= rate.fraction <= 60:
        raise forms.ValidationError(f"{text} frames a second is outside 12 to 60.")
    return rate


def length_of(rate: Rate, *, frames: float | None, seconds: float | None) -> int:
    """Return a length in frames from either unit.

    Errors: EditRefused: not whole frames, or too few or too many.
    """
    if frames is not None and frames != round(frames):
        raise EditRefused(f"{frames:g} is no whole number of frames.")
    length = round(frames) if frames is not None else rate.frames(seconds or 0.0)
    if not 1 <= length <= LONGEST:
        raise EditRefused(f"{length} frames are too few or too many; a scene has 1 to {LONGEST:,}.")
    return length
