"""What programs may do: read scenes, make one from another, start renders, fetch them.

Each comes in with a key of one person's, and may do what that person may in the studio.
"""

from typing import Any, cast

from django.conf import settings
from django.core.exceptions import PermissionDenied
from django.db import DatabaseError
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404
from django.utils.text import slugify
from ninja import File, NinjaAPI, Query, Status, UploadedFile
from ninja.errors import AuthenticationError, HttpError, ValidationError
from ninja.security import HttpBearer
from pydantic_core import ErrorDetails

import coaster
from coaster.errors import CoreError
from coaster.export import miniatures
from coaster.export import motion as motions
from coaster.export.orders import Choices
from coaster.scene import codec
from coaster.scene.document import Scene as SceneValue
from studio.api import keys
from studio.api.told import (
    Chosen,
    CopyIn,
    PictureOut,
    ProjectOut,
    RenderIn,
    RenderOut,
    SceneOut,
    SceneWhole,
    SeriesIn,
    Words,
)
from studio.jobs.models import State
from studio.people.accounts import allow_staff
from studio.projects import services, troubles
from studio.projects.access import scene_for
from studio.projects.models import Project, Scene
from studio.reading import apart
from studio.renders import filling
from studio.renders import services as renders
from studio.renders.models import Render
from studio.renders.views import part_of_file
from studio.upkeep import metrics

MOST_LISTED = 500


class WithKey(HttpBearer):
    """Lets in who brings a key; neither the sign-in of a browser nor being on the machine does,
    so that no page of a stranger's can ask in one's name.
    """

    def authenticate(self, request: HttpRequest, token: str) -> object:
        owner = keys.owner_of(token)
        if owner is not None:
            request.user = owner
        return owner


api = NinjaAPI(
    title="Coaster",
    version=coaster.__version__,
    description="Scenes and renders of a studio, for programs. Every request but this brings a key:"
    " `Authorization: Bearer coaster_…`. Keys are made in the studio, under *For programs*."
    " What is refused is said in `words`.",
    auth=WithKey(),
    urls_namespace="api",
    docs_url=None,
)
ALL_METHODS = ["GET", "POST", "PUT", "PATCH", "DELETE"]
READ_INTO = ("body", "query", "path", "form", "file", "said")
REFUSED = {404: Words, 422: Words}


def _said(request: HttpRequest, words: str, status: int) -> HttpResponse:
    return api.create_response(request, {"words": words}, status=status)


@api.exception_handler(CoreError)
def _refused(request: HttpRequest, error: CoreError) -> HttpResponse:
    return _said(request, str(error), 422)


@api.exception_handler(ValidationError)
def _misread(request: HttpRequest, error: ValidationError) -> HttpResponse:
    first = cast(ErrorDetails, error.errors[0])
    # Where in what was sent, without what of ours it is read into.
    place = tuple(part for part in first["loc"] if part not in READ_INTO) or ("What is sent",)
    return _said(request, codec.words_of_one({**first, "loc": place}), 422)


@api.exception_handler(HttpError)
def _wrong(request: HttpRequest, error: HttpError) -> HttpResponse:
    words = "What is sent is no JSON; nothing was done." if error.status_code == 400 else str(error)
    return _said(request, words, error.status_code)


