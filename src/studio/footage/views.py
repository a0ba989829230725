"""Small frames as files, and how far they are."""

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET, require_POST

from coaster.errors import CoreError
from coaster.media.moving import is_moving
from studio.footage import services
from studio.footage.models import SmallFrames
from studio.projects.models import Asset
from studio.projects.views import KEEP


def _small(request: HttpRequest, project_id: int, file_name: str) -> SmallFrames:
    mine = Asset.objects.visible_to(request.user).select_related("project")
    asset = get_object_or_404(mine, project_id=project_id, file_name=file_name)
    if not is_moving(file_name):
        raise Http404("This is a picture that does not move.")
    try:
        return services.of_asset(request.user, asset)
    except CoreError as error:
        raise Http404(str(error)) from error


@require_GET
@KEEP
def block(request: HttpRequest, project_id: int, file_name: str, number: int) -> HttpResponse:
    """A block of small frames; the file is named by its content, so it may be kept."""
    small = _small(request, project_id, file_name)
    if number >= small.blocks:
        raise Http404("There is no such block of frames.")
    try:
        data = services.block(small, number)
    except CoreError as error:
        raise Http404(str(error)) from error
    return HttpResponse(data, content_type="application/octet-stream")


@require_GET
@KEEP
def frame(request: HttpRequest, project_id: int, file_name: str, index: int) -> HttpResponse:
    """One small frame as a picture."""
    small = _small(request, project_id, file_name)
    if index >= small.total:
        raise Http404("There is no such frame.")
    try:
        data = services.frame(small, index)
    except CoreError as error:
        raise Http404(str(error)) from error
    kind = "image/png" if data.startswith(b"\x89PNG") else "image/jpeg"
    return HttpResponse(data, content_type=kind)


@require_GET
def state(request: HttpRequest, project_id: int, file_name: str) -> HttpResponse:
    """How far the small frames are, as a part of the card."""
    return _told(request, _small(request, project_id, file_name))


@require_POST
def act(request: HttpRequest, project_id: int, file_name: str, action: str) -> HttpResponse:
    """Stop making small frames, or make those that are missing."""
    small, words = _small(request, project_id, file_name), ""
    try:
        {"cancel": services.cancel, "again": services.again}[action](request.user, small)
    except CoreError as error:
        words = str(error)
    return _told(request, _small(request, project_id, file_name), words)


def _told(request: HttpRequest, small: SmallFrames, words: str = "") -> HttpResponse:
    return render(request, "footage/_small.html", {"small": small, "words": words})
