"""Layers: where they stand, what they show, adding, naming and deleting them, and groups."""

from typing import Any

from django import forms

from coaster.edits import becoming, frames, groups, layers
from coaster.edits.edit import Edit
from coaster.scene.contents import ALIGNS, CAPS, FIGURES, JOINS, MOST_LETTERS, SIDES
from coaster.scene.document import Scene
from coaster.scene.properties import TABLE
from studio.editor.forms.base import (
    FAR,
    SEEN_FROM,
    EditForm,
    LayerForm,
    LayersForm,
    MomentForm,
    Person,
    PropertiesForm,
)
from studio.editor.forms.nodes import PointedForm
from studio.forms import ALPHA, COLOUR, Number, Switch

PLACED = {row.name: row for row in TABLE if row.home == "transform"}
"""Properties of where a layer stands."""


def choices(words: tuple[str, ...], **options: Any) -> forms.ChoiceField:
    return forms.ChoiceField(required=False, choices=[(word, word) for word in words], **options)


def alphas(form: EditForm, *colours: str) -> dict[str, float]:
    """Return how opaque colours are to be, 0..1, as far as that was sent."""
    sent = form.sent(*(f"{colour}_alpha" for colour in colours))
    return {name: percent / 100 for name, percent in sent.items()}


class PlaceForm(PropertiesForm):
    """Properties of where a layer stands; ``to_x``, ``to_y`` is a place of the scene, of which with
    ``only`` one axis is taken, ``dx``, ``dy`` a nudge, of all ``layers`` if there are several.
    """

    name = "place"
    rows = PLACED
    anchor_x = Number(-10_000, 10_000, unit="%", label="Anchor across")
    anchor_y = Number(-10_000, 10_000, unit="%", label="Anchor down")
    scale_x, scale_y = (Number(-100_000, 100_000, unit="%", label="Stretch") for _ in range(2))
    off_x, off_y = (Number(-FAR, FAR, unit="px", label="Off its path") for _ in range(2))
    to_x, to_y = (Number(-FAR, FAR, unit="px", label=axis) for axis in "XY")
    dx, dy = (Number(-FAR, FAR, unit="px", label="Moved") for _ in range(2))
    only = forms.ChoiceField(required=False, choices=[(axis, axis) for axis in "xy"])
    layers = forms.CharField(required=False, max_length=200_000)
    seen_from = forms.ChoiceField(required=False, choices=SEEN_FROM)

    def edit(self, scene: Scene, person: Person) -> Edit:
        to, by = self.sent("to_x", "to_y"), self.sent("dx", "dy")
        side = self.given("seen_from") or None
        if len(to) == 2:
            place = to["to_x"], to["to_y"]
            only = self.given("only")
            if side:
                return layers.move_beside(scene, self.layer_id, place, self.moment, side)
            return layers.move_to(scene, self.layer_id, place, self.moment, only=only)
        if by:
            shift = by.get("dx", 0.0), by.get("dy", 0.0)
            named = self.given("layers").split() or [self.layer_id]
            return layers.nudge(scene, named, shift, self.moment, side)
        if self.sent("off_x", "off_y"):
            off = self.given("off_x"), self.given("off_y")
            return frames.put_off_path(scene, self.layer_id, off)
        anchor, scale = self._pair("anchor"), self._pair("scale")
        return layers.place(
            scene, self.layer_id, self.properties(), self.moment, anchor=anchor, scale=scale
        )

    def _pair(self, name: str) -> tuple[float | None, float | None]:
        """Return what was sent across and down, as shares."""
        sent = self.sent(f"{name}_x", f"{name}_y")
        across, down = (sent[n] / 100 if n in sent else None for n in (f"{name}_x", f"{name}_y"))
        return across, down


class TextForm(MomentForm):
    name = "text"
    text = forms.CharField(
        required=False,
        max_length=MOST_LETTERS,
        strip=False,
        label="Text",
        error_messages={
            "max_length": "it has %(show_value)d letters, and may have %(limit_value)d; it was kept"
            " as it was."
        },
    )
    font = forms.CharField(required=False, max_length=90)
    weight = Number(1, 1000, label="Weight")
    size = Number(1, 2000, unit="px", label="Size")
    colour, colour_alpha = COLOUR, ALPHA
    align = choices(ALIGNS)
    leading = Number(0.5, 4, label="Leading")
    tracking = Number(-50, 500, unit="%", label="Tracking")
    wrap = Number(1, 100_000, unit="px", label="Wrapped at")
    wrapped, stroked, italic = Switch(), Switch(), Switch()
    stroke, stroke_alpha = COLOUR, ALPHA
    stroke_width = Number(0, 1000, unit="px", label="Stroke width")

    def edit(self, scene: Scene, person: Person) -> Edit:
        values = self.sent("font", "weight", "size", "colour", "align", "leading", "wrap")
        values |= self.sent("stroke", "stroke_width") | alphas(self, "colour", "stroke")
        if self.given("tracking") is not None:
            values["tracking"] = self.given("tracking") / 100
        # An empty text is a text: whether it was sent says whether it is meant.
        if "text" in self.data:
            values["text"] = self.given("text")
        if "weight" in values:
            values["weight"] = round(values["weight"])
        if self.given("italic") is not None:
            values["italic"] = self.given("italic")
        switches = {name: self.given(name) for name in ("stroked", "wrapped")}
        return layers.text_look(scene, self.layer_id, values, self.moment, **switches)


