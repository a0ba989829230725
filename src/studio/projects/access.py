"""Finding what is a person's own, or answering 404."""

from django.http import HttpRequest
from django.shortcuts import get_object_or_404

from studio.projects.models import Scene
from studio.projects.unchanged import as_before


def scene_for(request: HttpRequest, scene_id: int) -> Scene:
    """Return a scene of the person's own, its project along with it, or answer 404."""
    return as_before((request.user.pk, scene_id), lambda: _scene_for(request, scene_id))


def _scene_for(request: HttpRequest, scene_id: int) -> Scene:
    mine = Scene.objects.visible_to(request.user).select_related("project")
    return get_object_or_404(mine, pk=scene_id)
