"""Chains: paths made of others, one after another."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace

from coaster.geometry import affine, arrange
from coaster.geometry.path import Leg, Node, Path, Subpath, node_kind, transformed

MEETING = 0.01
"""Ends closer than this, px, are one place: the way goes on there without a gap."""
LONGEST_ID = 40


def chained(
    legs: Sequence[Leg], known: Mapping[str, Path], *, end_to_end: bool
) -> tuple[Subpath, ...]:
    """Return the runs of paths one after another, where they lie or each moved to where the one
    before ends; those that meet there are one run, which is closed where its end meets its start.

    Nodes have ids of their own by their leg and their path's node, so that a peg stays on one
    whatever is done to the others. A closed path becomes a run that ends where it began.
    """
    runs: list[Subpath] = []
    for leg in legs:
        own = tuple(_runs(leg, known[leg.path]))
        if runs and end_to_end:
            (ax, ay), (bx, by) = runs[-1].nodes[-1].position, own[0].nodes[0].position
            own = transformed(own, affine.translation(ax - bx, ay - by))
        for run in own:
            if runs and _meet(runs[-1].nodes[-1], run.nodes[0]):
                runs[-1] = _joined(runs[-1], run)
            else:
                runs.append(run)
    return (_closed(runs[0]),) if len(runs) == 1 else tuple(runs)


def _runs(leg: Leg, path: Path) -> Iterator[Subpath]:
    """Yield the runs of a leg; nodes that are passed by are no part of it."""
    turned = arrange.reversed_path(path) if leg.backwards else path
    for run in turned.subpaths:
        laps = leg.laps if path.loops else 1
        nodes = [_named(leg, node, lap) for lap in range(laps) for node in run.live]
        if run.closed:
            nodes.append(_named(leg, run.live[0], laps))
        yield Subpath(tuple(nodes))


def _named(leg: Leg, node: Node, lap: int) -> Node:
    return replace(
        node,
        id=node_id(leg, node.id, lap),
        # What it is by itself: it has no neighbours here whose places it would go by.
        kind=node_kind(node.handle_in, node.handle_out),
        weight=1.0,
        locked=False,
    )


def node_id(leg: Leg, name: str, lap: int = 0) -> str:
    """Return the id that a node of a leg's path has in the chain, on a lap from 0 on."""
    return f"{leg.id}_{lap + 1}-{name}"[:LONGEST_ID] if lap else f"{leg.id}-{name}"[:LONGEST_ID]


def parts_of(chain: Path, known: Mapping[str, Path]) -> list[tuple[str, str] | None]:
    """Return of each node of a chain whose it is: the id of that path, and of its node; None where
    that is not there any more.
    """
    owners = {
        node_id(leg, node.id, lap): (leg.path, node.id)
        for leg in chain.legs
        if leg.path in known
        for node in known[leg.path].nodes()
        for lap in range(leg.laps + 1)
    }
    return [owners.get(node.id) for node in chain.nodes()]


def _meet(one: Node, other: Node) -> bool:
    (ax, ay), (bx, by) = one.position, other.position
    return abs(ax - bx) <= MEETING and abs(ay - by) <= MEETING


def _joined(run: Subpath, following: Subpath) -> Subpath:
    last, first = run.nodes[-1], following.nodes[0]
    kind = node_kind(last.handle_in, first.handle_out)
    joint = replace(last, handle_out=first.handle_out, kind=kind)
    return Subpath((*run.nodes[:-1], joint, *following.nodes[1:]))


def _closed(run: Subpath) -> Subpath:
    """Return a run closed where its end meets its start."""
    first, last = run.nodes[0], run.nodes[-1]
    if len(run.nodes) < 3 or not _meet(first, last):
        return run
    kind = node_kind(last.handle_in, first.handle_out)
    return Subpath(
        (replace(first, handle_in=last.handle_in, kind=kind), *run.nodes[1:-1]), closed=True
    )
