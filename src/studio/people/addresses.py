"""From where somebody signs in."""

from django.conf import settings
from django.http import HttpRequest


def client(request: HttpRequest) -> str:
    """Return the address of who asks: on a server, as the proxy in front of it tells it."""
    told = request.META.get("HTTP_X_FORWARDED_FOR", "") if settings.SERVER_MODE else ""
    # The last is what the proxy has seen itself; those before it can be anybody's invention.
    return told.rpartition(",")[2].strip() or str(request.META.get("REMOTE_ADDR", ""))
