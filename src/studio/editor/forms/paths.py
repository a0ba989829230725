"""Paths as wholes: drawing them, figures, turning, joining, making lighter, and their look."""

from django import forms

from coaster.edits import layers, paths
from coaster.edits.edit import Edit
from coaster.edits.paths import FigureLook, PenNode
from coaster.errors import EditRefused
from coaster.geometry import figures
from coaster.geometry.path import Vec2
from coaster.scene.document import Scene
from studio.editor.forms.base import FAR, EditForm, LayerForm, Person
from studio.editor.forms.nodes import PathForm, PointedForm
from studio.forms import COLOUR, Number, Switch

MOST_DATA = 2_000_000


class DrawForm(PointedForm):
    """Go on drawing: one more node, after the first of a new path or at an end of an open one.

    ``hx``, ``hy`` is the handle towards what is drawn next, ``bx``, ``by`` the one back, by
    default its mirror image. ``close`` ends the drawing on its other end.
    """

    name = "draw"
    path = forms.CharField(required=False, max_length=40)
    end = forms.ChoiceField(required=False, choices=[("first", "first"), ("last", "last")])
    run = Number(0, 10_000, label="Run")
    close = Switch()
    x, y = (Number(-FAR, FAR, unit="px", label=axis) for axis in "XY")
    hx, hy, bx, by = (Number(-FAR, FAR, unit="px", label="Handle") for _ in range(4))
    from_x, from_y = (Number(-FAR, FAR, unit="px", label=axis) for axis in "XY")
    from_hx, from_hy = (Number(-FAR, FAR, unit="px", label="Handle") for _ in range(2))

    def edit(self, scene: Scene, person: Person) -> Edit:
        if not self.given("path"):
            first = PenNode(self._place("from_"), self._handle("from_h"))
            return paths.begin(scene, first, self._drawn(), self.pointed(scene, None))
        on = self.pointed(scene, scene.path(self.given("path")).parent)
        run, at_end = round(self.number("run")), self.given("end") != "first"
        if self.given("close"):
            # It closes on a node that is there: only the handle is drawn.
            drawn = PenNode((0.0, 0.0), self._handle("h"), self._back())
            return paths.draw_closed(scene, self.given("path"), run, drawn, on, at_end=at_end)
        return paths.draw_on(scene, self.given("path"), run, self._drawn(), on, at_end=at_end)

    def _drawn(self) -> PenNode:
        return PenNode(self._place(""), self._handle("h"), self._back())

    def _place(self, prefix: str) -> Vec2:
        x, y = self.given(f"{prefix}x"), self.given(f"{prefix}y")
        if x is None or y is None:
            raise EditRefused("Where is the node to be? It has no place.")
        return x, y

    def _handle(self, prefix: str) -> Vec2:
        return self.number(f"{prefix}x"), self.number(f"{prefix}y")

    def _back(self) -> Vec2 | None:
        """Return the handle back, if it is not the mirror image of the one ahead."""
        bx, by = self.given("bx"), self.given("by")
        hx, hy = self._handle("h")
        if bx is None and by is None:
            return None
        return -hx if bx is None else bx, -hy if by is None else by


class FigureForm(PointedForm):
    """Draw a figure as a path, into a box of the plane that is drawn in."""

    name = "figure"
    kind = forms.ChoiceField(choices=[(f, f) for f in figures.FIGURES], label="Figure")
    left, top = (Number(-FAR, FAR, unit="px", label=label) for label in ("Left", "Top"))
    width, height = (Number(0, FAR, unit="px", label=label) for label in ("Width", "Height"))
    radius = Number(0, 100, unit="%", label="Rounding")
    points = Number(2, 100, label="Points")
    inner = Number(1, 100, unit="%", label="Inner radius")
    turns = Number(0.25, 50, label="Turns")

    def edit(self, scene: Scene, person: Person) -> Edit:
        left, top, width, height = map(self.number, ("left", "top", "width", "height"))
        inner = self.number("inner") / 100
        look = FigureLook(
            rounding=self.number("radius") / 100,
            points=round(self.number("points")) or None,
            inner=inner or None,
            turns=self.number("turns") or 3.0,
        )
        box = left, top, width, height
        return paths.add_figure(scene, self.given("kind"), box, look, self.pointed(scene, None))


class StarterForm(LayerForm):
    """Give a layer a first path of two nodes, from where it stands, and let it ride it."""

    name = "starter"

    def edit(self, scene: Scene, person: Person) -> Edit:
        return paths.starter(scene, self.layer_id)


class UnusedPathsForm(EditForm):
    """Remove the paths that nothing rides, strokes or is masked by."""

    name = "paths-unused"

    def edit(self, scene: Scene, person: Person) -> Edit:
        return paths.remove_unused(scene)


class ExampleForm(EditForm):
    """Put in a shape that rides round, to be taken apart."""

    name = "example"

    def edit(self, scene: Scene, person: Person) -> Edit:
        return paths.example(scene)


