"""Where every layer is: told here once, for riders, keys, targets, landing, snapping, the seam and
nudges.

A layer is placed in the px of its group (its *parent*), the outermost in the scene's. A group at
rest leaves px as they are. A rider sits on the rail where the rail is seen: its place on the path
goes through the path's groups at that frame, and back through its own.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache, reduce
from typing import Any

import numpy as np

from coaster.errors import UnknownId
from coaster.geometry import affine, depth, maps
from coaster.geometry.bezier import Floats
from coaster.geometry.maps import Maps
from coaster.geometry.path import Path
from coaster.motion import distance, keys, travel, turning
from coaster.motion.accents import Added, added
from coaster.motion.distance import Way
from coaster.motion.sense import Rows
from coaster.motion.tracing import Lead
from coaster.motion.travel import Travel
from coaster.render import following
from coaster.render.faces import faces_of
from coaster.render.frames import Frames, cut
from coaster.render.lifted import lifted_faces
from coaster.render.outlines import Faces
from coaster.render.recent import Recent
from coaster.scene import tree
from coaster.scene.contents import as_group, as_picture, spread_of
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.properties import ATTITUDE, LEAST_ANGLE, MOST_ANGLE, PLACES

GROUND_SHARE = 0.9
"""A still picture that covers this share of the frame, across and down, is ground."""
ZERO, ONE = np.zeros(1), np.ones(1)


@dataclass(frozen=True, eq=False)
class Placed:
    """All that a layer's place and mask depend on: itself, its path, the clock, its group, the
    path's group, its target, the paths that mask it with their groups, its carrier, the layers that
    what it leaves behind looks like, the one whose colours it takes, who looks at it.

    Two that are alike are equal; the hash is worked out when it is first asked for, and once, as
    what it is made of is large.
    """

    layer: Layer
    path: Path | None
    length: int
    fps: float
    group: "Placed | None" = None
    rail_group: "Placed | None" = None
    target: "Placed | None" = None
    masks: "tuple[tuple[Path, Placed | None], ...]" = ()
    carrier: "Placed | None" = None
    looks: tuple[Layer, ...] = ()
    under: "Placed | None" = None
    viewer: "Viewer | None" = None
    flat: bool = False
    """Whether nothing in its scene has depth."""

    @cached_property
    def _hash(self) -> int:
        return hash(self._parts())

    def _parts(self) -> tuple[Any, ...]:
        return (
            self.layer,
            self.path,
            self.length,
            self.fps,
            self.group,
            self.rail_group,
            self.target,
            self.masks,
            self.carrier,
            self.looks,
            self.under,
            self.viewer,
            self.flat,
        )

    def __hash__(self) -> int:
        return self._hash

    def __eq__(self, other: object) -> bool:
        return self is other or (isinstance(other, Placed) and self._parts() == other._parts())

    def times(self, at: Frames | None = None) -> Floats:
        return np.arange(self.length + 1.0) if at is None else at.times

    @property
    def way(self) -> Way | None:
        """The path as the layer rides it."""
        layer = self.layer
        if layer.ride is None or self.path is None:
            return None
        return Way(self.path, layer.ride, layer.keys_of("shift"), spread_of(layer.content))

    @property
    def lead(self) -> Lead | None:
        """What a line is drawn in step with: its carrier, as long as that rides its path."""
        way = None if self.carrier is None else self.carrier.way
        if way is None or self.path is None or way.path.id != self.path.id:
            return None
        return Lead(way, self.length)


@dataclass(frozen=True)
class Viewer:
    """Who looks at a scene in which anything has depth: through the ``cameras``, of which the first
    that is there is looked through, or from right before its middle; of its ``lights`` the first
    that is there shines.
    """

    width: int
    height: int
    cameras: tuple[Placed, ...] = ()
    lights: tuple[Placed, ...] = ()


class Known:
    """What the layers of one scene depend on, each worked out once."""

    def __init__(self, scene: Scene) -> None:
        self.scene = scene
        self._layers = {layer.id: layer for layer in scene.layers}
        self._paths = {path.id: path for path in scene.paths}
        self._placed: dict[tuple[str, bool, bool, bool, bool], Placed] = {}
        self.viewer: Viewer | None = None
        self._flat = not has_depth(scene)
        if not self._flat:
            cameras = [x for x in scene.layers if x.content.can.view and tree.is_drawn(scene, x)]
            # A camera is where it is, not where it is seen.
            lights = [x for x in scene.layers if x.content.can.light and tree.is_drawn(scene, x)]
            seeing, shining = (
                tuple(self.placed(x) for x in reversed(each)) for each in (cameras, lights)
            )
            self.viewer = Viewer(scene.width, scene.height, seeing, shining)

    def placed(self, layer: Layer, *, looking: bool = True, masked: bool = True) -> Placed:
        """Return what a layer depends on; without ``looking`` only where it is, not which way it
        faces; without ``masked`` not where it is seen, nor in which colours.
        """
        tinted = masked and layer.tint is not None and layer.tint.under is not None
        seen = self.viewer is not None
        key = layer.id, looking, masked and layer.mask is not None, tinted, seen
        if key not in self._placed:
            layer = self._following(layer)
            path_id = layer.path_id()
            path = None if path_id is None else self._paths[path_id]
            target = self._target(layer) if looking else None
            rail = None if path is None else self._group(path.parent)
            group = self._group(layer.parent)
            clock = self.scene.length, self.scene.fps
            masks = self._masks(layer) if masked else ()
            carrier = self._carrier(layer)
            looks = self._looks(layer)
            self._placed[key] = Placed(
                layer,
                path,
                *clock,
                group,
                rail,
                target,
                masks,
                carrier,
                looks,
                self._under(layer) if tinted else None,
                self.viewer,
                self._flat,
            )
        return self._placed[key]

    def _following(self, layer: Layer) -> Layer:
        """Return a layer with keys in place of what it follows."""
        if not layer.follows:
            return layer
        sources = tuple(
            self.placed(self._layers[follow.layer], masked=False) for follow in layer.follows
        )
        return _following(layer, sources)

    def layer(self, layer_id: str) -> Layer | None:
        return self._layers.get(layer_id)

    def _masks(self, layer: Layer) -> tuple[tuple[Path, Placed | None], ...]:
        masking = [self._paths[each] for each in layer.mask.paths()] if layer.mask else []
        return tuple((path, self._group(path.parent)) for path in masking)

    def _group(self, group_id: str | None) -> Placed | None:
        # Where a group is has nothing to do with where it is seen: its mask may lie in itself.
        return None if group_id is None else self.placed(self._layers[group_id], masked=False)

    def _under(self, layer: Layer) -> Placed | None:
        """Return the picture whose colours a layer takes; None if it is gone, or none any more."""
        under = self._layers.get((layer.tint and layer.tint.under) or "")
        if under is None or as_picture(under.content) is None:
            return None
        return self.placed(under, masked=False)

    def _looks(self, layer: Layer) -> tuple[Layer, ...]:
        wanted = layer.wake.looks if layer.wake else ()
        there = (self._layers.get(each) for each in wanted)
        return tuple(_as_look(each) for each in there if each is not None and may_be_left(each))

    def _carrier(self, layer: Layer) -> Placed | None:
        if layer.carrier is None:
            return None
        turned = layer.carrier.turn or layer.carrier.scale
        return self.placed(self._layers[layer.carrier.layer], looking=turned, masked=False)

    def _target(self, layer: Layer) -> Placed | None:
        target = layer.ride.facing.looks_at() if layer.ride else None
        # Where a layer is has nothing to do with where it looks, so two may look at each other.
        return (
            None
            if target is None
            else self.placed(self._layers[target], looking=False, masked=False)
        )


def may_be_left(layer: Layer) -> bool:
    """Whether particles may look like a layer: one thing, which is in one place."""
    can = layer.content.can
    return can.stand and not can.hold and not can.show and can.seen


def _as_look(layer: Layer) -> Layer:
    """Return a layer with no more than what it looks like: where it is has no say in that."""
    pose = layer.transform
    return Layer(
        layer.id, layer.name, layer.content, Transform(anchor=pose.anchor, scale=pose.scale)
    )


@lru_cache(maxsize=256)
def _following(layer: Layer, sources: tuple[Placed, ...]) -> Layer:
    return following.with_keys(layer, [source_of(one) for one in sources])


def source_of(one: Placed) -> following.Source:
    """Return what may be followed of a layer."""
    (stand,) = stands([one])
    spots = np.broadcast_to(spots_in_scene(one, stand), (one.length + 1, 2))
    return following.Source(one.layer, spots, one.fps, stand.way, stand.travel)


@dataclass(frozen=True, eq=False)
class Stand:
    """Where a layer is over n frames, or in one where it stands still.

    ``own`` (n, 6) map its px to its group's, ``maps`` to the picture; ``spots`` (n, 2) are its
    anchor's places in its group's px. Riders have a ``way`` and a ``travel``. ``carried`` map the
    px in which its place is told, where a carrier takes it, to its group's. ``sheet`` (n, 6) maps
    its px to the scene's as if nothing had depth; what has some is where ``space`` (n, 4, 4) says,
    and not always parallel to the picture if it ``leans``. ``away`` (n,) is how far its anchor is
    from the viewer, 1 in the picture.
    """

    own: Floats
    maps: Maps
    spots: Floats
    faces: Faces
    way: Way | None = None
    travel: Travel | None = None
    carried: Floats | None = None
    sheet: Floats | None = None
    space: Floats | None = None
    leans: bool = False
    away: Floats = field(default_factory=lambda: ONE)

    @property
    def flat(self) -> Floats:
        """The maps to the scene's px as if nothing had depth."""
        return self.maps if self.sheet is None else self.sheet

    @property
    def in_space(self) -> Floats:
        """The maps of space (n, 4, 4) to the scene."""
        return depth.raised(self.flat) if self.space is None else self.space

    def at_rows(self, rows: Rows) -> "Stand":
        """Return where it is in some rows; a ride is told in all of them only."""
        own, seen, spots = (cut(each, rows) for each in (self.own, self.maps, self.spots))
        sheet, space = (
            None if each is None else cut(each, rows) for each in (self.sheet, self.space)
        )
        faces = self.faces.at_rows(rows)
        return Stand(
            own,
            seen,
            spots,
            faces,
            sheet=sheet,
            space=space,
            leans=self.leans,
            away=cut(self.away, rows),
        )


