"""The stand-in bench of one page: a process that serves its instruments on loopback, until it is let go."""

from __future__ import annotations

import contextlib
from multiprocessing.connection import Connection

from lucidbench.core.errors import LucidError
from lucidbench.core.netlist import Circuit
from lucidbench.instruments.bench import Bench
from lucidbench.instruments.serving import BenchServer
from lucidbench.server.jobs.process import CONTEXT, MEMORY, bound_memory, die_with_parent

_STARTS_WITHIN = 20.0  # s


class StandIn:
    """Raises LucidError where it does not come up."""

    def __init__(self, circuit: Circuit, seed: int) -> None:
        self._line, theirs = CONTEXT.Pipe()
        self._process = CONTEXT.Process(target=_serve, args=(theirs,), daemon=True)
        self._process.start()
        theirs.close()
        self._loaded: tuple[str, int] = ("", 0)
        self.addresses: dict[str, str] = {}
        self.load(circuit, seed)

    @property
    def is_alive(self) -> bool:
        return self._process.is_alive()

    def load(self, circuit: Circuit, seed: int) -> None:
        """Put this build on the table, where it is not there already."""
        told = (circuit.fingerprint, seed)
        if told == self._loaded:
            return
        try:
            self._line.send((circuit, seed))
            if not self._line.poll(_STARTS_WITHIN):
                raise EOFError
            self.addresses = self._line.recv()
        except (EOFError, OSError) as error:
            self.end()
            raise LucidError("The stand-in bench did not start; try again.") from error
        self._loaded = told

    def end(self) -> None:
        self._process.kill()
        self._process.join()
        with contextlib.suppress(OSError):
            self._line.close()


def _serve(line: Connection) -> None:
    """Until the other side is gone."""
    die_with_parent()
    bound_memory(MEMORY)
    server: BenchServer | None = None
    while True:
        try:
            circuit, seed = line.recv()
            if server is None:
                server = BenchServer(Bench(circuit, seed))
            server.bench.seed = seed
            server.bench.load(circuit)
            line.send(server.addresses)
        except (EOFError, OSError):
            return