class StrokeForm(MomentForm):
    """What shapes and lines have in common: how their stroke goes."""

    cap, join = choices(CAPS, label="Ends"), choices(JOINS, label="Corners")
    dash_on = Number(0.1, 10_000, unit="px", label="Dash")
    dash_off = Number(0.1, 10_000, unit="px", label="Space")
    dash_offset = Number(-1e6, 1e6, unit="px", label="Dash offset")
    dashed = Switch()

    def stroke_look(self) -> tuple[dict[str, Any], dict[str, Any]]:
        """Return the fields that were sent, and what is asked of the dashes."""
        dash = self.given("dash_on"), self.given("dash_off")
        fields = self.sent("cap", "join", "dash_offset")
        return fields, {"dashed": self.given("dashed"), "dash": dash}


class ShapeForm(StrokeForm):
    name = "shape"
    figure = choices(FIGURES, label="Figure")
    width = Number(0.1, 100_000, unit="px", label="Width")
    height = Number(0.1, 100_000, unit="px", label="Height")
    fill, stroke = COLOUR, COLOUR
    fill_alpha, stroke_alpha = ALPHA, ALPHA
    filled, stroked = Switch(), Switch()
    side = choices(SIDES, label="Side")
    stroke_width = Number(0, 1000, unit="px", label="Stroke width")
    radius = Number(0, 100_000, unit="px", label="Corner radius")
    points = Number(3, 100, label="Points")
    inner = Number(0.01, 100, unit="%", label="Inner radius")

    def edit(self, scene: Scene, person: Person) -> Edit:
        fields = ("figure", "width", "height", "fill", "stroke", "stroke_width", "radius")
        values = self.sent(*fields, "points", "inner", "side") | alphas(self, "fill", "stroke")
        if "points" in values:
            values["points"] = round(values["points"])
        if "inner" in values:
            values["inner"] /= 100
        switches = {name: self.given(name) for name in ("filled", "stroked")}
        stroke, dashes = self.stroke_look()
        values |= stroke
        return layers.shape_look(scene, self.layer_id, values, self.moment, **switches, **dashes)


class LineForm(StrokeForm):
    name = "line"
    colour, colour_alpha = COLOUR, ALPHA
    fill, fill_alpha = COLOUR, ALPHA
    filled, stroked = Switch(), Switch()
    width = Number(0.1, 1000, unit="px", label="Width")
    begin = Number(0, 100, unit="%", label="Drawn from")
    end = Number(0, 100, unit="%", label="Drawn to")
    trail = Number(0.1, 100_000, unit="px", label="Tail")
    trail_s = Number(0.001, 3600, unit="s", label="Tail")
    side = choices(("behind", "ahead"))
    thin_tail = Number(0, 100, unit="%", label="Width of its tail")
    thin_tip = Number(0, 100, unit="%", label="Width of its tip")
    fade = Number(0, 100, unit="%", label="Strength of its tail")

    def edit(self, scene: Scene, person: Person) -> Edit:
        fields, dashes = self.stroke_look()
        values = self.sent("colour", "fill", "width") | alphas(self, "colour", "fill") | fields
        shares = self.sent("begin", "end", "fade", "thin_tail", "thin_tip")
        percent = {name: value / 100 for name, value in shares.items()}
        thin = percent.pop("thin_tail", None), percent.pop("thin_tip", None)
        if self.given("side"):
            values["ahead"] = self.given("side") == "ahead"
        values |= percent | self._trail(scene)
        switches = {name: self.given(name) for name in ("filled", "stroked")}
        return layers.line_look(
            scene, self.layer_id, values, self.moment, **switches, **dashes, thin=thin
        )

    def _trail(self, scene: Scene) -> dict[str, Any]:
        """Return how much of it is drawn behind its rider: px, or what it came by in a time."""
        if self.given("trail_s") is not None:
            return {"trail": round(self.given("trail_s") * scene.fps, 9), "trail_in": "frames"}
        # Sent but empty is all of it.
        blank = "trail" in self.data or "trail_s" in self.data
        return {"trail": self.given("trail"), "trail_in": "px"} if blank else {}


