"""The studio's settings for tests: data of their own, and tasks that are only put in line."""

import os
import tempfile

_DATA = tempfile.TemporaryDirectory(prefix="coaster-tests-")
os.environ["COASTER_DATA"] = _DATA.name
os.environ.pop("COASTER_SERVER", None)

from studio.config.settings import *  # noqa: E402, F403 - after the folder is chosen

STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
TASKS = {"default": {"BACKEND": "django_tasks.backends.dummy.DummyBackend"}}
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
DATABASES["default"]["TEST"] = {"NAME": f"{_DATA.name}/test.sqlite3"}  # noqa: F405 - threads need a file
os.makedirs(STATIC_ROOT, exist_ok=True)  # noqa: F405 - else it is missed aloud at each request
