"""Django settings. Three things come from outside: where data are kept, which hosts may be asked for, and
whether the server is shared, so that it asks who one is."""

from __future__ import annotations

import os
import secrets
from collections.abc import MutableMapping
from pathlib import Path

HOME = Path(__file__).resolve().parents[2]
DATA = Path(os.environ.get("LUCID_DATA", HOME / "data")).resolve()
WEB = HOME / "web" / "dist"
# The real benches that may be used, as their owner lists them (docs/bench.md).
INSTRUMENTS = os.environ.get("LUCID_INSTRUMENTS", str(DATA / "instruments.toml"))
EXAMPLES = HOME / "examples"

DATA.mkdir(parents=True, exist_ok=True)


def _secret() -> str:
    """One secret for each data directory, made on first use and readable by its owner only."""
    path = DATA / "secret.key"
    if not path.exists():
        handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
        with os.fdopen(handle, "w") as file:
            file.write(secrets.token_urlsafe(48))
    return path.read_text()


SECRET_KEY = _secret()
DEBUG = False
SHARED = bool(os.environ.get("LUCID_SHARED"))
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]", *os.environ.get("LUCID_HOSTS", "").split()]
ROOT_URLCONF = "lucidbench.server.urls"
ASGI_APPLICATION = "lucidbench.server.asgi.application"
INSTALLED_APPS = [
    "django.contrib.contenttypes",
    "django.contrib.auth",
    "django.contrib.sessions",
    "lucidbench.server.accounts",
    "lucidbench.server.exercises",
]
AUTH_USER_MODEL = "accounts.User"
SESSION_COOKIE_SAMESITE = "Strict"
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
USE_TZ = True

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "servestatic.middleware.ServeStaticMiddleware",
    "lucidbench.server.security.ContentPolicy",
    "django.middleware.common.CommonMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "lucidbench.server.accounts.rights.MayUse",
    "lucidbench.server.security.CsrfEverywhere",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": DATA / "lucid.sqlite3",
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 10,
            # A kill, or a power cut, loses nothing that was answered as saved.
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;",
        },
        "TEST": {"NAME": DATA / "test.sqlite3"},  # a file, locked and shared as the real one is
    }
}

# The built page: hashed files under assets/ never change, the rest is asked for again each time.
STATIC_URL = "static/"
SERVESTATIC_ROOT = WEB if WEB.exists() else None
SERVESTATIC_USE_STATIC_ROOT = False
SERVESTATIC_MAX_AGE = 0
SERVESTATIC_ALLOW_ALL_ORIGINS = False


def SERVESTATIC_ADD_HEADERS_FUNCTION(  # noqa: N802, the library's name
    headers: MutableMapping[str, str], path: str, url: str
) -> None:
    if url.startswith("/assets/"):
        headers["Cache-Control"] = "max-age=31536000, public, immutable"


DATA_UPLOAD_MAX_MEMORY_SIZE = 5_000_000  # bytes, as the core reads of a document
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
CSRF_COOKIE_SAMESITE = "Strict"
CSRF_FAILURE_VIEW = "lucidbench.server.security.csrf_failure"
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "loggers": {
        "django": {"handlers": ["console"], "level": "ERROR"},
        # Refusing a strange host name is no error of ours.
        "django.security.DisallowedHost": {"handlers": [], "propagate": False},
    },
}