class LayerTimeForm(LayerForm):
    """From when till when a layer is shown; blank is always."""

    name = "layer-time"
    from_s = Number(-1200, 1200, unit="s", label="Shown from")
    to_s = Number(-1200, 1200, unit="s", label="Shown to")
    from_f = Number(-36_000, 36_000, label="Shown from frame")
    to_f = Number(-36_000, 36_000, label="Shown to frame")
    always = forms.BooleanField(required=False)

    def edit(self, scene: Scene, person: Person) -> Edit:
        if self.given("always"):
            return layers.show_always(scene, self.layer_id)
        begin, end = (self._frames(side, scene.fps) for side in ("from", "to"))
        return layers.show_in_time(scene, self.layer_id, begin, end)

    def _frames(self, side: str, fps: float) -> float | None:
        frames, seconds = self.given(f"{side}_f"), self.given(f"{side}_s")
        if frames is not None or seconds is None:
            return None if frames is None else float(frames)
        return round(seconds * fps, 9)


class RenameForm(EditForm):
    name = "rename"
    layer = forms.CharField(required=False, max_length=40)
    path = forms.CharField(required=False, max_length=40)
    title = forms.CharField(max_length=80, label="Name")

    def edit(self, scene: Scene, person: Person) -> Edit:
        layer_id, path_id = self.given("layer"), self.given("path")
        return layers.rename(scene, self.given("title"), layer_id=layer_id, path_id=path_id)


class DeleteForm(EditForm):
    """Delete layers, or a path: its riders stay where they are, its lines go with it."""

    name = "delete"
    layer = forms.CharField(required=False, max_length=200_000)
    path = forms.CharField(required=False, max_length=40)
    frame = Number(0, 36_000, label="Frame")

    def edit(self, scene: Scene, person: Person) -> Edit:
        if self.given("layer"):
            return layers.delete_layers(scene, self.given("layer").split(), self.number("frame"))
        return layers.delete_path(scene, self.given("path"), self.number("frame"))


class AddForm(PointedForm):
    """Add a text, a figure, or a line along a path; at ``x``, ``y`` or in the middle, a figure so
    wide and high.
    """

    name = "add"
    what = forms.ChoiceField(choices=[(w, w) for w in layers.NEW_THINGS])
    path = forms.CharField(required=False, max_length=40)
    x = Number(-100_000, 100_000, label="X")
    y = Number(-100_000, 100_000, label="Y")
    width = Number(0.01, 100_000, unit="px", label="Width")
    height = Number(0.01, 100_000, unit="px", label="Height")

    def edit(self, scene: Scene, person: Person) -> Edit:
        at = self.given("x"), self.given("y")
        size = self.given("width"), self.given("height")
        named, space = self.given("path"), self.pointed(scene, None)
        return layers.add(scene, self.given("what"), path_id=named, at=at, size=size, space=space)


class BecomeForm(LayerForm):
    """Make a shape a path that is filled and stroked as it was, or that a shape again."""

    name = "become"
    to = forms.ChoiceField(choices=[(w, w) for w in ("path", "shape")])
    frame = Number(0, 36_000, label="Frame")

    def edit(self, scene: Scene, person: Person) -> Edit:
        become = becoming.to_path if self.given("to") == "path" else becoming.to_shape
        return become(scene, self.layer_id, self.number("frame"))


class OrderForm(LayerForm):
    name = "order"
    to = forms.ChoiceField(choices=[(w, w) for w in ("front", "back", "up", "down")])

    def edit(self, scene: Scene, person: Person) -> Edit:
        return layers.order(scene, self.layer_id, self.given("to"))


class GroupForm(LayersForm):
    """Make a group of layers."""

    name = "group"

    def edit(self, scene: Scene, person: Person) -> Edit:
        return groups.group(scene, self.layer_ids, self.number("frame"))


class UngroupForm(LayerForm):
    """Dissolve a group; what was in it stays as it is seen at a frame."""

    name = "ungroup"
    frame = Number(0, 36_000, label="Frame")

    def edit(self, scene: Scene, person: Person) -> Edit:
        return groups.ungroup(scene, self.layer_id, self.number("frame"))


class PutForm(LayersForm):
    """Move layers into a group, or out of all, to a place among its members from the back."""

    name = "put"
    parent = forms.CharField(required=False, max_length=40)
    place = Number(0, 100_000, label="Place")

    def edit(self, scene: Scene, person: Person) -> Edit:
        parent, place = self.given("parent") or None, self.given("place")
        number = None if place is None else round(place)
        return groups.put_into(scene, self.layer_ids, parent, number, self.number("frame"))
