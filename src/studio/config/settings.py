"""Settings of the studio. What a person may set comes from the environment, read only here.

COASTER_DATA     where the database, pictures and renders are kept (default: var/ in the project)
COASTER_SERVER   1: several people, who sign in; else one person on this machine, signed in by
itself COASTER_SECRET   the signing key; needed with COASTER_SERVER COASTER_HOSTS    the host names
served, with commas; needed with COASTER_SERVER
"""

import os
import secrets
from pathlib import Path

from csp.constants import NONE, SELF
from django.core.exceptions import ImproperlyConfigured

ROOT = Path(__file__).resolve().parents[3]
DATA = Path(os.environ.get("COASTER_DATA", ROOT / "var")).resolve()
# Others on the machine have no business in it.
DATA.mkdir(mode=0o700, parents=True, exist_ok=True)
SERVER_MODE = os.environ.get("COASTER_SERVER", "") == "1"


def _secret() -> str:
    """Return the given key or, for one person's own machine, one made once and kept."""
    if given := os.environ.get("COASTER_SECRET"):
        return given
    if SERVER_MODE:
        raise ImproperlyConfigured("COASTER_SECRET must be set in server mode.")
    kept = DATA / "secret.txt"
    if not kept.exists():
        descriptor = os.open(kept, os.O_WRONLY | os.O_CREAT, 0o600)
        os.write(descriptor, secrets.token_urlsafe(48).encode())
        os.close(descriptor)
    return kept.read_text()


SECRET_KEY = _secret()
DEBUG = False
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]
if SERVER_MODE:
    ALLOWED_HOSTS = [h.strip() for h in os.environ.get("COASTER_HOSTS", "").split(",") if h.strip()]
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS]
    SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = True

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "whitenoise.runserver_nostatic",
    "studio.config.apps.UsedStaticFiles",
    "django_htmx",
    "django_tasks",
    "django_tasks_db",
    "csp",
    "studio.projects",
    "studio.editor",
    "studio.jobs",
    "studio.renders",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "studio.projects.middleware.UploadLimitMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "studio.projects.middleware.SinglePersonMiddleware",
    "django.contrib.auth.middleware.LoginRequiredMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "studio.projects.middleware.RefusalMiddleware",
]
ROOT_URLCONF = "studio.config.urls"
WSGI_APPLICATION = "studio.config.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [ROOT / "src" / "studio" / "templates"],
        "APP_DIRS": True,
        "OPTIONS": {
            "builtins": [
                "studio.projects.templatetags.studio",
                "studio.editor.templatetags.controls",
            ],
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "studio.projects.context.mode",
            ],
        },
    }
]
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": DATA / "coaster.sqlite3",
        # Opening the file takes as long as most of what is asked of it.
        "CONN_MAX_AGE": None,
        "OPTIONS": {
            # No write takes long; what waits longer than this waits for a disk that is gone.
            "timeout": 60,
            "transaction_mode": "IMMEDIATE",
            "init_command": (
                "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL; PRAGMA foreign_keys=ON;"
            ),
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
AUTH_PASSWORD_VALIDATORS = [
    {
        "NAME": "django.contrib.auth.password_validation.MinimumLengthValidator",
        "OPTIONS": {"min_length": 10},
    },
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
LOGIN_URL, LOGIN_REDIRECT_URL, LOGOUT_REDIRECT_URL = "sign-in", "projects", "sign-in"
SESSION_ENGINE = "django.contrib.sessions.backends.cached_db"  # previews come many times a second
SESSION_COOKIE_NAME, CSRF_COOKIE_NAME = "coaster_session", "coaster_csrf"

LANGUAGE_CODE, TIME_ZONE, USE_TZ = "en-gb", "UTC", True
STATIC_URL, STATIC_ROOT = "/static/", DATA / "static"
STATICFILES_DIRS = [ROOT / "src" / "studio" / "static"]
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "studio.config.static.ModuleStorage"},
}
DATA_UPLOAD_MAX_MEMORY_SIZE = 16_000_000
FILE_UPLOAD_MAX_MEMORY_SIZE = 4_000_000
LARGEST_UPLOAD = 64_000_000

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "font-src": [SELF],
        "img-src": [SELF, "blob:", "data:"],
        "media-src": [SELF],
        "connect-src": [SELF],
        "form-action": [SELF],
        "frame-ancestors": [NONE],
        "base-uri": [NONE],
    }
}
X_FRAME_OPTIONS = "DENY"

TASKS = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend", "QUEUES": ["default"]}}
HEARTBEAT_S, SILENCE_S = 1.0, 8.0
"""How often a running render says that it lives, and after how long a silent one counts as broken
off.
"""
RENDER_WORKERS = None
"""Drawing processes a render may use; None for as many as there are cores."""

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