class TransformForm(PathForm):
    """Move, scale, turn and flip a path, or some of its nodes, about a point or its middle."""

    name = "path-transform"
    nodes = forms.CharField(required=False, max_length=200_000)
    dx = Number(-FAR, FAR, unit="px", label="Move across")
    dy = Number(-FAR, FAR, unit="px", label="Move down")
    sx = Number(-10_000, 10_000, unit="%", label="Width")
    sy = Number(-10_000, 10_000, unit="%", label="Height")
    size = Number(-10_000, 10_000, unit="%", label="Size")
    turn = Number(-3600, 3600, unit="°", label="Turn")
    pivot_x, pivot_y = (Number(-FAR, FAR, unit="px", label="Pivot") for _ in range(2))

    def edit(self, scene: Scene, person: Person) -> Edit:
        size = self.number("size", 100.0)
        # Both are per cent: 100 times 100 is as it was.
        across, down = (self.number(name, 100.0) * size / 10_000 for name in ("sx", "sy"))
        x, y = self.given("pivot_x"), self.given("pivot_y")
        if (x is None) != (y is None):
            raise EditRefused("The centre of turning needs both X and Y, or neither of them.")
        change = paths.Change(
            by=(self.number("dx"), self.number("dy")),
            scale=(across, down),
            turn=self.number("turn"),
            pivot=None if x is None or y is None else (x, y),
            only=self.given("nodes").split(),
        )
        return paths.transform(scene, self.path_id, change, self.space(scene))


class ArrangeForm(PathForm):
    """Do to a whole path what ``to`` says."""

    name = "path-arrange"
    to = forms.ChoiceField(choices=[(word, word) for word in paths.ARRANGEMENTS])

    def edit(self, scene: Scene, person: Person) -> Edit:
        return paths.ARRANGEMENTS[self.given("to")](scene, self.path_id)


class LighterForm(PathForm):
    """Take out the nodes that add nothing, within a tolerance, and say what it costs."""

    name = "path-lighter"
    tolerance = Number(0, 1000, unit="px", label="Tolerance")

    def edit(self, scene: Scene, person: Person) -> Edit:
        return paths.lighter(scene, self.path_id, self.number("tolerance", 1.0))


class RailForm(EditForm):
    """How a path shows while working: the colour of its rail, its lock, and its handles'
    strength.
    """

    name = "rail"
    path = forms.CharField(max_length=40)
    colour = COLOUR
    own_colour = Switch()
    locked = Switch()
    strength = Number(0, 300, unit="%", label="Strength")

    def edit(self, scene: Scene, person: Person) -> Edit:
        path_id = self.given("path")
        if self.given("locked") is not None:
            return paths.lock(scene, path_id, self.given("locked"))
        if self.given("own_colour") is not None:
            return paths.colour(scene, path_id, paths.RAIL if self.given("own_colour") else None)
        if self.given("colour"):
            return paths.colour(scene, path_id, self.given("colour"))
        if self.given("strength") is None:
            raise EditRefused("Nothing was said of the rail; it was kept as it was.")
        return paths.strengthen(scene, path_id, self.given("strength") / 100)


class CopyForm(EditForm):
    """A second one of a path or of layers; or of a path for one rider alone (``unlink``)."""

    name = "copy"
    path = forms.CharField(required=False, max_length=40)
    layer = forms.CharField(required=False, max_length=200_000)
    unlink = Switch()

    def edit(self, scene: Scene, person: Person) -> Edit:
        if self.given("unlink"):
            return layers.own_path(scene, self.given("layer"))
        if self.given("layer"):
            return layers.copy_layers(scene, self.given("layer").split())
        return paths.copy(scene, self.given("path"))


class JoinForm(PathForm):
    """Join another open path to this one, at the ends that are nearest to each other."""

    name = "path-join"
    other = forms.CharField(max_length=40)

    def edit(self, scene: Scene, person: Person) -> Edit:
        return paths.join(scene, self.path_id, self.given("other"))


class DataForm(EditForm):
    """Path data as text: of a new path or, where ``path`` is given, instead of what it was."""

    name = "path-data"
    path = forms.CharField(required=False, max_length=40)
    data = forms.CharField(  # type: ignore[assignment]  # the field is called so in the sheet
        max_length=MOST_DATA, label="Path data"
    )
    title = forms.CharField(required=False, max_length=80)

    def edit(self, scene: Scene, person: Person) -> Edit:
        data = self.cleaned_data["data"]
        if self.given("path"):
            return paths.set_data(scene, self.given("path"), data)
        return paths.add_data(scene, data, self.given("title"))


class OutlineForm(LayerForm):
    """Make a path of a shape's outline, where the shape stands at a frame."""

    name = "outline"
    frame = Number(0, 36_000, label="Frame")

    def edit(self, scene: Scene, person: Person) -> Edit:
        return paths.outline(scene, self.layer_id, self.number("frame"))
