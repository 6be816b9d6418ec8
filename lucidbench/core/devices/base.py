"""What a device is: its description, and its share of the circuit equation.

Every device contributes to one system in charge-oriented modified nodal form (Ho, Ruehli and
Brennan, 1975; Günther and Feldmann, 1999)

    d/dt q(x) + f(x) = b(t),        G = df/dx,   C = dq/dx

whose unknowns x are the node voltages [V] followed by the branch currents [A] of those devices
that have one. Row k of a node states Kirchhoff's current law (currents leaving through devices
sum to zero); row k of a branch states that branch's own law. A new device keeps this contract:

1. It stands in a module of its family, as one class, and in `CATALOGUE` once.
2. Its `description` names its parameters, pins and symbol; nothing else repeats them.
3. `branches` says how many currents it adds to the unknowns.
4. `stamp` adds its share of G, C and b, and nothing else; it keeps no state.
5. `current` gives the current [A] through it from its first pin to its second; what it takes in
   is then (v_1 - v_2) * current [W] (passive sign convention), negative where it gives power.
6. `joins` says how it constrains its two nodes, which is all the topology checks need.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import Enum
from typing import ClassVar, TypeVar

import numpy as np
import numpy.typing as npt

from lucidbench.core.devices.symbol import Symbol

GROUND_ROW = -1
Real = TypeVar("Real", float, npt.NDArray[np.float64])


@dataclass(frozen=True)
class Parameter:
    """One value of a device: everything said about it, said once."""

    key: str
    label: str
    unit: str
    default: str
    meaning: str
    positive: bool = False  # zero and negative values are refused
    minimum: float | None = None  # [unit], refused below
    maximum: float | None = None  # [unit], refused above
    likely: tuple[float, float] | None = None  # [unit], questioned outside
    zero_means: str | None = None  # what a zero here amounts to, where that deserves a note
    preferred: str | None = None  # the E series it is sold in
    tolerance_of: str | None = None  # the parameter whose spread this one states
    optional: bool = False


@dataclass(frozen=True)
class Description:
    """A part as it is offered, named, valued and drawn."""

    kind: str
    label: str
    purpose: str  # the heading it stands under in the tray
    prefix: str  # automatic names are this and a number
    symbol: Symbol
    parameters: tuple[Parameter, ...] = ()
    words: tuple[str, ...] = ()  # what people type when they want one
    rotation: int = 0  # as it is first placed [degree]

    def parameter(self, key: str) -> Parameter:
        return next(p for p in self.parameters if p.key == key)

    @property
    def main(self) -> Parameter | None:
        """The parameter written beside the part, and that a bare typed value sets."""
        return self.parameters[0] if self.parameters else None


class Joins(Enum):
    """How a device ties its two nodes together at DC."""

    BY_CONDUCTANCE = "conductance"
    BY_VOLTAGE = "voltage"  # fixes their difference
    BY_CURRENT = "current"  # fixes the current, says nothing of the voltage


class Stamps:
    """The system being assembled, as triplets (row, column, value); ground has row -1."""

    def __init__(self) -> None:
        self.conductances: list[tuple[int, int, float]] = []
        self.charges: list[tuple[int, int, float]] = []
        self.drives: list[tuple[int, float]] = []

    def conductance(self, row: int, column: int, value: float) -> None:
        """Add `value` to G[row, column]."""
        if row != GROUND_ROW and column != GROUND_ROW:
            self.conductances.append((row, column, value))

    def charge(self, row: int, column: int, value: float) -> None:
        """Add `value` to C[row, column]."""
        if row != GROUND_ROW and column != GROUND_ROW:
            self.charges.append((row, column, value))

    def drive(self, row: int, value: float) -> None:
        """Add `value` to b[row]."""
        if row != GROUND_ROW:
            self.drives.append((row, value))


class Device(ABC):
    """The contract above. One instance serves every element of its kind."""

    description: ClassVar[Description]
    letter: ClassVar[str]  # in netlist text
    branches: ClassVar[int] = 0
    joins: ClassVar[Joins] = Joins.BY_CONDUCTANCE

    @abstractmethod
    def stamp(
        self, values: Mapping[str, float], nodes: Sequence[int], branch: int, into: Stamps
    ) -> None:
        """Add this element's share: `nodes` are the rows of its pins, `branch` its first own row."""

    @abstractmethod
    def current(self, values: Mapping[str, float], volts: Sequence[Real], branch: Real) -> Real:
        """Current [A] from pin 1 through it to pin 2, at pin voltages `volts` [V].

        Numbers or arrays of one shape alike: plain arithmetic serves both.
        """
