"""Environment variables for the numerical libraries and the allocator, set before these are loaded."""

from __future__ import annotations

import os

SETTINGS = {
    # Circuits are small: sharing one solve among processors costs more than it saves.
    "OPENBLAS_NUM_THREADS": "1",
    # Memory given back between two analyses is had again page by page, which costs large circuits a
    # tenth of their time: up to 256 MB stay with the process. Read by processes started from now on.
    "MALLOC_MMAP_THRESHOLD_": str(32 << 20),
    "MALLOC_TRIM_THRESHOLD_": str(256 << 20),
}


def tune() -> None:
    """Set what is not set otherwise, for this process and those it starts."""
    for name, value in SETTINGS.items():
        os.environ.setdefault(name, value)
