"""Requests over a line that stays open (a WebSocket, RFC 6455), answered as they are over HTTP.

What a page asks after every edit is small and soon answered; most of its time would go into making
and reading the headers of a request of its own. On the line, a request is a text message whose first
line is {"key", "path", "token"} and whose rest is the body of a POST; the reply is a message whose
first line is the key and the status.
"""

from __future__ import annotations

import io
import json
import socket
import sys
from collections.abc import Callable
from threading import BoundedSemaphore, Lock, Thread
from wsgiref.types import WSGIApplication, WSGIEnvironment

from waitress.channel import HTTPChannel
from websockets.datastructures import Headers
from websockets.frames import CloseCode, Frame, Opcode
from websockets.http11 import Request
from websockets.protocol import State
from websockets.server import ServerProtocol

PATH = "/line"
_BEGINNING = f"GET {PATH} ".encode()
_AT_ONCE = 65_536  # bytes read
_TOGETHER = 16  # requests of one line under way


def taking_lines(application: WSGIApplication, largest: int) -> type[HTTPChannel]:
    """The server's channel for connections, of which those that ask for a line become one."""

    class Channel(HTTPChannel):  # type: ignore[misc]  # its package tells no types
        def handle_read(self) -> None:
            try:
                begins = self.socket.recv(len(_BEGINNING), socket.MSG_PEEK)
            except OSError:
                begins = b""
            if begins != _BEGINNING or self.request or self.requests:
                super().handle_read()
                return
            self.del_channel()
            line = _Line(self.socket, application, largest)
            Thread(target=line.serve, daemon=True, name="line").start()

    return Channel


class _Line:
    """One open line. Requests are answered as they come, each in a thread of its own."""

    def __init__(
        self, connection: socket.socket, application: WSGIApplication, largest: int
    ) -> None:
        self._socket = connection
        self._application = application
        self._protocol = ServerProtocol(max_size=largest)
        self._sending = Lock()  # the protocol's state too
        self._room = BoundedSemaphore(_TOGETHER)
        self._headers = Headers()
        self._parts: list[bytes] = []  # of a message that comes in several frames

    def serve(self) -> None:
        """Until either side is gone."""
        self._socket.setblocking(True)
        try:
            while self._protocol.state is not State.CLOSED:
                data = self._socket.recv(_AT_ONCE)
                with self._sending:
                    if data:
                        self._protocol.receive_data(data)
                    else:
                        self._protocol.receive_eof()
                    events = self._protocol.events_received()
                    for event in events:
                        if isinstance(event, Request):
                            self._open(event)
                    self._flush()
                for event in events:
                    if isinstance(event, Frame):
                        self._take(event)
        except OSError:
            pass  # the page is gone
        finally:
            self._socket.close()

    def _open(self, request: Request) -> None:
        """Only for a page that came from here: others would borrow the reader's cookies."""
        self._headers = request.headers
        origin = request.headers.get("Origin", "").partition("://")[2]
        if origin != request.headers.get("Host"):
            response = self._protocol.reject(403, "This line is for pages of Lucid Bench.\n")
        else:
            response = self._protocol.accept(request)
        self._protocol.send_response(response)

    def _take(self, frame: Frame) -> None:
        if frame.opcode not in (Opcode.TEXT, Opcode.CONT):
            return
        self._parts.append(bytes(frame.data))
        if not frame.fin:
            return
        message, self._parts = b"".join(self._parts), []
        self._room.acquire()
        Thread(target=self._answer, args=(message,), daemon=True, name="answer").start()

    def _answer(self, message: bytes) -> None:
        try:
            head, _, body = message.partition(b"\n")
            asked = json.loads(head)
            status, told = self._carry_out(asked["path"], asked["token"], body)
            self._send(f"{int(asked['key'])} {status}\n".encode() + told)
        except (KeyError, TypeError, ValueError):
            self._hang_up()
        except OSError:
            pass  # the page is gone
        finally:
            self._room.release()

    def _carry_out(self, path: str, token: str, body: bytes) -> tuple[int, bytes]:
        """(status, body) of the answer to a POST."""
        begun: list[str] = []

        def start_response(
            status: str, headers: object, exc_info: object = None
        ) -> Callable[[bytes], object]:
            begun[:] = [status]
            return lambda data: None

        answer = self._application(self._environ(path, token, body), start_response)
        try:
            told = b"".join(answer)
        finally:
            getattr(answer, "close", lambda: None)()
        return int(begun[0].partition(" ")[0]), told

    def _environ(self, path: str, token: str, body: bytes) -> WSGIEnvironment:
        host = self._headers.get("Host", "")
        name, _, port = host.rpartition(":")
        return {
            "REQUEST_METHOD": "POST",
            "SCRIPT_NAME": "",
            "PATH_INFO": path,
            "QUERY_STRING": "",
            "SERVER_NAME": name or host,
            "SERVER_PORT": port if name else "80",
            "SERVER_PROTOCOL": "HTTP/1.1",
            "CONTENT_TYPE": "application/json",
            "CONTENT_LENGTH": str(len(body)),
            "HTTP_HOST": host,
            "HTTP_ORIGIN": self._headers.get("Origin", ""),
            "HTTP_COOKIE": self._headers.get("Cookie", ""),
            "HTTP_X_CSRFTOKEN": token,
            "wsgi.version": (1, 0),
            "wsgi.url_scheme": "http",
            "wsgi.input": io.BytesIO(body),
            "wsgi.errors": sys.stderr,
            "wsgi.multithread": True,
            "wsgi.multiprocess": False,
            "wsgi.run_once": False,
        }

    def _send(self, message: bytes) -> None:
        with self._sending:
            if self._protocol.state is State.OPEN:
                self._protocol.send_text(message)
                self._flush()

    def _hang_up(self) -> None:
        """On a side that does not keep to the form of the messages."""
        with self._sending:
            self._protocol.fail(CloseCode.PROTOCOL_ERROR, "no such message")
            self._flush()

    def _flush(self) -> None:
        for data in self._protocol.data_to_send():
            if data:
                self._socket.sendall(data)
            else:
                self._socket.shutdown(socket.SHUT_WR)
