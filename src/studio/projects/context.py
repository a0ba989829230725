"""What every template may ask."""

from django.conf import settings
from django.http import HttpRequest


def mode(request: HttpRequest) -> dict[str, bool]:
    return {"server_mode": settings.SERVER_MODE}
