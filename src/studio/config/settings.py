"""Settings of the studio. What a person may set comes from the environment, read only here.

COASTER_DATA     where the database, pictures and renders are kept (default: var/ in the project)
COASTER_SERVER   yes: several people, who sign in; else one person on this machine, who need not
COASTER_SECRET   the signing key; needed on a server
COASTER_HOSTS    the host names served, with commas; needed on a server
COASTER_QUOTA_MB how much room each person's files may take; none is set by itself
COASTER_HISTORY  how many revisions of each scene ``tidy`` keeps at least; all, unless it is set
COASTER_CLUSTER  tcp://host:8786, a Dask scheduler that renders are made on; else they are made here
COASTER_LOG      how much is written: debug, info, warning (as it is by itself) or error
COASTER_LOG_FILE the file it is written to; to standard error by itself
"""

import os
import re
import secrets
from datetime import timedelta
from pathlib import Path

from csp.constants import NONE, SELF
from django.core.exceptions import ImproperlyConfigured

PACKAGE = Path(__file__).resolve().parents[1]


def _usual_data() -> Path:
    """Return var/ of the project, or a folder of the person's where it is installed without it."""
    project = PACKAGE.parents[1]
    if (project / "pyproject.toml").exists():
        return project / "var"
    home = os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share"
    return Path(home) / "coaster"


DATA = Path(os.environ.get("COASTER_DATA") or _usual_data()).resolve()
# Others on the machine have no business in it.
try:
    DATA.mkdir(mode=0o700, parents=True, exist_ok=True)
    DATABASE = DATA / "coaster.sqlite3"
    DATABASE.touch(mode=0o600)
    if DATABASE.stat().st_uid == os.geteuid():
        DATABASE.chmod(0o600)
except OSError as error:
    raise ImproperlyConfigured(
        f"The studio's folder {DATA} cannot be used: {error.strerror}. COASTER_DATA names another."
    ) from error


def _switch(name: str) -> bool:
    """Return a setting that is yes or no; what is neither is not guessed at."""
    given = os.environ.get(name, "").strip().lower()
    if given not in ("1", "yes", "true", "on", "0", "no", "false", "off", ""):
        raise ImproperlyConfigured(f"{name} is {given!r}; write yes or no.")
    return given in ("1", "yes", "true", "on")


def _count(name: str) -> int | None:
    """Return a setting that is a whole number above 0, or None where it is not set."""
    given = os.environ.get(name, "").strip()
    if not given:
        return None
    if not given.isdecimal() or len(given) > 12 or not int(given):
        raise ImproperlyConfigured(f"{name} is {given!r}; write a whole number above 0.")
    return int(given)


SERVER_MODE = _switch("COASTER_SERVER")
SHORTEST_SECRET, FEWEST_LETTERS = 50, 5
"""What Django's own check asks of a key."""


def _secret() -> str:
    """Return the given key or, for one person's own machine, one made once and kept."""
    given = os.environ.get("COASTER_SECRET", "")
    if SERVER_MODE and (len(given) < SHORTEST_SECRET or len(set(given)) < FEWEST_LETTERS):
        raise ImproperlyConfigured(
            f"On a server COASTER_SECRET must be set, to {SHORTEST_SECRET} letters or more that"
            " nobody can guess. This makes one: python3 -c 'import secrets;"
            " print(secrets.token_urlsafe(48))'"
        )
    if given:
        return given
    kept = DATA / "secret.txt"
    if not kept.exists():
        descriptor = os.open(kept, os.O_WRONLY | os.O_CREAT, 0o600)
        os.write(descriptor, secrets.token_urlsafe(48).encode())
        os.close(descriptor)
    return kept.read_text()


SECRET_KEY = _secret()
DEBUG = False
THIS_MACHINE = ["127.0.0.1", "localhost", "[::1]"]
ALLOWED_HOSTS = THIS_MACHINE
if SERVER_MODE:
    served = [h.strip() for h in os.environ.get("COASTER_HOSTS", "").split(",") if h.strip()]
    ALLOWED_HOSTS = [*served, *THIS_MACHINE]  # what watches it asks on the machine itself
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in served]
    if not served:
        raise ImproperlyConfigured("On a server COASTER_HOSTS must name the hosts that it serves.")
    SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = True
    SECURE_REDIRECT_EXEMPT = ["^health$"]
    SECURE_HSTS_SECONDS = 31_536_000
    # These two speak for all hosts beside this one, which is not ours to say.
    SILENCED_SYSTEM_CHECKS = ["security.W005", "security.W021"]