_STANDS: Recent[Placed, Stand] = Recent(1024)
_GROUPS: Recent[tuple[Placed, Frames], Stand] = Recent(64)
_RIDDEN: Recent[tuple[Placed, Frames | None], Travel] = Recent(64)
_VIEWS: Recent[tuple[Viewer, int, Frames | None], Floats] = Recent(16)


def stands(placed: Sequence[Placed], at: Frames | None = None) -> list[Stand]:
    """Return where layers are in frames 0..length, or ``at`` some of them."""
    if at is None:
        return _STANDS.all(placed, lambda missing: _stands(missing, None))
    return _stands(placed, at)


def forget() -> None:
    """Forget what was worked out, as if nothing had been asked yet."""
    _STANDS.clear()
    _GROUPS.clear()
    _VIEWS.clear()
    _RIDDEN.clear()


def _stands(placed: Sequence[Placed], at: Frames | None) -> list[Stand]:
    """Work out where layers are, riders of one path together, and those that rest together."""
    travels = _travels(placed, at)
    faces = [faces_of(one.layer, one.path, one.times(at), one.fps, one.lead) for one in placed]
    resting = [i for i, one in enumerate(placed) if _rests(one, faces[i])]
    riding = [i for i, (_, gone) in travels.items() if _rides_plainly(placed[i], faces[i], gone)]
    own = np.concatenate(
        [
            _resting_maps([(placed[i].layer, faces[i]) for i in resting]),
            _riding_maps([(placed[i].layer, faces[i], travels[i][1]) for i in riding]),
        ]
    )
    found = {i: row[None] for i, row in zip(resting + riding, own, strict=True)}
    return [_stand(one, faces[i], at, travels.get(i), found.get(i)) for i, one in enumerate(placed)]


def _travels(placed: Sequence[Placed], at: Frames | None) -> dict[int, tuple[Way, Travel]]:
    together: dict[tuple[int, str, int, float, bool], list[tuple[int, Way]]] = {}
    for i, one in enumerate(placed):
        way = one.way
        if way is not None:
            whole = at is not None and travel.settles(way)
            # Of one scene, all have the same path in hand: it need not be compared.
            key = id(way.path), way.ride.gap, one.length, one.fps, whole
            together.setdefault(key, []).append((i, way))
    found = {}
    for (*_, whole), riders in together.items():
        # What settles depends on all that was before, so it is cut out of the whole.
        numbers = [i for i, _ in riders]
        ways = [way for _, way in riders]
        gone = _gone_together([placed[i] for i in numbers], ways, None if whole else at)
        for (i, way), each in zip(riders, gone, strict=True):
            if whole and at is not None:
                each = each.between(*at.within(placed[i].length))
            found[i] = way, each
    return found


