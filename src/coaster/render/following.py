"""Layers whose properties follow others', as layers with keys: those who draw them see these."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from coaster.geometry.bezier import Floats
from coaster.motion import keys
from coaster.motion.distance import Way
from coaster.motion.following import followed
from coaster.motion.keys import MOST_KEYS, Key
from coaster.motion.travel import Travel
from coaster.scene.document import Layer
from coaster.scene.follows import MEASURES, Follow
from coaster.scene.properties import PROPERTIES, Track, in_order

ROUND, WHOLE_TURNS = 360.0, 1e-6


@dataclass(frozen=True, eq=False)
class Source:
    """A layer that is followed: where its anchor is in the scene in frames 0..N (N + 1, 2), and its
    ride, if it has one.
    """

    layer: Layer
    spots: Floats
    fps: float
    way: Way | None
    travel: Travel | None

    def measured(self, value: str) -> Floats:
        """Return a value of it in frames 0..N, (N + 1,), as ``Follow`` counts it."""
        count, travel = len(self.spots), self.travel
        if value not in MEASURES:
            return self._property(value, np.arange(float(count)))
        if value in ("x", "y"):
            return self.spots[:, "xy".index(value)]
        if value == "travelled":
            if self.way is None or travel is None or not self.way.length:
                return np.zeros(count)
            return travel.travelled / self.way.length
        if value == "heading":
            return _heading(self.spots) if travel is None else np.degrees(travel.heading)
        speed = np.hypot(*_steps(self.spots).T) if travel is None else np.abs(travel.rate)
        return np.asarray(speed * self.fps)

    def _property(self, name: str, times: Floats) -> Floats:
        track = self.layer.track(name)
        if track is not None:
            return keys.values(track.keys, times)[0]
        return np.full(times.shape, float(self.layer.standing(name) or 0.0))


def _steps(spots: Floats) -> Floats:
    return np.asarray(np.gradient(spots, axis=0))


def _heading(spots: Floats) -> Floats:
    """Return the direction of what is moved otherwise, degrees that count on; where it rests, the
    one that it had.
    """
    steps = _steps(spots)
    moves = np.hypot(*steps.T) > 1e-9
    if not moves.any():
        return np.zeros(len(spots))
    turns = np.unwrap(np.arctan2(steps[moves, 1], steps[moves, 0]))
    headings = np.interp(np.arange(len(spots)), np.flatnonzero(moves), turns)
    return np.asarray(np.degrees(headings))


def with_keys(layer: Layer, sources: Sequence[Source]) -> Layer:
    """Return a layer with keys in place of what it follows; ``sources`` are those of its
    ``follows``.
    """
    tracks = {track.property: track for track in layer.keys}
    for follow, source in zip(layer.follows, sources, strict=True):
        tracks[follow.property] = _track(follow, source)
    return replace(layer, keys=in_order(list(tracks.values())), follows=())


def _track(follow: Follow, source: Source) -> Track:
    seen, row = source.measured(follow.value), PROPERTIES[follow.property]
    turns = (seen[-1] - seen[0]) / ROUND if follow.value == "heading" else 0.0
    found = followed(
        seen,
        (follow.low, follow.high),
        (follow.at_low, follow.at_high),
        follow.curve,
        beyond=follow.beyond,
        later=follow.later,
        lag=follow.damping * source.fps,
        gain=round(turns) * ROUND if abs(turns - round(turns)) < WHOLE_TURNS else 0.0,
    )
    found = np.clip(found, row.low, row.high)
    # Of a very long scene as many frames as a property may have keys, evenly.
    every = 1 + len(found) // MOST_KEYS
    frames = sorted({*range(0, len(found), every), len(found) - 1}) if np.ptp(found) else [0]
    made = (Key(f"f{at}", float(at), float(found[at])) for at in frames)
    return Track(follow.property, tuple(made))
