"""The seam: how far the end of the loop is from its start, layer by layer."""

from dataclasses import dataclass, replace
from itertools import chain, product

import numpy as np
from numpy.typing import NDArray

from coaster.geometry import maps
from coaster.geometry.bezier import Floats
from coaster.geometry.maps import Maps
from coaster.motion import distance, keys
from coaster.motion.colours import from_hex
from coaster.render.copies import copies_of
from coaster.render.evaluate import Evaluation, LayerMotion
from coaster.render.frames import Frames
from coaster.render.outlines import Face, Ramp
from coaster.render.paints import Paints
from coaster.scene import tree
from coaster.scene.document import Layer, Scene
from coaster.scene.properties import PLACES

SEAM_PX, SEAM_DEG, SEAM_SPEED = 0.5, 1.0, 0.05
"""What the eye lets pass: px, degrees, and the share of the larger of the two speeds."""
SEAM_SCALE, SEAM_OPACITY = 0.01, 0.02
"""The same for size, a share of it, and for opacity."""
MOST_ASKED = 100
"""Copies whose seams are looked at where it has to be quick."""
SEAM_LEVELS = 3
"""Of 255, in any channel of a colour."""
CLOSE_FRAMES = 1e-3
INSTANT = 1e-6
"""Frames before the seam at which the end is looked at, where the continuation is its limit."""


@dataclass(frozen=True)
class LayerSeam:
    """One layer at frame N, as the continuation, against frame 0.

    Units: px, degrees in -180..180, px/s (``speed_end`` just before the seam, ``speed_start``
           just after it), shares of the size and of full opacity. ``unseen`` says that the layer
           is outside the frame, or clear, on both sides of the seam, so that nobody sees it.
           ``drawn`` is by how many px a line is drawn farther, or less far.
           ``footage`` are the frames of its file at N and at 0, where they are not the same,
           ``shows`` those of the scene it shows. ``colour`` is the largest step of red, green,
           blue or alpha, of 255. ``tilted`` are the degrees between the ways that it faces.
    """

    layer_id: str
    name: str
    position: float
    angle: float
    speed_end: float
    speed_start: float
    scale: float = 0.0
    opacity: float = 0.0
    unseen: bool = False
    footage: tuple[int, int] | None = None
    shows: tuple[float, float] | None = None
    colour: float = 0.0
    drawn: float = 0.0
    tilted: float = 0.0

    @property
    def speed(self) -> float:
        return self.speed_start - self.speed_end

    @property
    def clean(self) -> bool:
        if self.unseen:
            return True
        limit = max(SEAM_SPEED * max(self.speed_end, self.speed_start), 1.0)
        moves = (
            self.position <= SEAM_PX and abs(self.angle) <= SEAM_DEG and abs(self.speed) <= limit
        )
        looks = (
            abs(self.scale) <= SEAM_SCALE
            and abs(self.opacity) <= SEAM_OPACITY
            and self.colour <= SEAM_LEVELS
            and self.drawn <= SEAM_PX
            and self.tilted <= SEAM_DEG
        )
        return moves and looks and self.footage is None and self.shows is None

    def reasons(self) -> list[str]:
        """Say what keeps the seam from being clean, in words."""
        found: list[str] = []
        if self.unseen:
            return found
        if self.position > SEAM_PX:
            found.append(f"jumps {self.position:.1f} px")
        if abs(self.angle) > SEAM_DEG:
            found.append(f"turns {self.angle:+.1f}° at once")
        if abs(self.scale) > SEAM_SCALE:
            found.append(f"changes size by {self.scale:+.0%} at once")
        if abs(self.opacity) > SEAM_OPACITY:
            found.append(f"changes opacity by {self.opacity:+.0%} at once")
        if self.colour > SEAM_LEVELS:
            found.append(f"changes its colour by {self.colour:.0f} of 255 at once")
        if self.tilted > SEAM_DEG:
            found.append(f"tilts or swings {self.tilted:.1f}° at once")
        if self.drawn > SEAM_PX:
            found.append(f"is drawn {self.drawn:.0f} px farther, or less far, at once")
        if self.footage is not None:
            before, after = self.footage
            found.append(f"goes on with frame {after} of its footage where {before} would follow")
        if self.shows is not None:
            end, start = self.shows
            found.append(f"shows frame {start:g} of its scene where {end:g} would follow")
        if not self.clean and not found:
            found.append(f"goes from {self.speed_end:.0f} to {self.speed_start:.0f} px/s at once")
        return found


