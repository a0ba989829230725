"""The studio as a WSGI application."""

import gc
import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.config.settings")
application = get_wsgi_application()
import studio.config.urls  # noqa: E402, F401 - the first request should not have to load the pages

# What is loaded by now stays: to look through it again would hold up a request by 70 ms or more.
gc.collect()
gc.freeze()
