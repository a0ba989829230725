"""The scene: size, background, rate and length."""

from dataclasses import dataclass

from coaster.commands.base import Command
from coaster.commands.clock import clock_commands
from coaster.commands.fields import set_scene
from coaster.edits.edit import Edit, edit_of
from coaster.errors import EditRefused
from coaster.motion.easing import Bezier, Pace
from coaster.motion.rate import Rate
from coaster.scene.document import LONGEST, Scene


@dataclass(frozen=True)
class SceneChange:
    """What is set of a scene; None stays.

    ``transparent`` says whether there is a background at all.
    """

    width: float | None = None
    height: float | None = None
    background: str | None = None
    transparent: bool | None = None
    rate: Rate | None = None
    seconds: float | None = None
    frames: float | None = None


def change(scene: Scene, wanted: SceneChange) -> Edit:
    """Set size, background, rate and length; rides and keys keep their seconds."""
    width = even_side(wanted.width, scene.width, "Width")
    height = even_side(wanted.height, scene.height, "Height")
    rate = wanted.rate or scene.rate
    seconds = scene.seconds if wanted.seconds is None else wanted.seconds
    length = length_of(rate, frames=wanted.frames, seconds=seconds)
    background = _background(scene, wanted)
    now = {"width": scene.width, "height": scene.height, "background": scene.background}
    fields = {"width": width, "height": height, "background": background}
    changed = {name: value for name, value in fields.items() if value != now[name]}
    steps: list[Command] = [set_scene(**changed)] if changed else []
    if (rate, length) != (scene.rate, scene.length):
        steps += clock_commands(scene, rate, length)
    return edit_of(steps, _words(set(changed), rate != scene.rate, length != scene.length))


def _words(changed: set[str], rate: bool, length: bool) -> str:
    """Say what of a scene is changed."""
    parts = {
        "size": bool(changed & {"width", "height"}),
        "background": "background" in changed,
        "frames a second": rate,
        "length": length and not rate,
    }
    return " and ".join(name for name, told in parts.items() if told).capitalize()


def _background(scene: Scene, wanted: SceneChange) -> str | None:
    there = wanted.background or scene.background
    transparent = not there if wanted.transparent is None else wanted.transparent
    return None if transparent else there or "#ffffff"


def set_pace(scene: Scene, wanted: Pace) -> Edit:
    """Set the pace that new pegs and keys begin with."""
    if not isinstance(wanted, Bezier):
        raise EditRefused("New pegs begin with a curve; a jump can be given to each of them.")
    return edit_of([set_scene(pace=tuple(wanted))])


def even_side(value: float | None, now: int, label: str) -> int:
    """Return a side in px; video needs even ones.

    Errors: EditRefused: odd or not whole.
    """
    if value is None:
        return now
    if value != round(value) or round(value) % 2:
        raise EditRefused(f"{label}: {value:g} px is not an even whole number, which video needs.")
    return round(value)


def length_of(rate: Rate, *, frames: float | None, seconds: float | None) -> int:
    """Return a length in frames from either unit.

    Errors: EditRefused: not whole frames, or too few or too many.
    """
    if frames is not None and frames != round(frames):
        raise EditRefused(f"{frames:g} is not a whole number of frames.")
    length = round(frames) if frames is not None else rate.frames(seconds or 0.0)
    if not 1 <= length <= LONGEST:
        raise EditRefused(f"{length} frames are too few or too many; a scene has 1 to {LONGEST:,}.")
    return length
