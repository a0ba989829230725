"""The program and what panels tell, for a stage elsewhere, as compact binary: a block of frames and
samples of the rest at once, the other blocks when they are asked for.
"""

import json
import struct
from collections.abc import Collection, Container, Sequence
from dataclasses import asdict, dataclass, field, fields
from functools import lru_cache
from typing import Any, Self

import numpy as np

from coaster.formats.pathdata import quick_path_data
from coaster.geometry import bezier, depth, handles, maps
from coaster.geometry.bezier import Floats
from coaster.geometry.chains import parts_of
from coaster.geometry.maps import Maps
from coaster.geometry.measure import measure_of
from coaster.geometry.path import Node, Path, handle_depths
from coaster.motion.distance import Way
from coaster.render import fonts, places, tells
from coaster.render.covers import Cover
from coaster.render.display import (
    IMAGE,
    Drawn,
    Item,
    Layout,
    Part,
    Pop,
    Push,
    Sort,
    Sorted,
    Through,
    crowd_of,
    few,
    one_by_one,
    shown_within,
    steps_behind,
)
from coaster.render.evaluate import Evaluation, LayerMotion, repeats_members
from coaster.render.figures import Figure
from coaster.render.frames import Frames
from coaster.render.many import steady_lanes
from coaster.render.outlines import MITER, Face, Faces, Ramp
from coaster.render.paints import BRUSHES, Paints
from coaster.render.tells import COLUMNS
from coaster.scene import tree
from coaster.scene.contents import Can, Kind, as_played, as_text, corner_radius, kind_of
from coaster.scene.document import Layer, Scene
from coaster.scene.properties import PLACES, Track

MAGIC = b"CSTR"
FORMAT = 18
BUT_ITS_PLACE = tuple(field.name for field in fields(Layer) if field.name != "transform")
BLOCK = 120
"""Frames that are told together."""
MOST_ON_STAGE, MOST_WITHIN = 2500, 500
"""Lanes of one crowd that a stage is told of, and of one in a scene that a layer shows: more are no
more to look at, and slow to send."""
SAMPLES = 120
"""Of a scene longer than two blocks, about so many frames are told of all of it."""


@dataclass
class _Numbers:
    """float32 blocks in one buffer, named by their offset and count; what is known by itself goes
    in once.
    """

    blocks: list[bytes] = field(default_factory=list)
    count: int = 0
    figures: dict[Figure, int] = field(default_factory=dict)
    told_figures: list[dict[str, Any]] = field(default_factory=list)

    def add(self, values: Floats) -> list[int]:
        flat = np.ascontiguousarray(values, dtype="<f4").ravel()
        self.blocks.append(flat.tobytes())
        place, self.count = [self.count, flat.size], self.count + flat.size
        return place

    def figure(self, figure: Figure) -> int:
        """Return the number of a figure in the list of those that are told."""
        if figure not in self.figures:
            self.figures[figure] = len(self.told_figures)
            self.told_figures.append(self._told(figure))
        return self.figures[figure]

    def _told(self, figure: Figure) -> dict[str, Any]:
        """Tell a figure as verbs (M, L, C, Z) and the points that they take, one, one, three and
        none.
        """
        verbs, points = [], [np.empty((0, 2))]
        for run in figure.runs:
            verbs.append(
                "M"
                + "".join("L" if straight else "C" for straight in run.straight)
                + "Z" * run.closed
            )
            points.append(run.cubics[0, :1])
            for cubic, straight in zip(run.cubics, run.straight, strict=True):
                points.append(cubic[3:] if straight else cubic[1:])
        return {"verbs": "".join(verbs), "points": self.add(np.concatenate(points))}