def _gone_together(riders: list[Placed], ways: list[Way], at: Frames | None) -> list[Travel]:
    """Return the travels of riders of one path."""
    length, fps = riders[0].length, riders[0].fps
    periods = [distance.period_of(way, length) for way in ways]
    times, rows = (np.arange(length + 1.0), None) if at is None else at.among(length)
    ridden = travel.evaluate_all(
        ways,
        times,
        fps=fps,
        periods=periods,
        rows=rows,
        through=[_through(one, way, at) for one, way in zip(riders, ways, strict=True)],
    )
    every = zip(riders, ways, periods, ridden, strict=True)
    return [_looking(one, way, period, each, at) for one, way, period, each in every]


def abreast(one: Placed, faces: Faces, ahead: Floats, at: Frames) -> Stand | None:
    """Return where riders are in the one frame ``at`` of which each does as one without accents
    does, so many percent of its path ``ahead`` (k,), and has one of the ``faces``: rows are theirs.
    None where that would not be all of it.
    """
    way = one.way
    if way is None or one.viewer is not None or not travel.goes_alike(way):
        return None
    period = distance.period_of(way, one.length)
    ridden = travel.evaluate_abreast(
        way,
        *at.among(one.length),
        ahead * (way.length / 100),
        fps=one.fps,
        period=period,
        through=_through(one, way, at),
    )
    return _stand(one, faces, at, (way, _looking(one, way, period, ridden, at)), None)


def _through(one: Placed, way: Way, at: Frames | None) -> Floats | None:
    """Return the maps (n, 6) or (1, 6) from the px of the rail's group to those in which the rider
    is where it is; None for the same.
    """
    seen = _from_rail(one, at)
    if not way.ride.relative:
        return seen
    own = np.array(one.layer.transform.position)
    start = travel.start_of(way, one.length)
    if seen is None:
        return affine.translation(*(own - start))[None]
    if seen.ndim == 3:
        begun = depth.places(seen, np.array([[*start, travel.depth_at_start(way, one.length)]]))
        return np.asarray(depth.moved(*(np.array([*own, 0.0]) - begun).T) @ seen)
    moved = own - affine.apply_rows(seen, np.broadcast_to(start, (len(seen), 2)))
    shift = np.stack([affine.translation(*each) for each in moved])
    return affine.compose(shift, seen)


def _from_rail(one: Placed, at: Frames | None) -> Floats | None:
    """Return the maps (n, 6) from the px of the rail's group to those of the rider's own, or where
    either has depth maps of space (n, 4, 4); None for the same.
    """
    # In the same group both move alike: no maps are needed, and no angle is worked out anew.
    if one.rail_group == one.group:
        return None
    if _between_spaces(one, at):
        # How its own group is flattened comes after it was placed in it.
        own = np.eye(4)[None] if one.group is None else _of_group(one.group, at).in_space
        return np.asarray(np.linalg.inv(own) @ _around(one.rail_group, at))
    return affine.compose(affine.inverse(group_maps(one.group, at)), group_maps(one.rail_group, at))


def _between_spaces(one: Placed, at: Frames | None) -> bool:
    """Whether a rider's path is in another group than itself, and either has depth."""
    if one.viewer is None or one.rail_group == one.group:
        return False
    return any(
        group is not None and _of_group(group, at).space is not None
        for group in (one.group, one.rail_group)
    )


def group_maps(group: Placed | None, at: Frames | None) -> Maps:
    """Return the maps of a group to the scene, (n, 6) or (1, 6), as if nothing had depth."""
    return np.array([affine.IDENTITY]) if group is None else _of_group(group, at).flat


def _of_group(group: Placed, at: Frames | None) -> Stand:
    if at is None:
        return stands([group])[0]
    # Asked by every rider in a group, for the same frames.
    return _GROUPS.all([(group, at)], lambda _: stands([group], at))[0]


def _space_within(group: Placed | None, at: Frames | None) -> Floats | None:
    """Return the maps of space (n, 4, 4) from what is in a group to the scene; None where that has
    no depth.
    """
    stand = None if group is None else _of_group(group, at)
    if group is None or stand is None:
        return None
    holds = as_group(group.layer.content)
    if holds is None or not holds.flat:
        return stand.space
    space = stand.in_space
    return np.asarray(space @ depth.FLATTENED)


def plane_maps(one: Placed, group: Placed | None, at: Frames | None, zs: Floats = ZERO) -> Maps:
    """Return how the plane of a group (None: the scene) is seen, or one ``zs`` px (n,) behind it;
    ``one`` is who asks, whose viewer sees it.
    """
    viewer, around = one.viewer, _space_within(group, at)
    if viewer is None or (around is None and not viewer.cameras and not zs.any()):
        return group_maps(group, at)
    space = depth.raised(group_maps(group, at)) if around is None else around
    if zs.any():
        space = space @ depth.moved(0.0, 0.0, zs)
    leaning = _group_leans(group, at) or looks_askew(viewer, at)
    return depth.seen(views(viewer, one, at), space, leaning=leaning)


def _group_leans(group: Placed | None, at: Frames | None) -> bool:
    return group is not None and _of_group(group, at).leans


def looks_askew(viewer: Viewer, at: Frames | None) -> bool:
    """Whether any camera is ever turned, so that not all planes are parallel to its picture."""
    return any(stand.leans for stand in stands(viewer.cameras, at))


def home_maps(one: Placed, at: Frames | None, gone: Travel | None = None) -> Maps:
    """Return how the plane is seen that a layer is in: that of its group, as far back as it is,
    having ``gone`` so far if it rides.
    """
    return plane_maps(one, _home_group(one), at, _zs(one, at, gone))


def _home_group(one: Placed) -> Placed | None:
    """Return the group in whose px a layer's place is told: of a line that of its path."""
    return one.group if one.layer.content.can.stand else one.rail_group


def _zs(one: Placed, at: Frames | None, gone: Travel | None = None) -> Floats:
    """Return how far a layer's anchor is behind the plane of its group, with its carrier; what it
    has ``gone`` need not be known.
    """
    own = keyed(one.layer, "z", one.times(at)) if one.layer.is_deep else ZERO
    if one.layer.ride is not None and _goes_deep(one, at):
        own = own + _ridden_depth(one, at, gone)
    return own if one.carrier is None else own + _zs(one.carrier, at)


def _goes_deep(one: Placed, at: Frames | None) -> bool:
    """Whether a rider's path goes into the depth of the rider's group."""
    return one.path is not None and (one.path.is_deep or _between_spaces(one, at))


