"""Where every layer is in every frame, as a table: for other programs, and for scripts."""

import io
import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from coaster.geometry import maps
from coaster.geometry.bezier import Floats
from coaster.render.evaluate import Evaluation, LayerMotion
from coaster.scene import tree
from coaster.scene.document import Scene

COLUMNS = (
    "frame", "time", "x", "y", "turn", "scale", "heading", "speed", "travelled",
    "opacity", "visible", "a", "b", "c", "d", "e", "f", "g", "h", "w",
)  # fmt: skip
RESTS = 1e-9
"""What goes no farther in a frame, px, has no direction of its own."""


@dataclass(frozen=True)
class Motion:
    """What one layer does, frame by frame: ``rows`` (n, 20), the ``COLUMNS``.

    Units: ``time`` s; ``x``, ``y`` where its anchor is in the picture, px; ``turn`` degrees
           clockwise and ``scale``, as it is seen about its anchor; ``heading`` degrees, the
           direction in which the anchor goes, and that before it where it rests; ``speed`` px/s in
           the picture; ``travelled`` px along its path, 0 of what rides none; ``opacity`` 0..1,
           groups included, 0 where it is not ``visible``; ``a`` to ``f`` its map to the picture
           in the order of SVG's ``matrix()``, and ``g``, ``h``, ``w`` what x, y and 1 are divided
           by in perspective, else 0, 0, 1.
    """

    layer: str
    name: str
    rows: Floats

    def __getitem__(self, column: str) -> Floats:
        """Return one of the columns, (n,)."""
        return np.asarray(self.rows[:, COLUMNS.index(column)])

    @property
    def matrices(self) -> Floats:
        """Its maps to the picture, (n, 3, 3)."""
        a, b, c, d, e, f, g, h, w = self.rows[:, COLUMNS.index("a") :].T
        return np.stack([a, c, e, b, d, f, g, h, w], axis=1).reshape(-1, 3, 3)


def motions_of(scene: Scene, layers: Sequence[str] = ()) -> list[Motion]:
    """Return what some layers do, or all, in frames 0..length - 1, from the back to the front.

    Errors: UnknownId: there is no such layer.
    """
    evaluation = Evaluation(scene)
    wanted = [scene.layer(name) for name in layers] or list(scene.layers)
    return [_motion(evaluation, motion) for motion in evaluation.motions_of(wanted)]


def _motion(evaluation: Evaluation, motion: LayerMotion) -> Motion:
    scene, layer = evaluation.scene, motion.layer
    n = scene.length
    spots = np.broadcast_to(evaluation.spots_of(motion), (n + 1, 2))
    whole = np.broadcast_to(maps.full(motion.maps), (n + 1, 3, 3))[:n]
    turn, scale = _as_seen(motion.maps, spots, n)
    ahead = np.diff(spots, axis=0)
    seen = np.broadcast_to(_strengths(evaluation, motion), n + 1)[:n]
    seen = seen * float(tree.is_visible(scene, layer))
    travelled = np.zeros(n) if motion.travel is None else motion.travel.travelled[:n]
    columns = [
        np.arange(n), np.arange(n) / scene.fps, *spots[:n].T, turn, scale, _headings(ahead),
        np.hypot(*ahead.T) * scene.fps, travelled, seen, seen > 0,
        *whole[:, [0, 1, 0, 1, 0, 1, 2, 2, 2], [0, 0, 1, 1, 2, 2, 0, 1, 2]].T,
    ]  # fmt: skip
    return Motion(layer.id, layer.name, np.stack(columns, axis=1).astype(float))


def _strengths(evaluation: Evaluation, motion: LayerMotion) -> Floats:
    found = motion.opacities
    for group in tree.ancestors(evaluation.scene, motion.layer.parent):
        found = found * evaluation.motion(group.id).opacities
    return found


def _as_seen(seen: maps.Maps, spots: Floats, n: int) -> tuple[Floats, Floats]:
    """Return how a layer is turned about its anchor, degrees, unwrapped, and how large it is."""
    flat = seen if maps.is_flat(seen) else _nearby(seen, spots)
    a, b, c, d = flat[:, :4].T
    turn = np.degrees(np.unwrap(np.arctan2(b, a)))
    scale = np.sqrt(np.abs(a * d - b * c))
    rows = (np.broadcast_to(each, n + 1)[:n] for each in (turn, scale))
    turned, large = rows
    return turned, large


def _nearby(seen: maps.Maps, spots: Floats) -> Floats:
    rows = np.broadcast_to(seen, (len(spots), 9))
    own = maps.apply_rows(maps.inverse(rows), spots)
    return np.stack([maps.around(row, at)[:6] for row, at in zip(rows, own, strict=True)])


def _headings(ahead: Floats) -> Floats:
    """Return directions (n,) in degrees of ways (n, 2); what rests keeps that before it, or has
    that after it.
    """
    goes = np.hypot(*ahead.T) > RESTS
    if not goes.any():
        return np.zeros(len(ahead))
    last = np.maximum.accumulate(np.where(goes, np.arange(len(ahead)), -1))
    last[last < 0] = np.flatnonzero(goes)[0]
    angles = np.arctan2(ahead[last, 1], ahead[last, 0])
    return np.asarray(np.degrees(np.unwrap(angles)))


def to_csv(found: Sequence[Motion], scene: Scene) -> str:
    """Return a row for each frame of each layer, to a millionth; the layer's id comes first."""
    lines = [f"layer,{','.join(COLUMNS)}"]
    for motion in found:
        for row in motion.rows + 0.0:
            told = [str(int(row[0])), *(f"{value:.6f}" for value in row[1:])]
            told[COLUMNS.index("visible")] = str(int(row[COLUMNS.index("visible")]))
            lines.append(f"{motion.layer},{','.join(told)}")
    return "\n".join(lines) + "\n"


def to_json(found: Sequence[Motion], scene: Scene) -> str:
    """Return the scene's size and rate, and of each layer its columns."""
    told: dict[str, Any] = {
        "width": scene.width, "height": scene.height, "fps": scene.fps, "length": scene.length,
        "layers": [
            {"layer": each.layer, "name": each.name}
            | {name: np.round(each[name], 6).tolist() for name in COLUMNS}
            for each in found
        ],
    }  # fmt: skip
    return json.dumps(told) + "\n"


def json_of(scene: Scene, layers: Sequence[str]) -> str:
    """Return what some layers do, or all, as JSON.

    Errors: UnknownId: there is no such layer.
    """
    return to_json(motions_of(scene, layers), scene)


def to_npz(found: Sequence[Motion], scene: Scene) -> bytes:
    """Return numpy's zip of an array (n, 20) for each layer, by its id, with ``columns`` and
    ``fps``.
    """
    out = io.BytesIO()
    arrays: dict[str, Any] = {each.layer: each.rows for each in found}
    np.savez_compressed(out, columns=np.array(COLUMNS), fps=np.array(scene.fps), **arrays)
    return out.getvalue()


WRITERS: dict[str, Callable[[Sequence[Motion], Scene], str | bytes]] = {
    "csv": to_csv,
    "json": to_json,
    "npz": to_npz,
}
