"""Takes: smoothed again, any number of times, from what was recorded."""

from django import forms

from coaster.edits import takes as edits
from coaster.edits.edit import Edit
from coaster.scene.document import Scene
from studio.editor import takes
from studio.editor.forms.base import EditForm, Person
from studio.forms import Number, Switch


class TakeForm(EditForm):
    """How a take is smoothed; its path and the pegs of its riders are made anew, unless ``pegs`` is
    kept.
    """

    name = "take"
    path = forms.CharField(max_length=40)
    tolerance = Number(0.05, 1000, unit="px", label="Tolerance")
    steady = Number(0, 1000, unit="px", label="Steady")
    corner = Number(1, 180, unit="°", label="Corners")
    soften = Number(0, 100, unit="%", label="Soften")
    close = Switch()
    pegs = forms.ChoiceField(required=False, choices=[("keep", "keep"), ("take", "take")])

    def edit(self, scene: Scene, person: Person) -> Edit:
        _, drawn = edits.drawn_path(scene, self.given("path"))
        values = self.sent("tolerance", "steady", "corner", "soften", "close")
        if "soften" in values:
            values["soften"] /= 100
        text, keep = takes.raw(person, drawn.file), self.given("pegs") == "keep"
        return edits.smooth_again(scene, self.given("path"), text, values, keep_pegs=keep)
