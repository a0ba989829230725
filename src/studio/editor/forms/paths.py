"""Paths as wholes: drawing them, figures, turning, joining, making lighter, and their look."""

from dataclasses import replace
from typing import Any

import numpy as np
from django import forms

from coaster.commands import Command
from coaster.commands.layers import AddLayer
from coaster.commands.paths import AddPath, ColourPath, LockPath, RemovePath, StrengthenPath, reshaped, turned_round
from coaster.commands.rides import AttachRide
from coaster.errors import EditRefused
from coaster.formats import pathdata
from coaster.geometry import affine, arrange, figures, nodes
from coaster.geometry import path as paths
from coaster.geometry.path import Node, Path, Subpath, node_kind
from coaster.ids import fresh_id, fresh_name
from coaster.motion.first import first_ride
from coaster.motion.ride import AtNode
from coaster.render.evaluate import motion
from coaster.render.outlines import drawable
from coaster.scene.document import Layer, Scene, Shape
from studio.editor.forms.base import COLOUR, EditForm, LayerForm, Number, Switch
from studio.editor.forms.nodes import FAR, PathForm, changed_to

MOST_DATA = 2_000_000


def new_path(scene: Scene, title: str, subpaths: tuple[Subpath, ...]) -> Path:
    """Return a path with an id and a name that the scene does not have yet."""
    name = fresh_name(title[:72], {p.name for p in scene.paths})
    return Path(fresh_id(name, {p.id for p in scene.paths}, "path"), name, subpaths)


class DrawForm(EditForm):
    """Go on drawing: one more node, after the first of a new path or at an end of an open one.

    ``hx``, ``hy`` is the handle towards what is drawn next, ``bx``, ``by`` the one back, by
    default its mirror image. ``close`` ends the drawing on its other end.
    """

    name = "draw"
    path = forms.CharField(required=False, max_length=40)
    end = forms.ChoiceField(required=False, choices=[("first", "first"), ("last", "last")])
    run = Number(0, 10_000, label="Run")
    close = Switch()
    x, y = Number(-FAR, FAR, unit="px", label="X"), Number(-FAR, FAR, unit="px", label="Y")
    hx, hy, bx, by = (Number(-FAR, FAR, unit="px", label="Handle") for _ in range(4))
    from_x, from_y = Number(-FAR, FAR, unit="px", label="X"), Number(-FAR, FAR, unit="px", label="Y")
    from_hx, from_hy = (Number(-FAR, FAR, unit="px", label="Handle") for _ in range(2))

    def commands(self, scene: Scene) -> list[Command]:
        if not self.cleaned_data["path"]:
            return self._begun(scene)
        path = scene.path(self.cleaned_data["path"])
        if path.locked:
            raise EditRefused(f"{path.name} is locked; unlock it to draw on.")
        number = round(self.cleaned_data["run"] or 0)
        at_end = self.cleaned_data["end"] != "first"
        if number >= len(path.subpaths) or path.subpaths[number].closed:
            raise EditRefused(f"{path.name} is closed; there is no end to draw on from.")
        self.select = {"path": path.id}
        if self.cleaned_data["close"]:
            return self._closed(scene, path, number)
        run = path.subpaths[number]
        made = self._node(nodes.fresh_node_ids(path, 1)[0], "", forward=at_end)
        if made.position == run.live[-1 if at_end else 0].position:
            raise EditRefused("The new node lies on the last one; a path goes on to another place.")
        longer = (*run.nodes, made) if at_end else (made, *run.nodes)
        self.title = f"Draw on {path.name}"
        return reshaped(scene, nodes.settled(nodes.with_subpath(path, number, replace(run, nodes=longer))))

    def _begun(self, scene: Scene) -> list[Command]:
        run = Subpath((self._node("n1", "from_"), self._node("n2", "")))
        if run.nodes[0].position == run.nodes[1].position:
            raise EditRefused("The second node lies on the first; a path needs two places.")
        path = new_path(scene, "Path", (run,))
        self.select = {"path": path.id}
        return [AddPath(path)]

    def _node(self, node_id: str, prefix: str, *, forward: bool = True) -> Node:
        sent = self.cleaned_data
        x, y = sent[f"{prefix}x"], sent[f"{prefix}y"]
        if x is None or y is None:
            raise EditRefused("Where is the node to be? It has no place.")
        ahead, back = self._handles(prefix)
        into, out = (back, ahead) if forward else (ahead, back)
        return Node(node_id, (x, y), into, out, node_kind(into, out))

    def _handles(self, prefix: str = "") -> tuple[tuple[float, float], tuple[float, float]]:
        """Return the handle on, and the one back."""
        sent = self.cleaned_data
        hx, hy = sent[f"{prefix}hx"] or 0.0, sent[f"{prefix}hy"] or 0.0
        bx, by = (sent["bx"], sent["by"]) if not prefix else (None, None)
        return (hx, hy), (-hx if bx is None else bx, -hy if by is None else by)

    def _closed(self, scene: Scene, path: Path, number: int) -> list[Command]:
        run = path.subpaths[number]
        if len(run.live) < 2:
            raise EditRefused("A closed path needs two nodes.")
        _, back = self._handles()
        if back != (0.0, 0.0):
            end = run.live[0] if self.cleaned_data["end"] != "first" else run.live[-1]
            other = end.handle_out if end is run.live[0] else end.handle_in
            length = float(np.hypot(*other))
            size = float(np.hypot(*back))
            inline = (-back[0] / size * length, -back[1] / size * length) if length else (0.0, 0.0)
            into, out = (back, inline) if end is run.live[0] else (inline, back)
            path = path.with_node(replace(end, handle_in=into, handle_out=out, kind=node_kind(into, out)))
        self.title = f"Close {path.name}"
        return reshaped(scene, arrange.closed(path, number))


