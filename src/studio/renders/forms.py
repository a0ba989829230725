"""What may be asked of a render."""

from django import forms

from coaster.errors import FormatError
from coaster.export.orders import Choices
from coaster.media.writers import KINDS
from coaster.media.writing import QUALITIES
from coaster.motion.rate import Rate, parse_rate
from studio.forms import COLOUR, Number, Switch

OWN, COLOURED = "own", "colour"
"""As a size: as high as is written beside it; as what is behind it: the colour beside it."""
SIZES, BEHIND = ("1", "0.5", "0.25", OWN), ("", "none", COLOURED)
"""What there is to be chosen; the sheet has the words."""
SHUTTERS = {0: "none", 90: "short, 90°", 180: "as filmed, 180°", 270: "long, 270°", 360: "360°"}
"""Degrees of 360 while which a shutter is open."""


class FpsField(forms.CharField):
    """Frames a second as an exact rate; None if nothing was sent."""

    def clean(self, value: object) -> Rate | None:
        text = super().clean(value)
        try:
            return parse_rate(text) if text else None
        except FormatError as error:
            raise forms.ValidationError(str(error)) from error


def _whole(label: str, low: int, high: int, **words: str) -> forms.IntegerField:
    said = {"invalid": "write a whole number.", "min_value": f"at least {low}.",
            "max_value": f"at most {high}."}  # fmt: skip
    errors = {name: f"{label}: {rest}" for name, rest in (said | words).items()}
    return forms.IntegerField(
        min_value=low, max_value=high, required="required" in words, error_messages=errors
    )


class RenderForm(forms.Form):
    format = forms.ChoiceField(choices=[(kind.name, kind.words) for kind in KINDS.values()])
    quality = forms.ChoiceField(choices=list(QUALITIES.items()), required=False)
    size = forms.ChoiceField(choices=[(each, each) for each in SIZES], required=False, label="Size")
    high = _whole("Height", 16, 8192)
    fps = FpsField(required=False, max_length=20, label="Frames a second")
    first = _whole("From frame", 0, 200_000)
    last = _whole("Up to frame", 1, 200_000)
    loops = _whole("Loops", 1, 1000, required="write how often the scene should run.")
    seconds = Number(0, 7200, unit="s", label="At least")
    returns = Switch()
    shutter = Number(0, 360, unit="°", label="Motion blur")
    behind = forms.ChoiceField(choices=[(each, each) for each in BEHIND], required=False)
    colour = COLOUR

    def clean(self) -> dict[str, object]:
        sent = self.cleaned_data
        if sent.get("size") == OWN and "high" in sent and not sent["high"]:
            raise forms.ValidationError("Height: write how many px high it is to be.")
        if sent.get("behind") == COLOURED and not sent.get("colour"):
            raise forms.ValidationError("Choose the colour that is to be behind it.")
        return sent

    @property
    def choices(self) -> Choices:
        """What was chosen, once it is known to be valid."""
        sent = self.cleaned_data
        own = sent["size"] == OWN
        return Choices(
            kind=sent["format"],
            quality=sent["quality"] or "usual",
            first=sent["first"] or 0,
            last=sent["last"],
            fps=sent["fps"],
            scale=1.0 if own else float(sent["size"] or 1),
            high=sent["high"] if own else None,
            loops=sent["loops"],
            seconds=sent["seconds"] or 0.0,
            returns=bool(sent["returns"]),
            shutter=sent["shutter"] or 0.0,
            behind=sent["colour"] if sent["behind"] == COLOURED else sent["behind"],
        )
