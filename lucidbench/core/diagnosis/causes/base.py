"""What a cause of a gap is: one thing more than the tolerances, at one place, of a size that is usual for it.

A kind of cause is an entry of the registry (causes/__init__.py). Its `at` gives a `Cause` for each place of
what was observed where it may be. A new one keeps to this:

1. `key` names it for scripts; it never changes. docs/causes.md lists it.
2. `edits` are what is otherwise in the circuit with the cause in it, `view` how the instrument then wrote
   things down; either leaves alone what it does not concern, as a case may lack the part.
3. A cause with a `size` has one number. Its prior is a bell curve over z: `size.at(z)` is the number [SI].
   One without is there or not.
4. `weight` says how usual the cause is beside the others; tolerance alone has the weight 1. These are common
   practice, no published source.
5. `sentence` is what a student reads; {value} stands for the number with its uncertainty.
6. What puts it into the model follows from its edits; where these cannot tell, `edit` says it.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from lucidbench.core.diagnosis.observed import PLAIN, Block, Observed, View
from lucidbench.core.edits import CircuitEdit, Exchange, Open, SetValues, Short, Turn
from lucidbench.core.netlist import Circuit

METER, PROBE, RECORD, CIRCUIT = "meter", "probe", "record", "circuit"
_DECADES = (-6.0, -4.5, -3.0, -1.5, 0.0, 1.5, 3.0, 4.5, 6.0)
# Of a size whose usual one changes nothing, as it is what is drawn.
BESIDE = (-2.0, -0.7, -0.2, -0.06, 0.06, 0.2, 0.7, 2.0)


@dataclass(frozen=True)
class Size:
    """`usual` times e to the `spread` times z; or where it is signed, `usual` and `spread` times z more.
    `scan` are the z at which a search begins."""

    usual: float
    spread: float
    unit: str
    is_signed: bool = False
    scan: tuple[float, ...] = _DECADES

    def at(self, z: float) -> float:
        if self.is_signed:
            return self.usual + self.spread * z
        return self.usual * math.exp(max(-60.0, min(60.0, self.spread * z)))


@dataclass(frozen=True)
class Edit:
    """What puts a cause into the model. `key` of a part is given the cause's value, `form` its form; it is
    left `open`, `short`ed, `turn`ed round, exchanged with `other`; a `load` or a `stray` capacitance is drawn
    at `nodes`; of a record, what it says is taken otherwise (`scale`, `shift`), of its run, that it begins
    settled. `none` where it is no matter of the drawing, or is better drawn by hand."""

    does: Literal[
        "set", "open", "short", "turn", "exchange", "load", "stray", "scale", "shift", "settle", "none",
    ] = "none"  # fmt: skip
    part: str = ""
    key: str = ""
    form: str = ""
    other: str = ""
    nodes: tuple[str, ...] = ()


def _put_in(edits: Sequence[CircuitEdit]) -> Edit:
    """What puts a single edit into the model; nothing where there are more."""
    match edits:
        case [SetValues(part, values, form)] if len(values) == 1:
            return Edit("set", part, next(iter(values)), form)
        case [Open(part)]:
            return Edit("open", part)
        case [Short(part)]:
            return Edit("short", part)
        case [Turn(part)]:
            return Edit("turn", part)
        case [Exchange(part, other)]:
            return Edit("exchange", part, other=other)
        case _:
            return Edit()


Edits = Callable[[float], Sequence[CircuitEdit]]


def always(*edits: CircuitEdit) -> Edits:
    """The edits of a cause without a size."""
    return lambda size: edits


NOTHING = always()


def untold(circuit: Circuit, size: float) -> float | None:
    return None


@dataclass(frozen=True)
class Cause:
    """One cause at one place: `part` is an element's name, or meter, probe, record, circuit.

    `blocks` are those whose writing down it concerns, by number. `told` gives its value [`unit`] from the
    circuit that has it in; where that says None, the size itself is the value.
    """

    key: str
    part: str
    weight: float
    sentence: str
    size: Size | None = None
    edits: Edits = NOTHING
    view: Callable[[View, float], View] | None = None
    blocks: tuple[int, ...] = ()
    told: Callable[[Circuit, float], float | None] = untold
    unit: str = ""
    other: str = ""
    edit: Edit | None = None

    @property
    def put_in(self) -> Edit:
        """What puts it into the model."""
        return self.edit or _put_in(self.edits(self.amount(0.0)))

    def amount(self, z: float) -> float:
        return self.size.at(z) if self.size else 0.0

    def seen(self, k: int, z: float, view: View = PLAIN) -> View:
        """How block `k` was written down."""
        if self.view is None or k not in self.blocks:
            return view
        return self.view(view, self.amount(z))

    def value(self, circuit: Circuit, z: float) -> float | None:
        amount = self.amount(z)
        told = self.told(circuit, amount)
        return told if told is not None or self.size is None else amount


Places = Callable[[Observed], Iterator[Cause]]


@dataclass(frozen=True)
class Kind:
    """An entry of the registry: its causes, wherever they may be. `label` heads it in lists, `practice` says
    what is usual and where that comes from."""

    key: str
    label: str
    at: Places
    practice: str


def setting(part: str, key: str, form: str = "") -> Edits:
    """A parameter of a part has the size of the cause."""
    return lambda size: (SetValues(part, {key: size}, form),)


def value_of(part: str, key: str) -> Callable[[Circuit, float], float | None]:
    def told(circuit: Circuit, size: float) -> float | None:
        element = circuit.by_name.get(part)
        number = element.values.get(key) if element else None
        return None if number is None else float(number.real)

    return told


def is_dynamic(block: Block) -> bool:
    """Whether anything moves in it: a response, or a record in time."""
    return hasattr(block, "frequencies") or hasattr(block, "times")