@api.exception_handler(AuthenticationError)
def _unknown(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
    words = "This needs a key: Authorization: Bearer coaster_…; make one under For programs."
    answer = _said(request, words, 401)
    answer["WWW-Authenticate"] = "Bearer"
    return answer


@api.exception_handler(Http404)
def _not_there(request: HttpRequest, error: Http404) -> HttpResponse:
    return _said(request, "There is none such, or it is not yours.", 404)


@api.exception_handler(PermissionDenied)
def _not_yours(request: HttpRequest, error: PermissionDenied) -> HttpResponse:
    return _said(request, str(error), 403)


@api.exception_handler(OSError)
@api.exception_handler(DatabaseError)
def _ill(request: HttpRequest, error: Exception) -> HttpResponse:
    words = troubles.words_of(error)
    if words is None:
        raise error
    return _said(request, words, 503)


def _project(request: HttpRequest, pk: int) -> Project:
    return get_object_or_404(Project.objects.visible_to(request.user), pk=pk)


def _render(request: HttpRequest, pk: int) -> Render:
    mine = Render.objects.visible_to(request.user).filter(scene__deleted_at=None)
    return get_object_or_404(mine.select_related("scene__project"), pk=pk)


def _json(text: str) -> HttpResponse:
    return HttpResponse(text, content_type="application/json")


def _choices(request: HttpRequest, scene: Scene, value: SceneValue, said: Chosen) -> Choices:
    if said.choices is not None:
        return said.choices
    if said.preset:
        return renders.preset_named(request.user, said.preset)
    return renders.usual(request.user, scene, value)


@api.get("/projects", response=list[ProjectOut], tags=["Projects"])
def projects(request: HttpRequest) -> Any:
    """All projects."""
    return [ProjectOut.of(each) for each in Project.objects.visible_to(request.user)]


@api.post(
    "/projects/{project_id}/open",
    response={201: SceneWhole, **REFUSED},
    tags=["Projects"],
    url_name="open",
)
def open_scene(request: HttpRequest, project_id: int, file: File[UploadedFile]) -> Any:
    """Make a scene of a scene file: its document (.json), or one with its pictures (.zip)."""
    made = services.import_bundle(request.user, _project(request, project_id), file)
    return Status(201, SceneWhole.of(made))


@api.post(
    "/projects/{project_id}/pictures", response={201: PictureOut, **REFUSED}, tags=["Projects"]
)
def add_picture(request: HttpRequest, project_id: int, file: File[UploadedFile]) -> Any:
    """Bring a picture in (PNG, JPEG, WebP, SVG), to fill fields with."""
    project = _project(request, project_id)
    found = services.import_picture(request.user, project, file.read(), file.name or "Picture")
    return Status(201, PictureOut.of(*found))


@api.get("/scenes", response=list[SceneOut], tags=["Scenes"])
def scenes(request: HttpRequest, project: int | None = None) -> Any:
    """All scenes, or those of a project."""
    found = Scene.objects.visible_to(request.user)
    if project is not None:
        found = found.filter(project=_project(request, project))
    return [SceneOut.of(each) for each in found[:MOST_LISTED]]


@api.get("/scenes/{scene_id}", response={200: SceneWhole, **REFUSED}, tags=["Scenes"])
def scene(request: HttpRequest, scene_id: int) -> Any:
    """A scene: its size and rate, and the fields that are filled in from outside."""
    return SceneWhole.of(scene_for(request, scene_id))


@api.get("/scenes/{scene_id}/document", response={200: dict[str, Any], **REFUSED}, tags=["Scenes"])
def document(request: HttpRequest, scene_id: int) -> Any:
    """All of a scene, as scene files have it."""
    return _json(scene_for(request, scene_id).document)


@api.get("/scenes/{scene_id}/file", response={200: None, **REFUSED}, tags=["Scenes"])
def scene_file(request: HttpRequest, scene_id: int) -> Any:
    """A scene with its pictures as one file (.zip)."""
    found = scene_for(request, scene_id)
    packed = services.export_bundle(request.user, found)
    return FileResponse(
        packed, as_attachment=True, filename=f"{slugify(found.name) or 'scene'}.zip"
    )


@api.get("/scenes/{scene_id}/motion", response={200: dict[str, Any], **REFUSED}, tags=["Scenes"])
def motion(request: HttpRequest, scene_id: int, layer: Query[tuple[str, ...]] = ()) -> Any:
    """Where layers are in every frame, some by their ids or all: place, turn, speed, map."""
    value = scene_for(request, scene_id).value()
    return _json(apart(motions.json_of, value, layer))


@api.get("/scenes/{scene_id}/frames/{number}.png", response={200: None, **REFUSED}, tags=["Scenes"])
def frame(request: HttpRequest, scene_id: int, number: int) -> Any:
    """One frame as a picture."""
    found = scene_for(request, scene_id)
    value = found.value()
    if not 0 <= number < value.length:
        raise Http404
    data = apart(miniatures.frame, value, found.project.folder, number)
    return HttpResponse(data, content_type="image/png")


@api.post("/scenes/{scene_id}/copies", response={201: SceneWhole, **REFUSED}, tags=["Scenes"])
def copy(request: HttpRequest, scene_id: int, said: CopyIn) -> Any:
    """Make a scene of this one with its fields filled in."""
    template = scene_for(request, scene_id)
    value = filling.filled_once(template, said.values)
    words = f"Made of {template.name}"
    made = services.create_scene(request.user, template.project, said.name, value, words=words)
    return Status(201, SceneWhole.of(made))


@api.post("/scenes/{scene_id}/renders", response={201: RenderOut, **REFUSED}, tags=["Renders"])
def start(request: HttpRequest, scene_id: int, said: RenderIn) -> Any:
    """Put a render of a scene in line, filled in or as it is."""
    found = scene_for(request, scene_id)
    value = filling.filled_once(found, said.values)
    choices = _choices(request, found, value, said)
    (made,) = renders.start_filled(request.user, found, [(said.name, value)], choices)
    return Status(201, RenderOut.of(made))


@api.post("/scenes/{scene_id}/series", response={201: list[RenderOut], **REFUSED}, tags=["Renders"])
def series(request: HttpRequest, scene_id: int, said: SeriesIn) -> Any:
    """Put a render of each row of a table in line: all of them, or none."""
    found = scene_for(request, scene_id)
    rows = filling.filled(found, said.rows)
    choices = _choices(request, found, found.value(), said)
    named = [(one.out.name, one.scene) for one in rows]
    made = renders.start_filled(request.user, found, named, choices)
    return Status(201, [RenderOut.of(each) for each in made])


@api.get("/renders", response=list[RenderOut], tags=["Renders"])
def queue(request: HttpRequest) -> Any:
    """The renders of all scenes: what is under way, what waits, what was done last."""
    return [RenderOut.of(each) for each in renders.in_queue(request.user)]


@api.get("/renders/{render_id}", response={200: RenderOut, **REFUSED}, tags=["Renders"])
def one_render(request: HttpRequest, render_id: int) -> Any:
    """How a render stands."""
    return RenderOut.of(_render(request, render_id))


@api.get(
    "/renders/{render_id}/file",
    response={200: None, **REFUSED},
    tags=["Renders"],
    url_name="render-file",
)
def render_file(request: HttpRequest, render_id: int) -> HttpResponseBase:
    """The file of a render that is done; also in ranges of bytes."""
    found = _render(request, render_id)
    if found.state != State.DONE or not found.file.is_file():
        raise HttpError(404, "There is no file yet; see how the render stands.")
    return part_of_file(request, found.file, found.kind.mime)


@api.post("/renders/{render_id}/cancel", response={200: RenderOut, **REFUSED}, tags=["Renders"])
def cancel(request: HttpRequest, render_id: int) -> Any:
    """Stop a render for good."""
    renders.cancel(request.user, _render(request, render_id))
    return RenderOut.of(_render(request, render_id))


@api.delete("/renders/{render_id}", response={204: None, **REFUSED}, tags=["Renders"])
def delete(request: HttpRequest, render_id: int) -> Any:
    """Put a render into the bin."""
    renders.delete(request.user, _render(request, render_id))
    return Status(204, None)


@api.get("/metrics", response={200: None, 403: Words}, tags=["Studio"])
def numbers(request: HttpRequest) -> Any:
    """How the studio is doing, in numbers (Prometheus' text format): for who looks after it."""
    if settings.SERVER_MODE:
        allow_staff(request.user)
    return HttpResponse(metrics.told(), content_type="text/plain; version=0.0.4; charset=utf-8")


@api.api_operation(ALL_METHODS, "/{path:rest}", include_in_schema=False)
def nothing(request: HttpRequest, rest: str) -> Any:
    """What there is not; said as everything else is."""
    raise HttpError(404, f"There is nothing at /api/{rest:.80}.")
