"""Settings. Everything that differs between machines comes from the environment; the defaults are safe and offline.

NOONTIDE_DATA          folder for the database, the weather files and the secret key
NOONTIDE_HOSTS         names under which the server may be asked, with commas
NOONTIDE_DEBUG         1 for tracebacks in the browser
NOONTIDE_WEATHER_EDR   address of a weather service (OGC API - EDR); the built-in stand-in if it is not set
NOONTIDE_WEATHER_COLLECTION   its collection; that of the stand-in if it is not set
NOONTIDE_ELEVATION_COLLECTION   its collection of heights; that of the stand-in if it is not set
NOONTIDE_CACHE_MB      memory for results of stages [MB], 96 if it is not set
NOONTIDE_DASK_SCHEDULER   address of a Dask scheduler for heavy jobs
NOONTIDE_LOG_LEVEL     level of the log on standard error, WARNING if it is not set
"""

import os
import secrets
import tempfile
from pathlib import Path

PACKAGE = Path(__file__).resolve().parent


def _data_folder() -> Path:
    if named := os.environ.get("NOONTIDE_DATA"):
        return Path(named).expanduser().resolve()
    home = Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")
    return home / "noontide"


def _secret_key(folder: Path) -> str:
    """Made at the first start and kept readable for its owner alone."""
    place = folder / "secret-key"
    try:
        return place.read_text(encoding="ascii")
    except FileNotFoundError:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        handle, name = tempfile.mkstemp(dir=folder, prefix=".new-")
        with os.fdopen(handle, "w") as new:
            new.write(secrets.token_urlsafe(48))
        try:
            # Of two processes that start at once, the first one's key is kept.
            os.link(name, place)
        except FileExistsError:
            pass
        finally:
            os.unlink(name)
        return place.read_text(encoding="ascii")


DATA = _data_folder()
SECRET_KEY = _secret_key(DATA)
DEBUG = os.environ.get("NOONTIDE_DEBUG") == "1"
ALLOWED_HOSTS = [host for host in os.environ.get("NOONTIDE_HOSTS", "localhost,127.0.0.1,[::1]").split(",") if host]

INSTALLED_APPS = [
    "django.contrib.contenttypes",
    "django.contrib.auth",
    "rest_framework",
    "drf_spectacular",
    "noontide.server.accounts",
    "noontide.server.places",
    "noontide.server.parts_library",
    "noontide.server.jobs",
    "noontide.server.weather_library",
    "noontide.server.demand_library",
    "noontide.server.projects",
    "noontide.server.trials",
    "noontide.server.reports",
    "noontide.server.exchange",
]
AUTH_USER_MODEL = "accounts.User"
MIDDLEWARE = [
    "noontide.server.headers.SecurityHeaders",
    "noontide.server.guard.ApiGuard",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "django.middleware.common.CommonMiddleware",
]
ROOT_URLCONF = "noontide.server.urls"
ASGI_APPLICATION = "noontide.server.asgi.application"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": DATA / "noontide.sqlite3",
        "CONN_MAX_AGE": None,  # as long as its thread
        # A file in tests too: in memory, SQLite locks whole tables between the threads of jobs.
        "TEST": {"NAME": DATA / "test.sqlite3"},
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 20,
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA foreign_keys=ON;",
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
USE_TZ = True
TIME_ZONE = "UTC"

WEB_BUILD = PACKAGE / "web_build"
WHITENOISE_ROOT = WEB_BUILD if WEB_BUILD.is_dir() else None
WHITENOISE_INDEX_FILE = False
WHITENOISE_ALLOW_ALL_ORIGINS = False
STATIC_URL = "static/"

REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": ["noontide.server.accounts.authentication.LocalUser"],
    "DEFAULT_PERMISSION_CLASSES": ["rest_framework.permissions.AllowAny"],
    "DEFAULT_RENDERER_CLASSES": ["rest_framework.renderers.JSONRenderer"],
    "DEFAULT_PARSER_CLASSES": ["noontide.server.parsers.JSONParser", "noontide.server.parsers.MergePatchParser"],
    "DEFAULT_SCHEMA_CLASS": "noontide.server.api_schema.ApiSchema",
    "EXCEPTION_HANDLER": "noontide.server.problems.as_problem",
    "STRICT_JSON": True,
    "UNAUTHENTICATED_USER": None,
}
SPECTACULAR_SETTINGS = {
    "TITLE": "Noontide",
    "DESCRIPTION": "Design solar power plants and answer for the numbers.",
    "VERSION": "1",
    "OAS_VERSION": "3.1.0",
    "SERVE_INCLUDE_SCHEMA": False,
    "SCHEMA_PATH_PREFIX": "/api/",
    "PATH_CONVERTER_OVERRIDES": {"digest": {"type": "string", "pattern": "^[0-9a-f]{8,64}$"}},
}

CSRF_COOKIE_SAMESITE = "Strict"
UPLOAD_LIMIT = 64 * 1024 * 1024  # a year of minutes as EPW has just under
DATA_UPLOAD_MAX_MEMORY_SIZE = 4 * 1024 * 1024
FILE_UPLOAD_MAX_MEMORY_SIZE = 4 * 1024 * 1024

JOB_MODULES = [  # that register kinds of jobs
    "noontide.server.weather_library.requesting",
    "noontide.server.weather_library.region",
    "noontide.server.projects.yearly",
    "noontide.server.projects.obstacles",
    "noontide.server.projects.string_finding",
    "noontide.server.projects.designing",
    "noontide.server.reports.files",
    "noontide.server.trials.running",
    "noontide.server.trials.stepping",
]
WEATHER_EDR = os.environ.get("NOONTIDE_WEATHER_EDR", "")
WEATHER_COLLECTION = os.environ.get("NOONTIDE_WEATHER_COLLECTION", "simulated-climate")
ELEVATION_COLLECTION = os.environ.get("NOONTIDE_ELEVATION_COLLECTION", "elevation")

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"plain": {"format": "%(asctime)s %(levelname)s %(name)s: %(message)s"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "plain"}},
    "root": {"handlers": ["console"], "level": os.environ.get("NOONTIDE_LOG_LEVEL", "WARNING")},
    "loggers": {
        # What an answer already says in words: refused requests are no faults of the server.
        "django.request": {"level": "ERROR"},
        "django.security.DisallowedHost": {"level": "CRITICAL"},
    },
}
