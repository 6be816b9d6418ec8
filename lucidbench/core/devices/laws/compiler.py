"""How the kernels are compiled, and where the result is kept.

Compiled code is kept in a folder named after the contents of all sources: the compiler
itself looks only at the file a function stands in, not at those it calls.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numba

from lucidbench import places

CORE = Path(__file__).resolve().parents[2]


def sources() -> list[Path]:
    """Every file whose functions are compiled."""
    return sorted([*(CORE / "devices" / "laws").glob("*.py"), *(CORE / "kernels").glob("*.py")])


def fingerprint() -> str:
    total = hashlib.sha256(numba.__version__.encode())
    for source in sources():
        total.update(source.read_bytes())
    return total.hexdigest()[:16]


def cache_folder() -> Path:
    return places.cache() / "kernels" / fingerprint()


numba.config.CACHE_DIR = str(cache_folder())
_compile = numba.njit(cache=True, error_model="numpy", nogil=True)
_compile_bare = numba.njit(cache=True, error_model="numpy", nogil=True, _nrt=False)
_compile_within = numba.njit(
    cache=True, error_model="numpy", nogil=True, _nrt=False, inline="always"
)


def compiled(function: Callable[..., Any]) -> Callable[..., Any]:
    """Compile `function` on its first call, or take it from the cache."""
    result: Callable[..., Any] = _compile(function)
    return result


def kernel(function: Callable[..., Any]) -> Callable[..., Any]:
    """The same for a function that only works on arrays it is given and makes none of its own.

    Whoever calls owns the arrays, so it counts no references: in a circuit of a few nodes that counting
    would take a third of the time.
    """
    result: Callable[..., Any] = _compile_bare(function)
    return result


def within_callers(function: Callable[..., Any]) -> Callable[..., Any]:
    """The same, set into each caller: for parts of a step, which all take the same arrays. Handing over
    dozens of them at each call would cost as much as a small circuit's step."""
    result: Callable[..., Any] = _compile_within(function)
    return result
