"""What every form of the editor is: it takes only the fields that were sent, and leaves the others."""

import math
from typing import Any, ClassVar

from django import forms
from django.contrib.auth.models import AnonymousUser, User

from coaster.commands import Command
from coaster.errors import FormatError
from coaster.motion import easing
from coaster.scene.document import Scene

LONGEST_WORDS = 240
FORMS: dict[str, type["EditForm"]] = {}


class Number(forms.FloatField):
    """A number with a unit in its complaints; nan and infinity are none."""

    def __init__(self, low: float, high: float, *, unit: str = "", **options: Any) -> None:
        super().__init__(required=False, **options)
        self.low, self.high, self.unit = low, high, unit

    def to_python(self, value: Any) -> float | None:
        text = str(value or "").strip().replace(",", ".").removesuffix(self.unit).strip()
        if not text:
            return None
        try:
            number = float(text)
        except ValueError:
            number = math.nan
        if not math.isfinite(number):
            raise forms.ValidationError(f"“{value}” is no number.")
        if not self.low <= number <= self.high:
            unit = f" {self.unit}" if self.unit else ""
            raise forms.ValidationError(f"{number:g}{unit} is outside {self.low:g} to {self.high:g}{unit}.")
        return number

    def validate(self, value: Any) -> None:
        """All is said in ``to_python``."""


class Switch(forms.Field):
    """True or false, told apart from not sent."""

    def __init__(self) -> None:
        super().__init__(required=False)

    def to_python(self, value: Any) -> bool | None:
        return {"true": True, "false": False}.get(str(value))


class PaceField(forms.CharField):
    """A pace by its name, or as CSS writes it; cleaned, it is the pace."""

    def __init__(self) -> None:
        super().__init__(max_length=80, label="Pace")

    def clean(self, value: Any) -> easing.Pace:
        try:
            return easing.parse(super().clean(value))
        except FormatError as error:
            raise forms.ValidationError(str(error)) from error


class EditForm(forms.Form):
    """A part of the card or a tool; ``commands`` gives what it asks for on the scene as it stands.

    ``user`` is who asks. While it does, it may note what there is to say, what is to be selected then, and words for
    the undo menu, where its first command has none that fit.
    """

    name: ClassVar[str]

    def __init__(self, *values: Any, **options: Any) -> None:
        super().__init__(*values, **options)
        self.notes: list[str] = []
        self.select: dict[str, str] = {}
        self.title = ""
        self.user: User | AnonymousUser = AnonymousUser()

    def __init_subclass__(cls) -> None:
        super().__init_subclass__()
        if hasattr(cls, "name"):
            FORMS[cls.name] = cls

    def commands(self, scene: Scene) -> list[Command]:
        raise NotImplementedError

    def sent(self, *names: str) -> dict[str, Any]:
        """Return the fields that were sent, blank ones left out."""
        return {n: self.cleaned_data[n] for n in names if self.cleaned_data.get(n) is not None and n in self.data}

    def words(self) -> str:
        """Return the first complaint as one sentence, with the field's label."""
        field, errors = next(iter(self.errors.items()))
        label = self.fields[field].label if field in self.fields else ""
        words = f"{label}: {errors[0]}" if label else str(errors[0])
        return words if len(words) <= LONGEST_WORDS else words[:LONGEST_WORDS] + "…"


def called(count: int, noun: str) -> str:
    """Write a count with its noun: 1 node, 2 nodes."""
    return f"{count} {noun}" if count == 1 else f"{count} {noun}s"


class LayerForm(EditForm):
    layer = forms.CharField(max_length=40)


COLOUR = forms.RegexField(r"^#[0-9a-fA-F]{6}$", required=False, label="Colour")
