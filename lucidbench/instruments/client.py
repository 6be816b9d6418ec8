"""One client for every bench, over PyVISA: the stand-in's instruments and real ones, in the same way.

Whatever goes wrong is a BenchTrouble, a sentence that names the instrument and what to look at.
"""

from __future__ import annotations

import contextlib
import select
import socket
from collections.abc import Mapping
from typing import Any

import numpy as np
import numpy.typing as npt
import pyvisa
from pyvisa.constants import StatusCode
from pyvisa.errors import VisaIOError
from pyvisa.resources import MessageBasedResource

from lucidbench.core.errors import LucidError
from lucidbench.instruments.dialects import Dialect, Settings

PATIENCE = 25.0  # s an instrument may take to answer
CONNECTS_WITHIN = 5.0  # s
_MOST_ERRORS = 20  # read from a queue after a step
_NOTHING_WRONG = "0"

LABELS = {
    "meter": "multimeter", "generator": "function generator", "supply": "supply",
    "oscilloscope": "oscilloscope", "bridge": "component bridge",
}  # fmt: skip


class BenchTrouble(LucidError):
    """An instrument that is not there, does not answer, or answers what nobody understands."""


class BenchClient:
    """The instruments of one bench, each connected when it is first needed and again after it was lost.

    One at a time may use it. `close` lets all of them go.
    """

    def __init__(
        self, name: str, addresses: Mapping[str, str], settings: Settings | None = None
    ) -> None:
        self.name = name
        self._addresses = dict(addresses)
        self._settings = settings or Settings()
        self._manager = pyvisa.ResourceManager("@py")
        self._open: dict[str, tuple[MessageBasedResource, Dialect]] = {}

    def has(self, kind: str) -> bool:
        return kind in self._addresses

    def identify(self, kind: str) -> str:
        """What an instrument calls itself."""
        return self._query(kind, self._resource(kind)[0], "*IDN?")

    def dialect(self, kind: str) -> Dialect:
        return self._resource(kind)[1]

    def tell(self, kind: str, step: str, **put_in: Any) -> None:
        """Carry out a step; one that the instrument does not have is left out."""
        resource, dialect = self._resource(kind)
        text = dialect.command(step)
        if text is not None:
            self._write(kind, resource, text.format(**put_in))
            self._look_for_errors(kind, resource)

    def reset(self, kind: str) -> None:
        """To the settings it wakes up with, and nothing in its error queue."""
        resource, _ = self._resource(kind)
        self._write(kind, resource, "*RST;*CLS")
        self._look_for_errors(kind, resource)

    def numbers(self, kind: str, step: str, **put_in: Any) -> list[float]:
        """What a step answers, numbers with commas between."""
        resource, dialect = self._resource(kind)
        text = (dialect.command(step) or "").format(**put_in)
        answer = self._query(kind, resource, text)
        try:
            found = [float(piece) for piece in answer.split(",")]
        except ValueError as error:
            raise BenchTrouble(
                f"The {LABELS[kind]} answered “{answer[:40]}” to {text}, which is no number; see that "
                f"it is the instrument meant, and how it is set."
            ) from error
        self._look_for_errors(kind, resource)
        return found

    def number(self, kind: str, step: str, **put_in: Any) -> float:
        return self.numbers(kind, step, **put_in)[0]

    def waveform(self, kind: str, step: str, **put_in: Any) -> npt.NDArray[np.float64]:
        """A block of 32-bit numbers, most significant byte first."""
        resource, dialect = self._resource(kind)
        text = (dialect.command(step) or "").format(**put_in)
        with self._translated(kind):
            try:
                resource.write(text)
                self._await(resource)
                found = resource.read_binary_values(
                    datatype="f", is_big_endian=True, container=list
                )
            except ValueError as error:
                raise BenchTrouble(
                    f"The {LABELS[kind]} answered to {text} with what is no block of numbers."
                ) from error
        self._look_for_errors(kind, resource)
        return np.asarray(found, np.float64)

    def close(self) -> None:
        for kind in list(self._open):
            self._lose(kind)

    # --- connections -----------------------------------------------------------------------------

    def _resource(self, kind: str) -> tuple[MessageBasedResource, Dialect]:
        if kind in self._open:
            return self._open[kind]
        address = self._addresses.get(kind)
        if address is None:
            raise BenchTrouble(f"{self.name} has no {LABELS[kind]}.")
        try:
            resource = self._manager.open_resource(
                address, open_timeout=int(1000 * CONNECTS_WITHIN), timeout=1000 * PATIENCE,
                read_termination="\n", write_termination="\n",
            )  # fmt: skip
        except (VisaIOError, OSError, ValueError) as error:
            raise BenchTrouble(
                f"The {LABELS[kind]} of {self.name} cannot be reached at {address}. See that it is "
                f"switched on and connected."
            ) from error
        assert isinstance(resource, MessageBasedResource)
        line = self._line(resource)
        if (
            line is not None
        ):  # a short message shall not wait for the one before it to be acknowledged
            line.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        try:
            identification = self._query(kind, resource, "*IDN?")
        except BenchTrouble as error:
            raise BenchTrouble(
                f"The {LABELS[kind]} of {self.name} cannot be reached at {address}, or does not say what it "
                f"is. See that it is switched on and connected."
            ) from error
        self._open[kind] = resource, self._settings.dialect_of(kind, identification)
        return self._open[kind]

    def _line(self, resource: MessageBasedResource) -> socket.socket | None:
        """The socket of a connection; None where it is by other means."""
        held = getattr(self._manager.visalib, "sessions", {}).get(resource.session)
        line = getattr(held, "interface", None)
        return line if isinstance(line, socket.socket) else None

    def _await(self, resource: MessageBasedResource) -> None:
        """Wait for an answer to begin. Raises EOFError at once where the other side hung up, which the
        library would wait out."""
        line = self._line(resource)
        if line is None:
            return
        readable, _, _ = select.select([line], [], [], PATIENCE)
        if readable and not line.recv(1, socket.MSG_PEEK):
            raise EOFError

    def _lose(self, kind: str) -> None:
        held = self._open.pop(kind, None)
        if held:
            with contextlib.suppress(Exception):  # it is gone, however that is told
                held[0].close()

    def _write(self, kind: str, resource: MessageBasedResource, text: str) -> None:
        with self._translated(kind):
            resource.write(text)

    def _query(self, kind: str, resource: MessageBasedResource, text: str) -> str:
        with self._translated(kind):
            resource.write(text)
            self._await(resource)
            answer = resource.read().strip()
        if not answer.isascii():
            raise BenchTrouble(f"The {LABELS[kind]} answered with what is no text.")
        return answer

    def _look_for_errors(self, kind: str, resource: MessageBasedResource) -> None:
        """Raises BenchTrouble with the first of what stands in the error queue, which is emptied."""
        first = ""
        for _ in range(_MOST_ERRORS):
            answer = self._query(kind, resource, "SYSTem:ERRor?")
            number, _, words = answer.partition(",")
            if number.strip().lstrip("+") == _NOTHING_WRONG:
                break
            first = first or words.strip().strip('"')
        if first:
            raise BenchTrouble(f"The {LABELS[kind]} says: {first.rstrip('.')}.")

    @contextlib.contextmanager
    def _translated(self, kind: str) -> Any:
        """What the library raises, as a sentence; all connections are made anew at the next step, as what
        one instrument has lost the others have often lost too."""
        try:
            yield
        except VisaIOError as error:
            self.close()
            if error.error_code == StatusCode.error_timeout:
                raise BenchTrouble(
                    f"The {LABELS[kind]} of {self.name} did not answer within {PATIENCE:g} s."
                ) from error
            raise BenchTrouble(self._lost(kind)) from error
        except (OSError, EOFError) as error:
            self.close()
            raise BenchTrouble(self._lost(kind)) from error
        except UnicodeDecodeError as error:
            raise BenchTrouble(f"The {LABELS[kind]} answered with what is no text.") from error

    def _lost(self, kind: str) -> str:
        return (
            f"The connection to the {LABELS[kind]} of {self.name} was lost. What was measured so far is "
            f"kept; see that it is switched on, then go on."
        )
