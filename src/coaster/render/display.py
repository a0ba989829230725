"""The language of drawing: a flat program over all frames, which every sink runs and which knows
nothing of layers.

``Item`` draws faces under maps; what lies between ``Push`` and ``Pop`` is drawn apart and then laid
on as one. Groups that look the same drawn member by member are flattened away.
"""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal

import numpy as np

from coaster.geometry import affine
from coaster.geometry import maps as mapping
from coaster.geometry.bezier import Floats
from coaster.geometry.maps import Maps
from coaster.motion.sense import Rows
from coaster.render.covers import Cover, Cut
from coaster.render.evaluate import Evaluation, LayerMotion, opacities_of, repeats_members
from coaster.render.frames import Frames, cut
from coaster.render.many import Lanes, Many, Sample, steady_lanes
from coaster.render.outlines import Face, Faces, Outline
from coaster.render.paints import Paints
from coaster.render.shades import BLACK, mirror_strengths
from coaster.render.shading import is_lit
from coaster.scene import tree
from coaster.scene.document import Layer
from coaster.scene.masks import Blend, Stencil


@dataclass(frozen=True, eq=False)
class Item:
    """Draw a face under a map, so strongly, in each of n frames; one row stands for all of them.

    ``maps`` (n, 6) are flat, (n, 9) in perspective (see ``geometry.maps``). ``name`` is for those
    who ask what was drawn; no sink needs it.
    """

    name: str
    faces: Faces
    maps: Maps
    opacity: Floats
    paints: Paints | None = None

    @property
    def still(self) -> bool:
        return (
            len(self.maps) == 1
            and len(self.opacity) == 1
            and self.faces.still
            and self.paints is None
        )

    def through(self, maps: Maps) -> "Item":
        """Return the item where the px that it is told in lie under ``maps`` (n, 6)."""
        return replace(self, maps=mapping.compose(maps, self.maps))

    def map(self, frame: int) -> Floats:
        row: Floats = self.maps[frame if len(self.maps) > 1 else 0]
        return row

    def strength(self, frame: int) -> float:
        return float(self.opacity[frame if len(self.opacity) > 1 else 0])

    def outlines(self, frame: int) -> tuple[Outline, ...]:
        """Return the outlines as they are filled and stroked in a frame."""
        outlines = self.faces.at(frame).outlines
        return (
            outlines
            if self.paints is None
            else tuple(self.paints.on(outline, frame) for outline in outlines)
        )


