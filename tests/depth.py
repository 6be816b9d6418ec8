"""How thoroughly random examples are tried: quick in every run, deep by hand and in `./lucid test --deep`."""

from __future__ import annotations

from hypothesis import settings

QUICK, DEEP = "quick", "deep"
_DEEPER = 20  # times as many examples
_USUAL = 50  # examples where a test names no number

_profile = QUICK


def load(profile: str) -> None:
    global _profile
    _profile = profile
    # Examples may take as long as the machine needs.
    settings.register_profile(QUICK, deadline=None, max_examples=_USUAL)
    settings.register_profile(DEEP, deadline=None, max_examples=_DEEPER * _USUAL)
    settings.load_profile(profile)


def examples(quick: int) -> settings:
    """Settings of a test that tries `quick` examples, many more where tests are deep."""
    return settings(max_examples=quick if _profile == QUICK else _DEEPER * quick)


def many(quick: int, deep: int) -> int:
    """How many to try of what is not Hypothesis's."""
    return quick if _profile == QUICK else deep
