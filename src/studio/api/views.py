"""The page for programs: one's keys, and what can be asked for with them."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from coaster.errors import EditRefused
from studio.api import keys
from studio.api.models import Key
from studio.api.operations import api
from studio.projects.models import Scene


@require_GET
def page(request: HttpRequest) -> HttpResponse:
    """How programs come in."""
    example = Scene.objects.visible_to(request.user).first()
    context = _keys(request) | {
        "groups": _groups(),
        "address": request.build_absolute_uri("/").rstrip("/"),
        "scene": example.pk if example else 1,
    }
    return render(request, "api/page.html", context)


def _keys(request: HttpRequest) -> dict[str, Any]:
    return {"keys": Key.objects.filter(owner=request.user.pk)}


@require_POST
@never_cache
def make_key(request: HttpRequest) -> HttpResponse:
    """Make a key and show it, once."""
    try:
        made, text = keys.make(request.user, request.POST.get("name", ""))
    except EditRefused as error:
        context = _keys(request) | {"words": str(error)}
        return render(request, "api/_keys.html", context, status=422)
    return render(request, "api/_keys.html", _keys(request) | {"made": made, "text": text})


@require_POST
def withdraw_key(request: HttpRequest, key_id: int) -> HttpResponse:
    """Let nobody in with a key any more."""
    try:
        keys.withdraw(request.user, key_id)
    except Key.DoesNotExist as error:
        raise Http404("There is no such key.") from error
    return render(request, "api/_keys.html", _keys(request))


def _groups() -> list[tuple[str, list[dict[str, Any]]]]:
    """Return the operations by their tags, as the description of all has them."""
    schema = api.get_openapi_schema()
    parts = schema["components"]["schemas"]
    found: dict[str, list[dict[str, Any]]] = {}
    for path, methods in schema["paths"].items():
        for method, told in methods.items():
            row = {
                "method": method.upper(),
                "path": path,
                "words": told["description"],
                "asked": [*_asked(told), *_sent(told, parts)],
            }
            found.setdefault(told["tags"][0], []).append(row)
    return list(found.items())


def _asked(told: dict[str, Any]) -> list[dict[str, str]]:
    """Return what stands in the address, beside the ids that its path names."""
    rows = [each for each in told.get("parameters", ()) if each["in"] == "query"]
    return [{"name": each["name"], "words": "in the address, behind ?"} for each in rows]


def _sent(told: dict[str, Any], parts: dict[str, Any]) -> list[dict[str, str]]:
    """Return what is sent: the parts of a JSON object, or a file."""
    content = told.get("requestBody", {}).get("content", {})
    if "multipart/form-data" in content:
        return [{"name": "file", "words": "as a form sends it"}]
    if not content:
        return []
    name = content["application/json"]["schema"]["$ref"].rpartition("/")[2]
    rows = parts[name]["properties"].items()
    return [{"name": key, "words": each.get("description", "")} for key, each in rows]
