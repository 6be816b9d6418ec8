"""What a device is: its description, and its share of the circuit equation.

Every device contributes to one system in charge-oriented modified nodal form (Ho, Ruehli and
Brennan, 1975; Günther and Feldmann, 1999)

    d/dt q(x) + f(x) = b(t),        G = df/dx,   C = dq/dx

whose unknowns x are the node voltages [V] followed by the own unknowns of each element: the
currents [A] of those that have one, and the voltages of nodes inside them. Row k of a node states
Kirchhoff's current law (currents leaving through devices sum to zero); the row of an own current
states that branch's law. A new device keeps this contract:

1. It stands in a module of its family, as one class, and in `DEVICES` once.
2. Its `description` names its parameters, forms, pins and symbol; nothing else repeats them.
3. `own` names the unknowns it adds, with their units ("A" for a current, "V" for an inner node).
4. `stamp` adds its share and nothing else; it keeps no state. It counts in its own numbering:
   pins first, then own unknowns, then the currents of the elements it refers to; `GROUND_ROW` is
   ground. The same numbers tell what flows into each pin, so a current is never written twice.
5. Values in `stamp` may be numbers, arrays of numbers (one a draw) or symbols: plain arithmetic
   only, and no branching on a value that may be drawn. `own` may look at single numbers.
6. What is not linear is a `Law`: equations compiled once for all circuits, in `laws/`.
7. `ties` says how it holds its pins together at DC, which is all the topology checks need.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import Enum, IntEnum
from functools import cached_property
from typing import Any, ClassVar, Literal, Protocol, TypeAlias

from lucidbench.core.devices.symbol import Symbol
from lucidbench.core.devices.waveforms import Waveform
from lucidbench.core.units import parse_value

GROUND_ROW = -1
GROUND_NODE = "0"
Number: TypeAlias = Any  # a float, an array of draws or a symbol: plain arithmetic serves all three


@dataclass(frozen=True, eq=False)
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
    aside: bool = False  # seldom wanted: left empty in a new part, shown when asked for
    forms: tuple[str, ...] = ()  # the forms of the part it belongs to; none means all
    practical: bool = False  # an imperfection the textbook's part does not have
    reads: str = "quantity"  # or "part" (a name), "formula", "points" (a list of numbers)
    symbol: str = ""  # written before it beside the part: "β"


@dataclass(frozen=True)
class Form:
    """One of the ways a part may be modelled: "ideal", "exponential"."""

    key: str
    label: str
    meaning: str
    written: tuple[str, ...] | None = (
        None  # parameters written beside the part; None: as the part says
    )


@dataclass(frozen=True)
class Preset:
    """A generic ready-made set of values: "small-signal NPN, β 180"."""

    label: str
    values: Mapping[str, str]


@dataclass(frozen=True)
class Handling:
    """What a part is like in the hand and on the bench: what may happen to it, and what it then is."""

    fails: bool = False  # it may be open, short or left out
    mistaken: bool = False  # it may be of another value, or exchanged with another of its kind
    misplaced: bool = False  # a lead of it may be on another row
    turned: tuple[int, ...] = ()  # its pins the other way round, where that makes a difference
    series: str = ""  # the value that a resistance in series with it adds to
    real_form: str = ""  # its form on the bench, where the drawn one is a textbook's
    inputs: tuple[int, ...] = ()  # pins into which a bias current flows
    warms: bool = False  # what it does depends on its temperature, unless its form is a textbook's
    bridge: bool = False  # taken out, a bridge measures its main value


@dataclass(frozen=True, eq=False)
class Description:
    """A part as it is offered, named, valued and drawn."""

    kind: str
    label: str
    purpose: str  # the heading it stands under in the tray
    prefix: str  # automatic names are this and a number
    drawn: Symbol | None = None  # the catalogue of drawn parts adds it
    pins: tuple[str, ...] = ("1", "2")
    currents: tuple[tuple[str, int], ...] = (("", 0),)  # those told of: name and the pin they enter
    parameters: tuple[Parameter, ...] = ()
    words: tuple[str, ...] = ()  # what people type when they want one
    rotation: int = 0  # as it is first placed [degree]
    forms: tuple[Form, ...] = ()  # the first is the usual one
    presets: tuple[Preset, ...] = ()
    plain_at_one_frequency: bool = False  # given as a reactance: phasor work only
    element: str = ""  # the kind of element a drawn part stands for; "" for ground
    joins: tuple[int, ...] = ()  # the drawn pin of each of the element's pins, where they differ
    written: tuple[str, ...] | None = None  # parameters written beside it; None: the main one
    main_key: str = ""  # the main parameter, where it is not the first
    by_value: bool = False  # a bare value ("4k7") may stand for one
    practical: str = ""  # what its further values add to the textbook's part: "ESR, leakage"
    imposes: Literal["", "V", "A"] = ""  # the unit of what it imposes, of an independent source
    stores: Literal["", "charge", "flux", "either"] = ""  # what it holds at the next moment still
    pair: tuple[str, ...] = ()  # two values that one complex number can be typed for
    couples: bool = False  # two coils, which it refers to
    opens: bool = False  # it is a contact: what flows through it may be cut off
    alike: bool = False  # its two ends look alike: a drawing does not show which is the first
    amplifies: bool = False  # gives more power to a signal than it takes
    handling: Handling = Handling()

    @property
    def symbol(self) -> Symbol:
        """How it is drawn; only parts in the catalogue have a symbol."""
        assert self.drawn is not None, self.kind
        return self.drawn

    def parameter(self, key: str) -> Parameter:
        return next(p for p in self.parameters if p.key == key)

    @property
    def starting_values(self) -> dict[str, str]:
        """The values a new part has. What is aside and may be left out is told where it is something."""

        def told(p: Parameter) -> bool:
            return not p.aside or (p.optional and bool(p.default) and not p.default.startswith("0"))

        return {p.key: p.default if told(p) else "" for p in self.parameters}

    def of_form(self, form: str) -> tuple[Parameter, ...]:
        """The parameters that mean something in `form` ("" is the first)."""
        chosen = form or (self.forms[0].key if self.forms else "")
        return tuple(p for p in self.parameters if not p.forms or chosen in p.forms)

    @cached_property
    def formula(self) -> Parameter | None:
        """The parameter that a source given by a formula has it in."""
        return next((p for p in self.parameters if p.reads == "formula"), None)

    @property
    def main(self) -> Parameter | None:
        """The parameter written beside the part, and that a bare typed value sets."""
        if self.main_key:
            return self.parameter(self.main_key)
        return self.parameters[0] if self.parameters else None

    def written_in(self, form: str) -> tuple[str, ...]:
        """The parameters written beside the part in `form`."""
        chosen = next(
            (f for f in self.forms if f.key == form), self.forms[0] if self.forms else None
        )
        if chosen is not None and chosen.written is not None:
            return chosen.written
        if self.written is not None:
            return self.written
        return (self.main.key,) if self.main else ()


class Tie(Enum):
    """How a device holds two of its pins together at DC."""

    BY_CONDUCTANCE = "conductance"
    BY_VOLTAGE = "voltage"  # fixes their difference
    BY_CURRENT = "current"  # fixes the current, says nothing of the voltage
    NOT_AT_ALL = "gap"  # carries nothing at DC


FREE = 2.0  # the state of a knee that bends where its control asks; 1 holds it beyond, 0 before


class Law(IntEnum):
    """The compiled equations a device may use; `laws/` holds them, `laws.dispatch` picks by number."""

    JUNCTION = 0
    KNEE = 1
    SATURATION = 2
    BIPOLAR = 3
    CHANNEL = 4
    UNIJUNCTION = 5
    SWITCH = 6
    EXPRESSION = 7


@dataclass(frozen=True)
class LawUse:
    """One use of a law: currents and charges of `branches` (from, to) as functions of `controls`.

    Controls are differences of two unknowns (plus, minus); parameters are those the law lists.
    """

    law: Law
    parameters: tuple[float, ...]
    controls: tuple[tuple[int, int], ...]
    branches: tuple[tuple[int, int], ...]


@dataclass(frozen=True)
class Drive:
    """What a source imposes: at DC, as a phasor (peak value) and in time."""

    dc: Number = 0.0
    phasor: Number = 0.0
    waveform: Waveform | None = None


Triplets: TypeAlias = tuple[tuple[int, int, Number], ...]


class Stamps:
    """An element's share of the equation as triplets (row, column, value), in its own numbering."""

    # Tuples, most of them the one empty one: a large circuit has a Stamps for every element.
    __slots__ = ("charges", "conductances", "drives", "impedances", "laws", "starts")

    def __init__(self) -> None:
        self.conductances: Triplets = ()
        self.charges: Triplets = ()
        self.impedances: Triplets = ()
        self.drives: tuple[tuple[int, Drive], ...] = ()
        self.starts: tuple[tuple[int, Number], ...] = ()
        self.laws: tuple[LawUse, ...] = ()

    def conductance(self, row: int, column: int, value: Number) -> None:
        """Add `value` to G[row, column]."""
        self.conductances += ((row, column, value),)

    def charge(self, row: int, column: int, value: Number) -> None:
        """Add `value` to C[row, column]."""
        self.charges += ((row, column, value),)

    def drive(self, row: int, drive: Drive | float) -> None:
        """Add to b[row]; a bare number is a DC value."""
        self.drives += ((row, drive if isinstance(drive, Drive) else Drive(drive)),)

    def start(self, row: int, charge: Number) -> None:
        """Add to q[row] at the start of a run from given values."""
        self.starts += ((row, charge),)

    def admittance(self, a: int, b: int, conductance: Number) -> None:
        """A conductance [S] between two rows."""
        g = conductance
        self.conductances += ((a, a, g), (b, b, g), (a, b, -g), (b, a, -g))

    def capacitance(self, a: int, b: int, farads: Number) -> None:
        """A capacitance [F] between two rows."""
        c = farads
        self.charges += ((a, a, c), (b, b, c), (a, b, -c), (b, a, -c))

    def branch(self, a: int, b: int, current: int) -> None:
        """`current` leaves `a` through the element to `b`, and its row begins with v_a - v_b."""
        i = current
        self.conductances += ((a, i, 1.0), (b, i, -1.0), (i, a, 1.0), (i, b, -1.0))

    def series(self, a: int, b: int, current: int, ohms: Number) -> None:
        """A resistance [Ω] in series, by its current: exact where the voltage across it is rounding
        beside those of its ends, as before a junction that blocks."""
        self.branch(a, b, current)
        self.conductances += ((current, current, -ohms),)

    def imaginary(self, row: int, column: int, value: Number) -> None:
        """Add `value` to the imaginary part of the matrix at the one frequency it is given for."""
        self.impedances += ((row, column, value),)

    def use(
        self,
        law: Law,
        parameters: Sequence[float],
        controls: Sequence[tuple[int, int]],
        branches: Sequence[tuple[int, int]],
    ) -> None:
        """Let a compiled law add its share."""
        self.laws += (LawUse(law, tuple(parameters), tuple(controls), tuple(branches)),)


