"""Django settings. Two things come from outside: where data are kept, and which hosts may be asked for."""

from __future__ import annotations

import os
import secrets
from pathlib import Path

HOME = Path(__file__).resolve().parents[2]
DATA = Path(os.environ.get("LUCID_DATA", HOME / "data")).resolve()
WEB = HOME / "web" / "dist"
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
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]", *os.environ.get("LUCID_HOSTS", "").split()]
ROOT_URLCONF = "lucidbench.server.urls"
INSTALLED_APPS = ["lucidbench.server"]
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
USE_TZ = True

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "lucidbench.server.security.ContentPolicy",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.middleware.common.CommonMiddleware",
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
WHITENOISE_ROOT = WEB if WEB.exists() else None
WHITENOISE_MAX_AGE = 0


def WHITENOISE_IMMUTABLE_FILE_TEST(path: str, url: str) -> bool:  # noqa: N802, the library's name
    return url.startswith("/assets/")


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
