"""The path of the document: subpaths of nodes with handles, immutable, in scene px."""

from collections.abc import Iterable
from dataclasses import replace
from itertools import pairwise
from typing import Annotated, Literal, get_args

import numpy as np
from numpy.typing import ArrayLike, NDArray

from coaster.documents import Rule, document, trusted
from coaster.errors import GeometryError, UnknownId
from coaster.geometry import affine, bezier
from coaster.geometry.bezier import Floats

FURTHEST = 1_000_000.0
"""No coordinate lies further out than this; beyond it a pixel is lost in rounding."""

Coordinate = Annotated[float, Rule(ge=-FURTHEST, le=FURTHEST)]
Vec2 = tuple[Coordinate, Coordinate]
Id = Annotated[str, Rule(pattern=r"^[A-Za-z0-9_-]{1,40}$")]
Name = Annotated[str, Rule(min_length=1, max_length=80)]
Colour = Annotated[str, Rule(pattern=r"^#[0-9a-fA-F]{6}([0-9a-fA-F]{2})?$")]
NodeKind = Literal["corner", "smooth", "even", "auto"]
Share = Annotated[float, Rule(ge=0, le=10)]
Gap = Literal["glide", "jump", "hide"]
"""Over the gap between two pieces: across in a straight line, seen or unseen, or in no time."""
SeenFrom = Literal["front", "above", "side"]
SEEN_FROM: tuple[SeenFrom, ...] = get_args(SeenFrom)
MOST_LEGS, MOST_LAPS = 40, 100
"""Of one path that is made of others."""


@document
class Node:
    """A point of a path; the handles are offsets from ``position``, (0, 0) for none.

    ``weight`` scales the handles of an ``auto`` node. A locked node is not moved by hand. A
    disabled one keeps its settings, but the curve passes it by. It lies ``z`` px behind the plane
    of the path; between nodes the curve goes there evenly, round those that are no corners, unless
    ``handle_z`` says how far behind the node its handles in and out end.
    """

    id: Id
    position: Vec2
    handle_in: Vec2 = (0.0, 0.0)
    handle_out: Vec2 = (0.0, 0.0)
    kind: NodeKind = "corner"
    weight: Share = 1.0
    locked: bool = False
    disabled: bool = False
    z: Coordinate = 0.0
    handle_z: tuple[Coordinate, Coordinate] | None = None


@document
class Subpath:
    """One unbroken run of nodes, open or closed."""

    nodes: Annotated[tuple[Node, ...], Rule(min_length=1)]
    closed: bool = False

    def __post_init__(self) -> None:
        if all(node.disabled for node in self.nodes):
            raise ValueError("a path keeps at least one node that is not disabled")

    @property
    def live(self) -> tuple[Node, ...]:
        """The nodes the curve passes through, in order."""
        return tuple(node for node in self.nodes if not node.disabled)

    def pairs(self) -> list[tuple[Node, Node]]:
        """Return the nodes each piece of the curve lies between."""
        live = self.live
        found = list(pairwise(live))
        return [*found, (live[-1], live[0])] if self.closed else found

    @property
    def is_deep(self) -> bool:
        return any(node.z or any(node.handle_z or ()) for node in self.nodes)

    def depths(self) -> Floats:
        """Return how far behind the path's plane the control points of its cubics lie, (n, 4)."""
        return _depths(self)

    def with_node(self, changed: Node) -> "Subpath":
        return replace(self, nodes=tuple(changed if n.id == changed.id else n for n in self.nodes))

    def segments(self) -> Floats:
        """Return its cubics (n, 4, 2); straight pieces have handles at their thirds."""
        return np.array([_cubic(a, b) for a, b in self.pairs()]).reshape(-1, 4, 2)


@document
class Provenance:
    """That a path was drawn by hand: the file of its raw take, the frame it begins at, and how it
    was smoothed.

    ``tolerance`` and ``steady`` in px, ``corner`` in degrees, ``soften`` from the hand's own
    timing, 0, to even, 1. What was drawn as the scene is ``seen_from`` above, or from its side,
    lies in the plane ``level`` px down, or to the right.
    """

    file: Annotated[str, Rule(pattern=r"^[A-Za-z0-9_-]{1,80}\.csv$")]
    start: Annotated[float, Rule(ge=-1_000_000, le=1_000_000)] = 0.0
    tolerance: Annotated[float, Rule(gt=0, le=10_000)] = 4.0
    steady: Annotated[float, Rule(ge=0, le=10_000)] = 0.0
    corner: Annotated[float, Rule(gt=0, le=180)] = 50.0
    soften: Annotated[float, Rule(ge=0, le=1)] = 0.0
    close: bool = False
    seen_from: SeenFrom = "front"
    level: Coordinate = 0.0


