"""Where things are on this machine: what is kept, what can be made again, and what comes with the package.

`LUCID_HOME` names the folder of all that is kept, and `LUCID_CACHE` that of what is only remembered; without
them the folders are the user's own, as the system has them.
"""

from __future__ import annotations

import os
from pathlib import Path

from platformdirs import user_cache_path, user_data_path

_NAME = "lucidbench"
_PACKAGE = Path(__file__).resolve().parent
_CHECKOUT = _PACKAGE.parent


def home() -> Path:
    """The folder that data folders stand in unless another is named."""
    chosen = os.environ.get("LUCID_HOME")
    return Path(chosen).resolve() if chosen else user_data_path(_NAME)


def cache() -> Path:
    """The folder of what is made again where it is missing."""
    chosen = os.environ.get("LUCID_CACHE")
    return Path(chosen).resolve() if chosen else user_cache_path(_NAME)


def page() -> Path:
    """The built page: within the package, or as a checkout builds it."""
    packed = _PACKAGE / "page"
    return packed if packed.exists() else _CHECKOUT / "web" / "dist"


def examples() -> Path:
    """The demo exercises, one document a file."""
    packed = _PACKAGE / "examples"
    return packed if packed.exists() else _CHECKOUT / "examples"
