"""Why a layer is not seen: each reason in words, with what would mend it."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from coaster.edits.extents import box_of
from coaster.geometry import maps
from coaster.geometry.bezier import Floats
from coaster.render.covers import Cover
from coaster.render.display import Item, Pop, Program, Push, program_of
from coaster.render.evaluate import Evaluation, LayerMotion, opacities_of
from coaster.render.figures import Figure
from coaster.render.outlines import Ramp
from coaster.scene import tree
from coaster.scene.document import Layer, Scene

Kind = Literal[
    "hidden",
    "guide",
    "stencil",
    "time",
    "opacity",
    "over",
    "gone",
    "gap",
    "size",
    "paint",
    "empty",
    "outside",
    "behind",
    "edge",
    "masked",
    "covered",
]
FAINT = 1 / 512
"""An opacity below this leaves no trace in 8 bits."""
NOTHING = 1e-6
"""An area, in shares of the layer's own, that is seen as none."""


@dataclass(frozen=True)
class Reason:
    """Why it is not seen; ``about`` is the layer in which the reason lies: itself, or a group."""

    kind: Kind
    words: str
    about: str


def reasons(
    scene: Scene, layer_id: str, frame: int, is_opaque: Callable[[str], bool]
) -> list[Reason]:
    """Return why nothing of a layer is seen in a frame, the outermost reasons first; none if it is.

    ``is_opaque`` tells of a picture's file whether all of it is.
    """
    layer = scene.layer(layer_id)
    if not layer.content.can.seen:
        return []
    found = [*_switched_off(scene, layer, frame), *_faint(scene, layer, frame)]
    found = found or [*_nothing_there(scene, layer, frame)]
    # Where nothing is drawn at all, there is no sense in asking what is in the way; nor of what
    # stands for a layer in many places.
    if layer.wake is not None or layer.rides_in_parts:
        return found
    return found or [*_out_of_sight(scene, layer, frame, is_opaque)]


def _with_groups(scene: Scene, layer: Layer) -> list[Layer]:
    return [*reversed(tree.ancestors(scene, layer.parent)), layer]


def _of(layer: Layer, each: Layer) -> str:
    return layer.name if each is layer else f"{layer.name}'s group {each.name}"


def _switched_off(scene: Scene, layer: Layer, frame: int) -> Iterator[Reason]:
    for each in _with_groups(scene, layer):
        name = _of(layer, each)
        if not each.visible:
            yield Reason("hidden", f"{name} is hidden.", each.id)
        if each.guide:
            yield Reason("guide", f"{name} is a guide: never in the picture.", each.id)
        if each.stencil is not None:
            yield Reason("stencil", f"{name} masks what lies below it: not seen itself.", each.id)
        if each.shown is not None and not each.shown[0] <= frame < each.shown[1]:
            begin, end = (time / scene.fps for time in each.shown)
            yield Reason("time", f"{name} is shown from {begin:.2f} to {end:.2f} s.", each.id)


def _faint(scene: Scene, layer: Layer, frame: int) -> Iterator[Reason]:
    for each in _with_groups(scene, layer):
        always = replace(each, shown=None)
        if opacities_of(always, np.array([float(frame)]))[0] < FAINT:
            yield Reason("opacity", f"{_of(layer, each)} has an opacity of 0 % here.", each.id)


def _nothing_there(scene: Scene, layer: Layer, frame: int) -> Iterator[Reason]:
    motion = Evaluation(scene).motion(layer.id)
    if _is_in_gap(motion, frame):
        yield Reason("gap", f"{layer.name} passes a gap of its path unseen.", layer.id)
    for each in _with_groups(scene, layer):
        own = Evaluation(scene).motion(each.id).stand.own
        if abs(float(maps.area_factor(own[frame if len(own) > 1 else 0]))) < NOTHING:
            yield Reason("size", f"{_of(layer, each)} has a scale of 0 % here.", each.id)
    yield from _in_depth(motion, frame)
    if layer.content.can.last and motion.is_over(frame):
        yield Reason("over", f"{layer.name} is over here, and vanishes at its end.", layer.id)
    elif layer.content.can.show:
        if scene.shown_by(layer) is None:
            words = f"The scene that {layer.name} shows is deleted, or not in this project."
            yield Reason("gone", words, layer.id)
    elif layer.content.can.hold:
        if not tree.members(scene.layers, layer.id):
            yield Reason("empty", f"{layer.name} holds nothing.", layer.id)
    elif layer.content.can.trail and not motion.face(frame).outlines:
        yield Reason("empty", f"Nothing of {layer.name} is drawn here.", layer.id)
    elif not _is_painted(motion, frame):
        yield Reason("paint", f"{layer.name} has neither fill nor stroke.", layer.id)


def _in_depth(motion: LayerMotion, frame: int) -> Iterator[Reason]:
    layer, away, seen = motion.layer, motion.away, motion.map(frame)
    if away[frame if len(away) > 1 else 0] < maps.NEAR:
        yield Reason("behind", f"{layer.name} is behind the viewer here.", layer.id)
    elif not maps.is_flat(seen) and abs(float(maps.area_factor(seen))) < NOTHING:
        yield Reason("edge", f"{layer.name} is seen by its edge alone here.", layer.id)


