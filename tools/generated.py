"""`./lucid types`: what is generated from the server's models, so that nothing is declared twice.

The API's description, the page's types and the answers that its component tests work with are made where
they are missing or their sources have changed; they are not kept in git.
"""

from __future__ import annotations

import argparse
import hashlib
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

from tools import HOME, WEB

API = WEB / "src" / "api"
DESCRIPTION = API / "openapi.json"
TYPES = API / "schema.d.ts"
ANSWERS = WEB / "src" / "tests" / "answers.json"
STAMPS = HOME / ".lucid"


def run(options: argparse.Namespace) -> int:
    for stamp in STAMPS.glob("generated-*.stamp"):
        stamp.unlink()
    make()
    record()
    print("What is generated is as the server describes itself.")
    return 0


def make() -> None:
    """The description and the types. Raises CalledProcessError where the server cannot be described."""
    _unless_current("types", TYPES, _describe)


def record() -> None:
    """What the real server answers to panels, for their tests."""
    words = [sys.executable, "-m", "tests.recorded", str(ANSWERS)]
    _unless_current("answers", ANSWERS, lambda: _call(words, HOME))


def _describe() -> None:
    words = [sys.executable, "-m", "lucidbench.server.openapi"]
    DESCRIPTION.write_text(subprocess.check_output(words, cwd=HOME, text=True))
    _call(["npm", "run", "--silent", "api"], WEB)


def _call(words: list[str], folder: Path) -> None:
    subprocess.run(words, cwd=folder, check=True, stdout=subprocess.DEVNULL)


def _unless_current(name: str, made: Path, make: Callable[[], None]) -> None:
    stamp, sources = STAMPS / f"generated-{name}.stamp", _fingerprint()
    if made.exists() and stamp.exists() and stamp.read_text() == sources:
        return
    make()
    STAMPS.mkdir(exist_ok=True)
    stamp.write_text(sources)


def _fingerprint() -> str:
    total = hashlib.sha256()
    sources = [*(HOME / "lucidbench").rglob("*.py"), *(HOME / "examples").glob("*.json")]
    for path in sorted([*sources, HOME / "tests" / "recorded.py", WEB / "package-lock.json"]):
        total.update(str(path.relative_to(HOME)).encode())
        total.update(path.read_bytes())
    return total.hexdigest()
