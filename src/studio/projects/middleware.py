"""Who is there, and how much they may send."""

import logging
from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.utils.cache import patch_cache_control
from django.utils.html import format_html

from coaster.errors import CoreError
from studio.languages.said import said
from studio.projects import services, troubles


class SinglePersonMiddleware:
    """On a person's own machine that person is signed in from the first page on."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if not settings.SERVER_MODE:
            # Without a session: each request of a program without cookies would leave a row.
            request.user = services.single_person()
        return self.get_response(request)


class PrivateMiddleware:
    """Tells caches that a page is one person's, and to be asked for anew."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        if not response.has_header("Cache-Control"):
            patch_cache_control(response, private=True, no_cache=True)
        return response


class RefusalMiddleware:
    """Says in words what a page or file could not do, where nobody nearer has said it."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        ill = troubles.words_of(error)
        if ill is not None:
            logging.getLogger(__name__).error("%s", error, exc_info=error)
            return _said(request, ill, 503)
        return _said(request, str(error), 422) if isinstance(error, CoreError) else None


PROGRAMS = "/api/"
"""Where programs ask, which read no pages, and English."""


def _said(request: HttpRequest, words: str, status: int) -> HttpResponse:
    """Answer in words, in the form that was asked for, and in the language of who asks."""
    if request.path.startswith(PROGRAMS):
        return JsonResponse({"words": words}, status=status)
    words = said(words)
    if request.headers.get("HX-Request"):  # a part of a page, shown in its place
        return HttpResponse(
            format_html('<p class="words" role="alert">{}</p>', words), status=status
        )
    if request.headers.get("Sec-Fetch-Mode", "navigate") == "navigate":
        return render(request, "refused.html", {"words": words}, status=status)
    return JsonResponse({"words": words}, status=status)


class UploadLimitMiddleware:
    """Turns away what is too large before any of it is read."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        size = request.META.get("CONTENT_LENGTH") or "0"
        # Footage is larger than anything else, and comes in where everything does.
        takes_footage = request.path.endswith(("/import", "/open"))
        most = settings.LARGEST_FOOTAGE if takes_footage else settings.LARGEST_UPLOAD
        if size.isdecimal() and int(size) > most:
            limit = most // 1_000_000
            words = (
                f"That is {int(size) / 1e6:.0f} MB; up to {limit} MB can be sent at once. Nothing"
                " was kept."
            )
            return _said(request, words, 413)
        return self.get_response(request)