@dataclass(frozen=True, eq=False)
class Crowd:
    """Draw the same face many times over, the first one in front: ``many`` say where, in px that
    lie under ``outer`` (n, 6) or (1, 6), and how strongly, beside ``opacity`` (n,) or (1,). Where
    they have several ``looks``, each has that of its kind; so many ``steps`` of them are one thing
    that changes.

    It is worked out frame by frame: of all frames it would be too much.
    """

    name: str
    faces: Faces
    many: Many
    length: int
    outer: Maps
    opacity: Floats
    paints: Paints | None = None
    looks: tuple[Face, ...] = ()
    steps: int = 1

    def through(self, maps: Maps) -> "Crowd":
        """Return the crowd where the px that it is told in lie under ``maps`` (n, 6)."""
        return replace(self, outer=mapping.compose(maps, self.outer))

    def at(self, rows: Rows) -> Lanes:
        found, strengths, kinds = self.many.at(rows)
        strong = strengths * cut(self.opacity, rows)[:, None]
        if self.outer is not HERE:
            found = mapping.compose(cut(self.outer, rows)[:, None], found)
        return Lanes(found, strong, kinds)

    def every(self, most: int) -> "Crowd":
        """Return every so-manieth of it, so that there are no more lanes than ``most``."""
        if self.many.lanes <= most:
            return self
        return replace(self, many=Sample(self.many, -(-self.many.lanes // most)))

    def items(self, frame: int | None = None, *, steady: bool = False) -> list[Item]:
        """Return each by itself, from the back to the front: of all frames those that are ever
        seen, or those of one frame, as if nothing moved; ``steady`` all, whichever frames these
        are. One that has several looks is one for each of these.
        """
        rows = np.arange(self.length) if frame is None else np.array([frame])
        lanes = steady_lanes(self, rows) if steady else self.at(rows)
        there = np.full(len(lanes.strengths[0]), steady) | (lanes.strengths > 0).any(axis=0)
        seen = np.flatnonzero(there).tolist()
        faces, paints = self.faces, self.paints
        if frame is not None:
            faces, paints = faces.at_rows(rows), paints and paints.at_rows(rows)
        plain = Item(self.name, faces, HERE, FULL, paints)
        every = range(len(self.looks) // self.steps) if steady else None
        return [item for k in reversed(seen) for item in self._one(plain, k, lanes, every)]

    def _one(
        self, plain: Item, k: int, lanes: Lanes, every: Iterable[int] | None
    ) -> Iterator[Item]:
        """Yield what is seen in a lane, or ``every`` thing that ever is."""
        strengths = lanes.strengths[:, k]
        named = replace(plain, name=f"{self.name}.{k + 1}", maps=lanes.maps[:, k])
        if lanes.kinds is None:
            yield replace(named, opacity=strengths)
            return
        things, states = np.divmod(lanes.kinds[:, k], self.steps)
        for thing in every or np.unique(things[strengths > 0]).tolist():
            looks = self.looks[thing * self.steps : (thing + 1) * self.steps]
            faces = Faces(looks, states) if len(looks) > 1 else Faces(looks)
            strong = np.where(things == thing, strengths, 0.0)
            yield replace(named, faces=faces, opacity=strong, paints=None)


@dataclass(frozen=True, eq=False)
class Push:
    """Draw what follows apart, up to its ``Pop``; then lay it on, so strongly, blended, where the
    cover is, with ``tint`` (n, 4) or (1, 4) over its colours: red, green, blue, alpha, 0..1, or in
    light of a colour (n, 6) or (1, 6), factors of these and what is added; and
    ``soft``, blurred by a standard deviation of so many px.
    """

    name: str
    opacity: Floats
    blend: Blend = "normal"
    cover: Cover | None = None
    tint: Floats | None = None
    soft: float = 0.0

    def through(self, maps: Maps) -> "Push":
        """Return the push where the px that it is told in lie under ``maps`` (n, 6)."""
        if self.cover is None and not self.soft:
            return self
        cover = None if self.cover is None else self.cover.through(maps)
        size = float(np.sqrt(np.abs(mapping.area_factor(maps[:1]))[0])) if self.soft else 1.0
        return replace(self, cover=cover, soft=self.soft * size)

    def strength(self, frame: int) -> float:
        return float(self.opacity[frame if len(self.opacity) > 1 else 0])

    def tinted(self, frame: int) -> Floats | None:
        if self.tint is None:
            return None
        row: Floats = self.tint[frame if len(self.tint) > 1 else 0]
        return row

    @property
    def still(self) -> bool:
        one_colour = self.tint is None or len(self.tint) == 1
        return len(self.opacity) == 1 and one_colour and (self.cover is None or self.cover.still)


@dataclass(frozen=True, eq=False)
class Through:
    """What follows, up to the next one or the ``Pop``, is not seen: it shows of all that was drawn
    since the push what lies where it is, by its alpha or its brightness, or where it is not.
    """

    by: Stencil
    inverted: bool
    name: str = ""

    def through(self, maps: Maps) -> "Through":
        return self


@dataclass(frozen=True, eq=False)
class Pop:
    """The end of what is drawn apart."""

    name: str = ""

    def through(self, maps: Maps) -> "Pop":
        return self


@dataclass(frozen=True, eq=False)
class Sort:
    """What follows, up to its ``Sorted``, are parts, of which in each frame the farthest is drawn
    first; of those that are as far, the first.
    """

    name: str

    def through(self, maps: Maps) -> "Sort":
        return self


@dataclass(frozen=True, eq=False)
class Part:
    """A part of what is sorted begins, which is so far ``away`` (n,) or (1,)."""

    name: str
    away: Floats

    def through(self, maps: Maps) -> "Part":
        return self


@dataclass(frozen=True, eq=False)
class Sorted:
    """The end of what is sorted."""

    name: str = ""

    def through(self, maps: Maps) -> "Sorted":
        return self


Drawn = Item | Push | Through | Pop | Sort | Part | Sorted
Step = Drawn | Crowd
HERE = np.array([affine.IDENTITY])
NONE, FULL = np.zeros(1), np.ones(1)
Word = Literal["item", "push", "through", "pop", "sort", "part", "sorted"]
Said = tuple[Word, Layer | None]
"""What to do, and with which layer; what is sorted may be the scene's own layers."""


@dataclass(frozen=True, eq=False)
class Program:
    """What to draw in a scene of this size, from the back to the front, in frames 0..length."""

    width: int
    height: int
    length: int
    background: str | None
    steps: tuple[Step, ...]

    def one_by_one(self, frame: int | None = None) -> Iterator[Drawn]:
        return one_by_one(self.steps, frame)


def one_by_one(
    steps: Iterable[Step],
    frame: int | None = None,
    most: int | None = None,
    *,
    steady: bool = False,
) -> Iterator[Drawn]:
    """Yield steps with each of a crowd by itself (see ``Crowd.items``), no more than ``most``."""
    for step in steps:
        if isinstance(step, Crowd):
            yield from (step.every(most) if most else step).items(frame, steady=steady)
        else:
            yield step


def program_of(
    evaluation: Evaluation, *, guides: bool = False, at: Frames | None = None
) -> Program:
    """Return the program of a scene, that of its guides with it if they are wanted; in place of all
    frames ``at`` some, in the order of their rows.
    """
    scene = evaluation.scene
    outline = Layout(evaluation, guides=guides)
    steps = _said_steps(evaluation, outline, outline.steps(), at)
    return Program(scene.width, scene.height, scene.length, scene.background, tuple(steps))


def _said_steps(
    evaluation: Evaluation,
    outline: "Layout",
    wanted: Iterable[Said],
    at: Frames | None,
    *,
    whole: bool = True,
) -> Iterator[Step]:
    """Yield what is drawn where it is said in a layout; if it is the ``whole`` of them, with what
    lies behind each.
    """
    said = list(wanted)
    layers = list({layer.id: layer for _, layer in said if layer}.values())
    motions = {motion.layer.id: motion for motion in evaluation.motions_of(layers, at)}
    copies = evaluation.copies_of(layers, at)
    begun: Layer | None = None
    for kind, layer in said:
        if layer is None or kind in ("sort", "sorted"):
            yield Sort("") if kind == "sort" else Sorted()
        elif kind == "part":
            begun = layer
            yield Part(layer.id, motions[layer.id].away)
        else:
            motion, beside = motions[layer.id], copies.get(layer.id, [])
            if whole and kind == outline.first_word(layer):
                yield from _mirror_steps(evaluation, outline, motion, beside)
            in_parts = begun is layer and layer.id not in outline.apart
            yield from _said(evaluation, outline, kind, motion, beside, in_parts=in_parts)


def _said(
    evaluation: Evaluation,
    outline: "Layout",
    kind: Word,
    motion: LayerMotion,
    beside: Sequence[LayerMotion],
    *,
    in_parts: bool,
) -> Iterator[Step]:
    """Yield what one word of a layout comes to, of the layer that it is about."""
    layer = motion.layer
    if kind == outline.first_word(layer):
        yield from _beside_whole(evaluation, outline, motion, beside)
    if kind == "pop":
        yield Pop()
    elif kind == "through":
        assert layer.stencil is not None  # noqa: S101 - the layout says so of stencils alone
        yield Through(layer.stencil, layer.stencil_inverted)
    elif kind == "push":
        # What is drawn apart alone is as faint as it is already.
        strength = outline.strength(motion) if layer.content.can.hold else np.ones(1)
        yield Push(layer.id, strength, layer.blend, motion.cover, motion.tint)
    else:
        yield from _with_beside(evaluation, outline, motion, beside, in_parts=in_parts)


def _with_beside(
    evaluation: Evaluation,
    outline: "Layout",
    motion: LayerMotion,
    beside: Sequence[LayerMotion],
    *,
    in_parts: bool = False,
) -> list[Step]:
    """Return what is drawn of a layer and its copies, each a part by itself if they are sorted, and
    of what it leaves behind.
    """
    crowd = crowd_of(evaluation, outline, motion, beside)
    steps: list[Step] = [] if crowd is None else [crowd]
    for one in (*reversed(few(motion, beside)), motion):
        steps += [Part(one.layer.id, one.away)] if in_parts else []
        steps += _drawn(evaluation, outline, one)
    return steps


def steps_behind(
    evaluation: Evaluation, outline: "Layout", motion: LayerMotion, beside: Sequence[LayerMotion]
) -> list[Step]:
    """Return what is drawn of a layer behind it: its image on the ground and, of a group, the
    groups that are ``beside`` it.
    """
    mirror = _mirror_steps(evaluation, outline, motion, beside)
    return [*mirror, *_beside_whole(evaluation, outline, motion, beside)]


IMAGE = ".mirror"
"""Ends the name of what draws an image on the ground."""


def _mirror_steps(
    evaluation: Evaluation, outline: "Layout", motion: LayerMotion, beside: Sequence[LayerMotion]
) -> list[Step]:
    """Return what is drawn of a layer's image on the ground, if it has one: all that it shows, as
    one.
    """
    mirror = motion.layer.mirror
    # A stencil is not seen, nor is its image.
    if mirror is None or motion.layer.stencil is not None:
        return []
    down, spots = evaluation.mirror_maps(motion, mirror)
    strength = mirror_strengths(mirror, spots)
    tint = BLACK if mirror.kind == "shadow" else motion.tint
    drawn = [*_beside_whole(evaluation, outline, motion, beside)]
    if motion.layer.content.can.hold:
        strength = strength * outline.strength(motion)
        drawn += _steps_within(evaluation, outline, motion)
    else:
        drawn += _with_beside(evaluation, outline, motion, beside)
    opened = Push(f"{motion.layer.id}{IMAGE}", strength, "normal", motion.cover, tint).through(down)
    # So soft as it is said, however much its image is squeezed.
    opened = replace(opened, soft=mirror.soft / 2)
    return [opened, *(step.through(down) for step in drawn), Pop()]


def _beside_whole(
    evaluation: Evaluation, outline: "Layout", motion: LayerMotion, beside: Sequence[LayerMotion]
) -> Iterator[Step]:
    """Yield what is drawn beside what holds others, or shows a scene, from the back to the front:
    the groups that are ``beside`` one, and what it leaves behind.
    """
    can = motion.layer.content.can
    if can.hold or can.show:
        yield from _left_steps(evaluation, outline, motion)
    for copy in reversed(beside) if can.hold else ():
        put = copy.layer.id, copy.maps, outline.strength(copy)
        yield from _whole_at(evaluation, outline, motion, put)


def _left_steps(evaluation: Evaluation, outline: "Layout", motion: LayerMotion) -> Iterator[Step]:
    """Yield what is drawn of the wholes that one leaves behind, each of which does what it does."""
    trail = evaluation.trail_of(motion.layer, motion.told)
    if trail is None:
        return
    rows = np.arange(len(evaluation.times(motion.told)))
    # Told of some frames, they are as many whichever these are.
    steady = motion.told is not None
    lanes = steady_lanes(trail, rows) if steady else trail.at(rows)
    strong = lanes.strengths * outline.strength(replace(motion, opacities=FULL))[:, None]
    there = np.full(strong.shape[1], steady) | (strong > 0).any(axis=0)
    for k in reversed(np.flatnonzero(there).tolist()):
        name = f"{motion.layer.id}.{k + 1}"
        yield from _whole_at(evaluation, outline, motion, (name, lanes.maps[:, k], strong[:, k]))


def _whole_at(
    evaluation: Evaluation, outline: "Layout", motion: LayerMotion, put: tuple[str, Maps, Floats]
) -> Iterator[Step]:
    """Yield what is drawn of a group, or of what shows a scene, once more: by another name, under
    other maps, so strongly.
    """
    name, there, strength = put
    if motion.layer.content.can.show:
        opening, inside = shown_within(evaluation, motion)
        yield replace(opening.through(there), name=name, opacity=strength)
        yield from (step.through(there) for step in inside)
        return
    moved = mapping.compose(there, mapping.inverse(motion.maps))
    yield Push(name, strength, "normal", None, motion.tint)
    yield from (step.through(moved) for step in _steps_within(evaluation, outline, motion))
    yield Pop()


def _steps_within(evaluation: Evaluation, outline: "Layout", motion: LayerMotion) -> Iterator[Step]:
    """Yield what is drawn of the members of a group."""
    return _said_steps(evaluation, outline, outline.within(motion.layer), motion.told, whole=False)


def crowd_of(
    evaluation: Evaluation, outline: "Layout", motion: LayerMotion, copies: Sequence[LayerMotion]
) -> Crowd | None:
    """Return what there is of a layer's like behind it as a crowd, if anything: what it leaves
    behind, or its ``copies`` where these are no ``few``. Of what holds others there is none.
    """
    if motion.layer.content.can.hold or motion.layer.content.can.show:
        return None
    length = len(evaluation.times(motion.told))
    trail = evaluation.trail_of(motion.layer, motion.told)
    if trail is not None:
        opacity = outline.strength(replace(motion, opacities=FULL))
        crowd = Crowd(motion.layer.id, motion.faces, trail, length, HERE, opacity, motion.paints)
        return replace(crowd, looks=trail.faces, steps=trail.steps)
    if not copies or few(motion, copies):
        return None
    riders = _Riders(copies, [outline.strength(each) for each in copies])
    return Crowd(motion.layer.id, motion.faces, riders, length, HERE, FULL, motion.paints)


def few(motion: LayerMotion, copies: Sequence[LayerMotion]) -> Sequence[LayerMotion]:
    """Return those copies of a layer that are drawn one by one: none where they are a crowd."""
    alike = len(copies) >= MANY and all(_is_like(each, motion) for each in copies)
    return () if alike and motion.layer.wake is None else copies


MANY = 24
"""So many copies that look the same are drawn as a crowd."""


def _is_like(one: LayerMotion, other: LayerMotion) -> bool:
    """Whether two look the same at all times, wherever they are."""
    a, b = one.faces, other.faces
    if not (a.still and b.still) or one.paints is not None or other.paints is not None:
        return False
    if one.layer.content.can.show or one.maps.shape[-1] != other.maps.shape[-1]:
        return False
    if a.first is b.first:
        return True
    plain = a.first.picture is not None and not (a.first.outlines or b.first.outlines)
    return plain and (a.first.picture, a.first.box) == (b.first.picture, b.first.box)


class _Riders:
    """Riders that look the same, with how strong each is."""

    def __init__(self, motions: Sequence[LayerMotion], strengths: list[Floats]) -> None:
        self._motions, self._strengths, self.lanes = motions, strengths, len(motions)

    def at(self, rows: Rows) -> Lanes:
        maps = [motion.maps for motion in self._motions]
        return Lanes(_rows_of(maps, rows), _rows_of(self._strengths, rows))


def _rows_of(of: Sequence[Floats], rows: Rows) -> Floats:
    """Return rows (r, k, ...) of k numbers, of which some have one row for all."""
    if len(rows) == 1:
        # As slices, which take a third of the time.
        row = int(rows[0])
        return np.stack([each[row] if len(each) > 1 else each[0] for each in of])[None]
    return np.stack([np.broadcast_to(cut(e, rows), (len(rows), *e.shape[1:])) for e in of], axis=1)


def _drawn(evaluation: Evaluation, outline: "Layout", motion: LayerMotion) -> list[Step]:
    """Return what is drawn of one layer, or of one of its copies."""
    strength = outline.strength(motion)
    if not motion.layer.content.can.show:
        return [Item(motion.layer.id, motion.faces, motion.maps, strength, motion.paints)]
    opening, shown = shown_within(evaluation, motion)
    # All of it is as faint as the layer is.
    first = replace(opening.through(motion.maps), opacity=strength)
    return [first, *(step.through(motion.maps) for step in shown)]


def shown_within(evaluation: Evaluation, motion: LayerMotion) -> tuple[Push, list[Step]]:
    """Return what a layer draws that shows another scene, in that one's px: the opening of what is
    drawn apart, within its frame, and then all up to its end. Of a scene that is not here, nothing
    but the frame.
    """
    name, look, inside = motion.layer.id, motion.faces.first, evaluation.within(motion.layer)
    (frame,) = look.outlines
    cover = Cover((Cut(frame.figure, "add", HERE),), False, NONE, NONE, FULL)
    ground = replace(frame, fill=None if inside is None else inside.scene.background)
    ground_item = Item(name, Faces((replace(look, outlines=(ground,)),)), HERE, FULL)
    steps = () if inside is None else program_of(inside, at=motion.told).steps
    inner = [replace(step, name=f"{name}.{step.name}") for step in steps]
    return Push(name, FULL, "normal", cover), [ground_item, *inner, Pop()]


class Layout:
    """What is drawn in which order, and which groups are drawn apart; all that a program says but
    for numbers.
    """

    def __init__(self, evaluation: Evaluation, *, guides: bool = False) -> None:
        self._evaluation = evaluation
        scene = evaluation.scene
        is_wanted = tree.is_visible if guides else tree.is_drawn
        self.drawn = [layer for layer in scene.layers if is_wanted(scene, layer)]
        self.stencils = _stencils(self.drawn)
        """Of each layer those right in front of it that mask it."""
        apart = {layer.id for layer in self.drawn if self._needs_apart(layer)}
        self.apart = apart | self.stencils.keys()

    def first_word(self, layer: Layer) -> Word:
        """Return what is said first of a layer."""
        return "push" if layer.id in self.apart else "item"

    def _needs_apart(self, layer: Layer) -> bool:
        """Whether a layer blends, is masked or tinted, or a group's members would show through each
        other, were they drawn one by one.
        """
        if layer.blend != "normal" or layer.mask is not None or layer.tint is not None:
            return True
        if self._evaluation.has_light and is_lit(layer):
            return True
        if repeats_members(layer):
            return True
        return layer.content.can.hold and self._holds_together(layer)

    def _holds_together(self, group: Layer) -> bool:
        if group.isolated and any(each.blend != "normal" for each in self._inside(group)):
            return True
        faint = _is_ever_faint(self._evaluation.followed(group), self._evaluation.frames)
        inside = tree.members(self.drawn, group.id) if faint else ()
        # Nothing shows through one picture: it is drawn as faint as its group.
        alone = len(inside) == 1 and any(True for _ in inside[0].content.assets())
        return bool(inside) and not alone

    def _inside(self, group: Layer) -> Iterator[Layer]:
        """Yield what is drawn of a group, at any depth."""
        for layer in tree.members(self.drawn, group.id):
            yield layer
            yield from self._inside(layer)

    def steps(self) -> Iterator[Said]:
        """Yield what to do, from the back to the front."""
        return self._steps(None)

    def _steps(self, parent: str | None) -> Iterator[Said]:
        sorts = tree.sorts(self._evaluation.scene, parent) and self._evaluation.has_depth
        group = self._evaluation.scene.layer(parent) if parent else None
        if sorts:
            yield "sort", group
        for layer in tree.members(self.drawn, parent):
            # A stencil is told with what it masks; with nothing below it, it masks nothing.
            if layer.stencil is None:
                if sorts:
                    yield "part", layer
                yield from self._of(layer)
        if sorts:
            yield "sorted", group

    def _of(self, layer: Layer) -> Iterator[Said]:
        if layer.id in self.apart:
            yield "push", layer
        yield from self._inside_of(layer)
        for stencil in self.stencils.get(layer.id, ()):
            yield "through", stencil
            yield from self._of(stencil)
        if layer.id in self.apart:
            yield "pop", layer

    def within(self, group: Layer) -> Iterator[Said]:
        """Yield what to do for the members of a group."""
        return self._steps(group.id)

    def _inside_of(self, layer: Layer) -> Iterator[Said]:
        if layer.content.can.hold:
            yield from self._steps(layer.id)
        else:
            yield "item", layer

    def flattened(self, layer: Layer) -> list[Layer]:
        """Return the groups whose opacity a layer takes on, as they are not drawn apart
        themselves.
        """
        found: list[Layer] = []
        for group in tree.ancestors(self._evaluation.scene, layer.parent):
            # From there outwards it is the canvas of that group that is faint.
            if group.id in self.apart:
                break
            found.append(group)
        return found

    def strength(self, motion: LayerMotion) -> Floats:
        """Return how strongly a layer is drawn in the frames told of it, groups that are flattened
        away included.
        """
        times = self._evaluation.times(motion.told)
        strength = motion.opacities
        for group in self.flattened(motion.layer):
            opacities = opacities_of(self._evaluation.followed(group), times)
            # What is never faint leaves one number for all frames, and the raster a still part.
            if len(opacities) > 1 or opacities[0] != 1.0:
                strength = strength * opacities
        return strength


def _stencils(drawn: Sequence[Layer]) -> dict[str, list[Layer]]:
    found: dict[str, list[Layer]] = {}
    below: dict[str | None, Layer] = {}
    for layer in drawn:
        if layer.stencil is None:
            below[layer.parent] = layer
        elif layer.parent in below:
            found.setdefault(below[layer.parent].id, []).append(layer)
    return found


@lru_cache(maxsize=256)
def _is_ever_faint(group: Layer, length: int) -> bool:
    opacities = opacities_of(group, np.arange(length + 1.0))
    return bool(np.any((opacities > 0) & (opacities < 1)))


def travel(item: Item, corners: Floats, before: Rows, after: Rows) -> Floats:
    """Return how far an item goes, or its edges, from some frames to others, (n,): px that its maps
    lead to. What is seen in neither goes nowhere.

    ``corners`` are those of the item, which are worked out once.
    """
    gone = np.zeros(len(before))
    if len(item.maps) > 1:
        from_here, to_there = (mapping.apply_each(item.maps[x], corners) for x in (before, after))
        gone = np.hypot(*(to_there - from_here).T).max(axis=0)
    if not item.faces.still:
        boxes = item.faces.boxes()
        gone = np.maximum(gone, np.abs(boxes[after] - boxes[before]).max(axis=1))
    if len(item.opacity) == 1:
        return gone if item.opacity[0] > 0 else np.zeros(len(before))
    return np.where((item.opacity[before] > 0) | (item.opacity[after] > 0), gone, 0.0)


def crowd_travel(crowd: Crowd, before: Rows, after: Rows) -> Floats:
    """Return how far any of a crowd goes from some frames to others, (n,), as ``travel`` does."""
    corners, gone = corners_of(crowd), np.zeros(len(before))
    for i, rows in enumerate(zip(before, after, strict=True)):
        found, strengths, _ = crowd.at(np.array(rows))
        # One that has just come where another was has gone nowhere.
        there = (strengths > 0).all(axis=0)
        if there.any():
            here, later = (mapping.apply_each(each[there], corners) for each in found)
            gone[i] = np.hypot(*(later - here).T).max()
    return gone


def corners_of(item: Item | Crowd) -> Floats:
    """Return corners (k, 2), in the item's px, of a box that holds all of its faces with their
    strokes.
    """
    looks = item.looks if isinstance(item, Crowd) and item.looks else item.faces.faces
    boxes = [covered(face, item.paints) for face in looks]
    (left, top), (right, bottom) = np.min(boxes, axis=0)[:2], np.max(boxes, axis=0)[2:]
    return np.array([[left, top], [right, top], [right, bottom], [left, bottom]])


def covered(face: Face, paints: Paints | None) -> Floats:
    """Return left, top, right and bottom of a face with its strokes."""
    found = (
        [np.array([*face.box[:2], face.box[0] + face.box[2], face.box[1] + face.box[3]])]
        if face.picture
        else []
    )
    for outline in face.outlines:
        # A keyed stroke may be wider in another frame; the box holds for all of them.
        widest = paints.widest if paints else None
        room = max(outline.stroke_width, widest or 0.0) * outline.reach
        found.append(np.array(outline.figure.bounds()) + room * np.array([-1, -1, 1, 1]))
    if not found:
        return np.array([*face.box[:2], *face.box[:2]])
    return np.concatenate([np.min(found, axis=0)[:2], np.max(found, axis=0)[2:]])


def bounds(item: Item) -> Floats:
    """Return left, top, right and bottom of what an item can touch, in px of the scene, (n, 4) or
    (1, 4).
    """
    corners = mapping.outline_of(item.maps, corners_of(item))
    return np.concatenate(mapping.extremes(corners), axis=1)
