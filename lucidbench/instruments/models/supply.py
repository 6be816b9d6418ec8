"""The laboratory supply: it stands where a battery was drawn, with a voltage and a current limit."""

from __future__ import annotations

from dataclasses import replace

from lucidbench.core.analyses import operating_point
from lucidbench.core.imperfections import SUPPLY
from lucidbench.core.netlist import Circuit, Element
from lucidbench.instruments.models.accuracy import Statement
from lucidbench.instruments.models.driving import Driving
from lucidbench.instruments.scpi.errors import ScpiError
from lucidbench.instruments.scpi.instrument import Answer, command
from lucidbench.instruments.scpi.syntax import Data, decimal, limits

VOLTS = (-60.0, 60.0)
AMPS = (1e-3, 5.0)
_OFF = 0.0005  # share its voltage may be off
VOLTMETER = Statement(0.001, 2, (60.0,), 60_000)
AMMETER = Statement(0.002, 2, (6.0,), 60_000)


class Supply(Driving):
    name, kind = "Supply", "supply"

    def reset(self) -> None:
        self.volts, self.amps = 0.0, 1.0
        super().reset()

    def _name(self, circuit: Circuit) -> str:
        still = [e for e in circuit if e.imposes == "V" and e.waveform is None]
        if not self.source and not still:
            raise ScpiError(-241, "there is no battery in whose place it could stand")
        return self.source or still[0].name

    def instead(self, circuit: Circuit) -> Circuit:
        source = circuit.element(self._name(circuit))
        off = 1 + _OFF * self.bench.noise(self.kind, 0).uniform(-0.8, 0.8)
        values = {source.main_key: self.volts * off, "internal_resistance": SUPPLY}
        on = circuit.with_element(replace(source, values=values, waveform=None))
        amps = -operating_point(on).values[f"I_{source.name}"]
        if abs(amps) <= self.amps:
            return on
        limit = self.amps if amps > 0 else -self.amps
        pins = (source.nodes[1], source.nodes[0])
        return circuit.with_element(
            Element(source.name, "current_source", pins, {"current": limit})
        )

    @property
    def _output(self) -> tuple[float, float]:
        """(volts, amps) at its terminals."""
        if not self.is_on:
            return 0.0, 0.0
        circuit = self.bench.loaded
        name = self._name(self.bench.circuit)  # where it limits, another part stands there now
        source = circuit.element(name)
        point = operating_point(circuit)
        volts = {**point.voltages, "0": 0.0}
        limited = source.kind == "current_source"
        plus, minus = reversed(source.nodes) if limited else source.nodes
        amps = point.values[f"I_{name}"]
        return volts[plus] - volts[minus], amps if limited else -amps

    @command("[SOURce]:VOLTage[:LEVel][:IMMediate][:AMPLitude]")
    def _voltage(self, data: Data) -> Answer:
        self.volts = data.number("V", *VOLTS, 0.0)
        return None

    @command("[SOURce]:VOLTage[:LEVel][:IMMediate][:AMPLitude]?")
    def _told_voltage(self, data: Data) -> Answer:
        limit = limits(data, *VOLTS, 0.0)
        return decimal(self.volts if limit is None else limit)

    @command("[SOURce]:CURRent[:LEVel][:IMMediate][:AMPLitude]")
    def _current(self, data: Data) -> Answer:
        self.amps = data.number("A", *AMPS, 1.0)
        return None

    @command("[SOURce]:CURRent[:LEVel][:IMMediate][:AMPLitude]?")
    def _told_current(self, data: Data) -> Answer:
        limit = limits(data, *AMPS, 1.0)
        return decimal(self.amps if limit is None else limit)

    @command("MEASure:VOLTage[:DC]?", "MEASure[:SCALar]:VOLTage[:DC]?")
    def _measure_voltage(self, data: Data) -> Answer:
        return decimal(self._shown(VOLTMETER, self._output[0], "volts"))

    @command("MEASure:CURRent[:DC]?")
    def _measure_current(self, data: Data) -> Answer:
        return decimal(self._shown(AMMETER, self._output[1], "amps"))

    def _shown(self, statement: Statement, value: float, what: str) -> float:
        own = self.bench.noise(f"{self.kind} {what}", 0)
        chance = self.bench.noise(self.kind, self.drawn())
        return statement.shown(value, statement.ranges[0], own, chance)
