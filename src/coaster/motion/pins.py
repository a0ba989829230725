"""Place it here, then there: a rider put somewhere at a time makes a node of its path and a peg on
it.
"""

import math
from dataclasses import replace

import numpy as np

from coaster.errors import EditRefused
from coaster.geometry import nodes
from coaster.geometry.path import Node, Path, Subpath
from coaster.ids import fresh_id
from coaster.motion.distance import Way
from coaster.motion.easing import Pace
from coaster.motion.pegs import peg_at, with_peg
from coaster.motion.ride import AtNode, AtPercent, Peg, Ride
from coaster.motion.sections import paced

NOWHERE = 1e-6
"""The share of a path's length within which two pegs are in one place."""
NEAR_PX = 12.0
"""Px of way within which a peg that is put on a node takes one that is there."""
SAME_PLACE = 0.5
"""Px within which the place before or after is meant again: the rider rests there."""


Spot = tuple[float, float, float]
"""A place of the px of a path, with its depth."""


def begun(
    path_id: str, name: str, first: tuple[float, Spot], then: tuple[float, Spot], pace: Pace
) -> tuple[Path, Ride]:
    """Return the path and the ride through two places, each a time (frames) and a point (px)."""
    (t0, p0), (t1, p1) = sorted([first, then])
    if p0 == p1:
        raise EditRefused("Both places are the same; a path needs two.")
    run = Subpath((_node_on("n1", p0), _node_on("n2", p1)))
    pegs = (Peg("peg", t0, AtNode("n1")), Peg("peg-2", t1, AtNode("n2")))
    return nodes.with_auto_handles(Path(path_id, name, (run,))), Ride(path_id, paced(pegs, pace))


def _node_on(node_id: str, point: Spot) -> Node:
    return Node(node_id, point[:2], kind="auto", z=point[2])


def pinned(
    path: Path, ride: Ride, time: float, point: Spot, pace: Pace
) -> tuple[Path, tuple[Peg, ...]]:
    """Return the path and the pegs with the rider at a point (px) at a time (frames).

    A peg at that time takes its node along; between two pegs a node is put into the curve, whose
    other nodes stay; before and after the ride the path gets longer. All pegs then stand on nodes,
    so that those pinned before stay where they are.

    Errors: EditRefused: the path is locked or in several runs, the rider is shifted along it, or
    the
            time lies outside a ride that goes all round.
    """
    _check_pinnable(path, ride)
    path, pegs = on_nodes(path, ride)
    here = peg_at(pegs, time)
    if here is None and ride.start < time < ride.end:
        pegs = with_peg(Way(path, replace(ride, pegs=pegs)), time)
        here = peg_at(pegs, time)
        assert here is not None  # noqa: S101 - it was just put in
        path, pegs = _between(path, replace(ride, pegs=pegs), here)
        here = peg_at(pegs, time)
    if here is None:
        return _beyond(path, pegs, time, point, pace)
    assert isinstance(here.place, AtNode)  # noqa: S101 - by now all pegs stand on nodes
    return _with_node_moved(path, here.place.node, point), pegs


def _check_pinnable(path: Path, ride: Ride) -> None:
    if held := path.held("pin places on it"):
        raise EditRefused(held)
    if len(path.subpaths) > 1:
        raise EditRefused(
            f"{path.name} has several runs; pins need one. Join them, or give the rider a path of"
            " its own."
        )
    if ride.offset:
        raise EditRefused(
            "The rider is shifted along its path; set the shift to 0 % to pin places."
        )


def _with_node_moved(path: Path, node_id: str, to: Spot) -> Path:
    node = path.node(node_id)
    if node.locked:
        raise EditRefused("The node there is locked; unlock it to pin the rider elsewhere.")
    by = (to[0] - node.position[0], to[1] - node.position[1])
    return nodes.with_nodes(path, {node.id: nodes.moved(node, by, to[2] - node.z)})


def on_nodes(
    path: Path, ride: Ride, only: str = "", near: float = 0.0
) -> tuple[Path, tuple[Peg, ...]]:
    """Return the path and the pegs with each peg, or ``only`` one, on a node: on one that is there
    within so many px of way, or on a new one, which leaves the curve as it is.

    Errors: EditRefused: a peg stands before an open path's start or past its end, where no node can
    be.
    """
    pegs = ride.pegs
    for peg in ride.pegs:
        if isinstance(peg.place, AtPercent) and only in ("", peg.id):
            # Distances stay as they are when nodes are put in, so the shares do, too.
            path, place = _node_at(path, replace(ride, pegs=pegs), peg.place.percent, near)
            pegs = tuple(replace(p, place=place) if p.id == peg.id else p for p in pegs)
    return path, pegs