def _ridden_depth(one: Placed, at: Frames | None, gone: Travel | None) -> Floats:
    """Return how far a rider is behind its path's plane, (n,); what is relative begins in it."""
    ridden = gone or _RIDDEN.all([(one, at)], lambda _: [_travels([one], at)[0][1]])[0]
    ride = one.layer.ride
    if ride is None or not ride.relative or one.way is None or _between_spaces(one, at):
        return ridden.deep
    return ridden.deep - travel.depth_at_start(one.way, one.length)


def views(viewer: Viewer, one: Placed, at: Frames | None) -> Floats:
    """Return how a viewer sees the scene that ``one`` is in, (n, 3, 4)."""
    (found,) = _VIEWS.all([(viewer, one.length, at)], lambda _: [_views(viewer, one.times(at), at)])
    return found


def _views(viewer: Viewer, times: Floats, at: Frames | None) -> Floats:
    found = depth.view_of(viewer.width, viewer.height)
    # From the one farthest behind on: those before it are looked through in its place.
    for camera in reversed(viewer.cameras):
        view = _view_from(viewer, camera, times, at)
        if camera.layer.shown is None:
            found = view
            continue
        begin, end = camera.layer.shown
        there = ((times >= begin) & (times < end))[:, None, None]
        found = np.where(there, view, found)
    return found


def _view_from(viewer: Viewer, camera: Placed, times: Floats, at: Frames | None) -> Floats:
    """Return how all is seen from a camera: it looks at what its anchor lies on."""
    view = depth.view_of(viewer.width, viewer.height, _angles(camera, times))
    # Its own px begin in the middle of the picture.
    view[:, 0, 3], view[:, 1, 3] = viewer.width / 2, viewer.height / 2
    return np.asarray(view @ np.linalg.inv(_camera_space(viewer, camera, times, at)))


def _angles(camera: Placed, times: Floats) -> Floats:
    """Return the degrees that a camera sees across; what overshoots is kept within."""
    return np.clip(keyed(camera.layer, "angle", times), LEAST_ANGLE, MOST_ANGLE)


def _camera_space(viewer: Viewer, camera: Placed, times: Floats, at: Frames | None) -> Floats:
    """Return the maps of space (n, 4, 4) from what a camera sees before it to the scene."""
    stand = stands([camera], at)[0]
    space = depth.unscaled(stand.in_space)
    ride = camera.layer.ride
    if ride is None or ride.facing.mode != "target":
        return space
    # It turns its eye, which stays where it is.
    back = depth.moved(0.0, 0.0, -depth.distance_of(viewer.width, _angles(camera, times)))
    eye = depth.places(space, back[:, :3, 3])
    turned = depth.moved(*eye.T)
    turned = np.broadcast_to(turned, (max(len(turned), len(times)), 4, 4)).copy()
    turned[:, :3, :3] = depth.looking(_target_points(camera, at) - eye)
    roll = depth.raised(affine.rotation(np.radians(keyed(camera.layer, "turn", times))))
    return np.asarray(turned @ roll @ np.linalg.inv(back))


def eyes_of(viewer: Viewer, one: Placed, at: Frames | None) -> Floats:
    """Return where whoever looks at a scene is, (n, 3)."""
    # The point that is seen nowhere.
    view = views(viewer, one, at)
    return np.asarray(-np.linalg.solve(view[:, :, :3], view[:, :, 3:])[..., 0])


def _target_points(one: Placed, at: Frames | None) -> Floats:
    """Return the places of what a rider looks at in depth, in the scene, (n, 3)."""
    assert one.layer.ride is not None  # noqa: S101 - only riders look
    if one.target is not None:
        return points_of(one.target, stands([one.target], at)[0], at)
    spot = np.array([[*one.layer.ride.facing.spot, 0.0]])
    return _in_scene(one.group, spot, at)


def points_of(one: Placed, stand: Stand, at: Frames | None) -> Floats:
    """Return where a layer's anchor is in the scene, with its depth, (n, 3)."""
    zs = _zs(one, at, stand.travel)
    return _in_scene(_home_group(one), _with_depth(stand.spots, zs), at)


def in_space(one: Placed, stand: Stand, at: Frames | None) -> Floats:
    """Return how a layer lies in the scene, (n, 15): where its x, y, z and its beginning come to,
    and where its anchor is; of a camera (n, 18), where its eye is besides.
    """
    viewer, is_camera = one.viewer, one.layer.content.can.view
    space, parts = stand.in_space, [points_of(one, stand, at)]
    if is_camera and viewer is not None:
        space = _camera_space(viewer, one, one.times(at), at)
        away = depth.distance_of(viewer.width, _angles(one, one.times(at)))
        parts.append(depth.places(space, _with_depth(np.zeros((1, 2)), -away)))
    elif one.layer.content.can.hold:
        within = _space_within(one, at)
        space = space if within is None else within
    columns = np.moveaxis(space[:, :3], 1, 2).reshape(-1, 12)
    return _side_by_side([columns, *parts])


def _side_by_side(columns: Sequence[Floats]) -> Floats:
    """Return numbers in one row a frame, of which some have one row for all."""
    n = max(len(each) for each in columns)
    return np.hstack([np.broadcast_to(each, (n, each.shape[1])) for each in columns])


def lifts(one: Placed, stand: Stand, at: Frames | None) -> Floats:
    """Return how places in depth are seen that are told in the px of a group or, of a camera, in
    those of the scene, (n, 3, 4).
    """
    if one.viewer is None:
        return depth.view_of(1.0, 1.0)
    view = views(one.viewer, one, at)
    return view if one.layer.content.can.view else view @ stand.in_space


def mirrored(one: Placed, stand: Stand, down: Floats, at: Frames | None) -> tuple[Maps, Floats]:
    """Return what brings a layer, as it is seen, to where it is seen mirrored by ``down`` (1, 6) in
    the scene, however deep it is; and where its anchor is in that, (n, 2).
    """
    viewer = one.viewer
    assert viewer is not None  # noqa: S101 - asked only of what has depth
    space = stand.in_space
    turned = depth.raised(down)
    turned[:, 2, 2] = 1.0
    leaning = stand.leans or looks_askew(viewer, at)
    there = depth.seen(views(viewer, one, at), turned @ space, leaning=leaning)
    return maps.compose(there, maps.inverse(stand.maps)), points_of(one, stand, at)[:, :2]


