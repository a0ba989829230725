"""Nodes and handles of a path: putting in, moving, shaping, taking out."""

from collections.abc import Callable, Iterable
from dataclasses import replace

import numpy as np
from django import forms

from coaster.commands import Command
from coaster.commands.paths import reshaped, turned_round
from coaster.commands.rides import SetPegs
from coaster.errors import EditRefused
from coaster.geometry import arrange, handles, nodes
from coaster.geometry.measure import measured
from coaster.geometry.nearest import nearest
from coaster.geometry.path import Node, Path, Vec2
from coaster.render.evaluate import Evaluation, motion
from coaster.scene.document import Scene
from studio.editor.forms.base import EditForm, Number, Switch, called

FAR = 1_000_000


class PathForm(EditForm):
    """A form about one path, which must not be locked."""

    path = forms.CharField(max_length=40)

    def shape(self, scene: Scene) -> Path:
        """Return the path; it may be shaped. Errors: EditRefused: it is locked. UnknownId."""
        path = scene.path(self.cleaned_data["path"])
        if path.locked:
            raise EditRefused(f"{path.name} is locked; unlock it to shape it.")
        return path

    def shaped(self, scene: Scene, after: Path) -> list[Command]:
        return self.noted(scene, reshaped(scene, after))

    def noted(self, scene: Scene, steps: list[Command]) -> list[Command]:
        """Say whose pegs had to leave their nodes."""
        names = [scene.layer(step.layer_id).name for step in steps if isinstance(step, SetPegs)]
        if names:
            self.notes.append(f"Pegs of {', '.join(names)} stood on nodes; they stand at a share of the length now.")
        return steps


class NodesForm(PathForm):
    """A form about some nodes of a path, their ids parted by blanks."""

    nodes = forms.CharField(max_length=200_000)

    def chosen(self, path: Path) -> list[Node]:
        """Errors: EditRefused: none is named. UnknownId."""
        names = set(self.cleaned_data["nodes"].split())
        found = [node for node in path.nodes() if node.id in names]
        if not names or len(found) < len(names):
            raise EditRefused("A node that was to be changed is not there any more.")
        return found

    def free(self, path: Path) -> list[Node]:
        """Return the chosen nodes that are not locked, and say how many stay behind.

        Errors: EditRefused: all are.
        """
        chosen = self.chosen(path)
        free = [node for node in chosen if not node.locked]
        if not free:
            raise EditRefused("The node is locked; unlock it to change it.")
        if len(free) < len(chosen):
            self.notes.append(f"{called(len(chosen) - len(free), 'locked node')} stayed as they were.")
        return free

    def changed(self, scene: Scene, path: Path, fresh: Iterable[Node]) -> list[Command]:
        return self.shaped(scene, nodes.with_nodes(path, {node.id: node for node in fresh}))


class MoveNodesForm(NodesForm):
    """Move nodes by ``dx``, ``dy`` px, or all to ``x`` or ``y``."""

    name = "node-move"
    dx = Number(-FAR, FAR, unit="px", label="Moved across")
    dy = Number(-FAR, FAR, unit="px", label="Moved down")
    x = Number(-FAR, FAR, unit="px", label="X")
    y = Number(-FAR, FAR, unit="px", label="Y")

    def commands(self, scene: Scene) -> list[Command]:
        path, sent = self.shape(scene), self.cleaned_data
        free = self.free(path)
        if sent["x"] is None and sent["y"] is None:
            by = (sent["dx"] or 0.0, sent["dy"] or 0.0)
            return self.changed(scene, path, [nodes.moved(node, by) for node in free])
        # Typed for several, it lines them up.
        return self.changed(scene, path, [replace(node, position=self._typed(node.position)) for node in free])

    def _typed(self, now: Vec2) -> Vec2:
        x, y = self.cleaned_data["x"], self.cleaned_data["y"]
        return (now[0] if x is None else x, now[1] if y is None else y)


