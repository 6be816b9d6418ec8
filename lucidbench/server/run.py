"""`lucid serve` and `lucid demo`: bring the database up to date, load the demo if asked, serve."""

from __future__ import annotations

import errno
import fcntl
import os
import resource
import secrets
import signal
import socket
import sqlite3
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import IO

LOOPBACK = "127.0.0.1"
LARGEST_MESSAGE = 8_000_000  # bytes on a line: more than a document may have
BACKLOG = 1024  # connections that may wait to be taken
LINGERS = 3  # s that what is under way may take when the server is stopped
ANSWERS_WITHIN = 5  # s, after which a worker is taken to hang and replaced
_SOON = 0.05  # s
_CANNOT_SERVE = 1


class CannotServe(Exception):
    """A sentence that says why, and what can be done."""


@dataclass(frozen=True)
class ServeOptions:
    """What to serve, and where. `demo` loads the demo exercises; `fresh` deletes what `data` holds first."""

    host: str
    port: int
    data: Path
    workers: int = 1
    demo: bool = False
    fresh: bool = False


def serve(wanted: ServeOptions) -> int:
    """Serve until told to stop. The exit code; a sentence says why where it cannot."""
    stop_when_told()
    try:
        _set_up_and_serve(wanted)
    except CannotServe as reason:
        print(f"lucid: {reason}", file=sys.stderr)
        return _CANNOT_SERVE
    except _Stopped:  # at whatever moment it comes
        pass
    print("Lucid Bench has stopped.")
    return 0


class _Stopped(SystemExit):
    """Ctrl-C or its like. A KeyboardInterrupt within an import would mark the process as killed,
    even where it is caught."""


def stop_when_told() -> None:
    """Ctrl-C and its like raise `_Stopped`, again where Python could only tell of it: what is raised
    while an object is being forgotten goes no further."""
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGALRM):
        signal.signal(number, _stop)
    sys.unraisablehook = _raise_again


def _stop(number: int, frame: object) -> None:
    raise _Stopped


def _raise_again(lost: sys.UnraisableHookArgs) -> None:
    if issubclass(lost.exc_type, _Stopped):
        signal.setitimer(signal.ITIMER_REAL, _SOON)
    else:
        sys.__unraisablehook__(lost)


def _set_up_and_serve(wanted: ServeOptions) -> None:
    if wanted.host != LOOPBACK:
        os.environ["LUCID_HOSTS"] = f"{os.environ.get('LUCID_HOSTS', '')} {wanted.host}"
        os.environ["LUCID_SHARED"] = "yes"
    with _listening(wanted.host, wanted.port) as place, _alone_in(wanted.data):
        if wanted.fresh:
            _forget(wanted.data)
        prepare(wanted.data)
        _purge(wanted.data)
        if wanted.demo:
            load_demo(wanted.data)
        _serve(place, wanted)


def _listening(host: str, port: int) -> socket.socket:
    """Where pages connect to; whoever comes before a worker is ready waits a moment."""
    try:
        place = socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET)
        place.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        place.bind((host, port))
        place.listen(BACKLOG)
    except PermissionError as error:
        raise CannotServe(f"port {port} needs more rights; choose one from 1024 on.") from error
    except OSError as error:
        if error.errno != errno.EADDRINUSE:
            raise CannotServe(
                f"{host} is no address of this machine ({error.strerror})."
            ) from error
        raise CannotServe(
            f"port {port} is taken. Choose another with --port, or stop the program that uses it."
        ) from error
    place.set_inheritable(True)
    return place


def _alone_in(data: Path) -> IO[str]:
    """A hold on the data folder, which two servers must not write to at once."""
    try:
        data.mkdir(parents=True, exist_ok=True)
        held = (data / "lock").open("w")
    except OSError as error:
        raise CannotServe(
            f"the data folder {data} cannot be written to ({error.strerror}). Let this account write "
            f"there, or name another with --data."
        ) from error
    try:
        fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as error:
        raise CannotServe(
            f"another Lucid Bench serves the data folder {data}. Stop it, or name another with --data."
        ) from error
    return held


def _forget(data: Path) -> None:
    for suffix in ("", "-wal", "-shm"):
        (data / f"lucid.sqlite3{suffix}").unlink(missing_ok=True)


def prepare(data: Path) -> None:
    """Set Django up on the data folder `data`, its secret made and its database brought up to date.

    Raises CannotServe.
    """
    os.environ["LUCID_DATA"] = str(data)
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "lucidbench.server.settings")
    with _sentences_for(data):
        data.mkdir(parents=True, exist_ok=True)
        _make_secret(data / "secret.key")
        import django
        from django.core.management import call_command

        django.setup()
        call_command("migrate", verbosity=0)


def _purge(data: Path) -> None:
    from lucidbench.server.exercises.models import purge

    with _sentences_for(data):
        purge()


def load_demo(data: Path) -> None:
    from lucidbench.server.exercises.demo import load_examples

    with _sentences_for(data):
        loaded = load_examples()
    if loaded:
        print(f"Loaded {loaded} demo exercises into {data}.")


def _make_secret(path: Path) -> None:
    """One secret for each data folder, made on first use and readable by its owner only."""
    if path.exists():
        return
    handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(handle, "w") as file:
        file.write(secrets.token_urlsafe(48))


@contextmanager
def _sentences_for(data: Path) -> Iterator[None]:
    """What goes wrong with the data folder, as CannotServe."""
    try:
        yield
    except OSError as error:
        raise CannotServe(
            f"the data folder {data} cannot be used ({error.strerror}). Make room there, or let this "
            f"account write to it."
        ) from error
    except Exception as error:
        from django.db import DatabaseError

        if not isinstance(error, DatabaseError | sqlite3.Error):
            raise
        raise CannotServe(
            f"the database in {data} cannot be used: {error}. Nothing in it was changed."
        ) from error


def _serve(place: socket.socket, wanted: ServeOptions) -> None:
    import uvicorn
    from uvicorn.supervisors import Multiprocess

    # A line is a file to the system, and a thousand may be open.
    most = resource.getrlimit(resource.RLIMIT_NOFILE)[1]
    resource.setrlimit(resource.RLIMIT_NOFILE, (most, most))
    config = uvicorn.Config(
        "lucidbench.server.asgi:application",
        workers=wanted.workers,
        lifespan="on",
        log_level="error",
        access_log=False,
        server_header=False,
        proxy_headers=False,
        ws_max_size=LARGEST_MESSAGE,
        ws_per_message_deflate=False,
        timeout_keep_alive=60,
        timeout_graceful_shutdown=LINGERS,
        timeout_worker_healthcheck=ANSWERS_WITHIN,
    )
    print(f"Lucid Bench is at http://{wanted.host}:{wanted.port}/  (Ctrl-C stops it)", flush=True)
    if wanted.workers == 1:
        uvicorn.Server(config).run(sockets=[place])
    else:
        Multiprocess(config, sockets=[place]).run()
