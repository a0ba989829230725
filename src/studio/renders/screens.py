"""What is rendered of a project, on another screen: over all of its window, signed in or not."""

from pathlib import Path as File

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from studio.projects.models import Project
from studio.projects.services import allow
from studio.renders import services
from studio.renders.models import Render, ScreenLink
from studio.renders.views import part_of_file

WORKER = File(__file__).parents[1] / "static" / "studio" / "js" / "screen-worker.js"


@require_GET
def screen(request: HttpRequest, project_id: int) -> HttpResponse:
    """What is rendered of a project of one's own, each looped without a gap."""
    project = get_object_or_404(Project.objects.visible_to(request.user), pk=project_id)
    link = ScreenLink.objects.filter(project=project).first()
    address = request.build_absolute_uri(reverse("linked-screen", args=[link.key])) if link else ""
    rows = [
        (made, reverse("render-file", args=[made.pk])) for made in services.to_be_played(project)
    ]
    context = {"project": project, "rows": rows, "link": address, "own": True}
    return render(request, "renders/screen.html", context)


@require_POST
def act(request: HttpRequest, project_id: int, action: str) -> HttpResponse:
    """Make a link to a project's screen, or withdraw it."""
    project = get_object_or_404(Project.objects.visible_to(request.user), pk=project_id)
    allow(request.user, project)
    if action == "link":
        ScreenLink.objects.get_or_create(project=project)
    else:
        ScreenLink.objects.filter(project=project).delete()
    return redirect("screen", project_id)


def _linked(key: str) -> tuple[Project, list[Render]]:
    """Errors: Http404: nobody has made such a link, or it was withdrawn."""
    link = get_object_or_404(ScreenLink.objects.select_related("project"), key=key)
    if link.project.deleted_at is not None:
        raise Http404("The project is in the bin.")
    return link.project, services.to_be_played(link.project)


@login_not_required
@require_GET
@never_cache
def linked(request: HttpRequest, key: str) -> HttpResponse:
    """The same by a link."""
    project, renders = _linked(key)
    rows = [(made, reverse("linked-file", args=[key, made.pk])) for made in renders]
    return render(request, "renders/screen.html", {"project": project, "rows": rows})


@login_not_required
@require_GET
def linked_file(request: HttpRequest, key: str, render_id: int) -> HttpResponseBase:
    """A file that such a screen plays, and no other one."""
    found = next((made for made in _linked(key)[1] if made.pk == render_id), None)
    if found is None or not found.file.is_file():
        raise Http404("There is no file for this render.")
    return part_of_file(request, found.file, found.kind.mime)


@login_not_required
@require_GET
def worker(request: HttpRequest) -> HttpResponse:
    """The script that keeps a screen, which may be at any address."""
    answer = HttpResponse(WORKER.read_bytes(), content_type="text/javascript")
    answer["Service-Worker-Allowed"] = "/"
    return answer