class FigureForm(EditForm):
    """Draw a figure as a path, into a box."""

    name = "figure"
    kind = forms.ChoiceField(choices=[(f, f) for f in figures.FIGURES], label="Figure")
    left, top = Number(-FAR, FAR, unit="px", label="Left"), Number(-FAR, FAR, unit="px", label="Top")
    width, height = Number(0, FAR, unit="px", label="Width"), Number(0, FAR, unit="px", label="Height")
    radius = Number(0, 100, unit="%", label="Rounding")
    points = Number(2, 100, label="Points")
    inner = Number(1, 100, unit="%", label="Inner radius")
    turns = Number(0.25, 50, label="Turns")

    def commands(self, scene: Scene) -> list[Command]:
        sent = self.cleaned_data
        box = [sent[n] or 0.0 for n in ("left", "top", "width", "height")]
        kind, points = sent["kind"], round(sent["points"] or 0)
        fewest = 1 if kind == "wave" else 3
        run = figures.figure(
            kind,
            *box,
            radius=(sent["radius"] or 0.0) / 200 * min(box[2:]),
            points=max(points, fewest) if points else {"wave": 3, "polygon": 6}.get(kind, 5),
            inner=(sent["inner"] or {"spiral": 10.0}.get(kind, 50.0)) / 100,
            turns=sent["turns"] or 3.0,
        )
        path = new_path(scene, kind.capitalize(), (run,))
        self.select = {"path": path.id}
        return [AddPath(path)]


class StarterForm(LayerForm):
    """Give a layer a first path of two nodes, from where it stands, and let it ride it."""

    name = "starter"

    def commands(self, scene: Scene) -> list[Command]:
        layer = scene.layer(self.cleaned_data["layer"])
        if layer.ride:
            raise EditRefused(f"{layer.name} rides {scene.path(layer.ride.path).name} already.")
        x, y = layer.transform.position
        reach = scene.width / 3 * (1 if x <= scene.width / 2 else -1)
        bend = scene.height / 6
        run = Subpath(
            (
                Node("n1", (x, y), (0.0, 0.0), (reach / 3, -bend)),
                Node("n2", (x + reach, y), (-reach / 3, -bend)),
            )
        )
        path = new_path(scene, f"{layer.name}'s way", (run,))
        ride = first_ride(path, width=scene.width, rate=scene.rate, scene_length=scene.length, facing=None)
        self.select = {"path": path.id, "nodes": "n2"}
        return [AddPath(path), AttachRide(layer.id, ride)]


class TransformForm(PathForm):
    """Move, scale, turn and flip a path, or some of its nodes, about a point or its middle."""

    name = "path-transform"
    nodes = forms.CharField(required=False, max_length=200_000)
    dx, dy = Number(-FAR, FAR, unit="px", label="Move across"), Number(-FAR, FAR, unit="px", label="Move down")
    sx, sy = Number(-10_000, 10_000, unit="%", label="Width"), Number(-10_000, 10_000, unit="%", label="Height")
    size = Number(-10_000, 10_000, unit="%", label="Size")
    turn = Number(-3600, 3600, unit="°", label="Turn")
    pivot_x, pivot_y = Number(-FAR, FAR, unit="px", label="Pivot"), Number(-FAR, FAR, unit="px", label="Pivot")

    def commands(self, scene: Scene) -> list[Command]:
        path, sent = self.shape(scene), self.cleaned_data
        size = 100.0 if sent["size"] is None else sent["size"]
        across, down = (size if sent[n] is None else sent[n] * size / 100 for n in ("sx", "sy"))
        if across == 0 or down == 0:
            raise EditRefused("A path scaled to nothing could not come back; it was kept as it was.")
        steps = [
            affine.translation(sent["dx"] or 0.0, sent["dy"] or 0.0),
            affine.rotation(np.radians(sent["turn"] or 0.0)),
            affine.scaling(across / 100, down / 100),
        ]
        pivot = None if sent["pivot_x"] is None or sent["pivot_y"] is None else (sent["pivot_x"], sent["pivot_y"])
        after = arrange.about(path, affine.chain(steps), pivot)
        names = set((sent["nodes"] or "").split())
        if names:
            after = nodes.with_nodes(path, {n.id: n for n in after.nodes() if n.id in names and not n.locked})
        self.title = f"Transform {path.name}"
        return self.shaped(scene, after)


