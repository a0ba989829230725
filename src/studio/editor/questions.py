"""What a person is asked about a file that could become several things. Read apart from the server,
so it knows nothing of it.
"""

from dataclasses import dataclass

import numpy as np

from coaster.formats import pathdata, svg
from coaster.formats import takes as files
from coaster.geometry import path as paths
from coaster.geometry.bezier import Floats
from studio.editor.views_of import view_box

MOST_SHOWN, MOST_SAID, MOST_DRAWN = 200, 4, 4000


@dataclass(frozen=True)
class Choice:
    """One shape of a drawing, as the person is asked about it."""

    index: int
    name: str
    data: str
    view: str
    nodes: int
    pieces: int
    closed: bool


@dataclass(frozen=True)
class Question:
    """A drawing that could become paths or a picture."""

    name: str
    width: float
    height: float
    choices: list[Choice]
    not_listed: int
    larger: bool
    stored: bool
    """Whether the choices are what it stores, as it shows none."""
    left_out: tuple[str, ...]


def of_drawing(data: bytes, name: str, width: float, height: float) -> Question:
    """Return what to ask about a drawing that is to go into a frame of this size, px.

    Errors: FormatError: it cannot be read.
    """
    # Read again when it is answered: nothing is kept of a question that is left.
    drawing = svg.read(data, tolerance=pathdata.EDITING_TOLERANCE)
    offered = drawing.offered()
    found = [_choice(i, shape) for i, shape in enumerate(offered[:MOST_SHOWN])]
    larger = drawing.width > width or drawing.height > height
    not_listed, stored = max(len(offered) - MOST_SHOWN, 0), not drawing.shapes
    said = drawing.left_out[:MOST_SAID]
    if len(drawing.left_out) > MOST_SAID:
        said = (*said, f"{len(drawing.left_out) - MOST_SAID} more parts could not be read whole.")
    return Question(name, drawing.width, drawing.height, found, not_listed, larger, stored, said)


def _choice(index: int, shape: svg.SvgShape) -> Choice:
    closed = all(closed for _, closed in shape.runs)
    # An open run has a node more than pieces.
    nodes = sum(len(cubics) + (not closed) for cubics, closed in shape.runs)
    shown = pathdata.subpaths(_few(shape.runs))
    return Choice(
        index,
        shape.id or f"{shape.tag} {index + 1}",
        pathdata.to_path_data(shown),
        view_box(shown),
        nodes,
        len(shape.runs),
        closed,
    )


def _few(runs: tuple[pathdata.Run, ...]) -> tuple[pathdata.Run, ...]:
    """Return runs as they are or, of very many pieces, one in so many and straight: enough for a
    drawing of the size of a stamp.
    """
    step = sum(len(cubics) for cubics, _ in runs) // MOST_DRAWN + 1
    if step == 1:
        return runs
    return tuple((_straight(cubics[::step, 0], cubics[-1, 3]), closed) for cubics, closed in runs)


def _straight(starts: Floats, end: Floats) -> Floats:
    corners = np.concatenate([starts, end[None]])
    a, b = corners[:-1], corners[1:]
    return np.stack([a, a + (b - a) / 3, b - (b - a) / 3, b], axis=1)


@dataclass(frozen=True)
class TakeQuestion:
    """A file of samples, as the person is asked about its units: its figures as they stand, and a
    drawing of it.
    """

    name: str
    samples: int
    duration: float
    left: float
    top: float
    width: float
    height: float
    data: str
    view: str
    unit: files.Unit


def of_table(data: bytes, name: str) -> TakeQuestion:
    """Return what to ask about a file of samples.

    Errors: FormatError with the row; EditRefused: too few, or no movement.
    """
    table = files.read(text_of(data))
    take = table.take(files.Units(1.0))
    (left, top), (right, bottom) = take.places.min(axis=0), take.places.max(axis=0)
    # For a drawing of the size of a stamp.
    few = take.places[:: max(1, len(take.places) // 400)]
    run = paths.subpath_from_segments(
        np.stack([few[:-1], few[:-1], few[1:], few[1:]], axis=1)
        if len(few) > 1
        else take.places[[[0, 0, -1, -1]]],
        closed=False,
    )
    return TakeQuestion(
        name, len(take.times), take.duration, left, top, right - left, bottom - top,
        pathdata.to_path_data((run,)), view_box((run,)), table.unit,
    )  # fmt: skip


def text_of(data: bytes) -> str:
    """Return the text of a file of samples; what is no text in it is found when it is read."""
    return data.decode("utf-8-sig", errors="replace")
