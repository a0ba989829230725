"""The list of a scene's renders, and their files."""

import re
from collections.abc import Iterator
from pathlib import Path as File

from django.http import FileResponse, Http404, HttpRequest, HttpResponse, StreamingHttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, render
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from coaster.errors import CoreError
from coaster.media.writers import KINDS
from studio.forms import first_words
from studio.jobs import presence
from studio.jobs.models import State
from studio.projects.access import scene_for
from studio.projects.models import Scene
from studio.renders import services
from studio.renders.forms import RenderForm
from studio.renders.models import Render


def _render(request: HttpRequest, render_id: int) -> Render:
    found = Render.objects.visible_to(request.user).select_related("scene__project")
    return get_object_or_404(found, pk=render_id)


def _list(request: HttpRequest, scene: Scene, words: str = "", status: int = 200) -> HttpResponse:
    found = list(scene.renders.filter(deleted_at=None)[:50])
    value = scene.value()
    context = {
        "scene": scene,
        "renders": found,
        "words": words,
        "transparent": value.background is None,
        "worker": presence.somebody_works(),
    }
    context |= {"value": value, "polling": any(r.active for r in found), "kinds": KINDS.values()}
    context["usual"] = next(k.name for k in KINDS.values() if k.alpha or value.background)
    return render(request, "renders/_renders.html", context, status=status)


@require_GET
def renders(request: HttpRequest, scene_id: int) -> HttpResponse:
    """The list, as a part of the editor's page."""
    return _list(request, scene_for(request, scene_id))


@require_POST
def start(request: HttpRequest, scene_id: int) -> HttpResponse:
    """Put a render in line and show the list."""
    scene = scene_for(request, scene_id)
    form = RenderForm(request.POST)
    if not form.is_valid():
        return _list(request, scene, first_words(form), 422)
    sent = form.cleaned_data
    try:
        services.start(
            request.user, scene, kind=sent["format"], scale=sent["scale"], loops=sent["loops"]
        )
    except CoreError as error:
        return _list(request, scene, str(error), 422)
    return _list(request, scene)


@require_POST
def act(request: HttpRequest, render_id: int, action: str) -> HttpResponse:
    """Cancel, start again or delete one render, and show the list."""
    found = _render(request, render_id)
    act_on = {"cancel": services.cancel, "again": services.again, "delete": services.delete}[action]
    try:
        act_on(request.user, found)
    except CoreError as error:
        return _list(request, found.scene, str(error), 422)
    return _list(request, found.scene)


@require_GET
def file(request: HttpRequest, render_id: int) -> HttpResponseBase:
    """The video: a part of it for a player that asks for one, or all of it to keep."""
    found = _render(request, render_id)
    if found.state != State.DONE or not found.file.is_file():
        raise Http404("There is no file for this render.")
    if "download" in request.GET:
        name = f"{slugify(found.scene.name) or 'scene'}{found.kind.ending}"
        return FileResponse(found.file.open("rb"), as_attachment=True, filename=name)
    return _part(request, found.file, found.kind.mime)


def _part(request: HttpRequest, path: File, kind: str) -> HttpResponseBase:
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