class HandleForm(NodesForm):
    """Set one handle: its offset, or its length and angle.

    ``free`` parts it from the other; ``both`` makes the other its mirror image.
    """

    name = "handle"
    side = forms.ChoiceField(choices=[("in", "in"), ("out", "out")])
    hx = Number(-FAR, FAR, unit="px", label="Handle across")
    hy = Number(-FAR, FAR, unit="px", label="Handle down")
    length = Number(0, FAR, unit="px", label="Handle's length")
    angle = Number(-3600, 3600, unit="°", label="Handle's angle")
    free, both = Switch(), Switch()

    def commands(self, scene: Scene) -> list[Command]:
        path, sent = self.shape(scene), self.cleaned_data
        (node, *more) = NodesForm.free(self, path)
        if more:
            raise EditRefused("A handle belongs to one node; choose one.")
        now = node.handle_in if sent["side"] == "in" else node.handle_out
        offset = (now[0] if sent["hx"] is None else sent["hx"], now[1] if sent["hy"] is None else sent["hy"])
        if sent["length"] is not None or sent["angle"] is not None:
            length = float(np.hypot(*now)) if sent["length"] is None else sent["length"]
            angle = np.arctan2(now[1], now[0]) if sent["angle"] is None else np.radians(sent["angle"])
            offset = (float(length * np.cos(angle)), float(length * np.sin(angle)))
        if sent["both"]:
            node = replace(node, kind="even")
        return self.changed(scene, path, [handles.with_handle(node, sent["side"], offset, free=bool(sent["free"]))])


Natural = dict[str, tuple[Vec2, Vec2]]
CHANGES: dict[str, Callable[[Node, Natural], Node]] = {
    "corner": lambda n, natural: handles.without_handles(n),
    "smooth": lambda n, natural: handles.with_kind(n, "smooth", natural.get(n.id, (n.handle_in, n.handle_out))),
    "even": lambda n, natural: handles.with_kind(n, "even", natural.get(n.id, (n.handle_in, n.handle_out))),
    "auto": lambda n, natural: handles.with_kind(n, "auto", natural.get(n.id, (n.handle_in, n.handle_out))),
    "break": lambda n, natural: handles.with_kind(n, "corner", (n.handle_in, n.handle_out)),
    "round": lambda n, natural: (
        replace(n, kind="smooth", handle_in=natural[n.id][0], handle_out=natural[n.id][1]) if n.id in natural else n
    ),
    "lock": lambda n, natural: replace(n, locked=True),
    "unlock": lambda n, natural: replace(n, locked=False),
    "disable": lambda n, natural: replace(n, disabled=True),
    "enable": lambda n, natural: replace(n, disabled=False),
}
"""What one word does to a node; ``natural`` are the handles its neighbours ask for."""


class ChangeNodesForm(NodesForm):
    """Do to nodes what ``to`` says."""

    name = "node-change"
    to = forms.ChoiceField(choices=[(w, w) for w in CHANGES])

    def commands(self, scene: Scene) -> list[Command]:
        path, to = self.shape(scene), self.cleaned_data["to"]
        chosen = self.chosen(path) if to in ("lock", "unlock") else self.free(path)
        return self.changed(scene, path, changed_to(path, chosen, to))


def changed_to(path: Path, chosen: Iterable[Node], to: str) -> list[Node]:
    """Return nodes of a path with one of the ``CHANGES`` made to each."""
    natural: Natural = {}
    for run in path.subpaths:
        natural |= handles.natural_handles(run, path.strength)
    return [CHANGES[to](node, natural) for node in chosen]


class WeightForm(NodesForm):
    """Weigh the handles of ``auto`` nodes."""

    name = "node-weight"
    weight = Number(0, 1000, unit="%", label="Weight")

    def commands(self, scene: Scene) -> list[Command]:
        path, weight = self.shape(scene), self.cleaned_data["weight"]
        if weight is None:
            raise EditRefused("Weight: a number of percent is missing; it was kept as it was.")
        return self.changed(scene, path, [replace(n, weight=weight / 100, kind="auto") for n in self.free(path)])