def _with_depth(spots: Floats, zs: Floats) -> Floats:
    """Return places (n, 3) of spots (n, 2) that are so far behind their plane, (n,)."""
    n = max(len(spots), len(zs))
    return np.column_stack([np.broadcast_to(spots, (n, 2)), np.broadcast_to(zs, n)])


def _around(group: Placed | None, at: Frames | None) -> Floats:
    """Return the maps of space from what is in a group (None: the scene) to the scene."""
    space = _space_within(group, at)
    return depth.raised(group_maps(group, at)) if space is None else space


def _in_scene(group: Placed | None, points: Floats, at: Frames | None) -> Floats:
    """Return where points (n, 3) of what is in a group (None: the scene) are in the scene."""
    return points if group is None else depth.places(_around(group, at), points)


def _looking(
    one: Placed, way: Way, period: float | None, ridden: Travel, at: Frames | None
) -> Travel:
    """Return the travel of a rider that looks at something, facing it; any other as it is."""
    facing = way.ride.facing
    if facing.mode != "target":
        return ridden
    target = np.array(facing.spot) if one.target is None else _target_spots(one, at)
    return travel.looking_at(ridden, way, target, fps=one.fps, period=period)


def _target_spots(one: Placed, at: Frames | None) -> Floats:
    """Return the places of a rider's target in the px of the rider's own group, (n, 2) or
    (1, 2).
    """
    assert one.target is not None  # noqa: S101 - asked only of those that look at a layer
    spots = stands([one.target], at)[0].spots
    if one.target.group == one.group:
        return spots
    back = affine.inverse(group_maps(one.group, at))
    return _each(affine.compose(back, group_maps(one.target.group, at)), spots)


def is_lifted(one: Placed) -> bool:
    """Whether a layer strokes a path in depth, which is told as it is seen."""
    if one.viewer is None or one.path is None or one.layer.content.can.stand:
        return False
    return one.path.is_deep


def _on_its_path(one: Placed, path: Path, faces: Faces, at: Frames | None) -> Stand:
    """Return where a layer is that strokes its path: where that is, or of one in depth in the
    picture, where its looks are told.
    """
    start = np.array([path.subpaths[0].live[0].position])
    if is_lifted(one):
        assert one.viewer is not None  # noqa: S101 - only what is seen is lifted
        lifts = views(one.viewer, one, at) @ _around(one.rail_group, at)
        line, times = one.layer.content, one.times(at)
        faces = lifted_faces(line, one.layer, path, times, one.lead, lifts)  # type: ignore[arg-type]
        here = np.array([affine.IDENTITY])
        return Stand(here, here, start, faces, away=_away(one, one.viewer, start, at))
    own, flat = np.array([affine.IDENTITY]), group_maps(one.rail_group, at)
    seen = plane_maps(one, one.rail_group, at)
    space, leans = _space_within(one.rail_group, at), _group_leans(one.rail_group, at)
    away = ONE if one.viewer is None else _away(one, one.viewer, start, at)
    return Stand(own, seen, start, faces, sheet=flat, space=space, leans=leans, away=away)


def _stand(
    one: Placed,
    faces: Faces,
    at: Frames | None,
    ridden: tuple[Way, Travel] | None,
    known: Floats | None,
) -> Stand:
    way, gone = ridden or (None, None)
    if one.path is not None and gone is None:
        return _on_its_path(one, one.path, faces, at)
    if known is not None:
        own = known
        spots = np.array([one.layer.transform.position]) if gone is None else gone.position
    else:
        times = one.times(at)
        spots = _resting_spots(one.layer, times) if gone is None else gone.position
        accents = accents_of(one, times)
        if accents is not None:
            spots = spots + np.stack([accents.across, accents.down], axis=1)
        own = _own_maps(one.layer, faces, spots, gone, times, accents)
    carried = _carried_maps(one, at)
    if carried is not None:
        spots, own = _each(carried, spots), affine.compose(carried, own)
    flat = affine.compose(group_maps(one.group, at), own) if one.group else own
    stand = Stand(own, flat, spots, faces, way, gone, carried, flat)
    return stand if one.flat else _in_depth(one, stand, at)


def _in_depth(one: Placed, stand: Stand, at: Frames | None) -> Stand:
    """Return where a layer is, of which that is known as if nothing had depth."""
    own, flat = stand.own, stand.flat
    space = _space_of(one, own, stand.spots, stand.travel, at)
    leans = _leans(one, at)
    seen = _seen(one, flat, space, leans, at)
    away = ONE if one.viewer is None else _away(one, one.viewer, stand.spots, at, stand.travel)
    return replace(stand, maps=seen, space=space, leans=leans, away=away)


def _away(
    one: Placed, viewer: Viewer, spots: Floats, at: Frames | None, gone: Travel | None = None
) -> Floats:
    """Return how far a layer's anchor is from the viewer, (n,): 1 in the picture."""
    there = _in_scene(_home_group(one), _with_depth(spots, _zs(one, at, gone)), at)
    view = views(viewer, one, at)[:, 2]
    return np.asarray((view[:, :3] * there).sum(axis=1) + view[:, 3])


def _leans(one: Placed, at: Frames | None) -> bool:
    """Whether a layer is ever not parallel to the picture plane: for good, whatever frames are
    asked for.
    """
    layer, pose = one.layer, one.layer.transform
    holds = None if one.group is None else as_group(one.group.layer.content)
    own = bool(pose.tilt or pose.swing or layer.track("tilt") or layer.track("swing"))
    own = (
        own or pose.to_viewer or _dives(one) or (layer.ride is not None and layer.ride.facing.leans)
    )
    # A camera that looks at something turns round all that it sees.
    own = own or (layer.content.can.view and one.target is not None)
    return _group_leans(one.group, at) or (own and not (holds and holds.flat))


def _seen(one: Placed, flat: Floats, space: Floats | None, leans: bool, at: Frames | None) -> Maps:
    """Return how a layer's plane is seen, which lies in space, or flat in the scene; of a camera
    how the scene's own plane is.
    """
    viewer = one.viewer
    if viewer is None or (space is None and not viewer.cameras and not leans):
        return flat
    if one.layer.content.can.view:
        return plane_maps(one, None, at)
    space = depth.raised(flat) if space is None else space
    return depth.seen(views(viewer, one, at), space, leaning=leans or looks_askew(viewer, at))


