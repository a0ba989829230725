"""Several layers at once: one value for all, lined up, spread evenly."""

from typing import Any

from django import forms

from coaster.edits import several
from coaster.edits.edit import Edit
from coaster.edits.keys import Moment
from coaster.errors import EditRefused
from coaster.scene.document import Scene
from coaster.scene.properties import NAMES, PROPERTIES
from studio.editor.forms.base import FAR, LayersForm, Person
from studio.editor.forms.layers import choices
from studio.forms import COLOUR, Number, Switch


class SeveralForm(LayersForm):
    """One property of all chosen layers that have it, in the units a person reads: set, added to,
    or multiplied by a plain factor.
    """

    name = "several"
    property = forms.ChoiceField(choices=[(name, name) for name in NAMES])
    how = choices(several.HOWS)
    value = forms.CharField(max_length=40, label="Value")
    pin = Switch()

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if "property" in data and "value" in data:
            try:
                data["value"] = self._read(data["property"], data["value"], data.get("how", ""))
            except forms.ValidationError as error:
                self.add_error("value", error)
        return data

    def _read(self, name: str, text: str, how: str) -> float | str | None:
        """Return a value in the document's units, or a plain factor."""
        row = PROPERTIES[name]
        if row.kind == "colour":
            return str(COLOUR.clean(text))
        if how == "times":
            return Number(-FAR, FAR, label="Factor").clean(text)
        limits = (row.low, row.high) if how in ("", "set") else (-FAR, FAR)
        low, high = (limit * row.factor for limit in limits)
        found = Number(low, high, unit=row.unit, label=row.words).clean(text)
        return None if found is None else found / row.factor

    def edit(self, scene: Scene, person: Person) -> Edit:
        moment = Moment(self.number("frame"), bool(self.given("pin")))
        how: several.How = self.given("how") or "set"
        name, value = self.given("property"), self.given("value")
        return several.set_all(scene, self.layer_ids, name, value, how, moment)


class LineUpForm(LayersForm):
    """Bring a ``side`` of layers to the frame's or to that of all of them, or leave the same room
    between them one ``way``, or along the line from the first to the last.
    """

    name = "line-up"
    side = choices(several.SIDES)
    way = choices((*several.WAYS, "line"))
    to = choices(("frame", "each other"))
    pin = Switch()

    def edit(self, scene: Scene, person: Person) -> Edit:
        moment = Moment(self.number("frame"), bool(self.given("pin")))
        if self.given("way") == "line":
            return several.along_line(scene, self.layer_ids, moment)
        if self.given("way"):
            return several.distribute(scene, self.layer_ids, self.given("way"), moment)
        to_frame = self.given("to") != "each other"
        side: several.Side | None = self.given("side") or None
        if side is None:
            raise EditRefused("Nothing says by which side they are to be lined up.")
        return several.align(scene, self.layer_ids, side, moment, to_frame=to_frame)
