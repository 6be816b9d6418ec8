"""A build that is sealed: whoever reads the document learns nothing of what is on the bench.

What is sealed is encrypted with a key of this server's own (Fernet: AES-128-CBC with HMAC-SHA-256), so that
this server alone can put it on the table; the digest, salted, is to know it by.
"""

from __future__ import annotations

import base64
import json
from hashlib import pbkdf2_hmac, sha256
from hmac import compare_digest
from secrets import token_hex

from cryptography.fernet import Fernet, InvalidToken
from django.conf import settings

from lucidbench.core.document.exercise import Build, Exercise
from lucidbench.core.errors import DocumentError

_ROUNDS = 200_000  # of the key derivation


def sealed(build: Build, word: str) -> Build:
    """The same, told to this server alone. Whoever has the `word` may open it again."""
    salt = token_hex(16)
    held = {"build": build.model_dump(), "word": _digest(word, salt), "salt": salt}
    token = _fernet().encrypt(json.dumps(held).encode()).decode()
    return Build(
        sealed=token, digest=sha256(f"{salt} {build.model_dump_json()}".encode()).hexdigest()
    )


def opened(build: Build, word: str) -> Build:
    """As it was before it was sealed. Raises DocumentError with another word, or on another server."""
    held = _held(build)
    if not compare_digest(held["word"], _digest(word, held["salt"])):
        raise DocumentError("That is not the word this build was sealed with.")
    return Build.model_validate(held["build"])


def on_the_table(exercise: Exercise) -> Exercise:
    """The exercise with its build open, for the bench alone. Raises DocumentError on another server."""
    if not exercise.build.sealed:
        return exercise
    build = Build.model_validate(_held(exercise.build)["build"])
    return exercise.model_copy(update={"build": build})


def _held(build: Build) -> dict[str, str]:
    try:
        held: dict[str, str] = json.loads(_fernet().decrypt(build.sealed.encode()))
    except (InvalidToken, ValueError) as error:
        raise DocumentError(
            "The build of this exercise was sealed on another server, and only that one can put it on the "
            "bench. Open the exercise there, or take a build of your own."
        ) from error
    return held


def _digest(word: str, salt: str) -> str:
    return pbkdf2_hmac("sha256", word.encode(), salt.encode(), _ROUNDS).hex()


def _fernet() -> Fernet:
    key = sha256(b"builds " + settings.SECRET_KEY.encode()).digest()
    return Fernet(base64.urlsafe_b64encode(key))
