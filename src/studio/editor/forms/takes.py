"""Takes: smoothed again, any number of times, from what was recorded."""

from dataclasses import replace

from django import forms

from coaster.commands import Command
from coaster.commands.paths import DrawnPath, ShapePath
from coaster.commands.rides import SetFacing, SetPegs
from coaster.errors import EditRefused
from coaster.scene.document import Scene
from studio.editor import takes
from studio.editor.forms.base import EditForm, Number, Switch


class TakeForm(EditForm):
    """How a take is smoothed; its path and the pegs of its riders are made anew, unless ``pegs`` is kept."""

    name = "take"
    path = forms.CharField(max_length=40)
    tolerance = Number(0.05, 1000, unit="px", label="Tolerance")
    steady = Number(0, 1000, unit="px", label="Steady")
    corner = Number(1, 180, unit="°", label="Corners")
    soften = Number(0, 100, unit="%", label="Soften")
    close = Switch()
    pegs = forms.ChoiceField(required=False, choices=[("keep", "keep"), ("take", "take")])

    def commands(self, scene: Scene) -> list[Command]:
        path = scene.path(self.cleaned_data["path"])
        if path.drawn is None:
            raise EditRefused(f"{path.name} was not drawn as a take; there is nothing to smooth it from.")
        if path.locked:
            raise EditRefused(f"{path.name} is locked; unlock it to smooth it.")
        sent = self.sent("tolerance", "steady", "corner", "soften", "close")
        if "soften" in sent:
            sent["soften"] /= 100
        drawn = replace(path.drawn, **sent)
        text = takes.raw(self.user, drawn.file)
        found = takes.smoothed(text, drawn, scene.fps)
        self.title = f"Smooth {path.name}"
        steps: list[Command] = [DrawnPath(path.id, drawn)]
        there = {node.id for node in found.run.nodes}
        for rider in scene.riders_of(path.id):
            assert rider.ride is not None  # noqa: S101 - it is a rider
            if self.cleaned_data["pegs"] != "keep":
                steps.append(SetPegs(rider.id, found.pegs))
            angles = tuple(angle for angle in rider.ride.facing.angles if angle.node in there)
            if angles != rider.ride.facing.angles:
                steps.append(SetFacing(rider.id, replace(rider.ride.facing, angles=angles)))
        steps.append(ShapePath(path.id, (found.run,)))
        worst = f"farthest at {found.worst[0]:.0f}, {found.worst[1]:.0f}"
        self.notes.append(
            f"{len(found.run.nodes)} nodes, at most {found.deviation:.2f} px off ({worst}), {found.rms:.2f} px as a "
            f"rule; {len(found.pegs)} pegs, at most {found.late:.1f} frames off."
        )
        return steps
