"""What the stage says of a chosen layer that is not seen, with a button that mends it."""

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path as File

from PIL import Image

from coaster.edits.unseen import Kind, Reason, reasons
from studio.projects.models import Scene


@dataclass(frozen=True)
class Cure:
    """A button: its words, and the form that it sends, of the layer in which the reason lies, or
    fields that are set as they are.
    """

    label: str
    form: str = ""
    fields: str = ""
    sets: tuple[tuple[str, object], ...] = ()


CURES: dict[Kind, Cure] = {
    "hidden": Cure("Show it", sets=(("visible", True),)),
    "guide": Cure("Into the picture", sets=(("guide", False),)),
    "stencil": Cure("Show it", sets=(("stencil", None),)),
    "time": Cure("Show it always", "layer-time", "always=on"),
    "opacity": Cure("Opacity 100 %", "place", "opacity=100"),
    "over": Cure("Let it repeat", "footage", "after=repeat"),
    "gap": Cure("Glide over gaps", "course", "gap=glide"),
    "size": Cure("Scale 100 %", "place", "scale=100"),
    "paint": Cure("Fill it", "shape", "filled=true"),
    "outside": Cure("Into the middle", "place", "to_x={x}&to_y={y}"),
    "behind": Cure("Into the picture", "place", "z=0"),
    "edge": Cure("Face on", "place", "tilt=0&swing=0"),
    "masked": Cure("Without its mask", sets=(("mask", None),)),
    "covered": Cure("To the front", "order", "to=front"),
}


KEYED: dict[Kind, str] = {"opacity": "opacity", "size": "scale", "behind": "z", "edge": "tilt"}
"""The property that a reason lies in, where that may have keys."""


@lru_cache(maxsize=512)
def is_opaque(file: File) -> bool:
    """Whether all of a picture is; one that cannot be read hides nothing."""
    try:
        with Image.open(file) as image:
            if not image.has_transparency_data:
                return True
            return bool(image.convert("RGBA").getchannel("A").getextrema()[0] == 255)
    except OSError:
        return False


def told(scene: Scene, layer_id: str, frame: int) -> list[tuple[Reason, Cure | None]]:
    """Return why a layer is not seen in a frame, and what mends each reason.

    Errors: UnknownId.
    """
    value, folder = scene.value(), scene.project.folder
    at = min(max(frame, 0), value.length - 1)
    found = reasons(value, layer_id, at, lambda asset: is_opaque(folder / asset))
    return [(reason, _cure(reason, scene, layer_id)) for reason in found]


def _cure(reason: Reason, scene: Scene, layer_id: str) -> Cure | None:
    value = scene.value()
    layer = value.layer(layer_id)
    cure = CURES.get(reason.kind)
    if cure is None or (reason.kind == "paint" and not layer.content.can.fill):
        return None
    name = KEYED.get(reason.kind)
    if name and value.layer(reason.about).track(name):
        # All keys changed alike would leave its limits, or change what is seen elsewhere.
        return Cure(f"{cure.label} here, by a key", cure.form, f"{cure.fields}&pin=true")
    if reason.kind != "outside":
        return cure
    # What rides is where its path leads.
    middle = cure.fields.format(x=value.width / 2, y=value.height / 2)
    return None if layer.ride else Cure(cure.label, cure.form, middle)