def _node_at(path: Path, ride: Ride, percent: float, near: float) -> tuple[Path, AtNode]:
    way = Way(path, ride)
    if not way.length:
        return path, AtNode(path.nodes()[0].id)
    laps = float(np.floor(percent / 100 + 1e-9))
    distance = (percent / 100 - laps) * way.length
    if not way.loops:
        laps, distance = 0.0, percent / 100 * way.length
    # Of a loop the first node is also where the lap ends.
    live = [
        (abs(float(d) + lap * way.length - distance), node.id, lap)
        for node, d in zip(path.nodes(), way.node_distances(), strict=True)
        for lap in range(1 + way.loops)
        if not node.disabled
    ]
    away, there, lap = min(live)
    if away <= max(near, 1e-6 * way.length):
        return path, AtNode(there, round(laps) + lap)
    if not 0 <= distance <= way.length:
        raise EditRefused(f"A peg at {percent:g} % lies off the path, where no node can be.")
    places = way.measure.locate([distance])
    segment = int(places.segment[0])
    if segment in way.gaps:
        raise EditRefused(f"A peg at {percent:g} % lies in a gap, where no node can be.")
    own = segment - int(np.searchsorted(way.gaps, segment))
    path, made = nodes.with_node_at(path, own, float(places.parameter[0]))
    return path, AtNode(made, round(laps))


def _between(path: Path, ride: Ride, peg: Peg) -> tuple[Path, tuple[Peg, ...]]:
    """Put the node of a new peg between; where both neighbours are ``auto``, it is, and the curve
    goes on so.
    """
    at = ride.pegs.index(peg)
    way = Way(path, ride)
    earlier, later = (way.distance(ride.pegs[i].place) for i in (at - 1, at + 1))
    # In one place, on one node or on two that lie on each other, there is no curve to put a node
    # into.
    if abs(later - earlier) <= NOWHERE * way.length:
        raise EditRefused(
            "The rider rests there at that time; pin it at the rest's end, or take the rest out"
            " first."
        )
    after, pegs = on_nodes(path, ride, peg.id)
    return _auto_among_auto(path, after), pegs


def _auto_among_auto(path: Path, after: Path) -> Path:
    """Make a node that was put in ``auto``, and its neighbours so again, if these were; to put it
    in without changing the curve, all of them have been given handles of their own.
    """
    before = {node.id: node for node in path.nodes()}
    run = after.subpaths[0].nodes
    at = next((i for i, node in enumerate(run) if node.id not in before), None)
    if at is None:
        return after
    beside = [run[at - 1].id, run[(at + 1) % len(run)].id]
    if any(before[name].kind != "auto" for name in beside):
        return after
    three = (run[at].id, *beside)
    kept = tuple(replace(node, kind="auto") if node.id in three else node for node in run)
    shaped = nodes.with_subpath(after, 0, replace(after.subpaths[0], nodes=kept))
    return nodes.with_auto_handles(shaped)


def _beyond(
    path: Path, pegs: tuple[Peg, ...], time: float, point: Spot, pace: Pace
) -> tuple[Path, tuple[Peg, ...]]:
    """Make the path longer, at its end or its start, for a time after the ride or before it."""
    run, later = path.subpaths[0], time > pegs[-1].time
    edge = pegs[-1] if later else pegs[0]
    assert isinstance(edge.place, AtNode)  # noqa: S101 - by now all pegs stand on nodes
    beside = path.node(edge.place.node)
    made_id = fresh_id("peg", {peg.id for peg in pegs})
    if math.dist(point, (*beside.position, beside.z)) <= SAME_PLACE:
        return path, _added(pegs, Peg(made_id, time, edge.place), pace)
    if run.closed:
        raise EditRefused(
            f"{path.name} is closed: its ride comes round already. Pin the rider at a time"
            " within it."
        )
    fresh = _node_on(nodes.fresh_node_ids(path, 1)[0], point)
    longer = (*run.nodes, fresh) if later else (fresh, *run.nodes)
    path = nodes.with_auto_handles(nodes.with_subpath(path, 0, replace(run, nodes=longer)))
    return path, _added(pegs, Peg(made_id, time, AtNode(fresh.id)), pace)


def _added(pegs: tuple[Peg, ...], made: Peg, pace: Pace) -> tuple[Peg, ...]:
    """Put a peg after the last or before the first, its section at a pace."""
    if made.time > pegs[-1].time:
        last, new = paced((pegs[-1], made), pace)
        return (*pegs[:-1], replace(last, arrive=pegs[-1].arrive), new)
    new, first = paced((made, pegs[0]), pace)
    return (new, replace(first, leave=pegs[0].leave, step=pegs[0].step), *pegs[1:])
