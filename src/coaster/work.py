"""Coaster in scripts: scenes are opened, made, changed, sampled, looked at, rendered and saved.

``import coaster`` gives all of this as ``coaster.open``, ``coaster.new`` and so on; it is read when
it is first asked for, so that the import by itself takes no time.
"""

import shutil
import tempfile
from collections.abc import Mapping, Sequence
from dataclasses import asdict, replace
from inspect import signature
from pathlib import Path as File
from types import TracebackType
from typing import Any, Self

import numpy as np
from numpy.typing import NDArray

from coaster import commands
from coaster.commands.holding import held
from coaster.edits import driven, imports
from coaster.edits.edit import Edit
from coaster.edits.keys import Moment
from coaster.edits.planned import Plan, made, plan_named, plans
from coaster.errors import FormatError, MediaError
from coaster.export.drawers import painter_of
from coaster.export.motion import Motion, motions_of
from coaster.export.orders import choices_of
from coaster.export.render import render as render_file
from coaster.export.seams import seam_pictures
from coaster.formats import bundle, frames, takes
from coaster.media import found
from coaster.media.pictures import straight_rgba
from coaster.media.writers import kind_for
from coaster.motion.rate import parse_rate
from coaster.motion.takes import Smoothed, Smoothing
from coaster.motion.takes import smooth as smoothed
from coaster.render import seam
from coaster.render.evaluate import Evaluation
from coaster.render.seam import LayerSeam
from coaster.scene import codec
from coaster.scene.document import Layer, Scene
from coaster.scene.limits import check_growth
from coaster.series import beside, filled_with, imported

__all__ = ["Motion", "Work", "new", "open_work", "plans", "smooth"]


class Work:
    """A scene that is worked on, with a folder of its pictures, fonts and footage.

    ``scene`` is the scene as it stands: an immutable value, of which each edit makes another one.
    The folder is gone when the work is closed, at the end of a ``with``, or with the program.
    """

    def __init__(self, scene: Scene, files: File | None = None) -> None:
        self.scene = scene
        self._room = tempfile.TemporaryDirectory(prefix="coaster-")
        self.folder = File(self._room.name)
        if files is not None:
            for name in (*scene.assets(), *scene.takes()):
                # A take may be gone without harm.
                if (files / name).is_file():
                    shutil.copy(files / name, self.folder / name)
        found.look_in(self.folder)

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self.close()

    def close(self) -> None:
        """Remove the folder. The scene, and what was saved or rendered, stay."""
        self._room.cleanup()

    def layer(self, name: str) -> Layer:
        """Return a layer by its id, or by its name. Errors: UnknownId: there is none."""
        named = [each for each in self.scene.layers if each.name == name]
        there = any(each.id == name for each in self.scene.layers)
        return named[0] if named and not there else self.scene.layer(name)

    def edit(self, plan: str | Plan, *values: Any, **named: Any) -> Edit:
        """Do what a person does in the studio: a plan by its name, such as ``"rides.attach"``, or
        itself, with what it asks for beside the scene (see ``coaster.plans()``). Return the edit:
        its ``notes`` say what there is to say, ``select`` what it made. Where nothing is said of
        the ``moment``, it is frame 0, without keys.

        Errors: EditRefused: it cannot be done. FormatError: there is no such plan, or what was
                given does not fit it. The scene stays as it was then.
        """
        name = plan if isinstance(plan, str) else plan.__name__
        call = plan_named(plan) if isinstance(plan, str) else plan
        if "moment" in signature(call).parameters:
            named.setdefault("moment", Moment())
        return self._do(made(name, call, self.scene, values, named))

    def _do(self, edit: Edit) -> Edit:
        steps, notes = held(self.scene, edit.commands)
        after = commands.applied(self.scene, steps)
        check_growth(self.scene, after)
        self.scene = after
        return replace(edit, notes=(*edit.notes, *notes))

    def add(self, what: str, at: tuple[float, float] | None = None, **named: Any) -> str:
        """Add a ``text``, a ``rectangle``, an ``ellipse``, a ``camera``, ... in the middle or at a
        place, px, or with ``path_id`` a ``line`` along a path; return its id.
        """
        place = {} if at is None else {"at": at}
        return self.edit("layers.add", what, **place, **named).select.layers[0]

    def add_picture(self, file: File | str, at: tuple[float, float] | None = None) -> str:
        """Add a picture (PNG, JPEG, WebP, SVG) in the middle or at a place; return its layer's id.

        Errors: MediaError: it cannot be used. OSError: it cannot be read.
        """
        file = File(file)
        picture = imported(file, self.folder)
        edit = imports.add_picture(self.scene, picture, file.stem, file.name, (), at)
        return self._do(edit).select.layers[0]

    def add_path(self, data: str, name: str = "Path") -> str:
        """Add a path as SVG writes it in ``d``, px; return its id. Errors: FormatError."""
        return self.edit("paths.add_data", data, name).select.path

    def fill(self, values: Mapping[str, str]) -> None:
        """Fill in fields of the scene, by their names, as a row of a series does.

        Errors: EditRefused: there is no such field, or it cannot be filled so. FormatError.
        """
        said = {name: str(value) for name, value in values.items()}
        self.scene = filled_with(self.scene, said, beside(File("rows.csv"), self.folder))

    def motion(self, layer: str) -> Motion:
        """Return what a layer does in every frame, as arrays: ``motion("manta")["x"]``."""
        return self.motions([layer])[0]

    def motions(self, layers: Sequence[str] = ()) -> list[Motion]:
        """Return the same of several layers, or of all, from the back to the front."""
        return motions_of(self.scene, [self.layer(each).id for each in layers])

    def drive(
        self,
        layer: str,
        table: File | str | Mapping[str, Sequence[float]],
        *,
        of: str = "",
        tolerance: float | None = None,
    ) -> Edit:
        """Let a layer do what a table of frames says: columns, or a CSV or JSON file with them,
        ``frame`` or ``time`` and x, y, turn, scale, opacity, ...; ``of`` one of its layers.
        """
        if not isinstance(table, Mapping):
            table = {n: list(each) for n, each in frames.read(_text_of(table), of).items()}
        return self._do(driven.drive(self.scene, self.layer(layer).id, table, tolerance))

    def picture(self, frame: int = 0, scale: float = 1.0) -> NDArray[np.uint8]:
        """Return a frame as it is rendered: red, green, blue and straight alpha, (h, w, 4)."""
        if not 0 <= frame < self.scene.length:
            raise FormatError(
                f"There is no frame {frame}; the last one is {self.scene.length - 1}."
            )
        return straight_rgba(painter_of(self.scene, self.folder, scale).picture(frame))

    def render(self, out: File | str, *, workers: int | None = None, **choices: Any) -> File:
        """Render to a file of the kind that its ending asks for; what may be chosen is in
        ``export.orders.Choices``: ``high``, ``fps``, ``loops``, ``seconds``, ``shutter``, ....

        Errors: RenderError, MediaError, FormatError.
        """
        out = File(out)
        kind = kind_for(out.name)
        if choices.get("fps") is not None:
            choices["fps"] = asdict(parse_rate(str(choices["fps"])))
        order = choices_of({"kind": kind.name} | choices).order(self.scene)
        render_file(self.scene, self.folder, out, order, kind=kind, workers=workers)
        return out

    def check(self) -> list[LayerSeam]:
        """Return how each layer that moves comes round from the last frame to the first one."""
        return seam.report(Evaluation(self.scene))

    @property
    def is_clean(self) -> bool:
        """Whether nothing steps where the end meets the beginning, in numbers and in pictures."""
        alike = all(each.clean for each in self.check())
        return alike and seam_pictures(self.scene, self.folder).clean

    def save(self, file: File | str) -> File:
        """Save the scene: a ``.zip`` with its pictures, or ``.json`` with them in ``assets/``."""
        file = File(file)
        if file.suffix.lower() == ".zip":
            with file.open("wb") as into:
                bundle.pack(self.scene, self.folder, into)
            return file
        for name in self.scene.assets():
            (file.parent / bundle.ASSETS).mkdir(exist_ok=True)
            shutil.copy(self.folder / name, file.parent / bundle.ASSETS / name)
        file.write_text(codec.to_json(self.scene), encoding="utf-8")
        return file


