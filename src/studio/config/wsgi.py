"""The studio as a WSGI application."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.config.settings")
application = get_wsgi_application()
import studio.config.urls  # noqa: E402, F401 - the first request should not have to load the pages
