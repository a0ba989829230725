"""The scene: size, background, rate and length."""

from django import forms

from coaster.edits import scene as scenes
from coaster.edits import series
from coaster.edits.edit import Edit
from coaster.edits.scene import SceneChange
from coaster.errors import EditRefused
from coaster.scene.document import LONGEST, Scene
from studio.editor.forms.base import EditForm, Person
from studio.forms import COLOUR, Number, PaceField, RateField, Switch


class SceneForm(EditForm):
    """Size, background, rate and length of the scene."""

    name = "scene"
    width = Number(16, 8192, unit="px", label="Width")
    height = Number(16, 8192, unit="px", label="Height")
    background = COLOUR
    transparent = Switch()
    rate = RateField(required=False, max_length=20, label="Frames a second")
    seconds = Number(0.01, 1200, unit="s", label="Length")
    frames = Number(1, LONGEST, label="Length in frames")

    def edit(self, scene: Scene, person: Person) -> Edit:
        wanted = self.sent("width", "height", "background", "rate", "seconds", "frames")
        return scenes.change(scene, SceneChange(**wanted, transparent=self.given("transparent")))


class FieldForm(EditForm):
    """Let something of a layer or a path be filled in under a name, or no more."""

    name = "field"
    title = forms.CharField(required=False, max_length=80, label="Name")
    of = forms.CharField(required=False, max_length=90)
    remove = forms.CharField(required=False, max_length=80)

    def edit(self, scene: Scene, person: Person) -> Edit:
        if self.given("remove"):
            return series.remove_field(scene, self.given("remove"))
        what, _, owner = self.given("of").partition(":")
        if not owner:
            raise EditRefused("What is to be filled in? Choose it from the list.")
        title = self.given("title") or series.usual_name(scene, owner)
        return series.name_field(scene, title, owner, what)


class ScenePaceForm(EditForm):
    """The pace that new pegs and keys begin with."""

    name = "scene-pace"
    pace = PaceField()

    def edit(self, scene: Scene, person: Person) -> Edit:
        return scenes.set_pace(scene, self.given("pace"))
