"""What every form of the editor is: it reads fields, leaves those that were not sent, and calls a
plan.
"""

from collections.abc import Mapping
from typing import Any, ClassVar

from django import forms
from django.contrib.auth.models import AnonymousUser, User

from coaster.edits.edit import Edit
from coaster.edits.keys import Moment
from coaster.scene.document import Scene
from coaster.scene.properties import Property
from studio.forms import Number, Switch

Person = User | AnonymousUser
FORMS: dict[str, type["EditForm"]] = {}
FAR = 1_000_000
SEEN_FROM = [("above", "above"), ("side", "side")]
"""From where a scene is drawn beside its picture."""


class EditForm(forms.Form):
    """A part of the card or a tool; ``edit`` gives what it asks for on the scene as it stands."""

    name: ClassVar[str]
    scene_pk: int
    """Which scene it is about, as the studio knows it."""

    def __init_subclass__(cls) -> None:
        super().__init_subclass__()
        # Those without a name are what several forms have in common.
        if hasattr(cls, "name"):
            FORMS[cls.name] = cls

    def edit(self, scene: Scene, person: Person) -> Edit:
        raise NotImplementedError

    def sent(self, *names: str) -> dict[str, Any]:
        """Return the fields that were sent, blank ones left out."""
        # What was not sent stays as it is: the card has a form for a part, not for all of it.
        found = {name: self.cleaned_data.get(name) for name in names if name in self.data}
        return {name: value for name, value in found.items() if value not in (None, "")}

    def given(self, name: str) -> Any:
        return self.cleaned_data[name]

    def numbers(self, prefix: str, factors: Mapping[str, float]) -> dict[str, float]:
        """Return the numbers that were sent in fields of these names behind a prefix, so many times
        as large; by their names, without the ``_s`` of seconds.
        """
        said = {name: self.given(f"{prefix}_{name}") for name in factors}
        return {
            name.removesuffix("_s"): round(value * factors[name], 9)
            for name, value in said.items()
            if value is not None
        }

    def number(self, name: str, usual: float = 0.0) -> float:
        found = self.cleaned_data[name]
        return usual if found is None else float(found)


class LayerForm(EditForm):
    """A form about one layer."""

    layer = forms.CharField(max_length=40)

    @property
    def layer_id(self) -> str:
        return str(self.cleaned_data["layer"])


class MomentForm(LayerForm):
    """A form about one layer at the playhead, where with ``pin`` what is set makes a key."""

    frame = Number(0, 36_000, label="Frame")
    pin = Switch()

    @property
    def moment(self) -> Moment:
        return Moment(self.number("frame"), bool(self.cleaned_data["pin"]))


class PropertiesForm(MomentForm):
    """A form with a field for each of some properties, in the units that a person reads."""

    rows: ClassVar[Mapping[str, Property]]

    def __init__(self, *values: Any, **options: Any) -> None:
        super().__init__(*values, **options)
        for row in self.rows.values():
            low, high = row.low * row.factor, row.high * row.factor
            self.fields[row.name] = Number(low, high, unit=row.unit, label=row.words)

    def properties(self) -> dict[str, float]:
        """Return those that were sent, in the document's units."""
        return {n: value / self.rows[n].factor for n, value in self.sent(*self.rows).items()}


class LayersForm(EditForm):
    """A form about some layers, their ids parted by blanks."""

    layers = forms.CharField(max_length=200_000)
    frame = Number(0, 36_000, label="Frame")

    @property
    def layer_ids(self) -> list[str]:
        return str(self.cleaned_data["layers"]).split()
