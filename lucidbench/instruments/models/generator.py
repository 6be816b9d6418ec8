"""The function generator: it stands where a source was drawn, once its output is on."""

from __future__ import annotations

from dataclasses import replace

from lucidbench.core.devices.waveforms import Sine, Waveform, pulse, triangle
from lucidbench.core.imperfections import GENERATOR
from lucidbench.core.netlist import Circuit
from lucidbench.core.runs.kinds.rates import likely_source
from lucidbench.instruments.models.driving import Driving
from lucidbench.instruments.scpi.errors import ScpiError
from lucidbench.instruments.scpi.instrument import Answer, command
from lucidbench.instruments.scpi.syntax import Data, decimal, limits

SHAPES = ("SINusoid", "SQUare", "TRIangle", "PULSe", "DC")
FREQUENCIES = (1e-3, 20e6)  # [Hz]
AMPLITUDES = (1e-3, 20.0)  # [V], peak, into an open circuit
OFFSETS = (-20.0, 20.0)  # [V]
SHARE = 0.01  # how far its amplitude may be off
_EDGE = 10e-9  # [s] of a square or pulse


class Generator(Driving):
    """Amplitudes are peak values into an open circuit; it has 50 Ω in series."""

    name, kind = "Function generator", "generator"

    def reset(self) -> None:
        self.shape = "SIN"
        self.frequency, self.amplitude, self.offset = 1e3, 1.0, 0.0
        self.width, self.duty = 100e-6, 0.5
        super().reset()

    def instead(self, circuit: Circuit) -> Circuit:
        """In place of the source it is clipped to."""
        likely = likely_source(circuit)
        name = self.source or (likely.name if likely else "")
        if not name:
            raise ScpiError(-241, "there is no source in whose place it could stand")
        source = circuit.element(name)
        if source.imposes != "V":
            raise ScpiError(-221, f"{source.name} is no voltage source")
        changed = replace(
            source, waveform=self._wave(),
            values={source.main_key: self.offset, "internal_resistance": GENERATOR},
        )  # fmt: skip
        return circuit.with_element(changed)

    def _wave(self) -> Waveform | None:
        off = SHARE * self.bench.noise(self.kind, 0).uniform(-0.8, 0.8)
        size = self.amplitude * (1 + off)
        low, high, f = self.offset - size, self.offset + size, self.frequency
        match self.shape:
            case "SIN":
                return Sine(self.offset, size, f)
            case "SQU":
                edge = min(_EDGE, 0.01 / f)
                wide = self.duty / f - edge
                return pulse(low, high, 0.0, edge, edge, wide, 1 / f)
            case "TRI":
                return triangle(low, high, f, 0.0)
            case "PULS":
                edge = min(_EDGE, 0.01 * self.width)
                return pulse(low, high, 0.0, edge, edge, self.width, 1 / f)
        return None

    @command("OUTPut:IMPedance?")
    def _impedance(self, data: Data) -> Answer:
        return decimal(GENERATOR)

    @command("[SOURce]:FUNCtion[:SHAPe]")
    def _function(self, data: Data) -> Answer:
        self.shape = data.choice(*SHAPES)
        return None

    @command("[SOURce]:FUNCtion[:SHAPe]?")
    def _told_function(self, data: Data) -> Answer:
        return self.shape

    @command("[SOURce]:FREQuency[:CW]")
    def _frequency(self, data: Data) -> Answer:
        self.frequency = data.number("HZ", *FREQUENCIES, 1e3)
        return None

    @command("[SOURce]:FREQuency[:CW]?")
    def _told_frequency(self, data: Data) -> Answer:
        return decimal(limits(data, *FREQUENCIES, 1e3) or self.frequency)

    @command("[SOURce]:VOLTage[:LEVel][:IMMediate][:AMPLitude]")
    def _voltage(self, data: Data) -> Answer:
        self.amplitude = data.number("V", *AMPLITUDES, 1.0)
        return None

    @command("[SOURce]:VOLTage[:LEVel][:IMMediate][:AMPLitude]?")
    def _told_voltage(self, data: Data) -> Answer:
        return decimal(limits(data, *AMPLITUDES, 1.0) or self.amplitude)

    @command("[SOURce]:VOLTage[:LEVel][:IMMediate]:OFFSet")
    def _set_offset(self, data: Data) -> Answer:
        self.offset = data.number("V", *OFFSETS, 0.0)
        return None

    @command("[SOURce]:VOLTage[:LEVel][:IMMediate]:OFFSet?")
    def _told_offset(self, data: Data) -> Answer:
        return decimal(self.offset)

    @command("[SOURce]:PULSe:WIDTh")
    def _width(self, data: Data) -> Answer:
        self.width = data.number("S", 20e-9, 1e3, 100e-6)
        return None

    @command("[SOURce]:PULSe:WIDTh?")
    def _told_width(self, data: Data) -> Answer:
        return decimal(self.width)

    @command("[SOURce]:FUNCtion:SQUare:DCYCle", "[SOURce]:PULSe:DCYCle")
    def _duty(self, data: Data) -> Answer:
        self.duty = data.number("PCT", 1.0, 99.0, 50.0) / 100
        return None