def _space_of(
    one: Placed, own: Floats, spots: Floats, gone: Travel | None, at: Frames | None
) -> Floats | None:
    """Return the maps of space (n, 4, 4) from a layer to the scene; None where neither it nor what
    it is in has any depth.
    """
    zs, behind = _zs(one, at, gone), one.layer.transform.anchor_z
    turned = _turned(one, spots, zs, gone, at)
    if turned is None and behind:
        turned = np.eye(3)[None]
    if turned is None and not zs.any() and _space_within(one.group, at) is None:
        return None
    space = depth.lying(own, spots, zs, turned, behind)
    return space if one.group is None else np.asarray(_around(one.group, at) @ space)


def _turned(
    one: Placed, spots: Floats, zs: Floats, gone: Travel | None, at: Frames | None
) -> Floats | None:
    """Return the rotations (n, 3, 3) that take a layer out of its plane; None if nothing does."""
    faces = _faced(one, spots, zs, at)
    turns = [] if faces is None else [faces]
    if one.layer.is_deep:
        _, tilt, swing = _angles_of(one.layer, one.times(at))
        if tilt.any() or swing.any():
            turns.append(depth.leaning(tilt, swing))
    if gone is not None and _dives(one) and gone.dive.any():
        turns.append(depth.diving(gone.heading, gone.dive))
    if gone is not None and gone.bank.any():
        turns.append(depth.banking(gone.heading, gone.bank))
    return reduce(np.matmul, turns) if turns else None


def _dives(one: Placed) -> bool:
    """Whether a rider may go into depth with its nose ahead: for good, whatever is asked for."""
    ride, path = one.layer.ride, one.path
    if ride is None or path is None or not ride.facing.dives:
        return False
    return path.is_deep or one.rail_group != one.group


def _faced(one: Placed, spots: Floats, zs: Floats, at: Frames | None) -> Floats | None:
    """Return the rotations (n, 3, 3) that turn a layer's face to the viewer, or to what it looks at
    in depth; None where it does neither.
    """
    layer, viewer = one.layer, one.viewer
    looks = layer.ride is not None and layer.ride.facing.in_depth
    if layer.content.can.view or viewer is None or not (layer.transform.to_viewer or looks):
        return None
    target = _target_points(one, at) if looks else eyes_of(viewer, one, at)
    turned = depth.looking(_in_scene(one.group, _with_depth(spots, zs), at) - target)
    if one.group is None:
        return turned
    # As it is seen from outside, whichever way its group is turned.
    around = depth.unscaled(_around(one.group, at))
    return np.asarray(np.linalg.inv(around[:, :3, :3]) @ turned)


def accents_of(one: Placed, times: Floats) -> Added | None:
    """Return what accents add to a layer at ``times``; None where it has none."""
    return added(one.layer.accents, one.way, one.length, times) if one.layer.accents else None


def _each(way: Maps, spots: Floats) -> Floats:
    """Return places mapped frame by frame; either may stand still while the other moves."""
    return maps.apply_rows(way, np.broadcast_to(spots, (max(len(way), len(spots)), 2)))


def _carried_maps(one: Placed, at: Frames | None) -> Floats | None:
    """Return the maps from px about a layer's carrier to its group's, (n, 6) or (1, 6): of the
    carrier's turn and scale only what it takes.
    """
    carrier, how = one.carrier, one.layer.carrier
    if carrier is None or how is None:
        return None
    stand = stands([carrier], at)[0]
    way = np.array([affine.IDENTITY])
    if carrier.group != one.group:
        back = affine.inverse(group_maps(one.group, at))
        way = affine.compose(back, group_maps(carrier.group, at))
    spots = _each(way, stand.spots)
    a, b, c, d = np.moveaxis(affine.compose(way, stand.own)[:, :4], 1, 0)
    angle = np.arctan2(b, a) if how.turn else np.zeros(1)
    across, down = np.ones(1), np.ones(1)
    if how.scale:
        across = np.hypot(a, b)
        down = (a * d - b * c) / np.where(across > 0, across, 1.0)
    return _rows((*_columns(angle, np.zeros(1), across, down), *spots.T))


def keyed(layer: Layer, name: str, times: Floats) -> Floats:
    """Return a property that is a number at ``times`` or, without keys, the one value it
    has, (1,).
    """
    track = layer.track(name)
    if track is not None:
        return keys.values(track.keys, times)[0]
    standing = layer.standing(name)
    return np.array([0.0 if standing is None else float(standing)])


def _angles_of(layer: Layer, times: Floats) -> tuple[Floats, Floats, Floats]:
    """Return turn, tilt and swing at ``times`` (n,), radians; of each one for all where it has no
    keys.
    """
    if not _goes_short_way(layer):
        turn, tilt, swing = (np.radians(keyed(layer, name, times)) for name in ATTITUDE)
        return turn, tilt, swing
    stops = np.unique([key.time for name in ATTITUDE for key in layer.keys_of(name)])
    met, now = (
        np.stack(
            [np.broadcast_to(np.radians(keyed(layer, name, at)), len(at)) for name in ATTITUDE], 1
        )
        for at in (stops, times)
    )
    turn, tilt, swing = turning.short_way(stops, met, times, now).T
    return turn, tilt, swing


def _goes_short_way(layer: Layer) -> bool:
    """Whether its angles are keyed together, as rotations."""
    return layer.transform.short_way and any(layer.keys_of(name) for name in ATTITUDE)


def _turn_of(layer: Layer, times: Floats) -> Floats:
    """Return the first of its angles alone, which most layers have no other than."""
    if _goes_short_way(layer):
        return _angles_of(layer, times)[0]
    return np.asarray(np.radians(keyed(layer, "turn", times)))


def _resting_spots(layer: Layer, times: Floats) -> Floats:
    """Return the places of a layer that rides nothing, (1, 2) where no keys move it."""
    across, down = (keyed(layer, name, times) for name in PLACES)
    return np.stack(np.broadcast_arrays(across, down), axis=1)


def _rests(one: Placed, faces: Faces) -> bool:
    """Whether a layer has one place, turn, size and face for good, whatever takes it along."""
    moves = one.layer.keys or one.layer.accents or faces.grown is not None
    return one.path is None and not moves and faces.still


def _rides_plainly(one: Placed, faces: Faces, gone: Travel) -> bool:
    """Whether a rider that is asked for in one frame is there as its ride has it, and no more."""
    moves = one.layer.keys or one.layer.accents or faces.grown is not None
    return len(gone.position) == 1 and not moves and faces.still and not _looks_in_depth(one.layer)


def _resting_maps(at_rest: Sequence[tuple[Layer, Faces]]) -> Floats:
    """Return the maps (n, 6) of n layers that rest, worked out together: of a hundred that are
    dragged, each alone would take longer than to draw it.
    """
    if not at_rest:
        return np.empty((0, 6))
    spots = np.array([layer.transform.position for layer, _ in at_rest])
    pose, anchor = _poses(at_rest)
    return _about_anchor(_columns(*pose), anchor, spots)