def report(evaluation: Evaluation) -> list[LayerSeam]:
    """Return the seam of every visible layer that moves, from the back to the front.

    Layers that stand still have nothing to jump and are left out.
    """
    return [
        _with_copies(motion, copies, evaluation)
        for motion, copies in _drawn(evaluation)
        if not evaluation.is_still(motion)
    ]


def _drawn(evaluation: Evaluation) -> list[tuple[LayerMotion, list[LayerMotion]]]:
    """Return the layers that are not hidden, each with its copies."""
    shown = [m for m in evaluation.motions if tree.is_drawn(evaluation.scene, m.layer)]
    copies = evaluation.copies_of([motion.layer for motion in shown])
    return [(motion, copies.get(motion.layer.id, [])) for motion in shown]


def seam_with_copies(motion: LayerMotion, evaluation: Evaluation) -> LayerSeam:
    """Return the seam of a layer as ``report`` does; of very many copies only some are asked."""
    if motion.layer.goes_alone:
        return layer_seam(motion, evaluation)
    riders = copies_of(evaluation.scene, evaluation.followed(motion.layer))
    every = -(-len(riders) // MOST_ASKED) or 1
    return _with_copies(motion, evaluation.motions_of(riders[::every]), evaluation, every)


def _with_copies(
    motion: LayerMotion, copies: list[LayerMotion], evaluation: Evaluation, every: int = 1
) -> LayerSeam:
    """Return the seam of a layer; where that is clean, of the first of its copies that is not, of
    which ``every`` so-manieth is given.
    """
    found = layer_seam(motion, evaluation)
    if not found.clean:
        return found
    for number, copy in enumerate(copies):
        seam = layer_seam(copy, evaluation)
        if not seam.clean:
            name = f"{found.name}, {_noun(motion.layer)} {1 + every * number}"
            return replace(seam, layer_id=found.layer_id, name=name)
    return _of_wake(found, motion.layer, evaluation)


def _of_wake(found: LayerSeam, layer: Layer, evaluation: Evaluation) -> LayerSeam:
    """Return the seam of what a layer leaves behind, where it shows; else what was found of it."""
    trail = evaluation.trail_of(layer)
    if trail is None:
        return found
    (start, end), strengths, _ = trail.at(np.array([0, evaluation.scene.length]))
    seen = (strengths > 0).any(axis=0)
    moved = np.hypot(*(maps.origins(end) - maps.origins(start))[seen].T).max(initial=0.0)
    stronger = np.abs(strengths[1] - strengths[0]).max(initial=0.0)
    name = f"{found.name}, its wake"
    wake = replace(found, name=name, position=float(moved), opacity=float(stronger), unseen=False)
    return found if wake.clean else wake


def _noun(layer: Layer) -> str:
    letters = layer.ride.letters if layer.ride and layer.rides_in_parts else None
    return letters.by if letters else "copy"


def layer_seam(motion: LayerMotion, evaluation: Evaluation) -> LayerSeam:
    """Return the seam of one layer that moves."""
    scene, last = evaluation.scene, evaluation.scene.length
    angle = np.degrees(_turn(motion, last) - _turn(motion, 0))
    before, after = (_size(motion, frame) for frame in (last, 0))
    larger = max(before, after)
    # The last step's speed is asked just before its end, where the ride is not over yet.
    speed_end, speed_start = _speeds(motion, [last - INSTANT, 0.0], scene)
    return LayerSeam(
        motion.layer.id,
        motion.layer.name,
        position=float(np.hypot(*(_place(motion, last) - _place(motion, 0)))),
        angle=float((angle + 180.0) % 360.0 - 180.0),
        speed_end=speed_end,
        speed_start=speed_start,
        scale=(after - before) / larger if larger else 0.0,
        opacity=motion.opacity(0) - motion.opacity(last),
        unseen=all(
            bool(_outside(motion.face(frame), motion.map(frame)[None], motion.layer, scene)[0])
            or motion.opacity(frame) == 0
            for frame in (0, last)
        ),
        footage=_frames_apart(motion, last),
        shows=_moments_apart(evaluation, motion, last),
        colour=_levels_apart(motion, last),
        drawn=_drawn_apart(motion, last),
        tilted=_tilted(motion, last),
    )


def broken(evaluation: Evaluation) -> list[LayerSeam]:
    """Return the seams that show."""
    return [one for one in report(evaluation) if not one.clean]


def unevenness(evaluation: Evaluation) -> Floats:
    """Return by how many px the longest step of any layer is longer or shorter than the one before
    it, frame by frame round the loop, (length,); where one of the two is not seen, by nothing.
    """
    scene = evaluation.scene
    found = np.zeros(scene.length)
    for motion in chain.from_iterable([one, *copies] for one, copies in _drawn(evaluation)):
        spots = evaluation.spots_of(motion)
        if len(spots) == 1 or len(motion.maps) == 1:
            continue
        # As it is played: the last step leads to where it begins again.
        steps = np.hypot(*np.diff(spots[:-1], axis=0, append=spots[:1]).T)
        uneven = np.abs(steps - np.roll(steps, 1))
        here = _seen(motion, scene)
        seen = here & np.roll(here, 1) & np.roll(here, -1)
        found = np.maximum(found, np.where(seen, uneven, 0.0))
    return found


def _seen(motion: LayerMotion, scene: Scene) -> NDArray[np.bool_]:
    """Return in which frames a layer that moves is seen, (length,)."""
    there = np.broadcast_to(motion.opacities > 0, len(motion.maps))
    if motion.faces.still:
        there = there & ~_outside(motion.face(0), motion.maps, motion.layer, scene)
    return there[:-1]


def _levels_apart(motion: LayerMotion, last: int) -> float:
    """Return the largest step of any channel of what a layer is painted or tinted with, of 255."""
    tinted = 0.0
    if motion.tint is not None and len(motion.tint) > 1:
        tinted = 255.0 * float(np.abs(motion.tint[motion.row(last)] - motion.tint[0]).max())
    if motion.paints is None:
        return tinted
    end, start = (_painted(motion, motion.paints, frame) for frame in (last, 0))
    pairs = zip(end, start, strict=False)
    return max((255.0 * float(np.abs(np.subtract(a, b)).max()) for a, b in pairs), default=tinted)


def _drawn_apart(motion: LayerMotion, last: int) -> float:
    """Return by how many px a line that is drawn reaches elsewhere at the end than at the start."""
    if not motion.layer.content.can.trail or motion.faces.still:
        return 0.0
    end, start = (_reached(motion.face(frame)) for frame in (last, 0))
    if end is None or start is None:
        box = end if start is None else start
        return 0.0 if box is None else float(np.hypot(*(box[2:] - box[:2])))
    return float(np.abs(end - start).max())


def _reached(face: Face) -> Floats | None:
    """Return left, top, right and bottom of what is drawn; None where that is nothing."""
    boxes = np.array([outline.figure.bounds() for outline in face.outlines])
    if not len(boxes):
        return None
    return np.concatenate([boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)])


