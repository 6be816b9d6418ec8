"""Whether a figure of a circuit with transistors or diodes is worked out as textbooks do, and its cost."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from lucidbench.core.errors import LucidError
from lucidbench.core.evaluate.exact_shapes import Reason
from lucidbench.core.netlist import Circuit
from lucidbench.core.working.textbook import textbook_gains

_GAIN = re.compile(r"V_(\w+)(?:\.\w+)?/V_(\w+)(?:\.\w+)?")
_STEADY = 5e-3  # relative: what is off by one factor everywhere, whatever the values
_ROUNDED = 0.05  # relative: of 25 mV for 25.9 mV, and the like
_PLAIN = 5e-4
_FEWEST = 2  # places at which it has to hold
FORM = "the textbook form (0.7\u00a0V at a junction, β fixed)"
HYBRID_PI = "the textbook's gain (bias at 0.7\u00a0V and fixed β, then hybrid-π)"


@dataclass(frozen=True)
class AsInTextbooks:
    """`what` it is, but for the base current of the transistors `without`, and for a `factor` that rounded
    constants leave, and but for what is `left_out`, in a sentence; `own` is what the whole form comes to,
    where that is known, `part` the one that was left out or whose base current was, and
    `reason` how."""

    what: str
    without: tuple[str, ...]
    own: float | None
    by_algebra: bool
    factor: float = 1.0
    left_out: str = ""
    part: str = ""
    reason: Reason = "textbook_model"

    def told(self, cost: str, itself: str) -> str:
        """In sentences: `cost` is what it costs beside the simulation, `itself` what the whole form
        does, "" where it is not known."""
        decided = "by algebra" if self.by_algebra else "by numbers at other values of all parts"
        rounded = abs(self.factor - 1)
        if rounded > _PLAIN:
            decided += f"; rounded constants make {percent(rounded)}"
        neglected = [self.left_out] if self.left_out else []
        if self.without:
            neglected.append(f"The base current of {' and '.join(self.without)} is neglected.")
        if not neglected:
            return f"Equal to {self.what}, {decided}. Beside the simulation: {cost}."
        words = " ".join(neglected).removesuffix(".")
        own = f"; the textbook's own: {itself}" if itself else ""
        return f"{words}; else {self.what}, {decided}. Beside the simulation: {cost}{own}."


def percent(share: float) -> str:
    return f"{100 * share:.2g}\u00a0%"


def gain_as_in_textbooks(
    quantity: str, circuits: Sequence[Circuit], hand: Sequence[float]
) -> AsInTextbooks | None:
    """Of a gain, V_out/V_in, worked out by `hand` at the values of each of the `circuits`; None where it is
    none, or goes another way."""
    gain = _GAIN.fullmatch(quantity)
    if gain is None:
        return None
    every: list[tuple[float, list[tuple[float, tuple[str, ...]]]]] = []
    for circuit, by_hand in zip(circuits, hand, strict=False):
        with contextlib.suppress(LucidError):  # at values where it is saturated, or off
            every.append((by_hand, textbook_gains(circuit, gain[1])))
    if len(every) < _FEWEST:
        return None
    for k, (_, without) in enumerate(every[0][1]):
        ratios = np.array([abs(by_hand / gains[k][0]) for by_hand, gains in every])
        if np.ptp(ratios) <= _STEADY and abs(ratios[0] - 1) <= _ROUNDED:
            whole = float(np.copysign(every[0][1][0][0], hand[0]))
            part = without[0] if without else ""
            return AsInTextbooks(HYBRID_PI, without, whole, False, float(ratios[0]), part=part)
    return None
