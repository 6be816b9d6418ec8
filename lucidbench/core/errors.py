"""Errors a person can act on.

Everything the core refuses is a `LucidError`: a sentence for the person who made the input, and,
where there is one, the place it concerns. Nothing else may reach a user.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

_QUOTED = re.compile(r"“([^”]{60})[^”]{20,}”")


@dataclass(frozen=True)
class Offer:
    """A ready correction: what to show on the button, and the text that would replace the input."""

    label: str
    text: str


class LucidError(Exception):
    """Base of all named errors. `str(error)` is the sentence to show; what it quotes is cut to a length
    that can be read."""

    def __init__(self, sentence: str = "") -> None:
        super().__init__(_QUOTED.sub(r"“\1…”", sentence))


class ValueTextError(LucidError):
    """A value was not understood. `at` is the index of the offending character in the text."""

    def __init__(self, sentence: str, at: int = 0, offers: tuple[Offer, ...] = ()) -> None:
        super().__init__(sentence)
        self.at = at
        self.offers = offers


class FormulaError(LucidError):
    """A formula was not understood or cannot be worked out. `at` and `length` mark the text."""

    def __init__(self, sentence: str, at: int = 0, length: int = 1) -> None:
        super().__init__(sentence)
        self.at = at
        self.length = length


class NetlistError(LucidError):
    """A line of a netlist text was refused; `line` counts from 1."""

    def __init__(self, line: int, sentence: str) -> None:
        super().__init__(f"line {line}: {sentence}")
        self.line = line


class DocumentError(LucidError):
    """A text is no exercise document, or not one this version reads."""


class CircuitError(LucidError):
    """A circuit has no solution, or not exactly one; `elements` and `nodes` name the culprits."""

    def __init__(
        self, sentence: str, elements: tuple[str, ...] = (), nodes: tuple[str, ...] = ()
    ) -> None:
        super().__init__(sentence)
        self.elements = elements
        self.nodes = nodes
