"""`./lucid dev`: the page by Vite and the server by uvicorn, each showing an edit as soon as it is saved."""

from __future__ import annotations

import argparse
import os
import signal
import socket
import subprocess
import sys
import time

from lucidbench import places
from lucidbench.server.run import LOOPBACK, CannotServe, load_demo, prepare
from tools import HOME, WEB, generated

_LOOKS = 0.2  # s between two looks at whether both still run
_ENDS_WITHIN = 5  # s


def run(options: argparse.Namespace) -> int:
    for port, name in ((options.port, "--port"), (options.server_port, "--server-port")):
        if _is_taken(port):
            print(f"lucid: port {port} is taken. Choose another with {name}.", file=sys.stderr)
            return 1
    data = places.home() / "dev"
    try:
        prepare(data)
        load_demo(data)
    except CannotServe as reason:
        print(f"lucid: {reason}", file=sys.stderr)
        return 1
    generated.make()
    environment = {
        **os.environ,
        "LUCID_DEVELOPMENT": "yes",
        "LUCID_SERVER_PORT": str(options.server_port),
    }
    server = [
        sys.executable, "-m", "uvicorn", "lucidbench.server.asgi:application", "--host", LOOPBACK,
        "--port", str(options.server_port), "--reload", "--reload-dir", "lucidbench", "--lifespan", "on",
        "--log-level", "warning", "--timeout-graceful-shutdown", "1",
    ]  # fmt: skip
    page = [
        "npm",
        "run",
        "--silent",
        "dev",
        "--",
        "--host",
        LOOPBACK,
        "--port",
        str(options.port),
        "--strictPort",
    ]
    running = [
        subprocess.Popen(server, cwd=HOME, env=environment, start_new_session=True),
        subprocess.Popen(page, cwd=WEB, env=environment, start_new_session=True),
    ]
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, signal.default_int_handler)
    print(f"The page: http://{LOOPBACK}:{options.port}/  (Ctrl-C stops both)")
    print(f"The API:  http://{LOOPBACK}:{options.server_port}/api/docs", flush=True)
    try:
        while all(process.poll() is None for process in running):
            time.sleep(_LOOKS)
        print("lucid: one of the two servers ended, see above.", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 0
    finally:
        for process in running:
            _end(process)


def _is_taken(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((LOOPBACK, port))
        except OSError:
            return True
    return False


def _end(process: subprocess.Popen[bytes]) -> None:
    """It and what it started, which is one group."""
    try:
        os.killpg(process.pid, signal.SIGTERM)
        process.wait(_ENDS_WITHIN)
    except subprocess.TimeoutExpired:
        os.killpg(process.pid, signal.SIGKILL)
    except ProcessLookupError:
        pass
