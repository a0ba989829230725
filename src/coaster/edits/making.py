"""New layers and paths, with ids and names that the scene does not have yet."""

from collections.abc import Iterable
from dataclasses import replace

from coaster.commands.layers import FRONT, place_of
from coaster.geometry.path import Path, Provenance, Subpath
from coaster.ids import fresh_id, fresh_name
from coaster.scene import tree
from coaster.scene.contents import Kind
from coaster.scene.document import Layer, Scene, Transform

LONGEST_NAME = 72
"""Characters of a name that leave room for a number behind it."""


def new_path(
    scene: Scene,
    title: str,
    subpaths: tuple[Subpath, ...],
    *,
    drawn: Provenance | None = None,
    besides: Iterable[Path] = (),
) -> Path:
    """Return a path with an id and a name of its own; ``besides`` are others that are new
    as well.
    """
    path_id, name = path_names((*scene.paths, *besides), title)
    return Path(path_id, name, subpaths, drawn=drawn)


def path_names(known: Iterable[Path], title: str) -> tuple[str, str]:
    """Return an id and a name for a path besides others."""
    there = list(known)
    name = fresh_name(title[:LONGEST_NAME], {path.name for path in there})
    return fresh_id(name, {path.id for path in there}, "path"), name


def like_path(scene: Scene, title: str, path: Path) -> Path:
    """Return a path like another, as a new one."""
    fresh = new_path(scene, title, path.subpaths)
    return replace(path, id=fresh.id, name=fresh.name)


def new_layer(scene: Scene, title: str, content: Kind, transform: Transform) -> Layer:
    name = fresh_name(title[:LONGEST_NAME], {layer.name for layer in scene.layers})
    layer_id = fresh_id(name, {layer.id for layer in scene.layers}, "layer")
    return Layer(layer_id, name, content, transform)  # type: ignore[arg-type]  # every kind is a content


def behind_riders(scene: Scene, path: Path) -> int:
    """Return the place among the outermost layers just behind whatever rides a path, or the
    front.
    """
    outermost = [_outermost(scene, rider) for rider in scene.riders_of(path.id)]
    return min((place_of(scene, layer.id) for layer in outermost), default=FRONT)


def _outermost(scene: Scene, layer: Layer) -> Layer:
    return (tree.ancestors(scene, layer.parent) or [layer])[-1]
