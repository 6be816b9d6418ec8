"""The component bridge: one part taken out, its impedance at a frequency, told as R, L or C with loss."""

from __future__ import annotations

import math

import numpy as np

from lucidbench.core.analyses import frequency_sweep
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element
from lucidbench.instruments.bench import Bench
from lucidbench.instruments.models.meter import part_alone
from lucidbench.instruments.scpi.errors import ScpiError
from lucidbench.instruments.scpi.instrument import Answer, Instrument, command
from lucidbench.instruments.scpi.syntax import Data, decimal, limits

FREQUENCIES = (20.0, 200e3)  # [Hz]
SHARE = 0.003  # of |Z|, in any direction of the plane
_NOISE = 2e-4  # of |Z|


class Bridge(Instrument):
    name, kind = "Component bridge", "bridge"

    def __init__(self, bench: Bench) -> None:
        self.part = ""
        super().__init__(bench)

    def reset(self) -> None:
        self.frequency = 1e3
        self.part = ""
        self.last: complex | None = None

    def impedance(self) -> complex:
        """As it is shown [Ω]. Raises ScpiError, CircuitError."""
        if not self.part:
            raise ScpiError(-221, "no part is in its clamps; ROUTe:CLOSe (@R1) puts one there")
        part = self.bench.circuit.element(self.part)
        ampere = {"current": 0.0, "magnitude": 1.0}
        drive = Element("Bridge", "current_source", (GROUND_NODE, "1"), ampere)
        guard = Element("Bridge guard", "resistor", ("1", GROUND_NODE), {"resistance": 1e12})
        alone = Circuit("", (*part_alone(part), drive, guard), self.bench.circuit.temperature)
        z = complex(frequency_sweep(alone, [self.frequency]).traces["V_1"][0])
        off = self.bench.noise(self.kind, 0).uniform(-0.5, 0.5, 2) * SHARE
        noise = self.bench.noise(self.kind, self.drawn()).standard_normal(2) * _NOISE
        return z * (1 + complex(*(off + noise)))

    @command("ROUTe:CLOSe")
    def _close(self, data: Data) -> Answer:
        names = data.channels()
        if len(names) != 1:
            raise ScpiError(-224, "one part: (@R1)")
        self.part = self.bench.circuit.element(names[0]).name
        return None

    @command("ROUTe:OPEN:ALL")
    def _open(self, data: Data) -> Answer:
        self.part = ""
        return None

    @command("[SOURce]:FREQuency[:CW]")
    def _set_frequency(self, data: Data) -> Answer:
        self.frequency = data.number("HZ", *FREQUENCIES, 1e3)
        return None

    @command("[SOURce]:FREQuency[:CW]?")
    def _told_frequency(self, data: Data) -> Answer:
        return decimal(limits(data, *FREQUENCIES, 1e3) or self.frequency)

    @command("INITiate[:IMMediate]")
    def _initiate(self, data: Data) -> Answer:
        self.last = self.impedance()
        return None

    @command("READ?", "MEASure:IMPedance?")
    def _read(self, data: Data) -> Answer:
        """R, X [Ω], in series."""
        self.last = self._chosen(data)
        return _pair(self.last.real, self.last.imag)

    @command("FETCh?")
    def _fetch(self, data: Data) -> Answer:
        if self.last is None:
            raise ScpiError(-230, "nothing was read yet")
        return _pair(self.last.real, self.last.imag)

    @command("MEASure:RESistance?")
    def _resistance(self, data: Data) -> Answer:
        return decimal(self._chosen(data).real)

    @command("MEASure:INDuctance?")
    def _inductance(self, data: Data) -> Answer:
        """L [H] and R [Ω], in series."""
        z = self._chosen(data)
        return _pair(z.imag / (2 * math.pi * self.frequency), z.real)

    @command("MEASure:CAPacitance?")
    def _capacitance(self, data: Data) -> Answer:
        """C [F] and the dissipation factor D."""
        z = self._chosen(data)
        return _pair(-1 / (2 * math.pi * self.frequency * z.imag), z.real / -z.imag)

    def _chosen(self, data: Data) -> complex:
        if not data.is_over:
            self.part = self.bench.circuit.element(data.channels()[0]).name
        return self.impedance()


def _pair(first: float, second: float) -> str:
    return f"{decimal(float(np.real(first)))},{decimal(float(np.real(second)))}"
