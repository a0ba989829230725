"""Names, and what a new scene is to be."""

from django import forms

from coaster.errors import EditRefused
from coaster.motion.rate import Rate
from coaster.scene.document import Scene
from studio.editor.forms.base import COLOUR, Number
from studio.editor.forms.scene import checked_rate, even, length_of

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
        error_messages={"required": "A name needs at least one letter.", "max_length": "A name has up to 80 letters."},
    )


class NewSceneForm(forms.Form):
    """Everything a scene starts with; ``value`` gives the document."""

    name = forms.CharField(max_length=80, error_messages={"required": "Give the scene a name."})
    size = forms.ChoiceField(choices=[(s[0], s[1]) for s in SIZES])
    width = Number(16, 8192, unit="px", label="Width")
    height = Number(16, 8192, unit="px", label="Height")
    rate = forms.CharField(max_length=20)
    length = Number(0.01, 36_000, label="Length")
    unit = forms.ChoiceField(choices=[("s", "seconds"), ("f", "frames")])
    background = COLOUR
    transparent = forms.BooleanField(required=False)

    def clean_rate(self) -> Rate:
        return checked_rate(self.cleaned_data["rate"])

    def clean(self) -> dict:
        data = super().clean()
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

    def _value(self, data: dict) -> Scene:
        if data["size"] == "free":
            width, height = even(data["width"], 0, "Width"), even(data["height"], 0, "Height")
        else:
            width, height = map(int, data["size"].split("x"))
        frames, seconds = (data["length"], None) if data["unit"] == "f" else (None, data["length"])
        length = length_of(data["rate"], frames=frames, seconds=seconds)
        background = None if data["transparent"] else data["background"] or "#ffffff"
        return Scene(width, height, data["rate"], length, background)

    def words(self) -> str:
        """Return the first complaint as one sentence."""
        field, errors = next(iter(self.errors.items()))
        label = self.fields[field].label if field in self.fields else ""
        return f"{label}: {errors[0]}" if label else str(errors[0])
