"""The application's settings, on a data folder of the tests' own."""

from __future__ import annotations

import atexit
import os
import shutil
import tempfile

if "LUCID_DATA" not in os.environ:  # the processes of one run share it
    _folder = tempfile.mkdtemp(prefix="lucid-tests-")
    os.environ["LUCID_DATA"] = _folder
    atexit.register(shutil.rmtree, _folder, ignore_errors=True)

from lucidbench.server.settings import *

# As slow as a real one is to guess, it is to try.
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