def open_work(file: File | str) -> Work:
    """Open a scene: a ``.zip``, or a ``.json`` with its pictures in ``assets/`` beside it.

    Errors: FormatError, SceneError: it is none. OSError: it cannot be read.
    """
    with bundle.open_bundle(File(file)) as (scene, folder):
        return Work(scene, folder)


def new(
    width: int = 1920,
    height: int = 1080,
    *,
    fps: float | str = 30,
    seconds: float = 5.0,
    background: str | None = "#ffffff",
) -> Work:
    """Begin a scene. Errors: FormatError, SceneError: there is none such."""
    rate = parse_rate(str(fps))
    told = {"width": width, "height": height, "background": background, "rate": asdict(rate)}
    length = rate.frames(seconds)
    return Work(codec.from_data(codec.to_data(Scene()) | told | {"length": length}))


def smooth(samples: File | str | NDArray[np.float64], *, fps: float = 30.0, **how: Any) -> Smoothed:
    """Return a drawn take as a path of few nodes with its timing: a CSV file, or an array (n, 3) of
    t, x, y in s and px. How is as in ``motion.takes.Smoothing``; without a ``tolerance`` what its
    tremor suggests.

    Errors: EditRefused: too few samples, or no movement. FormatError.
    """
    if isinstance(samples, np.ndarray):
        text = "t,x,y\n" + "\n".join(",".join(map(str, row)) for row in samples.tolist())
    else:
        text = _text_of(samples)
    take = takes.read(text).take(fps=fps)
    return smoothed(take, Smoothing(**({"tolerance": take.suggested} | how)), fps=fps)


def _text_of(file: File | str) -> str:
    try:
        return File(file).read_text(encoding="utf-8-sig", errors="replace")
    except OSError as error:
        raise MediaError(f"{file} could not be read: {error.strerror}.") from error
