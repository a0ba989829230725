"""What programs are told, and what they may say."""

from datetime import datetime
from typing import Any, Self

from django.urls import reverse
from ninja import Schema
from pydantic import ConfigDict, Field

from coaster.edits.series import kind_of, value_of
from coaster.errors import CoreError
from coaster.export.orders import READY, Choices
from coaster.media.writers import KINDS
from coaster.scene.document import Scene as SceneValue
from coaster.scene.fields import SceneField
from studio.jobs.models import State
from studio.projects.models import Asset, Project, Scene
from studio.renders.models import Render

VALUES: Any = Field(
    default_factory=dict,
    description="Values by the names of the scene's fields: words, numbers, colours like #1f6f8b,"
    " path data, or the name of a picture of the project. What is left out stays as it is.",
)


class Words(Schema):
    """What is wrong, what was kept, what to do."""

    words: str


class Said(Schema):
    """What a program says; a name that is not known is refused, not passed over."""

    model_config = ConfigDict(extra="forbid")


class ProjectOut(Schema):
    id: int
    name: str
    scenes: int = Field(description="How many there are, those in the bin left out.")

    @classmethod
    def of(cls, project: Project) -> Self:
        count = project.scenes.filter(deleted_at=None).count()
        return cls(id=project.pk, name=project.name, scenes=count)


class FieldOut(Schema):
    """What is filled in from outside."""

    name: str
    kind: str = Field(description="text, picture, path, colour, number; or gone.")
    value: str = Field(description="What it says now; nothing of a picture.")

    @classmethod
    def of(cls, scene: SceneValue, field: SceneField) -> Self:
        try:
            kind: str = kind_of(scene, field)
        except CoreError:
            kind = "gone"
        return cls(name=field.name, kind=kind, value=value_of(scene, field))


class SceneOut(Schema):
    id: int
    name: str
    project: int
    revision: int = Field(description="How often it was edited.")
    edited_at: datetime
    page: str = Field(description="The address of its editor.")

    @classmethod
    def of(cls, scene: Scene) -> Self:
        return cls(**_about(scene))


class SceneWhole(SceneOut):
    width: int = Field(description="px")
    height: int = Field(description="px")
    fps: float = Field(description="Frames a second.")
    length: int = Field(description="Frames.")
    fields: list[FieldOut]

    @classmethod
    def of(cls, scene: Scene) -> Self:
        value = scene.value()
        return cls(
            **_about(scene),
            width=value.width,
            height=value.height,
            fps=value.fps,
            length=value.length,
            fields=[FieldOut.of(value, field) for field in value.fields],
        )


def _about(scene: Scene) -> dict[str, Any]:
    return {
        "id": scene.pk,
        "name": scene.name,
        "project": scene.project_id,
        "revision": scene.revision,
        "edited_at": scene.edited_at,
        "page": reverse("editor", args=[scene.pk]),
    }


class PictureOut(Schema):
    name: str = Field(description="By it fields are filled with the picture.")
    width: float = Field(description="px")
    height: float = Field(description="px")
    notes: list[str] = Field(description="What was done to it, in words.")

    @classmethod
    def of(cls, asset: Asset, notes: tuple[str, ...]) -> Self:
        return cls(
            name=asset.original_name, width=asset.width, height=asset.height, notes=list(notes)
        )


class RenderOut(Schema):
    id: int
    scene: int
    name: str = Field(description="What its file is called, without its ending.")
    state: str = Field(description=f"{', '.join(State.values)}; or interrupted.")
    words: str = Field(description="Why it failed.")
    frames: int
    done: int = Field(description="Frames that are made.")
    seconds_left: float | None
    width: int = Field(description="px")
    height: int = Field(description="px")
    size: int = Field(description="Bytes, once it is done.")
    asked_at: datetime
    file: str | None = Field(description="Where its file is fetched, once it is done.")

    @classmethod
    def of(cls, one: Render) -> Self:
        whole = one.state == State.DONE
        return cls(
            id=one.pk,
            scene=one.scene_id,
            name=one.name,
            state="interrupted" if one.interrupted else one.state,
            words=one.words,
            frames=one.total,
            done=one.done,
            seconds_left=one.seconds_left,
            width=one.width,
            height=one.height,
            size=one.size,
            asked_at=one.asked_at,
            file=reverse("api:render-file", args=[one.pk]) if whole else None,
        )


class CopyIn(Said):
    name: str = Field(min_length=1, max_length=80, description="What the new scene is called.")
    values: dict[str, str] = VALUES


class Chosen(Said):
    """How it is rendered: choices, else a preset, else as the scene was last time."""

    choices: Choices | None = Field(
        None,
        description=f"kind ({', '.join(KINDS)}), quality, high in px, fps, loops, seconds, first,"
        " last, shutter, behind; what is left out is as usual.",
    )
    preset: str = Field(
        "", description=f"{', '.join(READY)}, or one that you have kept; else as it was last time."
    )


class RenderIn(Chosen):
    values: dict[str, str] = VALUES
    name: str = Field("", max_length=200, description="What its file is called; else as the scene.")


class SeriesIn(Chosen):
    rows: str = Field(
        max_length=1_000_000,
        description="CSV whose first line names fields; a column called name names the files.",
    )
