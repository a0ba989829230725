"""View boxes for small drawings of paths and layers."""

from collections.abc import Sequence

from coaster.geometry import path as paths
from coaster.geometry.path import Subpath
from coaster.render.outlines import Face


def view_box(subpaths: Sequence[Subpath]) -> str:
    """Return a view box round a path, with room for its stroke."""
    left, top, right, bottom = paths.bounds(subpaths)
    room = max(right - left, bottom - top, 1e-6) * 0.05
    return f"{left - room:g} {top - room:g} {right - left + 2 * room:g} {bottom - top + 2 * room:g}"


def square_round(face: Face) -> str:
    """Return a square view box round what a layer looks like."""
    x, y, width, height = face.box
    side = max(width, height, 1e-6) * 1.1
    return f"{x + (width - side) / 2:g} {y + (height - side) / 2:g} {side:g} {side:g}"
