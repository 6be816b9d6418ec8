"""A whole bench on the network: every instrument on a port of its own."""

from __future__ import annotations

from lucidbench.instruments.bench import Bench
from lucidbench.instruments.models import INSTRUMENTS
from lucidbench.instruments.scpi.server import InstrumentServer


class BenchServer:
    """Serves the instruments from `port` on, in their order; 0 takes any that are free. Raises OSError
    where one is taken; then none is served."""

    def __init__(self, bench: Bench, host: str = "127.0.0.1", port: int = 0) -> None:
        self.bench = bench
        self._host = host
        self._servers: list[InstrumentServer] = []
        for k, kind in enumerate(INSTRUMENTS):
            wanted = port + k if port else 0
            try:
                self._servers.append(InstrumentServer(kind(bench), host, wanted))
            except OSError as error:
                for server in self._servers:
                    server.server_close()
                raise OSError(error.errno, f"port {wanted}: {error.strerror}") from error
        for server in self._servers:
            server.start()

    @property
    def addresses(self) -> dict[str, str]:
        """Where each instrument is, as VISA writes it."""
        return {
            server.instrument.kind: f"TCPIP0::{self._host}::{server.port}::SOCKET"
            for server in self._servers
        }

    def stop(self) -> None:
        for server in self._servers:
            server.stop()
