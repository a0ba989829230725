"""The manual, as its generator has made it."""

from pathlib import Path as File

from django.core.exceptions import SuspiciousFileOperation
from django.http import FileResponse, Http404, HttpRequest
from django.http.response import HttpResponseBase
from django.shortcuts import redirect
from django.utils._os import safe_join
from django.views.decorators.http import require_GET

from studio.manual import site


@require_GET
def cover(request: HttpRequest) -> HttpResponseBase:
    """The manual's first page; its links go from where it is."""
    return redirect("manual-page", "index.html")


@require_GET
def page(request: HttpRequest, path: str) -> HttpResponseBase:
    """A page of the manual, or a file that one needs."""
    # What begins with a dot is what the generator keeps for itself.
    if any(part.startswith(".") for part in path.split("/")):
        raise Http404("There is no such page.")
    try:
        file = File(safe_join(site.folder(), path))
    except SuspiciousFileOperation as error:
        raise Http404("There is no such page.") from error
    if not file.is_file():
        raise Http404("There is no such page.")
    return FileResponse(file.open("rb"))