def _painted(motion: LayerMotion, paints: Paints, frame: int) -> list[tuple[float, ...]]:
    """Return the colours that a layer is filled and stroked with in a frame."""
    found: list[tuple[float, ...]] = []
    for outline in motion.face(frame).outlines:
        painted = paints.on(outline, motion.row(frame))
        for paint in (painted.fill, painted.stroke):
            texts = paint.colours if isinstance(paint, Ramp) else (paint,)
            found += [from_hex(text) for text in texts if text]
    return found


def _frames_apart(motion: LayerMotion, last: int) -> tuple[int, int] | None:
    """Return the frames of footage at the end and at the start, unless these are one."""
    end, start = motion.face(last), motion.face(0)
    if end.picture is None or start.picture is None:
        return None
    same = (end.picture, end.mix) == (start.picture, start.mix)
    return None if same else (end.picture[1], start.picture[1])


def _moments_apart(
    evaluation: Evaluation, motion: LayerMotion, last: int
) -> tuple[float, float] | None:
    """Return the frames of the scene that a layer shows, at the end and at the start, unless what
    is seen goes on.
    """
    inside = evaluation.within(motion.layer)
    if inside is None or evaluation.shows_still(motion):
        return None
    end, start = (float(inside.times(Frames.one(frame))[0]) for frame in (last, 0))
    if abs(end - start) < CLOSE_FRAMES:
        return None
    return end, start