@document
class Leg:
    """A path as a part of one that is made of several: from its start, or ``backwards`` from its
    end; a closed one so many ``laps`` round.
    """

    id: Id
    path: Id
    backwards: bool = False
    laps: Annotated[int, Rule(ge=1, le=MOST_LAPS)] = 1


@document
class Path:
    """One live object that carries riders and can be stroked; ``colour`` is only its rail's.

    ``strength`` scales the handles of all its ``auto`` nodes. A locked path is not shaped by hand.
    ``parent`` is the group it belongs to and moves with, or none. One with ``legs`` is those paths
    one after another, where they lie or ``end_to_end``: edits hold its shape to theirs (see
    ``commands.chains``).
    """

    id: Id
    name: Name
    subpaths: Annotated[tuple[Subpath, ...], Rule(min_length=1)]
    colour: Colour | None = None
    visible: bool = True
    locked: bool = False
    strength: Share = 1.0
    drawn: Provenance | None = None
    parent: Id | None = None
    legs: Annotated[tuple[Leg, ...], Rule(max_length=MOST_LEGS)] = ()
    end_to_end: bool = False

    def held(self, to: str) -> str:
        """Return why nothing ``to`` do shapes it by hand; nothing where it may be."""
        if self.locked:
            return f"{self.name} is locked; unlock it to {to}."
        if self.legs:
            return f"{self.name} is made of other paths; shape those, or make it one of its own."
        return ""

    def nodes(self) -> tuple[Node, ...]:
        return tuple(node for subpath in self.subpaths for node in subpath.nodes)

    def node(self, node_id: str) -> Node:
        for node in self.nodes():
            if node.id == node_id:
                return node
        raise UnknownId(f"{self.name} has no node {node_id!r}.")

    def with_node(self, changed: Node) -> "Path":
        self.node(changed.id)
        return replace(self, subpaths=tuple(s.with_node(changed) for s in self.subpaths))

    @property
    def is_deep(self) -> bool:
        """Whether any of it lies out of its plane."""
        return any(subpath.is_deep for subpath in self.subpaths)

    @property
    def loops(self) -> bool:
        """Whether its end meets its start: a single closed subpath."""
        return len(self.subpaths) == 1 and self.subpaths[0].closed

    def segments(self) -> Floats:
        return np.concatenate([s.segments() for s in self.subpaths])


def _cubic(a: Node, b: Node) -> list[tuple[float, float]]:
    (ax, ay), (bx, by) = a.position, b.position
    (ox, oy), (ix, iy) = a.handle_out, b.handle_in
    if ox == oy == ix == iy == 0.0 and _is_straight_in_depth(a, b):
        # A straight line runs evenly: its handles are at its thirds.
        ox, oy = (bx - ax) / 3, (by - ay) / 3
        ix, iy = -ox, -oy
    return [(ax, ay), (ax + ox, ay + oy), (bx + ix, by + iy), (bx, by)]


def _is_straight_in_depth(a: Node, b: Node) -> bool:
    """Whether handles that a piece has in depth alone, if any, are at its thirds."""
    third, slack = (b.z - a.z) / 3, 0.01  # px
    out = third if a.handle_z is None else a.handle_z[1]
    into = -third if b.handle_z is None else b.handle_z[0]
    return abs(out - third) < slack and abs(into + third) < slack


def _depths(run: Subpath) -> Floats:
    """Return the depths of the control points of a run's cubics, (n, 4): through each node at one
    slope, per px in the plane, from both sides; none at the highest and the deepest ones, and on
    each side of a corner straight to the next node. Handles that have depths of their own keep
    them.
    """
    pairs = run.pairs()
    if not pairs:
        return np.empty((0, 4))
    first, last = np.array([[a.z, b.z] for a, b in pairs]).T
    chords = [np.subtract(b.position, a.position) for a, b in pairs]
    leaving, arriving = _slopes(
        run, last - first, np.maximum(np.hypot(*np.transpose(chords)), 1e-9)
    )
    segments = run.segments()
    # As far along as the handles reach in the plane: so the curve has one direction at a node.
    out, into = (np.hypot(*(segments[:, a] - segments[:, b]).T) for a, b in ((1, 0), (3, 2)))
    found = np.stack([first, first + leaving * out, last - arriving * into, last], axis=1)
    for piece, (a, b) in zip(found, pairs, strict=True):
        piece[1] = piece[1] if a.handle_z is None else a.z + a.handle_z[1]
        piece[2] = piece[2] if b.handle_z is None else b.z + b.handle_z[0]
    return found


