"""What makes a scene loop: for a layer that does not meet its start again the ways to mend it, of
which only those are offered that do.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from coaster.commands.base import Command, applied
from coaster.commands.fields import set_ride
from coaster.commands.layers import SetKeys
from coaster.edits import footage, nodes, rides
from coaster.edits import keys as keyed
from coaster.edits import scene as scenes
from coaster.edits.edit import Edit, called, edit_of
from coaster.edits.keys import Moment
from coaster.edits.scene import SceneChange
from coaster.errors import CoreError, EditRefused
from coaster.geometry import arrange
from coaster.motion import easing, keys
from coaster.motion.distance import laps_of
from coaster.motion.keys import Key
from coaster.render import seam
from coaster.render.evaluate import Evaluation
from coaster.render.seam import LayerSeam
from coaster.scene.contents import Footage, as_played
from coaster.scene.document import Layer, Scene

FADE_S = 0.5
"""How long footage or a layer is faded over the seam, where there is time enough."""
MOST_NOTES = 6
ON = 1e-9
"""Frames or laps that differ by less are the same."""
Plan = Callable[[Scene, Layer], Edit]


@dataclass(frozen=True)
class Way:
    """One way to mend the seam of a layer, and what the seam is like then."""

    name: str
    words: str
    edit: Edit
    after: LayerSeam | None

    @property
    def helps(self) -> bool:
        """Whether the seam is clean then; of what stands still there is none."""
        return self.after is None or self.after.clean


def _steps(scene: Scene, *plans: Callable[[Scene], Edit]) -> Edit:
    """Return what some plans come to, each made on what the one before it leaves."""
    commands: list[Command] = []
    for plan in plans:
        edit = plan(scene)
        commands += edit.commands
        scene = applied(scene, edit.commands)
    return edit_of(commands)


def _whole(scene: Scene, layer: Layer) -> Edit:
    """Let a ride take the whole scene, in whole laps where its path is closed."""
    way = rides.way_of(scene, layer.id)
    wanted, now = None, laps_of(way)
    if way.loops and abs(now - round(now)) > ON:
        wanted = round(now) or (1.0 if now > 0 else -1.0)
    return rides.retime(scene, layer.id, 0.0, float(scene.length), wanted)


def _closed(scene: Scene, layer: Layer) -> Edit:
    """Close the path of a ride with a curve, and let the ride take the whole scene."""
    path_id = scene.ride_of(layer.id).path

    def close(now: Scene) -> Edit:
        path = nodes.shapeable(now, path_id)
        if all(run.closed for run in path.subpaths):
            raise EditRefused(f"{path.name} is closed already.")
        for number, run in enumerate(path.subpaths):
            if not run.closed:
                path = arrange.closed_round(path, number)
        return nodes.shape_edit(now, path)

    whole = (lambda now: _whole(now, layer), lambda now: rides.smooth(now, layer.id))
    return _steps(scene, close, *whole)


def _returns(scene: Scene, layer: Layer) -> Edit:
    return _steps(
        scene,
        lambda now: rides.to_and_fro(now, layer.id),
        lambda now: rides.retime(now, layer.id, 0.0, float(now.length), None),
    )


def _smooth(scene: Scene, layer: Layer) -> Edit:
    return _steps(scene, lambda now: _whole(now, layer), lambda now: rides.smooth(now, layer.id))


def _round(scene: Scene, layer: Layer) -> Edit:
    """Let letters and copies that go out at the end of an open path come in at its start."""
    ride = scene.ride_of(layer.id)
    if ride.beyond == "round" or not (ride.letters or ride.copies):
        raise EditRefused("Nothing of it is hidden past an end of its path.")
    return _steps(
        scene,
        lambda now: _whole(now, layer),
        lambda now: edit_of([set_ride(layer.id, beyond="round")]),
    )


def _length(scene: Scene, layer: Layer) -> Edit:
    ride = scene.ride_of(layer.id)
    if ride.start > ON or abs(ride.end - round(ride.end)) > ON or ride.end < 1:
        raise EditRefused("The ride does not fill whole frames from the first one on.")
    return scenes.change(scene, SceneChange(frames=ride.end))


def _keys(scene: Scene, layer: Layer) -> Edit:
    """Let all that is keyed come back at the end to what it is at the start, as fast as it leaves
    it.
    """
    steps: list[Command] = []
    for track in layer.keys:
        before, after = (keyed.value_at(layer, track.property, at) for at in (0.0, scene.length))
        if before == after or track.property == "speed":
            continue
        # One at the end is made anew; those behind it stay, though nobody sees them.
        kept = tuple(key for key in track.keys if abs(key.time - scene.length) > ON)
        seen = tuple(key for key in kept if key.time < scene.length)
        made = keys.with_key(kept, float(scene.length), before, _meeting(seen, scene.length))
        steps.append(SetKeys(layer.id, track.property, made))
    return edit_of(steps)


def _meeting(seen: keys.Keys, length: int) -> easing.Bezier:
    """Return the pace at which what goes back from the last key to the first value arrives as fast
    as it sets out from there.
    """
    if not seen or isinstance(seen[0].value, str):
        return easing.EVEN
    values, rates = keys.values(seen, [0.0, seen[-1].time])
    way = values[0] - values[1]
    if way == 0:
        return easing.EVEN
    # A curve ends as steep as its last third is.
    steep = rates[0] * (length - seen[-1].time) / way
    return easing.Bezier(1 / 3, 1 / 3, 2 / 3, 1 - steep / 3)


def _film(scene: Scene, layer: Layer) -> Edit:
    """Repeat what is played a whole number of times in the scene, faded into its beginning."""
    played = as_played(layer.content)
    if played is None:
        raise EditRefused(f"{layer.name} is not played.")
    room = (played.out - played.cut.begin) / 4
    fade = min(FADE_S, room) * played.times.fps if isinstance(played, Footage) else None

    def fitted(now: Scene) -> Edit:
        again = as_played(now.layer(layer.id).content)
        assert again is not None  # noqa: S101 - it was before
        times = max(1, round(now.seconds * abs(again.speed) / again.once))
        return footage.play(now, layer.id, {}, Moment(), lasts=now.seconds / times)

    begins = {"after": "repeat", "starts": 0.0}
    return _steps(
        scene, lambda now: footage.play(now, layer.id, begins, Moment(), fade=fade), fitted
    )


def _faded(scene: Scene, layer: Layer) -> Edit:
    """Let a layer come in at the start and go out at the end."""
    if layer.track("opacity") is not None:
        raise EditRefused(f"The opacity of {layer.name} has keys of its own.")
    last, lasts = float(scene.length), min(FADE_S * scene.fps, scene.length / 4)
    shown = layer.transform.opacity
    places = ((0.0, 0.0), (lasts, shown), (last - lasts, shown), (last, 0.0))
    made = tuple(Key(f"fade{i}", time, value) for i, (time, value) in enumerate(places))
    return edit_of([SetKeys(layer.id, "opacity", made)])


WAYS: dict[str, tuple[str, Plan]] = {
    "whole": ("Whole laps, through the whole scene", _whole),
    "smooth": ("Meet its speed at the seam", _smooth),
    "round": ("What leaves at the end comes in at the start", _round),
    "film": ("Play it whole times, its end faded into its beginning", _film),
    "keys": ("Back to the start at the end", _keys),
    "close": ("Close its path with a curve", _closed),
    "return": ("Return by the same way", _returns),
    "length": ("Make the scene as long as its ride", _length),
    "fade": ("Fade it over the seam", _faded),
}
"""Ways to mend a seam: their words and what they do, the least intrusive first."""


def ways(scene: Scene, layer_id: str) -> Iterator[Way]:
    """Yield the ways after which the seam of a layer is clean, the least intrusive first."""
    found: list[Way] = []
    for name in WAYS:
        way = _way(scene, name, layer_id)
        # What comes to the same as an earlier one is no other way.
        if way and way.helps and all(way.edit.commands != other.edit.commands for other in found):
            found.append(way)
            yield way


def _way(scene: Scene, name: str, layer_id: str) -> Way | None:
    """Return what a way comes to; None where it changes nothing or cannot be gone."""
    words, plan = WAYS[name]
    try:
        edit = plan(scene, scene.layer(layer_id))
        mended = applied(scene, edit.commands)
    except CoreError:
        return None
    if mended == scene:
        return None
    return Way(name, words, edit, _seam(mended, layer_id))


def _seam(scene: Scene, layer_id: str) -> LayerSeam | None:
    """Return the seam of a layer; None of one that stands still."""
    evaluation = Evaluation(scene)
    motion = evaluation.motion(layer_id)
    return None if evaluation.is_still(motion) else seam.seam_with_copies(motion, evaluation)


def mend(scene: Scene, layer_id: str, name: str) -> Edit:
    """Mend the seam of a layer in one of the ways.

    Errors: EditRefused: there is no such way, or it does not mend it.
    """
    layer = scene.layer(layer_id)
    if name not in WAYS:
        raise EditRefused(f"There is no way called {name!r:.40} to mend a seam.")
    way = _way(scene, name, layer_id)
    if way is None or not way.helps:
        raise EditRefused(f"{WAYS[name][0]}: that does not help {layer.name}.")
    return edit_of(way.edit.commands, f"Make {layer.name} loop", layer=layer_id)


def mend_all(scene: Scene) -> Edit:
    """Mend every seam that shows, each in the least intrusive way that does.

    Errors: EditRefused: nothing shows, or nothing helps.
    """
    commands: list[Command] = []
    notes: list[str] = []
    tried: set[str] = set()
    mended, now = 0, scene
    while left := [one for one in seam.broken(Evaluation(now)) if one.layer_id not in tried]:
        for layer_id in (each.layer_id for each in left):
            tried.add(layer_id)
            one = _seam(now, layer_id)
            # One before it may have mended it, too: by the path that both ride.
            if one is None or one.clean:
                continue
            way = next(ways(now, layer_id), None)
            if way is None:
                notes.append(f"{one.name}: nothing helps; it {', '.join(one.reasons())}.")
                continue
            mended += 1
            commands += way.edit.commands
            now = applied(now, way.edit.commands)
            notes.append(f"{now.layer(layer_id).name}: {way.words.lower()}.")
    if not commands:
        raise EditRefused(" ".join(notes) or "The loop is clean; there is nothing to mend.")
    return edit_of(commands, f"Make it loop: {called(mended, 'layer')}", _few(notes))


def _few(notes: list[str]) -> list[str]:
    """Return what was done, but not more than is read at once."""
    more = len(notes) - MOST_NOTES
    return notes if more <= 0 else [*notes[:MOST_NOTES], f"And {called(more, 'layer')} more."]