class ArrangeForm(PathForm):
    """Do to a whole path what ``to`` says."""

    name = "path-arrange"
    to = forms.ChoiceField(choices=[(w, w) for w in ("reverse", "open", "close", "smooth", "auto", "corner")])

    def commands(self, scene: Scene) -> list[Command]:
        path, to = self.shape(scene), self.cleaned_data["to"]
        if to == "reverse":
            self.title = f"Reverse {path.name}"
            return self.noted(scene, turned_round(scene, arrange.reversed_path(path)))
        self.title = f"{to.capitalize()} {path.name}"
        if to in ("open", "close"):
            work = arrange.opened if to == "open" else arrange.closed
            wanted = [i for i, run in enumerate(path.subpaths) if run.closed == (to == "open")]
            for number in wanted or [0]:
                path = work(path, number)
            return self.shaped(scene, path)
        fresh = changed_to(path, (n for n in path.nodes() if not n.locked), "round" if to == "smooth" else to)
        return self.shaped(scene, nodes.with_nodes(path, {node.id: node for node in fresh}))


class LighterForm(PathForm):
    """Take out the nodes that add nothing, within a tolerance, and say what it costs."""

    name = "path-lighter"
    tolerance = Number(0, 1000, unit="px", label="Tolerance")

    def commands(self, scene: Scene) -> list[Command]:
        path = self.shape(scene)
        tolerance = self.cleaned_data["tolerance"]
        pegged = {
            p.place.node
            for layer in scene.riders_of(path.id)
            if layer.ride
            for p in layer.ride.pegs
            if isinstance(p.place, AtNode)
        }
        after, deviation = nodes.lighter(path, 1.0 if tolerance is None else tolerance, pegged)
        before, now = len(path.nodes()), len(after.nodes())
        if now == before:
            self.notes.append(f"All {before} nodes are needed within {tolerance or 1:g} px.")
            return []
        self.title = f"Make {path.name} lighter"
        self.notes.append(f"{before} nodes become {now}; the curve moves by {deviation:.2f} px at most.")
        return self.shaped(scene, after)


class GuideForm(EditForm):
    """How a path shows while working: the colour of its rail, its lock, and its handles' strength."""

    name = "guide"
    path = forms.CharField(max_length=40)
    colour = COLOUR
    own_colour = Switch()
    locked = Switch()
    strength = Number(0, 300, unit="%", label="Strength")

    def commands(self, scene: Scene) -> list[Command]:
        path, sent = scene.path(self.cleaned_data["path"]), self.cleaned_data
        if sent["locked"] is not None:
            return [LockPath(path.id, sent["locked"])]
        if sent["own_colour"] is not None:
            return [ColourPath(path.id, "#e4572e" if sent["own_colour"] else None)]
        if sent["colour"]:
            return [ColourPath(path.id, sent["colour"])]
        if sent["strength"] is None:
            return []
        if path.locked:
            raise EditRefused(f"{path.name} is locked; unlock it to shape it.")
        stronger = replace(path, strength=sent["strength"] / 100)
        return [StrengthenPath(path.id, stronger.strength), *reshaped(scene, nodes.settled(stronger))]


