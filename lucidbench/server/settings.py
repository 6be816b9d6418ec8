"""Django settings. Importing them writes nothing.

| from the environment | what it says | without it |
|---|---|---|
| `LUCID_DATA` | the folder of the database, the secret and the list of instruments | the notebook's own |
| `LUCID_SECRET_KEY` | the secret | the one in the data folder; a passing one where there is none yet |
| `LUCID_HOSTS` | the names it may be asked for by, besides those of this machine | none |
| `LUCID_SHARED` | people sign in, each to a notebook of their own | nobody is asked |
| `LUCID_TLS` | it is reached through HTTPS alone, which a proxy ends before it | plain HTTP |
| `LUCID_DEVELOPMENT` | sources change under it; the API is described under `/api/docs` | off |
| `LUCID_INSTRUMENTS` | the list of real benches (docs/bench.md) | `instruments.toml` in the data folder |
"""

from __future__ import annotations

import os
import secrets
from collections.abc import MutableMapping
from pathlib import Path

from lucidbench import places

DATA = Path(os.environ.get("LUCID_DATA") or places.home() / "notebook").resolve()
WEB = places.page()
EXAMPLES = places.examples()
INSTRUMENTS = os.environ.get("LUCID_INSTRUMENTS", str(DATA / "instruments.toml"))


def _secret() -> str:
    kept = DATA / "secret.key"
    return kept.read_text() if kept.exists() else secrets.token_urlsafe(48)


SECRET_KEY = os.environ.get("LUCID_SECRET_KEY") or _secret()
DEBUG = False
SHARED = bool(os.environ.get("LUCID_SHARED"))
TLS = bool(os.environ.get("LUCID_TLS"))
DEVELOPMENT = bool(os.environ.get("LUCID_DEVELOPMENT"))
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]", *os.environ.get("LUCID_HOSTS", "").split()]
ROOT_URLCONF = "lucidbench.server.urls"
ASGI_APPLICATION = "lucidbench.server.asgi.application"
INSTALLED_APPS = [
    "django.contrib.admin",
    "django.contrib.contenttypes",
    "django.contrib.auth",
    "django.contrib.messages",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "lucidbench.server.accounts",
    "lucidbench.server.exercises",
    *(["ninja"] if DEVELOPMENT else []),  # which then brings what shows the API's description
]
AUTH_USER_MODEL = "accounts.User"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}"}
    for name in (
        "UserAttributeSimilarityValidator",
        "MinimumLengthValidator",
        "CommonPasswordValidator",
        "NumericPasswordValidator",
    )
]
SESSION_COOKIE_SAMESITE = "Strict"
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
USE_TZ = True
TIME_ZONE = "UTC"

TEMPLATES = [  # of the admin site; the page itself is built
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
            ]
        },
    }
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "servestatic.middleware.ServeStaticMiddleware",
    "lucidbench.server.security.ContentPolicy",
    "django.middleware.common.CommonMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "lucidbench.server.accounts.rights.RequireLogin",
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
SERVESTATIC_USE_FINDERS = True  # the admin site's own files, where its package has them
SERVESTATIC_MAX_AGE = 0
SERVESTATIC_ALLOW_ALL_ORIGINS = False


def SERVESTATIC_ADD_HEADERS_FUNCTION(  # noqa: N802, the library's name
    headers: MutableMapping[str, str], path: str, url: str
) -> None:
    if url.startswith("/assets/"):
        headers["Cache-Control"] = "max-age=31536000, public, immutable"


DATA_UPLOAD_MAX_MEMORY_SIZE = 5_000_000  # bytes, as the core reads of a document
SECURE_REFERRER_POLICY = "same-origin"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = TLS
SILENCED_SYSTEM_CHECKS = ["security.W003"]  # CsrfEverywhere is the middleware it misses
if TLS:
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    SECURE_HSTS_SECONDS = 365 * 24 * 3600
    SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = True
else:  # loopback, or a network that its owner trusts: none of these can hold without TLS
    SILENCED_SYSTEM_CHECKS += [f"security.{name}" for name in ("W004", "W008", "W012", "W016")]
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
