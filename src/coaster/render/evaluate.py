"""A scene over time: every layer's place, look, paint and opacity in every frame."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from coaster.geometry.bezier import Floats
from coaster.geometry.maps import Maps
from coaster.motion import playing
from coaster.motion.distance import Way
from coaster.motion.sense import Rows
from coaster.motion.travel import Travel
from coaster.render import places, shades, shading
from coaster.render.copies import copies_of
from coaster.render.covers import Cover, cover_of
from coaster.render.frames import Frames, cut
from coaster.render.letters import abreast_of
from coaster.render.outlines import Face, Faces
from coaster.render.paints import Paints, paints_of
from coaster.render.places import Known, Placed, Stand, is_lifted
from coaster.render.recent import Recent
from coaster.render.shades import colours_of, tint_rows
from coaster.render.traces import is_traced
from coaster.render.under import colours_under
from coaster.render.wakes import Trail
from coaster.scene import tree
from coaster.scene.contents import Inset, as_inset, as_line, as_picture
from coaster.scene.document import Layer, Scene
from coaster.scene.shades import Mirror


@dataclass(frozen=True, eq=False)
class LayerMotion:
    """One layer over n frames; what does not change has one row in place of n.

    ``maps`` (n, 6) lead from its px to the scene's; ``opacities`` (n,) are its own, without its
    groups'. ``tint`` (n, 4) or (1, 4) is what lies over its colours. The rows are frames 0..length,
    or those that are ``told``.
    """

    layer: Layer
    stand: Stand
    opacities: Floats
    paints: Paints | None = None
    told: Frames | None = None
    cover: Cover | None = None
    tint: Floats | None = None

    @property
    def maps(self) -> Maps:
        return self.stand.maps

    @property
    def away(self) -> Floats:
        """How far its anchor is from the viewer, (n,) or (1,): 1 in the picture."""
        return self.stand.away

    @property
    def faces(self) -> Faces:
        return self.stand.faces

    @property
    def way(self) -> Way | None:
        return self.stand.way

    @property
    def travel(self) -> Travel | None:
        return self.stand.travel

    @property
    def still(self) -> bool:
        """Whether it looks the same in every frame: the one definition, which the stage is told."""
        rests = len(self.maps) == 1 and len(self.opacities) == 1
        seen_alike = self.cover is None or self.cover.still
        leaves = self.layer.wake is not None or (self.tint is not None and len(self.tint) > 1)
        return rests and seen_alike and self.faces.still and self.paints is None and not leaves

    def map(self, frame: int) -> Floats:
        row: Floats = self.maps[self.row(frame) if len(self.maps) > 1 else 0]
        return row

    def opacity(self, frame: int) -> float:
        return float(self.opacities[self.row(frame) if len(self.opacities) > 1 else 0])

    def face(self, frame: int) -> Face:
        return self.faces.at(self.row(frame))

    def is_over(self, frame: int) -> bool:
        """Whether what goes on by itself has ended, or not begun, and so nothing is there."""
        face = self.face(frame)
        return self.opacity(frame) == 0 or not (face.picture or face.outlines)

    def row(self, frame: int) -> int:
        return frame if self.told is None else self.told.row(frame)

    def at_rows(self, rows: Rows, told: Frames | None) -> "LayerMotion":
        """Return how it looks and where it is in some rows, as frames that are ``told`` of the
        scene around its own.
        """
        return LayerMotion(
            self.layer,
            self.stand.at_rows(rows),
            cut(self.opacities, rows),
            None if self.paints is None else self.paints.at_rows(rows),
            told,
            None if self.cover is None else self.cover.at_rows(rows),
            None if self.tint is None else cut(self.tint, rows),
        )


class Evaluation:
    """A scene evaluated for all its frames, and frame ``length`` as the continuation.

    Every number is a pure function of the scene, so that jumping to a frame, playing to it and
    rendering it in another process agree: exactly where the same layers are evaluated together,
    else within 1e-9 of a path's length.
    """

    def __init__(self, scene: Scene, clock: "Clock | None" = None) -> None:
        self.scene, self.frames = scene, scene.length
        self._known = Known(scene)
        self._clock = clock
        self._within: dict[str, Evaluation | None] = {}

    def within(self, layer: Layer) -> "Evaluation | None":
        """Return the scene that a layer shows, evaluated in the frames of this one; None where it
        shows none, or one that is not here.
        """
        if layer.id not in self._within:
            shown = self.scene.shown_by(layer) if layer.content.can.show else None
            clock = None if shown is None else Clock(self, layer, shown.fps)
            self._within[layer.id] = None if shown is None else Evaluation(shown, clock)
        return self._within[layer.id]

    def times(self, at: Frames | None = None) -> Floats:
        """Return the moments of this scene, in its frames, at all frames of the outermost one, or
        ``at`` some.
        """
        if self._clock is None:
            return np.arange(self.frames + 1.0) if at is None else at.times
        return self._clock.moments(at)

    def is_still(self, motion: LayerMotion) -> bool:
        """Whether a layer, with what it shows or repeats, looks the same in every frame told."""
        if repeats_members(motion.layer):
            members = tree.members(self.scene.layers, motion.layer.id)
            if not all(map(self.is_still, self.motions_of(members, motion.told))):
                return False
        return motion.still and self.shows_still(motion)

    def shows_still(self, motion: LayerMotion) -> bool:
        """Whether nothing moves in the scene that a layer shows, if it shows one."""
        inside = self.within(motion.layer)
        if inside is None:
            return True
        drawn = [layer for layer in inside.scene.layers if tree.is_drawn(inside.scene, layer)]
        return all(inside.is_still(each) for each in inside.motions_of(drawn, motion.told))

    @property
    def motions(self) -> tuple[LayerMotion, ...]:
        """Every layer, hidden ones included, from the back to the front."""
        return tuple(self.motions_of(self.scene.layers))

    def motion(self, layer_id: str) -> LayerMotion:
        return self.motions_of([self.scene.layer(layer_id)])[0]

    def motions_of(self, layers: Sequence[Layer], at: Frames | None = None) -> list[LayerMotion]:
        """Return the motion of some layers in all frames, or ``at`` some.

        What was worked out a moment ago for all frames is not worked out again.
        """
        placed = self.placed(layers)
        if self._clock is not None:
            return self._retimed(placed, at)
        # Some frames are asked for once, by a look ahead that is gone a moment later: not worth
        # keeping.
        return _MOTIONS.all(placed, _motions) if at is None else _motions(placed, at)

    def copies_of(
        self, layers: Sequence[Layer], at: Frames | None = None
    ) -> dict[str, list[LayerMotion]]:
        """Return the motions of the riders beside those layers that have copies, by their ids."""
        found = {x.id: copies_of(self.scene, self.followed(x)) for x in layers}
        every = iter(self.motions_of([one for each in found.values() for one in each], at))
        return {name: [next(every) for _ in each] for name, each in found.items() if each}

    def abreast(self, layer: Layer, at: Frames) -> LayerMotion | None:
        """Return the parts of a text in the one frame ``at`` as one: rows are theirs. None where
        they are not alike but for their places, or have depth.
        """
        one, path = self._known.placed(layer), self.scene.path_of(layer)
        if one.layer.ride is None or path is None or not layer.rides_in_parts:
            return None
        parts = abreast_of(one.layer, one.layer.ride, path)
        if parts is None:
            return None
        like = replace(one, layer=parts.like)
        stand = places.abreast(like, parts.faces, parts.ahead, at)
        if stand is None:
            return None
        return LayerMotion(layer, stand, _seen(like, stand, at.times), told=at)

    def trail_of(self, layer: Layer, at: Frames | None = None) -> Trail | None:
        """Return what a layer leaves behind in all frames, or ``at`` some; None if it does not."""
        if layer.wake is None:
            return None
        always = replace(self.followed(layer), shown=None)
        strengths = opacities_of(always, np.arange(self.frames + 1.0))
        return Trail(self._known.placed(layer), layer.wake, strengths, self.times(at))

    def _retimed(self, placed: Sequence[Placed], at: Frames | None) -> list[LayerMotion]:
        """Return motions where the frames are those of a scene around this one."""
        moments = self.times(at)
        rows = np.round(moments).astype(np.intp)
        if np.array_equal(rows, moments):
            # Frame by frame at its own speed: what is known of it by itself is known here.
            found = _MOTIONS.all(placed, _motions)
        else:
            own, rows = np.unique(moments, return_inverse=True)
            found = _BETWEEN.all([(one, Frames(own)) for one in placed], _motions_between)
        return [motion.at_rows(rows.reshape(-1), at) for motion in found]

    def followed(self, layer: Layer) -> Layer:
        """Return a layer with keys in place of what it follows."""
        return self._known.placed(layer).layer if layer.follows else layer

    def placed(self, layers: Sequence[Layer]) -> list[Placed]:
        return [self._known.placed(layer) for layer in layers]

    @property
    def has_depth(self) -> bool:
        """Whether anything in it has depth, so that places are seen elsewhere than they are."""
        return self._known.viewer is not None

    @property
    def has_light(self) -> bool:
        return self._known.viewer is not None and bool(self._known.viewer.lights)

    def spots_of(self, motion: LayerMotion) -> Floats:
        """Return where a layer's anchor is in the scene's px, (n, 2) or (1, 2)."""
        return places.spots_in_scene(self._known.placed(motion.layer), motion.stand, motion.told)

    def lifts(self, motion: LayerMotion) -> Floats:
        """Return how places in depth are seen that are told in the px of a group or, of a camera,
        in those of the scene, (n, 3, 4).
        """
        one = self._known.placed(motion.layer)
        return places.lifts(one, motion.stand, motion.told)

    def in_space(self, motion: LayerMotion) -> Floats:
        """Return how a layer lies in the scene (see ``places.in_space``)."""
        one = self._known.placed(motion.layer)
        return places.in_space(one, motion.stand, motion.told)

    def mirror_maps(self, motion: LayerMotion, mirror: Mirror) -> tuple[Maps, Floats]:
        """Return what brings a layer, as it is seen, to its image on the ground, and where its
        anchor is (n, 2). What has depth is mirrored in a level plane, a group in the picture.
        """
        one, down = self._known.placed(motion.layer), shades.mirror_map(mirror)
        if one.viewer is None or motion.layer.content.can.hold:
            return down, self.spots_of(motion)
        return places.mirrored(one, motion.stand, down, motion.told)

    def spot(self, motion: LayerMotion, frame: int) -> Floats:
        """Return where a layer's anchor is in the scene's px in one of the frames told, (2,)."""
        spots = self.spots_of(motion)
        found: Floats = spots[motion.row(frame) if len(spots) > 1 else 0]
        return found

    def is_as_in(self, other: "Evaluation", layer: Layer) -> bool:
        """Whether a layer looks and moves here as it does in another evaluation."""
        there = other._known.layer(layer.id)
        return there is not None and other._known.placed(there) == self._known.placed(layer)


def repeats_members(layer: Layer) -> bool:
    """Whether it is a group of whose members there is an image, copies or a wake beside it."""
    copied = layer.ride is not None and layer.ride.copies is not None
    besides = copied or layer.mirror is not None or layer.wake is not None
    return layer.content.can.hold and besides


@dataclass(frozen=True, eq=False)
class Clock:
    """When a scene is seen that a layer of another one shows; ``fps`` are its own."""

    around: Evaluation
    layer: Layer
    fps: float

    def moments(self, at: Frames | None) -> Floats:
        """Return which of its frames, or what between them, is seen in the frames around, (n,)."""
        played = as_inset(self.layer.content)
        assert played is not None  # noqa: S101 - nothing else shows a scene
        gone, backwards = _gone(played, self.layer, self.around.times(at), self.around.scene.fps)
        return playing.moments(gone, played.cut, self.fps, backwards=backwards)[0]


def _gone(played: Inset, layer: Layer, times: Floats, fps: float) -> tuple[Floats, bool]:
    """Return the seconds of the scene that a layer shows which have gone by, and whether it begins
    at its end.
    """
    speed = layer.keys_of("speed") or played.speed
    gone = playing.elapsed(times, played.starts, fps, speed)
    return gone, playing.is_backwards(played.starts, speed)


_MOTIONS: Recent[Placed, LayerMotion] = Recent(1024)
_BETWEEN: Recent[tuple[Placed, Frames], LayerMotion] = Recent(256)


def _motions_between(wanted: Sequence[tuple[Placed, Frames]]) -> list[LayerMotion]:
    return _motions([one for one, _ in wanted], wanted[0][1])


def forget() -> None:
    """Forget what was worked out, as if nothing had been asked yet."""
    _MOTIONS.clear()
    _BETWEEN.clear()
    places.forget()


def _motions(placed: Sequence[Placed], at: Frames | None = None) -> list[LayerMotion]:
    made = []
    for one, stand in zip(placed, places.stands(placed, at), strict=True):
        times, line = one.times(at), as_line(one.layer.content)
        # What changes over time of a line that is drawn is in its looks already.
        in_looks = line is not None and (is_traced(one.layer, line) or is_lifted(one))
        paints = None if in_looks else paints_of(one.layer, times)
        opacities, cover = _seen(one, stand, times), cover_of(one, at)
        tint = _tint(one, stand, times, at)
        if (light := shading.light_on(one, stand, at)) is not None:
            tint = light if tint is None else shades.over(light, tint)
        made.append(LayerMotion(one.layer, stand, opacities, paints, at, cover, tint))
    return made


def _tint(one: Placed, stand: Stand, times: Floats, at: Frames | None) -> Floats | None:
    """Return what lies over a layer's colours, if anything (see ``tint_rows``)."""
    tint, under = one.layer.tint, None
    if tint is None:
        return None
    if tint.under is not None:
        picture = as_picture(one.under.layer.content) if one.under else None
        if one.under is None or picture is None:
            return CLEAR
        (lies,) = places.stands([one.under], at)
        under = colours_under(picture, lies.maps, places.spots_in_scene(one, stand, at))
    amounts, colours = places.keyed(one.layer, "tinting", times), colours_of(one.layer, tint, times)
    return tint_rows(tint, colours, amounts, stand.way, stand.travel, under)


