"""Layers: where they stand, what they show, adding, naming and deleting them."""

from collections.abc import Collection
from dataclasses import replace
from typing import Any

from django import forms

from coaster.commands import Command
from coaster.commands.layers import AddLayer, PlaceLayer, RemoveLayer, RenameLayer, SetKeys
from coaster.commands.paths import RemovePath, RenamePath
from coaster.commands.rides import SetFacing
from coaster.errors import EditRefused
from coaster.geometry.path import Path
from coaster.ids import fresh_id, fresh_name
from coaster.motion import easing
from coaster.render.outlines import missing_letters
from coaster.scene.document import Layer, Line, Scene, Shape, Text, Transform
from studio.editor.forms import keys
from studio.editor.forms.base import COLOUR, EditForm, LayerForm, Number, Switch
from studio.editor.forms.transfers import place_of, standing_still


class PlaceForm(LayerForm):
    name = "place"
    x = Number(-100_000, 100_000, unit="px", label="X")
    y = Number(-100_000, 100_000, unit="px", label="Y")
    scale = Number(-100_000, 100_000, unit="%", label="Scale")
    turn = Number(-3600, 3600, unit="°", label="Turn")
    opacity = Number(0, 100, unit="%", label="Opacity")
    anchor_x = Number(-10_000, 10_000, unit="%", label="Anchor across")
    anchor_y = Number(-10_000, 10_000, unit="%", label="Anchor down")
    frame = Number(0, 36_000, label="Frame")
    pin = Switch()

    def commands(self, scene: Scene) -> list[Command]:
        layer = scene.layer(self.cleaned_data["layer"])
        steps: list[Command] = [PlaceLayer(layer.id, self._placed(layer.transform))]
        for name in ("x", "y", "scale", "turn", "opacity"):
            value = self.cleaned_data[name]
            if value is None or name not in self.data:
                continue
            value /= keys.FACTORS.get(name, 1.0)
            frame, pin = self.cleaned_data["frame"] or 0.0, bool(self.cleaned_data["pin"])
            made = keys.keyed(layer, name, value, frame, easing.Bezier(*scene.pace), pin=pin)
            if made is not None:
                steps.append(SetKeys(layer.id, name, made))
        if len(steps) > 1:
            self.title = f"Keys of {layer.name}"
        # Where there are keys, what the transform says rests, and stays as it was.
        rests = {step.property for step in steps if isinstance(step, SetKeys)}
        if rests:
            steps[0] = PlaceLayer(layer.id, self._placed(layer.transform, rests))
        return steps

    def _placed(self, now: Transform, rests: Collection[str] = ()) -> Transform:
        sent = {name: value for name, value in self.sent(*self.fields).items() if name not in rests}
        scale = sent["scale"] / 100 if "scale" in sent else None
        ratio = now.scale[1] / now.scale[0] if now.scale[0] else 1.0
        return Transform(
            position=(sent.get("x", now.position[0]), sent.get("y", now.position[1])),
            anchor=(sent.get("anchor_x", now.anchor[0] * 100) / 100, sent.get("anchor_y", now.anchor[1] * 100) / 100),
            scale=now.scale if scale is None else (scale, scale * ratio),
            turn=sent.get("turn", now.turn),
            opacity=sent.get("opacity", now.opacity * 100) / 100,
        )


class TextForm(keys.ContentForm):
    name = "text"
    text = forms.CharField(required=False, max_length=2000, strip=False, label="Text")
    font = forms.ChoiceField(required=False, choices=[(f, f) for f in ("Bricolage Grotesque", "Figtree")])
    weight = Number(300, 800, label="Weight")
    size = Number(1, 2000, unit="px", label="Size")
    colour = COLOUR
    align = forms.ChoiceField(required=False, choices=[(a, a) for a in ("left", "centre", "right")])
    leading = Number(0.5, 4, label="Leading")

    def commands(self, scene: Scene) -> list[Command]:
        layer = scene.layer(self.cleaned_data["layer"])
        if not isinstance(layer.content, Text):
            raise EditRefused(f"{layer.name} is no text.")
        if "text" in self.data and not self.cleaned_data["text"].strip():
            raise EditRefused("A text needs at least one letter; it was kept as it was.")
        values = {k: v for k, v in self.sent(*self.fields).items() if k not in ("layer", "frame", "pin") and v != ""}
        if "weight" in values:
            values["weight"] = round(values["weight"])
        content = replace(layer.content, **values)
        if missing := missing_letters(content):
            raise EditRefused(f"{content.font} has no letter for “{missing[:8]}”; the text was kept as it was.")
        return self.filled(scene, layer, content, values)


class ShapeForm(keys.ContentForm):
    name = "shape"
    figure = forms.ChoiceField(
        required=False, choices=[(f, f) for f in ("rectangle", "ellipse", "polygon", "star")], label="Figure"
    )
    width = Number(0.1, 100_000, unit="px", label="Width")
    height = Number(0.1, 100_000, unit="px", label="Height")
    fill, stroke = COLOUR, COLOUR
    filled, stroked = Switch(), Switch()
    stroke_width = Number(0, 1000, unit="px", label="Stroke width")
    radius = Number(0, 100_000, unit="px", label="Corner radius")
    points = Number(3, 100, label="Points")
    inner = Number(0.01, 100, unit="%", label="Inner radius")

    def commands(self, scene: Scene) -> list[Command]:
        layer = scene.layer(self.cleaned_data["layer"])
        if not isinstance(layer.content, Shape):
            raise EditRefused(f"{layer.name} is no shape.")
        sent = self.sent("figure", "width", "height", "fill", "stroke", "stroke_width", "radius", "points", "inner")
        values = {k: v for k, v in sent.items() if v != ""}
        if "points" in values:
            values["points"] = round(values["points"])
        if "inner" in values:
            values["inner"] /= 100
        if self.cleaned_data["filled"] is not None:
            values["fill"] = (layer.content.fill or "#3cb38b") if self.cleaned_data["filled"] else None
        if self.cleaned_data["stroked"] is not None:
            values |= {"stroke": "#16222e", "stroke_width": 6.0} if self.cleaned_data["stroked"] else {"stroke": None}
        return self.filled(scene, layer, replace(layer.content, **values), values)


