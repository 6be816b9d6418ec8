"""`lucid serve` and `lucid demo`: bring the database up to date, load the demo if asked, serve."""

from __future__ import annotations

import argparse
import errno
import fcntl
import os
import resource
import signal
import socket
import sqlite3
import sys
from pathlib import Path
from typing import IO

LOOPBACK = "127.0.0.1"
DEFAULT_PORT = 8080
MOST_WORKERS = 64
LARGEST_MESSAGE = 8_000_000  # bytes on a line: more than a document may have
BACKLOG = 1024  # connections that may wait to be taken
LINGERS = 3  # s that what is under way may take when the server is stopped
ANSWERS_WITHIN = 5  # s, after which a worker is taken to hang and replaced
_SOON = 0.05  # s
_CANNOT_SERVE = 1


class CannotServe(Exception):
    """A sentence that says why, and what can be done."""


def main(arguments: list[str] | None = None) -> int:
    options = _options(arguments)
    stop_when_told()
    try:
        _set_up_and_serve(options)
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


def _set_up_and_serve(options: argparse.Namespace) -> None:
    os.environ["LUCID_DATA"] = str(options.data)
    if options.host != LOOPBACK:
        os.environ["LUCID_HOSTS"] = options.host
        os.environ["LUCID_SHARED"] = "yes"
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "lucidbench.server.settings")
    with _listening(options.host, options.port) as place, _alone_in(options.data):
        if options.fresh:
            _forget(options.data)
        _prepare_data(options)
        _serve(place, options)


def _options(arguments: list[str] | None) -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog="lucid serve")
    parser.add_argument("--port", type=_port, default=DEFAULT_PORT)
    parser.add_argument(
        "--host", default=LOOPBACK, help="address to listen on (default: %(default)s)"
    )
    parser.add_argument("--data", type=lambda p: Path(p).resolve(), required=True)
    parser.add_argument(
        "--workers", type=_workers, default=1, help="processes that answer (default: %(default)s)"
    )
    parser.add_argument(
        "--demo", action="store_true", help="load the demo exercises if none are there"
    )
    parser.add_argument("--fresh", action="store_true", help="forget what the data directory holds")
    return parser.parse_args(arguments)


def _port(text: str) -> int:
    if not text.isdigit() or not 1 <= int(text) <= 65535:
        raise argparse.ArgumentTypeError(f"“{text}” is no port; a port is a number from 1 to 65535")
    return int(text)


def _workers(text: str) -> int:
    if not text.isdigit() or not 1 <= int(text) <= MOST_WORKERS:
        raise argparse.ArgumentTypeError(
            f"“{text}” is no number of workers from 1 to {MOST_WORKERS}"
        )
    return int(text)


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


def _prepare_data(options: argparse.Namespace) -> None:
    import django
    from django.db import DatabaseError

    try:
        django.setup()
        from django.core.management import call_command

        call_command("migrate", verbosity=0)
        if options.demo:
            from lucidbench.server.exercises.demo import load_examples

            loaded = load_examples()
            if loaded:
                print(f"Loaded {loaded} demo exercises into {options.data}.")
    except (DatabaseError, sqlite3.Error) as error:
        raise CannotServe(
            f"the database in {options.data} cannot be used: {error}. Nothing in it was changed."
        ) from error
    except OSError as error:
        raise CannotServe(
            f"the data folder {options.data} cannot be used ({error.strerror}). Make room there, or let "
            f"this account write to it."
        ) from error


def _serve(place: socket.socket, options: argparse.Namespace) -> None:
    import uvicorn
    from uvicorn.supervisors import Multiprocess

    # A line is a file to the system, and a thousand may be open.
    most = resource.getrlimit(resource.RLIMIT_NOFILE)[1]
    resource.setrlimit(resource.RLIMIT_NOFILE, (most, most))
    config = uvicorn.Config(
        "lucidbench.server.asgi:application",
        workers=options.workers,
        lifespan="off",
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
    print(f"Lucid Bench is at http://{options.host}:{options.port}/  (Ctrl-C stops it)", flush=True)
    if options.workers == 1:
        uvicorn.Server(config).run(sockets=[place])
    else:
        Multiprocess(config, sockets=[place]).run()


if __name__ == "__main__":
    sys.exit(main())
