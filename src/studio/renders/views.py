"""The list of a scene's renders, and their files."""

import re
from collections.abc import Callable, Iterator
from pathlib import Path as File

from django.http import (
    FileResponse,
    Http404,
    HttpRequest,
    HttpResponse,
    JsonResponse,
    StreamingHttpResponse,
)
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, render
from django.utils.http import content_disposition_header
from django.utils.text import slugify
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from coaster.errors import CoreError
from coaster.export import miniatures
from coaster.export.orders import READY, Choices
from coaster.media.writers import KINDS
from coaster.media.writing import QUALITIES
from studio.forms import RATES, first_words
from studio.jobs import presence
from studio.jobs.models import State
from studio.languages.said import said
from studio.projects.access import scene_for
from studio.projects.models import Project, Scene
from studio.reading import apart
from studio.renders import services
from studio.renders.forms import SHUTTERS, RenderForm
from studio.renders.models import Preset, Render


def _render(request: HttpRequest, render_id: int) -> Render:
    found = Render.objects.visible_to(request.user).select_related("scene__project")
    return get_object_or_404(found, pk=render_id)


def _list(request: HttpRequest, scene: Scene, words: str = "", status: int = 200) -> HttpResponse:
    """The renders there are, and what is to be said of the one that was asked for."""
    return render(request, "renders/_made.html", _made(scene, words), status=status)


def _made(scene: Scene, words: str = "") -> dict[str, object]:
    found = list(scene.renders.filter(deleted_at=None)[:50])
    context = {"scene": scene, "renders": found, "words": words}
    return context | {
        "worker": presence.somebody_works(),
        "polling": any(r.active for r in found),
    }


@require_GET
def renders(request: HttpRequest, scene_id: int) -> HttpResponse:
    """What may be chosen and what there is, as a part of the editor's page."""
    scene = scene_for(request, scene_id)
    if "list" in request.GET:
        return _list(request, scene)
    return _sheet(request, scene, request.GET.get("preset", ""))


def _sheet(request: HttpRequest, scene: Scene, preset: str = "") -> HttpResponse:
    value = scene.value()
    context = (
        _made(scene)
        | _presets(request)
        | {
            "value": value,
            "clear": value.background is None,
            "chosen": services.usual(request.user, scene, value, preset),
            "preset": preset,
            "kinds": KINDS.values(),
            "qualities": QUALITIES,
            "rates": RATES,
            "shutters": SHUTTERS.items(),
        }
    )
    return render(request, "renders/_renders.html", context)


@require_POST
def start(request: HttpRequest, scene_id: int) -> HttpResponse:
    """Put a render in line and show the list."""
    scene = scene_for(request, scene_id)
    form = RenderForm(request.POST)
    if not form.is_valid():
        return _list(request, scene, first_words(form), 422)
    try:
        services.start(request.user, scene, form.choices)
    except CoreError as error:
        return _list(request, scene, str(error), 422)
    return _list(request, scene)


@require_POST
def told(request: HttpRequest, scene_id: int) -> HttpResponse:
    """What a render that is chosen so would come to but for its size, or why it cannot be."""
    scene = scene_for(request, scene_id)
    return _told(request, scene, services.foreseen, "renders/_told.html")


@require_POST
def size(request: HttpRequest, scene_id: int) -> HttpResponse:
    """About how large its file would be, which takes longer to say."""
    scene = scene_for(request, scene_id)
    return _told(request, scene, services.foreseen_size, "renders/_size.html")


def _told(
    request: HttpRequest,
    scene: Scene,
    look: Callable[[Scene, Choices], dict[str, object]],
    template: str,
) -> HttpResponse:
    form = RenderForm(request.POST)
    context: dict[str, object]
    try:
        context = look(scene, form.choices) if form.is_valid() else {"words": first_words(form)}
    except CoreError as error:
        context = {"words": str(error)}
    return render(request, template, context | {"scene": scene})


@require_POST
def keep_preset(request: HttpRequest, scene_id: int) -> HttpResponse:
    """Keep what is chosen under a name."""
    scene, form = scene_for(request, scene_id), RenderForm(request.POST)
    if not form.is_valid():
        return _list(request, scene, first_words(form), 422)
    try:
        kept = services.keep_preset(request.user, request.POST.get("name", ""), form.choices)
    except CoreError as error:
        return _list(request, scene, str(error), 422)
    answer = _sheet(request, scene, kept.name)
    # Elsewhere than what is to be said of it where it is refused.
    answer["HX-Retarget"], answer["HX-Reswap"] = "#renders", "innerHTML"
    return answer


@require_POST
def drop_preset(request: HttpRequest, scene_id: int, preset_id: int) -> HttpResponse:
    """Forget a preset."""
    scene = scene_for(request, scene_id)
    get_object_or_404(Preset, owner=request.user.pk, pk=preset_id).delete()
    return _sheet(request, scene)


