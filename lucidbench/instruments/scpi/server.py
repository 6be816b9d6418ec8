"""An instrument on a TCP socket: a line in, a line out, for several clients, none of which can hold up
another or fill the memory."""

from __future__ import annotations

import select
import socket
import traceback
from socketserver import BaseRequestHandler, ThreadingTCPServer
from threading import Lock, Thread

from lucidbench.instruments.scpi.errors import ErrorEntry
from lucidbench.instruments.scpi.instrument import Instrument

LONGEST_LINE = 65_536  # bytes of one message: more is an overrun of the input buffer
MOST_CLIENTS = 16  # of one instrument; who comes beyond is turned away
PATIENCE = 30.0  # s a client may take to read an answer
IDLE = 1800.0  # s after which a silent client is let go
_CHUNK = 16_384
_SHORT = 0.2  # s it is waited for who has asked anew already


class InstrumentServer(ThreadingTCPServer):
    """Serves one instrument. `port` 0 takes any that is free. Raises OSError where it is taken."""

    daemon_threads = True
    allow_reuse_address = True
    request_queue_size = 64
    block_on_close = False

    def __init__(self, instrument: Instrument, host: str = "127.0.0.1", port: int = 0) -> None:
        self.instrument = instrument
        self.clients = 0
        self.counting = Lock()
        super().__init__((host, port), Client)

    @property
    def port(self) -> int:
        return int(self.server_address[1])

    def start(self) -> None:
        Thread(target=self.serve_forever, daemon=True, name=self.instrument.kind).start()

    def stop(self) -> None:
        self.shutdown()
        self.server_close()

    def handle_error(self, request: object, client_address: object) -> None:
        traceback.print_exc()


class Client(BaseRequestHandler):
    """One connection."""

    server: InstrumentServer
    request: socket.socket
    waiting = 0  # messages that came with the one being answered

    def handle(self) -> None:
        with self.server.counting:
            is_welcome = self.server.clients < MOST_CLIENTS
            self.server.clients += 1
        try:
            if is_welcome:
                self._serve()
        except (OSError, TimeoutError):
            pass  # the client is gone
        finally:
            with self.server.counting:
                self.server.clients -= 1

    def _serve(self) -> None:
        self.request.settimeout(IDLE)
        self.request.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        held = b""
        is_overrun = False
        while chunk := self.request.recv(_CHUNK):
            held += chunk
            *lines, held = held.split(b"\n")
            for k, line in enumerate(lines):
                self.waiting = len(lines) - 1 - k
                if is_overrun:  # the end of what was too long
                    is_overrun = False
                elif len(line) > LONGEST_LINE:
                    self._overrun()
                else:
                    self._answer(line)
            if len(held) > LONGEST_LINE:
                if not is_overrun:
                    self._overrun()
                held, is_overrun = b"", True

    def _overrun(self) -> None:
        more = f"a message has at most {LONGEST_LINE} bytes"
        self.server.instrument.tell(ErrorEntry(-363, more))

    def _answer(self, line: bytes) -> None:
        instrument = self.server.instrument
        try:
            answers = instrument.carry_out(line.decode("ascii").strip())
        except UnicodeDecodeError:
            instrument.tell(ErrorEntry(-101))
            return
        except Exception:  # a fault of the program: the client hears of it, and goes on
            traceback.print_exc()
            instrument.tell(ErrorEntry(-310))
            return
        if answers:
            self._send(
                b";".join(a if isinstance(a, bytes) else a.encode() for a in answers) + b"\n"
            )

    def _send(self, answer: bytes) -> None:
        """What is asked anew before an answer was read interrupts it."""
        rest = memoryview(answer)
        self.request.setblocking(False)
        try:
            while rest:
                patience = _SHORT if self.waiting else PATIENCE
                readable, writable, _ = select.select([self.request], [self.request], [], patience)
                if writable:
                    rest = rest[self.request.send(rest) :]
                elif self.waiting or (readable and self.request.recv(1, socket.MSG_PEEK)):
                    self.server.instrument.tell(
                        ErrorEntry(-410, f"{len(rest)} bytes were not read")
                    )
                    return
                else:
                    raise TimeoutError
        finally:
            self.request.settimeout(IDLE)