class CopyForm(EditForm):
    """A second one of a path or a layer; or of a path for one rider alone (``unlink``)."""

    name = "copy"
    path = forms.CharField(required=False, max_length=40)
    layer = forms.CharField(required=False, max_length=40)
    unlink = Switch()

    def commands(self, scene: Scene) -> list[Command]:
        sent = self.cleaned_data
        if sent["unlink"]:
            return self._unlinked(scene)
        if sent["layer"]:
            return self._layer(scene)
        path = scene.path(sent["path"])
        step = scene.width / 60
        shifted = paths.transformed(path.subpaths, affine.translation(step, step))
        made = replace(new_path(scene, path.name, shifted), colour=path.colour, strength=path.strength)
        self.select = {"path": made.id}
        self.title = f"Duplicate {path.name}"
        return [AddPath(made, scene.paths.index(path) + 1)]

    def _layer(self, scene: Scene) -> list[Command]:
        layer = scene.layer(self.cleaned_data["layer"])
        name = fresh_name(layer.name[:72], {x.name for x in scene.layers})
        place = layer.transform
        if layer.ride is None:
            step = scene.width / 60
            place = replace(place, position=(place.position[0] + step, place.position[1] + step))
        made = replace(layer, id=fresh_id(name, {x.id for x in scene.layers}, "layer"), name=name, transform=place)
        self.select = {"layer": made.id}
        self.title = f"Duplicate {layer.name}"
        if layer.ride:
            self.notes.append(f"{name} rides {scene.path(layer.ride.path).name} in the same place; shift it along.")
        return [AddLayer(made, scene.layers.index(layer) + 1)]

    def _unlinked(self, scene: Scene) -> list[Command]:
        layer = scene.layer(self.cleaned_data["layer"])
        ride = scene.ride_of(layer.id)
        path = scene.path(ride.path)
        fresh = new_path(scene, f"{path.name}, {layer.name}'s own", path.subpaths)
        made = replace(path, id=fresh.id, name=fresh.name)
        self.select = {"layer": layer.id}
        self.title = f"Unlink {layer.name} from {path.name}"
        self.notes.append(f"{layer.name} rides a copy of its own now: {made.name}.")
        return [AddPath(made, scene.paths.index(path) + 1), AttachRide(layer.id, replace(ride, path=made.id))]


class JoinForm(PathForm):
    """Join another open path to this one, at the ends that are nearest to each other."""

    name = "path-join"
    other = forms.CharField(max_length=40)

    def commands(self, scene: Scene) -> list[Command]:
        path, other = self.shape(scene), scene.path(self.cleaned_data["other"])
        users = scene.users_of(other.id)
        if path.id == other.id:
            raise EditRefused("A path is not joined to itself; close it instead.")
        if users:
            raise EditRefused(f"{other.name} is in use by {', '.join(u.name for u in users)}; take them off it first.")
        if other.locked:
            raise EditRefused(f"{other.name} is locked; unlock it to join it.")
        self.title = f"Join {other.name} to {path.name}"
        return [*reshaped(scene, arrange.united(path, other)), RemovePath(other.id)]


class DataForm(EditForm):
    """Path data as text: of a new path or, where ``path`` is given, instead of what it was."""

    name = "path-data"
    path = forms.CharField(required=False, max_length=40)
    data = forms.CharField(max_length=MOST_DATA, label="Path data")
    title_text = forms.CharField(required=False, max_length=80)

    def commands(self, scene: Scene) -> list[Command]:
        runs = pathdata.subpaths(pathdata.runs(self.cleaned_data["data"], tolerance=pathdata.EDITING_TOLERANCE))
        if not runs:
            raise EditRefused("The path data draws nothing: it needs at least one line or curve.")
        if not self.cleaned_data["path"]:
            path = new_path(scene, self.cleaned_data["title_text"] or "Pasted path", runs)
            self.select = {"path": path.id}
            return [AddPath(path)]
        path = scene.path(self.cleaned_data["path"])
        if path.locked:
            raise EditRefused(f"{path.name} is locked; unlock it to shape it.")
        self.title = f"Path data of {path.name}"
        return reshaped(scene, replace(path, subpaths=runs))


class OutlineForm(LayerForm):
    """Make a path of a shape's outline, where the shape stands at a frame."""

    name = "outline"
    frame = Number(0, 36_000, label="Frame")

    def commands(self, scene: Scene) -> list[Command]:
        layer = scene.layer(self.cleaned_data["layer"])
        if not isinstance(layer.content, Shape):
            raise EditRefused(f"{layer.name} is no shape; only a shape has an outline to ride.")
        path = new_path(scene, layer.name, outline_of(layer, scene, round(self.cleaned_data["frame"] or 0)))
        self.select = {"path": path.id}
        self.title = f"Make a path of {layer.name}"
        return [AddPath(path)]


def outline_of(layer: Layer, scene: Scene, frame: int) -> tuple[Subpath, ...]:
    """Return a shape's outline in scene px, as it stands at a frame."""
    moved = motion(layer, scene)
    matrix: Any = moved.matrix(0 if moved.still else min(max(frame, 0), scene.length))
    found: list[Any] = []
    for outline in drawable(layer, None).outlines:
        found += pathdata.runs(outline.data, matrix=matrix, tolerance=pathdata.EDITING_TOLERANCE)
    return pathdata.subpaths(found)
