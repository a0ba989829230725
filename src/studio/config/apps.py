"""Which of the packages' static files the pages use."""

from django.contrib.staticfiles.apps import StaticFilesConfig


class UsedStaticFiles(StaticFilesConfig):
    """Leaves out the other versions and extensions of htmx, which no page loads."""

    ignore_patterns = [
        *StaticFilesConfig.ignore_patterns,
        "ext",
        "htmx-4*",
        "htmax*",
        "django-htmx.js",
    ]
