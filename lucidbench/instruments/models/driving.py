"""What drives the circuit in the place of a source that was drawn, while its output is on."""

from __future__ import annotations

from abc import abstractmethod

from lucidbench.core.netlist import Circuit
from lucidbench.instruments.bench import Bench
from lucidbench.instruments.scpi.errors import ScpiError
from lucidbench.instruments.scpi.instrument import Answer, Instrument, command
from lucidbench.instruments.scpi.syntax import Data


class Driving(Instrument):
    """A subclass says what stands `instead`; its `reset` ends with this one's."""

    def __init__(self, bench: Bench) -> None:
        self.source, self.is_on = "", False
        super().__init__(bench)

    def reset(self) -> None:
        self.source, self.is_on = "", False
        self._connect()

    @abstractmethod
    def instead(self, circuit: Circuit) -> Circuit:
        """The circuit with this in the place of a source. Raises ScpiError, CircuitError."""

    def _connect(self) -> None:
        self.bench.attach(self.kind, self.instead if self.is_on else None)

    @command("ROUTe:CLOSe")
    def _close(self, data: Data) -> Answer:
        names = data.channels()
        if len(names) != 1:
            raise ScpiError(-224, "the one source it stands for: (@V1)")
        self.source = self.bench.circuit.element(names[0]).name
        return None

    @command("ROUTe:CLOSe:STATe?")
    def _closed(self, data: Data) -> Answer:
        return f"(@{self.source})"

    @command("OUTPut[:STATe]")
    def _switch(self, data: Data) -> Answer:
        self.is_on = data.boolean()
        self._connect()
        return None

    @command("OUTPut[:STATe]?")
    def _is_switched_on(self, data: Data) -> Answer:
        return str(int(self.is_on))
