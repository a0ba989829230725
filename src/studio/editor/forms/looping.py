"""What makes a scene loop."""

from django import forms

from coaster.edits import looping
from coaster.edits.edit import Edit
from coaster.scene.document import Scene
from studio.editor.forms.base import EditForm, LayerForm, Person


class LoopForm(LayerForm):
    """Mend the seam of one layer."""

    name = "loop"
    way = forms.CharField(max_length=20)

    def edit(self, scene: Scene, person: Person) -> Edit:
        return looping.mend(scene, self.layer_id, self.given("way"))


class LoopAllForm(EditForm):
    """Mend all seams that show."""

    name = "loop-all"

    def edit(self, scene: Scene, person: Person) -> Edit:
        return looping.mend_all(scene)
