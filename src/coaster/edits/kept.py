"""Layers kept where they are seen while what their place is told in changes: their group, their
carrier.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from coaster.commands import applied
from coaster.commands.base import Command
from coaster.commands.fields import set_layer
from coaster.commands.layers import SetKeys
from coaster.edits.keys import value_at
from coaster.errors import EditRefused
from coaster.geometry import affine
from coaster.geometry.bezier import Floats
from coaster.motion import keys
from coaster.motion.keys import Keys
from coaster.render import places
from coaster.render.evaluate import Evaluation
from coaster.render.frames import Frames
from coaster.scene import tree
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.properties import MOST_SKEW, PLACES

ALIKE = 1e-9
"""Numbers of maps that differ by this share are the same."""
SEEN_ALIKE = 1e-7
"""Maps whose numbers differ by less show the same."""
DIGITS = 9


def with_kept(
    scene: Scene, steps: Sequence[Command], layer_ids: Sequence[str], frame: float
) -> list[Command]:
    """Return commands with those that leave layers where they are seen at a frame.

    Errors: EditRefused: they move over time in a way that cannot be kept.
    """
    made, after = list(steps), applied(scene, steps)
    ids = [each for each in layer_ids if scene.layer(each).content.can.stand]
    for each in ids:
        _check_depth(scene, after, each)
    seen, homes = _seen(scene, ids, frame), _homes(scene, ids, frame)
    # What carries others, or holds their rails, is kept as well: then these are elsewhere again.
    for _ in ids:
        now, there = _seen(after, ids, frame), _homes(after, ids, frame)
        kept = [
            step
            for each in ids
            for step in _kept_commands(
                after.layer(each), (seen[each], now[each]), (homes[each], there[each]), frame
            )
        ]
        if not kept:
            break
        made, after, homes = [*made, *kept], applied(after, kept), there
    return made


def _check_depth(before: Scene, after: Scene, layer_id: str) -> None:
    """Errors: EditRefused: a layer comes into, or out of, a group that is not flat in the scene."""
    groups = (tree.ancestors(scene, scene.layer(layer_id).parent) for scene in (before, after))
    here, there = ({group.id for group in found if group.is_deep} for found in groups)
    for group_id in here ^ there:
        group = (before if group_id in here else after).layer(group_id)
        raise EditRefused(
            f"{group.name} has depth, in which {before.layer(layer_id).name} could not be kept as"
            " it is seen; set its depth, tilt and swing to 0, and To viewer off, first."
        )


def _seen(scene: Scene, ids: Sequence[str], frame: float) -> dict[str, Floats]:
    """Return the maps (6,) of layers to the scene at a frame, as if nothing had depth."""
    at = Frames.one(min(max(round(frame), 0), scene.length))
    motions = Evaluation(scene).motions_of([scene.layer(each) for each in ids], at)
    return {motion.layer.id: motion.stand.flat[0] for motion in motions}


def _homes(scene: Scene, ids: Sequence[str], frame: float) -> dict[str, Floats]:
    return {each: places.flat_home_map(scene, scene.layer(each), frame) for each in ids}


def _kept_commands(
    layer: Layer, maps: tuple[Floats, Floats], homes: tuple[Floats, Floats], frame: float
) -> list[Command]:
    """Return the commands after which a layer has the first of its ``maps`` in place of the second;
    its place was told in the first of the ``homes``, and is to be told in the second.
    """
    seen, now = maps
    if np.allclose(seen, now, rtol=0, atol=SEEN_ALIKE):
        return []
    back = _inverse(layer, homes[1])
    then = _applied_after(layer, affine.compose(back, seen), affine.compose(back, now), frame)
    return _Change(layer, affine.compose(back, homes[0]), then, frame).commands()


def _inverse(layer: Layer, around: Floats) -> Floats:
    if abs(around[0] * around[3] - around[1] * around[2]) < 1e-12:
        raise EditRefused(
            f"{layer.name} would be in what has no size at this frame; go to another time first."
        )
    return affine.inverse(around)


def _linear(row: Floats) -> Floats:
    return np.reshape(row[:4], (2, 2)).T


def _applied_after(layer: Layer, wanted: Floats, now: Floats, frame: float) -> Floats:
    """Return what is applied after a layer's own turn, skew and scale, (2, 2), for its map to
    become the ``wanted`` one; a ride's facing comes after that and stays as it is.
    """
    own = affine.from_parts(*parts_at(layer, frame))
    if abs(np.linalg.det(own)) < 1e-12:
        return np.eye(2)
    facing = _linear(now) @ np.linalg.inv(own)
    found: Floats = np.linalg.inv(facing) @ _linear(wanted) @ np.linalg.inv(own)
    return found


def parts_at(layer: Layer, frame: float) -> tuple[float, float, float, float]:
    """Return turn, skew and the scale across and down that a layer has at a frame."""
    turn, skew, scale = (float(value_at(layer, name, frame)) for name in ("turn", "skew", "scale"))
    across, down = layer.transform.scale
    return turn, skew, scale, down * (scale / across if across else 1.0)


def parts_near(
    layer: Layer, linear: Floats, turn: float, across: float
) -> tuple[float, float, float, float]:
    """Return the turn, skew and scale that make a map (2, 2), told with the whole turns and the
    sign that there were.

    Errors: EditRefused: it leans too far.
    """
    parts = [round(part, DIGITS) for part in affine.to_parts(linear)]
    if np.copysign(1.0, across) < 0:
        parts = [parts[0] + 180, parts[1], -parts[2], -parts[3]]
    if abs(parts[1]) > MOST_SKEW:
        raise EditRefused(
            f"{layer.name} would lean by {parts[1]:.0f}°, and at most {MOST_SKEW:g}° can be told;"
            " it was kept as it was."
        )
    near = turn + (parts[0] - turn + 180) % 360 - 180
    return round(near, DIGITS), parts[1], parts[2], parts[3]


@dataclass(frozen=True)
class _Change:
    """A layer whose place is mapped by ``into`` (6,), and whose turn, skew and scale are followed
    by ``then`` (2, 2).
    """

    layer: Layer
    into: Floats
    then: Floats
    frame: float

    def commands(self) -> list[Command]:
        self._check()
        layer, steps = self.layer, list[Command]()
        for name, made in self._keys().items():
            if made != layer.keys_of(name):
                steps.append(SetKeys(layer.id, name, made))
        return [set_layer(layer.id, transform=self._transform()), *steps]

    def _transform(self) -> Transform:
        old = self.layer.transform
        x, y = affine.apply(self.into, old.position).tolist()
        turn, skew, *scale = self._parts(old.turn, old.skew, *old.scale)
        return replace(
            old,
            position=(round(x, DIGITS), round(y, DIGITS)),
            turn=turn,
            skew=skew,
            scale=(scale[0], scale[1]),
        )

    def _parts(
        self, turn: float, skew: float, across: float, down: float
    ) -> tuple[float, float, float, float]:
        made = self.then @ affine.from_parts(turn, skew, across, down)
        return parts_near(self.layer, made, turn, across)

    @property
    def _mirrored(self) -> bool:
        return bool(np.linalg.det(self.then) < 0)

    def _is_similar(self) -> bool:
        """Whether it turns, mirrors and scales alike in all directions."""
        (a, c), (b, d) = self.then
        sign = -1.0 if self._mirrored else 1.0
        return bool(np.allclose((a, b), (sign * d, -sign * c), rtol=0, atol=1e-6 * np.hypot(a, b)))

    def _check(self) -> None:
        layer = self.layer
        keyed = [name for name in ("turn", "skew") if layer.track(name)]
        if keyed and not self._is_similar():
            raise EditRefused(
                f"{layer.name} has keys of {' and '.join(keyed)}, and would be stretched one way;"
                " make that scale the same across and down first."
            )
        placed = any(map(layer.track, PLACES))
        if placed and self._is_crossed() and not self._go_together():
            raise EditRefused(
                f"{layer.name} has keys of X and Y at different times, which cannot be turned; do"
                " this where nothing is turned."
            )

    def _go_together(self) -> bool:
        """Whether both places have keys at the same times, with the same paces."""
        bare = [
            [replace(key, id="key", value=0.0) for key in self.layer.keys_of(name)]
            for name in PLACES
        ]
        return bare[0] == bare[1]

    def _keys(self) -> dict[str, Keys]:
        """Return the keys of what changes."""
        layer, parts = self.layer, parts_at(self.layer, self.frame)
        after, sign = self._parts(*parts), -1.0 if self._mirrored else 1.0
        linear = {
            "scale": (after[2] / parts[2] if parts[2] else 1.0, 0.0),
            "turn": (sign, after[0] - sign * parts[0]),
            "skew": (sign, 0.0),
        }
        made = {
            name: tuple(
                replace(key, value=round(keys.number(key) * by + plus, DIGITS))
                for key in layer.keys_of(name)
            )
            for name, (by, plus) in linear.items()
        }
        return made | self._places()

    def _places(self) -> dict[str, Keys]:
        layer = self.layer
        xs, ys = (np.array([keys.number(k) for k in layer.keys_of(name)]) for name in PLACES)
        a, b, c, d, e, f = self.into.tolist()
        if self._is_crossed():
            moved = a * xs + c * ys + e, b * xs + d * ys + f
        else:
            moved = a * xs + e, d * ys + f
        return {
            name: tuple(
                replace(key, value=round(float(value), DIGITS))
                for key, value in zip(layer.keys_of(name), values, strict=True)
            )
            for name, values in zip(PLACES, moved, strict=True)
        }

    def _is_crossed(self) -> bool:
        """Whether x depends on y, or y on x."""
        return bool(np.abs(self.into[1:3]).max() > ALIKE * np.abs(self.into[:4]).max())