CLEAR = np.zeros((1, 4))


def _seen(one: Placed, stand: Stand, times: Floats) -> Floats:
    """Return how strongly a layer is drawn where it is, in gaps and past ends as its ride says."""
    layer = one.layer
    if layer.rides_in_parts or (layer.wake is not None and not layer.wake.itself):
        # What stands for it is seen, not it.
        return NEVER
    opacities = opacities_of(layer, times)
    if (accents := places.accents_of(one, times)) is not None:
        opacities = opacities * accents.opacity
    if stand.way is not None and stand.travel is not None:
        unseen = stand.way.is_unseen(stand.travel.along, stand.travel.travelled)
        opacities = np.where(unseen, 0.0, opacities) if unseen.any() else opacities
    if (shows := as_inset(layer.content)) is not None:
        gone, backwards = _gone(shows, layer, times, one.fps)
        _, seen = playing.moments(gone, shows.cut, shows.times.fps, backwards=backwards)
        opacities = opacities if seen.all() else np.where(seen, opacities, 0.0)
    return opacities


NEVER = np.zeros(1)


def opacities_of(layer: Layer, times: Floats) -> Floats:
    """Return how strongly a layer is drawn at ``times``, (n,); (1,) where that never changes."""
    # By its two halves: ``clip`` takes longer than these for one number.
    found = np.minimum(np.maximum(places.keyed(layer, "opacity", times), 0.0), 1.0)
    if layer.shown is not None:
        begin, end = layer.shown
        found = np.where((times >= begin) & (times < end), found, 0.0)
    return found