def _riding_maps(riding: Sequence[tuple[Layer, Faces, Travel]]) -> Floats:
    """Return the maps (n, 6) of n plain riders in one frame, as ``_own_maps`` does: letters of a
    text whose path is dragged are many.
    """
    if not riding:
        return np.empty((0, 6))
    (turn, slant, across, down), anchor = _poses([(layer, faces) for layer, faces, _ in riding])
    facings = [layer.ride.facing for layer, _, _ in riding if layer.ride is not None]
    more = np.radians([facing.turn for facing in facings])
    flips = np.array([[facing.flip_x, facing.flip_y] for facing in facings])
    facing = np.concatenate([gone.facing for *_, gone in riding])
    upside = np.concatenate([gone.upside for *_, gone in riding])
    across, down = np.where(flips, -1.0, 1.0).T * (across, upside * down)
    pose = facing + upside * (turn + more), upside * slant, across, down
    spots = np.concatenate([gone.position for *_, gone in riding])
    return _about_anchor(_columns(*pose), anchor, spots)


def _poses(
    standing: Sequence[tuple[Layer, Faces]],
) -> tuple[tuple[Floats, ...], tuple[Floats, ...]]:
    """Return turn, slant, scale across and down of n layers without keys, (n,), and x and y of
    their anchors in their px; angles in radians.
    """
    poses = [layer.transform for layer, _ in standing]
    boxes = np.array([faces.first.box for _, faces in standing])
    anchors = np.array([pose.anchor for pose in poses])
    turn, slant = np.radians([[pose.turn, pose.skew] for pose in poses]).T
    across, down = np.array([pose.scale for pose in poses]).T
    return (turn, slant, across, down), tuple((boxes[:, :2] + anchors * boxes[:, 2:]).T)


def _own_maps(
    layer: Layer,
    faces: Faces,
    spots: Floats,
    ridden: Travel | None,
    times: Floats,
    accents: Added | None = None,
) -> Floats:
    """Return place x facing x keep-upright x turn x skew x scale x anchor, for every frame or, if
    it stands still, once.
    """
    turn, slant = _turn_of(layer, times), np.radians(keyed(layer, "skew", times))
    across, down = _scales(layer, faces, times)
    if accents is not None:
        turn, across, down = turn + accents.turn, across * accents.size, down * accents.size
    if ridden is not None and layer.ride is not None and not _looks_in_depth(layer):
        facing = layer.ride.facing
        # A mirror before a turn is that turn the other way, and the mirror.
        turn = ridden.facing + ridden.upside * (turn + np.radians(facing.turn))
        across = -across if facing.flip_x else across
        down = ridden.upside * (-down if facing.flip_y else down)
        slant = ridden.upside * slant
    return _about_anchor(_columns(turn, slant, across, down), _anchor(layer, faces), spots)


def _looks_in_depth(layer: Layer) -> bool:
    """Whether what a rider looks at turns it in depth, and not in its plane."""
    facing = layer.ride.facing if layer.ride else None
    return facing is not None and (
        facing.in_depth or (layer.content.can.view and facing.mode == "target")
    )


def _about_anchor(columns: Sequence[Floats], anchor: Sequence[Floats], spots: Floats) -> Floats:
    """Return the maps that bring an anchor, in the layer's px, to its spots."""
    across, down = _applied(columns, anchor)
    return _rows((*columns, spots[:, 0] - across, spots[:, 1] - down))


def _columns(turn: Floats, slant: Floats, across: Floats, down: Floats) -> tuple[Floats, ...]:
    """Return a, b, c, d of turn x skew x scale; angles in radians."""
    cos, sin = np.cos(turn), np.sin(turn)
    if not slant.any():
        return cos * across, sin * across, -sin * down, cos * down
    lean = -np.tan(slant)
    return cos * across, sin * across, (cos * lean - sin) * down, (sin * lean + cos) * down


def _rows(columns: tuple[Floats, ...]) -> Floats:
    """Return maps from their columns, each of one number for every frame or one for all."""
    # Not stacked: of most columns there is one number, which is told to all frames at once.
    rows = np.empty((max(len(column) for column in columns), 6))
    for i, column in enumerate(columns):
        rows[:, i] = column
    return rows


def _applied(columns: Sequence[Floats], vector: Sequence[Floats]) -> tuple[Floats, Floats]:
    """Return a, b, c, d times a vector (x, y)."""
    a, b, c, d = columns
    x, y = vector
    return a * x + c * y, b * x + d * y


def _anchor(layer: Layer, faces: Faces) -> tuple[Floats, Floats]:
    """Return where a layer's anchor is in its own px, in each face."""
    boxes = faces.boxes()
    across, down = layer.transform.anchor
    return boxes[:, 0] + across * boxes[:, 2], boxes[:, 1] + down * boxes[:, 3]


def _scales(layer: Layer, faces: Faces, times: Floats) -> tuple[Floats, Floats]:
    """Return the factors across and down; keys of scale keep the two in proportion."""
    across, down = layer.transform.scale
    grown = np.ones(1) if faces.grown is None else faces.grown
    if layer.track("scale") is None:
        return across * grown, down * grown
    scale = keyed(layer, "scale", times) * grown
    # Keys tell one number; a layer stretched by hand stays as stretched.
    return scale, scale * (down / across if across else 1.0)


def unturned(layer: Layer, faces: Faces) -> Floats:
    """Return the map (6,) of a rider with its anchor at the origin, as if it had no facing
    at all.
    """
    bare = Layer(layer.id, layer.name, layer.content, layer.transform)
    row: Floats = _own_maps(bare, Faces(faces.faces), np.zeros((1, 2)), None, np.zeros(1))[0]
    return row


def spots_in_scene(one: Placed, stand: Stand, at: Frames | None = None) -> Floats:
    """Return where a layer's anchor is seen in the picture, (n, 2) or (1, 2)."""
    home = home_maps(one, at, stand.travel)
    if len(home) == 1 and tuple(home[0]) == affine.IDENTITY:
        return stand.spots
    return _each(home, stand.spots)


def spots_of(scene: Scene, layer_id: str) -> Floats:
    """Return where a layer's anchor is in the scene's px in frames 0..length, (n, 2)."""
    one = Known(scene).placed(scene.layer(layer_id))
    found = spots_in_scene(one, stands([one])[0])
    return np.asarray(np.broadcast_to(found, (scene.length + 1, 2)))


