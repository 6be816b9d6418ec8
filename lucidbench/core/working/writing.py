"""Pieces of formulas put together as one would write them."""

from __future__ import annotations

from collections.abc import Sequence


def summed(terms: Sequence[str]) -> str:
    """Terms with their signs: "a", "-b" and "c" as a - b + c."""
    text = terms[0]
    for term in terms[1:]:
        text += f" - {term[1:]}" if term.startswith("-") else f" + {term}"
    return text


def bracketed(text: str) -> str:
    """A sum in brackets; what is none as it is."""
    return f"({text})" if " " in text else text


def factor(text: str) -> str:
    """As it may stand behind a sign: a sum, or what is negative, in brackets."""
    return f"({text})" if " " in text or text.startswith("-") else text