@require_POST
def act(request: HttpRequest, render_id: int, action: str) -> HttpResponse:
    """Do something with one render, and show the list that it is in."""
    found, words, status = _render(request, render_id), "", 200
    try:
        services.ACTS[action](request.user, found)
    except CoreError as error:
        words, status = str(error), 422
    if "queue" in request.GET:
        return _in_queue(request, words, status)
    return _list(request, found.scene, words, status)


@require_GET
def frame(request: HttpRequest, scene_id: int, number: int) -> HttpResponse:
    """One frame of the scene as it is now, as a picture to keep."""
    scene = scene_for(request, scene_id)
    value = scene.value()
    if number >= value.length:
        raise Http404("There is no such frame.")
    try:
        data = apart(miniatures.frame, value, scene.project.folder, number)
    except CoreError as error:
        return JsonResponse({"words": said(error)}, status=422)
    name = f"{slugify(scene.name) or 'scene'}-{number}.png"
    disposition = content_disposition_header(as_attachment=True, filename=name)
    return HttpResponse(
        data, content_type="image/png", headers={"Content-Disposition": disposition}
    )


@require_GET
def queue(request: HttpRequest) -> HttpResponse:
    """All renders of all scenes."""
    if "list" in request.GET:
        return _in_queue(request)
    projects = Project.objects.visible_to(request.user).prefetch_related("scenes")
    context = _queue(request) | _presets(request)
    context["projects"] = [_with_scenes(project) for project in projects]
    return render(request, "renders/queue.html", context)


def _with_scenes(project: Project) -> dict[str, object]:
    shown = [scene for scene in project.scenes.all() if scene.deleted_at is None]
    return {"name": project.name, "shown": shown}


def _in_queue(request: HttpRequest, words: str = "", status: int = 200) -> HttpResponse:
    return render(request, "renders/_queue.html", _queue(request, words), status=status)


def _queue(request: HttpRequest, words: str = "") -> dict[str, object]:
    found = services.in_queue(request.user)
    polling = any(each.active for each in found)
    return {
        "renders": found,
        "words": words,
        "worker": presence.somebody_works(),
        "polling": polling,
    }


def _presets(request: HttpRequest) -> dict[str, object]:
    return {"presets": Preset.objects.filter(owner=request.user.pk), "ready": READY}


@require_POST
def several(request: HttpRequest) -> HttpResponse:
    """Put renders of several scenes in line; what cannot be rendered is said, the others are."""
    wanted = [int(pk) for pk in request.POST.getlist("scene") if pk.isdecimal()]
    scenes = list(Scene.objects.visible_to(request.user).filter(pk__in=wanted))
    if not scenes:
        return _in_queue(request, "Choose the scenes that are to be rendered.", 422)
    refused = services.start_several(request.user, scenes, request.POST.get("preset", ""))
    return _in_queue(request, " ".join(refused))


@require_GET
@never_cache
def seen(request: HttpRequest, render_id: int) -> HttpResponse:
    """What was seen last of a render that is made."""
    picture = _render(request, render_id).picture
    if not picture.is_file():
        raise Http404("Nothing of it was seen yet.")
    return HttpResponse(picture.read_bytes(), content_type="image/jpeg")


@require_GET
def file(request: HttpRequest, render_id: int) -> HttpResponseBase:
    """The video: a part of it for a player that asks for one, or all of it to keep."""
    found = _render(request, render_id)
    if found.state != State.DONE or not found.file.is_file():
        raise Http404("There is no file for this render.")
    if "download" in request.GET:
        name = f"{slugify(found.name) or 'scene'}{found.kind.ending}"
        return FileResponse(found.file.open("rb"), as_attachment=True, filename=name)
    return part_of_file(request, found.file, found.kind.mime)


def part_of_file(request: HttpRequest, path: File, kind: str) -> HttpResponseBase:
    """Answer a request for a range of bytes (RFC 9110, a single range)."""
    size = path.stat().st_size
    asked = re.fullmatch(r"bytes=(\d*)-(\d*)", request.headers.get("Range", ""))
    if not asked or not any(asked.groups()):
        whole = FileResponse(path.open("rb"), content_type=kind)
        whole["Accept-Ranges"] = "bytes"
        return whole
    first = int(asked[1]) if asked[1] else max(size - int(asked[2]), 0)
    last = min(int(asked[2]), size - 1) if asked[1] and asked[2] else size - 1
    if first > last:
        return HttpResponse(status=416, headers={"Content-Range": f"bytes */{size}"})
    response = StreamingHttpResponse(
        _bytes(path, first, last - first + 1), status=206, content_type=kind
    )
    response["Content-Range"] = f"bytes {first}-{last}/{size}"
    response["Content-Length"] = str(last - first + 1)
    response["Accept-Ranges"] = "bytes"
    return response


def _bytes(path: File, first: int, count: int) -> Iterator[bytes]:
    with path.open("rb") as stream:
        stream.seek(first)
        while count > 0 and (data := stream.read(min(count, 1 << 18))):
            count -= len(data)
            yield data