STEEPEST = 3.0
"""Times the slope of a straight way to the next node."""


def _slopes(run: Subpath, rises: Floats, chords: Floats) -> tuple[Floats, Floats]:
    """Return at which slope each piece of a run leaves its first node and comes to its last one,
    (n,), which rises so far over a chord so long.
    """
    straight = rises / chords
    leaving, arriving = straight.copy(), straight.copy()
    for i, node in enumerate(run.live[: len(straight)]):
        if node.kind == "corner" or not (i or run.closed):
            continue
        before = i - 1  # of a closed run the last one
        through = 0.0
        if straight[before] * straight[i] > 0:
            through = float(np.average(straight[[before, i]], weights=chords[[i, before]]))
            # So steep that no piece goes farther than its ends (Fritsch and Carlson, 1980): where
            # nodes lie behind one another, a slope has no end.
            steepest = STEEPEST * min(abs(straight[before]), abs(straight[i]))
            through = min(max(through, -steepest), steepest)
        leaving[i] = arriving[before] = through
    return leaving, arriving


def handle_depths(run: Subpath) -> dict[str, tuple[float, float]]:
    """Return how far behind each live node, by id, its handles in and out end; 0 where the curve
    ends.
    """
    depths, found = run.depths(), {node.id: [0.0, 0.0] for node in run.live}
    for piece, (a, b) in zip(depths, run.pairs(), strict=True):
        found[a.id][1], found[b.id][0] = float(piece[1] - a.z), float(piece[2] - b.z)
    return {name: (into, out) for name, (into, out) in found.items()}


def _across(run: Subpath, following: Subpath) -> Floats:
    """Return the straight way from where one run ends to where the next begins, (1, 4, 2)."""
    last = run.live[0] if run.closed else run.live[-1]
    a, b = np.array(last.position), np.array(following.live[0].position)
    return np.stack([a, a + (b - a) / 3, b - (b - a) / 3, b])[None]


def travel_segments(subpaths: tuple[Subpath, ...], gap: Gap) -> tuple[Floats, tuple[int, ...]]:
    """Return the cubics a rider passes over, and for each node the segment that starts at it.

    With ``jump`` there is no way across a gap; else a straight one is a segment of its own.
    Nodes at the very end of a run point one past its last segment; a disabled node to where the
    next one starts.
    """
    pieces: list[Floats] = []
    starts: list[int] = []
    count = 0
    for number, subpath in enumerate(subpaths):
        own = subpath.segments()
        # How many live nodes come before each: its segment, counted from the run's first.
        live = np.array([not node.disabled for node in subpath.nodes])
        starts += (count + np.minimum(np.cumsum(live) - live, len(own))).tolist()
        pieces.append(own)
        if gap != "jump" and number + 1 < len(subpaths):
            pieces.append(_across(subpath, subpaths[number + 1]))
        count = sum(map(len, pieces))
    segments = np.concatenate(pieces) if count else np.empty((0, 4, 2))
    segments.setflags(write=False)
    return segments, tuple(starts)


def travel_depths(subpaths: tuple[Subpath, ...], gap: Gap) -> Floats | None:
    """Return the depths (n, 4) of the cubics of ``travel_segments``; None where all are 0."""
    if not any(subpath.is_deep for subpath in subpaths):
        return None
    pieces: list[Floats] = []
    for number, subpath in enumerate(subpaths):
        pieces.append(subpath.depths())
        if gap != "jump" and number + 1 < len(subpaths):
            last = subpath.live[0] if subpath.closed else subpath.live[-1]
            pieces.append(np.linspace(last.z, subpaths[number + 1].live[0].z, 4)[None])
    return np.concatenate(pieces)


def subpath_from_segments(
    segments: ArrayLike, *, closed: bool, prefix: str = "n", first: int = 1
) -> Subpath:
    """Make nodes from joined cubics.

    Shapes:     (n, 4, 2), each segment starting where the one before ends.
    Degenerate: a closed run whose end lies on its start shares that node; otherwise a straight
                piece closes it.
    Errors:     GeometryError: not finite, further out than ``FURTHEST``, handles longer than that,
                or no segments.
    """
    s = np.asarray(segments, float)
    if s.ndim != 3 or s.shape[1:] != (4, 2) or len(s) == 0:
        raise GeometryError("A path needs at least one piece between two points.")
    if not np.isfinite(s).all() or np.abs(s).max() > FURTHEST:
        raise GeometryError(
            f"A coordinate is further out than {FURTHEST:,.0f} px or is not a number."
        )
    positions = np.concatenate([s[:, 0], s[-1:, 3]])
    ins, outs = _handles(s)
    if max(np.abs(ins).max(), np.abs(outs).max()) > FURTHEST:
        raise GeometryError(f"A handle is longer than {FURTHEST:,.0f} px.")
    if closed and len(s) > 1 and _meet(positions):
        ins[0] = ins[-1]
        positions, outs, ins = positions[:-1], outs[:-1], ins[:-1]
    kinds = node_kinds(ins, outs)
    # All at once: drawings come with tens of thousands of nodes.
    rows = zip(_tuples(positions), _tuples(ins), _tuples(outs), kinds, strict=True)
    with trusted():
        nodes = [Node(f"{prefix}{first + i}", *row) for i, row in enumerate(rows)]
        return Subpath(tuple(nodes), closed)


