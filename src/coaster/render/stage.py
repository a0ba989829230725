"""The program and what panels tell, for a stage elsewhere: all frames, as compact binary."""

import json
import struct
from dataclasses import asdict, dataclass, field
from typing import Any

import numpy as np

from coaster.formats.pathdata import quick_path_data
from coaster.geometry import bezier, handles
from coaster.geometry.bezier import Floats
from coaster.geometry.measure import measured
from coaster.geometry.path import Path
from coaster.render import places, tells
from coaster.render.display import Layout
from coaster.render.evaluate import Evaluation, LayerMotion
from coaster.render.faces import Face, Faces
from coaster.render.figures import Figure
from coaster.render.paints import Paints
from coaster.render.tells import COLUMNS
from coaster.scene import tree
from coaster.scene.document import Layer, Scene
from coaster.scene.properties import PLACES

MAGIC = b"CSTR"
FORMAT = 4


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


@dataclass(frozen=True)
class Glance:
    """A look at one frame: all of the motion of one rider, and of the others only how they are
    then.
    """

    frame: int
    rider: str


def pack(
    scene: Scene,
    before: Scene | None = None,
    extra: dict[str, Any] | None = None,
    glance: Glance | None = None,
) -> bytes:
    """Return the scene for frames 0..length as header and numbers.

    Layout:   "CSTR", version (u32), header length in bytes (u32), the header as JSON padded with
              spaces to a multiple of 4, then float32 little-endian numbers. A block is named
              [offset, count] in numbers. ``program`` is the display program by the ids of layers.
              Maps are six numbers a frame, in the order of SVG's ``matrix()``; what stands still
              has one. Faces name their outlines by their place in ``figures``: verbs and points.
              Rides have the ``COLUMNS`` for each frame, and their pegs the speeds (px/s) they are
              come to and left with, and the most those may be, null where there is no limit;
              keyed properties have a value for each frame. ``spots`` are where a layer's anchor
              is in the scene, unless its ride's rows say so. Of colours the value is the
              lightness, beside red, green, blue and alpha, 0..1, for each frame.
    ``glance``: riders but the one of the glance have only how they are then, ``pose: true``.
    ``before``: layers and paths that are drawn as they were there are only named, ``same: true``.
              Paths have x, y and both handles (offsets) of each node, a word of ``marks`` for
              each, and for each run its count of nodes and whether it is closed, in the px
              of their group; rides have the frame at which each node of their path is
              passed, nan for never.
    Accuracy: float32: 1e-4 px inside any frame.
    """
    packing = _Packing(scene, before, glance)
    header = {
        "scene": _settings(scene),
        "columns": COLUMNS,
        "layers": packing.layers(),
        "paths": packing.paths(),
        "program": [[kind, layer.id] for kind, layer in packing.layout.steps()],
        "figures": packing.numbers.told_figures,
        **(extra or {}),
    }
    text = json.dumps(header, separators=(",", ":"), ensure_ascii=False).encode()
    text += b" " * (-len(text) % 4)
    return MAGIC + struct.pack("<II", FORMAT, len(text)) + text + b"".join(packing.numbers.blocks)


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
    """One packing under way."""

    def __init__(self, scene: Scene, before: Scene | None, glance: Glance | None) -> None:
        self.scene, self.before = scene, before
        self.numbers = _Numbers()
        self.evaluation = Evaluation(scene)
        self.layout = Layout(self.evaluation)
        known = before is not None and _frame_of(scene) == _frame_of(before)
        self.known = Evaluation(before) if before is not None and known else None
        self.known_layout = Layout(self.known) if self.known else None
        usable = self.known is not None and glance is not None and 0 <= glance.frame <= scene.length
        self.glance = glance if usable else None

    def layers(self) -> list[dict[str, Any]]:
        told = {
            layer.id: {"id": layer.id, "same": True}
            for layer in self.scene.layers
            if self._is_known(layer)
        }
        if self.glance is not None:
            frame, rider = self.glance.frame, self.glance.rider
            others = [x for x in self.scene.layers if x.ride and x.id not in told and x.id != rider]
            for motion in self.evaluation.poses_of(others, frame):
                told[motion.layer.id] = self._pose(motion, frame)
        rest = [layer for layer in self.scene.layers if layer.id not in told]
        for motion in self.evaluation.motions_of(rest):
            told[motion.layer.id] = self._layer(motion)
        return [told[layer.id] for layer in self.scene.layers]

    def _is_known(self, layer: Layer) -> bool:
        """Whether a layer is drawn and told as it was before."""
        if self.known is None or self.known_layout is None:
            return False
        same = self.evaluation.is_as_in(self.known, layer)
        return same and self._strong_as(layer, self.layout) == self._strong_as(
            layer, self.known_layout
        )

    @staticmethod
    def _strong_as(layer: Layer, layout: Layout) -> list[str]:
        return [group.id for group in layout.flattened(layer)]

    def _pose(self, motion: LayerMotion, frame: int) -> dict[str, Any]:
        add = self.numbers.add
        strength = self.layout.strength(motion, frame)
        return {
            "id": motion.layer.id,
            "pose": True,
            "maps": add(motion.maps),
            "opacities": add(strength),
        }

    def _layer(self, motion: LayerMotion) -> dict[str, Any]:
        layer, add = motion.layer, self.numbers.add
        return {
            "id": layer.id,
            "name": layer.name,
            "parent": layer.parent,
            "visible": layer.visible,
            "seen": tree.is_visible(self.scene, layer),
            "locked": layer.locked,
            "can": asdict(layer.content.can),
            "pickedBy": layer.content.picked_by,
            "still": motion.still,
            "ground": places.is_ground(self.scene, layer, motion.stand),
            "faces": self._faces(motion.faces),
            "paints": self._paints(motion.paints),
            "maps": add(motion.maps),
            "opacities": add(self.layout.strength(motion)),
            "spots": self._spots(motion),
            "ride": tells.ride(motion, self.evaluation, add),
            "seam": tells.seam_of(motion, self.evaluation),
            "shown": layer.shown,
            "placed": any(layer.track(name) for name in PLACES),
            "keys": [tells.track(track, self.scene.length, add) for track in layer.keys],
        }

    def _spots(self, motion: LayerMotion) -> list[int] | None:
        """Tell where a layer's anchor is, unless the rows of its ride say it."""
        path = self.scene.path_of(motion.layer)
        if (
            motion.travel is not None
            and motion.layer.parent is None
            and path is not None
            and path.parent is None
        ):
            return None
        return self.numbers.add(self.evaluation.spots_of(motion))

    def _faces(self, faces: Faces) -> dict[str, Any]:
        which = None if faces.still else self.numbers.add(faces.which.astype(float))
        return {"list": [self._face(face) for face in faces.faces], "which": which}

    def _face(self, face: Face) -> dict[str, Any]:
        outlines = [
            {
                "figure": self.numbers.figure(outline.figure),
                "fill": outline.fill,
                "stroke": outline.stroke,
                "width": outline.stroke_width,
                "dash": outline.dash,
            }
            for outline in face.outlines
        ]
        return {"box": face.box, "picture": face.picture, "outlines": outlines}

    def _paints(self, paints: Paints | None) -> dict[str, Any] | None:
        if paints is None:
            return None
        found = {"fill": paints.fill, "stroke": paints.stroke, "width": paints.width}
        return {
            name: None if values is None else self.numbers.add(values)
            for name, values in found.items()
        }

    def paths(self) -> list[dict[str, Any]]:
        return [self._path(path) for path in self.scene.paths]

    def _path(self, path: Path) -> dict[str, Any]:
        if self._path_is_known(path):
            return {"id": path.id, "same": True}
        measure, _ = measured(path.subpaths, "glide")
        start = measure.locate([0.0])
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
            "drawn": path.drawn is not None,
            "d": quick_path_data(path.subpaths),
            "ids": [node.id for node in nodes],
            "nodes": self.numbers.add(
                np.array([[*n.position, *n.handle_in, *n.handle_out] for n in nodes])
            ),
            "marks": handles.marks(path),
            "runs": [[len(s.nodes), s.closed] for s in path.subpaths],
            "start": [x, y, float(np.degrees(measure.directions(start, after=True)[0]))],
            "box": [left, top, right - left, bottom - top],
            "length": measure.length,
        }

    def _path_is_known(self, path: Path) -> bool:
        return self.known is not None and any(path == old for old in self.known.scene.paths)