class Given(Protocol):
    """What a device may know of the element it stamps."""

    @property
    def name(self) -> str: ...
    @property
    def nodes(self) -> tuple[str, ...]: ...
    @property
    def values(self) -> Mapping[str, Number]: ...
    @property
    def form(self) -> str: ...
    @property
    def waveform(self) -> Waveform | None: ...
    @property
    def program(self) -> tuple[float, ...]: ...


@dataclass(frozen=True)
class Setting:
    """What surrounds an element: the temperature [K], and the elements it refers to, in order."""

    temperature: float
    referred: tuple[Given, ...] = ()


ROOM_TEMPERATURE = 300.15  # [K], 27 °C


class Device(ABC):
    """The contract above. One instance serves every element of its kind."""

    description: ClassVar[Description]
    letter: ClassVar[str] = ""  # in netlist text, where the trade has one
    references: ClassVar[int] = 0  # elements whose currents it needs

    def own(self, given: Given) -> tuple[tuple[str, str], ...]:
        """(name, unit) of each unknown it adds."""
        return ()

    @abstractmethod
    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        """Add this element's share."""

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        """(pin, pin, how) for each pair of its pins it holds together at DC."""
        return ((0, 1, Tie.BY_CONDUCTANCE),)

    def value(self, given: Given, key: str) -> Number:
        """A value of `given`, or the parameter's default where none is set."""
        values = given.values
        return values[key] if key in values else self.defaults[key]

    @property
    def defaults(self) -> Mapping[str, float]:
        """The default of every parameter that has one, in SI units."""
        cached = _DEFAULTS.get(self.description.kind)
        if cached is None:
            cached = {
                p.key: parse_value(p.default, p.unit).number
                for p in self.description.parameters
                if p.default
            }
            _DEFAULTS[self.description.kind] = cached
        return cached


_DEFAULTS: dict[str, Mapping[str, float]] = {}
