"""A scene as one file of vectors that moves by itself: SVG, or a page that holds one."""

import base64
import os
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path as File

import numpy as np

from coaster.errors import MediaError
from coaster.export import sheets
from coaster.export.drawers import FolderSource
from coaster.export.orders import Order
from coaster.files import part_of
from coaster.formats.pathdata import number
from coaster.formats.quoting import escape, quoted
from coaster.geometry import maps
from coaster.media import found
from coaster.media.moving import is_moving
from coaster.media.pictures import encoded_png
from coaster.media.writing import Kind
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
DEEP_PAGE = """<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>{title}</title>
<style>html, body {{ height: 100%; margin: 0; background: {ground}; overflow: hidden }}
#scene, svg {{ position: absolute; transform-origin: 0 0 }}
#scene {{ width: {width}px; height: {height}px; overflow: hidden }}
svg {{ left: 0; top: 0; overflow: visible }}
{styles}</style></head>
<body><div id="scene">
{sheets}</div>
<script>
const scene = document.getElementById("scene"), wide = {width}, high = {height}
function fit() {{
  const scale = Math.min(innerWidth / wide, innerHeight / high)
  const left = (innerWidth - wide * scale) / 2, top = (innerHeight - high * scale) / 2
  scene.style.transform = `translate(${{left}}px, ${{top}}px) scale(${{scale}})`
}}
addEventListener("resize", fit)
fit()
// All of them go by one clock.
addEventListener("load", () => {{
  for (const sheet of document.querySelectorAll("svg")) sheet.setCurrentTime(0)
  for (const each of document.getAnimations()) each.currentTime = 0
}})
</script></body></html>
"""
"""One with things in perspective."""


DIGITS = 6
"""Decimals of shares of the time."""
MOST = 1000
"""Of a crowd in such a file: each of them is told for every frame."""


def left_out(scene: Scene, ending: str = ".svg") -> list[str]:
    """Return what such a file cannot hold of a scene, in a sentence for each layer; a page holds
    more.
    """
    names = {layer.id: layer.name for layer in scene.layers}

    def called(step: Item | Crowd | Push) -> str:
        return names.get(step.name.split(".")[0], step.name)

    told: dict[str, None] = {}
    program = program_of(Evaluation(scene))
    laid = sheets.held(_each(program)) if ending == ".html" else set[str]()
    for step in program.steps:
        if isinstance(step, Crowd) and step.many.lanes > MOST:
            told[f"Of what {called(step)} leaves behind or repeats, {MOST:,} are shown."] = None
        elif isinstance(step, Push) and step.cover is not None and not is_sayable(step.cover):
            told[f"{called(step)} is shown without its mask, which is in perspective."] = None
        elif isinstance(step, Item | Crowd) and step.name in laid:
            continue
        elif isinstance(step, Item | Crowd) and not maps.is_flat(_maps_of(step)):
            told[f"{called(step)} is left out: it is in perspective."] = None
        elif isinstance(step, Part) and len(step.away) > 1 and not laid:
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
    program = _each(program_of(Evaluation(_even(scene))))
    rows = [*order.frames(), order.first if order.returns else order.last]
    pictures = _Pictures(folder)
    laid = sheets.sheets_of(program) if kind.ending == ".html" else []
    if len(laid) > 1:
        text = _deep_page(laid, rows, scene.fps, pictures, out.stem)
    else:
        text = svg_moving.file(program, rows, scene.fps, pictures, order.scale)
        text = _page(text, program, out.stem) if kind.ending == ".html" else text
    part = part_of(out)
    try:
        part.write_text(text, encoding="utf-8")
        os.replace(part, out)
    except OSError as error:
        part.unlink(missing_ok=True)
        raise MediaError(f"{out.name} could not be written: {error.strerror}.") from error


def _each(program: Program) -> Program:
    """Return a program with each of a crowd by itself, as all frames are to have them."""
    return replace(program, steps=tuple(one_by_one(program.steps, most=MOST)))


def _deep_page(
    laid: list[sheets.Sheet], rows: list[int], fps: float, pictures: "_Pictures", title: str
) -> str:
    """Return a page of sheets, those in perspective laid by CSS, each frame as it is."""
    whole, styles, drawn = laid[0].program, list[str](), list[str]()
    lasts = number(svg_moving.lasts(rows, fps), DIGITS)
    for i, sheet in enumerate(laid):
        text = svg_moving.file(sheet.program, rows, fps, pictures, name=f"s{i}")
        drawn.append(text.replace("<svg", f'<svg id="sheet-{i}"', 1))
        styles += _styled(sheet, f"sheet-{i}", rows, lasts)
    return DEEP_PAGE.format(
        title=escape(title),
        ground=(whole.background or "transparent")[:7],
        width=whole.width,
        height=whole.height,
        styles="\n".join(styles),
        sheets="".join(drawn),
    )


def _styled(sheet: sheets.Sheet, name: str, rows: list[int], lasts: str) -> Iterator[str]:
    """Yield the rules of CSS by which a sheet lies where it is seen, and upon which others."""
    transforms, orders = sheet.transforms(rows), sheet.orders(rows)
    said = {
        "transform": ("linear", list(enumerate(transforms))),
        "z-index": ("step-end", [(at, str(order)) for at, order in orders]),
    }
    moves = []
    for what, (how, keys) in said.items():
        if len(keys) == 1:
            yield f"#{name} {{ {what}: {keys[0][1]} }}"
        if len(keys) < 2:
            continue
        told = (
            f"{number(100 * at / (len(rows) - 1), DIGITS)}%{{{what}:{value}}}" for at, value in keys
        )
        yield f"@keyframes {what}-{name} {{{''.join(told)}}}"
        moves.append(f"{what}-{name} {lasts}s {how} infinite")
    if moves:
        yield f"#{name} {{ animation: {', '.join(moves)} }}"


def _page(svg: str, program: Program, title: str) -> str:
    ground = program.background or "transparent"
    return PAGE.format(title=escape(title), ground=ground[:7], svg=svg)


class _Pictures:
    """Each picture once in the file, as it is in the folder; of footage one frame."""

    def __init__(self, folder: File) -> None:
        self._folder, self._source = folder, FolderSource(folder)
        self._known: dict[tuple[str, int], str] = {}
        self._defined = 0

    def href(self, name: str, index: int) -> str:
        return f"#{self._known.setdefault((name, index), f'picture-{len(self._known)}')}"

    def defined(self) -> str:
        """Return those that were asked for since the last time: a page has all in one document."""
        fresh = list(self._known.items())[self._defined :]
        self._defined = len(self._known)
        return "".join(
            f'<image id="{known}" width="1" height="1" preserveAspectRatio="none"'
            f" href={quoted(self._data(*which))}/>"
            for which, known in fresh
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
