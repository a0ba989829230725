"""The tree of layers: one flat tuple in painting order, in which members lie right behind their
group.

A layer and a path have a ``parent``, a group, or none. Here, and nowhere else, is the rule checked.
"""

from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import TYPE_CHECKING

from coaster.errors import UnknownId
from coaster.scene.carriers import LONGEST_CHAIN, Carrier

if TYPE_CHECKING:
    from coaster.geometry.path import Path
    from coaster.scene.document import Layer, Scene

DEEPEST = 40
"""Groups in groups, at most."""


def members(layers: Iterable["Layer"], group_id: str | None) -> tuple["Layer", ...]:
    """Return the layers right inside a group, or the outermost ones, from the back to the front."""
    return tuple(layer for layer in layers if layer.parent == group_id)


def span_of(layers: Sequence["Layer"], layer_id: str) -> slice:
    """Return where a layer lies in the order; of a group, with all that is inside it.

    Errors: UnknownId.
    """
    place = next((i for i, layer in enumerate(layers) if layer.id == layer_id), None)
    if place is None:
        raise UnknownId(f"The scene has no layer {layer_id!r}.")
    inside, begin = {layer_id}, place
    while begin > 0 and layers[begin - 1].parent in inside:
        begin -= 1
        inside.add(layers[begin].id)
    return slice(begin, place + 1)


def ancestors(scene: "Scene", parent: str | None) -> list["Layer"]:
    """Return the groups from ``parent`` outwards."""
    found = []
    while parent is not None:
        found.append(scene.layer(parent))
        parent = found[-1].parent
    return found


def is_inside(scene: "Scene", parent: str | None, group_id: str) -> bool:
    """Whether a thing with this ``parent`` lies in a group, at any depth."""
    return any(group.id == group_id for group in ancestors(scene, parent))


def sorts(scene: "Scene", parent: str | None) -> bool:
    """Whether the members of a group, or the outermost ones, are drawn by their depth."""
    if parent is None:
        return scene.by_depth
    return bool(getattr(scene.layer(parent).content, "by_depth", False))


def is_visible(scene: "Scene", layer: "Layer") -> bool:
    """Whether a layer is shown: neither hidden itself nor by a group."""
    return layer.visible and all(group.visible for group in ancestors(scene, layer.parent))


def is_guide(scene: "Scene", layer: "Layer") -> bool:
    """Whether a layer, or a group it is in, is only seen while working."""
    return layer.guide or any(group.guide for group in ancestors(scene, layer.parent))


def is_drawn(scene: "Scene", layer: "Layer") -> bool:
    """Whether a layer is in the picture."""
    return is_visible(scene, layer) and not is_guide(scene, layer)


def check(layers: Sequence["Layer"], paths: Sequence["Path"]) -> None:
    """Hold the rules of the tree, in linear time.

    Errors: ValueError in words: a parent that is no group, a member away from its group, groups
            too deep in groups, or a circle of what depends on what.
    """
    groups = {layer.id for layer in layers if layer.content.can.hold}
    for name, parent in parents_of(layers, paths):
        if parent is not None and parent not in groups:
            raise ValueError(f"{name} cannot be in {parent!r}, which is not a group of the scene")
    open_groups: list[str] = []
    for layer in reversed(layers):
        while open_groups and open_groups[-1] != layer.parent:
            open_groups.pop()
        if layer.parent is not None and not open_groups:
            raise ValueError(f"{layer.name} does not lie right behind the group it is in")
        if layer.id in groups:
            open_groups.append(layer.id)
        if len(open_groups) > DEEPEST:
            raise ValueError(f"{layer.name} lies more than {DEEPEST} groups deep")
    if groups or any(layer.carrier or layer.follows for layer in layers):
        _check_circles(layers, paths)
        _check_chains(layers)


def parents_of(
    layers: Iterable["Layer"], paths: Iterable["Path"]
) -> Iterator[tuple[str, str | None]]:
    """Yield the name and the group of all that may be in one."""
    for layer in layers:
        yield layer.name, layer.parent
    for path in paths:
        yield path.name, path.parent


Node = tuple[str, str]
"""("map", layer): where a layer is drawn; ("spot", layer): where its anchor is in its parent."""


def _check_circles(layers: Sequence["Layer"], paths: Sequence["Path"]) -> None:
    by_id = {layer.id: layer for layer in layers}
    path_parents = {path.id: path.parent for path in paths}

    def depends(node: Node) -> Iterator[Node]:
        """Yield what has to be known before; the names of the two sides are in words below."""
        layer = by_id[node[1]]
        # What it follows may be any of its numbers, so all of it waits for all of that.
        yield from _maps(*(follow.layer for follow in layer.follows))
        if node[0] == "map":
            yield ("spot", layer.id)
            yield from _maps(layer.parent)
            target = layer.ride.facing.looks_at() if layer.ride else None
            if target in by_id:
                yield ("spot", target)
                yield from _maps(by_id[target].parent)
        elif layer.carrier is not None:
            yield from _of_carried(layer, layer.carrier, by_id[layer.carrier.layer])
        elif layer.ride is not None:
            rail = path_parents.get(layer.ride.path)
            # A rail in the rider's own group needs no map: both move alike.
            if rail != layer.parent:
                yield from _maps(rail, layer.parent)

    found = circle(((kind, layer.id) for layer in layers for kind in ("map", "spot")), depends)
    if found:
        raise ValueError(_in_words(list(dict.fromkeys(by_id[node[1]].name for node in found))))


def _maps(*ids: str | None) -> Iterator[Node]:
    return (("map", one) for one in ids if one is not None)


def _of_carried(layer: "Layer", how: Carrier, carrier: "Layer") -> Iterator[Node]:
    """Yield what the spot of a layer depends on that another one takes along."""
    yield ("map" if how.turn or how.scale else "spot", carrier.id)
    if carrier.parent != layer.parent:
        yield from _maps(carrier.parent, layer.parent)


def _in_words(names: Sequence[str]) -> str:
    words = "itself" if len(names) == 1 else f"each other: {', '.join(names)}"
    return (
        f"{names[0]} would ride, look at, follow or be carried by what depends on it; they move"
        f" with {words}"
    )


def _check_chains(layers: Sequence["Layer"]) -> None:
    """Errors: ValueError: carriers carried by carriers, in a row that is too long."""
    carriers = {layer.id: layer.carrier.layer for layer in layers if layer.carrier}
    for layer in layers:
        carried, count = layer.id, 0
        while carried in carriers and count <= LONGEST_CHAIN:
            carried, count = carriers[carried], count + 1
        if count > LONGEST_CHAIN:
            raise ValueError(f"{layer.name} is carried by more than {LONGEST_CHAIN} in a row")


def circle(nodes: Iterable[Node], depends: Callable[[Node], Iterable[Node]]) -> list[Node]:
    """Return nodes that depend on each other in a ring, or none; no recursion, so that depth is
    free.
    """
    done: set[Node] = set()
    for first in nodes:
        if first in done:
            continue
        way, on_way = [first], {first}
        ahead = [iter(depends(first))]
        while way:
            step = next(ahead[-1], None)
            if step is None:
                ahead.pop()
                on_way.discard(way[-1])
                done.add(way.pop())
            elif step in on_way:
                return way[way.index(step) :]
            elif step not in done:
                way.append(step)
                on_way.add(step)
                ahead.append(iter(depends(step)))
    return []
