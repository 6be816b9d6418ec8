"""A physical build: the circuit as it comes out of a drawer of real parts."""

from __future__ import annotations

import random
from dataclasses import replace

from lucidbench.core.netlist import Circuit, Element


def physical_build(circuit: Circuit, seed: int) -> Circuit:
    """`circuit` with every value known only within a tolerance drawn evenly from within it.

    The same seed always picks the same parts.
    """
    drawer = random.Random(seed)

    def picked(element: Element) -> Element:
        values = dict(element.values)
        for key, half_width in element.spreads.items():
            values[key] *= 1 + drawer.uniform(-half_width, half_width)
        return replace(element, values=values, spreads={})

    return replace(circuit, elements=tuple(picked(element) for element in circuit))
