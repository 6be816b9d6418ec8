"""The multimeter: DC and true RMS volts, amps with burden, ohms. It loads the circuit it reads."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from lucidbench.core.analyses import operating_point
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element
from lucidbench.instruments.bench import Bench, between, in_series, node_of
from lucidbench.instruments.models.accuracy import Statement
from lucidbench.instruments.scpi.errors import ScpiError
from lucidbench.instruments.scpi.instrument import Answer, Handler, Instrument, command
from lucidbench.instruments.scpi.syntax import Data, decimal
from lucidbench.instruments.steady import Array, Steady

INPUT_RESISTANCE = 10e6  # [Ω]
INPUT_CAPACITANCE = 100e-12  # [F], leads included
BANDWIDTH = 20e3  # [Hz], -3 dB of its AC functions
APERTURE = 0.2  # [s] it averages over: five readings a second
_SAMPLES = 8192
_VOLTS = (0.6, 6.0, 60.0, 600.0)
_AMPS = (600e-6, 6e-3, 60e-3, 0.6, 6.0)
_OHMS = (600.0, 6e3, 60e3, 600e3, 6e6, 60e6)
# By range: in series with the current that is read.
BURDEN = dict(zip(_AMPS, (100.0, 10.0, 1.0, 0.5, 0.05), strict=True))  # [Ω]
_TEST_VOLTS = 0.6  # [V] across a resistance of full scale
_OPEN_VOLTS = 3.0  # [V] the ohms function has at most
_LEADS = "meter"


class Function(NamedTuple):
    """What it can be set to: by the words of SENSe:FUNCtion."""

    words: str
    unit: str
    statement: Statement


FUNCTIONS = {
    "VOLT:DC": Function("VOLT:DC", "V", Statement(0.005, 2, _VOLTS)),
    "VOLT:AC": Function("VOLT:AC", "V", Statement(0.01, 5, _VOLTS)),
    "CURR:DC": Function("CURR:DC", "A", Statement(0.01, 3, _AMPS)),
    "CURR:AC": Function("CURR:AC", "A", Statement(0.015, 5, _AMPS)),
    "RES": Function("RES", "Ω", Statement(0.008, 3, _OHMS)),
}
# By how their headers are written.
_HEADERS = {
    "VOLTage[:DC]": "VOLT:DC", "VOLTage:AC": "VOLT:AC", "CURRent[:DC]": "CURR:DC",
    "CURRent:AC": "CURR:AC", "RESistance": "RES",
}  # fmt: skip


def _of_each(before: str, after: str = "") -> Callable[[Handler], Handler]:
    """A method that carries out the command of every function."""
    return command(*(f"{before}{header}{after}" for header in _HEADERS))


def _function_of(data: Data) -> str:
    return next(function for header, function in _HEADERS.items() if header in data.header)


class Meter(Instrument):
    """Two leads: on two nodes, on the pin of a part (to read its current), or on a part taken out (to
    read its resistance)."""

    name, kind = "Multimeter", "meter"

    def __init__(self, bench: Bench) -> None:
        self.leads: tuple[str, ...] = ()
        super().__init__(bench)

    def reset(self) -> None:
        self.function = FUNCTIONS["VOLT:DC"]
        self.range: float | None = None  # None: it finds one
        self.last: float | None = None
        self._clip(())

    # --- what it reads ---------------------------------------------------------------------------

    def read(self) -> float:
        """As it is shown, in the function's unit. Raises ScpiError, CircuitError."""
        if not self.leads:
            raise ScpiError(-221, "the leads are nowhere; ROUTe:CLOSe (@node,node) puts them")
        statement = self.function.statement
        kind = self.function.words
        if kind == "RES":
            value, span = self._ohms()
        elif kind.startswith("CURR"):
            value, span = self._amps()
        else:
            value = self._of(self._over_time(), kind)
            span = self.range or statement.range_for(value) or statement.ranges[-1]
        own = self.bench.noise(f"{self.kind} {kind}", 0)
        return statement.shown(value, span, own, self.bench.noise(self.kind, self.drawn()))

    def _over_time(self) -> tuple[Steady, Callable[[Array], Array]]:
        """Of its input voltage."""
        plus, minus = self._pair()
        state = self.bench.steady(APERTURE)
        return state, lambda times: state.voltage(plus, minus, times)

    def _pair(self) -> tuple[str, str]:
        circuit = self.bench.circuit
        plus, minus = (*self.leads, GROUND_NODE)[:2]
        return node_of(circuit, plus), node_of(circuit, minus)

    def _of(self, told: tuple[Steady, Callable[[Array], Array]], kind: str) -> float:
        """The mean, or the RMS of what moves about it, of a signal within the meter's bandwidth."""
        state, at = told
        if state.period is None and math.isinf(state.span):
            return 0.0 if kind.endswith("AC") else float(at(np.zeros(1))[0])
        window = min(APERTURE, state.span)
        if state.period is not None:
            whole = math.floor(APERTURE / state.period)
            window = state.period if whole else APERTURE
        values = at(window * (np.arange(_SAMPLES) + 0.5) / _SAMPLES)
        if kind.endswith("DC"):
            return float(np.mean(values))
        spectrum = np.fft.rfft(values)[1:] / _SAMPLES
        frequencies = np.arange(1, len(spectrum) + 1) / window
        passed = np.abs(spectrum) ** 2 / (1 + (frequencies / BANDWIDTH) ** 2)
        return float(np.sqrt(2 * np.sum(passed)))

    def _amps(self) -> tuple[float, float]:
        """(value, range): from the largest range down, as each has its own burden."""
        part, pin = self._pin()
        value, span = 0.0, 0.0
        for span in reversed(_AMPS) if self.range is None else (self.range,):
            self.bench.attach(_LEADS, in_series("Meter", part, pin, BURDEN[span]))
            state = self.bench.steady(APERTURE)
            value = self._of((state, lambda times, s=state: s.at("I_Meter", times)), self.function.words)  # type: ignore[misc]  # fmt: skip
            smaller = _AMPS[max(0, _AMPS.index(span) - 1)]
            if abs(value) > 0.95 * smaller:
                break
        return value, span

    def _pin(self) -> tuple[str, int]:
        part, pin = (*self.leads, "1")[:2]
        return self.bench.circuit.element(part).name, int(pin) - 1 if pin.isdecimal() else 0

    def _ohms(self) -> tuple[float, float]:
        """(value, range) between its leads, of a dead circuit or of a part taken out."""
        circuit, pins = _alone(self.bench.circuit, self.leads)
        spans = _OHMS if self.range is None else (self.range,)
        for span in spans:
            amps = _TEST_VOLTS / span
            test = Element("Meter", "current_source", (pins[1], pins[0]), {"current": amps})
            guard = Element("Meter guard", "resistor", pins, {"resistance": 1e12})
            tested = replace(circuit, elements=(*circuit.elements, test, guard))
            values = {**operating_point(tested).voltages, GROUND_NODE: 0.0}
            volts = values[pins[0]] - values[pins[1]]
            if volts <= min(_OPEN_VOLTS, amps * span):
                return volts / amps, span
        return math.inf, spans[-1]

    def _clip(self, leads: tuple[str, ...]) -> None:
        self.leads = leads
        is_voltage = self.function.words.startswith("VOLT")
        if not leads or not is_voltage:
            self.bench.attach(_LEADS, None)
            return
        plus, minus = self._pair()
        load = between("Meter", plus, minus, INPUT_RESISTANCE, INPUT_CAPACITANCE)
        self.bench.attach(_LEADS, load)

    def _set(self, function: str) -> None:
        self.function, self.range, self.last = FUNCTIONS[function], None, None
        self._clip(self.leads)

    # --- its commands ----------------------------------------------------------------------------

    def _configure(self, function: str, data: Data) -> None:
        """[expected value | AUTO [, resolution]] [, channel list]"""
        self._set(function)
        words = [data.next() for _ in data.pieces]
        if words and words[-1].startswith("(@"):
            self._clip(Data([words.pop()]).channels())
        if words and words[0].upper() not in ("AUTO", "DEF", "DEFAULT"):
            self._choose_range(Data([words[0]]))

    def _choose_range(self, data: Data) -> None:
        ranges = self.function.statement.ranges
        unit = {"V": "V", "A": "A", "Ω": "OHM"}[self.function.unit]
        expected = abs(data.number(unit, -ranges[-1], ranges[-1]))
        self.range = next(r for r in ranges if expected <= r * (1 + 1e-9))

    @_of_each("MEASure:", "?")
    def _measure(self, data: Data) -> Answer:
        self._configure(_function_of(data), data)
        self.last = self.read()
        return decimal(self.last)

    @_of_each("CONFigure:")
    def _configure_only(self, data: Data) -> Answer:
        self._configure(_function_of(data), data)
        return None

    @_of_each("[SENSe]:", ":RANGe[:UPPer]")
    def _range(self, data: Data) -> Answer:
        if self.function.words != _function_of(data):
            self._set(_function_of(data))
        self._choose_range(data)
        return None

    @_of_each("[SENSe]:", ":RANGe[:UPPer]?")
    def _told_range(self, data: Data) -> Answer:
        return decimal(self.range or FUNCTIONS[_function_of(data)].statement.ranges[-1])

    @_of_each("[SENSe]:", ":RANGe:AUTO")
    def _automatic(self, data: Data) -> Answer:
        self.range = None if data.boolean() else self.function.statement.ranges[-1]
        return None

    @_of_each("[SENSe]:", ":RANGe:AUTO?")
    def _is_automatic(self, data: Data) -> Answer:
        return str(int(self.range is None))

    @command("READ?")
    def _read(self, data: Data) -> Answer:
        self.last = self.read()
        return decimal(self.last)

    @command("INITiate[:IMMediate]")
    def _initiate(self, data: Data) -> Answer:
        self.last = self.read()
        return None

    @command("FETCh?")
    def _fetch(self, data: Data) -> Answer:
        if self.last is None:
            raise ScpiError(-230, "nothing was read yet")
        return decimal(self.last)

    @command("CONFigure?")
    def _configured(self, data: Data) -> Answer:
        return f'"{self.function.words}"'

    @command("[SENSe]:FUNCtion")
    def _function(self, data: Data) -> Answer:
        words = data.next().strip("\"'").upper().replace("VOLTAGE", "VOLT")
        words = words.replace("CURRENT", "CURR").replace("RESISTANCE", "RES")
        words = {"VOLT": "VOLT:DC", "CURR": "CURR:DC"}.get(words, words)
        if words not in FUNCTIONS:
            raise ScpiError(-224, f"{words[:20]}: {', '.join(FUNCTIONS)}")
        self._set(words)
        return None

    @command("[SENSe]:FUNCtion?")
    def _told_function(self, data: Data) -> Answer:
        return f'"{self.function.words}"'

    @command("ROUTe:CLOSe")
    def _close(self, data: Data) -> Answer:
        leads = data.channels()
        if not 1 <= len(leads) <= 2:
            raise ScpiError(-224, "one place or two: (@out,gnd)")
        self._clip(leads)
        return None

    @command("ROUTe:CLOSe:STATe?")
    def _closed(self, data: Data) -> Answer:
        return f"(@{','.join(self.leads)})"

    @command("ROUTe:OPEN:ALL")
    def _open(self, data: Data) -> Answer:
        self._clip(())
        return None


def _alone(circuit: Circuit, leads: tuple[str, ...]) -> tuple[Circuit, tuple[str, str]]:
    """What the ohms function sees, and between which nodes. Raises CircuitError."""
    if len(leads) == 1 and leads[0] not in circuit.nodes:
        part = circuit.element(leads[0])
        return Circuit("", part_alone(part)), ("1", GROUND_NODE)
    plus, minus = (node_of(circuit, name) for name in (*leads, GROUND_NODE)[:2])
    still = [_dead(element) for element in circuit]
    return replace(circuit, elements=tuple(still)), (plus, minus)


def part_alone(part: Element) -> tuple[Element, ...]:
    """A part of two pins taken out and held between node 1 and ground. Raises CircuitError."""
    if len(part.nodes) != 2:
        raise CircuitError(
            f"{part.name} has {len(part.nodes)} pins; a part of two can be measured alone.",
            (part.name,),
        )
    return (replace(part, nodes=("1", GROUND_NODE)),)


def _dead(element: Element) -> Element:
    """A source switched off: its inner resistance stays."""
    if not element.imposes:
        return element
    off = replace(element, waveform=None)
    return off.with_value(off.main_key, 0.0)
