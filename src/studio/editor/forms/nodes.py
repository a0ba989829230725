"""Nodes and handles of a path: putting in, moving, shaping, taking out."""

from django import forms

from coaster.edits import nodes
from coaster.edits.edit import Edit
from coaster.edits.spaces import Space, beside, space_of
from coaster.errors import EditRefused
from coaster.scene.document import Scene
from studio.editor.forms.base import FAR, SEEN_FROM, EditForm, Person
from studio.forms import Number, Switch


class PointedForm(EditForm):
    """A form with places that are pointed at: on the stage, or on the drawing of the scene from a
    side. They come with the frame they are ``seen_at``; what is made lies in a plane at ``level``.
    """

    seen_at = Number(0, 36_000, label="Frame")
    seen_from = forms.ChoiceField(required=False, choices=SEEN_FROM)
    level = Number(-FAR, FAR, unit="px", label="Plane")

    def pointed(self, scene: Scene, parent: str | None, z: float | None = None) -> Space:
        """Return the space of a group, in which what is there lies at ``z``, or at the level."""
        frame, level = self.given("seen_at"), self.number("level")
        if side := self.given("seen_from"):
            return beside(scene, parent, frame or 0.0, side, level)
        return space_of(scene, parent, frame, level if z is None else z)


class PathForm(PointedForm):
    """A form about one path."""

    path = forms.CharField(max_length=40)

    @property
    def path_id(self) -> str:
        return str(self.cleaned_data["path"])

    def space(self, scene: Scene) -> Space:
        return self.pointed(scene, scene.path(self.path_id).parent, 0.0)


class NodesForm(PathForm):
    """A form about some nodes of a path, their ids parted by blanks."""

    nodes = forms.CharField(max_length=200_000)

    @property
    def node_ids(self) -> list[str]:
        return str(self.cleaned_data["nodes"]).split()

    def space(self, scene: Scene) -> Space:
        """Return the space in which the first of the nodes lies, as deep as it is."""
        path, ids = scene.path(self.path_id), self.node_ids
        z = next((node.z for node in path.nodes() if node.id in ids), 0.0)
        return self.pointed(scene, path.parent, z)


class MoveNodesForm(NodesForm):
    """Move nodes by ``dx``, ``dy`` px, or all to ``x``, ``y`` or so ``deep``."""

    name = "node-move"
    dx = Number(-FAR, FAR, unit="px", label="Moved across")
    dy = Number(-FAR, FAR, unit="px", label="Moved down")
    x = Number(-FAR, FAR, unit="px", label="X")
    y = Number(-FAR, FAR, unit="px", label="Y")
    deep = Number(-FAR, FAR, unit="px", label="Depth")

    def edit(self, scene: Scene, person: Person) -> Edit:
        to = self.given("x"), self.given("y"), self.given("deep")
        if any(each is not None for each in to):
            return nodes.line_up(scene, self.path_id, self.node_ids, *to)
        by = self.number("dx"), self.number("dy")
        return nodes.move(scene, self.path_id, self.node_ids, by, self.space(scene))


class HandleForm(NodesForm):
    """Set one handle: its offset, its length and angle, or how far behind its node it ends.

    ``free`` parts it from the other; ``both`` makes the other its mirror image.
    """

    name = "handle"
    side = forms.ChoiceField(choices=[("in", "in"), ("out", "out")])
    hx = Number(-FAR, FAR, unit="px", label="Handle across")
    hy = Number(-FAR, FAR, unit="px", label="Handle down")
    length = Number(0, FAR, unit="px", label="Handle's length")
    angle = Number(-3600, 3600, unit="°", label="Handle's angle")
    deep = Number(-FAR, FAR, unit="px", label="Handle's depth")
    free, both = Switch(), Switch()

    def edit(self, scene: Scene, person: Person) -> Edit:
        numbers = (self.given(name) for name in ("hx", "hy", "length", "angle", "deep"))
        return nodes.set_handle(
            scene,
            self.path_id,
            self.node_ids,
            nodes.HandleChange(self.given("side"), *numbers),
            parted=bool(self.given("free")),
            both=bool(self.given("both")),
            space=self.space(scene),
        )


class ChangeNodesForm(NodesForm):
    """Do to nodes what ``to`` says."""

    name = "node-change"
    to = forms.ChoiceField(choices=[(word, word) for word in nodes.CHANGES])

    def edit(self, scene: Scene, person: Person) -> Edit:
        return nodes.change(scene, self.path_id, self.node_ids, self.given("to"))


class WeightForm(NodesForm):
    """Weigh the handles of ``auto`` nodes."""

    name = "node-weight"
    weight = Number(0, 1000, unit="%", label="Weight")

    def edit(self, scene: Scene, person: Person) -> Edit:
        weight = self.given("weight")
        if weight is None:
            raise EditRefused("Weight: a number of percent is missing; it was kept as it was.")
        return nodes.weigh(scene, self.path_id, self.node_ids, weight / 100)


class DeleteNodesForm(NodesForm):
    name = "node-delete"

    def edit(self, scene: Scene, person: Person) -> Edit:
        return nodes.delete(scene, self.path_id, self.node_ids)


class InsertNodeForm(PathForm):
    """Put a node on the curve: nearest to ``x``, ``y``, at a share, or where a rider is at
    a frame.
    """

    name = "node-insert"
    x = Number(-FAR, FAR, unit="px", label="X")
    y = Number(-FAR, FAR, unit="px", label="Y")
    percent = Number(0, 100, unit="%", label="Place")
    layer = forms.CharField(required=False, max_length=40)
    frame = Number(0, 36_000, label="Frame")

    def edit(self, scene: Scene, person: Person) -> Edit:
        percent, x, y = (self.given(name) for name in ("percent", "x", "y"))
        if percent is not None:
            return nodes.insert_at_share(scene, self.path_id, percent / 100)
        if self.given("layer"):
            frame = self.number("frame")
            return nodes.insert_under(scene, self.path_id, self.given("layer"), frame)
        if x is None or y is None:
            raise EditRefused(
                "Where is the node to be? Click on the curve, or type a share of its length."
            )
        return nodes.insert_near(scene, self.path_id, (x, y), self.space(scene))


class LandForm(NodesForm):
    """Put one node exactly on a layer's anchor, as it is at a frame."""

    name = "node-land"
    layer = forms.CharField(max_length=40)
    frame = Number(0, 36_000, label="Frame")

    def edit(self, scene: Scene, person: Person) -> Edit:
        layer, frame = self.given("layer"), self.number("frame")
        return nodes.land(scene, self.path_id, self.node_ids, layer, frame)


CUTS = {"start": nodes.start_at, "split": nodes.split_at, "join": nodes.join_ends}


class CutForm(NodesForm):
    """At nodes: let a closed path start there, cut it, or join two ends."""

    name = "node-cut"
    to = forms.ChoiceField(choices=[(word, word) for word in CUTS])

    def edit(self, scene: Scene, person: Person) -> Edit:
        return CUTS[self.given("to")](scene, self.path_id, self.node_ids)