class DeleteNodesForm(NodesForm):
    """Delete nodes and heal the curve; all of them delete nothing."""

    name = "node-delete"

    def commands(self, scene: Scene) -> list[Command]:
        path = self.shape(scene)
        gone = self.free(path)
        healed, deviation = nodes.without(path, [node.id for node in gone])
        self.title = f"Delete {called(len(gone), 'node')} of {path.name}"
        if deviation >= 0.05:
            self.notes.append(
                f"{self.title.replace('Delete', 'Deleted')}; the curve moved by {deviation:.1f} px at most."
            )
        return self.shaped(scene, healed)


class InsertNodeForm(PathForm):
    """Put a node on the curve: nearest to ``x``, ``y``, at a share, or where a rider is at a frame."""

    name = "node-insert"
    x = Number(-FAR, FAR, unit="px", label="X")
    y = Number(-FAR, FAR, unit="px", label="Y")
    percent = Number(0, 100, unit="%", label="Place")
    layer = forms.CharField(required=False, max_length=40)
    frame = Number(0, 36_000, label="Frame")

    def commands(self, scene: Scene) -> list[Command]:
        path = self.shape(scene)
        measure, _ = measured(path.subpaths, "jump")
        if self.cleaned_data["percent"] is not None:
            places = measure.locate([self.cleaned_data["percent"] / 100 * measure.length])
            segment, t = places.segment, places.parameter
        else:
            found = nearest(measure.segments, [self._point(scene)])
            segment, t = found.segment, found.parameter
        after, made = nodes.with_node_at(path, int(segment[0]), float(t[0]))
        self.title = f"Put a node on {path.name}"
        self.select = {"path": path.id, "nodes": made}
        return self.shaped(scene, after)

    def _point(self, scene: Scene) -> Vec2:
        sent = self.cleaned_data
        if sent["layer"]:
            rider = scene.layer(sent["layer"])
            return place_of(scene, rider.id, round(sent["frame"] or 0))
        if sent["x"] is None or sent["y"] is None:
            raise EditRefused("Where is the node to be? Click on the curve, or type a share of its length.")
        return sent["x"], sent["y"]


def place_of(scene: Scene, layer_id: str, frame: int) -> Vec2:
    """Return where a layer's anchor is at a frame, px."""
    found = motion(scene.layer(layer_id), scene)
    if found.travel is None:
        return found.layer.transform.position
    x, y = found.travel.position[min(max(frame, 0), Evaluation(scene).frames)]
    return float(x), float(y)


class LandForm(NodesForm):
    """Put one node exactly on a layer's anchor, as it is at a frame."""

    name = "node-land"
    layer = forms.CharField(max_length=40)
    frame = Number(0, 36_000, label="Frame")

    def commands(self, scene: Scene) -> list[Command]:
        path = self.shape(scene)
        (node, *more) = self.free(path)
        layer = scene.layer(self.cleaned_data["layer"])
        if more:
            raise EditRefused("One node lands on a layer; choose one.")
        if layer.ride and layer.ride.path == path.id:
            raise EditRefused(f"{layer.name} rides this path itself, so it cannot be landed on.")
        place = place_of(scene, layer.id, round(self.cleaned_data["frame"] or 0))
        self.title = f"Land {path.name} on {layer.name}"
        return self.changed(scene, path, [replace(node, position=place)])


class CutForm(NodesForm):
    """At nodes: let a closed path start there, cut it, or join two ends."""

    name = "node-cut"
    to = forms.ChoiceField(choices=[(w, w) for w in ("start", "split", "join")])

    def commands(self, scene: Scene) -> list[Command]:
        path, to = self.shape(scene), self.cleaned_data["to"]
        chosen = self.chosen(path)
        if len(chosen) != (2 if to == "join" else 1):
            raise EditRefused("Choose the two ends to join." if to == "join" else "Choose one node for that.")
        self.title = {"start": "Start {} at a node", "split": "Cut {}", "join": "Join ends of {}"}[to].format(path.name)
        if to == "join":
            return self.shaped(scene, arrange.joined(path, chosen[0].id, chosen[1].id))
        if to == "split":
            return self.shaped(scene, arrange.split(path, chosen[0].id))
        return self.noted(scene, turned_round(scene, arrange.started_at(path, chosen[0].id)))