def _is_in_gap(motion: LayerMotion, frame: int) -> bool:
    way, travel = motion.way, motion.travel
    if way is None or travel is None or way.ride.gap != "hide":
        return False
    unseen: NDArray[np.bool_] = np.atleast_1d(way.is_unseen(travel.along, travel.travelled))
    return bool(unseen[frame if len(unseen) > 1 else 0])


def _is_painted(motion: LayerMotion, frame: int) -> bool:
    face = motion.face(frame)
    drawn = (motion.paints.on(one, frame) if motion.paints else one for one in face.outlines)
    strokes = any(one.fill or (one.stroke and one.stroke_width > 0) for one in drawn)
    return face.picture is not None or strokes


def _out_of_sight(
    scene: Scene, layer: Layer, frame: int, is_opaque: Callable[[str], bool]
) -> Iterator[Reason]:
    box = box_of(scene, [layer.id], frame)
    if box is None:  # of a group all of whose members are hidden
        yield Reason("empty", f"All that {layer.name} holds is hidden.", layer.id)
        return
    seen = _common(box, np.array([0.0, 0.0, scene.width, scene.height]))
    if not _has_area(seen):
        yield Reason("outside", f"{layer.name} is outside of the frame here.", layer.id)
        return
    program = program_of(Evaluation(scene))
    for each in _with_groups(scene, layer):
        cover = Evaluation(scene).motion(each.id).cover
        if cover is not None and _hides(cover, seen, frame):
            yield Reason("masked", f"The mask of {_of(layer, each)} hides all of it.", each.id)
    above = _covering(scene, program, layer, seen, frame, is_opaque)
    if above is not None:
        words = f"{scene.layer(above).name} covers {layer.name}."
        yield Reason("covered", words, layer.id)


def _common(a: Floats, b: Floats) -> Floats:
    return np.concatenate([np.maximum(a[:2], b[:2]), np.minimum(a[2:], b[2:])])


def _has_area(box: Floats) -> bool:
    return bool(np.all(box[2:] > box[:2]))


def _hides(cover: Cover, seen: Floats, frame: int) -> bool:
    if cover.lets_through:
        return False
    rows = cover.bounds()
    return not _has_area(_common(seen, rows[frame if len(rows) > 1 else 0]))


def _covering(
    scene: Scene,
    program: Program,
    layer: Layer,
    seen: Floats,
    frame: int,
    is_opaque: Callable[[str], bool],
) -> str | None:
    """Return the frontmost layer that hides all of a box: one that is opaque, and laid on
    plainly.
    """
    own = {each.id for each in scene.layers[tree.span_of(scene.layers, layer.id)]}
    behind, apart, above = True, 0, None
    for step in program.one_by_one(frame):
        apart += isinstance(step, Push) - isinstance(step, Pop)
        if not isinstance(step, Item):
            continue
        if step.name in own:
            behind = False
        # What is drawn apart may be masked, faint or blended.
        elif not behind and not apart and _is_solid(step, frame, is_opaque):
            above = step.name if _holds(_corners(step, frame), seen) else above
    return above


def _is_solid(item: Item, frame: int, is_opaque: Callable[[str], bool]) -> bool:
    """Whether an item fills its box: an opaque picture or rectangle."""
    face = item.faces.at(frame)
    if item.strength(frame) < 1:
        return False
    if face.picture is not None:
        return is_opaque(face.picture[0])
    return any(
        _is_opaque(one.fill) and _fills(one.figure, face.size) for one in item.outlines(frame)
    )


def _is_opaque(fill: str | Ramp | None) -> bool:
    colours = fill.colours if isinstance(fill, Ramp) else [fill or "#00000000"]
    return all(colour[7:9].lower() in ("", "ff") for colour in colours)


def _fills(figure: Figure, size: tuple[float, float]) -> bool:
    return figure.is_box and np.allclose(figure.bounds(), (0.0, 0.0, *size))


def _corners(item: Item, frame: int) -> Floats:
    left, top, width, height = item.faces.at(frame).box
    across, down = np.array([0, width, width, 0]), np.array([0, 0, height, height])
    box = np.stack([left + across, top + down], axis=1)
    found: Floats = maps.apply_each(item.map(frame)[None], box)[0]
    return found


def _holds(corners: Floats, box: Floats) -> bool:
    """Whether a convex figure, by its corners in order, holds all of a box."""
    left, top, right, bottom = box
    points = np.array([[left, top], [right, top], [right, bottom], [left, bottom]])
    sides = np.roll(corners, -1, axis=0) - corners
    ways = points[:, None] - corners
    cross = sides[:, 0] * ways[..., 1] - sides[:, 1] * ways[..., 0]
    return bool(np.all(cross >= -1e-9) or np.all(cross <= 1e-9))
