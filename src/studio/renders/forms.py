"""What may be asked of a render."""

from django import forms

from coaster.media.writers import KINDS

SCALES = [("1", "Full size"), ("0.5", "Half"), ("0.25", "Quarter")]


class RenderForm(forms.Form):
    format = forms.ChoiceField(choices=[(kind.name, kind.words) for kind in KINDS.values()])
    scale = forms.TypedChoiceField(choices=SCALES, coerce=float)
    loops = forms.IntegerField(
        min_value=1,
        max_value=100,
        error_messages={
            "invalid": "Loops: write a whole number.",
            "min_value": "Loops: at least 1.",
            "max_value": "Loops: at most 100.",
            "required": "Loops: write how often the scene should run.",
        },
    )
