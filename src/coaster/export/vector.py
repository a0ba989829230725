"""A scene as one file of vectors that moves by itself: SVG, or a page that holds one."""

import base64
import os
from dataclasses import replace
from html import escape
from pathlib import Path as File
from xml.sax.saxutils import quoteattr  # writes only

import numpy as np

from coaster.errors import MediaError
from coaster.export.drawers import FolderSource
from coaster.export.orders import Order
from coaster.geometry import maps
from coaster.media import found
from coaster.media.moving import is_moving
from coaster.media.pictures import encoded_png
from coaster.media.writing import Kind, part_of
from coaster.render import svg_moving
from coaster.render.display import Crowd, Item, Part, Program, Push, one_by_one, program_of
from coaster.render.evaluate import Evaluation
from coaster.render.svg_masks import is_sayable
from coaster.scene.contents import as_line
from coaster.scene.document import Layer, Scene

TYPES = {".png": "image/png", ".jpg": "image/jpeg", ".jpeg": "image/jpeg", ".webp": "image/webp"}
PAGE = """<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>{title}</title>
<style>html, body {{ height: 100%; margin: 0; background: {ground} }}
svg {{ display: block; width: 100%; height: 100% }}</style></head>
<body>
{svg}</body></html>
"""


MOST = 1000
"""Of a crowd in such a file: each of them is told for every frame."""


def left_out(scene: Scene) -> list[str]:
    """Return what such a file cannot hold of a scene, in a sentence for each layer."""
    names = {layer.id: layer.name for layer in scene.layers}

    def called(step: Item | Crowd | Push) -> str:
        return names.get(step.name.split(".")[0], step.name)

    told: dict[str, None] = {}
    for step in program_of(Evaluation(scene)).steps:
        if isinstance(step, Crowd) and step.many.lanes > MOST:
            told[f"Of what {called(step)} leaves behind or repeats, {MOST:,} are shown."] = None
        elif isinstance(step, Push) and step.cover is not None and not is_sayable(step.cover):
            told[f"{called(step)} is shown without its mask, which is in perspective."] = None
        elif isinstance(step, Item | Crowd) and not maps.is_flat(_maps_of(step)):
            told[f"{called(step)} is left out: it is in perspective."] = None
        elif isinstance(step, Part) and len(step.away) > 1:
            told["What passes in front of others stays in the order of the first frame."] = None
        elif isinstance(step, Item) and step.faces.first.picture and not step.faces.still:
            told[f"{called(step)} stands still: footage does not move in such a file."] = None
    told |= {f"{each.name} does not fade in such a file.": None for each in _fading(scene)}
    return list(told)


def _maps_of(step: Item | Crowd) -> maps.Maps:
    return step.maps if isinstance(step, Item) else step.at(np.zeros(1, np.intp))[0]


def _fading(scene: Scene) -> list[Layer]:
    """Return the lines that fade: of every frame, such a file would hold all steps of that."""
    lines = ((layer, as_line(layer.content)) for layer in scene.layers)
    return [layer for layer, line in lines if line is not None and line.fade < 1]


def _even(scene: Scene) -> Scene:
    """Return a scene whose lines are as strong everywhere."""
    fading = _fading(scene)
    lines = (as_line(layer.content) for layer in fading)
    even = [replace(line, fade=1.0) for line in lines if line is not None]
    return scene.with_layers(
        replace(layer, content=line) for layer, line in zip(fading, even, strict=True)
    )


def write(scene: Scene, folder: File, out: File, order: Order, kind: Kind) -> None:
    """Write a scene, which has what is to be behind it, to ``out``, which appears when it is whole.

    Errors: MediaError: a picture is missing, or the
            disk refused; EditRefused: something changes in a way that cannot be told.
    """
    found.look_in(folder)
    program = program_of(Evaluation(_even(scene)))
    # Each of a crowd by itself, as all frames are to have them.
    program = replace(program, steps=tuple(one_by_one(program.steps, most=MOST)))
    rows = [*order.frames(), order.first if order.returns else order.last]
    text = svg_moving.file(program, rows, scene.fps, _Pictures(folder), order.scale)
    if kind.ending == ".html":
        text = _page(text, program, out.stem)
    part = part_of(out)
    try:
        part.write_text(text, encoding="utf-8")
        os.replace(part, out)
    except OSError as error:
        part.unlink(missing_ok=True)
        raise MediaError(f"{out.name} could not be written: {error.strerror}.") from error


def _page(svg: str, program: Program, title: str) -> str:
    ground = program.background or "transparent"
    return PAGE.format(title=escape(title), ground=ground[:7], svg=svg)


class _Pictures:
    """Each picture once in the file, as it is in the folder; of footage one frame."""

    def __init__(self, folder: File) -> None:
        self._folder, self._source = folder, FolderSource(folder)
        self._known: dict[tuple[str, int], str] = {}

    def href(self, name: str, index: int) -> str:
        return f"#{self._known.setdefault((name, index), f'picture-{len(self._known)}')}"

    def defined(self) -> str:
        return "".join(
            f'<image id="{known}" width="1" height="1" preserveAspectRatio="none"'
            f" href={quoteattr(self._data(*which))}/>"
            for which, known in self._known.items()
        )

    def _data(self, name: str, index: int) -> str:
        try:
            if is_moving(name):
                kind, content = "image/png", encoded_png(self._source.pixels(name, index))
            else:
                kind = TYPES[File(name).suffix.lower()]
                content = (self._folder / name).read_bytes()
        except (OSError, KeyError) as error:
            raise MediaError(f"The picture {name} could not be read.") from error
        return f"data:{kind};base64,{base64.b64encode(content).decode()}"
