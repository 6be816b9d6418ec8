"""`lucid serve` and `lucid demo`: bring the database up to date, load the demo if asked, serve."""

from __future__ import annotations

import argparse
import os
import signal
import socket
import sys
from pathlib import Path

LOOPBACK = "127.0.0.1"
DEFAULT_PORT = 8080
THREADS = 16  # runs may take seconds each, and looks must not wait for them
LARGEST_REQUEST = (
    64_000_000  # bytes; what is larger than a document may be is refused in a sentence
)
_CANNOT_SERVE = 1


def main(arguments: list[str] | None = None) -> int:
    options = _options(arguments)
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, _stop)
    try:
        return _set_up_and_serve(options)
    except _Stopped:  # at whatever moment it comes
        print("Lucid Bench has stopped.")
        return 0


class _Stopped(SystemExit):
    """Ctrl-C or its like. A KeyboardInterrupt within an import would mark the process as killed,
    even where it is caught."""


def _stop(number: int, frame: object) -> None:
    raise _Stopped


def _set_up_and_serve(options: argparse.Namespace) -> int:
    os.environ["LUCID_DATA"] = str(options.data)
    if options.host != LOOPBACK:
        os.environ["LUCID_HOSTS"] = options.host
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "lucidbench.server.settings")
    if not _port_is_free(options.host, options.port):
        print(
            f"lucid: port {options.port} is taken. Choose another with --port, "
            f"or stop the program that uses it.",
            file=sys.stderr,
        )
        return _CANNOT_SERVE
    if options.fresh:
        _forget(options.data)

    import django

    django.setup()
    from django.core.management import call_command

    call_command("migrate", verbosity=0)
    if options.demo:
        from lucidbench.server.demo import load_examples

        loaded = load_examples()
        if loaded:
            print(f"Loaded {loaded} demo exercises into {options.data}.")
    _serve(options.host, options.port)
    return 0


def _options(arguments: list[str] | None) -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog="lucid serve")
    parser.add_argument("--port", type=_port, default=DEFAULT_PORT)
    parser.add_argument(
        "--host", default=LOOPBACK, help="address to listen on (default: %(default)s)"
    )
    parser.add_argument("--data", type=lambda p: Path(p).resolve(), required=True)
    parser.add_argument(
        "--demo", action="store_true", help="load the demo exercises if none are there"
    )
    parser.add_argument("--fresh", action="store_true", help="forget what the data directory holds")
    return parser.parse_args(arguments)


def _port(text: str) -> int:
    if not text.isdigit() or not 1 <= int(text) <= 65535:
        raise argparse.ArgumentTypeError(f"“{text}” is no port; a port is a number from 1 to 65535")
    return int(text)


def _port_is_free(host: str, port: int) -> bool:
    with socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError:
            return False
    return True


def _forget(data: Path) -> None:
    for suffix in ("", "-wal", "-shm"):
        (data / f"lucid.sqlite3{suffix}").unlink(missing_ok=True)


def _serve(host: str, port: int) -> None:
    from waitress.server import create_server

    from lucidbench.server.collecting import CollectsInPauses
    from lucidbench.server.line import taking_lines
    from lucidbench.server.wsgi import application

    collecting = CollectsInPauses(application)
    server = create_server(
        collecting,
        host=host,
        port=port,
        threads=THREADS,
        max_request_body_size=LARGEST_REQUEST,
        ident=None,
    )
    server.channel_class = taking_lines(collecting, LARGEST_REQUEST)
    print(f"Lucid Bench is at http://{host}:{port}/  (Ctrl-C stops it)", flush=True)
    server.run()  # until it is stopped, which it takes for its end
    print("Lucid Bench has stopped.")


if __name__ == "__main__":
    sys.exit(main())