def _clamped(scene: Scene, frame: float) -> Frames:
    return Frames.one(min(max(round(frame), 0), scene.length))


def spot_of(scene: Scene, layer_id: str, frame: float) -> tuple[float, float]:
    """Return where a layer's anchor is at a frame, px of the scene, to thousandths."""
    one, at = Known(scene).placed(scene.layer(layer_id)), _clamped(scene, frame)
    x, y = spots_in_scene(one, stands([one], at)[0], at)[0]
    return round(float(x), 3), round(float(y), 3)


def spots_in_group(scene: Scene, layer_id: str) -> Floats:
    """Return where a layer's anchor is in frames 0..length in the px of its own group, (n, 2)."""
    one = Known(scene).placed(scene.layer(layer_id))
    return np.asarray(np.broadcast_to(stands([one])[0].spots, (scene.length + 1, 2)))


def group_map(scene: Scene, parent: str | None, frame: float) -> Floats:
    """Return the map (6,) from the px of a group (None: the scene) to the scene's, at a frame, as
    if nothing had depth.
    """
    if parent is None:
        return np.array(affine.IDENTITY)
    group = Known(scene).placed(scene.layer(parent))
    row: Floats = stands([group], _clamped(scene, frame))[0].flat[0]
    return row


def has_depth(scene: Scene) -> bool:
    """Whether anything of a scene may be seen elsewhere than it is."""
    return any(layer.is_deep for layer in scene.layers) or any(p.is_deep for p in scene.paths)


def has_cameras(scene: Scene) -> bool:
    return any(layer.content.can.view for layer in scene.layers)


def flat_home_map(scene: Scene, layer: Layer, frame: float) -> Floats:
    """Return the map (6,) of ``home_map`` as if nothing had depth."""
    group, carried = group_map(scene, layer.parent, frame), carried_map(scene, layer, frame)
    return group if carried is None else affine.compose(group, carried)


def plane_map(scene: Scene, parent: str | None, frame: float, z: float = 0.0) -> Maps:
    """Return the map (6,) or (9,) from the plane of a group (None: the scene), or from one ``z`` px
    behind it, to the picture.
    """
    known = Known(scene)
    if known.viewer is None:
        flat = group_map(scene, parent, frame)
        return flat if not z else _behind(scene, depth.raised(flat[None]), z)
    group = None if parent is None else known.placed(scene.layer(parent))
    if not scene.layers:  # with paths alone: nobody to ask
        return _behind(scene, np.eye(4)[None], z)
    asking = group or known.placed(scene.layers[0])
    return np.asarray(plane_maps(asking, group, _clamped(scene, frame), np.array([z]))[0])


def _behind(scene: Scene, space: Floats, z: float) -> Maps:
    """Return how one who is told nothing of depth sees a plane z px behind one, (6,)."""
    view = depth.view_of(scene.width, scene.height)
    return np.asarray(depth.seen(view, space @ depth.moved(0.0, 0.0, z), leaning=False)[0])


def space_map(scene: Scene, parent: str | None, frame: float) -> Floats:
    """Return the map of space (4, 4) from what is in a group (None: the scene) to the scene."""
    group = None if parent is None else Known(scene).placed(scene.layer(parent))
    return np.asarray(_around(group, _clamped(scene, frame))[0])


def lift_map(scene: Scene, parent: str | None, frame: float) -> Floats:
    """Return how what is in a group (None: the scene) is seen with its depth, (3, 4)."""
    known, at = Known(scene), _clamped(scene, frame)
    view = depth.view_of(scene.width, scene.height)
    if known.viewer is not None and known.viewer.cameras:
        view = views(known.viewer, known.viewer.cameras[0], at)
    return np.asarray(view[0] @ space_map(scene, parent, frame))


def point_of(scene: Scene, layer_id: str, frame: float) -> tuple[float, float, float]:
    """Return where a layer's anchor is in the scene at a frame, with its depth."""
    one, at = Known(scene).placed(scene.layer(layer_id)), _clamped(scene, frame)
    x, y, z = points_of(one, stands([one], at)[0], at)[0]
    return float(x), float(y), float(z)


def carried_map(scene: Scene, layer: Layer, frame: float) -> Floats | None:
    """Return the map (6,) to a layer's group from the px about its carrier in which its place is
    told; None without one.
    """
    if layer.carrier is None:
        return None
    carried = stands([Known(scene).placed(layer)], _clamped(scene, frame))[0].carried
    return None if carried is None else carried[0]


def home_map(scene: Scene, layer: Layer, frame: float) -> Maps:
    """Return the map (6,) or (9,) to the picture from the plane in which a layer's place is told,
    at a frame: about its carrier, or of its group.
    """
    home: Maps = home_maps(Known(scene).placed(layer), _clamped(scene, frame))[0]
    carried = carried_map(scene, layer, frame)
    return home if carried is None else maps.compose(home, carried)


def into_group(
    scene: Scene, parent: str | None, point: tuple[float, float], frame: float
) -> tuple[float, float]:
    """Return a place of the scene in the px of a group at a frame."""
    x, y = maps.apply(maps.inverse(plane_map(scene, parent, frame)), point)
    return float(x), float(y)


def passed(scene: Scene, layer_id: str, node_id: str) -> int | None:
    """Return the frame at which a rider first comes to a node of its path; None if it never does.

    Errors: UnknownId: it rides nothing, or there is no such node.
    """
    way = Known(scene).placed(scene.layer(layer_id)).way
    ids = [] if way is None else [node.id for node in way.path.nodes()]
    if way is None or node_id not in ids:
        raise UnknownId(f"{scene.layer(layer_id).name} rides by no node {node_id!r}.")
    return distance.frame_at_node(way, node_id, scene.length)


def is_ground(scene: Scene, layer: Layer, stand: Stand) -> bool:
    """Whether a layer is the ground behind everything: a picture that covers the frame and stays
    there, moving or not.
    """
    face = stand.faces.first
    if face.picture is None or len(stand.maps) > 1:
        return False
    if not maps.is_flat(stand.maps):
        return False
    a, b, c, d = stand.maps[0, :4]
    wide = face.box[2] * np.hypot(a, b) >= GROUND_SHARE * scene.width
    return bool(wide and face.box[3] * np.hypot(c, d) >= GROUND_SHARE * scene.height)


def hidden_by(scene: Scene, layer: Layer) -> Iterator[Layer]:
    """Yield the groups that hide a layer."""
    return (group for group in tree.ancestors(scene, layer.parent) if not group.visible)
