"""Names, and what a new scene is to be."""

from typing import Any

from django import forms

from coaster.edits.scene import even_side, length_of
from coaster.errors import EditRefused
from coaster.scene.document import LONGEST, Scene
from studio.forms import COLOUR, Number, RateField, first_words

SIZES = [
    ("1920x1080", "Wide", "1920 × 1080"),
    ("1080x1920", "Tall", "1080 × 1920"),
    ("1080x1080", "Square", "1080 × 1080"),
    ("3840x2160", "Wall", "3840 × 2160"),
    ("free", "Free", "your own"),
]


class NameForm(forms.Form):
    name = forms.CharField(
        max_length=80,
        error_messages={
            "required": "A name needs at least one letter.",
            "max_length": "A name has up to 80 letters.",
        },
    )


class NewSceneForm(forms.Form):
    """Everything a scene starts with; ``value`` gives the document."""

    name = forms.CharField(max_length=80, error_messages={"required": "Give the scene a name."})
    size = forms.ChoiceField(choices=[(s[0], s[1]) for s in SIZES])
    width = Number(16, 8192, unit="px", label="Width")
    height = Number(16, 8192, unit="px", label="Height")
    rate = RateField(max_length=20)
    length = Number(0.01, LONGEST, label="Length")
    unit = forms.ChoiceField(choices=[("s", "seconds"), ("f", "frames")])
    background = COLOUR
    transparent = forms.BooleanField(required=False)

    def clean(self) -> dict[str, Any]:
        super().clean()
        data = self.cleaned_data
        if self.errors:
            return data
        if data["length"] is None:
            raise forms.ValidationError("Length: write how long the scene is.")
        if data["size"] == "free" and (data["width"] is None or data["height"] is None):
            raise forms.ValidationError("Width and height: write both in px.")
        try:
            data["value"] = self._value(data)
        except EditRefused as error:
            raise forms.ValidationError(str(error)) from error
        return data

    def _value(self, data: dict[str, Any]) -> Scene:
        if data["size"] == "free":
            width, height = (
                even_side(data[side], 0, side.capitalize()) for side in ("width", "height")
            )
        else:
            width, height = map(int, data["size"].split("x"))
        frames, seconds = (data["length"], None) if data["unit"] == "f" else (None, data["length"])
        length = length_of(data["rate"], frames=frames, seconds=seconds)
        background = None if data["transparent"] else data["background"] or "#ffffff"
        return Scene(width, height, data["rate"], length, background)

    def words(self) -> str:
        """Return the first complaint as one sentence."""
        return first_words(self)
