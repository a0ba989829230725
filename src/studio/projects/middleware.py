"""Who is there, and how much they may send."""

from collections.abc import Callable

from django.conf import settings
from django.contrib.auth import login
from django.http import HttpRequest, HttpResponse, JsonResponse

from studio.projects import services


class SinglePersonMiddleware:
    """On a person's own machine that person is signed in from the first page on."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if not settings.SERVER_MODE and not request.user.is_authenticated:
            login(
                request,
                services.single_person(),
                backend="django.contrib.auth.backends.ModelBackend",
            )
        return self.get_response(request)


class UploadLimitMiddleware:
    """Turns away what is too large before any of it is read."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        size = request.META.get("CONTENT_LENGTH") or "0"
        if size.isdecimal() and int(size) > settings.LARGEST_UPLOAD:
            limit = settings.LARGEST_UPLOAD // 1_000_000
            words = (
                f"That is {int(size) / 1e6:.0f} MB; up to {limit} MB can be sent at once. Nothing"
                " was kept."
            )
            return JsonResponse({"words": words}, status=413)
        return self.get_response(request)
