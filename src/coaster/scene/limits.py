"""How large a scene may grow: asked before anything is worked out of it.

Scenes that are larger already stay as they are and can be made smaller.
"""

from math import prod

from coaster.errors import EditRefused
from coaster.scene import tree
from coaster.scene.contents import as_text
from coaster.scene.document import Layer, Scene

MOST_NODES = 60_000
"""In all paths of a scene together."""
MOST_LAYERS = 5_000
MOST_MOVES = 6_000_000
"""Layers that move, times the frames they are told for: about 1 GB where all is worked out."""


MOST_PARTICLES = 30_000
"""Of all wakes, at once."""


def check_growth(before: Scene | None, after: Scene) -> None:
    """Errors: EditRefused: an edit makes a scene larger than it may be; None for a new one."""
    limits = (MOST_LAYERS, MOST_NODES, MOST_MOVES, MOST_PARTICLES)
    sizes, had = _sizes(after), _sizes(before) if before else (0, 0, 0, 0)
    for words, most, size, was in zip(_WORDS, limits, sizes, had, strict=True):
        if size > max(most, was):
            raise _too_many(size, words, most)


def check_nodes(scene: Scene, more: int) -> None:
    """Asked before they are made. Errors: EditRefused: with so many more there are too many."""
    size = _sizes(scene)[1] + more
    if size > MOST_NODES:
        raise _too_many(size, _WORDS[1], MOST_NODES)


_WORDS = "layers", "nodes in its paths", "moving layers times frames", "particles at once"


def _too_many(size: int, words: str, most: int) -> EditRefused:
    return EditRefused(
        f"That would be {size:,} {words}; a scene may have {most:,}. It is as it was: take fewer of"
        " them, or make two scenes of it."
    )


def drawn_layers(scene: Scene) -> tuple[int, int, int]:
    """Return how many layers are drawn with a scene, copies included, how many of them move, and
    how many particles there are of wakes: its own, and those of the scenes it shows as often as it
    shows them.
    """
    inside = {each.id: each.scene for each in scene.scenes}
    known: dict[str, tuple[int, int, int]] = {}

    def count(of: Scene) -> tuple[int, int, int]:
        times = {x.id: _times(of, x) for x in of.layers}
        drawn = sum(_riders(x) * times[x.id] for x in of.layers)
        moving = sum(_riders(x) * times[x.id] for x in of.layers if _moves(x))
        left = sum(x.wake.most_alive for x in of.layers if x.wake)
        for shown in (layer.content.scene_id() for layer in of.layers):
            if shown in inside:
                more = known[shown] = known.get(shown) or count(inside[shown])
                drawn, moving, left = drawn + more[0], moving + more[1], left + more[2]
        return drawn, moving, left

    return count(scene)


def _moves(layer: Layer) -> bool:
    return bool(layer.ride or layer.keys or layer.wake or layer.accents or layer.follows)


def _times(scene: Scene, layer: Layer) -> int:
    """Return how often a layer is drawn, as groups around it are that have copies."""
    return prod(_riders(group) for group in tree.ancestors(scene, layer.parent))


def _riders(layer: Layer) -> int:
    copies = layer.ride.copies if layer.ride else None
    if layer.rides_in_parts and (text := as_text(layer.content)) is not None:
        return 1 + len(text.text)
    return copies.count if copies else 1


def _sizes(scene: Scene) -> tuple[int, int, int, int]:
    nodes = sum(len(subpath.nodes) for path in scene.paths for subpath in path.subpaths)
    drawn, moving, left = drawn_layers(scene)
    return drawn, nodes, moving * scene.length, left