def _size(motion: LayerMotion, frame: int) -> float:
    scale = maps.largest_scale(motion.map(frame)[None], _anchor(motion, frame)[None])
    return float(scale[0] * np.hypot(*motion.face(frame).size))


def _anchor(motion: LayerMotion, frame: int) -> Floats:
    """Return where the layer's anchor is in its own px."""
    left, top, width, height = motion.face(frame).box
    across, down = motion.layer.transform.anchor
    return np.array([left + across * width, top + down * height])


def _place(motion: LayerMotion, frame: int) -> Floats:
    """Return where the layer's anchor is, px of the scene."""
    return maps.apply(motion.map(frame), _anchor(motion, frame))


def _tilted(motion: LayerMotion, last: int) -> float:
    """Return the degrees between the ways that a layer faces at the end and at the start."""
    space = motion.stand.space
    if space is None or len(space) == 1:
        return 0.0
    ways = np.cross(space[:, :3, 0], space[:, :3, 1])[[motion.row(last), 0]]
    sizes = np.linalg.norm(ways, axis=1)
    if not sizes.all():
        return 0.0
    return float(np.degrees(np.arccos(np.clip(ways[0] @ ways[1] / sizes.prod(), -1.0, 1.0))))


def _speeds(motion: LayerMotion, times: list[float], scene: Scene) -> list[float]:
    """Return how fast a layer goes along its path, or by its keys of x and y, px/s."""
    if motion.way is not None:
        period = distance.period_of(motion.way, scene.length)
        rates = np.abs(distance.travelled(motion.way, times, period)[1])
    else:
        tracks = [motion.layer.track(name) for name in PLACES]
        rates = np.hypot(*(keys.values(t.keys, times)[1] if t else np.zeros(2) for t in tracks))
    return [float(rate) * scene.fps for rate in rates]


def _outside(face: Face, placed: Maps, layer: Layer, scene: Scene) -> NDArray[np.bool_]:
    """Return where its maps (n, 6) or (n, 9) place a layer's box, strokes included, beside the
    frame, (n,); a group is where its members are.
    """
    if layer.content.can.hold:
        return np.zeros(len(placed), bool)
    room = max((outline.stroke_width for outline in face.outlines), default=0.0) / 2
    left, top, width, height = face.box
    across, down = (left - room, left + width + room), (top - room, top + height + room)
    x, y = np.moveaxis(maps.apply_each(placed, list(product(across, down))), 2, 0)
    beside: NDArray[np.bool_] = (x.max(axis=1) <= 0) | (x.min(axis=1) >= scene.width)
    beside |= (y.max(axis=1) <= 0) | (y.min(axis=1) >= scene.height)
    return beside


def _turn(motion: LayerMotion, frame: int) -> float:
    a, b, *_ = maps.around(motion.map(frame), _anchor(motion, frame))
    return float(np.arctan2(b, a))