def frames_round(length: int, frame: int) -> Frames | None:
    """Return the frames that are told first: the block that a frame is in, some of the rest, and
    both ends; None for all.
    """
    # A short scene is told whole: to leave frames out would save nothing.
    if length + 1 <= BLOCK + SAMPLES + 1:
        return None
    begin = min(max(frame, 0), length) // BLOCK * BLOCK
    block = np.arange(begin, min(begin + BLOCK, length + 1))
    # Rounded up, so that there are never more samples than wanted.
    rest = np.arange(0, length + 1, -(-length // SAMPLES))
    # Frame N is the continuation that the seam is measured on; N - 1 is the last one seen.
    return Frames(np.union1d(np.concatenate([block, rest]), [length - 1, length]))


@dataclass(frozen=True)
class Glance:
    """A look at one frame: the motion round it of one rider, and of the others only how they are
    then.
    """

    frame: int
    rider: str


def pack(
    scene: Scene,
    before: Scene | None = None,
    extra: dict[str, Any] | None = None,
    glance: Glance | None = None,
    frame: int = 0,
) -> bytes:
    """Return a scene as header and numbers, told for the frames round one (see ``frames_round``).

    Layout:   "CSTR", version (u32), header length in bytes (u32), the header as JSON padded with
              spaces to a multiple of 4, then float32 little-endian numbers. A block is named
              [offset, count] in numbers. ``program`` is the display program by the ids of layers.
              ``frames`` are those that are told, null for 0..length; blocks have ``block`` frames.
              Maps are six numbers a frame, in the order of SVG's ``matrix()``, or nine, where a
              third number of their block says so: three more that x, y and 1 are divided by. What
              stands still has one; a camera's say how the scene's own plane is seen. Faces name
              their outlines by their place in ``figures``: verbs and points.
              Rides have the ``COLUMNS`` for each frame, and their pegs the speeds (px/s) they are
              come to and left with, and the most those may be, null where there is no limit;
              keyed properties have a value for each frame. ``spots`` are where a layer's anchor
              is in the scene, unless its ride's rows say so. Of colours the value is the
              lightness, beside red, green, blue and alpha, 0..1, for each frame. A ``cover`` is a
              mask: figures that add, take or meet, their maps, and the numbers of each frame.
              A fill is a colour, or a gradient: ``form``, ``start``, ``end``, ``colours`` and
              ``offsets``. What shows another scene tells ``inside`` what is drawn of that, as steps
              with their numbers, in that scene's px, in the frames of this one. ``copies`` are the
              riders beside it, from the one next to it on, in px of this scene, or ``parts`` a
              map and a strength of each that looks as it did; where there are many, or it leaves
              its like behind, a ``crowd`` has ``lanes`` times as many numbers.
    Where anything has depth, ``space`` is how a layer, or a copy, lies (see
              ``places.in_space``).
    ``tint`` are red, green, blue and alpha, 0..1, of what lies over it, or six numbers (see
              ``shades.washed``), and how many there are of them; ``mirror`` are the steps of
              what is behind it, in this scene's px: its ``image`` on the ground and, of a group,
              its copies and what it leaves.
    What does nothing by itself and was only put elsewhere is told as a ``pose``, too.
    ``glance``: riders but the one of the glance have only how they are then, ``pose: true``.
    ``before``: layers and paths that are drawn as they were there are only named, ``same: true``.
              Paths have x, y and both handles (offsets) of each node, a word of ``marks`` for
              each, and for each run its count of nodes and whether it is closed, in the px
              of their group.
    Accuracy: float32: 1e-4 px inside any frame.
    """
    at = frames_round(scene.length, glance.frame if glance else frame)
    packing = _Packing(scene, at, glance if before is not None else None, before)
    header = {
        "scene": _settings(scene),
        "columns": COLUMNS,
        "block": BLOCK,
        "frames": packing.frames(),
        "layers": packing.layers(before),
        "paths": packing.paths(before),
        "program": [[kind, layer and layer.id] for kind, layer in packing.layout.steps()],
        # How depth is seen where no camera is.
        "lift": depth.view_of(scene.width, scene.height)[0].T.ravel().tolist(),
        **(extra or {}),
    }
    return packing.bytes(header)


def pack_blocks(scene: Scene, first: int, blocks: int, layer_ids: Collection[str]) -> bytes:
    """Return what changes over time of some layers, in so many blocks from the one numbered
    ``first``, as ``pack`` tells it.

    Errors: UnknownId: there is no such layer. What lies beyond the scene's end is left out.
    """
    begin, end = (min(block * BLOCK, scene.length + 1) for block in (first, first + blocks))
    packing = _Packing(scene, Frames(np.arange(begin, end)))
    layers = [scene.layer(layer_id) for layer_id in layer_ids] if begin < end else []
    return packing.bytes({"first": begin, "end": end, "layers": packing.moving(layers)})


def _joined(header: dict[str, Any], blocks: list[bytes]) -> bytes:
    text = json.dumps(header, separators=(",", ":"), ensure_ascii=False).encode()
    # A Float32Array in the browser must begin at a multiple of its four bytes.
    text += b" " * (-len(text) % 4)
    return MAGIC + struct.pack("<II", FORMAT, len(text)) + text + b"".join(blocks)


def _frame_of(scene: Scene) -> tuple[Any, ...]:
    """Return what all layers of a scene depend on."""
    return scene.rate, scene.length, scene.width, scene.height


def _settings(scene: Scene) -> dict[str, Any]:
    return {
        "width": scene.width,
        "height": scene.height,
        "fps": scene.fps,
        "rate": str(scene.rate),
        "length": scene.length,
        "background": scene.background,
    }


class _Packing:
    """One packing under way, of the frames ``at``; None for all."""

    def __init__(
        self,
        scene: Scene,
        at: Frames | None,
        glance: Glance | None = None,
        before: Scene | None = None,
    ) -> None:
        self.scene, self.at = scene, at
        self.before = None if before is None else {layer.id: layer for layer in before.layers}
        # It leaves frames untold, so it is only taken where there are such.
        self.glance = glance if glance and 0 <= glance.frame <= scene.length else None
        self.numbers = _Numbers()
        self.evaluation = Evaluation(scene)
        self.layout = Layout(self.evaluation, guides=True)

    def bytes(self, header: dict[str, Any]) -> bytes:
        return _joined(header | {"figures": self.numbers.told_figures}, self.numbers.blocks)

    def frames(self) -> list[int] | None:
        return None if self.at is None else self.numbers.add(self.at.times)

    def layers(self, before: Scene | None) -> list[dict[str, Any]]:
        known = _Known.of(self, before)
        same = [layer.id for layer in self.scene.layers if known and known.has(layer)]
        told: dict[str, dict[str, Any]] = {name: {"id": name, "same": True} for name in same}
        # Where the window has the rest already.
        if known and self.glance:
            told |= self._poses(self.glance, but=told)
        rest = [layer for layer in self.scene.layers if layer.id not in told]
        for motion in self.evaluation.motions_of(rest, self.at):
            put = known is not None and known.looks_alike(motion.layer)
            told[motion.layer.id] = self._put(motion) if put else self._layer(motion)
        return [told[layer.id] for layer in self.scene.layers]

    def moving(self, layers: Sequence[Layer]) -> list[dict[str, Any]]:
        """Tell of layers what changes over time."""
        return [
            self._pose(motion)
            | {
                "faces": self._faces(motion.faces, alone=True),
                "paints": self._paints(motion.paints),
                "spots": self._spots(motion),
                "inside": self._inside(motion, alone=True),
                "ride": tells.ride_rows(motion, self.scene.fps, self.numbers.add),
                "keys": [
                    tells.values(track, self._times(), self.numbers.add)
                    for track in self._keys(motion.layer)
                ],
            }
            for motion in self.evaluation.motions_of(layers, self.at)
        ]

    def _maps(self, found: Maps) -> list[int]:
        """Tell maps, of which those in perspective say so."""
        if maps.is_flat(found):
            return self.numbers.add(found)
        columns = [0, 3, 1, 4, 2, 5, 6, 7, 8]
        return [*self.numbers.add(found[..., columns]), len(columns)]

    def _keys(self, layer: Layer) -> tuple[Track, ...]:
        """Return a layer's own keys, not those that stand for what it follows."""
        return self.scene.layer(layer.id).keys

    def _times(self) -> Floats:
        return np.arange(self.scene.length + 1.0) if self.at is None else self.at.times

    def _pose(self, motion: LayerMotion) -> dict[str, Any]:
        add = self.numbers.add
        return {
            "id": motion.layer.id,
            "pose": True,
            "maps": self._maps(motion.maps),
            "opacities": add(self.layout.strength(motion)),
            **self._laid(motion),
            **self._lying(motion),
            **self._besides(motion, alone=True),
        }

    def _put(self, motion: LayerMotion) -> dict[str, Any]:
        """Tell of a layer that was told before only where it is now."""
        return self._pose(motion) | {
            "still": self.evaluation.is_still(motion),
            "ground": places.is_ground(self.scene, motion.layer, motion.stand),
            "spots": self._spots(motion),
        }

    def _poses(self, glance: Glance, but: Container[str]) -> dict[str, dict[str, Any]]:
        """Tell where the riders, but the one that is asked for in full, are in one frame."""
        others = [
            layer
            for layer in self.scene.layers
            if layer.ride and layer.id not in but and layer.id != glance.rider
        ]
        motions = self.evaluation.motions_of(others, Frames.one(glance.frame))
        return {motion.layer.id: self._pose(motion) for motion in motions}

    def _layer(self, motion: LayerMotion) -> dict[str, Any]:
        layer, add = motion.layer, self.numbers.add
        return {
            "id": layer.id,
            "name": layer.name,
            "parent": layer.parent,
            "visible": layer.visible,
            "seen": tree.is_visible(self.scene, layer),
            "locked": layer.locked,
            "guide": tree.is_guide(self.scene, layer),
            "can": _can(layer.content.can),
            "pickedBy": layer.content.picked_by,
            "inParts": layer.rides_in_parts,
            "still": self.evaluation.is_still(motion),
            # What the pointer passes through, and what does not have to be drawn anew each frame.
            "ground": places.is_ground(self.scene, layer, motion.stand),
            "faces": self._faces_or_kept(motion),
            "paints": self._paints(motion.paints),
            "inside": self._inside(motion),
            **self._laid(motion),
            **self._lying(motion),
            **self._besides(motion),
            "maps": self._maps(motion.maps),
            "opacities": add(self.layout.strength(motion)),
            "spots": self._spots(motion),
            "ride": tells.ride(motion, self.evaluation, add),
            **self._seam(motion),
            "keys": [tells.track(track, self._times(), add) for track in self._keys(layer)],
            "follows": self._leaders(layer),
            **_standing(motion, self.scene.fps, self.scene.length),
        }

    def _faces_or_kept(self, motion: LayerMotion) -> dict[str, Any] | None:
        """Tell what a layer looks like; nothing where the window knows."""
        return None if self._looks_kept(motion) else self._faces(motion.faces)

    def _looks_kept(self, motion: LayerMotion) -> bool:
        """Whether, in a glance, the window knows what a layer looks like: nothing of it changed."""
        now, before = motion.layer, (self.before or {}).get(motion.layer.id)
        if self.glance is None or before is None or now.content.path_id() is not None:
            return False
        return (
            motion.faces.still
            and now.content == before.content
            and not (now.keys or before.keys or before.follows)
        )

    def _leaders(self, layer: Layer) -> list[str]:
        """Return the layers whose values one follows, which as it is drawn has keys instead."""
        follows = self.scene.layer(layer.id).follows
        return list(dict.fromkeys(follow.layer for follow in follows))

    def _spots(self, motion: LayerMotion) -> list[int] | None:
        """Tell where a layer's anchor is, unless the rows of its ride say it."""
        path = self.scene.path_of(motion.layer)
        if (
            motion.travel is not None
            and not (motion.way and motion.way.ride.relative)
            and motion.layer.parent is None
            and not self.evaluation.has_depth
            and path is not None
            and path.parent is None
        ):
            return None
        return self.numbers.add(self.evaluation.spots_of(motion))

    def _inside(self, motion: LayerMotion, *, alone: bool = False) -> list[dict[str, Any]] | None:
        """Tell what is drawn of a scene that a layer shows, where it shows one."""
        if not motion.layer.content.can.show:
            return None
        opening, steps = shown_within(self.evaluation, motion)
        every = (opening, *one_by_one(steps, most=MOST_WITHIN, steady=True))
        return [self._step(step, alone=alone) for step in every]

    def _besides(self, motion: LayerMotion, *, alone: bool = False) -> dict[str, Any]:
        """Tell what is drawn of a layer beside itself; in a glance in its frame alone."""
        if motion.layer.is_drawn_alone:
            return {"copies": [], "crowd": None, "mirror": []}
        now = None if self.glance is None else Frames.one(self.glance.frame)
        if now is not None and (parts := self._parts(motion.layer, now)):
            return {"copies": [], "crowd": None, "mirror": [], "parts": parts}
        if now is not None and motion.told != now:
            (motion,) = self.evaluation.motions_of([motion.layer], now)
        found = self.evaluation.copies_of([motion.layer], motion.told)
        beside = found.get(motion.layer.id, [])
        return {
            "copies": self._copies(motion, beside, alone=alone),
            "crowd": self._crowd(motion, beside),
            "mirror": self._mirror(motion, beside, alone=alone),
        }

    def _seam(self, motion: LayerMotion) -> dict[str, Any]:
        """Tell the seam of a layer; a glance leaves out that of many, which takes a while."""
        if self.glance is not None and not motion.layer.goes_alone:
            return {}
        return {"seam": tells.seam_of(motion, self.evaluation)}

    def _copies(
        self, motion: LayerMotion, beside: Sequence[LayerMotion], *, alone: bool
    ) -> list[dict[str, Any]]:
        """Tell the riders beside one, in the scene's px; of their looks, where they are its own in
        other frames.
        """
        told, layer = [], motion.layer
        in_parts = layer.rides_in_parts
        known = in_parts and self._parts_are_known(layer)
        # Those of a group are behind it, with all that they hold.
        for copy in () if layer.content.can.hold else few(motion, beside):
            one: dict[str, Any] = {
                "kind": "item",
                "maps": self._maps(copy.maps),
                "opacities": self.numbers.add(self.layout.strength(copy)),
                "away": self._away(copy),
            }
            if not in_parts:
                one |= self._lying(copy)
            same = known if in_parts else copy.layer.content == layer.content
            if copy.layer.content.can.show and not same:
                one["inside"] = self._inside(copy, alone=alone)
            if not copy.faces.still or copy.paints is not None or not same:
                one["faces"] = self._faces(copy.faces, alone=alone)
                one["paints"] = self._paints(copy.paints)
            elif in_parts:
                one["kept"] = True
            told.append(one)
        return told

    def _parts(self, layer: Layer, now: Frames) -> dict[str, Any] | None:
        """Tell where the letters are that stand for a layer, where the window knows the rest."""
        if layer.wake or layer.mirror or not self._parts_are_known(layer):
            return None
        row = self.evaluation.abreast(layer, now)
        if row is None:
            return None
        strengths = np.broadcast_to(self.layout.strength(row), len(row.maps))
        return {"maps": self.numbers.add(row.maps), "opacities": self.numbers.add(strengths)}

    def _parts_are_known(self, layer: Layer) -> bool:
        """Whether the window knows what the letters look like that stand for a layer: of a glance,
        as before.
        """
        before = None if self.before is None else self.before.get(layer.id)
        if self.glance is None or before is None or before.ride is None or layer.ride is None:
            return False
        return before.content == layer.content and before.ride.letters == layer.ride.letters

    def _tint(self, tint: Floats | None) -> list[int] | None:
        return None if tint is None else [*self.numbers.add(tint), tint.shape[1]]

    def _laid(self, motion: LayerMotion) -> dict[str, Any]:
        """Tell how a layer is laid on what lies beneath."""
        cover, tint = self._cover(motion.cover), self._tint(motion.tint)
        return {"cover": cover, "tint": tint, "away": self._away(motion)}

    def _away(self, motion: LayerMotion) -> list[int] | None:
        """Tell how far away a layer is, where that says when it is drawn."""
        sorts = self.evaluation.has_depth and tree.sorts(self.scene, motion.layer.parent)
        return self.numbers.add(motion.away) if sorts else None

    def _mirror(
        self, motion: LayerMotion, beside: Sequence[LayerMotion], *, alone: bool
    ) -> list[dict[str, Any]]:
        """Tell what is drawn of a layer behind it, in the scene's px."""
        steps = steps_behind(self.evaluation, self.layout, motion, beside)
        every = one_by_one(steps, most=MOST_WITHIN, steady=True)
        return [self._step(step, alone=alone) for step in every]

    def _crowd(self, motion: LayerMotion, beside: Sequence[LayerMotion]) -> dict[str, Any] | None:
        """Tell where those are that a layer leaves behind, or its copies where they are many; of
        more than the stage can draw in time every so-manieth.
        """
        crowd = crowd_of(self.evaluation, self.layout, motion, beside)
        if crowd is None:
            return None
        rows = np.arange(crowd.length)
        found, strengths, kinds = steady_lanes(crowd.every(MOST_ON_STAGE), rows)
        add = self.numbers.add
        return {
            "lanes": strengths.shape[1],
            "maps": self._maps(found),
            "opacities": add(strengths),
            "which": None if kinds is None else add(kinds.astype(float)),
            "looks": [self._face(face) for face in crowd.looks],
        }

    def _step(self, step: Drawn, *, alone: bool) -> dict[str, Any]:
        if isinstance(step, Item):
            return {
                "kind": "item",
                "faces": self._faces(step.faces, alone=alone),
                "paints": self._paints(step.paints),
                "maps": self._maps(step.maps),
                "opacities": self.numbers.add(step.opacity),
            }
        if isinstance(step, Push):
            return {
                "kind": "push",
                "opacities": self.numbers.add(step.opacity),
                "cover": self._cover(step.cover),
                "blend": step.blend,
                "tint": self._tint(step.tint),
                "soft": step.soft,
                "image": step.name.endswith(IMAGE),
            }
        if isinstance(step, Through):
            return {"kind": "through", "stencil": step.by, "stencilInverted": step.inverted}
        if isinstance(step, Part):
            return {"kind": "part", "away": self.numbers.add(step.away)}
        return {"kind": {Sort: "sort", Sorted: "sorted", Pop: "pop"}[type(step)]}

    def _faces(self, faces: Faces, *, alone: bool = False) -> dict[str, Any]:
        """Tell looks and when they are seen; ``alone``, of a block, which one it is in any case:
        one frame by itself never changes.
        """
        which = None if faces.still and not alone else self.numbers.add(faces.which.astype(float))
        return {"list": [self._face(face) for face in faces.faces], "which": which}

    def _face(self, face: Face) -> dict[str, Any]:
        outlines = [
            {
                "figure": self.numbers.figure(outline.figure),
                "fill": _fill(outline.fill),
                "stroke": outline.stroke,
                "width": outline.stroke_width,
                "side": outline.side,
                "cap": outline.pen.cap,
                "join": outline.pen.join,
                "dash": outline.pen.dash,
                "offset": outline.pen.offset,
                "miter": MITER,
                "under": outline.under,
            }
            for outline in face.outlines
        ]
        return {"box": face.box, "picture": face.picture, "mix": face.mix, "outlines": outlines}

    def _cover(self, cover: Cover | None) -> dict[str, Any] | None:
        add = self.numbers.add
        if cover is None:
            return None
        return {
            "cuts": [
                {
                    "figure": self.numbers.figure(cut.figure),
                    "how": cut.how,
                    "maps": self._maps(cut.maps),
                }
                for cut in cover.cuts
            ],
            "inverted": cover.inverted,
            "grow": add(cover.grow),
            "blur": add(cover.blur),
            "strength": add(cover.strength),
        }

    def _paints(self, paints: Paints | None) -> dict[str, Any] | None:
        if paints is None:
            return None
        found = {brush: getattr(paints, brush) for brush in BRUSHES}
        told = {
            name: None if values is None else self.numbers.add(values)
            for name, values in found.items()
        }
        # Stops as pairs: numbers are no names in JSON.
        stops = {
            name: [[number, self.numbers.add(values)] for number, values in of.items()]
            for name, of in (("stops", paints.stops), ("stopsAt", paints.stops_at))
        }
        return told | stops

    def paths(self, before: Scene | None) -> list[dict[str, Any]]:
        known = {path.id: path for path in before.paths} if before else {}
        return [
            # Equal paths may be two objects, of two revisions: values are compared, not identities.
            {"id": path.id, "same": True} if path == known.get(path.id) else self._path(path)
            for path in self.scene.paths
        ]

    def _path(self, path: Path) -> dict[str, Any]:
        known = {each.id: each for each in self.scene.paths} if path.legs else {}
        measure, _ = measure_of(path.subpaths, "glide")
        start = measure.at_start()
        x, y = path.subpaths[0].live[0].position
        left, top, right, bottom = bezier.bounds(measure.segments)
        nodes = path.nodes()
        return {
            "id": path.id,
            "name": path.name,
            "parent": path.parent,
            "visible": path.visible,
            "colour": path.colour,
            "locked": path.locked,
            "loops": path.loops,
            "drawn": path.drawn.seen_from if path.drawn else "",
            "parts": parts_of(path, known) if path.legs else [],
            "d": quick_path_data(path.subpaths),
            "ids": [node.id for node in nodes],
            "nodes": self.numbers.add(_numbers_of(nodes)),
            "marks": handles.marks(path),
            "runs": [[len(s.nodes), s.closed] for s in path.subpaths],
            "start": [x, y, float(np.degrees(measure.directions(start, after=True)[0]))],
            "box": [left, top, right - left, bottom - top],
            "length": measure.length,
            **self._deep(path),
        }

    def _deep(self, path: Path) -> dict[str, Any]:
        """Tell the depths of a path's nodes with those of their handles in and out, and its cubics
        in space; nothing of a flat one.
        """
        if not path.is_deep:
            return {}
        runs = [
            np.concatenate([run.segments(), run.depths()[..., None]], axis=2)
            for run in path.subpaths
        ]
        bent = {name: z for run in path.subpaths for name, z in handle_depths(run).items()}
        depths = [[node.z, *bent.get(node.id, (0.0, 0.0))] for node in path.nodes()]
        return {
            "depths": self.numbers.add(np.array(depths)),
            "cubics": self.numbers.add(np.concatenate(runs)),
        }

    def _lying(self, motion: LayerMotion) -> dict[str, Any]:
        """Tell how a layer lies in space, where anything has depth; and how what is in a group, or
        in the scene that a camera sees, is seen in depth: four columns of three numbers.
        """
        if not self.evaluation.has_depth:
            return {}
        space = self.evaluation.in_space(motion)
        told = {"space": [*self.numbers.add(space), space.shape[1]]}
        can = motion.layer.content.can
        if can.hold or can.view:
            found = self.evaluation.lifts(motion)
            told["lift"] = self.numbers.add(np.moveaxis(found, 1, 2))
        return told


def _film(layer: Layer, fps: float) -> dict[str, Any] | None:
    """Tell from which frame up to which footage is played once, and what comes then; None of what
    is none, or has no even speed.
    """
    film = as_played(layer.content)
    if film is None or not film.speed or layer.track("speed") is not None:
        return None
    ends = film.starts + film.once * fps / abs(film.speed)
    return {"from": film.starts, "to": ends, "after": film.after}


def _accents(layer: Layer, way: Way | None, length: int) -> list[dict[str, Any]]:
    """Tell from which frame to which short motions go on, how far into the scene, or off the ride,
    they are set to begin, and when they go on again; not of those that never do.
    """
    told = []
    for each in layer.accents:
        spans = each.spans(way, length)
        if spans:
            begin, end = spans[0]
            about = {"id": each.id, "kind": each.kind, "when": each.when, "start": each.start}
            again = [begin for begin, _ in spans[1:]]
            told.append(about | {"from": begin, "to": end, "again": again})
    return told


def _standing(motion: LayerMotion, fps: float, length: int) -> dict[str, Any]:
    """Tell what is the same in all frames."""
    layer = motion.layer
    return {
        "shown": layer.shown,
        "blend": layer.blend,
        "stencil": layer.stencil,
        "stencilInverted": layer.stencil_inverted,
        "carrier": layer.carrier.layer if layer.carrier else None,
        "radius": corner_radius(layer.content),
        "words": _words(layer.content),
        "kind": kind_of(layer.content),
        "film": _film(layer, fps),
        "accents": _accents(layer, motion.way, length),
        "shows": layer.content.scene_id(),
        "maskedBy": list(layer.mask.paths()) if layer.mask else [],
        "placed": any(layer.track(name) for name in PLACES),
    }


@lru_cache(maxsize=16)
def _can(can: Can) -> dict[str, bool]:
    # Of each kind there is one, told with every layer of it.
    return asdict(can)


def _words(content: Kind) -> dict[str, Any] | None:
    """Tell what a text is set in, for those who write over it."""
    text = as_text(content)
    if text is None:
        return None
    said = ("text", "size", "weight", "align", "leading", "tracking", "wrap")
    files = fonts.names_of(text.font, italic=text.italic)
    return {name: getattr(text, name) for name in said} | {"files": files}


def _fill(fill: str | Ramp | None) -> str | dict[str, Any] | None:
    if not isinstance(fill, Ramp) or isinstance(shown := fill.shown, str):
        return fill.colours[-1] if isinstance(fill, Ramp) else fill
    return asdict(shown)


def _numbers_of(nodes: Sequence[Node]) -> Floats:
    """Return nodes as rows (n, 6): position, handle in and handle out, px."""
    return np.array([[*n.position, *n.handle_in, *n.handle_out] for n in nodes])


class _Known:
    """A scene that was told before: what is drawn and told as it was there is not told again."""

    def __init__(self, packing: _Packing, before: Evaluation) -> None:
        self.now, self.layout_now = packing.evaluation, packing.layout
        self.before, self.layout_before = before, Layout(before, guides=True)
        self._layers = {layer.id: layer for layer in before.scene.layers}

    @classmethod
    def of(cls, packing: _Packing, before: Scene | None) -> Self | None:
        """Return what was told of an earlier scene; None where nothing of it can still hold."""
        if before is None or _frame_of(before) != _frame_of(packing.scene):
            return None
        return cls(packing, Evaluation(before))

    def has(self, layer: Layer) -> bool:
        same = self.now.is_as_in(self.before, layer) and self._shows_alike(layer)
        if same and repeats_members(layer):
            same = self._holds_alike(layer)
        return same and self._strong(self.layout_now, layer) == self._strong(
            self.layout_before, layer
        )

    def looks_alike(self, layer: Layer) -> bool:
        """Whether a layer that does nothing by itself is as it was, but for where it is."""
        before = self._layers.get(layer.id)
        # What follows a path, or is masked by one, is otherwise when that is shaped.
        if before is None or layer.keys or layer.mask is not None or layer.path_id() is not None:
            return False
        if not self._shows_alike(layer):
            return False
        shows = [
            (tree.is_visible(scene, each), tree.is_guide(scene, each))
            for scene, each in ((self.now.scene, layer), (self.before.scene, before))
        ]
        return shows[0] == shows[1] and all(
            getattr(layer, name) == getattr(before, name) for name in BUT_ITS_PLACE
        )

    def _shows_alike(self, layer: Layer) -> bool:
        """Whether what a layer shows of another scene is as it was."""
        return not layer.content.can.show or self.now.scene.scenes == self.before.scene.scenes

    def _holds_alike(self, group: Layer) -> bool:
        """Whether a group has the members that it had, as they were."""
        now, before = (
            tree.members(evaluation.scene.layers, group.id)
            for evaluation in (self.now, self.before)
        )
        return [x.id for x in now] == [x.id for x in before] and all(map(self.has, now))

    @staticmethod
    def _strong(layout: Layout, layer: Layer) -> list[str]:
        return [group.id for group in layout.flattened(layer)]