def _handles(s: Floats) -> tuple[Floats, Floats]:
    """Return the handles in and out at the ends of joined cubics, none where these are straight."""
    outs = np.concatenate([s[:, 1] - s[:, 0], [[0, 0]]])
    ins = np.concatenate([[[0, 0]], s[:, 2] - s[:, 3]])
    straight = are_thirds(s)
    outs[:-1][straight], ins[1:][straight] = 0.0, 0.0
    return ins, outs


def _meet(positions: Floats) -> bool:
    """Whether the last of some places is the first one again."""
    size = float(np.ptp(positions, axis=0).max())
    return bool(np.abs(positions[0] - positions[-1]).max() <= 1e-9 * max(size, 1.0))


def _tuples(points: Floats) -> list[Vec2]:
    return [(x, y) for x, y in points.tolist()]


def are_thirds(s: Floats) -> NDArray[np.bool_]:
    """Whether pieces (n, 4, 2) are the straight lines that ``_cubic`` makes of nodes without
    handles.
    """
    step = (s[:, 3] - s[:, 0]) / 3
    slack = 1e-9 * np.maximum(np.abs(s).max(axis=(1, 2)), 1.0)
    even = s[:, None, 0] + step[:, None] * np.arange(4)[:, None]
    return np.asarray(np.abs(s - even).max(axis=(1, 2)) <= slack)


def node_kind(handle_in: ArrayLike, handle_out: ArrayLike) -> NodeKind:
    """Return what two handles make of their node (see ``node_kinds``)."""
    a, b = np.asarray(handle_in, float), np.asarray(handle_out, float)
    return node_kinds(a[None], b[None])[0]


def node_kinds(ins: Floats, outs: Floats) -> list[NodeKind]:
    """Return what handles (n, 2) make of their nodes: in line within 0.1 degrees is smooth."""
    la, lb = np.hypot(*ins.T), np.hypot(*outs.T)
    across = np.abs(ins[:, 0] * outs[:, 1] - ins[:, 1] * outs[:, 0])
    bent = ((ins * outs).sum(axis=1) > 0) | (across > 1.7e-3 * la * lb) | (la == 0) | (lb == 0)
    even = np.abs(la - lb) <= 1e-3 * np.maximum(la, lb)
    kinds: list[NodeKind] = np.where(bent, "corner", np.where(even, "even", "smooth")).tolist()
    return kinds


def transformed(subpaths: Iterable[Subpath], matrix: ArrayLike) -> tuple[Subpath, ...]:
    """Map whole subpaths by one affine matrix; handles turn and stretch with them."""
    linear = np.asarray(matrix, float).copy()
    linear[4:] = 0.0
    return tuple(_moved(subpath, matrix, linear) for subpath in subpaths)


def _moved(subpath: Subpath, matrix: ArrayLike, linear: ArrayLike) -> Subpath:
    nodes = subpath.nodes
    position = _tuples(affine.apply(matrix, [n.position for n in nodes]))
    ins = _tuples(affine.apply(linear, [n.handle_in for n in nodes]))
    outs = _tuples(affine.apply(linear, [n.handle_out for n in nodes]))
    moved = (
        replace(node, position=p, handle_in=a, handle_out=b)
        for node, p, a, b in zip(nodes, position, ins, outs, strict=True)
    )
    return replace(subpath, nodes=tuple(moved))


def bounds(subpaths: Iterable[Subpath]) -> tuple[float, float, float, float]:
    """Return (left, top, right, bottom) in px; a lone point has no extent."""
    pieces = [s.segments() if len(s.live) > 1 or s.closed else _point(s) for s in subpaths]
    return bezier.bounds(np.concatenate(pieces))


def _point(subpath: Subpath) -> Floats:
    return np.tile(np.array(subpath.live[0].position, float), (1, 4, 1))