INSTALLED_APPS = [
    "django.contrib.admin",
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
    "axes",
    "studio.projects",
    "studio.editor",
    "studio.jobs",
    "studio.renders",
    "studio.footage",
    "studio.people",
    "studio.api",
    "studio.manual",
    "studio.languages",
    "studio.upkeep",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "studio.projects.middleware.UploadLimitMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.locale.LocaleMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "studio.projects.middleware.SinglePersonMiddleware",
    "django.contrib.auth.middleware.LoginRequiredMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "studio.projects.middleware.RefusalMiddleware",
    "studio.projects.middleware.PrivateMiddleware",
    "axes.middleware.AxesMiddleware",  # last: it answers for a sign-in that is locked
]
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
ROOT_URLCONF = "studio.config.urls"
WSGI_APPLICATION = "studio.config.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [PACKAGE / "templates"],
        "APP_DIRS": True,
        "OPTIONS": {
            "builtins": [
                "django.templatetags.i18n",
                "studio.projects.templatetags.studio",
                "studio.languages.templatetags.languages",
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
        "NAME": DATABASE,
        # Opening the file takes as long as most of what is asked of it.
        "CONN_MAX_AGE": None,
        "OPTIONS": {
            # No write takes long; what waits longer than this waits for a disk that is gone.
            "timeout": 60,
            "transaction_mode": "IMMEDIATE",
            # Full: an edit is kept through a power cut, for a fifth of a millisecond.
            "init_command": (
                "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA foreign_keys=ON;"
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
    {
        "NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator",
        "OPTIONS": {"user_attributes": ["username"]},
    },
    {"NAME": "django.contrib.auth.password_validation.NumericPasswordValidator"},
]
LOGIN_URL, LOGIN_REDIRECT_URL, LOGOUT_REDIRECT_URL = "sign-in", "projects", "sign-in"
# Not cached: a cache in each server process would know of no sign-out in another.
SESSION_ENGINE = "django.contrib.sessions.backends.db"
SESSION_COOKIE_AGE = 14 * 86_400
PASSWORD_RESET_TIMEOUT = 3 * 86_400
AXES_ENABLED = SERVER_MODE
AXES_FAILURE_LIMIT, AXES_COOLOFF_TIME = 8, timedelta(minutes=15)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_LOCKOUT_TEMPLATE = "people/locked.html"
AXES_CLIENT_IP_CALLABLE = "studio.people.addresses.client"
AXES_VERBOSE = False
QUOTA = megabytes * 1_000_000 if (megabytes := _count("COASTER_QUOTA_MB")) else None
HISTORY = _count("COASTER_HISTORY")
SESSION_COOKIE_NAME, CSRF_COOKIE_NAME = "coaster_session", "coaster_csrf"

LANGUAGE_CODE, TIME_ZONE, USE_TZ = "en-gb", "UTC", True
LANGUAGES = [("en", "English"), ("de", "Deutsch")]
LOCALE_PATHS = [PACKAGE / "locale"]
LANGUAGE_COOKIE_NAME, LANGUAGE_COOKIE_AGE = "coaster_language", 365 * 86_400
LANGUAGE_COOKIE_SAMESITE, LANGUAGE_COOKIE_SECURE = "Lax", SERVER_MODE
FORMAT_MODULE_PATH = "studio.languages.formats"
STATIC_URL, STATIC_ROOT = "/static/", DATA / "static"
STATICFILES_DIRS = [
    PACKAGE / "static",
    ("letters", PACKAGE.parent / "coaster" / "render" / "fonts"),
]
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "studio.config.static.ModuleStorage"},
}
DATA_UPLOAD_MAX_MEMORY_SIZE = 16_000_000
FILE_UPLOAD_MAX_MEMORY_SIZE = 4_000_000
DATA_UPLOAD_MAX_NUMBER_FILES = 4000
LARGEST_UPLOAD = 64_000_000
LARGEST_FOOTAGE = 2_000_000_000
"""Bytes of what is sent at once: of most things, and of footage and of scenes that bring some."""

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "font-src": [SELF],
        "img-src": [SELF, "blob:", "data:"],
        "media-src": [SELF, "blob:"],
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

CLUSTER = os.environ.get("COASTER_CLUSTER", "").strip()
if CLUSTER and not re.fullmatch(r"(tcp|tls)://[^/\s]+:\d+", CLUSTER):
    raise ImproperlyConfigured(
        f"COASTER_CLUSTER is {CLUSTER!r}; write the address of a Dask scheduler, like"
        " tcp://host:8786."
    )

_LOG_LEVELS = ("DEBUG", "INFO", "WARNING", "ERROR")
_level = os.environ.get("COASTER_LOG", "warning").strip().upper()
if _level not in _LOG_LEVELS:
    raise ImproperlyConfigured(
        f"COASTER_LOG is {_level.lower()!r}; write debug, info, warning or error."
    )
_log_file = os.environ.get("COASTER_LOG_FILE", "")
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {
        "line": {"format": "{asctime} {levelname} {name} {process} {message}", "style": "{"}
    },
    "handlers": {
        "out": {
            "formatter": "line",
            # Opened anew when it was moved away, as those do who keep logs short.
            **(
                {"class": "logging.handlers.WatchedFileHandler", "filename": _log_file}
                if _log_file
                else {"class": "logging.StreamHandler"}
            ),
        }
    },
    "root": {"handlers": ["out"], "level": _level},
}
