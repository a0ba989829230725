"""Fields that all forms of the studio share: numbers with units, switches, colours, paces,
rates.
"""

import ast
import math
import operator
import re
from collections.abc import Callable
from typing import Any

from django import forms

from coaster.errors import FormatError
from coaster.motion import easing
from coaster.motion.rate import Rate, parse_rate

RATES = ["12", "15", "23.976", "24", "25", "29.97", "30", "48", "50", "59.94", "60"]
"""The frames a second that are offered; others may be typed where there is a field."""
COLOUR = forms.RegexField(r"^#[0-9a-fA-F]{6}$", required=False, label="Colour")


LONGEST_SUM = 80
SUMS: dict[type, Callable[..., float]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
    ast.UAdd: operator.pos,
    ast.USub: operator.neg,
}


def worked_out(text: str) -> float:
    """Return a number, or what a sum of numbers comes to; nan for anything else."""
    try:
        return float(text)
    except ValueError:
        pass
    # Length bounds the depth, and without powers nothing grows beyond what is typed.
    if len(text) > LONGEST_SUM or not re.fullmatch(r"[\d.+\-*/()\s]+", text):
        return math.nan
    try:
        return _value(ast.parse(text.strip(), mode="eval").body)
    except (SyntaxError, ValueError, KeyError, ZeroDivisionError):
        return math.nan


def _value(node: ast.expr) -> float:
    """Errors: KeyError, ValueError: it is no sum of numbers."""
    if isinstance(node, ast.BinOp):
        return SUMS[type(node.op)](_value(node.left), _value(node.right))
    if isinstance(node, ast.UnaryOp):
        return SUMS[type(node.op)](_value(node.operand))
    if isinstance(node, ast.Constant):
        return float(node.value)  # type: ignore[arg-type]  # the letters allowed make only numbers
    raise ValueError


class Number(forms.Field):
    """A number with a unit in its complaints, or a sum of numbers (``120/2``); nan and infinity are
    refused, and what is not ``whole`` where it is to be.
    """

    def __init__(
        self, low: float, high: float, *, unit: str = "", whole: bool = False, **options: Any
    ) -> None:
        super().__init__(required=False, **options)
        self.low, self.high, self.unit, self.whole = low, high, unit, whole

    def to_python(self, value: Any) -> float | None:
        text = str(value or "").strip().replace(",", ".").removesuffix(self.unit).strip()
        if not text:
            return None
        number = worked_out(text)
        if not math.isfinite(number):
            shown = f"{text[:24]}…" if len(text) > 24 else text
            raise forms.ValidationError(f"“{shown}” is not a number.")
        if not self.low <= number <= self.high:
            unit = f" {self.unit}" if self.unit else ""
            raise forms.ValidationError(
                f"{number:g}{unit} is outside {self.low:g} to {self.high:g}{unit}."
            )
        if not self.whole:
            return number
        if number != int(number):
            raise forms.ValidationError(f"{number:g} is no whole number.")
        return int(number)

    def validate(self, value: Any) -> None:
        """All is said in ``to_python``."""


class Numbers(Number):
    """Numbers parted by blanks, semicolons or commas with a blank after them, as a tuple."""

    def to_python(self, value: Any) -> tuple[float, ...] | None:  # type: ignore[override]
        text = str(value or "").replace(", ", " ").replace(";", " ")
        found = [super(Numbers, self).to_python(word) for word in text.split()]
        return tuple(each for each in found if each is not None) or None


class Switch(forms.Field):
    """True or false, told apart from not sent."""

    def __init__(self) -> None:
        super().__init__(required=False)

    def to_python(self, value: Any) -> bool | None:
        return {"true": True, "false": False}.get(str(value))


ALPHA = Number(0, 100, unit="%", label="Opacity of the colour")


class PaceField(forms.CharField):
    """A pace by its name, or as CSS writes it; cleaned, it is the pace. Only a whole ride can go in
    ``steps``.
    """

    def __init__(self, *, steps: bool = False) -> None:
        super().__init__(max_length=80, label="Pace")
        self.steps = steps

    def clean(self, value: Any) -> easing.Pace | easing.Steps:
        try:
            found = easing.parse(super().clean(value))
        except FormatError as error:
            raise forms.ValidationError(str(error)) from error
        if isinstance(found, easing.Steps) and not self.steps:
            raise forms.ValidationError("Steps need pegs of their own: give them to a whole ride.")
        return found


class RateField(forms.CharField):
    """Frames a second from 12 to 60; cleaned, it is the rate, or None if nothing was sent."""

    def clean(self, value: Any) -> Rate | None:
        text = super().clean(value)
        if not text:
            return None
        try:
            rate = parse_rate(text)
        except FormatError as error:
            raise forms.ValidationError(str(error)) from error
        if not 12 <= rate.fraction <= 60:
            raise forms.ValidationError(f"{text} frames a second is outside 12 to 60.")
        return rate


def first_words(form: forms.Form, longest: int = 240) -> str:
    """Return a form's first complaint as one sentence, with the field's label."""
    field, errors = next(iter(form.errors.items()))
    label = form.fields[field].label if field in form.fields else ""
    words = f"{label}: {errors[0]}" if label else str(errors[0])
    return words if len(words) <= longest else words[:longest] + "…"