class LineForm(keys.ContentForm):
    name = "line"
    colour = COLOUR
    width = Number(0.1, 1000, unit="px", label="Width")
    dash_on = Number(0.1, 10_000, unit="px", label="Dash")
    dash_off = Number(0.1, 10_000, unit="px", label="Space")
    dashed = Switch()

    def commands(self, scene: Scene) -> list[Command]:
        layer = scene.layer(self.cleaned_data["layer"])
        line, sent = layer.content, self.cleaned_data
        if not isinstance(line, Line):
            raise EditRefused(f"{layer.name} is no line.")
        dash = line.dash
        if sent["dashed"] is not None:
            dash = (line.width * 3, line.width * 3) if sent["dashed"] else None
        if sent["dash_on"] or sent["dash_off"]:
            on, off = dash or (line.width * 3, line.width * 3)
            dash = (sent["dash_on"] or on, sent["dash_off"] or off)
        changed = replace(line, colour=sent["colour"] or line.colour, width=sent["width"] or line.width, dash=dash)
        asked = [name for name in ("colour", "width") if sent[name]]
        return self.filled(scene, layer, changed, asked)


class RenameForm(EditForm):
    name = "rename"
    layer = forms.CharField(required=False, max_length=40)
    path = forms.CharField(required=False, max_length=40)
    title = forms.CharField(max_length=80, label="Name")

    def commands(self, scene: Scene) -> list[Command]:
        if self.cleaned_data["path"]:
            return [RenamePath(self.cleaned_data["path"], self.cleaned_data["title"])]
        return [RenameLayer(self.cleaned_data["layer"], self.cleaned_data["title"])]


class DeleteForm(EditForm):
    """Delete a layer, or a path: its riders stay where they are, its lines go with it."""

    name = "delete"
    layer = forms.CharField(required=False, max_length=40)
    path = forms.CharField(required=False, max_length=40)
    frame = Number(0, 36_000, label="Frame")

    def commands(self, scene: Scene) -> list[Command]:
        if self.cleaned_data["layer"]:
            return [*looks_elsewhere(scene, self.cleaned_data["layer"]), RemoveLayer(self.cleaned_data["layer"])]
        path = scene.path(self.cleaned_data["path"])
        frame = round(self.cleaned_data["frame"] or 0)
        steps: list[Command] = []
        self.title = f"Delete {path.name}"
        riders = [layer.name for layer in scene.riders_of(path.id)]
        if riders:
            stay = "stays where it was" if len(riders) == 1 else "stay where they were"
            self.notes.append(f"{path.name} is deleted; {', '.join(riders)} {stay}. Undo brings the ride back.")
        for user in scene.users_of(path.id):
            steps += [RemoveLayer(user.id)] if user.ride is None else standing_still(scene, user.id, frame)
            if user.ride is None:
                steps = [*looks_elsewhere(scene, user.id), *steps]
        return [*steps, RemovePath(path.id)]


class AddForm(EditForm):
    """Add a text, a figure, or a line along a path; at ``x``, ``y`` or in the middle."""

    name = "add"
    what = forms.ChoiceField(choices=[(w, w) for w in ("text", "rectangle", "ellipse", "star", "polygon", "line")])
    path = forms.CharField(required=False, max_length=40)
    x = Number(-100_000, 100_000, label="X")
    y = Number(-100_000, 100_000, label="Y")

    def commands(self, scene: Scene) -> list[Command]:
        sent, what = self.cleaned_data, self.cleaned_data["what"]
        if what == "line":
            path = scene.path(sent["path"])
            layer = new_layer(scene, f"Line on {path.name}"[:80], Line(path.id), Transform())
            return [AddLayer(layer, behind_riders(scene, path))]
        content: Text | Shape
        if what == "text":
            content, title = Text("New text", size=float(max(round(scene.height / 11), 8))), "New text"
        else:
            side = float(max(round(scene.height / 6), 8))
            content, title = Shape(what, side, side), what.capitalize()
        x, y = sent["x"], sent["y"]
        place = (scene.width / 2 if x is None else x, scene.height / 2 if y is None else y)
        return [AddLayer(new_layer(scene, title, content, Transform(place)))]


def looks_elsewhere(scene: Scene, layer_id: str) -> list[Command]:
    """Return the commands that let those who look at a layer look at the place where it is when the scene starts."""
    steps: list[Command] = []
    for layer in scene.layers:
        if layer.ride is not None and layer.ride.facing.target == layer_id:
            x, y = place_of(scene, layer_id, 0)
            steps.append(SetFacing(layer.id, replace(layer.ride.facing, target=None, spot=(round(x, 3), round(y, 3)))))
    return steps


def behind_riders(scene: Scene, path: Path) -> int:
    """Return the place in the order just behind whatever rides a path, or the front."""
    riders = [i for i, x in enumerate(scene.layers) if x.ride and x.ride.path == path.id]
    return min(riders, default=len(scene.layers))


def new_layer(scene: Scene, title: str, content: Any, transform: Transform) -> Layer:
    """Return a layer with an id and a name that the scene does not have yet."""
    name = fresh_name(title, {x.name for x in scene.layers})
    return Layer(fresh_id(name, {x.id for x in scene.layers}, "layer"), name, content, transform)
